"""Which of two devices in series opens first, over every fault current that can flow through both."""

from dataclasses import dataclass
from math import inf
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import Band, even_ratios
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.faults import Faults

Selectivity = Literal["total", "partial", "none"]
STEPS = 200
SERIES_SHARE = 0.5
"""A device that carries at least this share of the current of another stands in series with it."""
DEVICES_AT_ONCE = 256
"""Whose greatest faults are looked at in one go: what all devices carry in those of all grows with the square of a plan."""


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
    share : float
        Current through the upstream device over that through the downstream one.
    same : bool
        Both feed the same equipment, so that it is all one which of them opens.
    """

    upstream: str
    downstream: str
    least_a: float
    most_a: float
    up_to_a: float
    share: float
    same: bool

    @property
    def verdict(self) -> Selectivity:
        """Total, partial or none."""
        return selectivity_of(self.up_to_a, self.least_a)


def selectivity_of(up_to_a: float, least_a: float) -> Selectivity:
    """Total, partial or none, by the current up to which two devices are selective.

    Parameters
    ----------
    up_to_a, least_a : float
        That current, inf where it is any, and the least fault current through both, A.
    """
    return "total" if up_to_a == inf else "partial" if up_to_a > least_a else "none"


def in_series(faults: Faults, ref: str) -> tuple[str, ...]:
    """Devices that carry the whole current of a fault at a terminal, from its source on.

    Raises
    ------
    KeyError
        No fault is looked at there.
    """
    column = faults.at[ref]
    behind = faults.behind
    # What stands nearer to the source has more behind it.
    order = sorted(behind.devices_of(column).tolist(), key=lambda k: (-int(behind.count[k]), k))
    return tuple(faults.devices[k] for k in order)


def selective_up_to(
    up: Band, up_a: ArrayLike, down: Band, down_a: ArrayLike, current: Floats, share: ArrayLike = 1.0
) -> Floats:
    """Current up to which the downstream device has opened before the upstream one begins to.

    Parameters
    ----------
    up, down : Band
        Of the two.
    up_a, down_a : array_like, shape (...)
        What the upstream rating is worth at its hottest, the downstream one at its coolest.
    current : ndarray, shape (..., steps)
        Fault currents through the downstream device, ascending.
    share : array_like, shape (...)
        Current through the upstream device over that through the downstream one.

    Returns
    -------
    ndarray, shape (...)
        The last of `current` before the first at which the downstream device's longest time
        is not below the upstream one's shortest; inf where there is none, 0 where it is the first.
    """
    scale, own = np.asarray(share, dtype=float) / np.asarray(up_a), np.asarray(down_a, dtype=float)
    begins = up.shortest(current * scale[..., None])
    # Below what the upstream one opens at there is nothing to be selective about.
    fails = ~(down.longest(current / own[..., None]) < begins) & np.isfinite(begins)
    first = np.argmax(fails, axis=-1)
    last = np.take_along_axis(current, np.maximum(first - 1, 0)[..., None], axis=-1)[..., 0]
    return np.asarray(np.where(fails.any(axis=-1), np.where(first > 0, last, 0.0), inf))


def pairs_of(faults: Faults, devices: dict[str, Device]) -> tuple[Pair, ...]:
    """Every pair of fuses and breakers in series, with the verdict over all currents that can occur."""
    count = len(faults.devices)
    if not count or not faults.places.refs:
        return ()
    most, where = faults.peak.branch_a.greatest()
    most, where = most[:count], where[:count]
    low = np.minimum(most, faults.least_behind_a)
    feeds = faults.behind.among(faults.fed[1])
    upper, lower, share = _above(faults, most, where)
    all_ = [devices[d] for d in faults.devices]
    alike: dict[tuple[int, int], list[int]] = {}
    for k in np.lexsort((upper, lower)).tolist():
        alike.setdefault((id(all_[upper[k]].band), id(all_[lower[k]].band)), []).append(k)
    found = []
    for group in alike.values():
        d, u, of_one = lower[group], upper[group], share[group]
        current = even_ratios(low[d], most[d], STEPS)
        up_a, down_a = np.array([all_[k].fast_a for k in u]), np.array([all_[k].slow_a for k in d])
        until = selective_up_to(all_[u[0]].band, up_a, all_[d[0]].band, down_a, current, of_one)
        same = (feeds[u] == feeds[d]).all(axis=1)
        found += [
            (down, up, Pair(faults.devices[up], faults.devices[down], *figures))
            for down, up, *figures in zip(
                d.tolist(), u.tolist(), low[d].tolist(), most[d].tolist(), until.tolist(), of_one.tolist(), same.tolist(),
                strict=True,
            )
        ]  # fmt: skip
    return tuple(pair for _, _, pair in sorted(found, key=lambda f: f[:2]))


def _above(faults: Faults, most: Floats, where: Ints) -> tuple[Ints, Ints, Floats]:
    """Devices that carry some of the greatest current through another, that other, and how much of it; shapes (pairs,)."""
    found = []
    for begin in range(0, most.size, DEVICES_AT_ONCE):
        upper, lower, amps = faults.peak.branch_a.during(where[begin : begin + DEVICES_AT_ONCE])
        lower += begin
        share = np.divide(np.abs(amps), most[lower], out=np.zeros(amps.size), where=most[lower] > 0.0)
        series = (share >= SERIES_SHARE) & (upper != lower) & (upper < most.size)
        found.append((upper[series], lower[series], share[series]))
    upper, lower, share = (np.concatenate(x) for x in zip(*found, strict=True))
    return upper, lower, share
