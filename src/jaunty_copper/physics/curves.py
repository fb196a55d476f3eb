"""When a protective device opens: bands of time over current."""

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import ArrayLike

from jaunty_copper.physics.copper import Floats

AMBIENT = {
    "fuse": ((25.0, 1.00), (50.0, 0.95), (70.0, 0.90)),
    "thermal": ((25.0, 1.00), (40.0, 0.93), (60.0, 0.84), (75.0, 0.78)),
    "none": ((25.0, 1.00),),
}
"""What is left of a rating at an ambient, C, by the kind of release; representative. Below the
first point that holds, so that no rating ever grows; above the last the heat balance goes on."""
LEAST_SHARE = 0.05
"""So much of a rating is left at any ambient: a device that opens without a current is no device."""


def data_end_c(release: str) -> float:
    """Ambient beyond which a factor is no longer from data, C; inf where none is needed.

    Parameters
    ----------
    release : str
        fuse, thermal or none (hydraulic-magnetic).
    """
    points = AMBIENT[release]
    return points[-1][0] if len(points) > 1 else np.inf


def ambient_factor(release: str, ambient_c: ArrayLike) -> Floats:
    """What an ambient leaves of a rating, 0 to 1.

    Parameters
    ----------
    release : str
        fuse, thermal or none (hydraulic-magnetic).
    ambient_c : array_like
        Air at the device, C.

    Notes
    -----
    What opens by heat opens at one temperature T of its element, whatever brings it there: T - Ta rises with the
    square of the current, so that the factor is sqrt((T - Ta) / (T - 25)). Beyond the last point T is the one that
    point stands for.
    """
    points, air = AMBIENT[release], np.asarray(ambient_c, dtype=float)
    found = np.asarray(np.interp(air, [t for t, _ in points], [f for _, f in points]))
    if len(points) == 1:
        return found
    (first_c, _), (last_c, last) = points[0], points[-1]
    opens_c = (last_c - last**2 * first_c) / (1.0 - last**2)
    beyond = np.sqrt(np.maximum((opens_c - air) / (opens_c - first_c), LEAST_SHARE**2))
    return np.asarray(np.where(air > last_c, beyond, found))


def warm_share(multiple: ArrayLike, before: ArrayLike, holds: float) -> Floats:
    """Of the time that a cold device lasts, what is left to one that has carried a current for long, 0 to 1.

    Parameters
    ----------
    multiple, before : array_like
        Currents over the rating: the one asked about, and the one carried before.
    holds : float
        Greatest multiple that never opens it.

    Notes
    -----
    What opens by heat is a body of one time constant: t = tau ln((I² - Ip²) / (I² - Ih²)), so that the constant drops out.

    References
    ----------
    IEC 60255-149 (before it 60255-8), the hot and the cold curve of thermal devices.
    """
    now, was = np.asarray(multiple, dtype=float) ** 2, np.minimum(np.asarray(before, dtype=float), holds) ** 2
    over = now > holds**2 * (1.0 + 1e-9)
    safe = np.where(over, now, 2.0 * holds**2)
    return np.asarray(np.where(over, np.log((safe - was) / (safe - holds**2)) / np.log(safe / (safe - holds**2)), 1.0))


@cache
def _shares(steps: int) -> Floats:
    return np.linspace(0.0, 1.0, steps)


def even_ratios(low: ArrayLike, high: ArrayLike, steps: int) -> Floats:
    """Values from low to high, both exactly, each the same multiple of the one before.

    Parameters
    ----------
    low, high : array_like, shape (...)
        Above zero.
    steps : int
        How many.

    Returns
    -------
    ndarray, shape (..., steps)
    """
    begin, end = np.asarray(low, dtype=float)[..., None], np.asarray(high, dtype=float)[..., None]
    values: Floats = np.asarray(begin * (end / begin) ** _shares(steps))
    values[..., -1:] = end
    return values


