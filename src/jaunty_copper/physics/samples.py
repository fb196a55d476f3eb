"""Many variants of one operating point at once: other resistances, EMFs and loads, in the modes that it has.

Newton's method with the one inverse of the point they vary about (the chord method), on all of them together.
"""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from scipy.sparse import csr_array

from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.physics.equations import DROOP_OHM, SMALLEST_OHM
from jaunty_copper.physics.modes import CURRENT, OFF, POWER, VOLTAGE
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.setting import Setting

MOST_STEPS = 40
MOST_CELLS = 2_000_000
"""Variants times branches that are worked on at once: some hundred megabytes."""
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
    block = max(1, MOST_CELLS // max(branches, 1))
    parts = [_block(solver, variants.of(slice(k, k + block))) for k in range(0, rows, block)]
    if len(parts) == 1:
        return parts[0]
    return Varied(*(np.concatenate([getattr(p, name) for p in parts]) for name in Varied.__dataclass_fields__))


def _block(solver: Solver, variants: Variants) -> Varied:
    """As many variants as memory is spent on at once."""
    s, state, solve = solver.chord()
    c, d, n = solver.circuit, s.duty, solver.circuit.nodes
    count = variants.load.shape[0]
    fed = np.flatnonzero(c.feed_plus >= 0)
    away = np.concatenate([c.a, c.load_plus, c.feed_plus[fed], c.source_minus])
    into = np.concatenate([c.b, c.load_minus, c.feed_minus[fed], c.source_plus])
    flow = np.arange(away.size)
    signs = np.concatenate([np.ones(away.size), -np.ones(into.size)])
    ends = csr_array((signs, (np.concatenate([away, into]), np.concatenate([flow, flow]))), shape=(n, away.size))
    base_i = solver.branch_current()
    air = d.ambient_c + variants.air_k
    rise = np.zeros(c.a.size)
    rise[c.heated] = state.temperature_c - d.ambient_c[c.heated]
    per_square = np.where(np.abs(base_i) > 1e-6, rise / np.maximum(base_i**2, 1e-12), 0.0)
    planned = solver.branch_ohm()
    g = np.where(d.closed, 1.0 / planned, 0.0)
    if d.held_c is not None:
        # It is over before a conductor warms.
        air, per_square = air + rise, np.zeros_like(per_square)
    drive = s.drive + np.where(d.closed, variants.emf_v, 0.0)
    mode = state.mode
    found = _State(np.tile(state.dv, (count, 1)), np.tile(state.source_a, (count, 1)), np.tile(base_i, (count, 1)))
    left = np.arange(count)
    ok = np.zeros(count, dtype=bool)
    for _ in range(MOST_STEPS):
        dv, i, current = found.dv[left], found.i[left], found.current[left]
        warm = air[left] + per_square * current**2
        copper = resistance_at(c.copper_ohm * variants.copper[left], warm)
        more = np.maximum(c.fixed_ohm * variants.fixed[left] + d.extra_ohm + copper, SMALLEST_OHM) - planned
        # What a resistance has more is a voltage against the current in it: a stiff joint may be many times stiffer.
        current = g * (dv[:, c.a] - dv[:, c.b] + drive[left] - more * current)
        load_v = dv[:, c.load_plus] - dv[:, c.load_minus] + s.load_base
        safe = np.where(s.load_on, np.maximum(load_v, 1e-3), 1.0)
        asked = (d.load_w / safe + d.load_a + d.load_s * load_v) * variants.load[left]
        load_i = np.where(s.load_on, asked, 0.0)
        out_v = dv[:, c.source_plus] - dv[:, c.source_minus] + s.out_base
        v = dv + s.base
        feed_v = v[:, c.feed_plus[fed]] - v[:, c.feed_minus[fed]]
        on = s.source_live[fed]
        power = out_v[:, fed] * i[:, fed] / c.efficiency[fed] + d.standby_w[fed]
        feed_i = np.where(on, power / np.where(on, np.maximum(feed_v, 1e-3), 1.0), 0.0)
        f = np.empty((left.size, n + i.shape[1]))
        f[:, :n] = (ends @ np.concatenate([current, load_i, feed_i, i], axis=1).T).T
        sensed = dv[:, c.sense_plus] - dv[:, c.sense_minus] + s.sense_base
        held = np.where(mode == CURRENT, i - d.source_a, np.where(mode == POWER, i * out_v - d.source_w, i))
        f[:, n:] = np.where(
            mode == VOLTAGE, sensed + DROOP_OHM * i - d.source_v, np.where(np.isfinite(held), held, 0.0)
        )
        delta = -solve(f.T).T
        found.dv[left], found.i[left] = dv + delta[:, :n], i + delta[:, n:]
        found.current[left] = current + g * (delta[:, c.a] - delta[:, c.b])
        step = np.abs(delta[:, :n]).max(axis=1, initial=0.0)
        fine = step < CLOSE_V
        ok[left[fine]] = _content(s, mode, sensed[fine], i[fine], out_v[fine])
        left = left[~fine & (step < FAR_V)]
        if not left.size:
            break
    volts, current = found.dv + s.base, found.current
    volts[~ok], current[~ok] = np.nan, np.nan
    return Varied(volts, current, air + per_square * current**2, ok)


class _State(NamedTuple):
    """Where each variant stands."""

    dv: Floats
    i: Floats
    current: Floats


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
