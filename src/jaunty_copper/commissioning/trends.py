"""What became of things since: a joint's resistance from day to day, capacity and charge."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from jaunty_copper.commissioning.diagnose import NOTHING, Diagnosis, diagnose
from jaunty_copper.commissioning.estimates import changed, estimates
from jaunty_copper.commissioning.model import Bench, NothingToMeasure, bench, known
from jaunty_copper.commissioning.points import Point, to_measure_in
from jaunty_copper.commissioning.turned import righted
from jaunty_copper.network.study import Study
from jaunty_copper.plan.model import Entry, Plan, Reading

LEADING = 0.3
"""Share of what the first suspect explains below which another is not worth a word."""


class TrendPoint(NamedTuple):
    """A place on one day.

    Attributes
    ----------
    on : str
        The day.
    ohm, sigma_ohm : float
        Resistance by that day's readings, with one standard deviation.
    planned_ohm : float
        As planned.
    """

    on: str
    ohm: float
    sigma_ohm: float
    planned_ohm: float


def days_of(plan: Plan) -> tuple[Entry, ...]:
    """Days on which readings were taken, the earliest first."""
    return tuple(sorted((e for e in plan.log if e.kind == "measured" and e.readings), key=lambda e: e.on))


def scenarios_read(readings: Sequence[Reading]) -> list[str]:
    """Ids of scenarios that readings were taken in, the one with most first."""
    ids = [r.scenario for r in readings]
    return sorted(set(ids), key=lambda s: -ids.count(s))


def bench_for(plan: Plan, scenario: str, readings: Sequence[Reading]) -> Bench | None:
    """The bench of a scenario with every point that was read; None where it cannot be measured in."""
    asked = next((s for s in to_measure_in(plan) if s.id == scenario), None)
    if asked is None:
        return None
    try:
        made = bench(plan, asked)
    except NothingToMeasure:
        return None
    return made.with_points(p for p in points_read(readings, scenario) if known(made.wiring, p))


def points_read(readings: Sequence[Reading], scenario: str) -> dict[Point, float]:
    """What was read in a scenario, by its point."""
    return {Point(r.quantity, r.a, r.b): r.value for r in readings if r.scenario == scenario}


def trend(plan: Plan, owner: str) -> tuple[TrendPoint, ...]:
    """Resistance of a conductor, device or unit over all days on which readings were taken.

    Each day's readings stand for themselves: whatever that day's diagnosis blames is estimated freely, all
    else with the plan as prior.
    """
    found, benches = [], dict[tuple[str, frozenset[Point]], Bench | None]()
    for entry in days_of(plan):
        scenario = scenarios_read(entry.readings)[0]
        key = scenario, frozenset(points_read(entry.readings, scenario))
        if key not in benches:
            benches[key] = bench_for(plan, scenario, entry.readings)
        b = benches[key]
        if b is None or owner not in {p.owner for p in b.places}:
            continue
        values, _ = righted(b, b.readings(points_read(entry.readings, scenario)))
        if not np.isfinite(values).any():
            continue
        own = [e for e in estimates(b, values, diagnose(b, values).blamed) if e.place.owner == owner]
        found.append(
            TrendPoint(
                entry.on, sum(e.ohm for e in own), float(np.sqrt(sum(e.sigma_ohm**2 for e in own))),
                sum(e.planned_ohm for e in own),
            )
        )  # fmt: skip
    return tuple(found)


def compare(plan: Plan, before: Sequence[Reading], after: Sequence[Reading]) -> tuple[Bench | None, Diagnosis]:
    """What differs between two sets of readings, in the scenario that both have most of."""
    shared = [s for s in scenarios_read(after) if s in scenarios_read(before)]
    if not shared:
        return None, NOTHING
    b = bench_for(plan, shared[0], [*before, *after])
    if b is None:
        return None, NOTHING
    days = [righted(b, b.readings(points_read(day, shared[0])))[0] for day in (before, after)]
    return b, changed(b, *days)


class SideBySide(NamedTuple):
    """One point on two days.

    Attributes
    ----------
    before, after : float
        What was read.
    tolerance : float
        Two standard deviations of what loads, charge and meters make differ anyway.
    """

    point: Point
    before: float
    after: float
    tolerance: float

    @property
    def times(self) -> float:
        """By how many tolerances the two differ."""
        return abs(self.after - self.before) / max(self.tolerance, 1e-12)


def side_by_side(b: Bench, before: Sequence[Reading], after: Sequence[Reading]) -> tuple[SideBySide, ...]:
    """What was read on both of two days in a bench's scenario, what differs most first.

    Parameters
    ----------
    b : Bench
        As `compare` makes it.
    before, after : sequence of Reading
        Of both days.
    """
    one, other = (righted(b, b.readings(points_read(day, b.scenario.id)))[0] for day in (before, after))
    spread = 2.0 * np.sqrt(2.0 * np.diagonal(b.passing()))
    both = np.flatnonzero(np.isfinite(one) & np.isfinite(other))
    found = [SideBySide(b.points[k], float(one[k]), float(other[k]), float(spread[k])) for k in both]
    return tuple(sorted(found, key=lambda s: -s.times))


class Cost(NamedTuple):
    """What a resistance that changed costs where it carries most for long; negative where it gained.

    Attributes
    ----------
    owner : str
        Whose it is.
    amps, volts, watts : float
        What flows there, and what more is lost.
    scenario : str
        In which, as people call it.
    """

    owner: str
    amps: float
    volts: float
    watts: float
    scenario: str


def costs(study: Study, difference: Diagnosis) -> tuple[Cost, ...]:
    """What each change that a comparison names costs in volts and watts.

    Parameters
    ----------
    study : Study
        Of the plan.
    difference : Diagnosis
        From `compare`.
    """
    found = []
    for s in difference.suspects:
        k = study.wiring.branch.get(s.owner)
        if k is None or s.kind != "resistance" or s.score <= LEADING * difference.suspects[0].score:
            continue
        state = study.lasting_state(k)
        if state.solved:
            amps = abs(float(state.point.current_a[k]))
            found.append(Cost(s.owner, amps, amps * s.more_ohm, amps**2 * s.more_ohm, state.scenario.title))
    return tuple(found)


class RecoveredJoint(NamedTuple):
    """Charge that came back in one run of a source.

    Attributes
    ----------
    on : str
        The day.
    ah, hours : float
        Ampere-hours, and how long it took; nan where that was not noted.
    per_hour : float
        Ah an hour.
    """

    on: str
    ah: float
    hours: float
    per_hour: float


def recovered(plan: Plan) -> tuple[RecoveredJoint, ...]:
    """Charge recovered, run by run, the earliest first."""
    runs = sorted((e for e in plan.log if e.kind == "charge" and e.value is not None), key=lambda e: e.on)
    return tuple(
        RecoveredJoint(e.on, e.value or 0.0, e.hours or np.nan, (e.value or 0.0) / e.hours if e.hours else np.nan)
        for e in runs
    )


def capacities(plan: Plan) -> tuple[tuple[str, str, float], ...]:
    """Day, unit (or nothing, of the whole bank) and Ah of every capacity that was measured."""
    found = sorted((e for e in plan.log if e.kind == "capacity" and e.value is not None), key=lambda e: e.on)
    return tuple((e.on, e.about, e.value or 0.0) for e in found)
