"""What becomes of short circuits at each conductor of a plan: which devices open, in which order, and whether it survives."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.fault_currents import FaultCurrents
from jaunty_copper.physics.ranges import expanded
from jaunty_copper.physics.sequence import Openers, Sequences, sequences
from jaunty_copper.physics.warming import Watched
from jaunty_copper.plan.model import Chassis, split_ref
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.faults import WHOLE, Faults
from jaunty_copper.protection.guard import Guard
from jaunty_copper.protection.withstand import Withstand

STEPS = 24
"""Currents tried from the greatest down to what the smallest device on the way is worth."""
CLOSE_STEPS = 200
"""As many where one thing is followed, whose worst current lies between two steps of the curves."""
CARRIES = 0.2
"""A device with this share of a fault's current is on its way."""


@dataclass(frozen=True)
class RunFaults:
    """Conductors in faults at their ends: one entry for each conductor and fault.

    Attributes
    ----------
    row : ndarray of int, shape (watched,)
        Which conductor, in the order of `Withstand.runs`.
    case : ndarray of int, shape (watched,)
        Which case of `found`.
    column : ndarray of int, shape (cases,)
        Which fault of the plan's places each case is.
    pairs : ndarray of int, shape (pairs, 2)
        Each conductor, ascending, with each fault that it is followed in.
    found : Sequences
        What becomes of it.
    opened : frozenset of str
        Switches and plugs that are open meanwhile.
    """

    row: Ints
    case: Ints
    column: Ints
    pairs: Ints
    found: Sequences
    opened: frozenset[str] = frozenset()

    @cached_property
    def _begins(self) -> Ints:
        return np.searchsorted(self.row, np.arange(int(self.row.max(initial=-1)) + 2))

    def of(self, row: int) -> Ints:
        """Entries of one conductor.

        Parameters
        ----------
        row : int
            Of the conductor.
        """
        if row + 1 >= self._begins.size:
            return np.zeros(0, dtype=np.int64)
        return np.arange(self._begins[row], self._begins[row + 1])

    def columns(self, row: int) -> list[int]:
        """Faults that one conductor is followed in.

        Parameters
        ----------
        row : int
            Of the conductor.
        """
        low, high = np.searchsorted(self.pairs[:, 0], (row, row + 1))
        return [int(k) for k in self.pairs[low:high, 1]]


def at_ends(faults: Faults, guard: Guard, withstand: Withstand) -> Ints:
    """Conductors' rows, each with the faults at its ends; for one that leads to chassis, all faults to that; shape (pairs, 2)."""
    w, places = faults.wiring, faults.places
    open_ = guard.open_nodes
    at: dict[int, list[int]] = {}
    for k, ends in enumerate(zip(places.first.tolist(), places.second.tolist(), strict=True)):
        # Where nothing opens that is a finding of its own, not as what each conductor of the circuit suffers.
        for n in ends if open_.isdisjoint(ends) else ():
            at.setdefault(n, []).append(k)
    chassis = {x.id for x in w.plan.items if isinstance(x, Chassis)}
    to_chassis = [k for k in range(places.poles, len(places.refs)) if int(places.first[k]) not in open_]
    pairs: list[tuple[int, int]] = []
    for row, run in enumerate(withstand.runs):
        bonds = not chassis.isdisjoint((split_ref(run.a)[0], split_ref(run.b)[0]))
        columns: Iterable[int] = [*at.get(w.node[run.a], ()), *at.get(w.node[run.b], ())]
        pairs += [(row, k) for k in dict.fromkeys([*columns, *(to_chassis if bonds else ())])]
    return np.array(pairs, dtype=np.int64).reshape(-1, 2)


def at_greatest(
    faults: Faults, pairs: Ints, devices: dict[str, Device], withstand: Withstand, bears_a: Floats
) -> tuple[RunFaults, ...]:
    """Conductors in faults at their ends, from the greatest current down to what the smallest device is worth.

    First with everything closed; then for each of `Faults.heats`.

    Parameters
    ----------
    pairs : ndarray of int, shape (pairs, 2)
        Conductors with the faults to follow each in, as `at_ends` gives them.
    bears_a : ndarray, shape (runs,)
        What each conductor may carry for good, A, in the order of `withstand.runs`.
    """
    return tuple(
        _follow(faults, heat, pairs, devices, withstand, bears_a, STEPS, opened) for opened, heat in faults.heats
    )


