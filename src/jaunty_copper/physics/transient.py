"""A fault in time: inductance, capacitors, devices that melt and clear, conductors that warm.

The state is the currents of the network's independent loops, so that Kirchhoff's current law
holds by construction and nothing but differential equations is left.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from scipy.integrate import solve_ivp
from scipy.linalg import cho_factor, cho_solve

from jaunty_copper.language import say
from jaunty_copper.physics import graph
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import ALPHA20_PER_K, Floats
from jaunty_copper.physics.curves import Band
from jaunty_copper.physics.fault_course import (
    HOTTEST_C,
    NOTHING_A,
    SAME,
    Devices,
    FaultCourse,
    FaultEvent,
    Network,
    Overtaken,
    Unsolved,
)
from jaunty_copper.physics.withstand import BETA_C, K_COPPER

RTOL = 1e-6


@dataclass
class _Now:
    """The state between two events."""

    time_s: float
    current_a: Floats
    charge_v: Floats
    conductor_c: Floats
    melted: Floats
    gone: Flags
    arcing: Flags


def course(
    network: Network,
    devices: Devices,
    end_s: float = 3600.0,
    overtaken: Callable[[], bool] = lambda: False,
) -> FaultCourse:
    """Follow a fault until nothing flows in it, nothing more can open, or the end.

    Parameters
    ----------
    network, devices
        What there is.
    end_s : float
        Longest time to follow, s.
    overtaken : callable
        Asked at every step whether to stop.

    Raises
    ------
    Overtaken
        It was to stop.
    Unsolved
        Never a course that only looks whole.

    Notes
    -----
    Between events the state obeys M dJ/dt = B (E - R i - v_C) with i = Bᵀ J and M = B L Bᵀ for
    the loop matrix B; copper warms by dT/dt = (T + beta) I² / (K² S²) - loss (T - air), which is
    IEC 60949 where nothing is lost; a device melts by the integral of dt / t(I). Solved by an
    implicit Runge-Kutta method of order five (Radau IIA) with error control. A device that has
    melted goes on conducting against its arc's voltage until its current is zero.
    """
    alive = _meshed(network)
    now = _before(network, devices, alive)
    times, currents, temperatures, melts = [0.0], [now.current_a], [now.conductor_c], [now.melted]
    events: list[FaultEvent] = []
    while now.time_s < end_s:
        part = _Part(network, devices, now, alive)
        if not part.loops:
            break
        found = part.follow(end_s, overtaken)
        times += found.times_s
        currents += found.current_a
        temperatures += found.conductor_c
        melts += found.melted
        if not found.events:
            break
        now = found.now
        events += found.events
    burnt = np.flatnonzero(temperatures[-1] >= HOTTEST_C - 1.0)
    return FaultCourse(
        np.array(times), np.array(currents), np.array(temperatures), np.array(melts).reshape(len(times), -1),
        tuple(events), tuple(burnt.tolist()),
    )  # fmt: skip


def _meshed(n: Network) -> Flags:
    """Branches that current can go round through: leaves taken off until none is left."""
    _, up, _ = graph.leaves(n.nodes, n.a.tolist(), n.b.tolist())
    keep = n.a != n.b
    keep[[k for k in up if k >= 0]] = False
    return np.asarray(keep)


def _loops(n: Network, alive: Flags) -> tuple[Floats, Ints]:
    """Loop matrix and the chord of each loop: capacitors and the fault are chords where they can be."""
    order = np.lexsort((np.arange(n.a.size), n.per_farad > 0.0))
    order = np.array([k for k in order if alive[k]], dtype=np.int64)
    rows, chords = graph.loops(n.nodes, n.a[order].tolist(), n.b[order].tolist())
    matrix = np.zeros((len(rows), n.a.size))
    for row, signs in enumerate(rows):
        for k, sign in signs.items():
            matrix[row, order[k]] = sign
    return matrix, order[chords] if chords else np.zeros(0, dtype=np.int64)


def _before(n: Network, d: Devices, alive: Flags) -> _Now:
    """What flows before the fault, with capacitors charged to the voltage where they are."""
    size = n.a.size
    closed = alive & (n.per_farad == 0.0)
    closed[-1] = False
    matrix, _ = _loops(n, closed)
    ohm = n.fixed_ohm + n.copper_ohm * (1.0 + ALPHA20_PER_K * (n.start_c - 20.0))
    loop_a = np.linalg.solve((matrix * ohm) @ matrix.T, matrix @ n.emf_v) if len(matrix) else np.zeros(0)
    current = matrix.T @ loop_a
    charge = np.zeros(size)
    all_loops, chords = _loops(n, alive)
    around = all_loops @ (n.emf_v - ohm * current)
    for row, k in enumerate(chords):
        if n.per_farad[k] > 0.0:
            charge[k] = around[row]
    none = np.zeros(d.branch.size, dtype=bool)
    return _Now(0.0, current, charge, n.start_c.copy(), np.zeros(d.branch.size), none, none.copy())


@dataclass
class _Found:
    times_s: list[float]
    current_a: list[Floats]
    conductor_c: list[Floats]
    melted: list[Floats]
    events: list[FaultEvent]
    now: _Now


class _Part:
    """The equations between two events."""

    def __init__(self, n: Network, d: Devices, now: _Now, alive: Flags) -> None:
        self.n, self.d, self.now = n, d, now
        on = alive.copy()
        on[d.branch[now.gone]] = False
        self.matrix, chords = _loops(n, on)
        self.loops = len(chords)
        if not self.loops:
            return
        used = np.abs(self.matrix).sum(axis=0) > 0.0
        self.caps = np.flatnonzero(used & (n.per_farad > 0.0))
        self.warm = np.flatnonzero(used & np.isfinite(n.area_mm2) & (n.copper_ohm > 0.0))
        # Bars keep their temperature.
        cold = np.ones(n.a.size, dtype=bool)
        cold[self.warm] = False
        self.cold_ohm = n.fixed_ohm + cold * n.copper_ohm * (1.0 + ALPHA20_PER_K * (n.start_c - 20.0))
        self.can_open = np.flatnonzero(~now.gone & ~now.arcing & used[d.branch])
        self.chords = chords
        self.mass = cho_factor((self.matrix * n.henry) @ self.matrix.T)
        self.drive = n.emf_v.copy()
        for k in np.flatnonzero(now.arcing):
            branch = d.branch[k]
            self.drive[branch] -= np.sign(now.current_a[branch]) * d.arc_v
        self.warm_in = self.matrix[:, self.warm]
        self.by_band = [
            (band, np.array(at, dtype=np.int64), d.branch[at]) for band, at in _grouped(d.bands, self.can_open.tolist())
        ]
        self.k2s2 = (K_COPPER * n.area_mm2[self.warm]) ** 2
        cuts = np.cumsum([self.loops, self.caps.size, self.warm.size])
        self.cut = [int(c) for c in cuts]

    def state(self) -> Floats:
        now = self.now
        return np.concatenate(
            [
                now.current_a[self.chords],
                now.charge_v[self.caps],
                now.conductor_c[self.warm],
                now.melted[self.can_open],
            ]
        )

    def ohm(self, t: float, temperature: Floats) -> Floats:
        n = self.n
        ohm: Floats = self.cold_ohm + n.late_ohm * (1.0 - np.exp(-t / n.decay_s))
        ohm[self.warm] += n.copper_ohm[self.warm] * (1.0 + ALPHA20_PER_K * (temperature - 20.0))
        return ohm

    def slope(self, t: float, y: Floats) -> Floats:
        n, d, (j, v, c) = self.n, self.d, self.cut
        i = self.matrix.T @ y[:j]
        temperature = y[v:c]
        volts = self.drive + (n.late_emf_v - n.emf_v) * (1.0 - np.exp(-t / n.decay_s)) - self.ohm(t, temperature) * i
        volts[self.caps] -= y[j:v]
        found: Floats = np.empty(y.size)
        found[:j] = cho_solve(self.mass, self.matrix @ volts, check_finite=False)
        found[j:v] = i[self.caps] * n.per_farad[self.caps]
        square = i[self.warm] ** 2 / self.k2s2
        lost = n.loss_per_s[self.warm] * (temperature - n.ambient_c[self.warm])
        found[v:c] = (temperature + BETA_C) * square - lost
        rate = np.zeros(d.branch.size)
        for band, at, branch in self.by_band:
            read = band.longest if d.certainly else band.shortest
            rate[at] = 1.0 / read(np.abs(i[branch]) / d.rating_a[at])
        found[c:] = rate[self.can_open]
        return found

    def jacobian(self, t: float, y: Floats) -> Floats:
        """By all but the melting, which nothing depends on and which the steps correct."""
        n, (j, v, c) = self.n, self.cut
        i = self.matrix.T @ y[:j]
        temperature = y[v:c]
        found: Floats = np.zeros((y.size, y.size))
        found[:j, :j] = -cho_solve(self.mass, (self.matrix * self.ohm(t, temperature)) @ self.matrix.T)
        found[:j, j:v] = -cho_solve(self.mass, self.matrix[:, self.caps])
        by_heat = n.copper_ohm[self.warm] * ALPHA20_PER_K * i[self.warm]
        found[:j, v:c] = -cho_solve(self.mass, self.warm_in * by_heat)
        found[j:v, :j] = (self.matrix[:, self.caps] * n.per_farad[self.caps]).T
        gain = i[self.warm] / self.k2s2
        found[v:c, :j] = (self.warm_in * (2.0 * (temperature + BETA_C) * gain)).T
        found[np.arange(v, c), np.arange(v, c)] = i[self.warm] * gain - n.loss_per_s[self.warm]
        return found

    def follow(self, end_s: float, overtaken: Callable[[], bool]) -> _Found:
        """Solve up to the next event or the end."""
        d, now = self.d, self.now
        j, v, c = self.cut
        begin = self.state()
        sign = np.sign(now.current_a[d.branch])
        place = {int(k): c + at for at, k in enumerate(self.can_open)}

        def melts(_: float, y: Floats, at: int) -> float:
            return float(y[at]) - 1.0

        def zero(_: float, y: Floats, k: int) -> float:
            return float(self.matrix[:, d.branch[k]] @ y[:j] * sign[k])

        def fault_over(_: float, y: Floats) -> float:
            # Where the fault carries nothing any more there is nothing to follow.
            return float(abs(self.matrix[:, -1] @ y[:j]) - NOTHING_A)

        def slope(t: float, y: Floats) -> Floats:
            if overtaken():
                raise Overtaken
            return self.slope(t, y)

        def burns(_: float, y: Floats) -> float:
            return float(y[v:c].max(initial=0.0)) - HOTTEST_C

        arcing = np.flatnonzero(now.arcing).tolist()
        watched = [(int(k), False) for k in self.can_open] + [(k, True) for k in arcing]
        checks = [
            _stop(partial(zero, k=k), -1.0) if over else _stop(partial(melts, at=place[k]), 1.0) for k, over in watched
        ]
        atol = np.concatenate(
            [np.full(j, 1e-3), np.full(v - j, 1e-5), np.full(c - v, 1e-3), np.full(begin.size - c, 1e-6)]
        )
        span = (now.time_s, end_s)
        if self.dead() and not arcing:
            return _Found([], [], [], [], [], now)
        solved = solve_ivp(
            slope, span, begin, method="Radau", jac=self.jacobian, events=[*checks, _stop(fault_over, -1.0), _stop(burns, 1.0)],
            rtol=RTOL, atol=atol, first_step=1e-9 if now.time_s == 0.0 else None,
        )  # fmt: skip
        if solved.status < 0:
            raise Unsolved(
                say("the course broke off after {t:.3g} s: {message}", t=float(solved.t[-1]), message=solved.message)
            )
        current = solved.y[:j].T @ self.matrix
        temperature = np.repeat(now.conductor_c[None, :], len(solved.t), axis=0)
        temperature[:, self.warm] = solved.y[v:c].T
        melted = np.repeat(now.melted[None, :], len(solved.t), axis=0)
        melted[:, self.can_open] = solved.y[c:].T
        charge = now.charge_v.copy()
        charge[self.caps] = solved.y[j:v, -1]
        hit = next((w for w, times in zip(watched, solved.t_events or (), strict=False) if len(times)), None)
        then = _Now(
            float(solved.t[-1]), current[-1].copy(), charge, temperature[-1].copy(), melted[-1].copy(),
            now.gone.copy(), now.arcing.copy(),
        )  # fmt: skip
        events = []
        for k, over in self._together(hit, then):
            amps = float(abs(then.current_a[d.branch[k]]))
            events.append(FaultEvent(then.time_s, k, over, amps))
            # What hardly carries anything when it opens has no arc to put out.
            then.gone[k] = over or amps < NOTHING_A
            then.arcing[k] = not then.gone[k]
            if not over:
                then.melted[k] = 1.0
            if then.gone[k]:
                then.current_a[d.branch[k]] = 0.0
        return _Found(solved.t.tolist(), list(current), list(temperature), list(melted), events, then)

    def _together(self, hit: tuple[int, bool] | None, then: _Now) -> list[tuple[int, bool]]:
        """An event, and what happens in the same moment: its crossing would never be seen again."""
        if hit is None:
            return []
        k, over = hit
        if over:
            near = [
                n for n in np.flatnonzero(then.arcing).tolist() if abs(then.current_a[self.d.branch[n]]) < NOTHING_A
            ]
        else:
            near = [n for n in self.can_open.tolist() if then.melted[n] >= 1.0 - SAME]
        return [(n, over) for n in dict.fromkeys([k, *near])]

    def dead(self) -> bool:
        """Whether the fault has been cut off from all that could feed it."""
        return not self.matrix[:, -1].any()


def _stop(check: Callable[..., float], direction: float) -> Callable[..., float]:
    """A check that ends a solution where it passes zero in a direction."""

    def stops(t: float, y: Floats) -> float:
        return check(t, y)

    stops.terminal = True  # type: ignore[attr-defined]
    stops.direction = direction  # type: ignore[attr-defined]
    return stops


def _grouped(bands: tuple[Band, ...], at: list[int]) -> list[tuple[Band, list[int]]]:
    """Devices that open by one and the same band."""
    found: dict[int, list[int]] = {}
    for k in at:
        found.setdefault(id(bands[k]), []).append(k)
    return [(bands[ks[0]], ks) for ks in found.values()]
