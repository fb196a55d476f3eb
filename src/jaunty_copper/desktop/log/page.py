"""The Log page."""

from functools import partial
from math import isfinite
from pathlib import Path
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.commission.diagnose import Diagnosis, diagnose, fewest
from jaunty_copper.commission.model import Bench, Expected, NoOperatingPoint, Point, bench, everything_on
from jaunty_copper.commission.readings_file import ReadingsError, read_readings, write_readings
from jaunty_copper.desktop.picture import WORST, Picture
from jaunty_copper.desktop.table import Column, Rows, table_view
from jaunty_copper.desktop.theme import Palette
from jaunty_copper.desktop.words import Units
from jaunty_copper.desktop.worker import Task, Work, Worker
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.files import write_atomically
from jaunty_copper.plan.model import Plan, Reading, Scenario, split_ref

CAUTION = "Measuring under load means live posts: insulated probes, one hand, nothing loose. Local codes and licensed practice decide."


class Row(NamedTuple):
    """One point with what was read there."""

    expected: Expected
    read: float | None


class Measured(NamedTuple):
    """What can be said of a plan's readings in one scenario."""

    plan: Plan
    scenario: Scenario
    bench: Bench | None
    fewest: tuple[int, ...]
    blind: tuple[str, ...]
    diagnosis: Diagnosis | None
    trouble: str


