"""Why a device opened: what could have opened it as designed, and what would cure that."""

from math import inf, isfinite

from jaunty_copper.codes.rules.words import duration
from jaunty_copper.commissioning.trip_causes import CAUSES, OFF_A, Seen, TripExplanation
from jaunty_copper.language import say
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.protection.protection import Protection

SLACK = 2.0
"""Bands are representative: a time that is farther than this outside rules a cause out."""


def explain_trip(
    protection: Protection,
    device: str,
    scenario: str | None = None,
    ambient_c: float | None = None,
    current_a: float | None = None,
    after_s: float | None = None,
) -> tuple[TripExplanation, ...]:
    """What could have opened a device, the likeliest first, then what is ruled out.

    Parameters
    ----------
    protection : Protection
        Of the plan.
    device : str
        Id of a fuse or breaker.
    scenario : str, optional
        What ran; the one in which the device carries most where none is given.
    ambient_c : float, optional
        Air at the device then, C; the scenario's own where none is given.
    current_a : float, optional
        That was seen, A.
    after_s : float, optional
        How long after something changed it opened, s.

    Raises
    ------
    KeyError
        There is no such device or scenario.

    Notes
    -----
    A cause is possible where the fast edge of the band opens by it. A time that was seen rules out what opens more
    than twice as late or as soon; where no time was seen, a current far from a cause's own counts against it. What
    takes no coincidence (heat, overload) is put before what takes one (a fault), where both agree.
    """
    study, d = protection.study, protection.devices[device]
    state = study.state(scenario) if scenario is not None else study.lasting_state(d.branch)
    air = float(study.hottest_ambient_c[d.branch]) if ambient_c is None else ambient_c
    worth = d.item.rating_a * float(ambient_factor(d.family.release, air))
    flows = abs(float(state.point.current_a[d.branch])) if state.solved else 0.0
    seen = Seen(protection, d, air, worth, current_a if current_a is not None else flows)
    found = [e for cause in CAUSES for e in cause(seen) if isfinite(e.shortest_s)]
    weighed = sorted((_weighed(e, current_a, after_s) for e in found), key=lambda e: -e.likelihood)
    if not any(e.likelihood > 0.0 for e in weighed):
        weighed.insert(0, _nothing(seen, any(e.ruled_out for e in weighed)))
    return tuple(weighed)


def _weighed(e: TripExplanation, current_a: float | None, after_s: float | None) -> TripExplanation:
    """Held against what was seen."""
    if after_s is not None:
        least = e.shortest_s if e.soonest_s is None else e.soonest_s
        if SLACK * after_s < least:
            words = say("it lasts {least} at least, and {seen} passed", least=duration(least), seen=duration(after_s))
            return e._replace(likelihood=0.0, ruled_out=words)
        if after_s > SLACK * e.longest_s:
            words = say(
                "it takes {most} at most, and {seen} passed", most=duration(e.longest_s), seen=duration(after_s)
            )
            return e._replace(likelihood=0.0, ruled_out=words)
        return e if least <= after_s <= e.longest_s else e._replace(likelihood=0.8 * e.likelihood)
    if current_a and isfinite(e.current_a) and e.cause in ("fault", "neighbour", "start", "again"):
        off = max(e.current_a / current_a, current_a / e.current_a)
        return e if off <= OFF_A else e._replace(likelihood=0.4 * e.likelihood)
    return e


def _nothing(seen: Seen, ruled_out: bool) -> TripExplanation:
    if ruled_out:
        return TripExplanation(
            "none", seen.flows_a, inf, inf, 0.0,
            say(
                "nothing that this plan knows fits what was seen: {current:.3g} A through a device that is worth {worth:.3g} A. It is "
                "another device than planned, or the current or the time was another", current=seen.flows_a, worth=seen.worth_a,
            ),
            say("Read family and rating off the device; then its current once more, with a clamp"),
            say("The device that the plan has, or a plan of what is there"),
        )  # fmt: skip
    return TripExplanation(
        "none", seen.flows_a, inf, inf, 0.0,
        say(
            "nothing in this plan opens it: {current:.3g} A flow, it is worth {worth:.3g} A. The copper is not as "
            "planned, or the device is not", current=seen.flows_a, worth=seen.worth_a,
        ),
        say("Measure: current, joints, and the device's own drop"),
        say("What the readings blame"),
    )  # fmt: skip
