"""What limits the current in each conductor for long, and how far a stretch goes that nothing limits.

The most that can flow for good while no device opens is a greatest flow: batteries give without limit, chargers and
converters what they are made for, fuses and breakers pass their rating, everything else passes all. What flows in a
conductor must come to its one end from sources, and go on from its other end through equipment back to them; the
devices of the minimum cut are those that guard it.
"""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache
from math import inf, isfinite

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics import graph
from jaunty_copper.plan.model import Battery, Breaker, Chassis, Converter, Equipment, Fuse, Source, split_ref
from jaunty_copper.protection.copper import MOST_SWITCHES, Copper
from jaunty_copper.protection.currents import Currents, batteries_of, limited_of

UNLIMITED = inf


@dataclass(frozen=True)
class Bound:
    """What limits the current in one conductor for long.

    Attributes
    ----------
    amps : float
        The most that what feeds it lets through; inf where a battery feeds it directly.
    feeds : tuple of str
        Ids of the devices, converters and chargers that let it through; of the batteries where nothing does.
    battery_a : float
        What of it batteries can give by themselves.
    guards : tuple of str
        Ids of the devices that limit those.
    """

    amps: float
    feeds: tuple[str, ...]
    battery_a: float
    guards: tuple[str, ...]

    @property
    def guard(self) -> str | None:
        """The one device that limits what batteries give, or where none reaches it, what anything gives."""
        names = self.guards if self.battery_a > 0.0 else self.feeds
        return names[0] if len(names) == 1 and isfinite(self.amps) else None


@dataclass(frozen=True)
class Stretch:
    """A way between two hubs that what feeds it does not protect, up to where protection begins.

    Attributes
    ----------
    start : str
        Terminal of the battery, bar or stud where it begins.
    length_m : float
        From there to the farthest device that it leads to; inf where it leads to equipment.
    ends : tuple of str
        Ids of the devices, or of the equipment, that it leads to.
    runs : tuple of str
        Ids of the runs on the way, from its start.
    """

    start: str
    length_m: float
    ends: tuple[str, ...]
    runs: tuple[str, ...]


@dataclass(frozen=True)
class Form:
    """All that the greatest lasting currents of a wiring depend on: plans that differ in lengths and sizes share it.

    Attributes
    ----------
    ends : tuple of (int, int)
        Nodes of every branch.
    rails : tuple of int
        Of every node.
    nodes : tuple of (str, int)
        Of every terminal.
    owners : tuple of (str, str)
        Kind of every branch, and what it is of.
    limits : tuple of (str, str, float)
        Id and kind of every thing of the plan, and its rating or greatest current in A.
    live, faulted : frozenset of int
        Rails.
    ohms : tuple of float
        Of what goes round in rings, where currents part by resistance.
    """

    ends: tuple[tuple[int, int], ...]
    rails: tuple[int, ...]
    nodes: tuple[tuple[str, int], ...]
    owners: tuple[tuple[str, str], ...]
    limits: tuple[tuple[str, str, float], ...]
    live: frozenset[int]
    faulted: frozenset[int]
    ohms: tuple[float, ...]


def _most_a(x: object) -> float:
    """What limits current at something: its rating, or what it can give; 0 where nothing does."""
    return x.rating_a if isinstance(x, Fuse | Breaker) else x.current_a if isinstance(x, Source | Converter) else 0.0


@lru_cache(maxsize=2)
def _known(_: Form) -> "tuple[dict[frozenset[int], tuple[Currents, Currents]], dict[int, Bound]]":
    """What is known so far of wirings of one form."""
    return {}, {}


