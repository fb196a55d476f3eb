"""Conductors with no device, with none near enough, and those at a source."""

from collections.abc import Iterator
from functools import partial
from math import inf, isfinite

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.permitted import COVERED, covered, devices, distance_limit, leaves_hub, overrun, voltage_at
from jaunty_copper.codes.rules.conductors import resize
from jaunty_copper.codes.rules.words import amps, metres
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Battery, Breaker, Fuse, Plan, Run, Source, split_ref
from jaunty_copper.protection.guard import Stretch

INTERRUPT_ORDER = ("class-t-fuse", "open-link-limiter", "strip-fuse-sf51", "hydraulic-magnetic-breaker")
"""Families to offer where a device is missing, the highest interrupt rating first but for the breaker."""
MOVABLE_M = 1.0
"""A device no farther than this from where it belongs is moved; else another is put there."""


def _is_link(case: Case, run_id: str) -> bool:
    """Whether a run joins two batteries: part of the bank, not of the system."""
    run = case.plan.run_by_id[run_id]
    return all(isinstance(case.plan.by_id[split_ref(ref)[0]], Battery) for ref in (run.a, run.b))


TOPIC = say("Overcurrent protection")


def unprotected(case: Case, rule: Rule) -> Iterator[Check]:
    """Conductors that a battery feeds with no device, and how far the first one is."""
    guard = case.protection.guard
    reported: set[tuple[str, ...]] = set()
    for k in guard.conductors:
        branch = case.wiring.branches[k]
        if branch.kind != "run":
            continue
        run = case.plan.run_by_id[branch.owner]
        if run.cranking or run.length_m == 0.0 or _is_link(case, run.id):
            continue
        if not guard.is_open(k):
            yield case.check(rule, run.id, source=case.code.source("first_protection_m"))
            continue
        stretch = guard.stretch(k)
        if stretch.runs in reported:
            continue
        reported.add(stretch.runs)
        limit, source, longer = distance_limit(case, stretch)
        endless = not isfinite(stretch.length_m)
        length = sum(case.plan.run_by_id[r].length_m for r in stretch.runs) if endless else stretch.length_m
        check = case.check(rule, run.id, length, limit, "m", source=source)
        if stretch.length_m <= limit + 1e-9:
            yield check
            continue
        ends = " and ".join(case.title(x) for x in stretch.ends) or "nothing"
        start = case.title(split_ref(stretch.start)[0])
        words = (
            say('nothing protects {run}: {start} feeds {ends} through it', run=case.run_title(run), start=start, ends=ends) if endless
            else say('{length_m} unprotected from {start} to {ends}; {limit} allowed', length_m=metres(stretch.length_m), start=start, ends=ends, limit=metres(limit))
        )  # fmt: skip
        if limit < longer:
            words += say(
                "; {longer} {where}",
                longer=metres(longer) if isfinite(longer) else say("any length"),
                where=COVERED[case.code.covering],
            )
        behind = [case.title(x) for x in stretch.ends if _guards_source(case, x)]
        if behind:
            words += say(": the bank feeds it in reverse, past {behind}", behind=behind[0])
        apart = case.wiring.rail_of(run.a) in guard.floating_rails
        other = guard.bound(k).guards if apart and isfinite(guard.bound(k).amps) else ()
        if other:
            words += say(
                ": {other} in the other pole opens on a short between the poles only; in a floating system each pole "
                "needs a device",
                other=" and ".join(case.title(x) for x in other),
            )
        yield check.fails(Verdict.DEFECT if other else Verdict.DANGER, words, partial(_protect, case, stretch, limit))


def _guards_source(case: Case, device: str) -> bool:
    """Whether a device stands at a charging source, at the far end of its cable."""
    item = case.plan.by_id[device]
    if not isinstance(item, Fuse | Breaker):
        return False
    ends = {
        split_ref(ref)[0]
        for t in item.terminal_names
        for r in case.plan.runs_at.get(item.ref(t), ())
        for ref in (r.a, r.b)
    }
    return any(isinstance(case.plan.by_id[x], Source) for x in ends)


