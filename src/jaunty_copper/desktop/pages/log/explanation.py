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
from jaunty_copper.commissioning.diagnose import Diagnosis
from jaunty_copper.commissioning.points import Point
from jaunty_copper.commissioning.weighing import Suspect
from jaunty_copper.desktop.pages.log.measured import Measured
from jaunty_copper.desktop.pages.log.pane import PARTS, wrapped_line
from jaunty_copper.desktop.pages.log.said import chance, hours, reading_text
from jaunty_copper.desktop.widgets.part import replace_body
from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.log.measure import MeasurePane

UNEXPLAINED = say(
    "These readings are not as planned, and no resistance and no wrong tap explains them: check what ran, where the probes were, and what was typed."
)


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
            self.pane.show_headline(f.trouble if f is not None else "")
        else:
            self.pane.show_headline(
                say("{taken} of {expected} readings taken", taken=len(f.taken), expected=len(f.expected))
            )
            wrapped_line(column, _verdict(f, f.diagnosis), "fact")
            if f.diagnosis.alarm:
                self._explanations(column, f, f.diagnosis)
                if f.diagnosis.unexplained:
                    wrapped_line(
                        column,
                        say("Even so, what is left is more than chance gives: look for something else besides."),
                        "bad",
                    )
            if f.turned:
                where = ", ".join(place_words(p) for p in f.turned[:4]) + (" …" if len(f.turned) > 4 else "")
                wrapped_line(
                    column,
                    say(
                        "Leads swapped or a clamp turned round, and counted with the other sign: {where}.", where=where
                    ),
                    "caption",
                )
            for c, cost in f.charging:
                wrapped_line(column, self._charging(c, cost), "caption")
            if f.taken and f.diagnosis.readings:
                wrapped_line(column, chance(f.diagnosis), "caption")
            if f.blind:
                some = ", ".join(f.blind[:8]) + (" …" if len(f.blind) > 8 else "")
                wrapped_line(
                    column,
                    say(
                        "A bad joint of 5 mΩ would not show in {some}: too little flows there, or the copper itself is not known "
                        "so closely.",
                        some=some,
                    ),
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
                say(
                    "Next, measure {place_words}: about {one} if it is {between}, {other} if {between_2}",
                    place_words=place_words(n.point),
                    one=one,
                    between=n.between[0],
                    other=other,
                    between_2=n.between[1],
                )
            )
            button.setStyleSheet("text-align: left")
            button.clicked.connect(lambda: self.pane.measure_at(n.point))
            column.addWidget(button)
            self.next_button = button

    def words(self, s: Suspect) -> str:
        """A suspect in one line."""
        like = (
            say(", or {with_it}, which these readings cannot part from it", with_it=" or ".join(s.with_it))
            if s.with_it
            else ""
        )
        if s.kind == "tap":
            return say(
                "{title_of}: its end {part} landed on {to}", title_of=self.pane.title_of(s.owner), part=s.part, to=s.to
            )
        full = say(", {heat_w:.3g} W there", heat_w=s.heat_w) if s.heat_w >= 0.05 else ""
        return say(
            "{title_of}{like}: {more} more than planned{full}",
            title_of=self.pane.title_of(s.name),
            like=like,
            more=s.more,
            full=full,
        )

    def _charging(self, c: Charging, cost: Slower | None) -> str:
        words = say(
            "{title_of} is set to {set_v:.2f} V, has {own_v:.2f} V at its terminals, and {bank_v:.2f} V reach the "
            "bank: {lost_v:.0f} mV are lost on the way",
            title_of=self.pane.title_of(c.source),
            set_v=c.set_v,
            own_v=c.own_v,
            bank_v=c.bank_v,
            lost_v=1000.0 * c.lost_v,
        )
        if cost is None or abs(cost.real_h - cost.planned_h) < 0.05:
            return words + "."
        return say(
            "{words}. To {full_percent:g} % it takes {hours} with what was read, {hours_2} as planned.",
            words=words,
            full_percent=FULL_PERCENT,
            hours=hours(cost.real_h),
            hours_2=hours(cost.planned_h),
        )

    def _apart(self, column: QVBoxLayout, f: Measured) -> None:
        """Which joints the fewest readings cannot part, and what would."""
        if not f.groups:
            return
        separable = [g for g in f.groups if g.parted_by is not None]
        words = say(
            "With the fewest readings {sum} conductors stay in {groups} groups that look alike",
            sum=sum(len(g.names) for g in f.groups),
            groups=len(f.groups),
        )
        if separable:
            n = separable[0].parted_by
            assert n is not None
            words += say(
                "; {separable} of them are separated by one more reading, such as {place_words} for {names}",
                separable=len(separable),
                place_words=place_words(n.point),
                names=" and ".join(separable[0].names[:2]),
            )
        wrapped_line(column, words + ".", "caption")


def _verdict(f: Measured, d: Diagnosis) -> str:
    if not f.taken:
        return say(
            "Set up “{scenario}”, measure from stud to stud, and type what the meter reads or let it be read. "
            "{fewest} readings would reveal a bad joint anywhere that carries current.",
            scenario=f.scenario.title,
            fewest=len(f.fewest),
        )
    if not d.alarm and d.unexplained:
        return UNEXPLAINED
    if not d.alarm:
        return say("As planned, within what lengths, joints, loads, sources, charge and meter leave open.")
    if d.two is not None:
        return say("Something is not as planned, and no single thing explains it. Together these do:")
    return say("Something is not as planned. What would explain it, the likeliest first:")


def place_words(p: Point) -> str:
    """Where a reading is taken, in words."""
    what = {
        "volts": say("{a} to {b}", a=p.a, b=p.b),
        "amps": say("the current of {a}", a=p.a),
        "celsius": say("the warmth of {a}", a=p.a) + (say(" after {minutes} min", minutes=p.b) if p.b else ""),
    }
    return what.get(p.quantity) or say("over the {b} of {a}", b=PARTS[p.b], a=p.a)
