"""Words on the screen as they are: what looks like markup in a name is a name."""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel


class Label(QLabel):
    """A label of plain words; Qt's own would obey markup, load pictures that it names, and hang on some."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


def plain_tip(text: str) -> str:
    """Words for a tooltip, which Qt would take as markup where they look like it."""
    return f"<p style='white-space:pre-wrap'>{escape(text)}</p>" if "<" in text or "&" in text else text
