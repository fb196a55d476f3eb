"""What readings say: whether something is not as planned, where, how much, and what to read next."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
from scipy.stats import chi2

from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.taps import shift, taps_of
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats

ALARM = 4.0
"""Standard deviations from which a resistance that is too high is no chance among a hundred of them."""
ALIKE = 0.985
"""Two places whose effects on all readings go so much the same way cannot be distinguished by them."""
PLAUSIBLE = 0.3
"""A place that explains less than this share of what the first one does is no rival to it."""
REVEALED = 4.0
BAD_OHM = 0.005
"""A bad joint that a set of readings should reveal."""
UNLIKELY = 0.01
"""Readings that chance gives more rarely than this are worth a look at what no resistance explains."""
HARDLY_EVER = 0.001
"""Readings that chance gives more rarely, with everything found taken for true, are reported as unexplained."""
HALVINGS = 6
PAIRED = 400
"""Places that pull most, among which pairs are sought to first order."""
LOOKED_AT = 5
"""Places whose effect is solved in full, not only to first order."""
FREE_OHM = 0.1
"""How little is taken for granted of a place that is under suspicion, when resistances are estimated."""
PARTED = 3.0
"""Standard deviations by which a reading that parts two explanations should differ between them."""


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


class Two(NamedTuple):
    """Two places that explain the readings together, and much better than any one.

    Attributes
    ----------
    first, second : Suspect
        Each with its own share; the score is of both.
    score : float
        Of the chi-square, what both explain.
    """

    first: Suspect
    second: Suspect
    score: float


@dataclass(frozen=True)
class Diagnosis:
    """What readings say of a plan.

    Attributes
    ----------
    alarm : bool
        Whether something is surely not as planned.
    suspects : tuple of Suspect
        The likeliest first.
    two : Two or None
        Two places at once, where no single one suffices.
    chi_square, p : float
        Of all readings against a sound plan, and how often chance alone gives as much.
    left, left_p : float
        The same once the likeliest explanation is taken for true.
    readings : int
        How many were weighed.
    """

    alarm: bool
    suspects: tuple[Suspect, ...]
    two: Two | None
    chi_square: float
    p: float
    left: float
    left_p: float
    readings: int

    @property
    def plausible(self) -> tuple[Suspect, ...]:
        """Suspects that explain not much less than the first."""
        return tuple(s for s in self.suspects if s.score >= PLAUSIBLE * self.suspects[0].score)

    @property
    def unexplained(self) -> bool:
        """Whether chance hardly ever gives such readings, and no resistance or tap explains them."""
        return (self.left_p if self.alarm else self.p) < HARDLY_EVER

    @property
    def blamed(self) -> tuple[Suspect, ...]:
        """What the likeliest explanation consists of: one thing, or two."""
        if not self.alarm:
            return ()
        return (self.two.first, self.two.second) if self.two is not None else self.suspects[:1]


NOTHING = Diagnosis(False, (), None, 0.0, 1.0, 0.0, 1.0, 0)


@dataclass(frozen=True)
class _Weighed:
    """Readings with what each place does to them, in units of what they are worth.

    With the residuals r and their covariance C, W = inv(C); s the slopes of a place: pull = s'Wr, stiff = s'Ws.
    """

    bench: Bench
    taken: Ints
    r: Floats
    covariance: Floats

    @cached_property
    def weights(self) -> Floats:
        return np.asarray(np.linalg.inv(self.covariance))

    @cached_property
    def slopes(self) -> Floats:
        return self.bench.slopes[self.taken][:, : len(self.bench.places)]

    @cached_property
    def worth(self) -> Floats:
        """The slopes weighed, shape (readings, places)."""
        return np.asarray(self.weights @ self.slopes)

    def shared(self, k: int) -> Floats:
        """What each place shares with one: s'W s_k. A whole square of them would not fit a large plan."""
        return np.asarray(self.slopes.T @ self.worth[:, k])

    def gram(self, places: Sequence[int]) -> Floats:
        """What some places share among each other."""
        return np.asarray(self.slopes[:, places].T @ self.worth[:, places])

    @cached_property
    def stiff(self) -> Floats:
        return np.asarray(np.einsum("ij,ij->j", self.slopes, self.worth))

    @cached_property
    def pull(self) -> Floats:
        return np.asarray(self.slopes.T @ (self.weights @ self.r))

    @cached_property
    def seen(self) -> Flags:
        """Places that can be blamed.

        A bar has no joint within it, and nothing is measured along it: what lies on its studs is judged.
        """
        kinds = [self.bench.wiring.branches[b].kind in ("run", "body", "battery") for b in self.bench.branch_of]
        return np.asarray((self.stiff > 1e-12) & np.array(kinds, dtype=bool))

    @cached_property
    def more(self) -> Floats:
        return np.divide(self.pull, self.stiff, out=np.zeros_like(self.pull), where=self.seen)

    @cached_property
    def whole(self) -> float:
        return float(self.r @ self.weights @ self.r)

    def alike(self, k: int) -> Flags:
        """Which places move the readings as one does, weighed by what the readings are worth."""
        size = np.sqrt(np.where(self.seen, self.stiff * self.stiff[k], np.inf))
        return np.asarray((self.shared(k) / size > ALIKE) & self.seen & self.seen[k])

    def suspect(self, k: int, more: float, score: float) -> Suspect:
        place, amps = self.bench.places[k], float(self.bench.base.current_a[self.bench.places[k].branch])
        beside = {self.bench.places[n].name for n in np.flatnonzero(self.alike(k))} - {place.name}
        return Suspect(
            "resistance", place.owner, place.part, more, float(self.stiff[k] ** -0.5), score, tuple(sorted(beside)),
            more * amps**2,
        )  # fmt: skip

    def explained(self, shifted: Floats) -> float:
        """Of the chi-square, what a shift of all readings explains."""
        rest = self.r - shifted[self.taken]
        return self.whole - float(rest @ self.weights @ rest)


