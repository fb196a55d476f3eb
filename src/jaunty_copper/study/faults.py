"""Prospective short-circuit currents of a plan: everywhere, greatest and least, and through each device."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.physics.fault import FaultCurrents, FaultNetwork
from jaunty_copper.physics.operating_point import SMALLEST_OHM
from jaunty_copper.plan.model import Alternator, Battery, Breaker, Chassis, Converter, Fuse, Source
from jaunty_copper.study.wiring import JOINT_OHM, Wiring, cells

EMF_SHARE = 1.05
"""IEC 61660-1: the EMF of a charged battery over its nominal voltage."""
NEW_SHARE = 0.9
"""IEC 61660-1: of the internal resistance, in the first moment."""
STEADY_SHARE = 0.95
"""IEC 61660-1: of the EMF, once the first moment is over."""
OLD_SHARE = 1.7
"""Resistance of an old and cold battery over its own; representative."""
LOW_SOC = 1
"""Tenths of charge for the least current."""
BAD_JOINT_OHM = 200e-6
"""Upper value of a crimped lug on its stud, representative."""
ALTERNATOR_TIMES, ELECTRONIC_TIMES = 2.5, 1.5
"""Fault current of limited sources over their rated current; representative."""


@dataclass(frozen=True)
class Places:
    """Where faults are looked at.

    Attributes
    ----------
    refs : tuple of (str, str)
        Terminals joined by the fault: a place and its opposite pole, or chassis.
    """

    refs: tuple[tuple[str, str], ...]
    first: Ints
    second: Ints


@dataclass(frozen=True)
class Faults:
    """Fault currents of one plan.

    Attributes
    ----------
    devices : tuple of str
        Ids of fuses and breakers, in the order of the rows of `branch_a`.
    """

    wiring: Wiring
    places: Places
    devices: tuple[str, ...]
    network: FaultNetwork

    @cached_property
    def peak(self) -> FaultCurrents:
        """The greatest currents, in the first moment."""
        return self.network.solve(*_case(self.wiring, "peak"))

    @cached_property
    def steady(self) -> FaultCurrents:
        """The greatest currents, once the first moment is over."""
        return self.network.solve(*_case(self.wiring, "steady"))

    @cached_property
    def least(self) -> FaultCurrents:
        """The least currents: low, old and cold units, warm conductors, poor joints."""
        return self.network.solve(*_case(self.wiring, "least"))

    @cached_property
    def row(self) -> dict[str, int]:
        """Row of each device."""
        return {d: k for k, d in enumerate(self.devices)}

    @cached_property
    def at(self) -> dict[str, int]:
        """Column of the fault at each terminal, pole to pole."""
        found: dict[str, int] = {}
        for k, (ref, _) in enumerate(self.places.refs):
            found.setdefault(ref, k)
        return found

    @cached_property
    def greatest_a(self) -> float:
        """The greatest fault current anywhere, A."""
        return float(np.abs(self.peak.current_a).max(initial=1.0))

    def greatest_through(self, device: str) -> tuple[float, str]:
        """Greatest current that a fault anywhere drives through a device, A, and where it lies."""
        most, where = self._greatest
        k = self.row[device]
        return float(most[k]), self.places.refs[int(where[k])][0] if self.places.refs else ""

    @cached_property
    def _greatest(self) -> tuple[Floats, Ints]:
        """Greatest current through each device, and the place."""
        amps = np.abs(self.peak.branch_a)
        if not amps.size:
            return np.zeros(len(self.devices)), np.zeros(len(self.devices), dtype=np.int64)
        where = np.argmax(amps, axis=1)
        return amps[np.arange(where.size), where], where

    def contributions(self, ref: str) -> dict[str, float]:
        """What each battery and limited source gives to the greatest fault at a terminal, A, by id."""
        w, k = self.wiring, self.at[ref]
        c = w.circuit
        cells_ = np.flatnonzero(c.is_battery)
        asked = np.concatenate([cells_, c.a.size + np.arange(len(w.sources))])
        one = _network(w, self.places.first[k : k + 1], self.places.second[k : k + 1], asked).solve(*_case(w, "peak"))
        names = [*(w.branches[b].owner for b in cells_), *(e.id for e in w.sources)]
        return dict(zip(names, one.branch_a[:, 0].tolist(), strict=True))


def faults_of(wiring: Wiring) -> Faults:
    """Compute all fault currents of a plan, every switch closed."""
    places = _places(wiring)
    found = [x.id for x in wiring.plan.items if isinstance(x, Fuse | Breaker)]
    branches = np.array([wiring.branch[id_] for id_ in found], dtype=np.int64)
    network = _network(wiring, places.first, places.second, branches)
    return Faults(wiring, places, tuple(found), network)


def _ports(w: Wiring) -> tuple[Ints, Ints]:
    """Minus and plus node of each limited source: its branch drives from the one to the other."""
    ports = [(e.ref("out_plus"), e.ref("out_minus")) if isinstance(e, Converter) else e.port for e in w.sources]
    return (
        np.array([w.node[minus] for _, minus in ports], dtype=np.int64),
        np.array([w.node[plus] for plus, _ in ports], dtype=np.int64),
    )


def _network(w: Wiring, first: Ints, second: Ints, asked: Ints) -> FaultNetwork:
    c, (minus, plus) = w.circuit, _ports(w)
    return FaultNetwork(c.nodes, np.concatenate([c.a, minus]), np.concatenate([c.b, plus]), first, second, asked)


def _case(w: Wiring, case: str) -> tuple[Floats, Floats]:
    """Resistance and EMF of every branch, limited sources last.

    A limited source is its voltage behind as much resistance as lets its fault current flow into
    a bolted short. For the least current only converters are left, at their rated current: what
    they feed has no other source.
    """
    c, plan = w.circuit, w.plan
    emf = np.zeros(c.a.size)
    ohm = c.fixed_ohm.copy()
    warm = np.full(c.a.size, 20.0)
    if case == "least":
        for k, run in zip(c.heated, w.heated_runs, strict=True):
            warm[k] = w.parts.insulations[run.insulation].max_c
            unmeasured = (run.joint_a_ohm is None) + (run.joint_b_ohm is None)
            ohm[k] += unmeasured * (BAD_JOINT_OHM - JOINT_OHM) / run.parallel
    for b in plan.items:
        if isinstance(b, Battery):
            k = w.branch[b.id]
            emf[k], ohm[k] = _battery(w, b, case, float(ohm[k]))
    total = np.maximum(ohm + resistance_at(c.copper_ohm, warm), SMALLEST_OHM)
    set_v = np.array([e.set_v for e in w.sources], dtype=float)
    amps = np.array([_limited(e, case) * e.current_a for e in w.sources], dtype=float)
    behind = np.divide(set_v, amps, out=np.full(set_v.size, np.inf), where=amps > 0.0)
    return np.concatenate([total, behind]), np.concatenate([emf, set_v])


def _limited(e: Source | Converter, case: str) -> float:
    if case == "least":
        return 1.0 if isinstance(e, Converter) else 0.0
    return ALTERNATOR_TIMES if isinstance(e, Alternator) else ELECTRONIC_TIMES


def _battery(w: Wiring, b: Battery, case: str, ohm: float) -> tuple[float, float]:
    """EMF and resistance of a unit in a case: by its data sheet's short-circuit current where it has one."""
    curve = w.parts.battery_chemistries[b.chemistry].ocv_per_cell_v
    n = cells(b, w.parts)
    if case == "least":
        return n * curve[LOW_SOC], OLD_SHARE * ohm
    full = max(EMF_SHARE * b.nominal_v, n * curve[-1])
    if b.short_circuit_a is not None:
        ohm = full / b.short_circuit_a / NEW_SHARE
    return (full, NEW_SHARE * ohm) if case == "peak" else (STEADY_SHARE * full, ohm)


