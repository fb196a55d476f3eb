"""Which readings to take: the fewest that reveal a bad joint, and what they cannot tell apart."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from jaunty_copper.commissioning.diagnose import BAD_OHM, REVEALED, SEPARATED
from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.next_reading import Hypothesis, Next, Parting
from jaunty_copper.commissioning.weighing import Weighed
from jaunty_copper.physics.linear import cholesky

# What a set of readings can show at all


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
    n = len(bench.places)
    least = np.where(bench.electric, REVEALED * bench.sigma, np.inf)
    shows = np.empty((len(bench.points), n), dtype=bool)
    for which, part in bench.slopes.parts(n):
        shows[:, which] = np.abs(part) * BAD_OHM > least[:, None]
    runs = np.array([bench.wiring.branches[b].kind == "run" for b in bench.branch_of], dtype=bool)
    left = runs & shows.any(axis=0)
    blind = list(dict.fromkeys(bench.places[k].owner for k in np.flatnonzero(runs & ~left)))
    chosen: list[int] = []
    count = (shows & left).sum(axis=1)
    while left.any():
        best = int(np.argmax(count))
        chosen.append(best)
        new = np.flatnonzero(shows[best] & left)
        count -= shows[:, new].sum(axis=1)
        left[new] = False
    return chosen, blind


class Group(NamedTuple):
    """Places that a set of readings cannot part, and the reading that would part the first two.

    Attributes
    ----------
    names : tuple of str
        Of the places.
    parted_by : Next or None
        None where no point of the bench does.
    """

    names: tuple[str, ...]
    parted_by: Next | None


def groups(bench: Bench, chosen: Sequence[int]) -> tuple[Group, ...]:
    """Which joints stay indistinguishable with a set of readings, and what would part each group.

    Parameters
    ----------
    chosen : sequence of int
        Positions of the readings among the bench's points.
    """
    taken = np.array(sorted(chosen), dtype=np.int64)
    taken = taken[bench.electric[taken]] if taken.size else taken
    if not taken.size:
        return ()
    w = Weighed(bench, taken, np.zeros(taken.size), cholesky(bench.among(taken)))
    shown = w.stiff * BAD_OHM**2 > REVEALED**2
    runs = np.array([bench.wiring.branches[b].kind == "run" for b in bench.branch_of], dtype=bool)
    left = {int(k) for k in np.flatnonzero(shown & runs)}
    as_planned = np.full(len(bench.points), np.nan)
    as_planned[taken] = bench.values[taken]
    found, parting = [], Parting(bench, as_planned)
    while left:
        k = min(left)
        own = [k, *sorted((left - {k}) & set(np.flatnonzero(w.alike(k)).tolist()))]
        left -= set(own)
        if len(own) > 1:
            one, other = (
                Hypothesis(bench.places[x].name, bench.slopes.of(np.array([x]))[:, 0] * BAD_OHM) for x in own[:2]
            )
            best = parting.best(one, other)
            separated = best if best is not None and best.apart > SEPARATED else None
            found.append(Group(tuple(bench.places[x].name for x in own), separated))
    return tuple(found)
