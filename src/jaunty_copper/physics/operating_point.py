"""Find the state in which a circuit rests.

Unknowns are the node voltages and one current per source. Each source adds one equation
that its mode decides: its current, its power or its sensed voltage is given. Constant
powers, converters and warming copper make the system nonlinear; Newton's method solves it
with a factorisation kept as long as it still makes quick progress, across iterations and
scenarios alike.

Voltages are kept as a base per rail plus a deviation. Conductors then see differences of
millivolts, not of tens of volts, and Kirchhoff's law closes a thousand times tighter.
"""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np

from jaunty_copper.language import say
from jaunty_copper.physics import modes
from jaunty_copper.physics.circuit import Circuit, Duty, OperatingPoint
from jaunty_copper.physics.collapse import Attempt, collapse
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.equations import Equations, NewtonState
from jaunty_copper.physics.heat import steady_temperature
from jaunty_copper.physics.linear import Singular, factor
from jaunty_copper.physics.modes import OFF
from jaunty_copper.physics.setting import Setting, setting_of

RESIDUAL_LIMIT = 1e-9
"""Kirchhoff's current law must close to this share of the largest current."""
SETTLED_K = 1e-6
"""Conductor temperatures that move by less than this are left as they are: it changes a
resistance by 4 parts in 1e9, and lets Kirchhoff's law close exactly for the rest."""
MOST_STEPS = 60
ROUNDED_V = 1e-13
"""Steps of so little are rounding: stiff joints turn it into a share of the current."""
LOWEST_SHARE = 0.25
"""Below this share of the unloaded voltage a constant power has long lost its footing."""
DOUBTFUL_SHARE = 0.6
"""Below this share the solution may be the unstable root, and is tested."""


class _NoConvergence(ArithmeticError):
    """Newton's method found no operating point."""


