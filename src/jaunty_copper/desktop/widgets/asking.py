"""Dialogs that are answered once."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QDialogButtonBox


def ask(dialog: QDialog) -> None:
    """Open a dialog; it stays until it is answered, and goes with its answer.

    While the program is busy a second click can wait behind the first: it must not give the same answer again.
    """
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.finished.connect(lambda _: dialog.setEnabled(False))
    dialog.open()


def answers(*standard: QDialogButtonBox.StandardButton) -> QDialogButtonBox:
    """The row of a dialog's buttons, in words alone: a desktop's little pictures are none of ours.

    It has no parent until it is laid out: else the keyboard would come to it before the fields above.
    """
    made = QDialogButtonBox()
    made.setStyleSheet("QDialogButtonBox { dialogbuttonbox-buttons-have-icons: 0; }")
    for button in standard:
        made.addButton(button)
    return made
