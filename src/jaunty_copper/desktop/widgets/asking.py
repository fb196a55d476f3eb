"""Dialogs that are answered once."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog


def ask(dialog: QDialog) -> None:
    """Open a dialog; it stays until it is answered, and goes with its answer.

    While the program is busy a second click can wait behind the first: it must not give the same answer again.
    """
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.finished.connect(lambda _: dialog.setEnabled(False))
    dialog.open()
