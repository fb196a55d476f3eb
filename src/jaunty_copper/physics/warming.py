"""Conductors that warm while currents flow through them, step by step in closed form."""

from dataclasses import dataclass

import numpy as np

from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.fault_course import HOTTEST_C
from jaunty_copper.physics.withstand import ADIABATIC_S, BETA_C, K_COPPER


@dataclass(frozen=True)
class Watched:
    """Conductors that are followed in faults: one entry for each conductor and fault.

    Attributes
    ----------
    case, row : ndarray of int, shape (watched,)
        Which of the faults, and which of the conductors.
    branch : ndarray of int, shape (conductors,)
        Of each conductor.
    area_mm2, start_c, end_c, air_c : ndarray, shape (conductors,)
        Section, temperature before, what its insulation withstands for some seconds, air.
    long_a : ndarray, shape (conductors,)
        Current that holds it at `end_c` for ever.
    bears_a : ndarray, shape (conductors,)
        Current of which nobody needs to be afraid, A: its ampacity.
    """

    case: Ints
    row: Ints
    branch: Ints
    area_mm2: Floats
    start_c: Floats
    end_c: Floats
    air_c: Floats
    long_a: Floats
    bears_a: Floats


class Warming:
    """Conductors that warm under currents that change by steps.

    Attributes
    ----------
    u, hottest_u : ndarray, shape (watched,)
        Temperature plus the reciprocal of copper's coefficient: now, and the highest yet.
    damaged_s, until_s, let_a2s : ndarray, shape (watched,)
        As in `sequence.Sequences`.
    """

    def __init__(self, w: Watched) -> None:
        self.w = w
        self.k2s2 = (K_COPPER * w.area_mm2) ** 2
        self.u = (w.start_c + BETA_C)[w.row]
        self.hottest_u = self.u.copy()
        self.last_u, self.air_u = w.end_c + BETA_C, w.air_c + BETA_C
        rise = np.maximum(self.last_u - self.air_u, 1e-9)
        self.loss = w.long_a**2 / self.k2s2 * self.last_u / rise
        size = w.case.size
        self.damaged_s, self.until_s = np.full(size, np.inf), np.zeros(size)
        self.let_a2s = np.zeros(size)

    def flows(self, at: Ints, dt: Floats, amps: Floats, since: Floats) -> None:
        """Let constant currents flow through some conductors for some time, inf for ever.

        Parameters
        ----------
        at : ndarray of int, shape (n,)
            Rows of the conductors.
        dt : ndarray, shape (n,)
            For how long, s.
        amps : ndarray, shape (n,)
            Current, A.
        since : ndarray, shape (n,)
            How long after the fault it begins, s.
        """
        on = dt > 0.0
        at, dt, amps, since = at[on], dt[on], amps[on], since[on]
        short = np.minimum(np.clip(ADIABATIC_S - since, 0.0, None), dt)
        row = self.w.row[at]
        gain = amps**2 / self.k2s2[row]
        self.let_a2s[at] += amps**2 * short
        self._step(at, short, gain, np.zeros(at.size), since)
        self._step(at, dt - short, gain, self.loss[row], since + short)
        above = np.abs(amps) > self.w.bears_a[row]
        self.until_s[at[above]] = (since + dt)[above]

    def _step(self, at: Ints, dt: Floats, gain: Floats, loss: Floats, since: Floats) -> None:
        on = np.flatnonzero(dt > 0.0)
        at, t, since = at[on], dt[on], since[on]
        row = self.w.row[at]
        u, last = self.u[at], self.last_u[row]
        rate, push = gain[on] - loss[on], loss[on] * self.air_u[row]
        flat = np.abs(rate) < 1e-15
        safe = np.where(flat, 1.0, rate)
        middle = -push / safe
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            ends = np.where(
                flat, u + push * np.minimum(t, 1e12), middle + (u - middle) * np.exp(np.minimum(rate * t, 50.0))
            )
        slack = 1e-6 * last
        beyond = np.flatnonzero((ends > last + slack) & (u <= last + slack) & np.isinf(self.damaged_s[at]))
        self.u[at] = np.minimum(ends, HOTTEST_C + BETA_C)
        self.hottest_u[at] = np.maximum(self.hottest_u[at], self.u[at])
        u, last, push, safe, middle = (x[beyond] for x in (u, last, push, safe, middle))
        with np.errstate(divide="ignore", invalid="ignore"):
            reach = np.where(
                flat[beyond], (last - u) / np.maximum(push, 1e-300), np.log((last - middle) / (u - middle)) / safe
            )
        reach = np.where(np.isfinite(reach) & (reach >= 0.0), np.minimum(reach, t[beyond]), t[beyond])
        self.damaged_s[at[beyond]] = since[beyond] + reach
