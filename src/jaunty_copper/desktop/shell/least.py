"""The dialog in which sizes are chosen at the least cost, with its proof, and the curve of price against loss."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

import pyqtgraph as pg
from PySide6.QtCore import QModelIndex, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.choosing.least_cost.answer import LeastCost, SizeChange, Worth, watt_worth
from jaunty_copper.choosing.least_cost.said import in_words
from jaunty_copper.choosing.least_cost.search import frontier, least_cost
from jaunty_copper.desktop.shell.working import WorkDialog
from jaunty_copper.desktop.widgets.asking import answers, ask
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.plots import colour, still_plot
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, positive, read
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.documents.palette import Palette
from jaunty_copper.language import say
from jaunty_copper.plan.model import Plan

CHANGES = (
    ViewColumn(say("Place"), lambda r: r[0], 0),
    ViewColumn(say("Now"), lambda r: r[1].before, 175),
    ViewColumn(say("Chosen"), lambda r: r[1].after, 200),
    ViewColumn(say("Price"), lambda r: f"{r[1].price:+.2f}".replace("-", "−"), 76, True),
)
MOST_SAID = 3
"""So much of what is left is said in the dialog; the findings say all of it afterwards."""
POINTS = (
    ViewColumn(say("Price"), lambda p: f"{p.price:.0f}", 0, True),
    ViewColumn(say("Lost"), lambda p: f"{p.lost_w:.1f} W", 76, True),
    ViewColumn(say("Copper"), lambda p: f"{p.copper_kg:.1f} kg", 76, True),
    ViewColumn(say("Within"), lambda p: f"{100.0 * p.gap:.1f} %", 70, True),
)


class LeastSizes(WorkDialog):
    """What is to be least, the answer with its proof, and what differs from the plan."""

    wanted = Signal(object)
    """An `Edit`."""

    def __init__(
        self, plan: Plan, chosen: Iterable[str], scenario: str, palette: Palette, parent: QWidget | None = None
    ) -> None:
        super().__init__(say("Sizes at the least cost"), "least", parent)
        self.resize(1120, 680)
        self.plan, self.scenario, self._look = plan, scenario, palette
        things = {r.id for r in plan.runs} | {x.id for x in plan.items}
        self.part = [id_ for id_ in chosen if id_ in things]
        self.aim = QComboBox()
        self.aim.addItem(say("Price, and what losses cost"), "price")
        self.aim.addItem(say("Copper"), "copper")
        self.years, self.hours, self.kwh = QLineEdit("0"), QLineEdit("24"), QLineEdit("0.30")
        self.only = QCheckBox(say("Only what is selected ({count})", count=len(self.part)))
        self.only.setEnabled(bool(self.part))
        self.selective = QCheckBox(say("Devices stay selective where they are"))
        form = QFormLayout()
        for words, field in (
            (say("What is to be least"), self.aim), (say("Years for which losses count"), self.years),
            (say("Hours a day in which they flow"), self.hours), (say("Price of a kilowatt-hour"), self.kwh),
        ):  # fmt: skip
            field.setAccessibleName(words)
            form.addRow(words, field)
        form.addRow(self.only)
        form.addRow(self.selective)
        self.begin = QPushButton(say("Choose sizes"))
        self.begin.clicked.connect(self._begin)
        self.curve = QPushButton(say("Price against loss"))
        self.curve.clicked.connect(self._curve)
        self.head.setText(
            say(
                "Chooses conductors, side by side where one does not do, and devices together: by ampacity, drop over every shared feeder, what devices let through, terminals, every rule of the code. What comes of it is judged in full. A circuit is sized for what its equipment is rated to draw, what circuits share for what flows in the scenarios."
            )
        )
        self.rows = Rows(CHANGES)
        self.view = table_view(self.rows, say("Chosen sizes"))
        self.points = Rows(POINTS)
        self.points_view = table_view(self.points, say("Price against loss"))
        self.points_view.setMaximumHeight(170)
        self.points_view.setMinimumHeight(90)
        self.points_view.selectionModel().currentChanged.connect(self._point)
        self.plot = still_plot(say("Price against loss"), 56)
        colour(self.plot, palette)
        self.plot.setLabel("bottom", say("lost, W"))
        self.plot.setLabel("left", say("price"))
        self.plot.setAccessibleName(say("Curve of price against loss"))
        beside = QWidget()
        right = QVBoxLayout(beside)
        right.setContentsMargins(0, 0, 0, 0)
        caption = Label(
            say(
                "Each point is the least price at which no more is lost, within so much. Choose one on the curve, or below."
            )
        )
        caption.setObjectName("caption")
        caption.setWordWrap(True)
        right.addWidget(self.plot, 1)
        right.addWidget(caption)
        right.addWidget(self.points_view)
        self.beside = beside
        beside.hide()
        middle = QSplitter()
        middle.addWidget(self.view)
        middle.addWidget(beside)
        middle.setSizes([680, 400])
        self.words = Label()
        self.words.setWordWrap(True)
        self.buttons = answers()
        self.take = self.buttons.addButton(say("Take these sizes"), QDialogButtonBox.ButtonRole.AcceptRole)
        self.take.setEnabled(False)
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self._take)
        self.buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        top = QHBoxLayout()
        top.addLayout(form, 1)
        pair = QVBoxLayout()
        pair.addWidget(self.begin)
        pair.addWidget(self.curve)
        pair.addStretch()
        top.addLayout(pair)
        column.addLayout(top)
        column.addWidget(self.head)
        column.addWidget(self.progress)
        column.addWidget(middle, 1)
        column.addWidget(self.words)
        column.addWidget(self.buttons)
        self.begin.setDefault(True)  # Only a button that is in its dialog can be its default.
        self.found: LeastCost | None = None
        self.worker.done.connect(self._show)

    # Asking

    def _worth(self) -> Worth | None:
        try:
            watt = watt_worth(read(self.years.text()), positive(self.hours.text()), read(self.kwh.text()))
        except NotUnderstood as error:
            self.head.setText(str(error))
            return None
        return Worth(self.aim.currentData(), max(watt, 0.0), self.scenario, self.selective.isChecked())

    def _ids(self) -> list[str] | None:
        return self.part if self.only.isChecked() else None

    def _begin(self) -> None:
        worth = self._worth()
        if worth is not None:
            self._clear()
            self.work(say("Choosing…"), _one(self.plan, self._ids(), worth))

    def _curve(self) -> None:
        worth = self._worth()
        if worth is not None:
            self._clear()
            self.work(say("Choosing, point by point…"), _points(self.plan, self._ids(), worth))

    def _clear(self) -> None:
        self.found = None
        self.rows.show_rows(())
        self.points.show_rows(())
        self.words.setText("")
        self.take.setEnabled(False)

    # Showing

    def _show(self, found: LeastCost | tuple[LeastCost, ...] | str) -> None:
        if isinstance(found, str):
            self.head.setText(f"{found}…")
            return
        self.progress.hide()
        if isinstance(found, LeastCost):
            self._show_one(found)
            return
        if not found:
            self.head.setText(say("No sizes that were looked at keep every rule of sizes."))
        self.beside.setVisible(bool(found))
        self.points.show_rows(found)
        self._draw()
        if found:
            self.points_view.setCurrentIndex(self.points.index(0, 0))

    def _show_one(self, found: LeastCost) -> None:
        self.found = found
        self.head.setText(in_words(found, self.aim.currentData()))
        titles = {r.id: self.plan.run_title(r) for r in self.plan.runs} | {x.id: x.title for x in self.plan.items}
        self.rows.show_rows(tuple((_titled(c, titles), c) for c in found.changes))
        left = [say("Left: {what}", what=f.headline) for f in found.left]
        together = [say("Cannot be had together: {why}", why="; ".join(found.contradiction[:MOST_SAID]))]
        self.words.setText("\n".join([*left[:MOST_SAID], *(together if found.contradiction else [])]))
        self.take.setEnabled(found.found and bool(found.changes))

    def _point(self, index: QModelIndex, _: QModelIndex) -> None:
        if 0 <= index.row() < len(self.points.rows):
            self._show_one(self.points.rows[index.row()])
            self._draw()

    def _draw(self) -> None:
        """The curve with its points, the chosen one filled."""
        c, points = self._look, self.points.rows
        self.plot.clear()
        if not points:
            return
        watts, prices = [p.lost_w for p in points], [p.price for p in points]
        self.plot.plot(watts, prices, pen=pg.mkPen(c.line, width=2))
        dots = pg.ScatterPlotItem(
            watts, prices, size=13, pen=pg.mkPen(c.accent, width=2), data=list(range(len(points))),
            brush=[pg.mkBrush(c.accent if p is self.found else c.sheet) for p in points],
        )  # fmt: skip
        dots.sigClicked.connect(self._picked)
        self.plot.addItem(dots)

    def _picked(self, _: object, points: list[pg.SpotItem]) -> None:
        if len(points):
            self.points_view.setCurrentIndex(self.points.index(int(points[0].data()), 0))

    def _take(self) -> None:
        assert self.found is not None
        edit = self.found.edit
        self.accept()
        self.wanted.emit(edit)


def _titled(change: SizeChange, titles: dict[str, str]) -> str:
    return "; ".join(f"{id_}, {titles[id_]}" if titles[id_] != id_ else id_ for id_ in change.ids)


def _one(plan: Plan, ids: list[str] | None, worth: Worth) -> Work:
    def work(task: Task) -> None:
        overtaken = partial(getattr, task, "overtaken")
        task.report(least_cost(plan, ids, worth, overtaken=overtaken, progress=task.report))

    return work


def _points(plan: Plan, ids: list[str] | None, worth: Worth) -> Work:
    def work(task: Task) -> None:
        task.report(frontier(plan, ids, worth, overtaken=partial(getattr, task, "overtaken"), progress=task.report))

    return work


def open_for(plan: Plan, chosen: Iterable[str], scenario: str, palette: Palette, parent: QWidget) -> LeastSizes:
    """Show the dialog; it stays until answered. Losses count in a scenario of that id, the first that lasts where there is none."""
    made = LeastSizes(plan, chosen, scenario, palette, parent)
    ask(made)
    return made
