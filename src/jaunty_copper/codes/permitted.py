"""What rating a conductor permits, and how far from its start a device may stand."""

from collections.abc import Iterator, Mapping
from math import inf
from typing import NamedTuple

from jaunty_copper.codes.carried import normal
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED
from jaunty_copper.language import say
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.plan.model import (
    Battery,
    Breaker,
    Fuse,
    Run,
    split_ref,
)
from jaunty_copper.protection.guard import Stretch


def devices(case: Case) -> Iterator[Fuse | Breaker]:
    """Protective devices of a plan."""
    return (x for x in case.plan.items if isinstance(x, Fuse | Breaker))


COVERED: Mapping[str, str] = {
    "sheathed": say("where it is sheathed"),
    "raceway": say("where it is in a raceway"),
    "short_proof": say("where it is laid short-proof, nothing that burns near"),
}
"""What lets a conductor be longer before its device, by the code's word for it."""


def covered(case: Case, run: Run) -> bool:
    """Whether a run is laid in the way that lets it be longer before its device, by the code in force."""
    match case.code.covering:
        case "raceway":
            return case.in_conduit(run)
        case "short_proof":
            return run.short_proof
        case _:
            return run.sheathed


class Distance(NamedTuple):
    """How long a stretch may be without protection.

    Attributes
    ----------
    limit_m : float
        As it is laid, m.
    source : str
        Where that comes from.
    covered_m : float
        Laid in the way that lets it be longer, m.
    """

    limit_m: float
    source: str
    covered_m: float


def distance_limit(case: Case, stretch: Stretch) -> Distance:
    """How long an unprotected stretch may be, as it is laid: a covered one longer, by most codes, one at a battery otherwise."""
    runs = [case.plan.run_by_id[r] for r in stretch.runs]
    at_battery = isinstance(case.plan.by_id[split_ref(stretch.start)[0]], Battery)
    open_, longer = (
        ("first_protection_battery_m", "first_protection_battery_sheathed_m") if at_battery
        else ("first_protection_m", "first_protection_sheathed_m")
    )  # fmt: skip
    name = longer if runs and all(covered(case, r) for r in runs if r.length_m > 0.0) else open_
    return Distance(case.code.limit(name), case.code.source(name), case.code.limit(longer))


def is_tap(case: Case, branch: int) -> bool:
    """Whether a run is short enough, on its way to a device of its own, to do without.

    Some codes ask besides that it carries its share of the device before it.

    Parameters
    ----------
    branch : int
        Number of the branch.
    """
    return case.once(_is_tap, branch)


def _is_tap(case: Case, branch: int) -> bool:
    guard = case.protection.guard
    if case.wiring.branches[branch].kind != "run" or not guard.is_live(branch):
        return False
    stretch = guard.stretch(branch)
    before = max((case.protection.devices[d].item.rating_a for d in guard.bound(branch).guards), default=0.0)
    enough = case.capacity(branch) >= case.code.limit("tap_share") * before
    return enough and stretch.length_m <= distance_limit(case, stretch).limit_m + 1e-9


def voltage_at(case: Case, ref: str) -> float:
    """Most voltage that a device at a terminal may have to interrupt, V."""
    return float(case.study.across_v[case.wiring.node[ref]])


def overrun(case: Case, device: Fuse | Breaker) -> list[tuple[float, int]]:
    """Branches that a device alone protects and that permit less than its rating, weakest first."""
    found = [
        (capacity, k)
        for k in case.protection.guard.guarded_by.get(device.id, ())
        if device.rating_a > (capacity := allowed_rating(case, k, device)) * 1.0001 and not is_tap(case, k)
    ]
    return sorted(found)


def leaves_hub(case: Case, branch: int) -> bool:
    """Whether a run leaves a bar or stud, and not a device.

    Parameters
    ----------
    branch : int
        Number of the branch.
    """
    guard = case.protection.guard
    if case.wiring.branches[branch].kind != "run" or not guard.is_live(branch):
        return False
    return not isinstance(case.plan.by_id[split_ref(guard.stretch(branch).start)[0]], Fuse | Breaker)


def answers_for(case: Case, device: Fuse | Breaker, branch: int) -> bool:
    """Whether a device is there for a branch that it guards.

    Not for one that is short enough to do without; nor for one that leaves a bar and permits less, which wants a device
    of its own.

    Parameters
    ----------
    branch : int
        Number of the branch.
    """
    if is_tap(case, branch):
        return False
    return not leaves_hub(case, branch) or device.rating_a <= allowed_rating(case, branch, device) * ROUNDED


def allowed_rating(case: Case, branch: int, device: Fuse | Breaker, as_if: tuple[Run, float] | None = None) -> float:
    """Largest rating that may protect a branch: its capacity, more where it carries a share, or the next standard size up.

    The next size up only for a run that carries the device's normal current, where no standard
    rating carries that current and stays within the ampacity, and only up to the code's
    share of it.

    Parameters
    ----------
    branch : int
        Number of the branch.
    as_if : tuple of Run and float, optional
        The conductor as it might be, with its ampacity then, A.
    """
    if as_if is None:
        return case.once(_as_it_is, (branch, device.id, device.family))
    return _allowed(case, branch, device.id, device.family, *as_if)


def _as_it_is(case: Case, key: tuple[int, str, str]) -> float:
    branch, device, family = key
    run = case.plan.run_by_id.get(case.wiring.branches[branch].owner)
    return _allowed(case, branch, device, family, run, case.capacity(branch))


def _allowed(case: Case, branch: int, device: str, family_id: str, run: Run | None, own: float) -> float:
    bound = case.protection.guard.bound(branch)
    # Of what its device lets pass, a conductor beside others carries its share only.
    known = case.protection.devices.get(device)
    passes = bound.battery_a or bound.amps
    shares = known is not None and bound.guard == device and 0.0 < passes < known.item.rating_a
    capacity = own * (known.item.rating_a / passes if known is not None and shares else 1.0)
    share = case.code.limit("next_size_up_share")
    if run is None:
        return capacity
    small = case.code.largest_device(case.parts.conductors[run.conductor].area_mm2) * run.parallel
    capacity = min(capacity, small)
    if share <= 1.0 or small < inf:
        return capacity
    family = case.parts.device_families[family_id]
    air = float(case.study.hottest_ambient_c[case.wiring.branch[device]])
    needs = case.code.limit("continuous_share") / case.once(_left_at, (family.release, air))
    carries = needs * case.once(normal, device).amps
    if carries > capacity:
        return capacity
    ratings = case.parts.ratings(family)
    if any(carries <= r <= capacity for r in ratings):
        return capacity
    return next((r for r in ratings if capacity < r <= share * capacity), capacity)


def _left_at(_: Case, release_and_air: tuple[str, float]) -> float:
    """What an ambient leaves of a rating."""
    return float(ambient_factor(*release_and_air))
