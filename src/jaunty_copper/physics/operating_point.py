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
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from jaunty_copper.physics import graph
from jaunty_copper.physics.circuit import (
    Circuit,
    Collapse,
    Duty,
    Flags,
    Ints,
    Mode,
    OperatingPoint,
    Response,
    Sensitivity,
)
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.physics.heat import steady_temperature
from jaunty_copper.physics.linear import Singular, factor

RESIDUAL_LIMIT = 1e-9
"""Kirchhoff's current law must close to this share of the largest current."""
SMALLEST_OHM = 1e-6
"""Every branch has at least this: a bolted contact is never better."""
DROOP_OHM = 1e-10
"""A regulated source gives way by this much, so that two that hold one place share alike."""
PIN_S = 1.0
"""Ties one node of each part to 0 V; no current flows in it, there is no way back."""
SETTLED_K = 1e-6
"""Conductor temperatures that move by less than this are left as they are: it changes a
resistance by 4 parts in 1e9, and lets Kirchhoff's law close exactly for the rest."""
MOST_STEPS = 60
LOWEST_SHARE = 0.25
"""Below this share of the unloaded voltage a constant power has long lost its footing."""
DOUBTFUL_SHARE = 0.6
"""Below this share the solution may be the unstable root, and is tested."""
SUSPECTS = 8
"""So many loads of the lowest voltages are suspected where the asked power cannot be delivered."""


# Plain numbers: NumPy is slow to compare an array with a member of an enumeration.
OFF, VOLTAGE, CURRENT, POWER = (int(m) for m in Mode)


class _NoConvergence(ArithmeticError):
    """Newton's method found no operating point."""


@dataclass(frozen=True)
class _Setting:
    """Circuit and duty, with what the topology of this duty decides."""

    circuit: Circuit
    duty: Duty
    base: Floats
    drive: Floats
    load_base: Floats
    out_base: Floats
    sense_base: Floats
    live: Flags
    pins: Ints
    load_on: Flags
    source_live: Flags
    beside_battery: Flags
    unfed: Flags
    reversed_: Flags
    no_return: Flags
    torn: tuple[int, ...]


