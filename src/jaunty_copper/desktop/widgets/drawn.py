"""Drawings on the screen: the same marks that go into SVG and PDF, in the colours in force."""

from collections.abc import Iterable, Mapping
from functools import lru_cache
from types import MappingProxyType

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen

from jaunty_copper.desktop.widgets.theme import font, screen_width
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
    opaque,
)
from jaunty_copper.documents.map.places import elided
from jaunty_copper.documents.palette import Palette

TONES = {
    INK: "ink", COPPER: "full", STEEL: "steel", PAPER: "sheet", SOFT: "soft", STOP: "over", GROUND: "raised", METAL: "thin",
    CHOSEN: "accent",
}  # fmt: skip
"""Colour of a palette in place of a tone of print; what has none keeps its own."""
HEAD_PX = 14.0
"""From the edge of a strip to its head."""


def paint_drawing(p: QPainter, d: Drawing, palette: Palette) -> None:
    """Paint every mark of a drawing made for print, in the painter's own units and in a palette's colours."""
    paint_marks(p, d.marks, {tone: getattr(palette, name) for tone, name in TONES.items()})


def paint_marks(p: QPainter, marks: Iterable[Mark], tones: Mapping[str, str] = MappingProxyType({})) -> None:
    """Paint marks in the painter's own units.

    Parameters
    ----------
    marks : iterable of Mark
        What lies on top last.
    tones : mapping of str to str
        Colours to be put in place of others.
    """
    for m in marks:
        if isinstance(m, Text):
            _text(p, m, tones)
        else:
            _mark(p, m, tones)


def strip_head(p: QPainter, c: Palette, area: QRectF, title: str, right: str) -> None:
    """What a strip is about, at its left, and under which circumstances, at its right: as far as there is room."""
    p.setBackground(QColor(c.sheet))
    room = area.width() - 2 * HEAD_PX
    for words, px, tone, strong in ((title, 14, c.ink, True), (right, 12, c.soft, False)):
        shown = elided(words, px, strong, max(int(room), 0), screen_width)
        wide = screen_width(shown, px, strong)
        x = area.left() + HEAD_PX if strong else area.right() - HEAD_PX - wide
        p.setFont(font(px, strong))
        p.setPen(QColor(tone))
        p.drawText(QPointF(x, area.top() + 20.0), shown if len(shown) > 1 else "")
        room -= wide + 2 * HEAD_PX


def run_at(d: Drawing, x: float, y: float) -> str | None:
    """The conductor whose rectangle is topmost at a place, by its id; None where there is none."""
    for m in reversed(d.marks):
        if isinstance(m, Rect) and m.run and m.x <= x <= m.x + m.w and m.y <= y <= m.y + m.h:
            return m.run
    return None


@lru_cache(maxsize=1024)
def _color(color: str) -> QColor:
    plain, share = opaque(color)
    made = QColor(plain)
    made.setAlphaF(share)
    return made


@lru_cache(maxsize=1024)
def _pen(color: str, width: float, dash: tuple[float, ...] = (), blunt: bool | None = None) -> QPen:
    """A pen for the edge of a block, or where `blunt` is said for a line."""
    if color == "none" or width <= 0.0:
        return QPen(Qt.PenStyle.NoPen)
    pen = QPen(_color(color), width)
    if blunt is not None:
        pen.setCapStyle(Qt.PenCapStyle.FlatCap if blunt else Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    if dash:
        pen.setDashPattern([x / width for x in dash])
    return pen


@lru_cache(maxsize=256)
def _brush(color: str) -> QBrush:
    return QBrush(Qt.BrushStyle.NoBrush) if color == "none" else QBrush(_color(color))


def _mark(p: QPainter, m: Rect | Path | Circle, tones: Mapping[str, str]) -> None:
    stroke = tones.get(m.stroke, m.stroke)
    match m:
        case Path(steps=(("M", (x0, y0)), ("L", (x1, y1)))):
            p.setPen(_pen(stroke, m.width, m.dash, m.blunt))
            p.drawLine(QLineF(x0, y0, x1, y1))
        case Path():
            p.setPen(_pen(stroke, m.width, m.dash, m.blunt))
            p.setBrush(_brush(tones.get(m.fill, m.fill)))
            p.drawPath(_path(m))
        case _:
            p.setPen(_pen(stroke, m.width))
            p.setBrush(_brush(tones.get(m.fill, m.fill)))
            if isinstance(m, Circle):
                p.drawEllipse(QPointF(m.x, m.y), m.r, m.r)
            else:
                p.drawRoundedRect(QRectF(m.x, m.y, m.w, m.h), m.round, m.round)


def _path(m: Path) -> QPainterPath:
    path = QPainterPath()
    for letter, values in m.steps:
        match letter:
            case "M":
                path.moveTo(*values)
            case "L":
                path.lineTo(*values)
            case "C":
                path.cubicTo(*values)
            case _:
                path.closeSubpath()
    return path


def _text(p: QPainter, m: Text, tones: Mapping[str, str]) -> None:
    left = {"start": 0.0, "middle": -0.5, "end": -1.0}[m.anchor]
    x = left * screen_width(m.text, m.size, m.strong) if left else 0.0
    p.setFont(font(m.size, m.strong))
    p.setPen(_color(tones.get(m.color, m.color)))
    if not m.turned:
        p.drawText(QPointF(m.x + x, m.y), m.text)
        return
    p.save()
    p.translate(m.x, m.y)
    p.rotate(-90.0)
    p.drawText(QPointF(x, 0.0), m.text)
    p.restore()
