"""One figure turned by a slider while the map follows; what it was before is one undo away."""

from __future__ import annotations

from functools import partial
from math import exp, log
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QEvent, QObject, QSignalBlocker, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QPushButton, QSlider, QToolBar

from jaunty_copper.desktop.inspector.describe import FieldEntry
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import written
from jaunty_copper.desktop.work.worker import Task, Work, Worker
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Plan

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window

STEPS, FACTOR = 400, 5.0
"""Of the slider from end to end; how much smaller and larger than it was a figure can be made."""
FIXED = {"°C": (-30.0, 80.0), "%": (0.0, 100.0)}
"""Ends of figures that are no matter of proportion, as they are shown."""
PLACES = 3
SETTLED_MS = 400
"""So long after a choice whatever its list does is part of it."""


class Ends:
    """From a place of the slider to a figure, and back.

    Parameters
    ----------
    unit : str
        Of the figure.
    value : float
        As it is when turning begins.
    """

    def __init__(self, unit: str, value: float) -> None:
        self.by_share = unit not in FIXED
        self.low, self.high = (value / FACTOR, value * FACTOR) if self.by_share else FIXED[unit]

    def value(self, place: int) -> float:
        """The figure at a place of the slider, to three places that count."""
        share = place / STEPS
        found = (
            exp(log(self.low) + share * log(self.high / self.low))
            if self.by_share
            else self.low + share * (self.high - self.low)
        )
        return float(f"{found:.{PLACES}g}")

    def place(self, value: float) -> int:
        """The place of the slider nearest to a figure."""
        share = (
            log(value / self.low) / log(self.high / self.low)
            if self.by_share
            else (value - self.low) / (self.high - self.low)
        )
        return round(STEPS * min(max(share, 0.0), 1.0))


