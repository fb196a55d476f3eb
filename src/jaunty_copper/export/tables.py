"""Every table of a plan, for CSV, spreadsheet and report alike."""

import csv
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from io import BytesIO, StringIO
from math import isfinite
from typing import NamedTuple

from jaunty_copper.assembly.cuts import Cut
from jaunty_copper.commission.model import UNIT, Point
from jaunty_copper.export.dossier import Dossier
from jaunty_copper.plan.model import Equipment
from jaunty_copper.plan.text import lines
from jaunty_copper.practice.rules import RULES

FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula."""
Cell = str | float | int | None


class Table(NamedTuple):
    """Rows under heads.

    Attributes
    ----------
    name, title : str
        For files, and for people.
    head : tuple of str
        Of the columns, with their units.
    rows : tuple of tuple
        Figures as figures, nothing as None.
    """

    name: str
    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]


def as_csv(table: Table) -> str:
    """A table as CSV: figures as figures, words that begin like a formula behind an apostrophe."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(table.head)
    for row in table.rows:
        writer.writerow([_cell(c) for c in row])
    return out.getvalue()


def _cell(value: Cell) -> str | float | int:
    if value is None or (isinstance(value, float) and not isfinite(value)):
        return ""
    if isinstance(value, str):
        clean = lines(value)
        return f"'{clean}" if clean.startswith(FORMULA) else clean
    return round(value, 6) if isinstance(value, float) else value


def as_xlsx(tables: Sequence[Table]) -> bytes:
    """Tables as one spreadsheet, a sheet each: figures are numbers, words are words and never formulas."""
    from openpyxl import Workbook
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = Workbook()
    book.remove(book.worksheets[0])
    for table in tables:
        sheet = book.create_sheet(table.title[:31])
        for r, row in enumerate((table.head, *table.rows), 1):
            for c, value in enumerate(row, 1):
                if value is None or (isinstance(value, float) and not isfinite(value)):
                    continue
                if isinstance(value, str):
                    sheet.cell(r, c, lines(value)).data_type = "s"
                else:
                    sheet.cell(r, c, round(value, 6) if isinstance(value, float) else value)
        for c in range(1, len(table.head) + 1):
            sheet.cell(1, c).font = Font(bold=True)
            longest = max(
                (len(str(row[c - 1])) for row in (table.head, *table.rows) if row[c - 1] is not None), default=4
            )
            sheet.column_dimensions[get_column_letter(c)].width = min(max(longest + 1, 8), 60)
        sheet.freeze_panes = "A2"
    out = BytesIO()
    book.save(out)
    return out.getvalue()


# What is made and bought


def _cuts(d: Dossier) -> Table:
    parts = d.shop.wiring.parts
    head = (
        "run", "number", "size", "insulation", "colour", "cut_m", "way_m", "equal_to", "lug_a", "angle_a", "lug_b",
        "angle_b", "sleeve_a_mm", "sleeve_b_mm", "from", "to", "label",
    )  # fmt: skip
    rows = tuple(
        (
            c.run, c.number, parts.conductors[c.conductor].label, parts.insulations[c.insulation].label, c.colour,
            c.length_m, c.way_m, c.equal, c.a.thread, c.a.angle if c.a.thread else None, c.b.thread,
            c.b.angle if c.b.thread else None, c.a.sleeve_mm if c.a.thread else None,
            c.b.sleeve_mm if c.b.thread else None, c.a.ref, c.b.ref, c.label,
        )
        for c in d.shop.cuts
    )  # fmt: skip
    return Table("cuts", "Cut list", head, rows)


def _reels(d: Dossier) -> Table:
    return Table("reels", "Lengths", ("size", "colour", "length_m", "cuts", "left_m", "from"), tuple(_pieces(d)))


