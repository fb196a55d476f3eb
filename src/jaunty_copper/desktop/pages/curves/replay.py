"""A fault in time: current, melting, and the temperature of the conductors."""

from math import log10

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from jaunty_copper.codes.rules.words import duration
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.plots import TIMES, LogAxis, colour, label, still_plot
from jaunty_copper.documents import words
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.language import say
from jaunty_copper.physics.copper import Floats
from jaunty_copper.protection.replay import Replay

FIRST_S = 1e-5
MOST_LINES = 4
CASES = (("peak", say("maximum fault level")), ("least", say("minimum fault level")))
EDGES = ((False, say("minimum clearing")), (True, say("maximum clearing")))


class ReplayView(QWidget):
    """What follows a short circuit at one place."""

    asked = Signal()
    """Something else is to be followed."""

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.found: Replay | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 6)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(Label(say("Fault at")))
        self.place = _box(say("Place of the fault"))
        self.case = _box(say("State of the bank"))
        self.edge = _box(say("How the devices open"))
        for value, text in CASES:
            self.case.addItem(text, value)
        for late, text in EDGES:
            self.edge.addItem(text, late)
        self.place.setMinimumWidth(200)
        for box in (self.place, self.case, self.edge):
            # In a narrow window they share the room; nowhere are they wider than their words.
            own = box.view().sizeHintForColumn(0)
            box.setMaximumWidth(max(own + 64, 300 if box is self.place else 0))
            if box is not self.place:
                box.setMinimumWidth(own + 36)
            box.activated.connect(lambda _: self.asked.emit())
            row.addWidget(box, 1)
        row.addStretch(1)
        column.addLayout(row)
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setObjectName("caption")
        column.addWidget(self.words)
        plots = QHBoxLayout()
        plots.setSpacing(8)
        self.plots = [
            still_plot(name, 44, bottom=LogAxis("bottom", TIMES))
            for name in (
                say("Current of the fault over time"),
                say("Melting of the devices over time"),
                say("Warmth of the copper over time"),
            )
        ]
        self.marks = [pg.InfiniteLine(angle=90) for _ in self.plots]
        for plot in self.plots:
            plot.scene().sigMouseMoved.connect(self._hover)
            plots.addWidget(plot)
        column.addLayout(plots, 1)
        self.set_palette(self.palette_)

    def show_places(self, places: list[tuple[str, object]]) -> None:
        """Offer places to put a fault at; keeps the one chosen where it is still there."""
        kept = self.place.currentData()
        self.place.clear()
        for text, data in places:
            self.place.addItem(text, data)
        at = next((k for k, (_, data) in enumerate(places) if data == kept), 0)
        self.place.setCurrentIndex(at if places else -1)

    def choose(self, data: object) -> bool:
        """Go to a place; whether it is offered."""
        at = next((k for k in range(self.place.count()) if self.place.itemData(k) == data), -1)
        if at >= 0:
            self.place.setCurrentIndex(at)
            self.asked.emit()
        return at >= 0

    def show_waiting(self, text: str = say("Following the fault…")) -> None:
        """Nothing is known yet."""
        self.found = None
        self.words.setText(text)
        self._draw()

    def show_replay(self, found: Replay) -> None:
        """Show what happened."""
        self.found = found
        self.words.setText(self.summary(found))
        self._draw()

    def summary(self, r: Replay) -> str:
        """The course of events in a sentence."""
        parts = [say("{most_a} at most", most_a=words.amps(r.most_a))]
        parts += [say("{d} opens after {t} at {i}", d=d, t=duration(t), i=words.amps(i)) for d, t, i in r.opened]
        burnt = [id_ for id_, k in r.branch.items() if k in r.course.burnt]
        if burnt:
            parts.append(say("{burnt} burns through, nothing has opened", burnt=burnt[0]))
        elif r.ended_s is not None:
            parts.append(say("over after {ended_s}", ended_s=duration(r.ended_s)))
        else:
            left = abs(float(r.course.current_a[-1, r.fault]))
            parts.append(say("{left} flow on, and nothing more opens", left=words.amps(left)))
        hot = r.hottest()
        if hot:
            id_, most, limit = hot[0]
            parts.append(say("{id} reaches {most:.0f} °C of {limit:.0f}", id=id_, most=most, limit=limit))
        return "  ·  ".join(parts)

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.palette_ = palette
        titles = (say("Current, A"), say("Towards opening, %"), say("Conductors, °C"))
        for plot, mark, title in zip(self.plots, self.marks, titles, strict=True):
            colour(plot, palette, title)
            plot.getAxis("bottom").setGrid(22)
            mark.setPen(pg.mkPen(palette.soft, width=1))
        self._draw()

    def _draw(self) -> None:
        for plot, mark in zip(self.plots, self.marks, strict=True):
            plot.clear()
            mark.hide()
            plot.addItem(mark, ignoreBounds=True)
        r = self.found
        if r is None:
            return
        c, course = self.palette_, r.course
        x = np.log10(np.maximum(course.times_s, FIRST_S))
        end = max(float(x[-1]), log10(FIRST_S) + 1.0)
        for plot in self.plots:
            plot.setXRange(log10(FIRST_S), end + 0.15, padding=0.0)
        self._line(0, x, np.abs(course.current_a[:, r.fault]), QColor(c.ink), "fault", 0)
        carrying = [(float(np.abs(course.current_a[:, r.branch[d]]).max()), k, d) for k, d in enumerate(r.devices)]
        shown = [row for row in sorted(carrying, reverse=True) if row[0] > 0.05 * r.most_a][:MOST_LINES]
        for n, (_, k, d) in enumerate(shown):
            tone = QColor(c.copper(1.0 - n / max(len(shown), 1)))
            self._line(0, x, np.abs(course.current_a[:, r.branch[d]]), tone, d, n + 1)
            self._line(1, x, 100.0 * np.minimum(course.melted[:, k], 1.0), tone, d, n)
        self.plots[1].setYRange(0.0, 108.0, padding=0.0)
        hot = r.hottest()[:3]
        if not hot:
            self.plots[2].setYRange(0.0, 1.0)
            middle = 0.5 * (log10(FIRST_S) + end)
            label(self.plots[2], c, say("no conductor warms\nby a degree"), middle, 0.5, c.soft, (0.5, 0.5))
        else:
            top = max(hot[0][2], *(most for _, most, _ in hot))
            self.plots[2].setYRange(float(course.conductor_c.min()), 1.12 * top, padding=0.02)
        for n, (id_, _, limit) in enumerate(hot):
            self._line(2, x, course.conductor_c[:, r.branch[id_]], QColor(c.copper(1.0 - n / 3.0)), id_, n)
            if n == 0:
                pen = pg.mkPen(c.over, width=1.6, style=Qt.PenStyle.DashLine)
                self.plots[2].addItem(pg.InfiniteLine(limit, angle=0, pen=pen))
                label(
                    self.plots[2],
                    c,
                    say("{limit:.0f} °C for seconds", limit=limit),
                    log10(FIRST_S),
                    limit,
                    c.over,
                    (0.0, 1.0),
                )

    def _line(self, at: int, x: Floats, y: Floats, tone: QColor, name: str, turn: int) -> None:
        """Draw a curve and write its name where it has risen, each name lower than the one before."""
        self.plots[at].plot(x, y, pen=pg.mkPen(tone, width=2.2))
        low, high = float(y.min()), float(y.max())
        # What is there from the beginning may fall before it rises again: look from its lowest point on.
        begin = int(np.argmin(y[: int(np.argmax(y)) + 1]))
        k = begin + int(np.argmax(y[begin:] >= low + (0.92 - 0.24 * turn) * (high - low)))
        label(
            self.plots[at],
            self.palette_,
            name,
            float(x[k]),
            float(y[k]),
            self.palette_.ink,
            (1.1 if x[k] > x[0] + 0.6 else -0.1, 0.4),
            True,
        )

    def _hover(self, where: QPointF) -> None:
        r = self.found
        over = next((p for p in self.plots if p.scene() is self.sender()), None)
        if r is None or over is None:
            return
        box = over.getViewBox()
        inside = box.sceneBoundingRect().contains(where)
        for mark in self.marks:
            mark.setVisible(inside)
        if not inside:
            self.words.setText(self.summary(r))
            return
        at = float(box.mapSceneToView(where).x())
        for mark in self.marks:
            mark.setValue(at)
        self.words.setText(self.read(r, 10.0**at))

    def read(self, r: Replay, seconds: float) -> str:
        """What is so at a time."""
        c = r.course
        k = int(np.searchsorted(c.times_s, seconds, side="right") - 1)
        k = min(max(k, 0), len(c.times_s) - 1)
        parts = [
            say(
                "After {seconds}: {current_a}",
                seconds=duration(seconds),
                current_a=words.amps(abs(float(c.current_a[k, r.fault]))),
            )
        ]
        order = np.argsort(-c.melted[k])[:2]
        parts += [
            say("{n} {min:.0f} % towards opening", n=r.devices[n], min=100.0 * min(float(c.melted[k, n]), 1.0))
            for n in order
            if c.melted[k, n] > 1e-3
        ]
        hot = r.hottest()
        if hot:
            parts.append(f"{hot[0][0]} {float(c.conductor_c[k, r.branch[hot[0][0]]]):.0f} °C")
        return "  ·  ".join(parts)


def _box(name: str) -> QComboBox:
    made = QComboBox()
    made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    made.setMinimumContentsLength(9)
    made.setAccessibleName(name)
    return made
