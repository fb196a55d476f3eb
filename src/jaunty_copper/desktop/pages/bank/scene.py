"""Where units, links, bars and devices of a bank lie in its picture."""

from math import hypot, sqrt
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import (
    QPainterPath,
    QPainterPathStroker,
)
from PySide6.QtWidgets import QWidget

from jaunty_copper.battery.sharing import Sharing
from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.documents.words import Units
from jaunty_copper.network.state import State
from jaunty_copper.plan.banks import Bank, post_at, unit_places
from jaunty_copper.plan.model import Bar, Battery, Inline, Plan, Run, split_ref

BAR_BEFORE_MM = 150.0
"""How far before the units the bank's bars are drawn."""
INLINE_PX = 20.0
"""Half of what a fuse in a lead takes up."""


class Moment(NamedTuple):
    """What the units carry at one moment: solved in a scenario, or some hours on."""

    hour: float
    current_a: dict[str, float]
    soc_percent: dict[str, float]


class _Placed(NamedTuple):
    """Where things stand: units and frame (left, front, right, back) in mm, bars by side, pixels a mm."""

    at: dict[str, tuple[float, float]]
    bars: dict[str, list[Bar]]
    frame: tuple[float, float, float, float]
    scale: float


class BankScene(Painted):
    """A bank from above, with what lies where."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.palette_: Palette = LIGHT
        self.units = Units()
        self.bank: Bank | None = None
        self.plan: Plan | None = None
        self.state: State | None = None
        self.sharing: Sharing | None = None
        self.moment: Moment | None = None
        self.selected: str | None = None
        self._drag: tuple[str, QPointF, tuple[float, float]] | None = None
        self._dropped: tuple[float, float] | None = None
        self._made: tuple[object, _Placed] | None = None

    def show_bank(self, plan: Plan, bank: Bank, state: State, sharing: Sharing) -> None:
        """Show a bank in a solved scenario."""
        self.plan, self.bank, self.state, self.sharing = plan, bank, state, sharing
        self.moment = self._drag = self._dropped = self._made = None
        self.update()

    def show_moment(self, moment: Moment | None) -> None:
        """Show what the units carry some hours on; None for the scenario itself."""
        self.moment = moment
        self.update()

    def _placed(self) -> _Placed:
        """Where everything stands, made once for a bank, a size and a drag: painting asks for each post."""
        key = (self.width(), self.height(), self._dropped)
        if self._made is None or self._made[0] != key:
            self._made = (key, self._place())
        return self._made[1]

    def _place(self) -> _Placed:
        assert self.plan is not None
        assert self.bank is not None
        found = unit_places(tuple(x for x in self.plan.items if isinstance(x, Battery)))
        at = {u.id: found[u.id] for u in self.bank.units}
        if self._drag is not None and self._dropped is not None:
            at[self._drag[0]] = self._dropped
        bars = self._bars_of(self.bank, self.plan)
        left = min(at[u.id][0] for u in self.bank.units)
        right = max(at[u.id][0] + u.width_mm for u in self.bank.units)
        front = min(at[u.id][1] for u in self.bank.units)
        front -= (1.6 if bars["plus"] or bars["minus"] else 0.6) * BAR_BEFORE_MM
        back = max(at[u.id][1] + u.depth_mm for u in self.bank.units)
        scale = min(
            (self.width() - 120) / max(right - left, 100.0), (self.height() - 24) / max(back - front, 100.0), 1.2
        )
        return _Placed(at, bars, (left, front, right, back), scale)

    def _bars_of(self, bank: Bank, plan: Plan) -> dict[str, list[Bar]]:
        """Bars that leads end on, by side."""
        found: dict[str, list[Bar]] = {"plus": [], "minus": []}
        if self.state is None:
            return found
        w = self.state.wiring
        for id_ in bank.inside:
            run = plan.run_by_id[id_]
            for ref in (run.a, run.b):
                bar = plan.by_id[split_ref(ref)[0]]
                for side, refs in bank.takeoffs.items():
                    if isinstance(bar, Bar) and bar not in found[side] and w.rail_of(ref) == w.rail_of(refs[0]):
                        found[side].append(bar)
        return found

    @property
    def at(self) -> dict[str, tuple[float, float]]:
        """Left front corner of each unit, mm; a unit that is dragged where it is dragged to."""
        return self._placed().at

    def _bars(self) -> dict[str, list[Bar]]:
        return self._placed().bars

    @property
    def scale(self) -> float:
        """Pixels a millimetre."""
        return self._placed().scale

    def to_view(self, x: float, y: float) -> QPointF:
        """From millimetres to pixels; the back of the bank is at the top."""
        left, front, right, back = self._placed().frame
        k = self.scale
        return QPointF(
            self.width() / 2 + (x - (left + right) / 2) * k, self.height() / 2 + 4 - (y - (front + back) / 2) * k
        )

    def case(self, unit: Battery) -> QRectF:
        """A unit's case in pixels."""
        x, y = self.at[unit.id]
        corner = self.to_view(x, y + unit.depth_mm)
        return QRectF(corner.x(), corner.y(), unit.width_mm * self.scale, unit.depth_mm * self.scale)

    def post(self, ref: str) -> QPointF | None:
        """Where a terminal is drawn, in pixels; None for what is not part of the picture."""
        assert self.bank is not None
        item, terminal = split_ref(ref)
        if item in self.bank.by_id:
            return self.to_view(*post_at(self.bank.by_id[item], self.at[item], terminal))
        left, _, right, _ = self._placed().frame
        front = min(self.at[u.id][1] for u in self.bank.units)
        for side, bars in self._bars().items():
            for bar in bars:
                if bar.id == item:
                    names = bar.terminal_names
                    # Plus bar to the left, minus bar to the right: their take-offs then cross nothing.
                    middle = left + (right - left) * (0.27 if side == "plus" else 0.73)
                    step = min(max(bar.spacing_mm, 26.0 / self.scale), 0.44 * (right - left) / len(names))
                    y = front - BAR_BEFORE_MM * (1.0 + 0.35 * bars.index(bar))
                    return self.to_view(middle + (names.index(terminal) - (len(names) - 1) / 2) * step, y)
        return self._inline_post(item, terminal)

    def _inline_post(self, item: str, terminal: str) -> QPointF | None:
        """A terminal of what stands in a lead: on the way between what is at its two ends."""
        assert self.plan is not None
        thing = self.plan.by_id.get(item)
        if not isinstance(thing, Inline):
            return None
        ends = []
        for own in ("a", "b"):
            runs = self.plan.runs_at.get(thing.ref(own), ())
            far = [r.b if r.a == thing.ref(own) else r.a for r in runs]
            near = next(
                (
                    p
                    for ref in far
                    if not isinstance(self.plan.by_id[split_ref(ref)[0]], Inline) and (p := self.post(ref))
                ),
                None,
            )
            if near is None:
                return None
            ends.append(near)
        middle, way = (ends[0] + ends[1]) / 2, ends[1] - ends[0]
        length = hypot(way.x(), way.y()) or 1.0
        return middle + way / length * (-INLINE_PX if terminal == "a" else INLINE_PX)

    def strap(self, run: Run) -> QPainterPath | None:
        """A link's way: as much longer than the straight one as its length says."""
        a, b = self.post(run.a), self.post(run.b)
        if a is None or b is None:
            return None
        span = hypot(b.x() - a.x(), b.y() - a.y())
        length = 1000.0 * run.length_m * self.scale
        # A flat arc of length L over a span d rises by d sqrt(3/8 (L/d - 1)).
        rise = span * sqrt(max(0.375 * (length / span - 1.0), 0.0)) if span else 0.0
        # Leads to a bar are many and long: they are distinguished by their figures, not by their sag.
        to_bar = (
            any(isinstance(self.plan.by_id[split_ref(ref)[0]], Bar) for ref in (run.a, run.b)) if self.plan else False
        )
        rise = min(rise, 0.06 * self.height() if to_bar else 0.45 * self.height())
        up = split_ref(run.a)[1] == "plus" and split_ref(run.b)[1] == "plus"
        path = QPainterPath(a)
        middle = QPointF((a.x() + b.x()) / 2, (a.y() + b.y()) / 2 + (-2 if up else 2) * rise)
        path.quadTo(middle, b)
        return path

    def _inlines(self) -> list[Inline]:
        """Fuses and other things in the bank's links and leads."""
        assert self.plan is not None
        assert self.bank is not None
        ids = dict.fromkeys(
            split_ref(ref)[0]
            for id_ in self.bank.inside
            for ref in (self.plan.run_by_id[id_].a, self.plan.run_by_id[id_].b)
        )
        return [x for id_ in ids if isinstance(x := self.plan.by_id[id_], Inline) and self.post(x.ref("a")) is not None]

    def _box(self, x: Inline) -> QRectF:
        a, b = self.post(x.ref("a")), self.post(x.ref("b"))
        assert a is not None
        assert b is not None
        middle = (a + b) / 2
        return QRectF(middle.x() - 22, middle.y() - 11, 44, 22)

    def hit(self, at: QPointF) -> str | None:
        """The link or unit at a place."""
        if self.bank is None or self.plan is None:
            return None
        for x in self._inlines():
            if self._box(x).contains(at):
                return x.id
        stroker = QPainterPathStroker()
        stroker.setWidth(14)
        for id_ in self.bank.inside:
            path = self.strap(self.plan.run_by_id[id_])
            if path is not None and stroker.createStroke(path).contains(at):
                return id_
        return next((u.id for u in self.bank.units if self.case(u).contains(at)), None)
