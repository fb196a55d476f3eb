"""The tour of the demo: a card says what something is, a ring shows where it stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from jaunty_copper.desktop.shell.tour_steps import STEPS, TourStep
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window

FOLLOW_MS = 150
"""How often ring and card look where their thing is: windows are resized and maps are moved meanwhile."""
WIDE, AIR = 330, 14
ARROWS = (Qt.Key.Key_Left, Qt.Key.Key_Right)


class TourRing(Painted):
    """A frame around something; clicks go through it."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self.window_ = window
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)

    def draw(self, p: QPainter) -> None:
        """Paint it."""
        c = self.window_.looks.palette
        p.setPen(QPen(QColor(c.accent), 3.0))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -2), 8, 8)


class Tour(QFrame):
    """The card of the tour, over its window."""

    ended = Signal()

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self.window_, self.at = window, 0
        self.setObjectName("chosen")
        self.setAccessibleName(say("Tour"))
        self.setFixedWidth(WIDE)
        self.ring = TourRing(window)
        self.title, self.text, self.count = Label(), Label(), Label()
        self.title.setObjectName("head")
        self.count.setObjectName("caption")
        self.text.setWordWrap(True)
        self.back, self.next = QPushButton(say("Back")), QPushButton(say("Next"))
        self.leave = QPushButton(say("End the tour"))
        self.back.clicked.connect(lambda: self.show_step(self.at - 1))
        self.next.clicked.connect(lambda: self.show_step(self.at + 1))
        self.leave.clicked.connect(self.end)
        row = QHBoxLayout()
        for button in (self.leave, self.back, self.next):
            button.installEventFilter(self)
            row.addWidget(button)
        column = QVBoxLayout(self)
        for label in (self.title, self.text, self.count):
            column.addWidget(label)
        column.addLayout(row)
        self.timer = QTimer(self, interval=FOLLOW_MS)
        self.timer.timeout.connect(self._follow)
        self.timer.start()
        self.show_step(0)

    @property
    def step(self) -> TourStep:
        """What is pointed at."""
        return STEPS[self.at]

    def show_step(self, at: int) -> None:
        """Point at another thing; after the last one the tour ends."""
        if at >= len(STEPS):
            self.end()
            return
        self.at = max(at, 0)
        step, window = self.step, self.window_
        window.set_lens(step.lens)
        if step.scenario in {s.id for s in window.document.plan.scenarios}:
            window.scenarios.show(step.scenario)
        window.show_page(step.page)
        if step.place == "map" and step.name in window.document.plan.by_id:
            window.map.select(step.name, show=True)
        self.title.setText(step.title)
        self.text.setText(step.text)
        self.count.setText(say("{at} of {count}", at=self.at + 1, count=len(STEPS)))
        self.back.setEnabled(self.at > 0)
        self.next.setText(say("Next") if self.at + 1 < len(STEPS) else say("Done"))
        self.adjustSize()
        self.show()
        self.raise_()
        self._follow()
        self.next.setFocus()

    def end(self) -> None:
        """Leave the window as it is."""
        self.timer.stop()
        self.ring.deleteLater()
        self.deleteLater()
        self.window_.map.setFocus()
        self.ended.emit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Arrows lead through the tour, not from button to button."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in ARROWS:
            self.keyPressEvent(event)
            return True
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Leave, go on or back."""
        match event.key():
            case Qt.Key.Key_Escape:
                self.end()
            case Qt.Key.Key_Right:
                self.show_step(self.at + 1)
            case Qt.Key.Key_Left:
                self.show_step(self.at - 1)
            case Qt.Key.Key_Return | Qt.Key.Key_Enter:
                next((b for b in (self.back, self.leave) if b.hasFocus()), self.next).click()
            case _:
                super().keyPressEvent(event)

    # Where

    def _follow(self) -> None:
        """Stand beside the thing, wherever it is by now."""
        found = self._target()
        self.ring.setVisible(found is not None)
        if found is not None:
            self.ring.setGeometry(found.adjusted(-6, -6, 6, 6))
            self.ring.raise_()
        self.raise_()
        self.move(self._beside(found))

    def _target(self) -> QRect | None:
        """The thing, in the window."""
        step, window = self.step, self.window_
        if step.place == "map":
            view = window.map
            shapes = view.picture.diagram.shapes if view.picture is not None else ()
            box = next((s.box for s in shapes if s.stands_for(step.name) and s.side == "plus"), None) or next(
                (s.box for s in shapes if s.stands_for(step.name)), None
            )
            if box is None or not view.isVisible():
                return None
            corner, end = view.to_view(box.x, box.y), view.to_view(box.right, box.bottom)
            shown = QRectF(corner, end).toRect().intersected(view.viewport().rect())
            return None if shown.isEmpty() else shown.translated(_in(window, view.viewport()))
        part = {
            "map": lambda: window.map, "inspector": lambda: window.inspector, "findings": lambda: window.findings,
            "scenarios": lambda: window.bar.scenarios,
        }.get(step.name, lambda: window.pages.get(step.page))()  # fmt: skip
        return None if part is None or not part.isVisible() else QRect(_in(window, part), part.size())

    def _beside(self, found: QRect | None) -> QPoint:
        """Where the card covers least of what it speaks of."""
        room, card = self.window_.rect().adjusted(AIR, AIR, -AIR, -AIR), self.size()
        middle = room.center() - QPoint(card.width() // 2, card.height() // 2)
        if found is None:
            return middle
        y = max(room.top(), min(found.top(), room.bottom() - card.height()))
        x = max(room.left(), min(found.left(), room.right() - card.width()))
        places = (
            QPoint(found.right() + AIR, y), QPoint(found.left() - AIR - card.width(), y), QPoint(x, found.bottom() + AIR),
            QPoint(x, found.top() - AIR - card.height()),
        )  # fmt: skip
        corner = QPoint(room.right() - card.width(), room.bottom() - card.height())
        return next((p for p in places if room.contains(QRect(p, card))), corner)


def _in(window: Window, widget: QWidget) -> QPoint:
    return widget.mapTo(window, QPoint(0, 0))


def open_for(window: Window) -> Tour:
    """Begin the tour in a window."""
    return Tour(window)
