"""Overcurrent protection: its window, its distance, its voltage, and where there is none."""

from collections.abc import Iterator
from functools import partial
from math import inf, isfinite

from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Battery, Breaker, Fuse, Plan, Source, split_ref
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.conductors import resize
from jaunty_copper.practice.rules.words import amps, metres, volts
from jaunty_copper.study.guard import Stretch

INTERRUPT_ORDER = ("class-t-fuse", "open-link-limiter", "strip-fuse-sf51", "hydraulic-magnetic-breaker")
"""Families to offer where a device is missing, the highest interrupt rating first but for the breaker."""
MOVABLE_M = 1.0
"""A device no farther than this from where it belongs is moved; else another is put there."""


def devices(case: Case) -> Iterator[Fuse | Breaker]:
    """Protective devices of a plan."""
    return (x for x in case.plan.items if isinstance(x, Fuse | Breaker))


def distance_limit(case: Case, stretch: Stretch) -> tuple[float, str]:
    """How long an unprotected stretch may be, m, and the source: its covered exceptions."""
    runs = [case.plan.run_by_id[r] for r in stretch.runs]
    covered = bool(runs) and all(r.sheathed for r in runs if r.length_m > 0.0)
    at_battery = isinstance(case.plan.by_id[split_ref(stretch.start)[0]], Battery)
    name = (
        "first_protection_m" if not covered
        else "first_protection_battery_sheathed_m" if at_battery
        else "first_protection_sheathed_m"
    )  # fmt: skip
    return case.book.limit(name), case.book.source(name)


def _is_link(case: Case, run_id: str) -> bool:
    """Whether a run joins two batteries: part of the bank, not of the system."""
    run = case.plan.run_by_id[run_id]
    return all(isinstance(case.plan.by_id[split_ref(ref)[0]], Battery) for ref in (run.a, run.b))


def is_tap(case: Case, branch: int) -> bool:
    """Whether a run is short enough, on its way to a device of its own, to do without."""
    if case.wiring.branches[branch].kind != "run":
        return False
    stretch = case.study.guard.stretch(branch)
    return stretch.length_m <= distance_limit(case, stretch)[0] + 1e-9


def unprotected(case: Case, rule: Rule) -> Iterator[Finding]:
    """Conductors that a battery feeds with no device, and how far the first one is."""
    guard = case.study.guard
    told: set[tuple[str, tuple[str, ...]]] = set()
    for k in guard.conductors:
        branch = case.wiring.branches[k]
        if branch.kind != "run" or isfinite(guard.bound(k).amps):
            continue
        run = case.plan.run_by_id[branch.owner]
        if run.cranking or run.length_m == 0.0 or _is_link(case, run.id):
            continue
        stretch = guard.stretch(k)
        if (stretch.start, stretch.ends) in told:
            continue
        told.add((stretch.start, stretch.ends))
        limit, source = distance_limit(case, stretch)
        if stretch.length_m <= limit + 1e-9:
            continue
        ends = " and ".join(case.title(x) for x in stretch.ends) or "nothing"
        start = case.title(split_ref(stretch.start)[0])
        if not isfinite(stretch.length_m):
            words = f"nothing protects {case.run_title(run)}: {start} feeds {ends} through it"
            length = sum(case.plan.run_by_id[r].length_m for r in stretch.runs)
        else:
            words = f"{metres(stretch.length_m)} unprotected from {start} to {ends}; {metres(limit)} allowed"
            length = stretch.length_m
        behind = [case.title(x) for x in stretch.ends if _guards_source(case, x)]
        if behind:
            words += f": the bank feeds it in reverse, past {behind[0]}"
        yield case.finding(
            rule, Severity.STOP, run.id, words, figure=length, limit=limit, unit="m", source=source,
            mend=_protect(case, stretch, limit),
        )  # fmt: skip


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
            f"Move {case.title(device)} to {metres(min(0.15, limit))} from {split_ref(stretch.start)[0]}",
            partial(move_device, run_id=first.id, device_id=device, to_m=min(0.15, limit)),
        )
    allowed = min((case.ampacities[r.id].amps for r in runs if r.id in case.ampacities), default=inf)
    rated_v = _system_v(case, stretch.start)
    for family_id in INTERRUPT_ORDER:
        family = case.parts.device_families[family_id]
        fits = [r for r in case.parts.ratings(family) if r <= allowed]
        if family.max_v_dc >= rated_v and fits:
            kind = Fuse if family.kind == "fuse" else Breaker
            device_ = kind(id=edits.fresh_id(case.plan, "F"), family=family_id, rating_a=fits[-1])
            at = 0.1 if first.a == stretch.start else max(first.length_m - 0.1, 0.0)
            return Edit(
                f"Put a {family.label} of {fits[-1]:g} A at the start of {first.id}",
                partial(edits.insert_inline, run_id=first.id, item=device_, at_m=at),
            )
    return None


