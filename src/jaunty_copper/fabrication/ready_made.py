"""Cables bought ready-made against cables made oneself: by size, with the tool that making them takes."""

from dataclasses import dataclass
from functools import cached_property
from math import inf
from typing import NamedTuple

from jaunty_copper.fabrication.cuts import Cut
from jaunty_copper.fabrication.materials import SLEEVE_M, Kind, Line, Workshop
from jaunty_copper.fabrication.packing import Packing
from jaunty_copper.fabrication.prices import lug_price, price_of, rates
from jaunty_copper.language import say


class Crimper(NamedTuple):
    """A kind of crimping tool, with what it crimps.

    Attributes
    ----------
    key : str
        By which a plan's own price replaces it: 0 for one that is there already.
    title, short : str
        For people.
    most_mm2 : float
        Largest conductor.
    """

    key: str
    title: str
    short: str
    most_mm2: float


# Where the one ends and the other begins: representative.
CRIMPERS = (
    Crimper("tool:hand", say("Hand crimping tool, up to 10 mm²"), say("hand"), 10.5),
    Crimper("tool:lever", say("Lever or hydraulic crimping tool, above 10 mm²"), say("lever"), inf),
)


class SizeOffer(NamedTuple):
    """The cables of one size that have a lug at both ends, bought either way.

    Attributes
    ----------
    tool : str
        Key of what crimps them.
    cables : int
        How many.
    metres : float
        Of all of them, m, as they are cut.
    ready, own : float
        Price of all of them bought ready-made; of what making them takes besides the tool: cable as it is sold, lugs,
        sleeves.
    ends, own_ends : float
        Price of both ends of one, crimped; of their lugs and sleeves, mean.
    metre, own_metre : float
        Price of a metre, ready-made; of cable, by the metre.
    """

    conductor: str
    tool: str
    cables: int
    metres: float
    ready: float
    own: float
    ends: float
    own_ends: float
    metre: float
    own_metre: float

    @property
    def saved(self) -> float:
        """What making them saves, the tool apart; below 0 where ready-made ones cost less."""
        return self.ready - self.own

    def made_m(self, tool: float) -> tuple[float, float]:
        """Between which lengths one such cable costs less made oneself, m; the second no more than the first where at none.

        Parameters
        ----------
        tool : float
            Each cable's share of the price of the tool.
        """
        at_ends, a_metre = self.ends - self.own_ends - tool, self.metre - self.own_metre
        if a_metre == 0.0:
            return (0.0, inf) if at_ends > 0.0 else (0.0, 0.0)
        even = -at_ends / a_metre
        return (max(even, 0.0), inf) if a_metre > 0.0 else (0.0, max(even, 0.0))


class ToolChoice(NamedTuple):
    """A tool, and whether making cables pays for it.

    Attributes
    ----------
    price : float
        Without currency.
    needed : int
        Cables that want it in any case: with a lug at one end, and those that no length sold ready-made reaches.
    saves : float
        What it saves over ready-made cables, of those sizes that it saves at.
    offers : tuple of SizeOffer
        What it crimps, by size.
    """

    crimper: Crimper
    price: float
    needed: int
    saves: float
    offers: tuple[SizeOffer, ...]

    @property
    def is_bought(self) -> bool:
        """Whether it pays, or is wanted in any case."""
        return self.needed > 0 or self.saves > self.price

    @property
    def made(self) -> frozenset[str]:
        """Sizes that are better made."""
        return frozenset(o.conductor for o in self.offers if o.saved > 0.0) if self.is_bought else frozenset()

    @property
    def each(self) -> float:
        """Each cable's share of its price, of those that it would make; 0 where it is wanted in any case."""
        cables = sum(o.cables for o in self.offers)
        return 0.0 if self.needed or not cables else self.price / cables

    @property
    def pays_from(self) -> float:
        """How many cables such as these pay for it; inf where none does."""
        gains = [o for o in self.offers if o.saved > 0.0]
        count = sum(o.cables for o in gains)
        return self.price * count / self.saves if gains else inf


