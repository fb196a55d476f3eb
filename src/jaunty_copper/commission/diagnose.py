"""What readings say: whether something is not as planned, where, and how much."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from scipy.stats import chi2

from jaunty_copper.commission.model import Bench
from jaunty_copper.physics.circuit import Flags
from jaunty_copper.physics.copper import Floats

ALARM = 4.0
"""Standard deviations from which a resistance that is too high is no chance among a hundred of them."""
ALIKE = 0.985
"""Two places whose effects on all readings go so much the same way cannot be parted by them."""
PLAUSIBLE = 0.3
"""A place that explains less than this share of what the first one does is no rival to it."""
REVEALED = 4.0
BAD_OHM = 0.005
"""A bad joint that a set of readings should reveal."""


class Suspect(NamedTuple):
    """A place that would explain the readings.

    Attributes
    ----------
    branch : int
        Its branch.
    owner : str
        Id of its run, device or unit.
    more_ohm, sigma_ohm : float
        Resistance above the plan's, with its standard deviation.
    score : float
        How much of the readings' deviation it explains: the square of its signal over its noise.
    with_it : tuple of str
        Ids of places that these readings cannot part from it.
    heat_w : float
        What it turns into heat in the scenario measured.
    """

    branch: int
    owner: str
    more_ohm: float
    sigma_ohm: float
    score: float
    with_it: tuple[str, ...]
    heat_w: float


@dataclass(frozen=True)
class Diagnosis:
    """What readings say of a plan.

    Attributes
    ----------
    alarm : bool
        Whether something is surely not as planned.
    suspects : tuple of Suspect
        The likeliest first.
    chi_square, p : float
        Of all readings against a sound plan, and how often chance alone gives as much.
    """

    alarm: bool
    suspects: tuple[Suspect, ...]
    chi_square: float
    p: float

    @property
    def plausible(self) -> tuple[Suspect, ...]:
        """Suspects that explain not much less than the first."""
        return tuple(s for s in self.suspects if s.score >= PLAUSIBLE * self.suspects[0].score)


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
    (sᵀC⁻¹r)² / sᵀC⁻¹s of the chi-square. Only more resistance is an explanation.
    """
    taken = np.isfinite(readings)
    r = (readings - bench.values)[taken]
    if not r.size:
        return Diagnosis(False, (), 0.0, 1.0)
    weights = np.linalg.inv(bench.covariance[np.ix_(taken, taken)])
    slopes = bench.slopes[taken][:, : bench.branches.size]
    pull, stiff = slopes.T @ (weights @ r), np.einsum("ij,ik,kj->j", slopes, weights, slopes)
    # A bar has no joint within it, and nothing is measured along it: what lies on its studs is judged.
    kinds = np.array([b.kind in ("run", "body", "battery") for b in bench.wiring.branches], dtype=bool)
    seen = (stiff > 1e-12) & kinds
    more = np.divide(pull, stiff, out=np.zeros_like(pull), where=seen)
    score = np.where(seen & (more > 0.0), more * pull, 0.0)
    whole = float(r @ weights @ r)
    order = np.argsort(-score)[:12]
    alike = _alike(slopes, weights)
    suspects = tuple(
        Suspect(
            int(k), bench.wiring.branches[k].owner, float(more[k]), float(stiff[k] ** -0.5), float(score[k]),
            tuple(sorted({bench.wiring.branches[n].owner for n in np.flatnonzero(alike[k]) if n != k} - {bench.wiring.branches[k].owner})),
            float(more[k] * bench.base.current_a[k] ** 2),
        )
        for k in order
        if score[k] > 0.0
    )  # fmt: skip
    found = bool(suspects) and suspects[0].score > ALARM**2
    return Diagnosis(found, suspects, whole, float(chi2.sf(whole, r.size)))


def _alike(slopes: Floats, weights: Floats) -> Flags:
    """Which places move the readings in the same way, weighed by what the readings are worth."""
    root = np.linalg.cholesky(weights).T
    moved = root @ slopes
    length = np.linalg.norm(moved, axis=0)
    unit = np.divide(moved, length, out=np.zeros_like(moved), where=length > 0.0)
    return np.asarray((unit.T @ unit > ALIKE) & (length > 0.0)[:, None])


def fewest(bench: Bench) -> tuple[list[int], list[str]]:
    """The fewest readings that would reveal a bad joint anywhere, and where none would.

    Returns
    -------
    points : list of int
        Positions of the points, the one that reveals most first.
    blind : list of str
        Ids of conductors in which a bad joint stays hidden in this scenario.

    Notes
    -----
    A reading reveals a place where `BAD_OHM` more moves it by `REVEALED` of its standard deviations. Taken
    one by one, each time the one that reveals most of what is left (greedy set cover).
    """
    n = bench.branches.size
    sigma = np.sqrt(np.diag(bench.covariance))
    shows = np.abs(bench.slopes[:, :n]) * BAD_OHM > REVEALED * sigma[:, None]
    runs = np.array([b.kind == "run" for b in bench.wiring.branches], dtype=bool)
    left = runs & shows.any(axis=0)
    blind = [bench.wiring.branches[k].owner for k in np.flatnonzero(runs & ~left)]
    chosen: list[int] = []
    while left.any():
        best = int(np.argmax((shows & left).sum(axis=1)))
        chosen.append(best)
        left &= ~shows[best]
    return chosen, blind
