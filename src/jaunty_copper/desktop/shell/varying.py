"""The dialog that says what is not known of a plan: the chance of findings, and what would have to be measured."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QDialogButtonBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.commissioning.judged import judged
from jaunty_copper.commissioning.varying import Chance, Chances, chances
from jaunty_copper.commissioning.varying_described import ChanceInWords, described, judged_whole, left_out
from jaunty_copper.desktop.inspector.editors import TextEditor
from jaunty_copper.desktop.shell.working import WorkDialog
from jaunty_copper.desktop.widgets.asking import answers
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, positive
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.language import say
from jaunty_copper.plan.model import Plan

USUAL, LEAST, MOST = 2000, 100, 20_000
COLUMNS = (
    ViewColumn(say("Chance"), lambda r: r[1].chance, 70, True),
    ViewColumn(say("What is broken"), lambda r: r[1].what, 0),
    ViewColumn(say("Nine in ten lie between"), lambda r: r[1].band, 170),
    ViewColumn(say("Limit"), lambda r: r[1].limit, 130),
    ViewColumn(say("Moved most by"), lambda r: r[1].matters, 330),
)


class VariedSoFar(NamedTuple):
    """What came of it so far: every chance, those in doubt in words, and whether more is to come."""

    chances: Chances
    rows: tuple[tuple[Chance, ChanceInWords], ...]
    whole: bool


class Varying(WorkDialog):
    """Limits that are kept in some variants and broken in others, the most doubtful first."""

    picked = Signal(str)
    """Id of something to show."""

    def __init__(self, plan: Plan, parent: QWidget | None = None) -> None:
        super().__init__(say("What is not known"), "vary", parent)
        self.resize(1000, 520)
        self.plan = plan
        self.found: Chances | None = None
        self.samples = TextEditor()
        self.samples.show_value(str(USUAL))
        self.samples.setFixedWidth(90)
        self.samples.setAccessibleName(say("Variants"))
        self.again = QPushButton(say("Vary again"))
        self.again.clicked.connect(self._ask)
        label = Label(say("Variants"))
        label.setBuddy(self.samples)
        row = QHBoxLayout()
        row.addWidget(self.head, 1)
        row.addWidget(label)
        row.addWidget(self.samples)
        row.addWidget(self.again)
        self.rows = Rows(COLUMNS)
        self.view = table_view(self.rows, say("Chances"))
        self.view.clicked.connect(lambda index: self.picked.emit(self.rows.rows[index.row()][0].place))
        self.view.activated.connect(lambda index: self.picked.emit(self.rows.rows[index.row()][0].place))
        note = Label(
            say(
                "Spreads are representative: joints from clean to tired, lengths and copper 3 %, loads 5 %, units 15 %, air 5 K, what a device holds 5 %. What moves a figure most is what to measure."
            )
        )
        note.setObjectName("caption")
        note.setWordWrap(True)
        buttons = answers(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(row)
        column.addWidget(self.progress)
        column.addWidget(self.view, 1)
        column.addWidget(note)
        column.addWidget(buttons)
        self.worker.done.connect(self._show)
        self._ask()

    def _ask(self) -> None:
        try:
            samples = round(positive(self.samples.text()))
        except NotUnderstood as error:
            self.head.setText(str(error))
            return
        samples = min(max(samples, LEAST), MOST)
        self.samples.show_value(str(samples))
        self.progress.setRange(0, 0)
        self.work(say("Trying {samples} variants…", samples=samples), _work(self.plan, samples))

    def _show(self, found: VariedSoFar | tuple[int, int]) -> None:
        if not isinstance(found, VariedSoFar):
            done, of = found
            self.progress.setRange(0, of)
            self.progress.setValue(done)
            return
        self.found, rows = found.chances, found.rows
        self.progress.setRange(0, 0)
        self.progress.setVisible(not found.whole)
        self.rows.show_rows(rows)
        words = (
            say("{samples} variants: {count} limits are kept in some and broken in others.", samples=self.found.samples, count=len(rows))
            if rows
            else say("{samples} variants: every limit is kept in all of them, or broken in all.", samples=self.found.samples)
        )  # fmt: skip
        more = judged_whole(self.found) if found.whole else say("Judging some of them by every rule…")
        self.head.setText(" ".join(x for x in (words, left_out(self.found), more) if x))


def _work(plan: Plan, samples: int) -> Work:
    def work(task: Task) -> None:
        case = Assessment(plan).case

        def report(found: Chances, whole: bool) -> None:
            doubtful = (c for c in found.found if 0.0 < c.chance < 1.0)
            task.report(VariedSoFar(found, tuple((c, described(case, c)) for c in doubtful), whole))

        found = chances(case, samples, overtaken=lambda: task.overtaken)
        report(found, False)
        task.give_way()
        found = judged(case, found, overtaken=lambda: task.overtaken, progress=lambda done, of: task.report((done, of)))
        report(found, True)

    return work


def open_for(plan: Plan, parent: QWidget) -> Varying:
    """Show the dialog; the map stays in reach."""
    made = Varying(plan, parent)
    made.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    made.show()
    return made
