"""Days ahead: what the bank holds hour by hour, what a battery monitor would show, what stops when."""

from dataclasses import dataclass
from functools import partial

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from jaunty_copper.battery.days import DaysAhead, ahead
from jaunty_copper.battery.days_described import described, monitored
from jaunty_copper.desktop.pages.needs.hours_file import take_hours
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.plots import colour, label, still_plot
from jaunty_copper.desktop.work.worker import Task, Work, Worker
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.clock import SunNotRead, sun_read, sun_text
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Plan, Scenario

SHOWN_POINTS = 1500


@dataclass(frozen=True)
class Asked:
    """A plan, from the charge of a scenario on."""

    plan: Plan
    scenario: Scenario


def ahead_of(asked: Asked) -> Work:
    """Follow the days; reports an (`Asked`, `DaysAhead`)."""
    return partial(_ahead, asked)


def _ahead(asked: Asked, task: Task) -> None:
    task.report((asked, ahead(asked.plan, asked.scenario)))


class DaysView(QWidget):
    """A bank's charge over the days to come."""

    wanted = Signal(object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.found: DaysAhead | None = None
        self.bank: Bank | None = None
        self._asked: Asked | None = None
        self.plan = Plan()
        self._scenario: Scenario | None = None
        self.worker = Worker("days")
        self.worker.done.connect(self._done)
        self.worker.failed.connect(self._failed)
        self.words = Label()
        self.words.setObjectName("caption")
        self.words.setWordWrap(True)
        self.sun = QLineEdit()
        self.sun.setAccessibleName(say("Sun on the days to come"))
        self.sun.setToolTip(
            say("One figure a day: how much of its yield the sun gives, such as 100 30 30 100; up to 30 days")
        )
        self.sun.setFixedWidth(104)
        self.sun.editingFinished.connect(self._sunny)
        sunny = Label(say("Sun, %"))
        sunny.setBuddy(self.sun)
        self.plot = still_plot(say("Charge of the bank over the days"), 38)
        self.plot.setYRange(0.0, 104.0, padding=0.0)
        self.sky = QWidget()
        row = QHBoxLayout(self.sky)
        row.setContentsMargins(0, 0, 0, 0)
        hours = QPushButton(say("Hours from CSV…"))
        hours.setToolTip(
            say("A time of day in the first column, then equipment by id or name, in W, A or % of what it is rated at")
        )
        hours.clicked.connect(partial(take_hours, self))
        row.addWidget(hours)
        row.addWidget(sunny)
        row.addWidget(self.sun)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 2, 12, 6)
        column.setSpacing(2)
        column.addWidget(self.words)
        column.addWidget(self.plot, 1)
        self.set_palette(self.palette_)

    def show_plan(self, plan: Plan, scenario: Scenario, bank: Bank | None) -> None:
        """Show another plan, from the charge of a scenario on; computed when it is looked at."""
        self.plan, self._scenario, self.bank = plan, scenario, bank
        if not self.sun.hasFocus():
            self.sun.setText(sun_text(plan.sun))
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Follow the days, unless they are known."""
        if self._scenario is None:
            return
        if self.bank is None:
            self.found, self._asked = None, None
            self.words.setText(say("There is no bank yet"))
            self._draw()
            return
        asked = Asked(self.plan, self._scenario)
        if self._asked is not None and asked.plan is self._asked.plan and asked.scenario == self._asked.scenario:
            self._show()
            return
        self._asked = asked
        self.words.setText(say("Following the days…"))
        self.worker.ask(ahead_of(asked))

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.palette_ = palette
        colour(self.plot, palette, say("Charge of the bank, %"))
        self._draw()

    def _failed(self, trace: str) -> None:
        self._asked = None
        self.words.setText(say("Could not be computed: {splitlines}", splitlines=trace.strip().splitlines()[-1]))

    def _done(self, found: tuple[Asked, DaysAhead]) -> None:
        if found[0] is self._asked:
            self.found = found[1]
            self._show()

    def _show(self) -> None:
        if self.found is not None and self.bank is not None:
            self.words.setText(described(self.found, self.bank))
        self._draw()

    def _sunny(self) -> None:
        if self.sun.text() == sun_text(self.plan.sun):
            return
        try:
            sun = sun_read(self.sun.text())
        except SunNotRead as error:
            self.sun.setText(sun_text(self.plan.sun))
            self.refused.emit(say("Sun: {error}. It is as before.", error=error))
            return
        self.wanted.emit(Edit(say("Sun on the days to come"), partial(edits.change_plan, sun=sun)))

    def _draw(self) -> None:
        c, found, bank = self.palette_, self.found, self.bank
        self.plot.clear()
        if found is None or bank is None or not found.course.hours.size:
            return
        hours = found.course.hours
        end = float(hours[-1])
        for id_, begin, until in found.dark:
            if id_ == bank.id:
                ground = QColor(c.stop)
                ground.setAlpha(38)
                self.plot.addItem(
                    pg.LinearRegionItem((begin, until), movable=False, brush=ground, pen=pg.mkPen(None)),
                    ignoreBounds=True,
                )
        for day in range(1, len(found.sun)):
            self.plot.addItem(pg.InfiniteLine(24.0 * day, pen=pg.mkPen(c.line, width=1)))
        thin = max(1, hours.size // SHOWN_POINTS)
        charge = np.clip(found.charge(bank), 0.0, 100.0)
        self.plot.plot(hours[::thin], charge[::thin], pen=pg.mkPen(c.copper(0.4), width=2.4))
        shunt = monitored(found, bank)
        if shunt is not None:
            shown = found.monitor(shunt, bank)
            self.plot.plot(hours[::thin], shown[::thin], pen=pg.mkPen(c.ink, width=1.4, style=Qt.PenStyle.DashLine))
            label(self.plot, c, say("its monitor shows"), 0.99 * end, float(shown[-1]), c.ink, (1.0, 1.0))
        ticks = [
            (12.0 + 24.0 * k, say("day {day}", day=k + 1)) for k in range(0, len(found.sun), 1 + len(found.sun) // 8)
        ]
        self.plot.getAxis("bottom").setTicks([ticks])
        self.plot.setXRange(0.0, end, padding=0.01)
