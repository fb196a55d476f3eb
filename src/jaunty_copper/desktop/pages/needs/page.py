"""The Needs page."""

from functools import partial
from html import escape
from math import isfinite

from PySide6.QtCore import QModelIndex, Qt
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.battery.needs import Needs, needs
from jaunty_copper.desktop.inspector.editors import NumberEditor
from jaunty_copper.desktop.pages.base import Page
from jaunty_copper.desktop.pages.map import removing
from jaunty_copper.desktop.pages.needs.bars import Bars
from jaunty_copper.desktop.pages.needs.days import DaysView
from jaunty_copper.desktop.pages.needs.table import NeedsTable
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.pending import guard_cells
from jaunty_copper.desktop.widgets.sections import Sections
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import Palette
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.network.demand import scenarios_of
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.plan import defaults, edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.lines import NotRead, add_line
from jaunty_copper.plan.model import AnyEquipment, Plan, Scenario

WIDTHS_PX, SCENARIO_PX = (140, 70, 70, 44, 52, 50, 108, 50), 76
SECTIONS = {
    "together": (say("Together"), say("What runs together in each scenario, in amperes")),
    "days": (
        say("Days ahead"),
        say("What the bank holds hour by hour, with the sun as it may be, and what stops when"),
    ),
}
"""Pictures below the table."""
MOST_MORE_PX = 120
"""So much wider the names become at most where there is room; a scenario half as much."""
SCROLLBAR_PX, AROUND_PX = 14, 100
"""Beside the columns; above and under the rows: their heads, the buttons."""


