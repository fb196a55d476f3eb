"""The choice of least cost within some rows, and a bound below which none lies."""

import ctypes
import os
import sys
from collections.abc import Collection, Iterator, Sequence
from contextlib import contextmanager
from math import inf
from typing import NamedTuple

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array

from jaunty_copper.choosing.least_cost.limits import ProgrammeRow
from jaunty_copper.physics.copper import Floats

GAP = 1e-4
"""Relative gap at which the solver of integer programmes may stop."""

STDOUT = 1
LONGEST_S = 600.0
"""After so long the best so far is taken in any case."""


@contextmanager
def _quiet() -> Iterator[None]:
    """Keep a line that HiGHS has for its own developers out of what the process writes: it may be JSON."""
    libc = ctypes.CDLL(None)
    try:
        kept = os.dup(STDOUT)
    except OSError:
        # Nobody listens.
        yield
        return
    sys.stdout.flush()
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, STDOUT)
    try:
        yield
    finally:
        libc.fflush(None)
        os.dup2(kept, STDOUT)
        os.close(kept)
        os.close(nowhere)


class ProgrammeAnswer(NamedTuple):
    """An answer of the programme.

    Attributes
    ----------
    chosen : dict or None
        The option at each place; None where no choice keeps all rows, or none was found in time.
    bound : float
        No choice that keeps all rows costs less; inf where there is none.
    """

    chosen: dict[int, int] | None
    bound: float


class Programme:
    """Exactly one option at each place, within rows that only get more.

    Parameters
    ----------
    counts : sequence of int
        Options at each place.
    """

    def __init__(self, counts: Sequence[int]) -> None:
        self.begins = np.cumsum([0, *counts]).tolist()
        self.rows: list[ProgrammeRow] = []

    def add(self, rows: Sequence[ProgrammeRow]) -> None:
        """Ask for more."""
        self.rows.extend(rows)

    def solve(
        self, costs: Sequence[Sequence[float]], seconds: float = LONGEST_S, rows: Sequence[ProgrammeRow] | None = None
    ) -> ProgrammeAnswer:
        """The least cost within the rows, by branch and bound.

        Parameters
        ----------
        costs : sequence of sequence of float
            Of every option of every place.
        seconds : float
            After which the best so far is taken.
        rows : sequence of ProgrammeRow, optional
            In place of all.

        Notes
        -----
        HiGHS by way of `scipy.optimize.milp`.
        """
        rows = self.rows if rows is None else rows
        flat: Floats = np.array([x for c in costs for x in c], dtype=float)
        count, places = flat.size, len(self.begins) - 1
        one = csr_array(
            (np.ones(count), (np.repeat(np.arange(places), np.diff(self.begins)), np.arange(count))),
            shape=(places, count),
        )
        limits = [LinearConstraint(one, 1.0, 1.0)]
        if rows:
            # Rows in volts and rows of counts side by side: each by its largest term.
            size = np.array([max(map(abs, row.terms.values())) for row in rows])
            at = [(n, self.begins[k] + o, v) for n, row in enumerate(rows) for (k, o), v in row.terms.items()]
            index, column, value = (np.array(x) for x in zip(*at, strict=True))
            matrix = csr_array((value / size[index], (index, column)), shape=(len(rows), count))
            limits.append(LinearConstraint(matrix, -inf, np.array([row.most for row in rows]) / size))
        with _quiet():
            found = milp(
                flat, integrality=np.ones(count, dtype=np.int64), bounds=Bounds(0.0, 1.0), constraints=limits,
                options={"mip_rel_gap": GAP, "time_limit": min(seconds, LONGEST_S)},
            )  # fmt: skip
        if found.status == 2:
            return ProgrammeAnswer(None, inf)
        bound = found.mip_dual_bound if found.mip_dual_bound is not None else -inf
        if found.x is None:
            return ProgrammeAnswer(None, float(bound))
        taken = np.flatnonzero(found.x > 0.5)
        places_of = np.searchsorted(self.begins, taken, side="right") - 1
        return ProgrammeAnswer(
            {int(k): int(n - self.begins[k]) for k, n in zip(places_of, taken, strict=True)}, float(bound)
        )

    def without(self, keys: Collection[tuple[str, str]]) -> None:
        """No longer ask for what keeps some findings away.

        Parameters
        ----------
        keys : collection of (str, str)
            Their rules and places.
        """
        self.rows = [row for row in self.rows if row.key not in keys]

    def contradiction(self, costs: Sequence[Sequence[float]]) -> tuple[ProgrammeRow, ...]:
        """Rows that contradict each other, of which none can be left out.

        Parameters
        ----------
        costs : sequence of sequence of float
            As in `solve`.

        Notes
        -----
        U. Junker, QuickXplain, Proceedings of AAAI 2004, 167.
        """
        return tuple(self._blamed(costs, [], [], self.rows))

    def _blamed(
        self,
        costs: Sequence[Sequence[float]],
        given: list[ProgrammeRow],
        last: list[ProgrammeRow],
        rows: list[ProgrammeRow],
    ) -> list[ProgrammeRow]:
        """Of some rows, those without which others that are given can be kept."""
        if last and self.solve(costs, rows=given).chosen is None:
            return []
        if len(rows) <= 1:
            return rows
        one, two = rows[: len(rows) // 2], rows[len(rows) // 2 :]
        of_two = self._blamed(costs, [*given, *one], one, two)
        of_one = self._blamed(costs, [*given, *of_two], of_two, one)
        return [*of_one, *of_two]
