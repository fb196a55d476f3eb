"""The Bank page."""

from functools import partial
from math import isfinite

import numpy as np
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence, QShowEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QMenu, QSpinBox, QSplitter, QVBoxLayout, QWidget

from jaunty_copper.battery.building import MOST, shape_of, shaping, why_fixed
from jaunty_copper.battery.paralleling import Overload
from jaunty_copper.battery.patterns import Pattern, arranging, move_unit
from jaunty_copper.desktop.pages.bank.cards import Cards
from jaunty_copper.desktop.pages.bank.choices import choices
from jaunty_copper.desktop.pages.bank.course import CourseView
from jaunty_copper.desktop.pages.bank.facts import BankAsked, BankFacts, facts_of
from jaunty_copper.desktop.pages.bank.scene import Moment
from jaunty_copper.desktop.pages.bank.view import BankView
from jaunty_copper.desktop.pages.base import Page
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label, plain_tip
from jaunty_copper.desktop.widgets.passing_menu import PassingMenu
from jaunty_copper.desktop.work.worker import Worker
from jaunty_copper.documents import words
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import Palette
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.edits import Edit


class _Number(QSpinBox):
    """A whole number that leaves the window its keys for undo and redo: what it shows is the plan's."""

    def event(self, event: QEvent) -> bool:
        """Let what is not typed here go on to the window."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            keys = QKeySequence.StandardKey
            if event.matches(keys.Undo) or event.matches(keys.Redo):
                event.ignore()
                return False
        return super().event(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Leave the wheel alone: a turn must not change a plan."""
        event.ignore()


