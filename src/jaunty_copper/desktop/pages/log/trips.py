"""Trips: why a device opened, by its own band."""

from functools import partial
from math import isfinite, isinf

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.codes.rules.words import amps, duration
from jaunty_copper.commissioning.nearness import Nearness, nearest_first
from jaunty_copper.commissioning.trip_causes import TripExplanation
from jaunty_copper.commissioning.trips import explain_trip
from jaunty_copper.desktop.pages.curves.chart import Chart
from jaunty_copper.desktop.pages.log.logbook import today
from jaunty_copper.desktop.pages.log.pane import Pane, wrapped_line
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.part import replace_body
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view
from jaunty_copper.documents.curves import FaultPath, Mark
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit

CAUSES = {
    "heat": say("Heat"), "overload": say("Overload"), "start": say("A start"), "again": say("Starts one after the other"),
    "loose": say("Heat of its own terminals or holder"), "worn": say("A worn device"), "beside": say("Heat of what stands beside it"),
    "plug": say("Heat of a plug"), "sources": say("Sources together"), "fault": say("A short circuit"),
    "neighbour": say("A short behind a neighbour"), "none": say("Nothing in this plan"),
}  # fmt: skip


COMPUTED = {"heat", "overload", "start", "fault", "neighbour", "sources"}
"""Causes whose times are those of the device's band."""


