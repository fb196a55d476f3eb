"""The map as it is painted: its marks, made once for what it shows, and where another picture differs from them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QRegion

from jaunty_copper.desktop.pages.map import pulling
from jaunty_copper.desktop.widgets.drawn import paint_marks
from jaunty_copper.desktop.widgets.theme import screen_width
from jaunty_copper.diagram.shapes import Box
from jaunty_copper.documents.drawing import Mark
from jaunty_copper.documents.map.differing import differing, extent
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.marks import MapMarks
from jaunty_copper.documents.map.picture import Picture

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.map.canvas import Canvas

SMOOTH_PX = 2
"""What smoothing an edge may colour beside it."""
MOST = 200
"""Marks that differ: of more the whole is painted."""


class Shown:
    """What a canvas paints.

    Parameters
    ----------
    canvas : Canvas
        Where the map lies, and how it is looked at.
    """

    def __init__(self, canvas: Canvas) -> None:
        self._canvas = canvas
        self._of: tuple[Picture, Look, Box] | None = None
        self._marks: list[tuple[Mark, Box]] = []

    def paint(self, painter: QPainter, where: QRegion) -> None:
        """Paint the marks that reach into a region of the viewport, in units of the map."""
        self._make()
        there = self._box(QRectF(where.boundingRect()))
        paint_marks(painter, [m for m, box in self._marks if _meet(box, there)])

    def differing(self) -> QRegion | None:
        """Where the map is another than it was made last; None for everywhere."""
        of, before = self._of, [m for m, _ in self._marks]
        self._make()
        if of is None or self._of is None or (of[2], of[1].scale) != (self._of[2], self._of[1].scale):
            return None
        marks = differing(before, [m for m, _ in self._marks])
        if marks is None or len(marks) > MOST:
            return None
        found = QRegion()
        for box in {extent(m, screen_width) for m in marks}:
            here = QRectF(self._canvas.to_view(box.x, box.y), self._canvas.to_view(box.right, box.bottom))
            found |= here.toAlignedRect().adjusted(-SMOOTH_PX, -SMOOTH_PX, SMOOTH_PX, SMOOTH_PX)
        return found

    def _make(self) -> None:
        picture, look = self._canvas.picture, self._canvas.look
        assert picture is not None
        clip = self._box(QRectF(self._canvas.viewport().rect()))
        if self._of is not None and self._of[0] is picture and self._of[1:] == (look, clip):
            return
        self._of = picture, replace(look), clip
        marks = [
            *MapMarks(picture, look, screen_width, clip).marks(),
            *pulling.handle_marks(look.palette, picture.diagram, picture.plan, look.selected),
        ]
        known = dict(self._marks)
        self._marks = [(m, known.get(m) or extent(m, screen_width)) for m in marks]

    def _box(self, area: QRectF) -> Box:
        """Part of the viewport on the map."""
        (x0, y0), (x1, y1) = self._canvas.to_map(area.topLeft()), self._canvas.to_map(area.bottomRight())
        return Box(x0, y0, x1 - x0, y1 - y0)


def _meet(one: Box, other: Box) -> bool:
    slack = 2.0 * SMOOTH_PX
    across = one.x <= other.right + slack and other.x <= one.right + slack
    return across and one.y <= other.bottom + slack and other.y <= one.bottom + slack
