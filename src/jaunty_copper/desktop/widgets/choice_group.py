"""Buttons of which one is chosen."""

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QAbstractButton, QButtonGroup


class ChoiceGroup(QButtonGroup):
    """One stop of Tab, at the button that is chosen; arrow keys choose among them.

    Qt does so only from the first arrow key on: before that Tab would stop at the first button, chosen or not.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.buttonToggled.connect(self._stop)

    def take(self, button: QAbstractButton, number: int = -1) -> None:
        """Add a button, checkable and on or off as it is to begin with."""
        self.addButton(button, number)
        self._stop(button, button.isChecked())

    def _stop(self, button: QAbstractButton, on: bool) -> None:
        tab, policy = Qt.FocusPolicy.TabFocus, button.focusPolicy()
        # A click gives it the keyboard, or not, as before.
        clicked = bool(policy & Qt.FocusPolicy.ClickFocus)
        off = Qt.FocusPolicy.ClickFocus if clicked else Qt.FocusPolicy.NoFocus
        button.setFocusPolicy((Qt.FocusPolicy.StrongFocus if clicked else tab) if on else off)
