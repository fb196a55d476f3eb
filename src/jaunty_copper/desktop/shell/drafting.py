"""The dialog in which whole plans are drafted from the list of equipment, and one of them taken."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QModelIndex, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.choosing.beginning import USUAL_AIR_C
from jaunty_copper.choosing.brief import Brief
from jaunty_copper.choosing.draft import Draft, decides, drafts
from jaunty_copper.choosing.side_by_side import side_by_side
from jaunty_copper.codes.code import code_name, code_names
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.desktop.shell.beginning import BONDINGS
from jaunty_copper.desktop.shell.working import WorkDialog
from jaunty_copper.desktop.widgets.asking import answers, ask
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, positive, read
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.language import say, say_many
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.model import Plan

COLUMNS = (
    ViewColumn(say("Whole plan"), lambda d: d.title, 0),
    ViewColumn(say("Price"), lambda d: f"{d.price:,.0f}" if d.plan else "", 70, True),
    ViewColumn(say("Copper"), lambda d: f"{d.copper_kg:.1f} kg" if d.plan else "", 76, True),
    ViewColumn(say("Lost"), lambda d: f"{d.loss_w:.0f} W" if d.plan else "", 64, True),
    ViewColumn(say("Lasts"), lambda d: say("{days:.1f} days", days=d.needs.autonomy_days) if d.plan else "", 84, True),
    ViewColumn(say("Lasting"), lambda d: amps(d.needs.continuous_a) if d.plan else "", 76, True),
    ViewColumn(say("Short circuit"), lambda d: amps(d.fault_a) if d.plan else "", 100, True),
    ViewColumn(say("Findings"), lambda d: str(len(d.findings)) if d.plan else "–", 76, True),
)


class Drafting(WorkDialog):
    """Candidates as they are made; the chosen one becomes the plan."""

    taken = Signal(object)
    """A `Draft`."""

    def __init__(self, plan: Plan, parent: QWidget | None = None) -> None:
        super().__init__(say("Draft whole plans"), "draft", parent)
        self.resize(1000, 540)
        self.plan = plan
        self.code = QComboBox()
        for name in code_names():
            self.code.addItem(code_name(name), name)
        self.code.setCurrentIndex(max(self.code.findData(plan.practice), 0))
        self.chemistry = QComboBox()
        self.chemistry.addItem(say("any"), None)
        for kind in library().battery_chemistries.values():
            self.chemistry.addItem(kind.label, kind.id)
        self.bonding = QComboBox()
        for value, words in BONDINGS[1:]:
            self.bonding.addItem(words, value)
        self.days = QLineEdit(f"{plan.autonomy_days:g}")
        self.air = QLineEdit(f"{USUAL_AIR_C:g}")
        form = QFormLayout()
        for words, field in (
            (say("Code"), self.code), (say("Chemistry"), self.chemistry), (say("Bonding"), self.bonding),
            (say("Days without a source"), self.days), (say("Air where it stands, °C"), self.air),
        ):  # fmt: skip
            field.setAccessibleName(words)
            form.addRow(words, field)
        self.begin = QPushButton(say("Draft"))
        self.begin.clicked.connect(self._begin)
        self.head.setText(
            say(
                "{count} pieces of equipment: bank, bars, converters, circuits and protection are drawn anew for each voltage. Inverters and sources are taken as they would be bought for it.",
                count=len(plan.equipment),
            )
        )
        self.rows = Rows(COLUMNS)
        self.view = table_view(self.rows, say("Drafts"))
        self.view.selectionModel().currentChanged.connect(self._chosen)
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setMinimumHeight(56)
        self.buttons = answers()
        self.take = self.buttons.addButton(say("Take this one"), QDialogButtonBox.ButtonRole.AcceptRole)
        self.take.setEnabled(False)
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self._take)
        self.buttons.rejected.connect(self.reject)
        top = QHBoxLayout()
        top.addLayout(form, 1)
        top.addWidget(self.begin)
        column = QVBoxLayout(self)
        column.addLayout(top)
        column.addWidget(self.head)
        column.addWidget(self.progress)
        column.addWidget(self.view, 1)
        column.addWidget(self.words)
        column.addWidget(self.buttons)
        self.begin.setDefault(True)  # Only a button that is in its dialog can be its default.
        self.found: list[Draft] = []
        self.worker.done.connect(self._show)

    def _begin(self) -> None:
        try:
            brief = Brief(
                self.code.currentData(), self.chemistry.currentData(), positive(self.days.text(), "d"),
                self.bonding.currentData(), read(self.air.text(), "°C"),
            )  # fmt: skip
        except NotUnderstood as error:
            self.head.setText(str(error))
            return
        self.found = []
        self.rows.show_rows(())
        self.words.setText("")
        self.take.setEnabled(False)
        self.work(say("Drafting…"), _work(self.plan, brief))

    def _show(self, found: Draft | str | None) -> None:
        if found is None:
            self.progress.hide()
            clean = [k for k, d in enumerate(self.found) if d.plan is not None and not d.findings]
            good = len(clean)
            if clean and self.found[self.view.currentIndex().row()].plan is None:
                # Nobody has chosen yet: the cheapest that can be taken.
                self.view.setCurrentIndex(self.rows.index(min(clean, key=lambda k: self.found[k].price), 0))
            self.head.setText(
                say_many(
                    "{count} plan without a finding; choose one.", "{count} plans without a finding; choose one.", good
                )
                if good
                else say("None of them is without a finding: the text below says why.")
            )
            return
        if isinstance(found, str):
            self.head.setText(f"{found}…")
            return
        self.found.append(found)
        now = self.view.currentIndex().row()
        self.rows.show_rows(tuple(self.found))
        self.view.setCurrentIndex(self.rows.index(max(now, 0), 0))

    def _chosen(self, index: QModelIndex, _: QModelIndex) -> None:
        draft = self.found[index.row()] if 0 <= index.row() < len(self.found) else None
        self.take.setEnabled(draft is not None and draft.plan is not None)
        if draft is None:
            return
        words = decides(draft, self.found) if draft.plan is not None else ""
        if draft.plan is not None and draft.decisions:
            words += say(" For you to decide: {what}.", what=draft.decisions[0].headline)
        if draft.why_not:
            words = (f"{words} " if words else "") + say("Left to decide: {why}.", why=draft.why_not)
        self.words.setText(words)

    def _take(self) -> None:
        draft = self.found[self.view.currentIndex().row()]
        self.accept()
        self.taken.emit(draft)


def _work(plan: Plan, brief: Brief) -> Work:
    def work(task: Task) -> None:
        overtaken = partial(getattr, task, "overtaken")
        for draft in drafts(plan, brief, overtaken, task.report, side_by_side):
            task.report(draft)
        task.report(None)

    return work


def open_for(plan: Plan, parent: QWidget) -> Drafting:
    """Show the dialog; it stays until answered."""
    made = Drafting(plan, parent)
    ask(made)
    return made
