"""Tables of what is made and bought, each defined once: its rows, what a file holds of them, and what a window shows."""

from collections.abc import Callable, Sequence
from math import ceil, isfinite
from typing import Any, NamedTuple, Protocol

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import Cell, Column, Table
from jaunty_copper.fabrication.cuts import Cut
from jaunty_copper.fabrication.materials import Line
from jaunty_copper.fabrication.ready_made import SizeOffer, ToolChoice
from jaunty_copper.language import say, say_many
from jaunty_copper.network.conduits import Fill
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.parts.models import Conductor


class Spelling(Protocol):
    """How lengths and sizes are spelt: metric or AWG."""

    def length(self, metres: float) -> str:
        """A conductor's length.

        Parameters
        ----------
        metres : float
            m.
        """

    def size(self, conductor: Conductor, parts: Catalogue) -> str:
        """A conductor's size."""


class ListColumn(NamedTuple):
    """A column of a listing.

    Attributes
    ----------
    name : str
        In files; empty where only a window has it.
    title : str
        For people.
    read : callable
        From a dossier and a row to the cell of a file.
    px : int or None
        Width in a window, the one with 0 taking what is left; None where only files have it.
    text : callable, optional
        From a dossier, a row and a spelling to what the window shows; the cell itself where none is given.
    right : bool
        Whether figures stand at the right.
    width : float
        Share of a page.
    """

    name: str
    title: str
    read: Callable[[Dossier, Any], Cell] | None = None
    px: int | None = None
    text: Callable[[Dossier, Any, Spelling], str] | None = None
    right: bool = False
    width: float = 10.0

    def shown(self, d: Dossier, row: object, spelling: Spelling) -> str:
        """What a window shows of a row."""
        if self.text is not None:
            return self.text(d, row, spelling)
        value = self.read(d, row) if self.read is not None else None
        return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


class Listing(NamedTuple):
    """A table by its columns, over rows of one kind."""

    name: str
    title: str
    rows: Callable[[Dossier], Sequence[Any]]
    columns: tuple[ListColumn, ...]

    def table(self, d: Dossier) -> Table:
        """As files have it."""
        written = [(c, c.read) for c in self.columns if c.read is not None and c.name]
        head = tuple(Column(c.name, c.title or c.name, c.width) for c, _ in written)
        return Table(self.name, self.title, head, tuple(tuple(read(d, x) for _, read in written) for x in self.rows(d)))


def _mark(d: Dossier, cut: Cut) -> str:
    return f"{cut.run}.{cut.number}" if d.plan.run_by_id[cut.run].parallel > 1 else cut.run


def _equal(cut: Cut) -> str:
    others = cut.equal.split()
    if len(others) < 4:
        return cut.equal
    return say("{first} and {more} others", first=others[0], more=len(others) - 1)


def _many(line: Line) -> str:
    """How many are wanted, and in how many packs they come."""
    wanted = f"{line.quantity:g} {line.unit}".strip()
    return say("{wanted} in {packs:g}", wanted=wanted, packs=line.bought) if line.pack else wanted


def _priced(line: Line) -> str:
    """A price, of how many it is where they are sold in packs, and whether it is representative."""
    pack = f" / {line.pack}" if line.pack else ""
    return f"{line.price:.2f}{pack}{'' if line.own_price else ' *'}"


def _size(d: Dossier, conductor: str) -> str:
    return d.shop.wiring.parts.conductors[conductor].label


def _pays(row: tuple[ToolChoice, SizeOffer]) -> tuple[float | None, float | None]:
    """Lengths between which making pays, m; without an end where every longer one does, nothing where none does."""
    tool, offer = row
    low, high = offer.made_m(tool.each)
    return (None, None) if high <= low else (low, high if isfinite(high) else None)


def _pays_words(row: tuple[ToolChoice, SizeOffer], units: Spelling) -> str:
    low, high = _pays(row)
    if low is None:
        return say("never")
    if high is not None:
        return say("up to {length}", length=units.length(high))
    return say("from {length}", length=units.length(low)) if low else say("at any length")


def _advice(row: tuple[ToolChoice, SizeOffer]) -> str:
    tool, offer = row
    return say("make them") if offer.conductor in tool.made else say("ready-made")


