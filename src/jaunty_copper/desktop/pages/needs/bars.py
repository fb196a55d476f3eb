"""Stacked bars: what runs together in each scenario, at nominal and at the lowest voltage."""

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QHelpEvent, QPainter, QPen
from PySide6.QtWidgets import QToolTip

from jaunty_copper.battery.needs import Needs, Together
from jaunty_copper.desktop.widgets.label import plain_tip
from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.documents import words
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.language import say

LEFT, TOP, RIGHT = 150, 40, 74


class Bars(Painted):
    """Two bars a scenario, one block for each piece of equipment."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(170)
        self.setMouseTracking(True)
        self.setAccessibleName(say("Current of each scenario, stacked"))
        self.needs: Needs | None = None
        self.palette_: Palette = LIGHT
        self.selected: str | None = None
        self._blocks: list[tuple[QRectF, str]] = []

    def sizeHint(self) -> QSize:
        """Half a page wide."""
        return QSize(520, 240)

    def show_needs(self, needs: Needs) -> None:
        """Show what is asked."""
        self.needs = needs
        self.update()

    def draw(self, p: QPainter) -> None:
        """Paint the bars."""
        c, n = self.palette_, self.needs
        p.fillRect(self.rect(), QColor(c.sheet))
        self._blocks = []
        if n is None or not n.states:
            return
        p.setPen(QColor(c.ink))
        p.setFont(font(14, True))
        p.drawText(QRectF(14, 6, self.width() - 20, 18), Qt.AlignmentFlag.AlignLeft, say("What runs together"))
        p.setPen(QColor(c.soft))
        p.setFont(font(12))
        ways = (
            say(
                "upper {nominal_v:g} V, lower {lowest_v:g} V: {lowest_why}",
                nominal_v=n.nominal_v,
                lowest_v=n.lowest_v,
                lowest_why=n.lowest_why,
            ),
            say("dashed: given by sources"),
        )
        both = " · ".join(ways)
        room = self.width() - 20
        p.drawText(
            QRectF(14, 23, room, 16), Qt.AlignmentFlag.AlignLeft,
            both if p.fontMetrics().horizontalAdvance(both) <= room
            else p.fontMetrics().elidedText(ways[0], Qt.TextElideMode.ElideRight, room),
        )  # fmt: skip
        height = min((self.height() - TOP - 10) / len(n.states), 58.0)
        most = max([n.peak_a, *(s.given_a for s in n.states), 1e-6])
        for k, state in enumerate(n.states):
            self._state(p, state, TOP + 4 + k * height, height, most)

    def _state(self, p: QPainter, state: Together, y: float, height: float, most: float) -> None:
        c, n = self.palette_, self.needs
        assert n is not None
        p.setPen(QColor(c.ink))
        p.setFont(font(12, True))
        name = p.fontMetrics().elidedText(state.scenario.title, Qt.TextElideMode.ElideRight, LEFT - 22)
        p.drawText(QRectF(14, y, LEFT - 18, height - 4), Qt.AlignmentFlag.AlignVCenter, name)
        room = self.width() - LEFT - RIGHT
        bar = (height - 8) / 2
        order = {d.id: m for m, d in enumerate(max(n.states, key=lambda s: len(s.draws)).draws)}
        for row, which in enumerate(("nominal_a", "lowest_a")):
            x = float(LEFT)
            for draw in state.draws:
                amps = getattr(draw, which)
                box = QRectF(x, y + row * bar, room * amps / most, bar - 1)
                own = draw.id == self.selected
                tone = QColor(c.copper(0.15 + 0.8 * (order.get(draw.id, 7) % 5) / 4))
                p.fillRect(box.adjusted(0, 0, -1, 0), QColor(c.ink) if own else tone)
                self._blocks.append((box, f"{n.plan.by_id[draw.id].title}: {words.amps(amps)}"))
                x = box.right()
            given = LEFT + room * state.given_a / most
            if row == 0 and state.given_a > 0.0:
                p.setPen(QPen(QColor(c.good), 2, Qt.PenStyle.DashLine))
                p.drawLine(QPointF(given, y - 3), QPointF(given, y + 2 * bar + 1))
            p.setPen(QColor(c.ink if row else c.soft))
            p.setFont(font(12, bool(row)))
            # A figure keeps clear of the dashed line.
            x = given if x < given < x + 60.0 and state.given_a > 0.0 else x
            p.drawText(
                QRectF(x + 6, y + row * bar, 66, bar), Qt.AlignmentFlag.AlignVCenter, words.amps(getattr(state, which))
            )

    def event(self, event: QEvent) -> bool:
        """Tell which equipment a block is."""
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            at = QPointF(event.pos())
            QToolTip.showText(
                event.globalPos(), plain_tip(next((text for box, text in self._blocks if box.contains(at)), "")), self
            )
            return True
        return super().event(event)
