"""Widgets that edit one value: they show it, and say when a person has changed it."""

from collections.abc import Iterable, Sequence
from typing import Any

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QPlainTextEdit

from jaunty_copper.desktop.inspector.fields import Kind
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read, written
from jaunty_copper.language import say
from jaunty_copper.plan.clock import NotOnTheClock, hours_read, hours_text

UNIT_PX = 8
"""Between a unit and the edge of its field."""
LINES = 4
"""Of a long text that are in sight."""


class LineEditor(QLineEdit):
    """A line that shows what is in force until something else is taken over; Escape goes back to it."""

    committed = Signal(object)
    refused = Signal(str)
    """Why what was typed cannot be taken over."""
    tried = Signal(object)
    """What stands in it while the keyboard is here, whether it is taken over or not; None where that is no value."""
    left = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._shown = ""
        self.editingFinished.connect(self._done)
        self.textEdited.connect(lambda _: self.tried.emit(self.value()))

    def value(self) -> object:
        """What is typed, as far as it is a value."""
        return self.text()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Say what stands here."""
        super().focusInEvent(event)
        self.tried.emit(self.value())

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Say that the keyboard is elsewhere."""
        super().focusOutEvent(event)
        self.left.emit()

    def _done(self) -> None:
        raise NotImplementedError

    def reject(self, _: object) -> None:
        """Show the value that is in force again: the plan refused the new one."""
        self.setText(self._shown)

    def go_on(self, old: QLineEdit) -> None:
        """Take over what is half typed into a field that this one replaces."""
        self.setText(old.text())
        self.setCursorPosition(old.cursorPosition())
        self.setModified(True)

    def event(self, event: QEvent) -> bool:
        """Leave the window its keys: undo and redo while nothing was typed here, and those that elsewhere delete a line."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            keys = QKeySequence.StandardKey
            windows = [keys.DeleteCompleteLine, keys.DeleteEndOfLine]
            if self.text() == self._shown:
                windows += [keys.Undo, keys.Redo]
            if any(event.matches(key) for key in windows):
                event.ignore()
                return False
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape takes back what was typed and not yet taken over."""
        if event.key() == Qt.Key.Key_Escape and self.text() != self._shown:
            self.setText(self._shown)
            self.setModified(False)
            self.selectAll()
            return
        super().keyPressEvent(event)


class TextEditor(LineEditor):
    """A line of text; perhaps none instead of an empty one."""

    def __init__(self, empty: str | None = "") -> None:
        super().__init__()
        self._empty = empty
        if empty is None:
            self.setPlaceholderText(say("not given"))

    def show_value(self, value: object) -> None:
        """Show a value; one that somebody is in the middle of typing over stays."""
        new = "" if value is None else str(value)
        if new != self._shown or self.text() != new:
            if not (self.hasFocus() and self.isModified()):
                self.setText(new)
                self.setCursorPosition(0)
            self._shown = new

    def _done(self) -> None:
        self.setModified(False)
        if self.text() != self._shown:
            self.committed.emit(self.text() or self._empty)


class LongEditor(QPlainTextEdit):
    """Text of several lines; taken over when the keyboard goes elsewhere, Escape goes back."""

    committed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._shown = ""
        self.setTabChangesFocus(True)
        self.setFixedHeight(LINES * self.fontMetrics().lineSpacing() + 14)

    def show_value(self, value: object) -> None:
        """Show a value; one that somebody is in the middle of typing over stays."""
        new = str(value)
        if not (self.hasFocus() and self.toPlainText() != self._shown) and self.toPlainText() != new:
            self.setPlainText(new)
        self._shown = new

    def reject(self, _: object) -> None:
        """Show the value that is in force again: the plan refused the new one."""
        self.setPlainText(self._shown)

    def take_over(self) -> None:
        """Hand on what is typed."""
        if self.toPlainText() != self._shown:
            self.committed.emit(self.toPlainText())

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Take over what is typed, unless only a menu or another window is before it."""
        super().focusOutEvent(event)
        if event.reason() != Qt.FocusReason.PopupFocusReason:
            self.take_over()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape takes back what was typed and not yet taken over."""
        if event.key() == Qt.Key.Key_Escape and self.toPlainText() != self._shown:
            self.setPlainText(self._shown)
            return
        super().keyPressEvent(event)


class NumberEditor(LineEditor):
    """A number, shown in its own unit or another; blank where it may be left out."""

    def __init__(self, kind: Kind, factor: float, unit: str = "") -> None:
        super().__init__()
        self._kind, self._factor, self._unit = kind, factor, unit
        if kind == "blank":
            self.setPlaceholderText(say("not given"))
        if unit:
            self.setTextMargins(0, 0, self.fontMetrics().horizontalAdvance(unit) + UNIT_PX, 0)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Write the unit at the right end of the field."""
        super().paintEvent(event)
        if self._unit:
            painter = QPainter(self)
            painter.setPen(self.palette().placeholderText().color())
            box = self.rect().adjusted(0, 0, -UNIT_PX, 0)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self._unit)
            painter.end()

    def show_value(self, value: object) -> None:
        """Show a value; one that somebody is in the middle of typing over stays."""
        new = written(value * self._factor) if isinstance(value, int | float) else ""
        if isinstance(value, str):
            self.setPlaceholderText(value)
        if new != self._shown or self.text() != new:
            if not (self.hasFocus() and self.isModified()):
                self.setText(new)
            self._shown = new

    def value(self) -> object:
        """What is typed, in the plan's unit."""
        try:
            return read(self.text().strip(), self._unit) / self._factor
        except NotUnderstood:
            return None

    def _done(self) -> None:
        self.setModified(False)
        text = self.text().strip()
        if text == self._shown:
            return
        if not text and self._kind == "blank":
            self.committed.emit(None)
            return
        try:
            value = read(text, self._unit)
            if self._kind == "count" and value != int(value):
                raise NotUnderstood(say("{text} is no whole number", text=text))
        except NotUnderstood as error:
            self.setText(self._shown)
            self.refused.emit(
                say(
                    "{accessiblename}: {error}. It is {shown} as before.",
                    accessiblename=self.accessibleName(),
                    error=error,
                    shown=self._shown or say("not given"),
                )
            )
            return
        self.committed.emit(int(value) if self._kind == "count" else value / self._factor)


