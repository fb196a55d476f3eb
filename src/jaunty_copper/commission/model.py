"""How readings follow from what may differ between the plan and the copper."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np

from jaunty_copper.physics.circuit import Duty, Ints, OperatingPoint
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan.model import Plan, Scenario
from jaunty_copper.study.demand import duty_of
from jaunty_copper.study.wiring import Wiring, wire

Quantity = Literal["volts", "amps"]

COPPER_SHARE = 0.03
"""How well a conductor's own resistance is known: its length and its section."""
BODY_SHARE = 0.25
"""How well that of a device's body is: families are representative."""
UNIT_SHARE = 0.15
"""How well that of a battery unit is."""
JOINT_SPREAD_OHM = 20e-6
"""How sound joints differ among each other."""
LOAD_SHARE = 0.05
"""How well a load's power is known."""
EMF_SHARE = 0.004
"""How well the charge is, as a share of the voltage: all units alike."""
STEP_OHM, STEP_SHARE = 1e-4, 1e-3
METER_V, METER_V_SHARE = 0.0003, 0.002
"""A common multimeter's uncertainty on a drop: so much and a share of what it reads, one standard deviation."""
METER_A, METER_A_SHARE = 0.05, 0.01
"""A common clamp meter's."""


class Point(NamedTuple):
    """Where something is measured.

    Attributes
    ----------
    quantity : str
        volts from terminal a to terminal b, or amps through the run `a` names (b is empty).
    """

    quantity: Quantity
    a: str
    b: str


class Expected(NamedTuple):
    """What a point should read.

    Attributes
    ----------
    value : float
        In volts or amperes.
    tolerance : float
        Two standard deviations of all that is not known: lengths, joints, loads, charge, meter.
    """

    point: Point
    value: float
    tolerance: float