def _weigh(bench: Bench, readings: Floats) -> _Weighed:
    taken = np.flatnonzero(np.isfinite(readings) & bench.electric)
    return _Weighed(bench, taken, (readings - bench.values)[taken], bench.covariance[np.ix_(taken, taken)])


def diagnose(bench: Bench, readings: Floats) -> Diagnosis:
    """Weigh readings against a plan.

    Parameters
    ----------
    bench : Bench
        What was measured on.
    readings : ndarray, shape (points,)
        nan where none was taken.

    Notes
    -----
    Generalised least squares. Under a sound plan the residuals r have the covariance C of lengths,
    joints, loads, charge and meter together. A resistance x more at one place moves them by its
    slopes s; its estimate is sᵀC⁻¹r / sᵀC⁻¹s with the variance 1 / sᵀC⁻¹s, and it explains
    (sᵀC⁻¹r)² / sᵀC⁻¹s of the chi-square: twice the logarithm of the ratio of likelihoods. Only more
    resistance is an explanation. The likeliest few are then solved in full, because a bad joint moves a
    constant power by more than its first order; so is each take-off on another post.
    """
    w = _weigh(bench, readings)
    if not w.taken.size:
        return NOTHING
    score = np.where(w.seen & (w.more > 0.0), w.more * w.pull, 0.0)
    order = [int(k) for k in np.argsort(-score)[:12] if score[k] > 0.0]
    found = [w.suspect(k, float(w.more[k]), float(score[k])) for k in order]
    if found and (found[0].score > ALARM**2 or chi2.sf(w.whole, w.taken.size) < UNLIKELY):
        near = [k for k in order[:LOOKED_AT] if score[k] >= PLAUSIBLE * score[order[0]]]
        full = [s for s in (*(_in_full(w, k) for k in near), *_taps(w)) if s.score > 0.0]
        most = max((s.score for s in full), default=0.0)
        # What was looked at to first order only is no better than the best that was solved.
        found = sorted((*full, *(s for s in found[len(near) :] if s.score < most)), key=lambda s: -s.score)
    alarm = bool(found) and found[0].score > ALARM**2
    return _concluded(w, tuple(found), _two(w, readings, order, found[0].score) if alarm else None)


def _concluded(w: _Weighed, found: tuple[Suspect, ...], two: Two | None) -> Diagnosis:
    """The chi-square test before and after the likeliest explanation."""
    alarm = bool(found) and found[0].score > ALARM**2
    best = two.score if two is not None else found[0].score if alarm else 0.0
    n, spent = w.taken.size, 2 if two is not None else int(alarm)
    left = max(w.whole - best, 0.0)
    p, left_p = float(chi2.sf(w.whole, n)), float(chi2.sf(left, max(n - spent, 1)))
    return Diagnosis(alarm, found, two, w.whole, p, left, left_p, n)


def _in_full(w: _Weighed, k: int) -> Suspect:
    """A place's best estimate from full solutions; it explains nothing where nothing could rest with it."""
    (x,), score = _fit(w, (k,), (float(w.more[k]),))
    return w.suspect(k, x, score)


