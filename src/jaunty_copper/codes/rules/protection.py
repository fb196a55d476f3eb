"""Overcurrent devices against what they guard, what they carry and the voltage they stand on."""

from collections.abc import Iterator
from functools import partial
from math import inf, isfinite

from jaunty_copper.codes.carried import normal, normal_current
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED, Check, Rule, Verdict
from jaunty_copper.codes.permitted import (
    allowed_rating,
    devices,
    is_tap,
    leaves_hub,
    overrun,
    voltage_at,
)
from jaunty_copper.codes.rules.conductors import thicker
from jaunty_copper.codes.rules.ratings import rated
from jaunty_copper.codes.rules.words import amps, volts
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Breaker, Fuse, Inline, Named, Source
from jaunty_copper.protection.guard import Bound


def larger_than_conductor(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices rated above the limiting element in series with them."""
    for device in devices(case):
        bare = _bare(case, device)
        guarded = [
            (allowed, k)
            for k in case.protection.guard.guarded_by.get(device.id, ())
            if not is_tap(case, k) and not leaves_hub(case, k)
            if (allowed := allowed_rating(case, k, device)) < _mended_with(case, k, bare)
        ]
        if not guarded:
            continue
        capacity, k = min(guarded)
        branch = case.wiring.branches[k]
        source = (
            case.ampacities[branch.owner].source if branch.owner in case.ampacities
            else say('rating of {owner}', owner=case.title(branch.owner))
        )  # fmt: skip
        check = case.check(rule, device.id, device.rating_a, capacity, "A", source=source)
        yield (
            check
            if device.rating_a <= capacity * 1.0001
            else check.fails(
                Verdict.DANGER,
                say(
                    "{device} of {rating_a:g} A exceeds what {owner} permits: {capacity}",
                    device=device.title,
                    rating_a=device.rating_a,
                    owner=case.title(branch.owner),
                    capacity=amps(capacity),
                ),
                partial(_fit, case, device, branch.owner, capacity),
            )
        )


def _bare(case: Case, device: Fuse | Breaker) -> dict[str, float]:
    """What the branches with no device of their own before equipment permit, A, by its id; the least of each."""
    found: dict[str, float] = {}
    for capacity, k in case.once(overrun, device):
        if leaves_hub(case, k):
            for id_ in case.protection.guard.stretch(k).ends:
                found[id_] = min(found.get(id_, inf), capacity)
    return found


def _mended_with(case: Case, branch: int, bare: dict[str, float]) -> float:
    """From what a return permits on it is mended with the bare branch to the same equipment, A; inf where there is none."""
    guard = case.protection.guard
    if guard.is_live(branch) or case.wiring.branches[branch].kind != "run":
        return inf
    ends = guard.stretch(branch).ends
    return max(bare[id_] for id_ in ends) if ends and all(id_ in bare for id_ in ends) else inf


def _fit(case: Case, device: Fuse | Breaker, owner: str, capacity: float) -> Edit | None:
    """A smaller device, or where that cannot carry the current a stronger conductor."""
    return _smaller_device(case, device, capacity) or strengthen(case, owner, device.rating_a)


def _smaller_device(case: Case, device: Fuse | Breaker, capacity: float) -> Edit | None:
    family = case.parts.device_families[device.family]
    fits = [r for r in case.parts.ratings(family) if normal_current(case, device) <= r <= capacity]
    return _rated(device, fits[-1]) if fits else None


def strengthen(case: Case, id_: str, rating_a: float) -> Edit | None:
    """Let what a device protects carry a rating: a thicker run, a part of higher rating.

    Parameters
    ----------
    id_ : str
        Of a run or a part with a rating.
    rating_a : float
        Rating of the device that protects it, A.
    """
    run = case.plan.run_by_id.get(id_)
    if run is not None:
        return thicker(case, run, rating_a)
    return rated(case, id_, next((r for r in case.parts.device_ratings_a if r >= rating_a), rating_a))


def several_feeds_too_strong(case: Case, rule: Rule) -> Iterator[Check]:
    """Conductors that what feeds them together can overload though no device opens; of each part its worst place."""
    worst: dict[str, tuple[float, float, Bound]] = {}
    guard = case.protection.guard
    for k in (*guard.conductors, *guard.returns):
        bound, owner = guard.bound(k), case.wiring.branches[k].owner
        alone = bound.guard in case.protection.devices
        if not isfinite(bound.amps) or not bound.feeds or (alone and bound.amps == bound.battery_a) or is_tap(case, k):
            continue
        capacity = case.capacity(k)
        device = case.protection.devices[bound.guard].item if bound.guard is not None and alone else None
        if device is not None:
            # A device too large for its own conductor is a finding of its own, and so is what the next standard size leaves it.
            if device.rating_a > allowed_rating(case, k, device) * 1.0001:
                continue
            capacity = max(capacity, bound.battery_a)
        elif len(bound.feeds) == 1 and isinstance(case.plan.by_id[bound.feeds[0]], Source):
            # A source at the end of its own cable is a finding of its own.
            continue
        over = bound.amps / max(capacity, 1e-9)
        if isfinite(capacity) and (owner not in worst or over > worst[owner][0]):
            worst[owner] = over, capacity, bound
    for owner, (_, capacity, bound) in worst.items():
        check = case.check(rule, owner, bound.amps, capacity, "A", source=say("Sum of what feeds it"))
        together = say("together let") if len(bound.feeds) > 1 else say("lets")
        by_battery = bound.battery_a > capacity * 1.0001 or bound.battery_a == 0.0
        yield (
            check
            if bound.amps <= capacity * 1.0001
            else check.fails(
                Verdict.DANGER if by_battery else Verdict.DEFECT,
                say(
                    "{feeds} {together} {amps} through {owner}, which may carry {capacity}",
                    feeds=", ".join(case.title(d) for d in bound.feeds),
                    together=together,
                    amps=amps(bound.amps),
                    owner=case.title(owner),
                    capacity=amps(capacity),
                ),
                partial(strengthen, case, owner, bound.amps),
            )
        )


def smaller_than_current(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices that the normal current will open, or that the code wants larger for it."""
    share = case.code.limit("continuous_share")
    for device in devices(case):
        carries = case.once(normal, device.id)
        current, scenario = carries.amps, carries.state.scenario
        check = case.check(
            rule, device.id, share * current, device.rating_a, "A",
            scenario=scenario.id, source=case.code.source("continuous_share"),
        )  # fmt: skip
        more = say(", which asks {share} of it", share=amps(share * current)) if share > 1.0 else ""
        yield (
            check
            if share * current <= device.rating_a * ROUNDED
            else check.fails(
                Verdict.DANGER,
                say(
                    "{device} of {rating_a:g} A carries {current} {carries}{more}",
                    device=device.title,
                    rating_a=device.rating_a,
                    current=amps(current),
                    carries=carries.words,
                    more=more,
                ),
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
    return Edit(
        say("Make {device} {rating_a:g} A", device=device.title, rating_a=rating_a),
        partial(edits.change, id_=device.id, rating_a=rating_a),
    )


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
                say(
                    "{device}: {family} of {rating_a:g} A is no standard rating ({min_a:g} to {max_a:g} A)",
                    device=device.title,
                    family=family.label,
                    rating_a=device.rating_a,
                    min_a=family.min_a,
                    max_a=family.max_a,
                ),
                partial(_rated, device, near) if near else None,
            )
        )


def device_voltage(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices and switches on a system of higher voltage than they may interrupt."""
    for x in case.plan.items:
        family = case.parts.device_families[x.family] if isinstance(x, Fuse | Breaker) else None
        rated = family.max_v_dc if family else getattr(x, "max_v", None)
        if rated is None or not isinstance(x, Inline):
            continue
        v = max(voltage_at(case, x.ref("a")), case.operating_v(x))
        check = case.check(
            rule, x.id, v, rated, "V", source=family.source if family else say("rating of {x}", x=x.title)
        )
        yield (
            check
            if v <= rated
            else check.fails(
                Verdict.DANGER,
                say("{x} is rated {rated:g} V and sees {v}", x=x.title, rated=rated, v=volts(v)),
                partial(_of_voltage, case, x, v),
            )
        )


def _of_voltage(case: Case, x: Named, v: float) -> Edit | None:
    """A device of the first family of its kind that withstands a voltage and comes in its rating."""
    if not isinstance(x, Fuse | Breaker):
        return None
    now = case.parts.device_families[x.family]
    for f in case.families:
        if f.kind == now.kind and f.max_v_dc >= v and x.rating_a in case.parts.ratings(f):
            return Edit(say("Make {x} a {f}", x=x.title, f=f.label), partial(edits.change, id_=x.id, family=f.id))
    return None


def not_listed(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices that the code does not take as protection of a circuit."""
    for device in devices(case):
        family = case.parts.device_families[device.family]
        check = case.check(rule, device.id, source=case.code.unlisted_source or family.source)
        yield (
            check
            if family.id not in case.code.unlisted
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{device} is a {family}, which is not listed as protection of a circuit",
                    device=device.title,
                    family=family.label,
                ),
                partial(_listed, case, device),
            )
        )


