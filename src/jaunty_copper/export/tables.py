"""Tables as CSV, safe to open in a spreadsheet."""

import csv
from collections.abc import Iterable, Sequence
from io import StringIO
from math import isfinite

from jaunty_copper.assembly.materials import Workshop
from jaunty_copper.assembly.order import steps_of

FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula."""
Cell = str | float | int | None


def as_csv(head: Sequence[str], rows: Iterable[Sequence[Cell]]) -> str:
    """A table as CSV: figures as figures, words that begin like a formula behind an apostrophe."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    for row in rows:
        writer.writerow([_cell(c) for c in row])
    return out.getvalue()


def _cell(value: Cell) -> str | float | int:
    if value is None or (isinstance(value, float) and not isfinite(value)):
        return ""
    if isinstance(value, str):
        return f"'{value}" if value.startswith(FORMULA) else value
    return round(value, 6) if isinstance(value, float) else value


def cuts_csv(shop: Workshop) -> str:
    """The cut list."""
    parts = shop.wiring.parts
    head = (
        "run", "number", "size", "insulation", "colour", "cut_m", "way_m", "equal_to", "lug_a", "lug_b", "sleeve_a_mm",
        "sleeve_b_mm", "from", "to", "label",
    )  # fmt: skip
    rows = (
        (
            c.run, c.number, parts.conductors[c.conductor].label, parts.insulations[c.insulation].label, c.colour,
            c.length_m, c.way_m, c.equal, c.a.thread, c.b.thread, c.a.sleeve_mm if c.a.thread else None,
            c.b.sleeve_mm if c.b.thread else None, c.a.ref, c.b.ref, c.label,
        )
        for c in shop.cuts
    )  # fmt: skip
    return as_csv(head, rows)


def materials_csv(shop: Workshop) -> str:
    """The list of materials; its keys are those of a file of own prices."""
    head = ("key", "group", "what", "quantity", "unit", "price", "total", "mass_kg", "price_from")
    rows = (
        (
            line.key, line.group, line.what, line.quantity, line.unit, line.price, line.total,
            line.quantity * line.mass_kg, "own" if line.own_price else "representative",
        )
        for line in shop.lines
    )  # fmt: skip
    return as_csv(head, rows)


def labels_csv(shop: Workshop) -> str:
    """Two labels for every cable, one for each end."""
    rows = ((c.label, end.ref) for c in shop.cuts for end in (c.a, c.b))
    return as_csv(("label", "at"), rows)


def order_csv(shop: Workshop) -> str:
    """The connection order as a checklist."""
    done = set(shop.plan.done)
    rows = ((s.id, s.part, s.text, s.caution, "x" if s.id in done else "") for s in steps_of(shop.wiring))
    return as_csv(("step", "part", "what", "caution", "done"), rows)


def reels_csv(shop: Workshop) -> str:
    """What is cut from which length."""
    rows: list[Sequence[Cell]] = []
    for kind, packing in shop.packings.items():
        size = shop.wiring.parts.conductors[kind.conductor].label
        if isinstance(packing, str):
            rows.append((size, kind.colour, None, packing, None, None))
            continue
        for piece in packing.pieces:
            names = " ".join(_mark(shop, kind, k) for k in piece.cuts)
            rows.append(
                (size, kind.colour, piece.stock_m, names, piece.left_m, "left over" if piece.owned else "bought")
            )
    return as_csv(("size", "colour", "length_m", "cuts", "left_m", "from"), rows)


def _mark(shop: Workshop, kind: object, k: int) -> str:
    cut = shop.kinds[kind][k]  # type: ignore[index]
    return f"{cut.run}.{cut.number}" if shop.wiring.plan.run_by_id[cut.run].parallel > 1 else cut.run


TABLES = {
    "cuts": cuts_csv,
    "reels": reels_csv,
    "materials": materials_csv,
    "labels": labels_csv,
    "order": order_csv,
}
"""By the name that the command line gives them."""
