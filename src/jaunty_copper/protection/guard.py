"""Which protective device guards which conductor, and which stretch nothing guards.

Opening every protective device cuts the live conductors into islands. An island that holds
a battery post is fed without limit. Any other is fed through the devices on its shore that
face a battery; their ratings bound the current a conductor in it can carry for long. Where
several feed one island, what flows in a conductor can come from one side of it only.
"""

from collections import deque
from dataclasses import dataclass
from functools import cached_property

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics import graph
from jaunty_copper.plan.model import Battery, Breaker, Chassis, Converter, Equipment, Fuse, split_ref

UNLIMITED = float("inf")


@dataclass(frozen=True)
class Bound:
    """What limits the current in one conductor for long.

    Attributes
    ----------
    amps : float
        The most that what feeds it lets through; inf where a battery feeds it directly.
    feeds : tuple of str
        Ids of the devices and converters that let it through.
    """

    amps: float
    feeds: tuple[str, ...]


@dataclass(frozen=True)
class Stretch:
    """A conductor that what feeds it does not protect, up to where protection begins.

    Attributes
    ----------
    start : str
        Terminal of the battery, bar or stud where it begins.
    length_m : float
        From there to the farthest device that it leads to; inf where it leads to equipment.
    ends : tuple of str
        Ids of the devices, or of the equipment, that it leads to.
    runs : tuple of str
        Ids of the runs on the way.
    """

    start: str
    length_m: float
    ends: tuple[str, ...]
    runs: tuple[str, ...]


