"""Measure: what to expect at every point, what was read there, and what explains it."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSplitter,
    QVBoxLayout,
)

from jaunty_copper.commissioning.points import Point, to_measure_in
from jaunty_copper.commissioning.trends import scenarios_read
from jaunty_copper.desktop.pages.log import files
from jaunty_copper.desktop.pages.log.explanation import ReadingsMeaning, place_words
from jaunty_copper.desktop.pages.log.measured import Measured, Readings, measuring, same_copper, typed_value
from jaunty_copper.desktop.pages.log.meters import reading
from jaunty_copper.desktop.pages.log.pane import Pane
from jaunty_copper.desktop.pages.log.practice import TRAINING, Practice
from jaunty_copper.desktop.pages.log.rows import ESTIMATED, READ, SHOWN, more_at, reading_columns, reading_rows
from jaunty_copper.desktop.pages.log.said import CAUTION, ReadingRow
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read, written
from jaunty_copper.desktop.widgets.table import Rows, table_view
from jaunty_copper.desktop.work.worker import Worker
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Scenario, split_ref
from jaunty_copper.simulator.training import TrainingBench


class MeasurePane(Pane):
    """Points, meters, readings and their explanation."""

    measured = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.scenario: Scenario | None = None
        self.found: Measured | None = None
        self.more: tuple[Point, ...] = ()
        self.goal: Point | None = None
        self.practice = Practice(self)
        self.reading_all = False
        self.worker, self.reader = Worker("log"), Worker("meter")
        self.worker.done.connect(self._show)
        self.worker.failed.connect(self._failed)
        self.reader.done.connect(self._read)
        self.reader.failed.connect(lambda trace: self._told_trouble(trace.strip().splitlines()[-1]))
        self._build()

    # Building

    def _build(self) -> None:
        self.what = QComboBox()
        self.what.setAccessibleName(say("What runs while you measure"))
        self.what.setToolTip(say("What runs while you measure"))
        self.what.activated.connect(self._chosen)
        self.shown = QComboBox()
        self.shown.setAccessibleName(say("Points shown"))
        for key, title in SHOWN.items():
            self.shown.addItem(title, key)
        self.shown.currentIndexChanged.connect(self._rows)
        here = _button(
            say("More here"),
            say("Joints by themselves, current and temperature of the conductor or device in the chosen row"),
            self._more_here,
        )
        load = _button(say("From CSV…"), say("Readings from a file"), lambda: files.load_readings(self))
        save = _button(say("To CSV…"), say("The points, to fill in and read back"), lambda: files.save_points(self))
        clear = _button(say("Clear"), say("Take all readings of this scenario away"), self._clear)
        first = QHBoxLayout()
        for box, least in ((self.what, 8), (self.shown, 6)):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(least)
            first.addWidget(box, least)
        for widget in (here, load, save, clear):
            first.addWidget(widget)
        self.meter, self.clamp = QLineEdit(), QLineEdit()
        for field, name, hint in (
            (self.meter, say("Meter for volts and temperatures"), "TCPIP0::192.168.1.20::5025::SOCKET"),
            (self.clamp, say("Clamp for amperes"), "ASRL/dev/ttyUSB0::INSTR"),
        ):
            field.setAccessibleName(name)
            field.setToolTip(say("{name}, by its VISA address; such as {hint}", name=name, hint=hint))
            field.setPlaceholderText(hint)
        self.take_button = _button(
            say("Take reading"), say("Read the meter into the chosen row, and go to the next (F9)"), lambda: self.take()
        )
        self.take_button.setShortcut("F9")
        self.all_button = _button(
            say("Read all shown"),
            say("Let the training bench's meters read every point that is shown and not yet read"),
            lambda: self.take_all(),
        )
        self.train_button = _button(
            say("Train…"),
            say("Hide one fault in a copy of this system, with simulated meters to find it"),
            self.practice.toggle,
        )
        self.reveal_button = _button(say("Show what was hidden"), "", self.practice.reveal)
        self.log_button = _button(
            say("Into the log"), say("Keep these readings in the logbook under today's date"), self._log
        )
        second = QHBoxLayout()
        second.addWidget(Label(say("Meter")))
        second.addWidget(self.meter, 1)
        second.addWidget(Label(say("Clamp")))
        second.addWidget(self.clamp, 1)
        for widget in (self.take_button, self.all_button, self.log_button, self.reveal_button, self.train_button):
            second.addWidget(widget)
        self.note = Label(CAUTION)
        self.note.setObjectName("caption")
        self.note.setWordWrap(True)
        self.table = Rows(reading_columns(lambda: self.found.plan if self.found else None), editable=READ)
        self.table.edited.connect(self._typed)
        self.view = table_view(self.table, say("Readings"))
        self.says = ReadingsMeaning(self)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.says)
        split.setSizes([360, 230])
        split.setStretchFactor(0, 1)
        name_divider(split, say("Divider under the readings"))
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 0)
        column.setSpacing(5)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(self.note)
        column.addWidget(split, 1)
        self.practice.show()

    # What is shown

    def show_picture(self, picture: Picture, _: str | None) -> None:
        """Show another plan; the scenario chosen on this page stays: at first the one that was read most in."""
        before = self.picture.plan if self.picture is not None else None
        self.picture = picture
        if self.practice.bench is not None and not same_copper(self.practice.bench.plan, picture.plan):
            self.practice.end()
            self.note.setText(say("The plan has changed: this training bench has ended."))
        offered = to_measure_in(picture.plan)
        if before is None or [s.id for s in to_measure_in(before)] != [s.id for s in offered]:
            self.what.clear()
            for s in offered:
                self.what.addItem(s.title, s.id)
        read = scenarios_read(picture.plan.readings)
        asked = self.scenario.id if self.scenario is not None else read[0] if read else ""
        self.scenario = next((s for s in offered if s.id == asked), offered[0])
        self.what.setCurrentIndex([s.id for s in offered].index(self.scenario.id))
        if self.isVisible():
            self.refresh()

    def _chosen(self, index: int) -> None:
        if self.picture is not None:
            self.scenario = to_measure_in(self.picture.plan)[index]
            self.refresh()

    def taken(self) -> Readings:
        """What was read in the scenario that is shown: the plan's, or the training bench's."""
        if self.scenario is None or self.picture is None:
            return {}
        if self.practice.bench is not None:
            return self.practice.taken.get(self.scenario.id, {})
        return {
            Point(r.quantity, r.a, r.b): r.value for r in self.picture.plan.readings if r.scenario == self.scenario.id
        }

    def refresh(self) -> None:
        """Work out what the readings say, where that is not known yet."""
        if self.picture is None or self.picture.study is None or self.scenario is None:
            return
        plan, f, taken = self.picture.plan, self.found, self.taken()
        if (
            f is not None
            and f.plan is plan
            and f.scenario == self.scenario
            and f.more == self.more
            and f.taken == taken
        ):
            return
        if f is None or f.scenario != self.scenario:
            self.show_headline(say("Working out what to expect…"))
        self.worker.ask(measuring(plan, self.scenario, taken, self.more, f))

    @property
    def ready(self) -> bool:
        """Whether what is shown is of the plan and scenario as they are."""
        f = self.found
        return (
            f is not None and self.picture is not None and f.plan is self.picture.plan and f.scenario == self.scenario
        )

    def _show(self, found: Measured) -> None:
        if self.picture is None or found.plan is not self.picture.plan or found.scenario != self.scenario:
            return
        if found.more != self.more or (self.practice.bench is not None and found.taken != self.taken()):
            return
        self.found = found
        self._rows()
        self.says.show_found(found)
        if self.practice.bench is None:
            self.measured.emit(found)

    def _failed(self, trace: str) -> None:
        self.show_headline(say("Nothing can be expected here"))
        self.note.setText(
            say("What to expect could not be computed: {splitlines}", splitlines=trace.strip().splitlines()[-1])
        )

    def _rows(self) -> None:
        f = self.found
        if f is None or f.bench is None:
            self.table.show_rows(())
            return
        held = self.view.currentIndex().row()
        at = self.table.rows[held].expected.point if 0 <= held < len(self.table.rows) else None
        self.table.show_rows(reading_rows(f, f.bench, self.shown.currentData()))
        # Nothing says anything of all readings together until one is taken.
        self.view.setColumnHidden(ESTIMATED, not f.estimated)
        self._go_to(self.goal or at)

    def _go_to(self, point: Point | None) -> None:
        k = next((k for k, r in enumerate(self.table.rows) if r.expected.point == point), None)
        if k is not None:
            self.view.setCurrentIndex(self.table.index(k, READ))
            self.goal = None

    def select(self, id_: str | None) -> None:
        """Go to the reading over something."""
        run = self.found.plan.run_by_id.get(id_ or "") if self.found else None
        for k, row in enumerate(self.table.rows):
            p = row.expected.point
            if (run is not None and (run.a, run.b) == (p.a, p.b)) or id_ == split_ref(p.a)[0] == split_ref(p.b)[0]:
                self.view.setCurrentIndex(self.table.index(k, READ))
                return

    def close_worker(self) -> None:
        """End the threads, and take the simulated meters off their lines."""
        self.worker.close()
        self.reader.close()
        if self.practice.bench is not None:
            self.practice.bench.close()

    # Readings

    def put(self, point: Point, value: float | None) -> None:
        """Keep a reading: in the plan, or while training in the training bench."""
        assert self.scenario is not None
        if self.practice.bench is not None:
            held = dict(self.practice.taken.get(self.scenario.id, {}))
            if value is None:
                held.pop(point, None)
            else:
                held[point] = value
            self.practice.taken[self.scenario.id] = held
            self.refresh()
            return
        change = partial(edits.take_reading, scenario=self.scenario.id, **point._asdict(), value=value)
        self.wanted.emit(Edit(say("Reading at {place_words}", place_words=place_words(point)), change))

    def _typed(self, row: ReadingRow, text: str) -> None:
        point = row.expected.point
        try:
            if point.quantity == "celsius" and " after " in text.casefold():
                text, _, time = text.casefold().partition(" after ")
                point = point._replace(b=written(read(time, "s") / 60.0))
                self.more, self.goal = (*self.more, point), point
            self.put(point, typed_value(self.found, point, text) if text.strip() else None)
        except NotUnderstood as error:
            self.refused.emit(
                say("Reading at {place_words}: {error}. It is as before.", place_words=place_words(point), error=error)
            )

    def measure_at(self, point: Point) -> None:
        """Add a point to the table, and go to it."""
        if self.found is None or self.found.bench is None:
            return
        self.goal = point
        if point not in self.found.bench.points:
            self.more = (*self.more, point)
            self.refresh()
        if self.shown.currentData() not in ("all", "left"):
            self.shown.setCurrentIndex(list(SHOWN).index("all"))
        self._go_to(point)

    def _more_here(self) -> None:
        index = self.view.currentIndex()
        if self.found is None or not index.isValid():
            self.note.setText(say("Choose a row first: what more can be measured depends on the place."))
            return
        new = more_at(self.found, self.table.rows[index.row()].expected.point)
        self.more, self.goal = tuple(dict.fromkeys((*self.more, *new))), new[-1] if new else None
        self.refresh()

    def _clear(self) -> None:
        if self.found is None or self.scenario is None:
            return
        if self.practice.bench is not None:
            self.practice.taken.pop(self.scenario.id, None)
            self.refresh()
            return
        self.wanted.emit(Edit(say("Clear the readings"), partial(edits.clear_readings, scenario=self.scenario.id)))

    def _log(self) -> None:
        from jaunty_copper.desktop.pages.log.logbook import today

        if self.picture is not None and not self.picture.plan.readings:
            self.note.setText(say("No reading was taken yet: there is nothing to put into the log."))
            return
        self.wanted.emit(Edit(say("Readings into the log"), partial(edits.log_readings, on=today())))
        self.note.setText(say("Kept in the logbook under today's date; Trends shows what became of each joint."))

    # Meters

    def take(self) -> None:
        """Read the meter into the chosen row, or into the first that was not read."""
        row = self._row_to_read()
        if row is None or self.scenario is None:
            self.note.setText(say("Every point that is shown was read."))
            return
        point = row.expected.point
        field = self.clamp if point.quantity == "amps" else self.meter
        if not field.text().strip():
            self._told_trouble(
                say("Give the address of the clamp first, or press Train… for simulated ones.")
                if field is self.clamp
                else say("Give the address of the meter first, or press Train… for simulated ones.")
            )
            field.setFocus()
            return
        self._reading_all(False)
        self.take_button.setEnabled(False)
        self.note.setText(say("Reading {place_words}…", place_words=place_words(point)))
        self.reader.ask(reading(field.text().strip(), (point,), self.scenario.id))

    def take_all(self) -> None:
        """Let simulated meters read every point shown that was not read; again to stop."""
        if self.practice.bench is None or self.scenario is None:
            return
        points = () if self.reading_all else tuple(r.expected.point for r in self.table.rows if r.read is None)
        self._reading_all(bool(points))
        addresses = {q: self.practice.bench.address(q) for q in ("volts", "joint", "amps", "celsius")}
        self.reader.ask(reading(addresses, points, self.scenario.id))

    def _reading_all(self, on: bool) -> None:
        self.reading_all = on
        self.all_button.setText(say("Stop") if on else say("Read all shown"))

    def _row_to_read(self) -> ReadingRow | None:
        index = self.view.currentIndex()
        chosen: ReadingRow | None = (
            self.table.rows[index.row()] if index.isValid() and index.row() < len(self.table.rows) else None
        )
        return chosen or next((r for r in self.table.rows if r.read is None), None)

    def _read(self, got: tuple[str, Readings, str] | TrainingBench | str) -> None:
        """Something came back from the reader: a scenario's readings and what went wrong after them, or a training bench."""
        if not isinstance(got, tuple):
            self.practice.arrived(got)
            return
        scenario, values, trouble = got
        self.take_button.setEnabled(True)
        if trouble or not values:
            self._reading_all(False)
        if self.scenario is None or scenario != self.scenario.id:
            return
        for point, value in values.items():
            self.put(point, value)
        if trouble:
            self._told_trouble(trouble)
            return
        self.note.setText(TRAINING if self.practice.bench is not None else CAUTION)
        shown = [r.expected.point for r in self.table.rows]
        for point in values:
            after = shown.index(point) + 1 if point in shown else 0
            self.view.setCurrentIndex(self.table.index(min(after, len(shown) - 1), READ))

    def _told_trouble(self, words: str) -> None:
        self.take_button.setEnabled(True)
        self.note.setText(
            say("Not read: {words} Nothing that was read is lost; a value can be typed as well.", words=words)
        )


def _button(text: str, tip: str, act: Callable[[], object]) -> QPushButton:
    made = QPushButton(text)
    made.setToolTip(tip)
    made.clicked.connect(lambda: act())
    return made
