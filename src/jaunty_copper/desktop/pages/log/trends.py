"""Trends: a joint's resistance from day to day, before and after a change, capacity and charge."""

from datetime import date
from math import isfinite

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QScrollArea, QSplitter, QVBoxLayout, QWidget

from jaunty_copper.commissioning.diagnose import Diagnosis
from jaunty_copper.commissioning.trends import TrendPoint, capacities, compare, days_of, recovered, trend
from jaunty_copper.desktop.pages.log.pane import Pane, wrapped_line
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.part import replace_body
from jaunty_copper.desktop.widgets.plots import colour, still_plot
from jaunty_copper.desktop.widgets.theme import LIGHT, Palette
from jaunty_copper.desktop.work.worker import Task, Work, Worker
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.model import Entry, Plan

Found = tuple[Plan, str, str, str, tuple[TrendPoint, ...], Diagnosis]


class TrendsPane(Pane):
    """A plot of one place's resistance, and what two days differ by."""

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.found: Found | None = None
        self.chosen: str | None = None
        self.worker = Worker("trends")
        self.worker.done.connect(self._show)
        self.worker.failed.connect(self._failed)
        self.place, self.before, self.after = QComboBox(), QComboBox(), QComboBox()
        row = QHBoxLayout()
        for label, box, name in (
            (say("Resistance of"), self.place, say("Conductor, device or unit")), (say("Compare"), self.before, say("Earlier day")),
            (say("with"), self.after, say("Later day")),
        ):  # fmt: skip
            row.addWidget(Label(label))
            box.setAccessibleName(name)
            box.activated.connect(self._picked_here)
            row.addWidget(box, 1 if box is self.place else 0)
        self.plot = still_plot(56)
        self.note = Label()
        self.note.setObjectName("caption")
        self.note.setWordWrap(True)
        self.says = QScrollArea()
        self.says.setWidgetResizable(True)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.plot)
        split.addWidget(self.says)
        split.setSizes([300, 240])
        name_divider(split, say("Divider under the trend"))
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 8)
        column.setSpacing(5)
        column.addLayout(row)
        column.addWidget(self.note)
        column.addWidget(split, 1)

    def _failed(self, trace: str) -> None:
        self.note.setText(say("Could not be computed: {splitlines}", splitlines=trace.strip().splitlines()[-1]))

    def refresh(self) -> None:
        """Offer the days that were measured, and follow the chosen place."""
        if self.picture is None:
            return
        plan = self.picture.plan
        days = days_of(plan)
        self.show_headline(
            say_many("{count} day of readings", "{count} days of readings", len(days))
            if days
            else say("No readings in the log yet")
        )
        held = self.chosen or self.place.currentData()
        self.place.clear()
        for id_ in (*plan.run_by_id, *plan.by_id):
            self.place.addItem(self.title_of(id_), id_)
        self.place.setCurrentIndex(max(0, self.place.findData(held)))
        for box, k in ((self.before, 0), (self.after, len(days) - 1)):
            chosen = box.currentData()
            box.clear()
            for e in days:
                box.addItem(e.on, e.id)
            at = box.findData(chosen)
            box.setCurrentIndex(at if at >= 0 else k)
        self._ask()

    def select(self, id_: str | None) -> None:
        """Follow something else."""
        self.chosen = id_
        k = self.place.findData(id_)
        if k >= 0 and k != self.place.currentIndex():
            self.place.setCurrentIndex(k)
            if self.isVisible():
                self._ask()

    def _picked_here(self) -> None:
        self.chosen = self.place.currentData()
        self._ask()

    def _ask(self) -> None:
        if self.picture is None or self.place.currentData() is None:
            return
        self.worker.ask(
            _work(
                self.picture.plan,
                self.place.currentData(),
                self.before.currentData() or "",
                self.after.currentData() or "",
            )
        )

    def _show(self, found: Found) -> None:
        plan, owner, before, after, points, difference = found
        if self.picture is None or plan is not self.picture.plan or owner != self.place.currentData():
            return
        self.found = found
        self._draw(owner, points)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(4, 4, 4, 8)
        days = {e.id: e.on for e in days_of(plan)}
        if before in days and after in days and before != after:
            wrapped_line(column, say("{before} and {after}", before=days[before], after=days[after]), "head")
            if not difference.alarm:
                wrapped_line(
                    column,
                    say("No resistance has changed, within what loads, sources, charge and meter leave open."),
                    "fact",
                )
            for s in difference.suspects[:3] if difference.alarm else ():
                if s.score > 0.3 * difference.suspects[0].score:
                    word = say("more") if s.more_ohm > 0.0 else say("less")
                    like = say(", or {with_it}", with_it=" or ".join(s.with_it)) if s.with_it else ""
                    wrapped_line(
                        column,
                        say(
                            "{title_of}{like}: {more} {word} than before",
                            title_of=self.title_of(s.name),
                            like=like,
                            more=s.more,
                            word=word,
                        ),
                        "fact",
                    )
        else:
            wrapped_line(
                column,
                say(
                    "Put readings of two days into the log (Measure, “Into the log”) to compare them: what changed shows ten times finer than against the plan."
                ),
                "caption",
            )
        self._bank(column, plan)
        column.addStretch(1)
        replace_body(self.says, body)

    def _bank(self, column: QVBoxLayout, plan: Plan) -> None:
        held = capacities(plan)
        if held:
            wrapped_line(column, say("Capacity measured"), "head")
            for on, about, ah in held:
                wrapped_line(column, f"{on}: {ah:g} Ah{f', {self.title_of(about)}' if about else ''}", "fact")
        runs = recovered(plan)
        if runs:
            wrapped_line(column, say("Charge recovered"), "head")
            for r in runs:
                pace = (
                    say(" in {hours:g} h, {per_hour:.1f} Ah an hour", hours=r.hours, per_hour=r.per_hour)
                    if isfinite(r.hours)
                    else ""
                )
                wrapped_line(column, f"{r.on}: {r.ah:g} Ah{pace}", "fact")

    def _draw(self, owner: str, points: tuple[TrendPoint, ...]) -> None:
        c = self.palette_
        self.plot.clear()
        colour(self.plot, c, say("Resistance of {title_of}, mΩ", title_of=self.title_of(owner)))
        if not points:
            self.note.setText(say("No day's readings say anything of it yet."))
            return
        x = np.array([date.fromisoformat(p.on).toordinal() for p in points], dtype=float)
        ohm, sigma = (1e3 * np.array([getattr(p, name) for p in points]) for name in ("ohm", "sigma_ohm"))
        planned = 1e3 * points[-1].planned_ohm
        self.plot.addItem(
            pg.InfiniteLine(
                planned,
                angle=0,
                pen=pg.mkPen(c.soft, width=1.6, style=Qt.PenStyle.DashLine),
                label="planned",
                labelOpts={"position": 0.06, "color": c.soft, "anchors": [(0.0, 1.0), (0.0, 1.0)]},
            )
        )
        self.plot.addItem(pg.ErrorBarItem(x=x, y=ohm, height=4.0 * sigma, beam=0.0, pen=pg.mkPen(c.accent, width=2)))
        self.plot.plot(
            x,
            ohm,
            pen=pg.mkPen(c.accent, width=2),
            symbol="o",
            symbolSize=9,
            symbolBrush=QColor(c.accent),
            symbolPen=None,
        )
        span = max(float(np.ptp(x)), 1.0)
        self.plot.setXRange(x.min() - 0.08 * span, x.max() + 0.08 * span)
        top = max(float((ohm + 2.0 * sigma).max()), planned)
        self.plot.setYRange(0.0, 1.12 * top)
        step = max(1, len(x) // 6)
        self.plot.getAxis("bottom").setTicks([[(v, p.on) for v, p in list(zip(x, points, strict=True))[::step]]])
        self.note.setText(
            say(
                "{on}: {ohm:.3g} ± {sigma:.2g} mΩ (two standard deviations), planned {planned:.3g} mΩ",
                on=points[-1].on,
                ohm=ohm[-1],
                sigma=2.0 * sigma[-1],
                planned=planned,
            )
        )

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.palette_ = palette
        colour(self.plot, palette)
        if self.found is not None:
            self._draw(self.found[1], self.found[4])

    def close_worker(self) -> None:
        """End the thread."""
        self.worker.close()


def _work(plan: Plan, owner: str, before: str, after: str) -> Work:
    def work(task: Task) -> None:
        by_id: dict[str, Entry] = {e.id: e for e in plan.log}
        one, other = (by_id[x].readings if x in by_id else () for x in (before, after))
        points = trend(plan, owner)
        if not task.overtaken:
            task.report((plan, owner, before, after, points, compare(plan, one, other)[1]))

    return work