def _protect(case: Case, stretch: Stretch, limit: float) -> Edit | None:
    """Bring the device to the start of a stretch, or put one there."""
    runs = [case.plan.run_by_id[r] for r in stretch.runs]
    first = runs[0]
    on_it = {split_ref(ref)[0] for ref in (first.a, first.b)}
    if stretch.length_m <= MOVABLE_M and len(runs) == 1 and on_it >= set(stretch.ends):
        device = stretch.ends[0]
        return Edit(
            say(
                "Move {device} to {min} from {split_ref}",
                device=case.title(device),
                min=metres(min(0.15, limit)),
                split_ref=split_ref(stretch.start)[0],
            ),
            partial(move_device, run_id=first.id, device_id=device, to_m=min(0.15, limit)),
        )
    allowed = min((case.ampacities[r.id].amps for r in runs if r.id in case.ampacities), default=inf)
    rated_v = voltage_at(case, stretch.start)
    for family_id in INTERRUPT_ORDER:
        if family_id in case.code.unlisted:
            continue
        family = case.parts.device_families[family_id]
        fits = [r for r in case.parts.ratings(family) if r <= allowed]
        if family.max_v_dc >= rated_v and fits:
            kind = Fuse if family.kind == "fuse" else Breaker
            device_ = kind(id=edits.fresh_id(case.plan, "F"), family=family_id, rating_a=fits[-1])
            at = 0.1 if first.a == stretch.start else max(first.length_m - 0.1, 0.0)
            return Edit(
                say(
                    "Put a {family} of {fits:g} A at the start of {first}",
                    family=family.label,
                    fits=fits[-1],
                    first=first.id,
                ),
                partial(insert_device, run_id=first.id, device=device_, at_m=at),
            )
    return None


def insert_device(plan: Plan, run_id: str, device: Fuse | Breaker, at_m: float) -> Plan:
    """Put a device into a run, under another id where something has its own by now.

    Parameters
    ----------
    run_id : str
        Of the run that is cut.
    at_m : float
        From the run's first end, m.
    """
    if device.id in plan.by_id or device.id in plan.run_by_id:
        device = device.model_copy(update={"id": edits.fresh_id(plan, "F")})
    return edits.insert_inline(plan, run_id, device, at_m)


def move_device(plan: Plan, run_id: str, device_id: str, to_m: float) -> Plan:
    """Shorten the run before a device and give the run behind it what it lost.

    Parameters
    ----------
    run_id : str
        Of the run before the device.
    to_m : float
        Length that run is to have, m.
    """
    if run_id not in plan.run_by_id or device_id not in plan.by_id:
        raise EditError(say("{device_id} no longer stands at the end of {run_id}", device_id=device_id, run_id=run_id))
    run, device = plan.run_by_id[run_id], plan.by_id[device_id]
    behind = [
        r
        for t in device.terminal_names
        for r in plan.runs_at.get(device.ref(t), ())
        if r.id != run_id and device.ref(t) not in (run.a, run.b)
    ]
    moved = run.length_m - to_m
    plan = edits.change(plan, run_id, length_m=to_m)
    if len(behind) == 1:
        plan = edits.change(plan, behind[0].id, length_m=round(behind[0].length_m + moved, 6))
    return plan


def branch_without_device(case: Case, rule: Rule) -> Iterator[Check]:
    """Branches that leave a bar thinner than the device before it allows, with none of their own."""
    reported: set[tuple[str, ...]] = set()
    for device in devices(case):
        for capacity, k in case.once(overrun, device):
            if not leaves_hub(case, k):
                continue
            stretch = case.protection.guard.stretch(k)
            if stretch.runs in reported:
                continue
            reported.add(stretch.runs)
            limit, source, _ = distance_limit(case, stretch)
            run = case.wiring.branches[k].owner
            length = sum(case.plan.run_by_id[r].length_m for r in stretch.runs)
            yield case.check(rule, run, length, limit, "m", source=source).fails(
                Verdict.DANGER,
                say(
                    "{run} has no device at its start: only {device} of {rating_a:g} A guards it, and it may carry {capacity}",
                    run=case.title(run),
                    device=device.title,
                    rating_a=device.rating_a,
                    capacity=amps(capacity),
                ),
                partial(_protect, case, stretch, limit),
            )