class TripsPane(Pane):
    """Which device, when, at what: and what could have opened it."""

    def __init__(self) -> None:
        super().__init__()
        self.device, self.what = QComboBox(), QComboBox()
        self.device.setAccessibleName(say("Device that opened"))
        self.what.setAccessibleName(say("What ran"))
        self.day = QLineEdit(today())
        self.day.setAccessibleName(say("Day"))
        self.air, self.amps, self.after = QLineEdit(), QLineEdit(), QLineEdit()
        row = QHBoxLayout()
        for label, field, hint in (
            (say("Opened"), self.device, say("The fuse or breaker that opened")),
            (
                say("while"),
                self.what,
                say("What ran; where it is not known, the scenario in which it carries most is taken"),
            ),
            ("on", self.day, say("The day")),
        ):
            row.addWidget(Label(label))
            field.setToolTip(hint)
            row.addWidget(field, 0 if field is self.day else 1)
        self.day.setFixedWidth(112)
        second = QHBoxLayout()
        for label, seen, hint in (
            (say("Air at it, °C"), self.air, say("As it was; else the plan's")),
            (say("Current seen, A"), self.amps, say("From a meter or monitor; else computed")),
            (say("After, s"), self.after, say("How long after something was switched; empty where it is not known")),
        ):
            second.addWidget(Label(label))
            seen.setToolTip(hint)
            seen.setAccessibleName(label)
            seen.setFixedWidth(80)
            second.addWidget(seen)
        self.ask_button, self.keep = QPushButton(say("Why did it open?")), QPushButton(say("Into the log"))
        self.ask_button.clicked.connect(self.ask)
        self.keep.clicked.connect(self._keep)
        self.keep.setEnabled(False)
        second.addStretch(1)
        self.note = Label(say("A blown fuse has a cause: find it before another one goes in."))
        self.note.setObjectName("caption")
        self.note.setWordWrap(True)
        third = QHBoxLayout()
        third.addWidget(self.note, 1)
        third.addWidget(self.ask_button)
        third.addWidget(self.keep)
        self.answer = QScrollArea()
        self.answer.setWidgetResizable(True)
        self.near = Rows(
            (
                ViewColumn(
                    say("Nearest to opening, before anything is wrong"),
                    lambda n: f"{n.device.item.title} ({n.device.item.id})",
                    0,
                ),
                ViewColumn(say("Load current"), lambda n: amps(n.carries_a), 100, True),
                ViewColumn("in", lambda n: n.state.scenario.title, 150),
                ViewColumn(say("Derated rating"), lambda n: amps(n.worth_a), 108, True),
                ViewColumn(say("Ambient"), lambda n: f"{n.device.air_c[0]:.0f} °C", 72, True),
                ViewColumn(say("Used"), lambda n: f"{100.0 * n.share:.0f} %", 64, True),
            )
        )
        self.near_view = table_view(self.near, say("Nearest to opening"))
        self.near_view.clicked.connect(lambda index: self._about(self.near.rows[index.row()]))
        self.near_view.activated.connect(lambda index: self._about(self.near.rows[index.row()]))
        self.answer.setWidget(self.near_view)
        self.chart = Chart()
        self.chart.setAccessibleName(say("Opening band of the device, and what was seen"))
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.addWidget(self.answer)
        self.split.addWidget(self.chart)
        self.split.setSizes([470, 400])
        self.split.setChildrenCollapsible(False)
        name_divider(self.split, say("Divider beside the opening band"))
        self.chart.hide()
        self.found: tuple[TripExplanation, ...] = ()
        self.chosen: str | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 8)
        column.setSpacing(6)
        column.addLayout(row)
        column.addLayout(second)
        column.addLayout(third)
        column.addWidget(self.split, 1)

    def refresh(self) -> None:
        """Offer the plan's devices and scenarios."""
        if self.picture is None or self.picture.study is None or self.picture.protection is None:
            return
        study, held, ran = self.picture.study, self.chosen or self.device.currentData(), self.what.currentData()
        self.device.clear()
        for id_, d in self.picture.protection.devices.items():
            self.device.addItem(f"{d.item.title} ({id_}, {d.item.rating_a:g} A)", id_)
        self.what.clear()
        self.what.addItem(say("not known"), None)
        for s in study.states:
            self.what.addItem(s.scenario.title, s.scenario.id)
        self.device.setCurrentIndex(max(0, self.device.findData(held)))
        self.what.setCurrentIndex(max(0, self.what.findData(ran)))
        self.show_headline(say("Why did it open?"))
        if self.picture.case is not None and not self.found:
            self.near.show_rows(nearest_first(self.picture.case))

    def select(self, id_: str | None) -> None:
        """Ask about a device."""
        self.chosen = id_
        k = self.device.findData(id_)
        if k >= 0:
            self.device.setCurrentIndex(k)

    def _about(self, near: Nearness) -> None:
        """Ask about a device of the table, in the scenario in which it carries most."""
        self.select(near.device.item.id)
        self.what.setCurrentIndex(max(0, self.what.findData(near.state.scenario.id)))
        self.picked.emit(near.device.item.id)

    def ask(self) -> None:
        """Work out what could have opened it."""
        if self.picture is None or self.picture.protection is None or self.device.currentData() is None:
            return
        seen: dict[str, float | None] = {}
        for name, field, unit in (
            ("ambient_c", self.air, "°C"),
            ("current_a", self.amps, "A"),
            ("after_s", self.after, "s"),
        ):
            try:
                seen[name] = read(field.text(), unit) if field.text().strip() else None
            except NotUnderstood as error:
                self.note.setText(f"{field.accessibleName()}: {error}")
                return
        self.found = explain_trip(self.picture.protection, self.device.currentData(), self.what.currentData(), **seen)
        self.note.setText(
            say("The likeliest first. The order among causes is a judgement; currents and times are computed.")
        )
        self.keep.setEnabled(True)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(4, 4, 4, 8)
        column.setSpacing(3)
        possible = [e for e in self.found if not e.ruled_out]
        for k, e in enumerate(possible):
            wrapped_line(column, f"{k + 1}. {CAUSES[e.cause]}", "head")
            wrapped_line(column, f"{e.words[:1].upper()}{e.words[1:]}.{_opens(e)}", "fact")
            wrapped_line(
                column, say("Look: {check}", check=e.check if e.check.endswith("?") else f"{e.check}."), "caption"
            )
            wrapped_line(column, say("Cure: {cure}.", cure=e.cure), "caption")
            column.addSpacing(8)
        if len(possible) < len(self.found):
            wrapped_line(column, say("Ruled out"), "head")
            for e in self.found[len(possible) :]:
                wrapped_line(column, f"{CAUSES[e.cause]}: {e.ruled_out}.", "caption")
        column.addStretch(1)
        replace_body(self.answer, body)
        self._chart(seen["current_a"], seen["after_s"])

    def _chart(self, current_a: float | None, after_s: float | None) -> None:
        """Show the band with what was seen: a point where both are known, else a line."""
        assert self.picture is not None
        assert self.picture.protection is not None
        id_ = self.device.currentData()
        device = self.picture.protection.devices[id_]
        amps_ = current_a or (self.found[0].current_a if self.found else None)
        marks = (
            (Mark(amps_, after_s, say("seen") if current_a else say("the likeliest")),)
            if amps_ and isfinite(amps_) and after_s
            else ()
        )
        self.chart.show_path(self.picture.case, FaultPath(f"{id_}.b", (device,), {}), id_, marks)
        self.chart.show()

    def _keep(self) -> None:
        assert self.picture is not None
        device, first = self.device.currentData(), self.found[0]
        kind = say("blown") if self.picture.plan.by_id[device].kind == "fuse" else say("trip")  # type: ignore[attr-defined]
        value = first.current_a if isfinite(first.current_a) else None
        change = partial(
            edits.log_entry, kind=kind, on=self.day.text().strip(), about=device, value=value,
            text=say('Likeliest: {cause}: {first}. {cure}.', cause=CAUSES[first.cause].lower(), first=first.words, cure=first.cure),
        )  # fmt: skip
        self.wanted.emit(Edit(say("{device} opened", device=device), change))
        self.note.setText(say("Kept in the logbook."))


def _opens(e: TripExplanation) -> str:
    if not isfinite(e.shortest_s) or e.cause not in COMPUTED:
        return ""
    longest = "" if isinf(e.longest_s) else say(" and {longest_s}", longest_s=duration(e.longest_s))
    return say(
        " It then opens {words} {shortest_s}{longest}.",
        words=say("between") if longest else say("after"),
        shortest_s=duration(e.shortest_s),
        longest=longest,
    )
