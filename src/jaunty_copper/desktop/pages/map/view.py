"""The map as a widget: look at it, pick, move about, drag studs, by mouse and by keyboard."""

from collections.abc import Iterable, Iterator
from math import hypot, isfinite
from typing import Literal

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QFrame, QToolTip, QWidget

from jaunty_copper.desktop.pages.map import circuit, pulling
from jaunty_copper.desktop.pages.map.carrying import Carry, may_carry, paint_carry, target_of
from jaunty_copper.desktop.pages.map.labels import width_of
from jaunty_copper.desktop.pages.map.lens import LENSES
from jaunty_copper.desktop.pages.map.look import Look
from jaunty_copper.desktop.pages.map.overview import Overview
from jaunty_copper.desktop.pages.map.paint import MapPainter
from jaunty_copper.desktop.pages.map.pulling import Pull
from jaunty_copper.desktop.widgets import words
from jaunty_copper.desktop.widgets.label import plain_tip
from jaunty_copper.desktop.widgets.painting import paint
from jaunty_copper.desktop.widgets.theme import LIGHT, Palette
from jaunty_copper.desktop.widgets.words import Units
from jaunty_copper.desktop.work.picture import Picture
from jaunty_copper.plan.joining import Joinings
from jaunty_copper.plan.model import Bar, Battery, Equipment, Plan, split_ref

SCALES = (0.12, 4.0)
BANDED = ("equipment", "item")
"""What a rectangle drawn over the map selects, besides conductors."""
ALONG = 22.0
"""A stud that is dragged stays on its bar while it is no farther from it; beyond, a conductor is drawn from it."""
ARROWS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}


