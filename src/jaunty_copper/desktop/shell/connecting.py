"""Connect to…: a conductor from one terminal to another, found by typing."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Literal, NamedTuple

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.desktop.widgets.asking import answers, ask
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, positive
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.joining import FINE, Joining, Joinings, bar_for
from jaunty_copper.plan.model import Bar, Equipment, Inline, Plan, split_ref

LENGTH_M = 1.0
"""Length that is proposed."""
LAY = say("Lay it")
ORDER = {"fine": 0, "unusual": 1, "forbidden": 2}
MARK = {"fine": "", "unusual": "?  ", "forbidden": "✕  "}


class Goal(NamedTuple):
    """Where a conductor may end.

    Attributes
    ----------
    ref : str
        Terminal; of a bar its id, for any free stud.
    text : str
        What people call it.
    """

    ref: str
    text: str
    found: Joining


def ends(plan: Plan, start: str, joinings: Joinings) -> Iterator[Goal]:
    """Everywhere that a conductor from a terminal can go, the likely first."""
    found = []
    for x in plan.placed:
        names = x.terminal_names
        if isinstance(x, Bar):
            free = next((t for t in names if not plan.runs_at.get(x.ref(t))), names[-1])
            found.append(Goal(x.id, say("{x} · any free stud", x=x.title), joinings.between(start, x.ref(free))))
        found += [Goal(x.ref(t), f"{x.title} · {t}", joinings.between(start, x.ref(t))) for t in names]
    yield from sorted(found, key=lambda e: ORDER[e.found.standing])


def starts(plan: Plan, selected: str) -> list[tuple[str, str]]:
    """Terminals from which a conductor may begin at what is selected, free ones first."""
    id_, _, terminal = selected.partition(".")
    thing = plan.by_id.get(id_)
    if thing is None:
        return []
    if terminal:
        return [(selected, f"{thing.title} · {terminal}")]
    names = sorted(thing.terminal_names, key=lambda t: len(plan.runs_at.get(thing.ref(t), ())))
    return [(thing.ref(t), f"{thing.title} · {t}") for t in names]


Make = Callable[[str, str, float, str], Edit]
"""From start, end, length in metres and what is to stand in it to the edit."""
Find = Callable[[Plan, str], Iterator[Goal]]
"""What there is to choose from, beginning with something."""


class Connecting(QDialog):
    """Asks where to, and how long.

    Parameters
    ----------
    plan : Plan
        As it is.
    title : str
        What the dialog is for.
    begin : list of (terminal, words)
        Where the conductor may begin.
    make : callable
        Makes the edit of what was asked.
    """

    wanted = Signal(object)
    """An `Edit`."""

    def __init__(
        self,
        plan: Plan,
        title: str,
        begin: list[tuple[str, str]],
        make: Make,
        units: Units,
        word: str = LAY,
        without: str | None = None,
        find: Find | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self._make, self._unit = make, "ft" if units.awg else "m"
        self._plan = plan
        rest = (
            plan
            if without is None
            else plan.model_copy(update={"runs": tuple(r for r in plan.runs if r.id != without)})
        )
        self._joinings = Joinings(rest)
        self.start = QComboBox()
        self.start.setAccessibleName(say("From"))
        for ref, text in begin:
            self.start.addItem(text, ref)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText(say("type a part of a name, such as 12 V bar"))
        self.filter.setAccessibleName(say("Find"))
        self.list = QListWidget()
        self.list.setAccessibleName(say("To"))
        self.list.setUniformItemSizes(True)
        self.why = Label("")
        self.why.setWordWrap(True)
        self.why.setObjectName("caption")
        self.length = QLineEdit(f"{LENGTH_M / 0.3048:.3g}" if units.awg else f"{LENGTH_M:g}")
        self.length.setAccessibleName(say("Length one way, {unit}", unit=self._unit))
        self.within = QComboBox()
        self.within.setAccessibleName(say("In it"))
        self.buttons = answers()
        self.ok: QPushButton = self.buttons.addButton(word, QDialogButtonBox.ButtonRole.AcceptRole)
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        form = QFormLayout()
        form.addRow(say("From"), self.start)
        form.addRow(say("To"), self.filter)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.list, 1)
        column.addWidget(self.why)
        if word == LAY:
            from jaunty_copper.choosing.laying import PARTS

            self.within.addItems(list(PARTS))
            below = QFormLayout()
            below.addRow(say("Length one way, {unit}", unit=self._unit), self.length)
            below.addRow(say("In it"), self.within)
            column.addLayout(below)
        column.addWidget(self.buttons)
        # Only of a conductor that is laid the length is asked.
        self._asks_length, self._word, self._find = word == LAY, word, find
        self.start.currentIndexChanged.connect(self._fill)
        self.filter.textChanged.connect(self._fill)
        self.filter.returnPressed.connect(self._found)
        self.filter.installEventFilter(self)
        self.list.currentRowChanged.connect(self._told)
        self.list.itemActivated.connect(lambda _: self._found())
        self.length.returnPressed.connect(self._lay)
        self.within.installEventFilter(self)
        self.buttons.accepted.connect(self._lay)
        self.buttons.rejected.connect(self.reject)
        self.resize(460, 480)
        self._fill()

    def go_to(self, ref: str) -> None:
        """Choose an end, and ask for the length."""
        for row in range(self.list.count()):
            if self.list.item(row).data(Qt.ItemDataRole.UserRole).ref == ref:
                self.list.setCurrentRow(row)
        self.length.setFocus()
        self.length.selectAll()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Let the arrow keys walk the list while a name is typed."""
        if watched is self.filter and event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step is not None and self.list.count():
                self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), self.list.count() - 1))
                return True
        pressed = event.key() if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) else None
        if watched is self.within and pressed in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._lay()
            return True
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Return in a field goes on to the next one, and lays the conductor from the last: no button has it besides."""
        if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)

    def _fill(self) -> None:
        words = self.filter.text().lower().split()
        self.list.clear()
        start = self.start.currentData()
        if start is None:
            return
        for end in ends(self._plan, start, self._joinings) if self._find is None else self._find(self._plan, start):
            text = f"{end.text}   {end.ref}".lower()
            if all(word in text for word in words) and end.ref != start:
                shown = QListWidgetItem(f"{MARK[end.found.standing]}{end.text}   ({end.ref})")
                shown.setData(Qt.ItemDataRole.UserRole, end)
                if end.found.standing == "forbidden":
                    shown.setForeground(self.palette().placeholderText())
                self.list.addItem(shown)
        self.list.setCurrentRow(0)
        self._told()

    @property
    def chosen(self) -> Goal | None:
        """The end that is chosen."""
        item = self.list.currentItem()
        found = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        return found if isinstance(found, Goal) else None

    def _told(self) -> None:
        end = self.chosen
        standing = end.found.standing if end is not None else "forbidden"
        self.why.setText(
            say("Nothing is called so") if end is None
            else say('Not there: {why}', why=end.found.why) if standing == "forbidden"
            else say('Unusual: {why}', why=end.found.why) if standing == "unusual"
            else say("Its size follows from what will flow") if self._asks_length
            else ""
        )  # fmt: skip
        self.ok.setEnabled(standing != "forbidden")
        self.ok.setText(say("{word} all the same", word=self._word) if standing == "unusual" else self._word)

    def _found(self) -> None:
        if self._asks_length:
            self.length.setFocus()
            self.length.selectAll()
        else:
            self._lay()

    def _lay(self) -> None:
        end = self.chosen
        if end is None or end.found.standing == "forbidden":
            return
        try:
            length = positive(self.length.text(), self._unit) * (0.3048 if self._unit == "ft" else 1.0)
        except NotUnderstood as error:
            self.why.setText(say("Length: {error}", error=error))
            self.length.setFocus()
            return
        within = self.within.currentText() or "nothing"
        self.accept()
        self.wanted.emit(self._make(self.start.currentData(), end.ref, round(length, 4), within))


def _laid(start: str, end: str, length_m: float, within: str) -> Edit:
    # The rules come with it: they are loaded with the first study, not with the window.
    from jaunty_copper.choosing.laying import lay

    return Edit(
        say("Connect {start} to {end}", start=start, end=end),
        partial(lay, a=start, b=end, length_m=length_m, within=within),
        slow=True,
    )


def connect(plan: Plan, selected: str, to: str | None, units: Units, parent: QWidget) -> Connecting | None:
    """Ask for a conductor from what is selected; its length only, where its other end is known."""
    begin = starts(plan, selected)
    if not begin:
        return None
    return _open(Connecting(plan, say("Connect to"), begin, _laid, units, parent=parent), to)


def aim(plan: Plan, run_id: str, end: Literal["a", "b"], units: Units, parent: QWidget) -> Connecting:
    """Ask where an end of a conductor is to lead instead."""
    run = plan.run_by_id[run_id]
    stays = run.b if end == "a" else run.a
    thing, terminal = split_ref(stays)

    def make(_: str, to: str, *__: object) -> Edit:
        return aimed(run_id, end, to)

    begin = [(stays, f"{plan.by_id[thing].title} · {terminal}")]
    title = say("Lead {run_id} elsewhere", run_id=run_id)
    return _open(Connecting(plan, title, begin, make, units, say("Lead it there"), run_id, parent=parent), None)


def swap(plan: Plan, selected: str, units: Units, parent: QWidget) -> Connecting:
    """Ask what a device, or a stud of a bar, is to change places with."""
    id_, _, stud = selected.partition(".")
    title = plan.by_id[id_].title

    def make(_: str, to: str, *__: object) -> Edit:
        if stud:
            other = split_ref(to)[1]
            return Edit(
                say("Swap {stud} and {other} of {title}", stud=stud, other=other, title=title),
                partial(edits.swap_studs, bar_id=id_, one=stud, other=other),
            )
        return Edit(
            say("Swap {title} and {to}", title=title, to=plan.by_id[to].title),
            partial(edits.swap_items, one=id_, other=to),
        )

    begin = [(selected, f"{title} · {stud}" if stud else title)]
    return _open(Connecting(plan, say("Swap with"), begin, make, units, "Swap", find=_alike, parent=parent), None)


def _alike(plan: Plan, selected: str) -> Iterator[Goal]:
    """What something can change places with: other studs of its bar, other devices."""
    id_, _, stud = selected.partition(".")
    thing = plan.by_id[id_]
    if stud:
        yield from (Goal(thing.ref(t), f"{thing.title} · {t}", FINE) for t in thing.terminal_names if t != stud)
        return
    yield from (Goal(x.id, x.title, FINE) for x in plan.items if isinstance(x, Inline) and x.id != id_)


def led(plan: Plan, equipment: str, bar: str) -> Edit:
    """The edit that leads a circuit to a bar."""
    title = say("Lead {equipment} to {bar}", equipment=plan.by_id[equipment].title, bar=plan.by_id[bar].title)
    return Edit(title, partial(edits.lead_circuit, equipment_id=equipment, hub=bar))


def lead(plan: Plan, equipment: str, units: Units, parent: QWidget, to: str | None = None) -> Connecting:
    """Ask to which bar a circuit is to be led."""

    def make(_: str, to: str, *__: object) -> Edit:
        return led(plan, equipment, to)

    begin = [(equipment, plan.by_id[equipment].title)]
    asked = Connecting(
        plan, say("Lead the circuit to"), begin, make, units, say("Lead it there"), find=_bars, parent=parent
    )
    return _open(asked, to)


def _bars(plan: Plan, equipment: str) -> Iterator[Goal]:
    """Bars to which a circuit can be led, those of its voltage first."""
    e = plan.by_id[equipment]
    assert isinstance(e, Equipment)
    found = []
    for x in plan.items:
        if isinstance(x, Bar):
            found.append(Goal(x.id, x.title, bar_for(plan, e, x)))
    yield from sorted(found, key=lambda end: ORDER[end.found.standing])


def aimed(run_id: str, end: Literal["a", "b"], to: str) -> Edit:
    """The edit that leads an end of a conductor elsewhere."""
    return Edit(say("Lead {run_id} to {to}", run_id=run_id, to=to), partial(edits.aim, run_id=run_id, end=end, to=to))


def _open(dialog: Connecting, to: str | None) -> Connecting:
    ask(dialog)
    if to is not None:
        dialog.go_to(to)
    else:
        dialog.filter.setFocus()
    return dialog
