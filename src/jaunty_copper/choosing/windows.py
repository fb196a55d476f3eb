"""Ratings that a place permits: what its load needs, and what the weakest thing behind it, or its seat, allows."""

from math import inf
from typing import NamedTuple

from jaunty_copper.codes.carried import normal
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.permitted import allowed_rating, answers_for
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.language import say
from jaunty_copper.plan.model import Breaker, Fuse
from jaunty_copper.plan.topology import chain, distributor_of


class RatingBound(NamedTuple):
    """One end of a window of ratings.

    Attributes
    ----------
    amps : float
        The rating that it means.
    why : str
        What sets it.
    place : str or None
        Id of that thing, where it can be made stronger.
    """

    amps: float
    why: str
    place: str | None = None


class RatingWindow(NamedTuple):
    """Ratings that a place permits: what the load needs, and what the weakest thing behind it allows."""

    low: RatingBound
    high: RatingBound


def window(case: Case, device: Fuse | Breaker) -> RatingWindow:
    """Ratings that a place permits at 25 °C, with what sets both ends.

    Parameters
    ----------
    case : Case
        The studied plan under its code.
    device : Fuse or Breaker
        A device of the plan.
    """
    share = case.code.limit("continuous_share")
    carries = case.once(normal, device.id)
    times = say(", times {share:g}", share=share) if share > 1.0 else ""
    low = RatingBound(
        share * carries.amps,
        say("carries {amps} {carries}{times}", amps=amps(carries.amps), carries=carries.words, times=times),
    )
    high = RatingBound(inf, say("nothing behind it limits it"))
    for branch in (*case.protection.guard.guarded_by.get(device.id, ()), *_own_way(case, device)):
        if not answers_for(case, device, branch):
            continue
        allowed = allowed_rating(case, branch, device)
        if allowed < high.amps:
            owner = case.wiring.branches[branch].owner
            high = RatingBound(
                allowed,
                say(
                    "{owner}: {kind} {amps}",
                    owner=case.title(owner),
                    kind=say("ampacity") if owner in case.plan.run_by_id else say("rating"),
                    amps=amps(case.capacity(branch)),
                ),
                owner,
            )
    return RatingWindow(low, min(high, seat_of(case, device), key=lambda bound: bound.amps))


def seat_of(case: Case, device: Fuse | Breaker) -> RatingBound:
    """What a fuse's holder, or its position on a distributor, lets it be."""
    found = [RatingBound(inf, "")]
    if isinstance(device, Fuse) and device.holder_a is not None:
        found.append(RatingBound(device.holder_a, say("its holder carries {amps}", amps=amps(device.holder_a))))
    bar = distributor_of(case.plan, device.id)
    if bar is not None and bar.position_a is not None:
        why = say("{bar}: each position carries {amps}", bar=bar.title, amps=amps(bar.position_a))
        found.append(RatingBound(bar.position_a, why))
    return min(found, key=lambda bound: bound.amps)


def _own_way(case: Case, device: Fuse | Breaker) -> tuple[int, ...]:
    """Conductors in one line with a device: it is there for them, whatever stands before it."""
    runs = [*chain(case.plan, device.ref("a")), *chain(case.plan, device.ref("b"))]
    live = [k for r in runs if case.protection.guard.is_live(k := case.wiring.branch[r.id])]
    return tuple(k for k in live if not case.protection.guard.is_open(k))
