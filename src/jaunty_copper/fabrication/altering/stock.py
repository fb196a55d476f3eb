"""What an alteration needs bought and leaves over: cables that can be used again, and the rest as a list of materials."""

from typing import NamedTuple

import numpy as np

from jaunty_copper.fabrication.altering.differing import Differing
from jaunty_copper.fabrication.cuts import Cut, End
from jaunty_copper.fabrication.materials import Line, Workshop

SPARE_M, SPARE_SHARE = 0.05, 0.03
"""So much longer than what is needed, a cable is used as it is; the greater of the two, representative."""
CUT_TO_FIT = ("cable:", "lug:", "sleeve:")
"""Keys of materials that follow from the cables that are made, not from what the plans hold."""


class Again(NamedTuple):
    """A cable that is used a second time.

    Attributes
    ----------
    new, old : Cut
        What is needed, and what is taken out that serves.
    spare_m : float
        By how much it is longer.
    new_lugs : int
        How many of its ends need another lug: those cut off, and those of another hole.
    """

    new: Cut
    old: Cut
    spare_m: float
    new_lugs: int


class ChangeMaterials(NamedTuple):
    """Materials of an alteration alone.

    Attributes
    ----------
    again : tuple of Again
        Cables that are used a second time.
    bought, left : tuple of Line
        What is bought, and what is left of what was taken out, but for cables.
    spare : tuple of Cut
        Cables that are left.
    """

    again: tuple[Again, ...]
    bought: tuple[Line, ...]
    left: tuple[Line, ...]
    spare: tuple[Cut, ...]

    @property
    def price(self) -> float:
        """Of all that is bought."""
        return sum(line.total for line in self.bought)


def needs(work: Differing, before: Workshop, after: Workshop) -> ChangeMaterials:
    """What an alteration needs bought, what can be used again, and what is left over.

    Parameters
    ----------
    before, after : Workshop
        Of the plan as it is, and as it shall be.
    """
    out = {work.old_id[id_] for id_ in work.runs_out}
    old = [c for c in before.cuts if c.run in out]
    new = [c for c in after.cuts if c.run in set(work.runs_in)]
    again = _again(new, old)
    served = {id(x.new) for x in again}
    fresh = [c for c in new if id(c) not in served]
    lugs = Workshop(after.wiring, (*fresh, *(_only_new_ends(x) for x in again)))
    cables = Workshop(after.wiring, tuple(fresh))
    made = [line for line in cables.lines if line.key.startswith("cable:")]
    made += [line for line in lugs.lines if line.key.startswith(("lug:", "sleeve:"))]
    more = [*made, *_more(after, before)]
    used = {id(x.old) for x in again}
    return ChangeMaterials(again, tuple(more), tuple(_more(before, after)), tuple(c for c in old if id(c) not in used))


def _again(new: list[Cut], old: list[Cut]) -> tuple[Again, ...]:
    """Which old cables serve for which new ones, so that the most is saved and the least cut off."""
    if not (new and old):
        return ()
    from scipy.optimize import linear_sum_assignment

    saved = np.array([[_saved(n, o) for o in old] for n in new])
    rows, columns = linear_sum_assignment(saved, maximize=True)
    return tuple(
        _used(new[i], old[j]) for i, j in zip(rows.tolist(), columns.tolist(), strict=True) if saved[i, j] > 0.0
    )


def _saved(new: Cut, old: Cut) -> float:
    """Metres that an old cable saves, less a little for what is cut off it; 0 where it does not serve."""
    kind = (new.conductor, new.insulation, new.colour) == (old.conductor, old.insulation, old.colour)
    return new.length_m - 0.01 * (old.length_m - new.length_m) if kind and old.length_m >= new.length_m - 1e-9 else 0.0


def _used(new: Cut, old: Cut) -> Again:
    spare = old.length_m - new.length_m
    kept = max(_fit(new.a, old.a) + _fit(new.b, old.b), _fit(new.a, old.b) + _fit(new.b, old.a))
    shortened = spare > max(SPARE_M, SPARE_SHARE * new.length_m)
    return Again(new, old, spare, 2 - (min(kept, 1) if shortened else kept))


def _fit(new: End, old: End) -> int:
    return int((new.thread, new.angle) == (old.thread, old.angle))


def _only_new_ends(again: Again) -> Cut:
    """A cable with those ends alone that need a new lug."""
    kept, ends = 2 - again.new_lugs, [again.new.a, again.new.b]
    for k, end in enumerate(ends):
        if kept and (_fit(end, again.old.a) or _fit(end, again.old.b)):
            ends[k], kept = end._replace(thread=None, sleeve_mm=None), kept - 1
    return again.new._replace(a=ends[0], b=ends[1])


def _more(one: Workshop, other: Workshop) -> list[Line]:
    """Of what is not cable, lug or sleeve: how much more one plan holds than another."""
    there = {line.key: line.quantity for line in other.lines}
    found = [
        line._replace(quantity=line.quantity - there.get(line.key, 0.0))
        for line in one.lines if not line.key.startswith(CUT_TO_FIT)
    ]  # fmt: skip
    return [line for line in found if line.quantity > 0.0]
