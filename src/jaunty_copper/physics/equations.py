"""The equations of a circuit: Kirchhoff's current law at each node, one more for what each source regulates; their Jacobian."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from jaunty_copper.physics.circuit import Circuit, Duty, Ints
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.physics.modes import CURRENT, POWER, VOLTAGE
from jaunty_copper.physics.setting import Setting

SMALLEST_OHM = 1e-6
"""Every branch has at least this: a bolted contact is never better."""
DROOP_OHM = 1e-10
"""A regulated source gives way by this much, so that two that hold one place share alike."""
PIN_S = 1.0
"""Ties one node of each part to 0 V; no current flows in it, there is no way back."""


@dataclass
class NewtonState:
    """Where Newton's method stands.

    Attributes
    ----------
    dv : ndarray, shape (nodes,)
        Voltage of each node beyond its base, V.
    source_a, mode : ndarray, shape (sources,)
        What each source gives, A, and its `Mode`.
    temperature_c : ndarray, shape (heated,)
        Of the conductors that warm.
    starved_v : ndarray, shape (sources,)
        Input voltage at which a converter had to stop; nan where none did.
    """

    dv: Floats
    source_a: Floats
    temperature_c: Floats
    mode: Ints
    starved_v: Floats | None = None


class Equations:
    """The equations of one circuit under any duty, or under several at once: then all that belongs to one has a row in each array."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
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

    def ohm(self, temperature_c: Floats, d: Duty) -> Floats:
        """Resistance of each branch, its heated conductors at a temperature.

        Parameters
        ----------
        temperature_c : ndarray, shape (heated,)
            Of the conductors that warm.
        d : Duty
            For the air of all others, and what is added to each branch.

        Returns
        -------
        ndarray, shape (branches,)
            At least `SMALLEST_OHM`.
        """
        c = self.circuit
        t = d.ambient_c.copy()
        t[..., c.heated] = temperature_c
        return np.asarray(np.maximum(c.fixed_ohm + d.extra_ohm + resistance_at(c.copper_ohm, t), SMALLEST_OHM))

    def conductance(self, state: NewtonState, d: Duty) -> Floats:
        """Conductance of each branch, S; 0 where a switch is open.

        Parameters
        ----------
        state : NewtonState
            For the temperature of the conductors.
        d : Duty
            For the switches.

        Returns
        -------
        ndarray, shape (branches,)
        """
        return np.where(d.closed, 1.0 / self.ohm(state.temperature_c, d), 0.0)

    def imbalance(self, s: Setting, state: NewtonState, g: Floats) -> tuple[Floats, Floats, Floats, Any]:
        """What each equation lacks, with branch currents, load voltages and the largest current.

        Parameters
        ----------
        s : Setting
            What the topology of the duty decides.
        state : NewtonState
            Where Newton's method stands.
        g : ndarray, shape (branches,)
            Conductance of each branch, S.

        Returns
        -------
        ndarray, shape (nodes + sources,)
            A at nodes; what each source regulates, in its own unit.
        ndarray, shape (branches,)
            Current from a to b, A.
        ndarray, shape (loads,)
            Voltage of each load, V.
        float, or ndarray, shape (duties,)
            Largest current, A.
        """
        c, d, n = s.circuit, s.duty, s.circuit.nodes
        dv, i, mode = state.dv, state.source_a, state.mode
        current = g * (between(dv, c.a, c.b) + s.drive)
        load_v = between(dv, c.load_plus, c.load_minus) + s.load_base
        out_v = between(dv, c.source_plus, c.source_minus) + s.out_base
        fed = self._fed
        feed_i = self.feed_current(s, out_v, i, between(dv + s.base, c.feed_plus[fed], c.feed_minus[fed]))
        flows = np.concatenate([current, self.load_current(s, load_v), feed_i, i], axis=-1)
        f = np.empty((*dv.shape[:-1], n + i.shape[-1]))
        f[..., :n] = _gathered(self._away, flows, n) - _gathered(self._into, flows, n)
        sensed = between(dv, c.sense_plus, c.sense_minus) + s.sense_base
        regulated = np.where(
            mode == VOLTAGE,
            sensed + DROOP_OHM * i - d.source_v,
            np.where(mode == CURRENT, i - d.source_a, i),
        )
        by_power = mode == POWER
        if by_power.any():
            regulated[by_power] = (i * out_v)[by_power] - d.source_w[by_power]
        f[..., n:] = regulated
        return f, current, load_v, np.maximum(np.abs(flows).max(axis=-1, initial=0.0), 1e-3)

    def load_current(self, s: Setting, v: Floats) -> Floats:
        """What each load draws at a voltage of its own terminals, A.

        Parameters
        ----------
        s : Setting
            For what each load asks, and which can run.
        v : ndarray, shape (loads,)
            V.
        """
        d = s.duty
        safe = np.where(s.load_on, np.maximum(v, 1e-3), 1.0)
        return np.where(s.load_on, d.load_w / safe + d.load_a + d.load_s * v, 0.0)

    def feed_current(self, s: Setting, out_v: Floats, i: Floats, feed_v: Floats) -> Floats:
        """What each converter draws at its input, A, by the voltages of its two sides and what it gives.

        Parameters
        ----------
        s : Setting
            For efficiency and standby.
        out_v, i : ndarray, shape (sources,)
            Voltage at each output, V, and what it gives, A.
        feed_v : ndarray, shape (converters,)
            Voltage at each input, V.
        """
        fed = self._fed
        on = s.source_live[..., fed]
        power = out_v[..., fed] * i[..., fed] / s.circuit.efficiency[fed] + s.duty.standby_w[..., fed]
        return np.where(on, power / np.where(on, np.maximum(feed_v, 1e-3), 1.0), 0.0)

    def jacobian(self, s: Setting, state: NewtonState, g: Floats) -> tuple[Ints, Ints, Floats]:
        """Rows, columns and values of the Jacobian; what stands in one place adds up.

        Parameters
        ----------
        s : Setting
            What the topology of the duty decides.
        state : NewtonState
            Where Newton's method stands.
        g : ndarray, shape (branches,)
            Conductance of each branch to a small change of its voltage, S.

        Returns
        -------
        ndarray of int, ndarray of int, ndarray
            All of one length, for a sparse matrix of nodes + sources.
        """
        c, d = s.circuit, s.duty
        v = s.base + state.dv
        load_v = v[c.load_plus] - v[c.load_minus]
        safe = np.where(s.load_on, np.maximum(load_v, 1e-3), 1.0)
        slope = np.where(s.load_on, d.load_s - d.load_w / safe**2, 0.0)
        fed, i, mode = self._fed, state.source_a, state.mode
        out_v = v[c.source_plus] - v[c.source_minus]
        feed_v = v[c.feed_plus[fed]] - v[c.feed_minus[fed]]
        on = s.source_live[fed]
        safe_in = np.where(on, np.maximum(feed_v, 1e-3), 1.0)
        by_in = -self.feed_current(s, out_v, i, feed_v) / safe_in
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
        return rows, cols, np.concatenate([*quads, np.full(s.pins.size, PIN_S)])


def between(v: Floats, first: Ints, second: Ints) -> Floats:
    """Voltage from one node to another, V.

    Parameters
    ----------
    v : ndarray, shape (nodes,) or (duties, nodes)
        Voltage of each node, V.
    first, second : ndarray of int, shape (n,)
        Nodes.

    Returns
    -------
    ndarray, shape (n,) or (duties, n)
    """
    return np.asarray(v.take(first, axis=-1) - v.take(second, axis=-1))


def _gathered(at: Ints, flows: Floats, nodes: int) -> Floats:
    """What flows come to at each node, A, row by row."""
    if flows.ndim == 1:
        return np.asarray(np.bincount(at, flows, nodes), dtype=float)
    rows = np.arange(flows.shape[0])[:, None] * nodes
    found = np.bincount((rows + at).ravel(), flows.ravel(), rows.size * nodes)
    return np.asarray(found, dtype=float).reshape(-1, nodes)
