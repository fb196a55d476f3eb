"""A conductor that is laid gets its size from what will flow in it."""

from math import isfinite

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.circuits import SMALLEST_MM2, sized
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Battery, Equipment, Inline, Plan, Run, split_ref
from jaunty_copper.plan.topology import chain

AS_BEFORE = "mm2-10"
"""Where neither current nor neighbours tell anything."""


def lay(plan: Plan, a: str, b: str, length_m: float) -> Plan:
    """Lay a conductor between two terminals, sized for the place.

    In a circuit of its own with equipment it follows that load; elsewhere it is the thinnest that carries what its
    devices let through, or the lasting current where none limits it, and as thick as what leads on from it where
    nothing flows yet.

    Raises
    ------
    EditError
        As `edits.connect`.
    """
    laid, id_ = edits.connect(plan, a, b, length_m, conductor=AS_BEFORE, follows_load=True)
    e = _served(laid, id_)
    if e is not None:
        return sized(laid, e.id)
    return edits.change(laid, id_, conductor=_trunk(laid, laid.run_by_id[id_]), follows_load=False)


def _served(plan: Plan, run_id: str) -> Equipment | None:
    """Equipment that a run leads to alone."""
    served = (e for e in plan.equipment if any(run_id == r.id for ref in e.port for r in chain(plan, ref)))
    return next(served, None)


def _trunk(plan: Plan, run: Run) -> str:
    """Size of a conductor that is no circuit's own."""
    case = Assessment(plan).case
    k = case.wiring.branch[run.id]
    lasting = float(case.study.continuous_a[k]) * max(case.code.limit("continuous_share"), 1.0)
    bound = case.protection.guard.bound(k).amps
    beside = max((case.parts.conductors[r.conductor].area_mm2 for r in _neighbours(plan, run)), default=0.0)
    if isfinite(bound) and bound > 0.0:
        needs, area = max(bound, lasting), SMALLEST_MM2
    else:
        needs, area = lasting, beside or case.parts.conductors[AS_BEFORE].area_mm2
    sizes = case.sizes_of(run)
    return next((s.id for s, able in sizes if able >= needs and s.area_mm2 >= 0.999 * area), sizes[-1][0].id)


def _neighbours(plan: Plan, run: Run) -> list[Run]:
    """Conductors that lead on from the ends of a run, past what sits in them; of a link of the bank, its other links."""
    ends = [split_ref(ref)[0] for ref in (run.a, run.b)]
    if all(isinstance(plan.by_id[id_], Battery) for id_ in ends):
        return [
            r for r in plan.runs
            if r is not run and all(isinstance(plan.by_id[split_ref(ref)[0]], Battery) for ref in (r.a, r.b))
        ]  # fmt: skip
    found = []
    for ref in (run.a, run.b):
        item = plan.by_id[split_ref(ref)[0]]
        refs = [item.ref(t) for t in item.terminal_names] if isinstance(item, Inline) else [ref]
        found += [r for here in refs for r in plan.runs_at.get(here, ()) if r.id != run.id]
    return found
