"""Patterns side by side: a small picture of each with its spread; one click applies it."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from jaunty_copper.battery.arrangements import Option
from jaunty_copper.battery.patterns import PatternJoining
from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.language import say

MOST_DRAWN = 6
"""More strings than this are drawn as this many."""


class PatternCard(Painted):
    """One pattern."""

    chosen = Signal()

    def __init__(self, option: Option, best: bool, limit: float, palette: Palette) -> None:
        super().__init__()
        self.option, self.best, self.limit, self.palette_ = option, best, limit, palette
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus if option.pattern else Qt.FocusPolicy.NoFocus)
        if option.pattern:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
            worst = option.sharing.worst_link
            link = (
                say(" Worst link {worst}: {worst_2:.2f} W.", worst=worst, worst_2=option.sharing.heat_w[worst])
                if worst
                else ""
            )
            self.setToolTip(
                say(
                    "{hint}.{link} Click to interconnect the bank so; undo takes it back.",
                    hint=option.pattern.hint,
                    link=link,
                )
            )
        else:
            self.setToolTip(say("The bank as it is in this plan"))
        self.setAccessibleName(
            say(
                "{name}: current sharing spread {figure}, {copper_m:.1f} m of links",
                name=self.name,
                figure=self.figure,
                copper_m=option.copper_m,
            )
        )
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    @property
    def name(self) -> str:
        """What the pattern is called."""
        return self.option.pattern.name if self.option.pattern else say("as it is")

    @property
    def figure(self) -> str:
        """Its spread."""
        return f"{100 * self.option.sharing.spread:.1f} %"

    def sizeHint(self) -> QSize:
        """A sixth of the page."""
        return QSize(140, 116)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Apply it."""
        if self.option.pattern and self.rect().contains(event.position().toPoint()):
            self.chosen.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Apply it by keyboard."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.option.pattern:
            self.chosen.emit()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show where the keyboard is."""
        self.update()
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """The keyboard left."""
        self.update()
        super().focusOutEvent(event)

    def draw(self, p: QPainter) -> None:
        """Paint name, spread, picture and copper."""
        c = self.palette_
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        p.setPen(QPen(QColor(c.accent if self.hasFocus() else c.line), 2 if self.hasFocus() else 1))
        p.setBrush(QColor(c.sheet if self.option.pattern else c.raised))
        p.drawRoundedRect(box, 6, 6)
        p.setPen(QColor(c.ink))
        p.setFont(font(12, True))
        p.drawText(
            box.adjusted(10, 7, -6, 0),
            Qt.AlignmentFlag.AlignLeft,
            p.fontMetrics().elidedText(self.name, Qt.TextElideMode.ElideRight, int(box.width() - 16)),
        )
        over = 100 * self.option.sharing.spread > self.limit
        p.setFont(font(18, True))
        p.setPen(QColor(c.mend if over else c.good))
        p.drawText(box.adjusted(10, 24, 0, 0), Qt.AlignmentFlag.AlignLeft, self.figure)
        p.setFont(font(11))
        p.setPen(QColor(c.soft))
        judged = say("too large") if over else "least" if self.best else say("within limit")
        copper = f"{judged} · {self.option.copper_m:.1f} m"
        fits = p.fontMetrics().horizontalAdvance(copper) <= box.width() - 14
        p.drawText(box.adjusted(10, 46, -4, 0), Qt.AlignmentFlag.AlignLeft, copper if fits else judged)
        if self.option.pattern is not None:
            m = min(len(self.option.sharing.bank.strings), MOST_DRAWN)
            if not self.option.pattern.fits(m):
                m = 4
            self._picture(p, QRectF(box.x() + 10, box.y() + 64, box.width() - 20, box.height() - 70), m)
        else:
            p.drawText(
                box.adjusted(10, 66, -8, -6),
                int(Qt.AlignmentFlag.AlignLeft) | int(Qt.TextFlag.TextWordWrap),
                say("spread, most to least loaded"),
            )

    def _picture(self, p: QPainter, r: QRectF, m: int) -> None:
        """Strings as small cases, plus links above, minus links below, take-offs as arrows."""
        c = self.palette_
        assert self.option.pattern is not None
        step = r.width() / m
        w = min(0.55 * step, 16.0)
        xs = [r.x() + step * (k + 0.5) for k in range(m)]
        top, bottom = r.center().y() - 8, r.center().y() + 8
        p.setPen(QPen(QColor(c.steel), 1.2))
        p.setBrush(QColor(c.raised))
        for x in xs:
            p.drawRoundedRect(QRectF(x - w / 2, top, w, bottom - top), 2, 2)
        for side, y, out in (("plus", top, -1), ("minus", bottom, 1)):
            how = self.option.pattern.join(m, side)
            self._side(p, how, xs, y, out, r)

    def _side(self, p: QPainter, how: PatternJoining, xs: list[float], y: float, out: int, r: QRectF) -> None:
        c = self.palette_
        copper = QPen(QColor(c.accent), 2.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
        p.setPen(copper)
        level = y + 4 * out
        for a, b in how.links:
            p.drawLine(QPointF(xs[a], level), QPointF(xs[b], level))
        end = r.top() + 1 if out < 0 else r.bottom() - 1
        if how.leads:
            bar = y + 7 * out if not how.links else y + 9 * out
            for k in how.leads:
                p.drawLine(QPointF(xs[k], y), QPointF(xs[k], bar))
            p.setPen(QPen(QColor(c.ink), 3))
            p.drawLine(QPointF(xs[0], bar), QPointF(xs[-1], bar))
            at = QPointF((xs[0] + xs[-1]) / 2, bar)
        else:
            at = QPointF(xs[how.takeoff], level)
        p.setPen(QPen(QColor(c.ink), 1.6))
        tip = QPointF(at.x(), end)
        p.drawLine(at, tip)
        head = QPainterPath(QPointF(tip.x(), tip.y() + out * 2))
        head.lineTo(tip.x() - 3, tip.y() - out * 3)
        head.lineTo(tip.x() + 3, tip.y() - out * 3)
        p.fillPath(head, QColor(c.ink))


class Cards(QWidget):
    """All patterns of one bank."""

    chosen = Signal(object)
    """The `Pattern` to apply."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(116)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 0, 12, 0)
        self._row.setSpacing(8)
        self.cards: list[PatternCard] = []
        self.palette_ = LIGHT

    def show_options(self, options: tuple[Option, ...], limit: float) -> None:
        """Show patterns; the first is the bank as it is."""
        had = next((k for k, card in enumerate(self.cards) if card.hasFocus()), None)
        for card in self.cards:
            card.deleteLater()
            self._row.removeWidget(card)
        least = min((o.sharing.spread for o in options if o.pattern), default=0.0)
        self.cards = [
            PatternCard(o, bool(o.pattern) and o.sharing.spread == least, limit, self.palette_) for o in options
        ]
        for card in self.cards:
            card.chosen.connect(lambda o=card.option: self.chosen.emit(o.pattern))
            self._row.addWidget(card)
        if had is not None and had < len(self.cards):
            self.cards[had].setFocus()

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.palette_ = palette
        for card in self.cards:
            card.palette_ = palette
            card.update()
