"""Resistance of copper conductors and bars."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

RHO20_OHM_M = 17.241e-9
"""Resistivity of annealed copper at 20 C in ohm metre, IEC 60028."""

ALPHA20_PER_K = 0.00393
"""Temperature coefficient of copper's resistance at 20 C in 1/K, IEC 60028."""

HEAT_J_PER_M3_K = 3.45e6
"""Volumetric heat capacity of copper in J/(m3 K), IEC 60949 table 1."""


def resistance_at(r20_ohm: ArrayLike, temperature_c: ArrayLike) -> Floats:
    """Resistance of copper at a temperature.

    Parameters
    ----------
    r20_ohm : array_like
        Resistance at 20 C in ohm (or ohm per unit length).
    temperature_c : array_like
        Conductor temperature in C; broadcasts with `r20_ohm`.

    Returns
    -------
    ndarray
        Resistance in the unit of `r20_ohm`.

    References
    ----------
    IEC 60028: R = R20 (1 + alpha20 (T - 20)).
    """
    rise = np.asarray(temperature_c, dtype=float) - 20.0
    return np.asarray(r20_ohm, dtype=float) * (1.0 + ALPHA20_PER_K * rise)


def bar_resistance(length_m: ArrayLike, width_mm: ArrayLike, thickness_mm: ArrayLike) -> Floats:
    """Resistance at 20 C, in ohm, of a rectangular copper bar.

    Parameters
    ----------
    length_m, width_mm, thickness_mm : array_like
        Length in m, section in mm.
    """
    area_m2 = np.asarray(width_mm, dtype=float) * np.asarray(thickness_mm, dtype=float) * 1e-6
    return np.asarray(RHO20_OHM_M * np.asarray(length_m, dtype=float) / area_m2)
