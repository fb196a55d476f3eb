"""The blocks of a graph, the tree that they form, and what lies beyond each part of it."""

from bisect import bisect_left
from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

from jaunty_copper.physics import graph


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
        below: list[list[tuple[int, int]]] = [[] for _ in self.at]
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
                        below[here].append((span[of][0], of))
        for blocks in below:
            blocks.sort()
        return Tree(first, last, up, root, span, below)


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
    below : list of list of (int, int)
        Of each node, the blocks that lead on from it in order, each after the first of its places.
    """

    first: list[int]
    last: list[int]
    up: list[int]
    root: list[int]
    span: list[tuple[int, int]]
    below: list[list[tuple[int, int]]]


Spans = tuple[tuple[int, int], ...]
"""Some of the places of `Sides`: from which to which in the order of the tree, none of them empty."""


class Sides:
    """Which of some places lie on which side of an edge of a network.

    Parameters
    ----------
    blocks : Blocks
        The network.
    nodes : sequence of int
        Node of each place.

    Notes
    -----
    As spans in the order of the tree: sets for every edge would take the square of a plan.
    """

    def __init__(self, blocks: Blocks, nodes: Sequence[int]) -> None:
        self._blocks, first = blocks, blocks.tree.first
        self._order = sorted(range(len(nodes)), key=lambda k: first[nodes[k]])
        self._place = [first[nodes[k]] for k in self._order]

    def members(self, spans: Spans) -> frozenset[int]:
        """Numbers of the places in some spans.

        Parameters
        ----------
        spans : tuple of (int, int)
            As the others of this class give them.
        """
        return frozenset(k for a, b in spans for k in self._order[a:b])

    def into(self, node: int) -> Spans:
        """All that can be reached from a node.

        Parameters
        ----------
        node : int
            Number of a node.
        """
        root = self._blocks.tree.root[node]
        return self._within(self._blocks.tree.first[root], self._blocks.tree.last[root])

    def at(self, node: int) -> Spans:
        """What is at a node itself.

        Parameters
        ----------
        node : int
            Number of a node.
        """
        here = self._blocks.tree.first[node]
        return self._within(here, here + 1)

    def past(self, edge: int, end: int) -> Spans:
        """What can be reached from one end of an edge if that edge is taken away.

        Parameters
        ----------
        edge, end : int
            Number of an edge, and of the node at one of its ends.
        """
        block = self._blocks.of[edge]
        if len(self._blocks.edges[block]) > 1:
            return self.into(end)
        tree = self._blocks.tree
        if tree.up[end] == block:
            return self._within(tree.first[end], tree.last[end])
        return self._without(end, *tree.span[block])

    def by(self, edge: int, node: int) -> Spans:
        """What can be reached from a node by the block that an edge is in.

        Parameters
        ----------
        edge, node : int
            Number of an edge, and of a node of its block.
        """
        block, tree = self._blocks.of[edge], self._blocks.tree
        if tree.up[node] == block:
            return self._without(node, tree.first[node], tree.last[node])
        return self._within(*tree.span[block])

    def _within(self, first: int, last: int) -> Spans:
        a, b = bisect_left(self._place, first), bisect_left(self._place, last)
        return ((a, b),) if a < b else ()

    def _without(self, node: int, first: int, last: int) -> Spans:
        root = self._blocks.tree.root[node]
        before = self._within(self._blocks.tree.first[root], first)
        after = self._within(last, self._blocks.tree.last[root])
        if before and after and before[0][1] == after[0][0]:
            return ((before[0][0], after[0][1]),)
        return before + after
