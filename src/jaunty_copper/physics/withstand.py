"""How much a conductor bears while a device opens."""

import numpy as np
from numpy.typing import ArrayLike

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
        Before, and what the insulation bears for some seconds, C.

    Notes
    -----
    IEC 60949, adiabatic: K² S² ln((theta_f + beta) / (theta_i + beta)). Valid to 5 s.
    """
    ratio = (np.asarray(end_c, dtype=float) + BETA_C) / (np.asarray(start_c, dtype=float) + BETA_C)
    return np.asarray(K_COPPER**2 * np.asarray(area_mm2, dtype=float) ** 2 * np.log(ratio))
