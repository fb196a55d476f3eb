"""What to buy: quantities, mass and prices, grouped by kind."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from math import ceil
from typing import NamedTuple

from jaunty_copper.fabrication.cuts import Cut, cuts_of
from jaunty_copper.fabrication.packing import Packing, TooLong, pack
from jaunty_copper.fabrication.prices import metre_of, rates
from jaunty_copper.fabrication.terminals import Stack, stacks_of
from jaunty_copper.language import say, say_many
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Breaker,
    Contactor,
    Disconnect,
    Fuse,
    Plan,
    PlugConnector,
    Post,
    Shunt,
    Splice,
    StockPiece,
)
from jaunty_copper.plan.topology import distributor_of

SLEEVE_M = 0.04
"""Of sleeve over each lug."""
REEL_REBATE = ((50.0, 0.85), (25.0, 0.92))
"""From a length on, share of the price by the metre; representative."""


class Kind(NamedTuple):
    """Cable that can come from one reel."""

    conductor: str
    insulation: str
    colour: str


class Line(NamedTuple):
    """One line of the list of materials.

    Attributes
    ----------
    key : str
        By which a plan's own price replaces it.
    group, what, unit : str
        For people.
    price : float
        Of one, or of a pack.
    mass_kg : float
        Of one.
    own_price : bool
        Whether the plan gives it.
    pack : int
        How many are sold together; 0 where any number is.
    """

    key: str
    group: str
    what: str
    quantity: float
    unit: str
    price: float
    mass_kg: float
    own_price: bool
    pack: int = 0

    @property
    def bought(self) -> float:
        """How many are bought: packs where they are sold so, else the quantity."""
        return ceil(self.quantity / self.pack - 1e-9) if self.pack else self.quantity

    @property
    def total(self) -> float:
        """Price of all that are bought."""
        return self.bought * self.price


@dataclass(frozen=True)
class Workshop:
    """Everything that is made and bought for a plan.

    Attributes
    ----------
    cuts : tuple of Cut
        Every cable.
    """

    wiring: Wiring
    cuts: tuple[Cut, ...]

    @property
    def plan(self) -> Plan:
        """The plan."""
        return self.wiring.plan

    @cached_property
    def stacks(self) -> tuple[Stack, ...]:
        """Every stud with its lugs."""
        return stacks_of(self.wiring, self.cuts)

    @cached_property
    def kinds(self) -> dict[Kind, tuple[Cut, ...]]:
        """Cuts by what they can be cut from."""
        found: dict[Kind, list[Cut]] = {}
        for c in self.cuts:
            found.setdefault(Kind(c.conductor, c.insulation, c.colour), []).append(c)
        return {k: tuple(v) for k, v in found.items()}

    @cached_property
    def packings(self) -> dict[Kind, Packing | str]:
        """How each kind is packed; in words why it cannot be."""
        return {kind: self.pack_of(kind, cuts) for kind, cuts in self.kinds.items()}

    def owned(self, kind: Kind) -> tuple[StockPiece, ...]:
        """Pieces of a kind that are left over from before."""
        return tuple(p for p in self.plan.stock if (p.conductor, p.insulation, p.colour) == kind)

    def pack_of(self, kind: Kind, cuts: tuple[Cut, ...]) -> Packing | str:
        """How some cuts of a kind come out of what can be bought; in words why they cannot."""
        stock = tuple((m, self.reel_price(kind, m)) for m in self.plan.reels_m)
        try:
            return pack(tuple(c.length_m for c in cuts), stock, tuple(p.length_m for p in self.owned(kind)))
        except TooLong as error:
            return str(error)

    def reel_price(self, kind: Kind, length_m: float) -> float:
        """Price of one length of a kind: the plan's own, or by the metre with the usual rebate.

        Parameters
        ----------
        length_m : float
            Of the piece that is bought, m.
        """
        own = self.plan.prices.get(_reel_key(kind, length_m))
        if own is not None:
            return own
        share = next((share for least, share in REEL_REBATE if length_m >= least), 1.0)
        return length_m * share * self.metre_price(kind)

    def metre_price(self, kind: Kind) -> float:
        """Price of a metre of a kind, without rebate."""
        return self._by_metre(kind)[0]

    def _by_metre(self, kind: Kind) -> tuple[float, float]:
        return metre_of(self.plan, self.wiring.parts, kind.conductor)

    @cached_property
    def lines(self) -> tuple[Line, ...]:
        """The list of materials."""
        return (*self._cables(), *self._lugs(), *self._hardware(), *self._parts())

    @property
    def total(self) -> float:
        """Price of everything."""
        return sum(line.total for line in self.lines)

    @property
    def mass_kg(self) -> float:
        """Mass of everything, cable by what is bought."""
        return sum(line.quantity * line.mass_kg for line in self.lines)

    def leftovers(self) -> tuple[StockPiece, ...]:
        """What remains after cutting, of what is long enough to be worth keeping."""
        found: list[StockPiece] = []
        used = set()
        for kind, packing in self.packings.items():
            if isinstance(packing, str):
                continue
            used |= {p.id for p in self.owned(kind)}
            for piece in packing.pieces:
                if piece.left_m >= 0.3:
                    found.append(
                        StockPiece(
                            id=f"left-{len(found) + 1}", conductor=kind.conductor, insulation=kind.insulation,
                            colour=kind.colour, length_m=round(piece.left_m, 3),
                        )
                    )  # fmt: skip
        return tuple(found)

    def _cables(self) -> Iterable[Line]:
        for kind, packing in self.packings.items():
            size, skin = self.wiring.parts.conductors[kind.conductor], self.wiring.parts.insulations[kind.insulation]
            what = say("cable {size}, {skin}, {colour}", size=size.label, skin=skin.label, colour=kind.colour)
            mass = self._by_metre(kind)[1]
            if isinstance(packing, str):
                metres = sum(c.length_m for c in self.kinds[kind])
                yield self.line(
                    f"cable:{kind.conductor}",
                    say("Cable"),
                    f"{what} ({packing})",
                    round(metres, 2),
                    "m",
                    self.metre_price(kind),
                    mass,
                )
                continue
            bought = Counter(p.stock_m for p in packing.pieces if not p.owned)
            for length, count in sorted(bought.items()):
                price = self.reel_price(kind, length)
                yield self.line(
                    _reel_key(kind, length), say("Cable"), f"{what}, {length:g} m", count, "", price, length * mass
                )

    def _lugs(self) -> Iterable[Line]:
        parts = self.wiring.parts
        ends = [(c, e) for c in self.cuts for e in (c.a, c.b)]
        lugs = Counter((c.conductor, e.thread, e.angle) for c, e in ends if e.thread is not None)
        for (conductor, thread, angle), count in sorted(
            lugs.items(), key=lambda x: (parts.conductors[x[0][0]].area_mm2, str(x[0][1]), x[0][2])
        ):
            price, mass = rates("lug", parts.conductors[conductor].area_mm2)
            yield self.line(
                f"lug:{conductor}:{thread}" + (f":{angle}" if angle else ""),
                say("Lugs and sleeve"),
                say("lug {conductor} for {thread}", conductor=parts.conductors[conductor].label, thread=thread)
                + (f", {angle}°" if angle else ""),
                count,
                "",
                price,
                mass,
            )
        sleeves = Counter(e.sleeve_mm for _, e in ends if e.thread is not None and e.sleeve_mm is not None)
        for before, count in sorted(sleeves.items()):
            price, mass = rates("sleeve", 0.0)
            yield self.line(
                f"sleeve:{before:g}",
                say("Lugs and sleeve"),
                say("adhesive sleeve {before:g} mm", before=before),
                round(count * SLEEVE_M, 2),
                "m",
                price,
                mass,
            )

    def _hardware(self) -> Iterable[Line]:
        """What holds the lugs: one set for each stud that any land on."""
        sets = Counter(s.thread for s in self.stacks)
        for thread, count in sorted(sets.items(), key=lambda x: (len(x[0]), x[0])):
            price, mass = rates("hardware", float(thread.removeprefix("M")))
            what = say(
                "nut, flat and spring washer {thread}, {stud_material}",
                thread=thread,
                stud_material=self.plan.stud_material,
            )
            yield self.line(
                f"hardware:{thread}:{self.plan.stud_material}", say("Bars and studs"), what, count, "", price, mass
            )

    def _parts(self) -> Iterable[Line]:
        counted: Counter[tuple[str, str, str, str, float]] = Counter()
        for x in self.plan.items:
            row = self._part(x)
            if row is not None:
                counted[row] += 1
            if isinstance(x, Battery) and x.covered:
                counted["cover:post", say("Batteries"), say("cover for a battery post"), "cover", 0.0] += len(
                    x.terminals
                )
            if isinstance(x, Bar) and x.covered and x.id not in self._under_lid:
                what = say("cover for a busbar of {studs} studs", studs=len(x.studs))
                counted[f"cover:bar{len(x.studs)}", say("Bars and studs"), what, "cover", float(len(x.studs))] += 1
            if isinstance(x, Shunt) and x.monitor_fuse_a is not None:
                what = say("fuse {rating:g} A in a holder, for the lead of a monitor", rating=x.monitor_fuse_a)
                key = f"monitor-fuse:{x.monitor_fuse_a:g}"
                counted[key, say("Protection"), what, "fuse:glass-fuse-6x32", x.monitor_fuse_a] += 1
        for (key, group, what, rate, measure), count in sorted(
            counted.items(), key=lambda r: (GROUPS.index(r[0][1]), r[0][0])
        ):
            price, mass = rates(rate, measure)
            yield self.line(key, group, what, count, "", price, mass)

    @property
    def _under_lid(self) -> set[str]:
        return {s.of for board in self.plan.boards if board.depth_mm is not None for s in board.spots}

    def _part(self, x: object) -> tuple[str, str, str, str, float] | None:
        """Key, group, words, row of the price table and its measure."""
        match x:
            case Fuse() if (
                distributor := distributor_of(self.plan, x.id)
            ) is not None and x.family == distributor.fuse_family:
                family = self.wiring.parts.device_families[x.family]
                what = say("{family} {rating:g} A without a holder", family=family.label, rating=x.rating_a)
                return f"insert:{family.id}:{x.rating_a:g}", say("Protection"), what, "insert", x.rating_a
            case Fuse() | Breaker():
                family = self.wiring.parts.device_families[x.family]
                return (
                    f"{family.id}:{x.rating_a:g}",
                    say("Protection"),
                    f"{family.label} {x.rating_a:g} A",
                    f"{x.kind}:{family.id}",
                    x.rating_a,
                )
            case Disconnect() | Shunt() | PlugConnector():
                return (
                    f"{x.kind}:{x.rating_a:g}",
                    say("Switches and shunts"),
                    f"{x.kind} {x.rating_a:g} A",
                    x.kind,
                    x.rating_a,
                )
            case Contactor():
                rating = x.rating_a or x.intermittent_a or 0.0
                return (
                    f"contactor:{rating:g}",
                    say("Switches and shunts"),
                    say("contactor {rating:g} A", rating=rating),
                    "contactor",
                    rating,
                )
            case Splice():
                runs = [r for t in x.terminal_names for r in self.plan.runs_at.get(x.ref(t), ())]
                sizes = " / ".join(dict.fromkeys(self.wiring.parts.conductors[r.conductor].label for r in runs))
                area = max((self.wiring.parts.conductors[r.conductor].area_mm2 for r in runs), default=0.0)
                what = say("butt splice {sizes}, insulated", sizes=sizes)
                return f"splice:{sizes}", say("Lugs and sleeve"), what, "splice", area
            case Bar() if x.fuse_family is not None:
                family, positions = self.wiring.parts.device_families[x.fuse_family], max(len(x.studs) - 1, 1)
                what = say_many(
                    "distributor of {rating:g} A with {count} position for {family}",
                    "distributor of {rating:g} A with {count} positions for {family}",
                    positions,
                    rating=x.rating_a,
                    family=family.label,
                )
                key = f"distributor:{family.id}:{positions}:{x.rating_a:g}"
                return key, say("Bars and studs"), what, "distributor", float(positions)
            case Bar():
                length = (len(x.studs) + 1) * x.spacing_mm / 1000.0
                what = say(
                    "busbar {width_mm:g} × {thickness_mm:g} mm, {studs} studs, {length:.2f} m",
                    width_mm=x.width_mm,
                    thickness_mm=x.thickness_mm,
                    studs=len(x.studs),
                    length=length,
                )
                key = f"bar:{x.width_mm:g}x{x.thickness_mm:g}x{len(x.studs)}"
                return key, say("Bars and studs"), what, "bar", x.width_mm * x.thickness_mm * length
            case Post():
                return f"post:{x.thread}", say("Bars and studs"), say("stud {thread}", thread=x.thread), "post", 0.0
            case Battery():
                label = self.wiring.parts.battery_chemistries[x.chemistry].label
                what = f"{label} {x.nominal_v:g} V {x.capacity_ah:g} Ah"
                return (
                    f"battery:{x.chemistry}:{x.nominal_v:g}:{x.capacity_ah:g}",
                    say("Batteries"),
                    what,
                    f"battery:{x.chemistry}",
                    x.nominal_v * x.capacity_ah,
                )
        return None

    def line(self, key: str, group: str, what: str, quantity: float, unit: str, price: float, mass: float) -> Line:
        """A line with the plan's own price and pack, where it has them.

        Parameters
        ----------
        key, group, what, unit : str
            As in `Line`.
        price, mass : float
            Representative, of one; kg.
        """
        own, pack = self.plan.prices.get(key), self.plan.packs.get(key, 0)
        whole = price * (pack or 1) if own is None else own
        return Line(key, group, what, quantity, unit, whole, mass, own is not None, pack)


GROUPS = (
    say("Cable"),
    say("Lugs and sleeve"),
    say("Protection"),
    say("Switches and shunts"),
    say("Bars and studs"),
    say("Batteries"),
)


def workshop_of(wiring: Wiring) -> Workshop:
    """What a plan asks to be made and bought."""
    return Workshop(wiring, cuts_of(wiring))


def _reel_key(kind: Kind, length_m: float) -> str:
    return f"cable:{kind.conductor}:{kind.insulation}:{kind.colour}:{length_m:g}"
