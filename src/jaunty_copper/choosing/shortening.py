"""No change more than need be: devices no larger, conductors no thicker, where the verdicts stay what they are."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from math import inf

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import Change, Making, adds_nothing, keys_of, merged, now_there
from jaunty_copper.choosing.windows import window
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.rules.conductors import resize
from jaunty_copper.language import say
from jaunty_copper.plan.edits import Edit, change
from jaunty_copper.plan.model import Breaker, Fuse, Named, Plan, Run

LEAST = say("the least that carries its load and is selective, so that nothing before it must be stronger")

Row = Callable[[list[Change]], list[Change]]
"""What all changes are when some of them are put, taken away or made less."""


def ends_first(case: Case) -> list[str]:
    """Devices, those with the most others before them first."""
    depth = dict.fromkeys(case.protection.devices, 0)
    for p in case.protection.pairs:
        depth[p.downstream] += 1
    return sorted(depth, key=lambda d: -depth[d])


@dataclass
class Shortening:
    """Changes to a plan of which one after the other is made smaller or left out, where that comes to the same.

    Attributes
    ----------
    begin : Plan
        As it was.
    changes : list of Change
        Made to it, one after the other.
    known : Assessment
        Of the plan with them.
    judge : callable
        Gives the assessment of a plan.
    overtaken : callable
        Asked before each trial whether to stop.
    left : int
        Trials that may still be made.
    """

    begin: Plan
    changes: list[Change]
    known: Assessment
    judge: Callable[[Plan], Assessment]
    overtaken: Callable[[], bool]
    left: int

    def __post_init__(self) -> None:
        self._making = Making(self.begin)

    def shorten(self) -> None:
        """Change each thing once, make no device larger and nothing stronger than need be."""
        if any(self._strengthens(c) for c in self.changes):
            self._smaller()
        once = merged(self.changes)
        if len(once) < len(self.changes):
            self._take(once)
        needed = self._most([c for c in self.changes if self._strengthens(c)], self._without)
        self._climb({c.place: list(_weaker(self.begin, self.known.case, c)) for c in needed}, self._instead)

    def _smaller(self) -> None:
        """Make devices that were made larger as much smaller as they may be when those behind them are no larger than need be.

        That the largest device for a conductor was asked for gives way to this: else the next conductor would have to be thicker.
        """
        case = self.known.case
        was = {id_: getattr(self.begin.by_id.get(id_), "rating_a", inf) for id_ in case.protection.devices}
        raised = {id_ for id_, device in case.protection.devices.items() if device.item.rating_a > was[id_]}
        behind = {p.downstream for p in case.protection.pairs if p.upstream in raised and not p.same} - raised
        ladders: dict[bool, dict[str, list[Change]]] = {False: {}, True: {}}
        for id_ in (d for d in ends_first(case) if d in raised | behind):
            device = case.protection.devices[id_]
            low = window(case, device.item).low.amps
            lesser = [r for r in case.parts.ratings(device.family) if low <= r < device.item.rating_a]
            # One that was raised comes down to what it was, or to the next that its new family has below that.
            enough = [r for r in lesser if r >= was[id_]] or lesser[-1:] if id_ in raised else lesser
            ladders[id_ in raised][id_] = [_rated(case, id_, rating) for rating in enough]
        given_way = self._climb(ladders[False], self._and)
        self._climb(ladders[True], self._and)
        self._most(given_way, self._without)

    # Many at once: each trial judges the whole, and says for which of them more is wrong

    def _climb(self, ladders: dict[str, list[Change]], row: Row) -> list[Change]:
        """Take the lowest rung of each ladder that comes to the same; those that were taken."""
        taken = []
        while any(ladders.values()):
            firsts = [rungs.pop(0) for rungs in ladders.values() if rungs]
            left = self._most(firsts, row)
            for rung in firsts:
                if rung not in left:
                    taken.append(rung)
                    ladders[rung.place].clear()
        return taken

    def _most(self, some: list[Change], row: Row) -> list[Change]:
        """Take a row of changes with as many of some as come to the same; those with which it would not.

        All of them; else those at whose places nothing more is wrong then; where it is wrong elsewhere, one after the other.
        """
        rest = list(some)
        while rest:
            wrong = self._wrong_with(row(rest))
            if wrong is None:
                return some
            if not wrong:
                return [c for c in some if c not in rest]
            innocent = [c for c in rest if c.place not in wrong]
            if len(innocent) == len(rest):
                accused = [c for c in some if c not in rest]
                return [*accused, *(c for c in rest if not self._take(row([c])))]
            rest = innocent
        return some

    def _wrong_with(self, changes: list[Change]) -> set[str] | None:
        """Places at which more is wrong with other changes, which are taken where there are none; None without a trial."""
        if not self.left or self.overtaken():
            return None
        self.left -= 1
        then = self.judge(self._making.of(changes))
        wrong = {place for _, place in keys_of(then) - keys_of(self.known)}
        if not wrong:
            self.changes, self.known = changes, then
        return wrong

    def _take(self, changes: list[Change]) -> bool:
        """Take other changes, if nothing more is wrong with them."""
        if not self.left or self.overtaken():
            return False
        self.left -= 1
        then = self.judge(self._making.of(changes))
        comes_to_the_same = adds_nothing(then, keys_of(self.known))
        if comes_to_the_same:
            self.changes, self.known = changes, then
        return comes_to_the_same

    # What becomes of the row of changes

    def _without(self, some: list[Change]) -> list[Change]:
        return [c for c in self.changes if c not in some]

    def _and(self, some: list[Change]) -> list[Change]:
        return [*self.changes, *some]

    def _instead(self, some: list[Change]) -> list[Change]:
        less = {c.place: c for c in some}
        return [less.get(c.place, c) if self._strengthens(c) else c for c in self.changes]

    def _strengthens(self, c: Change) -> bool:
        """Whether a change makes a conductor or part stronger."""
        was = _there(self.begin, c.place)
        return bool(c.before) and was is not None and not isinstance(was, Fuse | Breaker)


def _rated(case: Case, id_: str, rating: float) -> Change:
    """A device of the same family of another rating."""
    device = case.protection.devices[id_]
    edit = Edit(
        say("Make {item} {rating:g} A", item=device.item.title, rating=rating),
        partial(change, id_=id_, rating_a=rating),
    )
    after = say("{family} of {rating:g} A", family=device.family.label, rating=rating)
    return Change(id_, now_there(case, id_), after, "", LEAST, edit)


def _there(plan: Plan, id_: str) -> Run | Named | None:
    return plan.run_by_id.get(id_) or plan.by_id.get(id_)


def _weaker(begin: Plan, case: Case, strong: Change) -> Iterator[Change]:
    """Smaller sizes of a conductor than it was given, or lower ratings of a part, the smallest first."""
    was, now = _there(begin, strong.place), _there(case.plan, strong.place)
    if isinstance(was, Run) and isinstance(now, Run):
        conductors = case.parts.conductors
        low, high = (conductors[run.conductor].area_mm2 for run in (was, now))
        for size in case.parts.sizes(conductors[now.conductor].system):
            if low < size.area_mm2 < high:
                edit = Edit(
                    say("Make {now} {size}", now=now.id, size=size.label),
                    partial(resize, ids=(now.id,), conductor=size.id),
                )
                yield strong._replace(after=edit.label, edit=edit)
        return
    least, most = getattr(was, "rating_a", None) or inf, getattr(now, "rating_a", None) or 0.0
    for rating in case.parts.device_ratings_a:
        if least < rating < most:
            edit = Edit(
                say("Make {place} {rating:g} A", place=case.title(strong.place), rating=rating),
                partial(change, id_=strong.place, rating_a=rating),
            )
            yield strong._replace(after=edit.label, edit=edit)
