"""Where short circuits are looked at: every terminal, against each return that may stand beside it."""

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.plan.model import Bar, Battery, Chassis, Converter, split_ref

BESIDE_M = 0.5
"""So near to a bar what a terminal is shorted to is at that bar."""


@dataclass(frozen=True)
class Places:
    """Where faults are looked at.

    Attributes
    ----------
    refs : tuple of (str, str)
        Terminals joined by the fault: a place and one of the opposite pole, or chassis; a place may come several times.
    first, second : ndarray of int, shape (places,)
        Their nodes.
    poles : int
        So many of the first are faults from pole to pole; the others are to chassis.
    """

    refs: tuple[tuple[str, str], ...]
    first: Ints
    second: Ints
    poles: int

    @cached_property
    def columns(self) -> dict[str, tuple[int, ...]]:
        """Faults from pole to pole at each terminal."""
        return self._by_ref(range(self.poles))

    @cached_property
    def chassis(self) -> dict[str, tuple[int, ...]]:
        """Faults to chassis at each terminal."""
        return self._by_ref(range(self.poles, len(self.refs)))

    def _by_ref(self, which: range) -> dict[str, tuple[int, ...]]:
        found: dict[str, list[int]] = {}
        for k in which:
            found.setdefault(self.refs[k][0], []).append(k)
        return {ref: tuple(ks) for ref, ks in found.items()}


def places_of(w: Wiring) -> Places:
    """Every terminal with the returns beside it.

    Notes
    -----
    Equipment and batteries have both poles at one place. What lies between bars and equipment has its return beside
    it: the equipment's other terminal where the circuit ends, and where its return lands. A bar has beside it the
    bars or posts to which what it feeds returns. Which of several gives most and which least is left to the currents.
    """
    returns = _Returns(w)
    refs = [(ref, other) for ref in w.refs for other in returns.beside(ref)]
    poles = len(refs)
    grounds = [f"{x.id}." for x in w.plan.items if isinstance(x, Chassis)]
    for ground in grounds[:1]:
        refs += [(a, ground) for a in dict.fromkeys(a for a, _ in refs) if w.rail_of(a) != w.rail_of(ground)]
    ends = np.array([(w.node[a], w.node[b]) for a, b in refs], dtype=np.int64).reshape(-1, 2)
    return Places(tuple(refs), ends[:, 0], ends[:, 1], poles)


class _Way(NamedTuple):
    """Conductors and devices in one line between two places where more than two meet, or something ends.

    Attributes
    ----------
    nodes : tuple of int
        Terminals in between.
    at_m : tuple of float
        How far each is from the first end, m of conductor.
    ends : tuple of int
        Terminals where it ends.
    length_m : float
        From end to end.
    """

    nodes: tuple[int, ...]
    at_m: tuple[float, ...]
    ends: tuple[int, int]
    length_m: float


