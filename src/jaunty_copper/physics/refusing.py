"""Units that give and let nothing in, as lithium too cold to be charged does: which of them are out at a moment."""

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from jaunty_copper.physics.circuit import Circuit, Duty, Flags, OperatingPoint
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.operating_point import Solver

LETS_IN_A = 1e-3
"""Less than that counts as nothing."""
GIVES_V = 1e-6
"""EMF above what is across it from which a unit that is out gives again."""
MOST_CHANGES = 4
"""How often units may go out and come back, for each of them, within one moment."""


class Refusing:
    """Which units are out, so that nothing goes into any that refuses it.

    Each that refuses either gives, or is out with no less across it than its EMF: an ideal diode in series.

    Parameters
    ----------
    circuit : Circuit
        Of which they are the battery branches.
    no_charge : ndarray of bool, shape (u,)
        Which of them let nothing in.
    """

    def __init__(self, circuit: Circuit, no_charge: Flags) -> None:
        self.circuit, self.no_charge = circuit, no_charge
        self.cells = np.flatnonzero(circuit.is_battery)
        self.out: Flags = np.zeros(no_charge.size, dtype=bool)
        self.changes = 0

    def without(self, duty: Duty) -> Duty:
        """What is asked, without the units that are out.

        Parameters
        ----------
        duty : Duty
            Of the circuit.
        """
        if not self.out.any():
            return duty
        closed = duty.closed.copy()
        closed[self.cells[self.out]] = False
        return replace(duty, closed=closed)

    def settle(self, emf: Floats, point: OperatingPoint) -> bool:
        """Whether all do as they may; else one goes out, or comes back, and it is to be solved again.

        One at a time: of units in series the first that is out ends the current of all.

        Parameters
        ----------
        emf : ndarray, shape (u,)
            Of each unit, V.
        point : OperatingPoint
            With those out that are.
        """
        into = np.where(self.no_charge & ~self.out, -point.current_a[self.cells], 0.0)
        gives = np.where(self.out, emf - self._across(point.volts), 0.0)
        k, back = int(np.argmax(into)), int(np.argmax(gives))
        self.changes += 1
        if self.changes <= MOST_CHANGES * self.out.size:
            if into[k] > LETS_IN_A:
                self.out[k] = True
                return False
            if gives[back] > GIVES_V:
                self.out[back] = False
                return False
        self.changes = 0
        return True

    def room(self, emf: Floats, point: OperatingPoint, answer: Floats) -> tuple[Floats, Floats]:
        """How far each that is out is from giving again, V, and how that answers to each unit's EMF.

        Parameters
        ----------
        emf : ndarray, shape (u,)
            Of each unit, V.
        point : OperatingPoint
            With those out that are.
        answer : ndarray, shape (nodes, u)
            Of every node's voltage to each EMF.
        """
        room = self._across(point.volts) - emf + GIVES_V
        return room[self.out], (self._across(answer) - np.eye(self.out.size))[self.out]

    def _across(self, volts: Floats) -> Floats:
        return np.asarray(volts[self.circuit.b[self.cells]] - volts[self.circuit.a[self.cells]])


class Settled(NamedTuple):
    """A duty in which nothing goes into any unit that refuses it.

    Attributes
    ----------
    duty : Duty
        Without the units that are out; the very one that was asked where none is.
    point : OperatingPoint
        Of that.
    charged : OperatingPoint
        If all took what comes.
    """

    duty: Duty
    point: OperatingPoint
    charged: OperatingPoint


def solved(solver: Solver, duty: Duty, no_charge: Flags) -> Settled:
    """Solve a duty so that nothing goes into any unit that refuses it.

    Parameters
    ----------
    solver : Solver
        Of the circuit.
    duty : Duty
        With the units' EMF.
    no_charge : ndarray of bool, shape (u,)
        Which of them let nothing in.
    """
    refusing = Refusing(solver.circuit, no_charge)
    asked, point = duty, solver.solve(duty)
    charged = point
    while no_charge.any() and point.solved and not refusing.settle(duty.emf_v[refusing.cells], point):
        asked = refusing.without(duty)
        point = solver.solve(asked)
    return Settled(asked, point, charged)
