"""A resistive network cut down to its hubs: between them current runs along chains, which need not be solved.

Most nodes of a distribution network lie between two others, as the studs of a bar do. What flows past them follows from the two
hubs at the ends of their chain by dividing a resistance; only the hubs are unknowns (Kron, Tensor Analysis of Networks, 1939).
"""

from itertools import accumulate, pairwise

import numpy as np

from jaunty_copper.physics import graph
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.linear import factor

BLOCK = 256
"""Pairs looked at together: more take more memory and no less time."""


class Chains:
    """Where the hubs of a network are, and what runs between them.

    Parameters
    ----------
    nodes : int
        Number of nodes.
    a, b : ndarray of int, shape (branches,)
        Ends of each branch.
    on : ndarray of bool, shape (branches,)
        Which of them conduct.

    Attributes
    ----------
    branch, forward, chain : ndarray, shape (steps,)
        Branches along the chains, each chain from its first hub to its second; whether a branch runs that way; its chain.
    begins : ndarray of int, shape (chains + 1,)
        Where each chain begins among those.
    first, second : ndarray of int, shape (chains,)
        Hubs at its ends.
    step : ndarray of int, shape (nodes,)
        Of a node on a chain the branch before it, among the steps; -1 of a hub.
    hub : ndarray of int, shape (nodes,)
        Number of each hub; -1 of others.
    part : ndarray of int, shape (nodes,)
        Number of the connected part that a node belongs to.
    """

    def __init__(self, nodes: int, a: Ints, b: Ints, on: Flags) -> None:
        self.nodes, ends = nodes, list(zip(a.tolist(), b.tolist(), strict=True))
        at: list[list[int]] = [[] for _ in range(nodes)]
        for k in np.flatnonzero(on).tolist():
            for n in ends[k]:
                at[n].append(k)
        is_hub, done = [len(ks) != 2 for ks in at], bytearray(len(ends))
        branch, forward, chain, begins = list[int](), list[bool](), list[int](), [0]
        heads, tails, step = list[int](), list[int](), [-1] * nodes

        def follow(start: int) -> None:
            for k in at[start]:
                if done[k]:
                    continue
                here = start
                while True:
                    done[k] = 1
                    onwards = ends[k][0] == here
                    here = ends[k][1] if onwards else ends[k][0]
                    branch.append(k)
                    forward.append(onwards)
                    chain.append(len(heads))
                    if is_hub[here]:
                        break
                    step[here] = len(branch) - 1
                    k = at[here][1] if at[here][0] == k else at[here][0]
                heads.append(start)
                tails.append(here)
                begins.append(len(branch))

        for n in range(nodes):
            if is_hub[n]:
                follow(n)
        for n in range(nodes):
            # What is left goes round in rings without any hub: one node of each becomes one.
            if not is_hub[n] and step[n] < 0:
                is_hub[n] = True
                follow(n)
        hubs = np.array(is_hub, dtype=bool)
        self.hub, self.hubs = np.where(hubs, np.cumsum(hubs) - 1, -1), int(hubs.sum())
        self.branch, self.chain = np.array(branch, dtype=np.int64), np.array(chain, dtype=np.int64)
        self.forward, self.begins = np.array(forward, dtype=bool), np.array(begins, dtype=np.int64)
        self.first, self.second = (self.hub[np.array(x, dtype=np.int64)] for x in (heads, tails))
        self.step = np.array(step, dtype=np.int64)
        of_hub = np.array(graph.components(self.hubs, self.first.tolist(), self.second.tolist()), dtype=np.int64)
        # Any hub of its chain tells to which part a node belongs.
        near = self.hub.copy()
        inside = self.step >= 0
        near[inside] = self.first[self.chain[self.step[inside]]]
        self.part = of_hub[near]
        self.pins = np.unique(of_hub, return_index=True)[1]

    def along(self, values: Floats) -> tuple[Floats, Floats]:
        """Sums along each chain, shape (steps,): up to the end of each branch, and from there to the end of the chain.

        Parameters
        ----------
        values : ndarray, shape (steps,)
            Of the branches along the chains.
        """
        # Each chain by itself: an open switch in one would cost the digits of all that are summed up after it.
        up, down = list[float](), list[float]()
        each, begins = values.tolist(), self.begins.tolist()
        for low, high in pairwise(begins):
            up += accumulate(each[low:high])
            left = list(accumulate(reversed(each[low + 1 : high]), initial=0.0))
            down += reversed(left)
        return np.array(up), np.array(down)


