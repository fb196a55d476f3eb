"""Bare copper busbars: what they carry for good, and take in a short."""

from math import log, sqrt

import numpy as np

from jaunty_copper.physics.copper import Floats, bar_resistance, resistance_at

BAR_C = 90.0
"""Of a bar for good: what stands on it and beside it withstands that, IEC 61439-1 table 6, representative."""
AFTER_FAULT_C = 200.0
"""Of a bare bar after a short, IEC 60364-5-54 table A.54.6: nothing that burns beside it."""
FILM_W_M2K, FILM_RISE_K = 8.5, 30.0
"""Heat that a bare, still, flat bar gives off over its outline, and at which rise; grows with its fourth root."""


def bar_ampacity(width_mm: float, thickness_mm: float, ambient_c: float) -> float:
    """What a bare flat copper bar carries for good in still air, A.

    Parameters
    ----------
    width_mm, thickness_mm : float
        Of its section.
    ambient_c : float
        Air around it, C.

    References
    ----------
    Heat balance: current squared times resistance at 90 C against what the outline gives off, 8.5 W/m²K at a rise of
    30 K. Within 10 % of the figures that DIN 43671 gives for single bare bars at a rise of 30 K.
    """
    rise = BAR_C - ambient_c
    return bar_current(width_mm, thickness_mm, rise, BAR_C) if rise > 0.0 else 0.0


def bar_current(width_mm: float, thickness_mm: float, rise_k: float, bar_c: float) -> float:
    """The current that warms a bare flat copper bar by so much in still air, A.

    Parameters
    ----------
    width_mm, thickness_mm : float
        Of its section.
    rise_k : float
        Above the air, K.
    bar_c : float
        Temperature of the bar, C.
    """
    film = FILM_W_M2K * (rise_k / FILM_RISE_K) ** 0.25
    ohm_per_m = float(resistance_at(bar_resistance(1.0, width_mm, thickness_mm), bar_c))
    return sqrt(film * 2e-3 * (width_mm + thickness_mm) * rise_k / ohm_per_m)


def bar_withstand(area_mm2: float) -> float:
    """Let-through energy that a bare copper bar takes from 90 to 200 C, A²s.

    Parameters
    ----------
    area_mm2 : float
        Of its section.

    References
    ----------
    IEC 60364-5-54 annex A: k = 226 sqrt(ln((234.5 + final) / (234.5 + initial))) for copper.
    """
    k = 226.0 * sqrt(log((234.5 + AFTER_FAULT_C) / (234.5 + BAR_C)))
    return (k * area_mm2) ** 2


def heat_kept(amps: Floats, seconds: Floats, takes_a2s: float, for_good_a: float) -> Floats:
    """The part of a let-through energy that stays in a bar, A²s: at first all of it, in the end what is not given off.

    Parameters
    ----------
    amps, seconds : ndarray, shape (n,)
        Current, A, and how long it flows, s; inf where nothing ends it.
    takes_a2s : float
        What the bar takes while nothing is given off, A²s.
    for_good_a : float
        Current that holds it at its limit for good, A.

    References
    ----------
    One time constant, that which makes both ends right: tau = takes / for_good², I² tau (1 - exp(-t / tau)).
    """
    tau = takes_a2s / for_good_a**2
    return np.asarray(amps**2 * tau * -np.expm1(-seconds / tau))


THICKNESSES_MM = (2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0, 20.0)
"""In which bar copper can be bought."""


def thick_enough(width_mm: float, at_least_mm: float, amps: float, ambient_c: float) -> float | None:
    """The least thickness, from some on, at which a bar carries a current for good, mm; None where none does.

    Parameters
    ----------
    width_mm, at_least_mm : float
        Of its section.
    amps : float
        A.
    ambient_c : float
        Air around it, C.
    """
    tried = (at_least_mm, *(t for t in THICKNESSES_MM if t > at_least_mm))
    return next((t for t in tried if bar_ampacity(width_mm, t, ambient_c) >= amps), None)
