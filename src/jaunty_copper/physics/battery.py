"""A battery unit as an EMF behind a resistance."""

import numpy as np
from numpy.typing import ArrayLike

from jaunty_copper.physics.copper import Floats

CHARGES = np.linspace(0.0, 100.0, 11)
"""States of charge at which a chemistry says its open-circuit voltage, %."""


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
    per_cell = np.interp(np.asarray(soc_percent, dtype=float), CHARGES, np.asarray(ocv_per_cell_v, dtype=float))
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


def acceptance_ohm(soc_percent: ArrayLike, empty_ohm: ArrayLike, end: ArrayLike) -> Floats:
    """What a unit that is charged meets besides its resistance, ohm: more the fuller it is.

    Parameters
    ----------
    soc_percent : array_like
        State of charge, 0 to 100.
    empty_ohm : array_like
        When it is empty, nearly: divided by what is missing and the end.
    end : array_like
        Share of the charge at which it stops growing.

    References
    ----------
    O. Tremblay, L.-A. Dessaint, "Experimental validation of a battery dynamic model for EV applications", World
    Electric Vehicle Journal 3 (2009): K Q / (it + end Q) i*, the charge term of Shepherd's model (J. Electrochem.
    Soc. 112 (1965) 657), at rest in itself. It falls with what is missing, as Mas (1967) found of the current.
    """
    missing = np.clip(1.0 - np.asarray(soc_percent, dtype=float) / 100.0, 0.0, 1.0)
    return np.asarray(np.asarray(empty_ohm, dtype=float) / (missing + np.asarray(end, dtype=float)))