class Core:
    """A resistive network by its hubs: what any two nodes see of any others.

    Parameters
    ----------
    chains : Chains
        Of the branches that conduct.
    ohm : ndarray, shape (branches,)
        Resistance of each, above 0.
    """

    def __init__(self, chains: Chains, ohm: Floats) -> None:
        self.chains, c = chains, chains
        self._up, self._down = c.along(ohm[c.branch])
        last = c.begins[1:] - 1
        self._whole = self._up[last]
        g = 1.0 / self._whole
        u, v = c.first, c.second
        # As stiff as the best conductor: what is left of the digits where a part hangs on its pin.
        stiff = np.full(c.pins.size, 1.0 / ohm[c.branch].min(initial=1.0))
        self._solve = factor(
            c.hubs,
            np.concatenate([u, u, v, v, c.pins]),
            np.concatenate([u, v, u, v, c.pins]),
            np.concatenate([g, -g, -g, g, stiff]),
        )
        self._z = np.empty((c.hubs, c.hubs))
        for begin in range(0, c.hubs, BLOCK):
            own = slice(begin, begin + BLOCK)
            self._z[:, own] = self._solve(np.eye(c.hubs, min(BLOCK, c.hubs - begin), -begin))
        # Of each node: its chain, the hubs at its ends, and what lies between; a hub is both ends itself.
        inside = c.step >= 0
        at = c.step[inside]
        self._chain = np.where(inside, 0, -1)
        self._chain[inside] = c.chain[at]
        self._u, self._v = c.hub.copy(), c.hub.copy()
        self._u[inside], self._v[inside] = u[c.chain[at]], v[c.chain[at]]
        self._before, self._after = np.zeros(c.nodes), np.zeros(c.nodes)
        self._before[inside], self._after[inside] = self._up[at], self._down[at]
        self._span = np.ones(c.nodes)
        self._span[inside] = self._whole[c.chain[at]]
        self._wu, self._wv = np.ones(c.nodes), np.zeros(c.nodes)
        self._wu[inside] = (self._after / self._span)[inside]
        self._wv[inside] = (self._before / self._span)[inside]

    def volts(self, emf_v: Floats) -> Floats:
        """Voltage of every node, shape (nodes,), with nothing connected.

        Parameters
        ----------
        emf_v : ndarray, shape (branches,)
            Drives from a to b of each branch, V.
        """
        c = self.chains
        drives, _ = c.along(np.where(c.forward, 1.0, -1.0) * emf_v[c.branch])
        whole = drives[c.begins[1:] - 1]
        g = whole / self._whole
        hubs = self._solve(
            np.asarray(np.bincount(c.second, g, c.hubs) - np.bincount(c.first, g, c.hubs), dtype=np.float64)
        )
        amps = (hubs[c.first] - hubs[c.second] + whole) / self._whole
        v = hubs[self._u]
        inside = c.step >= 0
        v[inside] += drives[c.step[inside]] - amps[self._chain[inside]] * self._before[inside]
        return np.asarray(v)

    def each(self, p: Ints, q: Ints, r: Ints, s: Ints) -> Floats:
        """Voltage from p to q for one ampere into r and out of s, shape (n,), V.

        Parameters
        ----------
        p, q, r, s : ndarray of int, shape (n,)
            Nodes, entry by entry.
        """
        found = np.zeros(p.size)
        for i, sign in ((p, 1.0), (q, -1.0)):
            for j, way in ((r, sign), (s, -sign)):
                for a, wa in ((self._u[i], self._wu[i]), (self._v[i], self._wv[i])):
                    found += way * wa * (self._z[a, self._u[j]] * self._wu[j] + self._z[a, self._v[j]] * self._wv[j])
                found += way * self._beside(i, j)
        return found

    def table(self, p: Ints, q: Ints, r: Ints, s: Ints) -> Floats:
        """As `each`, of every pair p and q with every pair r and s, shape (n, m).

        Parameters
        ----------
        p, q : ndarray of int, shape (n,)
            Nodes between which voltages are wanted.
        r, s : ndarray of int, shape (m,)
            Nodes between which the ampere flows.
        """
        found = np.zeros((p.size, r.size))
        for begin in range(0, p.size, BLOCK):
            own = slice(begin, begin + BLOCK)
            self._fill(found[own], p[own], q[own], r, s)
        return found

    def _fill(self, found: Floats, p: Ints, q: Ints, r: Ints, s: Ints) -> None:
        """Add to the rows of some pairs in a table of zeros what they see."""
        rows = self._rows(p, q)
        for j, sign in ((r, 1.0), (s, -1.0)):
            found += sign * (rows[:, self._u[j]] * self._wu[j] + rows[:, self._v[j]] * self._wv[j])
            for i, way in ((p, sign), (q, -sign)):
                row, column = np.nonzero(self._chain[i][:, None] == np.where(self._chain[j] < 0, -2, self._chain[j]))
                found[row, column] += way * self._beside(i[row], j[column])

    def wound(self, henry: Floats, p: Ints, q: Ints) -> Floats:
        """Inductance that pairs of nodes see, shape (n,), H: the sum of L i² for one ampere into p and out of q.

        Parameters
        ----------
        henry : ndarray, shape (branches,)
            Inductance of each.
        p, q : ndarray of int, shape (n,)
            Nodes.
        """
        c, found = self.chains, np.zeros(p.size)
        up, _ = c.along(henry[c.branch])
        whole = up[c.begins[1:] - 1]
        before = np.zeros(c.nodes)
        inside = c.step >= 0
        before[inside] = up[c.step[inside]]
        for begin in range(0, p.size, BLOCK):
            own = slice(begin, begin + BLOCK)
            i, j = p[own], q[own]
            hubs = self._rows(i, j)
            # Along every chain, as its hubs drive it; then what the ends of the pair add on their own.
            amps = (hubs[:, c.first] - hubs[:, c.second]) / self._whole
            found[own] = amps**2 @ whole
            row, one = np.arange(i.size), self._chain[i] == self._chain[j]
            for on, here, other in ((self._chain[i] >= 0, i, j), (~one & (self._chain[j] >= 0), j, i)):
                k = np.flatnonzero(on)
                n, m, way = here[k], other[k], 1.0 if here is i else -1.0
                chain, both = self._chain[n], one[k]
                flow, low = amps[row[k], chain], before[n]
                high, pushed = low.copy(), -way * self._wu[n]
                left, right = flow + pushed, flow + pushed + way
                middle = right.copy()
                # The other end is on the same chain.
                left[both] += self._wu[m[both]]
                right[both] -= self._wv[m[both]]
                swapped = both & (self._before[m] < self._before[n])
                middle = np.where(swapped, left - self._wu[m] - self._wv[m], np.where(both, right + 1.0, right))
                low = np.where(swapped, before[m], low)
                high = np.where(both, np.maximum(before[m], before[n]), high)
                found[own][k] += (
                    low * left**2 + (high - low) * middle**2 + (whole[chain] - high) * right**2 - whole[chain] * flow**2
                )
        return found

    def _rows(self, p: Ints, q: Ints) -> Floats:
        """Voltages of the hubs for one ampere into p and out of q, shape (n, hubs)."""
        one, other = (self._wu[n, None] * self._z[self._u[n]] + self._wv[n, None] * self._z[self._v[n]] for n in (p, q))
        return np.asarray(one - other)

    def _beside(self, i: Ints, j: Ints) -> Floats:
        """What nodes of one chain see of each other beyond their hubs, ohm; 0 where they lie on two."""
        low = np.minimum(self._before[i], self._before[j])
        high = np.minimum(self._after[i], self._after[j])
        one = (self._chain[i] == self._chain[j]) & (self._chain[i] >= 0)
        return np.where(one, low * high / self._span[i], 0.0)
