"""What every page, and every part of one, tells the window."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QScrollArea, QWidget


class ViewPart(QWidget):
    """A part of the window that shows a plan and asks for edits."""

    wanted = Signal(object)
    """An `Edit` to apply."""
    picked = Signal(str)
    """What was selected here."""
    refused = Signal(str)
    """Why what was typed was not taken over."""


def replace_body(area: QScrollArea, body: QWidget) -> None:
    """Show another body in a scroll area, the old one gone when Qt is ready for it."""
    old = area.takeWidget()
    if old is not None:
        old.hide()
        old.deleteLater()
    area.setWidget(body)
