"""A bar's circuits folded into one line, so that a large plan is seen at once."""

from collections import Counter
from collections.abc import Collection
from typing import NamedTuple

from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.diagram.shapes import Diagram
from jaunty_copper.plan.edits import circuit_of
from jaunty_copper.plan.model import Bar, BarStud, Converter, Plan, PowerLoad, Run, split_ref
from jaunty_copper.plan.topology import topology

LEAST = 2
"""Circuits of a bar that are worth a fold."""
IN_PLACE = "fold-of-{}"


class FoldedCircuit(NamedTuple):
    """Ids of all that is a circuit's own, and the hubs at its plus and its minus."""

    own: tuple[str, ...]
    plus: str
    minus: str


def circuits(plan: Plan) -> dict[str, FoldedCircuit]:
    """Circuits from hub to hub, by their equipment; no converters: what one feeds would lose its feed."""
    found = {}
    for e in plan.equipment:
        if isinstance(e, Converter):
            continue
        runs, items, hubs = circuit_of(plan, e.id)
        ends = [hubs.get(ref) for ref in e.port]
        plus, minus = (split_ref(ref)[0] if ref is not None else None for ref in ends)
        if plus is not None and minus is not None and plus != minus:
            found[e.id] = FoldedCircuit((e.id, *(x.id for x in items), *(r.id for r in runs)), plus, minus)
    return found


def foldable(plan: Plan) -> set[str]:
    """Bars with circuits enough to fold."""
    count = Counter(hub for c in circuits(plan).values() for hub in (c.plus, c.minus))
    return {id_ for id_, n in count.items() if n >= LEAST and isinstance(plan.by_id[id_], Bar)}


def fold(plan: Plan, bars: Collection[str]) -> Diagram:
    """The map of a plan with the circuits of some bars as one block each.

    The block is of kind fold, has the id of its bar, and holds the ids of all that it stands for.
    """
    holds: dict[str, tuple[str, ...]] = {}
    gone, equipment, runs = set[str](), list[PowerLoad](), list[Run]()
    spare: dict[str, list[str]] = {}
    known = circuits(plan)
    for bar in bars:
        here = [c for id_, c in known.items() if bar in (c.plus, c.minus) and id_ not in gone]
        if len(here) < LEAST:
            continue
        own = tuple(id_ for c in here for id_ in c.own)
        gone |= set(own)
        # All of them as one load, on studs that exist for the map alone.
        block = PowerLoad(id=IN_PLACE.format(bar), power_w=1.0)
        _, plus, minus = here[0]
        holds[block.id] = own
        equipment.append(block)
        for k, (hub, terminal) in enumerate(((plus, "plus"), (minus, "minus"))):
            stud = f"{block.id}-{k}"
            spare.setdefault(hub, []).append(stud)
            runs.append(Run(id=stud, a=f"{hub}.{stud}", b=block.ref(terminal), length_m=1.0))
    if not holds:
        return lay_out(topology(plan))
    items = tuple(
        x.model_copy(update={"studs": (*_used(plan, x, gone), *(BarStud(id=s) for s in spare.get(x.id, ())))})
        if isinstance(x, Bar) and x.id in spare
        else x
        for x in plan.items
        if x.id not in gone
    )
    small = plan.model_copy(
        update={
            "items": items, "equipment": (*(e for e in plan.equipment if e.id not in gone), *equipment),
            "runs": (*(r for r in plan.runs if r.id not in gone), *runs), "readings": (), "log": (), "boards": (), "scenarios": (),
        }
    )  # fmt: skip
    chart = lay_out(topology(small))
    shapes = tuple(
        s._replace(kind="fold", id=s.id.removeprefix(IN_PLACE.format("")), holds=holds[s.id]) if s.id in holds else s
        for s in chart.shapes
    )
    return chart._replace(
        shapes=shapes, rows=tuple(r for r in chart.rows if r.id not in holds),
        studs=tuple(s for s in chart.studs if not _made_up(s.ref)), terminals=tuple(t for t in chart.terminals if not _made_up(t.ref)),
    )  # fmt: skip


def _used(plan: Plan, bar: Bar, gone: Collection[str]) -> tuple[BarStud, ...]:
    """Studs of a bar on which something else is, or nothing: those of folded circuits go with them."""
    on = {s.id: [r.id for r in plan.runs_at.get(bar.ref(s.id), ())] for s in bar.studs}
    return tuple(s for s in bar.studs if not on[s.id] or any(id_ not in gone for id_ in on[s.id]))


def _made_up(ref: str) -> bool:
    return IN_PLACE.format("") in ref