def _settle(c: Circuit, d: Duty) -> _Setting:
    """Find rails, parts, what is alive in them and which loads can run at all."""
    wire = d.closed & ~c.is_battery
    rail = np.array(graph.components(c.nodes, c.a[wire].tolist(), c.b[wire].tolist()), dtype=np.int64)
    rails = int(rail.max(initial=-1)) + 1
    cells = np.flatnonzero(c.is_battery & d.closed)
    edges = list(zip(rail[c.a[cells]].tolist(), rail[c.b[cells]].tolist(), d.emf_v[cells].tolist(), strict=True))
    grounds = [int(rail[g]) for g in c.grounds]
    rail_v, block_list, torn = graph.potentials(rails, edges, grounds)
    volts, block = np.array(rail_v), np.array(block_list, dtype=np.int64)
    blocks = int(block.max(initial=-1)) + 1

    own = c.feed_plus < 0
    runs = d.source_on & own
    alive_rail = np.zeros(rails, dtype=bool)
    while True:
        out_plus, out_minus = rail[c.source_plus], rail[c.source_minus]
        claims = [
            (int(block[m]), int(block[p]), float(v - volts[p] + volts[m]))
            for p, m, v in zip(out_plus[runs], out_minus[runs], d.source_v[runs], strict=True)
        ]
        shift, part_list, _ = graph.potentials(blocks, claims, [int(block[g]) for g in grounds])
        part = np.array(part_list, dtype=np.int64)[block] if rails else block
        base_rail = volts + np.array(shift)[block] if rails else volts
        seeded = np.zeros(int(part.max(initial=-1)) + 1, dtype=bool)
        seeded[part[rail[c.a[cells]]]] = True
        seeded[part[out_plus[runs]]] = True
        alive_rail = seeded[part] if rails else alive_rail
        fp, fm = rail[np.maximum(c.feed_plus, 0)], rail[np.maximum(c.feed_minus, 0)]
        fed = (part[fp] == part[fm]) & alive_rail[fp] & (base_rail[fp] - base_rail[fm] > np.maximum(d.feed_min_v, 0.0))
        now = d.source_on & (own | fed)
        if np.array_equal(now, runs):
            break
        runs = now

    base, node_part, live = base_rail[rail], part[rail], alive_rail[rail]
    p, m = c.load_plus, c.load_minus
    asks = (d.load_w > 0.0) | (d.load_a > 0.0) | (d.load_s > 0.0)
    joined = node_part[p] == node_part[m]
    across = base[p] - base[m]
    no_return = asks & live[p] & live[m] & ~joined
    reversed_ = asks & joined & (across < -1e-6)
    unfed = asks & ~no_return & ~reversed_ & (~joined | ~live[p] | (across < 1e-6))
    _, pins = np.unique(node_part, return_index=True)
    pinned = {int(node_part[k]): int(k) for k in pins}
    for g in reversed(c.grounds):
        pinned[int(node_part[g])] = g
    pin_nodes = np.array(sorted(pinned.values()), dtype=np.int64)
    # The base of a part starts where it is pinned, so that its ground reads 0 V.
    offset = np.zeros(int(node_part.max(initial=-1)) + 1)
    offset[node_part[pin_nodes]] = base[pin_nodes]
    base = base - offset[node_part]
    drive = base[c.a] - base[c.b] + np.where(d.closed, d.emf_v, 0.0)
    return _Setting(
        c, d, base, drive, base[p] - base[m], base[c.source_plus] - base[c.source_minus],
        base[c.sense_plus] - base[c.sense_minus], live, pin_nodes, asks & ~(unfed | reversed_ | no_return),
        runs, block[rail[c.source_plus]] == block[rail[c.source_minus]], unfed, reversed_, no_return,
        tuple(int(cells[k]) for k in torn),
    )  # fmt: skip


@dataclass
class _State:
    """Where Newton's method stands."""

    dv: Floats
    source_a: Floats
    temperature_c: Floats
    mode: Ints
    starved_v: Floats | None = None


