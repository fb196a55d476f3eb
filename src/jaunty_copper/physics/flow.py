"""The greatest flow that limited sources can bring to a place of a network with limited edges.

Networks of distribution are trees but for a few rings: what lies in a tree is added up and cut down on the way, and
only what can flow round is left to a general algorithm.
"""

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from functools import cached_property
from heapq import heapify, heappop, heappush
from math import inf, isfinite
from typing import NamedTuple

import numpy as np
from scipy.sparse import csc_array, csr_array
from scipy.sparse.csgraph import maximum_flow

from jaunty_copper.physics import graph

STEPS_PER_A = 1000.0
"""The general algorithm counts in whole steps."""


class Flow(NamedTuple):
    """A greatest flow, and the minimum cut nearest to where it arrives.

    Attributes
    ----------
    amps : float
        How much; inf where a source without limit reaches the place through no limited edge.
    cut : tuple of int
        What limits it: edges by their number k, sources by ~k. Of a flow without limit, the sources without limit.
    """

    amps: float
    cut: tuple[int, ...]


NOTHING = Flow(0.0, ())


def total(flows: Iterable[Flow]) -> Flow:
    """Several flows at once."""
    some = [f for f in flows if f.amps > 0.0]
    if not some:
        return NOTHING
    if len(some) == 1:
        return some[0]
    amps = sum(f.amps for f in some)
    kept = some if isfinite(amps) else [f for f in some if not isfinite(f.amps)]
    return Flow(amps, tuple(dict.fromkeys(k for f in kept for k in f.cut)))


class Blocks:
    """A network taken apart where a single node holds it together: what all flows through it share.

    Parameters
    ----------
    nodes : int
        Number of nodes.
    a, b : sequence of int
        Ends of each edge; flow passes either way.
    """

    def __init__(self, nodes: int, a: Sequence[int], b: Sequence[int]) -> None:
        self.a, self.b = a, b
        self.of = graph.blocks(nodes, list(zip(a, b, strict=True)))
        count = max(self.of, default=-1) + 1
        self.edges: list[list[int]] = [[] for _ in range(count)]
        for k, block in enumerate(self.of):
            if block >= 0:
                self.edges[block].append(k)
        self.ends = [sorted({n for k in edges for n in (a[k], b[k])}) for edges in self.edges]
        self.at: list[list[int]] = [[] for _ in range(nodes)]
        for block, ends in enumerate(self.ends):
            for n in ends:
                self.at[n].append(block)

    @cached_property
    def tree(self) -> "Tree":
        """Its nodes in an order in which all that lies beyond a block follows without a gap."""
        first, up, root = [-1] * len(self.at), [-1] * len(self.at), [-1] * len(self.at)
        span, last = [(0, 0)] * len(self.ends), [0] * len(self.at)
        count = 0
        for start in range(len(self.at)):
            if first[start] >= 0:
                continue
            waiting = [(start, -1)]
            seen: list[int] = []
            while waiting:
                here, block = waiting.pop()
                first[here], up[here], root[here] = count, block, start
                last[here] = count = count + 1
                seen.append(here)
                waiting += [(n, of) for of in self.at[here] if of != block for n in self.ends[of] if n != here]
            for here in reversed(seen):
                for of in self.at[here]:
                    beyond = [n for n in self.ends[of] if n != here and up[n] == of]
                    if of != up[here] and beyond:
                        span[of] = min(first[n] for n in beyond), max(last[n] for n in beyond)
                        last[here] = max(last[here], span[of][1])
        return Tree(first, last, up, root, span)


class Tree(NamedTuple):
    """Blocks and nodes in the order of a walk from one node of each part.

    Attributes
    ----------
    first, last : list of int
        Of each node, its place and the end of the places of all that lies beyond it.
    up, root : list of int
        Of each node, the block by which the walk came, -1 for none; and where it set out.
    span : list of (int, int)
        Of each block, the places of all that lies beyond it.
    """

    first: list[int]
    last: list[int]
    up: list[int]
    root: list[int]
    span: list[tuple[int, int]]


