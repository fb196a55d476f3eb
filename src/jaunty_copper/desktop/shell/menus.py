"""The menu bar: every entry with what it does and its keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QMenu

from jaunty_copper.desktop.pages import PAGES
from jaunty_copper.desktop.shell.looks import SIZES
from jaunty_copper.desktop.widgets.dividers import hold_next
from jaunty_copper.desktop.widgets.pending import settle
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.language import say
from jaunty_copper.plan.examples import names

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window

EXPORTS = {
    "report": say("&Report as PDF…"), "tables": say("All &tables as a spreadsheet…"), "labels": say("&Labels as PDF…"),
    "map": say("&Map as SVG…"),
}  # fmt: skip
"""What the File menu can write."""


def example_title(name: str) -> str:
    """An example's name as a menu shows it."""
    return name.replace("_", " ").capitalize()


class Menus:
    """The menus of a window, and those entries that change while it is open."""

    def __init__(self, w: Window) -> None:
        self.window = w
        std = QKeySequence.StandardKey
        file = w.menuBar().addMenu(say("&File"))
        self._action(file, say("&New"), w.new, std.New)
        self._action(file, say("Another &window"), w.another, "Ctrl+Shift+T")
        self._action(file, say("&Open…"), w.open, std.Open)
        self.recent = file.addMenu(say("Open &recent"))
        self.recent.aboutToShow.connect(w.fill_recent)
        examples = file.addMenu(say("Open &example"))
        for name in names():
            self._action(examples, example_title(name), partial(w.open_example, name))
        file.addSeparator()
        self.save = self._action(file, say("&Save"), w.save, std.Save)
        self._action(file, say("Save &as…"), w.save_as, std.SaveAs, "Ctrl+Shift+S")
        file.addSeparator()
        exports = file.addMenu(say("&Export"))
        for name, title in EXPORTS.items():
            self._action(exports, title, partial(w.exports.write, name), *(("Ctrl+E",) if name == "report" else ()))
        self._action(file, say("&Print…"), w.exports.print, std.Print)
        file.addSeparator()
        self._action(file, say("Co&mpare with…"), w.going.compare, "Ctrl+Shift+C")
        self._action(file, say("A&lter from…"), w.going.alter, "Ctrl+Shift+A")
        file.addSeparator()
        self._action(file, say("&Quit"), w.close, std.Quit, "Ctrl+W")
        edit = w.menuBar().addMenu(say("&Edit"))
        self.undo = self._action(edit, say("&Undo"), lambda: w.document.undo(), std.Undo)
        self.redo = self._action(edit, say("&Redo"), lambda: w.document.redo(), std.Redo, "Ctrl+Y")
        edit.addSeparator()
        self.circuits = [
            self._action(edit, say("Cu&t circuit"), w.circuits.cut, std.Cut),
            self._action(edit, say("&Copy circuit"), w.circuits.copy, std.Copy),
            self._action(edit, say("&Paste circuit"), w.circuits.paste, std.Paste),
            self._action(edit, say("&Duplicate circuit"), w.circuits.duplicate, "Ctrl+Shift+D"),
            self._action(edit, say("Select &all of its kind"), w.map.all_alike, std.SelectAll),
        ]
        edit.addSeparator()
        self._action(edit, say("Fi&nd…"), w.going.find, std.Find)
        self._action(edit, say("&Insert, add or replace here…"), w.map.menu_at_selection, say("Ins"))
        self._action(edit, say("C&onnect to…"), w.laying.connect, "Ctrl+L")
        self._action(edit, say("Apply the finding's &fix"), w.going.fix, "Ctrl+M")
        plan = w.menuBar().addMenu(say("&Plan"))
        self._action(plan, say("&Next finding"), partial(w.going.step, 1), "F8")
        self._action(plan, say("&Previous finding"), partial(w.going.step, -1), "Shift+F8")
        self._action(plan, say("Add a &line of equipment"), w.additions.line, "Ctrl+Shift+N")
        self._action(plan, say("Add &equipment…"), w.additions.equipment, "Ctrl+Shift+E")
        self._action(plan, say("Add a &bank…"), w.additions.bank, "Ctrl+Shift+B")
        self._action(plan, say("Draft whole plans &from the needs…"), w.additions.draft, "Ctrl+Shift+G")
        self._action(plan, say("&Wire up what is loose"), w.additions.wire_up, "Ctrl+Shift+W")
        self._action(plan, say("&Redraft this bar"), w.additions.redraft, "Ctrl+Shift+R")
        self._action(plan, say("&Protect the whole plan…"), w.additions.protect, "Ctrl+Shift+P")
        self._action(plan, say("Choose si&zes at the least cost…"), w.additions.sizes, "Ctrl+Shift+L")
        self._action(plan, say("Short &circuit here"), w.going.short, "Ctrl+K")
        self._action(plan, say("&Turn a figure"), w.going.turn, "Ctrl+T")
        self._action(plan, say("What is not &known…"), w.going.vary, "Ctrl+Shift+K")
        self._action(plan, say("A &device of your own…"), w.additions.device)
        plan.addSeparator()
        self._action(plan, say("New &scenario like this one"), w.scenarios.add)
        self._action(plan, say("&Delete this scenario"), w.scenarios.delete)
        self._action(plan, say("Ne&xt scenario"), partial(w.scenarios.step, 1), "Ctrl+Tab", "]")
        self._action(plan, say("Pre&vious scenario"), partial(w.scenarios.step, -1), "Ctrl+Shift+Tab", "[")
        plan.addSeparator()
        self._action(plan, say("New z&one"), w.additions.zone)
        view = w.menuBar().addMenu(say("&View"))
        for k, (page, (title, *_)) in enumerate(PAGES.items()):
            self._action(view, say("Go to &{page}", page=title.lower()), partial(w.show_page, page), f"Alt+{k + 1}")
        view.addSeparator()
        self.lenses = [
            self._action(view, f"&{lens.title}", partial(w.set_lens, lens.id), str(k + 1))
            for k, lens in enumerate(LENSES)
        ]
        view.addSeparator()
        self._action(view, say("&Larger"), partial(w.map.zoom, 1.25), std.ZoomIn, "Ctrl+=")
        self._action(view, say("S&maller"), partial(w.map.zoom, 0.8), std.ZoomOut)
        self._action(view, say("&Fit the width"), w.map.fit, "Ctrl+0")
        self._action(view, say("Fit &all"), w.map.fit_all, "Ctrl+9")
        self._action(view, say("Fol&d or unfold all circuits"), w.folds.all, "Ctrl+Shift+F")
        view.addSeparator()
        self._action(view, say("Metric or &AWG"), w.looks.switch_units, "Ctrl+U")
        self._action(view, say("Light or &dark"), w.looks.switch, "Ctrl+D")
        sizes = view.addMenu(say("Si&ze of text and drawings"))
        group = QActionGroup(sizes)
        for percent in SIZES:
            size = group.addAction(self._action(sizes, f"{percent} %", partial(w.looks.size, percent)))
            size.setCheckable(True)
            size.setChecked(percent == w.settings.get("size", 100))
        view.addSeparator()
        self._action(view, say("Keyboard to the &map"), w.map.setFocus, "F6")
        self._action(view, say("Keyboard to the f&indings"), lambda: w.findings.list.setFocus(), "F7")
        self._action(view, say("Keyboard to the next di&vider"), partial(hold_next, w), "Ctrl+F6")
        help_ = w.menuBar().addMenu(say("&Help"))
        self._action(help_, say("&Pages on methods and codes"), w.help.pages, std.HelpContents)
        self._action(help_, say("&Tour of the demo"), w.help.tour)
        self._action(help_, say("&Keys"), w.help.keys, "Ctrl+F1")
        self._action(help_, say("&Cautions"), w.help.cautions)
        self._action(help_, say("&About"), w.help.about)

    def _action(
        self, into: QMenu, text: str, slot: Callable[[], object], *keys: QKeySequence | QKeySequence.StandardKey | str
    ) -> QAction:
        action = QAction(text, self.window)
        # The desktop's own key for it may be the one that is given too: twice the same is none.
        wanted = dict.fromkeys(QKeySequence(k) for k in keys)
        action.setShortcuts([k for k in wanted if not k.isEmpty()])
        action.triggered.connect(settle)
        action.triggered.connect(lambda: slot())
        into.addAction(action)
        return action