def choice_words(tool: ToolChoice) -> str:
    """What a crimping tool saves over ready-made cables, and from how many on it pays, in words."""
    title, price, saves = tool.crimper.title, tool.price, tool.saves
    if tool.needed and not tool.offers:
        return say_many(
            "{tool}: wanted in any case, for {count} cable with a lug at one end only.",
            "{tool}: wanted in any case, for {count} cables with a lug at one end only.",
            tool.needed, tool=title,
        )  # fmt: skip
    if tool.needed:
        return say_many(
            "{tool}: wanted in any case, for {count} cable that is not sold ready-made; making the others with it saves {saves:.2f}.",
            "{tool}: wanted in any case, for {count} cables that are not sold ready-made; making the others with it saves {saves:.2f}.",
            tool.needed, tool=title, saves=saves,
        )  # fmt: skip
    if not isfinite(tool.pays_from):
        return say(
            "{tool}: ready-made cables cost no more than what making them takes; nothing pays for it.", tool=title
        )
    many = ceil(tool.pays_from - 1e-9)
    if tool.is_bought:
        return say(
            "{tool}, {price:.2f}: making the cables saves {saves:.2f}, more than it costs; it pays from {many} such cables on.",
            tool=title, price=price, saves=saves, many=many,
        )  # fmt: skip
    return say(
        "{tool}, {price:.2f}: making the cables would save {saves:.2f}, less than it costs; it would pay from {many} such cables on.",
        tool=title, price=price, saves=saves, many=many,
    )  # fmt: skip


def _filled(f: Fill) -> str:
    if f.route.inner_mm is None:
        return say("open")
    mark = "▲ " if f.full else ""
    return say("{mark}{share:.0f} of {limit:.0f} %", mark=mark, share=100.0 * f.share, limit=100.0 * f.limit)