class Sides:
    """Which of some places lie on which side of an edge of a network.

    Parameters
    ----------
    blocks : Blocks
        The network.
    nodes : sequence of int
        Node of each place.
    """

    def __init__(self, blocks: Blocks, nodes: Sequence[int]) -> None:
        self._blocks, first = blocks, blocks.tree.first
        self._order = sorted(range(len(nodes)), key=lambda k: first[nodes[k]])
        self._place = [first[nodes[k]] for k in self._order]
        self._known: dict[tuple[int, int, int, int], frozenset[int]] = {}

    def into(self, node: int) -> frozenset[int]:
        """All that can be reached from a node."""
        root = self._blocks.tree.root[node]
        return self._within(self._blocks.tree.first[root], self._blocks.tree.last[root])

    def at(self, node: int) -> frozenset[int]:
        """What is at a node itself."""
        here = self._blocks.tree.first[node]
        return self._within(here, here + 1)

    def past(self, edge: int, end: int) -> frozenset[int]:
        """What can be reached from one end of an edge if that edge is taken away."""
        block = self._blocks.of[edge]
        if len(self._blocks.edges[block]) > 1:
            return self.into(end)
        tree = self._blocks.tree
        if tree.up[end] == block:
            return self._within(tree.first[end], tree.last[end])
        return self._without(end, *tree.span[block])

    def by(self, edge: int, node: int) -> frozenset[int]:
        """What can be reached from a node by the block that an edge is in."""
        block, tree = self._blocks.of[edge], self._blocks.tree
        if tree.up[node] == block:
            return self._without(node, tree.first[node], tree.last[node])
        return self._within(*tree.span[block])

    def _within(self, first: int, last: int) -> frozenset[int]:
        return self._kept(first, last, last, last)

    def _without(self, node: int, first: int, last: int) -> frozenset[int]:
        root = self._blocks.tree.root[node]
        return self._kept(self._blocks.tree.first[root], first, last, self._blocks.tree.last[root])

    def _kept(self, *places: int) -> frozenset[int]:
        """What lies from the first place to the second and from the third to the fourth."""
        a, b, c, d = (bisect_left(self._place, place) for place in places)
        if (a, b, c, d) not in self._known:
            self._known[a, b, c, d] = frozenset((*self._order[a:b], *self._order[c:d]))
        return self._known[a, b, c, d]


class Flows:
    """Greatest flows to every place of one network.

    Parameters
    ----------
    blocks : Blocks
        The network.
    capacity_a : sequence of float
        Most that each edge passes, A; inf where nothing limits it.
    sources : sequence of (int, float)
        Node of each source, and the most that it gives, A; inf where nothing limits it.

    Notes
    -----
    Ford and Fulkerson, Canadian Journal of Mathematics 8 (1956): the greatest flow equals the least cut. A flow into a
    node comes by the blocks (biconnected components) that meet there, each by itself; a block of one edge passes the
    lesser of its capacity and what reaches its other end.
    """

    def __init__(self, blocks: Blocks, capacity_a: Sequence[float], sources: Sequence[tuple[int, float]]) -> None:
        self._blocks, self._capacity = blocks, capacity_a
        own: dict[int, list[Flow]] = {}
        for k, (n, amps) in enumerate(sources):
            own.setdefault(n, []).append(Flow(amps, (~k,)))
        self._own = {n: total(flows) for n, flows in own.items()}
        self._places = sorted(blocks.tree.first[n] for n in self._own)
        self._given: dict[tuple[int, int], Flow] = {}

    def into(self, node: int) -> Flow:
        """The greatest flow into a node."""
        return self._supply(node, -1)

    def at(self, node: int) -> Flow:
        """What sources at a node itself give."""
        return self._own.get(node, NOTHING)

    def past(self, edge: int, end: int) -> Flow:
        """The greatest flow into one end of an edge if that edge is taken away: what it can carry on from there."""
        block = self._blocks.of[edge]
        if len(self._blocks.edges[block]) == 1:
            return self._supply(end, block)
        self._prepare(block)
        return total([self._supply(end, block), self._within(block, end, edge)])

    def by(self, edge: int, node: int) -> Flow:
        """What comes into a node by the block that an edge is in."""
        return self._by(self._blocks.of[edge], node)

    def _supply(self, node: int, without: int) -> Flow:
        """What sources at a node and the blocks there, but for one, bring to it."""
        found = [self._own[node]] if node in self._own else []
        for block in self._blocks.at[node]:
            if block != without and self._is_beyond(block, node):
                found.append(self._by(block, node))
        return total(found)

    def _is_beyond(self, block: int, node: int) -> bool:
        """Whether any source lies beyond a block."""
        tree = self._blocks.tree
        if tree.up[node] != block:
            first, last = tree.span[block]
            return bisect_left(self._places, first) < bisect_left(self._places, last)
        root = tree.root[node]
        before = bisect_left(self._places, tree.first[root]) < bisect_left(self._places, tree.first[node])
        return before or bisect_left(self._places, tree.last[node]) < bisect_left(self._places, tree.last[root])

    def _by(self, block: int, node: int) -> Flow:
        """What a block brings to one of its nodes."""
        if (block, node) not in self._given:
            waiting = [(block, node)]
            while waiting:
                one, at = waiting[-1]
                missing = self._missing(one, at)
                if missing:
                    waiting += missing
                    continue
                waiting.pop()
                self._given.setdefault((one, at), self._within(one, at))
        return self._given[block, node]

    def _missing(self, block: int, node: int) -> list[tuple[int, int]]:
        """What must be known before a block's flow into a node is."""
        if (block, node) in self._given:
            return []
        return [
            (other, n)
            for n in self._blocks.ends[block]
            if n != node
            for other in self._blocks.at[n]
            if other != block and (other, n) not in self._given and self._is_beyond(other, n)
        ]

    def _prepare(self, block: int) -> None:
        for n in self._blocks.ends[block]:
            for other in self._blocks.at[n]:
                if other != block:
                    self._by(other, n)

    def _within(self, block: int, node: int, without: int = -1) -> Flow:
        """The flow into a node of a block from its other nodes, by the block's edges but one."""
        supplies = {n: self._supply(n, block) for n in self._blocks.ends[block] if n != node}
        edges = [k for k in self._blocks.edges[block] if k != without]
        if len(edges) == 1 and len(supplies) == 1:
            (supply,) = supplies.values()
            capacity = self._capacity[edges[0]]
            return supply if supply.amps < capacity or not isfinite(capacity) else Flow(capacity, (edges[0],))
        return self._general(edges, supplies, node)

    def _general(self, edges: list[int], supplies: dict[int, Flow], node: int) -> Flow:
        """Where flow can go round: edges without limit drawn together, and a general algorithm for the rest."""
        names = sorted({*supplies, node})
        at = {n: k for k, n in enumerate(names)}
        free = [k for k in edges if not isfinite(self._capacity[k])]
        label = graph.components(
            len(names), [at[self._blocks.a[k]] for k in free], [at[self._blocks.b[k]] for k in free]
        )
        goal = label[at[node]]
        inside = total(f for n, f in supplies.items() if label[at[n]] == goal)
        across = [k for k in edges if label[at[self._blocks.a[k]]] != label[at[self._blocks.b[k]]]]
        outside = [(label[at[n]], f) for n, f in supplies.items() if label[at[n]] != goal and f.amps > 0.0]
        if not isfinite(inside.amps) or not across or not outside:
            return inside
        ends = [(label[at[self._blocks.a[k]]], label[at[self._blocks.b[k]]]) for k in across]
        return total(
            [inside, greatest(max(label) + 1, ends, across, [self._capacity[k] for k in across], outside, goal)]
        )


