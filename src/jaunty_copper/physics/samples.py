"""Many variants of one operating point at once: other resistances, EMFs and loads, in the modes that it has.

Newton's method with the one inverse of the point they vary about (the chord method), on all of them together.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from jaunty_copper.physics.circuit import Circuit, Flags, Ints
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.physics.equations import DROOP_OHM, SMALLEST_OHM, NewtonState
from jaunty_copper.physics.modes import CURRENT, OFF, POWER, VOLTAGE
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.setting import Setting

if TYPE_CHECKING:
    from scipy.sparse import csr_array

MOST_STEPS = 40
MOST_CELLS = 200_000
"""Variants times branches that are worked on at once: they stay near a processor."""
MOST_THREADS = 4
"""Each holds some tens of megabytes."""
CLOSE_V = 1e-6
"""Steps of so little end it: a millionth of a volt is below any meter."""
FAR_V = 1e3


@dataclass(frozen=True)
class Variants:
    """What differs from the point varied about, a row each.

    Attributes
    ----------
    fixed, copper : ndarray, shape (s, branches)
        Times that the resistance of joints, bodies and units, and of copper at 20 C, is what it was.
    emf_v : ndarray, shape (s, branches)
        On top of each unit's EMF, V.
    load : ndarray, shape (s, loads)
        Times what each load asks.
    air_k : ndarray, shape (s, branches)
        On top of the air about each branch, K.
    """

    fixed: Floats
    copper: Floats
    emf_v: Floats
    load: Floats
    air_k: Floats

    def of(self, rows: slice) -> "Variants":
        """Some of them.

        Parameters
        ----------
        rows : slice
            Which.
        """
        return Variants(self.fixed[rows], self.copper[rows], self.emf_v[rows], self.load[rows], self.air_k[rows])


@dataclass(frozen=True)
class Varied:
    """What comes of them.

    Attributes
    ----------
    volts : ndarray, shape (s, nodes)
        nan where the variant has no operating point in these modes.
    current_a, temperature_c : ndarray, shape (s, branches)
        Of each branch; warmth of those that warm.
    settled : ndarray of bool, shape (s,)
        Which of them have one, every source content with its mode.
    """

    volts: Floats
    current_a: Floats
    temperature_c: Floats
    settled: Flags


def vary(solver: Solver, variants: Variants) -> Varied:
    """Solve variants of what a solver solved last.

    Parameters
    ----------
    solver : Solver
        After a duty that has an operating point.
    variants : Variants
        What differs.

    Raises
    ------
    ValueError
        Nothing has been solved.

    Notes
    -----
    The rise of a conductor over the air goes with the square of its current. A variant in which a source would change
    its mode is not settled: it has to be solved separately.
    """
    rows, branches = variants.fixed.shape
    block, about = max(1, MOST_CELLS // max(branches, 1)), _About.of(solver)
    some = [slice(k, k + block) for k in range(0, rows, block)] or [slice(0, 0)]
    # Arrays of this size are worked on outside of the interpreter, by as many threads as there are processors.
    with ThreadPoolExecutor(min(os.cpu_count() or 1, MOST_THREADS, len(some))) as threads:
        parts = list(threads.map(lambda k: _block(about, variants.of(k)), some))
    return Varied(*(np.concatenate([getattr(p, name) for p in parts]) for name in Varied.__dataclass_fields__))


class _About(NamedTuple):
    """The point varied about."""

    setting: Setting
    state: NewtonState
    solve: Callable[[Floats], Floats]
    ohm: Floats
    amps: Floats

    @classmethod
    def of(cls, solver: Solver) -> "_About":
        """What a solver solved last."""
        return cls(*solver.chord(), solver.branch_ohm(), solver.branch_current())


def _block(about: _About, variants: Variants) -> Varied:
    """As many variants as are worked on at once; a column each, so that what belongs to a node or a branch lies together."""
    s, state, solve, planned, base_i = about
    c, d, n = s.circuit, s.duty, s.circuit.nodes
    count, branches = variants.fixed.shape
    fed = np.flatnonzero(c.feed_plus >= 0)
    ends = _ends(c, fed)
    air = d.ambient_c[:, None] + variants.air_k.T
    rise = np.zeros(branches)
    rise[c.heated] = state.temperature_c - d.ambient_c[c.heated]
    per_square = np.where(np.abs(base_i) > 1e-6, rise / np.maximum(base_i**2, 1e-12), 0.0)
    g = np.where(d.closed, 1.0 / planned, 0.0)[:, None]
    if d.held_c is not None:
        # It is over before a conductor warms.
        air, per_square = air + rise[:, None], np.zeros_like(per_square)
    varied = _Columns(
        np.arange(count), air, c.fixed_ohm[:, None] * variants.fixed.T + np.broadcast_to(d.extra_ohm, branches)[:, None],
        c.copper_ohm[:, None] * variants.copper.T, s.drive[:, None] + np.where(d.closed[:, None], variants.emf_v.T, 0.0), variants.load.T,
        *(np.repeat(x[:, None], count, axis=1) for x in (state.dv, state.source_a, base_i)),
    )  # fmt: skip
    found = Varied(np.full((n, count), np.nan), np.full((branches, count), np.nan), air, np.zeros(count, dtype=bool))
    mode = state.mode[:, None]
    base, load_base, load_on, out_base, sense_base, drawn_w, drawn_a, drawn_s, source_a, source_w, source_v = (
        x[:, None]
        for x in (
            s.base, s.load_base, s.load_on, s.out_base, s.sense_base, d.load_w, d.load_a, d.load_s, d.source_a, d.source_w, d.source_v,
        )
    )  # fmt: skip
    on, efficiency, standby = (x[fed][:, None] for x in (s.source_live, c.efficiency, d.standby_w))
    for k in range(MOST_STEPS):
        w = varied
        warm = w.air + per_square[:, None] * w.current**2
        more = np.maximum(w.fixed + resistance_at(w.copper, warm), SMALLEST_OHM) - planned[:, None]
        # What a resistance has more is a voltage against the current in it: a stiff joint may be many times stiffer.
        current = g * (w.dv[c.a] - w.dv[c.b] + w.drive - more * w.current)
        load_v = w.dv[c.load_plus] - w.dv[c.load_minus] + load_base
        asked = (drawn_w / np.where(load_on, np.maximum(load_v, 1e-3), 1.0) + drawn_a + drawn_s * load_v) * w.load
        load_i = np.where(load_on, asked, 0.0)
        out_v = w.dv[c.source_plus] - w.dv[c.source_minus] + out_base
        feed_v = (w.dv[c.feed_plus[fed]] + base[c.feed_plus[fed]]) - (w.dv[c.feed_minus[fed]] + base[c.feed_minus[fed]])
        power = out_v[fed] * w.i[fed] / efficiency + standby
        feed_i = np.where(on, power / np.where(on, np.maximum(feed_v, 1e-3), 1.0), 0.0)
        sensed = w.dv[c.sense_plus] - w.dv[c.sense_minus] + sense_base
        held = np.where(mode == CURRENT, w.i - source_a, np.where(mode == POWER, w.i * out_v - source_w, w.i))
        asked_of = np.where(
            mode == VOLTAGE, sensed + DROOP_OHM * w.i - source_v, np.where(np.isfinite(held), held, 0.0)
        )
        flows = np.concatenate([current, load_i, feed_i, w.i])
        delta = -solve(np.concatenate([ends @ flows, asked_of]))
        w = w._replace(
            dv=w.dv + delta[:n], i=w.i + delta[n:], current=current + g * (delta[c.a] - delta[c.b])
        )  # fmt: skip
        step = np.abs(delta[:n]).max(axis=0, initial=0.0)
        fine, lost = step < CLOSE_V, ~(step < FAR_V)
        if 2 * np.count_nonzero(fine) < fine.size and not lost.any() and k + 1 < MOST_STEPS:
            # To go on with those that are there costs less than to sort them out.
            varied = w
            continue
        found.settled[w.at[fine]] = _content(s, state.mode, sensed[:, fine].T, w.i[:, fine].T, out_v[:, fine].T)
        found.volts[:, w.at[fine]], found.current_a[:, w.at[fine]] = w.dv[:, fine] + base, w.current[:, fine]
        going = ~fine & ~lost
        if not going.any():
            break
        varied = w if going.all() else w.of(going)
    found.volts[:, ~found.settled], found.current_a[:, ~found.settled] = np.nan, np.nan
    warm = found.temperature_c + per_square[:, None] * found.current_a**2
    return Varied(found.volts.T, found.current_a.T, warm.T, found.settled)


def _ends(c: Circuit, fed: Ints) -> "csr_array":
    """What leaves each node by branches, loads, converters' inputs and sources, of what flows in them."""
    from scipy.sparse import csr_array

    away = np.concatenate([c.a, c.load_plus, c.feed_plus[fed], c.source_minus])
    into = np.concatenate([c.b, c.load_minus, c.feed_minus[fed], c.source_plus])
    flow = np.arange(away.size)
    signs = np.concatenate([np.ones(away.size), -np.ones(into.size)])
    return csr_array((signs, (np.concatenate([away, into]), np.concatenate([flow, flow]))), shape=(c.nodes, away.size))


class _Columns(NamedTuple):
    """The variants that are still worked on, and where each stands: their numbers, then a column each."""

    at: Ints
    air: Floats
    fixed: Floats
    copper: Floats
    drive: Floats
    load: Floats
    dv: Floats
    i: Floats
    current: Floats

    def of(self, which: Flags) -> "_Columns":
        """Some of them."""
        return _Columns(self.at[which], *(x[:, which] for x in self[1:]))


def _content(s: Setting, mode: Ints, sensed: Floats, i: Floats, out_v: Floats) -> Flags:
    """Whether every source of each variant would stay in its mode."""
    d, near = s.duty, 1e-6
    limit = np.minimum(d.source_a, d.source_w / np.maximum(out_v, 1e-3))
    low = sensed <= d.source_v + near
    fine = np.where(
        mode == VOLTAGE,
        (i <= limit + near) & (i >= -near),
        np.where(mode == OFF, ~s.source_live | (sensed >= d.source_v - near), low),
    )
    return np.asarray(fine.all(axis=1))