def move_device(plan: Plan, run_id: str, device_id: str, to_m: float) -> Plan:
    """Shorten the run before a device and give the run behind it what it lost."""
    if run_id not in plan.run_by_id or device_id not in plan.by_id:
        raise EditError(f"{device_id} no longer stands at the end of {run_id}")
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


def _system_v(case: Case, ref: str) -> float:
    """Most voltage that a device at a terminal may have to interrupt, V."""
    return float(case.study.across_v[case.wiring.node[ref]])


def _overrun(case: Case, device: Fuse | Breaker) -> list[tuple[float, int]]:
    """Branches that a device alone protects and that bear less than its rating, weakest first."""
    found = [
        (capacity, k)
        for k in case.study.guard.guarded_by.get(device.id, ())
        if device.rating_a > (capacity := allowed_rating(case, k, device)) * 1.0001 and not is_tap(case, k)
    ]
    return sorted(found)


def leaves_hub(case: Case, branch: int, device: Fuse | Breaker) -> bool:
    """Whether a run leaves a bar or stud behind a device, and not the device itself."""
    if case.wiring.branches[branch].kind != "run":
        return False
    return split_ref(case.study.guard.stretch(branch).start)[0] != device.id


def larger_than_conductor(case: Case, rule: Rule) -> Iterator[Finding]:
    """Devices rated above the weakest thing in series with them."""
    for device in devices(case):
        weak = [(c, k) for c, k in case.once(_overrun, device) if not leaves_hub(case, k, device)]
        if not weak:
            continue
        capacity, k = weak[0]
        branch = case.wiring.branches[k]
        thing = case.title(branch.owner)
        where = case.ampacities[branch.owner].source if branch.kind == "run" else f"rating of {thing}"
        yield case.finding(
            rule, Severity.STOP, device.id,
            f"{device.title} of {device.rating_a:g} A exceeds what {thing} permits: {amps(capacity)}",
            figure=device.rating_a, limit=capacity, unit="A", source=where,
            mend=_smaller_device(case, device, capacity) or strengthen(case, branch.owner, device.rating_a),
        )  # fmt: skip


def branch_without_device(case: Case, rule: Rule) -> Iterator[Finding]:
    """Branches that leave a bar thinner than the device before it allows, with none of their own."""
    told: set[tuple[str, tuple[str, ...]]] = set()
    for device in devices(case):
        for capacity, k in case.once(_overrun, device):
            if not leaves_hub(case, k, device):
                continue
            stretch = case.study.guard.stretch(k)
            if (stretch.start, stretch.ends) in told:
                continue
            told.add((stretch.start, stretch.ends))
            limit, source = distance_limit(case, stretch)
            run = case.wiring.branches[k].owner
            length = sum(case.plan.run_by_id[r].length_m for r in stretch.runs)
            yield case.finding(
                rule, Severity.STOP, run,
                f"{case.title(run)} has no device at its start: {device.title} of {device.rating_a:g} A is all, and it may carry {amps(capacity)}",
                figure=length, limit=limit, unit="m", source=source,
                mend=_protect(case, stretch, limit),
            )  # fmt: skip


def allowed_rating(case: Case, branch: int, device: Fuse | Breaker) -> float:
    """Largest rating that may protect a branch: its capacity, or the next standard size up.

    The next size up only for a run that bears the device's normal current, where no standard
    rating carries that current and stays within the ampacity, and only up to the practice's
    share of it.
    """
    capacity, share = case.capacity(branch), case.book.limit("next_size_up_share")
    if case.wiring.branches[branch].kind != "run" or share <= 1.0:
        return capacity
    family = case.parts.device_families[device.family]
    air = float(case.study.hottest_ambient_c[case.wiring.branch[device.id]])
    needs = case.book.limit("continuous_share") / case.once(_left_at, (family.release, air))
    normal = needs * normal_current(case, device)
    if normal > capacity:
        return capacity
    ratings = case.parts.ratings(family)
    if any(normal <= r <= capacity for r in ratings):
        return capacity
    return next((r for r in ratings if capacity < r <= share * capacity), capacity)