class LogPage(QWidget):
    """Points, readings, and what explains them."""

    wanted = Signal(object)
    """An `Edit` to apply."""
    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.picture: Picture | None = None
        self.scenario: Scenario | None = None
        self.found: Measured | None = None
        self.worker = Worker("log")
        self.worker.done.connect(self._found)
        self.worker.failed.connect(self._failed)
        self.head = QLabel()
        self.head.setObjectName("head")
        self.few = QCheckBox("Only the fewest")
        self.few.setToolTip("As many readings as would reveal a bad joint of 5 mΩ anywhere")
        self.few.toggled.connect(self._rows)
        load, save = QPushButton("Readings from CSV…"), QPushButton("Save to fill in…")
        load.clicked.connect(lambda: self.load())
        save.clicked.connect(lambda: self.save())
        clear = QPushButton("Clear")
        clear.setToolTip("Take all readings of this scenario away")
        clear.clicked.connect(self._clear)
        top = QHBoxLayout()
        top.setContentsMargins(16, 6, 12, 0)
        top.addWidget(self.head, 1)
        for widget in (self.few, load, save, clear):
            top.addWidget(widget)
        self.note = QLabel(CAUTION)
        self.note.setObjectName("caption")
        self.note.setWordWrap(True)
        self.note.setContentsMargins(16, 0, 12, 0)
        self.table = Rows(
            (
                Column("Measure", self._what, 0),
                Column("From", lambda r: r.expected.point.a, 92),
                Column("To", lambda r: r.expected.point.b, 92),
                Column("Expect", lambda r: _volts(r.expected.value), 84, True),
                Column("±", lambda r: _volts(r.expected.tolerance), 74, True),
                Column("Read, V", lambda r: "" if r.read is None else f"{r.read:g}", 78, True),
                Column("Off by", _off, 120),
            ),
            editable=5,
        )
        self.table.edited.connect(self._typed)
        self.view = table_view(self.table, "Readings")
        self.says = QScrollArea()
        self.says.setWidgetResizable(True)
        self.suspects: list[QPushButton] = []
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.says)
        split.setSizes([430, 200])
        split.setStretchFactor(0, 1)
        split.setHandleWidth(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(top)
        column.addWidget(self.note)
        column.addWidget(split, 1)

    # What is shown

    def show_picture(self, picture: Picture, scenario: str | None) -> None:
        """Show another plan, or another scenario to measure in; of all, everything on."""
        self.picture = picture
        named = next((s for s in picture.plan.scenarios if s.id == scenario), None)
        self.scenario = named if scenario is not WORST and named is not None else everything_on(picture.plan)
        self._ask()

    def showEvent(self, _: QShowEvent) -> None:
        """Compute when the page is looked at, not before."""
        self._ask()

    def _ask(self) -> None:
        if self.picture is None or self.picture.study is None or self.scenario is None or not self.isVisible():
            return
        plan = self.picture.plan
        if self.found is not None and self.found.plan is plan and self.found.scenario == self.scenario:
            return
        known = self.found.bench if self.found is not None and _same(self.found, plan, self.scenario) else None
        self.head.setText("Working out what to expect…")
        self.worker.ask(_work(plan, self.scenario, known))

    def _found(self, found: Measured | str) -> None:
        if isinstance(found, str):
            self.head.setText(found)
            return
        if self.picture is None or found.plan is not self.picture.plan or found.scenario != self.scenario:
            return
        self.found = found
        self._rows()
        self._say()

    def _failed(self, trace: str) -> None:
        self.head.setText("Nothing can be expected here")
        self.note.setText(f"What to expect could not be computed: {trace.strip().splitlines()[-1]}")

    def _rows(self) -> None:
        f = self.found
        if f is None or f.bench is None:
            self.table.show_rows(())
            return
        taken = _taken(f.plan, f.scenario)
        expected = f.bench.expected()
        which = f.fewest if self.few.isChecked() else range(len(expected))
        self.table.show_rows([Row(expected[k], taken.get(expected[k].point)) for k in which])

    def _say(self) -> None:
        f = self.found
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(16, 6, 16, 10)
        column.setSpacing(4)
        self.suspects = []
        taken = sum(r.read is not None for r in self.table.rows)
        if f is None or f.bench is None or f.diagnosis is None:
            self.head.setText(f.trouble if f is not None else "")
        else:
            self.head.setText(f"“{f.scenario.title}”: {taken} of {len(self.table.rows)} readings taken")
            _line(column, self._verdict(f, f.diagnosis), "fact")
            if f.diagnosis.alarm:
                for s in f.diagnosis.plausible[:4]:
                    like = (
                        f", or {' or '.join(s.with_it)}, which these readings cannot part from it" if s.with_it else ""
                    )
                    button = QPushButton(
                        f"{self._title(s.owner)}{like}: {1e3 * s.more_ohm:.2g} ± {1e3 * s.sigma_ohm:.1g} mΩ more than planned, {s.heat_w:.3g} W there"
                    )
                    button.setStyleSheet("text-align: left")
                    button.clicked.connect(partial(self.picked.emit, s.owner))
                    column.addWidget(button)
                    self.suspects.append(button)
            if f.blind:
                _line(
                    column,
                    f"Too little flows in this scenario to see a bad joint in {', '.join(f.blind[:8])}{' …' if len(f.blind) > 8 else ''}: choose another one at the top.",
                    "caption",
                )
        column.addStretch(1)
        old = self.says.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()
        self.says.setWidget(body)

    def _verdict(self, f: Measured, d: Diagnosis) -> str:
        if not any(r.scenario == f.scenario.id for r in f.plan.readings):
            return f"Set up “{f.scenario.title}”, measure from stud to stud, and type what the meter reads. {len(f.fewest)} readings would reveal a bad joint anywhere that carries current."
        if not d.alarm:
            return "As planned, within what lengths, joints, loads, charge and meter leave open."
        return "Something is not as planned. What would explain it, the likeliest first:"

    def _title(self, id_: str) -> str:
        assert self.picture is not None
        plan = self.picture.plan
        if id_ in plan.run_by_id and self.picture.case is not None:
            return self.picture.case.run_title(plan.run_by_id[id_])
        thing = plan.by_id.get(id_)
        return f"{thing.title} ({id_})" if thing is not None else id_

    def _what(self, row: Row) -> str:
        p = row.expected.point
        run = next((r for r in self.found.plan.runs if (r.a, r.b) == (p.a, p.b)), None) if self.found else None
        return f"drop over {self._title(run.id)}" if run is not None else f"voltage of {self._title(split_ref(p.a)[0])}"

    def select(self, id_: str | None) -> None:
        """Go to the reading over something."""
        for k, row in enumerate(self.table.rows):
            p = row.expected.point
            run = self.found.plan.run_by_id.get(id_ or "") if self.found else None
            if (run is not None and (run.a, run.b) == (p.a, p.b)) or id_ == split_ref(p.a)[0] == split_ref(p.b)[0]:
                self.view.setCurrentIndex(self.table.index(k, 5))
                return

    def set_palette(self, _: Palette) -> None:
        """The style sheet has all the colours."""

    def set_units(self, _: Units) -> None:
        """Volts are volts."""

    def close_worker(self) -> None:
        """End the page's thread."""
        self.worker.close()

    # What is done

    def _typed(self, row: Row, text: str) -> None:
        assert self.found is not None
        cell = text.strip().replace(",", ".").removesuffix("V").strip()
        factor = 1.0
        if cell.endswith("m"):
            cell, factor = cell[:-1].strip(), 1e-3
        try:
            value = float(cell) * factor if cell else None
        except ValueError:
            return
        p = row.expected.point
        self.wanted.emit(
            Edit(
                f"Reading from {p.a} to {p.b}",
                partial(
                    edits.take_reading, scenario=self.found.scenario.id, quantity=p.quantity, a=p.a, b=p.b, value=value
                ),
            )
        )

    def _clear(self) -> None:
        if self.found is not None:
            kept = tuple(r for r in self.found.plan.readings if r.scenario != self.found.scenario.id)
            if kept != self.found.plan.readings:
                self.wanted.emit(Edit("Clear the readings", partial(edits.change_plan, readings=kept)))

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
        try:
            write_atomically(path, write_readings(f.bench, f.fewest if self.few.isChecked() else None).encode("utf-8"))
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
            values = read_readings(path.read_text("utf-8"), f.bench, path.name)
        except (ReadingsError, OSError, UnicodeDecodeError) as error:
            self.note.setText(f"Not read: {error}")
            return
        new = {
            tuple(p): Reading(scenario=f.scenario.id, quantity=p.quantity, a=p.a, b=p.b, value=float(v))
            for p, v in zip(f.bench.points, values, strict=True)
            if isfinite(v)
        }
        kept = [r for r in f.plan.readings if r.scenario != f.scenario.id or (r.quantity, r.a, r.b) not in new]
        self.wanted.emit(
            Edit(f"{len(new)} readings from {path.name}", partial(edits.change_plan, readings=(*kept, *new.values())))
        )
        self.note.setText(CAUTION)


def _taken(plan: Plan, scenario: Scenario) -> dict[Point, float]:
    """Readings taken in a scenario, by their point."""
    return {Point(r.quantity, r.a, r.b): r.value for r in plan.readings if r.scenario == scenario.id}


def _volts(value: float) -> str:
    return f"{value:.3f} V" if abs(value) >= 1.0 else f"{1e3 * value:.1f} mV"


def _off(row: Row) -> str:
    """How far off a reading is: by a mark that grows, and in figures."""
    if row.read is None:
        return ""
    off = row.read - row.expected.value
    times = abs(off) / max(row.expected.tolerance, 1e-12)
    mark = "✓" if times <= 1.0 else "▲" if times <= 2.0 else "▲▲" if times <= 5.0 else "▲▲▲"
    return f"{mark} {'+' if off >= 0 else '−'}{_volts(abs(off))}"


def _line(column: QVBoxLayout, text: str, name: str) -> None:
    label = QLabel(text)
    label.setObjectName(name)
    label.setWordWrap(True)
    column.addWidget(label)


KEPT_APART = frozenset({"readings", "done", "prices", "stock", "reels_m"})
"""Fields of a plan that what to expect does not depend on."""


def _same(found: Measured, plan: Plan, scenario: Scenario) -> bool:
    """Whether two plans differ in their readings and the like only, so that the same is to be expected."""
    return scenario == found.scenario and all(
        getattr(plan, name) == getattr(found.plan, name) for name in Plan.model_fields if name not in KEPT_APART
    )


def _work(plan: Plan, scenario: Scenario, known: Bench | None) -> Work:
    """What to expect, and what the readings that were taken say; reports `Measured`."""

    def work(task: Task) -> None:
        try:
            b = known or bench(plan, scenario)
        except NoOperatingPoint as error:
            task.report(Measured(plan, scenario, None, (), (), None, str(error)))
            return
        taken = _taken(plan, scenario)
        values = np.array([taken.get(p, np.nan) for p in b.points])
        chosen, blind = fewest(b)
        task.report(Measured(plan, scenario, b, tuple(chosen), tuple(blind), diagnose(b, values), ""))

    return work
