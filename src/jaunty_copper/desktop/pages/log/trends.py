"""Trends: a joint's resistance from day to day, before and after a change, capacity and charge."""

from collections.abc import Sequence
from datetime import date
from functools import partial
from html import escape
from math import isfinite
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QScrollArea, QSplitter, QVBoxLayout, QWidget

from jaunty_copper.commissioning.diagnose import Diagnosis
from jaunty_copper.commissioning.trends import (
    LEADING,
    Cost,
    SideBySide,
    TrendPoint,
    capacities,
    compare,
    costs,
    days_of,
    recovered,
    side_by_side,
    trend,
)
from jaunty_copper.desktop.pages.log.pane import Pane, wrapped_line
from jaunty_copper.desktop.pages.log.rows import what_of
from jaunty_copper.desktop.pages.log.said import reading_text
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.part import replace_body
from jaunty_copper.desktop.widgets.plots import colour, still_plot
from jaunty_copper.desktop.work.patience import Cancelled, waited
from jaunty_copper.desktop.work.worker import Task, Work, Worker
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.language import say, say_many
from jaunty_copper.network.study import Study
from jaunty_copper.physics.giving_up import go_on
from jaunty_copper.plan.files import PlanError, load
from jaunty_copper.plan.model import Plan, Reading

ANOTHER = "another plan"
MOST_SIDES = 12
"""Readings of both days that are shown side by side: those that differ most."""


class Found(NamedTuple):
    """What was asked, and what came of it."""

    plan: Plan
    owner: str
    before: str
    after: str
    points: tuple[TrendPoint, ...]
    difference: Diagnosis
    sides: tuple[SideBySide, ...]
    costs: tuple[Cost, ...]


class TrendsPane(Pane):
    """A plot of one place's resistance, and what two days differ by."""

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.found: Found | None = None
        self.chosen: str | None = None
        self.others: dict[str, tuple[str, Sequence[Reading]]] = {}
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
            box.activated.connect(self._picked_here if box is not self.before else self._before_chosen)
            row.addWidget(box, 1 if box is self.place else 0)
        self.plot = still_plot(say("Trend over the days"), 56)
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
            if box is self.before:
                self._offer_others()
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

    def _before_chosen(self) -> None:
        """Compare with another day, or with what was read of another plan: of the same system before a change, say."""
        if self.before.currentData() == ANOTHER:
            self.before.setCurrentIndex(0)
            name, _ = QFileDialog.getOpenFileName(
                self, say("Readings of another plan"), str(Path.home()), say("Plans (*.copper.json);;All files (*)")
            )
            if not name:
                return
            self.take_other(Path(name))
        self._ask()

    def take_other(self, path: Path) -> None:
        """Offer another plan's last readings for comparison, or say why not."""
        try:
            other = waited(self, say("Reading {path}…", path=path.name), partial(load, path))
        except Cancelled:
            return
        except PlanError as error:
            self.note.setText(say("Not read: {error}", error=error))
            return
        days = days_of(other)
        readings = days[-1].readings if days else other.readings
        if not readings:
            self.note.setText(say("There are no readings in {name}", name=path.name))
            return
        key = f"file {path}"
        self.others[key] = (f"{other.title or path.name}{f', {days[-1].on}' if days else ''}", readings)
        self._offer_others()
        self.before.setCurrentIndex(self.before.findData(key))

    def _offer_others(self) -> None:
        for key in (*self.others, ANOTHER):
            at = self.before.findData(key)
            if at >= 0:
                self.before.removeItem(at)
            self.before.addItem(self.others[key][0] if key in self.others else say("another plan…"), key)

    def _picked_here(self) -> None:
        self.chosen = self.place.currentData()
        self._ask()

    def _ask(self) -> None:
        if self.picture is None or self.picture.study is None or self.place.currentData() is None:
            return
        keys = tuple(box.currentData() or "" for box in (self.before, self.after))
        by_id = {e.id: e.readings for e in self.picture.plan.log} | {k: r for k, (_, r) in self.others.items()}
        self.worker.ask(_work(self.picture.study, self.place.currentData(), keys, [by_id.get(k, ()) for k in keys]))

    def _show(self, found: Found) -> None:
        if self.picture is None or found.plan is not self.picture.plan or found.owner != self.place.currentData():
            return
        self.found = found
        self._draw(found.owner, found.points)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(4, 4, 4, 8)
        days = {e.id: e.on for e in days_of(found.plan)} | {k: name for k, (name, _) in self.others.items()}
        if found.before in days and found.after in days and found.before != found.after:
            wrapped_line(
                column, say("{before} and {after}", before=days[found.before], after=days[found.after]), "head"
            )
            self._changes(column, found)
        else:
            wrapped_line(
                column,
                say(
                    "Put readings of two days into the log (Measure, “Into the log”) to compare them: what changed shows ten times finer than against the plan."
                ),
                "caption",
            )
        self._bank(column, found.plan)
        column.addStretch(1)
        replace_body(self.says, body)

    def _changes(self, column: QVBoxLayout, found: Found) -> None:
        """What changed between two days, what that costs, and the readings of both side by side."""
        difference = found.difference
        if not difference.alarm:
            wrapped_line(
                column,
                say("No resistance has changed, within what loads, sources, charge and meter leave open."),
                "fact",
            )
        cost = {c.owner: c for c in found.costs}
        for s in difference.suspects[:3] if difference.alarm else ():
            if s.score <= LEADING * difference.suspects[0].score:
                continue
            word = say("more") if s.more_ohm > 0.0 else say("less")
            like = say(", or {with_it}", with_it=" or ".join(s.with_it)) if s.with_it else ""
            text = say("{title_of}{like}: {more} {word} than before", title_of=self.title_of(s.name), like=like, more=s.more, word=word)  # fmt: skip
            wrapped_line(column, text, "fact")
            if s.owner in cost:
                wrapped_line(column, _cost_words(cost[s.owner]), "caption")
        if found.sides:
            table = Label(_sides_table(found))
            table.setTextFormat(Qt.TextFormat.RichText)
            table.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            column.addWidget(table)

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
            self._draw(self.found.owner, self.found.points)

    def close_worker(self) -> None:
        """End the thread."""
        self.worker.close()