class ChoiceEditor(QComboBox):
    """One of several values."""

    committed = Signal(object)
    tried = Signal(object)
    """The value that the list is at while the keyboard is here."""
    left = Signal()

    def __init__(self, choices: Sequence[tuple[Any, str]]) -> None:
        super().__init__()
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(6)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.addItems([text for _, text in choices])
        self._values = [value for value, _ in choices]
        self._shown: Any = None
        self._added = False
        self.activated.connect(self._done)
        self.highlighted.connect(self._lit)
        # The list is as wide as its words, however narrow the field is.
        self.view().setMinimumWidth(self.view().sizeHintForColumn(0) + 24)

    def _lit(self, index: int) -> None:
        """Say what the list is at; it is set from elsewhere too, and then nobody looks at it."""
        if self.view().isVisible():
            self.tried.emit(self._values[index])

    def show_value(self, value: object) -> None:
        """Show a value, adding it to the choices if it is none of them; it goes when another is shown."""
        if self._added and value != self._values[0]:
            self._values.pop(0)
            self.removeItem(0)
            self._added = False
        if value not in self._values:
            self._values.insert(0, value)
            self.insertItem(0, str(value))
            self._added = True
        self._shown = value
        self.setCurrentIndex(self._values.index(value))

    def reject(self, value: object) -> None:
        """Show the value that is in force again: the plan refused the new one."""
        self.show_value(value)

    def choose(self, value: object) -> None:
        """Do what a person does who picks a value."""
        self.setCurrentIndex(self._values.index(value))
        self.activated.emit(self.currentIndex())

    def _done(self, index: int) -> None:
        if self._values[index] != self._shown:
            self.committed.emit(self._values[index])

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Say what stands here."""
        super().focusInEvent(event)
        self.tried.emit(self._shown)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Say that the keyboard is elsewhere."""
        super().focusOutEvent(event)
        if event.reason() != Qt.FocusReason.PopupFocusReason:
            self.left.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Leave the wheel to the page unless the field is in use: a turn must not change a plan."""
        if self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()


class FlagEditor(QCheckBox):
    """Yes or no."""

    committed = Signal(object)

    def __init__(self) -> None:
        super().__init__(say("yes"))
        self.clicked.connect(self._done)

    def _done(self, on: bool) -> None:
        self.committed.emit(bool(on))

    def show_value(self, value: object) -> None:
        """Show a value; text where several things have different ones."""
        mixed = isinstance(value, str)
        self.setTristate(mixed)
        self.setCheckState(
            Qt.CheckState.PartiallyChecked if mixed else Qt.CheckState.Checked if value else Qt.CheckState.Unchecked
        )

    def reject(self, value: object) -> None:
        """Show the value that is in force again: the plan refused the new one."""
        self.show_value(value)


class HoursEditor(LineEditor):
    """Hours of a day, in spans; empty where nobody says when."""

    def __init__(self) -> None:
        super().__init__()
        self.setPlaceholderText(say("such as 18-23"))
        self.setToolTip(say("Spans such as 6-8 50 %, 17:30-22; or 24 shares, one for each hour"))

    def show_value(self, value: object) -> None:
        """Show a value; one that somebody is in the middle of typing over stays."""
        new = value if isinstance(value, str) else hours_text(tuple(value) if isinstance(value, Iterable) else ())
        if new != self._shown or self.text() != new:
            if not (self.hasFocus() and self.isModified()):
                self.setText(new)
                self.setCursorPosition(0)
            self._shown = new

    def _done(self) -> None:
        self.setModified(False)
        if self.text() == self._shown:
            return
        try:
            self.committed.emit(hours_read(self.text()))
        except NotOnTheClock as error:
            self.setText(self._shown)
            self.refused.emit(say("{when}: {error}. It is as before.", when=self.accessibleName(), error=error))


Editor = HoursEditor | TextEditor | LongEditor | NumberEditor | ChoiceEditor | FlagEditor


def editor_for(kind: Kind, choices: Sequence[tuple[Any, str]], factor: float, unit: str = "") -> Editor:
    """The widget for a kind of field."""
    match kind:
        case "text":
            return TextEditor()
        case "words":
            return TextEditor(empty=None)
        case "long":
            return LongEditor()
        case "choice":
            return ChoiceEditor(choices)
        case "flag":
            return FlagEditor()
        case "hours":
            return HoursEditor()
        case _:
            return NumberEditor(kind, factor, unit)