class Guard:
    """Guarding of every branch of one wiring.

    Attributes
    ----------
    conductors : tuple of int
        Branches on live rails that are no device: what must be protected.
    returns : tuple of int
        Those on the other rails, which carry what comes back.
    """

    def __init__(self, wiring: Wiring) -> None:
        self.wiring = wiring
        self._copper = Copper(wiring)
        self._ends, self._near, self._devices_at = self._copper.ends, self._copper.near, self._copper.devices_at
        self.conductors = tuple(k for k in self._copper.plain if self.is_live(k))
        self.returns = tuple(k for k in self._copper.plain if not self.is_live(k))
        self._currents, self._bounds = _known(self._form())
        self._stretches: dict[int, Stretch] = {}

    def _form(self) -> Form:
        w, copper = self.wiring, self._copper
        return Form(
            tuple(copper.ends), tuple(w.rail), tuple(w.node.items()), tuple((b.kind, b.owner) for b in w.branches),
            tuple((x.id, type(x).__name__, _most_a(x)) for x in w.plan.placed), self.hot_rails, self._faulted,
            tuple(copper.ohms(sorted(copper.ring_of)).tolist()),
        )  # fmt: skip

    def is_live(self, k: int) -> bool:
        """Whether a branch is on a rail that needs protecting.

        Parameters
        ----------
        k : int
            Number of the branch.
        """
        return self.wiring.rail[self._ends[k][0]] in self.live_rails

    @cached_property
    def _bonded(self) -> frozenset[int]:
        """Rails that a chassis is on."""
        w = self.wiring
        frames = (x for x in w.plan.items if isinstance(x, Chassis))
        return frozenset(w.rail[w.node[x.ref(t)]] for x in frames for t in x.terminal_names)

    @cached_property
    def floating_rails(self) -> frozenset[int]:
        """Rails of systems of which no pole is bonded to a chassis; what joins neither copper nor a source are two systems."""
        rail, feeds = self.wiring.rail, (*batteries_of(self.wiring), *limited_of(self.wiring))
        pairs = [(rail[f.plus], rail[f.minus]) for f in feeds]
        system = graph.components(max(rail, default=-1) + 1, (p for p, _ in pairs), (m for _, m in pairs))
        bonded = {system[r] for r in self._bonded}
        return frozenset(r for pair in pairs for r in pair if system[r] not in bonded)

    @cached_property
    def live_rails(self) -> frozenset[int]:
        """Rails that need protecting: at a source's terminal, and held by no chassis.

        Where no chassis is bonded, the side that holds a source's plus is the live one; both, where the plan floats on
        purpose.
        """
        plus, minus = self._poles
        both = (plus | minus) & self.floating_rails if self.wiring.plan.floating else frozenset[int]()
        return self.hot_rails | both

    @cached_property
    def hot_rails(self) -> frozenset[int]:
        """The one pole of each source: not the bonded one, the plus where neither is."""
        plus, minus = self._poles
        return (plus & self.floating_rails) | ((plus | minus) - self._bonded - self.floating_rails)

    @cached_property
    def rails_at_hand(self) -> frozenset[int]:
        """Rails that who works there takes as live: of sources, and bonded nowhere, once any pole is; else `live_rails`.

        What stands apart may meet what is bonded through a tool or a hand.
        """
        plus, minus = self._poles
        return (plus | minus) - self._bonded if self._bonded & (plus | minus) else self.live_rails

    @property
    def _faulted(self) -> frozenset[int]:
        """Rails for which what stands in the other pole does not count."""
        return self.live_rails if self.wiring.plan.floating else self.live_rails - self.floating_rails

    @cached_property
    def _poles(self) -> tuple[frozenset[int], frozenset[int]]:
        """Rails at the plus and at the minus of batteries and converters' outputs."""
        w = self.wiring
        rail = w.rail
        plus, minus = set[int](), set[int]()
        for x in w.plan.placed:
            if isinstance(x, Battery | Converter):
                p, m = ("plus", "minus") if isinstance(x, Battery) else ("out_plus", "out_minus")
                plus.add(rail[w.node[x.ref(p)]])
                minus.add(rail[w.node[x.ref(m)]])
        return frozenset(plus), frozenset(minus)

    @property
    def _from_batteries(self) -> Currents:
        return self._with_open(frozenset())[0]

    @property
    def _from_all(self) -> Currents:
        return self._with_open(frozenset())[1]

    def _with_open(self, opened: frozenset[int]) -> tuple[Currents, Currents]:
        """What batteries drive, and what everything does, with some switches open."""
        if opened not in self._currents:
            copper = Copper(self.wiring, opened) if opened else self._copper
            batteries, limited = batteries_of(self.wiring), limited_of(self.wiring)
            own = Currents(copper, batteries, self.hot_rails, self._faulted)
            every = Currents(copper, (*batteries, *limited), self.hot_rails, self._faulted) if limited else own
            self._currents[opened] = own, every
        return self._currents[opened]

    def _switched(self, k: int) -> Iterator[tuple[Currents, Currents]]:
        """In what ways more may flow through a branch: as it is, and with what lies beside it in a ring switched off."""
        yield self._with_open(frozenset())
        beside = self._copper.switches_beside(k)
        if not beside:
            return
        least, all_ = self._from_all.through(k).amps, list[int]()
        if len(beside) > MOST_SWITCHES:
            yield self._with_open(frozenset(beside))
            return
        for switch in beside:
            alone = self._with_open(frozenset({switch}))
            if alone[1].through(k).amps >= least:
                all_.append(switch)
                yield alone
        if len(all_) > 1:
            yield self._with_open(frozenset(all_))

    def bound(self, k: int) -> Bound:
        """What limits the current in branch `k` for long.

        Parameters
        ----------
        k : int
            Number of the branch.
        """
        if k not in self._bounds:
            found = [(own.through(k), every.through(k)) for own, every in self._switched(k)]
            amps, feeds = max((every for _, every in found), key=lambda limit: limit.amps)
            battery_a, guards = max((own for own, _ in found), key=lambda limit: limit.amps)
            self._bounds[k] = Bound(amps, tuple(sorted(feeds)), battery_a, tuple(sorted(guards)))
        return self._bounds[k]

    def is_open(self, k: int) -> bool:
        """Whether a battery reaches branch `k` through no device of its own pole.

        Parameters
        ----------
        k : int
            Number of the branch.
        """
        return self._from_batteries.reaches(k)

    @cached_property
    def open_nodes(self) -> frozenset[int]:
        """Terminals that a battery reaches through no device of its own pole: no short there is cleared."""
        w = self.wiring
        posts = {w.node[b.ref(t)] for b in w.plan.items if isinstance(b, Battery) for t in b.terminal_names}
        live = {n for n in posts if w.rail[n] in self.live_rails}
        return frozenset(live.union(*(self._ends[k] for k in self.conductors if self.is_open(k))))

    @cached_property
    def guarded_by(self) -> dict[str, tuple[int, ...]]:
        """For each protective device, the branches that it alone guards."""
        found: dict[str, list[int]] = {}
        for k in (*self.conductors, *self.returns):
            guard = self.bound(k).guard
            if guard is not None:
                found.setdefault(guard, []).append(k)
        return {id_: tuple(ks) for id_, ks in found.items()}

    # How far it is to protection

    def stretch(self, k: int) -> Stretch:
        """The way from the last hub before branch `k` to the next protection beyond it.

        Parameters
        ----------
        k : int
            Number of the branch.
        """
        if k not in self._stretches:
            found = self._stretch(k)
            self._stretches[k] = found
            for id_ in found.runs:
                self._stretches[self.wiring.branch[id_]] = found
        return self._stretches[k]

    def _stretch(self, k: int) -> Stretch:
        own, (a, b) = self._from_all.own, self._ends[k]
        battery = self._from_batteries.own
        to = [(battery.past(self._copper.edge[k], n).amps, own.past(self._copper.edge[k], n).amps) for n in (a, b)]
        up, down = (a, b) if to[0] >= to[1] else (b, a)
        runs = [k]
        while (before := self._on(up, runs)) is not None:
            runs.insert(0, before)
            up = self._other(before, up)
        while (after := self._on(down, runs)) is not None:
            runs.append(after)
            down = self._other(after, down)
        lengths = self._lengths(down, runs[-1], sum(self._length(j) for j in runs))
        equipment = sorted({self._owner(n) for n in lengths if self._is_equipment(n)})
        at_start = set(self._devices_at.get(up, ()))
        devices = {self._name(j): lengths[n] for n in lengths for j in self._devices_at.get(n, ()) if j not in at_start}
        names = tuple(self._name(j) for j in runs if self.wiring.branches[j].kind == "run")
        if equipment or not devices:
            return Stretch(self.wiring.refs[up], UNLIMITED, tuple(equipment), names)
        return Stretch(self.wiring.refs[up], max(devices.values()), tuple(sorted(devices)), names)

    @cached_property
    def _terminals(self) -> frozenset[int]:
        """Nodes at which a way ends though only two conductors meet: of batteries and equipment."""
        w = self.wiring
        return frozenset(
            w.node[x.ref(t)] for x in w.plan.placed if isinstance(x, Battery | Equipment) for t in x.terminal_names
        )

    def _on(self, n: int, runs: list[int]) -> int | None:
        """The conductor by which a way goes on at a node; None at a hub, a device, a terminal."""
        near = self._near.get(n, ())
        if len(near) != 2 or n in self._terminals or self._devices_at.get(n):
            return None
        return next((j for j in near if j not in runs), None)

    def _lengths(self, start: int, without: int, first_m: float) -> dict[int, float]:
        """Length of conductor to every node that can be reached without one branch."""
        lengths = {start: first_m}
        queue = deque([start])
        while queue:
            n = queue.popleft()
            for k in self._near.get(n, ()):
                other = self._other(k, n)
                if k != without and other not in lengths:
                    lengths[other] = lengths[n] + self._length(k)
                    queue.append(other)
        return lengths

    def _other(self, k: int, n: int) -> int:
        a, b = self._ends[k]
        return b if a == n else a

    def _length(self, k: int) -> float:
        branch = self.wiring.branches[k]
        return self.wiring.plan.run_by_id[branch.owner].length_m if branch.kind == "run" else 0.0

    def _name(self, k: int) -> str:
        return self._copper.name(k)

    def _owner(self, n: int) -> str:
        return split_ref(self.wiring.refs[n])[0]

    @cached_property
    def _outputs(self) -> frozenset[int]:
        w = self.wiring
        return frozenset(
            w.node[e.ref(t)] for e in w.plan.equipment if isinstance(e, Converter) for t in ("out_plus", "out_minus")
        )

    def _is_equipment(self, n: int) -> bool:
        return n not in self._outputs and isinstance(self.wiring.plan.by_id[self._owner(n)], Equipment)
