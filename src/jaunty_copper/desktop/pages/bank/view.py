"""The units where they stand, seen from above, with their links and what each carries."""

from math import hypot, isfinite, sqrt
from typing import NamedTuple

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QContextMenuEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPainterPathStroker,
    QPen,
)
from PySide6.QtWidgets import QToolTip, QWidget

from jaunty_copper.battery.sharing import Share, Sharing
from jaunty_copper.desktop.pages.map.labels import ribbon_width
from jaunty_copper.desktop.widgets import words
from jaunty_copper.desktop.widgets.label import plain_tip
from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.desktop.widgets.theme import LIGHT, Palette, font
from jaunty_copper.desktop.widgets.words import Units
from jaunty_copper.network.study import State
from jaunty_copper.plan.banks import Bank, places, post_at, snapped
from jaunty_copper.plan.model import Bar, Battery, Inline, Plan, Run, split_ref

BAR_BEFORE_MM = 150.0
"""How far before the units the bank's bars are drawn."""
NUDGE_MM = 10.0
SNAP_PX = 9.0
"""How near to a line with others a dragged unit falls into it."""
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


class BankView(Painted):
    """A bank from above: plus links and minus links as copper straps, a gauge on every case."""

    picked = Signal(str)
    moved = Signal(str, float, float)
    """Unit, and where its left front corner shall stand, mm."""
    menu_wanted = Signal(str, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("The bank from above")
        self.setMinimumHeight(210)
        self.palette_: Palette = LIGHT
        self.units = Units()
        self.bank: Bank | None = None
        self.plan: Plan | None = None
        self.state: State | None = None
        self.sharing: Sharing | None = None
        self.moment: Moment | None = None
        self.selected: str | None = None
        self._hover: str | None = None
        self._drag: tuple[str, QPointF, tuple[float, float]] | None = None
        self._dropped: tuple[float, float] | None = None
        self._made: tuple[object, _Placed] | None = None

    def sizeHint(self) -> QSize:
        """As wide as a page, as high as half of it."""
        return QSize(880, 320)

    def show_bank(self, plan: Plan, bank: Bank, state: State, sharing: Sharing) -> None:
        """Show a bank in a solved scenario."""
        self.plan, self.bank, self.state, self.sharing = plan, bank, state, sharing
        self.moment = self._drag = self._dropped = self._made = None
        self.update()

    def show_moment(self, moment: Moment | None) -> None:
        """Show what the units carry some hours on; None for the scenario itself."""
        self.moment = moment
        self.update()

    # Where things are

    def _placed(self) -> _Placed:
        """Where everything stands, made once for a bank, a size and a drag: painting asks for each post."""
        key = (self.width(), self.height(), self._dropped)
        if self._made is None or self._made[0] != key:
            self._made = (key, self._place())
        return self._made[1]

    def _place(self) -> _Placed:
        assert self.plan is not None
        assert self.bank is not None
        found = places(tuple(x for x in self.plan.items if isinstance(x, Battery)))
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

    # Painting

    def draw(self, p: QPainter) -> None:
        """Paint cases, straps, take-offs and gauges."""
        c = self.palette_
        p.fillRect(self.rect(), QColor(c.paper))
        if self.bank is None or self.plan is None:
            p.setPen(QColor(c.soft))
            p.setFont(font(14))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "There is no battery in this plan yet")
            return
        for unit in self.bank.units:
            self._case(p, unit)
        for bars in self._bars().values():
            for bar in bars:
                self._bar(p, bar)
        for id_ in self.bank.inside:
            self._strap(p, self.plan.run_by_id[id_])
        for x in self._inlines():
            self._inline(p, x)
        self._takeoffs(p)
        for unit in self.bank.units:
            self._figures(p, unit)
            self._posts(p, unit)
        if self.moment is not None:
            p.setPen(QColor(c.accent))
            p.setFont(font(14, True))
            p.drawText(
                self.rect().adjusted(0, 4, -14, 0), Qt.AlignmentFlag.AlignRight, f"after {self.moment.hour:.1f} h"
            )

    def _share(self, unit: str) -> Share | None:
        return self.sharing.by_unit[unit] if self.sharing is not None else None

    def _amps(self, unit: str) -> float:
        if self.moment is not None:
            return self.moment.current_a[unit]
        share = self._share(unit)
        return share.current_a if share is not None else float("nan")

    def _case(self, p: QPainter, unit: Battery) -> None:
        c, r = self.palette_, self.case(unit)
        chosen = unit.id == self.selected
        p.setPen(QPen(QColor(c.accent if chosen else c.steel), 2.5 if chosen else 1.2))
        p.setBrush(QColor(c.sheet))
        p.drawRoundedRect(r, 5, 5)

    def _figures(self, p: QPainter, unit: Battery) -> None:
        """Name, current and share on the case, over whatever cable runs across it."""
        c, r = self.palette_, self.case(unit)
        amps, share = self._amps(unit.id), self._share(unit.id)
        plate = QColor(c.sheet)
        plate.setAlpha(244)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(plate)
        p.drawRoundedRect(r.adjusted(4, 4, -4, -0.3 * r.height()), 4, 4)
        p.setPen(QColor(c.ink))
        p.setFont(font(13, True))
        head = QRectF(r.x() + 8, r.y() + 6, r.width() - 16, 18)
        p.drawText(head, Qt.AlignmentFlag.AlignLeft, _cut(p, unit.title, head.width()))
        if share is None or not isfinite(amps):
            return
        total = sum(abs(self._amps(u)) for u in self.bank.outlets) if self.bank else 0.0
        part = abs(amps) / total if total > 1e-9 else share.even
        p.setFont(font(19 if r.width() > 110 else 15, True))
        big = QRectF(r.x() + 8, r.y() + 26, r.width() - 16, 24)
        p.drawText(big, Qt.AlignmentFlag.AlignLeft, words.amps(abs(amps)))
        p.setFont(font(12))
        p.setPen(QColor(c.soft))
        way = "charging" if amps < -1e-6 else "giving" if amps > 1e-6 else "at rest"
        small = QRectF(r.x() + 8, r.y() + 50, r.width() - 16, 17)
        text = f"{100 * part:.0f} % · {way}" if r.width() > 110 else f"{100 * part:.0f} %"
        p.drawText(small, Qt.AlignmentFlag.AlignLeft, _cut(p, text, small.width()))
        self._gauge(p, r, part, share)

    def _gauge(self, p: QPainter, r: QRectF, part: float, share: Share) -> None:
        """Share of the load against an even share, which is at the middle of the gauge."""
        c = self.palette_
        room = r.bottom() - r.top()
        y = r.top() + min(72.0, 0.6 * room)
        track = QRectF(r.x() + 8, y, r.width() - 16, 9)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(c.raised))
        p.drawRoundedRect(track, 4, 4)
        full = min(part / (2.0 * share.even), 1.0) if share.even else 0.0
        over = share.used > 1.0 and self.moment is None
        filled = QRectF(track.x(), track.y(), track.width() * full, track.height())
        p.setBrush(QBrush(QColor(c.over), Qt.BrushStyle.BDiagPattern) if over else QColor(c.accent))
        p.drawRoundedRect(filled, 4, 4)
        middle = track.center().x()
        p.setPen(QPen(QColor(c.ink), 2))
        p.drawLine(QPointF(middle, track.top() - 3), QPointF(middle, track.bottom() + 3))
        if room > 120 and self.moment is not None:
            self._charge(p, r, track)
        elif room > 120:
            p.setPen(QColor(c.soft))
            p.setFont(font(11))
            what = QRectF(track.x(), track.bottom() + 5, track.width(), 15)
            p.drawText(
                what,
                Qt.AlignmentFlag.AlignLeft,
                _cut(
                    p,
                    f"{abs(share.c_rate):.2f} C of {share.limit_a / max(self._held(share.unit), 1e-9):.2g} C",
                    what.width(),
                ),
            )

    def _held(self, unit: str) -> float:
        assert self.bank is not None
        return self.bank.by_id[unit].capacity_ah * self.bank.by_id[unit].capacity_share

    def _charge(self, p: QPainter, r: QRectF, track: QRectF) -> None:
        assert self.moment is not None
        c = self.palette_
        unit = next(u for u in self.bank.units if self.case(u) == r) if self.bank else None
        if unit is None:
            return
        soc = self.moment.soc_percent[unit.id]
        p.setPen(QColor(c.ink))
        p.setFont(font(12))
        p.drawText(
            QRectF(track.x(), track.bottom() + 5, track.width(), 16), Qt.AlignmentFlag.AlignLeft, f"{soc:.1f} % charged"
        )

    def _strap(self, p: QPainter, run: Run) -> None:
        path = self.strap(run)
        if path is None or self.state is None:
            return
        c = self.palette_
        area = self.state.wiring.parts.conductors[run.conductor].area_mm2 * run.parallel
        width = max(4.0, ribbon_width(area) * 0.7)
        chosen = run.id == self.selected
        if chosen:
            p.setPen(QPen(QColor(c.ink), width + 5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(path)
        bad = _joints(run) > 5e-4
        p.setPen(
            QPen(
                QColor(c.over) if bad else c.copper(0.35 + 0.5 * self._hotness(run)),
                width,
                Qt.PenStyle.SolidLine,
                Qt.PenCapStyle.RoundCap,
            )
        )
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        at = path.pointAtPercent(0.5)
        if not bad and path.length() < 46.0:
            return
        text = f"bad joint · {self.units.length(run.length_m)}" if bad else self.units.length(run.length_m)
        p.setFont(font(11, bad))
        w = p.fontMetrics().horizontalAdvance(text) + 8
        box = QRectF(at.x() - w / 2, at.y() - width / 2 - 17, w, 15)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(c.paper))
        p.drawRoundedRect(box, 3, 3)
        p.setPen(QColor(c.over if bad else c.soft))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _hotness(self, run: Run) -> float:
        """Loss of a link against the worst of the bank, 0 to 1."""
        if self.sharing is None:
            return 0.0
        most = max(self.sharing.heat_w.values(), default=0.0)
        return self.sharing.heat_w[run.id] / most if most > 0.0 else 0.0

    def _bar(self, p: QPainter, bar: Bar) -> None:
        c = self.palette_
        ends = [self.post(bar.ref(t)) for t in bar.terminal_names]
        first, last = ends[0], ends[-1]
        if first is None or last is None:
            return
        p.setPen(QPen(QColor(c.steel), 1))
        p.setBrush(c.copper(0.2))
        box = QRectF(first.x() - 12, first.y() - 8, last.x() - first.x() + 24, 16)
        p.drawRoundedRect(box, 3, 3)
        p.setFont(font(11))
        p.setPen(QColor(c.soft))
        left = bar in self._bars()["plus"]
        beside = (
            QRectF(box.left() - 166, box.y() - 1, 160, 18) if left else QRectF(box.right() + 6, box.y() - 1, 160, 18)
        )
        side = Qt.AlignmentFlag.AlignRight if left else Qt.AlignmentFlag.AlignLeft
        p.drawText(beside, side | Qt.AlignmentFlag.AlignVCenter, bar.title)

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

    def _inline(self, p: QPainter, x: Inline) -> None:
        c, box = self.palette_, self._box(x)
        chosen = x.id == self.selected
        p.setPen(QPen(QColor(c.accent if chosen else c.steel), 2.5 if chosen else 1.4))
        p.setBrush(QColor(c.sheet))
        p.drawRoundedRect(box, 3, 3)
        p.setPen(QColor(c.ink))
        p.setFont(font(11, True))
        rating = getattr(x, "rating_a", None)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{rating:g} A" if rating else _cut(p, x.title, 42))

    def _takeoffs(self, p: QPainter) -> None:
        """Where the rest of the system is joined, as an arrow with the name of what comes next."""
        assert self.plan is not None
        assert self.bank is not None
        c = self.palette_
        for side, refs in self.bank.takeoffs.items():
            for ref in refs:
                at = self.post(ref)
                runs = [r for r in self.plan.runs_at.get(ref, ()) if r.id not in self.bank.inside]
                if at is None or not runs:
                    continue
                # Minus reaches lower, so that two names side by side do not collide.
                reach = 44 if side == "plus" else 62
                down = QPointF(at.x(), min(at.y() + reach, self.height() - (26 if side == "plus" else 8)))
                p.setPen(QPen(QColor(c.ink), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
                p.drawLine(at, down)
                p.setBrush(QColor(c.ink))
                head = QPainterPath(QPointF(down.x(), down.y() + 7))
                head.lineTo(down.x() - 5, down.y() - 2)
                head.lineTo(down.x() + 5, down.y() - 2)
                head.closeSubpath()
                p.drawPath(head)
                names = ", ".join(dict.fromkeys(self._beyond(r, ref) for r in runs))
                p.setFont(font(12, True))
                text = f"{'+' if side == 'plus' else '−'} to {names}"
                p.drawText(QPointF(down.x() + 9, down.y() + 5), _cut(p, text, 220))

    def _beyond(self, run: Run, ref: str) -> str:
        assert self.plan is not None
        return self.plan.by_id[split_ref(run.b if run.a == ref else run.a)[0]].title

    def _posts(self, p: QPainter, unit: Battery) -> None:
        c = self.palette_
        for terminal, sign in (("plus", "+"), ("minus", "−")):
            at = self.post(unit.ref(terminal))
            if at is None:
                continue
            p.setPen(QPen(QColor(c.ink), 1.4))
            p.setBrush(QColor(c.sheet))
            p.drawEllipse(at, 9, 9)
            p.setFont(font(14, True))
            p.drawText(QRectF(at.x() - 9, at.y() - 10, 18, 19), Qt.AlignmentFlag.AlignCenter, sign)

    # Mouse and keyboard

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

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select; begin to drag a unit."""
        found = self.hit(event.position())
        self.select(found)
        if found and self.bank and found in self.bank.by_id and event.button() == Qt.MouseButton.LeftButton:
            self._drag = (found, event.position(), self.at[found])

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag a unit; otherwise say by the cursor what can be taken."""
        if self._drag is None:
            over = self.hit(event.position())
            self.setCursor(
                Qt.CursorShape.OpenHandCursor
                if over and self.bank and over in self.bank.by_id
                else Qt.CursorShape.ArrowCursor
            )
            return
        _, start, (x, y) = self._drag
        gone = event.position() - start
        if self._dropped is None and abs(gone.x()) + abs(gone.y()) < 6:
            return
        k = self.scale
        assert self.plan is not None
        batteries = tuple(b for b in self.plan.items if isinstance(b, Battery))
        near = round((x + gone.x() / k) / 5) * 5.0, round((y - gone.y() / k) / 5) * 5.0
        self._dropped = snapped(batteries, self._drag[0], *near, SNAP_PX / k)
        self.update()

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        """Put a dragged unit down."""
        drag, dropped, self._drag, self._dropped = self._drag, self._dropped, None, None
        if drag is not None and dropped is not None:
            self.moved.emit(drag[0], *dropped)
        self.update()

    def select(self, id_: str | None) -> None:
        """Select a unit or link."""
        self.selected = id_
        self.picked.emit(id_ or "")
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Go from thing to thing; move the selected unit."""
        if self.bank is None:
            return
        order = [*(u.id for u in self.bank.units), *self.bank.inside, *(x.id for x in self._inlines())]
        step = {Qt.Key.Key_Tab: 1, Qt.Key.Key_Space: 1, Qt.Key.Key_Backtab: -1}.get(Qt.Key(event.key()))
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        way = ways.get(Qt.Key(event.key()))
        if step is not None:
            at = order.index(self.selected) + step if self.selected in order else 0
            self.select(order[at % len(order)])
        elif way is not None and self.selected in self.bank.by_id:
            x, y = self.at[self.selected]
            self.moved.emit(self.selected, x + way[0] * NUDGE_MM, y + way[1] * NUDGE_MM)
        elif event.key() in (Qt.Key.Key_Menu, Qt.Key.Key_Return, Qt.Key.Key_Insert) and self.selected:
            self.menu_wanted.emit(self.selected, self.mapToGlobal(self.rect().center()))
        else:
            super().keyPressEvent(event)

    def focusNextPrevChild(self, _: bool) -> bool:
        """Keep Tab for going from unit to unit; F6 and F7 leave."""
        return False

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Ask for what can be done here."""
        found = self.hit(QPointF(event.pos())) or self.selected
        if found:
            self.select(found)
            self.menu_wanted.emit(found, QPoint(event.globalPos()))

    def event(self, event: QEvent) -> bool:
        """Tell what is under the mouse."""
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            text = self.tip(self.hit(QPointF(event.pos())))
            QToolTip.showText(event.globalPos(), plain_tip(text), self)
            return True
        return super().event(event)

    def tip(self, id_: str | None) -> str:
        """What to say about a unit or link."""
        if id_ is None or self.bank is None or self.plan is None or self.sharing is None or self.state is None:
            return ""
        if id_ in self.bank.by_id:
            s = self.sharing.by_unit[id_]
            return (
                f"{self.bank.by_id[id_].title}: {words.amps(abs(s.current_a))} of {words.amps(s.limit_a)}, "
                f"{abs(s.c_rate):.3f} C, {words.volts(s.terminal_v)} between its posts"
            )
        if id_ not in self.plan.run_by_id:
            return f"{self.plan.by_id[id_].title}: {words.amps(self.state.current(id_))}"
        run = self.plan.run_by_id[id_]
        return f"{id_}: {words.amps(abs(self.state.current(id_)))}, {1000 * abs(self.state.drop(id_)):.1f} mV, {self.sharing.heat_w[id_]:.2f} W, {self.units.length(run.length_m)}"


def _joints(run: Run) -> float:
    return max(run.joint_a_ohm or 0.0, run.joint_b_ohm or 0.0)


def _cut(p: QPainter, text: str, width: float) -> str:
    return p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(width))
