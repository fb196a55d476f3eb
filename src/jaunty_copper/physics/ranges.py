"""Several runs of entries written one after the other."""

import numpy as np

from jaunty_copper.physics.circuit import Ints


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
