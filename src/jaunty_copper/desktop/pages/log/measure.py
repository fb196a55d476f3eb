"""Measure: what to expect at every point, what was read there, and what explains it."""

import random
from functools import partial
from math import isfinite
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.commissioning.charging import FULL_PERCENT, Charging, Slower
from jaunty_copper.commissioning.diagnose import Diagnosis, Suspect
from jaunty_copper.commissioning.meter import MeterError, take
from jaunty_copper.commissioning.points import UNIT, Point, joints_of, to_measure_in
from jaunty_copper.commissioning.readings_file import ReadingsError, read_readings, write_readings
from jaunty_copper.commissioning.trends import scenarios_read
from jaunty_copper.desktop.pages.log.measured import Measured, Readings, measuring, same_copper
from jaunty_copper.desktop.pages.log.pane import PARTS, Pane, line, replace_body
from jaunty_copper.desktop.pages.log.said import Row, chance, estimated, expect, hours, off_by, ohms, reading_text, to
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read
from jaunty_copper.desktop.widgets.table import Column, Rows, table_view
from jaunty_copper.desktop.work.picture import Picture
from jaunty_copper.desktop.work.worker import Task, Work, Worker
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Inline, Plan, Reading, Scenario, split_ref
from jaunty_copper.plan.storage import MOST_TEXT, read_text, write_atomically
from jaunty_copper.simulator.training import NothingToHide, TrainingBench, hide

CAUTION = "Measuring under load means live posts: insulated probes, one hand, nothing loose. Local codes and licensed practice decide."
UNEXPLAINED = "These readings are not as planned, and no resistance and no wrong tap explains them: check what ran, where the probes were, and what was typed."
TRAINING = "Training bench: one thing is not as planned in this copy of the copper. Take readings with its meters; they stay here and go into no file."
SHOWN = {
    "all": "All points",
    "fewest": "The fewest that reveal a bad joint",
    "read": "What was read",
    "left": "What is left to read",
}
READ = 4


