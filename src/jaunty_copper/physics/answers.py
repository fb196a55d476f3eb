"""How an operating point answers to small changes: of the batteries' EMF, of resistances, of loads, of the charge."""

import numpy as np

from jaunty_copper.physics.circuit import Ints, Response, Sensitivity
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.equations import NewtonState
from jaunty_copper.physics.heat import steady_temperature
from jaunty_copper.physics.modes import CURRENT, POWER, VOLTAGE
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.setting import Setting


def response(solver: Solver) -> Response:
    """How the last operating point answers to small changes of the batteries' EMF.

    Modes and conductor temperatures stay as they are. One factorisation at that point.

    Parameters
    ----------
    solver : Solver
        That has found one.

    Raises
    ------
    ValueError
        Nothing has been solved.
    """
    c, (s, state) = solver.circuit, solver.last()
    g = solver.equations.conductance(state, s.duty)
    cells = np.flatnonzero(c.is_battery)
    push = np.zeros((c.nodes + c.source_plus.size, cells.size))
    k = np.arange(cells.size)
    np.add.at(push, (c.a[cells], k), -g[cells])
    np.add.at(push, (c.b[cells], k), g[cells])
    moved = solver.linear(g)(push)
    own = np.zeros((cells.size, cells.size))
    own[k, k] = 1.0
    v = moved[: c.nodes]
    return Response(
        cells=cells,
        current_s=g[cells, None] * (v[c.a[cells]] - v[c.b[cells]] + own),
        volts=v,
        source_s=moved[c.nodes :],
    )


class Answers:
    """How the last operating point answers to more resistance, to larger loads and to another charge.

    Modes stay as they are. One factorisation at that point, with each conductor's resistance to a
    small change of its current: what it has, and what warming adds.

    Parameters
    ----------
    solver : Solver
        That has found one.

    Attributes
    ----------
    count : int
        Columns of a `Sensitivity` to everything.

    Raises
    ------
    ValueError
        Nothing has been solved.
    """

    def __init__(self, solver: Solver) -> None:
        c, (s, state) = solver.circuit, solver.last()
        current = solver.equations.conductance(state, s.duty) * (state.dv[c.a] - state.dv[c.b] + s.drive)
        self._circuit, self._g = c, _small_signal(solver, s, state, current)
        self._driven = self._g * current
        self._drawn = solver.equations.load_current(
            s, (s.base + state.dv)[c.load_plus] - (s.base + state.dv)[c.load_minus]
        )
        self._held = np.select(
            [state.mode == m for m in (VOLTAGE, CURRENT, POWER)], [s.duty.source_v, s.duty.source_a, s.duty.source_w]
        )
        self._charged = self._g * np.where(s.duty.closed, s.duty.emf_v, 0.0)
        self._solve = solver.linear(self._g)
        self.count = c.a.size + c.load_plus.size + c.source_plus.size + 1

    def to(self, columns: Ints, branches: Ints | None = None) -> Sensitivity:
        """The answer to some of all that may change.

        Parameters
        ----------
        columns : ndarray of int, shape (k,)
            Of a `Sensitivity` to everything.
        branches : ndarray of int, shape (m,), optional
            Whose currents are wanted; of all where None.
        """
        c, loads, sources = self._circuit, self._circuit.load_plus.size, self._circuit.source_plus.size
        # Column after column, as what solves has them.
        push = np.zeros((c.nodes + sources, columns.size), order="F")
        at = np.flatnonzero(columns < c.a.size)
        k = columns[at]
        push[c.a[k], at] += self._driven[k]
        push[c.b[k], at] -= self._driven[k]
        of_load = np.flatnonzero((columns >= c.a.size) & (columns < c.a.size + loads))
        n = columns[of_load] - c.a.size
        push[c.load_plus[n], of_load] -= self._drawn[n]
        push[c.load_minus[n], of_load] += self._drawn[n]
        of_source = np.flatnonzero((columns >= c.a.size + loads) & (columns < self.count - 1))
        n = columns[of_source] - c.a.size - loads
        push[c.nodes + n, of_source] = self._held[n]
        charge = np.flatnonzero(columns == self.count - 1)
        moved_by_charge = np.bincount(c.b, self._charged, c.nodes) - np.bincount(c.a, self._charged, c.nodes)
        push[: c.nodes, charge] = moved_by_charge[:, None]
        volts = self._solve(push)[: c.nodes]
        of = np.arange(c.a.size) if branches is None else branches
        moved = self._g[of, None] * (volts[c.a[of]] - volts[c.b[of]])
        row, own = np.nonzero(of[:, None] == k) if branches is not None else (k, np.arange(k.size))
        moved[row, at[own]] -= self._driven[k[own]]
        moved[:, charge] += self._charged[of, None]
        return Sensitivity(volts, moved)


def sensitivity(solver: Solver) -> Sensitivity:
    """How the last operating point answers to everything that may change by a little, as `Answers` has it.

    Parameters
    ----------
    solver : Solver
        That has found one.

    Raises
    ------
    ValueError
        Nothing has been solved.
    """
    answers = Answers(solver)
    return answers.to(np.arange(answers.count))


def _small_signal(solver: Solver, s: Setting, state: NewtonState, current: Floats) -> Floats:
    """Conductance of each branch to a small change of its current."""
    c, d = solver.circuit, s.duty
    ohm = solver.equations.ohm(state.temperature_c, d)
    if c.heated.size and d.held_c is None:
        step = 1e-4
        warmer = steady_temperature(
            c.cable, current[c.heated] * (1.0 + step), d.ambient_c[c.heated], start_c=state.temperature_c
        )
        more = (solver.equations.ohm(warmer, d) - ohm)[c.heated]
        ohm[c.heated] += more * (1.0 + step) / step
    return np.where(d.closed, 1.0 / ohm, 0.0)
