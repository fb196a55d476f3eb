"""Prospective short-circuit currents of a plan: everywhere, greatest and least, and through each device."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.fault import FaultNetwork
from jaunty_copper.physics.fault_course import NOTHING_A
from jaunty_copper.physics.fault_currents import FaultCurrents
from jaunty_copper.physics.ranges import marked
from jaunty_copper.plan.model import Breaker, Contactor, Converter, Disconnect, Equipment, Fuse, split_ref
from jaunty_copper.protection.behind import Behind
from jaunty_copper.protection.copper import Copper
from jaunty_copper.protection.fault_network import (
    OPEN_OHM,
    Store,
    branches_of,
    henry_of,
    network_of,
    stores_of,
    switchings,
)
from jaunty_copper.protection.places import Places, places_of

WHOLE = 0.99
"""Share of a fault from which a device carries all of it."""
HAS_PART = 0.02
"""Share of what equipment draws from which on a device has a part in feeding it."""


@dataclass(frozen=True)
class Faults:
    """Fault currents of one plan.

    Attributes
    ----------
    devices : tuple of str
        Ids of fuses and breakers, in the order of the first rows of `branch_a`.
    switches : tuple of str
        Ids of disconnects and contactors, in the order of the rows that follow.
    """

    wiring: Wiring
    places: Places
    devices: tuple[str, ...]
    switches: tuple[str, ...]
    network: FaultNetwork

    @cached_property
    def peak(self) -> FaultCurrents:
        """The greatest currents, in the first moment."""
        return self.network.solve(*self.peak_branches)

    @cached_property
    def peak_branches(self) -> tuple[Floats, Floats]:
        """Resistance and EMF of the first moment, motors among what drives."""
        case = branches_of(self.wiring, "peak")
        ohm, emf = case.ohm, case.emf_v
        for k, s in enumerate(self.stores, ohm.size - len(self.stores)):
            if s.motor:
                emf[k], ohm[k] = self.port_v(s), s.ohm
        return ohm, emf

    def without(self, *opened: str) -> FaultCurrents:
        """The greatest currents with some devices or switches open."""
        key = frozenset(opened)
        if key not in self._without:
            ohm, emf = self.peak_branches
            ohm = ohm.copy()
            ohm[[self.wiring.branch[id_] for id_ in key]] = OPEN_OHM
            self._without[key] = self.network.solve(ohm, emf)
        return self._without[key]

    @cached_property
    def _without(self) -> dict[frozenset[str], FaultCurrents]:
        return {frozenset(): self.peak}

    @cached_property
    def heat(self) -> FaultCurrents:
        """What heats conductors most: batteries as in the first moment, limited sources at their limit."""
        case = branches_of(self.wiring, "heat")
        return self.network.solve(case.ohm, case.emf_v)

    @cached_property
    def heats(self) -> tuple[tuple[frozenset[str], FaultCurrents], ...]:
        """What heats conductors most, as all is closed, and with each way off beside which another one lies."""
        others = []
        for opened in Copper(self.wiring).ways_off:
            case = branches_of(self.wiring, "heat", opened)
            others.append((opened, self.network.solve(case.ohm, case.emf_v)))
        return ((frozenset(), self.heat), *others)

    @cached_property
    def steady(self) -> FaultCurrents:
        """The greatest currents, once the first moment is over."""
        case = branches_of(self.wiring, "steady")
        return self.network.solve(case.ohm, case.emf_v)

    @cached_property
    def least(self) -> FaultCurrents:
        """The least currents: low, old and cold units, warm conductors, poor joints; all sources but those apart."""
        return self.leasts[0]

    @cached_property
    def switchings(self) -> tuple[frozenset[str], ...]:
        """Which switches are open in each of `leasts`."""
        return switchings(self.wiring)

    @cached_property
    def leasts(self) -> tuple[FaultCurrents, ...]:
        """The least currents in every way in which the plan's scenarios take help away."""
        cases = (branches_of(self.wiring, "least", opened) for opened in self.switchings)
        return tuple(self.network.solve(case.ohm, case.emf_v) for case in cases)

    @cached_property
    def _least_each(self) -> tuple[Floats, Ints]:
        """The least current of each fault that flows at all, A, and in which of `leasts`."""
        amps = np.abs(np.stack([f.current_a for f in self.leasts]))
        which = np.where(amps > NOTHING_A, amps, np.inf).argmin(axis=0)
        return amps[which, np.arange(which.size)], which

    def least_of(self, column: int) -> float:
        """The least current of a fault, A.

        Parameters
        ----------
        column : int
            Of the fault.
        """
        return float(self._least_each[0][column])

    def least_in(self, column: int) -> int:
        """In which of `leasts` a fault has its least current.

        Parameters
        ----------
        column : int
            Of the fault.
        """
        return int(self._least_each[1][column])

    def least_through(self, row: int) -> Floats:
        """The least current that each fault drives through a device or switch, A, shape (places,); of what flows at all.

        Parameters
        ----------
        row : int
            Of the device or switch.
        """
        return _least_of_what_flows(np.abs(np.stack([f.branch_a.row(row) for f in self.leasts])))

    @cached_property
    def least_behind_a(self) -> Floats:
        """The least current that faults drive through each device that carries them whole, A, shape (devices,); inf where none."""
        found = np.full(len(self.devices), np.inf)
        row, fault = self.behind.device, self.behind.fault
        amps = np.abs(np.stack([f.branch_a.each(row, fault) for f in self.leasts]))
        np.minimum.at(found, row, _least_of_what_flows(amps))
        return found

    @cached_property
    def stores(self) -> tuple[Store, ...]:
        """Input capacitors and motors."""
        return stores_of(self.wiring)

    def port_v(self, s: Store) -> float:
        """Voltage to which a store is charged when the fault begins."""
        return float(self._charged.open_v[self._store_at[s.plus]])

    @cached_property
    def _charged(self) -> FaultCurrents:
        case, stores = branches_of(self.wiring, "peak"), self.stores
        plus, minus = (np.array([getattr(s, end) for s in stores], dtype=np.int64) for end in ("plus", "minus"))
        return network_of(self.wiring, plus, minus, np.zeros(0, dtype=np.int64)).solve(case.ohm, case.emf_v)

    @cached_property
    def _store_at(self) -> dict[int, int]:
        return {s.plus: k for k, s in enumerate(self.stores)}

    @cached_property
    def rise_s(self) -> Floats:
        """Time constant of the rise of each fault's greatest current, s; 95 % after three of them."""
        found = self.network.solve(*self.peak_branches, henry=henry_of(self.wiring))
        return np.divide(found.henry, found.ohm, out=np.zeros_like(found.ohm), where=found.ohm > 0.0)

    @cached_property
    def row(self) -> dict[str, int]:
        """Row of each device and switch."""
        return {d: k for k, d in enumerate((*self.devices, *self.switches))}

    @cached_property
    def at(self) -> dict[str, int]:
        """Column of the fault at each terminal, pole to pole, against the return that gives most."""
        amps = np.abs(self.peak.current_a)
        return {ref: max(ks, key=lambda k: float(amps[k])) for ref, ks in self.places.columns.items()}

    @cached_property
    def far(self) -> dict[str, int]:
        """Column of the fault at each terminal, pole to pole, against the return that gives least."""
        amps = self._least_each[0]
        return {ref: min(ks, key=lambda k: float(amps[k])) for ref, ks in self.places.columns.items()}

    @property
    def rows(self) -> tuple[tuple[tuple[str, str], int, int], ...]:
        """What is known of short circuits: their terminals, and the columns of the greatest and of the least.

        One of each terminal from pole to pole, and one to chassis.
        """
        pairs = [
            *((k, self.far[ref]) for ref, k in self.at.items()),
            *((ks[0], ks[0]) for ks in self.places.chassis.values()),
        ]
        return tuple((self.places.refs[k], k, far) for k, far in pairs)

    def most_a(self, ref: str) -> float:
        """The greatest fault current at a terminal, A, pole to pole, in the first moment."""
        return abs(float(self.peak.current_a[self.at[ref]]))

    def least_a(self, ref: str) -> float:
        """The least fault current at a terminal, A, pole to pole."""
        return self.least_of(self.far[ref])

    @cached_property
    def greatest_a(self) -> float:
        """The greatest fault current anywhere, A."""
        return float(np.abs(self.peak.current_a).max(initial=1.0))

    def prospective(self, device: str) -> tuple[float, str]:
        """Greatest current that a fault drives through a link in place of a device or switch, A, and where it lies.

        Seen from each side that can feed: with the fault at either of its own terminals, or where it carries most.
        """
        k = self.row[device]
        amps, where = float(self._prospective[0][k]), int(self._prospective[1][k])
        return amps, self.places.refs[where][0] if self.places.refs else ""

    def prospective_in(self, device: str) -> tuple[tuple[int, float], ...]:
        """Faults in which that greatest current is looked for, by their columns, and what flows in each, A."""
        rows, columns, amps = self._linked
        own = np.flatnonzero(rows == self.row[device])
        return tuple(zip(columns[own].tolist(), amps[own].tolist(), strict=True))

    @cached_property
    def _prospective(self) -> tuple[Floats, Ints]:
        rows, columns, amps = self._linked
        order = np.argsort(amps, kind="stable")
        most, where = np.zeros(len(self.row)), np.zeros(len(self.row), dtype=np.int64)
        most[rows[order]], where[rows[order]] = amps[order], columns[order]
        return most, where

    @cached_property
    def _linked(self) -> tuple[Ints, Ints, Floats]:
        """Devices by their rows, faults by their columns, and the current of each if a link stood in its place."""
        rows, columns, _ = self._looked_at
        return rows, columns, self._linked_a(self.peak)

    @cached_property
    def _looked_at(self) -> tuple[Ints, Ints, Flags]:
        """Rows of devices and columns of the faults in which their prospective current is looked for; which are at their own ends."""
        if not self.places.refs:
            return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64), np.zeros(0, dtype=bool)
        of_ref: dict[str, list[int]] = {}
        for column, (ref, _) in enumerate(self.places.refs):
            of_ref.setdefault(ref, []).append(column)
        worst = self._greatest[1].tolist()
        pairs = [
            (k, column)
            for device, k in self.row.items()
            for column in {worst[k], *of_ref.get(f"{device}.a", ()), *of_ref.get(f"{device}.b", ())}
        ]
        rows, columns = np.array(pairs, dtype=np.int64).reshape(-1, 2).T
        names = (*self.devices, *self.switches)
        at_own = np.array([split_ref(self.places.refs[column][0])[0] == names[k] for k, column in pairs], dtype=bool)
        return rows, columns, at_own

    def _linked_a(self, found: FaultCurrents) -> Floats:
        """Currents of `_looked_at` if a link stood in each device's place, A, with these currents of the network."""
        rows, columns, at_own = self._looked_at
        amps = np.abs(found.prospective_a(rows, columns))
        # What lies beside it may open first: then all that reaches its own terminal flows through it.
        amps[at_own] = np.maximum(amps[at_own], np.abs(found.unaided_a(rows[at_own], columns[at_own])))
        return amps

    def varied_a(self, fixed: Floats, copper: Floats) -> Floats:
        """Greatest prospective current of each device and switch, A, in the order of `row`, with other resistances.

        Parameters
        ----------
        fixed, copper : ndarray, shape (branches of the wiring,)
            Times what is given of joints, bodies and units, and of copper.
        """
        case, (ohm, emf) = branches_of(self.wiring, "peak"), self.peak_branches
        n, varied = fixed.size, ohm.copy()
        times = case._replace(
            fixed_ohm=case.fixed_ohm[:n] * fixed, copper_ohm=case.copper_ohm[:n] * copper, warm_c=case.warm_c[:n]
        )
        varied[:n] = times.ohm
        most = np.zeros(len(self.row))
        np.maximum.at(most, self._looked_at[0], self._linked_a(self.network.solve(varied, emf)))
        return most

    def greatest_through(self, device: str) -> tuple[float, str]:
        """Greatest current that a fault anywhere drives through a device or switch, A, and where it lies."""
        most, where = self._greatest
        k = self.row[device]
        return float(most[k]), self.places.refs[int(where[k])][0] if self.places.refs else ""

    def both_ways(self, device: str) -> tuple[float, float]:
        """Greatest fault current through a device or switch from its terminal a to b, and from b to a, A."""
        amps = self.peak.branch_a.row(self.row[device])
        return max(float(amps.max(initial=0.0)), 0.0), max(float(-amps.min(initial=0.0)), 0.0)

    def feeds_from_a(self, device: str) -> bool:
        """Whether the greatest fault current through a device enters at its terminal a."""
        k = self.row[device]
        return not self.places.refs or self.peak.branch_a.at(k, int(self._greatest[1][k])) >= 0.0

    @cached_property
    def _greatest(self) -> tuple[Floats, Ints]:
        """Greatest current through each device, and the place."""
        return self.peak.branch_a.greatest()

    @cached_property
    def behind(self) -> Behind:
        """For each device the faults whose whole current it carries."""
        places, count = self.least.current_a.size, len(self.devices)
        row, fault, amps = self.least.branch_a.during(np.arange(places), WHOLE)
        on = (row < count) & (np.abs(amps) > NOTHING_A)
        order = np.lexsort((fault[on], row[on]))
        return Behind((count, places), row[on][order], fault[on][order])

    def shorts_through(self, device: str) -> Flags:
        """Faults whose whole current a device carries; where there are none, those of which it carries a part; shape (places,)."""
        k = self.row[device]
        whole_of = self.behind.faults_of(k)
        if whole_of.size:
            return marked(self.least.current_a.size, whole_of)
        amps, whole = np.abs(self.least.branch_a.row(k)), np.abs(self.least.current_a)
        return np.asarray((amps >= HAS_PART * whole) & (amps > NOTHING_A))

    @cached_property
    def fed(self) -> tuple[tuple[Equipment, ...], Ints]:
        """Equipment across whose port a fault is looked at, and its column."""
        found = [(e, self.far[e.port[0]]) for e in self.wiring.plan.equipment if e.port[0] in self.at]
        return tuple(e for e, _ in found), np.array([k for _, k in found], dtype=np.int64)

    def hangs_on(self, device: str) -> tuple[Equipment, ...]:
        """Equipment that is fed through a device alone."""
        equipment, columns = self.fed
        return tuple(
            equipment[k] for k in np.flatnonzero(np.isin(columns, self.behind.faults_of(self.row[device]))).tolist()
        )

    @cached_property
    def _ports(self) -> tuple[tuple[str, ...], Ints, Floats]:
        """Plus terminals at which equipment takes or gives current, the columns of faults there, and what comes there by copper, A."""
        everything = self.wiring.plan.equipment
        # Of a fault at its own output a converter gives its rated current itself.
        own = {e.port[0]: 0.0 for e in everything} | {
            e.output[0]: e.current_a for e in everything if isinstance(e, Converter)
        }
        refs = tuple(ref for ref in own if ref in self.far)
        columns = np.array([self.far[ref] for ref in refs], dtype=np.int64)
        return refs, columns, np.abs(self.least.current_a)[columns] - np.array([own[ref] for ref in refs])

    def shares(self, device: str) -> dict[str, float]:
        """Of what equipment takes or gives, by its plus terminal, the share that flows through a device.

        Below 0 where what it takes enters at the device's terminal b; without what is too little to count.
        """
        refs, columns, whole = self._ports
        amps = self.least.branch_a.row(self.row[device])[columns]
        share = np.divide(amps, whole, out=np.zeros_like(whole), where=whole > NOTHING_A).clip(-1.0, 1.0)
        return {refs[k]: float(share[k]) for k in np.flatnonzero(np.abs(share) >= HAS_PART).tolist()}


def _least_of_what_flows(amps: Floats) -> Floats:
    """Of currents, shape (cases, n), the least that are any, shape (n,); the first where none is."""
    least = np.where(amps > NOTHING_A, amps, np.inf).min(axis=0)
    return np.asarray(np.where(np.isfinite(least), least, amps[0]))


def faults_of(wiring: Wiring) -> Faults:
    """Compute all fault currents of a plan, every switch closed but cross-overs for the least."""
    places = places_of(wiring)
    found = tuple(x.id for x in wiring.plan.items if isinstance(x, Fuse | Breaker))
    switches = tuple(x.id for x in wiring.plan.items if isinstance(x, Disconnect | Contactor))
    branches = np.array([wiring.branch[id_] for id_ in (*found, *switches)], dtype=np.int64)
    network = network_of(wiring, places.first, places.second, branches)
    return Faults(wiring, places, found, switches, network)
