"""The chapters of a report that somebody builds by: cables, materials, boards, sequence."""

from collections.abc import Iterator

from reportlab.platypus import Flowable

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.drawings import board_drawing, cable_drawing, reels_drawing
from jaunty_copper.documents.listings import READY_MADE, choice_words
from jaunty_copper.documents.pdf.sheet import (
    BODY,
    CAUTION,
    CAUTIONS,
    HEAD,
    HEIGHT,
    SMALL,
    SUB,
    WIDTH,
    Figure,
    grid,
    head,
    together,
    whole,
    words,
)
from jaunty_copper.documents.tables import table
from jaunty_copper.fabrication.cuts import Cut
from jaunty_copper.language import say

MOST_CABLES = 80
"""Drawings of cables, beyond which a report would be pages of pictures."""


def cables(d: Dossier) -> Iterator[Flowable]:
    """The cut list, the reels it is cut from, and each cable drawn."""
    yield from head(say("Cut list"))
    parts = d.shop.wiring.parts
    rows = tuple(
        (
            c.label.split("  ")[0], parts.conductors[c.conductor].label, parts.insulations[c.insulation].label, c.colour,
            round(1000 * c.length_m), c.equal, c.a.words, c.b.words, c.label.split("  ")[-1],
        )
        for c in d.shop.cuts
    )  # fmt: skip
    yield grid(
        (
            "cable",
            "size",
            "insulation",
            "colour",
            say("cut, mm"),
            say("equal to"),
            say("first end"),
            say("second end"),
            "between",
        ),
        rows,
        (8, 9, 12, 9, 9, 10, 17, 17, 22),
    )
    if d.shop.packings:
        yield together(words(say("Lengths and what is cut from them"), SUB), Figure(reels_drawing(d.shop)))
    yield from head(say("Cables with their ends"), SUB)
    alike: dict[tuple[object, ...], list[Cut]] = {}
    for cut in d.shop.cuts:
        alike.setdefault((cut.conductor, cut.colour, cut.length_m, cut.a.words, cut.b.words), []).append(cut)
    if len(alike) > MOST_CABLES:
        yield words(
            say(
                "The first {most_cables} of {alike} kinds of cable are drawn; the list above has all.",
                most_cables=MOST_CABLES,
                alike=len(alike),
            ),
            SMALL,
        )
    for cuts in list(alike.values())[:MOST_CABLES]:
        title = cuts[0].label if len(cuts) == 1 else ", ".join(c.label.split("  ")[0] for c in cuts)
        yield Figure(cable_drawing(d.shop, cuts[0], title), WIDTH * 0.72)
    yield from head(say("Crimps"), SUB)
    yield whole(table(d, "crimps"))
    yield from head(say("Studs and lugs"), SUB)
    yield words(
        say(
            "The first lug lies on the metal. Torques are representative of clean dry studs; a part's own instructions replace them."
        ),
        SMALL,
    )
    yield whole(table(d, "terminals"))
    conduits = table(d, "conduits")
    if conduits.rows:
        yield from head(say("Conduits"), SUB)
        yield whole(conduits)


def materials(d: Dossier) -> Iterator[Flowable]:
    """What to buy, with prices and crimps."""
    yield from head(say("Materials"))
    rows: list[tuple[object, ...]] = []
    for group in dict.fromkeys(x.group for x in d.shop.lines):
        lines = [x for x in d.shop.lines if x.group == group]
        rows += [
            (
                x.group,
                x.what,
                x.quantity,
                say("in {packs:g}", packs=x.bought) if x.pack else x.unit,
                x.price,
                round(x.total, 2),
                round(x.quantity * x.mass_kg, 3),
                "" if x.own_price else "rep.",
            )
            for x in lines
        ]
        rows.append(
            (
                "",
                say("{group} in all", group=group),
                None,
                "",
                None,
                round(sum(x.total for x in lines), 2),
                round(sum(x.quantity * x.mass_kg for x in lines), 2),
                "",
            )
        )
    yield grid(("group", "what", "quantity", "", "price", "total", "kg", ""), rows, (16, 42, 9, 4, 9, 10, 8, 5))
    yield words(
        say(
            "{total:.2f} in all, without currency, {mass_kg:.1f} kg. “rep.”: a representative price; others are the "
            "plan's own.",
            total=d.shop.total,
            mass_kg=d.shop.mass_kg,
        ),
        BODY,
    )
    if d.ready_made.rows:
        yield from head(READY_MADE.title, SUB)
        yield words(" ".join(choice_words(tool) for tool in d.ready_made.choices), BODY)
        yield whole(table(d, "ready_made"))


def boards(d: Dossier) -> Iterator[Flowable]:
    """Each board drawn, with its schedule."""
    for k, board in enumerate(d.plan.boards):
        title = (words("Boards", HEAD),) if k == 0 else ()
        yield together(*title, Figure(board_drawing(d.plan, d.shop.wiring.parts, board), most=HEIGHT - 90))


def order(d: Dossier) -> Iterator[Flowable]:
    """The sequence of connection."""
    yield from head(say("Connection order"))
    yield words(CAUTIONS[2], CAUTION)
    done = set(d.plan.done)
    rows = tuple((d.plan.done_on.get(s.id, "done") if s.id in done else "[   ]", s.text, s.caution) for s in d.steps)
    yield grid(("done", "what", "caution"), rows, (11, 56, 33))