@dataclass(frozen=True)
class ReadyMade:
    """What of a plan's cables to buy ready-made, and what to make.

    Notes
    -----
    Sizes share nothing but the tool, so each is better made where that saves anything at all, and a tool is bought
    where its sizes together save more than it costs. Cable that is bought for others anyway counts: what making costs
    is what the lengths to buy come to with these cables and without.
    """

    shop: Workshop

    @cached_property
    def choices(self) -> tuple[ToolChoice, ...]:
        """Each tool that any cable wants."""
        found = []
        for tool in CRIMPERS:
            offers = tuple(o for o in self.offers if o.tool == tool.key)
            needed = sum(_crimper(self.shop, c) is tool for c in self._in_any_case)
            if offers or needed:
                price = price_of(self.shop.plan, tool.key, rates(tool.key, 0.0)[0])
                found.append(ToolChoice(tool, price, needed, sum(max(o.saved, 0.0) for o in offers), offers))
        return tuple(found)

    @property
    def rows(self) -> tuple[tuple[ToolChoice, SizeOffer], ...]:
        """Each size with the tool that it wants."""
        return tuple((t, o) for t in self.choices for o in t.offers)

    @cached_property
    def offers(self) -> tuple[SizeOffer, ...]:
        """Each size of which there are cables with a lug at both ends, thinnest first."""
        sizes = self.shop.wiring.parts.conductors
        names = sorted({c.conductor for c in self._of_two}, key=lambda x: sizes[x].area_mm2)
        return tuple(self._offer(name) for name in names)

    @cached_property
    def _of_two(self) -> tuple[Cut, ...]:
        return tuple(c for c in self.shop.cuts if c.a.thread and c.b.thread and self.sold_m(c) is not None)

    @cached_property
    def _in_any_case(self) -> tuple[Cut, ...]:
        of_two = {id(c) for c in self._of_two}
        return tuple(c for c in self.shop.cuts if (c.a.thread or c.b.thread) and id(c) not in of_two)

    def sold_m(self, cut: Cut) -> float | None:
        """Length of a cable as it is sold ready-made, m; None where none is as long.

        Equal ones of a bank stay equal: they are bought of one length.
        """
        lengths = self.shop.plan.ready_m
        return min((m for m in lengths if m >= cut.length_m - 1e-9), default=None) if lengths else cut.length_m

    def prices(self, conductor: str) -> tuple[float, float]:
        """Price of both ends of a ready-made cable of a size, and of a metre of it."""
        plan, area = self.shop.plan, self.shop.wiring.parts.conductors[conductor].area_mm2
        ends, metre = (
            price_of(plan, f"{key}:{conductor}", rates(key, area)[0]) for key in ("ready-ends", "ready-metre")
        )
        return ends, metre

    def _offer(self, conductor: str) -> SizeOffer:
        shop, parts = self.shop, self.shop.wiring.parts
        cuts = [c for c in self._of_two if c.conductor == conductor]
        ends, metre = self.prices(conductor)
        metres, sold = sum(c.length_m for c in cuts), sum(self.sold_m(c) or 0.0 for c in cuts)
        lugs = sum(lug_price(shop.plan, parts, conductor, e.thread) for c in cuts for e in (c.a, c.b) if e.thread)
        sleeve = rates("sleeve", 0.0)[0]
        sleeves = sum(
            SLEEVE_M * price_of(shop.plan, f"sleeve:{e.sleeve_mm:g}", sleeve)
            for c in cuts
            for e in (c.a, c.b)
            if e.sleeve_mm is not None
        )
        cable = self._cable(conductor)
        return SizeOffer(
            conductor, _crimper(shop, cuts[0]).key, len(cuts), metres, ends * len(cuts) + metre * sold,
            cable + lugs + sleeves, ends, (lugs + sleeves) / len(cuts), metre, cable / metres,
        )  # fmt: skip

    def _cable(self, conductor: str) -> float:
        """What the lengths to buy of a size cost with these cables more than without them."""
        ready, more = {id(c) for c in self._of_two}, 0.0
        for kind, cuts in self.shop.kinds.items():
            if kind.conductor == conductor:
                rest = tuple(c for c in cuts if id(c) not in ready)
                more += self._bought(kind, self.shop.packings[kind], cuts)
                more -= self._bought(kind, self.shop.pack_of(kind, rest), rest)
        return more

    def _bought(self, kind: Kind, packing: Packing | str, cuts: tuple[Cut, ...]) -> float:
        """Price of what is bought for some cuts; by the metre where no length that can be had holds one."""
        if isinstance(packing, Packing):
            return packing.cost
        return self.shop.metre_price(kind) * sum(c.length_m for c in cuts)

    @cached_property
    def price_lines(self) -> tuple[Line, ...]:
        """What the comparison goes by besides the list of materials: a price a line, to put one's own in."""
        parts = self.shop.wiring.parts
        found = [(t.crimper.key, say("Tools"), t.crimper.title, rates(t.crimper.key, 0.0)[0]) for t in self.choices]
        for o in self.offers:
            size = parts.conductors[o.conductor]
            for key, words in (
                ("ready-ends", say("ready-made cable {size}: both ends, crimped", size=size.label)),
                ("ready-metre", say("ready-made cable {size}: a metre of it", size=size.label)),
            ):
                found.append((f"{key}:{o.conductor}", say("Ready-made"), words, rates(key, size.area_mm2)[0]))
        return tuple(self.shop.line(key, group, what, 1.0, "", price, 0.0) for key, group, what, price in found)


def _crimper(shop: Workshop, cut: Cut) -> Crimper:
    area = shop.wiring.parts.conductors[cut.conductor].area_mm2
    return next(t for t in CRIMPERS if area <= t.most_mm2)
