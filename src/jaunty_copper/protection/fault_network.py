"""The branches of a fault in each case: batteries, limited sources, stores, warm or cold copper."""

from typing import Literal, NamedTuple

import numpy as np

from jaunty_copper.network.demand import opened, scenarios_of
from jaunty_copper.network.levels import full_v, lift
from jaunty_copper.network.wiring import JOINT_OHM, Wiring, cells
from jaunty_copper.physics.blocks import Sides
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.physics.equations import SMALLEST_OHM
from jaunty_copper.physics.fault import FaultNetwork
from jaunty_copper.plan.model import (
    Alternator,
    Battery,
    Converter,
    Load,
    Source,
)
from jaunty_copper.protection.copper import Copper

CaseName = Literal["peak", "heat", "steady", "least"]
"""Greatest in the first moment; what heats conductors: batteries as then, all else at its limit; lasting; least."""

OPEN_OHM = 1e6
"""Resistance of what is open: as good as none beside anything that conducts, and no more than numbers of sixteen digits bear beside it."""
NEW_SHARE = 0.9
"""IEC 61660-1: of the internal resistance, in the first moment."""
STEADY_SHARE = 0.95
"""IEC 61660-1: of the EMF, once the first moment is over."""
DECAY_S = 0.1
"""IEC 61660-1: time constant with which a battery falls from the one to the other."""
OLD_SHARE = 1.7
"""Resistance of an old and cold battery over its own; representative."""
PURE_OHM_M = 1.7241e-8
"""Of annealed copper at 20 C (IEC 60028): what a conductor has at least; its standard's figure is what it has at most."""
LOW_SOC = 1
"""Tenths of charge for the least current."""
BAD_JOINT_OHM = 200e-6
"""Upper value of a crimped lug on its stud, representative."""
ALTERNATOR_TIMES, ELECTRONIC_TIMES = 2.5, 1.5
"""Fault current of limited sources over their rated current, in the first moment; representative. It lasts as rated."""
CLOSE_H_PER_M, APART_H_PER_M = 0.25e-6, 0.5e-6
"""Of one conductor: half of 0.5 and 1 microhenry per metre of a close and a spaced pair."""
STRAY_H = 20e-9
"""Of anything that is no conductor: battery, device, bar segment; representative."""
CAPACITOR_OHM = 5e-3
"""Of a bank of input capacitors, representative."""
MOTOR_S = 0.3
"""Time constant with which a shorted motor runs down, representative."""


class Store(NamedTuple):
    """A capacitor or motor between a plus and a minus node; a motor is one that runs down as slowly as it turns."""

    owner: str
    plus: int
    minus: int
    ohm: float
    farad: float
    motor: bool


class Branches(NamedTuple):
    """Every branch in one case: the wiring's, limited sources, stores.

    Attributes
    ----------
    fixed_ohm, copper_ohm, warm_c, emf_v : ndarray, shape (branches,)
        As in a circuit; `copper_ohm` at 20 C, and its temperature before the fault.
    """

    fixed_ohm: Floats
    copper_ohm: Floats
    warm_c: Floats
    emf_v: Floats

    @property
    def ohm(self) -> Floats:
        """Resistance of each."""
        return np.maximum(self.fixed_ohm + resistance_at(self.copper_ohm, self.warm_c), SMALLEST_OHM)


def source_ends(w: Wiring) -> tuple[Ints, Ints]:
    """Minus and plus node of each limited source: its branch drives from the one to the other."""
    ports = [e.output for e in w.sources]
    return (
        np.array([w.node[minus] for _, minus in ports], dtype=np.int64),
        np.array([w.node[plus] for plus, _ in ports], dtype=np.int64),
    )


def stores_of(w: Wiring) -> tuple[Store, ...]:
    """Input capacitors and motors, which give back what they hold."""
    found = []
    for e in w.plan.equipment:
        plus, minus = (w.node[ref] for ref in e.port)
        if e.input_uf is not None:
            found.append(Store(e.id, plus, minus, CAPACITOR_OHM, 1e-6 * e.input_uf, False))
        if isinstance(e, Load) and e.motor_ohm is not None:
            found.append(Store(e.id, plus, minus, e.motor_ohm, MOTOR_S / e.motor_ohm, True))
    return tuple(found)


def henry_of(w: Wiring) -> Floats:
    """Inductance of every branch, H: the wiring's, limited sources, stores."""
    henry = np.full(w.circuit.a.size, STRAY_H)
    for run in w.plan.runs:
        henry[w.branch[run.id]] = max(run.length_m * (APART_H_PER_M if run.apart else CLOSE_H_PER_M), STRAY_H)
    return np.concatenate([henry, np.full(len(w.sources) + len(stores_of(w)), STRAY_H)])


def ends_of(w: Wiring) -> tuple[Ints, Ints]:
    """Ends of every branch: the wiring's, limited sources, stores."""
    c, (minus, plus), stores = w.circuit, source_ends(w), stores_of(w)
    low, high = (np.array([getattr(s, end) for s in stores], dtype=np.int64) for end in ("minus", "plus"))
    return np.concatenate([c.a, minus, low]), np.concatenate([c.b, plus, high])


