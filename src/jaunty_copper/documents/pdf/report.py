"""The report for a client or inspector: what was planned, held against what, and how it is built and proven."""

from collections.abc import Callable, Collection, Iterator
from datetime import date
from io import BytesIO
from typing import NamedTuple

from reportlab.platypus import Flowable, PageBreak
from reportlab.platypus.tableofcontents import TableOfContents

from jaunty_copper.commissioning.points import Point
from jaunty_copper.documents.curves import curves_of
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.drawings import curves_drawing, shares_drawing
from jaunty_copper.documents.fonts import load_fonts
from jaunty_copper.documents.map.drawing import map_drawing
from jaunty_copper.documents.pdf.building import boards, cables, materials, order
from jaunty_copper.documents.pdf.changes import differing_from
from jaunty_copper.documents.pdf.cover import Cover, front
from jaunty_copper.documents.pdf.pages import NumberedCanvas, NumberedDocument
from jaunty_copper.documents.pdf.sheet import (
    BODY,
    CAUTIONS,
    HEIGHT,
    SMALL,
    SUB,
    WIDTH,
    Figure,
    grid,
    head,
    plain,
    together,
    whole,
    words,
)
from jaunty_copper.documents.tables import table
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.plan.model import Equipment
from jaunty_copper.protection.selectivity import in_series

MOST_CURVES = 16
"""Sets of curves, beyond which a report would be pages of pictures."""
PER_GRID = 5
"""Scenarios side by side."""
REPRESENTATIVE = say(
    "Opening bands, interrupt ratings, device bodies, joints, battery resistances, prices, torques, outlines and cutting "
    "allowances are representative of generic families unless the plan gives its own. Short-circuit currents by IEC 61660-1: "
    "greatest with charged units, 1.05 of nominal voltage, 0.9 of their resistance, conductors at 20 °C; least with low, old and cold "
    "units, conductors warm, joints poor. A battery management system is not counted on to open."
)


def report_pdf(
    d: Dossier,
    today: date | None = None,
    before: Dossier | None = None,
    chapters: Collection[str] | None = None,
    cover: Cover = Cover(),
) -> bytes:
    """The report as a PDF.

    Parameters
    ----------
    d : Dossier
        Of the plan.
    today : date, optional
        That stands on it.
    before : Dossier, optional
        Of the plan that it is compared with: a chapter says what differs.
    chapters : collection of str, optional
        Names out of `CHAPTERS`; all of them where none is given.
    cover : Cover
        Who it is by.

    Raises
    ------
    NoPicture
        The logo is no picture that can be read.
    """
    load_fonts()
    out = BytesIO()
    day = (today or date.today()).isoformat()
    name = d.plan.title or "Plan"
    document = NumberedDocument(out, f"{name} · {day}")
    document.multiBuild(list(_story(d, day, before, chapters, cover)), canvasmaker=NumberedCanvas)
    return out.getvalue()


def _story(
    d: Dossier, day: str, before: Dossier | None, chapters: Collection[str] | None, cover: Cover
) -> Iterator[Flowable]:
    yield from front(d, day, cover)
    contents = TableOfContents()
    contents.levelStyles = [BODY]
    contents.dotsMinLevel = 0
    yield words("Contents", SUB)
    yield contents
    yield PageBreak()
    if before is not None:
        yield from differing_from(d, before)
    for name, chapter in CHAPTERS.items():
        if chapters is None or name in chapters:
            yield from chapter.make(d)


def _basis(d: Dossier) -> Iterator[Flowable]:
    yield from head(say("What this rests on"))
    yield words(
        say(
            "Checked by: {code}, written for {edition}. {summary}",
            code=d.case.code.name,
            edition=d.case.code.edition,
            summary=d.case.code.summary,
        ),
        BODY,
    )
    yield words(REPRESENTATIVE, BODY)
    school = (
        say("the largest that protects the conductor")
        if d.plan.devices_by == "conductor"
        else say("the smallest that carries the load")
    )
    yield words(
        say(
            "Devices are chosen as {school}. Ampacity is the lower of the code's table and a heat balance.",
            school=school,
        ),
        BODY,
    )
    yield words(
        say(
            "A check “holds” within its limit. A danger must be fixed before the system is used, a defect soon; advice is for information."
        ),
        BODY,
    )


