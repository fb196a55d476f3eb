"""Arcing faults: what an arc across a gap leaves of a bolted short circuit, and how far it burns."""

from math import pi, sqrt

import numpy as np
from numpy.typing import ArrayLike

from jaunty_copper.physics.copper import Floats

FOOT_V, PER_MM_V, POWER = 20.0, 0.534, 0.12
"""Stokes and Oppenländer: U = (20 + 0.534 gap) I^0.12, gap in mm."""
TRANSITION_A, TRANSITION_A_PER_MM = 10.0, 0.2
"""Below 10 + 0.2 gap A the voltage of an arc falls with its current, and the law ends."""


def arc_current(open_v: ArrayLike, ohm: ArrayLike, gap_mm: float) -> Floats:
    """Current of a steady arc across a gap, A; nan outside the range of its law, 0 where nothing drives one.

    Parameters
    ----------
    open_v, ohm : array_like
        Voltage at the place before the fault, V, and the resistance that the fault sees.
    gap_mm : float
        Length of the arc between the conductors, mm.

    Notes
    -----
    The root of U = R I + (20 + 0.534 gap) I^0.12, whose right side only grows: Newton's method
    reaches it from below. Under the transition current, 10 + 0.2 gap, the law does not hold: nan.
    That says nothing of whether an arc burns: a welding arc does at 20 to 30 V, and what is drawn apart begins at no gap.

    References
    ----------
    A. D. Stokes, W. T. Oppenländer, "Electric arcs in open air", J. Phys. D 24 (1991) 26.
    """
    u, r = np.broadcast_arrays(np.abs(np.asarray(open_v, dtype=float)), np.asarray(ohm, dtype=float))
    foot, least = FOOT_V + PER_MM_V * gap_mm, TRANSITION_A + TRANSITION_A_PER_MM * gap_mm
    joined = np.isfinite(r) & (r > 0.0)
    safe = np.where(joined, r, 1.0)
    current = np.full(u.shape, least)
    for _ in range(40):
        excess = u - safe * current - foot * current**POWER
        slope = safe + POWER * foot * current ** (POWER - 1.0)
        current = np.maximum(current + excess / slope, 1e-3)
    return np.asarray(np.where(joined & (u > 0.0), np.where(current > least, current, np.nan), 0.0))


CALORIE_J = 4.184
BURN_CAL_CM2 = 1.2
"""Energy on bare skin at which a second-degree burn begins: NFPA 70E 130.5, IEEE 1584."""


def burn_energy(volts: float, bolted_a: float, seconds: float, distance_mm: float) -> float:
    """The most that an arc may throw on a square centimetre, cal.

    An arc takes its greatest power, a quarter of voltage times bolted current, where it halves both; all of it goes
    out evenly on every side. Few arcs below 60 V last so: an upper bound.

    Parameters
    ----------
    volts : float
        Before the fault, V.
    bolted_a : float
        Prospective short-circuit current, A.
    seconds : float
        How long it burns.
    distance_mm : float
        From the arc to the skin.

    References
    ----------
    D. R. Doan, "Arc flash calculations for exposures to DC systems", IEEE Trans. Ind. Appl. 46 (2010) 2299; NFPA 70E
    annex D.5.1, check the edition: 0.01 V I t / D², I half of the bolted current, D in cm.
    """
    return 0.25 * volts * bolted_a * seconds / CALORIE_J / (4.0 * pi * (0.1 * distance_mm) ** 2)


def burn_distance_mm(volts: float, bolted_a: float, seconds: float) -> float:
    """How far an arc may burn bare skin at most, mm: the inverse of `burn_energy` for 1.2 cal/cm².

    Parameters
    ----------
    volts, bolted_a, seconds : float
        As there.
    """
    return sqrt(burn_energy(volts, bolted_a, seconds, 1.0) / BURN_CAL_CM2)
