"""A component board: parts to scale, moved with the mouse or the arrow keys, and what does not fit."""

from collections.abc import Iterator

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter

from jaunty_copper.desktop.widgets.drawn import paint_drawing
from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.desktop.widgets.spoken import Spoken, SpokenThing
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.documents.drawings import board_drawing
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.fabrication.board import Placed, placed
from jaunty_copper.fabrication.fitting import BoardTrouble
from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.plan.model import Board, Plan

STEP_MM = 5.0
FAR_MM = 50.0
MARGIN = 14.0
ARROWS = {
    Qt.Key.Key_Left: (-1.0, 0.0), Qt.Key.Key_Right: (1.0, 0.0), Qt.Key.Key_Up: (0.0, -1.0), Qt.Key.Key_Down: (0.0, 1.0),
}  # fmt: skip


class BoardView(Painted):
    """One board."""

    moved = Signal(str, float, float, bool)
    """A part, where it now stands, and whether it is turned."""
    picked = Signal(str)
    nudged = Signal(str, float, float, bool)
    """A part, by how much it moves from wherever it stands by now, and whether it is to be turned."""
    taken_off = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.plan: Plan | None = None
        self.board: Board | None = None
        self.parts: Catalogue | None = None
        self.troubled: frozenset[str] = frozenset()
        self.selected: str | None = None
        self._held: tuple[str, QPointF] | None = None
        self._dragged: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(say("Board"))
        self.spoken = Spoken(self, self.in_sight)
        self.setToolTip(
            say("Drag a part, or move it with the arrow keys (Shift: further); R turns it, Del takes it off")
        )

    def sizeHint(self) -> QSize:
        """Room for a board."""
        return QSize(600, 400)

    def show_board(
        self, plan: Plan | None, board: Board | None, parts: Catalogue | None, wrong: tuple[BoardTrouble, ...]
    ) -> None:
        """Show another board."""
        self.plan, self.board, self.parts = plan, board, parts
        self.troubled = frozenset(p for t in wrong for p in t.places)
        if self._held is not None and self._held[0] not in {s.of for s in (board.spots if board is not None else ())}:
            # What is in a hand stays there while other figures arrive.
            self._held = self._dragged = None
        self.update()

    def select(self, id_: str | None) -> None:
        """Select a part."""
        self.selected = id_
        self.update()

    @property
    def _scale(self) -> float:
        assert self.board is not None
        return min(
            (self.width() - 2 * MARGIN) / self.board.width_mm, (self.height() - 2 * MARGIN) / self.board.height_mm
        )

    def things(self) -> tuple[Placed, ...]:
        """Parts where they are drawn: the one being dragged follows the mouse."""
        if self.plan is None or self.board is None or self.parts is None:
            return ()
        found = placed(self.plan, self.board, self.parts)
        if self._held is None or self._dragged is None:
            return found
        dx, dy = self._offset()
        return tuple(p._replace(x=p.x + dx, y=p.y + dy) if p.thing.id == self._held[0] else p for p in found)

    def in_sight(self) -> Iterator[SpokenThing]:
        """Every part with its place, mm from the board's left and upper edge."""
        for t in self.things():
            s = self._scale
            words = say("{title}, {x:.0f} mm from the left, {y:.0f} mm from above", title=t.thing.title, x=t.x, y=t.y)
            box = QRectF(MARGIN + t.x * s, MARGIN + t.y * s, t.w * s, t.h * s).toRect()
            yield SpokenThing(t.thing.id, words, box)

    def _offset(self) -> tuple[float, float]:
        assert self._held is not None
        assert self._dragged is not None
        by = (self._dragged - self._held[1]) / self._scale
        return round(by.x() / STEP_MM) * STEP_MM, round(by.y() / STEP_MM) * STEP_MM

    def draw(self, p: QPainter) -> None:
        """Draw the board, its parts, and the cables between them."""
        c = self.palette_
        p.fillRect(self.rect(), QColor(c.sheet))
        self.spoken.later()
        if self.board is None or self.plan is None or self.parts is None:
            p.setPen(QColor(c.soft))
            p.setFont(font(13))
            p.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                say("No board yet: “New board” makes one and puts bars and devices onto it"),
            )
            return
        s = self._scale
        p.translate(MARGIN, MARGIN)
        p.scale(s, s)
        drawing = board_drawing(
            self.plan, self.parts, self.board, self.things(), self.selected, self.troubled, 11.0 / s, headed=False
        )
        paint_drawing(p, drawing, c)

    # Mouse and keys

    def _at(self, where: QPointF) -> Placed | None:
        if self.board is None:
            return None
        x, y = (where.x() - MARGIN) / self._scale, (where.y() - MARGIN) / self._scale
        return next((t for t in reversed(self.things()) if t.x <= x <= t.x + t.w and t.y <= y <= t.y + t.h), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick a part, and begin to move it."""
        t = self._at(event.position())
        self._held = (t.thing.id, event.position()) if t is not None else None
        self._dragged = None
        if t is not None:
            self.selected = t.thing.id
            self.picked.emit(t.thing.id)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the part that is held."""
        if self._held is not None:
            self._dragged = event.position()
            self.update()

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        """Put it down where it is."""
        if self._held is not None and self._dragged is not None:
            id_ = self._held[0]
            t = next((t for t in self.things() if t.thing.id == id_), None)
            self._held = self._dragged = None
            if t is not None:
                self.moved.emit(id_, t.x, t.y, t.turned)
        self._held = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move, R turns, Del takes off."""
        t = next((t for t in self.things() if t.thing.id == self.selected), None)
        if t is None:
            super().keyPressEvent(event)
            return
        key = Qt.Key(event.key())
        if key in ARROWS:
            step = FAR_MM if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else STEP_MM
            dx, dy = ARROWS[key]
            self.nudged.emit(t.thing.id, dx * step, dy * step, False)
        elif key == Qt.Key.Key_R:
            self.nudged.emit(t.thing.id, 0.0, 0.0, True)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.taken_off.emit(t.thing.id)
        else:
            super().keyPressEvent(event)
