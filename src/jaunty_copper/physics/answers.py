"""How an operating point answers to small changes: of the batteries' EMF, of resistances, of loads, of the charge."""

import numpy as np

from jaunty_copper.physics.circuit import Response, Sensitivity
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


def sensitivity(solver: Solver) -> Sensitivity:
    """How the last operating point answers to more resistance, to larger loads and to another charge.

    Modes stay as they are. One factorisation at that point, with each conductor's resistance to a
    small change of its current: what it has, and what warming adds.

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
    current = solver.equations.conductance(state, s.duty) * (state.dv[c.a] - state.dv[c.b] + s.drive)
    g = _small_signal(solver, s, state, current)
    branch, load = np.arange(c.a.size), c.a.size + np.arange(c.load_plus.size)
    source = np.arange(c.source_plus.size)
    push = np.zeros((c.nodes + source.size, c.a.size + load.size + source.size + 1))
    np.add.at(push, (c.a, branch), g * current)
    np.add.at(push, (c.b, branch), -g * current)
    drawn = solver.equations.load_current(s, (s.base + state.dv)[c.load_plus] - (s.base + state.dv)[c.load_minus])
    np.add.at(push, (c.load_plus, load), -drawn)
    np.add.at(push, (c.load_minus, load), drawn)
    held = np.select(
        [state.mode == m for m in (VOLTAGE, CURRENT, POWER)], [s.duty.source_v, s.duty.source_a, s.duty.source_w]
    )
    push[c.nodes + source, c.a.size + load.size + source] = held
    emf = np.where(s.duty.closed, s.duty.emf_v, 0.0)
    np.add.at(push[:, -1], c.a, -g * emf)
    np.add.at(push[:, -1], c.b, g * emf)
    volts = solver.linear(g)(push)[: c.nodes]
    moved = g[:, None] * (volts[c.a] - volts[c.b])
    moved[branch, branch] -= g * current
    moved[:, -1] += g * emf
    return Sensitivity(volts, moved)


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
