"""Readings weighed against a plan: what each place would have to be, and how sure that is."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import floor, inf, log10
from typing import Literal, NamedTuple

import numpy as np

from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.slopes import KEPT
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.giving_up import go_on
from jaunty_copper.physics.linear import cholesky, forward

ALIKE = 0.985
"""Two places whose effects on all readings go so much the same way cannot be distinguished by them."""
HALVINGS, MOST_STEPS = 6, 12
NEAR_ENOUGH = 0.1
"""An estimate that moves by less than this share of its standard deviation stays."""
ILL_POSED = 1e12
"""Condition from which two places cannot be distinguished."""


class Suspect(NamedTuple):
    """One thing that would explain the readings.

    Attributes
    ----------
    kind : str
        resistance, more than planned at one place; or tap, an end that landed on another post.
    owner : str
        Id of its run, device or unit.
    part : str
        Which part of a conductor, where the readings part it.
    more_ohm, sigma_ohm : float
        Resistance above the plan's, with its standard deviation; nan for a tap.
    score : float
        Of the chi-square, what it explains: twice the logarithm of its likelihood against a sound plan's.
    with_it : tuple of str
        Names of places that these readings cannot part from it.
    heat_w : float
        What it turns into heat in the scenario measured.
    to : str
        Post that an end would have landed on.
    """

    kind: Literal["resistance", "tap"]
    owner: str
    part: str
    more_ohm: float
    sigma_ohm: float
    score: float
    with_it: tuple[str, ...]
    heat_w: float
    to: str = ""

    @property
    def name(self) -> str:
        """Its place, as it is reported."""
        return f"{self.owner}:{self.part}" if self.part else self.owner

    @property
    def more(self) -> str:
        """How much more or less it has, with two standard deviations, to the digit that those leave."""
        off = 2e3 * self.sigma_ohm
        places = max(0, 1 - floor(log10(off))) if 0.0 < off < inf else 0
        return f"{1e3 * abs(self.more_ohm):.{places}f} ± {off:.{places}f} mΩ"


@dataclass(frozen=True)
class Weighed:
    """Readings with what each place does to them, in units of what they are worth.

    With the residuals r and their covariance C, W = inv(C); s the slopes of a place: pull = s'Wr, stiff = s'Ws.

    Attributes
    ----------
    taken : ndarray of int, shape (readings,)
        Positions of the readings among the points.
    r : ndarray, shape (readings,)
        By how much each is off.
    factor : ndarray, shape (readings, readings)
        Of the covariance, by `cholesky`.
    """

    bench: Bench
    taken: Ints
    r: Floats
    factor: Floats

    def whitened(self, moved: Floats) -> Floats:
        """What some readings are worth, inv(L) times them, in their shape: the product of two is theirs weighed by W.

        Parameters
        ----------
        moved : ndarray, shape (readings,) or (readings, k)
            In the readings' units.
        """
        return forward(self.factor, moved)

    def slopes(self, places: Sequence[int]) -> Floats:
        """What an ohm more at some places does to each reading, whitened, shape (readings, k).

        Parameters
        ----------
        places : sequence of int
            Which.
        """
        return self.whitened(self.bench.slopes.of(np.array(places, dtype=np.int64))[self.taken])

    def _parts(self) -> Iterator[Floats]:
        """The whitened slopes of all places, a part at a time."""
        if self.taken.size * len(self.bench.places) <= KEPT:
            yield from self._kept
        else:
            yield from self._fresh()

    @cached_property
    def _kept(self) -> tuple[Floats, ...]:
        return tuple(self._fresh())

    def _fresh(self) -> Iterator[Floats]:
        for _, part in self.bench.slopes.parts(len(self.bench.places)):
            yield self.whitened(part[self.taken])

    def shared(self, k: int) -> Floats:
        """What each place shares with one: s'W s_k.

        Parameters
        ----------
        k : int
            Which place.
        """
        self.know([k])
        return self._known[k]

    def know(self, places: Sequence[int]) -> None:
        """Work out at once what each place shares with some, for who will ask: slopes of a large plan are not kept.

        Parameters
        ----------
        places : sequence of int
            Which.
        """
        new = [k for k in places if k not in self._known]
        if new:
            own = self.slopes(new)
            self._known.update(zip(new, np.concatenate([part.T @ own for part in self._parts()]).T, strict=True))

    @cached_property
    def _known(self) -> dict[int, Floats]:
        return {}

    def gram(self, places: Sequence[int]) -> Floats:
        """What some places share among each other.

        Parameters
        ----------
        places : sequence of int
            Which.
        """
        slopes = self.slopes(places)
        return np.asarray(slopes.T @ slopes)

    def pulls(self, places: Sequence[int]) -> Floats:
        """Which way the readings pull some places, shape (k,), 1/Ω.

        Parameters
        ----------
        places : sequence of int
            Which.
        """
        return np.asarray(self.slopes(places).T @ self._off)

    @cached_property
    def _off(self) -> Floats:
        return self.whitened(self.r)

    @cached_property
    def _stiff_and_pull(self) -> tuple[Floats, Floats]:
        found = [((part**2).sum(axis=0), part.T @ self._off) for part in self._parts()]
        stiff, pull = (np.concatenate(some) for some in zip(*found, strict=True))
        return stiff, pull

    @property
    def stiff(self) -> Floats:
        """How much readings say of each place, shape (places,): one over the variance of its estimate, 1/Ω²."""
        return self._stiff_and_pull[0]

    @property
    def pull(self) -> Floats:
        """Which way they pull each place, shape (places,), 1/Ω."""
        return self._stiff_and_pull[1]

    @cached_property
    def seen(self) -> Flags:
        """Places that can be blamed.

        A bar has no joint within it, and nothing is measured along it: what lies on its studs is judged.
        """
        kinds = [self.bench.wiring.branches[b].kind in ("run", "body", "battery") for b in self.bench.branch_of]
        return np.asarray((self.stiff > 1e-12) & np.array(kinds, dtype=bool))

    @cached_property
    def more(self) -> Floats:
        """Resistance more at each place alone that explains most, to first order, shape (places,), Ω."""
        return np.divide(self.pull, self.stiff, out=np.zeros_like(self.pull), where=self.seen)

    @cached_property
    def whole(self) -> float:
        """Chi-square of all readings against the plan."""
        return float(self._off @ self._off)

    def alike(self, k: int) -> Flags:
        """Which places move the readings as one does, weighed by what the readings are worth.

        Parameters
        ----------
        k : int
            Which place.
        """
        size = np.sqrt(np.where(self.seen, self.stiff * self.stiff[k], np.inf))
        return np.asarray((self.shared(k) / size > ALIKE) & self.seen & self.seen[k])

    def suspect(self, k: int, more: float, score: float) -> Suspect:
        """A place as an explanation.

        Parameters
        ----------
        k : int
            Which place.
        more : float
            Resistance above the plan's, ohm.
        score : float
            Of the chi-square, what it explains.
        """
        place, amps = self.bench.places[k], float(self.bench.base.current_a[self.bench.places[k].branch])
        beside = {self.bench.places[n].name for n in np.flatnonzero(self.alike(k))} - {place.name}
        return Suspect(
            "resistance", place.owner, place.part, more, float(self.stiff[k] ** -0.5), score, tuple(sorted(beside)),
            more * amps**2,
        )  # fmt: skip

    def explained(self, shifted: Floats) -> float:
        """Of the chi-square, what a shift of all readings explains.

        Parameters
        ----------
        shifted : ndarray, shape (points,)
            In the readings' units.
        """
        rest = self.whitened(self.r - shifted[self.taken])
        return self.whole - float(rest @ rest)


def weigh(bench: Bench, readings: Floats) -> Weighed:
    """Readings against a bench.

    Parameters
    ----------
    readings : ndarray, shape (points,)
        nan where none was taken.
    """
    taken = np.flatnonzero(np.isfinite(readings) & bench.electric)
    return Weighed(bench, taken, (readings - bench.values)[taken], cholesky(bench.among(taken)))


def settled(w: Weighed, places: tuple[int, ...], more: tuple[float, ...]) -> list[tuple[float, float]]:
    """Resistances at some places and their standard deviations, weighed where they are what was found.

    Other currents flow there, and what a load draws more or less moves a drop by the resistance that is there, not by
    the planned one.

    Parameters
    ----------
    places : tuple of int
        Which.
    more : tuple of float
        What was found of each, ohm.

    Returns
    -------
    list of (float, float)
        Ohm, each.
    """
    x, sigma = np.array(more), np.array([float(w.stiff[k] ** -0.5) for k in places])
    for _ in range(MOST_STEPS):
        known = replace(w.bench, known=tuple((w.bench.places[k], y) for k, y in zip(places, x.tolist(), strict=True)))
        if not known.base.solved:
            break
        rest = w.r + (w.bench.values - known.values)[w.taken]
        there = Weighed(known, w.taken, rest, cholesky(known.among(w.taken)))
        gram = there.gram(places)
        if np.linalg.cond(gram) > ILL_POSED:
            break
        sigma = np.sqrt(np.diag(np.linalg.inv(gram)))
        step = np.clip(np.linalg.solve(gram, there.pulls(places)), -0.5 * x, x)
        x = x + step
        if np.all(np.abs(step) < NEAR_ENOUGH * sigma):
            break
    return list(zip(x.tolist(), sigma.tolist(), strict=True))


def fit(w: Weighed, places: tuple[int, ...], start: tuple[float, ...]) -> tuple[tuple[float, ...], float]:
    """Resistances at some places that explain the readings best, and how much they explain.

    Gauss and Newton's method with slopes by differences of full solutions, until nothing moves by a thousandth. A step
    goes no farther than to a quarter or to four times, and is halved until it explains more. A start with which
    nothing rests, because first order overshoots, is halved until something does.

    Parameters
    ----------
    places : tuple of int
        Which.
    start : tuple of float
        Where to begin, ohm.
    """
    x = np.array(start)
    here = shifted_by(w.bench, places, x)
    for _ in range(HALVINGS):
        if here is not None:
            break
        x = 0.5 * x
        here = shifted_by(w.bench, places, x)
    if here is None:
        return tuple(x.tolist()), 0.0
    score = w.explained(here)
    for _ in range(MOST_STEPS):
        slopes = _differences(w, places, x, here)
        if slopes is None:
            break
        gram = slopes.T @ slopes
        if np.linalg.cond(gram) > ILL_POSED:
            break
        wanted = x + np.linalg.solve(gram, slopes.T @ w.whitened(w.r - here[w.taken]))
        new, better = np.clip(wanted, 0.25 * x, 4.0 * x), False
        for _ in range(HALVINGS):
            there = shifted_by(w.bench, places, new)
            better = there is not None and w.explained(there) > score
            if better:
                break
            new = 0.5 * (x + new)
        if not better or there is None:
            break
        moved = float(np.max(np.abs(new - x) / x))
        x, here, score = new, there, w.explained(there)
        if moved < 1e-3:
            break
    return tuple(x.tolist()), max(score, 0.0)


def _differences(w: Weighed, places: tuple[int, ...], x: Floats, here: Floats) -> Floats | None:
    """What each of some resistances moves readings by, whitened, from full solutions; None where one finds no rest."""
    columns = []
    for n in range(x.size):
        further = x.copy()
        further[n] *= 1.05
        there = shifted_by(w.bench, places, further)
        if there is None:
            return None
        columns.append((there - here)[w.taken] / (further[n] - x[n]))
    return w.whitened(np.column_stack(columns))


def shifted_by(bench: Bench, places: tuple[int, ...], more: Sequence[float] | Floats) -> Floats | None:
    """What resistance more at some places does to each reading, by a full solution; None where nothing rests with it.

    Parameters
    ----------
    places : tuple of int
        Which.
    more : sequence of float
        At each of them, ohm.

    Returns
    -------
    ndarray, shape (points,), or None
        In the readings' units.
    """
    off = np.zeros(bench.parameters)
    off[list(places)] = more
    go_on()
    point = bench.solve(off)
    return bench.read(point, off) - bench.values if point.solved else None
