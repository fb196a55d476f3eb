"""Why a device opened: what could have opened it as designed, and what would cure that."""

from math import inf, isfinite
from typing import Literal, NamedTuple

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.permitted import normal
from jaunty_copper.language import say
from jaunty_copper.network.study import State
from jaunty_copper.physics.curves import ambient_factor, data_end_c
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.starts import starts_of

Cause = Literal["heat", "overload", "start", "fault", "neighbour", "none"]
NEAR = 0.85
"""From this share of what opens it on, a slightly larger load or a warmer day will."""


class TripExplanation(NamedTuple):
    """One cause that could have opened a device.

    Attributes
    ----------
    cause : str
        heat, overload, start, fault, neighbour, or none.
    current_a : float
        That it takes; nan where it is not one current.
    shortest_s, longest_s : float
        Between which times it then opens.
    likelihood : float
        0 to 1: how well what was seen agrees with it.
    words, cure : str
        For a person.
    """

    cause: Cause
    current_a: float
    shortest_s: float
    longest_s: float
    likelihood: float
    words: str
    cure: str


def explain_trip(
    protection: Protection,
    device: str,
    scenario: str | None = None,
    ambient_c: float | None = None,
    current_a: float | None = None,
    after_s: float | None = None,
) -> tuple[TripExplanation, ...]:
    """What could have opened a device, the likeliest first.

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
    A cause is possible where the fast edge of the band opens by it, and agrees with the time seen where that
    lies within the band; then it counts full, else a quarter. What takes no coincidence (heat, overload) is
    put before what takes one (a fault), where both agree.
    """
    study, d = protection.study, protection.devices[device]
    state = study.state(scenario) if scenario is not None else study.lasting_state(d.branch)
    air = float(study.hottest_ambient_c[d.branch]) if ambient_c is None else ambient_c
    worth = d.item.rating_a * float(ambient_factor(d.family.release, air))
    flows = abs(float(state.point.current_a[d.branch])) if state.solved else 0.0
    lasting = current_a if current_a is not None else flows
    found = [
        e
        for e in (
            *_lasting(d, lasting, worth, air),
            *_starts(protection, d, worth),
            *_faults(protection, d),
            *_neighbours(protection, d),
        )
        if isfinite(e.shortest_s)
    ]
    weighed = [e._replace(likelihood=e.likelihood * _agrees(e, after_s)) for e in found]
    if not weighed:
        weighed = [_nothing(lasting, worth)]
    return tuple(sorted(weighed, key=lambda e: -e.likelihood))


def _agrees(e: TripExplanation, after_s: float | None) -> float:
    return 1.0 if after_s is None or e.shortest_s <= after_s <= e.longest_s else 0.25


def _times(d: Device, current: float, worth: float) -> tuple[float, float]:
    m = np.array(current / worth)
    return float(d.band.shortest(m)), float(d.band.longest(m))


def _lasting(d: Device, current: float, worth: float, air: float) -> tuple[TripExplanation, ...]:
    """By what flows for long, at the air it stands in; by heat where it would hold at 25 C."""
    fast, slow = _times(d, current, worth)
    if isfinite(fast):
        cool = float(d.band.shortest(np.array(current / d.item.rating_a)))
        if isfinite(cool) and current > d.item.rating_a:
            words = say("{current:.3g} A are more than its {rating_a:g} A", current=current, rating_a=d.item.rating_a)
            return (
                TripExplanation(
                    "overload",
                    current,
                    fast,
                    slow,
                    0.9,
                    words,
                    say("Less load, or a thicker conductor and a larger device together"),
                ),
            )
        words = say(
            "at {air:.0f} °C its {rating_a:g} A are worth {worth:.3g} A, and {current:.3g} A flow",
            air=air,
            rating_a=d.item.rating_a,
            worth=worth,
            current=current,
        )
        if air > data_end_c(d.family.release):
            words += say(" (beyond {end:g} °C by its heat balance)", end=data_end_c(d.family.release))
        return (
            TripExplanation(
                "heat", current, fast, slow, 0.9, words, say("A cooler place, or a release that heat does not move")
            ),
        )
    if current > NEAR * worth:
        words = say(
            "{current:.3g} A are {current_2:.0f} % of what it is worth at {air:.0f} °C: a warmer day or a loose lug "
            "on its own stud does it",
            current=current,
            current_2=100 * current / worth,
            air=air,
        )
        return (
            TripExplanation(
                "heat", current, 3600.0, inf, 0.4, words, say("Check the torque of its studs first; then as above")
            ),
        )
    return ()