def _pieces(d: Dossier) -> Iterator[tuple[Cell, ...]]:
    shop = d.shop
    for kind, packing in shop.packings.items():
        size = shop.wiring.parts.conductors[kind.conductor].label
        if isinstance(packing, str):
            yield size, kind.colour, None, packing, None, None
            continue
        for piece in packing.pieces:
            names = " ".join(_mark(d, shop.kinds[kind][k]) for k in piece.cuts)
            yield size, kind.colour, piece.stock_m, names, piece.left_m, "left over" if piece.owned else "bought"


def _mark(d: Dossier, cut: Cut) -> str:
    return f"{cut.run}.{cut.number}" if d.plan.run_by_id[cut.run].parallel > 1 else cut.run


def _materials(d: Dossier) -> Table:
    head = ("key", "group", "what", "quantity", "unit", "price", "total", "mass_kg", "price_from")
    rows = tuple(
        (
            x.key, x.group, x.what, x.quantity, x.unit, x.price, x.total, x.quantity * x.mass_kg,
            "own" if x.own_price else "representative",
        )
        for x in d.shop.lines
    )  # fmt: skip
    return Table("materials", "Materials", head, rows)


def _labels(d: Dossier) -> Table:
    rows = tuple((c.label, end.ref) for c in d.shop.cuts for end in (c.a, c.b))
    return Table("labels", "Labels", ("label", "at"), rows)


def _order(d: Dossier) -> Table:
    done = set(d.plan.done)
    rows = tuple(
        (s.id, s.part, s.text, s.caution, "x" if s.id in done else "", d.plan.done_on.get(s.id)) for s in d.steps
    )
    return Table("order", "Connection order", ("step", "part", "what", "caution", "done", "on"), rows)


def _crimps(d: Dossier) -> Table:
    """Every kind of crimp: the die is that of the lug, and the lug that of the cable."""
    parts = d.shop.wiring.parts
    ends = [(c, e) for c in d.shop.cuts for e in (c.a, c.b) if e.thread is not None]
    count = Counter((c.conductor, e.thread, e.angle, e.sleeve_mm) for c, e in ends)
    rows = tuple(
        (parts.conductors[size].label, thread, angle, n, f"for lugs of {parts.conductors[size].label}", sleeve)
        for (size, thread, angle, sleeve), n in sorted(
            count.items(), key=lambda x: (parts.conductors[x[0][0]].area_mm2, str(x[0][1]))
        )
    )
    return Table("crimps", "Crimps", ("lug", "stud", "angle", "count", "die", "sleeve_mm"), rows)


def _terminals(d: Dossier) -> Table:
    head = ("terminal", "at", "stud", "lugs_from_the_metal_up", "torque_nm", "stud_material", "torque_from")
    rows = tuple(
        (
            s.ref, s.title, s.thread, ", ".join(f"{mark} {words}" for mark, words in s.lugs), s.torque_nm, s.material,
            "own" if s.own else "representative",
        )
        for s in d.shop.stacks
    )  # fmt: skip
    return Table("terminals", "Studs and lugs", head, rows)


def _conduits(d: Dossier) -> Table:
    head = ("route", "inner_mm", "cables", "runs", "fill_percent", "limit_percent", "verdict", "least_inner_mm")
    rows = tuple(
        (
            f.route.title, f.route.inner_mm, f.cables, " ".join(f.runs), 100.0 * f.share, 100.0 * f.limit,
            "too full" if f.full else "holds" if f.route.inner_mm else "open", f.least_mm,
        )
        for f in d.case.fills
    )  # fmt: skip
    return Table("conduits", "Conduits", head, rows)


# What is planned and checked


def _equipment(d: Dossier) -> Table:
    head = ("id", "name", "kind", "nominal_v", "power_w", "current_a", "hours_per_day", "zone")
    rows = tuple(
        (
            e.id, e.title, e.kind.replace("_", " "), e.nominal_v, getattr(e, "power_w", None),
            getattr(e, "current_a", None), getattr(e, "hours_per_day", None), d.plan.zone_of(e.zone).name,
        )
        for e in d.plan.equipment
    )  # fmt: skip
    return Table("equipment", "Equipment", head, rows)


