"""Words on the screen as they are: what looks like markup in a name is a name."""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel


class Label(QLabel):
    """A label of plain words; Qt's own would obey markup, load pictures that it names, and hang on some."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class TitleLabel(Label):
    """A line that loses its middle where there is no room for all of it; it is read out whole."""

    def paintEvent(self, _: QPaintEvent) -> None:
        """Paint what there is room for."""
        p, room = QPainter(self), self.contentsRect()
        shown = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideMiddle, room.width())
        # Not by the style: making its many enumerations known to Python costs a start more than the whole line.
        p.setPen(self.palette().color(self.foregroundRole()))
        p.drawText(room, int(self.alignment()), shown)
        p.end()


def plain_tip(text: str) -> str:
    """Words for a tooltip, which Qt would take as markup where they look like it."""
    return f"<p style='white-space:pre-wrap'>{escape(text)}</p>" if "<" in text or "&" in text else text