@dataclass(frozen=True)
class Band:
    """Between which times a device opens, over multiples of its rating.

    Attributes
    ----------
    short_at, short_s : ndarray
        Multiples and times that it certainly lasts; ascending, falling.
    long_at, long_s : ndarray
        Multiples and times by which it has certainly opened.
    i2t : bool
        Beyond the last point the integral of the square of the current is constant, as where
        heat alone opens; else the time is, as where a magnet does.
    floor_s : float
        Mechanical opening time, below which nothing opens.

    Notes
    -----
    Between points log t is linear in log I: exact on the points and monotone between.
    """

    short_at: Floats
    short_s: Floats
    long_at: Floats
    long_s: Floats
    i2t: bool
    floor_s: float = 0.0

    def shortest(self, multiple: ArrayLike) -> Floats:
        """Time that a device lasts at least at a constant current, s; inf below its first point.

        Parameters
        ----------
        multiple : array_like
            Current over the rating.
        """
        return self._read(np.asarray(multiple, dtype=float), self.short_at, self.short_s, self.i2t)

    def longest(self, multiple: ArrayLike) -> Floats:
        """Time by which a device has opened at a constant current, s; inf below its first point.

        Parameters
        ----------
        multiple : array_like
            Current over the rating.
        """
        return self._read(np.asarray(multiple, dtype=float), self.long_at, self.long_s, self.i2t)

    def _read(self, m: Floats, at: Floats, seconds: Floats, i2t: bool) -> Floats:
        if not at.size:
            return np.full(m.shape, np.inf)
        safe = np.maximum(m, 1e-9)
        t = np.exp(np.interp(np.log(safe), np.log(at), np.log(seconds)))
        beyond = safe > at[-1]
        if i2t:
            t = np.where(beyond, seconds[-1] * (at[-1] / safe) ** 2, t)
        t = np.maximum(t, self.floor_s)
        return np.asarray(np.where(m < at[0] * (1.0 - 1e-12), np.inf, t))

    def opens_at(self, seconds: float, certainly: bool = True) -> float:
        """Smallest multiple at which a device opens within a time.

        Parameters
        ----------
        seconds : float
            The time.
        certainly : bool
            By the slow edge of the band; else by the fast one, where it may open.
        """
        at, times = (self.long_at, self.long_s) if certainly else (self.short_at, self.short_s)
        if not at.size or self.floor_s > seconds:
            return np.inf
        if times[0] <= seconds:
            return float(at[0])
        within = np.flatnonzero(times <= seconds)
        if within.size:
            k = int(within[0])
            share = np.log(times[k - 1] / seconds) / np.log(times[k - 1] / times[k])
            return float(at[k - 1] * (at[k] / at[k - 1]) ** share)
        return float(at[-1] * np.sqrt(times[-1] / seconds)) if self.i2t else np.inf


def melted(band: Band, multiple: Floats, times_s: Floats, certainly: bool = False) -> Floats:
    """How far a device is towards opening along a course of current; it opens at 1.

    Parameters
    ----------
    band : Band
        Of the device.
    multiple : ndarray, shape (t,)
        Current over rating at each time.
    times_s : ndarray, shape (t,)
        Ascending.
    certainly : bool
        By the slow edge of the band; else by the fast one.

    Returns
    -------
    ndarray, shape (t,)

    Notes
    -----
    The integral of dt / t(I), trapezoidal: at a constant current it reaches one at the band's
    time; on the adiabatic part, where t falls with the square, it is the integral of i² over
    the device's own I²t.
    """
    read = band.longest if certainly else band.shortest
    rate = 1.0 / read(np.abs(multiple))
    steps = 0.5 * (rate[1:] + rate[:-1]) * np.diff(times_s)
    return np.concatenate([[0.0], np.cumsum(steps)])


def band_of(gates: tuple[tuple[float, float | None, float | None], ...], i2t: bool, floor_s: float) -> Band:
    """Make a band from gates: multiple of rating, shortest and longest time, s, None for no limit.

    Parameters
    ----------
    gates : tuple of (float, float or None, float or None)
        Multiple of the rating, shortest and longest time there, s.
    i2t : bool
        Whether the times follow a constant I² t between gates.
    floor_s : float
        Shortest time at any current, s.
    """

    def edge(k: int) -> tuple[Floats, Floats]:
        found = [(g[0], g[k]) for g in gates if g[k] is not None]
        return np.array([m for m, _ in found], dtype=float), np.array([t for _, t in found], dtype=float)

    return Band(*edge(1), *edge(2), i2t, floor_s)
