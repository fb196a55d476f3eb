"""Every key of the program in one table that can be searched."""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLineEdit, QVBoxLayout, QWidget

from jaunty_copper.desktop.widgets.asking import ask
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view


class Key(NamedTuple):
    """What a key does somewhere."""

    where: str
    keys: str
    does: str


OF_PAINTED = (
    Key("Map", "Arrow keys", "Go to the nearest thing in that direction"),
    Key("Map", "Enter", "Edit its fields; open a bank"),
    Key("Map", "Space, Insert, Menu", "What can be done here: insert, add, replace, remove"),
    Key("Map", "Alt+Up, Alt+Down", "Move the selected stud"),
    Key("Map", "C", "Connect it to something: a conductor"),
    Key("Map", "Drag from a terminal", "Draw a conductor; along its bar a stud moves"),
    Key("Map", "Drag an end of the selected conductor", "Lead it elsewhere"),
    Key("Map", "Drag equipment, a device", "To another bar; onto a device to change places with it"),
    Key("Map", "F", "Fold the circuits of the selected bar, or unfold them"),
    Key("Map", "Ctrl+click", "Select it too, or no longer"),
    Key("Map", "Shift+drag", "Select what lies in a rectangle"),
    Key("Map", "Shift+arrow keys", "Select the next thing too"),
    Key("Map", "Delete", "Remove it"),
    Key("Map", "Escape", "Select nothing: the panel then shows the plan"),
    Key("Map", "Ctrl+wheel", "Larger, smaller"),
    Key("Map", "Drag an empty place", "Move the map"),
    Key("Bank", "Tab, Space, Shift+Tab", "Next and previous unit, link or fuse"),
    Key("Bank", "Arrow keys", "Move the selected unit"),
    Key("Bank", "Enter, Insert, Menu", "What can be done to it"),
    Key("Board", "Arrow keys, with Shift further", "Move the selected part"),
    Key("Board", "R", "Turn it"),
    Key("Board", "Delete", "Take it off the board"),
    Key("Log", "F9", "Read the meter into the chosen row"),
    Key("Tables", "Enter, Tab", "Take the cell over; go down, to the right"),
    Key("Tables", "Ctrl+C, Ctrl+V, Delete", "Copy cells, paste a block, empty cells"),
    Key("Tables", "Alt+Up, Alt+Down", "Sort by the column, from the smallest, from the largest"),
    Key("Fields", "Enter, Tab", "Take over what was typed"),
    Key("Fields", "Escape", "Back to what was there"),
    Key("Menus", "Alt and the underlined letter, F10", "Open a menu"),
)
"""Keys of what is painted and of fields; the menus' own are read from the menus."""


def of_menus(actions: Iterable[QAction], where: str = "") -> Iterator[Key]:
    """Keys of all entries of some menus."""
    for action in actions:
        inside = action.menu()
        text = action.text().replace("&", "").removesuffix("…")
        if isinstance(inside, QWidget):
            yield from of_menus(inside.actions(), f"{where} › {text}" if where else text)
        elif action.shortcuts():
            keys = (k.toString(QKeySequence.SequenceFormat.NativeText) for k in action.shortcuts())
            yield Key(where, ", ".join(dict.fromkeys(keys)), text.partition(":")[0])


class Keys(QDialog):
    """The table, and a line to search it."""

    def __init__(self, keys: Iterable[Key], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.resize(720, 560)
        self.keys = tuple(keys)
        self.search = QLineEdit()
        self.search.setAccessibleName("Search the keys")
        self.search.setPlaceholderText("a key, a place, or what it does")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._filter)
        self.table = Rows(
            (ViewColumn("Where", lambda k: k.where, 110), ViewColumn("Key", lambda k: k.keys, 236), ViewColumn("What it does", lambda k: k.does, 0))
        )  # fmt: skip
        view = table_view(self.table, "Keys")
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(self.search)
        column.addWidget(view, 1)
        column.addWidget(buttons)
        self.table.show_rows(self.keys)
        self.search.setFocus(Qt.FocusReason.OtherFocusReason)

    def _filter(self, text: str) -> None:
        words = text.lower().split()
        self.table.show_rows([k for k in self.keys if all(w in " ".join(k).lower() for w in words)])


def open_for(actions: Iterable[QAction], parent: QWidget) -> Keys:
    """Show the table; it stays until closed."""
    made = Keys((*OF_PAINTED[:8], *of_menus(actions), *OF_PAINTED[8:]), parent)
    ask(made)
    return made
