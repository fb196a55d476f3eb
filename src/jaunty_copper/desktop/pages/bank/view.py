"""The bank from above under mouse and keyboard: pick, drag units, go from thing to thing."""

from collections.abc import Iterator

from PySide6.QtCore import QEvent, QPoint, QPointF, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
)
from PySide6.QtWidgets import QToolTip, QWidget

from jaunty_copper.desktop.pages.bank.drawing import BankDrawing
from jaunty_copper.desktop.widgets.label import plain_tip
from jaunty_copper.desktop.widgets.spoken import Spoken, SpokenThing
from jaunty_copper.documents import words
from jaunty_copper.language import say
from jaunty_copper.plan.banks import snapped
from jaunty_copper.plan.model import Battery

NUDGE_MM = 10.0
SNAP_PX = 9.0
"""How near to a line with others a dragged unit falls into it."""


class BankView(BankDrawing):
    """A bank from above: plus links and minus links as copper straps, a gauge on every case."""

    picked = Signal(str)
    moved = Signal(str, float, float)
    """Unit, and where its left front corner shall stand, mm."""
    menu_wanted = Signal(str, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(say("The bank from above"))
        self.setMinimumHeight(210)
        self._hover: str | None = None
        self.spoken = Spoken(self, self.in_sight)
        self.picked.connect(self.spoken.chosen(self.tip))

    def in_sight(self) -> Iterator[SpokenThing]:
        """Units, links and devices."""
        if self.bank is None or self.plan is None:
            return
        for unit in self.bank.units:
            yield SpokenThing(unit.id, self.tip(unit.id), self.case(unit).toRect())
        for id_ in self.bank.inside:
            path = self.strap(self.plan.run_by_id[id_])
            if path is not None:
                yield SpokenThing(id_, self.tip(id_), path.boundingRect().toRect())

    def draw(self, p: QPainter) -> None:
        """Paint the bank; a screen reader follows in a moment."""
        super().draw(p)
        self.spoken.later()

    def sizeHint(self) -> QSize:
        """As wide as a page, as high as half of it."""
        return QSize(880, 320)

    # Painting

    # Mouse and keyboard

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
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        way = ways.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Space:
            order = self._order()
            at = order.index(self.selected) + 1 if self.selected in order else 0
            self.select(order[at % len(order)])
        elif way is not None and self.selected in self.bank.by_id:
            x, y = self.at[self.selected]
            self.moved.emit(self.selected, x + way[0] * NUDGE_MM, y + way[1] * NUDGE_MM)
        elif event.key() in (Qt.Key.Key_Menu, Qt.Key.Key_Return, Qt.Key.Key_Insert) and self.selected:
            self.menu_wanted.emit(self.selected, self.mapToGlobal(self.rect().center()))
        else:
            super().keyPressEvent(event)

    def _order(self) -> list[str]:
        """Units, then links, then what stands in them."""
        if self.bank is None:
            return []
        return [*(u.id for u in self.bank.units), *self.bank.inside, *(x.id for x in self._inlines())]

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Who comes by Tab begins at the first unit, or at the last thing on the way back."""
        super().focusInEvent(event)
        ends = {Qt.FocusReason.TabFocusReason: 0, Qt.FocusReason.BacktabFocusReason: -1}
        if event.reason() in ends and (order := self._order()):
            self.select(order[ends[event.reason()]])

    def focusNextPrevChild(self, onward: bool) -> bool:
        """Go from unit to unit by Tab; beyond the last, or back from the first, to what comes before or after the bank."""
        order = self._order()
        at = order.index(self.selected) if self.selected in order else -1 if onward else len(order)
        at += 1 if onward else -1
        if not self.hasFocus() or not 0 <= at < len(order):
            return super().focusNextPrevChild(onward)
        self.select(order[at])
        return True

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
            return say(
                "{id}: {current_a} of {limit_a}, {c_rate:.3f} C, {terminal_v} between its posts",
                id=self.bank.by_id[id_].title,
                current_a=words.amps(abs(s.current_a)),
                limit_a=words.amps(s.limit_a),
                c_rate=abs(s.c_rate),
                terminal_v=words.volts(s.terminal_v),
            )
        if id_ not in self.plan.run_by_id:
            return f"{self.plan.by_id[id_].title}: {words.amps(self.state.current(id_))}"
        run = self.plan.run_by_id[id_]
        return f"{id_}: {words.amps(abs(self.state.current(id_)))}, {1000 * abs(self.state.drop(id_)):.1f} mV, {self.sharing.heat_w[id_]:.2f} W, {self.units.length(run.length_m)}"
