"""The greatest flow that limited sources can bring to a place of a network with limited edges.

Networks of distribution are trees but for a few rings: what lies in a tree is added up and cut down on the way, and
only what can flow round is left to a general algorithm.
"""

from bisect import bisect_left, bisect_right
from collections import deque
from collections.abc import Iterable, Sequence
from math import inf, isfinite
from typing import NamedTuple

from jaunty_copper.physics import graph
from jaunty_copper.physics.blocks import Blocks

ROUNDED = 1e-12
"""What is less than this share of all amperes together is what rounding has left of none."""


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
    """Several flows at once.

    Parameters
    ----------
    flows : iterable of Flow
        Any number of them.
    """
    some = [f for f in flows if f.amps > 0.0]
    if not some:
        return NOTHING
    if len(some) == 1:
        return some[0]
    amps = sum(f.amps for f in some)
    kept = some if isfinite(amps) else [f for f in some if not isfinite(f.amps)]
    return Flow(amps, tuple(dict.fromkeys(k for f in kept for k in f.cut)))


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
    node comes by the blocks (biconnected components) that meet there, each separately; a block of one edge passes the
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
        self._leading: dict[int, list[int]] = {}

    def into(self, node: int) -> Flow:
        """The greatest flow into a node.

        Parameters
        ----------
        node : int
            Number of a node.
        """
        return self._supply(node, -1)

    def at(self, node: int) -> Flow:
        """What sources at a node itself give.

        Parameters
        ----------
        node : int
            Number of a node.
        """
        return self._own.get(node, NOTHING)

    def past(self, edge: int, end: int) -> Flow:
        """The greatest flow into one end of an edge if that edge is taken away: what it can carry on from there.

        Parameters
        ----------
        edge, end : int
            Number of an edge, and of the node at one of its ends.
        """
        block = self._blocks.of[edge]
        if len(self._blocks.edges[block]) == 1:
            return self._supply(end, block)
        self._prepare(block)
        return total([self._supply(end, block), self._within(block, end, edge)])

    def by(self, edge: int, node: int) -> Flow:
        """What comes into a node by the block that an edge is in.

        Parameters
        ----------
        edge, node : int
            Number of an edge, and of a node of its block.
        """
        return self._by(self._blocks.of[edge], node)

    def _supply(self, node: int, without: int) -> Flow:
        """What sources at a node and the blocks there, but for one, bring to it."""
        found = [self._own[node]] if node in self._own else []
        found += [self._by(block, node) for block in self._beyond(node) if block != without]
        return total(found)

    def _beyond(self, node: int) -> list[int]:
        """Blocks at a node beyond which any source lies."""
        if node in self._leading:
            return self._leading[node]
        tree, places = self._blocks.tree, self._places
        below, found = tree.below[node], list[int]()
        first, last = tree.first[node], tree.last[node]
        k, end = bisect_left(places, first + 1), bisect_left(places, last)
        while k < end:
            _, block = below[bisect_right(below, (places[k], len(tree.span))) - 1]
            found.append(block)
            k = bisect_left(places, tree.span[block][1])
        root = tree.root[node]
        before = bisect_left(places, tree.first[root]) < bisect_left(places, first)
        if before or end < bisect_left(places, tree.last[root]):
            found.append(tree.up[node])
        self._leading[node] = sorted(found)
        return self._leading[node]

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
            for other in self._beyond(n)
            if other != block and (other, n) not in self._given
        ]

    def _prepare(self, block: int) -> None:
        for n in self._blocks.ends[block]:
            for other in self._beyond(n):
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

    Notes
    -----
    Edmonds and Karp, Journal of the ACM 19 (1972): flow after flow along the way of the fewest edges. Written here, not
    taken from a graph library: a handful of nodes is asked for a thousand times, each time a fraction of what it takes
    to put them into a library's form; and amperes stay what they are, where libraries count in whole steps.
    """
    gate = parts
    left: list[dict[int, float]] = [{} for _ in range(parts + 1)]
    """Of each node, what may still flow on to each other."""
    for (p, q), c in zip(ends, capacity_a, strict=True):
        left[p][q], left[q][p] = left[p].get(q, 0.0) + c, left[q].get(p, 0.0) + c
    for n, f in supplies:
        left[gate][n] = left[gate].get(n, 0.0) + f.amps
        left[n].setdefault(gate, 0.0)
    finite = sum(c for c in capacity_a if isfinite(c)) + sum(f.amps for _, f in supplies if isfinite(f.amps))
    least, amps = ROUNDED * finite, 0.0
    while way := _shortest(left, gate, goal, least):
        more = min(left[p][q] for p, q in way)
        if not isfinite(more):
            return Flow(inf, tuple(dict.fromkeys(k for _, f in supplies if not isfinite(f.amps) for k in f.cut)))
        amps += more
        for p, q in way:
            left[p][q] -= more
            left[q][p] += more
    # What can still reach the goal where capacity is left over: its border is the cut nearest to it.
    near, queue = {goal}, [goal]
    while queue:
        q = queue.pop()
        for p in left[q]:
            if p not in near and left[p][q] > least:
                near.add(p)
                queue.append(p)
    cut = [k for k, (p, q) in zip(names, ends, strict=True) if (p in near) != (q in near)]
    cut += [x for n, f in supplies if gate not in near and n in near for x in f.cut]
    return Flow(amps, tuple(dict.fromkeys(cut)))


def _shortest(left: list[dict[int, float]], start: int, goal: int, least: float) -> list[tuple[int, int]]:
    """The way of the fewest edges on which anything may still flow, as pairs of nodes; empty where there is none."""
    came, queue = {start: start}, deque([start])
    while queue:
        p = queue.popleft()
        for q, amps in left[p].items():
            if q in came or amps <= least:
                continue
            came[q] = p
            if q == goal:
                way = [(p, q)]
                while p != start:
                    way.append((came[p], p))
                    p = came[p]
                return way
            queue.append(q)
    return []