def _cost_words(c: Cost) -> str:
    if c.watts >= 0.0:
        return say(
            "In “{scenario}”, at {amps:.0f} A, that takes {volts:.3g} V and {watts:.3g} W more",
            scenario=c.scenario, amps=c.amps, volts=c.volts, watts=c.watts,
        )  # fmt: skip
    return say(
        "In “{scenario}”, at {amps:.0f} A, that gives {volts:.3g} V and {watts:.3g} W back",
        scenario=c.scenario, amps=c.amps, volts=-c.volts, watts=-c.watts,
    )  # fmt: skip


def _sides_table(found: Found) -> str:
    """What was read on both days, what differs most first."""
    heads = ("", say("before"), say("after"), say("differs by"), say("expected spread"))
    rows = []
    for s in found.sides[:MOST_SIDES]:
        p = s.point
        cells = (
            what_of(found.plan, p), *(reading_text(p, x) for x in (s.before, s.after)),
            f"{'+' if s.after >= s.before else ''}{reading_text(p, s.after - s.before)}", f"± {reading_text(p, s.tolerance)}",
        )  # fmt: skip
        weight = "600" if s.times > 1.0 else "400"
        rows.append(
            f"<tr><td style='font-weight:{weight}'>{escape(cells[0])}&nbsp;&nbsp;</td>"
            + "".join(f"<td align=right style='font-weight:{weight}'>&nbsp;&nbsp;{escape(c)}</td>" for c in cells[1:])
            + "</tr>"
        )
    head = "".join(f"<td align=right>&nbsp;&nbsp;{escape(h)}</td>" for h in heads)
    return f"<table cellspacing=0 cellpadding=2><tr>{head}</tr>{''.join(rows)}</table>"


def _work(study: Study, owner: str, keys: tuple[str, ...], days: list[Sequence[Reading]]) -> Work:
    def work(task: Task) -> None:
        points = trend(study.plan, owner)
        go_on()
        b, difference = compare(study.plan, *days)
        sides = side_by_side(b, *days) if b is not None else ()
        task.report(Found(study.plan, owner, keys[0], keys[1], points, difference, sides, costs(study, difference)))

    return work
