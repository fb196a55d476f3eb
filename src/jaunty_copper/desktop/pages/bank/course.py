"""Hours ahead: curves of current and charge, and a slider through them."""

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from jaunty_copper.battery.discharge import Hours
from jaunty_copper.desktop.inspector.editors import NumberEditor
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.plots import colour, still_plot
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.language import say

TICKS = 1000
MOST_HOURS = 240.0


class CourseView(QWidget):
    """What each unit gives and holds over some hours of a scenario."""

    hour_chosen = Signal(float)
    """Hour on the slider; 0 for the scenario as it begins."""
    hours_wanted = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.hours: Hours | None = None
        self.palette_: Palette = LIGHT
        self.selected: str | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 2, 12, 8)
        column.setSpacing(4)
        top = QHBoxLayout()
        top.setSpacing(8)
        self.words = Label(say("Following the bank…"))
        self.words.setObjectName("caption")
        top.addWidget(self.words, 1)
        label = Label(say("Follow for"))
        top.addWidget(label)
        self.span = NumberEditor("number", 1.0)
        self.span.setFixedWidth(64)
        self.span.setAccessibleName(say("Hours to follow"))
        self.span.setToolTip(
            say("How many hours of this scenario to follow, up to {most_hours:g}", most_hours=MOST_HOURS)
        )
        self.span.committed.connect(self._span)
        label.setBuddy(self.span)
        top.addWidget(self.span)
        top.addWidget(Label(say("hours")))
        self.wanted_h = 12.0
        self.span.show_value(self.wanted_h)
        column.addLayout(top)
        plots = QHBoxLayout()
        plots.setSpacing(10)
        self.plots = [
            still_plot(say("Current of each unit over the hours"), 38),
            still_plot(say("Charge of each unit over the hours"), 38),
        ]
        self.marks = [pg.InfiniteLine(angle=90), pg.InfiniteLine(angle=90)]
        for plot, mark in zip(self.plots, self.marks, strict=True):
            plot.addItem(mark)
            plots.addWidget(plot)
        column.addLayout(plots, 1)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, TICKS)
        self.slider.setAccessibleName(say("Hour of the course"))
        self.slider.setToolTip(say("Go through the hours: the units above show what they carry then"))
        self.slider.valueChanged.connect(self._slid)
        column.addWidget(self.slider)
        self.set_palette(self.palette_)

    @property
    def hour(self) -> float:
        """Where the slider stands."""
        if self.hours is None or not len(self.hours.course.hours):
            return 0.0
        return float(self.hours.course.hours[-1]) * self.slider.value() / TICKS

    def _span(self, hours: float) -> None:
        self.wanted_h = min(max(hours, 0.1), MOST_HOURS)
        self.span.show_value(self.wanted_h)
        self.hours_wanted.emit(self.wanted_h)

    def show_waiting(self) -> None:
        """Nothing is known yet."""
        self.hours = None
        self.words.setText(say("Following the bank…"))
        self._draw()

    def show_hours(self, hours: Hours, units: tuple[str, ...]) -> None:
        """Show a course; only the bank's own units."""
        self.hours, self._units = hours, units
        refusing = [hours.wiring.plan.by_id[u].title for u in hours.refuses if u in units]
        out = say("; too cold or too warm to be charged: {names}", names=", ".join(refusing)) if refusing else ""
        self.words.setText(self._told(hours) + out)
        self._draw()
        self._slid()

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.palette_ = palette
        for plot, mark, title in zip(
            self.plots, self.marks, (say("Current out of each unit, A"), say("Charge, %")), strict=True
        ):
            colour(plot, palette, title)
            mark.setPen(pg.mkPen(palette.ink, width=1.5))
        self._draw()

    def select(self, unit: str | None) -> None:
        """Let one unit's curves stand out."""
        self.selected = unit
        self._draw()

    def _told(self, h: Hours) -> str:
        c = h.course
        if not len(c.hours):
            return say("There is no operating point to begin with")
        last = float(c.hours[-1])
        stopped = c.stopped
        if stopped is None:
            return say("After {last:.1f} h no unit is empty or full", last=last)
        if stopped.kind == "collapse":
            return say("After {last:.1f} h the bank cannot deliver what is asked", last=last)
        if stopped.kind == "all_open":
            first = next(e for e in c.events if e.kind == "opened")
            return say(
                "After {last:.1f} h every unit has opened; the first was {unit}, after {hour:.1f} h, and the others took its share",
                last=last,
                unit=h.wiring.plan.by_id[h.units[first.index]].title,
                hour=float(first.hour),
            )
        unit = h.wiring.plan.by_id[h.units[stopped.index]].title
        full = stopped.kind == "full"
        if not h.others:
            if full:
                return say("{unit} is full after {last:.1f} h", unit=unit, last=last)
            return say("{unit} is empty after {last:.1f} h", unit=unit, last=last)
        if full:
            return say(
                "{unit} is full after {last:.1f} h; the others could still take {ah:.1f} Ah",
                unit=unit,
                last=last,
                ah=h.left_ah,
            )
        return say(
            "{unit} is empty after {last:.1f} h; {ah:.1f} Ah are then left unused in the others",
            unit=unit,
            last=last,
            ah=h.left_ah,
        )

    def _draw(self) -> None:
        c = self.palette_
        for plot, mark in zip(self.plots, self.marks, strict=True):
            plot.clear()
            plot.addItem(mark)
        h = self.hours
        if h is None or not len(h.course.hours):
            return
        thin = max(1, len(h.course.hours) // 600)
        hours = h.course.hours[::thin]
        mine = [k for k, u in enumerate(h.units) if u in self._units]
        tones = np.linspace(0.0, 1.0, max(len(mine), 2))
        for n, k in enumerate(mine):
            own = h.units[k] == self.selected
            pen = pg.mkPen(c.ink if own else c.copper(float(tones[n])), width=3 if own else 1.6)
            for plot, values in zip(self.plots, (h.course.current_a, h.course.soc_percent), strict=True):
                plot.plot(hours, values[::thin, k], pen=pen)
        for plot in self.plots:
            plot.setXRange(0.0, float(h.course.hours[-1]) or 1.0, padding=0.02)

    def _slid(self) -> None:
        for mark in self.marks:
            mark.setValue(self.hour)
        self.hour_chosen.emit(self.hour)
