"""Triangles of covariances, held against what makes them and against NumPy's own solver."""

import numpy as np
import pytest

from jaunty_copper.physics.linear import cholesky, forward


@pytest.mark.parametrize("n", [1, 2, 7, 40])
def test_a_triangle_times_its_mirror_is_the_covariance_and_goes_before_readings_either_way(n):
    rng = np.random.default_rng(n)
    half = rng.normal(size=(n, n + 3))
    covariance = half @ half.T
    lower = cholesky(np.asfortranarray(covariance.copy()))
    exact = np.tril(lower)
    np.testing.assert_allclose(exact @ exact.T, covariance, rtol=1e-9, atol=1e-12)
    for readings in (rng.normal(size=n), rng.normal(size=(n, 4))):
        np.testing.assert_allclose(forward(lower, readings), np.linalg.solve(exact, readings), rtol=1e-7, atol=1e-9)
        back = forward(lower, readings, transposed=True)
        np.testing.assert_allclose(back, np.linalg.solve(exact.T, readings), rtol=1e-7, atol=1e-9)


def test_what_is_no_covariance_has_none():
    with pytest.raises(np.linalg.LinAlgError):
        cholesky(np.array([[1.0, 2.0], [2.0, 1.0]], order="F"))