def _all_thicker(case: Case, runs: list[Run], current: float) -> Edit | None:
    """One size for runs in a row that lets all of them carry a current."""
    found = [case.smallest_conductor(r, current) for r in runs]
    if None in found:
        return None
    size = max((case.parts.conductors[id_] for id_ in found if id_), key=lambda s: s.area_mm2)
    ids = tuple(r.id for r in runs)
    return Edit(
        say("Make {ids} {size}", ids=", ".join(ids), size=size.label), partial(resize, ids=ids, conductor=size.id)
    )


def source_end(case: Case, rule: Rule) -> Iterator[Check]:
    """Self-limiting sources with no device at their own end, where the code wants one.

    A conductor too thin for the source's greatest current is a danger under any code.
    """
    exempt = case.code.limit("self_limited_source_exempt") > 0.0
    distance = case.code.limit("first_protection_m")
    for e in case.plan.equipment:
        if not isinstance(e, Source):
            continue
        chain = case.chain(e, "plus")
        # What comes out of it goes back to it.
        sized = [r for r in (*chain, *case.chain(e, "minus")) if r.id in case.ampacities]
        if sized:
            run = min(sized, key=lambda r: case.ampacities[r.id].amps)
            amp = case.ampacities[run.id]
            able, _, source = case.for_load(amp)
            check = case.check(rule, e.id, e.current_a, able, "A", source=source)
            if able < e.current_a:
                thin = [r for r in sized if case.for_load(case.ampacities[r.id])[0] < e.current_a]
                yield check.fails(
                    Verdict.DANGER,
                    say(
                        "{e} can give {current_a}; {run} may carry {amps}",
                        e=e.title,
                        current_a=amps(e.current_a),
                        run=case.run_title(run),
                        amps=amps(able),
                    ),
                    partial(_all_thicker, case, thin, e.current_a),
                )
                continue
            yield check
        if exempt or not chain:
            continue
        start = chain[0]
        far = split_ref(start.b if start.a == e.ref("plus") else start.a)[0]
        near = isinstance(case.plan.by_id[far], Fuse | Breaker) and start.length_m <= distance
        source = case.code.source("self_limited_source_exempt")
        check = case.check(rule, e.id, start.length_m, distance, "m", source=source)
        yield (
            case.check(rule, e.id, source=say("{source}; {where}", source=source, where=COVERED[case.code.covering]))
            if covered(case, start)
            else check
            if near
            else check.fails(
                Verdict.ADVICE,
                say(
                    "{e} has no device within {distance} of its own end. If one opens while the source runs, the source may "
                    "destroy itself: decide with its maker's instructions",
                    e=e.title,
                    distance=metres(distance),
                ),
            )
        )


RULES = (
    Rule("no_protection", say("Unprotected stretch"),
         say("If this stretch chafes through, the battery drives thousands of amperes into the fault and nothing opens: fire."), unprotected,
         say("{} conductors from a battery have no device near enough"), topic=TOPIC),
    Rule("branch_unprotected", say("Branch with no device of its own"),
         say("The large device before the bar lets through far more than this conductor withstands: it burns first."), branch_without_device,
         say("{} branches have no device of their own"), topic=TOPIC),
    Rule("source_end", say("Conductor at a source"),
         say("A charger or alternator feeds a fault too; its conductor must carry all it can give, or be protected from it."), source_end,
         say("{} sources have no device at their end, or too thin a conductor"), topic=TOPIC),
)  # fmt: skip
