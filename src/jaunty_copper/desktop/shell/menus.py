"""The menu bar: every entry with what it does and its keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from jaunty_copper.desktop.pages import PAGES
from jaunty_copper.desktop.pages.map.lens import LENSES
from jaunty_copper.desktop.shell.looks import SIZES
from jaunty_copper.desktop.widgets.pending import settle
from jaunty_copper.plan.examples import names

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window

EXPORTS = {
    "report": "&Report as PDF…", "tables": "All &tables as a spreadsheet…", "labels": "&Labels as PDF…",
    "map": "&Map as SVG…",
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
        file = w.menuBar().addMenu("&File")
        self._action(file, "&New", w.new, std.New)
        self._action(file, "&Open…", w.open, std.Open)
        self.recent = file.addMenu("Open &recent")
        self.recent.aboutToShow.connect(w.fill_recent)
        examples = file.addMenu("Open &example")
        for name in names():
            self._action(examples, example_title(name), partial(w.open_example, name))
        file.addSeparator()
        self.save = self._action(file, "&Save", w.save, std.Save)
        self._action(file, "Save &as…", w.save_as, std.SaveAs, "Ctrl+Shift+S")
        file.addSeparator()
        exports = file.addMenu("&Export")
        for name, title in EXPORTS.items():
            self._action(exports, title, partial(w.exports.write, name), *(("Ctrl+P",) if name == "report" else ()))
        file.addSeparator()
        self._action(file, "&Quit", w.close, std.Quit, "Ctrl+W")
        edit = w.menuBar().addMenu("&Edit")
        self.undo = self._action(edit, "&Undo", lambda: w.document.undo(), std.Undo)
        self.redo = self._action(edit, "&Redo", lambda: w.document.redo(), std.Redo, "Ctrl+Y")
        edit.addSeparator()
        self.circuits = [
            self._action(edit, "Cu&t circuit", w.circuits.cut, std.Cut),
            self._action(edit, "&Copy circuit", w.circuits.copy, std.Copy),
            self._action(edit, "&Paste circuit", w.circuits.paste, std.Paste),
            self._action(edit, "&Duplicate circuit", w.circuits.duplicate, "Ctrl+Shift+D"),
            self._action(edit, "Select &all of its kind", w.map.all_alike, std.SelectAll),
        ]
        edit.addSeparator()
        self._action(edit, "&Insert, add or replace here…", w.map.menu_at_selection, "Ins")
        self._action(edit, "C&onnect to…", w.laying.connect, "Ctrl+L")
        self._action(edit, "Apply the finding's &fix", w.going.fix, "Ctrl+M")
        plan = w.menuBar().addMenu("&Plan")
        self._action(plan, "&Next finding", partial(w.going.step, 1), "F8")
        self._action(plan, "&Previous finding", partial(w.going.step, -1), "Shift+F8")
        self._action(plan, "Add a &line of equipment", w.additions.line, "Ctrl+Shift+N")
        self._action(plan, "Add &equipment…", w.additions.equipment, "Ctrl+Shift+E")
        self._action(plan, "Add a &bank…", w.additions.bank, "Ctrl+Shift+B")
        self._action(plan, "&Wire up what is loose", w.additions.wire_up, "Ctrl+Shift+W")
        self._action(plan, "&Protect the whole plan…", w.additions.protect, "Ctrl+Shift+P")
        self._action(plan, "Short &circuit here", w.going.short, "Ctrl+K")
        self._action(plan, "A &device of your own…", w.additions.device)
        plan.addSeparator()
        self._action(plan, "New &scenario like this one", w.scenarios.add)
        self._action(plan, "&Delete this scenario", w.scenarios.delete)
        self._action(plan, "Ne&xt scenario", partial(w.scenarios.step, 1), "Ctrl+Tab", "]")
        self._action(plan, "Pre&vious scenario", partial(w.scenarios.step, -1), "Ctrl+Shift+Tab", "[")
        plan.addSeparator()
        self._action(plan, "New &zone", w.additions.zone)
        view = w.menuBar().addMenu("&View")
        for k, page in enumerate(PAGES):
            self._action(view, f"Go to &{page}", partial(w.show_page, page), f"Alt+{k + 1}")
        view.addSeparator()
        self.lenses = [
            self._action(view, f"&{lens.title}", partial(w.set_lens, lens.id), str(k + 1))
            for k, lens in enumerate(LENSES)
        ]
        view.addSeparator()
        self._action(view, "&Larger", partial(w.map.zoom, 1.25), std.ZoomIn, "Ctrl+=")
        self._action(view, "S&maller", partial(w.map.zoom, 0.8), std.ZoomOut)
        self._action(view, "&Fit the width", w.map.fit, "Ctrl+0")
        self._action(view, "Fit &all", w.map.fit_all, "Ctrl+9")
        self._action(view, "Fol&d or unfold all circuits", w.folds.all, "Ctrl+Shift+F")
        view.addSeparator()
        self._action(view, "Metric or &AWG", w.looks.switch_units, "Ctrl+U")
        self._action(view, "Light or &dark", w.looks.switch, "Ctrl+D")
        sizes = view.addMenu("Si&ze of text and drawings")
        for percent in SIZES:
            self._action(sizes, f"{percent} %", partial(w.looks.size, percent))
        view.addSeparator()
        self._action(view, "Keyboard to the &map", w.map.setFocus, "F6")
        self._action(view, "Keyboard to the f&indings", lambda: w.findings.list.setFocus(), "F7")
        help_ = w.menuBar().addMenu("&Help")
        self._action(help_, "&Keys", w.help.keys, std.HelpContents)
        self._action(help_, "&Cautions", w.help.cautions)
        self._action(help_, "&About", w.help.about)

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
