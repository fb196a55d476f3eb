"""An alteration as documents: its steps, what it needs bought, what is used again, and what to read before and after."""

from functools import cached_property
from math import nan

from jaunty_copper.commissioning.points import Point
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import Table, column
from jaunty_copper.fabrication.altering.steps import PARTS, Alteration, alteration
from jaunty_copper.fabrication.altering.stock import ChangeMaterials, needs
from jaunty_copper.fabrication.cuts import Cut
from jaunty_copper.language import say
from jaunty_copper.parts.figures import quantity, short
from jaunty_copper.plan.model import split_ref

UNITS = {"volts": "V", "joint": "V", "amps": "A", "celsius": "°C"}
MOST_READINGS = 40


class AlterationSheet:
    """What is done between two plans.

    Parameters
    ----------
    before, after : Dossier
        The plan as it is, and as it shall be.

    Attributes
    ----------
    done : frozenset of str
        Ids of the steps that are ticked: those of the second plan, until others are.
    """

    def __init__(self, before: Dossier, after: Dossier) -> None:
        self.before, self.after = before, after
        self.done = frozenset(after.plan.done)

    @cached_property
    def found(self) -> Alteration:
        """The steps, and what they go by."""
        return alteration(self.before.study.wiring, self.after.study.wiring)

    @cached_property
    def needs(self) -> ChangeMaterials:
        """What is bought, used again and left."""
        return needs(self.found.work, self.before.shop, self.after.shop)

    @cached_property
    def stays_live(self) -> str:
        """What stays live while hands are at work, as people call it; empty where nothing does."""
        plan = self.found.work.now
        named = (split_ref(ref) for ref in self.found.stays_live)
        return ", ".join(f"{plan.by_id[owner].title} {terminal}" for owner, terminal in named)

    @cached_property
    def readings(self) -> tuple[tuple[Point, float, float], ...]:
        """What a meter reads at the places of the work before and after, with everything on; nan where one has no such place."""
        mine = {was: id_ for id_, was in self.found.work.old_id.items()}

        def renamed(ref: str) -> str:
            owner, dot, terminal = ref.partition(".")
            return f"{mine.get(owner, owner)}{dot}{terminal}"

        def expected(d: Dossier) -> dict[Point, float]:
            return {e.point: e.value for e in d.bench.expected()} if d.bench is not None else {}

        one = {Point(p.quantity, renamed(p.a), renamed(p.b)): v for p, v in expected(self.before).items()}
        other, work = expected(self.after), self.found.work
        about = {
            *work.removed,
            *work.fitted,
            *work.runs_out,
            *work.runs_in,
            *work.inserts,
            *(r for r, _ in work.lifted),
        }
        about |= {split_ref(ref)[0] for ref in work.touched} | {d.id for d in work.settings}
        found = [
            (p, one.get(p, nan), other.get(p, nan)) for p in dict.fromkeys((*other, *one))
            if {split_ref(p.a)[0], split_ref(p.b)[0]} & about
        ]  # fmt: skip
        return tuple(found[:MOST_READINGS])

    def _size(self, cut: Cut) -> str:
        return self.before.study.wiring.parts.conductors[cut.conductor].label

    def tables(self) -> tuple[Table, ...]:
        """All of it, for the window, files and the command line; no rows where hands have nothing to do."""
        steps, stock = self.found.steps, self.needs
        what, wide = say("What"), 30.0
        return (
            Table(
                "work", say("Order of the work"),
                (column("step", say("Step"), 4), column("part", say("Part"), 9), column("what", say("What to do"), wide), column("caution", say("Caution"), 24), column("done", say("Done"), 5)),
                tuple((k, PARTS[s.part], s.text, s.caution, "x" if s.id in self.done else "") for k, s in enumerate(steps, 1)),
            ),
            Table(
                "buy", say("Materials of the change"),
                (column("what", what, wide), column("quantity", say("Quantity"), 8), column("unit", say("Unit"), 6), column("price", say("Price"), 8)),
                tuple((x.what, short(x.quantity), x.unit, short(x.total)) for x in stock.bought),
            ),
            Table(
                "again", say("Cables used again"),
                (column("id", say("Id"), 8), column("what", say("Cut from"), 12), column("spare", say("Longer by"), 8), column("lugs", say("New lugs"), 8)),
                tuple((x.new.run, x.old.run, quantity(x.spare_m, "m"), x.new_lugs) for x in stock.again),
            ),
            Table(
                "left", say("Left over"),
                (column("what", what, wide), column("quantity", say("Quantity"), 8), column("unit", say("Unit"), 6)),
                (
                    *((say("cable {label}, {size}", label=c.label, size=self._size(c)), short(c.length_m), "m") for c in stock.spare),
                    *((x.what, short(x.quantity), x.unit) for x in stock.left),
                ),
            ),
            Table(
                "readings", say("Readings before and after"),
                (column("quantity", say("Quantity"), 8), column("what", say("Where"), wide), column("before", say("Before"), 10), column("after", say("After"), 10)),
                tuple((p.quantity, _where(p), _value(p, a), _value(p, b)) for p, a, b in self.readings),
            ),
        )  # fmt: skip


def _where(p: Point) -> str:
    return say("{a} to {b}", a=p.a, b=p.b) if p.b else p.a


def _value(p: Point, value: float) -> str:
    return quantity(value, UNITS[p.quantity]) if value == value else ""
