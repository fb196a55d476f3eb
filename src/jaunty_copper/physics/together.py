"""The operating points of several duties at once: one row of each array for each, all of them in the same steps.

A plan's scenarios are solved by the same handful of operations, on arrays so small that each costs as much for one row as for
ten. What is out of the ordinary with one of them (a solution that is lost, a converter that starves, sources that go round
in circles, a load that may stand on its lower root) is left to the solver, which takes that one by itself.
"""

from collections.abc import Callable, Sequence
from dataclasses import fields, replace
from typing import Any

import numpy as np

from jaunty_copper.physics import modes
from jaunty_copper.physics.circuit import Duty, Flags
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.equations import Equations, NewtonState, between
from jaunty_copper.physics.heat import steady_temperature
from jaunty_copper.physics.linear import DENSE_UP_TO, Singular, factor
from jaunty_copper.physics.operating_point import (
    DOUBTFUL_SHARE,
    LOWEST_SHARE,
    MOST_STEPS,
    RESIDUAL_LIMIT,
    ROUNDED_V,
    SETTLED_K,
    Solver,
)
from jaunty_copper.physics.setting import Setting, setting_of

Solve = Callable[[Floats], Floats]
FEWEST = 3
"""So many duties are worth it."""
FIRST = 3
"""Steps towards the warmth of currents that were found with cold conductors."""
MOST_TURNS = 30
"""So many times may the sources of one duty change their modes here."""


def solve_together(solver: Solver, duties: Sequence[Duty]) -> None:
    """Solve several duties at once, so that a solver need not when each is asked of it.

    Parameters
    ----------
    solver : Solver
        Of the circuit; what it is asked first for each of these very duties is then known.
    duties : sequence of Duty
        What the scenarios ask. Large circuits and single duties are left to the solver.
    """
    c = solver.circuit
    if len(duties) < FEWEST or c.nodes + c.source_plus.size > DENSE_UP_TO:
        return
    settings = [setting_of(c, duty) for duty in duties]
    for setting, state in zip(settings, _Together(solver.equations, settings).states(), strict=True):
        if state is not None:
            solver.found(setting, state)


def _stacked(settings: Sequence[Setting]) -> Setting:
    """Several settings as one, a row for each in what differs."""

    def rows(of: Sequence[Any], names: Sequence[str]) -> dict[str, Any]:
        return {name: np.array([getattr(x, name) for x in of]) for name in names}

    duties = [s.duty for s in settings]
    branches = settings[0].circuit.a.size
    arrays = [f.name for f in fields(Duty) if f.name not in ("held_c", "extra_ohm")]
    extra = np.array([np.broadcast_to(d.extra_ohm, branches) for d in duties])
    duty = Duty(**rows(duties, arrays), extra_ohm=extra)
    names = ("base", "drive", "load_base", "out_base", "sense_base", "load_on", "source_live")
    return replace(settings[0], duty=duty, **rows(settings, names))


