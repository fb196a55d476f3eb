"""Places and sets of entries: several runs written one after the other, numbers that name sets."""

import numpy as np
from numpy.typing import NDArray

from jaunty_copper.physics.circuit import Flags, Ints


def expanded(begins: Ints, counts: Ints) -> tuple[Ints, Ints]:
    """The entries of several runs: of which run each is, and its place.

    Parameters
    ----------
    begins : ndarray of int, shape (runs,)
        Place of the first entry of each run.
    counts : ndarray of int, shape (runs,)
        How many it has.

    Returns
    -------
    ndarray of int, shapes (entries,)
    """
    of = np.repeat(np.arange(counts.size), counts)
    return of, np.arange(of.size) + np.repeat(begins - np.cumsum(counts) + counts, counts)


def marked(size: int, *places: Ints) -> Flags:
    """Which entries of an array some places are of, shape (size,).

    Parameters
    ----------
    size : int
        Entries of the array.
    *places : ndarray of int
        Of some of them, each as often as it likes.
    """
    found = np.zeros(size, dtype=bool)
    for some in places:
        found[some] = True
    return found


def marks(count: int) -> NDArray[np.uint64]:
    """Numbers that look like chance and are always the same: sums of some of them are equal for equal sets alone.

    Two sets have one sum once in 2**64.

    Parameters
    ----------
    count : int
        How many.

    Returns
    -------
    ndarray of uint64, shape (count,)

    References
    ----------
    Steele, Lea, Flood: Fast splittable pseudorandom number generators (OOPSLA 2014), the 64-bit mixer, from 0 on.
    """
    z = np.arange(1, count + 1, dtype=np.uint64) * np.uint64(0x9E3779B97F4A7C15)
    for shift, factor in ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB)):
        z = (z ^ (z >> np.uint64(shift))) * np.uint64(factor)
    return z ^ (z >> np.uint64(31))
