"""How much each conductor of a plan withstands, for how long."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from jaunty_copper.network.wiring import Wiring, cable_of
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.heat import steady_current
from jaunty_copper.physics.withstand import endurance_current, outlasts
from jaunty_copper.plan.model import Run

OVER_K = 50.0
"""What an insulation withstands for some seconds above its rating, where nothing else is known."""


@dataclass(frozen=True)
class Withstand:
    """Damage limits of runs, one array entry each.

    Attributes
    ----------
    runs : tuple of Run
        Runs with copper of some length.
    area_mm2 : ndarray
        Of all their conductors together.
    start_c, end_c : ndarray
        Rated temperature of the insulation, and what it withstands for some seconds, C.
    long_a : ndarray
        Current that holds the copper at `end_c` for ever, A.
    air_c : ndarray
        Hottest air around each, C.
    """

    runs: tuple[Run, ...]
    area_mm2: Floats
    start_c: Floats
    end_c: Floats
    long_a: Floats
    air_c: Floats

    @cached_property
    def row(self) -> dict[str, int]:
        """Row of each run."""
        return {r.id: k for k, r in enumerate(self.runs)}

    def current(self, seconds: ArrayLike, rows: Ints) -> Floats:
        """Constant current that runs withstand for a time, A, as `endurance_current`.

        Parameters
        ----------
        seconds : array_like, shape (n,) or (n, m)
            For each of the runs asked for one time or several.
        rows : ndarray of int, shape (n,)
            Which runs.
        """
        t = np.asarray(seconds, dtype=float)
        return endurance_current(t, *self._limits(t, rows))

    def withstands(self, current_a: Floats, seconds: Floats, rows: Ints) -> Flags:
        """Whether runs withstand currents for times; shapes as in `current`.

        Parameters
        ----------
        current_a : ndarray, shape (n, ...)
            Currents, A.
        seconds : ndarray, shape (n, ...)
            For how long each, s.
        rows : ndarray of int, shape (n,)
            Rows of the runs.
        """
        return outlasts(current_a, seconds, *self._limits(seconds, rows))

    def _limits(self, shaped: Floats, rows: Ints) -> tuple[Floats, ...]:
        limits = (self.area_mm2, self.start_c, self.end_c, self.long_a, self.air_c)
        return tuple(x[rows][:, None] if shaped.ndim > 1 else x[rows] for x in limits)


def withstand_of(wiring: Wiring, hottest_c: Floats) -> Withstand:
    """Damage limits of all runs.

    Parameters
    ----------
    wiring : Wiring
        Of the plan.
    hottest_c : ndarray, shape (branches,)
        Air over all scenarios.
    """
    return heating_limits(wiring.heated_runs, wiring.parts, hottest_c[wiring.circuit.heated])


def heating_limits(runs: tuple[Run, ...], parts: Catalogue, air_c: Floats) -> Withstand:
    """Damage limits of runs, whether a plan has them or not.

    Parameters
    ----------
    runs : tuple of Run
        With the parts that they name.
    parts : Catalogue
        Where those are.
    air_c : ndarray, shape (runs,)
        Air around each.
    """
    insulations = [parts.insulations[r.insulation] for r in runs]
    start = np.array([i.max_c for i in insulations])
    end = np.array([i.fault_c or i.max_c + OVER_K for i in insulations])
    air = np.minimum(air_c, start - 1.0)
    cable = cable_of(list(runs), parts)
    count = np.array([r.parallel for r in runs], dtype=float)
    return Withstand(runs, cable.area_mm2 * count, start, end, steady_current(cable, end, air), air)
