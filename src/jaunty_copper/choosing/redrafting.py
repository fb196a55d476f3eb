"""A bar drafted anew: its circuits sized again, each with a device next to the bar, the largest nearest to what feeds it."""

from collections import Counter
from collections.abc import Callable
from typing import NamedTuple

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import QUESTIONS
from jaunty_copper.choosing.circuits import AT_BAR_M
from jaunty_copper.choosing.sizing import rated_current, sized
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import Bar, Breaker, Fuse, Inline, Plan, split_ref
from jaunty_copper.plan.supply import supply_of


class Redrafted(NamedTuple):
    """A plan with a bar drafted anew.

    Attributes
    ----------
    plan : Plan
        As before where nothing would be better.
    circuits : tuple of str
        Ids of the equipment on the bar, as its circuits leave it, the nearest to what feeds it first.
    before, after : tuple of int
        Dangers, defects and advice found in the plan.
    """

    plan: Plan
    circuits: tuple[str, ...]
    before: tuple[int, ...]
    after: tuple[int, ...]


def circuits_of(plan: Plan, bar: Bar) -> dict[str, str]:
    """Equipment with a circuit of its own between a bar and another hub, and the bar's terminal that it leaves from."""
    found = {}
    for e in plan.equipment:
        _, _, hubs = edits.circuit_of(plan, e.id)
        here = [ref for ref in hubs.values() if split_ref(ref)[0] == bar.id]
        if len(hubs) == 2 and len(here) == 1:
            found[e.id] = here[0]
    return found


def redrafted(plan: Plan, bar_id: str, overtaken: Callable[[], bool] = lambda: False) -> Redrafted:
    """Draft a bar anew: what hangs on it keeps its lengths, switches and breakers.

    Every circuit gets a device next to the bar where the bar is on the side of devices and none stands there; its
    conductors and fuses are chosen anew for what its equipment draws; and circuits stand on the bar's studs in the
    order of their currents, so that most of the bar carries little. Kept only where no worse is found than before.

    Parameters
    ----------
    bar_id : str
        Id of the bar.
    overtaken : callable
        Asked now and then whether to stop.

    Raises
    ------
    EditError
        It is no bar, or no circuit of its own leaves it.
    """
    bar = plan.by_id.get(bar_id)
    if not isinstance(bar, Bar):
        raise EditError(say("{bar_id} is no bar", bar_id=bar_id))
    circuits = circuits_of(plan, bar)
    if not circuits:
        raise EditError(say("no circuit leaves {bar}", bar=bar.title))
    drawn = plan
    if supply_of(plan, bar).side == supply_of(plan, bar).device_at:
        for start in circuits.values():
            drawn = _with_device(drawn, start) if len(drawn.runs_at[start]) == 1 else drawn
    drawn = _in_order(drawn, bar, circuits_of(drawn, bar))
    changes = dict[str, dict[str, bool]]()
    for id_ in circuits:
        runs, items, _ = edits.circuit_of(drawn, id_)
        ids = [*(r.id for r in runs), *(x.id for x in items if isinstance(x, Fuse))]
        changes |= {x: {"follows_load": True} for x in ids}
    drawn = sized(edits.change_each(drawn, changes), *circuits, overtaken=overtaken)
    before, after = (_wrong(p) for p in (plan, drawn))
    order = tuple(sorted(circuits, key=lambda id_: _distance(drawn, bar, circuits_of(drawn, bar)[id_])))
    return Redrafted(plan if after > before else drawn, order, before, after)


def _wrong(plan: Plan) -> tuple[int, ...]:
    counts = Counter(f.verdict for f in Assessment(plan).findings if f.rule.id not in QUESTIONS)
    return tuple(counts[v] for v in (Verdict.DANGER, Verdict.DEFECT, Verdict.ADVICE))


def _with_device(plan: Plan, start: str) -> Plan:
    """A plan with a device next to the bar in the circuit that leaves a terminal: put there, or moved there from farther off."""
    ends = [split_ref(ref)[0] for ref in _way(plan, start)]
    if isinstance(plan.by_id[ends[0]], Fuse | Breaker):
        return plan
    farther = next((x for id_ in ends if isinstance(x := plan.by_id[id_], Fuse)), None)
    if farther is not None:
        plan = edits.remove_inline(plan, farther.id)
    fuse = farther or Fuse(id=edits.fresh_id(plan, "F"), family="blade-fuse", rating_a=10.0)
    (first,) = plan.runs_at[start]
    near = min(AT_BAR_M, first.length_m / 2.0)
    return edits.insert_inline(plan, first.id, fuse, near if first.a == start else first.length_m - near)


def _way(plan: Plan, start: str) -> list[str]:
    """Where the conductors of a circuit end, one after the other, from a terminal of a bar to its equipment."""
    found, at, seen = list[str](), start, set[str]()
    while run := next((r for r in plan.runs_at.get(at, ()) if r.id not in seen), None):
        seen.add(run.id)
        found.append(run.b if run.a == at else run.a)
        owner, end = split_ref(found[-1])
        if not isinstance(plan.by_id[owner], Inline):
            break
        at = f"{owner}.{'b' if end == 'a' else 'a'}"
    return found


def _in_order(plan: Plan, bar: Bar, circuits: dict[str, str]) -> Plan:
    """A plan with a bar's circuits on its studs in the order of their currents, the largest nearest to what feeds it."""
    alone = {id_: ref for id_, ref in circuits.items() if len(plan.runs_at[ref]) == 1}
    studs = sorted(alone.values(), key=lambda ref: (_distance(plan, bar, ref), ref))
    largest = sorted(alone, key=lambda id_: (-rated_current(plan.by_id[id_]), alone[id_]))  # type: ignore[arg-type]
    ends = {}
    for id_, stud in zip(largest, studs, strict=True):
        (run,) = plan.runs_at[alone[id_]]
        ends[run.id] = {"a" if run.a == alone[id_] else "b": stud}
    return edits.change_each(plan, ends)


def _distance(plan: Plan, bar: Bar, ref: str) -> int:
    """How many studs lie between a terminal of a bar and the nearest that no circuit of its own leaves from."""
    names = list(bar.terminal_names)
    own = set(circuits_of(plan, bar).values())
    feeds = [k for k, t in enumerate(names) if plan.runs_at.get(bar.ref(t)) and bar.ref(t) not in own]
    at = names.index(split_ref(ref)[1])
    return min((abs(at - k) for k in feeds), default=at)