def at_least(
    faults: Faults, pairs: Ints, devices: dict[str, Device], withstand: Withstand, bears_a: Floats
) -> tuple[RunFaults, ...]:
    """Conductors in the least faults at their ends, for each of `Faults.leasts`; parameters as in `at_greatest`.

    Parameters
    ----------
    pairs : ndarray of int, shape (pairs, 2)
        Conductors with the faults to follow each in.
    bears_a : ndarray, shape (rows,)
        Ampacity of each conductor, A.
    """
    # The first is what all scenarios share.
    opened = (frozenset[str](), *faults.switchings[1:])
    return tuple(
        _follow(faults, least, pairs, devices, withstand, bears_a, 1, off)
        for off, least in zip(opened, faults.leasts, strict=True)
    )


class Through(NamedTuple):
    """The worst short circuit that a switch carries.

    Attributes
    ----------
    let_a2s : float
        Integral of the square of its current, A²s, over the first five seconds at most.
    current_a : float
        Before anything opens, A.
    until_s : float
        When the devices have ended it, s; inf where they do not.
    opened : str
        The device that does; empty where none does.
    """

    let_a2s: float
    current_a: float
    until_s: float
    opened: str


def through_switch(faults: Faults, devices: dict[str, Device], switch: str, from_a: float) -> Through:
    """What a switch carries of all shorts until devices have ended it, bolted ones and those that a resistance limits.

    Of places at which the same devices drive through it one is followed, the nearest: from either side, with
    everything closed and with each way off beside which another one lies.

    Parameters
    ----------
    faults : Faults
        Of the plan.
    devices : dict
        By id.
    switch : str
        Id of a switch.
    from_a : float
        Current of which it need not be afraid, A.
    """
    openers = [devices[d] for d in faults.devices]
    worth, bands = np.array([d.slow_a for d in openers]), tuple(d.band for d in openers)
    worst = Through(0.0, 0.0, 0.0, "")
    for opened, currents in faults.heats:
        if switch in opened:
            continue
        columns = _differing(currents, faults.row[switch], len(openers), from_a)
        column, ohm, _ = _cases(currents, columns, worth, CLOSE_STEPS)
        k = np.arange(column.size)
        branch = np.array([faults.wiring.branch[switch]], dtype=np.int64)
        # It does not warm in the sense of a cable, and it is over once next to nothing flows.
        never, cool = np.full(1, 1e12), np.full(1, 20.0)
        watched = Watched(k, np.zeros_like(k), branch, never, cool, cool + 1e3, cool, never, np.full(1, from_a))
        found = sequences(currents, column, ohm, Openers(worth, bands), watched)
        if not k.size or float(found.let_a2s.max()) <= worst.let_a2s:
            continue
        most = int(np.argmax(found.let_a2s))
        until = float(found.until_s[most])
        order = [faults.devices[d] for d, t in found.order(most) if t <= until * (1.0 + 1e-9)]
        worst = Through(
            float(found.let_a2s[most]), float(found.carried_a[most]), until, order[-1] if order and np.isfinite(until) else ""
        )  # fmt: skip
    return worst


def _differing(currents: FaultCurrents, row: int, devices: int, from_a: float) -> Ints:
    """Of the faults that drive more than some current through a branch, those that others do not cover, for each direction.

    A device that carries all of a fault only ends it sooner: where the same others have a part in a fault that is no
    less, with fewer such devices, that one is the worse. So of a main switch's faults those at the bars stand for all
    circuits.
    """
    through = currents.branch_a.row(row)
    columns = np.flatnonzero(np.abs(through) > from_a)
    columns = columns[np.argsort(-np.abs(through[columns]), kind="stable")]
    device, position, amps = currents.branch_a.during(columns, CARRIES)
    whole = np.abs(currents.current_a[columns])
    on = device < devices
    all_of_it, part_of_it = ([set[int]() for _ in columns] for _ in range(2))
    for d, k, a in zip(device[on].tolist(), position[on].tolist(), np.abs(amps[on]).tolist(), strict=True):
        (all_of_it if a >= WHOLE * whole[k] else part_of_it)[k].add(d)
    kept: dict[tuple[bool, frozenset[int]], list[set[int]]] = {}
    found = []
    for column, alone, others in zip(columns.tolist(), all_of_it, part_of_it, strict=True):
        known = kept.setdefault((bool(through[column] > 0.0), frozenset(others)), [])
        if not any(fewer <= alone for fewer in known):
            known.append(alone)
            found.append(column)
    return np.array(found, dtype=np.int64)


