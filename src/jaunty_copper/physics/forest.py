"""What a forest of edges with capacities lets through, in one pass over it."""

from collections.abc import Iterable, Sequence
from heapq import heapify, heappop, heappush
from math import inf, isfinite
from typing import NamedTuple

from jaunty_copper.language import say
from jaunty_copper.physics.flow import Flow, total


class Forest:
    """A network without rings, for flows from some of its nodes to others.

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
    """

    def __init__(self, parts: int, ends: Sequence[tuple[int, int]], capacity_a: Sequence[float]) -> None:
        near: list[list[tuple[int, int]]] = [[] for _ in range(parts)]
        for k, (p, q) in enumerate(ends):
            near[p].append((q, k))
            near[q].append((p, k))
        self._capacity = capacity_a
        self._order = [-1] * parts
        self._up: list[tuple[int, int]] = []
        self._node: list[int] = []
        for root in range(parts):
            if self._order[root] >= 0:
                continue
            waiting = [(root, -1, -1)]
            while waiting:
                here, parent, edge = waiting.pop()
                if self._order[here] >= 0:
                    raise ValueError(say("there is a ring"))
                self._order[here] = len(self._up)
                self._up.append((parent, edge))
                self._node.append(here)
                waiting += [(there, here, k) for there, k in near[here] if k != edge]

    def sent(self, supplies: Iterable[tuple[int, Flow]], goals: Iterable[int]) -> Flow:
        """The greatest flow from supplies to goals that take all they get, with its minimum cut.

        Parameters
        ----------
        supplies : iterable of (int, Flow)
            Nodes with what each can give.
        goals : iterable of int
            Nodes that take all they get.

        Notes
        -----
        From the leaves inwards each node gives what it has to those below it that want it and passes on what is left
        of the one or of the other: on a tree nothing better can be done. What is left and finds its match later too was
        the limit all along; what limited the first part of it is none then.
        """
        have: dict[int, _Left] = {}
        for part, flow in supplies:
            have[part] = _both(have.get(part), _Left(flow.amps, flow.cut, ()))
        want = {part: _Left(inf, (), ()) for part in goals}
        met: dict[int, Flow] = {}
        waiting = [-self._order[part] for part in {*have, *want}]
        heapify(waiting)
        while waiting:
            place = -heappop(waiting)
            here, (parent, edge) = self._node[place], self._up[place]
            some, asked = have.pop(here, None), want.pop(here, None)
            less: tuple[int, ...] = ()
            if some is not None and asked is not None:
                small = min(some, asked, key=lambda left: left.amps)
                if not isfinite(small.amps):
                    return Flow(inf, some.cut)
                for n in small.waives:
                    met[n] = met[n]._replace(cut=())
                met[place] = Flow(small.amps, small.cut)
                less = (place,)
                if some.amps == asked.amps:
                    continue
            if parent < 0:
                continue
            of = have if asked is None or (some is not None and some.amps > asked.amps) else want
            more = some if of is have else asked
            assert more is not None
            left, capacity = more.amps - (met[place].amps if less else 0.0), self._capacity[edge]
            passed = _Left(left, more.cut, (*more.waives, *less)) if left <= capacity else _Left(capacity, (edge,), ())
            if parent not in have and parent not in want:
                heappush(waiting, -self._order[parent])
            of[parent] = _both(of.get(parent), passed)
        return total(met.values())


class _Left(NamedTuple):
    """What is not yet met of a supply or a demand, what limits it, and which earlier limits are none if it is met."""

    amps: float
    cut: tuple[int, ...]
    waives: tuple[int, ...]


def _both(one: _Left | None, two: _Left) -> _Left:
    if one is None:
        return two
    if isfinite(one.amps) != isfinite(two.amps):
        return two if isfinite(one.amps) else one
    return _Left(one.amps + two.amps, (*one.cut, *two.cut), (*one.waives, *two.waives))