def _system(d: Dossier) -> Iterator[Flowable]:
    yield from head(say("System"))
    yield whole(table(d, "equipment"))
    if d.plan.zones:
        yield from head(say("Zones"), SUB)
        yield grid(
            ("zone", say("air, °C"), "engine space", "ventilated", say("ignition hazard")),
            tuple(
                (
                    z.title,
                    z.ambient_c,
                    *(say("yes") if x else say("no") for x in (z.engine_space, z.ventilated, z.ignition_hazard)),
                )
                for z in d.plan.zones
            ),
            (4, 2, 2, 2, 2),
        )
    yield from head(say("Voltage and current of each in each scenario"), SUB)
    states = d.study.states
    for k in range(0, len(states), PER_GRID):
        some = states[k : k + PER_GRID]
        rows = tuple((e.title, *(_port(s, e) for s in some)) for e in d.plan.equipment)
        yield grid(("", *(s.scenario.title for s in some)), rows, (16, *(14 for _ in some)))


def _port(state: State, e: Equipment) -> str:
    if not state.solved:
        return say("no operating point")
    volts, amps = state.port(e)
    return f"{volts:.2f} V, {amps + 0.0:.3g} A" if abs(amps) > 1e-6 else say("{volts:.2f} V, off", volts=volts)


def _map(d: Dossier) -> Iterator[Flowable]:
    state = next((s for s in d.study.states if s.solved), None)
    if state is None:
        return
    yield PageBreak()
    yield from head(say("Map"))
    yield words(
        say(
            "From plus on the left to minus on the right; sources and loads in the middle. A conductor is as wide as its section."
        ),
        SMALL,
    )
    yield Figure(map_drawing(d.known, state.scenario.id), most=HEIGHT - 90)


def _bank(d: Dossier) -> Iterator[Flowable]:
    banks = d.study.wiring.banks
    if not banks:
        return
    yield from head("Bank")
    parts = d.study.wiring.parts
    for bank in banks:
        rows = tuple(
            (
                u.id,
                u.title,
                parts.battery_chemistries[u.chemistry].label,
                u.nominal_v,
                u.capacity_ah,
                100.0 * u.capacity_share,
                u.make,
                u.bought or "",
            )
            for u in bank.units
        )
        yield grid(
            ("id", "name", "chemistry", "V", "Ah", say("% left"), "make", "bought"), rows, (8, 18, 22, 7, 8, 8, 20, 10)
        )
        for sharing in d.case.sharings[bank.id]:
            if len(bank.strings) > 1 and abs(sharing.current_a) > 1.0:
                title = say(
                    "{scenario}: {current_a:.0f} A, current sharing spread {spread:.0f} %",
                    scenario=sharing.scenario.title,
                    current_a=sharing.current_a,
                    spread=100.0 * sharing.spread,
                )
                yield together(Figure(shares_drawing(sharing, title), WIDTH * 0.72))


def _findings(d: Dossier) -> Iterator[Flowable]:
    yield from head(say("Findings"))
    if not d.findings:
        yield words(say("None: every rule of the code holds."), BODY)
    else:
        rows = tuple((f.verdict.word, f.headline, f.source) for f in d.findings)
        yield grid(("", say("what is not as it should be"), "source"), rows, (7, 60, 33))


def _every_check(d: Dossier) -> Iterator[Flowable]:
    yield from head(say("Every check"))
    yield words(
        say(
            "Everything that was held against a rule, passing or not, in the scenario where it is worst; what lasts is judged without surges."
        ),
        SMALL,
    )
    yield whole(table(d, "checks"))
    yield from head(say("Rules held against the plan"), SUB)
    yield whole(table(d, "rules"))


def _faults(d: Dossier) -> Iterator[Flowable]:
    yield from head(say("Short-circuit currents"))
    yield words(say("Pole to pole, or to chassis where that is the return; in amperes."), SMALL)
    yield whole(table(d, "faults"))
    if d.protection.pairs:
        yield from head(say("Selectivity"), SUB)
        yield words(
            say(
                "Whether the downstream device has opened before the upstream one begins to, over every fault current that can flow through both."
            ),
            SMALL,
        )
        yield whole(table(d, "coordination"))


