"""What may be wrong with the copper, and the copper as it was built."""

from collections.abc import Iterator
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np

from jaunty_copper.commissioning.model import Bench, NothingToMeasure, bench
from jaunty_copper.commissioning.points import Point, Unknown, joints_of, points_of
from jaunty_copper.commissioning.taps import Tap, moved, shift, taps_of
from jaunty_copper.language import say
from jaunty_copper.network.wiring import wire
from jaunty_copper.physics.circuit import OperatingPoint
from jaunty_copper.physics.copper import Floats
from jaunty_copper.plan.model import Plan, Scenario

Kind = Literal["loose lug", "thin cable", "weak unit", "wrong tap", "hot device"]
LOOSE_OHM = (0.005, 0.030)
"""What a loose or dirty lug has; representative."""
SIZES_THINNER = 2
UNIT_TIMES, BODY_TIMES = 2.5, 5.0
"""Of the planned resistance: a worn unit's, and a burnt contact's; representative."""
SHOWS = 8.0
"""Standard deviations by which a deviation moves the readings of a scenario, if it is to be found in it."""


class Deviation(NamedTuple):
    """One thing that is not as planned.

    Attributes
    ----------
    kind : str
        What went wrong.
    owner, part : str
        Conductor, device or unit; of a lug the joint a or b.
    more_ohm : float
        Resistance above the plan's; 0 for a wrong tap.
    to : str
        Post on which an end landed.
    """

    kind: Kind
    owner: str
    part: str
    more_ohm: float
    to: str = ""

    def words(self, plan: Plan) -> str:
        """In a sentence, for the day it is shown."""
        thing = plan.by_id.get(self.owner)
        title = thing.title if thing is not None else self.owner
        milli = say("{more_ohm:.3g} mΩ more than planned", more_ohm=1000.0 * self.more_ohm)
        return {
            "loose lug": say(
                "The lug of {title} at {at} is loose: {milli}", title=title, at=self._at(plan), milli=milli
            ),
            "thin cable": say("{title} is thinner than planned: {milli}", title=title, milli=milli),
            "weak unit": say("{title} is worn: {milli} inside", title=title, milli=milli),
            "wrong tap": say("{title} landed on {to} in place of {at}", title=title, to=self.to, at=self._at(plan)),
            "hot device": say("{title} has a burnt contact: {milli}", title=title, milli=milli),
        }[self.kind]

    def _at(self, plan: Plan) -> str:
        run = plan.run_by_id.get(self.owner)
        return "" if run is None else run.b if self.part == "b" else run.a


def deviations(plan: Plan, scenario: Scenario, rng: np.random.Generator) -> list[Deviation]:
    """Everything of one kind each that may be wrong and would show in a scenario.

    Raises
    ------
    NoOperatingPoint
        There is nothing to measure in that scenario.
    """
    b = bench(plan, scenario)
    weights = np.linalg.inv(b.covariance)
    at = {p.owner: k for k, p in enumerate(b.places)}
    found = []
    for d in (*_resistances(b, rng), *_taps(b)):
        if d.kind == "wrong tap":
            moves = shift(b, Tap(d.owner, d.part, d.to))
        else:
            moves = b.slopes.of(np.array([at[d.owner]]))[:, 0] * d.more_ohm
        if moves is not None and float(moves @ weights @ moves) > SHOWS**2:
            found.append(d)
    return found


def _resistances(b: Bench, rng: np.random.Generator) -> Iterator[Deviation]:
    plan, c, parts = b.wiring.plan, b.wiring.circuit, b.wiring.parts
    for p in b.places:
        kind, fixed = b.wiring.branches[p.branch].kind, float(c.fixed_ohm[p.branch])
        if kind == "battery":
            yield Deviation("weak unit", p.owner, "", (UNIT_TIMES - 1.0) * fixed)
        elif kind == "body":
            yield Deviation("hot device", p.owner, "", (BODY_TIMES - 1.0) * fixed)
        elif kind == "run" and joints_of(run := plan.run_by_id[p.owner]):
            low, high = np.log(LOOSE_OHM)
            yield Deviation("loose lug", p.owner, str(rng.choice(["a", "b"])), float(np.exp(rng.uniform(low, high))))
            now = parts.conductors[run.conductor]
            thinner = [s for s in parts.sizes(now.system) if s.area_mm2 < now.area_mm2]
            if len(thinner) >= SIZES_THINNER:
                other = sorted(thinner, key=lambda s: s.area_mm2)[-SIZES_THINNER]
                share = other.r_ohm_per_km / now.r_ohm_per_km - 1.0
                yield Deviation("thin cable", p.owner, "copper", share * float(c.copper_ohm[p.branch]))


def _taps(b: Bench) -> Iterator[Deviation]:
    for tap in taps_of(b):
        yield Deviation("wrong tap", tap.run, tap.end, 0.0, tap.to)


class AsBuilt:
    """A plan's copper as somebody built it: everything a little off, and at most one thing much.

    Parameters
    ----------
    plan : Plan
        As planned.
    deviation : Deviation, optional
        What is hidden; none where everything is sound.
    seed : int
        Of everything that is a little off.
    """

    def __init__(self, plan: Plan, deviation: Deviation | None = None, seed: int = 0) -> None:
        self.plan, self.deviation, self.seed = plan, deviation, seed
        self._found: dict[str, tuple[Bench, OperatingPoint, Floats]] = {}

    @cached_property
    def _points(self) -> tuple[Point, ...]:
        wiring = wire(self.plan)
        return (*points_of(wiring), *(p for r in self.plan.runs for p in joints_of(r)))

    def _rests(self, scenario: Scenario) -> tuple[Bench, OperatingPoint, Floats]:
        if scenario.id not in self._found:
            planned = bench(self.plan, scenario, self._points)
            off = self._off(planned)
            b = planned
            d = self.deviation
            if d is not None and d.kind == "wrong tap":
                b = moved(planned, Tap(d.owner, d.part, d.to))
            point = b.solve(off)
            if not point.solved:
                raise NothingToMeasure(
                    say("“{scenario}” collapses with this copper: measure in another scenario", scenario=scenario.title)
                )
            self._found[scenario.id] = b, point, off
        return self._found[scenario.id]

    def _off(self, b: Bench) -> Floats:
        """What is off: the copper by its seed alone, what passes by the scenario as well."""
        n = b.lasting
        copper = np.random.default_rng(self.seed).normal(size=n)
        passing = np.random.default_rng([self.seed, *b.scenario.id.encode()]).normal(size=b.parameters - n)
        off = np.concatenate([copper, passing]) * b.spread
        d = self.deviation
        if d is not None and d.more_ohm:
            branch = b.wiring.branch[d.owner]
            part = Unknown(branch, d.owner, d.part)
            off[b.at[part if part in b.at else Unknown(branch, d.owner)]] += d.more_ohm
        return off

    def value(self, scenario: Scenario, point: Point) -> float:
        """What is there, in volts, amperes or degrees Celsius.

        Raises
        ------
        KeyError
            The plan has no such terminal or conductor.
        NoOperatingPoint
            The copper as built has none in that scenario.
        """
        b, rest, off = self._rests(scenario)
        return b.read_one(point, rest, off)
