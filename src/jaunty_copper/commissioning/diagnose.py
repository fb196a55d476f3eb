"""What readings say: whether something is not as planned, where, how much, and what to read next."""

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.taps import shift, taps_of
from jaunty_copper.commissioning.weighing import ALIKE, Suspect, Weighed, fit, settled, weigh
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.giving_up import go_on

ALARM = 4.0
"""Standard deviations from which a resistance that is too high is no chance among a hundred of them."""
PLAUSIBLE = 0.3
"""A place that explains less than this share of what the first one does is no rival to it."""
REVEALED = 4.0
BAD_OHM = 0.005
"""A bad joint that a set of readings should reveal."""
UNLIKELY = 0.01
"""Readings that chance gives more rarely than this are worth a look at what no resistance explains."""
HARDLY_EVER = 0.001
"""Readings that chance gives more rarely, with everything found taken for true, are reported as unexplained."""
PAIRED = 400
"""Places that pull most, among which pairs are sought to first order."""
LOOKED_AT = 5
"""Places whose effect is solved in full, not only to first order."""
FREE_OHM = 0.1
"""How little is taken for granted of a place that is under suspicion, when resistances are estimated."""
SEPARATED = 3.0
"""Standard deviations by which a reading that parts two explanations should differ between them."""


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
        Whether a deviation from the plan is certain.
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
    w = weigh(bench, readings)
    if not w.taken.size:
        return NOTHING
    score = np.where(w.seen & (w.more > 0.0), w.more * w.pull, 0.0)
    order = [int(k) for k in np.argsort(-score)[:12] if score[k] > 0.0]
    w.know(order)
    found = [w.suspect(k, float(w.more[k]), float(score[k])) for k in order]
    if found and (found[0].score > ALARM**2 or _by_chance(w.taken.size, w.whole) < UNLIKELY):
        near = [k for k in order[:LOOKED_AT] if score[k] >= PLAUSIBLE * score[order[0]]]
        full = [s for s in (*(_in_full(w, k) for k in near), *_taps(w)) if s.score > 0.0]
        most = max((s.score for s in full), default=0.0)
        # What was looked at to first order only is no better than the best that was solved.
        found = sorted((*full, *(s for s in found[len(near) :] if s.score < most)), key=lambda s: -s.score)
    alarm = bool(found) and found[0].score > ALARM**2
    return _concluded(w, tuple(found), _two(w, readings, order, found[0].score) if alarm else None)


def _by_chance(degrees: int, chi_square: float) -> float:
    """How often chance alone gives that much, or more: the upper tail of the chi-square distribution."""
    # Slower to load than all of this package, and most of what imports it never weighs a reading.
    from scipy.special import chdtrc

    return float(chdtrc(degrees, chi_square))


def _concluded(w: Weighed, found: tuple[Suspect, ...], two: Two | None) -> Diagnosis:
    """The chi-square test before and after the likeliest explanation."""
    alarm = bool(found) and found[0].score > ALARM**2
    best = two.score if two is not None else found[0].score if alarm else 0.0
    n, spent = w.taken.size, 2 if two is not None else int(alarm)
    left = max(w.whole - best, 0.0)
    p, left_p = _by_chance(n, w.whole), _by_chance(max(n - spent, 1), left)
    return Diagnosis(alarm, found, two, w.whole, p, left, left_p, n)


def _in_full(w: Weighed, k: int) -> Suspect:
    """A place's best estimate from full solutions; it explains nothing where nothing could rest with it."""
    x, score = fit(w, (k,), (float(w.more[k]),))
    ((more, sigma),) = settled(w, (k,), x)
    return w.suspect(k, more, score)._replace(sigma_ohm=sigma)


def _taps(w: Weighed) -> list[Suspect]:
    found = []
    for tap in taps_of(w.bench):
        go_on()
        shifted = shift(w.bench, tap)
        if shifted is not None and (score := w.explained(shifted)) > 0.0:
            found.append(Suspect("tap", tap.run, tap.end, np.nan, np.nan, score, (), 0.0, tap.to))
    return found


def _two(w: Weighed, readings: Floats, order: list[int], single: float) -> Two | None:
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


def _first_order(w: Weighed) -> tuple[int, ...]:
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


def _beside(w: Weighed, readings: Floats, k: int) -> Two | None:
    """A place with the one that explains best what it leaves; None where that may be chance."""
    (x,), _ = fit(w, (k,), (float(w.more[k]),))
    known = replace(w.bench, known=((w.bench.places[k], x),))
    if not known.base.solved:
        return None
    there = weigh(known, readings)
    shared = there.shared(k)
    pull = there.pull - shared * there.pull[k] / there.stiff[k]
    stiff = there.stiff - shared**2 / there.stiff[k]
    ok = there.seen & (stiff > (1.0 - ALIKE**2) * there.stiff) & (pull > 0.0)
    score = np.where(ok, pull**2 / np.where(ok, stiff, 1.0), 0.0)
    j = int(np.argmax(score))
    if score[j] < ALARM**2:
        return None
    (mine, other), both = fit(w, (k, j), (x, float(pull[j] / stiff[j])))
    (mine, off), (other, off_too) = settled(w, (k, j), (mine, other))
    one = there.suspect(k, mine, both)._replace(sigma_ohm=off)
    two = there.suspect(j, other, both)._replace(sigma_ohm=off_too)
    hotter, cooler = sorted((one, two), key=lambda s: -s.heat_w)
    return Two(hotter, cooler, both)
