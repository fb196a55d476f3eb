"""The dialog that shows what protecting a plan would change, before anything is changed."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QProgressBar,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.choosing.changes import made
from jaunty_copper.choosing.protect import Protected
from jaunty_copper.desktop.pages.curves.facts import protection_of
from jaunty_copper.desktop.widgets.asking import answers, ask
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.work.worker import Worker
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Plan


class Protecting(QDialog):
    """Differences with a box to tick each; applied as one edit."""

    wanted = Signal(object)
    """An `Edit` to apply."""

    def __init__(self, plan: Plan, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("Protect the plan"))
        self.resize(760, 560)
        self.found: Protected | None = None
        self.boxes: list[QCheckBox] = []
        self.head = Label(say("Looking for devices that are able, selective, and small enough for what they guard…"))
        self.head.setWordWrap(True)
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.list = QScrollArea()
        self.list.setWidgetResizable(True)
        self.left = Label()
        self.left.setWordWrap(True)
        self.left.setObjectName("caption")
        self.buttons = answers()
        self.use = self.buttons.addButton(say("Make these changes"), QDialogButtonBox.ButtonRole.AcceptRole)
        self.use.setEnabled(False)
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self._apply)
        self.buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(self.head)
        column.addWidget(self.progress)
        column.addWidget(self.list, 1)
        column.addWidget(self.left)
        column.addWidget(self.buttons)
        self.worker = Worker("protect")
        self.worker.done.connect(self._show)
        self.worker.failed.connect(self._failed)
        self.worker.ask(protection_of(plan))

    def _show(self, found: Protected | str) -> None:
        if isinstance(found, str):
            self.head.setText(f"{found}…")
            return
        self.found = found
        self.progress.hide()
        body = QWidget()
        column = QVBoxLayout(body)
        column.setSpacing(2)
        for change in found.changes:
            box = QCheckBox(f"{change.place}:  {change.before + '  →  ' if change.before else ''}{change.after}")
            box.setChecked(True)
            box.toggled.connect(self._count)
            self.boxes.append(box)
            column.addWidget(box)
            for text in filter(None, (change.finding, change.why)):
                why = Label(text)
                why.setObjectName("caption")
                why.setWordWrap(True)
                why.setContentsMargins(24, 0, 0, 2)
                column.addWidget(why)
            column.addSpacing(6)
        column.addStretch(1)
        self.list.setWidget(body)
        self._count()
        remains = "\n".join(
            f"{f.verdict.word}: {f.headline}. {found.reasons[f.rule.id, f.place]}" for f in found.left[:6]
        )
        self.left.setText(
            (say("Left to decide by hand:\n{remains}\n", remains=remains) if remains else "")
            + say("The families are representative: hold each device against its own data sheet before you buy it.")
        )

    def _count(self) -> None:
        assert self.found is not None
        ticked = sum(box.isChecked() for box in self.boxes)
        before, after = len(self.found.found), len(self.found.left)
        self.head.setText(
            say(
                "{changes} changes take {before} findings about protection to {after}; {ticked} are ticked.",
                changes=len(self.found.changes),
                before=before,
                after=after,
                ticked=ticked,
            )
            if self.found.changes
            else say("Nothing to change: every device is able, selective, and small enough for what it guards.")
        )
        self.use.setEnabled(ticked > 0)

    def _failed(self, trace: str) -> None:
        self.progress.hide()
        self.head.setText(
            say(
                "No proposal could be made: {splitlines}. The plan is as it was.",
                splitlines=trace.strip().splitlines()[-1],
            )
        )

    def _apply(self) -> None:
        assert self.found is not None
        ticked = tuple(c for c, box in zip(self.found.changes, self.boxes, strict=True) if box.isChecked())
        self.accept()
        self.wanted.emit(
            Edit(
                say_many("Protect the plan: {count} change", "Protect the plan: {count} changes", len(ticked)),
                partial(made, changes=ticked),
            )
        )

    def done(self, result: int) -> None:
        """Stop working when closed."""
        self.worker.close()
        super().done(result)


def open_for(plan: Plan, parent: QWidget) -> Protecting:
    """Show the dialog; it stays until answered."""
    made_ = Protecting(plan, parent)
    ask(made_)
    return made_
