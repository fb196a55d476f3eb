"""How readings follow from what may differ between the plan and the copper."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from jaunty_copper.commissioning.points import Expected, Point, Unknown, joints_of, minutes_of, points_of
from jaunty_copper.commissioning.slopes import Slopes
from jaunty_copper.language import say
from jaunty_copper.network.acceptance import accepted
from jaunty_copper.network.demand import duty_of
from jaunty_copper.network.refusing import settled
from jaunty_copper.network.wiring import Wiring, run_ohms, wire
from jaunty_copper.physics.answers import Answers
from jaunty_copper.physics.circuit import Duty, Flags, Ints, Mode, OperatingPoint
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.heat import steady_temperature, temperature_after
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan.model import Converter, Plan, Scenario

COPPER_SHARE = 0.03
"""How well a conductor's own resistance is known: its length and its section."""
BODY_SHARE = 0.25
"""How well that of a device's body is: families are representative."""
BANK_SHARE, UNIT_SHARE = 0.15, 0.05
"""How well that of a bank's units is, all alike, and how units bought together differ among each other."""
JOINT_SPREAD_OHM = 20e-6
"""How sound joints differ among each other."""
LOAD_SHARE = 0.05
"""How well a load's power is known."""
SOURCE_SHARE = {Mode.OFF: 0.0, Mode.VOLTAGE: 0.003, Mode.CURRENT: 0.03, Mode.POWER: 0.10}
"""How well what a source holds is known, by its mode: a voltage, a current limit, what the sun gives."""
EMF_SHARE = 0.004
"""How well the charge is, as a share of the voltage: all units alike."""
AIR_K, RISE_SHARE = 3.0, 0.2
"""How well the air is known, and the rise above it that a heat balance gives."""
METER_V, METER_V_SHARE = 0.0003, 0.002
"""A common multimeter's uncertainty on a drop: so much and a share of what it reads, one standard deviation."""
METER_A, METER_A_SHARE = 0.05, 0.01
"""A common clamp meter's."""
K_PER_W = 4.0
"""By how much a joint or a device's body warms for each watt in it; representative."""
BODY_J_PER_K = 30.0
"""Heat that a joint or a device's body holds for each kelvin: some 80 g of copper, brass and tin; representative."""
METER_K = 2.0
"""A common contact thermometer's."""