def _scenarios(d: Dossier) -> Table:
    head = ("scenario", "equipment", "state", "volts", "amps")
    rows: list[tuple[Cell, ...]] = []
    for s in d.study.states:
        for e in d.plan.equipment:
            if s.solved:
                volts, amps = s.port(e)
                rows.append((s.scenario.title, e.title, s.mode(e), volts, amps))
            else:
                rows.append((s.scenario.title, e.title, "no operating point", None, None))
    return Table("scenarios", "Scenarios", head, tuple(rows))


CHECK_HEAD = ("check", "place", "figure", "limit", "unit", "scenario", "verdict", "source")


def _verdicts(d: Dossier) -> dict[tuple[str, str], str]:
    return {(f.rule, f.place): f.severity.word for f in reversed(d.findings)}


def _checks(d: Dossier) -> Table:
    """Every figure that is held against a limit, and every finding besides."""
    rows = list(_figures(d))
    told = {(str(r[0]), str(r[1])) for r in rows}
    titles = {r.id: r.title for r in RULES}
    for f in d.findings:
        if (titles[f.rule], d.case.title(f.place)) not in told:
            rows.append(
                (
                    titles[f.rule],
                    d.case.title(f.place),
                    f.figure,
                    f.limit,
                    f.unit,
                    _scenario(d, f.scenario),
                    f.severity.word,
                    f.source,
                )
            )
    return Table("checks", "Checks", CHECK_HEAD, tuple(rows))


def _scenario(d: Dossier, id_: str | None) -> str:
    return next((s.title for s in d.plan.scenarios if s.id == id_), "")


def _figures(d: Dossier) -> Iterator[tuple[Cell, ...]]:
    case, s, verdicts = d.case, d.study, _verdicts(d)
    branch = s.wiring.branch

    def row(
        rule: str, title: str, id_: str, figure: float, limit: float | None, unit: str, scenario: str, source: str
    ) -> tuple[Cell, ...]:
        return title, case.title(id_), figure, limit, unit, scenario, verdicts.get((rule, id_), "holds"), source

    for id_, amp in case.ampacities.items():
        k = branch[id_]
        worst = s.worst_state(k, lasting=True).scenario.title
        yield row("ampacity", "Ampacity", id_, float(s.continuous_a[k]), amp.amps, "A", worst, amp.source)
    for e in d.plan.equipment:
        lasting = [x for x in s.states if x.solved and not x.momentary]
        if not lasting or not isinstance(e, Equipment):
            continue
        worst_state = max(lasting, key=lambda x: abs(s.drop_v(e, x)) if isfinite(s.drop_v(e, x)) else 0.0)
        limit, source = case.drop_limit(e)
        figure = 100.0 * abs(s.drop_v(e, worst_state)) / e.nominal_v
        yield row("voltage_drop", "Voltage drop", e.id, figure, limit, "%", worst_state.scenario.title, source)
    for id_, device in s.devices.items():
        most, _ = s.faults.greatest_through(id_)
        yield row(
            "interrupt_rating",
            "Interrupt rating",
            id_,
            most,
            case.interrupt_a(device.item),
            "A",
            "short circuit",
            device.family.source,
        )
        k = device.branch
        yield row(
            "device_too_small",
            "Device against its current",
            id_,
            float(s.continuous_a[k]),
            device.item.rating_a,
            "A",
            s.worst_state(k, lasting=True).scenario.title,
            "its rating",
        )


def _rules(d: Dossier) -> Table:
    """Every rule of the practice, and how much it found."""
    count = Counter(f.rule for f in d.findings)
    worst = {f.rule: f.severity.word for f in reversed(d.findings)}
    rows = tuple(
        (r.title, count[r.id], worst.get(r.id, "holds"), r.why) for r in RULES if not r.only or d.case.book.id in r.only
    )
    return Table("rules", "Rules held against it", ("rule", "findings", "verdict", "why"), rows)