CUTS = Listing("cuts", say("Cut list"), lambda d: d.shop.cuts, (
    ListColumn("run", "", lambda _, c: c.run),
    ListColumn("number", "", lambda _, c: c.number),
    ListColumn("", say("Cable"), None, 60, lambda d, c, _: _mark(d, c)),
    ListColumn("size", say("Size"), lambda d, c: d.shop.wiring.parts.conductors[c.conductor].label, 74,
               lambda d, c, u: u.size(d.shop.wiring.parts.conductors[c.conductor], d.shop.wiring.parts)),
    ListColumn("insulation", "", lambda d, c: d.shop.wiring.parts.insulations[c.insulation].label),
    ListColumn("colour", say("Colour"), lambda _, c: c.colour, 74),
    ListColumn("cut_m", say("Cut, mm"), lambda _, c: c.length_m, 68, lambda _d, c, _u: f"{1000.0 * c.length_m:.0f}", True),
    ListColumn("way_m", say("Length, m"), lambda _, c: c.way_m, 74, lambda _, c, u: u.length(c.way_m), True),
    ListColumn("", say("Lugs"), None, 92, lambda _d, c, _u: f"{c.a.thread or say('bare')} – {c.b.thread or say('bare')}"),
    ListColumn("equal_to", say("Equal to"), lambda _, c: c.equal, 130, lambda _d, c, _u: _equal(c)),
    ListColumn("lug_a", "", lambda _, c: c.a.thread),
    ListColumn("angle_a", "", lambda _, c: c.a.angle if c.a.thread else None),
    ListColumn("lug_b", "", lambda _, c: c.b.thread),
    ListColumn("angle_b", "", lambda _, c: c.b.angle if c.b.thread else None),
    ListColumn("sleeve_a_mm", "", lambda _, c: c.a.sleeve_mm if c.a.thread else None),
    ListColumn("sleeve_b_mm", "", lambda _, c: c.b.sleeve_mm if c.b.thread else None),
    ListColumn("from", "", lambda _, c: c.a.ref),
    ListColumn("to", "", lambda _, c: c.b.ref),
    ListColumn("label", say("Label"), lambda _, c: c.label, 0),
))  # fmt: skip
MATERIALS = Listing("materials", say("Materials"), lambda d: d.shop.lines, (
    ListColumn("key", "", lambda _, x: x.key),
    ListColumn("group", say("Group"), lambda _, x: x.group, 108),
    ListColumn("what", say("What"), lambda _, x: x.what, 0),
    ListColumn("quantity", say("Quantity"), lambda _, x: x.quantity, 78, lambda _d, x, _u: _many(x), True),
    ListColumn("unit", "", lambda _, x: x.unit),
    ListColumn("price", say("Price"), lambda _, x: x.price, 96, lambda _d, x, _u: _priced(x), True),
    ListColumn("pack", "", lambda _, x: x.pack or None),
    ListColumn("total", say("Total"), lambda _, x: x.total, 76, lambda _d, x, _u: f"{x.total:.2f}", True),
    ListColumn("mass_kg", say("Mass, kg"), lambda _, x: x.quantity * x.mass_kg, 70, lambda _d, x, _u: f"{x.quantity * x.mass_kg:.3g}", True),
    ListColumn("price_from", "", lambda _, x: say("own") if x.own_price else say("representative")),
))  # fmt: skip
PRICE = 3
"""The column of a window that is typed into."""
READY_MADE = Listing("ready_made", say("Ready-made cables"), lambda d: d.ready_made.rows, (
    ListColumn("size", say("Size"), lambda d, r: _size(d, r[1].conductor), 74, lambda d, r, u: u.size(d.shop.wiring.parts.conductors[r[1].conductor], d.shop.wiring.parts), width=9),
    ListColumn("cables", say("Cables"), lambda _, r: r[1].cables, 64, right=True, width=7),
    ListColumn("length_m", say("Length, m"), lambda _, r: r[1].metres, 82, lambda _, r, u: u.length(r[1].metres), True, 9),
    ListColumn("ready_made", say("Ready-made"), lambda _, r: round(r[1].ready, 2), 96, lambda _d, r, _u: f"{r[1].ready:.2f}", True, 11),
    ListColumn("own", say("Cable, lugs, sleeves"), lambda _, r: round(r[1].own, 2), 136, lambda _d, r, _u: f"{r[1].own:.2f}", True, 11),
    ListColumn("saved", say("Making saves"), lambda _, r: round(r[1].saved, 2), 104, lambda _d, r, _u: f"{r[1].saved:.2f}", True, 11),
    ListColumn("making_pays_from_m", say("Making pays from, m"), lambda _, r: _pays(r)[0], width=9),
    ListColumn("making_pays_to_m", say("to, m"), lambda _, r: _pays(r)[1], width=7),
    ListColumn("", say("Making pays"), None, 110, lambda _d, r, u: _pays_words(r, u), True),
    ListColumn("advice", say("Cheaper"), lambda _, r: _advice(r), 116, width=12),
    ListColumn("tool", say("Tool"), lambda _, r: r[0].crimper.short, 0, width=9),
))  # fmt: skip
READY_PRICES = Listing("ready_prices", say("Prices for that"), lambda d: d.ready_made.price_lines, (
    ListColumn("what", say("What"), lambda _, x: x.what, 0),
    ListColumn("price", say("Price"), lambda _, x: x.price, 96, lambda _d, x, _u: _priced(x), True),
))  # fmt: skip
READY_PRICE = 1
STUDS = Listing("terminals", say("Studs and lugs"), lambda d: d.shop.stacks, (
    ListColumn("terminal", say("Terminal"), lambda _, s: s.ref, 96, width=12),
    ListColumn("at", say("At"), lambda _, s: s.title, 160, width=20),
    ListColumn("stud", say("Stud"), lambda _, s: s.thread, 56, width=7),
    ListColumn("lugs_from_the_metal_up", say("Lugs, from the metal up"), lambda _, s: ", ".join(f"{mark} {words}" for mark, words in s.lugs), 0, width=35),
    ListColumn("torque_nm", say("N m"), lambda _, s: s.torque_nm, 76, lambda _d, s, _u: f"{s.torque_nm:g}{'' if s.own else ' *'}", True, 7),
    ListColumn("stud_material", say("Studs of"), lambda _, s: s.material, width=9),
    ListColumn("torque_from", say("Torque"), lambda _, s: say("own") if s.own else say("representative"), width=14),
))  # fmt: skip
TORQUE = 4
CONDUITS = Listing("conduits", say("Conduits"), lambda d: d.case.fills, (
    ListColumn("route", say("Route"), lambda _, f: f.route.title, 190, width=18),
    ListColumn("inner_mm", say("Inner, mm"), lambda _, f: f.route.inner_mm, 90,
               lambda _d, f, _u: say("open") if f.route.inner_mm is None else f"{f.route.inner_mm:g}", True, 9),
    ListColumn("cables", say("Cables"), lambda _, f: f.cables, 64, right=True, width=8),
    ListColumn("", say("Full"), None, 150, lambda _d, f, _u: _filled(f)),
    ListColumn("", say("Least, mm"), None, 84, lambda _d, f, _u: "" if f.least_mm is None else f"{f.least_mm:g}", True),
    ListColumn("runs", say("Conductors"), lambda _, f: " ".join(f.runs), 0, width=28),
    ListColumn("fill_percent", say("Full, %"), lambda _, f: 100.0 * f.share, width=9),
    ListColumn("limit_percent", say("Limit, %"), lambda _, f: 100.0 * f.limit, width=9),
    ListColumn("verdict", say("Verdict"), lambda _, f: say("too full") if f.full else say("holds") if f.route.inner_mm else say("open")),
    ListColumn("least_inner_mm", say("Least, mm"), lambda _, f: f.least_mm, width=9),
))  # fmt: skip
INNER = 1
