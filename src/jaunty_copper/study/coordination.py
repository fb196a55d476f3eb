"""Which of two devices in series opens first, over every fault current that can flow through both."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import inf

import numpy as np

from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import Band, band_of
from jaunty_copper.plan.model import Breaker, Fuse
from jaunty_copper.study.faults import Faults

STEPS = 200
SERIES_SHARE = 0.5
"""A device that carries at least this share of the current of another stands in series with it."""


@dataclass(frozen=True)
class Pair:
    """Two devices in series.

    Attributes
    ----------
    upstream, downstream : str
        Ids.
    least_a, most_a : float
        Fault currents through the downstream device that can occur.
    up_to_a : float
        Current through the downstream device up to which it has opened before the upstream one
        begins to; 0 where never, inf where always.
    """

    upstream: str
    downstream: str
    least_a: float
    most_a: float
    up_to_a: float

    @property
    def verdict(self) -> str:
        """Total, partial or none."""
        return "total" if self.up_to_a == inf else "partial" if self.up_to_a > self.least_a else "none"


def band_for(parts: Catalogue, family_id: str) -> Band:
    """Opening band of a device family.

    Raises
    ------
    KeyError
        There is no such family.
    """
    family = parts.device_families[family_id]
    return band_of(parts.gates_of(family), family.beyond == "i2t", family.floor_s)


def selective_up_to(up: Band, up_a: float, down: Band, down_a: float, current: Floats, share: float = 1.0) -> float:
    """Current up to which the downstream device has opened before the upstream one begins to.

    Parameters
    ----------
    up, down : Band
        Of the two.
    up_a, down_a : float
        Their ratings at their ambient.
    current : ndarray
        Fault currents through the downstream device, ascending.
    share : float
        Current through the upstream device over that through the downstream one.

    Returns
    -------
    float
        The last of `current` before the first at which the downstream device's longest time
        is not below the upstream one's shortest; inf where there is none, 0 where it is the first.
    """
    fails = ~(down.longest(current / down_a) < up.shortest(current * share / up_a))
    # Below what either opens at there is nothing to be selective about.
    fails &= np.isfinite(up.shortest(current * share / up_a))
    if not fails.any():
        return inf
    k = int(np.argmax(fails))
    return float(current[k - 1]) if k else 0.0


def pairs_of(faults: Faults) -> Iterator[Pair]:
    """Every pair of fuses and breakers in series, with the verdict over all currents that can occur."""
    w = faults.wiring
    devices = [x for x in w.plan.items if isinstance(x, Fuse | Breaker)]
    peak, least = np.abs(faults.peak.branch_a), np.abs(faults.least.branch_a)
    if not peak.size:
        return
    where = np.argmax(peak, axis=1)
    most = peak[np.arange(where.size), where]
    # Faults behind a device are those whose whole current it carries.
    own = (least >= 0.99 * np.abs(faults.least.current_a)) & (least > 0.0)
    low = np.min(least, axis=1, initial=np.inf, where=own)
    bands = {f: band_for(w.parts, f) for f in {d.family for d in devices}}
    share = np.divide(peak[:, where], most, out=np.zeros((where.size, where.size)), where=most > 0.0)
    for down, up in zip(*np.nonzero(share.T >= SERIES_SHARE), strict=True):
        if up == down:
            continue
        u, d = devices[up], devices[down]
        current = np.geomspace(min(low[down], most[down]), most[down], STEPS)
        found = selective_up_to(
            bands[u.family], u.rating_a, bands[d.family], d.rating_a, current, float(share[up, down])
        )
        yield Pair(u.id, d.id, float(current[0]), float(current[-1]), found)