def _fit(w: _Weighed, places: tuple[int, ...], start: tuple[float, ...]) -> tuple[tuple[float, ...], float]:
    """Resistances at some places that explain the readings best, and how much they explain.

    Gauss and Newton's method with slopes by differences of full solutions; three steps at most. A start with
    which nothing rests, because first order overshoots, is halved until something does.
    """
    x = np.array(start)
    for _ in range(HALVINGS):
        if _shift(w.bench, places, x) is not None:
            break
        x = 0.5 * x
    best, score = x, 0.0
    for _ in range(3):
        here = _shift(w.bench, places, x)
        if here is None:
            break
        if (explains := w.explained(here)) > score:
            best, score = x, explains
        columns = []
        for n in range(x.size):
            further = x.copy()
            further[n] *= 1.05
            there = _shift(w.bench, places, further)
            if there is None:
                return tuple(best.tolist()), score
            columns.append((there - here)[w.taken] / (further[n] - x[n]))
        slopes = np.column_stack(columns)
        gram = slopes.T @ w.weights @ slopes
        if np.linalg.cond(gram) > 1e12:
            break
        step = np.linalg.solve(gram, slopes.T @ (w.weights @ (w.r - here[w.taken])))
        if np.any(x + step <= 0.0) or np.all(np.abs(step) < 1e-3 * x):
            break
        x = x + step
    return tuple(best.tolist()), score


def _shift(bench: Bench, places: tuple[int, ...], more: Sequence[float] | Floats) -> Floats | None:
    off = np.zeros(bench.parameters)
    off[list(places)] = more
    point = bench.solve(off)
    return bench.read(point, off) - bench.values if point.solved else None


def _taps(w: _Weighed) -> list[Suspect]:
    found = []
    for tap in taps_of(w.bench):
        shifted = shift(w.bench, tap)
        if shifted is not None and (score := w.explained(shifted)) > 0.0:
            found.append(Suspect("tap", tap.run, tap.end, np.nan, np.nan, score, (), 0.0, tap.to))
    return found


def _two(w: _Weighed, readings: Floats, order: list[int], single: float) -> Two | None:
    """The two places that explain most together, where the second is no chance either; else None.

    Each place that may be one of them is taken for true, the network solved with it and the rest weighed anew
    there: tried are the likeliest place, and the pair that is likeliest to first order.
    """
    enough = single + ALARM**2
    if w.whole < enough:
        return None
    pair = _first_order(w)
    # What stands beside the likeliest place is weighed with that one known; a pair without it by its first member.
    firsts = {order[0], *(pair[:1] if order[0] not in pair else ())}
    likeliest = w.bench.places[order[0]].name
    tried = [(k, two) for k in firsts if (two := _beside(w, readings, k)) is not None]
    fair = [two for k, two in tried if k == order[0] or likeliest not in (two.first.name, two.second.name)]
    return max((two for two in fair if two.score >= enough), key=lambda two: two.score, default=None)


def _first_order(w: _Weighed) -> tuple[int, ...]:
    """The pair that explains most to first order, both with more resistance."""
    pulled = np.where(w.seen, w.pull**2 / np.maximum(w.stiff, 1e-12), -1.0)
    some = np.argsort(-pulled)[:PAIRED].tolist()
    g, p, d, seen = w.gram(some), w.pull[some], w.stiff[some], w.seen[some]
    det = np.outer(d, d) - g**2
    ok = (det > (1.0 - ALIKE**2) * np.outer(d, d)) & seen[:, None] & seen
    first = (p[:, None] * d - g * p) / np.where(ok, det, 1.0)
    ok &= (first > 0.0) & (first.T > 0.0)
    score = np.where(ok, first * p[:, None] + first.T * p, 0.0)
    i, j = divmod(int(np.argmax(score)), p.size)
    return (some[i], some[j]) if score[i, j] > 0.0 else ()


def _beside(w: _Weighed, readings: Floats, k: int) -> Two | None:
    """A place with the one that explains best what it leaves; None where that may be chance."""
    (x,), _ = _fit(w, (k,), (float(w.more[k]),))
    known = replace(w.bench, known=((w.bench.places[k], x),))
    if not known.base.solved:
        return None
    there = _weigh(known, readings)
    shared = there.shared(k)
    pull = there.pull - shared * there.pull[k] / there.stiff[k]
    stiff = there.stiff - shared**2 / there.stiff[k]
    ok = there.seen & (stiff > (1.0 - ALIKE**2) * there.stiff) & (pull > 0.0)
    score = np.where(ok, pull**2 / np.where(ok, stiff, 1.0), 0.0)
    j = int(np.argmax(score))
    if score[j] < ALARM**2:
        return None
    (mine, other), both = _fit(w, (k, j), (x, float(pull[j] / stiff[j])))
    sigma = np.sqrt(np.diag(np.linalg.inv(there.gram((k, j)))))
    one = there.suspect(k, mine, both)._replace(sigma_ohm=float(sigma[0]))
    two = there.suspect(j, other, both)._replace(sigma_ohm=float(sigma[1]))
    hotter, cooler = sorted((one, two), key=lambda s: -s.heat_w)
    return Two(hotter, cooler, both)
