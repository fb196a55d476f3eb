"""A dialog about two plans: the open one as the second, and as the first another file or this one as it was saved."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from pathlib import Path
from typing import Any, ClassVar

from PySide6.QtCore import Signal
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

from jaunty_copper.desktop.shell.dialogs import file_to_open
from jaunty_copper.desktop.shell.working import WorkDialog
from jaunty_copper.desktop.widgets.asking import answers
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.sections import Sections
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view
from jaunty_copper.desktop.work.patience import Cancelled, waited
from jaunty_copper.desktop.work.worker import Work
from jaunty_copper.documents.table import Table
from jaunty_copper.language import say
from jaunty_copper.plan.files import PlanError, load
from jaunty_copper.plan.model import Plan

FILE, SAVED = "another plan…", "as saved"
WIDTHS_PX = {
    "id": 90, "kind": 84, "field": 120, "figure": 230, "verdict": 74, "before": 130, "after": 130, "quantity": 90, "unit": 60,
    "price": 90, "spare": 90, "lugs": 90,
}  # fmt: skip
RIGHT = ("before", "after", "quantity", "price", "spare", "lugs")
"""Columns of figures."""


class TwoPlans(WorkDialog):
    """What is worked out of the open plan and another, as tables to choose from.

    Parameters
    ----------
    plan : Plan
        That is open; the second.
    path : Path, optional
        Where it was saved.
    """

    picked = Signal(str)
    """Id of something to show."""
    marked = Signal(list)
    """Ids of all that differs."""
    reported = Signal(object)
    """What was found, to be written down: it has a `Dossier` before and one after."""

    TITLE: ClassVar[str]
    WITH: ClassVar[str]
    """What the first plan is called in the dialog."""
    SECTIONS: ClassVar[Mapping[str, tuple[str, str]]]
    UNCOUNTED: ClassVar[tuple[str, ...]] = ()
    """Sections whose number of rows says nothing."""

    def __init__(self, plan: Plan, path: Path | None, parent: QWidget | None = None) -> None:
        super().__init__(self.TITLE, "two plans", parent)
        self.resize(980, 620)
        self.plan, self.path = plan, path
        self.found: Any = None
        self.shown = 0
        self.which = QComboBox()
        self.which.setAccessibleName(self.WITH)
        if path is not None:
            self.which.addItem(say("this plan as it was saved"), SAVED)
        for title, code in self.codes():
            self.which.addItem(title, code)
        self.which.addItem(say("another plan…"), FILE)
        self.which.activated.connect(self._chosen)
        self.sections = Sections(self.SECTIONS)
        self.sections.chosen.connect(self._show_section)
        self.stack = QStackedWidget()
        self.tables: dict[str, QTableView] = {}
        label = Label(self.WITH)
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
        buttons = answers(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(row)
        column.addWidget(self.head)
        column.addWidget(self.progress)
        column.addLayout(choice)
        column.addWidget(self.stack, 1)
        column.addWidget(buttons)
        self.worker.done.connect(self._show)
        self.begin()

    # What kinds of dialog differ in

    def codes(self) -> list[tuple[str, str]]:
        """Codes under which the plan itself can be the first, with what they are called here."""
        return []

    def by_own_code(self) -> str:
        """What the plan itself is called before another code."""
        return self.plan.title

    def begin(self) -> None:
        """Start with the first choice."""
        self._chosen()

    def working(self, first: Plan, code: str | None) -> Work:
        """What is worked out."""
        raise NotImplementedError

    def said(self, words: str) -> str:
        """What stands above the tables once it is known."""
        raise NotImplementedError

    def marks(self) -> list[str]:
        """Ids of what differs and is in the open plan."""
        raise NotImplementedError

    def more(self) -> list[QWidget]:
        """What stands behind the tables, in the order of the sections."""
        return []

    def view_of(self, table: Table) -> QWidget:
        """How a table is shown."""
        return self._table(table)

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
            self._ask(self.by_own_code(), self.plan, what)

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
        self.work(say("{words}. Working it out…", words=words), self.working(first, code))

    def _show(self, found: Any) -> None:
        self.found = found
        self.report.setEnabled(True)
        self.mark.setEnabled(bool(self.marks()))
        self.progress.hide()
        while self.stack.count():
            old = self.stack.widget(0)
            assert old is not None
            self.stack.removeWidget(old)
            old.deleteLater()
        self.tables = {}
        for table in found.tables():
            self.stack.addWidget(self.view_of(table))
            title, _ = self.SECTIONS[table.name]
            self.sections.buttons[table.name].setText(
                title if table.name in self.UNCOUNTED else f"{title} ({len(table.rows)})"
            )
        for widget in self.more():
            self.stack.addWidget(widget)
        self._show_section(self.sections.chosen_name)
        self.head.setText(self.said(self.words))

    def _table(self, table: Table) -> QTableView:
        wide = "finding" if "finding" in table.head else "what"
        rows = Rows(
            tuple(
                ViewColumn(
                    c.title,
                    partial(_cell, k),
                    0 if c.name == wide else WIDTHS_PX.get(c.name, 120),
                    right=table.name != "changes" and c.name in RIGHT,
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
        self.tables[table.name] = view
        return view

    def _mark(self) -> None:
        self.marked.emit(self.marks())

    def _report(self) -> None:
        if self.found is not None:
            self.reported.emit(self.found)

    def _show_section(self, name: str) -> None:
        self.stack.setCurrentIndex(self.sections.show_chosen(name))


def _cell(k: int, row: tuple[object, ...]) -> str:
    return "" if row[k] is None else str(row[k])
