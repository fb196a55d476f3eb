"""Readings taken the wrong way round: leads swapped, a clamp turned."""

import numpy as np

from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.points import Point
from jaunty_copper.physics.copper import Floats

SURE = 4.0
"""Standard deviations that a value must be away from zero before its sign says anything."""
AS_PLANNED = 3.0
"""Standard deviations within which a reading is as planned once it is turned."""
MOST_SHARE = 0.5
"""Where more of the readings than this have the other sign, current flows the other way: nobody turned so many."""


def righted(bench: Bench, readings: Floats) -> tuple[Floats, tuple[Point, ...]]:
    """Readings with those turned back that were taken the wrong way round, and where that was.

    Turned is what is as planned but for its sign; and a drop along a conductor that is larger than planned and has the
    other sign: more resistance makes it larger, and nothing turns it round. Not within a bank:
    where a take-off has landed on another post, current does flow the other way there.

    Parameters
    ----------
    bench : Bench
        What was measured on.
    readings : ndarray, shape (points,)
        nan where none was taken.

    Returns
    -------
    ndarray, shape (points,)
        In volts, amperes and degrees.
    tuple of Point
        Which were turned back.
    """
    planned, spread = bench.values, bench.sigma
    along = {(r.a, r.b): r.id for r in bench.wiring.plan.runs}
    owner = [p.a if p.quantity == "joint" else along.get((p.a, p.b), "") for p in bench.points]
    inside = {id_ for bank in bench.wiring.banks for id_ in bank.inside}
    conductor = np.array([id_ != "" for id_ in owner], dtype=bool)
    link = np.array([id_ in inside for id_ in owner], dtype=bool)
    known = np.isfinite(readings) & bench.electric & ~link & (np.abs(planned) > SURE * spread)
    other = known & (np.sign(readings) == -np.sign(planned)) & (np.abs(readings) > SURE * bench.meter)
    if other.sum() > max(MOST_SHARE * known.sum(), 1.0):
        return readings, ()
    as_planned = np.abs(readings + planned) <= AS_PLANNED * spread
    turned = other & (as_planned | (conductor & (np.abs(readings) > np.abs(planned))))
    return np.where(turned, -readings, readings), tuple(bench.points[k] for k in np.flatnonzero(turned))
