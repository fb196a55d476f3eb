"""The inspector: what is selected, its figures, and its fields to edit."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from math import isfinite
from typing import Any, Literal

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QScrollArea,
    QWidget,
)

from jaunty_copper.desktop import words
from jaunty_copper.desktop.picture import Picture
from jaunty_copper.desktop.words import FEET, Units
from jaunty_copper.plan import edits
from jaunty_copper.plan.check import SWITCHES
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import (
    Alternator,
    Bar,
    Battery,
    Breaker,
    Charger,
    Chassis,
    Contactor,
    Converter,
    CurrentLoad,
    Disconnect,
    Equipment,
    Fuse,
    Inline,
    Inverter,
    Named,
    Plan,
    PlugConnector,
    Post,
    PowerLoad,
    ResistiveLoad,
    Run,
    Scenario,
    Shunt,
    SolarController,
    Zone,
    split_ref,
)
from jaunty_copper.practice.book import book, names
from jaunty_copper.practice.case import Case
from jaunty_copper.practice.rules import protection
from jaunty_copper.study.study import port_refs

LABELS_PX = 118
"""Width of the column of labels."""

Kind = Literal["text", "number", "blank", "choice", "flag", "count"]
Choices = Callable[[Plan, Case, Units], Sequence[tuple[Any, str]]]


@dataclass(frozen=True)
class Field:
    """One editable field.

    Attributes
    ----------
    kind : str
        text, number (must be there), blank (a number that may be left out), count (a whole
        number), choice or flag.
    unit : str
        Written behind the label; "m" follows the window's units.
    """

    name: str
    label: str
    kind: Kind
    unit: str = ""
    choices: Choices | None = None


def _zones(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, "open air"), *((z.id, z.name or z.id) for z in plan.zones)]


def _conductors(_: Plan, case: Case, units: Units) -> Sequence[tuple[Any, str]]:
    groups = ("awg", "sae", "metric") if units.awg else ("metric", "awg", "sae")
    return [(c.id, c.label) for g in groups for c in case.parts.sizes(g)]


def _insulations(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(i.id, i.label) for i in case.parts.insulations.values()]


def _families(kind: str) -> Choices:
    def choices(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
        return [(f.id, f.label) for f in case.parts.device_families.values() if f.kind == kind]

    return choices


def _chemistries(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(c.id, c.label) for c in case.parts.battery_chemistries.values()]


def _threads(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, "as usual"), *((s.thread, s.label) for s in case.parts.studs.values())]


def _lugs(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, "fits the stud"), *((s.thread, s.label) for s in case.parts.studs.values())]


def _terminals(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(x.ref(t), f"{x.title} · {t}") for x in plan.placed for t in x.terminal_names]


def _terminals_or_own(plan: Plan, case: Case, units: Units) -> Sequence[tuple[Any, str]]:
    return [(None, "its own"), *_terminals(plan, case, units)]


NAME = Field("name", "Name", "text")
ZONE = Field("zone", "Zone", "choice", choices=_zones)
MEASURED = Field("measured_ohm", "Measured", "blank", "Ω")
THREAD = Field("thread", "Stud", "choice", choices=_threads)
RATING = Field("rating_a", "Rating", "number", "A")
NOMINAL = Field("nominal_v", "System", "number", "V")
SURGE = Field("surge_w", "Surge", "blank", "W")
LOWEST = Field("min_v", "Needs at least", "blank", "V")
CRITICAL = Field("critical", "Critical", "flag")
SOURCE = (
    NAME, NOMINAL, Field("current_a", "Most current", "number", "A"), Field("set_v", "Holds", "number", "V"),
    Field("sense_plus", "Senses plus at", "choice", choices=_terminals_or_own),
    Field("sense_minus", "Senses minus at", "choice", choices=_terminals_or_own), ZONE,
)  # fmt: skip

FIELDS: dict[type, tuple[Field, ...]] = {
    Run: (
        Field("length_m", "Length one way", "number", "m"),
        Field("conductor", "Size", "choice", choices=_conductors),
        Field("insulation", "Insulation", "choice", choices=_insulations),
        Field("parallel", "Side by side", "count"),
        ZONE,
        Field("bundle", "Bundled with", "count"),
        Field("sheathed", "Sheathed", "flag"),
        Field("cranking", "Feeds a starter", "flag"),
        Field("a", "From", "choice", choices=_terminals),
        Field("b", "To", "choice", choices=_terminals),
        Field("lug_a", "Lug at from", "choice", choices=_lugs),
        Field("lug_b", "Lug at to", "choice", choices=_lugs),
        Field("measured_ohm", "Measured whole", "blank", "Ω"),
        Field("joint_a_ohm", "Joint at from", "blank", "Ω"),
        Field("joint_b_ohm", "Joint at to", "blank", "Ω"),
    ),
    Fuse: (NAME, Field("family", "Family", "choice", choices=_families("fuse")), RATING, THREAD, ZONE, MEASURED),
    Breaker: (
        NAME, Field("family", "Family", "choice", choices=_families("breaker")), RATING,
        Field("closed", "Closed", "flag"), THREAD, ZONE, MEASURED,
    ),
    Disconnect: (
        NAME, RATING, Field("intermittent_a", "Short time", "blank", "A"), Field("max_v", "Up to", "number", "V"),
        Field("closed", "Closed", "flag"), THREAD, ZONE, MEASURED,
    ),
    Contactor: (
        NAME, Field("rating_a", "Continuous", "blank", "A"), Field("intermittent_a", "Short time", "blank", "A"),
        Field("coil_w", "Coil", "number", "W"), Field("max_v", "Up to", "number", "V"),
        Field("closed", "Closed", "flag"), THREAD, ZONE, MEASURED,
    ),
    Shunt: (NAME, RATING, Field("drop_mv", "At rated current", "number", "mV"), THREAD, ZONE, MEASURED),
    PlugConnector: (
        NAME, RATING, Field("max_v", "Up to", "number", "V"), Field("contact_ohm", "Contact", "number", "Ω"), ZONE, MEASURED,
    ),
    Battery: (
        NAME, Field("chemistry", "Chemistry", "choice", choices=_chemistries), Field("nominal_v", "Nominal", "number", "V"),
        Field("capacity_ah", "Capacity", "number", "Ah"), Field("internal_ohm", "Internal", "blank", "Ω"), THREAD, ZONE,
    ),
    Bar: (
        NAME, RATING, Field("width_mm", "Width", "number", "mm"), Field("thickness_mm", "Thickness", "number", "mm"),
        Field("spacing_mm", "Stud to stud", "number", "mm"), ZONE,
    ),
    Post: (NAME, Field("rating_a", "Rating", "blank", "A"), THREAD, ZONE),
    Chassis: (NAME, ZONE),
    PowerLoad: (NAME, NOMINAL, Field("power_w", "Power", "number", "W"), SURGE, LOWEST, CRITICAL, ZONE),
    CurrentLoad: (
        NAME, NOMINAL, Field("current_a", "Current", "number", "A"), Field("surge_a", "Surge", "blank", "A"), LOWEST, CRITICAL, ZONE,
    ),
    ResistiveLoad: (NAME, NOMINAL, Field("power_w", "Power", "number", "W"), SURGE, LOWEST, CRITICAL, ZONE),
    Inverter: (
        NAME, NOMINAL, Field("power_w", "Output", "number", "W"), SURGE, Field("efficiency", "Efficiency", "number", "of 1"),
        Field("idle_w", "Idle", "number", "W"), Field("cut_out_v", "Cuts out below", "blank", "V"), CRITICAL, ZONE,
    ),
    Charger: SOURCE,
    Alternator: SOURCE,
    SolarController: (*SOURCE[:2], Field("power_w", "Array power", "number", "W"), *SOURCE[2:]),
    Converter: (
        NAME, NOMINAL, Field("out_nominal_v", "Output system", "number", "V"), Field("set_v", "Holds", "number", "V"),
        Field("current_a", "Most current", "number", "A"), Field("efficiency", "Efficiency", "number", "of 1"),
        Field("idle_w", "Idle", "number", "W"), Field("min_v", "Stops below", "blank", "V"),
        Field("isolated", "Isolated", "flag"), CRITICAL, ZONE,
    ),
    Zone: (NAME, Field("ambient_c", "Air", "number", "°C"), Field("engine_space", "Engine space", "flag")),
    Scenario: (NAME, Field("soc_percent", "Bank's charge", "number", "%")),
}  # fmt: skip

KIND_WORDS: dict[type, str] = {
    Run: "conductor", Fuse: "fuse", Breaker: "breaker", Disconnect: "disconnect", Contactor: "contactor", Shunt: "shunt",
    PlugConnector: "plug connector", Battery: "battery unit", Bar: "busbar", Post: "stud", Chassis: "chassis",
    PowerLoad: "constant power", CurrentLoad: "constant current", ResistiveLoad: "resistive load", Inverter: "inverter",
    Charger: "charger", Alternator: "alternator", SolarController: "solar controller", Converter: "converter",
}  # fmt: skip


class Inspector(QScrollArea):
    """Fields of what is selected; each change is one edit."""

    wanted = Signal(object)
    """An `Edit` to apply."""
    jump = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.picture: Picture | None = None
        self.plan: Plan | None = None
        self.scenario: str | None = None
        self.units = Units()
        self.selected: str | None = None
        self._editors: dict[tuple[str, str], QWidget] = {}

    def show_selection(self, plan: Plan, picture: Picture | None, selected: str | None) -> None:
        """Show a selection of a plan, with figures of the newest study."""
        had = next((key for key, editor in self._editors.items() if editor.hasFocus()), None)
        scrolled = self.verticalScrollBar().value() if selected == self.selected else 0
        self.plan, self.picture, self.selected = plan, picture, selected
        self._editors = {}
        body = QWidget()
        self._grid = QGridLayout(body)
        self._grid.setContentsMargins(16, 12, 8, 12)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(6)
        self._grid.setColumnStretch(1, 1)
        self._grid.setColumnMinimumWidth(0, LABELS_PX)
        if picture is not None and picture.case is not None:
            self._fill(picture.case)
        self._grid.setRowStretch(self._grid.rowCount(), 1)
        self.setWidget(body)
        self.verticalScrollBar().setValue(scrolled)
        if had is not None and had in self._editors:
            self._editors[had].setFocus()

    def focus_first(self) -> None:
        """Put the keyboard into the first field after the name."""
        editors = [w for (_, name), w in self._editors.items() if name != "name"] or list(self._editors.values())
        if editors:
            editors[0].setFocus(Qt.FocusReason.ShortcutFocusReason)
            if isinstance(editors[0], QLineEdit):
                editors[0].selectAll()

    def editor(self, id_: str, name: str) -> QWidget:
        """The widget that edits one field; tests and shortcuts find it here."""
        return self._editors[id_, name]

    # Building

    def _fill(self, case: Case) -> None:
        assert self.plan is not None
        selected = self.selected
        if selected is None:
            self._plan_section(case)
            return
        id_, _, stud = selected.partition(".")
        thing: Named | Run | None = self.plan.run_by_id.get(id_) or self.plan.by_id.get(id_)
        if thing is None:
            self._plan_section(case)
            return
        if isinstance(thing, Run):
            self._head(
                case.run_title(thing).partition(", ")[2] if thing.id in case.plan.run_by_id else thing.id,
                f"{thing.id} · conductor",
            )
        else:
            self._head(thing.title, f"{thing.id}{' · stud ' + stud if stud else ''} · {KIND_WORDS[type(thing)]}")
        for label, value in self._facts(case, thing, stud):
            self._fact(label, value)
        self._line()
        for field in FIELDS[type(thing)]:
            self._field(case, thing, field)
        self._state(thing)

    def _plan_section(self, case: Case) -> None:
        assert self.plan is not None
        plan = self.plan
        self._head(plan.name or "Plan without a name", "the plan")
        self._text_editor(
            "plan", "name", "Name", plan.name, lambda v: Edit("Rename the plan", partial(edits.change_plan, name=v))
        )
        chosen = self._choice_editor(
            "plan", "practice", "Practice", plan.practice, [(n, book(n).name) for n in names()],
            lambda v: Edit(f"Judge by {book(v).name}", partial(edits.change_plan, practice=v)),
        )  # fmt: skip
        chosen.setAccessibleName("Practice")
        note = QLabel(case.book.summary)
        note.setWordWrap(True)
        note.setObjectName("caption")
        self._grid.addWidget(note, self._grid.rowCount(), 0, 1, 2)
        scenario = next((s for s in plan.scenarios if s.id == self.scenario), None)
        if scenario is not None:
            self._line()
            self._caption("This scenario")
            for field in FIELDS[Scenario]:
                self._field(case, scenario, field)
        for zone in plan.zones:
            self._line()
            self._caption(f"Zone {zone.id}")
            for field in FIELDS[Zone]:
                self._field(case, zone, field)

    def _head(self, title: str, kind: str) -> None:
        head = QLabel(title)
        head.setObjectName("head")
        head.setWordWrap(True)
        self._grid.addWidget(head, self._grid.rowCount(), 0, 1, 2)
        self._caption(kind)

    def _caption(self, text: str) -> None:
        caption = QLabel(text)
        caption.setObjectName("caption")
        self._grid.addWidget(caption, self._grid.rowCount(), 0, 1, 2)

    def _line(self) -> None:
        line = QWidget()
        line.setFixedHeight(6)
        self._grid.addWidget(line, self._grid.rowCount(), 0, 1, 2)

    def _fact(self, label: str, value: str) -> None:
        row = self._grid.rowCount()
        name = QLabel(label)
        name.setObjectName("field")
        name.setAlignment(Qt.AlignmentFlag.AlignTop)
        text = QLabel(value)
        text.setObjectName("fact")
        text.setWordWrap(True)
        text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._grid.addWidget(name, row, 0)
        self._grid.addWidget(text, row, 1)

    def _facts(self, case: Case, thing: Named | Run, stud: str) -> list[tuple[str, str]]:
        """Computed figures of a thing; none while its study is still to come."""
        picture, scenario = self.picture, self.scenario
        if picture is None or (thing.id not in case.plan.by_id and thing.id not in case.plan.run_by_id):
            return []
        if isinstance(thing, Run):
            return self._run_facts(case, thing)
        facts: list[tuple[str, str]] = []
        if isinstance(thing, Equipment):
            r = picture.equipment(thing, scenario)
            if r.mode == "":
                return [("Now", "no operating point")]
            facts.append(("Now", f"{words.amps(r.current_a)} at {words.volts(r.voltage_v)}, {r.mode}"))
            one_way, both = self._lengths(case, thing)
            facts.append(
                ("Loses", f"{words.drop(r.drop_v)}, {100 * r.drop_share:.1f} % of {100 * r.limit_share:.0f} % allowed")
            )
            facts.append(("Way", f"{self.units.length(one_way)} out, {self.units.length(both)} out and back"))
            if isinstance(thing, Converter):
                v, amps = picture.output(thing, scenario)
                facts.append(("Gives", f"{words.amps(amps)} at {words.volts(v)}"))
        elif isinstance(thing, Battery):
            current = picture.through(thing.id, scenario)[0]
            verb = "takes" if current < 0 else "gives"
            facts.append(
                ("Now", f"{verb} {words.amps(current)} at {words.volts(picture.battery_v(thing.id, scenario))}")
            )
            facts.append(("C-rate", f"{abs(current) / thing.capacity_ah:.2f} per hour"))
        elif isinstance(thing, Inline):
            current, lost = picture.through(thing.id, scenario)
            facts.append(("Now", f"{words.amps(current)}, loses {words.drop(lost)}"))
            if isinstance(thing, Fuse | Breaker):
                low, high, weak = device_window(case, thing)
                facts.append(
                    (
                        "May be",
                        f"{low:.3g} A to {high:.3g} A"
                        if high >= low
                        else f"nothing fits: needs {low:.3g} A, bears {high:.3g} A",
                    )
                )
                facts.append(("Weakest behind", weak))
                family = case.parts.device_families[thing.family]
                facts.append(("Interrupts", ", ".join(f"{ka:g} kA at {v:g} V" for v, ka in family.interrupt_v_ka)))
        elif isinstance(thing, Bar):
            if stud:
                facts.append(("Stud", f"{stud}: {words.volts(picture.node_v(thing.ref(stud), scenario))}"))
            worst = max(
                (
                    max((abs(float(s.point.current_a[k])) for s in picture.states(scenario)), default=0.0)
                    for k in case.wiring.segments.get(thing.id, [])
                ),
                default=0.0,
            )
            facts.append(("Worst segment", f"{words.amps(worst)} of {words.amps(thing.rating_a)}"))
        return facts

    def _run_facts(self, case: Case, run: Run) -> list[tuple[str, str]]:
        assert self.picture is not None
        r = self.picture.run(run.id, self.scenario)
        amp = case.ampacities.get(run.id)
        if not isfinite(r.current_a):
            facts = [("Now", "no operating point")]
        else:
            facts = [("Now", f"{words.amps(r.current_a)}, loses {words.drop(r.drop_v)} and {r.loss_w:.1f} W")]
        if amp is not None:
            facts.append(("Ampacity", f"{words.amps(amp.amps)}, by {amp.governs}"))
            if isfinite(r.used):
                facts.append(("Used", words.percent(r.used)))
            limits = ", ".join(
                f"{name} {value:.0f} A"
                for name, value in (
                    ("table", amp.by_table),
                    ("terminals", amp.by_terminals),
                    ("heat balance", amp.by_heat),
                )
                if isfinite(value)
            )
            facts.append(("Limits", limits))
            if isfinite(r.temperature_c):
                facts.append(("Copper", f"{r.temperature_c:.0f} °C steady"))
        return facts

    def _lengths(self, case: Case, e: Equipment) -> tuple[float, float]:
        """Length of the equipment's own conductors one way, and out and back, m."""
        plus, minus = (sum(r.length_m for r in case.chain(e, split_ref(ref)[1])) for ref in port_refs(e))
        return plus, plus + minus

    # Editors

    def _field(self, case: Case, thing: Named | Run | Zone | Scenario, field: Field) -> None:
        value = getattr(thing, field.name)
        title = thing.id if isinstance(thing, Run) else getattr(thing, "title", thing.id)

        def edit(new: Any) -> Edit:
            return Edit(f"{field.label} of {title}", partial(edits.change, id_=thing.id, **{field.name: new}))

        match field.kind:
            case "choice":
                assert field.choices is not None
                assert self.plan is not None
                self._choice_editor(
                    thing.id, field.name, field.label, value, list(field.choices(self.plan, case, self.units)), edit
                )
            case "flag":
                self._flag_editor(thing.id, field, bool(value), edit)
            case "text":
                self._text_editor(thing.id, field.name, field.label, value, edit)
            case _:
                self._number_editor(thing.id, field, value, edit)

    def _put(self, key: tuple[str, str], label: str, widget: QWidget) -> None:
        row = self._grid.rowCount()
        name = QLabel(label)
        name.setObjectName("field")
        name.setWordWrap(True)
        name.setFixedWidth(LABELS_PX)
        widget.setMinimumWidth(60)
        widget.setAccessibleName(label)
        widget.installEventFilter(self)
        name.setBuddy(widget)
        self._grid.addWidget(name, row, 0)
        self._grid.addWidget(widget, row, 1)
        self._editors[key] = widget

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Leave wheel turns over fields to the scroll area: a turn must not change a plan."""
        if event.type() == QEvent.Type.Wheel and isinstance(watched, QComboBox) and not watched.hasFocus():
            event.ignore()
            return True
        return super().eventFilter(watched, event)

    def _text_editor(self, id_: str, name: str, label: str, value: str, edit: Callable[[str], Edit]) -> None:
        line = QLineEdit(value)
        line.setCursorPosition(0)

        def done() -> None:
            if line.text() != value:
                self.wanted.emit(edit(line.text()))

        line.editingFinished.connect(done)
        self._put((id_, name), label, line)

    def _number_editor(self, id_: str, field: Field, value: float | None, edit: Callable[[Any], Edit]) -> None:
        factor, unit = (FEET, "ft") if field.unit == "m" and self.units.awg else (1.0, field.unit)
        shown = "" if value is None else f"{value * factor:.6g}"
        line = QLineEdit(shown)
        line.setPlaceholderText("not given" if field.kind == "blank" else "")

        def done() -> None:
            text = line.text().strip().replace(",", ".")
            if text == shown:
                return
            if not text and field.kind == "blank":
                self.wanted.emit(edit(None))
                return
            try:
                number: float | int = int(text) if field.kind == "count" else float(text) / factor
            except ValueError:
                line.setText(shown)
                return
            self.wanted.emit(edit(number))

        line.editingFinished.connect(done)
        self._put((id_, field.name), f"{field.label}, {unit}" if unit else field.label, line)

    def _choice_editor(
        self, id_: str, name: str, label: str, value: Any, choices: list[tuple[Any, str]], edit: Callable[[Any], Edit]
    ) -> QComboBox:
        box = QComboBox()
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(6)
        box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        for own, text in choices:
            box.addItem(text, own)
        values = [own for own, _ in choices]
        if value not in values:
            box.insertItem(0, str(value), value)
            values.insert(0, value)
        box.setCurrentIndex(values.index(value))

        def chosen(k: int) -> None:
            if values[k] != value:
                self.wanted.emit(edit(values[k]))

        box.activated.connect(chosen)
        self._put((id_, name), label, box)
        return box

    def _flag_editor(self, id_: str, field: Field, value: bool, edit: Callable[[bool], Edit]) -> None:
        box = QCheckBox("yes")
        box.setChecked(value)
        box.clicked.connect(lambda on: self.wanted.emit(edit(bool(on))))
        self._put((id_, field.name), field.label, box)

    def _state(self, thing: Named | Run) -> None:
        """What equipment or a switch does in the chosen scenario."""
        assert self.plan is not None
        scenario = next((s for s in self.plan.scenarios if s.id == self.scenario), None)
        switch = isinstance(thing, SWITCHES)
        if scenario is None or not (switch or isinstance(thing, Equipment)):
            return
        value = scenario.states.get(thing.id)
        choices: list[tuple[Any, str]] = (
            [(None, "as drawn"), ("closed", "closed"), ("open", "open")]
            if switch
            else [(None, "on"), ("off", "off"), ("surge", "surge"), *((k / 10, f"{10 * k} %") for k in range(1, 10))]
        )
        if value == "on":
            value = None
        if isinstance(value, float) and value not in [c for c, _ in choices]:
            choices.append((value, f"{100 * value:g} %"))
        self._line()
        self._choice_editor(
            thing.id, "state", f"In “{scenario.title}”"[:24], value, choices,
            lambda v: Edit(f"{thing.id} in {scenario.title}", partial(edits.set_state, scenario_id=scenario.id, id_=thing.id, state=v)),
        )  # fmt: skip


def device_window(case: Case, device: Fuse | Breaker) -> tuple[float, float, str]:
    """The permitted window of a device's rating: what the load needs, what the weakest thing allows, and which."""
    low = protection.normal_current(case, device)
    ks = [k for k in case.study.guard.guarded_by.get(device.id, ()) if not protection.is_tap(case, k)]
    high, k = min(((protection.allowed_rating(case, k, device), k) for k in ks), default=(float("inf"), -1))
    weak = "nothing that is known" if k < 0 else case.title(case.wiring.branches[k].owner)
    return low, high, weak
