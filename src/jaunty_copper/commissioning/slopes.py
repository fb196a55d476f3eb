"""How readings answer to what may differ, some columns at a time: all at once would not fit for a large plan."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from jaunty_copper.commissioning.points import Unknown
from jaunty_copper.physics.answers import Answers
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.giving_up import go_on

if TYPE_CHECKING:
    from jaunty_copper.commissioning.model import Bench

KEPT = 5_000_000
"""Figures that are kept, 40 MB, as those of a plan of a thousand conductors: of more a part is worked out whenever it is asked for."""
AT_ONCE = 500_000
"""Figures of one part, 4 MB."""
ROWS = 1024
"""Rows of a square that are mirrored at once."""


def _ints(values: Iterable[int]) -> Ints:
    return np.fromiter(values, dtype=np.int64)


class Slopes:
    """Change of every reading by every parameter of a bench.

    Parameters
    ----------
    bench : Bench
        Whose operating point is solved.
    answers : Answers
        Of that operating point.
    """

    def __init__(self, bench: Bench, answers: Answers) -> None:
        self._answers, self.parameters, self.points = answers, bench.parameters, len(bench.points)
        w = bench.wiring
        kinds = ("volts", "amps", "joint")
        at = {kind: [k for k, p in enumerate(bench.points) if p.quantity == kind] for kind in kinds}
        volts, amps, joints = ([bench.points[k] for k in at[kind]] for kind in kinds)
        self._volts, self._joints = _ints(at["volts"]), _ints(at["joint"])
        self._plus, self._minus = _ints(w.node[p.a] for p in volts), _ints(w.node[p.b] for p in volts)
        self._clamped, self._currents = _ints(w.branch[p.a] for p in (*amps, *joints)), _ints(at["amps"] + at["joint"])
        self._times = np.array([*(1.0 for _ in amps), *(bench.joint_ohm(p) for p in joints)])
        self._joint_place = _ints(bench.at[Unknown(w.branch[p.a], p.a, p.b)] for p in joints)
        self._joint_a = bench.base.current_a[_ints(w.branch[p.a] for p in joints)]
        # A bank has no column of its own: its units have, each as much as it counts.
        others = np.arange(w.circuit.a.size, answers.count)
        self._column = np.concatenate([bench.branch_of, np.full(len(w.banks), -1, dtype=np.int64), others])
        self._first_bank, self._alike = len(bench.places), bench.alike

    def of(self, parameters: Ints) -> Floats:
        """Slopes of some parameters, shape (points, k).

        Parameters
        ----------
        parameters : ndarray of int, shape (k,)
            Which.
        """
        column = self._column[parameters]
        plain = np.flatnonzero(column >= 0)
        found = self._read(column[plain])
        if plain.size < column.size:
            whole = np.empty((self.points, parameters.size))
            whole[:, plain] = found
            for k in np.flatnonzero(column < 0).tolist():
                counts = self._alike[:, int(parameters[k]) - self._first_bank]
                units = np.flatnonzero(counts)
                whole[:, k] = self._read(units) @ counts[units]
            found = whole
        own, at = np.nonzero(self._joint_place[:, None] == parameters)
        found[self._joints[own], at] += self._joint_a[own]
        return found

    def _read(self, columns: Ints) -> Floats:
        """What meters show of some changes; a temperature is compared alone."""
        s = self._answers.to(columns, self._clamped)
        found = np.zeros((self.points, columns.size))
        found[self._volts] = s.volts[self._plus] - s.volts[self._minus]
        found[self._currents] = s.current * self._times[:, None]
        return found

    @cached_property
    def all(self) -> Floats:
        """Of all parameters, shape (points, parameters)."""
        found = np.empty((self.points, self.parameters))
        for which, part in self._fresh(self.parameters):
            found[:, which] = part
        return found

    def parts(self, upto: int | None = None) -> Iterator[tuple[slice, Floats]]:
        """Slopes of the first so many parameters, or of all, a part at a time: which they are, and the slopes.

        Parameters
        ----------
        upto : int, optional
            How many.
        """
        upto = self.parameters if upto is None else upto
        if self.points * self.parameters <= KEPT or "all" in self.__dict__:
            yield slice(0, upto), self.all[:, :upto]
        else:
            yield from self._fresh(upto)

    def _fresh(self, upto: int) -> Iterator[tuple[slice, Floats]]:
        step = max(1, AT_ONCE // max(1, self.points))
        for begin in range(0, upto, step):
            go_on()
            which = slice(begin, min(begin + step, upto))
            yield which, self.of(np.arange(which.start, which.stop))

    def variances(self, variance: Floats) -> Floats:
        """Variance of each reading where parameters vary by themselves, shape (points,).

        Parameters
        ----------
        variance : ndarray, shape (parameters,)
            Of each parameter.
        """
        found = np.zeros(self.points)
        for which, part in self.parts():
            found += part**2 @ variance[which]
        return found

    def square(self, variance: Floats, points: Ints) -> Floats:
        """Covariance of some readings where parameters vary by themselves, shape (points, points).

        Parameters
        ----------
        variance : ndarray, shape (parameters,)
            Of each parameter.
        points : ndarray of int
            Positions of the readings.
        """
        from scipy.linalg.blas import dsyrk

        total = np.zeros((points.size, points.size), order="F")
        for which, part in self.parts():
            if points.size and variance[which].any():
                varied = part[points] * np.sqrt(variance[which])
                total = dsyrk(1.0, varied.T, trans=1, beta=1.0, c=total, overwrite_c=1, lower=1)
        # One triangle was added up: the other is its mirror.
        for k in range(0, points.size, ROWS):
            upto = k + ROWS
            total[:k, k:upto] = total[k:upto, :k].T
            own = np.tril(total[k:upto, k:upto])
            total[k:upto, k:upto] = own + np.tril(own, -1).T
        return total