@dataclass(frozen=True)
class Bench:
    """One scenario of a plan, as something to measure on.

    Attributes
    ----------
    points : tuple of Point
        Where.
    """

    wiring: Wiring
    scenario: Scenario
    points: tuple[Point, ...]

    @cached_property
    def duty(self) -> Duty:
        """What the scenario asks."""
        return duty_of(self.wiring, self.scenario)

    @cached_property
    def base(self) -> OperatingPoint:
        """The planned operating point."""
        return self.solve(np.zeros(self.parameters))

    @cached_property
    def branches(self) -> Ints:
        """Branches whose resistance may differ: all that is no chassis."""
        return np.arange(self.wiring.circuit.a.size)

    @property
    def parameters(self) -> int:
        """Number of things that may differ: a resistance a branch, a share a load, one of all EMFs."""
        return self.branches.size + len(self.wiring.loads) + 1

    @cached_property
    def spread(self) -> Floats:
        """Standard deviation of each parameter where everything is sound."""
        c, n = self.wiring.circuit, self.branches.size
        found = np.full(n, 1e-6)
        for k, b in enumerate(self.wiring.branches):
            if b.kind == "run":
                joints = JOINT_SPREAD_OHM * np.sqrt(2.0)
                found[k] = np.hypot(COPPER_SHARE * float(c.copper_ohm[k]), joints)
            elif b.kind == "battery":
                found[k] = UNIT_SHARE * float(c.fixed_ohm[k])
            else:
                found[k] = max(BODY_SHARE * float(c.fixed_ohm[k]), 1e-6)
        return np.concatenate([found, np.full(len(self.wiring.loads), LOAD_SHARE), [EMF_SHARE]])

    def solve(self, off: Floats) -> OperatingPoint:
        """Operating point of copper that differs.

        Parameters
        ----------
        off : ndarray, shape (parameters,)
            Ohms more in each branch, share more of each load, share more of every EMF.
        """
        n, d = self.branches.size, self.duty
        ohm = np.maximum(off[:n], -0.9 * self.wiring.circuit.fixed_ohm - 0.5 * self.wiring.circuit.copper_ohm)
        loads, emf = 1.0 + off[n:-1], 1.0 + off[-1]
        changed = replace(
            d, extra_ohm=d.extra_ohm + ohm, emf_v=d.emf_v * emf, load_w=d.load_w * loads, load_a=d.load_a * loads,
            load_s=d.load_s * loads,
        )  # fmt: skip
        return Solver(self.wiring.circuit).solve(changed)

    def read(self, point: OperatingPoint) -> Floats:
        """What ideal meters show at every point."""
        node, branch = self.wiring.node, self.wiring.branch
        return np.array(
            [
                point.volts[node[p.a]] - point.volts[node[p.b]]
                if p.quantity == "volts"
                else point.current_a[branch[p.a]]
                for p in self.points
            ]
        )

    @cached_property
    def values(self) -> Floats:
        """What every point should read."""
        return self.read(self.base)

    @cached_property
    def meter(self) -> Floats:
        """Standard deviation of the meter at every point."""
        volts = np.array([p.quantity == "volts" for p in self.points])
        size = np.abs(self.values)
        return np.where(volts, METER_V + METER_V_SHARE * size, METER_A + METER_A_SHARE * size)

    @cached_property
    def slopes(self) -> Floats:
        """Change of every reading by every parameter, shape (points, parameters)."""
        for _ in self.slopes_in_steps():
            pass
        return self._slopes

    @cached_property
    def _slopes(self) -> Floats:
        return np.empty((len(self.points), self.parameters))

    def slopes_in_steps(self) -> Iterator[int]:
        """Work out the slopes one parameter after the other, for a caller that may have to stop.

        Yields the parameters that are done, and nothing where all were done before.
        """
        if "slopes" in self.__dict__:
            return
        n = self.branches.size
        for k in range(self.parameters):
            step = STEP_OHM if k < n else STEP_SHARE
            off = np.zeros(self.parameters)
            off[k] = step
            self._slopes[:, k] = (self.read(self.solve(off)) - self.values) / step
            yield k
        self.__dict__["slopes"] = self._slopes

    @cached_property
    def covariance(self) -> Floats:
        """Of all readings where everything is sound, shape (points, points)."""
        moved = self.slopes * self.spread
        return np.asarray(moved @ moved.T + np.diag(self.meter**2))

    def expected(self) -> tuple[Expected, ...]:
        """What to expect at every point."""
        tolerance = 2.0 * np.sqrt(np.diag(self.covariance))
        rows = zip(self.points, self.values.tolist(), tolerance.tolist(), strict=True)
        return tuple(Expected(*row) for row in rows)


def points_of(wiring: Wiring) -> tuple[Point, ...]:
    """Points that part every conductor from every other: the drop over each, stud to stud, and over each device."""
    found = [Point("volts", r.a, r.b) for r in wiring.plan.runs]
    inline = [x for x in wiring.plan.items if len(x.terminal_names) == 2 and x.ref("a") in wiring.node]
    found += [Point("volts", x.ref("a"), x.ref("b")) for x in inline]
    found += [Point("volts", b.ref("plus"), b.ref("minus")) for bank in wiring.banks for b in bank.units]
    return tuple(found)


def everything_on(plan: Plan) -> Scenario:
    """A scenario to measure in: all equipment on, switches as drawn, so that every conductor carries what it can."""
    soc = plan.scenarios[0].soc_percent if plan.scenarios else 80.0
    return Scenario(id="measuring", name="everything on", soc_percent=soc)


def bench(plan: Plan, scenario: Scenario, points: tuple[Point, ...] | None = None) -> Bench:
    """A scenario of a plan with the points to measure; all of `points_of` where none are given.

    Raises
    ------
    NoOperatingPoint
        There is nothing to measure in that scenario.
    """
    wiring = wire(plan)
    made = Bench(wiring, scenario, points if points is not None else points_of(wiring))
    if not made.base.solved:
        raise NoOperatingPoint(f"“{scenario.title}” has no operating point: nothing can be measured in it")
    return made


class NoOperatingPoint(ValueError):
    """A scenario collapses."""
