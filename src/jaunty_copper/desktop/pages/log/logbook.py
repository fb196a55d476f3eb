"""Logbook: what was done and seen, by its days."""

from collections import Counter
from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path, PurePosixPath
from typing import Any

from PySide6.QtCore import QModelIndex, Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
)

from jaunty_copper.desktop.pages.log.pane import Pane
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view
from jaunty_copper.language import say, say_many
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Entry, Plan

KINDS = {
    "note": (say("Note"), ""), "torque": (say("Torque check"), "N m"), "trip": (say("Breaker tripped"), "A"), "blown": (say("Fuse blown"), "A"),
    "hot": (say("Hot spot"), "°C"), "change": (say("Part changed"), ""), "capacity": (say("Capacity measured"), "Ah"),
    "charge": (say("Charge recovered"), "Ah"), "measured": (say("Readings"), ""),
}  # fmt: skip
"""What an entry can be, with the unit of its value."""


def today() -> str:
    """The day, as the log writes it."""
    return date.today().isoformat()


class LogbookPane(Pane):
    """Dated entries and a line to write one."""

    def __init__(self) -> None:
        super().__init__()
        self.folder: Path | None = None
        self.day, self.kind, self.about = QLineEdit(today()), QComboBox(), QComboBox()
        self.day.setAccessibleName(say("Day"))
        self.day.setToolTip(say("Year-month-day"))
        self.day.setFixedWidth(96)
        self.kind.setAccessibleName(say("What it is"))
        for key, (title, _) in KINDS.items():
            if key != "measured":
                self.kind.addItem(title, key)
        self.kind.currentIndexChanged.connect(self._kind_changed)
        self.about.setEditable(True)
        self.about.setAccessibleName(say("About"))
        self.about.setToolTip(say("The thing it is about, by its id"))
        self.value, self.hours = QLineEdit(), QLineEdit()
        self.value.setFixedWidth(84)
        self.value.setAccessibleName(say("Value"))
        self.hours.setFixedWidth(74)
        self.hours.setPlaceholderText(say("hours"))
        self.hours.setAccessibleName(say("Hours"))
        self.text = QPlainTextEdit()
        self.text.setAccessibleName(say("What happened"))
        self.text.setPlaceholderText(say("What was done or seen"))
        self.text.setFixedHeight(52)
        self.text.setTabChangesFocus(True)
        self.picture_path = QLineEdit()
        self.picture_path.setPlaceholderText(say("picture, from the plan's folder"))
        self.picture_path.setAccessibleName(say("Picture"))
        choose = QPushButton(say("Picture…"))
        choose.clicked.connect(lambda: self.choose_picture())
        add = QPushButton(say("Add to the log"))
        add.clicked.connect(self.add)
        self.remove_button = QPushButton(say("Take out"))
        self.remove_button.setToolTip(say("Take the chosen entry out of the log"))
        self.remove_button.clicked.connect(self._remove)
        first = QHBoxLayout()
        for widget in (self.day, self.kind, self.about, self.value, self.hours):
            first.addWidget(widget, 1 if widget is self.about else 0)
        second = QHBoxLayout()
        second.addWidget(self.text, 1)
        side = QVBoxLayout()
        row = QHBoxLayout()
        row.addWidget(self.picture_path)
        row.addWidget(choose)
        side.addLayout(row)
        row = QHBoxLayout()
        row.addWidget(self.remove_button)
        row.addWidget(add)
        side.addLayout(row)
        second.addLayout(side)
        self.table = Rows(
            (
                ViewColumn(say("Day"), lambda e: e.on, 106),
                ViewColumn(say("What"), lambda e: KINDS[e.kind][0], 138),
                ViewColumn(say("About"), lambda e: self.title_of(e.about.partition(".")[0]) if e.about else "", 190),
                ViewColumn(say("Value"), _value, 96, True),
                ViewColumn("", _words, 0),
            )
        )
        self.view = table_view(self.table, say("Logbook"))
        self.view.selectionModel().currentChanged.connect(self._chosen)
        self.note = Label()
        self.note.setObjectName("caption")
        self.note.setWordWrap(True)
        self.photo = Label()
        self.photo.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.photo.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 8)
        column.setSpacing(5)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(self.note)
        column.addWidget(self.view, 1)
        column.addWidget(self.photo)
        self._kind_changed()

    def refresh(self) -> None:
        """Show the plan's log, the latest entry first."""
        if self.picture is None:
            return
        plan = self.picture.plan
        held = self.about.currentText()
        self.about.clear()
        self.about.addItems(["", *plan.by_id, *plan.run_by_id])
        self.about.setEditText(held)
        self.table.show_rows(sorted((*plan.log, *_ticks(plan)), key=lambda e: e.on, reverse=True))
        self.show_headline(
            say_many("{count} entry", "{count} entries", len(plan.log)) if plan.log else say("Nothing was written yet")
        )

    def select(self, id_: str | None) -> None:
        """Write about something."""
        if id_:
            self.about.setEditText(id_)

    def _kind_changed(self) -> None:
        unit = KINDS[self.kind.currentData()][1]
        self.value.setPlaceholderText(unit or say("value"))
        self.value.setEnabled(bool(unit))
        self.hours.setVisible(self.kind.currentData() == "charge")

    def add(self) -> None:
        """Put what was written into the log; says what is wrong with it."""
        assert self.picture is not None
        fields: dict[str, Any] = {
            "about": self.about.currentText().strip(),
            "text": self.text.toPlainText().strip(),
            "picture": self.picture_path.text().strip(),
        }
        try:
            for name, field, unit in (("value", self.value, ""), ("hours", self.hours, "h")):
                if field.isEnabled() and field.isVisibleTo(self) and field.text().strip():
                    fields[name] = read(field.text(), unit)
        except NotUnderstood as error:
            self.note.setText(f"{field.accessibleName()}: {error}")
            return
        if not fields["text"] and "value" not in fields:
            self.note.setText(say("Write what was done or seen, or give its value."))
            return
        change: Callable[[Plan], Plan] = partial(
            edits.log_entry, kind=self.kind.currentData(), on=self.day.text().strip(), **fields
        )
        try:
            change(self.picture.plan)
        except EditError as error:
            self.note.setText(say("Not added: {error}", error=error))
            return
        self.wanted.emit(
            Edit(say("{kinds} of {text}", kinds=KINDS[self.kind.currentData()][0], text=self.day.text()), change)
        )
        self.text.clear()
        self.value.clear()
        self.hours.clear()
        self.picture_path.clear()
        self.note.setText(say("Added."))

    def _remove(self) -> None:
        index = self.view.currentIndex()
        if index.isValid() and self.picture is not None:
            entry = self.table.rows[index.row()]
            if all(e.id != entry.id for e in self.picture.plan.log):
                self.note.setText(say("Ticks are taken away on the Build page, where they were made."))
                return
            self.wanted.emit(
                Edit(say("Take the entry of {on} out", on=entry.on), partial(edits.remove_entry, id_=entry.id))
            )

    def choose_picture(self, path: Path | None = None) -> None:
        """Take a picture that lies beside the plan's file or below it."""
        if path is None:
            name, _ = QFileDialog.getOpenFileName(
                self, "Picture", str(self.folder or Path.home()), say("Pictures (*.png *.jpg *.jpeg)")
            )
            if not name:
                return
            path = Path(name)
        if self.folder is None:
            self.note.setText(say("Save the plan first: pictures are kept by their path from its folder."))
            return
        try:
            self.picture_path.setText(PurePosixPath(path.resolve().relative_to(self.folder.resolve())).as_posix())
        except ValueError:
            self.note.setText(
                say(
                    "Copy it to {folder} or below first: a log that is moved with its folder must find it again.",
                    folder=self.folder,
                )
            )

    def _chosen(self, index: QModelIndex, _: QModelIndex) -> None:
        self.photo.hide()
        if not index.isValid() or index.row() >= len(self.table.rows):
            return
        entry: Entry = self.table.rows[index.row()]
        if self.view.hasFocus() and entry.about:
            self.picked.emit(entry.about.partition(".")[0])
        if entry.picture and self.folder is not None:
            photo = QPixmap(str(self.folder / entry.picture))
            if photo.isNull():
                self.note.setText(
                    say("There is no picture {picture} in {folder}.", picture=entry.picture, folder=self.folder)
                )
            else:
                self.photo.setPixmap(photo.scaledToHeight(150, Qt.TransformationMode.SmoothTransformation))
                self.photo.show()


def _ticks(plan: Plan) -> list[Entry]:
    """A line for each day on which steps of the work were ticked."""
    days = Counter(plan.done_on.values())
    return [
        Entry(
            id=f"ticks-{k}",
            on=day,
            kind="change",
            text=say("{count} step{words} of the work ticked", count=count, words="s" if count > 1 else ""),
        )
        for k, (day, count) in enumerate(days.items())
    ]


def _value(entry: Entry) -> str:
    if entry.value is None:
        return ""
    hours = say(" in {hours:g} h", hours=entry.hours) if entry.hours else ""
    return f"{entry.value:g} {KINDS[entry.kind][1]}{hours}"


def _words(entry: Entry) -> str:
    words = entry.text.replace("\n", " ")
    if entry.readings:
        words = say_many("{count} reading. {words}", "{count} readings. {words}", len(entry.readings), words=words)
    return f"{words}  [{entry.picture}]" if entry.picture else words