def _left_at(_: Case, release_and_air: tuple[str, float]) -> float:
    """What an ambient leaves of a rating."""
    return float(ambient_factor(*release_and_air))


def normal_current(case: Case, device: Fuse | Breaker) -> float:
    """Most a device carries in a scenario without surge, A."""
    return float(case.study.continuous_a[case.wiring.branch[device.id]])


def _smaller_device(case: Case, device: Fuse | Breaker, capacity: float) -> Edit | None:
    family = case.parts.device_families[device.family]
    fits = [r for r in case.parts.ratings(family) if normal_current(case, device) <= r <= capacity]
    if not fits:
        return None
    return Edit(f"Make {device.title} {fits[-1]:g} A", partial(edits.change, id_=device.id, rating_a=fits[-1]))


def strengthen(case: Case, id_: str, rating_a: float) -> Edit | None:
    """Let what a device protects bear a rating: a thicker run, a part of higher rating."""
    run = case.plan.run_by_id.get(id_)
    if run is None:
        words = f"Make {case.title(id_)} {rating_a:g} A"
        return Edit(words, partial(edits.change, id_=id_, rating_a=rating_a))
    size = case.smallest_conductor(run, rating_a)
    if size is None:
        return None
    label = case.parts.conductors[size].label
    return Edit(f"Make {id_} {label}", partial(resize, ids=(id_,), conductor=size))


def several_feeds_too_strong(case: Case, rule: Rule) -> Iterator[Finding]:
    """Conductors that several devices together can overload though none of them opens."""
    guard = case.study.guard
    for k in guard.conductors:
        bound = guard.bound(k)
        if len(bound.feeds) < 2 or not isfinite(bound.amps):
            continue
        capacity = case.capacity(k)
        if bound.amps <= capacity * 1.0001 or is_tap(case, k):
            continue
        owner = case.wiring.branches[k].owner
        yield case.finding(
            rule, Severity.MEND, owner,
            f"{', '.join(case.title(d) for d in bound.feeds)} together let {amps(bound.amps)} through {case.title(owner)}, "
            f"which may carry {amps(capacity)}",
            figure=bound.amps, limit=capacity, unit="A", source="Sum of the ratings that feed it",
        )  # fmt: skip


def smaller_than_current(case: Case, rule: Rule) -> Iterator[Finding]:
    """Devices that the normal current will open, or that the practice wants larger for it."""
    share = case.book.limit("continuous_share")
    for device in devices(case):
        current = normal_current(case, device)
        if share * current <= device.rating_a:
            continue
        family = case.parts.device_families[device.family]
        weakest = min(
            (allowed_rating(case, k, device) for k in case.study.guard.guarded_by.get(device.id, ())), default=inf
        )
        fits = [r for r in case.parts.ratings(family) if share * current <= r <= weakest]
        more = f", which asks {amps(share * current)} of it" if share > 1.0 else ""
        state = case.study.worst_state(case.wiring.branch[device.id], lasting=True)
        mend = (
            Edit(f"Make {device.title} {fits[0]:g} A", partial(edits.change, id_=device.id, rating_a=fits[0]))
            if fits
            else None
        )
        yield case.finding(
            rule, Severity.STOP, device.id,
            f"{device.title} of {device.rating_a:g} A carries {amps(current)} in “{state.scenario.title}”{more}",
            figure=share * current, limit=device.rating_a, unit="A", scenario=state.scenario.id,
            source=case.book.source("continuous_share"), mend=mend,
        )  # fmt: skip


def rating_unknown(case: Case, rule: Rule) -> Iterator[Finding]:
    """Ratings that a family does not come in."""
    for device in devices(case):
        family = case.parts.device_families[device.family]
        ratings = case.parts.ratings(family)
        if device.rating_a in ratings:
            continue
        near = min(ratings, key=lambda r: abs(r - device.rating_a), default=None)
        mend = (
            Edit(f"Make {device.title} {near:g} A", partial(edits.change, id_=device.id, rating_a=near))
            if near
            else None
        )
        yield case.finding(
            rule, Severity.NOTE, device.id,
            f"{device.title}: {family.label} of {device.rating_a:g} A is no standard rating ({family.min_a:g} to {family.max_a:g} A)",
            figure=device.rating_a, unit="A", source=family.source, mend=mend,
        )  # fmt: skip


