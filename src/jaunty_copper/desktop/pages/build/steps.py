"""The sequence of connection, to be ticked."""

from functools import partial

from PySide6.QtWidgets import (
    QCheckBox,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.desktop.pages.log.logbook import today
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.part import ViewPart, replace_body
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit

PARTS = {
    "Before": say("Before anything is connected"),
    "Return": say("The return side, while everything is dead"),
    "Feed": say("The feeding side, while everything is dead"),
    "Bank": say("The bank: from here on posts are live"),
    "Live": say("Bringing it up"),
}


class StepsPane(ViewPart):
    """Step by step, the cautions where they matter."""

    def __init__(self) -> None:
        super().__init__()
        self.boxes: dict[str, QCheckBox] = {}
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.area)

    def show_dossier(self, made: Dossier) -> None:
        """Show the steps of a plan, with what is ticked of them."""
        assert made.steps is not None
        steps, plan = made.steps, made.shop.plan
        place = self.area.verticalScrollBar().value()
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(16, 6, 16, 12)
        column.setSpacing(4)
        done, part = set(plan.done), ""
        count = Label(
            say(
                "{sum} of {steps} steps done. Local codes and licensed practice decide; so does what you find on the "
                "spot.",
                sum=sum(s.id in done for s in steps),
                steps=len(steps),
            )
        )
        count.setObjectName("caption")
        count.setWordWrap(True)
        column.addWidget(count)
        self.boxes = {}
        for step in steps:
            if step.part != part:
                part = step.part
                title = Label(PARTS[part])
                title.setObjectName("head")
                column.addSpacing(8)
                column.addWidget(title)
            day = plan.done_on.get(step.id)
            box = QCheckBox(f"{step.text}  ({day})" if day is not None and step.id in done else step.text)
            box.setChecked(step.id in done)
            box.clicked.connect(lambda on, s=step: self.wanted.emit(tick_step(s.id, s.text, on)))
            self.boxes[step.id] = box
            column.addWidget(box)
            if step.caution:
                caution = Label(f"⚠ {step.caution}")
                caution.setObjectName("bad")
                caution.setContentsMargins(24, 0, 0, 2)
                column.addWidget(caution)
        column.addStretch(1)
        replace_body(self.area, body)
        self.area.verticalScrollBar().setValue(place)


def tick_step(step: str, text: str, on: bool) -> Edit:
    """Tick a step of the work today, or take the tick away."""
    word = say("Tick") if on else say("Take the tick from")
    return Edit(f"{word} “{text}”", partial(edits.tick, step=step, on=on, day=today() if on else None))
