"""The menu of a place on the map."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QMenu

from jaunty_copper.desktop.pages.map import menu
from jaunty_copper.desktop.widgets.passing_menu import PassingMenu
from jaunty_copper.diagram import folding
from jaunty_copper.language import say
from jaunty_copper.plan.model import Bar, Equipment, Inline

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window


def of(w: Window, selected: str) -> QMenu:
    """The menu of a place on the map."""
    made = PassingMenu(w)
    groups: dict[str, QMenu] = {}
    for choice in menu.menu_choices(w.document.plan, w.picture, selected or None):
        into: QMenu = made
        if choice.group:
            if choice.group not in groups:
                groups[choice.group] = made.addMenu(choice.group)
            into = groups[choice.group]
        into.addAction(choice.text).triggered.connect(partial(_choose, w, choice))
    id_ = selected.partition(".")[0]
    if id_ in w.document.plan.by_id or id_ in w.document.plan.run_by_id:
        made.addSeparator()
        if id_ in w.document.plan.by_id:
            made.addAction(say("Connect to…")).triggered.connect(lambda: w.laying.connect(selected))
            thing = w.document.plan.by_id[id_]
            if isinstance(thing, Inline) or (isinstance(thing, Bar) and "." in selected):
                made.addAction(say("Swap with…")).triggered.connect(lambda: w.laying.swap(selected))
            if isinstance(thing, Bar) and (id_ in w.folds.bars or id_ in folding.foldable(w.document.plan)):
                word = say("Unfold") if id_ in w.folds.bars else say("Fold")
                made.addAction(say("{word} its circuits", word=word)).triggered.connect(lambda: w.folds.one(id_))
            if isinstance(thing, Equipment):
                made.addAction(say("Lead the circuit to…")).triggered.connect(lambda: w.laying.lead(id_))
        else:
            made.addAction(say("Lead its start elsewhere…")).triggered.connect(lambda: w.laying.aim(id_, "a"))
            made.addAction(say("Lead its end elsewhere…")).triggered.connect(lambda: w.laying.aim(id_, "b"))
        made.addAction(say("Short circuit here")).triggered.connect(partial(w.going.short, selected))
    return made


def _choose(w: Window, choice: menu.MenuChoice) -> None:
    w.select_next = choice.selects
    if not w.do(choice.edit):
        w.select_next = None
