"""The inspector: what is selected, its figures, and its fields to edit."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any, Literal

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QLineEdit, QScrollArea, QWidget

from jaunty_copper.desktop.editors import Editor, NumberEditor, editor_for
from jaunty_copper.desktop.facts import facts_of
from jaunty_copper.desktop.fields import FIELDS, KIND_WORDS, Kind
from jaunty_copper.desktop.picture import Picture
from jaunty_copper.desktop.words import FEET, Units
from jaunty_copper.plan import edits
from jaunty_copper.plan.check import SWITCHES
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Equipment, Named, Plan, Run, Scenario, Zone
from jaunty_copper.practice.book import book, names
from jaunty_copper.practice.case import Case

LABELS_PX = 118
"""Width of the column of labels."""


@dataclass(frozen=True)
class Entry:
    """One line of the inspector.

    Attributes
    ----------
    kind : str
        A head, a caption, a gap, a computed fact, a note, or a field.
    id, name : str
        Thing and field that a field edits.
    value : object
        What to show.
    field, choices, factor
        How a field is edited.
    edit : callable or None
        From a new value to the edit.
    """

    kind: Literal["head", "caption", "gap", "fact", "note", "field"]
    label: str = ""
    value: Any = ""
    id: str = ""
    name: str = ""
    field: Kind = "text"
    choices: tuple[tuple[Any, str], ...] = ()
    factor: float = 1.0
    edit: Callable[[Any], Edit] | None = None

    @property
    def form(self) -> tuple[object, ...]:
        """All but the value: entries of one form can share a widget."""
        label = self.label if self.kind in ("fact", "field") else ""
        return (self.kind, label, self.id, self.name, self.field, self.choices, self.factor)


class Inspector(QScrollArea):
    """Fields of what is selected; each change is one edit."""

    wanted = Signal(object)
    """An `Edit` to apply."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scenario: str | None = None
        self.units = Units()
        self._entries: list[Entry] = []
        self._shown: list[QLabel | Editor | None] = []
        self._selected: str | None = None

    def show_selection(self, plan: Plan, picture: Picture | None, selected: str | None) -> None:
        """Show a selection of a plan, with figures of the newest study."""
        case = picture.case if picture is not None else None
        entries = list(self._describe(plan, picture, case, selected)) if case is not None else []
        if [e.form for e in entries] != [e.form for e in self._entries]:
            self._build(entries, keep_place=selected == self._selected)
        self._entries, self._selected = entries, selected
        for entry, widget in zip(entries, self._shown, strict=True):
            if isinstance(widget, QLabel):
                widget.setText(str(entry.value))
            elif widget is not None:
                widget.show_value(entry.value)

    def editor(self, id_: str, name: str) -> Editor:
        """The widget that edits one field."""
        for entry, widget in zip(self._entries, self._shown, strict=True):
            if (entry.kind, entry.id, entry.name) == ("field", id_, name) and widget is not None:
                assert not isinstance(widget, QLabel)
                return widget
        raise KeyError(f"{id_} {name}")

    def focus_first(self) -> None:
        """Put the keyboard into the first field after the name."""
        editors = [
            (e.name, w)
            for e, w in zip(self._entries, self._shown, strict=True)
            if w is not None and not isinstance(w, QLabel)
        ]
        for name, widget in editors:
            if name != "name":
                widget.setFocus(Qt.FocusReason.ShortcutFocusReason)
                if isinstance(widget, QLineEdit):
                    widget.selectAll()
                return

    def refused(self) -> None:
        """Show what is in force again, after the plan refused an edit."""
        for entry, widget in zip(self._entries, self._shown, strict=True):
            if isinstance(widget, NumberEditor):
                widget.reject()
            elif widget is not None and not isinstance(widget, QLabel):
                widget.show_value(entry.value)

    # What to show

    def _describe(
        self, plan: Plan, picture: Picture | None, case: Case | None, selected: str | None
    ) -> Iterator[Entry]:
        assert case is not None
        id_, _, stud = (selected or "").partition(".")
        thing: Named | Run | None = plan.run_by_id.get(id_) or plan.by_id.get(id_)
        if thing is None:
            yield from self._the_plan(plan, case)
            return
        if isinstance(thing, Run):
            known = thing.id in case.plan.run_by_id
            yield Entry("head", value=case.run_title(thing).partition(", ")[2] if known else thing.id)
            yield Entry("caption", value=f"{thing.id} · conductor")
        else:
            yield Entry("head", value=thing.title)
            yield Entry("caption", value=f"{thing.id}{' · stud ' + stud if stud else ''} · {KIND_WORDS[type(thing)]}")
        for label, value in facts_of(picture, thing, stud, self.scenario, self.units):
            yield Entry("fact", label, value)
        yield Entry("gap")
        yield from self._fields(plan, case, thing)
        yield from self._state(plan, thing)

    def _the_plan(self, plan: Plan, case: Case) -> Iterator[Entry]:
        yield Entry("head", value=plan.name or "Plan without a name")
        yield Entry("caption", value="the plan")
        yield Entry(
            "field", "Name", plan.name, "plan", "name",
            edit=lambda v: Edit("Rename the plan", partial(edits.change_plan, name=v)),
        )  # fmt: skip
        yield Entry(
            "field", "Practice", plan.practice, "plan", "practice", "choice", tuple((n, book(n).name) for n in names()),
            edit=lambda v: Edit(f"Judge by {book(v).name}", partial(edits.change_plan, practice=v)),
        )  # fmt: skip
        yield Entry("note", value=case.book.summary)
        scenario = next((s for s in plan.scenarios if s.id == self.scenario), None)
        if scenario is not None:
            yield Entry("gap")
            yield Entry("caption", value="This scenario")
            yield from self._fields(plan, case, scenario)
        for zone in plan.zones:
            yield Entry("gap")
            yield Entry("caption", value=f"Zone {zone.id}")
            yield from self._fields(plan, case, zone)

    def _fields(self, plan: Plan, case: Case, thing: Named | Run | Zone | Scenario) -> Iterator[Entry]:
        title = thing.id if isinstance(thing, Run) else getattr(thing, "title", thing.id)
        for field in FIELDS[type(thing)]:
            feet = field.unit == "m" and self.units.awg
            unit = "ft" if feet else field.unit

            def edit(new: Any, name: str = field.name, label: str = field.label) -> Edit:
                return Edit(f"{label} of {title}", partial(edits.change, id_=thing.id, **{name: new}))

            yield Entry(
                "field", f"{field.label}, {unit}" if unit else field.label, getattr(thing, field.name), thing.id, field.name,
                field.kind, tuple(field.choices(plan, case, self.units)) if field.choices else (), FEET if feet else 1.0, edit,
            )  # fmt: skip

    def _state(self, plan: Plan, thing: Named | Run) -> Iterator[Entry]:
        """What equipment or a switch does in the chosen scenario."""
        scenario = next((s for s in plan.scenarios if s.id == self.scenario), None)
        switch = isinstance(thing, SWITCHES)
        if scenario is None or not (switch or isinstance(thing, Equipment)):
            return
        value = scenario.states.get(thing.id)
        choices: list[tuple[Any, str]] = (
            [(None, "as drawn"), ("closed", "closed"), ("open", "open")]
            if switch
            else [(None, "on"), ("off", "off"), ("surge", "surge"), *((k / 10, f"{10 * k} %") for k in range(1, 10))]
        )
        value = None if value == "on" else value
        if isinstance(value, float) and value not in [c for c, _ in choices]:
            choices.append((value, f"{100 * value:g} %"))
        id_ = scenario.id
        yield Entry("gap")
        yield Entry(
            "field", f"In “{scenario.title}”", value, thing.id, "state", "choice", tuple(choices),
            edit=lambda v: Edit(
                f"{thing.id} in {scenario.title}", partial(edits.set_state, scenario_id=id_, id_=thing.id, state=v)
            ),
        )  # fmt: skip

    # Widgets

    def _build(self, entries: list[Entry], keep_place: bool) -> None:
        place = self.verticalScrollBar().value() if keep_place else 0
        had = next(
            (
                (e.id, e.name)
                for e, w in zip(self._entries, self._shown, strict=True)
                if w is not None and not isinstance(w, QLabel) and w.hasFocus()
            ),
            None,
        )
        body = QWidget()
        grid = QGridLayout(body)
        grid.setContentsMargins(16, 12, 8, 12)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, LABELS_PX)
        self._shown = [self._widget(grid, row, k) for row, k in enumerate(entries)]
        self._entries = entries
        grid.setRowStretch(len(entries), 1)
        # The field that asked for this may still be in the middle of its signal.
        old = self.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()
        self.setWidget(body)
        self.verticalScrollBar().setValue(place)
        for entry, widget in zip(entries, self._shown, strict=True):
            if had == (entry.id, entry.name) and widget is not None:
                widget.setFocus()

    def _widget(self, grid: QGridLayout, row: int, entry: Entry) -> QLabel | Editor | None:
        """Put one entry into the grid; what shows its value."""
        if entry.kind == "gap":
            grid.setRowMinimumHeight(row, 6)
            return None
        if entry.kind in ("head", "caption", "note"):
            text = QLabel()
            text.setObjectName("head" if entry.kind == "head" else "caption")
            text.setWordWrap(entry.kind != "caption")
            grid.addWidget(text, row, 0, 1, 2)
            return text
        label = QLabel(entry.label)
        label.setObjectName("field")
        label.setWordWrap(True)
        label.setFixedWidth(LABELS_PX)
        grid.addWidget(label, row, 0)
        if entry.kind == "fact":
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
            fact = QLabel()
            fact.setObjectName("fact")
            fact.setWordWrap(True)
            fact.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            grid.addWidget(fact, row, 1)
            return fact
        editor = editor_for(entry.field, entry.choices, entry.factor)
        editor.setMinimumWidth(60)
        editor.setAccessibleName(entry.label)
        editor.committed.connect(partial(self._committed, row))
        label.setBuddy(editor)
        grid.addWidget(editor, row, 1)
        return editor

    def _committed(self, row: int, value: object) -> None:
        edit = self._entries[row].edit
        if edit is not None:
            self.wanted.emit(edit(value))