class NeedsPage(Page):
    """What must run, when, and what that asks."""

    def __init__(self) -> None:
        super().__init__()
        self.needs: Needs | None = None
        self.wired: Wiring | None = None
        self.scenario: Scenario | None = None
        self.table = NeedsTable()
        self.table.wanted.connect(self.wanted)
        self.table.refused.connect(self.refused)
        self.view = QTableView()
        self.view.setTabKeyNavigation(False)
        self.view.setModel(self.table)
        guard_cells(self.view)
        self.view.setAccessibleName(say("Equipment by scenarios"))
        self.view.verticalHeader().hide()
        self.view.verticalHeader().setDefaultSectionSize(27)
        head = self.view.horizontalHeader()
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignCenter | Qt.AlignmentFlag(Qt.TextFlag.TextWordWrap.value))
        head.setMinimumHeight(46)
        head.setMinimumSectionSize(48)
        head.setHighlightSections(False)
        head.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.view.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.AnyKeyPressed
            | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self.view.selectionModel().currentChanged.connect(self._current)
        self.adding = QMenu(self)
        for kind, word in defaults.EQUIPMENT_WORDS.items():
            self.adding.addAction(word).triggered.connect(partial(self._add, kind))
        add = QPushButton(say("Add equipment"))
        add.setMenu(self.adding)
        add.setToolTip(say("It stands loose on the map until it has conductors"))
        self.removing = QPushButton(say("Remove"))
        self.removing.setToolTip(say("The chosen equipment, with its circuit"))
        self.removing.clicked.connect(self._remove)
        scenario = QPushButton(say("Add scenario"))
        scenario.setToolTip(say("One more column, like the scenario that is shown"))
        scenario.clicked.connect(lambda: self.asked.emit("new scenario"))
        buttons = QHBoxLayout()
        buttons.setContentsMargins(12, 6, 12, 8)
        buttons.setSpacing(8)
        self.wiring = QPushButton(say("Wire up"))
        self.wiring.setToolTip(
            say(
                "A circuit for everything that has no conductors yet, at the first supply of its voltage, sized and protected"
            )
        )
        self.wiring.clicked.connect(lambda: self.asked.emit("wire up"))
        self.line = QLineEdit()
        self.line.setAccessibleName(say("Add a line"))
        self.line.setPlaceholderText(say("type a line:  2 x Porch lamp 12 W 4 m"))
        self.line.setToolTip(
            say(
                "How many, a name, watts or amperes, volts where they differ, metres from the bars, hours a day; "
                "critical, surge 300 W, min 10.5 V; inverter, charger, solar, alternator, converter 24 to 12 V"
            )
        )
        self.line.returnPressed.connect(self._add_line)
        for button in (add, self.removing, scenario, self.wiring):
            buttons.addWidget(button)
        buttons.addWidget(self.line, 1)
        upper = QWidget()
        above = QVBoxLayout(upper)
        above.setContentsMargins(0, 0, 0, 0)
        above.setSpacing(0)
        above.addWidget(self.view, 1)
        above.addLayout(buttons)
        self.bars, self.ahead = Bars(), DaysView()
        self.ahead.wanted.connect(self.wanted)
        self.ahead.refused.connect(self.refused)
        self.views = QStackedWidget()
        self.views.addWidget(self.bars)
        self.views.addWidget(self.ahead)
        self.sections = Sections(SECTIONS)
        self.sections.chosen.connect(self.show_section)
        left = QWidget()
        pictures = QVBoxLayout(left)
        pictures.setContentsMargins(0, 4, 0, 0)
        pictures.setSpacing(2)
        choice = QHBoxLayout()
        choice.setContentsMargins(12, 0, 12, 0)
        choice.addWidget(self.sections)
        choice.addStretch(1)
        choice.addWidget(self.ahead.sky)
        self.ahead.sky.hide()
        pictures.addLayout(choice)
        pictures.addWidget(self.views, 1)
        self.summary = Label()
        self.summary.setWordWrap(True)
        self.summary.setTextFormat(Qt.TextFormat.RichText)
        self.summary.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.summary.setContentsMargins(14, 8, 14, 8)
        self.summary.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.days = NumberEditor("number", 1.0)
        self.days.setFixedWidth(64)
        self.days.setAccessibleName(say("Days wanted"))
        self.days.committed.connect(self._days)
        self.days.refused.connect(self.refused)
        row = QHBoxLayout()
        row.setContentsMargins(14, 8, 14, 0)
        label = Label(say("Required autonomy, days"))
        label.setBuddy(self.days)
        row.addWidget(label, 1)
        row.addWidget(self.days)
        self.which = QComboBox()
        self.which.setAccessibleName(say("Which bank"))
        self.which.activated.connect(self._show_needs)
        account = QWidget()
        column = QVBoxLayout(account)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.which)
        column.addLayout(row)
        column.addWidget(self.summary, 1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(account)
        scroll.setObjectName("panel")
        below = QSplitter(Qt.Orientation.Horizontal)
        below.addWidget(left)
        below.addWidget(scroll)
        below.setSizes([440, 440])
        name_divider(below, say("Divider beside the bars"))
        self._split = QSplitter(Qt.Orientation.Vertical)
        self._split.addWidget(upper)
        self._split.addWidget(below)
        self._split.splitterMoved.connect(self._divided)
        self._is_divided = False
        name_divider(self._split, say("Divider under the equipment"))
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.addWidget(self._split)

    def show_section(self, name: str) -> None:
        """Show one of the pictures below the table."""
        self.views.setCurrentIndex(self.sections.show_chosen(name))
        self.ahead.sky.setVisible(name == "days")
        self.ahead.refresh()

    def show_picture(self, picture: Picture, scenario: str | None) -> None:
        """Show another plan, or its days from the charge of another scenario on."""
        if picture.study is None:
            return
        scenarios = scenarios_of(picture.plan)
        self.scenario = next((s for s in scenarios if s.id == scenario), scenarios[0])
        self.wired = picture.study.wiring
        self._fill_banks()
        self.table.show_plan(picture.plan)
        bare = [e for e in picture.plan.equipment if not any(picture.plan.runs_at.get(ref) for ref in e.port)]
        self.wiring.setEnabled(bool(bare))
        self.wiring.setText(say("Wire up {bare}", bare=len(bare)) if bare else say("Wire up"))
        self._fit()
        self.days.show_value(picture.plan.autonomy_days)
        self._show_needs()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Give the table the room that there is."""
        super().resizeEvent(event)
        self._fit()

    def _divided(self) -> None:
        self._is_divided = True

    def _fit(self) -> None:
        """Columns as wide as the window lets them be read, and until somebody moves the divider, as many rows as there are."""
        scenarios = self.table.columnCount() - len(WIDTHS_PX)
        room = self.width() - sum(WIDTHS_PX) - scenarios * SCENARIO_PX - SCROLLBAR_PX
        first = min(max(round(0.4 * room), 0), MOST_MORE_PX)
        more = min(max(room - first, 0) // max(scenarios, 1), MOST_MORE_PX // 2)
        for k in range(self.table.columnCount()):
            self.view.setColumnWidth(
                k, WIDTHS_PX[k] + (0 if k else first) if k < len(WIDTHS_PX) else SCENARIO_PX + more
            )
        if not self._is_divided:
            wanted = AROUND_PX + self.view.verticalHeader().defaultSectionSize() * (self.table.rowCount() + 1)
            upper = min(max(wanted, self.height() // 3), self.height() * 55 // 100)
            self._split.setSizes([upper, self.height() - upper])

    def _fill_banks(self) -> None:
        """Offer the plan's banks where it has several: the largest first, with what hangs on none."""
        banks = self.wired.banks if self.wired else ()
        largest = needs(self.wired).bank if self.wired else None
        entries = [
            (say("Bank of {units}", units=b.units[0].title), b.id)
            for b in sorted(banks, key=lambda b: b is not largest)
        ]
        if [(self.which.itemText(k), self.which.itemData(k)) for k in range(self.which.count())] != entries:
            self.which.clear()
            for text, id_ in entries:
                self.which.addItem(text, id_)
        self.which.setVisible(len(entries) > 1)

    def _show_needs(self) -> None:
        if self.wired is None:
            return
        bank = next((b for b in self.wired.banks if b.id == self.which.currentData()), None)
        self.needs = needs(self.wired, bank)
        self.bars.show_needs(self.needs)
        self.summary.setText(summary_of(self.needs))
        if self.scenario is not None:
            self.ahead.show_plan(self.wired.plan, self.scenario, self.needs.bank)

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.bars.palette_ = palette
        self.bars.update()
        self.ahead.set_palette(palette)

    def set_units(self, _: Units) -> None:
        """Nothing here has a length or a size of conductor that follows the units."""

    def select(self, id_: str | None) -> None:
        """Select equipment's row."""
        rows = [k for k, e in enumerate(self.table.plan.equipment) if e.id == id_]
        if rows and self.view.currentIndex().row() != rows[0]:
            self.view.setCurrentIndex(self.table.index(rows[0], 0))
        self.bars.selected = id_
        self.bars.update()

    def close_worker(self) -> None:
        """End the thread that follows the days."""
        self.ahead.worker.close()

    def _current(self, now: QModelIndex, _: QModelIndex) -> None:
        if now.isValid():
            e = self.table.plan.equipment[now.row()]
            self.bars.selected = e.id
            self.bars.update()
            self.picked.emit(e.id)

    def _add(self, kind: str) -> None:
        volts = self.needs.nominal_v if self.needs else 12.0
        try:
            new = defaults.new_equipment(self.table.plan, kind, volts)
        except EditError as error:
            self.refused.emit(say("Not added: {error}.", error=error))
            return
        self.wanted.emit(Edit(say("Add {new}", new=new.title), partial(_added, new=new)))

    def write(self) -> None:
        """Put the keyboard where a line is typed."""
        self.line.setFocus()

    def _add_line(self) -> None:
        """Add what is typed; what is not understood stays there to be mended."""
        text, volts = self.line.text().strip(), self.needs.nominal_v if self.needs else 12.0
        if not text:
            return
        try:
            _, ids = add_line(self.table.plan, text, volts)
        except NotRead as error:
            self.refused.emit(say("Not added: {error}.", error=error))
            return
        label = say("Add {text}", text=text) if len(ids) == 1 else say("Add {ids} of {text}", ids=len(ids), text=text)
        self.line.clear()
        self.wanted.emit(Edit(label, partial(_with_line, line=text, volts=volts)))

    def _remove(self) -> None:
        now = self.view.currentIndex()
        if now.isValid():
            edit = removing.removal(self.table.plan, self.table.plan.equipment[now.row()].id)
            if edit is not None:
                self.wanted.emit(edit)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Delete removes the chosen equipment."""
        if event.key() == Qt.Key.Key_Delete:
            self._remove()
        else:
            super().keyPressEvent(event)

    def _days(self, days: float) -> None:
        self.wanted.emit(
            Edit(say("{days:g} days of autonomy", days=days), partial(edits.change_plan, autonomy_days=days))
        )


def _added(plan: Plan, new: AnyEquipment) -> Plan:
    return edits.add(plan, new)


def _with_line(plan: Plan, line: str, volts: float) -> Plan:
    return add_line(plan, line, volts)[0]


def summary_of(n: Needs) -> str:
    """The account of a day, and voltages side by side, as rich text."""
    rows = "".join(
        f"<tr><td>{escape(d.what)}</td><td align=right>{'+' if d.wh < 0 else ''}{abs(d.wh):,.0f} Wh</td></tr>"
        for d in n.daily
        if round(d.wh)
    )
    lasts = (
        say("{autonomy_days:.1f} days", autonomy_days=n.autonomy_days)
        if isfinite(n.autonomy_days)
        else say("for ever: nothing draws")
    )
    volts = "".join(
        f"<tr><td align=right>{p.volts:g} V</td><td align=right>{p.current_a:,.0f} A</td><td align=right>{p.peak_a:,.0f} A</td>"
        f"<td align=right>{p.copper_mm2:,.1f} mm²</td><td align=right>{p.copper_kg:,.2f} kg</td></tr>"
        for p in n.proposals
    )
    reasons = "".join(f"<li>{escape(r)}</li>" for r in n.reasons)
    return say(
        "<p><span style='font-size:17px; font-weight:600'>{used_ah:,.0f} Ah a day</span> at {nominal_v:g} V · "
        "{continuous_a:,.0f} A lasting, {peak_a:,.0f} A peak at {lowest_v:g}&nbsp;V</p><p>The bank gives "
        "{usable_wh:,.0f} Wh without harm and lasts <span style='font-weight:600'>{lasts}</span>; sources give "
        "{given_wh:,.0f} Wh a day. <span style='font-weight:600'>{proposed_ah:,.0f} Ah</span> would last as "
        "wanted.</p><table cellspacing=0 cellpadding=2 width='100%'>{rows}</table><p><span "
        "style='font-weight:600'>System voltage, side by side</span> (proposals; copper for 3 % drop there and "
        "back)</p><table cellspacing=0 cellpadding=2 width='100%'><tr><td></td><td align=right>lasting</td><td "
        "align=right>peak</td><td align=right>widest</td><td align=right>copper</td></tr>{volts}</table><ul "
        "style='margin-left:-22px'>{reasons}</ul>",
        used_ah=n.used_ah,
        nominal_v=n.nominal_v,
        continuous_a=n.continuous_a,
        peak_a=n.peak_a,
        lowest_v=n.lowest_v,
        usable_wh=n.usable_wh,
        lasts=lasts,
        given_wh=n.given_wh,
        proposed_ah=n.proposed_ah,
        rows=rows,
        volts=volts,
        reasons=reasons,
    )
