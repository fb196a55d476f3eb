"""The greatest currents that can flow for good: from what feeds a plan, through its conductors, to what it feeds."""

from collections import Counter
from collections.abc import Sequence
from functools import cached_property
from math import inf, isfinite
from typing import NamedTuple

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics import graph
from jaunty_copper.physics.blocks import Sides, Spans
from jaunty_copper.physics.flow import Flow, Flows, total
from jaunty_copper.plan.model import Battery, Converter, Source
from jaunty_copper.protection.copper import Copper, Ring
from jaunty_copper.protection.islands import Islands, Senders, Supply


class Feed(NamedTuple):
    """Something that drives current from one terminal to another.

    Attributes
    ----------
    plus, minus : int
        Its nodes.
    amps : float
        The most that it gives for long.
    """

    plus: int
    minus: int
    amps: float
    id: str


class CurrentLimit(NamedTuple):
    """A greatest current, and the ids of the devices and feeds that limit it."""

    amps: float
    ids: tuple[str, ...]


FREE, NONE = CurrentLimit(inf, ()), CurrentLimit(0.0, ())


def batteries_of(w: Wiring) -> tuple[Feed, ...]:
    """Batteries: they give without limit."""
    found = (x for x in w.plan.items if isinstance(x, Battery))
    return tuple(Feed(w.node[x.ref("plus")], w.node[x.ref("minus")], inf, x.id) for x in found)


def limited_of(w: Wiring) -> tuple[Feed, ...]:
    """Chargers, alternators, solar controllers and converters: they give what they are made for."""
    found = [e for e in w.plan.equipment if isinstance(e, Source | Converter)]
    ports = [e.output for e in found]
    return tuple(
        Feed(w.node[plus], w.node[minus], e.current_a, e.id) for e, (plus, minus) in zip(found, ports, strict=True)
    )