class MapView(QAbstractScrollArea):
    """The plus-to-minus map.

    What is selected is named by id, a stud by its terminal.
    """

    picked = Signal(str)
    """Something was selected; empty for nothing."""
    menu_wanted = Signal(str, QPoint)
    """A menu for what is selected, at a place on the screen."""
    opened = Signal(str)
    """Something was double-clicked or entered."""
    removal_wanted = Signal(str)
    stud_moved = Signal(str, str, int)
    """Bar, stud, and its new place in the order."""
    joined = Signal(str, str)
    """A conductor was drawn from one terminal, or bar, to another."""
    carried = Signal(str, str)
    """Equipment was dragged to a bar, or a device onto another one."""
    aimed = Signal(str, str, str)
    """One end of a conductor was led elsewhere: the run, a or b, the terminal or bar."""
    connect_wanted = Signal(str)
    """A conductor from what is selected, by keyboard."""
    refused = Signal(str)
    """Why a conductor may not be drawn as it was."""
    fold_wanted = Signal(str)
    """The circuits of a bar are to be folded into one line, or unfolded."""
    row_changed = Signal(str)
    stands = Signal()
    """The map was painted for the first time."""
    moved = Signal()
    """Scale or scroll changed: what is aligned with the map follows."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.viewport().setMouseTracking(True)
        self.setAccessibleName("Map from plus to minus")
        self.setMinimumHeight(160)
        self.picture: Picture | None = None
        self.look = Look(LIGHT, LENSES[0], None, Units())
        self.painted = 0
        self._fitted = True
        self._pan: QPoint | None = None
        self._drag: tuple[str, float] | None = None
        self._press: QPointF | None = None
        self._may_carry = False
        self._from: str | None = None
        self._aims: Literal["a", "b"] | None = None
        self._pull: Pull | None = None
        self._carry: Carry | None = None
        self._band: tuple[QPointF, QPointF] | None = None
        self.overview = Overview(self)
        self.moved.connect(self.overview.follow)
        for bar in (self.horizontalScrollBar(), self.verticalScrollBar()):
            bar.setSingleStep(24)
            bar.valueChanged.connect(self._scrolled)

    # What is shown

    def set_picture(self, picture: Picture) -> None:
        """Show another plan or another study of it."""
        first = self.picture is None or self.picture.plan.name != picture.plan.name
        self.picture = picture
        rows = [r.id for r in picture.diagram.rows]
        if self.look.row not in rows:
            self._set_row(rows[0] if rows else None)
        if self.look.selected is not None and not self._exists(self.look.selected):
            self.select(None)
        self.look.also = frozenset(id_ for id_ in self.look.also if self._exists(id_))
        if self._fitted:
            self.fit()
        else:
            self._range()
        if first:
            self.verticalScrollBar().setValue(0)
        self.overview.follow()
        self.viewport().update()

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.look.palette = palette
        self.viewport().update()

    def set_lens(self, lens_id: str) -> None:
        """Look through another lens."""
        self.look.lens = next(lens for lens in LENSES if lens.id == lens_id)
        self.viewport().update()

    def set_scenario(self, scenario: str | None) -> None:
        """Look at another scenario; None for the worst of all."""
        self.look.scenario = scenario
        self.viewport().update()

    def set_units(self, units: Units) -> None:
        """Show sizes and lengths in other units."""
        self.look.units = units
        self.viewport().update()

    # Selection

    @property
    def selected(self) -> str | None:
        """Id of what is selected, or a stud's terminal."""
        return self.look.selected

    def _exists(self, id_: str) -> bool:
        assert self.picture is not None
        plan = self.picture.plan
        item, _, terminal = id_.partition(".")
        if terminal:
            return item in plan.by_id and terminal in plan.by_id[item].terminal_names
        return id_ in plan.by_id or id_ in plan.run_by_id

    def select(self, id_: str | None, show: bool = False) -> None:
        """Select something, and bring it into view if asked."""
        held = self._fold_of(id_) if id_ else None
        if held is not None:
            self.fold_wanted.emit(held)
        self.look.selected, self.look.also = id_, frozenset()
        row = self.row_of(id_) if id_ else None
        if row is not None:
            self._set_row(row)
        if show and id_:
            self._bring(id_)
        self.viewport().update()
        self.picked.emit(id_ or "")

    def _fold_of(self, id_: str) -> str | None:
        """The bar in whose fold something is hidden."""
        shapes = self.picture.diagram.shapes if self.picture is not None else ()
        return next((s.id for s in shapes if s.kind == "fold" and id_ in s.holds), None)

    @property
    def chosen(self) -> tuple[str, ...]:
        """All that is selected, what was selected first foremost."""
        first = self.look.selected
        return () if first is None else (first, *sorted(self.look.also))

    def add(self, id_: str) -> None:
        """Select something besides what is selected, or no longer."""
        if self.look.selected is None or "." in id_ or "." in self.look.selected:
            self.select(id_)
            return
        if id_ == self.look.selected:
            rest = sorted(self.look.also)
            self.look.selected, self.look.also = (rest[0] if rest else None), frozenset(rest[1:])
        else:
            self.look.also = self.look.also ^ {id_}
        self.viewport().update()
        self.picked.emit(self.look.selected or "")

    def choose(self, ids: Iterable[str]) -> None:
        """Select several things."""
        first, *rest = [*dict.fromkeys(ids)] or [""]
        self.select(first or None)
        self.look.also = frozenset(rest)
        self.viewport().update()
        self.picked.emit(first)

    def all_alike(self) -> None:
        """Select everything on the map of the kind of what is selected; all equipment where nothing is."""
        if self.picture is None:
            return
        plan = self.picture.plan
        first = self.look.selected or ""
        kind = type(plan.run_by_id.get(first) or plan.by_id.get(split_ref(first)[0]))
        kind = Equipment if issubclass(kind, Equipment | type(None)) else kind
        ids = [x.id for x in (*plan.runs, *plan.placed) if isinstance(x, kind)]
        self.choose([i for i in (first, *ids) if i in ids])

    def _in_band(self, one: QPointF, other: QPointF) -> list[str]:
        """What lies in a rectangle of the viewport."""
        assert self.picture is not None
        (x0, y0), (x1, y1) = self.to_map(one), self.to_map(other)
        area = QRectF(QPointF(x0, y0), QPointF(x1, y1)).normalized()
        chart = self.picture.diagram
        found = [s.id for s in (*chart.shapes, *chart.loose) if s.kind in BANDED and area.contains(s.box.cx, s.box.cy)]
        return found + [r.run for r in chart.ribbons if area.contains(*r.point(0.5))]

    def _set_row(self, row: str | None) -> None:
        if row != self.look.row:
            self.look.row = row
            self.row_changed.emit(row or "")

    def row_of(self, id_: str) -> str | None:
        """The row that something is on."""
        assert self.picture is not None
        return circuit.row_of(self.picture, id_)

    def _places(self) -> Iterator[tuple[str, float, float]]:
        """Everything that can be selected, with a point to jump to."""
        assert self.picture is not None
        chart = self.picture.diagram
        for s in (*chart.shapes, *chart.loose):
            if s.kind != "fold" and not (s.kind in ("unit", "bank", "output") and s.side == "minus"):
                yield s.id, s.box.cx, s.box.cy
        for r in chart.ribbons:
            yield r.run, *r.point(0.5)
        for stud in chart.studs:
            yield stud.ref, stud.x, stud.y

    def place(self, id_: str) -> tuple[float, float] | None:
        """Where something stands on the map."""
        found = next(((x, y) for own, x, y in self._places() if own == id_), None)
        if found is None and self.picture is not None:
            held = next((s.box for s in self.picture.diagram.shapes if id_ in s.holds), None)
            return None if held is None else (held.cx, held.cy)
        return found

    def _bring(self, id_: str) -> None:
        at = self.place(id_)
        if at is None:
            return
        area, here = self.viewport().rect(), self.to_view(*at)
        if not area.adjusted(60, 50, -60, -50).contains(here.toPoint()):
            self.horizontalScrollBar().setValue(round(self.horizontalScrollBar().value() + here.x() - area.width() / 2))
            self.verticalScrollBar().setValue(round(self.verticalScrollBar().value() + here.y() - area.height() / 2))

    def step(self, dx: float, dy: float) -> None:
        """Select the nearest thing in a direction."""
        if self.picture is None:
            return
        places = list(self._places())
        if not places:
            return
        start = self.place(self.look.selected) if self.look.selected else None
        if start is None:
            row = self.look.row
            self.select(row if row and self._exists(row) else places[0][0], show=True)
            return
        best: tuple[float, str] | None = None
        for id_, x, y in places:
            along, across = (
                (x - start[0]) * dx + (y - start[1]) * dy,
                abs((x - start[0]) * dy) + abs((y - start[1]) * dx),
            )
            if id_ != self.look.selected and along > 1.0 and across <= 1.5 * along:
                cost = along + 3.0 * across
                if best is None or cost < best[0]:
                    best = (cost, id_)
        if best is not None:
            self.select(best[1], show=True)

    # Scale and scroll

    @property
    def origin(self) -> QPointF:
        """Where the map's corner lies in the viewport."""
        assert self.picture is not None
        chart, scale, area = self.picture.diagram, self.look.scale, self.viewport().rect()
        x = -self.horizontalScrollBar().value() + max(0.0, (area.width() - chart.width * scale) / 2)
        y = -self.verticalScrollBar().value()
        return QPointF(x, y)

    def to_view(self, x: float, y: float) -> QPointF:
        """A point of the map in the viewport."""
        return self.origin + QPointF(x, y) * self.look.scale

    def to_map(self, point: QPointF) -> tuple[float, float]:
        """A point of the viewport on the map."""
        at = (point - self.origin) / self.look.scale
        return at.x(), at.y()

    def fit(self) -> None:
        """Fill the width; small plans also fit in height."""
        if self.picture is None:
            return
        self._fitted = True
        chart, area = self.picture.diagram, self.viewport().rect()
        by_width = area.width() / chart.width
        by_height = area.height() / chart.height
        scale = min(by_width, 1.35)
        if chart.height * scale > area.height() and by_height >= 0.8 * scale:
            scale = by_height
        self._set_scale(scale)

    def height_wanted(self) -> float:
        """Height at which the map, filling the width, is seen whole, px."""
        if self.picture is None:
            return 0.0
        chart = self.picture.diagram
        return chart.height * min(self.viewport().width() / chart.width, 1.35)

    def fit_all(self) -> None:
        """Show the whole map, however small."""
        if self.picture is not None:
            chart, area = self.picture.diagram, self.viewport().rect()
            self._fitted = False
            self._set_scale(min(area.width() / chart.width, area.height() / chart.height))

    def zoom(self, factor: float, about: QPointF | None = None) -> None:
        """Scale about a point of the viewport, the middle where none is given."""
        if self.picture is None:
            return
        about = about or QPointF(self.viewport().rect().center())
        before = self.to_map(about)
        self._fitted = False
        self._set_scale(self.look.scale * factor)
        after = self.to_view(*before)
        self.horizontalScrollBar().setValue(round(self.horizontalScrollBar().value() + after.x() - about.x()))
        self.verticalScrollBar().setValue(round(self.verticalScrollBar().value() + after.y() - about.y()))

    def _set_scale(self, scale: float) -> None:
        self.look.scale = min(max(scale, SCALES[0]), SCALES[1])
        self._range()
        self.viewport().update()
        self.moved.emit()

    def _range(self) -> None:
        assert self.picture is not None
        chart, area, scale = self.picture.diagram, self.viewport().rect(), self.look.scale
        self.horizontalScrollBar().setRange(0, max(0, round(chart.width * scale - area.width())))
        self.horizontalScrollBar().setPageStep(area.width())
        self.verticalScrollBar().setRange(0, max(0, round(chart.height * scale - area.height())))
        self.verticalScrollBar().setPageStep(area.height())

    def _scrolled(self) -> None:
        self.viewport().update()
        self.moved.emit()

    # Events

    def viewportEvent(self, event: QEvent) -> bool:
        """Show what is under the pointer."""
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            hit = self.hit(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), plain_tip(self.describe(hit)) if hit else "", self)
            return True
        if event.type() == QEvent.Type.Leave and self.look.hovered is not None:
            self._hover(None)
        return super().viewportEvent(event)

    def paintEvent(self, _: QPaintEvent) -> None:
        """Paint the visible part."""
        paint(self.viewport(), self._draw)
        if self.picture is not None:
            self.painted += 1
            if self.painted == 1:
                QTimer.singleShot(0, self.stands.emit)

    def _draw(self, painter: QPainter) -> None:
        painter.fillRect(self.viewport().rect(), QColor(self.look.palette.paper))
        if self.picture is None:
            return
        painter.translate(self.origin)
        painter.scale(self.look.scale, self.look.scale)
        x0, y0 = self.to_map(QPointF(0, 0))
        x1, y1 = self.to_map(QPointF(self.viewport().width(), self.viewport().height()))
        MapPainter(painter, self.picture, self.look, QRectF(x0, y0, x1 - x0, y1 - y0)).paint()
        pulling.paint_handles(painter, self.look.palette, self.picture.diagram, self.picture.plan, self.look.selected)
        if self._band is not None:
            painter.setPen(QPen(QColor(self.look.palette.accent), 1.4, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(QPointF(*self.to_map(self._band[0])), QPointF(*self.to_map(self._band[1]))))
        if self._carry is not None:
            paint_carry(painter, self.look.palette, self.picture.diagram, self._carry)
        if self._pull is not None:
            pulling.paint_pull(painter, self.look.palette, self.picture.diagram, self._pull)
        if self._drag is not None:
            ref, y = self._drag
            stud = next((s for s in self.picture.diagram.studs if s.ref == ref), None)
            if stud is not None:
                painter.setPen(QPen(QColor(self.look.palette.accent), 2.5))
                painter.drawLine(QPointF(stud.x - 60, y), QPointF(stud.x + 60, y))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep the fit."""
        super().resizeEvent(event)
        if self.picture is not None:
            if self._fitted:
                self.fit()
            else:
                self._range()
                self.moved.emit()

    def hit(self, point: QPointF) -> str | None:
        """What lies under a point of the viewport."""
        if self.picture is None:
            return None
        x, y = self.to_map(point)
        chart = self.picture.diagram
        for stud in chart.studs:
            if hypot(stud.x - x, stud.y - y) <= 7.0:
                return stud.ref
        for shape in reversed((*chart.shapes, *chart.loose)):
            if shape.box.contains(x, y, 2.0):
                return shape.id
        nearest: tuple[float, str] | None = None
        for ribbon in chart.ribbons:
            if min(ribbon.y0, ribbon.y1) - 40 <= y <= max(ribbon.y0, ribbon.y1) + 40:
                distance = ribbon.distance(x, y) - width_of(self.picture, ribbon.run) / 2
                if distance <= 4.0 and (nearest is None or distance < nearest[0]):
                    nearest = (distance, ribbon.run)
        return nearest[1] if nearest else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select, or begin to move the map or a stud."""
        point = event.position()
        held = event.modifiers()
        if event.button() == Qt.MouseButton.LeftButton and held & Qt.KeyboardModifier.ShiftModifier:
            self._band = (point, point)
        elif event.button() == Qt.MouseButton.LeftButton and held & Qt.KeyboardModifier.ControlModifier:
            hit = self.hit(point)
            if hit is not None:
                self.add(hit)
        elif event.button() == Qt.MouseButton.LeftButton:
            self._press, self._from, self._aims = point, None, None
            if self.picture is not None:
                chart, plan, at = self.picture.diagram, self.picture.plan, self.to_map(point)
                self._aims = pulling.handle_at(chart, plan, self.look.selected, *at)
                self._from = pulling.target_at(plan, chart, *at)
            if self._aims is not None:
                return
            hit = self.hit(point) or (split_ref(self._from)[0] if self._from else None)
            self.select(hit)
            exact = self.picture is not None and pulling.terminal_at(self.picture.diagram, *self.to_map(point))
            self._may_carry = self.picture is not None and not exact and may_carry(self.picture.plan, hit)
            if hit is None:
                self._pan = event.position().toPoint()
                self.viewport().setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.MiddleButton:
            self._pan = event.position().toPoint()
            self.viewport().setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.RightButton:
            hit = self.hit(point)
            if hit not in self.chosen:
                self.select(hit)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the map or a stud; else show what is under the pointer."""
        if self._pan is not None:
            step = event.position().toPoint() - self._pan
            self._pan = event.position().toPoint()
            self.horizontalScrollBar().setValue(self.horizontalScrollBar().value() - step.x())
            self.verticalScrollBar().setValue(self.verticalScrollBar().value() - step.y())
            return
        if self._band is not None:
            self._band = (self._band[0], event.position())
            self.viewport().update()
            return
        if self._press is not None and self._may_carry and self.picture is not None:
            if self._carry is None and (event.position() - self._press).manhattanLength() > 6:
                self._carry = Carry(self.picture.plan, self.look.selected or "")
            if self._carry is not None:
                self._carry.x, self._carry.y = x, y = self.to_map(event.position())
                self._carry.target = target_of(self.picture.plan, self._carry.id, self.picture.diagram, x, y)
                self.viewport().update()
            return
        if self._press is not None and (self._from is not None or self._aims is not None):
            if (event.position() - self._press).manhattanLength() > 6 or self._pull or self._drag:
                self._dragged(event.position())
            return
        hit = self.hit(event.position())
        if hit != self.look.hovered:
            self.viewport().setCursor(Qt.CursorShape.PointingHandCursor if hit else Qt.CursorShape.ArrowCursor)
            self._hover(hit)

    def _hover(self, id_: str | None) -> None:
        """Light what lies under the pointer, its whole circuit, and what guards it."""
        look, picture = self.look, self.picture
        look.hovered, look.lit, look.guards = id_, frozenset(), frozenset()
        if id_ is not None and picture is not None:
            look.lit, look.guards = circuit.circuit_of(picture, id_), circuit.guards_of(picture, id_)
        self.viewport().update()

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        """Drop what was moved."""
        self._press = None
        self._may_carry = False
        if self._carry is not None:
            carry, self._carry = self._carry, None
            self.viewport().update()
            if carry.target is not None:
                self.carried.emit(carry.id, carry.target)
        if self._band is not None:
            band, self._band = self._band, None
            self.choose(self._in_band(*band))
        if self._pull is not None:
            pull, self._pull = self._pull, None
            self.viewport().update()
            self._drop(pull)
        if self._pan is not None:
            self._pan = None
            self.viewport().setCursor(Qt.CursorShape.ArrowCursor)
        if self._drag is not None:
            (ref, y), self._drag = self._drag, None
            bar_id, stud_id = split_ref(ref)
            self.stud_moved.emit(bar_id, stud_id, self._place_in_order(ref, y))
            self.viewport().update()

    def _dragged(self, point: QPointF) -> None:
        """Move a stud along its bar, or draw a conductor away from where the press was."""
        assert self.picture is not None
        x, y = self.to_map(point)
        chart, plan = self.picture.diagram, self.picture.plan
        stud = next((s for s in chart.studs if s.ref == self.look.selected), None)
        along = stud is not None and self._is_bar_stud(stud.ref) and abs(x - stud.x) <= ALONG
        if along and self._pull is None and self._aims is None:
            assert stud is not None
            self._drag = (stud.ref, y)
        else:
            self._drag = None
            self._pull = self._pull or self._begun(plan)
            if self._pull is not None:
                self._pull.x, self._pull.y = x, y
                self._pull.target = pulling.target_at(plan, chart, x, y)
        self.viewport().update()

    def _begun(self, plan: Plan) -> Pull | None:
        """A conductor that begins where the press was, or the end of one that is led elsewhere."""
        if self._aims is None:
            return Pull(self._from, Joinings(plan)) if self._from is not None else None
        run = plan.run_by_id.get(self.look.selected or "")
        if run is None:
            return None
        # Without the conductor itself: what it joins today must not speak against where it may go.
        rest = plan.model_copy(update={"runs": tuple(r for r in plan.runs if r.id != run.id)})
        return Pull(run.b if self._aims == "a" else run.a, Joinings(rest), run.id, self._aims)

    def _drop(self, pull: Pull) -> None:
        if pull.target is None or pull.target == pull.start:
            return
        found = pull.found
        if found.standing == "forbidden":
            self.refused.emit(f"No conductor there: {found.why}")
        elif pull.run is not None and pull.end is not None:
            self.aimed.emit(pull.run, pull.end, pull.target)
        else:
            self.joined.emit(pull.start, pull.target)

    def _is_bar_stud(self, ref: str) -> bool:
        assert self.picture is not None
        return isinstance(self.picture.plan.by_id.get(split_ref(ref)[0]), Bar)

    def _place_in_order(self, ref: str, y: float) -> int:
        assert self.picture is not None
        owner = split_ref(ref)[0]
        others = [s for s in self.picture.diagram.studs if s.owner == owner and s.ref != ref]
        return sum(s.y < y for s in others)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Open what was double-clicked."""
        hit, (x, y) = self.hit(event.position()), self.to_map(event.position())
        shapes = self.picture.diagram.shapes if self.picture is not None else ()
        folded = next((s.id for s in shapes if s.kind == "fold" and s.box.contains(x, y)), None)
        if folded is not None:
            self.fold_wanted.emit(folded)
        elif hit:
            self.opened.emit(hit)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Ask for the menu of what is selected."""
        if event.reason() == QContextMenuEvent.Reason.Keyboard:
            self.menu_at_selection()
        elif self.look.selected:
            self.menu_wanted.emit(self.look.selected, event.globalPos())
        else:
            self.menu_wanted.emit("", event.globalPos())

    def menu_at_selection(self) -> None:
        """Ask for the menu of what is selected, where it stands."""
        at = self.place(self.look.selected) if self.look.selected else None
        where = self.to_view(*at).toPoint() if at else self.viewport().rect().center()
        self.menu_wanted.emit(self.look.selected or "", self.viewport().mapToGlobal(where))

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Scroll; with Ctrl, scale."""
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.0015 ** event.angleDelta().y(), event.position())
            event.accept()
        else:
            super().wheelEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move the selection, move a stud, open, remove, scale."""
        key = Qt.Key(event.key())
        selected = self.look.selected
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if (
            alt
            and selected
            and key in (Qt.Key.Key_Up, Qt.Key.Key_Down)
            and "." in selected
            and self._is_bar_stud(selected)
        ):
            self._shift_stud(selected, -1 if key == Qt.Key.Key_Up else 1)
        elif key in ARROWS and not alt:
            before = self.chosen
            self.step(*ARROWS[key])
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and selected and "." not in selected:
                # The one gone to comes first: the next step goes on from there.
                self.choose([i for i in (self.look.selected or "", *before) if i and "." not in i])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and selected:
            self.opened.emit(selected)
        elif key in (Qt.Key.Key_Insert, Qt.Key.Key_Space):
            self.menu_at_selection()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and selected:
            self.removal_wanted.emit(selected)
        elif key == Qt.Key.Key_F and selected and not event.modifiers():
            self.fold_wanted.emit(split_ref(selected)[0])
        elif key == Qt.Key.Key_C and selected and not event.modifiers():
            self.connect_wanted.emit(selected)
        elif key == Qt.Key.Key_Escape and (self._pull is not None or self._carry is not None):
            self._pull = self._press = self._carry = None
            self._may_carry = False
            self.viewport().update()
        elif key == Qt.Key.Key_Escape:
            self.select(None)
        else:
            super().keyPressEvent(event)

    def _shift_stud(self, ref: str, by: int) -> None:
        assert self.picture is not None
        bar_id, stud_id = split_ref(ref)
        bar = self.picture.plan.by_id[bar_id]
        assert isinstance(bar, Bar)
        at = bar.terminal_names.index(stud_id)
        if 0 <= at + by < len(bar.studs):
            self.stud_moved.emit(bar_id, stud_id, at + by)

    # Words

    def describe(self, id_: str) -> str:
        """What a thing is and does, for a tool tip."""
        picture, look = self.picture, self.look
        if picture is None or picture.case is None:
            return ""
        plan = picture.plan
        if id_ in plan.run_by_id:
            run = plan.run_by_id[id_]
            r = picture.run(id_, look.scenario)
            amp = picture.case.ampacities.get(id_)
            lines = [picture.case.run_title(run)]
            if amp is not None:
                lines.append(
                    f"{words.amps(r.current_a)} of {words.amps(amp.amps)}, by {amp.governs}: {words.percent(r.used)}"
                )
            lines.append(
                f"voltage drop {words.drop(r.drop_v)}, loss {r.loss_w:.1f} W"
                if isfinite(r.loss_w)
                else "no operating point"
            )
            if isfinite(r.temperature_c):
                lines.append(f"copper at {r.temperature_c:.0f} °C")
        elif "." in id_:
            owner = plan.by_id[split_ref(id_)[0]]
            lines = [f"{owner.title}, {split_ref(id_)[1]}", words.volts(picture.node_v(id_, look.scenario))]
        else:
            thing = plan.by_id[id_]
            block = next((s for s in picture.diagram.shapes if s.kind == "bank" and s.stands_for(id_)), None)
            lines = [thing.title]
            if block is not None and id_ == block.id:
                spread = picture.spread(id_, look.scenario)
                apart = f", current sharing spread {100 * spread:.0f} %" if isfinite(spread) else ""
                lines = [f"A bank{apart}; a double click opens it", thing.title]
            if isinstance(thing, Equipment):
                e = picture.equipment(thing, look.scenario)
                lines += [f"{words.amps(e.current_a)} at {words.volts(e.voltage_v)}, {e.mode}"]
                lines += [
                    f"voltage drop {words.drop(e.drop_v)}: {100 * e.drop_share:.1f} % of {thing.nominal_v:g} V, {100 * e.limit_share:.0f} % allowed"
                ]
            elif isinstance(thing, Battery):
                current = picture.through(id_, look.scenario)[0]
                lines.append(
                    f"{'takes' if current < 0 else 'gives'} {words.amps(current)} at {words.volts(picture.battery_v(id_, look.scenario))}"
                )
            elif id_ in picture.case.wiring.branch:
                current, lost = picture.through(id_, look.scenario)
                lines.append(f"{words.amps(current)}; voltage drop {words.drop(lost)}")
        lines += [f"{f.verdict.word}: {f.headline}" for f in picture.findings if f.place == id_]
        return "\n".join(lines)