def _starts(protection: Protection, d: Device, worth: float) -> tuple[TripExplanation, ...]:
    found = []
    for start in starts_of(protection, d.item.id):
        fast, slow = _times(d, start.current_a, worth)
        if fast <= 3.0 * start.lasts_s:
            sure = 0.8 if fast <= start.lasts_s else 0.3
            words = say(
                "the start in “{scenario}” draws {current_a:.3g} A for {lasts_s:g} s; it may open after {fast:.2g} s",
                scenario=start.state.scenario.title,
                current_a=start.current_a,
                lasts_s=start.lasts_s,
                fast=fast,
            )
            cure = say("The next rating its conductor allows, or a slower family")
            found.append(TripExplanation("start", start.current_a, fast, slow, sure, words, cure))
    return tuple(found)


def _faults(protection: Protection, d: Device) -> tuple[TripExplanation, ...]:
    """By a short behind it: from the least at its far end to the greatest."""
    f, row = protection.faults, protection.faults.row[d.item.id]
    behind = f.behind[row]
    if not behind.any():
        return ()
    least = float(f.least_through(row)[behind].min())
    most = f.greatest_through(d.item.id)[0]
    fast, slow = float(d.shortest(np.array(most))), float(d.longest(np.array(least)))
    words = say("a short behind it drives {least:.0f} to {most:.0f} A", least=least, most=most)
    return (
        TripExplanation(
            "fault", most, fast, slow, 0.5, words, say("Find the short before you close or replace anything")
        ),
    )


def _neighbours(protection: Protection, d: Device) -> tuple[TripExplanation, ...]:
    """By a short behind another device, which should have opened first."""
    found = []
    for p in protection.pairs:
        if p.upstream != d.item.id or p.same or p.verdict == "total":
            continue
        fast = float(d.shortest(np.array(p.most_a * p.share)))
        title = protection.study.plan.by_id[p.downstream].title
        words = say("a short behind {title} may open this one first: the two are not selective", title=title)
        found.append(
            TripExplanation(
                "neighbour",
                p.most_a,
                fast,
                inf,
                0.35,
                words,
                say("Look behind {title}; then make the two selective", title=title),
            )
        )
    return tuple(found)


def _nothing(current: float, worth: float) -> TripExplanation:
    words = say(
        "nothing in this plan opens it: {current:.3g} A flow, it is worth {worth:.3g} A. The copper is not as "
        "planned, or the device is not",
        current=current,
        worth=worth,
    )
    return TripExplanation(
        "none", current, inf, inf, 0.0, words, say("Measure: current, joints, and the device's own drop")
    )


class Nearness(NamedTuple):
    """How near a device comes to opening while nothing is wrong.

    Attributes
    ----------
    carries_a, state : float, State
        Most that it carries for good, A, and where.
    worth_a : float
        What its rating is worth in the hottest air around it, A.
    """

    device: Device
    carries_a: float
    state: State
    worth_a: float

    @property
    def share(self) -> float:
        """Of what it is worth, what it carries."""
        return self.carries_a / self.worth_a


def nearest_first(case: Case) -> list[Nearness]:
    """All devices of a plan, those first that carry most of what they are worth.

    Parameters
    ----------
    case : Case
        The studied plan under its code.
    """
    found = []
    for id_, device in case.protection.devices.items():
        most = case.once(normal, id_)
        found.append(Nearness(device, most.amps, most.state, device.fast_a))
    return sorted(found, key=lambda n: -n.share)
