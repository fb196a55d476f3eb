"""What a forest of edges with capacities lets through from some of its nodes to others, and what limits it."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Sequence
from heapq import heapify, heappop, heappush
from math import inf, isfinite
from typing import NamedTuple

from jaunty_copper.language import say
from jaunty_copper.physics.flow import NOTHING, Flow, total


class Forest:
    """A network without rings, for many flows: what one branch of it passes is kept for those that share the branch.

    Parameters
    ----------
    parts : int
        Number of nodes.
    ends : sequence of (int, int)
        Of each edge.
    capacity_a : sequence of float
        Most that each passes either way, A; inf where nothing limits it.

    Raises
    ------
    ValueError
        There is a ring.

    Notes
    -----
    Nodes have places in a walk from the node of each tree where most meets, so that all that lies below one follows
    it without a gap.
    """

    def __init__(self, parts: int, ends: Sequence[tuple[int, int]], capacity_a: Sequence[float]) -> None:
        near: list[list[tuple[int, int]]] = [[] for _ in range(parts)]
        for k, (p, q) in enumerate(ends):
            near[p].append((q, k))
            near[q].append((p, k))
        self._capacity = capacity_a
        self._place = [-1] * parts
        self._up: list[tuple[int, int]] = []
        """Of each place, the one above it and the edge to it; -1 at the top of a tree."""
        self._below: list[list[int]] = []
        self._reach: list[float] = []
        """Most that passes between each place and the top of its tree, A."""
        self._top: list[int] = []
        for root in sorted(range(parts), key=lambda part: -len(near[part])):
            if self._place[root] < 0:
                self._walk(root, near)
        self._end = [place + 1 for place in range(parts)]
        for place in reversed(range(parts)):
            above, _ = self._up[place]
            if above >= 0:
                self._end[above] = max(self._end[above], self._end[place])
        self._known: dict[tuple[int, tuple[tuple[int, Flow], ...], tuple[int, ...]], _Held] = {}

    def _walk(self, root: int, near: list[list[tuple[int, int]]]) -> None:
        top = len(self._up)
        waiting = [(root, -1, -1)]
        while waiting:
            here, above, edge = waiting.pop()
            if self._place[here] >= 0:
                raise ValueError(say("there is a ring"))
            place = self._place[here] = len(self._up)
            self._up.append((above, edge))
            self._below.append([])
            self._reach.append(inf if above < 0 else min(self._reach[above], self._capacity[edge]))
            self._top.append(top)
            if above >= 0:
                self._below[above].append(place)
            waiting += [(there, place, k) for there, k in near[here] if k != edge]

    def placed(self, supplies: Iterable[tuple[int, Flow]]) -> "Supplies":
        """Some supplies in the order of their places, for any number of goals.

        Parameters
        ----------
        supplies : iterable of (int, Flow)
            Nodes with what each can give.
        """
        given = sorted(supplies, key=lambda supply: self._place[supply[0]])
        places = tuple(self._place[part] for part, _ in given)
        strength: dict[int, dict[int, float]] = {}
        for place, (_, flow) in zip(places, given, strict=True):
            most_a, tree = min(flow.amps, self._reach[place]), strength.setdefault(self._top[place], {})
            tree[place] = max(tree.get(place, 0.0), most_a)
        strongest = {top: sorted(tree.items(), key=lambda one: -one[1]) for top, tree in strength.items()}
        return Supplies(tuple(given), places, strongest)

    def sent(self, supplies: "Supplies", goals: Iterable[int]) -> Flow:
        """The greatest flow from supplies to goals that take all they get, with the minimum cut nearest to the goals.

        Parameters
        ----------
        supplies : Supplies
            Of this forest.
        goals : iterable of int
            Nodes that take all they get.

        Notes
        -----
        The least cut: from the leaves inwards, what it takes to hold a node apart from all goals beyond it, and from
        all supplies beyond it; an edge stands between two nodes that are held apart from the one and from the other.
        Once one supply surely brings to a node more than its goals can take, no other is asked.
        """
        wanted = sorted({self._place[part] for part in goals})
        found = []
        while wanted:
            others = bisect_left(wanted, self._end[self._top[wanted[0]]])
            here, wanted = wanted[:others], wanted[others:]
            found.append(self._outright(supplies, here) or self._in_one_tree(supplies, here))
        return total(found)

    def _outright(self, supplies: "Supplies", wanted: list[int]) -> Flow | None:
        """All that the only supply in a tree gives, where there surely is a way for more of it."""
        given, places, _ = supplies
        tree = self._top[wanted[0]]
        first, last = bisect_left(places, tree), bisect_left(places, self._end[tree])
        if first == last:
            return NOTHING
        if last > first + 1:
            return None
        flow, reach = given[first][1], self._reach[places[first]]
        return flow if flow.amps < reach and any(flow.amps < self._reach[place] for place in wanted) else None

    def _in_one_tree(self, supplies: "Supplies", wanted: list[int]) -> Flow:
        given, places, strongest = supplies
        at = wanted[0]
        while self._end[at] <= wanted[-1]:
            at = self._up[at][0]
        known, strong = at, strongest.get(self._top[at], ())
        branches, seen = [_Held(GOAL, NOTHING)] if wanted[0] == at else [], set[int]()
        for child, lo, hi in self._over(at, wanted):
            begin, end = bisect_left(places, child), bisect_left(places, self._end[child])
            branches.append(self._passed(child, given[begin:end], tuple(wanted[lo:hi])))
            seen.add(child)
        while True:
            held = _together(branches)
            # Of what lies below the place that is known, supplies are in what holds it apart from them.
            most_a = next((a for place, a in strong if not known <= place < self._end[known]), 0.0)
            sure_a = held.from_supplies.amps + min(most_a, self._reach[at])
            if isfinite(held.from_goals.amps) and held.from_goals.amps <= sure_a:
                return held.from_goals
            branches = [held]
            here = given[bisect_left(places, at) : bisect_right(places, at)]
            branches += [_Held(NOTHING, flow) for _, flow in here]
            for child, lo, hi in self._over(at, places):
                if child not in seen:
                    branches.append(self._passed(child, given[lo:hi], ()))
            held = _together(branches)
            above, edge = self._up[at]
            if above < 0:
                return held.either
            branches, seen, known, at = [self._past(held, edge)], {at}, at, above

    def _over(self, at: int, places: Sequence[int]) -> Iterator[tuple[int, int, int]]:
        """Places next below one beyond which some of a sorted list lie, and from which to which those are."""
        below = self._below[at]
        lo, last = bisect_left(places, at + 1), bisect_left(places, self._end[at])
        while lo < last:
            child = below[bisect_right(below, places[lo]) - 1]
            hi = bisect_left(places, self._end[child], lo, last)
            yield child, lo, hi
            lo = hi

    def _passed(self, child: int, given: tuple[tuple[int, Flow], ...], wanted: tuple[int, ...]) -> "_Held":
        """What it takes to hold the place above a branch apart from what is in it."""
        key = child, given, wanted
        if key not in self._known:
            self._known[key] = self._pass(child, given, wanted)
        return self._known[key]

    def _pass(self, child: int, given: tuple[tuple[int, Flow], ...], wanted: tuple[int, ...]) -> "_Held":
        at: dict[int, list[_Held]] = {}
        for part, flow in given:
            at.setdefault(self._place[part], []).append(_Held(NOTHING, flow))
        for place in wanted:
            at.setdefault(place, []).append(_Held(GOAL, NOTHING))
        waiting = [-place for place in at]
        heapify(waiting)
        while True:
            place = -heappop(waiting)
            above, edge = self._up[place]
            passed = self._past(_together(at[place]), edge)
            if place == child:
                return passed
            if above not in at:
                at[above] = []
                heappush(waiting, -above)
            at[above].append(passed)

    def _past(self, held: "_Held", edge: int) -> "_Held":
        """The same of the other end of an edge: held apart here, or by the edge."""
        most_a = self._capacity[edge]
        by = Flow(most_a, (edge,) if isfinite(most_a) else ())
        goals, supplies = held
        return _Held(_least(goals, total((supplies, by))), _least(total((goals, by)), supplies))


class Supplies(NamedTuple):
    """Nodes with what each can give, in the order of their places; of each tree, what surely reaches its top.

    Attributes
    ----------
    given : tuple of (int, Flow)
        Nodes, with what each can give.
    places : tuple of int
        Of those, in order.
    strongest : dict of int to list of (int, float)
        By the top of a tree: place, and the most that surely comes from there to the top, A; the most first.
    """

    given: tuple[tuple[int, Flow], ...]
    places: tuple[int, ...]
    strongest: dict[int, list[tuple[int, float]]]


GOAL = Flow(inf, ())
"""Nothing holds a place apart from a goal that is there."""


class _Held(NamedTuple):
    """The least that holds a place apart from all goals that are looked at, and from all supplies."""

    from_goals: Flow
    from_supplies: Flow

    @property
    def either(self) -> Flow:
        return _least(*self)


def _least(nearer: Flow, other: Flow) -> Flow:
    """The lesser; of two that are alike the one nearer to goals, of two that hold nothing the one that names supplies."""
    return nearer if nearer.amps <= other.amps and isfinite(nearer.amps) else other


def _together(branches: Sequence[_Held]) -> _Held:
    return _Held(total(held.from_goals for held in branches), total(held.from_supplies for held in branches))
