"""Which reading would tell two explanations apart."""

from typing import NamedTuple

import numpy as np

from jaunty_copper.commissioning.diagnose import SEPARATED, Diagnosis
from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.points import Point
from jaunty_copper.commissioning.taps import Tap, shift
from jaunty_copper.commissioning.weighing import Suspect, shifted_by
from jaunty_copper.language import say
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.linear import cholesky, forward


class Next(NamedTuple):
    """A reading that would part two explanations.

    Attributes
    ----------
    point : Point
        Where to measure.
    one, other : float
        What it would read if the first, and if the second were true.
    apart : float
        Their distance, in standard deviations of what that reading would leave open.
    between : tuple of str
        Names of both.
    """

    point: Point
    one: float
    other: float
    apart: float
    between: tuple[str, str]


# What to read next


def next_reading(bench: Bench, readings: Floats, found: Diagnosis) -> Next | None:
    """The reading, among a bench's points that were not taken, that best parts the likeliest explanation from its rivals.

    Parameters
    ----------
    readings : ndarray, shape (points,)
        In the order of the points; nan where none was taken.

    Returns
    -------
    Next or None
        None where nothing is left to part, or no point of this bench parts it.
    """
    if not found.alarm or found.two is not None:
        return None
    first = found.suspects[0]
    others = (
        *(_hypothesis(bench, s) for s in found.plausible[1:4]),
        *(_named(bench, n, first.more_ohm) for n in first.with_it),
    )
    mine, rivals = _hypothesis(bench, first), [other for other in others if other is not None]
    if mine is None or not rivals:
        return None
    parting = Parting(bench, readings)
    apart = [n for n in (parting.best(mine, rival) for rival in rivals) if n is not None and n.apart > SEPARATED]
    return max(apart, key=lambda n: n.apart, default=None)


class Hypothesis(NamedTuple):
    """What may be wrong, and by how much it would move each reading.

    Attributes
    ----------
    name : str
        As it is reported.
    shift : ndarray, shape (points,)
        In the readings' units.
    """

    name: str
    shift: Floats


def _hypothesis(bench: Bench, s: Suspect) -> Hypothesis | None:
    if s.kind == "tap":
        moved = shift(bench, Tap(s.owner, s.part, s.to))
        return Hypothesis(say("{owner} on {to}", owner=s.owner, to=s.to), moved) if moved is not None else None
    return _named(bench, s.name, s.more_ohm)


def _named(bench: Bench, name: str, more: float) -> Hypothesis | None:
    """A resistance at a named place; of a conductor whose parts are measured, at its first joint."""
    owner, _, part = name.partition(":")
    at = {(p.owner, p.part): k for k, p in enumerate(bench.places)}
    k = at.get((owner, part), at.get((owner, "a")))
    moved = shifted_by(bench, (k,), (more,)) if k is not None and more > 0.0 else None
    return Hypothesis(name, moved) if moved is not None else None


class Parting:
    """Where two explanations differ most, given what was read of a bench."""

    def __init__(self, bench: Bench, readings: Floats) -> None:
        self.bench = bench
        self._taken = np.flatnonzero(np.isfinite(readings) & bench.electric)
        self._free = np.flatnonzero(~np.isfinite(readings) & bench.electric)
        if not self._free.size:
            return
        c = bench.covariance
        factor, between = cholesky(c[np.ix_(self._taken, self._taken)]), c[np.ix_(self._taken, self._free)]
        half = forward(factor, between)
        self._gain = forward(factor, half, transposed=True).T
        variance = np.diagonal(c)[self._free] - (half**2).sum(axis=0)
        self._sigma = np.sqrt(np.maximum(variance, bench.meter[self._free] ** 2))
        self._r = (readings - bench.values)[self._taken]

    def _predicted(self, h: Hypothesis) -> Floats:
        return np.asarray(h.shift[self._free] + self._gain @ (self._r - h.shift[self._taken]))

    def best(self, one: Hypothesis, other: Hypothesis) -> Next | None:
        """The reading that parts two explanations best; None where everything was read."""
        if not self._free.size:
            return None
        a, b = self._predicted(one), self._predicted(other)
        apart = np.abs(a - b) / self._sigma
        k = int(np.argmax(apart))
        at = int(self._free[k])
        base = float(self.bench.values[at])
        return Next(
            self.bench.points[at], base + float(a[k]), base + float(b[k]), float(apart[k]), (one.name, other.name)
        )
