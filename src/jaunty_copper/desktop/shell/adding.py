"""Add equipment: what it is in a line, and where each side of it goes."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.choosing.adding import add_at
from jaunty_copper.desktop.widgets.asking import answers, ask
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, positive
from jaunty_copper.desktop.work.patience import Cancelled, waited
from jaunty_copper.documents.words import FEET, Units
from jaunty_copper.language import say
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.lines import NotRead, add_line
from jaunty_copper.plan.model import AnyEquipment, Converter, Plan, Source
from jaunty_copper.plan.supply import Place, places

OWN_BARS = say("bars of its own")


class AddDialog(QDialog):
    """Asks what, and where each side goes."""

    made = Signal(object, str)
    """The plan with it, and what it is called."""

    def __init__(self, plan: Plan, selected: str | None, units: Units, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("Add equipment"))
        self.plan, self._unit = plan, "ft" if units.awg else "m"
        self.places: list[Place] = list(places(plan))
        self._chosen_by_hand: set[QComboBox] = set()
        self.line = QLineEdit()
        self.line.setAccessibleName(say("What it is"))
        self.line.setPlaceholderText(say("Charger 30 A 3 m   ·   Converter 24 to 12 V 20 A 1 m"))
        self.at = _choice(say("Joined at"), [p.text for p in self.places])
        self.output = _choice(say("Its output at"), [OWN_BARS, *(p.text for p in self.places)])
        self.output_m = QLineEdit("3" if units.awg else "1")
        self.output_m.setAccessibleName(say("Its output, length one way, {unit}", unit=self._unit))
        self.engine = QCheckBox(say("Only with its engine on"))
        self.engine.setToolTip(say("Off in every scenario, on in one of its own"))
        self.note = Label("")
        self.note.setWordWrap(True)
        self.note.setObjectName("caption")
        form = QFormLayout()
        for field in (self.line, self.at, self.output, self.output_m):
            form.addRow(field.accessibleName(), field)
        form.addRow("", self.engine)
        self.buttons = answers()
        self.ok: QPushButton = self.buttons.addButton(say("Add it"), QDialogButtonBox.ButtonRole.AcceptRole)
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self._add)
        self.buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.note)
        column.addWidget(self.buttons)
        self.ok.setDefault(True)  # Only a button that is in its dialog can be its default.
        self.line.textChanged.connect(self._read)
        for box in (self.at, self.output):
            box.activated.connect(partial(self._by_hand, box))
        self.at.activated.connect(self._read)
        hub = (selected or "").partition(".")[0]
        here = next((k for k, p in enumerate(self.places) if hub in (p.plus[0], p.minus[0])), None)
        if here is not None and hub:
            self.at.setCurrentIndex(here)
            self._chosen_by_hand.add(self.at)
        self.resize(520, 0)
        self._read()

    def _by_hand(self, box: QComboBox, _: int) -> None:
        self._chosen_by_hand.add(box)

    def _read(self) -> None:
        """Say what the line means, and propose where it goes."""
        found = self._meant()
        output = isinstance(found, Converter)
        for widget in (self.output, self.output_m):
            widget.setEnabled(output)
        self.engine.setEnabled(isinstance(found, Source | Converter))
        self.ok.setEnabled(found is not None and bool(self.places))
        if not self.places:
            self.note.setText(say("There is no pair of bars and no bank yet to join it to"))
        if found is None:
            return
        if self.at not in self._chosen_by_hand:
            self.at.setCurrentIndex(next((k for k, p in enumerate(self.places) if p.fits(found.nominal_v)), 0))
        at = self.places[self.at.currentIndex()] if self.places else None
        if isinstance(found, Converter) and self.output not in self._chosen_by_hand:
            other = (
                k for k, p in enumerate(self.places, 1)
                if p.bank is not None and at is not None and p.rail != at.rail and p.fits(found.out_nominal_v)
            )  # fmt: skip
            self.output.setCurrentIndex(next(other, 0))
        odd = at is not None and not at.fits(found.nominal_v)
        self.note.setText(
            say('It is for {nominal_v:g} V; {volts:g} V lie there', nominal_v=found.nominal_v, volts=at.volts) if odd and at is not None
            else say("Its conductors and devices are sized for it, and follow it")
        )  # fmt: skip

    def _meant(self) -> AnyEquipment | None:
        """What the line says; None where it says too little, with why in the note."""
        try:
            volts = self.places[self.at.currentIndex()].volts if self.places else 12.0
            held, ids = add_line(Plan(), self.line.text(), volts)
        except NotRead as error:
            self.note.setText(str(error) if self.line.text().strip() else say("Write what it is, and its figures"))
            return None
        return next(e for e in held.equipment if e.id == ids[0])

    def _add(self) -> None:
        k = self.output.currentIndex()
        output = self.places[k - 1] if k and self.output.isEnabled() else None
        try:
            length = positive(self.output_m.text(), self._unit) / (FEET if self._unit == "ft" else 1.0)
            make = partial(
                add_at, self.plan, self.line.text(), self.places[self.at.currentIndex()], output, round(length, 4),
                self.engine.isEnabled() and self.engine.isChecked(),
            )  # fmt: skip
            plan = waited(self, say("Laying its circuit…"), make)
        except (NotUnderstood, NotRead, EditError) as error:
            self.note.setText(say("Not added: {error}", error=error))
            return
        except Cancelled:
            return
        self.accept()
        self.made.emit(plan, self.line.text().strip())


def _choice(name: str, texts: list[str]) -> QComboBox:
    made = QComboBox()
    made.setAccessibleName(name)
    made.addItems(texts)
    return made


def open_for(plan: Plan, selected: str | None, units: Units, parent: QWidget) -> AddDialog:
    """Ask; the dialog stays until answered."""
    made = AddDialog(plan, selected, units, parent)
    ask(made)
    made.line.setFocus()
    return made