def _listed(case: Case, device: Fuse | Breaker) -> Edit | None:
    """A device of the same kind and rating, or the next above, of the first family that the code takes."""
    kind = case.parts.device_families[device.family].kind
    for family in case.families:
        rating = next((r for r in case.parts.ratings(family) if r >= device.rating_a), None)
        if family.kind == kind and family.max_v_dc >= voltage_at(case, device.ref("a")) and rating is not None:
            return Edit(
                say(
                    "Make {device} a {family} of {rating:g} A", device=device.title, family=family.label, rating=rating
                ),
                partial(edits.change, id_=device.id, family=family.id, rating_a=rating),
            )
    return None


TOPIC = say("Overcurrent protection")
RULES = (
    Rule("device_too_large", say("Device larger than what it protects"),
         say("The conductor or part burns before the device notices."), larger_than_conductor,
         say("{} devices are larger than what they protect permits"), topic=TOPIC),
    Rule("feeds_too_strong", say("Feeds together too strong"),
         say("Each device and source gives only its own share, so together they can overload what none of them protects."), several_feeds_too_strong,
         say("{} conductors can be overloaded by several feeds together"), topic=TOPIC),
    Rule("device_too_small", say("Device smaller than its current"),
         say("It opens in normal use, and somebody will put in a larger one."), smaller_than_current,
         say("{} devices are smaller than their normal current asks"), topic=TOPIC),
    Rule("not_listed", say("Device not listed for the use"),
         say("What is made to protect one appliance, or a car's circuits, was never tested for what a branch or a bank drives through it."), not_listed,
         say("{} devices are not listed as protection of a circuit"), topic=TOPIC),
    Rule("device_rating", say("Rating that does not exist"),
         say("What cannot be bought will be replaced by something else on the day."), rating_unknown,
         say("{} devices have a rating that does not exist"), topic=TOPIC),
    Rule("device_voltage", say("Device voltage"),
         say("A device above its voltage does not put its arc out: it opens and goes on burning."), device_voltage,
         say("{} devices stand on a voltage above their own"), topic=TOPIC),
)  # fmt: skip