class BankPage(Page):
    """Units where they stand, patterns side by side, hours ahead."""

    def __init__(self) -> None:
        super().__init__()
        self.picture: Picture | None = None
        self.scenario: str | None = None
        self.facts: BankFacts | None = None
        self._unit: str | None = None
        self._asked: BankAsked | None = None
        self.worker = Worker("bank")
        self.worker.done.connect(self._found)
        self.worker.failed.connect(self._failed)
        self.view, self.cards, self.course = BankView(), Cards(), CourseView()
        self.head = Label()
        self.head.setObjectName("head")
        self.head.setWordWrap(True)
        self.which = QComboBox()
        self.which.setAccessibleName(say("Bank"))
        self.which.activated.connect(lambda k: self._choose(self.which.itemData(k)))
        top = QHBoxLayout()
        top.setContentsMargins(16, 6, 12, 0)
        top.addWidget(self.head, 1)
        self.series = self._number(say(" in series"), say("Units in series"))
        self.parallel = self._number(say(" in parallel"), say("Strings in parallel"))
        top.addWidget(self.series)
        top.addWidget(self.parallel)
        top.addWidget(self.which)
        self.below = Label()
        self.below.setObjectName("caption")
        self.below.setWordWrap(True)
        self.below.setContentsMargins(16, 2, 12, 2)
        upper = QWidget()
        column = QVBoxLayout(upper)
        column.setContentsMargins(0, 0, 0, 4)
        column.setSpacing(4)
        column.addLayout(top)
        column.addWidget(self.view, 1)
        column.addWidget(self.below)
        column.addWidget(self.cards)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(upper)
        split.addWidget(self.course)
        split.setSizes([520, 170])
        split.setStretchFactor(0, 1)
        name_divider(split, say("Divider above the hours"))
        split.setCollapsible(0, False)
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.addWidget(split)
        self.view.picked.connect(self._picked)
        self.view.moved.connect(self._moved)
        self.view.menu_wanted.connect(self._menu)
        self.cards.chosen.connect(self._apply)
        self.course.hour_chosen.connect(self._hour)
        self.course.hours_wanted.connect(lambda _: self._ask())

    def _number(self, suffix: str, name: str) -> QSpinBox:
        """A field for one of the bank's numbers; it is taken over when it is left or stepped."""
        made = _Number()
        made.setRange(1, MOST)
        made.setSuffix(suffix)
        made.setAccessibleName(name)
        made.setKeyboardTracking(False)
        made.valueChanged.connect(self._shaped)
        return made

    def _show_numbers(self) -> None:
        bank, plan = self.bank, self.picture.plan if self.picture else None
        shape = shape_of(bank) if bank is not None else None
        why = why_fixed(plan, bank) if bank is not None and plan is not None else None
        for field, value in zip((self.series, self.parallel), shape or (1, 1), strict=True):
            field.blockSignals(True)
            field.setValue(value)
            field.blockSignals(False)
            field.setVisible(shape is not None)
            field.setEnabled(why is None)
            field.setToolTip(
                plain_tip(say("Stays as it is: {why}", why=why) if why else say("How many; the pattern stays"))
            )

    def _shaped(self) -> None:
        bank = self.bank
        if bank is not None and shape_of(bank) != (wanted := (self.series.value(), self.parallel.value())):
            self.wanted.emit(shaping(say("Bank of {units}", units=bank.units[0].title), bank.id, *wanted))

    # What is shown

    @property
    def bank(self) -> Bank | None:
        """The bank that is shown."""
        study = self.picture.study if self.picture else None
        banks = study.wiring.banks if study else ()
        return next((b for b in banks if self._unit in b.by_id), banks[0] if banks else None)

    @property
    def state(self) -> State | None:
        """The scenario that is shown; of all, the one in which the bank carries most for long."""
        bank = self.bank
        if self.picture is None or bank is None:
            return None
        states = self.picture.states(self.scenario)
        return max(states, key=lambda s: abs(sum(s.current(u) for u in bank.outlets)), default=None)

    def show_picture(self, picture: Picture, scenario: str | None) -> None:
        """Show another study or another scenario."""
        self.picture, self.scenario = picture, scenario
        study = picture.study
        banks = study.wiring.banks if study else ()
        entries = [(say("Bank of {units}", units=b.units[0].title), b.id) for b in banks]
        if [(self.which.itemText(k), self.which.itemData(k)) for k in range(self.which.count())] != entries:
            self.which.clear()
            for text, id_ in entries:
                self.which.addItem(text, id_)
        self.which.setVisible(len(entries) > 1)
        self._show_numbers()
        bank, state = self.bank, self.state
        if bank is None or state is None or picture.case is None:
            self.head.setText("" if bank is None else say("No operating point in this scenario: see the findings"))
            self.view.bank = None
            self.view.update()
            self.cards.show_options((), 0.0)
            self.course.show_waiting()
            return
        self._unit = bank.id
        shared = picture.case.sharing_in(bank.id, state)
        self.view.show_bank(picture.plan, bank, state, shared)
        limit = picture.case.code.limit("bank_spread_percent")
        self.head.setText(
            say(
                "{current_a} {words} the bank in “{scenario}”",
                current_a=words.amps(abs(shared.current_a)),
                words=say("into") if shared.current_a < 0 else say("out of"),
                scenario=state.scenario.title,
            )
            + (
                say(
                    " · current sharing spread {spread:.0f} %, limit {limit:g} %",
                    spread=100 * shared.spread,
                    limit=limit,
                )
                if len(bank.strings) > 1
                else ""
            )
            + (
                say(
                    " · no charge goes into {units}: too cold or too warm",
                    units=", ".join(map(self._title, shared.kept_out)),
                )
                if shared.kept_out
                else ""
            )
        )
        self.head.setToolTip(f"{picture.case.code.name}: {picture.case.code.source('bank_spread_percent')}")
        self._ask()

    def _ask(self) -> None:
        state, bank = self.state, self.bank
        if state is None or bank is None or self.picture is None or not self.isVisible():
            return
        asked = BankAsked(self.picture.plan, bank.id, state.scenario, self.course.wanted_h)
        if asked == self._asked:
            return
        self._asked = asked
        self.below.setText(say("Comparing patterns…"))
        self.course.show_waiting()
        self.worker.ask(facts_of(asked))

    def showEvent(self, _: QShowEvent) -> None:
        """Compute when the page is looked at, not before."""
        self._ask()

    def _found(self, facts: BankFacts) -> None:
        if facts.asked != self._asked or self.picture is None or self.picture.case is None:
            return
        fresh = self.facts is None or self.facts.asked != facts.asked
        self.facts = facts
        if fresh:
            self.cards.setVisible(len(facts.options) > 1)
            self.cards.show_options(facts.options, self.picture.case.code.limit("bank_spread_percent"))
        if facts.hours is not None and self.course.hours is not facts.hours:
            bank = self.bank
            self.course.show_hours(facts.hours, tuple(u.id for u in bank.units) if bank else ())
        self.below.setText(self._told(facts))

    def _failed(self, trace: str) -> None:
        last = trace.strip().splitlines()[-1]
        self.below.setText(
            say("The bank could not be followed: {last}. The map and the findings are not touched by it.", last=last)
        )

    def _told(self, facts: BankFacts) -> str:
        if facts.meeting is not None:
            m = facts.meeting
            after = (
                say("level after {level_h:.1f} h", level_h=m.level_h)
                if isfinite(m.level_h)
                else say("not level after a day")
            )
            advice = say("charge each to one level first") if m.used > 1.0 else say("within the limits")
            return say(
                "Joined at these charges: {peak_a} at first, most through {unit} ({used:.0f} % of its limit), {after}: "
                "{advice}.",
                peak_a=words.amps(m.peak_a),
                unit=self._title(m.unit),
                used=100 * m.used,
                after=after,
                advice=advice,
            ) + "".join(_opening(o) for o in m.fuses[:2])
        if facts.no_patterns:
            return say("No patterns to compare: {no_patterns}.", no_patterns=facts.no_patterns)
        if facts.influences is None:
            return say("Trying one fault after the other…")
        worst = ", ".join(f"{self._title(i.place)} {i.what}: {100 * i.spread:.0f} %" for i in facts.influences[:2])
        return say("Most sensitive joint: {worst}. Right-click a link or unit to make it bad and see.", worst=worst)

    def _title(self, place: str) -> str:
        assert self.picture is not None
        thing = self.picture.plan.by_id.get(place)
        return thing.title if thing else place

    def _hour(self, hour: float) -> None:
        h = self.course.hours
        if h is None or hour <= 0.0 or not len(h.course.hours):
            self.view.show_moment(None)
            return
        hour = min(hour, float(h.course.hours[-1]))
        k = int(np.searchsorted(h.course.hours, hour).clip(0, len(h.course.hours) - 1))
        self.view.show_moment(
            Moment(
                hour,
                dict(zip(h.units, h.course.current_a[k].tolist(), strict=True)),
                dict(zip(h.units, h.course.soc_percent[k].tolist(), strict=True)),
            )
        )

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.view.palette_ = palette
        self.view.update()
        self.cards.set_palette(palette)
        self.course.set_palette(palette)

    def set_units(self, units: Units) -> None:
        """Metric or AWG."""
        self.view.units = units
        self.view.update()

    def close_worker(self) -> None:
        """End the page's thread."""
        self.worker.close()

    # What is done

    def _choose(self, unit: str) -> None:
        self._unit = unit
        if self.picture is not None:
            self.show_picture(self.picture, self.scenario)

    def select(self, id_: str | None) -> None:
        """Select a unit or link; another bank if it is there."""
        study = self.picture.study if self.picture else None
        for bank in study.wiring.banks if study else ():
            if id_ in bank.by_id and bank is not self.bank:
                self._choose(bank.id)
        self.view.selected = id_
        self.course.select(id_)
        self.view.update()

    def _picked(self, id_: str) -> None:
        self.course.select(id_ or None)
        self.picked.emit(id_)

    def _moved(self, unit: str, x: float, y: float) -> None:
        self.wanted.emit(
            Edit(say("Move {unit}", unit=self._title(unit)), partial(move_unit, unit=unit, x_mm=x, y_mm=y))
        )

    def _apply(self, pattern: Pattern) -> None:
        if self._unit is not None:
            self.wanted.emit(
                Edit(say("Interconnect the bank: {pattern}", pattern=pattern.name), arranging(self._unit, pattern))
            )

    def menu_for(self, id_: str) -> QMenu:
        """What can be done to a unit or link."""
        made = PassingMenu(self)
        for edit in choices(self.picture, id_) if self.picture is not None else ():
            made.addAction(edit.label).triggered.connect(partial(self.wanted.emit, edit))
        return made

    def _menu(self, id_: str, where: QPoint) -> None:
        shown = self.menu_for(id_)
        shown.popup(where)


def _opening(o: Overload) -> str:
    opens = say("opens within {longest_s:.2g} s", longest_s=o.longest_s) if isfinite(o.longest_s) else say("may hold")
    return say(" {device}, at {times:.1f} times its rating, {opens}.", device=o.device, times=o.times, opens=opens)