class Solver:
    """Solves one circuit under many duties, carrying factorisation and temperatures over."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        self._key: tuple[bytes, ...] = ()
        self._solve: Callable[[Floats], Floats] | None = None
        self._warm: _State | None = None
        self._last: _Setting | None = None
        self.factorisations = 0
        self.iterations = 0
        c = circuit
        n = c.nodes
        j = n + np.arange(c.source_plus.size)
        fed = np.flatnonzero(c.feed_plus >= 0)
        self._fed = fed
        self._away = np.concatenate([c.a, c.load_plus, c.feed_plus[fed], c.source_minus])
        self._into = np.concatenate([c.b, c.load_minus, c.feed_minus[fed], c.source_plus])
        sp, sm, ep, em = c.source_plus, c.source_minus, c.sense_plus, c.sense_minus
        fp, fm, fj = c.feed_plus[fed], c.feed_minus[fed], j[fed]
        row, col = [], []

        def port(p: Ints, m: Ints, q: Ints, r: Ints) -> None:
            row.extend([p, p, m, m])
            col.extend([q, r, q, r])

        port(c.a, c.b, c.a, c.b)
        port(c.load_plus, c.load_minus, c.load_plus, c.load_minus)
        port(fp, fm, fp, fm)
        port(fp, fm, sp[fed], sm[fed])
        row += [fp, fm, sp, sm, j, j, j, j, j]
        col += [fj, fj, j, j, ep, em, sp, sm, j]
        self._rows = np.concatenate([np.asarray(r, dtype=np.int64) for r in row])
        self._cols = np.concatenate([np.asarray(q, dtype=np.int64) for q in col])

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
        setting = _settle(self.circuit, duty)
        try:
            state, setting = self._modes(setting, self._warm)
        except (_NoConvergence, Singular):
            self._solve = None
            try:
                state, setting = self._modes(setting, None)
            except (_NoConvergence, Singular):
                return self._nothing(setting, self._limit(setting))
        self._warm, self._last = state, setting
        return self._report(setting, state)

    def response(self) -> Response:
        """How the last operating point answers to small changes of the batteries' EMF.

        Modes and conductor temperatures stay as they are. One factorisation at that point.

        Raises
        ------
        ValueError
            Nothing has been solved.
        """
        if self._warm is None or self._last is None:
            raise ValueError("nothing has been solved")
        c, s, state = self.circuit, self._last, self._warm
        g = self._conductance(state, s.duty)
        cells = np.flatnonzero(c.is_battery)
        push = np.zeros((c.nodes + c.source_plus.size, cells.size))
        k = np.arange(cells.size)
        np.add.at(push, (c.a[cells], k), -g[cells])
        np.add.at(push, (c.b[cells], k), g[cells])
        moved = self._factor(s, state, g)(push)
        own = np.zeros((cells.size, cells.size))
        own[k, k] = 1.0
        v = moved[: c.nodes]
        return Response(
            cells=cells,
            current_s=g[cells, None] * (v[c.a[cells]] - v[c.b[cells]] + own),
            volts=v,
            source_s=moved[c.nodes :],
        )

    def sensitivity(self) -> Sensitivity:
        """How the last operating point answers to more resistance, to larger loads and to another charge.

        Modes stay as they are. One factorisation at that point, with each conductor's resistance to a
        small change of its current: what it has, and what warming adds.

        Raises
        ------
        ValueError
            Nothing has been solved.
        """
        if self._warm is None or self._last is None:
            raise ValueError("nothing has been solved")
        c, s, state = self.circuit, self._last, self._warm
        current = self._conductance(state, s.duty) * (state.dv[c.a] - state.dv[c.b] + s.drive)
        g = self._small_signal(s, state, current)
        branch, load = np.arange(c.a.size), c.a.size + np.arange(c.load_plus.size)
        source = np.arange(c.source_plus.size)
        push = np.zeros((c.nodes + source.size, c.a.size + load.size + source.size + 1))
        np.add.at(push, (c.a, branch), g * current)
        np.add.at(push, (c.b, branch), -g * current)
        drawn = self._load_current(s, (s.base + state.dv)[c.load_plus] - (s.base + state.dv)[c.load_minus])
        np.add.at(push, (c.load_plus, load), -drawn)
        np.add.at(push, (c.load_minus, load), drawn)
        held = np.select(
            [state.mode == m for m in (VOLTAGE, CURRENT, POWER)], [s.duty.source_v, s.duty.source_a, s.duty.source_w]
        )
        push[c.nodes + source, c.a.size + load.size + source] = held
        emf = np.where(s.duty.closed, s.duty.emf_v, 0.0)
        np.add.at(push[:, -1], c.a, -g * emf)
        np.add.at(push[:, -1], c.b, g * emf)
        volts = self._factor(s, state, g)(push)[: c.nodes]
        moved = g[:, None] * (volts[c.a] - volts[c.b])
        moved[branch, branch] -= g * current
        moved[:, -1] += g * emf
        return Sensitivity(volts, moved)

    def _small_signal(self, s: _Setting, state: _State, current: Floats) -> Floats:
        """Conductance of each branch to a small change of its current."""
        c, d = self.circuit, s.duty
        ohm = self._ohm(state.temperature_c, d)
        if c.heated.size and d.held_c is None:
            step = 1e-4
            warmer = steady_temperature(
                c.cable, current[c.heated] * (1.0 + step), d.ambient_c[c.heated], start_c=state.temperature_c
            )
            more = (self._ohm(warmer, d) - ohm)[c.heated]
            ohm[c.heated] += more * (1.0 + step) / step
        return np.where(d.closed, 1.0 / ohm, 0.0)

    def _start(self, s: _Setting, warm: _State | None) -> _State:
        """Where to begin: beside a battery a source gives all its current, alone it holds its voltage."""
        c = s.circuit
        below = s.sense_base < s.duty.source_v
        alone = np.where(s.beside_battery, np.where(below, CURRENT, OFF), VOLTAGE)
        mode = np.where(s.source_live, alone, OFF)
        held = s.duty.held_c
        start = held if held is not None else s.duty.ambient_c[c.heated] if warm is None else warm.temperature_c
        if warm is not None:
            mode = np.where(s.source_live & (warm.mode != OFF), warm.mode, mode)
        return _State(np.zeros(c.nodes), np.zeros(c.source_plus.size), start.copy(), mode)

    def _modes(self, s: _Setting, warm: _State | None) -> tuple[_State, _Setting]:
        """Switch source modes, and drop converters that starve, until all is consistent.

        Conductors keep their temperature until the modes have settled: a source in the wrong
        mode may drive a current that no conductor would survive.
        """
        state = self._start(s, warm)
        seen: set[bytes] = set()
        careful = warming = False
        starved_v = np.full(s.circuit.source_plus.size, np.nan)
        for _ in range(200):
            try:
                self._newton(s, state, warming)
                starved, feed_v = self._starved(s, state)
            except (_NoConvergence, Singular):
                starved, feed_v = self._sinking(s, state)
                if not starved.any():
                    raise
                self._solve = None
            if starved.any():
                starved_v[starved] = feed_v[starved]
                s = _settle(s.circuit, replace(s.duty, source_on=s.duty.source_on & ~starved))
                state = self._start(s, state)
                seen.clear()
                warming = False
                continue
            wanted, urgency = self._wanted(s, state)
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

    def _starved(self, s: _Setting, state: _State) -> tuple[Flags, Floats]:
        """Converters that run with too little at their input, and what each has."""
        c, fed = s.circuit, self._fed
        feed_v = np.full(c.source_plus.size, np.nan)
        v = s.base + state.dv
        feed_v[fed] = v[c.feed_plus[fed]] - v[c.feed_minus[fed]]
        return s.source_live & (feed_v < s.duty.feed_min_v), feed_v

    def _sinking(self, s: _Setting, state: _State) -> tuple[Flags, Floats]:
        """After a failure, the converters whose input was giving way; they stop at 0 V."""
        c, fed = s.circuit, self._fed
        v = s.base + state.dv
        now = v[c.feed_plus[fed]] - v[c.feed_minus[fed]]
        unloaded = s.base[c.feed_plus[fed]] - s.base[c.feed_minus[fed]]
        sinking = np.zeros(c.source_plus.size, dtype=bool)
        sinking[fed] = s.source_live[fed] & ~(now > 0.5 * unloaded)
        return sinking, np.zeros(c.source_plus.size)

    def _wanted(self, s: _Setting, state: _State) -> tuple[Ints, Floats]:
        """The mode each source would rather be in, and how far it is from content (A or V)."""
        c, d = s.circuit, s.duty
        v = s.base + state.dv
        sensed = v[c.sense_plus] - v[c.sense_minus]
        own = v[c.source_plus] - v[c.source_minus]
        i, mode = state.source_a, state.mode
        by_power = d.source_w / np.maximum(own, 1e-3)
        limit = np.minimum(d.source_a, by_power)
        limiting = np.where(by_power < d.source_a, POWER, CURRENT)
        tiny = 1e-9 * np.maximum(1.0, np.abs(d.source_a))
        held, idle = mode == VOLTAGE, mode == OFF
        wanted, urgency = mode.copy(), np.zeros(i.size)
        over, under = held & (i > limit + tiny), held & (i < -tiny)
        wanted[over] = limiting[over]
        wanted[under] = OFF
        high = ~held & ~idle & (sensed > d.source_v + 1e-9)
        low = idle & s.source_live & (sensed < d.source_v - 1e-9)
        wanted[high | low] = VOLTAGE
        crossed = (mode == CURRENT) & (i > by_power + tiny) & ~high
        wanted[crossed] = POWER
        back = (mode == POWER) & (i > d.source_a + tiny) & ~high
        wanted[back] = CURRENT
        urgency[over] = (i - limit)[over]
        urgency[under] = -i[under]
        gap = np.abs(sensed - d.source_v)
        urgency[high | low] = gap[high | low]
        urgency[crossed | back] = 1e-3
        return wanted, urgency

    def _ohm(self, temperature_c: Floats, d: Duty) -> Floats:
        c = self.circuit
        t = d.ambient_c.copy()
        t[c.heated] = temperature_c
        return np.asarray(np.maximum(c.fixed_ohm + d.extra_ohm + resistance_at(c.copper_ohm, t), SMALLEST_OHM))

    def _newton(self, s: _Setting, state: _State, warming: bool) -> None:
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
        g = self._conductance(state, d)
        step_before, least, stalled = np.inf, np.inf, 0
        for _ in range(MOST_STEPS):
            f, _, load_v, scale = self._imbalance(s, state, g)
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
                g = self._conductance(state, d)
            elif float(np.abs(f).max(initial=0.0)) < least_f * scale and step < least_step:
                self._doubt(s, load_v)
                return
            stalled = stalled + 1 if step > 0.9 * least else 0
            least = min(least, step)
            if settled and stalled > 8 and step > 1e-7:
                raise _NoConvergence
            # While conductors still warm up the target moves, and an old factor serves well enough.
            slow = step > 0.3 * step_before and step > 1e-9 if settled else step > 0.9 * step_before > 1e-6
            if slow:
                self._solve = None
            step_before = step
        raise _NoConvergence

    def _conductance(self, state: _State, d: Duty) -> Floats:
        return np.where(d.closed, 1.0 / self._ohm(state.temperature_c, d), 0.0)

    def _warm_up(self, state: _State, current: Floats, ambient: Floats) -> float:
        """Let the conductors take the temperature of their current; how far they moved, K."""
        new = steady_temperature(self.circuit.cable, current, ambient, start_c=state.temperature_c, steps=1)
        moved = float(np.abs(new - state.temperature_c).max())
        state.temperature_c = new
        return moved

    def _imbalance(self, s: _Setting, state: _State, g: Floats) -> tuple[Floats, Floats, Floats, float]:
        """What each equation lacks, with branch currents, load voltages and the largest current."""
        c, d, n = s.circuit, s.duty, s.circuit.nodes
        dv, i, mode = state.dv, state.source_a, state.mode
        current = g * (dv[c.a] - dv[c.b] + s.drive)
        load_v = dv[c.load_plus] - dv[c.load_minus] + s.load_base
        out_v = dv[c.source_plus] - dv[c.source_minus] + s.out_base
        fed = self._fed
        v = dv + s.base
        feed_i = self._feed_current(s, out_v, i, v[c.feed_plus[fed]] - v[c.feed_minus[fed]])
        flows = np.concatenate([current, self._load_current(s, load_v), feed_i, i])
        f = np.empty(n + i.size)
        f[:n] = np.bincount(self._away, flows, n) - np.bincount(self._into, flows, n)
        sensed = dv[c.sense_plus] - dv[c.sense_minus] + s.sense_base
        f[n:] = np.where(
            mode == VOLTAGE,
            sensed + DROOP_OHM * i - d.source_v,
            np.where(mode == CURRENT, i - d.source_a, i),
        )
        by_power = mode == POWER
        if by_power.any():
            f[n:][by_power] = (i * out_v)[by_power] - d.source_w[by_power]
        return f, current, load_v, max(float(np.abs(flows).max(initial=0.0)), 1e-3)

    def _load_current(self, s: _Setting, v: Floats) -> Floats:
        d = s.duty
        safe = np.where(s.load_on, np.maximum(v, 1e-3), 1.0)
        return np.where(s.load_on, d.load_w / safe + d.load_a + d.load_s * v, 0.0)

    def _feed_current(self, s: _Setting, out_v: Floats, i: Floats, feed_v: Floats) -> Floats:
        fed = self._fed
        on = s.source_live[fed]
        power = out_v[fed] * i[fed] / s.circuit.efficiency[fed] + s.duty.standby_w[fed]
        return np.where(on, power / np.where(on, np.maximum(feed_v, 1e-3), 1.0), 0.0)

    def _factor(self, s: _Setting, state: _State, g: Floats) -> Callable[[Floats], Floats]:
        c, d, n = s.circuit, s.duty, s.circuit.nodes
        v = s.base + state.dv
        load_v = v[c.load_plus] - v[c.load_minus]
        safe = np.where(s.load_on, np.maximum(load_v, 1e-3), 1.0)
        slope = np.where(s.load_on, d.load_s - d.load_w / safe**2, 0.0)
        fed, i, mode = self._fed, state.source_a, state.mode
        out_v = v[c.source_plus] - v[c.source_minus]
        feed_v = v[c.feed_plus[fed]] - v[c.feed_minus[fed]]
        on = s.source_live[fed]
        safe_in = np.where(on, np.maximum(feed_v, 1e-3), 1.0)
        by_in = -self._feed_current(s, out_v, i, feed_v) / safe_in
        per_eff = np.where(on, 1.0 / (c.efficiency[fed] * safe_in), 0.0)
        by_out, by_i = i[fed] * per_eff, out_v[fed] * per_eff
        one = np.ones(i.size)
        volt, power = (mode == VOLTAGE).astype(float), (mode == POWER).astype(float)
        self_i = np.select([mode == VOLTAGE, mode == POWER], [DROOP_OHM * one, out_v], one)
        quads = [
            g, -g, -g, g,
            slope, -slope, -slope, slope,
            by_in, -by_in, -by_in, by_in,
            by_out, -by_out, -by_out, by_out,
            by_i, -by_i, -one, one, volt, -volt, power * i, -power * i, self_i,
        ]  # fmt: skip
        rows = np.concatenate([self._rows, s.pins])
        cols = np.concatenate([self._cols, s.pins])
        self.factorisations += 1
        return factor(n + i.size, rows, cols, np.concatenate([*quads, np.full(s.pins.size, PIN_S)]))

    def _doubt(self, s: _Setting, load_v: Floats) -> None:
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

    def _try(self, s: _Setting, load_w: Floats, near: _State | None) -> tuple[_State, _Setting] | None:
        # What failed before may have left a factor from beyond the edge.
        self._solve = None
        try:
            return self._modes(replace(s, duty=replace(s.duty, load_w=load_w)), near)
        except (_NoConvergence, Singular):
            return None

    def _bisect(self, s: _Setting, load_w: Callable[[float], Floats]) -> tuple[float, tuple[_State, _Setting] | None]:
        """Largest share of the asked power that can be delivered, to one part in 4000."""
        low, high, best = 0.0, 1.0, self._try(s, load_w(0.0), None)
        if best is None:
            return 0.0, None
        for _ in range(12):
            mid = 0.5 * (low + high)
            found = self._try(s, load_w(mid), best[0])
            if found is None:
                high = mid
            else:
                low, best = mid, found
        return low, best

    def _limit(self, s: _Setting) -> Collapse:
        """Find which load gives way, and the most it could be given."""
        asked = s.duty.load_w
        share, found = self._bisect(s, lambda x: asked * x)
        if found is None:
            load = int(np.argmax(asked)) if asked.size else 0
            return Collapse(load, float(asked[load]) if asked.size else 0.0, 0.0, 0, True)
        state, at = found
        c = s.circuit
        v = at.base + state.dv
        ratio = np.where(
            at.load_on & (asked > 0.0),
            (v[c.load_plus] - v[c.load_minus]) / np.maximum(at.load_base, 1e-9),
            np.inf,
        )
        lowest = [int(k) for k in np.argsort(ratio, kind="stable")[:SUSPECTS] if np.isfinite(ratio[k])]
        load, jointly = lowest[0] if lowest else 0, True

        def less(load: int, x: float) -> Floats:
            w = asked.copy()
            w[load] *= x
            return w

        # The lowest voltage need not be the fault of the load that has it: without the one whose fault it is, all is well.
        for suspect in lowest:
            own_share, own = self._bisect(s, partial(less, suspect))
            if own is not None and own_share >= 1e-6:
                load, jointly, share, (state, at) = suspect, False, own_share, own
                break
        g = self._conductance(state, s.duty)
        _, current, _, _ = self._imbalance(at, state, g)
        drops = np.abs(np.where(g > 0.0, current / np.where(g > 0.0, g, 1.0), 0.0))
        return Collapse(load, float(asked[load]), float(asked[load] * share), int(np.argmax(drops)), jointly)

    def _report(self, s: _Setting, state: _State) -> OperatingPoint:
        c, d = s.circuit, s.duty
        ohm = self._ohm(state.temperature_c, d)
        g = np.where(d.closed, 1.0 / ohm, 0.0)
        f, current, load_v, scale = self._imbalance(s, state, g)
        residual = float(np.max(np.abs(f[: c.nodes]), initial=0.0)) / scale
        assert residual < RESIDUAL_LIMIT, f"Kirchhoff's current law misses by {residual:.1e}"
        v = s.base + state.dv
        out_v = v[c.source_plus] - v[c.source_minus]
        has_feed = c.feed_plus >= 0
        feed_v = np.where(has_feed, v[np.maximum(c.feed_plus, 0)] - v[np.maximum(c.feed_minus, 0)], np.nan)
        feed_a = np.zeros(out_v.size)
        feed_a[self._fed] = self._feed_current(s, out_v, state.source_a, feed_v[self._fed])
        temperature = d.ambient_c.copy()
        temperature[c.heated] = state.temperature_c
        return OperatingPoint(
            volts=v, live=s.live, pins=s.pins, current_a=current, drop_v=current * ohm, ohm=ohm, temperature_c=temperature,
            load_v=np.where(s.no_return, np.nan, load_v), load_a=self._load_current(s, load_v),
            source_v=out_v, source_a=state.source_a, feed_v=feed_v, feed_a=feed_a, mode=state.mode,
            starved_v=state.starved_v if state.starved_v is not None else np.full(out_v.size, np.nan), unfed=s.unfed, reversed_=s.reversed_, no_return=s.no_return, torn=s.torn,
            residual=residual, iterations=self.iterations, factorisations=self.factorisations,
        )  # fmt: skip

    def _nothing(self, s: _Setting, collapse: Collapse) -> OperatingPoint:
        c = s.circuit
        none_b, none_l = np.full(c.a.size, np.nan), np.full(c.load_plus.size, np.nan)
        none_s = np.full(c.source_plus.size, np.nan)
        return OperatingPoint(
            volts=np.full(c.nodes, np.nan), live=s.live, pins=s.pins, current_a=none_b, drop_v=none_b, ohm=none_b,
            temperature_c=none_b, load_v=none_l, load_a=none_l, source_v=none_s, source_a=none_s,
            feed_v=none_s, feed_a=none_s, mode=np.zeros(none_s.size, dtype=np.int64), starved_v=none_s, unfed=s.unfed,
            reversed_=s.reversed_, no_return=s.no_return, torn=s.torn, residual=np.nan,
            iterations=self.iterations, factorisations=self.factorisations, collapse=collapse,
        )  # fmt: skip
