"""The form for a device family of a plan's own, with a curve from a file."""

from functools import partial
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.desktop.widgets.asking import answers, ask
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.quantity import positive
from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.parts.curve_file import CurveError, read_curve
from jaunty_copper.parts.models import DeviceFamily, Gate
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.storage import MOST_TEXT, read_text

WORDS = {
    "id": say("Short name"), "label": "Name", "min_a": say("Ratings from, A"), "max_a": say("to, A"), "max_v_dc": say("Up to, V"),
    "interrupt_v_ka": say("Interrupt rating, V:kA"), "source": "Source",
}  # fmt: skip
HINTS = {
    "id": say("letters, digits and hyphens"), "interrupt_v_ka": say("pairs such as 14:10;32:5"),
    "source": say("data sheet and its number"),
}  # fmt: skip


class OwnDevice(QDialog):
    """Fields of a family, begun from one of the library's."""

    wanted = Signal(object)
    """An `Edit` that lets the plan carry the family."""

    def __init__(self, parts: Catalogue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("A device of your own"))
        self.parts = parts
        self.gates: tuple[Gate, ...] = ()
        self.like = QComboBox()
        for f in parts.device_families.values():
            self.like.addItem(f.label, f.id)
        self.like.setToolTip(say("What is not asked here is taken from this family: kind, release, terminals, curve"))
        self.fields = {name: QLineEdit() for name in WORDS}
        form = QFormLayout()
        form.addRow(say("Like"), self.like)
        for name, words in WORDS.items():
            self.fields[name].setPlaceholderText(HINTS.get(name, ""))
            form.addRow(words, self.fields[name])
        row = QHBoxLayout()
        self.rating = QLineEdit()
        self.rating.setPlaceholderText(say("rating that it was measured on, A"))
        self.curve = QPushButton(say("Curve from CSV…"))
        self.curve.setToolTip(say("Columns current_a, shortest_s, longest_s; else the curve of the family above"))
        self.curve.clicked.connect(lambda: self.read())
        row.addWidget(self.rating, 1)
        row.addWidget(self.curve)
        form.addRow(say("Curve"), row)
        self.note = Label(say("Without a file it opens like the family above."))
        self.note.setWordWrap(True)
        self.note.setObjectName("caption")
        self.buttons = answers()
        self.buttons.addButton(say("Add to this plan"), QDialogButtonBox.ButtonRole.AcceptRole)
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self._apply)
        self.buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.note)
        column.addWidget(self.buttons)
        self.like.activated.connect(self._begin)
        self._begin()
        self.resize(520, 0)

    def _begin(self) -> None:
        family = self.parts.device_families[self.like.currentData()]
        values = {
            "id": f"own-{family.id}", "label": say('own {family}', family=family.label), "min_a": f"{family.min_a:g}",
            "max_a": f"{family.max_a:g}", "max_v_dc": f"{family.max_v_dc:g}", "source": "",
            "interrupt_v_ka": ";".join(f"{v:g}:{ka:g}" for v, ka in family.interrupt_v_ka),
        }  # fmt: skip
        for name, text in values.items():
            self.fields[name].setText(text)

    def read(self, path: Path | None = None) -> None:
        """Read a curve; says what is wrong with it, and keeps what was there."""
        if path is None:
            name, _ = QFileDialog.getOpenFileName(
                self, say("Curve of a device"), str(Path.home()), say("CSV (*.csv);;All files (*)")
            )
            if not name:
                return
            path = Path(name)
        try:
            self.gates = read_curve(read_text(path, MOST_TEXT), positive(self.rating.text(), "A"), path.name)
        except (CurveError, OSError, UnicodeDecodeError, ValueError) as error:
            self.note.setText(say("Not read: {error}", error=error))
            return
        self.note.setText(
            say(
                "{path}: {gates} points, from {gates_2:.3g} to {gates_3:.3g} times the rating.",
                path=path.name,
                gates=len(self.gates),
                gates_2=self.gates[0][0],
                gates_3=self.gates[-1][0],
            )
        )

    def family(self) -> DeviceFamily:
        """The family as the form has it.

        Raises
        ------
        ValidationError
            A field is not what it must be.
        """
        like = self.parts.device_families[self.like.currentData()]
        values = {**like.model_dump(), **{name: field.text().strip() for name, field in self.fields.items()}}
        values |= {"gates": self.gates, "curve": like.curve or like.id}
        return DeviceFamily.model_validate(values)

    def _apply(self) -> None:
        try:
            family = self.family()
        except ValidationError as error:
            first = error.errors()[0]
            name = str(first["loc"][0]) if first["loc"] else ""
            self.note.setText(f"{WORDS.get(name, name)}: {first['msg'].removeprefix('Value error, ')}")
            if name in self.fields:
                self.fields[name].setFocus()
            return
        self.accept()
        self.wanted.emit(
            Edit(say("Add device family {family}", family=family.label), partial(edits.put_family, family=family))
        )


def open_for(parts: Catalogue, parent: QWidget) -> OwnDevice:
    """Show the form; it stays until answered."""
    made = OwnDevice(parts, parent)
    ask(made)
    return made
