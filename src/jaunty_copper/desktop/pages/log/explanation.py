"""What the readings mean, in words, with buttons to the places that they blame and to the next reading."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import (
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.commissioning.charging import FULL_PERCENT, Charging, Slower
from jaunty_copper.commissioning.diagnose import Diagnosis, Suspect
from jaunty_copper.commissioning.points import Point
from jaunty_copper.desktop.pages.log.measured import Measured
from jaunty_copper.desktop.pages.log.pane import PARTS, wrapped_line
from jaunty_copper.desktop.pages.log.said import chance, hours, reading_text
from jaunty_copper.desktop.widgets.part import replace_body

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.log.measure import MeasurePane

UNEXPLAINED = "These readings are not as planned, and no resistance and no wrong tap explains them: check what ran, where the probes were, and what was typed."


class ReadingsMeaning(QScrollArea):
    """Below the readings: verdict, suspects, next reading, charging."""

    def __init__(self, pane: MeasurePane) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.pane = pane
        self.suspects: list[QPushButton] = []
        self.next_button: QPushButton | None = None

    def show_found(self, f: Measured | None) -> None:
        """Say what the readings of a scenario mean."""
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(4, 4, 4, 8)
        column.setSpacing(4)
        self.suspects = []
        if f is None or f.bench is None or f.diagnosis is None:
            self.pane.say(f.trouble if f is not None else "")
        else:
            self.pane.say(f"{len(f.taken)} of {len(f.expected)} readings taken")
            wrapped_line(column, _verdict(f, f.diagnosis), "fact")
            if f.diagnosis.alarm:
                self._explanations(column, f, f.diagnosis)
                if f.diagnosis.unexplained:
                    wrapped_line(
                        column,
                        "Even so, what is left is more than chance gives: look for something else besides.",
                        "bad",
                    )
            for c, cost in f.charging:
                wrapped_line(column, self._charging(c, cost), "caption")
            if f.taken and f.diagnosis.readings:
                wrapped_line(column, chance(f.diagnosis), "caption")
            if f.blind:
                some = ", ".join(f.blind[:8]) + (" …" if len(f.blind) > 8 else "")
                wrapped_line(
                    column,
                    f"A bad joint of 5 mΩ would not show in {some}: too little flows there, or the copper itself is not known so closely.",
                    "caption",
                )
            if not f.taken:
                self._apart(column, f)
        column.addStretch(1)
        replace_body(self, body)

    def _explanations(self, column: QVBoxLayout, f: Measured, d: Diagnosis) -> None:
        for s in d.blamed if d.two is not None else d.plausible[:3]:
            button = QPushButton(self.words(s))
            button.setStyleSheet("text-align: left")
            button.clicked.connect(lambda _=False, s=s: self.pane.picked.emit(s.owner))
            column.addWidget(button)
            self.suspects.append(button)
        self.next_button = None
        if f.next is not None:
            n = f.next
            one, other = (reading_text(n.point, v) for v in (n.one, n.other))
            button = QPushButton(
                f"Next, measure {place_words(n.point)}: about {one} if it is {n.between[0]}, {other} if {n.between[1]}"
            )
            button.setStyleSheet("text-align: left")
            button.clicked.connect(lambda: self.pane.measure_at(n.point))
            column.addWidget(button)
            self.next_button = button

    def words(self, s: Suspect) -> str:
        """A suspect in one line."""
        like = f", or {' or '.join(s.with_it)}, which these readings cannot part from it" if s.with_it else ""
        if s.kind == "tap":
            return f"{self.pane.title_of(s.owner)}: its end {s.part} landed on {s.to}"
        full = f", {s.heat_w:.3g} W there" if s.heat_w >= 0.05 else ""
        return f"{self.pane.title_of(s.name)}{like}: {1e3 * s.more_ohm:.2g} ± {1e3 * s.sigma_ohm:.1g} mΩ more than planned{full}"

    def _charging(self, c: Charging, cost: Slower | None) -> str:
        words = f"{self.pane.title_of(c.source)} is set to {c.set_v:.2f} V, has {c.own_v:.2f} V at its terminals, and {c.bank_v:.2f} V reach the bank: {1e3 * c.lost_v:.0f} mV are lost on the way"
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
            words += f"; {len(separable)} of them are separated by one more reading, such as {place_words(n.point)} for {' and '.join(separable[0].names[:2])}"
        wrapped_line(column, words + ".", "caption")


def _verdict(f: Measured, d: Diagnosis) -> str:
    if not f.taken:
        return f"Set up “{f.scenario.title}”, measure from stud to stud, and type what the meter reads or let it be read. {len(f.fewest)} readings would reveal a bad joint anywhere that carries current."
    if not d.alarm and d.unexplained:
        return UNEXPLAINED
    if not d.alarm:
        return "As planned, within what lengths, joints, loads, sources, charge and meter leave open."
    if d.two is not None:
        return "Something is not as planned, and no single thing explains it. Together these do:"
    return "Something is not as planned. What would explain it, the likeliest first:"


def place_words(p: Point) -> str:
    """Where a reading is taken, in words."""
    what = {"volts": f"{p.a} to {p.b}", "amps": f"the current of {p.a}", "celsius": f"the warmth of {p.a}"}
    return what.get(p.quantity) or f"over the {PARTS[p.b]} of {p.a}"
