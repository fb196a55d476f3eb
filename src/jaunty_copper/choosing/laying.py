"""A conductor that is laid gets its size from what will flow in it."""

from collections.abc import Iterable, Mapping
from math import isfinite

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.circuits import AT_BAR_M
from jaunty_copper.choosing.devices import that_fit
from jaunty_copper.choosing.putting import put_device
from jaunty_copper.choosing.sizing import SMALLEST_MM2, sized
from jaunty_copper.plan import defaults, edits
from jaunty_copper.plan.model import Battery, Equipment, Inline, Plan, Run, split_ref
from jaunty_copper.plan.topology import chain

OPEN_A = 10.0
"""Rating of a fuse before its circuit is sized."""
AS_BEFORE = "mm2-10"
"""Where neither current nor neighbours tell anything."""


PARTS: Mapping[str, tuple[str, ...]] = {
    "nothing": (), "a fuse at its start": ("a",), "a fuse at its end": ("b",), "a fuse at each end": ("a", "b"), "a switch": ("switch",),
    "an open switch": ("open",),
}  # fmt: skip
"""What can be put into a conductor while it is laid."""


def lay(plan: Plan, a: str, b: str, length_m: float, within: str = "nothing") -> Plan:
    """Lay a conductor between two terminals, sized for the place, with what is to stand in it.

    In a circuit of its own with equipment it follows that load; elsewhere it is the thinnest that carries what its
    devices let through, or the lasting current where none limits it, and as thick as what leads on from it where
    nothing flows yet. A fuse in it is the largest that the conductor permits, of a family that fits the place.

    Parameters
    ----------
    within : str
        One of `PARTS`.

    Raises
    ------
    EditError
        As `edits.connect`.
    """
    laid, id_ = edits.connect(plan, a, b, length_m, conductor=AS_BEFORE, follows_load=True)
    e = _served(laid, id_)
    parts = PARTS[within]
    if e is not None:
        return sized(_with_parts(laid, id_, parts, OPEN_A, follows_load=True)[0], e.id)
    laid = edits.change(laid, id_, conductor=_trunk(laid, laid.run_by_id[id_]), follows_load=False)
    if not parts:
        return laid
    ampacity = Assessment(laid).case.ampacities[id_].amps
    laid, fuses = _with_parts(laid, id_, parts, ampacity)
    for fuse in fuses:
        laid = _fitted(laid, fuse)
    return laid


def _with_parts(
    plan: Plan, run_id: str, parts: Iterable[str], amps: float, follows_load: bool = False
) -> tuple[Plan, list[str]]:
    """Put fuses next to the ends of a conductor, or a switch into it; return the ids of the fuses too."""
    fuses, end = [], plan.run_by_id[run_id].b
    for part in parts:
        # What was put in before has split it: the piece that leads to its end is another one then.
        run = plan.run_by_id[run_id] if part != "b" else next(r for r in plan.runs_at[end] if r.id.startswith(run_id))
        near = min(AT_BAR_M, run.length_m / 2)
        if part in ("switch", "open"):
            switch = defaults.new_inline(plan, "disconnect", amps)
            plan = edits.insert_inline(plan, run.id, switch, run.length_m / 2)
            plan = edits.change(plan, switch.id, closed=part == "switch")
            continue
        fuse = defaults.new_inline(plan, "fuse", amps)
        plan = edits.insert_inline(plan, run.id, fuse, near if part == "a" else run.length_m - near)
        if follows_load:
            plan = edits.change(plan, fuse.id, follows_load=True)
        fuses.append(fuse.id)
    return plan, fuses


def _fitted(plan: Plan, fuse: str) -> Plan:
    """The best family and rating for a place; what stands there where none fits."""
    best = next(iter(that_fit(Assessment(plan).case, fuse)), None)
    if best is None or best.rating_a is None:
        return plan
    return put_device(plan, fuse, best.family.kind, best.family.id, best.rating_a)


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
