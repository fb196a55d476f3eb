"""What may be joined to what: judged while a conductor is being drawn, before anything is solved."""

from collections.abc import Iterator
from typing import Literal, NamedTuple

from jaunty_copper.language import say
from jaunty_copper.physics import graph
from jaunty_copper.plan.model import Bar, Battery, Chassis, Converter, Equipment, Inline, Plan, Post, split_ref
from jaunty_copper.plan.supply import is_voltage_for, supply_of
from jaunty_copper.plan.topology import Topology, topology

Standing = Literal["fine", "unusual", "forbidden"]
LUGS = 2
"""So many lugs on one stud are usual; the code in force judges what is built."""


class Joining(NamedTuple):
    """Whether a conductor may be laid between two terminals.

    Attributes
    ----------
    standing : str
        unusual: only if a person insists; forbidden: not at all.
    why : str
        In words; empty where there is nothing to say.
    """

    standing: Standing
    why: str = ""


FINE = Joining("fine")


class Joinings:
    """Judges conductors that may be drawn in one plan.

    Parameters
    ----------
    plan : Plan
        A plan without `problems`.
    """

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self._joined: Topology = topology(plan)
        rails = max(self._joined.rail, default=-1) + 1
        self._owners = [x for x in plan.placed if isinstance(x, Battery | Converter)]
        self._emf = [self._edge(x) for x in self._owners]
        self._volts, self._part, _ = graph.potentials(rails, self._emf)
        batteries = [edge for edge, owner in zip(self._emf, self._owners, strict=True) if isinstance(owner, Battery)]
        self._stiff_v, self._stiff, _ = graph.potentials(rails, batteries)
        self._ports = list(_ports(plan))
        self._known: dict[tuple[int, int], Joining | None] = {}

    def _edge(self, x: Battery | Converter) -> tuple[int, int, float]:
        rail_of = self._joined.rail_of
        if isinstance(x, Battery):
            return rail_of(x.ref("minus")), rail_of(x.ref("plus")), x.nominal_v
        return rail_of(x.ref("out_minus")), rail_of(x.ref("out_plus")), x.out_nominal_v

    def between(self, a: str, b: str) -> Joining:
        """Judge a conductor from one terminal to another.

        Raises
        ------
        KeyError
            There is no such terminal.
        """
        if a == b:
            return Joining("forbidden", say("it would end where it begins"))
        ra, rb = self._joined.rail_of(a), self._joined.rail_of(b)
        (ia, _), (ib, _) = split_ref(a), split_ref(b)
        if ia == ib:
            return self._own(ia)
        if ra != rb:
            # Terminals are many and rails are few: all of them are asked about while a conductor is drawn.
            if (ra, rb) not in self._known:
                self._known[ra, rb] = self._short(ra, rb) or self._at_port(ra, rb)
            wrong = self._known[ra, rb]
            if wrong is not None:
                return wrong
        return next((found for ref in (a, b) if (found := self._full(ref)) is not None), FINE)

    def _own(self, id_: str) -> Joining:
        """From one terminal of a thing to another of its own."""
        thing = self.plan.by_id[id_]
        if isinstance(thing, Inline):
            return Joining("unusual", say("it would bridge {thing}", thing=thing.title))
        if isinstance(thing, Bar | Chassis | Post):
            return Joining("unusual", say("{thing} joins these already", thing=thing.title))
        if isinstance(thing, Converter):
            return Joining("unusual", say("it would join two poles of {thing}", thing=thing.title))
        return Joining("forbidden", say("it would short {thing}", thing=thing.title))

    def _short(self, ra: int, rb: int) -> Joining | None:
        """Poles between which sources stand."""
        if self._part[ra] != self._part[rb]:
            return None
        across = abs(self._volts[ra] - self._volts[rb])
        if across < 0.5:
            return None
        stiff = self._stiff[ra] == self._stiff[rb] and abs(self._stiff_v[ra] - self._stiff_v[rb]) >= 0.5
        word = say("a short circuit") if stiff else say("another voltage")
        return Joining("forbidden", say("{word}: {across:.3g} V lie between the two", word=word, across=across))

    def _at_port(self, ra: int, rb: int) -> Joining | None:
        """Equipment that would have its poles joined, swapped, or another voltage across them."""
        moved = {ra: rb}
        volts, part = self._with(ra, rb)
        for e, plus, minus, nominal in self._ports:
            before = self._joined.rail_of(plus), self._joined.rail_of(minus)
            if not {ra, rb} & {*before} and self._part[before[0]] == self._part[before[1]]:
                # It hangs where it hung.
                continue
            p, m = (moved.get(r, r) for r in before)
            if p == m and before[0] != before[1]:
                return Joining("forbidden", say("it would join plus and minus of {e}", e=e.title))
            if part[p] != part[m] or p == m:
                side = self._side(before, ra, rb)
                if side:
                    return Joining("forbidden", say("{side} of {e} belongs on the other pole", side=side, e=e.title))
                continue
            was = self._part[before[0]] == self._part[before[1]]
            across = volts[p] - volts[m]
            if was and abs(across - (self._volts[before[0]] - self._volts[before[1]])) < 0.5:
                continue
            if across < -0.5:
                return Joining("forbidden", say("{e} would have plus and minus swapped", e=e.title))
            if not is_voltage_for(across, nominal):
                return Joining(
                    "forbidden",
                    say(
                        "{e} is for {nominal:g} V; {across:.3g} V lie there", e=e.title, nominal=nominal, across=across
                    ),
                )
        return None

    def _with(self, ra: int, rb: int) -> tuple[list[float], list[int]]:
        """Potentials with two rails made one."""
        edges = [(rb if m == ra else m, rb if p == ra else p, v) for m, p, v in self._emf]
        volts, part, _ = graph.potentials(len(self._part), edges)
        return volts, part

    def _side(self, poles: tuple[int, int], ra: int, rb: int) -> str:
        """Which pole of equipment would come to the opposite end of all sources there; empty for none."""
        for own, word, sign in ((poles[0], "plus", 1.0), (poles[1], "minus", -1.0)):
            other = rb if own == ra else ra if own == rb else None
            if other is None or self._alone(own) is False:
                continue
            there = [sign * v for v, part in zip(self._volts, self._part, strict=True) if part == self._part[other]]
            if len(there) > 1 and sign * self._volts[other] <= min(there) + 0.5 < max(there):
                return word
        return ""

    def _alone(self, rail: int) -> bool:
        """Whether no source is on a rail yet."""
        return not any(rail in (m, p) for m, p, _ in self._emf)

    def _full(self, ref: str) -> Joining | None:
        count = len(self.plan.runs_at.get(ref, ()))
        if count < LUGS:
            return None
        thing, terminal = split_ref(ref)
        return Joining(
            "unusual",
            say(
                "{thing}, {terminal} has {count} lugs on it",
                thing=self.plan.by_id[thing].title,
                terminal=terminal,
                count=count,
            ),
        )


def _ports(plan: Plan) -> Iterator[tuple[Equipment, str, str, float]]:
    for e in plan.equipment:
        plus, minus = e.port
        yield e, plus, minus, e.nominal_v


def bar_for(plan: Plan, e: Equipment, bar: Bar) -> Joining:
    """Whether a circuit may be led to a bar."""
    supply = supply_of(plan, bar)
    if supply.back is None:
        return Joining("forbidden", say("it has no bar on the other side"))
    if not supply.fed:
        return Joining("unusual", say("nothing leads to {bar} yet", bar=bar.title))
    if not is_voltage_for(supply.volts, e.nominal_v):
        return Joining(
            "unusual",
            say(
                "{e} is for {nominal_v:g} V; {volts:g} V lie there",
                e=e.title,
                nominal_v=e.nominal_v,
                volts=supply.volts,
            ),
        )
    return FINE