class Guard:
    """Guarding of every branch on the live rails of one wiring."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring = wiring
        plan, c = wiring.plan, wiring.circuit
        self._ends: list[tuple[int, int]] = list(zip(c.a.tolist(), c.b.tolist(), strict=True))
        rail, live = wiring.rail, self.live_rails
        on_live = [rail[a] in live for a, _ in self._ends]
        self._devices = {
            k
            for k, b in enumerate(wiring.branches)
            if b.kind == "body" and on_live[k] and isinstance(plan.by_id[b.owner], Fuse | Breaker)
        }
        plain = [k for k, b in enumerate(wiring.branches) if b.kind != "battery" and k not in self._devices]
        self._island: list[int] = graph.components(
            c.nodes, (self._ends[k][0] for k in plain), (self._ends[k][1] for k in plain)
        )
        self._near: dict[int, list[int]] = {}
        self.conductors = tuple(k for k in plain if on_live[k])
        for k in self.conductors:
            for n in self._ends[k]:
                self._near.setdefault(n, []).append(k)
        self._devices_at: dict[int, list[int]] = {}
        self._shore: dict[int, list[int]] = {}
        for k in sorted(self._devices):
            for n in self._ends[k]:
                self._devices_at.setdefault(n, []).append(k)
                self._shore.setdefault(self._island[n], []).append(k)
        self._bounds: dict[int, Bound] = {}
        self._stretches: dict[int, Stretch] = {}

    @cached_property
    def live_rails(self) -> frozenset[int]:
        """Rails that need protecting: at a source's terminal, and held by no chassis.

        Where no chassis is bonded, the side that holds a source's plus is the live one.
        """
        w = self.wiring
        rail = w.rail
        bonded = {rail[w.node[x.ref(t)]] for x in w.plan.items if isinstance(x, Chassis) for t in x.terminal_names}
        plus, minus = set[int](), set[int]()
        for x in w.plan.placed:
            if isinstance(x, Battery | Converter):
                p, m = ("plus", "minus") if isinstance(x, Battery) else ("out_plus", "out_minus")
                plus.add(rail[w.node[x.ref(p)]])
                minus.add(rail[w.node[x.ref(m)]])
        return frozenset((plus | minus) - bonded) if bonded & (plus | minus) else frozenset(plus)

    @cached_property
    def _posts(self) -> frozenset[int]:
        """Battery posts on live rails."""
        w = self.wiring
        posts = (w.node[x.ref(t)] for x in w.plan.items if isinstance(x, Battery) for t in x.terminals)
        return frozenset(n for n in posts if w.rail[n] in self.live_rails)

    @cached_property
    def _outputs(self) -> dict[int, Converter]:
        """Output terminals of converters on live rails."""
        w = self.wiring
        return {
            w.node[x.ref(t)]: x
            for x in w.plan.equipment
            if isinstance(x, Converter)
            for t in ("out_plus", "out_minus")
            if w.rail_of(x.ref(t)) in self.live_rails
        }

    @cached_property
    def _depth(self) -> dict[int, int]:
        """How many devices lie between each island and the nearest battery or converter."""
        depth = {self._island[n]: 0 for n in (*self._posts, *self._outputs)}
        queue = deque(depth)
        while queue:
            here = queue.popleft()
            for k in self._shore.get(here, ()):
                there = self._across(k, here)
                if there not in depth:
                    depth[there] = depth[here] + 1
                    queue.append(there)
        return depth

    def _across(self, device: int, island: int) -> int:
        one, two = (self._island[n] for n in self._ends[device])
        return two if one == island else one

    def _feeds(self, island: int, device: int) -> bool:
        """Whether a device on an island's shore faces a battery."""
        there, far = self._across(device, island), len(self._ends)
        return there != island and self._depth.get(there, far) <= self._depth.get(island, far - 1)

    @cached_property
    def _supplies(self) -> dict[int, list[tuple[int, float, str]]]:
        """For each island, where it is fed: node, amperes, id of what feeds."""
        found: dict[int, list[tuple[int, float, str]]] = {}
        plan = self.wiring.plan
        for n in sorted(self._posts):
            found.setdefault(self._island[n], []).append((n, UNLIMITED, self._owner(n)))
        for n, converter in self._outputs.items():
            found.setdefault(self._island[n], []).append((n, converter.current_a, converter.id))
        for island, devices in self._shore.items():
            for k in devices:
                device = plan.by_id[self.wiring.branches[k].owner]
                if self._feeds(island, k) and isinstance(device, Fuse | Breaker):
                    n = next(n for n in self._ends[k] if self._island[n] == island)
                    found.setdefault(island, []).append((n, device.rating_a, device.id))
        return found

    def bound(self, k: int) -> Bound:
        """What limits the current in branch `k` for long."""
        if k not in self._bounds:
            supplies = self._supplies.get(self._island[self._ends[k][0]], [])
            if len(supplies) > 1:
                a, b = self._ends[k]
                side = self._flood(a, k)
                if b not in side:
                    near = [s for s in supplies if s[0] in side]
                    away = [s for s in supplies if s[0] not in side]
                    supplies = max(near, away, key=lambda group: sum(s[1] for s in group))
            self._bounds[k] = Bound(sum(s[1] for s in supplies), tuple(sorted({s[2] for s in supplies})))
        return self._bounds[k]

    @cached_property
    def guarded_by(self) -> dict[str, tuple[int, ...]]:
        """For each protective device, the branches whose current it alone bounds."""
        found: dict[str, list[int]] = {}
        for k in self.conductors:
            feeds = self.bound(k).feeds
            if len(feeds) == 1:
                found.setdefault(feeds[0], []).append(k)
        return {id_: tuple(ks) for id_, ks in found.items()}

    def stretch(self, k: int) -> Stretch:
        """The way from the last hub before branch `k` to the next protection beyond it."""
        if k not in self._stretches:
            self._stretches[k] = self._stretch(k)
        return self._stretches[k]

    def _stretch(self, k: int) -> Stretch:
        a, b = self._ends[k]
        fed = {s[0] for s in self._supplies.get(self._island[a], [])}
        side = self._flood(a, k)
        # Downstream is the side that nothing feeds; on a loop, or with both fed, past b.
        down, up = (a, b) if not fed & side and b not in side else (b, a)
        runs = [k]
        while self._is_way(up, fed):
            before = next(j for j in self._near[up] if j != runs[0])
            runs.insert(0, before)
            up = self._other(before, up)
        length = sum(self._length(j) for j in runs)
        lengths = self._lengths(down, k, length)
        equipment = sorted({self._owner(n) for n in lengths if self._is_equipment(n)})
        devices = {self._name(j): lengths[n] for n in lengths for j in self._devices_at.get(n, ()) if n not in fed}
        names = tuple(self._name(j) for j in runs if self.wiring.branches[j].kind == "run")
        if equipment or not devices:
            return Stretch(self.wiring.refs[up], UNLIMITED, tuple(equipment), names)
        return Stretch(self.wiring.refs[up], max(devices.values()), tuple(sorted(devices)), names)

    def _is_way(self, n: int, fed: set[int]) -> bool:
        """Whether a node only joins two conductors in a row: no hub, no feed."""
        return len(self._near.get(n, ())) == 2 and n not in fed and not self._devices_at.get(n)

    def _flood(self, start: int, without: int) -> set[int]:
        return set(self._lengths(start, without, 0.0))

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
        return self.wiring.branches[k].owner

    def _owner(self, n: int) -> str:
        return split_ref(self.wiring.refs[n])[0]

    def _is_equipment(self, n: int) -> bool:
        return n not in self._outputs and isinstance(self.wiring.plan.by_id[self._owner(n)], Equipment)