def device_voltage(case: Case, rule: Rule) -> Iterator[Finding]:
    """Devices and switches on a system of higher voltage than they may interrupt."""
    for x in case.plan.items:
        family: DeviceFamily | None = None
        if isinstance(x, Fuse | Breaker):
            family = case.parts.device_families[x.family]
        rated = family.max_v_dc if family else getattr(x, "max_v", None)
        if rated is None:
            continue
        v = _system_v(case, x.ref("a"))
        if v <= rated:
            continue
        better = _family_for(case, x, family, v) if family and isinstance(x, Fuse | Breaker) else None
        yield case.finding(
            rule, Severity.STOP, x.id, f"{x.title} is rated {rated:g} V and sees {volts(v)}",
            figure=v, limit=rated, unit="V", source=family.source if family else f"rating of {x.title}",
            mend=Edit(f"Make {x.title} a {better.label}", partial(edits.change, id_=x.id, family=better.id)) if better else None,
        )  # fmt: skip


def _family_for(case: Case, device: Fuse | Breaker, now: DeviceFamily, volts: float) -> DeviceFamily | None:
    """The first family of a kind that bears a voltage and comes in a device's rating."""
    return next(
        (
            f
            for f in case.parts.device_families.values()
            if f.kind == now.kind and f.max_v_dc >= volts and device.rating_a in case.parts.ratings(f)
        ),
        None,
    )


def source_end(case: Case, rule: Rule) -> Iterator[Finding]:
    """Self-limiting sources with no device at their own end, where the practice wants one.

    A conductor too thin for the source's most is told by either school.
    """
    exempt = case.book.limit("self_limited_source_exempt") > 0.0
    distance = case.book.limit("first_protection_m")
    for e in case.plan.equipment:
        if not isinstance(e, Source):
            continue
        chain = case.chain(e, "plus")
        thin = min((case.ampacities[r.id].amps for r in chain if r.id in case.ampacities), default=inf)
        if thin < e.current_a:
            run = min((r for r in chain if r.id in case.ampacities), key=lambda r: case.ampacities[r.id].amps)
            size = case.smallest_conductor(run, e.current_a)
            mend = (
                Edit(
                    f"Make {run.id} {case.parts.conductors[size].label}", partial(resize, ids=(run.id,), conductor=size)
                )
                if size
                else None
            )
            yield case.finding(
                rule, Severity.STOP, run.id,
                f"{e.title} can give {amps(e.current_a)}; {case.run_title(run)} may carry {amps(thin)}",
                figure=e.current_a, limit=thin, unit="A", source=case.ampacities[run.id].source, mend=mend,
            )  # fmt: skip
        elif not exempt and chain:
            start = chain[0]
            far = split_ref(start.b if start.a == e.ref("plus") else start.a)[0]
            if (
                not (isinstance(case.plan.by_id[far], Fuse | Breaker) and start.length_m <= distance)
                and not start.sheathed
            ):
                yield case.finding(
                    rule, Severity.NOTE, e.id,
                    f"{e.title} has no device within {metres(distance)} of its own end. If one opens while the source runs, "
                    "the source may destroy itself: decide with its maker's instructions",
                    figure=start.length_m, limit=distance, unit="m", source=case.book.source("self_limited_source_exempt"),
                )  # fmt: skip


RULES = (
    Rule("no_protection", "Unprotected stretch",
         "If this stretch chafes through, the battery drives thousands of amperes into the fault and nothing opens: fire.", unprotected),
    Rule("branch_unprotected", "Branch with no device of its own",
         "The large device before the bar lets through far more than this conductor withstands: it burns first.", branch_without_device),
    Rule("device_too_large", "Device larger than what it protects",
         "The conductor or part burns before the device notices.", larger_than_conductor),
    Rule("feeds_too_strong", "Several feeds together too strong",
         "Each device sees only its own share, so together they can overload what none of them protects.", several_feeds_too_strong),
    Rule("device_too_small", "Device smaller than its current",
         "It opens in normal use, and somebody will put in a larger one.", smaller_than_current),
    Rule("device_rating", "Rating that does not exist",
         "What cannot be bought will be replaced by something else on the day.", rating_unknown),
    Rule("device_voltage", "Device voltage",
         "A device above its voltage does not put its arc out: it opens and goes on burning.", device_voltage),
    Rule("source_end", "Conductor at a source",
         "A charger or alternator feeds a fault too; its conductor must carry all it can give, or be protected from it.", source_end),
)  # fmt: skip