def _curves(d: Dossier) -> Iterator[Flowable]:
    chains = _chains(d)
    if not chains:
        return
    yield from head(say("Opening curves"))
    yield words(
        say(
            "Between the two edges of its band a device opens, at the air it stands in. Thick: what the weakest conductor behind the last device withstands; upright: what flows through that device, and what may."
        ),
        SMALL,
    )
    if len(chains) > MOST_CURVES:
        yield words(
            say(
                "The first {most_curves} of {chains} sets in series are drawn.",
                most_curves=MOST_CURVES,
                chains=len(chains),
            ),
            SMALL,
        )
    for chain in chains[:MOST_CURVES]:
        shown = curves_of(d.case, [d.protection.devices[x] for x in chain])
        yield together(Figure(curves_drawing(shown), WIDTH * 0.74))


def _chains(d: Dossier) -> list[tuple[str, ...]]:
    """Devices in series before each piece of equipment, each set once, the longest first."""
    f = d.protection.faults
    found = {chain for e in d.plan.equipment if e.port[0] in f.at and (chain := tuple(in_series(f, e.port[0])))}
    return [
        chain
        for chain in sorted(found, key=lambda c: (-len(c), c))
        if len(chain) > 1 or not any(set(chain) < set(other) for other in found)
    ]


def _proving(d: Dossier) -> Iterator[Flowable]:
    if d.bench is None:
        return
    yield from head(say("Expected readings"))
    yield words(
        say(
            "With “{scenario}”, from stud to stud. The tolerance is two standard deviations of lengths, joints, "
            "loads, sources, charge and meter. “first” marks the fewest that reveal a bad joint of 5 mΩ anywhere it "
            "can be seen.",
            scenario=d.bench.scenario.title,
        ),
        SMALL,
    )
    taken = {Point(r.quantity, r.a, r.b): r.value for r in d.plan.readings if r.scenario == d.bench.scenario.id}
    rows = []
    for k, e in enumerate(d.bench.expected()):
        unit, factor = ("A", 1.0) if e.point.quantity == "amps" else ("V", 1.0) if abs(e.value) >= 1.0 else ("mV", 1e3)
        read = taken.get(e.point)
        what = say("{a} to {b}", a=e.point.a, b=e.point.b) if e.point.b else say("current of {a}", a=e.point.a)
        rows.append(
            (
                say("first") if k in d.fewest else "",
                what,
                plain(factor * e.value, 4),
                f"± {plain(factor * e.tolerance, 2)}",
                unit,
                plain(factor * read, 4) if read is not None else "",
            )
        )
    yield grid(("", "where", "expect", "", "", "read"), rows, (8, 44, 14, 12, 6, 18))


def _log(d: Dossier) -> Iterator[Flowable]:
    if not d.plan.log:
        return
    yield from head(say("Log"))
    yield whole(table(d, "log"))


def _cautions(_: Dossier) -> Iterator[Flowable]:
    yield from head(say("Cautions"))
    for text in CAUTIONS:
        yield words(f"–  {text}", BODY)


class Chapter(NamedTuple):
    """A chapter of the report.

    Attributes
    ----------
    title : str
        For people who choose.
    make : callable
        From a dossier to what stands in it.
    appendix : bool
        Whether it is for those who build, not for those who inspect.
    """

    title: str
    make: Callable[[Dossier], Iterator[Flowable]]
    appendix: bool = False


CHAPTERS = {
    "basis": Chapter(say("What this rests on"), _basis),
    "system": Chapter(say("System"), _system),
    "map": Chapter(say("Map"), _map),
    "bank": Chapter(say("Bank"), _bank),
    "findings": Chapter(say("Findings"), _findings),
    "checks": Chapter(say("Every check"), _every_check, True),
    "faults": Chapter(say("Short-circuit currents and selectivity"), _faults),
    "curves": Chapter(say("Opening curves"), _curves, True),
    "cables": Chapter(say("Cables"), cables, True),
    "materials": Chapter(say("Materials"), materials, True),
    "boards": Chapter(say("Boards"), boards, True),
    "order": Chapter(say("Order of connection"), order, True),
    "readings": Chapter(say("Expected readings"), _proving, True),
    "log": Chapter(say("Log"), _log, True),
    "cautions": Chapter(say("Cautions"), _cautions),
}
"""Chapters by their names, in their order; what an inspector reads is no appendix."""
INSPECTED = tuple(name for name, chapter in CHAPTERS.items() if not chapter.appendix)
