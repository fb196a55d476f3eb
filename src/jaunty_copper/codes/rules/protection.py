"""Overcurrent protection: its window, its distance, its voltage, and where there is none."""

from collections.abc import Iterator
from functools import partial
from math import inf, isfinite

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.conductors import thicker
from jaunty_copper.codes.rules.words import amps, metres, volts
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Battery, Breaker, Fuse, Named, Plan, Source, split_ref
from jaunty_copper.protection.guard import Stretch

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
    return case.code.limit(name), case.code.source(name)


def _is_link(case: Case, run_id: str) -> bool:
    """Whether a run joins two batteries: part of the bank, not of the system."""
    run = case.plan.run_by_id[run_id]
    return all(isinstance(case.plan.by_id[split_ref(ref)[0]], Battery) for ref in (run.a, run.b))


def is_tap(case: Case, branch: int) -> bool:
    """Whether a run is short enough, on its way to a device of its own, to do without."""
    if case.wiring.branches[branch].kind != "run":
        return False
    stretch = case.protection.guard.stretch(branch)
    return stretch.length_m <= distance_limit(case, stretch)[0] + 1e-9


def unprotected(case: Case, rule: Rule) -> Iterator[Check]:
    """Conductors that a battery feeds with no device, and how far the first one is."""
    guard = case.protection.guard
    reported: set[tuple[str, tuple[str, ...]]] = set()
    for k in guard.conductors:
        branch = case.wiring.branches[k]
        if branch.kind != "run":
            continue
        run = case.plan.run_by_id[branch.owner]
        if run.cranking or run.length_m == 0.0 or _is_link(case, run.id):
            continue
        if isfinite(guard.bound(k).amps):
            yield case.check(rule, run.id, source=case.code.source("first_protection_m"))
            continue
        stretch = guard.stretch(k)
        if (stretch.start, stretch.ends) in reported:
            continue
        reported.add((stretch.start, stretch.ends))
        limit, source = distance_limit(case, stretch)
        endless = not isfinite(stretch.length_m)
        length = sum(case.plan.run_by_id[r].length_m for r in stretch.runs) if endless else stretch.length_m
        check = case.check(rule, run.id, length, limit, "m", source=source)
        if stretch.length_m <= limit + 1e-9:
            yield check
            continue
        ends = " and ".join(case.title(x) for x in stretch.ends) or "nothing"
        start = case.title(split_ref(stretch.start)[0])
        words = (
            f"nothing protects {case.run_title(run)}: {start} feeds {ends} through it" if endless
            else f"{metres(stretch.length_m)} unprotected from {start} to {ends}; {metres(limit)} allowed"
        )  # fmt: skip
        behind = [case.title(x) for x in stretch.ends if _guards_source(case, x)]
        if behind:
            words += f": the bank feeds it in reverse, past {behind[0]}"
        yield check.fails(Verdict.DANGER, words, partial(_protect, case, stretch, limit))


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
    """Branches that a device alone protects and that permit less than its rating, weakest first."""
    found = [
        (capacity, k)
        for k in case.protection.guard.guarded_by.get(device.id, ())
        if device.rating_a > (capacity := allowed_rating(case, k, device)) * 1.0001 and not is_tap(case, k)
    ]
    return sorted(found)


def leaves_hub(case: Case, branch: int, device: Fuse | Breaker) -> bool:
    """Whether a run leaves a bar or stud behind a device, and not the device itself."""
    if case.wiring.branches[branch].kind != "run":
        return False
    return split_ref(case.protection.guard.stretch(branch).start)[0] != device.id


