"""The choice of least cost within some rows, and a bound below which none lies."""

from collections.abc import Sequence
from math import inf
from typing import NamedTuple

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array

from jaunty_copper.choosing.least_cost.limits import Row
from jaunty_copper.physics.copper import Floats

GAP = 1e-6
"""Relative gap at which the solver of integer programmes may stop."""

LONGEST_S = 600.0
"""After so long the best so far is taken in any case."""


class Solved(NamedTuple):
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
    """Exactly one option at each place, the least sum of costs.

    Parameters
    ----------
    costs : sequence of sequence of float
        Of every option of every place.
    """

    def __init__(self, costs: Sequence[Sequence[float]]) -> None:
        self.begins = np.cumsum([0, *(len(c) for c in costs)]).tolist()
        self._costs: Floats = np.array([x for c in costs for x in c], dtype=float)
        self.rows: list[Row] = []

    def add(self, rows: Sequence[Row]) -> None:
        """Ask for more."""
        self.rows.extend(rows)

    def solve(self, seconds: float = LONGEST_S, rows: Sequence[Row] | None = None) -> Solved:
        """The least cost within the rows, by branch and bound.

        Parameters
        ----------
        seconds : float
            After which the best so far is taken.
        rows : sequence of Row, optional
            In place of all.

        Notes
        -----
        HiGHS by way of `scipy.optimize.milp`.
        """
        rows = self.rows if rows is None else rows
        count, places = self._costs.size, len(self.begins) - 1
        one = csr_array(
            (np.ones(count), (np.repeat(np.arange(places), np.diff(self.begins)), np.arange(count))),
            shape=(places, count),
        )
        limits = [LinearConstraint(one, 1.0, 1.0)]
        if rows:
            at = [(n, self.begins[k] + o, v) for n, row in enumerate(rows) for (k, o), v in row.terms.items()]
            index, column, value = (np.array(x) for x in zip(*at, strict=True))
            matrix = csr_array((value, (index, column)), shape=(len(rows), count))
            limits.append(LinearConstraint(matrix, -inf, np.array([row.most for row in rows])))
        found = milp(
            self._costs, integrality=np.ones(count, dtype=np.int64), bounds=Bounds(0.0, 1.0), constraints=limits,
            options={"mip_rel_gap": GAP, "time_limit": min(seconds, LONGEST_S)},
        )  # fmt: skip
        if found.status == 2:
            return Solved(None, inf)
        bound = found.mip_dual_bound if found.mip_dual_bound is not None else -inf
        if found.x is None:
            return Solved(None, float(bound))
        taken = np.flatnonzero(found.x > 0.5)
        places_of = np.searchsorted(self.begins, taken, side="right") - 1
        return Solved({int(k): int(n - self.begins[k]) for k, n in zip(places_of, taken, strict=True)}, float(bound))

    def contradiction(self) -> tuple[str, ...]:
        """What of the rows contradicts itself: of the reasons, a set of which none can be left out.

        Notes
        -----
        Deletion filter: J. W. Chinneck, Feasibility and Infeasibility in Optimization (2008), section 6.2.
        """
        reasons = list(dict.fromkeys(row.why for row in self.rows))
        kept = list(reasons)
        for why in reasons:
            rest = [w for w in kept if w != why]
            if self.solve(rows=[row for row in self.rows if row.why in rest]).chosen is None:
                kept = rest
        return tuple(kept)
