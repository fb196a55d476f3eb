"""The dialog that shows two plans side by side: another file, this one as it was saved, or the same under another code."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialogButtonBox,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.code import code_names, code_of
from jaunty_copper.desktop.shell.dialogs import file_to_open
from jaunty_copper.desktop.shell.working import WorkDialog
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.sections import Sections
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view
from jaunty_copper.desktop.work.patience import Cancelled, waited
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.documents.comparison import Comparison
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import Table
from jaunty_copper.language import say
from jaunty_copper.plan.files import PlanError, load
from jaunty_copper.plan.model import Plan

SECTIONS = {
    "totals": (say("The whole"), say("Price, mass, losses, findings")),
    "changes": (say("What differs"), say("What was put in, taken out and changed")),
    "gone": (say("Gone"), say("Findings that the second does not have any more")),
    "come": (say("New"), say("Findings that only the second has")),
    "figures": (say("Figures"), say("Currents, warmth, drops and short-circuit currents that moved")),
}
WIDTHS_PX = {"id": 90, "kind": 84, "field": 120, "figure": 230, "verdict": 74, "before": 130, "after": 130}
FILE, SAVED = "another plan…", "as saved"


class Comparing(WorkDialog):
    """What differs between the open plan and another; the open one is the second.

    Parameters
    ----------
    plan : Plan
        That is open.
    path : Path, optional
        Where it was saved.
    """

    picked = Signal(str)
    """Id of something to show."""
    marked = Signal(list)
    """Ids of all that differs."""
    reported = Signal(object)
    """A `Comparison` to be written down."""

    def __init__(self, plan: Plan, path: Path | None, parent: QWidget | None = None) -> None:
        super().__init__(say("Compare"), "compare", parent)
        self.resize(860, 560)
        self.plan, self.path = plan, path
        self.found: Comparison | None = None
        self.shown = 0
        self.which = QComboBox()
        self.which.setAccessibleName(say("Compare with"))
        if path is not None:
            self.which.addItem(say("this plan as it was saved"), SAVED)
        for name in code_names():
            if name != plan.practice:
                self.which.addItem(say("this plan by {code}", code=code_of(name).name), name)
        self.which.addItem(say("another plan…"), FILE)
        self.which.activated.connect(self._chosen)
        self.sections = Sections(SECTIONS)
        self.sections.chosen.connect(self._show_section)
        self.stack = QStackedWidget()
        self.tables: dict[str, QTableView] = {}
        label = Label(say("Compare with"))
        label.setBuddy(self.which)
        row = QHBoxLayout()
        row.addWidget(label)
        row.addWidget(self.which, 1)
        choice = QHBoxLayout()
        choice.addWidget(self.sections)
        choice.addStretch(1)
        self.mark = QPushButton(say("Mark on the map"))
        self.mark.setToolTip(say("Select everything that was put in or changed"))
        self.mark.setEnabled(False)
        self.mark.clicked.connect(self._mark)
        choice.addWidget(self.mark)
        self.report = QPushButton(say("Report…"))
        self.report.setToolTip(say("Write the report of the plan that is open, with a chapter on what differs"))
        self.report.setEnabled(False)
        self.report.clicked.connect(self._report)
        choice.addWidget(self.report)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(row)
        column.addWidget(self.head)
        column.addWidget(self.progress)
        column.addLayout(choice)
        column.addWidget(self.stack, 1)
        column.addWidget(buttons)
        self.worker.done.connect(self._show)
        self._chosen()

    def _chosen(self) -> None:
        what = self.which.currentData()
        if what != FILE:
            self.shown = self.which.currentIndex()
        if what == FILE:
            path = file_to_open(self, self.path.parent if self.path else Path.home())
            if path is None:
                self.which.setCurrentIndex(self.shown)
                return
            self.take(path)
        elif what == SAVED and self.path is not None:
            self.take(self.path)
        elif Path(str(what)).is_absolute():
            self.take(Path(str(what)))
        else:
            self._ask(say("Before: by {code}", code=code_of(self.plan.practice).name), self.plan, what)

    def take(self, path: Path) -> None:
        """Compare with a file, or say what is wrong with it."""
        try:
            other = waited(self, say("Reading {path}…", path=path.name), partial(load, path))
        except Cancelled:
            return
        except PlanError as error:
            self.head.setText(str(error))
            self.progress.hide()
            return
        if self.which.findData(str(path)) < 0 and path != self.path:
            self.which.insertItem(self.which.count() - 1, path.name, str(path))
            self.shown = self.which.findData(str(path))
            self.which.setCurrentIndex(self.shown)
        self._ask(
            say("Before: {other}; after: {plan}", other=other.title or path.name, plan=self.plan.title),
            other,
            None,
        )

    def _ask(self, words: str, first: Plan, code: str | None) -> None:
        self.words = words
        self.work(say("{words}. Working it out…", words=words), _work(first, self.plan, code))

    def _show(self, found: Comparison) -> None:
        self.found = found
        self.report.setEnabled(True)
        self.mark.setEnabled(any(c.kind != "removed" and c.id for c in found.changes))
        self.progress.hide()
        while self.stack.count():
            old = self.stack.widget(0)
            assert old is not None
            self.stack.removeWidget(old)
            old.deleteLater()
        self.tables = {}
        counts = {}
        for table in found.tables():
            view = self._view(table)
            self.tables[table.name] = view
            self.stack.addWidget(view)
            counts[table.name] = len(table.rows)
            self.sections.buttons[table.name].setText(
                SECTIONS[table.name][0] + ("" if table.name == "totals" else f" ({len(table.rows)})")
            )
        self.head.setText(
            say(
                "{words}. {changes} differences; findings: {gone} gone, {come} new.",
                words=self.words, changes=counts["changes"], gone=counts["gone"], come=counts["come"],
            )
        )  # fmt: skip

    def _view(self, table: Table) -> QTableView:
        wide = "finding" if "finding" in table.head else "what"
        rows = Rows(
            tuple(
                ViewColumn(
                    c.title,
                    partial(_cell, k),
                    0 if c.name == wide else WIDTHS_PX.get(c.name, 120),
                    right=table.name in ("figures", "totals") and c.name in ("before", "after"),
                )
                for k, c in enumerate(table.columns)
            )
        )
        rows.show_rows(table.rows)
        view = table_view(rows, table.title)
        rows.setParent(view)
        if "id" in table.head:
            at = table.head.index("id")
            view.activated.connect(lambda index, r=rows, k=at: self.picked.emit(str(r.rows[index.row()][k])))
            view.clicked.connect(lambda index, r=rows, k=at: self.picked.emit(str(r.rows[index.row()][k])))
        return view

    def _mark(self) -> None:
        if self.found is not None:
            self.marked.emit(list(dict.fromkeys(c.id for c in self.found.changes if c.kind != "removed" and c.id)))

    def _report(self) -> None:
        if self.found is not None:
            self.reported.emit(self.found)

    def _show_section(self, name: str) -> None:
        self.stack.setCurrentIndex(self.sections.show_chosen(name))


def _cell(k: int, row: tuple[object, ...]) -> str:
    return "" if row[k] is None else str(row[k])


def _work(first: Plan, second: Plan, code: str | None) -> Work:
    def work(task: Task) -> None:
        found = Comparison(Dossier(Assessment(first)), Dossier(Assessment(second, code)))
        # Not left to the window's own thread.
        found.tables()
        task.report(found)

    return work


def open_for(plan: Plan, path: Path | None, parent: QWidget) -> Comparing:
    """Show the dialog; the map stays in reach."""
    made = Comparing(plan, path, parent)
    made.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    made.show()
    return made
