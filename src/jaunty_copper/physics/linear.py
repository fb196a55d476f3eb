"""Factor a square system once, solve with it many times.

SciPy is loaded by what first needs it: with all that comes along it takes longer than most commands.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

from jaunty_copper.physics.copper import Floats

DENSE_UP_TO = 320
"""Unknowns below which a dense inverse beats a sparse factorisation.

Measured: the two meet near 350 unknowns, and below it NumPy alone serves, which keeps
SciPy's 0.25 s import out of the start of a small plan.
"""


class Singular(ArithmeticError):
    """The system has no unique solution."""


def factor(size: int, rows: Any, cols: Any, values: Floats) -> Callable[[Floats], Floats]:
    """Factor a matrix given as coordinates and return its solver.

    Parameters
    ----------
    size : int
        Number of unknowns.
    rows, cols : ndarray of int
        Coordinates; repeated ones add up.
    values : ndarray
        Entries.

    Returns
    -------
    callable
        Takes a right-hand side of `size` (or `size` by k) and returns the solution.

    Raises
    ------
    Singular
        No unique solution.
    """
    if size <= DENSE_UP_TO:
        matrix = np.bincount(rows * size + cols, values, size * size)
        try:
            inverse = np.linalg.inv(matrix.reshape(size, size))
        except np.linalg.LinAlgError:
            raise Singular from None
        if not np.all(np.isfinite(inverse)):
            raise Singular
        return lambda rhs: np.asarray(inverse @ rhs)
    from scipy.sparse import csc_array
    from scipy.sparse.linalg import splu

    sparse = csc_array((values, (rows, cols)), shape=(size, size))
    try:
        lu = splu(sparse, permc_spec="MMD_AT_PLUS_A", options={"SymmetricMode": True, "DiagPivotThresh": 0.1})
    except RuntimeError:
        raise Singular from None
    return lambda rhs: np.asarray(lu.solve(rhs))


def cholesky(covariance: Floats) -> Floats:
    """Lower triangular L with L L' = a covariance, in its place: a large plan has no room for both.

    Parameters
    ----------
    covariance : ndarray, shape (n, n)
        Positive definite, by columns; used up.

    Returns
    -------
    ndarray, shape (n, n)
        What stands above its diagonal means nothing.
    """
    from scipy.linalg import cho_factor

    found, _ = cho_factor(covariance, lower=True, overwrite_a=True, check_finite=False)
    return np.asarray(found)


def forward(lower: Floats, rhs: Floats, transposed: bool = False) -> Floats:
    """inv(L) times something, or inv(L') times it.

    Parameters
    ----------
    lower : ndarray, shape (n, n)
        Of `cholesky`.
    rhs : ndarray, shape (n,) or (n, k)
        What it is put before.
    transposed : bool
        Whether L' is meant: backward then.
    """
    from scipy.linalg import solve_triangular

    return np.asarray(solve_triangular(lower, rhs, lower=True, trans=1 if transposed else 0, check_finite=False))
