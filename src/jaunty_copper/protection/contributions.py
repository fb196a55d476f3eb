"""What each source, motor and capacitor gives to one short circuit."""

from typing import NamedTuple

import numpy as np

from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.fault import FaultNetwork
from jaunty_copper.protection.fault_network import branches_of, network_of
from jaunty_copper.protection.faults import Faults


class Stored(NamedTuple):
    """What input capacitors or a running motor give to a fault.

    Attributes
    ----------
    current_a : float
        In the first moment.
    decay_s : float
        Time constant with which it dies away.
    """

    current_a: float
    decay_s: float


def contributions(faults: Faults, ref: str) -> dict[str, float]:
    """What each battery, limited source and motor gives to the greatest fault at a terminal, A, by id.

    Parameters
    ----------
    ref : str
        At which a fault is looked at.

    Raises
    ------
    KeyError
        None is.
    """
    w = faults.wiring
    cells_ = np.flatnonzero(w.circuit.is_battery)
    ohm, emf = faults.peak_branches
    first = ohm.size - len(faults.stores)
    motors = [(n, s.owner) for n, s in enumerate(faults.stores, first) if s.motor]
    asked = np.array([*cells_, *range(w.circuit.a.size, first), *(n for n, _ in motors)], dtype=np.int64)
    one = _alone(faults, ref, asked).solve(ohm, emf)
    names = [*(w.branches[b].owner for b in cells_), *(e.id for e in w.sources), *(owner for _, owner in motors)]
    return dict(zip(names, one.branch_a.dense()[:, 0].tolist(), strict=True))


def stored(faults: Faults, ref: str) -> dict[str, Stored]:
    """What input capacitors add to the greatest fault at a terminal before anything else has risen, by id.

    Parameters
    ----------
    ref : str
        At which a fault is looked at.

    Raises
    ------
    KeyError
        None is.
    """
    case = branches_of(faults.wiring, "peak")
    ohm, emf, first = case.ohm, case.emf_v, case.ohm.size - len(faults.stores)
    for n, s in enumerate(faults.stores, first):
        emf[n], ohm[n] = faults.port_v(s), s.ohm
    asked = np.arange(first, ohm.size)
    one = _alone(faults, ref, asked).solve(ohm, emf)
    found = {}
    for n, s in enumerate(faults.stores):
        amps = one.branch_a.at(n, 0)
        if not s.motor and amps > 0.0:
            found[s.owner] = Stored(amps, emf[first + n] / amps * s.farad)
    return found


def _alone(faults: Faults, ref: str, asked: Ints) -> FaultNetwork:
    """The one fault at a terminal, with the branches whose currents are asked for."""
    places, k = faults.places, faults.at[ref]
    return network_of(faults.wiring, places.first[k : k + 1], places.second[k : k + 1], asked)
