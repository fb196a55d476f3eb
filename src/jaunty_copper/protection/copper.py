"""The copper of a plan as currents for good see it: what is joined, where devices limit, where copper goes round."""

from collections import Counter
from functools import cached_property
from math import inf
from typing import NamedTuple

import numpy as np

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics import graph
from jaunty_copper.physics.blocks import Blocks
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.plan.model import Breaker, Contactor, Disconnect, Fuse, PlugConnector

MOST_SWITCHES = 12
"""In one ring, that are opened one by one; of more than that all at once stand for the rest."""


class Ring(NamedTuple):
    """Conductors without a device that lie beside each other or go round.

    Attributes
    ----------
    nodes : tuple of int
        Where they meet.
    branches : tuple of int
        Which they are.
    into : ndarray, shape (branches, nodes)
        Current in each, A, for one ampere into each node; for what goes in at one node and out at another the
        difference of the two.
    """

    nodes: tuple[int, ...]
    branches: tuple[int, ...]
    into: Floats


class Crossings(NamedTuple):
    """Devices between islands: their two islands, ratings in A, and ids."""

    ends: tuple[tuple[int, int], ...]
    ratings_a: tuple[float, ...]
    ids: tuple[str, ...]


class Copper:
    """Everything of a wiring that conducts but batteries: they are no way from one of their poles to the other.

    Parameters
    ----------
    wiring : Wiring
        Of a plan.
    opened : frozenset of int
        Branches that are left out: switches that are open.

    Attributes
    ----------
    ends : list of (int, int)
        Of every branch of the wiring.
    plain : tuple of int
        Branches that are no device.
    branches : list of int
        All of copper; `edge` gives their number among them.
    capacity_a : list of float
        What each passes for good, A: a device its rating.
    """

    def __init__(self, wiring: Wiring, opened: frozenset[int] = frozenset()) -> None:
        self.wiring = wiring
        c, by_id = wiring.circuit, wiring.plan.by_id
        self.ends: list[tuple[int, int]] = list(zip(c.a.tolist(), c.b.tolist(), strict=True))
        self.branches = [k for k, b in enumerate(wiring.branches) if b.kind != "battery" and k not in opened]
        self.edge = {k: n for n, k in enumerate(self.branches)}
        device = {
            k: x.rating_a
            for k in self.branches
            if wiring.branches[k].kind == "body" and isinstance(x := by_id[wiring.branches[k].owner], Fuse | Breaker)
        }
        self.plain = tuple(k for k in self.branches if k not in device)
        self.capacity_a = [device.get(k, inf) for k in self.branches]
        self.near: dict[int, list[int]] = {}
        self.devices_at: dict[int, list[int]] = {}
        for k in self.branches:
            for n in self.ends[k]:
                (self.devices_at if k in device else self.near).setdefault(n, []).append(k)

    def name(self, k: int) -> str:
        """Id of what a branch is of.

        Parameters
        ----------
        k : int
            Number of the branch.
        """
        return self.wiring.branches[k].owner

    def ohms(self, branches: list[int]) -> Floats:
        """Resistance of some branches at 20 C, ohm.

        Parameters
        ----------
        branches : list of int
            Their numbers.

        Returns
        -------
        ndarray, shape (branches,)
        """
        c = self.wiring.circuit
        return np.asarray(np.maximum((c.fixed_ohm + resistance_at(c.copper_ohm, 20.0))[branches], 1e-9))

    @cached_property
    def blocks(self) -> Blocks:
        """All of copper as a network of flows."""
        ends = [self.ends[k] for k in self.branches]
        return Blocks(self.wiring.circuit.nodes, [a for a, _ in ends], [b for _, b in ends])

    @cached_property
    def island(self) -> list[int]:
        """What is joined without a device, by node."""
        ends = [self.ends[k] for k in self.plain]
        return graph.components(self.wiring.circuit.nodes, (a for a, _ in ends), (b for _, b in ends))

    @cached_property
    def crossings(self) -> Crossings:
        """Devices between islands."""
        w, island = self.wiring, self.island
        found = []
        for x in w.plan.items:
            if isinstance(x, Fuse | Breaker):
                a, b = (island[n] for n in self.ends[w.branch[x.id]])
                if a != b:
                    found.append(((a, b), x.rating_a, x.id))
        ends, ratings, ids = zip(*found, strict=True) if found else ((), (), ())
        return Crossings(ends, ratings, ids)

    def switches_beside(self, k: int) -> tuple[int, ...]:
        """What can be opened, or unplugged, of the ring that a branch is in, but for the branch itself.

        Parameters
        ----------
        k : int
            Number of the branch.
        """
        ring = self.ring_of.get(k)
        return () if ring is None else tuple(n for n in self._switches_in(ring) if n != k)

    def _switches_in(self, ring: Ring) -> tuple[int, ...]:
        w, opens = self.wiring, Disconnect | Contactor | PlugConnector
        bodies = (n for n in ring.branches if w.branches[n].kind == "body")
        return tuple(n for n in bodies if isinstance(w.plan.by_id[self.name(n)], opens))

    @cached_property
    def ways_off(self) -> tuple[frozenset[str], ...]:
        """Ids of switches and plugs in rings, as they may be open: one, one way, all but one, all ways but one, all of a ring."""
        found = dict[frozenset[int], None]()
        for ring in {id(ring): ring for ring in self.ring_of.values()}.values():
            switches = frozenset(self._switches_in(ring))
            for n in sorted(switches)[:MOST_SWITCHES]:
                way = self._way_of(n, ring) & switches
                found |= dict.fromkeys((frozenset({n}), way, switches - {n}, switches - way))
            found[switches] = None
        return tuple(frozenset(map(self.name, one)) for one in found if one)

    def _way_of(self, k: int, ring: Ring) -> frozenset[int]:
        """What is in series with a branch of a ring, itself included: without it nothing goes round there."""
        rest = [n for n in ring.branches if n != k]
        block = graph.blocks(self.wiring.circuit.nodes, [self.ends[n] for n in rest])
        many = Counter(block)
        return frozenset([k, *(n for n, of in zip(rest, block, strict=True) if many[of] == 1)])

    @cached_property
    def ring_of(self) -> dict[int, Ring]:
        """The ring of each branch that is in one."""
        ends = [self.ends[k] for k in self.plain]
        rings: dict[int, list[int]] = {}
        for k, block in zip(self.plain, graph.blocks(self.wiring.circuit.nodes, ends), strict=True):
            rings.setdefault(block, []).append(k)
        return {k: made for ring in rings.values() if len(ring) > 1 for made in [self._ring(ring)] for k in ring}

    def _ring(self, ring: list[int]) -> Ring:
        nodes = sorted({n for k in ring for n in self.ends[k]})
        at = {n: j for j, n in enumerate(nodes)}
        a, b = (np.array([at[self.ends[k][side]] for k in ring]) for side in (0, 1))
        g = 1.0 / self.ohms(ring)
        laplace = np.zeros((len(nodes), len(nodes)))
        np.add.at(laplace, (a, a), g)
        np.add.at(laplace, (b, b), g)
        np.add.at(laplace, (a, b), -g)
        np.add.at(laplace, (b, a), -g)
        z = np.linalg.pinv(laplace, hermitian=True)
        return Ring(tuple(nodes), tuple(ring), g[:, None] * (z[a] - z[b]))
