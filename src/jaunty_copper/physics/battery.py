"""A battery unit as an EMF behind a resistance."""

import numpy as np
from numpy.typing import ArrayLike

from jaunty_copper.physics.copper import Floats


def open_circuit_voltage(soc_percent: ArrayLike, cells: ArrayLike, ocv_per_cell_v: ArrayLike) -> Floats:
    """Open-circuit voltage at a state of charge, V.

    Parameters
    ----------
    soc_percent : array_like
        State of charge, 0 to 100.
    cells : array_like
        Cells in series.
    ocv_per_cell_v : array_like
        Eleven voltages of one cell at 0, 10 ... 100 % charge; linear between.
    """
    grid = np.linspace(0.0, 100.0, 11)
    per_cell = np.interp(np.asarray(soc_percent, dtype=float), grid, np.asarray(ocv_per_cell_v, dtype=float))
    return np.asarray(per_cell * np.asarray(cells, dtype=float))


def internal_resistance(cells: ArrayLike, r_ohm_ah: ArrayLike, capacity_ah: ArrayLike) -> Floats:
    """Internal resistance of a unit from its chemistry's figure, ohm.

    A cell's resistance falls in proportion to its capacity, so
    r = cells * r_ohm_ah / capacity_ah.

    Parameters
    ----------
    cells : array_like
        Cells in series.
    r_ohm_ah : array_like
        Resistance of one cell of one ampere-hour, ohm Ah.
    capacity_ah : array_like
        Of the unit, Ah.
    """
    return np.asarray(
        np.asarray(cells, dtype=float) * np.asarray(r_ohm_ah, dtype=float) / np.asarray(capacity_ah, dtype=float)
    )