def network_of(w: Wiring, first: Ints, second: Ints, asked: Ints) -> FaultNetwork:
    """A wiring's copper with everything that drives a fault, for bolted faults between nodes.

    Parameters
    ----------
    first, second : ndarray, shape (faults,)
        Nodes of each fault.
    asked : ndarray, shape (rows,)
        Branches whose currents are wanted.
    """
    return FaultNetwork(w.circuit.nodes, *ends_of(w), first, second, asked)


def switchings(w: Wiring) -> tuple[frozenset[str], ...]:
    """Which switches are open where least currents are looked for: one set for each way in which less may flow.

    First every cross-over between two banks that is drawn open or that a scenario opens, and no other switch; then what
    each scenario leaves open, so far as that takes help away: a string's own switch, a bank's beside another one, a way
    round. A switch that only disconnects what has no source takes none.
    """
    found = list(dict.fromkeys((w.drawn_open, *(opened(w.plan, s) for s in scenarios_of(w.plan)))))
    apart = frozenset[str]().union(*(w.crossings(one) for one in found))
    helping = _helping(w, frozenset[str]().union(*found))
    return tuple(dict.fromkeys((apart, *(one & helping for one in found if one & helping))))


def _helping(w: Wiring, switches: frozenset[str]) -> frozenset[str]:
    """Which closed switches let one source help another, or are one way of several: on both sides something drives."""
    if not switches:
        return switches
    copper = Copper(w)
    ports = [(x.ref("plus"), x.ref("minus")) for x in w.plan.items if isinstance(x, Battery)]
    ports += [(e.ref("out_plus"), e.ref("out_minus")) for e in w.sources if isinstance(e, Converter)]
    sides = Sides(copper.blocks, [w.node[ref] for port in ports for ref in port])
    return frozenset(
        s for s in switches if all(sides.past(copper.edge[w.branch[s]], n) for n in copper.ends[w.branch[s]])
    )


def branches_of(w: Wiring, case: CaseName, open_: frozenset[str] | None = None) -> Branches:
    """Resistance and EMF of every branch: the wiring's, limited sources, stores (which do not conduct here).

    A limited source is its voltage behind as much resistance as lets its fault current flow into
    a bolted short. Every switch is closed but those of `open_`; for the least current, where none are given,
    those of the first of `switchings`. For the least current only converters are left, at their rated current: what
    they feed has no other source.
    """
    c, plan = w.circuit, w.plan
    emf = np.zeros(c.a.size)
    ohm = c.fixed_ohm.copy()
    warm = np.full(c.a.size, 20.0)
    copper = c.copper_ohm.copy()
    if case == "least":
        for run in plan.runs:
            if run.measured_ohm is None:
                joints = (run.joint_a_ohm is None) + (run.joint_b_ohm is None)
                # Bolted straight to one another two parts have one joint.
                ohm[w.branch[run.id]] += (
                    min(joints, 2 if run.length_m else 1) * (BAD_JOINT_OHM - JOINT_OHM) / run.parallel
                )
        for k, run in zip(c.heated, w.heated_runs, strict=True):
            warm[k] = w.parts.insulations[run.insulation].max_c
    else:
        for k, run in zip(c.heated, w.heated_runs, strict=True):
            area_mm2 = w.parts.conductors[run.conductor].area_mm2 * run.parallel
            copper[k] = min(copper[k], PURE_OHM_M * run.length_m / (1e-6 * area_mm2))
    for id_ in switchings(w)[0] if open_ is None and case == "least" else open_ or ():
        ohm[w.branch[id_]] = OPEN_OHM
    lifted = lift(w)
    for b in plan.items:
        if isinstance(b, Battery):
            k = w.branch[b.id]
            emf[k], ohm[k] = _battery(w, b, case, float(ohm[k]), lifted.get(b.id, 1.0))
    set_v = np.array([e.set_v for e in w.sources], dtype=float)
    amps = np.array([_limited(e, case) * e.current_a for e in w.sources], dtype=float)
    behind = np.divide(set_v, amps, out=np.full(set_v.size, np.inf), where=amps > 0.0)
    idle = np.full(len(stores_of(w)), np.inf)
    more = set_v.size + idle.size
    return Branches(
        np.concatenate([ohm, behind, idle]),
        np.concatenate([copper, np.zeros(more)]),
        np.concatenate([warm, np.full(more, 20.0)]),
        np.concatenate([emf, set_v, np.zeros(idle.size)]),
    )


def _limited(e: Source | Converter, case: CaseName) -> float:
    if case == "least":
        return 1.0 if isinstance(e, Converter) else 0.0
    if case in ("steady", "heat"):
        return 1.0
    return ALTERNATOR_TIMES if isinstance(e, Alternator) else ELECTRONIC_TIMES


def _battery(w: Wiring, b: Battery, case: CaseName, ohm: float, lifted: float) -> tuple[float, float]:
    """EMF and resistance of a unit in a case: by its data sheet's short-circuit current where it has one."""
    curve = w.parts.battery_chemistries[b.chemistry].ocv_per_cell_v
    n = cells(b, w.parts)
    full = full_v(b, w.parts)
    stated = None if b.short_circuit_a is None else full / b.short_circuit_a / NEW_SHARE
    if case == "least":
        return n * curve[LOW_SOC], OLD_SHARE * max(ohm, stated or 0.0)
    ohm = stated or ohm
    full *= lifted
    return (full, NEW_SHARE * ohm) if case in ("peak", "heat") else (STEADY_SHARE * full, ohm)
