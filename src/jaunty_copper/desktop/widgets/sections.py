"""Buttons in a row that choose which part of a page is shown."""

from collections.abc import Mapping

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from jaunty_copper.desktop.widgets.choice_group import ChoiceGroup


class Sections(QWidget):
    """One button a part; the first is on at first.

    Parameters
    ----------
    parts : mapping
        By name, the title and what the part is for.
    """

    chosen = Signal(str)

    def __init__(self, parts: Mapping[str, tuple[str, str]]) -> None:
        super().__init__()
        self._group = ChoiceGroup(self)
        self.buttons: dict[str, QPushButton] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        for k, (name, (title, hint)) in enumerate(parts.items()):
            button = QPushButton(title)
            button.setObjectName("lens")
            button.setCheckable(True)
            button.setChecked(k == 0)
            button.setToolTip(hint)
            button.clicked.connect(lambda _=False, name=name: self.chosen.emit(name))
            self._group.take(button)
            row.addWidget(button)
            self.buttons[name] = button

    @property
    def chosen_name(self) -> str:
        """Name of the part whose button is pressed."""
        return next(name for name, button in self.buttons.items() if button.isChecked())

    def show_chosen(self, name: str) -> int:
        """Press a button without saying so; its position."""
        self.buttons[name].setChecked(True)
        return list(self.buttons).index(name)