class Turning(QToolBar):
    """Which figure of what is selected, the slider, and what becomes of it."""

    def __init__(self, window: Window) -> None:
        super().__init__(say("Turn a figure"), window)
        self.window_ = window
        self.setMovable(False)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.PreventContextMenu)
        self.entries: list[FieldEntry] = []
        self.document = window.document
        self.ends = Ends("", 1.0)
        self.serial = 0
        self.worker = Worker("turn")
        self.worker.done.connect(self._show)
        self.title = Label()
        self.which, self.slider, self.value = QComboBox(), QSlider(Qt.Orientation.Horizontal), Label()
        self.which.setAccessibleName(say("Figure to turn"))
        self.slider.setAccessibleName(say("Turn the figure"))
        self.worker.failed.connect(lambda trace: self.value.setText(trace.strip().splitlines()[-1]))
        self.slider.setRange(0, STEPS)
        self.slider.setPageStep(STEPS // 20)
        self.value.setMinimumWidth(150)
        self.which.activated.connect(self._chosen)
        self.which.installEventFilter(self)
        self._to_slider = False
        self.slider.valueChanged.connect(self._turn)
        self.keep, self.back = QPushButton(say("Keep it")), QPushButton(say("As it was"))
        self.keep.clicked.connect(self.end)
        self.back.clicked.connect(self._undo)
        for widget in (self.title, self.which, self.slider, self.value, self.keep, self.back):
            self.addWidget(widget)

    def show_for(self, title: str, entries: list[FieldEntry], first: str) -> None:
        """Offer the figures of something; begin with one of them."""
        self.entries, self.document = entries, self.window_.document
        self.title.setText(f"{title}  ")
        self.which.clear()
        self.which.addItems([e.spoken for e in entries])
        self.which.setCurrentIndex(next((k for k, e in enumerate(entries) if e.name == first), 0))
        self._begin()
        self.show()
        self.slider.setFocus()

    @property
    def entry(self) -> FieldEntry:
        """The figure that is turned."""
        return self.entries[self.which.currentIndex()]

    def _chosen(self, _: int) -> None:
        """The keyboard goes to the slider: that is what a figure is chosen for."""
        self._begin()
        self._to_slider = True
        self.slider.setFocus()
        QTimer.singleShot(SETTLED_MS, self._settled)

    def _settled(self) -> None:
        self._to_slider = False

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The list that closes gives the keyboard back to its box, some time after a figure was chosen in it."""
        if watched is self.which and event.type() == QEvent.Type.FocusIn and self._to_slider:
            QTimer.singleShot(0, self.slider.setFocus)
        return super().eventFilter(watched, event)

    def _begin(self) -> None:
        """Begin with another figure: what was turned so far stays, a step of its own to undo."""
        self._drop()
        self.document.settle()
        # What was turned before may have changed this one too.
        at = self.which.currentIndex()
        same = (e for e in self.window_.inspector.entries if e.form == self.entries[at].form)
        self.entries[at] = next(same, self.entries[at])
        shown = self.entry.value * self.entry.factor
        self.ends = Ends(self.entry.unit, shown)
        with QSignalBlocker(self.slider):
            self.slider.setValue(self.ends.place(shown))
        self.value.setText(f"{written(shown)} {self.entry.unit}")

    def _turn(self, place: int) -> None:
        """Work out the plan with another figure: circuits that follow their loads are sized anew, which takes its time."""
        if self.window_.document is not self.document:
            # Another plan was opened meanwhile: what it has is chosen anew.
            self.hide()
            return
        value = self.ends.value(place)
        assert self.entry.edit is not None
        self.value.setText(f"{written(value)} {self.entry.unit}")
        self.worker.ask(_worked_out(self.entry.edit(value / self.entry.factor), self.document.unturned, self.serial))

    def _show(self, found: object) -> None:
        """Show what was worked out, unless it is no longer wanted, or was worked out of another plan."""
        assert isinstance(found, Turned)
        if found.serial != self.serial or self.window_.document is not self.document:
            return
        if found.before is not self.document.unturned:
            self._turn(self.slider.value())
            return
        try:
            if isinstance(found.after, EditError):
                raise found.after
            made = partial(edits.made_of, before=found.before, after=found.after)
            self.document.turn(Edit(found.label, made))
        except EditError as error:
            self.value.setText(
                say("{value}: {error}", value=written(self.ends.value(self.slider.value())), error=error)
            )

    def _drop(self) -> None:
        """Let what is being worked out go."""
        self.serial += 1

    def _undo(self) -> None:
        """Everything as it was before this figure was turned."""
        self._drop()
        if self.document.is_turned:
            self.document.undo()
        self.end()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter keeps what was turned, Escape takes it back."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.end()
        elif event.key() == Qt.Key.Key_Escape:
            self._undo()
        else:
            super().keyPressEvent(event)

    def end(self) -> None:
        """Let what was turned be, with what is still being worked out."""
        self.hide()
        self.window_.map.setFocus()


class Turned(NamedTuple):
    """What became of a plan with another figure.

    Attributes
    ----------
    after : Plan or EditError
        The plan, or why there is none.
    serial : int
        Which figure of which thing was being turned.
    """

    label: str
    before: Plan
    after: Plan | EditError
    serial: int


def _worked_out(edit: Edit, before: Plan, serial: int) -> Work:
    def work(task: Task) -> None:
        after: Plan | EditError
        try:
            after = edit.apply(before)
        except EditError as error:
            after = error
        task.report(Turned(edit.label, before, after, serial))

    return work


def turnable(entries: list[FieldEntry]) -> list[FieldEntry]:
    """Figures that a slider can turn: there are some, and none of nothing is a multiple."""
    return [
        e
        for e in entries
        if e.kind == "field" and e.field in ("number", "blank") and e.edit is not None
        and isinstance(e.value, int | float) and (e.unit in FIXED or e.value > 0.0)
    ]  # fmt: skip


def open_for(window: Window, bar: Turning | None) -> Turning | None:
    """Turn a figure of what is selected: the one in whose field the keyboard is, else its first."""
    found = turnable(window.inspector.entries)
    if not found:
        window.show_notice(say("What is selected has no figure to turn"))
        return bar
    if bar is None:
        bar = Turning(window)
        window.addToolBar(Qt.ToolBarArea.BottomToolBarArea, bar)
    bar.show_for(window.inspector.title, found, window.inspector.focused_name)
    return bar
