"""How full the ways are that conductors share."""

from collections.abc import Callable
from itertools import pairwise
from math import pi
from typing import NamedTuple

from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.physics.graph import components
from jaunty_copper.plan.model import Inline, Plan, Route, Run

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


def lines_in(plan: Plan, route: Route) -> list[list[Run]]:
    """Conductors in a route, those together that a device or switch parts: side by side with others they are one."""
    runs = [r for r in plan.runs if r.route == route.id]
    place = {r.id: k for k, r in enumerate(runs)}
    pairs = list[tuple[int, int]]()
    for x in plan.items:
        if isinstance(x, Inline):
            ends = [place[r.id] for t in x.terminal_names for r in plan.runs_at.get(x.ref(t), ()) if r.id in place]
            pairs += pairwise(ends)
    lines: dict[int, list[Run]] = {}
    for run, line in zip(runs, components(len(runs), [i for i, _ in pairs], [j for _, j in pairs]), strict=True):
        lines.setdefault(line, []).append(run)
    return list(lines.values())


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
        # Of a line that a device parts, the thicker conductor stands for all of it.
        lines = [
            [(r.parallel * parts.conductors[r.conductor].outer_mm ** 2, r.parallel) for r in line]
            for line in lines_in(plan, route)
        ]
        cables = sum(max(n for _, n in line) for line in lines)
        area = pi / 4.0 * sum(max(a for a, _ in line) for line in lines)
        limit = allowed(cables)
        share = area / (pi / 4.0 * route.inner_mm**2) if route.inner_mm is not None else float("nan")
        least = next((d for d in INNER_MM if area <= limit * pi / 4.0 * d**2), None)
        found.append(Fill(route, tuple(r.id for r in runs), cables, area, share, limit, least))
    return tuple(found)
