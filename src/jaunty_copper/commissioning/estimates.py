"""What readings say of every resistance, and what changed between two days."""

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from jaunty_copper.commissioning.diagnose import FREE_OHM, NOTHING, Diagnosis, _concluded
from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.points import Point, Unknown
from jaunty_copper.commissioning.weighing import Suspect, Weighed
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.linear import cholesky

# What each place has


class Estimate(NamedTuple):
    """Resistance of a place by the readings.

    Attributes
    ----------
    place : Place
        Where.
    planned_ohm : float
        At the temperature it is planned to have.
    ohm, sigma_ohm : float
        As estimated, and one standard deviation of what stays open.
    """

    place: Unknown
    planned_ohm: float
    ohm: float
    sigma_ohm: float


def estimates(bench: Bench, readings: Floats, suspects: Sequence[Suspect] = ()) -> tuple[Estimate, ...]:
    """Resistance of every place with its interval: the plan as prior, the readings as evidence.

    Parameters
    ----------
    bench : Bench
        What was measured on.
    readings : ndarray, shape (points,)
        nan where none was taken.
    suspects : sequence of Suspect
        Places of which nothing is taken for granted; of all others, what a sound plan leaves open.

    Notes
    -----
    Linear Gaussian: with the prior's variances P, slopes S, and N for loads, charge and meter, the
    estimate is P Sᵀ (S P Sᵀ + N)⁻¹ r and its covariance P − P Sᵀ (S P Sᵀ + N)⁻¹ S P. The slopes are taken
    where the suspects have what is suspected of them.
    """
    blamed = {s.name: s.more_ohm for s in suspects if s.kind == "resistance" and s.more_ohm > 0.0}
    known = tuple((p, blamed[p.name]) for p in bench.places if p.name in blamed)
    there = replace(bench, known=known) if known else bench
    if not there.base.solved:
        there, known = bench, ()
    n = len(bench.places)
    taken = np.flatnonzero(np.isfinite(readings) & bench.electric)
    prior = there.spread**2
    for s in suspects:
        for k, p in enumerate(bench.places):
            if s.kind == "resistance" and p.name in (s.name, *s.with_it):
                prior[k] = FREE_OHM**2
    w = Weighed(there, taken, (readings - there.values)[taken], cholesky(there.among(taken, prior)))
    more = prior[:n] * w.pull
    sigma = np.sqrt(np.maximum(prior[:n] - prior[:n] ** 2 * w.stiff, 0.0))
    rows = zip(bench.places, _planned(bench), more, sigma, strict=True)
    held = dict(known)
    return tuple(Estimate(p, o, o + held.get(p, 0.0) + float(x), float(e)) for p, o, x, e in rows)


def _planned(bench: Bench) -> list[float]:
    c, ohm = bench.wiring.circuit, bench.base.ohm
    found = []
    for p in bench.places:
        if p.part in ("", "copper"):
            joints = float(c.fixed_ohm[p.branch]) if p.part else 0.0
            found.append(float(ohm[p.branch]) - joints)
        else:
            found.append(bench.joint_ohm(Point("joint", p.owner, p.part)))
    return found


def changed(bench: Bench, before: Floats, after: Floats) -> Diagnosis:
    """What differs between two days of measuring the same points: a joint gone bad, or repaired.

    What stays as it is (lengths, sound joints) falls out, so that much less than `diagnose` needs is seen;
    loads, charge and meters differ on both days. More resistance and less are both explanations; a `Suspect`
    with less has a negative `more_ohm`.

    A load that draws a little more moves a drop by the resistance that is there, not by the planned one: the
    slopes are taken of the copper as both days together estimate it.

    Parameters
    ----------
    before, after : ndarray, shape (points,)
        Readings of both days in the order of the points; nan where none was taken.
    """
    both = np.flatnonzero(np.isfinite(before) & np.isfinite(after) & bench.electric)
    if not both.size:
        return NOTHING
    copper = estimates(bench, (before + after) / 2.0)
    bench = replace(bench, known=tuple((e.place, e.ohm - e.planned_ohm) for e in copper))
    w = Weighed(bench, both, (after - before)[both], cholesky(2.0 * bench.passing(both)))
    score = np.where(w.seen, w.more * w.pull, 0.0)
    order = [int(k) for k in np.argsort(-score)[:12] if score[k] > 0.0]
    w.know(order)
    found = tuple(w.suspect(k, float(w.more[k]), float(score[k])) for k in order)
    return _concluded(w, found, None)