class Opening(NamedTuple):
    """A device in the sequence of a short circuit.

    Attributes
    ----------
    soonest_s : float
        When it opens in the greatest fault, every device by the fast edge of its band; inf where it need not.
    latest_s : float
        By when it has opened in the least fault, every device by the slow edge; inf where there is no guarantee.
    """

    device: str
    soonest_s: float
    latest_s: float


class Sequence(NamedTuple):
    """What becomes of a short circuit at a terminal.

    Attributes
    ----------
    openings : tuple of Opening
        In the order in which they are to be expected.
    left_a : float
        What goes on flowing in the greatest fault, A, when no more opens.
    """

    openings: tuple[Opening, ...]
    left_a: float


def at_terminal(faults: Faults, devices: dict[str, Device], ref: str) -> Sequence:
    """The sequence of the short circuit from pole to pole at a terminal.

    Raises
    ------
    KeyError
        No fault is looked at there.
    """
    openers = [devices[d] for d in faults.devices]
    bands, none = tuple(d.band for d in openers), np.zeros(0)
    nobody = none.astype(np.int64)
    nothing = Watched(nobody, nobody, nobody, *(none for _ in range(6)))
    far = faults.far[ref]
    soon, late = (
        sequences(currents, np.array([column]), np.zeros(1), Openers(np.array(worth), bands, certainly), nothing)
        for currents, column, worth, certainly in (
            (faults.heat, faults.at[ref], [d.fast_a for d in openers], False),
            (faults.leasts[faults.least_in(far)], far, [d.slow_a for d in openers], True),
        )
    )
    first, last = ({faults.devices[d]: t for d, t in found.order(0)} for found in (soon, late))
    found = [Opening(d, first.get(d, np.inf), last.get(d, np.inf)) for d in dict.fromkeys([*first, *last])]
    return Sequence(tuple(sorted(found, key=lambda o: (o.soonest_s, o.latest_s))), float(soon.left_a[0]))


def _follow(
    faults: Faults, currents: FaultCurrents, pairs: Ints, devices: dict[str, Device], withstand: Withstand,
    bears_a: Floats, steps: int, opened: frozenset[str],
) -> RunFaults:  # fmt: skip
    row, column = pairs[:, 0], pairs[:, 1]
    used, place = np.unique(column, return_inverse=True)
    openers = [devices[d] for d in faults.devices]
    worth = np.array([d.slow_a for d in openers])
    case_column, ohm, begins = _cases(currents, used, worth, steps)
    pair, case = expanded(begins[:-1][place], np.diff(begins)[place])
    watched_row = row[pair]
    order = np.lexsort((case, watched_row))
    watched_row, case = watched_row[order], case[order]
    branch = np.array([faults.wiring.branch[r.id] for r in withstand.runs], dtype=np.int64)
    e = withstand
    watched = Watched(case, watched_row, branch, e.area_mm2, e.start_c, e.end_c, e.air_c, e.long_a, bears_a)
    found = sequences(currents, case_column, ohm, Openers(worth, tuple(d.band for d in openers)), watched)
    return RunFaults(watched_row, case, case_column, pairs, found, opened)


def _cases(currents: FaultCurrents, used: Ints, worth: Floats, steps: int) -> tuple[Ints, Floats, Ints]:
    """For each fault that is used its cases: column, resistance of the fault, and where each fault's begin."""
    whole = np.abs(currents.current_a[used])
    low = whole.copy()
    if steps > 1 and worth.size:
        device, position, _ = currents.branch_a.during(used, CARRIES)
        on = device < worth.size
        np.minimum.at(low, position[on], worth[device[on]])
    many = np.where(low < whole, steps, 1)
    begins = np.concatenate([[0], np.cumsum(many)])
    of = np.repeat(np.arange(used.size), many)
    within = np.arange(of.size) - begins[:-1][of]
    share = within / np.maximum(many[of] - 1, 1)
    # The first is the bolted fault.
    wanted = whole[of] * (np.maximum(low[of], 1e-9) / np.maximum(whole[of], 1e-9)) ** share
    volts, seen = np.abs(currents.open_v[used][of]), currents.ohm[used][of]
    flows = (wanted > 0.0) & np.isfinite(seen)
    ohm = np.where(flows, volts / np.where(flows, wanted, 1.0) - np.where(flows, seen, 0.0), 0.0)
    return used[of], np.maximum(np.where(within == 0, 0.0, ohm), 0.0), begins
