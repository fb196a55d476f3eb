"""The map under mouse and keyboard: pick, move about, drag studs, circuits and conductors."""

from functools import partial
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
    QRegion,
    QWheelEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from jaunty_copper.desktop.pages.map import circuit, pulling
from jaunty_copper.desktop.pages.map.carrying import Carry, may_carry, paint_carry, target_of
from jaunty_copper.desktop.pages.map.overview import Overview
from jaunty_copper.desktop.pages.map.pulling import Pull
from jaunty_copper.desktop.pages.map.selecting import Selecting
from jaunty_copper.desktop.widgets.label import plain_tip
from jaunty_copper.desktop.widgets.painting import paint
from jaunty_copper.desktop.widgets.spoken import Spoken
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import Palette
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.plan.model import Bar, split_ref

ALONG = 22.0
"""A stud that is dragged stays on its bar while it is no farther from it; beyond, a conductor is drawn from it."""
ARROWS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}


class MapView(Selecting):
    """The plus-to-minus map.

    What is selected is named by id, a stud by its terminal.
    """

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
    stands = Signal()
    """The map was painted for the first time."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(say("Map from plus to minus"))
        self.setMinimumHeight(160)
        self.painted = 0
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
        self.spoken = Spoken(self.viewport(), self.in_sight)
        self.picked.connect(self.spoken.chosen(self.describe))

    # What is shown

    def set_picture(self, picture: Picture) -> None:
        """Show another plan or another study of it."""
        before, self.picture = self.picture, picture
        if before is not None and self.look.lens.early and before.looks_like(picture):
            self.spoken.later()
            return
        if before is not None and picture.plan is not before.plan:
            # What was begun on another plan may be about what is gone, and know nothing of what came.
            if (self._pull, self._carry, self._drag) != (None, None, None):
                self.viewport().update()
            self._pull = self._press = self._carry = self._drag = None
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
        if before is None or before.plan.name != picture.plan.name:
            self.verticalScrollBar().setValue(0)
        self.overview.follow()
        self.refresh()

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

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint what of the visible part is asked for."""
        paint(self.viewport(), partial(self._draw, event.region()))
        self.spoken.later()
        if self.picture is not None:
            self.painted += 1
            if self.painted == 1:
                QTimer.singleShot(0, self.stands.emit)

    def _draw(self, where: QRegion, painter: QPainter) -> None:
        painter.fillRect(self.viewport().rect(), QColor(self.look.palette.paper))
        if self.picture is None:
            return
        painter.translate(self.origin)
        painter.scale(self.look.scale, self.look.scale)
        self.shown.paint(painter, where)
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
            exact = self.picture is not None and pulling.terminal_under(self.picture.diagram, *self.to_map(point))
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
            look.lit, look.guards = circuit.circuit_under(picture, id_), circuit.guards_of(picture, id_)
        self.refresh()

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
            self.viewport().update()
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
            self._pull = self._pull or pulling.begun(plan, self._from, self.look.selected, self._aims)
            if self._pull is not None:
                self._pull.x, self._pull.y = x, y
                self._pull.target = pulling.target_at(plan, chart, x, y)
        self.viewport().update()

    def _drop(self, pull: Pull) -> None:
        if pull.target is None or pull.target == pull.start:
            return
        found = pull.found
        if found.standing == "forbidden":
            self.refused.emit(say("No conductor there: {why}", why=found.why))
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