class Currents:
    """Greatest lasting currents with some feeds at work.

    Seen from one rail, feeds and equipment fall into groups by where their other terminals are: what leaves a rail
    through equipment of one group comes from feeds of that group, and from no other. What flows in one rail
    flows back in the other, from and to the same feeds and equipment, so that devices there limit it too.

    Attributes
    ----------
    own : Flows
        What reaches each node from feeds on its own rail, whatever stands in their other pole.

    Parameters
    ----------
    copper : Copper
        What conducts.
    feeds : sequence of Feed
        Which are at work.
    live : frozenset of int
        Rails on which a load may be put anywhere; on others only what is there brings current.
    faulted : frozenset of int
        Rails from which what takes current may have it go back past everything in the other pole, by a chassis that
        holds that or by a fault there.
    """

    def __init__(
        self, copper: Copper, feeds: Sequence[Feed], live: frozenset[int], faulted: frozenset[int] = frozenset()
    ) -> None:
        self._copper, self._rail, self._live, self._faulted = copper, copper.wiring.rail, live, faulted
        self._feeds = [f for f in feeds if self._rail[f.plus] != self._rail[f.minus]]
        self._ends = [(f.plus, f) for f in self._feeds] + [(f.minus, f) for f in self._feeds]
        self._batteries = batteries_of(copper.wiring)
        rail = self._rail
        self._between = frozenset({rail[f.plus] for f in self._batteries} & {rail[f.minus] for f in self._batteries})
        self.own = Flows(copper.blocks, copper.capacity_a, [(n, f.amps) for n, f in self._ends])
        self._sides = Sides(copper.blocks, [n for n, _ in self._ends])
        self._feeding: dict[tuple[Spans, frozenset[int], int], tuple[Senders, frozenset[int]]] = {}
        self._given: dict[int, list[Supply]] = {}
        self._to: dict[tuple[frozenset[int], Spans, frozenset[int]], tuple[int, ...]] = {}
        self._through: dict[int, CurrentLimit] = {}
        self._round: dict[tuple[int, int], tuple[list[Flow], list[CurrentLimit]]] = {}

    def _names(self, flow: Flow, group: "_Group") -> tuple[str, ...]:
        """Devices and feeds of a cut."""
        c = self._copper
        ids = (c.name(c.branches[k]) if k >= 0 else self._ends[group.which[~k]][1].id for k in flow.cut)
        return tuple(dict.fromkeys(ids))

    @cached_property
    def _far(self) -> dict[int, dict[int, int]]:
        """For each rail, the group of every other: what feeds join once the rail itself is taken out."""
        pairs = {(self._rail[p], self._rail[m]) for p, m in self._ports}
        pairs |= {(self._rail[f.plus], self._rail[f.minus]) for _, f in self._ends}
        rails = max(self._rail, default=-1) + 1
        found = {}
        for rail in {r for pair in pairs for r in pair}:
            rest = [(p, m) for p, m in pairs if rail not in (p, m)]
            label = graph.components(rails, (p for p, _ in rest), (m for _, m in rest))
            near = sorted({label[r] for pair in pairs if rail in pair for r in pair if r != rail})
            number = {part: k for k, part in enumerate(near)}
            found[rail] = {r: number[label[r]] for r in range(rails) if r != rail and label[r] in number}
        return found

    @cached_property
    def _ports(self) -> tuple[tuple[int, int], ...]:
        """What takes current: loads, the inputs of converters, and batteries while they are charged."""
        w = self._copper.wiring
        loads = (e.port for e in w.plan.equipment if not isinstance(e, Source))
        ports = {(w.node[plus], w.node[minus]) for plus, minus in loads} | {(f.plus, f.minus) for f in self._batteries}
        return tuple(sorted((p, m) for p, m in ports if self._rail[p] != self._rail[m]))

    def _group(self, here: int, there: int) -> int:
        return self._far.get(self._rail[here], {}).get(self._rail[there], 0)

    @cached_property
    def _groups(self) -> tuple["_Group", ...]:
        ends: dict[int, list[int]] = {}
        back: dict[int, list[tuple[int, int]]] = {}
        for k, (n, f) in enumerate(self._ends):
            ends.setdefault(self._group(n, f.minus if n == f.plus else f.plus), []).append(k)
        for plus, minus in self._ports:
            for here, there in ((plus, minus), (minus, plus)):
                back.setdefault(self._group(here, there), []).append((here, there))
        return tuple(self._made(ends.get(k, []), back.get(k, [])) for k in sorted({*ends, *back}))

    def _made(self, which: list[int], ports: list[tuple[int, int]]) -> "_Group":
        blocks = self._copper.blocks
        given = [(self._ends[k][0], self._ends[k][1].amps) for k in which]
        whole = which == list(range(len(self._ends)))
        flows = self.own if whole else Flows(blocks, self._copper.capacity_a, given)
        numbers: dict[tuple[int, int], list[int]] = {}
        for k, port in enumerate(ports):
            numbers.setdefault(port, []).append(k)
        poles = ((numbers.get((f.plus, f.minus), ()), numbers.get((f.minus, f.plus), ())) for f in self._feeds)
        return _Group(
            frozenset(which), which, flows, Sides(blocks, [n for n, _ in ports]),
            [self._copper.island[m] for _, m in ports], [(*one, *other) for one, other in poles],
        )  # fmt: skip

    def reaches(self, k: int) -> bool:
        """Whether something without limit reaches a branch on its own rail.

        Parameters
        ----------
        k : int
            Number of the branch.
        """
        edge = self._copper.edge[k]
        return any(not isfinite(self.own.past(edge, n).amps) for n in self._copper.ends[k])

    def through(self, k: int) -> CurrentLimit:
        """The most that flows through a branch for good.

        Parameters
        ----------
        k : int
            Number of the branch.
        """
        if k not in self._through:
            through = self._alone if self._copper.ring_of.get(k) is None else self._around
            found = [through(k, group) for group in self._groups]
            ids = tuple(dict.fromkeys(id_ for f in found for id_ in f.ids))
            self._through[k] = CurrentLimit(sum(f.amps for f in found), ids)
        return self._through[k]

    def _alone(self, k: int, group: "_Group") -> CurrentLimit:
        """Where all that passes from the one side to the other passes through one branch."""
        edge, (a, b) = self._copper.edge[k], self._copper.ends[k]
        best, at_a, at_b = NONE, group.flows.past(edge, a), group.flows.past(edge, b)
        ways = ((at_a, a, b), (at_b, b, a))
        # What brings more first: where more goes on than the other brings, nobody asks for that.
        for come, here, there in ways if at_a.amps >= at_b.amps else ways[::-1]:
            if come.amps <= best.amps:
                break
            go = self._back(k, group, self._sides.past(edge, here), group.back.past(edge, there), come.amps)
            least = go if go.amps < come.amps else CurrentLimit(come.amps, self._names(come, group))
            best = max(best, least, key=lambda limit: limit.amps)
        return best

    def _around(self, k: int, group: "_Group") -> CurrentLimit:
        """Where current parts: by the resistances, what comes in at any nodes of a ring and goes out at any others."""
        ring = self._copper.ring_of[k]
        key = id(ring), id(group)
        if key not in self._round:
            self._round[key] = (
                [self._comes(n, ring, group) for n in ring.nodes],
                [self._goes(n, k, ring, group) for n in ring.nodes],
            )
        comes, goes = self._round[key]
        each = ring.into[ring.branches.index(k)].tolist()
        best = NONE
        for sign in (1.0, -1.0):
            gain = [sign * x for x in each]
            first = sorted((n for n, f in enumerate(comes) if f.amps > 0.0), key=lambda n: -gain[n])
            last = sorted((n for n, go in enumerate(goes) if go.amps > 0.0), key=lambda n: gain[n])
            best = max(best, self._paired(gain, first, last, comes, goes, group), key=lambda limit: limit.amps)
        return best

    def _paired(
        self,
        gain: list[float],
        first: list[int],
        last: list[int],
        comes: list[Flow],
        goes: list[CurrentLimit],
        group: "_Group",
    ) -> CurrentLimit:
        """What comes where it adds most, with what goes where it takes least, for as long as that adds anything."""
        amps, ids = 0.0, dict[str, None]()
        left = {n: goes[n].amps for n in last}
        for n in first:
            comes_a = comes[n].amps
            for m in last:
                more = gain[n] - gain[m]
                if comes_a <= 0.0 or more <= 1e-9:
                    break
                step = min(comes_a, left[m])
                if not isfinite(step):
                    return CurrentLimit(inf, self._names(comes[n], group))
                if step > 0.0:
                    amps += step * more
                    ids |= dict.fromkeys(goes[m].ids if left[m] < comes_a else self._names(comes[n], group))
                comes_a -= step
                left[m] -= step
        return CurrentLimit(amps, tuple(ids))

    def _outside(self, node: int, ring: Ring) -> list[int]:
        """Branches at a node of a ring that are not in it, by their number among copper."""
        c, own = self._copper, set(ring.branches)
        return [c.edge[k] for k in (*c.near.get(node, ()), *c.devices_at.get(node, ())) if k not in own]

    def _comes(self, node: int, ring: Ring, group: "_Group") -> Flow:
        around = [(edge, group.flows.by(edge, node)) for edge in self._outside(node, ring)]
        most = self._copper.capacity_a
        # Where ways from the ring lead back to it by devices, each lets in what its own device lets.
        limited = (f if f.amps <= most[edge] else Flow(most[edge], (edge,)) for edge, f in around)
        return total([group.flows.at(node), *limited])

    def _goes(self, node: int, k: int, ring: Ring, group: "_Group") -> CurrentLimit:
        around = [group.back.at(node), *(group.back.by(edge, node) for edge in self._outside(node, ring))]
        return self._back(k, group, self._sides.into(node), tuple(span for spans in around for span in spans))

    def _back(self, k: int, group: "_Group", feeding: Spans, taking: Spans, enough_a: float = inf) -> CurrentLimit:
        """The most that goes on from a branch: by the other terminals of what feeds it and of what takes its current.

        Where so much goes on that it limits nothing, it is not asked how much more.
        """
        rail = self._rail[self._copper.ends[k][0]]
        if rail in self._between:
            # Within a string a unit drives on what the next one gives.
            return FREE
        ring = k in self._copper.ring_of
        if taking and rail in self._faulted:
            return FREE
        if not taking or (ring and rail in self._live):
            # A load may be put anywhere on a live rail; the returns have no source of their own.
            return FREE if rail in self._live else NONE
        senders, own = self._fed_by(feeding, group, rail)
        to = self._goals(taking, group, frozenset() if ring else own)
        if not to:
            return FREE if rail in self._live else NONE
        if senders.sends(to, enough_a):
            return FREE
        found, ids = senders.to(to), self._copper.crossings.ids
        return CurrentLimit(found.amps, tuple(ids[k] if k >= 0 else self._feeds[~k].id for k in found.cut))

    def _goals(self, taking: Spans, group: "_Group", without: frozenset[int]) -> tuple[int, ...]:
        """Islands of the other terminals of ports, but for some, that of most of them first."""
        key = group.ends, taking, without
        if key not in self._to:
            count = Counter(map(group.islands.__getitem__, group.back.members(taking) - without))
            self._to[key] = tuple(sorted(sorted(count), key=count.__getitem__, reverse=True))
        return self._to[key]

    def _fed_by(self, feeding: Spans, group: "_Group", rail: int) -> tuple[Senders, frozenset[int]]:
        """What some feeds give at their other terminals, and which of the group's ports are their own."""
        key = feeding, group.ends, rail
        if key not in self._feeding:
            ends = self._sides.members(feeding) & group.ends
            supplies, numbers = self._supplies(rail), sorted({n % len(self._feeds) for n in ends})
            own = frozenset(port for n in numbers for port in group.own[n])
            self._feeding[key] = Senders(self._islands, [supplies[n] for n in numbers]), own
        return self._feeding[key]

    def _supplies(self, rail: int) -> list[Supply]:
        """What each feed gives, at the terminal that is not on a rail."""
        if rail not in self._given:
            island, rails = self._copper.island, self._rail
            others = (f.minus if rails[f.plus] == rail else f.plus for f in self._feeds)
            given = (Flow(f.amps, (~n,)) for n, f in enumerate(self._feeds))
            self._given[rail] = [(island[n], flow) for n, flow in zip(others, given, strict=True)]
        return self._given[rail]

    @cached_property
    def _islands(self) -> Islands:
        """Islands, crossings between them, and units of strings: what one unit drives, all do."""
        island, rail, crossings = self._copper.island, self._rail, self._copper.crossings
        units = (f for f in self._batteries if {rail[f.plus], rail[f.minus]} & self._between)
        strings = [(island[f.plus], island[f.minus]) for f in units]
        most = [*crossings.ratings_a, *[inf] * len(strings)]
        return Islands(max(island) + 1, [*crossings.ends, *strings], most)


class _Group(NamedTuple):
    """Feeds and equipment of one group, on every rail.

    Attributes
    ----------
    ends, which : frozenset and list of int
        Which ends of feeds, and in what order the flows know them.
    flows : Flows
        What feeds bring.
    back : Sides
        Where equipment stands.
    islands : list of int
        At the other terminals of equipment and of feeds that others can charge.
    own : list of tuple of int
        Which of those are terminals of each feed.
    """

    ends: frozenset[int]
    which: list[int]
    flows: Flows
    back: Sides
    islands: list[int]
    own: list[tuple[int, ...]]
