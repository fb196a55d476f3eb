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
    rivals = [
        *(_hypothesis(bench, s) for s in found.plausible[1:4]),
        *(_named(bench, n, first.more_ohm) for n in first.with_it),
    ]
    mine = _hypothesis(bench, first)
    best: Next | None = None
    for rival in rivals:
        if rival is not None and mine is not None:
            n = _parting(bench, readings, mine, rival)
            if n is not None and n.apart > SEPARATED and (best is None or n.apart > best.apart):
                best = n
    return best


class _Hypothesis(NamedTuple):
    name: str
    shift: Floats


def _hypothesis(bench: Bench, s: Suspect) -> _Hypothesis | None:
    if s.kind == "tap":
        moved = shift(bench, Tap(s.owner, s.part, s.to))
        return _Hypothesis(say("{owner} on {to}", owner=s.owner, to=s.to), moved) if moved is not None else None
    return _named(bench, s.name, s.more_ohm)


def _named(bench: Bench, name: str, more: float) -> _Hypothesis | None:
    """A resistance at a named place; of a conductor whose parts are measured, at its first joint."""
    owner, _, part = name.partition(":")
    at = {(p.owner, p.part): k for k, p in enumerate(bench.places)}
    k = at.get((owner, part), at.get((owner, "a")))
    moved = shifted_by(bench, (k,), (more,)) if k is not None and more > 0.0 else None
    return _Hypothesis(name, moved) if moved is not None else None


def _parting(bench: Bench, readings: Floats, one: _Hypothesis, other: _Hypothesis) -> Next | None:
    """Where two explanations differ most, given what was read."""
    taken = np.flatnonzero(np.isfinite(readings) & bench.electric)
    free = np.flatnonzero(~np.isfinite(readings) & bench.electric)
    if not free.size:
        return None
    c = bench.covariance
    gain = c[np.ix_(free, taken)] @ np.linalg.inv(c[np.ix_(taken, taken)])
    r = (readings - bench.values)[taken]

    def predicted(h: _Hypothesis) -> Floats:
        return np.asarray(h.shift[free] + gain @ (r - h.shift[taken]))

    a, b = predicted(one), predicted(other)
    variance = np.diag(c)[free] - np.einsum("ij,ij->i", gain, c[np.ix_(free, taken)])
    apart = np.abs(a - b) / np.sqrt(np.maximum(variance, bench.meter[free] ** 2))
    k = int(np.argmax(apart))
    base = float(bench.values[free[k]])
    return Next(bench.points[free[k]], base + float(a[k]), base + float(b[k]), float(apart[k]), (one.name, other.name))