def larger_than_conductor(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices rated above the limiting element in series with them."""
    for device in devices(case):
        guarded = [
            (allowed_rating(case, k, device), k)
            for k in case.protection.guard.guarded_by.get(device.id, ())
            if not is_tap(case, k) and not leaves_hub(case, k, device)
        ]
        if not guarded:
            continue
        capacity, k = min(guarded)
        branch = case.wiring.branches[k]
        source = (
            case.ampacities[branch.owner].source if branch.owner in case.ampacities
            else f"rating of {case.title(branch.owner)}"
        )  # fmt: skip
        check = case.check(rule, device.id, device.rating_a, capacity, "A", source=source)
        yield (
            check
            if device.rating_a <= capacity * 1.0001
            else check.fails(
                Verdict.DANGER,
                f"{device.title} of {device.rating_a:g} A exceeds what {case.title(branch.owner)} permits: {amps(capacity)}",
                partial(_fit, case, device, branch.owner, capacity),
            )
        )


def _fit(case: Case, device: Fuse | Breaker, owner: str, capacity: float) -> Edit | None:
    """A smaller device, or where that cannot carry the current a stronger conductor."""
    return _smaller_device(case, device, capacity) or strengthen(case, owner, device.rating_a)


def branch_without_device(case: Case, rule: Rule) -> Iterator[Check]:
    """Branches that leave a bar thinner than the device before it allows, with none of their own."""
    reported: set[tuple[str, tuple[str, ...]]] = set()
    for device in devices(case):
        for capacity, k in case.once(_overrun, device):
            if not leaves_hub(case, k, device):
                continue
            stretch = case.protection.guard.stretch(k)
            if (stretch.start, stretch.ends) in reported:
                continue
            reported.add((stretch.start, stretch.ends))
            limit, source = distance_limit(case, stretch)
            run = case.wiring.branches[k].owner
            length = sum(case.plan.run_by_id[r].length_m for r in stretch.runs)
            yield case.check(rule, run, length, limit, "m", source=source).fails(
                Verdict.DANGER,
                f"{case.title(run)} has no device at its start: only {device.title} of {device.rating_a:g} A guards it, and it may carry {amps(capacity)}",
                partial(_protect, case, stretch, limit),
            )


def allowed_rating(case: Case, branch: int, device: Fuse | Breaker) -> float:
    """Largest rating that may protect a branch: its capacity, or the next standard size up.

    The next size up only for a run that bears the device's normal current, where no standard
    rating carries that current and stays within the ampacity, and only up to the practice's
    share of it.
    """
    capacity, share = case.capacity(branch), case.code.limit("next_size_up_share")
    if case.wiring.branches[branch].kind != "run" or share <= 1.0:
        return capacity
    family = case.parts.device_families[device.family]
    air = float(case.study.hottest_ambient_c[case.wiring.branch[device.id]])
    needs = case.code.limit("continuous_share") / case.once(_left_at, (family.release, air))
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
    return _rated(device, fits[-1]) if fits else None


def strengthen(case: Case, id_: str, rating_a: float) -> Edit | None:
    """Let what a device protects carry a rating: a thicker run, a part of higher rating."""
    run = case.plan.run_by_id.get(id_)
    if run is not None:
        return thicker(case, run, rating_a)
    return Edit(f"Make {case.title(id_)} {rating_a:g} A", partial(edits.change, id_=id_, rating_a=rating_a))


def several_feeds_too_strong(case: Case, rule: Rule) -> Iterator[Check]:
    """Conductors that several devices together can overload though none of them opens."""
    guard = case.protection.guard
    for k in guard.conductors:
        bound = guard.bound(k)
        if len(bound.feeds) < 2 or not isfinite(bound.amps) or is_tap(case, k):
            continue
        capacity, owner = case.capacity(k), case.wiring.branches[k].owner
        check = case.check(rule, owner, bound.amps, capacity, "A", source="Sum of the ratings that feed it")
        yield (
            check
            if bound.amps <= capacity * 1.0001
            else check.fails(
                Verdict.DEFECT,
                f"{', '.join(case.title(d) for d in bound.feeds)} together let {amps(bound.amps)} through {case.title(owner)}, "
                f"which may carry {amps(capacity)}",
            )
        )


def smaller_than_current(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices that the normal current will open, or that the code wants larger for it."""
    share = case.code.limit("continuous_share")
    for device in devices(case):
        current = normal_current(case, device)
        scenario = case.study.lasting_state(case.wiring.branch[device.id]).scenario
        check = case.check(
            rule, device.id, share * current, device.rating_a, "A",
            scenario=scenario.id, source=case.code.source("continuous_share"),
        )  # fmt: skip
        more = f", which asks {amps(share * current)} of it" if share > 1.0 else ""
        yield (
            check
            if share * current <= device.rating_a
            else check.fails(
                Verdict.DANGER,
                f"{device.title} of {device.rating_a:g} A carries {amps(current)} in “{scenario.title}”{more}",
                partial(_larger_device, case, device, share * current),
            )
        )


def _larger_device(case: Case, device: Fuse | Breaker, least: float) -> Edit | None:
    """The smallest rating that carries a current and that all guarded conductors permit."""
    most = min(
        (allowed_rating(case, k, device) for k in case.protection.guard.guarded_by.get(device.id, ())), default=inf
    )
    fits = [r for r in case.parts.ratings(case.parts.device_families[device.family]) if least <= r <= most]
    return _rated(device, fits[0]) if fits else None


def _rated(device: Fuse | Breaker, rating_a: float) -> Edit:
    return Edit(f"Make {device.title} {rating_a:g} A", partial(edits.change, id_=device.id, rating_a=rating_a))


def rating_unknown(case: Case, rule: Rule) -> Iterator[Check]:
    """Ratings that a family does not come in."""
    for device in devices(case):
        family = case.parts.device_families[device.family]
        ratings = case.parts.ratings(family)
        check = case.check(rule, device.id, device.rating_a, None, "A", source=family.source)
        near = min(ratings, key=lambda r: abs(r - device.rating_a), default=None)
        yield (
            check
            if device.rating_a in ratings
            else check.fails(
                Verdict.ADVICE,
                f"{device.title}: {family.label} of {device.rating_a:g} A is no standard rating ({family.min_a:g} to {family.max_a:g} A)",
                partial(_rated, device, near) if near else None,
            )
        )


def device_voltage(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices and switches on a system of higher voltage than they may interrupt."""
    for x in case.plan.items:
        family = case.parts.device_families[x.family] if isinstance(x, Fuse | Breaker) else None
        rated = family.max_v_dc if family else getattr(x, "max_v", None)
        if rated is None:
            continue
        v = _system_v(case, x.ref("a"))
        check = case.check(rule, x.id, v, rated, "V", source=family.source if family else f"rating of {x.title}")
        yield (
            check
            if v <= rated
            else check.fails(
                Verdict.DANGER, f"{x.title} is rated {rated:g} V and sees {volts(v)}", partial(_of_voltage, case, x, v)
            )
        )


def _of_voltage(case: Case, x: Named, v: float) -> Edit | None:
    """A device of the first family of its kind that withstands a voltage and comes in its rating."""
    if not isinstance(x, Fuse | Breaker):
        return None
    now = case.parts.device_families[x.family]
    for f in case.parts.device_families.values():
        if f.kind == now.kind and f.max_v_dc >= v and x.rating_a in case.parts.ratings(f):
            return Edit(f"Make {x.title} a {f.label}", partial(edits.change, id_=x.id, family=f.id))
    return None


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
        sized = [r for r in chain if r.id in case.ampacities]
        if sized:
            run = min(sized, key=lambda r: case.ampacities[r.id].amps)
            amp = case.ampacities[run.id]
            check = case.check(rule, run.id, e.current_a, amp.amps, "A", source=amp.source)
            if amp.amps < e.current_a:
                yield check.fails(
                    Verdict.DANGER,
                    f"{e.title} can give {amps(e.current_a)}; {case.run_title(run)} may carry {amps(amp.amps)}",
                    partial(thicker, case, run, e.current_a),
                )
                continue
            yield check
        if exempt or not chain:
            continue
        start = chain[0]
        far = split_ref(start.b if start.a == e.ref("plus") else start.a)[0]
        near = isinstance(case.plan.by_id[far], Fuse | Breaker) and start.length_m <= distance
        check = case.check(
            rule, e.id, start.length_m, distance, "m", source=case.code.source("self_limited_source_exempt")
        )
        yield (
            check
            if near or start.sheathed
            else check.fails(
                Verdict.ADVICE,
                f"{e.title} has no device within {metres(distance)} of its own end. If one opens while the source runs, "
                "the source may destroy itself: decide with its maker's instructions",
            )
        )


TOPIC = "Overcurrent protection"
RULES = (
    Rule("no_protection", "Unprotected stretch",
         "If this stretch chafes through, the battery drives thousands of amperes into the fault and nothing opens: fire.", unprotected,
         "{} conductors from a battery have no device near enough", topic=TOPIC),
    Rule("branch_unprotected", "Branch with no device of its own",
         "The large device before the bar lets through far more than this conductor withstands: it burns first.", branch_without_device,
         "{} branches have no device of their own", topic=TOPIC),
    Rule("device_too_large", "Device larger than what it protects",
         "The conductor or part burns before the device notices.", larger_than_conductor,
         "{} devices are larger than what they protect permits", topic=TOPIC),
    Rule("feeds_too_strong", "Several feeds together too strong",
         "Each device sees only its own share, so together they can overload what none of them protects.", several_feeds_too_strong,
         "{} conductors can be overloaded by several feeds together", topic=TOPIC),
    Rule("device_too_small", "Device smaller than its current",
         "It opens in normal use, and somebody will put in a larger one.", smaller_than_current,
         "{} devices are smaller than their normal current asks", topic=TOPIC),
    Rule("device_rating", "Rating that does not exist",
         "What cannot be bought will be replaced by something else on the day.", rating_unknown,
         "{} devices have a rating that does not exist", topic=TOPIC),
    Rule("device_voltage", "Device voltage",
         "A device above its voltage does not put its arc out: it opens and goes on burning.", device_voltage,
         "{} devices stand on a voltage above their own", topic=TOPIC),
    Rule("source_end", "Conductor at a source",
         "A charger or alternator feeds a fault too; its conductor must carry all it can give, or be protected from it.", source_end,
         "{} sources have no device at their end, or too thin a conductor", topic=TOPIC),
)  # fmt: skip
