"""The shape that stands for a verdict."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from jaunty_copper.codes.checks import Verdict
from jaunty_copper.documents.palette import Palette


def badge(painter: QPainter, palette: Palette, severity: Verdict, x: float, y: float, size: float = 15.0) -> None:
    """The shape of a verdict: octagon for a danger, triangle for a defect, disc for advice."""
    h = size / 2
    painter.setBrush(QColor(palette.verdict(severity)))
    painter.setPen(QPen(QColor(palette.sheet), 1.5))
    match severity:
        case Verdict.DANGER:
            c = h * 0.42
            octagon = ((-c, -h), (c, -h), (h, -c), (h, c), (c, h), (-c, h), (-h, c), (-h, -c))
            painter.drawPolygon(QPolygonF([QPointF(x + dx, y + dy) for dx, dy in octagon]))
        case Verdict.DEFECT:
            triangle = ((0, -h), (h * 1.08, h * 0.85), (-h * 1.08, h * 0.85))
            painter.drawPolygon(QPolygonF([QPointF(x + dx, y + dy) for dx, dy in triangle]))
        case Verdict.ADVICE:
            painter.drawEllipse(QPointF(x, y), h * 0.9, h * 0.9)
    painter.setPen(QPen(QColor(palette.sheet), 2.0))
    lift = h * 0.15 if severity is Verdict.DEFECT else 0.0
    painter.drawLine(QPointF(x, y - h * 0.45 + lift), QPointF(x, y + h * 0.1 + lift))
    painter.drawPoint(QPointF(x, y + h * 0.5 + lift * 0.6))
