"""The inspector: what is selected, its figures, and its fields to edit."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.plan.model import Plan

if TYPE_CHECKING:
    from jaunty_copper.desktop.inspector.describe import FieldEntry
    from jaunty_copper.desktop.inspector.editors import Editor

LABELS_PX = 118
"""Width of the column of labels."""
BUBBLE_PX = 300
"""Widest of what is said beside a field."""
MOST_BODIES = 12
"""So many kinds of things keep their fields."""
_Shape = tuple[tuple[object, ...], ...]


class _Body(NamedTuple):
    """Fields of things of one kind.

    Attributes
    ----------
    body : QWidget
        All of them.
    shown : list
        What shows the value of each entry; None where it has none.
    """

    body: QWidget
    shown: list[Label | Editor | None]


class Inspector(QScrollArea):
    """Fields of what is selected; each change is one edit."""

    wanted = Signal(object)
    """An `Edit` to apply."""
    refused = Signal(str)
    """Why what was typed was not taken over."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(say("What is selected"))
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scenario: str | None = None
        self.units = Units()
        self._entries: list[FieldEntry] = []
        self._shown: list[Label | Editor | None] = []
        self._bubble: Label | None = None
        self._picture: Picture | None = None
        self._selected: str | None = None
        self._bound: tuple[object, ...] = ()
        self._shape: _Shape = ()
        self._bodies: dict[_Shape, _Body] = {}
        """Of each kind of thing that was shown, the latest last: making its fields anew would hold the window each time."""
        inside = QWidget()
        self._column = QVBoxLayout(inside)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self.setWidget(inside)

    def shows_other_than(self, selected: str | None, also: frozenset[str] = frozenset()) -> bool:
        """Whether a selection, or the scenario or units in force, is not what the fields are bound to."""
        return self._bound != (selected, also, self.scenario, self.units)

    def show_selection(
        self, plan: Plan, picture: Picture | None, selected: str | None, also: frozenset[str] = frozenset()
    ) -> None:
        """Show a selection of a plan, with figures of the newest study; of several things what they have in common."""
        entries: list[FieldEntry] = []
        self._picture = picture
        if picture is not None and picture.case is not None:
            # Fields and facts need the rules, which are loaded with the first study.
            from jaunty_copper.desktop.inspector.describe import describe, describe_all

            entries = list(
                describe_all(picture, plan, (selected, *sorted(also)), self.units) if selected is not None and also
                else describe(picture, plan, selected, self.scenario, self.units)
            )  # fmt: skip
        shape = tuple(e.shape for e in entries)
        if shape != self._shape:
            self._turn_to(shape, entries)
        if selected != self._selected:
            self.verticalScrollBar().setValue(0)
        other = self.shows_other_than(selected, also)
        self._entries, self._selected, self._bound = entries, selected, (selected, also, self.scenario, self.units)
        for entry, widget in zip(entries, self._shown, strict=True):
            if isinstance(widget, Label):
                widget.setText(str(entry.value))
            elif widget is not None:
                widget.show_value(entry.value)
                if other:
                    # Nor what was typed there for another thing, nor what undo would bring back of it.
                    widget.reject(entry.value)

    @property
    def entries(self) -> list[FieldEntry]:
        """What is shown."""
        return self._entries

    @property
    def title(self) -> str:
        """Of what is shown."""
        return next((str(e.value) for e in self._entries if e.kind == "head"), "")

    @property
    def focused_name(self) -> str:
        """The field in which the keyboard is; empty where it is in none."""
        return next(
            (e.name for e, w in zip(self._entries, self._shown, strict=True) if w is not None and w.hasFocus()), ""
        )

    def editor(self, id_: str, name: str) -> Editor:
        """The widget that edits one field."""
        for entry, widget in zip(self._entries, self._shown, strict=True):
            if (entry.kind, entry.id, entry.name) == ("field", id_, name) and widget is not None:
                assert not isinstance(widget, Label)
                return widget
        raise KeyError(f"{id_} {name}")

    def focus_first(self) -> None:
        """Put the keyboard into the first field after the name."""
        editors = [
            (e.name, w)
            for e, w in zip(self._entries, self._shown, strict=True)
            if w is not None and not isinstance(w, Label)
        ]
        for name, widget in editors:
            if name != "name":
                widget.setFocus(Qt.FocusReason.ShortcutFocusReason)
                if isinstance(widget, QLineEdit):
                    widget.selectAll()
                return

    def show_again(self) -> None:
        """Show what is in force again, after the plan refused an edit."""
        for entry, widget in zip(self._entries, self._shown, strict=True):
            if widget is not None and not isinstance(widget, Label):
                widget.reject(entry.value)

    # Widgets

    def _turn_to(self, shape: _Shape, entries: list[FieldEntry]) -> None:
        """Show the fields of another kind of thing: those of a kind that was shown before are there already."""
        place = self.verticalScrollBar().value()
        had = next(
            (
                (e, w)
                for e, w in zip(self._entries, self._shown, strict=True)
                if w is not None and not isinstance(w, Label) and w.hasFocus()
            ),
            None,
        )
        old_fields = [w for w in self._shown if w is not None and not isinstance(w, Label)]
        self._left()
        # What was typed is settled by now; taking the old fields away must not make another edit of it.
        for field in old_fields:
            field.blockSignals(True)
        if self._shape in self._bodies:
            self._bodies[self._shape].body.hide()
        for field in old_fields:
            field.blockSignals(False)
        if shape not in self._bodies:
            while len(self._bodies) >= MOST_BODIES:
                # The one that asked for this may still be in the middle of its signal.
                self._bodies.pop(next(iter(self._bodies))).body.deleteLater()
            self._bodies[shape] = self._body(entries)
        now = self._bodies[shape] = self._bodies.pop(shape)
        self._shape, self._shown, self._entries = shape, now.shown, entries
        now.body.show()
        self.verticalScrollBar().setValue(place)
        if had is not None:
            self._go_on_typing(*had)

    def _body(self, entries: list[FieldEntry]) -> _Body:
        """Widgets for entries of some shape."""
        body = QWidget()
        grid = QGridLayout(body)
        grid.setContentsMargins(16, 12, 8, 12)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, LABELS_PX)
        shown = [self._widget(grid, row, k) for row, k in enumerate(entries)]
        grid.setRowStretch(len(entries), 1)
        body.hide()
        self._column.addWidget(body)
        return _Body(body, shown)

    def _go_on_typing(self, was: FieldEntry, old: Editor) -> None:
        """Put the keyboard, and what is half typed, into the new widget of a field."""
        for entry, widget in zip(self._entries, self._shown, strict=True):
            if (was.id, was.name, was.scenario, was.unit) == (entry.id, entry.name, entry.scenario, entry.unit):
                if isinstance(widget, QLineEdit) and isinstance(old, QLineEdit) and old.isModified():
                    widget.go_on(old)
                if widget is not None:
                    widget.setFocus()

    def _widget(self, grid: QGridLayout, row: int, entry: FieldEntry) -> Label | Editor | None:
        """Put one entry into the grid; what shows its value."""
        if entry.kind == "gap":
            grid.setRowMinimumHeight(row, 6)
            return None
        if entry.kind in ("head", "caption", "note"):
            text = Label()
            text.setObjectName("head" if entry.kind == "head" else "caption")
            text.setWordWrap(entry.kind != "caption")
            grid.addWidget(text, row, 0, 1, 2)
            return text
        label = Label(entry.label)
        label.setObjectName("field")
        label.setWordWrap(True)
        if not entry.wide:
            label.setFixedWidth(LABELS_PX)
            grid.addWidget(label, row, 0)
        if entry.kind == "fact":
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
            fact = Label()
            fact.setObjectName("fact")
            fact.setWordWrap(True)
            fact.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            grid.addWidget(fact, row, 1)
            return fact
        from jaunty_copper.desktop.inspector.editors import ChoiceEditor, LineEditor, editor_for

        editor = editor_for(entry.field, entry.choices, entry.factor, entry.unit)
        editor.setMinimumWidth(60)
        editor.setAccessibleName(entry.spoken)
        editor.committed.connect(partial(self._committed, row))
        if isinstance(editor, LineEditor):
            editor.refused.connect(self.refused)
            editor.refused.connect(lambda why: self._say(row, why, "slip"))
        if isinstance(editor, LineEditor | ChoiceEditor):
            editor.tried.connect(partial(self._tried, row))
            editor.left.connect(self._left)
        label.setBuddy(editor)
        if entry.wide:
            both = QVBoxLayout()
            both.setSpacing(2)
            both.addWidget(label)
            both.addWidget(editor)
            grid.addLayout(both, row, 0, 1, 2)
        else:
            grid.addWidget(editor, row, 1)
        return editor

    def _tried(self, row: int, value: object) -> None:
        """Say beside a field what its place permits, while something is typed there."""
        from jaunty_copper.desktop.inspector.hints import hint

        entry, picture = self._entries[row], self._picture
        found = hint(picture, entry.id, entry.name, value, self.scenario) if picture is not None else None
        self._say(
            row, found.text if found is not None else "", "slip" if found is not None and found.beyond else "caption"
        )

    def _say(self, row: int, text: str, kind: str) -> None:
        """Write beside the panel, at the height of a field: what is in the panel must not move under the pointer."""
        if self._bubble is None:
            self._bubble = Label()
            self._bubble.setParent(self.window())
            self._bubble.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            self._bubble.setWordWrap(True)
            self._bubble.setContentsMargins(8, 5, 8, 5)
        bubble, field = self._bubble, self._shown[row]
        bubble.setVisible(bool(text))
        if not text or field is None:
            return
        bubble.setObjectName(f"bubble-{kind}")
        bubble.setText(text)
        bubble.style().polish(bubble)
        wide = bubble.fontMetrics().horizontalAdvance(text) + 26
        bubble.setFixedWidth(min(wide, BUBBLE_PX))
        bubble.setFixedHeight(bubble.heightForWidth(bubble.width()))
        edge, at = self.mapTo(self.window(), QPoint(0, 0)), field.mapTo(self.window(), QPoint(0, 0))
        bubble.move(edge.x() - bubble.width() - 4, at.y())
        bubble.raise_()

    def _left(self) -> None:
        """Nothing is said where nobody types."""
        if self._bubble is not None:
            self._bubble.hide()

    def _committed(self, row: int, value: object) -> None:
        edit = self._entries[row].edit
        if edit is not None:
            self.wanted.emit(edit(value))