class MeasurePane(Pane):
    """Points, meters, readings and their explanation."""

    measured = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.scenario: Scenario | None = None
        self.found: Measured | None = None
        self.more: tuple[Point, ...] = ()
        self.training: TrainingBench | None = None
        self.trained: dict[str, Readings] = {}
        self.next_button: QPushButton | None = None
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
        self.what.setAccessibleName("What runs while you measure")
        self.what.setToolTip("What runs while you measure")
        self.what.activated.connect(self._chosen)
        self.shown = QComboBox()
        self.shown.setAccessibleName("Points shown")
        for key, title in SHOWN.items():
            self.shown.addItem(title, key)
        self.shown.currentIndexChanged.connect(self._rows)
        here = QPushButton("More here")
        here.setToolTip("Joints by themselves, current and temperature of the conductor or device in the chosen row")
        here.clicked.connect(self._more_here)
        load, save, clear = QPushButton("From CSV…"), QPushButton("To CSV…"), QPushButton("Clear")
        load.setToolTip("Readings from a file")
        save.setToolTip("The points, to fill in and read back")
        clear.setToolTip("Take all readings of this scenario away")
        load.clicked.connect(lambda: self.load())
        save.clicked.connect(lambda: self.save())
        clear.clicked.connect(self._clear)
        first = QHBoxLayout()
        first.addWidget(self.what)
        first.addWidget(self.shown)
        first.addStretch(1)
        for widget in (here, load, save, clear):
            first.addWidget(widget)
        self.meter, self.clamp = QLineEdit(), QLineEdit()
        for field, name, hint in (
            (self.meter, "Meter for volts and temperatures", "TCPIP0::192.168.1.20::5025::SOCKET"),
            (self.clamp, "Clamp for amperes", "ASRL/dev/ttyUSB0::INSTR"),
        ):
            field.setAccessibleName(name)
            field.setToolTip(f"{name}, by its VISA address; such as {hint}")
            field.setPlaceholderText(hint)
        self.take_button = QPushButton("Take reading")
        self.take_button.setToolTip("Read the meter into the chosen row, and go to the next (F9)")
        self.take_button.setShortcut("F9")
        self.take_button.clicked.connect(lambda: self.take())
        self.all_button = QPushButton("Read all shown")
        self.all_button.setToolTip("Let the training bench's meters read every point that is shown and not yet read")
        self.all_button.clicked.connect(lambda: self.take_all())
        self.train_button, self.reveal_button = QPushButton("Train…"), QPushButton("Show what was hidden")
        self.train_button.setToolTip("Hide one fault in a copy of this system, with simulated meters to find it")
        self.train_button.clicked.connect(self._train)
        self.reveal_button.clicked.connect(self.reveal)
        self.log_button = QPushButton("Into the log")
        self.log_button.setToolTip("Keep these readings in the logbook under today's date")
        self.log_button.clicked.connect(self._log)
        second = QHBoxLayout()
        second.addWidget(Label("Meter"))
        second.addWidget(self.meter, 1)
        second.addWidget(Label("Clamp"))
        second.addWidget(self.clamp, 1)
        for widget in (self.take_button, self.all_button, self.log_button, self.reveal_button, self.train_button):
            second.addWidget(widget)
        self.note = Label(CAUTION)
        self.note.setObjectName("caption")
        self.note.setWordWrap(True)
        self.table = Rows(
            (
                Column("Measure", self._what, 0),
                Column("From", lambda r: r.expected.point.a, 80),
                Column("To", to, 80),
                Column("Expect", expect, 128, True),
                Column("Read", lambda r: "" if r.read is None else reading_text(r.expected.point, r.read), 80, True),
                Column("Off by", off_by, 138),
                Column("V/A", ohms, 78, True),
                Column("All readings, mΩ", estimated, 124, True),
            ),
            editable=READ,
        )
        self.table.edited.connect(self._typed)
        self.view = table_view(self.table, "Readings")
        self.says = QScrollArea()
        self.says.setWidgetResizable(True)
        self.suspects: list[QPushButton] = []
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.says)
        split.setSizes([360, 230])
        split.setStretchFactor(0, 1)
        name_divider(split, "Divider under the readings")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 0)
        column.setSpacing(5)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(self.note)
        column.addWidget(split, 1)
        self._show_training()

    # What is shown

    def show_picture(self, picture: Picture, _: str | None) -> None:
        """Show another plan; the scenario chosen on this page stays: at first the one that was read most in."""
        before = self.picture.plan if self.picture is not None else None
        self.picture = picture
        if self.training is not None and not same_copper(self.training.plan, picture.plan):
            self.end_training()
            self.note.setText("The plan has changed: this training bench has ended.")
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
        if self.training is not None:
            return self.trained.get(self.scenario.id, {})
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
            self.say("Working out what to expect…")
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
        if found.more != self.more or (self.training is not None and found.taken != self.taken()):
            return
        self.found = found
        self._rows()
        self._say()
        if self.training is None:
            self.measured.emit(found)

    def _failed(self, trace: str) -> None:
        self.say("Nothing can be expected here")
        self.note.setText(f"What to expect could not be computed: {trace.strip().splitlines()[-1]}")

    def _rows(self) -> None:
        f = self.found
        if f is None or f.bench is None:
            self.table.show_rows(())
            return
        held = self.view.currentIndex()
        at = (
            self.table.rows[held.row()].expected.point if held.isValid() and held.row() < len(self.table.rows) else None
        )
        b, rows = f.bench, []
        branch, by_ends = b.wiring.branch, {(r.a, r.b): r.id for r in f.plan.runs}
        few = {b.points[k] for k in f.fewest} | set(f.more)
        measurable = {p.owner for p in b.places if b.wiring.branches[p.branch].kind in ("run", "body", "battery")}
        for e in f.expected:
            read = f.taken.get(e.point)
            show = {"all": True, "fewest": e.point in few, "read": read is not None, "left": read is None}
            if show[self.shown.currentData()]:
                p = e.point
                owner = by_ends.get((p.a, p.b)) or (p.a if p.quantity == "joint" else split_ref(p.a)[0])
                planned = float(b.base.current_a[branch[owner]]) if owner in branch else float("nan")
                rows.append(
                    Row(
                        e,
                        read,
                        f.taken.get(Point("amps", owner, ""), planned),
                        f.estimated.get(owner) if owner in measurable else None,
                    )
                )
        self.table.show_rows(rows)
        self._go_to(at)

    def _go_to(self, point: Point | None) -> None:
        k = next((k for k, r in enumerate(self.table.rows) if r.expected.point == point), None)
        if k is not None:
            self.view.setCurrentIndex(self.table.index(k, READ))

    def _say(self) -> None:
        f = self.found
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(4, 4, 4, 8)
        column.setSpacing(4)
        self.suspects = []
        if f is None or f.bench is None or f.diagnosis is None:
            self.say(f.trouble if f is not None else "")
        else:
            self.say(f"{len(f.taken)} of {len(f.expected)} readings taken")
            line(column, self._verdict(f, f.diagnosis), "fact")
            if f.diagnosis.alarm:
                self._explanations(column, f, f.diagnosis)
                if f.diagnosis.unexplained:
                    line(
                        column,
                        "Even so, what is left is more than chance gives: look for something else besides.",
                        "bad",
                    )
            for c, cost in f.charging:
                line(column, self._charging(c, cost), "caption")
            if f.taken and f.diagnosis.readings:
                line(column, chance(f.diagnosis), "caption")
            if f.blind:
                some = ", ".join(f.blind[:8]) + (" …" if len(f.blind) > 8 else "")
                line(
                    column,
                    f"A bad joint of 5 mΩ would not show in {some}: too little flows there, or the copper itself is not known so closely.",
                    "caption",
                )
            if not f.taken:
                self._apart(column, f)
        column.addStretch(1)
        replace_body(self.says, body)

    def _verdict(self, f: Measured, d: Diagnosis) -> str:
        if not f.taken:
            return f"Set up “{f.scenario.title}”, measure from stud to stud, and type what the meter reads or let it be read. {len(f.fewest)} readings would reveal a bad joint anywhere that carries current."
        if not d.alarm and d.unexplained:
            return UNEXPLAINED
        if not d.alarm:
            return "As planned, within what lengths, joints, loads, sources, charge and meter leave open."
        if d.two is not None:
            return "Something is not as planned, and no single thing explains it. Together these do:"
        return "Something is not as planned. What would explain it, the likeliest first:"

    def _explanations(self, column: QVBoxLayout, f: Measured, d: Diagnosis) -> None:
        for s in d.blamed if d.two is not None else d.plausible[:3]:
            button = QPushButton(self.words(s))
            button.setStyleSheet("text-align: left")
            button.clicked.connect(lambda _=False, s=s: self.picked.emit(s.owner))
            column.addWidget(button)
            self.suspects.append(button)
        self.next_button = None
        if f.next is not None:
            n = f.next
            one, other = (reading_text(n.point, v) for v in (n.one, n.other))
            button = QPushButton(
                f"Next, measure {self._place(n.point)}: about {one} if it is {n.between[0]}, {other} if {n.between[1]}"
            )
            button.setStyleSheet("text-align: left")
            button.clicked.connect(lambda: self.measure_at(n.point))
            column.addWidget(button)
            self.next_button = button

    def words(self, s: Suspect) -> str:
        """A suspect in one line."""
        like = f", or {' or '.join(s.with_it)}, which these readings cannot part from it" if s.with_it else ""
        if s.kind == "tap":
            return f"{self.title_of(s.owner)}: its end {s.part} landed on {s.to}"
        full = f", {s.heat_w:.3g} W there" if s.heat_w >= 0.05 else ""
        return f"{self.title_of(s.name)}{like}: {1e3 * s.more_ohm:.2g} ± {1e3 * s.sigma_ohm:.1g} mΩ more than planned{full}"

    def _charging(self, c: Charging, cost: Slower | None) -> str:
        words = f"{self.title_of(c.source)} is set to {c.set_v:.2f} V, has {c.own_v:.2f} V at its terminals, and {c.bank_v:.2f} V reach the bank: {1e3 * c.lost_v:.0f} mV are lost on the way"
        if cost is None or abs(cost.real_h - cost.planned_h) < 0.05:
            return words + "."
        return f"{words}. To {FULL_PERCENT:g} % it takes {hours(cost.real_h)} with what was read, {hours(cost.planned_h)} as planned."

    def _apart(self, column: QVBoxLayout, f: Measured) -> None:
        """Which joints the fewest readings cannot part, and what would."""
        if not f.groups:
            return
        separable = [g for g in f.groups if g.parted_by is not None]
        words = f"With the fewest readings {sum(len(g.names) for g in f.groups)} conductors stay in {len(f.groups)} groups that look alike"
        if separable:
            n = separable[0].parted_by
            assert n is not None
            words += f"; {len(separable)} of them are separated by one more reading, such as {self._place(n.point)} for {' and '.join(separable[0].names[:2])}"
        line(column, words + ".", "caption")

    def _place(self, p: Point) -> str:
        what = {"volts": f"{p.a} to {p.b}", "amps": f"the current of {p.a}", "celsius": f"the warmth of {p.a}"}
        return what.get(p.quantity) or f"over the {PARTS[p.b]} of {p.a}"

    def _what(self, row: Row) -> str:
        p = row.expected.point
        if p.quantity == "amps":
            return f"current of {self._short(p.a)}"
        if p.quantity == "celsius":
            return f"warmth of {self._short(p.a)}"
        if p.quantity == "joint":
            return f"lug to stud of {p.a}"
        run = next((r for r in self.found.plan.runs if (r.a, r.b) == (p.a, p.b)), None) if self.found else None
        if run is not None:
            return f"drop over {run.id}"
        owner = split_ref(p.a)[0]
        across = self.found is not None and isinstance(self.found.plan.by_id.get(owner), Inline)
        return f"{'drop over' if across else 'voltage of'} {self._short(owner)}"

    def _short(self, id_: str) -> str:
        """A thing's name where it has one; a conductor by its id: its ends stand beside it."""
        thing = self.found.plan.by_id.get(id_) if self.found is not None else None
        return thing.title if thing is not None else id_

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
        if self.training is not None:
            self.training.close()

    # Readings

    def put(self, point: Point, value: float | None) -> None:
        """Keep a reading: in the plan, or while training in the training bench."""
        assert self.scenario is not None
        if self.training is not None:
            held = dict(self.trained.get(self.scenario.id, {}))
            if value is None:
                held.pop(point, None)
            else:
                held[point] = value
            self.trained[self.scenario.id] = held
            self.refresh()
            return
        change = partial(
            edits.take_reading, scenario=self.scenario.id, quantity=point.quantity, a=point.a, b=point.b, value=value
        )
        self.wanted.emit(Edit(f"Reading at {self._place(point)}", change))

    def _typed(self, row: Row, text: str) -> None:
        point = row.expected.point
        try:
            self.put(point, read(text, UNIT[point.quantity]) if text.strip() else None)
        except NotUnderstood as error:
            self.refused.emit(f"Reading at {self._place(point)}: {error}. It is as before.")

    def measure_at(self, point: Point) -> None:
        """Add a point to the table, and go to it."""
        if self.found is None or self.found.bench is None:
            return
        if point not in self.found.bench.points:
            self.more = (*self.more, point)
            self.refresh()
        if self.shown.currentData() not in ("all", "left"):
            self.shown.setCurrentIndex(list(SHOWN).index("all"))
        self._go_to(point)

    def _more_here(self) -> None:
        index = self.view.currentIndex()
        if self.found is None or not index.isValid():
            self.note.setText("Choose a row first: what more can be measured depends on the place.")
            return
        p = self.table.rows[index.row()].expected.point
        run = next((r for r in self.found.plan.runs if (r.a, r.b) == (p.a, p.b) or r.id == p.a), None)
        owner = run.id if run is not None else split_ref(p.a)[0]
        assert self.found.bench is not None
        if owner not in self.found.bench.wiring.branch:
            return
        new = [*(joints_of(run) if run is not None else ()), Point("amps", owner, "")]
        if owner in self.found.plan.run_by_id or owner not in {
            u.id for b in self.found.bench.wiring.banks for u in b.units
        }:
            new.append(Point("celsius", owner, ""))
        self.more = tuple(dict.fromkeys((*self.more, *new)))
        self.refresh()

    def _clear(self) -> None:
        if self.found is None or self.scenario is None:
            return
        if self.training is not None:
            self.trained.pop(self.scenario.id, None)
            self.refresh()
            return
        self.wanted.emit(Edit("Clear the readings", partial(edits.clear_readings, scenario=self.scenario.id)))

    def _log(self) -> None:
        from jaunty_copper.desktop.pages.log.logbook import today

        if self.picture is not None and not self.picture.plan.readings:
            self.note.setText("No reading was taken yet: there is nothing to put into the log.")
            return
        self.wanted.emit(Edit("Readings into the log", partial(edits.log_readings, on=today())))
        self.note.setText("Kept in the logbook under today's date; Trends shows what became of each joint.")

    # Meters

    def take(self) -> None:
        """Read the meter into the chosen row, or into the first that was not read."""
        row = self._row_to_read()
        if row is None or self.scenario is None:
            self.note.setText("Every point that is shown was read.")
            return
        point = row.expected.point
        field = self.clamp if point.quantity == "amps" else self.meter
        if not field.text().strip():
            self._told_trouble(
                f"Give the address of the {'clamp' if field is self.clamp else 'meter'} first, or press Practise… for simulated ones."
            )
            field.setFocus()
            return
        self._reading_all(False)
        self.take_button.setEnabled(False)
        self.note.setText(f"Reading {self._place(point)}…")
        self.reader.ask(_reading(field.text().strip(), (point,), self.scenario.id))

    def take_all(self) -> None:
        """Let simulated meters read every point shown that was not read; again to stop."""
        if self.training is None or self.scenario is None:
            return
        points = () if self.reading_all else tuple(r.expected.point for r in self.table.rows if r.read is None)
        self._reading_all(bool(points))
        addresses = {q: self.training.address(q) for q in ("volts", "joint", "amps", "celsius")}
        self.reader.ask(_reading(addresses, points, self.scenario.id))

    def _reading_all(self, on: bool) -> None:
        self.reading_all = on
        self.all_button.setText("Stop" if on else "Read all shown")

    def _row_to_read(self) -> Row | None:
        index = self.view.currentIndex()
        chosen: Row | None = (
            self.table.rows[index.row()] if index.isValid() and index.row() < len(self.table.rows) else None
        )
        return chosen or next((r for r in self.table.rows if r.read is None), None)

    def _read(self, got: tuple[str, Readings, str] | TrainingBench | str) -> None:
        """Something came back from the reader: a scenario's readings and what went wrong after them, or a training bench."""
        if not isinstance(got, tuple):
            self._begin(got)
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
        self.note.setText(TRAINING if self.training is not None else CAUTION)
        shown = [r.expected.point for r in self.table.rows]
        for point in values:
            after = shown.index(point) + 1 if point in shown else 0
            self.view.setCurrentIndex(self.table.index(min(after, len(shown) - 1), READ))

    def _told_trouble(self, words: str) -> None:
        self.take_button.setEnabled(True)
        self.note.setText(f"Not read: {words} Nothing that was read is lost; a value can be typed as well.")

    # Practising

    def _train(self) -> None:
        if self.training is not None:
            self.end_training()
        else:
            self.train(random.randrange(1_000_000))

    def train(self, seed: int) -> None:
        """Hide a fault in a copy of the system, and put simulated meters on it."""
        if self.picture is not None:
            self.train_button.setEnabled(False)
            self.note.setText("Hiding something…")
            self.reader.ask(_hiding(self.picture.plan, seed))

    def _begin(self, found: TrainingBench | str) -> None:
        self.train_button.setEnabled(True)
        if isinstance(found, str):
            self.note.setText(found)
            return
        if self.training is not None or self.picture is None or not same_copper(found.plan, self.picture.plan):
            found.close()
            return
        self.training = found
        self.trained, self._own = {}, (self.meter.text(), self.clamp.text())
        self.meter.setText(found.address("volts"))
        self.clamp.setText(found.address("amps"))
        self._show_training()
        self.refresh()

    def reveal(self) -> None:
        """Show what was hidden."""
        if self.training is not None and self.training.deviation is not None:
            self.note.setText(f"Hidden was: {self.training.deviation.words(self.training.plan)}.")
            self.picked.emit(self.training.deviation.owner)

    def end_training(self) -> None:
        """Back to the plan's own readings."""
        if self.training is None:
            return
        self.training.close()
        self.training = None
        self.meter.setText(self._own[0])
        self.clamp.setText(self._own[1])
        self._show_training()
        self.refresh()

    def _show_training(self) -> None:
        on = self.training is not None
        self.train_button.setText("End training" if on else "Train…")
        self.reveal_button.setVisible(on)
        self.all_button.setVisible(on)
        self.log_button.setVisible(not on)
        self.note.setObjectName("bad" if on else "caption")
        self.note.style().unpolish(self.note)
        self.note.style().polish(self.note)
        self.note.setText(TRAINING if on else CAUTION)

    # Files

    def save(self, path: Path | None = None) -> None:
        """Save the points to fill in."""
        f = self.found
        if f is None or f.bench is None:
            return
        if path is None:
            name, _ = QFileDialog.getSaveFileName(
                self, "Points to fill in", str(Path.home() / "readings.csv"), "CSV (*.csv)"
            )
            if not name:
                return
            path = Path(name)
        shown = {r.expected.point for r in self.table.rows}
        rows = tuple(k for k, p in enumerate(f.bench.points) if p in shown)
        try:
            write_atomically(path, write_readings(f.bench, rows, f.taken).encode("utf-8"))
        except OSError as error:
            self.note.setText(f"Not saved to {path}: {error.strerror}")
            return
        self.note.setText(f"Saved to {path}: fill in its last column and read it back")

    def load(self, path: Path | None = None) -> None:
        """Take readings from a file; says what is wrong with it."""
        f = self.found
        if f is None or f.bench is None:
            return
        if path is None:
            name, _ = QFileDialog.getOpenFileName(self, "Readings", str(Path.home()), "CSV (*.csv);;All files (*)")
            if not name:
                return
            path = Path(name)
        try:
            values = read_readings(read_text(path, MOST_TEXT), f.bench, path.name)
        except (ReadingsError, OSError, UnicodeDecodeError) as error:
            self.note.setText(f"Not read: {error}")
            return
        new = {p: float(v) for p, v in zip(f.bench.points, values, strict=True) if isfinite(v)}
        if self.training is not None:
            self.trained[f.scenario.id] = {**self.trained.get(f.scenario.id, {}), **new}
            self.refresh()
            return
        taken = [Reading(scenario=f.scenario.id, quantity=p.quantity, a=p.a, b=p.b, value=v) for p, v in new.items()]
        self.wanted.emit(Edit(f"{len(new)} readings from {path.name}", partial(edits.take_readings, readings=taken)))
        self.note.setText(CAUTION)


def _reading(addresses: str | dict[str, str], points: tuple[Point, ...], scenario: str) -> Work:
    """Read one meter, or each point's own; reports each reading as it comes, then what went wrong or nothing."""

    def work(task: Task) -> None:
        for p in points:
            if task.overtaken:
                return
            try:
                address = addresses if isinstance(addresses, str) else addresses[p.quantity]
                task.report((scenario, {p: take(address, p, scenario).value}, ""))
            except MeterError as error:
                task.report((scenario, {}, f"{error}."))
                return
        task.report((scenario, {}, ""))

    return work


def _hiding(plan: Plan, seed: int) -> Work:
    """A training bench, or in words why there is none."""

    def work(task: Task) -> None:
        try:
            made = TrainingBench(plan, hide(plan, seed), seed)
        except (NothingToHide, OSError) as error:
            task.report(f"{str(error).capitalize()}.")
            return
        if task.overtaken:
            made.close()
        else:
            task.report(made)

    return work
