"""The whole map small in a corner, where it is larger than what is seen of it; dragged, it moves the map."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from jaunty_copper.desktop.widgets.painting import paint
from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.map.view import MapView
    from jaunty_copper.documents.map.picture import Picture

WIDEST, HIGHEST = 190.0, 130.0
MARGIN = 10
WORTH = 1.25
"""How much larger than the view the map must be."""


class Overview(QWidget):
    """Blocks as marks, and what is seen of them framed."""

    def __init__(self, view: MapView) -> None:
        super().__init__(view)
        self.wanted = True
        self.view = view
        self._pixmap = QPixmap()
        self._shown: tuple[Any, ...] | None = None
        self.setAccessibleName(say("Overview of the map"))
        self.setCursor(Qt.CursorShape.SizeAllCursor)
        self.hide()

    @property
    def _scale(self) -> float:
        chart = self.view.picture.diagram if self.view.picture is not None else None
        return 1.0 if chart is None else min(WIDEST / chart.width, HIGHEST / chart.height)

    def follow(self) -> None:
        """Be there where it is of use, in the corner."""
        view = self.view
        if view.picture is None or not self.wanted:
            self.hide()
            return
        chart, area = view.picture.diagram, view.viewport().rect()
        shown = view.look.scale * max(chart.width / max(area.width(), 1), chart.height / max(area.height(), 1)) > WORTH
        self.setVisible(shown)
        if shown:
            wide, high = round(chart.width * self._scale), round(chart.height * self._scale)
            corner = view.viewport().geometry().bottomRight()
            self.setGeometry(corner.x() - wide - MARGIN, corner.y() - high - MARGIN, wide, high)
            self.update()

    def _frame(self) -> QRectF:
        """What is seen, on the overview."""
        view, s = self.view, self._scale
        (x0, y0), (x1, y1) = (
            view.to_map(QPointF(p)) for p in (view.viewport().rect().topLeft(), view.viewport().rect().bottomRight())
        )
        return QRectF(x0 * s, y0 * s, (x1 - x0) * s, (y1 - y0) * s)

    def paintEvent(self, _: QPaintEvent) -> None:
        """Paint it."""
        paint(self, self._draw)

    def _draw(self, p: QPainter) -> None:
        view = self.view
        if view.picture is None:
            return
        p.drawPixmap(0, 0, self._blocks(view.picture))
        p.setPen(QPen(QColor(view.look.palette.accent), 2.0))
        p.drawRect(self._frame().intersected(QRectF(self.rect()).adjusted(1, 1, -1, -1)))

    def _blocks(self, picture: Picture) -> QPixmap:
        """All but the frame, painted once for what it shows: of a large map it takes longer than what is seen of that."""
        shown = picture.diagram, picture.worst_at, self.view.look.palette, self.size(), self.devicePixelRatio()
        if self._shown is None or self._shown[0] is not shown[0] or self._shown[1:] != shown[1:]:
            self._pixmap = QPixmap(self.size() * self.devicePixelRatio())
            self._pixmap.setDevicePixelRatio(self.devicePixelRatio())
            self._pixmap.fill(QColor(self.view.look.palette.sheet))
            p = QPainter(self._pixmap)
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            try:
                self._draw_blocks(p, picture)
            finally:
                p.end()
            self._shown = shown
        return self._pixmap

    def _draw_blocks(self, p: QPainter, picture: Picture) -> None:
        c, chart, worst, s = self.view.look.palette, picture.diagram, picture.worst_at, self._scale
        p.setPen(Qt.PenStyle.NoPen)
        for shape in chart.shapes:
            found = min((worst[i] for i in (shape.id, *shape.holds) if i in worst), default=None)
            tone = c.accent if shape.kind == "bar" and shape.side == "plus" else c.steel
            p.setBrush(QColor(tone if found is None else c.verdict(found)))
            p.drawRect(QRectF(shape.box.x * s, shape.box.y * s, max(shape.box.w * s, 1.5), max(shape.box.h * s, 1.5)))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(QColor(c.line), 1.0))
        p.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))

    def _go(self, point: QPointF) -> None:
        view, scale = self.view, self.view.look.scale / self._scale
        view.horizontalScrollBar().setValue(round(point.x() * scale - view.viewport().width() / 2))
        view.verticalScrollBar().setValue(round(point.y() * scale - view.viewport().height() / 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go there."""
        self._go(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Follow the pointer."""
        self._go(event.position())
