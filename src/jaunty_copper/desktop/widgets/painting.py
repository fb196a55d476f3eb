"""Painting that nothing escapes from: Qt ends the process where a paint event raises."""

import sys
import traceback
from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from jaunty_copper.language import say

SORRY = say("This could not be drawn. The rest goes on, and your work is kept.")


def paint(widget: QWidget, draw: Callable[[QPainter], None]) -> None:
    """Paint a widget; where that fails, say so in its place and report it once.

    Parameters
    ----------
    widget : QWidget
        In its paint event.
    draw : callable
        What paints it.
    """
    p = QPainter(widget)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    try:
        draw(p)
        failed = ""
    except Exception as error:
        p.end()
        p = QPainter(widget)
        p.fillRect(widget.rect(), widget.palette().window())
        p.setPen(widget.palette().windowText().color())
        p.drawText(
            widget.rect().adjusted(16, 8, -16, -8), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, SORRY
        )
        failed = "".join(traceback.format_exception(error)[-3:])
        if failed != widget.property("failed"):
            # What is shown must not change in the middle of a paint event.
            caught = error
            QTimer.singleShot(0, lambda: sys.excepthook(type(caught), caught, caught.__traceback__))
    finally:
        p.end()
    widget.setProperty("failed", failed)


class Painted(QWidget):
    """A widget that paints itself."""

    def paintEvent(self, _: QPaintEvent) -> None:
        """Paint it, whatever it is about."""
        paint(self, self.draw)

    def draw(self, p: QPainter) -> None:
        """Paint."""
        raise NotImplementedError