def greatest(
    parts: int,
    ends: Sequence[tuple[int, int]],
    names: Sequence[int],
    capacity_a: Sequence[float],
    supplies: Sequence[tuple[int, Flow]],
    goal: int,
) -> Flow:
    """The greatest flow into one node of any network, with what supplies bring to others.

    Parameters
    ----------
    parts : int
        Number of nodes.
    ends : sequence of (int, int)
        Of each edge.
    names : sequence of int
        By which a cut is to call each edge.
    capacity_a : sequence of float
        Most that each edge passes either way, A; inf where nothing limits it.
    supplies : sequence of (int, Flow)
        Node, and what comes there.
    goal : int
        Where it is to flow.

    Returns
    -------
    Flow
        Its cut holds edges, and what is in the cuts of supplies that are used up.
    """
    finite = sum(c for c in capacity_a if isfinite(c)) + sum(f.amps for _, f in supplies if isfinite(f.amps))
    scale = min(STEPS_PER_A, 1e9 / max(finite, 1.0))
    most = int(finite * scale) + 2
    first, gate = parts, parts + 1
    pair: dict[tuple[int, int], int] = {(first, gate): most}

    def more(key: tuple[int, int], amps: float) -> None:
        pair[key] = min(pair.get(key, 0) + (round(amps * scale) if isfinite(amps) else most), most)

    for n, f in supplies:
        more((gate, n), f.amps)
    for (p, q), c in zip(ends, capacity_a, strict=True):
        more((p, q), c)
        more((q, p), c)
    at = np.array(list(pair), dtype=np.int32)
    size = parts + 2
    capacity = csr_array((np.array(list(pair.values()), dtype=np.int32), (at[:, 0], at[:, 1])), shape=(size, size))
    solved = maximum_flow(capacity, first, goal)
    if solved.flow_value >= most:
        return Flow(inf, tuple(dict.fromkeys(k for _, f in supplies if not isfinite(f.amps) for k in f.cut)))
    # What can still reach the goal where capacity is left over: its border is the cut nearest to it.
    left = csc_array(capacity - solved.flow)
    near, queue = {goal}, [goal]
    while queue:
        q = queue.pop()
        column = slice(left.indptr[q], left.indptr[q + 1])
        for p in left.indices[column][left.data[column] > 0].tolist():
            if p not in near:
                near.add(p)
                queue.append(p)
    cut = [k for k, (p, q) in zip(names, ends, strict=True) if (p in near) != (q in near)]
    cut += [x for n, f in supplies if gate not in near and n in near for x in f.cut]
    return Flow(solved.flow_value / scale, tuple(dict.fromkeys(cut)))


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
                    raise ValueError("there is a ring")
                self._order[here] = len(self._up)
                self._up.append((parent, edge))
                self._node.append(here)
                waiting += [(there, here, k) for there, k in near[here] if k != edge]

    def sent(self, supplies: Iterable[tuple[int, Flow]], goals: Iterable[int]) -> Flow:
        """The greatest flow from supplies to goals that take all they get, with its minimum cut.

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
