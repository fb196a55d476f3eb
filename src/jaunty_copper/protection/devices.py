"""The protective devices of a plan with their curves, each at the air it stands in."""

from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import Band, ambient_factor, band_of, data_end_c, warm_share
from jaunty_copper.plan.model import Breaker, Fuse


class Device(NamedTuple):
    """A fuse or breaker where it stands.

    Attributes
    ----------
    fast_a, slow_a : float
        What its rating is worth at the hottest and the coolest air around it, A: it opens soonest
        by the first with the fast edge of its band, latest by the second with the slow one.
    air_c : (float, float)
        The hottest and the coolest air.
    """

    item: Fuse | Breaker
    family: DeviceFamily
    band: Band
    branch: int
    fast_a: float
    slow_a: float
    air_c: tuple[float, float]

    def shortest(self, current_a: Floats) -> Floats:
        """Time it lasts at least, s.

        Parameters
        ----------
        current_a : ndarray, any shape
            Current through it, A.
        """
        return self.band.shortest(current_a / self.fast_a)

    def shortest_warm(self, current_a: float, before_a: float) -> float:
        """Time it lasts at least where it has carried a current for long, s; as from cold where heat does not open it.

        Parameters
        ----------
        current_a, before_a : float
            Current through it, and the one before, A.
        """
        cold = float(self.shortest(np.array(current_a)))
        if self.family.release == "none" or not np.isfinite(cold) or before_a <= 0.0:
            return cold
        holds = float(self.band.short_at[0])
        warm = cold * float(warm_share(current_a / self.fast_a, before_a / self.fast_a, holds))
        return max(warm, self.band.floor_s)

    def longest(self, current_a: Floats) -> Floats:
        """Time by which it has opened, s.

        Parameters
        ----------
        current_a : ndarray, any shape
            Current through it, A.
        """
        return self.band.longest(current_a / self.slow_a)


def band_for(parts: Catalogue, family_id: str) -> Band:
    """Opening band of a device family.

    Raises
    ------
    KeyError
        There is no such family.
    """
    family = parts.device_families[family_id]
    return band_of(parts.gates_of(family), family.beyond == "i2t", family.floor_s)


def magnetic(band: Band, family: DeviceFamily, worth: float) -> Band:
    """A band over what a rating is worth in warm air: warmth moves the thermal part only, a magnet asks for as many amperes as ever.

    Parameters
    ----------
    worth : float
        What the air leaves of the rating, 0 to 1.
    """
    if family.release != "thermal" or family.beyond != "constant" or worth >= 1.0 or not band.long_at.size:
        return band
    return replace(band, long_at=np.append(band.long_at[:-1], band.long_at[-1] / worth))


def devices_of(wiring: Wiring, hottest_c: Floats, coolest_c: Floats) -> dict[str, Device]:
    """Every fuse and breaker by id.

    Parameters
    ----------
    wiring : Wiring
        Of the plan.
    hottest_c, coolest_c : ndarray, shape (branches,)
        Air over all scenarios.
    """
    parts = wiring.parts
    items = [x for x in wiring.plan.items if isinstance(x, Fuse | Breaker)]
    at = np.array([wiring.branch[x.id] for x in items], dtype=np.int64)
    families = [parts.device_families[x.family] for x in items]
    worth = np.ones((2, len(items)))
    for release in {f.release for f in families}:
        own = np.array([f.release == release for f in families])
        worth[:, own] = _left(release, hottest_c[at[own]], coolest_c[at[own]])
    air = np.stack([hottest_c[at], coolest_c[at]], axis=1).tolist()
    kinds = {(f.id, high): f for f, high in zip(families, worth[1].tolist(), strict=True)}
    bands = {(id_, high): magnetic(band_for(parts, id_), f, high) for (id_, high), f in kinds.items()}
    return {
        x.id: Device(x, family, bands[x.family, high], k, x.rating_a * low, x.rating_a * high, (hot, cool))
        for x, family, k, (low, high), (hot, cool) in zip(
            items, families, at.tolist(), worth.T.tolist(), air, strict=True
        )
    }


def _left(release: str, hottest_c: ArrayLike, coolest_c: ArrayLike) -> Floats:
    """What the hottest air leaves of a rating, and what the coolest does: that counts on no more heat than data speak of."""
    return ambient_factor(release, np.stack([hottest_c, np.minimum(coolest_c, data_end_c(release))]))


def instead_of(device: Device, parts: Catalogue, family: DeviceFamily, rating_a: float) -> Device:
    """Another family or rating where a device stands.

    Parameters
    ----------
    rating_a : float
        Rated current, A, at the family's reference temperature.
    """
    hot, cool = _left(family.release, *device.air_c)
    item = device.item.model_copy(update={"family": family.id, "rating_a": rating_a})
    band = magnetic(band_for(parts, family.id), family, float(cool))
    return Device(item, family, band, device.branch, float(hot) * rating_a, float(cool) * rating_a, device.air_c)
