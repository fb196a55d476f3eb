"""How full the ways are that conductors share."""

from collections.abc import Callable
from math import pi
from typing import NamedTuple

from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.plan.model import Plan, Route

INNER_MM = (13.0, 16.9, 21.4, 27.8, 35.4, 44.3, 55.6)
"""Inner diameters of common conduits, representative."""


class Fill(NamedTuple):
    """What lies in a route.

    Attributes
    ----------
    runs : tuple of str
        Ids of its conductors.
    cables : int
        How many, those in parallel counted each.
    area_mm2 : float
        Of all of them over their insulation.
    share, limit : float
        Of the conduit's inner area, and the most it may be; share is nan where the route is open.
    least_mm : float or None
        Smallest common inner diameter that holds them; None where none does.
    """

    route: Route
    runs: tuple[str, ...]
    cables: int
    area_mm2: float
    share: float
    limit: float
    least_mm: float | None

    @property
    def full(self) -> bool:
        """Whether there is too much in it."""
        return self.share > self.limit


def fills(plan: Plan, parts: Catalogue, allowed: Callable[[int], float]) -> tuple[Fill, ...]:
    """Every route with what lies in it, in the order of the plan.

    Parameters
    ----------
    allowed : callable
        From a number of cables to the share of the inner area that they may take, by the code.
    """
    found = []
    for route in plan.routes:
        runs = [r for r in plan.runs if r.route == route.id]
        cables = sum(r.parallel for r in runs)
        area = sum(r.parallel * pi / 4.0 * parts.conductors[r.conductor].outer_mm ** 2 for r in runs)
        limit = allowed(cables)
        share = area / (pi / 4.0 * route.inner_mm**2) if route.inner_mm is not None else float("nan")
        least = next((d for d in INNER_MM if area <= limit * pi / 4.0 * d**2), None)
        found.append(Fill(route, tuple(r.id for r in runs), cables, area, share, limit, least))
    return tuple(found)
