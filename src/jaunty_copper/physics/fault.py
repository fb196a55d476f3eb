"""Prospective short-circuit currents: every place of a network from one factorisation.

Most of a distribution network hangs on it as trees. What lies on a tree carries nothing before a
fault, and the whole fault current or nothing during it; only what is left, where current can go
round, needs to be solved, and of that only the hubs.
"""

import numpy as np

from jaunty_copper.physics import graph
from jaunty_copper.physics.branch_currents import BranchCurrents, Rounds
from jaunty_copper.physics.chains import Chains, Core
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.fault_currents import LEAST_OHM, FaultCurrents, Solved
from jaunty_copper.physics.ranges import marked


class FaultNetwork:
    """Where faults lie in a network, and what of it must be solved for them.

    Parameters
    ----------
    nodes : int
        Number of nodes.
    a, b : ndarray of int, shape (branches,)
        Ends of each branch, sources among them.
    first, second : ndarray of int, shape (pairs,)
        Nodes that each fault joins; its current counts from first to second.
    asked : ndarray of int
        Branches whose current is wanted during every fault.
    """

    def __init__(self, nodes: int, a: Ints, b: Ints, first: Ints, second: Ints, asked: Ints) -> None:
        self.nodes, self.a, self.b = nodes, a, b
        self.first, self.second, self.asked = first, second, asked
        self._known: dict[bytes, Chains] = {}
        self._prune()
        self._ways()

    def _prune(self) -> None:
        """Take leaves off until none is left: `up` is the branch to a pruned node's parent."""
        self._order, self._up, self._parent = graph.leaves(self.nodes, self.a.tolist(), self.b.tolist())
        pruned = np.zeros(self.a.size, dtype=bool)
        pruned[[self._up[n] for n in self._order]] = True
        self._core = np.flatnonzero(~pruned)

    def _ways(self) -> None:
        """The branches of the trees that each fault current runs through, with their direction."""
        pair: list[int] = []
        branch: list[int] = []
        sign: list[float] = []
        roots = np.empty((2, self.first.size), dtype=np.int64)
        a = self.a.tolist()
        for k, ends in enumerate(zip(self.first.tolist(), self.second.tolist(), strict=True)):
            ways = []
            for end in ends:
                way = []
                while self._up[end] >= 0:
                    way.append(end)
                    end = self._parent[end]
                ways.append((way, end))
            (down, r0), (back, r1) = ways
            while down and back and down[-1] == back[-1]:
                # Below their meeting place only: above it the two ways cancel.
                down.pop()
                back.pop()
            roots[:, k] = r0, r1
            for way, s in ((down, 1.0), (back, -1.0)):
                for n in way:
                    # Outwards to the first node, inwards from the second.
                    j = self._up[n]
                    pair.append(k)
                    branch.append(j)
                    sign.append(-s if a[j] == n else s)
        self._pair, self._branch = np.array(pair, dtype=np.int64), np.array(branch, dtype=np.int64)
        self._sign = np.array(sign)
        self._roots = roots
        used = np.flatnonzero(marked(self.nodes, self.a[self._core], self.b[self._core], roots))
        self._where = np.full(self.nodes, -1, dtype=np.int64)
        self._where[used] = np.arange(used.size)
        self._used = used

    def solve(self, ohm: Floats, emf_v: Floats, fault_ohm: float = 0.0, henry: Floats | None = None) -> FaultCurrents:
        """Currents of every fault in one case.

        Parameters
        ----------
        ohm, emf_v : ndarray, shape (branches,)
            Resistance, above 0 or inf where a branch does not conduct, and EMF, driving from a to b.
        fault_ohm : float
            Resistance of the fault itself.
        henry : ndarray, shape (branches,), optional
            Inductance of each branch.

        Notes
        -----
        Thevenin: seen from a pair the network has its open voltage U and resistance R; the fault
        draws I = U / (R + R_f), and every node falls by I times the column of that pair. The
        inductance seen is the sum of L (i / I)² over the branches: the derivative of the
        impedance by s at s = 0 (Tellegen's theorem), hence the first moment of the rise.
        """
        core, where = self._core, self._where
        g = 1.0 / ohm
        a, b = where[self.a[core]], where[self.b[core]]
        chains = self._chains(a, b, g[core] > 0.0)
        solved = Core(chains, ohm[core])
        v = np.zeros(self.nodes)
        v[self._used] = solved.volts(emf_v[core])
        for node in reversed(self._order):
            k, parent = self._up[node], self._parent[node]
            v[node] = v[parent] + (emf_v[k] if self.b[k] == node else -emf_v[k])

        r0, r1 = where[self._roots[0]], where[self._roots[1]]
        (p0, p1), kind = np.unique(np.stack([r0, r1]), axis=1, return_inverse=True)
        kind = kind.ravel()
        inside = np.isin(self.asked, core)
        rounds = self.asked[inside]
        moved = solved.table(where[self.a[rounds]], where[self.b[rounds]], p0, p1)
        ohm_kind = solved.each(p0, p1, p0, p1)
        pairs = self.first.size
        seen: Floats = np.asarray(ohm_kind[kind] + np.bincount(self._pair, ohm[self._branch], pairs), dtype=np.float64)
        joined = (chains.part[r0] == chains.part[r1]) & (self.first != self.second) & np.isfinite(seen)
        open_v = np.where(joined, v[self.first] - v[self.second], 0.0)
        current = np.where(joined, open_v / np.where(joined, np.maximum(seen, LEAST_OHM) + fault_ohm, 1.0), 0.0)
        seen_henry = np.zeros(pairs)
        if henry is not None:
            seen_henry = solved.wound(henry[core], p0, p1)[kind] + np.bincount(self._pair, henry[self._branch], pairs)

        before = g[rounds] * (v[self.a[rounds]] - v[self.b[rounds]] + emf_v[rounds])
        through = self._through(Rounds(np.flatnonzero(inside), before, g[rounds], moved, kind, current))
        seen = np.where(joined, seen, np.inf)
        return FaultCurrents(
            current,
            open_v,
            seen,
            through,
            np.where(joined, seen_henry, 0.0),
            Solved(
                ohm, v[self.a] - v[self.b] + emf_v, frozenset(core.tolist()), where[self.a], where[self.b], self.asked,
                inside, np.cumsum(inside) - 1, p0, p1, kind, moved, seen, open_v, fault_ohm,
                (self._pair, self._branch, self._sign), solved,
            ),
        )  # fmt: skip

    def _chains(self, a: Ints, b: Ints, on: Flags) -> Chains:
        """The hubs of the core and the chains between them, where some branches do not conduct: most cases have the same."""
        key = on.tobytes()
        if key not in self._known:
            self._known[key] = Chains(self._used.size, a, b, on)
        return self._known[key]

    def _through(self, rounds: Rounds) -> BranchCurrents:
        """Currents of the branches asked for: where they go round, as solved; in the trees, the fault's own."""
        row, current = np.full(self.a.size, -1, dtype=np.int64), rounds.current_a
        row[self.asked] = np.arange(self.asked.size)
        on = np.flatnonzero(row[self._branch] >= 0)
        on = on[np.argsort(row[self._branch[on]], kind="stable")]
        return BranchCurrents(
            (self.asked.size, current.size), rounds, row[self._branch[on]], self._pair[on],
            self._sign[on] * current[self._pair[on]],
        )  # fmt: skip


def along(shares: Floats, ohm: float, first: float, second: float, span: float) -> Floats:
    """Resistance that faults along one conductor see.

    Parameters
    ----------
    shares : ndarray
        Where: 0 at its first end, 1 at its second.
    ohm : float
        Of the conductor, evenly spread.
    first, second : float
        Resistance that faults at its ends see, against one and the same other node.
    span : float
        Resistance between its ends, the conductor in place.

    Notes
    -----
    To inject at a point within a branch is to inject its shares at the ends, and to pass the
    branch's own halves in parallel; resistance between nodes is a quadratic form of what is
    injected.
    """
    s = np.asarray(shares, dtype=float)
    return np.asarray((1.0 - s) * first + s * second + s * (1.0 - s) * (ohm - span))
