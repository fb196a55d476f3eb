"""Tables of what is made and bought, each defined once: its rows, what a file holds of them, and what a window shows."""

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple, Protocol

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import Cell, Column, Table
from jaunty_copper.fabrication.cuts import Cut
from jaunty_copper.language import say
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
    ListColumn("way_m", say("Length, m"), lambda _, c: c.way_m, 66, lambda _, c, u: u.length(c.way_m), True),
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
    ListColumn("group", say("Group"), lambda _, x: x.group, 130),
    ListColumn("what", say("What"), lambda _, x: x.what, 0),
    ListColumn("quantity", say("Quantity"), lambda _, x: x.quantity, 84, lambda _d, x, _u: f"{x.quantity:g} {x.unit}".strip(), True),
    ListColumn("unit", "", lambda _, x: x.unit),
    ListColumn("price", say("Price"), lambda _, x: x.price, 84, lambda _d, x, _u: f"{x.price:.2f}{'' if x.own_price else ' *'}", True),
    ListColumn("total", say("Total"), lambda _, x: x.total, 84, lambda _d, x, _u: f"{x.total:.2f}", True),
    ListColumn("mass_kg", say("Mass, kg"), lambda _, x: x.quantity * x.mass_kg, 78, lambda _d, x, _u: f"{x.quantity * x.mass_kg:.3g}", True),
    ListColumn("price_from", "", lambda _, x: say("own") if x.own_price else say("representative")),
))  # fmt: skip
PRICE = 3
"""The column of a window that is typed into."""
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