def _places(w: Wiring) -> Places:
    """A pair for every terminal: equipment across its port, all else against the bank's far pole; then chassis."""
    refs: list[tuple[str, str]] = []
    ends = {x.id: x.port for x in w.plan.equipment}
    poles = [
        (
            {w.rail_of(ref) for u in b.units for ref in (u.ref("minus"), u.ref("plus"))},
            b.takeoffs["plus"][0],
            b.takeoffs["minus"][0],
        )
        for b in w.banks
    ]
    outputs = [(e.ref("out_plus"), e.ref("out_minus")) for e in w.plan.equipment if isinstance(e, Converter)]
    poles += [({w.rail_of(plus)}, plus, minus) for plus, minus in outputs]
    for ref in w.refs:
        item, _, terminal = ref.partition(".")
        if not terminal:
            continue
        if item in ends and ref in ends[item]:
            plus, minus = ends[item]
            if ref == plus:
                refs.append((plus, minus))
            continue
        rail = w.rail_of(ref)
        for rails, plus, minus in poles:
            if rail in rails:
                refs.append((ref, plus if rail == w.rail_of(minus) else minus))
                break
    chassis = [x for x in w.plan.items if isinstance(x, Chassis)]
    if chassis:
        ground = f"{chassis[0].id}."
        refs += [(a, ground) for a, _ in tuple(refs) if w.rail_of(a) != w.rail[w.node[ground]]]
    node = w.node
    return Places(
        tuple(refs),
        np.array([node[a] for a, _ in refs], dtype=np.int64),
        np.array([node[b] for _, b in refs], dtype=np.int64),
    )
