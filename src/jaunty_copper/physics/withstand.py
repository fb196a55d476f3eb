"""How much a conductor withstands while a device opens."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from jaunty_copper.physics.copper import Floats

K_COPPER = 226.0
"""A s^0.5 / mm², IEC 60949 for copper."""
BETA_C = 234.5
"""Reciprocal of copper's temperature coefficient at 0 °C, IEC 60949."""
ADIABATIC_S = 5.0
"""Up to here no heat leaves the copper worth counting, IEC 60949."""


def withstand_a2s(area_mm2: ArrayLike, start_c: ArrayLike, end_c: ArrayLike) -> Floats:
    """Let-through energy that heats a copper conductor from one temperature to another, A²s.

    Parameters
    ----------
    area_mm2 : array_like
        Section, mm².
    start_c, end_c : array_like
        Before, and what the insulation withstands for some seconds, C.

    Notes
    -----
    IEC 60949, adiabatic: K² S² ln((theta_f + beta) / (theta_i + beta)). Valid to 5 s.
    """
    ratio = (np.asarray(end_c, dtype=float) + BETA_C) / (np.asarray(start_c, dtype=float) + BETA_C)
    return np.asarray(K_COPPER**2 * np.asarray(area_mm2, dtype=float) ** 2 * np.log(ratio))


def _end_u(gain: Floats, loss: Floats, t: Floats, first: Floats, around: Floats) -> Floats:
    """Temperature plus beta after a time, heated by `gain` u and cooled by `loss` (u - around) from 5 s on."""
    rest = np.clip(t - ADIABATIC_S, 0.0, 1e7)
    rate = gain - loss
    power = np.minimum(rate * rest, 200.0)
    grown = np.where(np.abs(power) > 1e-9, np.expm1(power) / np.where(rate == 0.0, 1.0, rate), rest)
    return np.asarray(first * np.exp(np.minimum(ADIABATIC_S * gain, 200.0) + power) + loss * around * grown)


def outlasts(
    current_a: ArrayLike,
    seconds: ArrayLike,
    area_mm2: ArrayLike,
    start_c: ArrayLike,
    end_c: ArrayLike,
    long_a: ArrayLike,
    ambient_c: ArrayLike,
) -> NDArray[np.bool_]:
    """Whether a conductor withstands a constant current for a time: at or below `endurance_current`.

    Parameters
    ----------
    current_a, seconds : array_like
        Current, A, and how long it flows, s; inf for ever.
    area_mm2, start_c, end_c, long_a, ambient_c : array_like
        As in `endurance_current`.
    """
    given = (current_a, seconds, area_mm2, start_c, end_c, long_a, ambient_c)
    whole = np.broadcast_arrays(*(np.asarray(x, dtype=float) for x in given))
    i, t, area, start, end, long, air = (np.atleast_1d(x) for x in whole)
    slack = 1.0 + 1e-6
    found = i <= long * slack
    short = t <= ADIABATIC_S
    found |= short & (i**2 * t <= withstand_a2s(area, start, end) * slack**2)
    k = np.nonzero(~found & ~short & np.isfinite(t))
    if k[0].size:
        k2s2, last, around = (K_COPPER * area[k]) ** 2, end[k] + BETA_C, air[k] + BETA_C
        loss = long[k] ** 2 / k2s2 * last / np.maximum(last - around, 1e-9)
        found[k] = _end_u((i[k] / slack) ** 2 / k2s2, loss, t[k], start[k] + BETA_C, around) <= last
    return np.asarray(found.reshape(whole[0].shape))


def endurance_current(
    seconds: ArrayLike,
    area_mm2: ArrayLike,
    start_c: ArrayLike,
    end_c: ArrayLike,
    long_a: ArrayLike,
    ambient_c: ArrayLike,
) -> Floats:
    """Constant current that a conductor withstands for a time, A: from a short circuit to a lasting overload.

    Parameters
    ----------
    seconds : array_like
        How long, s; inf for ever.
    area_mm2, start_c, end_c : array_like
        Section, mm², and its temperature before and after, C, as in `withstand_a2s`.
    long_a : array_like
        Current that holds it at `end_c` for ever, A, by the heat balance.
    ambient_c : array_like
        Air around it, C.

    Returns
    -------
    ndarray
        Broadcast over all.

    Notes
    -----
    One heat balance with u = theta + beta: du/dt = u I² / (K² S²) - y (u - u_air), whose loss y
    is the one that `long_a` balances at `end_c`. Up to 5 s the loss counts for nothing, as in
    IEC 60949; from there on the equation is linear in u with a closed solution, so that the two
    regimes meet without a step and the longest times end at `long_a`.
    """
    t, area, start, end, long, air = np.broadcast_arrays(
        *(np.asarray(x, dtype=float) for x in (seconds, area_mm2, start_c, end_c, long_a, ambient_c))
    )
    shape = t.shape
    t, area, start, end, long, air = (np.atleast_1d(x) for x in (t, area, start, end, long, air))
    able = withstand_a2s(area, start, end)
    found = np.where(t <= ADIABATIC_S, np.sqrt(able / np.maximum(t, 1e-9)), 0.0)
    k = np.nonzero((t > ADIABATIC_S) & np.isfinite(t))
    if k[0].size:
        k2s2 = (K_COPPER * area[k]) ** 2
        first, last, around = start[k] + BETA_C, end[k] + BETA_C, air[k] + BETA_C
        loss = long[k] ** 2 / k2s2 * last / np.maximum(last - around, 1e-9)
        low, high = np.zeros(k2s2.shape), np.sqrt(able[k] / ADIABATIC_S)
        for _ in range(50):
            mid = 0.5 * (low + high)
            ends = _end_u(mid**2 / k2s2, loss, t[k], first, around)
            low, high = np.where(ends > last, low, mid), np.where(ends > last, mid, high)
        found[k] = high
    # What it carries for ever it carries for any time.
    return np.asarray(np.maximum(found, long).reshape(shape))