class Solver:
    """Solves one circuit under many duties, carrying factorisation and temperatures over."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        self._key: tuple[bytes, ...] = ()
        self._solve: Callable[[Floats], Floats] | None = None
        self._warm: NewtonState | None = None
        self._last: Setting | None = None
        self._found: dict[int, tuple[Setting, NewtonState]] = {}
        self.factorisations = 0
        self.iterations = 0
        self.equations = Equations(circuit)

    def solve(self, duty: Duty) -> OperatingPoint:
        """Find the operating point of one duty.

        Parameters
        ----------
        duty : Duty
            What the scenario asks.

        Returns
        -------
        OperatingPoint
            With `collapse` set, and no numbers, where there is none.
        """
        if id(duty) in self._found:
            # Kept with its duty, so that no other can have its number.
            self._last, self._warm = self._found.pop(id(duty))
            return self._report(self._last, self._warm)
        setting = setting_of(self.circuit, duty)
        for warm in (self._warm, None) if self._warm is not None else (None,):
            if warm is None:
                # What failed before may have left a factor from beyond the edge.
                self._solve = None
            try:
                state, at = self._modes(setting, warm, dropping=warm is None)
            except (_NoConvergence, Singular):
                continue
            self._warm, self._last = state, at
            return self._report(at, state)
        return self._nothing(setting)

    def found(self, s: Setting, state: NewtonState) -> None:
        """Take what a duty comes to from elsewhere: it is reported, and held against Kirchhoff's law, when that duty is asked for.

        Parameters
        ----------
        s : Setting
            Of the duty.
        state : NewtonState
            Where it came to rest, every source content with its mode.
        """
        self._found[id(s.duty)] = s, state

    def resume(self, duty: Duty, point: OperatingPoint) -> None:
        """Stand where a duty was solved before, without solving it again.

        Parameters
        ----------
        duty : Duty
            What was asked.
        point : OperatingPoint
            What came of it; its starved converters give nothing.

        Raises
        ------
        ValueError
            Nothing came of it.
        """
        if not point.solved:
            raise ValueError(say("nothing has been solved"))
        s = setting_of(self.circuit, replace(duty, source_on=duty.source_on & np.isnan(point.starved_v)))
        hot = self.circuit.heated
        self._warm = NewtonState(point.volts - s.base, point.source_a, point.temperature_c[hot], point.mode)
        self._last = s

    def last(self) -> tuple[Setting, NewtonState]:
        """The last operating point.

        Raises
        ------
        ValueError
            Nothing has been solved.
        """
        if self._warm is None or self._last is None:
            raise ValueError(say("nothing has been solved"))
        return self._last, self._warm

    def linear(self, g: Floats) -> Callable[[Floats], Floats]:
        """What solves the linear equations of the last operating point for many right sides.

        Parameters
        ----------
        g : ndarray, shape (branches,)
            Conductance of each branch to a small change of its voltage, S.

        Raises
        ------
        ValueError
            Nothing has been solved.
        """
        return self._factor(*self.last(), g)

    def chord(self) -> tuple[Setting, NewtonState, Callable[[Floats], Floats]]:
        """The last operating point with what solves its linear equations for many right sides: for what varies about it.

        Raises
        ------
        ValueError
            Nothing has been solved.
        """
        s, state = self.last()
        return s, state, self.linear(self.equations.conductance(state, s.duty))

    def branch_ohm(self) -> Floats:
        """Resistance of each branch in the last operating point, ohm.

        Raises
        ------
        ValueError
            Nothing has been solved.
        """
        s, state = self.last()
        return self.equations.ohm(state.temperature_c, s.duty)

    def branch_current(self) -> Floats:
        """Current of each branch in the last operating point, A.

        Raises
        ------
        ValueError
            Nothing has been solved.
        """
        c, (s, state) = self.circuit, self.last()
        return np.asarray(self.equations.conductance(state, s.duty) * (state.dv[c.a] - state.dv[c.b] + s.drive))

    def _start(self, s: Setting, warm: NewtonState | None) -> NewtonState:
        """Where to begin: as warm as it was, in the modes that served there."""
        c, mode = s.circuit, modes.first(s)
        held = s.duty.held_c
        start = held if held is not None else s.duty.ambient_c[c.heated] if warm is None else warm.temperature_c
        if warm is not None:
            mode = np.where(s.source_live & (warm.mode != OFF), warm.mode, mode)
        return NewtonState(np.zeros(c.nodes), np.zeros(c.source_plus.size), start.copy(), mode)

    def _modes(self, s: Setting, warm: NewtonState | None, dropping: bool = True) -> tuple[NewtonState, Setting]:
        """Switch source modes, and drop converters that starve, until all is consistent.

        Which converters gave way is read from where the solution was lost; only an attempt that starts from nothing
        may (`dropping`), else the answer would depend on what was solved before. Conductors keep their temperature
        until the modes have settled: a source in the wrong mode may drive a current that no conductor would survive.
        """
        state = self._start(s, warm)
        seen: set[bytes] = set()
        careful = warming = False
        starved_v = np.full(s.circuit.source_plus.size, np.nan)
        for _ in range(200):
            try:
                self._newton(s, state, warming)
                feed_v = modes.feed_volts(s, s.base + state.dv)
                starved = modes.starved(s, feed_v)
            except (_NoConvergence, Singular):
                starved = modes.sinking(s, modes.feed_volts(s, s.base + state.dv))
                # They stop at 0 V.
                feed_v = np.zeros(starved.size)
                if not (dropping and starved.any()):
                    raise
                self._solve = None
            if starved.any():
                starved_v[starved] = feed_v[starved]
                s = setting_of(s.circuit, replace(s.duty, source_on=s.duty.source_on & ~starved))
                state = self._start(s, state)
                seen.clear()
                warming = False
                continue
            wanted, urgency = modes.wanted(s, s.base + state.dv, state.source_a, state.mode)
            if np.array_equal(wanted, state.mode):
                if warming or s.duty.held_c is not None:
                    state.starved_v = starved_v
                    return state, s
                warming = True
                continue
            if not careful and wanted.tobytes() in seen:
                # Changing all at once went in circles: from here on, the worst offender alone.
                careful = True
                seen.clear()
            if careful:
                worst = int(np.argmax(np.where(wanted != state.mode, urgency, -1.0)))
                wanted = np.where(np.arange(wanted.size) == worst, wanted, state.mode)
                if wanted.tobytes() in seen:
                    raise _NoConvergence
            seen.add(wanted.tobytes())
            state.mode = wanted
        raise _NoConvergence

    def _newton(self, s: Setting, state: NewtonState, warming: bool) -> None:
        """Bring `state` to the solution for its modes.

        Raises
        ------
        _NoConvergence
            There is none, or only the unstable one.
        """
        c, d, n = s.circuit, s.duty, s.circuit.nodes
        key = (d.closed.tobytes(), state.mode.tobytes(), s.load_on.tobytes(), s.pins.tobytes())
        if key != self._key:
            self._solve, self._key = None, key
        hot = c.heated
        floor = LOWEST_SHARE * s.load_base
        settled = not warming or not hot.size
        # While modes are still sought, near enough tells which are wrong.
        final = warming or d.held_c is not None
        least_f, least_step = (0.02 * RESIDUAL_LIMIT, 1e-10) if final else (1e-6, 1e-7)
        g = self.equations.conductance(state, d)
        step_before, least, stalled = np.inf, np.inf, 0
        for _ in range(MOST_STEPS):
            f, _, load_v, scale = self.equations.imbalance(s, state, g)
            if np.any(load_v[s.load_on] < floor[s.load_on]):
                raise _NoConvergence
            if self._solve is None:
                self._solve = self._factor(s, state, g)
            delta = self._solve(-f)
            self.iterations += 1
            state.dv += delta[:n]
            state.source_a += delta[n:]
            step = float(np.max(np.abs(delta[:n]), initial=0.0))
            if not step < 1e6:
                raise _NoConvergence
            if not settled:
                # The corrected currents, not those before: they already obey Kirchhoff's law.
                across = (state.dv[c.a] - state.dv[c.b] + s.drive)[hot]
                settled = self._warm_up(state, g[hot] * across, d.ambient_c[hot]) < SETTLED_K
                g = self.equations.conductance(state, d)
            elif step < least_step:
                off = float(np.abs(f).max(initial=0.0) / scale)
                # Once the steps are those of rounding, nothing nearer is to be had.
                if off < least_f or (step < ROUNDED_V and off < 0.5 * RESIDUAL_LIMIT):
                    self._doubt(s, load_v)
                    return
            # While conductors warm up, the steps are theirs: only those at one temperature tell that nothing comes of it.
            stalled = stalled + 1 if settled and step > 0.9 * least else 0
            least = min(least, step) if settled else np.inf
            if stalled > 8 and step > 1e-7:
                raise _NoConvergence
            # While conductors still warm up the target moves, and an old factor serves well enough.
            slow = step > 0.3 * step_before and step > 1e-9 if settled else step > 0.9 * step_before > 1e-6
            if slow:
                self._solve = None
            step_before = step
        raise _NoConvergence

    def _warm_up(self, state: NewtonState, current: Floats, ambient: Floats) -> float:
        """Let the conductors take the temperature of their current; how far they moved, K."""
        new = steady_temperature(self.circuit.cable, current, ambient, start_c=state.temperature_c, steps=1)
        moved = float(np.abs(new - state.temperature_c).max())
        state.temperature_c = new
        return moved

    def _factor(self, s: Setting, state: NewtonState, g: Floats) -> Callable[[Floats], Floats]:
        self.factorisations += 1
        return factor(s.circuit.nodes + state.source_a.size, *self.equations.jacobian(s, state, g))

    def _doubt(self, s: Setting, load_v: Floats) -> None:
        """Refuse the lower root of a constant power: there, asking more would raise its voltage."""
        low = s.load_on & (s.duty.load_w > 0.0) & (load_v < DOUBTFUL_SHARE * s.load_base)
        c = s.circuit
        for k in np.flatnonzero(low):
            push = np.zeros(c.nodes + c.source_plus.size)
            push[c.load_plus[k]], push[c.load_minus[k]] = 1.0, -1.0
            assert self._solve is not None
            gives = self._solve(push)
            if gives[c.load_plus[k]] - gives[c.load_minus[k]] < 0.0:
                raise _NoConvergence

    def _attempt(self, s: Setting, load_w: Floats, near: NewtonState | None) -> Attempt[NewtonState] | None:
        """Other powers than asked, from another attempt nearby; None where they cannot be delivered either."""
        # What failed before may have left a factor from beyond the edge.
        self._solve = None
        try:
            state, at = self._modes(replace(s, duty=replace(s.duty, load_w=load_w)), near)
        except (_NoConvergence, Singular):
            return None
        c, v = s.circuit, at.base + state.dv
        load_v = np.where(at.load_on, v[c.load_plus] - v[c.load_minus], np.inf)
        g = self.equations.conductance(state, s.duty)
        _, current, _, _ = self.equations.imbalance(at, state, g)
        drops = np.abs(np.where(g > 0.0, current / np.where(g > 0.0, g, 1.0), 0.0))
        return Attempt(
            state, load_v / np.maximum(at.load_base, 1e-9), int(np.argmax(drops, axis=0)) if drops.size else 0
        )

    def _report(self, s: Setting, state: NewtonState) -> OperatingPoint:
        c, d = s.circuit, s.duty
        ohm = self.equations.ohm(state.temperature_c, d)
        g = np.where(d.closed, 1.0 / ohm, 0.0)
        f, current, load_v, scale = self.equations.imbalance(s, state, g)
        residual = float(np.max(np.abs(f[: c.nodes]), initial=0.0) / scale)
        # Nor can it be nearer than the last digit of the voltages across the best conductor.
        digit = np.finfo(float).eps * float(np.max(g * (np.abs(state.dv[c.a]) + np.abs(state.dv[c.b])), initial=0.0))
        limit = RESIDUAL_LIMIT + 4.0 * digit / scale
        assert residual < limit, say("Kirchhoff's current law misses by {residual:.1e}", residual=residual)
        v = s.base + state.dv
        out_v = v[c.source_plus] - v[c.source_minus]
        feed_v, fed = modes.feed_volts(s, v), np.flatnonzero(c.feed_plus >= 0)
        feed_a = np.zeros(out_v.size)
        feed_a[fed] = self.equations.feed_current(s, out_v, state.source_a, feed_v[fed])
        # An open branch carries 0, not the minus 0 that people would read as a direction.
        current = current + 0.0
        temperature = d.ambient_c.copy()
        temperature[c.heated] = state.temperature_c
        return OperatingPoint(
            volts=v, live=s.live, pins=s.pins, current_a=current, drop_v=current * ohm, ohm=ohm, temperature_c=temperature,
            load_v=np.where(s.no_return, np.nan, load_v), load_a=self.equations.load_current(s, load_v),
            source_v=out_v, source_a=state.source_a, feed_v=feed_v, feed_a=feed_a, mode=state.mode,
            starved_v=state.starved_v if state.starved_v is not None else np.full(out_v.size, np.nan), unfed=s.unfed, reversed_=s.reversed_, no_return=s.no_return, torn=s.torn,
            residual=residual, iterations=self.iterations, factorisations=self.factorisations,
        )  # fmt: skip

    def _nothing(self, s: Setting) -> OperatingPoint:
        c = s.circuit
        # What gives way takes many attempts to find: a solver of its own makes them, when somebody asks.
        attempt = partial(Solver(c)._attempt, s)
        none_b, none_l = np.full(c.a.size, np.nan), np.full(c.load_plus.size, np.nan)
        none_s = np.full(c.source_plus.size, np.nan)
        return OperatingPoint(
            volts=np.full(c.nodes, np.nan), live=s.live, pins=s.pins, current_a=none_b, drop_v=none_b, ohm=none_b,
            temperature_c=none_b, load_v=none_l, load_a=none_l, source_v=none_s, source_a=none_s,
            feed_v=none_s, feed_a=none_s, mode=np.zeros(none_s.size, dtype=np.int64), starved_v=none_s, unfed=s.unfed,
            reversed_=s.reversed_, no_return=s.no_return, torn=s.torn, residual=np.nan,
            iterations=self.iterations, factorisations=self.factorisations, limit=partial(collapse, s.duty.load_w, attempt),
        )  # fmt: skip