class _Returns:
    """The opposite pole beside each terminal."""

    def __init__(self, w: Wiring) -> None:
        self.w = w
        self.mates = _mates(w)
        self.repeats = {w.node[e.port[1]] for e in w.plan.equipment}
        """A short at the minus of equipment is the one at its plus."""
        bars = {x.id for x in w.plan.items if isinstance(x, Bar)}
        items = [split_ref(ref)[0] for ref in w.refs]
        self.place = [item if item in bars else ref for item, ref in zip(items, w.refs, strict=True)]
        """Terminals of one bar are one place."""
        self.ways = self._ways(bars | {self.place[n] for n in self.mates})
        self.way_of = {n: way for way in self.ways for n in way.nodes}
        self.at: dict[str, list[_Way]] = {}
        for way in self.ways:
            for place in dict.fromkeys(self.place[n] for n in way.ends):
                self.at.setdefault(place, []).append(way)
        self.near = self._near()

    def _ways(self, fixed: set[str]) -> tuple[_Way, ...]:
        """Divide the copper into ways between places: those that are fixed, and where it does not just go on."""
        w, place = self.w, self.place
        at: dict[str, list[int]] = {}
        for k, b in enumerate(w.branches):
            if b.kind not in ("battery", "segment"):
                at.setdefault(place[b.a], []).append(k)
                at.setdefault(place[b.b], []).append(k)
        ends = {p for p, ks in at.items() if p in fixed or len(ks) != 2}
        found, done = [], set[int]()
        for start in (p for p in at if p in ends):
            for k in at[start]:
                if k in done:
                    continue
                b = w.branches[k]
                begin, here = (b.a, b.b) if place[b.a] == start else (b.b, b.a)
                done.add(k)
                between, at_m, length = list[int](), list[float](), self._length(k)
                while place[here] not in ends:
                    between.append(here)
                    at_m.append(length)
                    k = next(x for x in at[place[here]] if x != k)
                    done.add(k)
                    b = w.branches[k]
                    here = b.b if b.a == here else b.a
                    length += self._length(k)
                found.append(_Way(tuple(between), tuple(at_m), (begin, here), length))
        return tuple(sorted(found))

    def _length(self, k: int) -> float:
        b = self.w.branches[k]
        return self.w.plan.run_by_id[b.owner].length_m if b.kind == "run" else 0.0

    def _far(self, way: _Way, place: str) -> int:
        """Where a way ends that begins at a place."""
        return way.ends[1] if self.place[way.ends[0]] == place else way.ends[0]

    def _lands(self, end: int) -> list[int]:
        """Where the return of what ends at a terminal lands; the other pole itself where it does not just go on."""
        found = []
        for mate in self.mates[end]:
            # Not what a converter joins inside.
            on = [w for w in self.at.get(self.place[mate], []) if w.length_m or not self.mates.keys() >= set(w.ends)]
            found.append(self._far(on[0], self.place[mate]) if len(on) == 1 else mate)
        return found

    def _near(self) -> dict[str, list[int]]:
        """For each place, one terminal of each place to which what it feeds returns."""
        found = {}
        for place, ways in self.at.items():
            ends = [far for way in ways if (far := self._far(way, place)) in self.mates]
            lands = [n for far in ends for n in self._lands(far)]
            if lands:
                # A bar beside a bar; a post only where there is none.
                found[place] = [n for n in lands if n not in self.mates] or lands
        # What feeds nothing but other bars has beside it what stands beside the nearest of those.
        while True:
            around = {
                p: [self.place[self._far(way, p)] for way in ways] for p, ways in self.at.items() if p not in found
            }
            more = {p: [n for q in near for n in found.get(q, ())] for p, near in around.items()}
            if not any(more.values()):
                return found
            found |= {p: ns for p, ns in more.items() if ns}

    def _candidates(self, n: int) -> list[int]:
        if n in self.mates:
            return [] if n in self.repeats else self.mates[n]
        if n not in self.way_of:
            # Of what leaves at this very stud the return is the nearest.
            leaving = [self._far(way, self.place[n]) for way in self.at.get(self.place[n], ()) if n in way.ends]
            nearest = [m for far in leaving if far in self.mates for m in self._hub(n, far)]
            return nearest or self.near.get(self.place[n], [])
        way = self.way_of[n]
        at_m = way.at_m[way.nodes.index(n)]
        # The nearer end first.
        ends = sorted(zip((at_m, way.length_m - at_m), way.ends, strict=True))
        near_m, near = ends[0]
        if all(end in self.mates for _, end in ends):
            return self.mates[near]
        _, far = ends[1]
        if near in self.mates and not self._is_post(near):
            # By equipment; where its return lands counts too, for a terminal that is half way.
            return [*self.mates[near], *self._lands(near)]
        return [*self._hub(near, far), *(self._hub(far, near) if near_m > BESIDE_M else [])]

    def _hub(self, end: int, other: int) -> list[int]:
        """What stands beside the end of a way: of a circuit where its return lands, else what the place has."""
        if end in self.mates:
            return self.mates[end] if self._is_post(end) else []
        if other not in self.mates:
            return self.near.get(self.place[end], [])
        if not self._is_post(other):
            return self._lands(other)
        rails = {self.w.rail[m] for m in self.mates[other]}
        return [m for m in self.near.get(self.place[end], ()) if self.w.rail[m] in rails]

    def beside(self, ref: str) -> tuple[str, ...]:
        """Terminals of the opposite pole that may stand beside one, one of each place."""
        w, n = self.w, self.w.node[ref]
        if ref.endswith(".") or n in self.repeats:
            return ()
        found: dict[str, int] = {}
        for m in self._candidates(n):
            if w.rail[m] != w.rail[n]:
                found.setdefault(self.place[m], m)
        return tuple(w.refs[m] for m in found.values()) or self._far_pole(w.rail[n])

    def _is_post(self, n: int) -> bool:
        return isinstance(self.w.plan.by_id.get(split_ref(self.w.refs[n])[0]), Battery)

    def _far_pole(self, rail: int) -> tuple[str, ...]:
        """Of a terminal with nothing beside it: the far post of the bank, or pole of the converter, that drives it."""
        w = self.w
        for bank in w.banks:
            plus, minus = bank.takeoffs["plus"][0], bank.takeoffs["minus"][0]
            if rail in {w.rail_of(u.ref(t)) for u in bank.units for t in u.terminal_names}:
                return (plus if rail == w.rail_of(minus) else minus,)
        outputs = (e for e in w.plan.equipment if isinstance(e, Converter))
        return tuple(e.ref("out_minus") for e in outputs if w.rail_of(e.ref("out_plus")) == rail)[:1]


def _mates(w: Wiring) -> dict[int, list[int]]:
    """The other pole of each terminal of equipment, outputs and units: at the same place but for units in a string."""
    ports = [e.port for e in w.plan.equipment]
    ports += [(e.ref("out_plus"), e.ref("out_minus")) for e in w.plan.equipment if isinstance(e, Converter)]
    for bank in w.banks:
        units = {u.id: u for u in bank.units}
        for string in bank.strings:
            low, high = units[string[0]].ref("minus"), units[string[-1]].ref("plus")
            ports += [(units[u].ref("plus"), low) for u in string] + [(high, units[u].ref("minus")) for u in string[1:]]
    found: dict[int, list[int]] = {}
    for plus, minus in ports:
        p, m = w.node[plus], w.node[minus]
        if w.rail[p] != w.rail[m]:
            found.setdefault(p, []).append(m)
            found.setdefault(m, []).append(p)
    return found
