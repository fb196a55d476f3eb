"""What every page, and every part of one, tells the window."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget


class Part(QWidget):
    """A part of the window that shows a plan and asks for edits."""

    wanted = Signal(object)
    """An `Edit` to apply."""
    picked = Signal(str)
    """What was selected here."""
    refused = Signal(str)
    """Why what was typed was not taken over."""
