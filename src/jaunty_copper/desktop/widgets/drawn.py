"""Drawings on the screen: the same marks that go into SVG and PDF, in the colours in force."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from jaunty_copper.desktop.widgets.theme import Palette, font
from jaunty_copper.documents.drawing import (
    CHOSEN,
    COPPER,
    GROUND,
    INK,
    METAL,
    PAPER,
    SOFT,
    STEEL,
    STOP,
    Circle,
    Drawing,
    Mark,
    Path,
    Rect,
    Text,
)

TONES = {
    INK: "ink", COPPER: "full", STEEL: "steel", PAPER: "sheet", SOFT: "soft", STOP: "over", GROUND: "raised", METAL: "thin",
    CHOSEN: "accent",
}  # fmt: skip
"""Colour of a palette in place of a tone of print; what has none keeps its own."""
WIDE = 4000.0


def paint_drawing(p: QPainter, d: Drawing, palette: Palette) -> None:
    """Paint every mark of a drawing, in the painter's own units."""
    for m in d.marks:
        _mark(p, m, palette)


def run_at(d: Drawing, x: float, y: float) -> str | None:
    """The conductor whose rectangle is topmost at a place, by its id; None where there is none."""
    for m in reversed(d.marks):
        if isinstance(m, Rect) and m.run and m.x <= x <= m.x + m.w and m.y <= y <= m.y + m.h:
            return m.run
    return None


def _color(tone: str, palette: Palette) -> QColor:
    return QColor(getattr(palette, TONES[tone]) if tone in TONES else tone)


def _mark(p: QPainter, m: Mark, palette: Palette) -> None:
    if isinstance(m, Text):
        _text(p, m, palette)
        return
    if m.stroke == "none" or m.width <= 0.0:
        p.setPen(Qt.PenStyle.NoPen)
    else:
        pen = QPen(_color(m.stroke, palette), m.width)
        if isinstance(m, Path):
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            if m.dash:
                pen.setDashPattern([x / m.width for x in m.dash])
        p.setPen(pen)
    p.setBrush(Qt.BrushStyle.NoBrush if m.fill == "none" else _color(m.fill, palette))
    match m:
        case Rect():
            p.drawRoundedRect(QRectF(m.x, m.y, m.w, m.h), m.round, m.round)
        case Circle():
            p.drawEllipse(QPointF(m.x, m.y), m.r, m.r)
        case Path():
            p.drawPath(_path(m))


def _path(m: Path) -> QPainterPath:
    path = QPainterPath()
    for letter, values in m.steps:
        points = [QPointF(*values[k : k + 2]) for k in range(0, len(values), 2)]
        match letter:
            case "M":
                path.moveTo(points[0])
            case "L":
                path.lineTo(points[0])
            case "C":
                path.cubicTo(*points)
            case _:
                path.closeSubpath()
    return path


def _text(p: QPainter, m: Text, palette: Palette) -> None:
    align = {
        "start": Qt.AlignmentFlag.AlignLeft,
        "middle": Qt.AlignmentFlag.AlignHCenter,
        "end": Qt.AlignmentFlag.AlignRight,
    }
    left = {"start": 0.0, "middle": -WIDE / 2, "end": -WIDE}[m.anchor]
    p.save()
    p.translate(m.x, m.y)
    if m.turned:
        p.rotate(-90.0)
    p.setFont(font(m.size, m.strong))
    p.setPen(_color(m.color, palette))
    rise = p.fontMetrics().ascent()
    p.drawText(
        QRectF(left, -rise, WIDE, 2.0 * rise),
        align[m.anchor] | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextSingleLine,
        m.text,
    )
    p.restore()
