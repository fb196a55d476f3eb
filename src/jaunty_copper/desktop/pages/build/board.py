"""A component board: parts to scale, moved with the mouse or the arrow keys, and what does not fit."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen

from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.desktop.widgets.theme import LIGHT, Palette, font
from jaunty_copper.fabrication.board import Placed, Trouble, placed, terminal_at
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.plan.model import Bar, Board, Named, Plan, split_ref

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
        self.setAccessibleName("Board")
        self.setToolTip("Drag a part, or move it with the arrow keys (Shift: further); R turns it, Del takes it off")

    def sizeHint(self) -> QSize:
        """Room for a board."""
        return QSize(600, 400)

    def show_board(
        self, plan: Plan | None, board: Board | None, parts: Catalogue | None, wrong: tuple[Trouble, ...]
    ) -> None:
        """Show another board."""
        self.plan, self.board, self.parts = plan, board, parts
        self.troubled = frozenset(p for t in wrong for p in t.places)
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

    def _offset(self) -> tuple[float, float]:
        assert self._held is not None
        assert self._dragged is not None
        by = (self._dragged - self._held[1]) / self._scale
        return round(by.x() / STEP_MM) * STEP_MM, round(by.y() / STEP_MM) * STEP_MM

    def draw(self, p: QPainter) -> None:
        """Draw the board, its parts, and the cables between them."""
        c = self.palette_
        p.fillRect(self.rect(), QColor(c.sheet))
        if self.board is None or self.plan is None or self.parts is None:
            p.setPen(QColor(c.soft))
            p.setFont(font(13))
            p.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "No board yet: “New board” makes one and puts bars and devices onto it",
            )
            return
        s = self._scale
        p.translate(MARGIN, MARGIN)
        p.setPen(QPen(QColor(c.steel), 1.6))
        p.setBrush(QColor(c.raised))
        p.drawRect(QRectF(0, 0, self.board.width_mm * s, self.board.height_mm * s))
        things = {t.thing.id: t for t in self.things()}
        self._cables(p, things, s)
        for t in things.values():
            bar, wrong = isinstance(t.thing, Bar), t.thing.id in self.troubled
            chosen = t.thing.id == self.selected
            p.setPen(QPen(QColor(c.accent if chosen else c.over if wrong else c.ink), 3.0 if chosen or wrong else 1.4))
            p.setBrush(QColor(c.steel if bar else c.sheet))
            box = QRectF(t.x * s, t.y * s, t.w * s, t.h * s)
            p.drawRoundedRect(box, 3, 3)
            p.setPen(QColor(c.sheet if bar else c.ink))
            p.setFont(font(11, True))
            self._title(p, t.thing, box)

    def _title(self, p: QPainter, thing: Named, box: QRectF) -> None:
        """A part's name, or its id where that is too long; upright in what is narrow."""
        upright = box.height() > box.width() and box.width() < 34.0
        room = box.height() if upright else box.width()
        title = thing.title if room > 8 * len(thing.title) else thing.id
        if not upright:
            p.drawText(box.adjusted(-20, 0, 20, 0), Qt.AlignmentFlag.AlignCenter, title)
            return
        p.save()
        p.translate(box.center())
        p.rotate(-90)
        p.drawText(QRectF(-60, -20, 120, 40), Qt.AlignmentFlag.AlignCenter, title)
        p.restore()

    def _cables(self, p: QPainter, things: dict[str, Placed], s: float) -> None:
        assert self.plan is not None
        assert self.parts is not None
        p.setBrush(Qt.BrushStyle.NoBrush)
        for r in self.plan.runs:
            (a, ta), (b, tb) = split_ref(r.a), split_ref(r.b)
            if a not in things or b not in things or r.length_m == 0.0:
                continue
            (x0, y0), (ux, uy) = terminal_at(things[a], ta)
            (x1, y1), (vx, vy) = terminal_at(things[b], tb)
            reach = 0.35 * max(abs(x1 - x0), abs(y1 - y0), 30.0)
            path = QPainterPath(QPointF(x0 * s, y0 * s))
            path.cubicTo(
                QPointF((x0 + reach * ux) * s, (y0 + reach * uy) * s), QPointF((x1 + reach * vx) * s, (y1 + reach * vy) * s),
                QPointF(x1 * s, y1 * s),
            )  # fmt: skip
            wide = max(self.parts.conductors[r.conductor].outer_mm * s, 1.5)
            tone = self.palette_.over if r.id in self.troubled else self.palette_.full
            p.setPen(QPen(QColor(tone), wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            p.drawPath(path)

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
