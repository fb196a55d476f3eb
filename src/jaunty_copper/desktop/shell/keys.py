"""Every key of the program in one table that can be searched."""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

from jaunty_copper.desktop.widgets.asking import ask
from jaunty_copper.desktop.widgets.searched import Searched
from jaunty_copper.desktop.widgets.table import ViewColumn
from jaunty_copper.language import say


class Key(NamedTuple):
    """What a key does somewhere."""

    where: str
    keys: str
    does: str


OF_PAINTED = (
    Key(say("Map"), say("Arrow keys"), say("Go to the nearest thing in that direction")),
    Key(say("Map"), say("Enter"), say("Edit its fields; open a bank")),
    Key(say("Map"), say("Space, Insert, Menu"), say("What can be done here: insert, add, replace, remove")),
    Key(say("Map"), "Alt+Up, Alt+Down", say("Move the selected stud")),
    Key(say("Map"), "C", say("Connect it to something: a conductor")),
    Key(say("Map"), say("Drag from a terminal"), say("Draw a conductor; along its bar a stud moves")),
    Key(say("Map"), say("Drag an end of the selected conductor"), say("Lead it elsewhere")),
    Key(say("Map"), say("Drag equipment, a device"), say("To another bar; onto a device to change places with it")),
    Key(say("Map"), "F", say("Fold the circuits of the selected bar, or unfold them")),
    Key(say("Map"), "Ctrl+click", say("Select it too, or no longer")),
    Key(say("Map"), "Shift+drag", say("Select what lies in a rectangle")),
    Key(say("Map"), "Shift+arrow keys", say("Select the next thing too")),
    Key(say("Map"), say("Delete"), say("Remove it")),
    Key(say("Map"), say("Escape"), say("Select nothing: the panel then shows the plan")),
    Key(say("Map"), "Ctrl+wheel", say("Larger, smaller")),
    Key(say("Map"), say("Drag an empty place"), say("Move the map")),
    Key(
        "Bank", say("Tab, Space, Shift+Tab"), say("Next and previous unit, link or fuse; beyond the last Tab leads on")
    ),
    Key("Bank", say("Arrow keys"), say("Move the selected unit")),
    Key("Bank", say("Enter, Insert, Menu"), say("What can be done to it")),
    Key(say("Board"), say("Arrow keys, with Shift further"), say("Move the selected part")),
    Key(say("Board"), "R", say("Turn it")),
    Key(say("Board"), say("Delete"), say("Take it off the board")),
    Key(say("Log"), "F9", say("Read the meter into the chosen row")),
    Key(say("Tables"), say("Enter, Tab"), say("Take the cell over; go down, to the right")),
    Key(say("Tables"), "Ctrl+C, Ctrl+V, Delete", say("Copy cells, paste a block, empty cells")),
    Key(say("Tables"), "Ctrl+Delete", say("Remove the things whose cells are selected")),
    Key(say("Tables"), say("Escape"), say("Out of the table: Tab goes from cell to cell")),
    Key(say("Tables"), "Alt+Up, Alt+Down", say("Sort by the column, from the smallest, from the largest")),
    Key(
        say("Dividers"), say("Arrow keys, with Shift further"), say("Move the divider that has the keyboard (Ctrl+F6)")
    ),
    Key(say("Dividers"), say("Enter, Escape"), say("Back to where the keyboard was")),
    Key(say("Fields"), say("Enter, Tab"), say("Take over what was typed")),
    Key(say("Fields"), say("Escape"), say("Back to what was there")),
    Key(say("Menus"), say("Alt and the underlined letter, F10"), say("Open a menu")),
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


def open_for(actions: Iterable[QAction], parent: QWidget) -> Searched:
    """Show the table; it stays until closed."""
    columns = (
        ViewColumn(say("Where"), lambda k: k.where, 110),
        ViewColumn(say("Key"), lambda k: k.keys, 236),
        ViewColumn(say("What it does"), lambda k: k.does, 0),
    )
    rows = (*OF_PAINTED[:8], *of_menus(actions), *OF_PAINTED[8:])
    made = Searched(say("Keys"), columns, rows, say("Search the keys"), say("a key, a place, or what it does"), parent)
    ask(made)
    return made
