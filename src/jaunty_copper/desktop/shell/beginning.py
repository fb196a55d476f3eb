"""New: five questions, and the core of a system is drawn."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.choosing.beginning import SYSTEMS_V, USUAL_AIR_C, Beginning, another, begun
from jaunty_copper.codes.code import code_name, code_names
from jaunty_copper.desktop.widgets.asking import answers, ask
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, positive, read
from jaunty_copper.desktop.work.patience import Cancelled, waited
from jaunty_copper.language import say, say_many
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import Bar, Plan, Scenario
from jaunty_copper.plan.supply import supply_of

BONDINGS = (
    ("not said", say("not said yet")), ("minus", say("minus bonded to chassis or earth")), ("plus", say("plus bonded to chassis or earth")),
    ("floating", say("floating: neither pole bonded")),
)  # fmt: skip
MOST_PARALLEL = 12


class BeginningDialog(QDialog):
    """Asks for voltage, chemistry, units, place and code, bonding; of a bank more for its name and its minus.

    Parameters
    ----------
    plan : Plan, optional
        The plan into which one more bank is to be drawn; a new plan where none is given.
    """

    begun = Signal(object)
    """A `Plan`."""

    def __init__(self, parent: QWidget | None = None, plan: Plan | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("A new plan") if plan is None else say("One more bank"))
        self.plan = plan
        self.system = _choice(say("System voltage"), [(v, f"{v:g} V") for v in SYSTEMS_V])
        self.chemistry = _choice(
            say("Chemistry"), [(c.id, c.label) for c in library().battery_chemistries.values()], "lifepo4"
        )
        self.unit_v = _line(say("Voltage of a unit, V"), "12")
        self.unit_ah = _line(say("Capacity of a unit, Ah"), "100")
        self.parallel = QSpinBox()
        self.parallel.setRange(1, MOST_PARALLEL)
        self.parallel.setAccessibleName(say("Units or strings in parallel"))
        self.code = _choice(say("Code"), [(n, code_name(n)) for n in code_names()], "north_american_small_craft")
        self.air = _line(say("Air where it stands, °C"), f"{USUAL_AIR_C:g}")
        self.bonding = _choice(say("Bonding"), BONDINGS)
        self.called = _line(say("Called"), say("Second bank"))
        bars = [x for x in plan.items if isinstance(x, Bar) and supply_of(plan, x).side == "minus"] if plan else []
        self.minus = _choice(
            say("Its minus"), [(None, say("a bar of its own")), *((x.id, say("shared: {x}", x=x.title)) for x in bars)]
        )
        self.note = Label("")
        self.note.setWordWrap(True)
        self.note.setObjectName("caption")
        form = QFormLayout()
        rest = (self.code, self.air, self.bonding) if plan is None else (self.air, self.called, self.minus)
        for field in (self.system, self.chemistry, self.unit_v, self.unit_ah, self.parallel, *rest):
            form.addRow(field.accessibleName(), field)
        self.buttons = answers()
        draw = self.buttons.addButton(say("Draw it"), QDialogButtonBox.ButtonRole.AcceptRole)
        if plan is None:
            empty = self.buttons.addButton(say("Empty page"), QDialogButtonBox.ButtonRole.ActionRole)
            empty.setToolTip(say("Nothing drawn: lay everything yourself"))
            empty.clicked.connect(self._empty)
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self._draw)
        self.buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.note)
        column.addWidget(self.buttons)
        draw.setDefault(True)  # Only a button that is in its dialog can be its default.
        for field in (self.system, self.parallel):
            (field.activated if isinstance(field, QComboBox) else field.valueChanged).connect(self._tell)
        for line in (self.unit_v, self.unit_ah):
            line.textChanged.connect(self._tell)
        self.resize(460, 0)
        self._tell()

    def asked(self) -> Beginning:
        """What is asked for.

        Raises
        ------
        NotUnderstood
            A figure is none.
        """
        return Beginning(
            system_v=self.system.currentData(), chemistry=self.chemistry.currentData(),
            unit_v=positive(self.unit_v.text(), "V"), unit_ah=positive(self.unit_ah.text(), "Ah"),
            parallel=self.parallel.value(), practice=self.code.currentData(), bonding=self.bonding.currentData(),
            air_c=read(self.air.text(), "°C"),
        )  # fmt: skip

    def _tell(self) -> None:
        """Say what bank that comes to, or why it comes to none."""
        try:
            b = self.asked()
            units = (
                say("{series} in series", series=b.series)
                if b.parallel == 1
                else say("{series} in series, {parallel} in parallel", series=b.series, parallel=b.parallel)
            )
            energy = b.series * b.parallel * b.unit_v * b.unit_ah
            self.note.setText(
                f"{_count(b.series * b.parallel)}, {units}: {b.parallel * b.unit_ah:g} Ah, {energy / 1000:.3g} kWh"
            )
        except (NotUnderstood, EditError) as error:
            self.note.setText(str(error))

    def _draw(self) -> None:
        try:
            make = (
                partial(begun, self.asked())
                if self.plan is None
                else partial(another, self.plan, self.asked(), self.called.text().strip(), self.minus.currentData())
            )
            plan = waited(self, say("Drawing the core…"), make)
        except (NotUnderstood, EditError) as error:
            self.note.setText(str(error))
            return
        except Cancelled:
            return
        self.accept()
        self.begun.emit(plan)

    def _empty(self) -> None:
        self.accept()
        self.begun.emit(empty_page(self.code.currentData()))


def _count(units: int) -> str:
    return say_many("{count} unit", "{count} units", units)


def empty_page(practice: str) -> Plan:
    """A plan with nothing in it but a scenario."""
    return Plan.model_validate(
        {"name": "New plan", "practice": practice, "scenarios": [Scenario(id="all", name=say("Everything on"))]}
    )


def _choice(name: str, values: Iterable[tuple[object, str]], now: object = None) -> QComboBox:
    made = QComboBox()
    made.setAccessibleName(name)
    for value, text in values:
        made.addItem(text, value)
    made.setCurrentIndex(max(made.findData(now), 0))
    return made


def _line(name: str, text: str) -> QLineEdit:
    made = QLineEdit(text)
    made.setAccessibleName(name)
    return made


def open_for(parent: QWidget, plan: Plan | None = None) -> BeginningDialog:
    """Ask; the dialog stays until answered."""
    made = BeginningDialog(parent, plan)
    ask(made)
    return made