@dataclass(frozen=True)
class Bench:
    """One scenario of a plan, as something to measure on.

    Attributes
    ----------
    points : tuple of Point
        Where.
    known : tuple of (Place, float)
        What is taken for true beyond the plan: ohms more at a place.
    """

    wiring: Wiring
    scenario: Scenario
    points: tuple[Point, ...]
    known: tuple[tuple[Unknown, float], ...] = ()

    @cached_property
    def duty(self) -> Duty:
        """What the scenario asks, of the copper as it is known."""
        planned = duty_of(self.wiring, self.scenario)
        asked = settled(self.wiring, self._solver, planned, self.scenario).duty
        asked, _ = accepted(self.wiring, self._solver, asked, self.scenario)
        if not self.known:
            return asked
        branch, more = np.array([p.branch for p, _ in self.known]), np.array([x for _, x in self.known])
        ohm = np.zeros(self.wiring.circuit.a.size)
        np.add.at(ohm, branch, more)
        return replace(asked, extra_ohm=np.asarray(asked.extra_ohm + ohm))

    @cached_property
    def _solver(self) -> Solver:
        return Solver(self.wiring.circuit)

    @cached_property
    def _solved(self) -> tuple[Solver, OperatingPoint]:
        # The duty solves too: after it, so that the solver stands where this left it.
        duty = self.duty
        return self._solver, self._solver.solve(duty)

    @property
    def base(self) -> OperatingPoint:
        """The planned operating point."""
        return self._solved[1]

    @cached_property
    def places(self) -> tuple[Unknown, ...]:
        """What may differ in resistance: every branch; a conductor's joints and copper apart where a joint is measured."""
        separate = {p.a for p in self.points if p.quantity == "joint"}
        found: list[Unknown] = []
        for k, b in enumerate(self.wiring.branches):
            parts = ("a", "copper", "b") if b.kind == "run" and b.owner in separate else ("",)
            found += [Unknown(k, b.owner, part) for part in parts]
        return tuple(found)

    @cached_property
    def branch_of(self) -> Ints:
        """Branch of every place."""
        return np.array([p.branch for p in self.places], dtype=np.int64)

    @property
    def parameters(self) -> int:
        """Number of things that may differ: resistances of places and banks, shares of loads and sources, one of all EMFs."""
        return self.lasting + len(self.wiring.loads) + len(self.wiring.sources) + 1

    @cached_property
    def spread(self) -> Floats:
        """Standard deviation of each parameter where everything is sound."""
        own = np.array([self._spread(p) for p in self.places])
        banks, loads = np.full(len(self.wiring.banks), BANK_SHARE), np.full(len(self.wiring.loads), LOAD_SHARE)
        sources = np.array([SOURCE_SHARE[Mode(m)] for m in self.base.mode.tolist()])
        return np.concatenate([own, banks, loads, sources, [EMF_SHARE]])

    @property
    def lasting(self) -> int:
        """How many of the parameters, the first ones, stay as they are for as long as nobody works on it."""
        return len(self.places) + len(self.wiring.banks)

    @cached_property
    def alike(self) -> Floats:
        """Ohms of each branch for a share more of each bank's units, shape (branches, banks)."""
        c, branch = self.wiring.circuit, self.wiring.branch
        found = np.zeros((c.a.size, len(self.wiring.banks)))
        for k, bank in enumerate(self.wiring.banks):
            units = [branch[u.id] for u in bank.units]
            found[units, k] = c.fixed_ohm[units]
        return found

    def _spread(self, p: Unknown) -> float:
        c, kind = self.wiring.circuit, self.wiring.branches[p.branch].kind
        copper, fixed = COPPER_SHARE * float(c.copper_ohm[p.branch]), float(c.fixed_ohm[p.branch])
        if kind == "run":
            joints = {"": np.sqrt(2.0), "copper": 0.0}.get(p.part, 1.0) * JOINT_SPREAD_OHM
            return float(np.hypot(copper if p.part in ("", "copper") else 0.0, joints)) or 1e-6
        return UNIT_SHARE * fixed if kind == "battery" else max(BODY_SHARE * fixed, 1e-6)

    @cached_property
    def _planned(self) -> Floats:
        c = self.wiring.circuit
        return np.asarray(0.9 * c.fixed_ohm + 0.5 * c.copper_ohm)

    def system_v(self, owner: str) -> float | None:
        """Voltage of the system that a conductor, device or unit is in, V; None where it is in several, as a shared minus is.

        Parameters
        ----------
        owner : str
            Its id.
        """
        w, volts = self.wiring, self.base.volts
        ports = [tuple(bank.takeoffs[side][0] for side in ("plus", "minus")) for bank in w.banks]
        ports += [e.output for e in w.sources if isinstance(e, Converter)]
        here = w.rail[int(w.circuit.a[w.branch[owner]])]
        found = {
            round(float(volts[w.node[plus]] - volts[w.node[minus]]), 6)
            for plus, minus in ports
            if here in (w.rail_of(plus), w.rail_of(minus))
        }
        return found.pop() if len(found) == 1 else None

    def solve(self, off: Floats) -> OperatingPoint:
        """Operating point of copper that differs.

        Parameters
        ----------
        off : ndarray, shape (parameters,)
            Ohms more at each place, share more of each bank's units, of each load, of what each source holds, of
            every EMF.
        """
        n, lasting, d = len(self.places), self.lasting, self.duty
        ohm = np.bincount(self.branch_of, off[:n], d.closed.size) + self.alike @ off[n:lasting]
        ohm = np.maximum(ohm, -self._planned)
        upto = lasting + len(self.wiring.loads)
        loads, sources, emf = 1.0 + off[lasting:upto], 1.0 + off[upto:-1], 1.0 + off[-1]
        mode = self.base.mode
        changed = replace(
            d, extra_ohm=d.extra_ohm + ohm, emf_v=d.emf_v * emf, load_w=d.load_w * loads, load_a=d.load_a * loads,
            load_s=d.load_s * loads,
            source_v=np.where(mode == Mode.VOLTAGE, d.source_v * sources, d.source_v),
            source_a=np.where(mode == Mode.CURRENT, d.source_a * sources, d.source_a),
            source_w=np.where(mode == Mode.POWER, d.source_w * sources, d.source_w),
        )  # fmt: skip
        return Solver(self.wiring.circuit).solve(changed)

    def read(self, point: OperatingPoint, off: Floats | None = None) -> Floats:
        """What ideal meters show at every point.

        Parameters
        ----------
        point : OperatingPoint
            Of this bench's circuit.
        off : ndarray, shape (parameters,), optional
            What differs, for the joints that are measured by themselves.
        """
        return np.array([self.read_one(p, point, off) for p in self.points])

    def read_one(self, p: Point, point: OperatingPoint, off: Floats | None = None) -> float:
        """What an ideal meter shows at one point.

        Parameters
        ----------
        off : ndarray, shape (places,), optional
            How much more resistance each place has than planned, ohm.

        Raises
        ------
        KeyError
            There is no such terminal, conductor, device or unit.
        """
        node, branch = self.wiring.node, self.wiring.branch
        if p.quantity == "volts":
            return float(point.volts[node[p.a]] - point.volts[node[p.b]])
        amps = float(point.current_a[branch[p.a]])
        if p.quantity == "amps":
            return amps
        if p.quantity == "joint":
            return amps * (self.joint_ohm(p) + self._more(p.a, p.b, off))
        k = branch[p.a]
        steady, air = float(point.temperature_c[k]), float(self.duty.ambient_c[k])
        minutes = minutes_of(p)
        there = -np.expm1(-60.0 * minutes / (K_PER_W * BODY_J_PER_K))
        body_k = there * K_PER_W * amps**2 * self._contact_ohm(p.a, off)
        return float(air + self._warmed(k, amps, minutes) * (steady - air) + body_k)

    def _warmed(self, branch: int, amps: float, minutes: float) -> float:
        """Share of its rise that a conductor has after some minutes; 1 for what has no copper of its own."""
        cable = self.wiring.circuit.cable_of(branch)
        if cable is None or not np.isfinite(minutes):
            return 1.0
        air = self.duty.ambient_c[branch]
        rise = float(steady_temperature(cable, amps, air)[0]) - air
        now = float(temperature_after(cable, amps, air, 60.0 * minutes)[0]) - air
        return now / rise if rise > 1e-9 else 1.0

    def _more(self, owner: str, part: str, off: Floats | None) -> float:
        k = self.at.get(Unknown(self.wiring.branch[owner], owner, part))
        return 0.0 if off is None or k is None else float(off[k])

    def _contact_ohm(self, owner: str, off: Floats | None) -> float:
        """Of what warms beyond the copper: a conductor's worse joint, a device's body."""
        run = self.wiring.plan.run_by_id.get(owner)
        if run is None:
            return float(self.wiring.circuit.fixed_ohm[self.wiring.branch[owner]]) + self._more(owner, "", off)
        joints = joints_of(run)
        return max((self.joint_ohm(p) + self._more(owner, p.b, off) for p in joints), default=0.0)

    @cached_property
    def at(self) -> dict[Unknown, int]:
        """Position of every place."""
        return {p: k for k, p in enumerate(self.places)}

    def joint_ohm(self, p: Point) -> float:
        """Resistance of a joint that is measured directly, as it is known."""
        run = self.wiring.plan.run_by_id[p.a]
        own = run.joint_a_ohm if p.b == "a" else run.joint_b_ohm
        more = sum(x for place, x in self.known if (place.owner, place.part) == (p.a, p.b))
        if own is None:
            own = run_ohms(run.model_copy(update=ALIKE_JOINTS), self.wiring.parts)[0] / 2.0
        return own + more

    @cached_property
    def values(self) -> Floats:
        """What every point should read."""
        return self.read(self.base)

    @cached_property
    def electric(self) -> Flags:
        """Points whose readings the network explains; a temperature is compared alone."""
        return np.array([p.quantity != "celsius" for p in self.points], dtype=bool)

    @cached_property
    def meter(self) -> Floats:
        """Standard deviation of the meter at every point."""
        amps = np.array([p.quantity == "amps" for p in self.points], dtype=bool)
        size = np.abs(self.values)
        electric = np.where(amps, METER_A + METER_A_SHARE * size, METER_V + METER_V_SHARE * size)
        return np.where(self.electric, electric, METER_K)

    @cached_property
    def slopes(self) -> Slopes:
        """Change of every reading by every parameter."""
        return Slopes(self, Answers(self._solved[0]))

    def among(self, points: Ints | None = None, variance: Floats | None = None) -> Floats:
        """Covariance of some readings where everything is sound, a new array, shape (points, points).

        Parameters
        ----------
        points : ndarray of int, optional
            Positions of the readings; all where None.
        variance : ndarray, shape (parameters,), optional
            Of each parameter, where another than a sound one's is to be.
        """
        of = np.arange(len(self.points)) if points is None else points
        moved = self.slopes.square(self.spread**2 if variance is None else variance, of)
        moved[np.diag_indices_from(moved)] += self.noise[of]
        return moved

    def passing(self, points: Ints | None = None) -> Floats:
        """Covariance of what differs from one day of measuring to the next: loads, charge, air, meter.

        Parameters
        ----------
        points : ndarray of int, optional
            Positions of the readings; all where None.
        """
        return self.among(points, np.where(np.arange(self.parameters) < self.lasting, 0.0, self.spread**2))

    @cached_property
    def noise(self) -> Floats:
        """Variance of what each reading has by itself, its meter and its air, shape (points,)."""
        rise = np.where(self.electric, 0.0, np.hypot(AIR_K, RISE_SHARE * self._rise))
        return np.asarray(self.meter**2 + rise**2)

    @cached_property
    def _rise(self) -> Floats:
        branch, air = self.wiring.branch, self.duty.ambient_c
        return np.array(
            [
                v - air[branch[p.a]] if p.quantity == "celsius" else 0.0
                for p, v in zip(self.points, self.values, strict=True)
            ]
        )

    @property
    def covariance(self) -> Floats:
        """Of all readings where everything is sound, a new array, shape (points, points)."""
        return self.among()

    @cached_property
    def sigma(self) -> Floats:
        """Standard deviation of each reading where everything is sound, shape (points,)."""
        return np.sqrt(self.noise + self.slopes.variances(self.spread**2))

    def expected(self) -> tuple[Expected, ...]:
        """What to expect at every point."""
        rows = zip(self.points, self.values.tolist(), (2.0 * self.sigma).tolist(), strict=True)
        return tuple(Expected(*row) for row in rows)

    def with_points(self, more: Iterable[Point]) -> "Bench":
        """The same bench with further points behind those it has."""
        new = [p for p in dict.fromkeys(more) if p not in set(self.points)]
        return replace(self, points=(*self.points, *new)) if new else self

    def readings(self, taken: dict[Point, float]) -> Floats:
        """Readings in the order of the points; nan where none was taken.

        Parameters
        ----------
        taken : dict
            Readings by point, in the point's unit.
        """
        return np.array([taken.get(p, np.nan) for p in self.points])


ALIKE_JOINTS = {"joint_a_ohm": None, "joint_b_ohm": None}


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
        raise NothingToMeasure(
            say("“{scenario}” has no operating point: nothing can be measured in it", scenario=scenario.title)
        )
    return made


def known(wiring: Wiring, point: Point) -> bool:
    """Whether a point still is one of a plan's: things may have gone since it was read."""
    if point.quantity == "volts":
        return point.a in wiring.node and point.b in wiring.node
    if point.quantity == "celsius" and np.isnan(minutes_of(point)):
        return False
    if point.quantity == "joint":
        return point in (joints_of(wiring.plan.run_by_id[point.a]) if point.a in wiring.plan.run_by_id else ())
    return point.a in wiring.branch


class NothingToMeasure(ValueError):
    """A scenario collapses."""
