"""The dialog that shows how to alter a system: from another plan, or this one as it was saved, to the one that is open."""

from __future__ import annotations

from itertools import groupby

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.desktop.pages.build.steps import tick_step
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.two_plans import SAVED, TwoPlans
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.documents.alteration import AlterationSheet
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import Table
from jaunty_copper.fabrication.altering.hands import WorkStep
from jaunty_copper.fabrication.altering.steps import PARTS
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.model import Plan


class Altering(TwoPlans):
    """The order of the work, what it needs, and what to read before and after."""

    TITLE = say("Alter")
    WITH = say("As it is")
    SECTIONS = {
        "work": (say("Order of the work"), say("Make safe, take out, fit, reconnect, prove")),
        "buy": (say("Buy"), say("Materials of the change alone")),
        "again": (say("Used again"), say("Cables that are taken out and serve elsewhere")),
        "left": (say("Left over"), say("What is taken out and not used again")),
        "readings": (say("Readings"), say("What a meter reads at the places of the work, before and after, with everything on")),
    }  # fmt: skip
    found: AlterationSheet | None
    wanted = Signal(object)
    """An `Edit`: a tick."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.document = document
        self.boxes: list[tuple[str, QCheckBox]] = []
        """Of each step, with its id."""
        super().__init__(document.plan, document.path, parent)
        document.changed.connect(self.show_ticks)

    def begin(self) -> None:
        """Start with the plan as it was saved; with nothing where it never was."""
        if self.path is not None:
            super().begin()
        else:
            self.head.setText(say("Choose the plan of the system as it is; the one that is open is how it shall be."))

    def working(self, first: Plan, code: str | None) -> Work:
        """Both plans, and the work between them."""

        def work(task: Task) -> None:
            found = AlterationSheet(Dossier(Assessment(first)), Dossier(Assessment(self.plan, code)))
            # Not left to the window's own thread.
            found.tables()
            task.report(found)

        return work

    def said(self, words: str) -> str:
        """How much work it is, and what stays live meanwhile."""
        assert self.found is not None
        steps = len(self.found.found.steps)
        if not steps:
            return say("{words}. There is nothing to do on site between these two plans.", words=words)
        live = self.found.stays_live or say("nothing")
        return say(
            "{words}. {steps}. Live meanwhile: {live}. Local codes and licensed practice decide; so does what you find on the spot.",
            words=words, steps=say_many("{count} step", "{count} steps", steps), live=live,
        )  # fmt: skip

    def marks(self) -> list[str]:
        """What is fitted, moved or set."""
        if self.found is None:
            return []
        work = self.found.found.work
        ends = (id_ for id_, _ in work.lifted)
        return list(dict.fromkeys((*work.fitted, *work.inserts, *work.runs_in, *ends, *(d.id for d in work.settings))))

    def view_of(self, table: Table) -> QWidget:
        """Steps as a list to tick, everything else as a table."""
        if table.name != "work" or self.found is None:
            return super().view_of(table)
        return self._steps(self.found.found.steps)

    def _steps(self, steps: tuple[WorkStep, ...]) -> QScrollArea:
        """Step by step under the part of the work it belongs to, the cautions where they matter."""
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(16, 6, 16, 12)
        column.setSpacing(4)
        self.count = Label()
        self.count.setObjectName("caption")
        self.count.setWordWrap(True)
        column.addWidget(self.count)
        self.boxes = []
        numbered = enumerate(steps, 1)
        for part, some in groupby(numbered, key=lambda pair: pair[1].part):
            title = Label(PARTS[part])
            title.setObjectName("head")
            column.addSpacing(8)
            column.addWidget(title)
            for number, step in some:
                box = QCheckBox(f"{number}.")
                box.setAccessibleName(f"{number}. {step.text}")
                box.clicked.connect(lambda on, s=step: self.wanted.emit(tick_step(s.id, s.text, on)))
                text = Label(step.text)
                text.setWordWrap(True)
                row = QHBoxLayout()
                row.addWidget(box, 0, Qt.AlignmentFlag.AlignTop)
                row.addWidget(text, 1)
                column.addLayout(row)
                self.boxes.append((step.id, box))
                if step.caution:
                    caution = Label(f"⚠ {step.caution}")
                    caution.setObjectName("bad")
                    caution.setWordWrap(True)
                    caution.setContentsMargins(24, 0, 0, 2)
                    column.addWidget(caution)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setAccessibleName(say("Order of the work"))
        area.setWidget(body)
        self.show_ticks()
        return area

    def show_ticks(self) -> None:
        """Show what is ticked, as the plan that is open has it now."""
        done = frozenset(self.document.plan.done)
        if self.found is not None and self.boxes:
            self.found.done = done
            for id_, box in self.boxes:
                box.setChecked(id_ in done)
            count = say(
                "{sum} of {steps} steps done.", sum=sum(id_ in done for id_, _ in self.boxes), steps=len(self.boxes)
            )
            if self.which.currentData() == SAVED:
                count += " " + say(
                    "Ticks are kept in this plan. Save it under another name until all is done: saved under its own, it is the plan as it is, and no work is left."
                )
            self.count.setText(count)


def open_for(document: Document, parent: QWidget) -> Altering:
    """Show the dialog; the map stays in reach."""
    made = Altering(document, parent)
    made.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    made.show()
    return made