class _Together:
    """Newton's method on several settings, each in its own modes and as warm as its own currents make it."""

    def __init__(self, equations: Equations, settings: Sequence[Setting]) -> None:
        c, count = equations.circuit, len(settings)
        self.equations, self.settings, self.all = equations, settings, _stacked(settings)
        given = [s.duty.held_c if s.duty.held_c is not None else s.duty.ambient_c[c.heated] for s in settings]
        self.state = NewtonState(
            np.zeros((count, c.nodes)), np.zeros((count, c.source_plus.size)), np.array(given),
            np.array([modes.first(s) for s in settings]),
        )  # fmt: skip
        self.held = np.array([s.duty.held_c is not None for s in settings])
        self.warming = np.zeros(count, dtype=bool)
        """As in the solver: conductors keep their warmth until the modes have settled."""
        self.active, self.done = np.ones(count, dtype=bool), np.zeros(count, dtype=bool)
        self.seen: list[set[bytes]] = [set() for _ in settings]
        self.turns = np.zeros(count, dtype=np.int64)
        self.steps = np.zeros(count, dtype=np.int64)
        self.step_before, self.least = np.full(count, np.inf), np.full(count, np.inf)
        self.stalled = np.zeros(count, dtype=np.int64)
        self.settled = np.ones(count, dtype=bool)
        self.g = equations.conductance(self.state, self.all.duty)
        self.solve: list[Solve | None] = [None] * count
        self.alike: dict[tuple[bytes, ...], Solve] = {}

    def states(self) -> list[NewtonState | None]:
        """Where each came to rest; None for what is left to the solver."""
        # What is lost here may be lost by numbers beyond all bounds.
        with np.errstate(all="ignore"):
            while self.active.any():
                self._step()
        x = self.state
        none = np.full(x.source_a.shape[1], np.nan)
        return [
            NewtonState(x.dv[k].copy(), x.source_a[k].copy(), x.temperature_c[k].copy(), x.mode[k].copy(), none.copy())
            if self.done[k] else None
            for k in range(len(self.settings))
        ]  # fmt: skip

    def _step(self) -> None:
        """One step of all that are not done."""
        x, s, n = self.state, self.all, self.equations.circuit.nodes
        f, _, load_v, scale = self.equations.imbalance(s, x, self.g)
        self._lose(self.active & (s.load_on & (load_v < LOWEST_SHARE * s.load_base)).any(axis=1))
        self._factor()
        delta = np.zeros_like(f)
        for k, solve in enumerate(self.solve):
            if solve is not None and self.active[k]:
                delta[k] = solve(-f[k])
        x.dv += delta[:, :n]
        x.source_a += delta[:, n:]
        step = np.abs(delta[:, :n]).max(axis=1, initial=0.0)
        self.steps += 1
        self._lose(self.active & (~(step < 1e6) | (self.steps > MOST_STEPS)))
        was_settled = self.settled.copy()
        self._warm_up(self.active & ~was_settled)
        final = self.warming | self.held
        off = np.abs(f).max(axis=1, initial=0.0) / scale
        near = (off < np.where(final, 0.02 * RESIDUAL_LIMIT, 1e-6)) | (
            (step < ROUNDED_V) & (off < 0.5 * RESIDUAL_LIMIT)
        )
        there = self.active & was_settled & (step < np.where(final, 1e-10, 1e-7)) & near
        doubtful = (s.load_on & (s.duty.load_w > 0.0) & (load_v < DOUBTFUL_SHARE * s.load_base)).any(axis=1)
        self._lose(there & doubtful)
        self.stalled = np.where(self.settled & (step > 0.9 * self.least), self.stalled + 1, 0)
        self.least = np.where(self.settled, np.minimum(self.least, step), np.inf)
        self._lose(self.active & ~there & (self.stalled > 8) & (step > 1e-7))
        slow = np.where(
            self.settled,
            (step > 0.3 * self.step_before) & (step > 1e-9),
            (step > 0.9 * self.step_before) & (self.step_before > 1e-6),
        )
        for k in np.flatnonzero(slow).tolist():
            self.solve[k] = None
        self.step_before = step
        begun = self.warming.copy()
        for k in np.flatnonzero(there & self.active).tolist():
            self._turn(k)
        self._warm_up(self.active & self.warming & ~begun & ~self.settled, FIRST)

    def _lose(self, which: Flags) -> None:
        """Leave some to the solver."""
        self.active &= ~which

    def _factor(self) -> None:
        """Factor what needs it; what stands in the same modes at the beginning is served by one factor."""
        for k in np.flatnonzero(self.active).tolist():
            if self.solve[k] is not None:
                continue
            s, x = self.settings[k], self.state
            own = NewtonState(x.dv[k], x.source_a[k], x.temperature_c[k], x.mode[k])
            key = s.duty.closed.tobytes(), x.mode[k].tobytes(), s.load_on.tobytes(), s.pins.tobytes()
            begins, size = not self.steps[k], s.circuit.nodes + s.circuit.source_plus.size
            if begins and key in self.alike:
                self.solve[k] = self.alike[key]
                continue
            try:
                solve = factor(size, *self.equations.jacobian(s, own, self.g[k]))
            except Singular:
                self.active[k] = False
                continue
            self.solve[k] = solve
            if begins:
                self.alike[key] = solve

    def _warm_up(self, which: Flags, steps: int = 1) -> None:
        """Let conductors take the temperature of their currents, where those are found in their modes."""
        if not which.any():
            return
        c, x, s = self.equations.circuit, self.state, self.all
        hot = c.heated
        across = (between(x.dv, c.a, c.b) + s.drive)[:, hot]
        new = steady_temperature(
            c.cable, self.g[:, hot] * across, s.duty.ambient_c[:, hot], start_c=x.temperature_c, steps=steps
        )
        moved = np.abs(new - x.temperature_c).max(axis=1, initial=0.0)
        x.temperature_c[which] = new[which]
        self.settled |= which & (moved < SETTLED_K)
        self.g = self.equations.conductance(x, s.duty)

    def _turn(self, k: int) -> None:
        """What follows once the solution for one's modes is found: others, then warmth, then it is done."""
        s, x = self.settings[k], self.state
        v = s.base + x.dv[k]
        wanted, _ = modes.wanted(s, v, x.source_a[k], x.mode[k])
        same = np.array_equal(wanted, x.mode[k])
        if modes.starved(s, modes.feed_volts(s, v)).any() or (not same and wanted.tobytes() in self.seen[k]):
            self.active[k] = False
            return
        if same and (self.warming[k] or self.held[k]):
            self.active[k], self.done[k] = False, True
            return
        if same:
            self.warming[k], self.settled[k] = True, not self.equations.circuit.heated.size
        else:
            self.seen[k].add(wanted.tobytes())
            x.mode[k] = wanted
            self.solve[k] = None
            self.settled[k] = not self.warming[k] or not self.equations.circuit.heated.size
        self.turns[k] += 1
        self.active[k] = self.turns[k] <= MOST_TURNS
        self.steps[k], self.stalled[k] = 0, 0
        self.step_before[k] = self.least[k] = np.inf