def _findings(d: Dossier) -> Table:
    head = ("severity", "rule", "place", "headline", "figure", "limit", "unit", "source")
    titles = {r.id: r.title for r in RULES}
    rows = tuple(
        (f.severity.word, titles[f.rule], d.case.title(f.place), f.headline, f.figure, f.limit, f.unit, f.source)
        for f in d.findings
    )
    return Table("findings", "Findings", head, rows)


def _bank(d: Dossier) -> Table:
    """What each unit takes of its bank's current, scenario by scenario."""
    head = ("bank", "scenario", "unit", "amps", "share_percent", "even_percent", "c_rate_per_h", "volts", "limit_a")
    rows = tuple(
        (
            bank.id, s.scenario.title, u.unit, u.current_a, 100.0 * u.share, 100.0 * u.even, u.c_rate, u.terminal_v,
            u.limit_a,
        )
        for bank in d.study.wiring.banks for s in d.case.sharings[bank.id] for u in s.shares
    )  # fmt: skip
    return Table("bank", "Bank", head, rows)


def _faults(d: Dossier) -> Table:
    f = d.study.faults
    head = ("terminal", "greatest_a", "steady_a", "least_a")
    rows = tuple(
        (ref, abs(float(f.peak.current_a[k])), abs(float(f.steady.current_a[k])), abs(float(f.least.current_a[k])))
        for ref, k in f.at.items()
    )
    return Table("faults", "Short-circuit currents", head, rows)


def _coordination(d: Dossier) -> Table:
    head = ("upstream", "downstream", "verdict", "up_to_a", "least_a", "most_a", "same_circuit")
    rows = tuple(
        (p.upstream, p.downstream, p.verdict, p.up_to_a, p.least_a, p.most_a, "yes" if p.same else "no")
        for p in d.study.pairs
    )
    return Table("coordination", "Selectivity", head, rows)


def _readings(d: Dossier) -> Table:
    head = ("quantity", "a", "b", "expected", "tolerance", "read", "unit", "among_the_fewest")
    rows: list[tuple[Cell, ...]] = []
    if d.bench is not None:
        taken = {Point(r.quantity, r.a, r.b): r.value for r in d.plan.readings if r.scenario == d.bench.scenario.id}
        for k, e in enumerate(d.bench.expected()):
            rows.append(
                (
                    *e.point,
                    e.value,
                    e.tolerance,
                    taken.get(e.point),
                    UNIT[e.point.quantity],
                    "x" if k in d.fewest else "",
                )
            )
    return Table("readings", "Expected readings", head, tuple(rows))


def _log(d: Dossier) -> Table:
    head = ("day", "kind", "about", "value", "hours", "text", "picture", "readings")
    rows = tuple(
        (e.on, e.kind, e.about, e.value, e.hours, e.text, e.picture, len(e.readings) or None)
        for e in sorted(d.plan.log, key=lambda e: e.on)
    )
    return Table("log", "Log", head, rows)


MAKERS: dict[str, Callable[[Dossier], Table]] = {
    "equipment": _equipment, "scenarios": _scenarios, "bank": _bank, "checks": _checks, "findings": _findings, "rules": _rules,
    "faults": _faults, "coordination": _coordination, "cuts": _cuts, "reels": _reels, "materials": _materials,
    "crimps": _crimps, "terminals": _terminals, "conduits": _conduits, "labels": _labels, "order": _order, "readings": _readings,
    "log": _log,
}  # fmt: skip
"""Every table, by the name that the command line gives it, in the order of the work."""


def table(dossier: Dossier, name: str) -> Table:
    """One table.

    Raises
    ------
    KeyError
        There is none of that name.
    """
    return MAKERS[name](dossier)


def all_tables(dossier: Dossier, names: Iterable[str] = MAKERS) -> tuple[Table, ...]:
    """Several tables, all where none are named."""
    return tuple(table(dossier, n) for n in names)
