"""Questions, warnings and file names: everything that opens a dialog of its own.

Loaded when the first of them is needed: their Qt classes alone take a twentieth of a second.
"""

from pathlib import Path
from typing import Literal

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from jaunty_copper import __version__
from jaunty_copper.desktop.widgets.asking import ask
from jaunty_copper.language import say
from jaunty_copper.plan.files import SUFFIX, PlanError
from jaunty_copper.plan.model import Plan

FILTER = say("Plans (*{suffix});;JSON (*.json);;All files (*)", suffix=SUFFIX)
MOST_DETAILS = 12


def file_to_open(parent: QWidget, folder: Path) -> Path | None:
    """Ask for a plan to open."""
    name, _ = QFileDialog.getOpenFileName(parent, say("Open a plan"), str(folder), FILTER)
    return Path(name) if name else None


LONGEST_STEM = 60
"""Letters of a file's name that is proposed: a file system takes 255 bytes, and a person reads no more."""


def file_to_save(parent: QWidget, plan: Plan, path: Path | None) -> Path | None:
    """Ask where to save a plan, beginning with its file or its name."""
    stem = (
        "".join(ch if ch.isalnum() else "_" for ch in plan.name.lower()).strip("_")[:LONGEST_STEM].rstrip("_") or "plan"
    )
    start = path or Path.home() / f"{stem}{SUFFIX}"
    name, _ = QFileDialog.getSaveFileName(parent, say("Save the plan"), str(start), FILTER)
    if not name:
        return None
    return Path(name if name.endswith(".json") else name + SUFFIX)


def may_overwrite(parent: QWidget, path: Path) -> bool:
    """Ask whether to overwrite what another program wrote."""
    buttons = QMessageBox.StandardButton
    answer = _ask(
        parent, say("The file changed"),
        say('{path} was changed by another program since it was read.\n\nOverwrite it with the plan in this window?', path=path),
        buttons.Save | buttons.Cancel, buttons.Cancel,
    )  # fmt: skip
    return answer == buttons.Save


def save_changes(parent: QWidget, plan: Plan) -> Literal["save", "discard", "cancel"]:
    """Ask what to do with unsaved changes."""
    buttons = QMessageBox.StandardButton
    answer = _ask(
        parent, say("Not saved"), say('Save the changes to {plan}?', plan=plan.title or say('this plan')),
        buttons.Save | buttons.Discard | buttons.Cancel, buttons.Save,
    )  # fmt: skip
    return "save" if answer == buttons.Save else "discard" if answer == buttons.Discard else "cancel"


def _ask(
    parent: QWidget, title: str, text: str, buttons: QMessageBox.StandardButton, default: QMessageBox.StandardButton
) -> QMessageBox.StandardButton:
    box = QMessageBox(QMessageBox.Icon.Question, title, "", buttons, parent)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(text)
    box.setDefaultButton(default)
    return QMessageBox.StandardButton(box.exec())


def broken_file(parent: QWidget, error: PlanError) -> QMessageBox:
    """Say what is wrong with a file, and where; the box stays until it is closed."""
    box = QMessageBox(parent)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setIcon(QMessageBox.Icon.Warning)
    box.setWindowTitle(say("Not opened"))
    box.setText(say("{file} was not opened. The plan in this window is untouched.", file=error.file))
    more = len(error.details) - MOST_DETAILS
    box.setInformativeText(
        "\n".join(error.details[:MOST_DETAILS]) + (say("\n… and {more} more", more=more) if more > 0 else "")
    )
    ask(box)
    return box


def cautions(parent: QWidget) -> None:
    """What may hurt."""
    QMessageBox.information(
        parent, "Cautions",
        say("A battery bank drives thousands of amperes into a dropped spanner: it melts, burns and blinds.\n\n"
        "Take rings and watches off. Wear eye protection. Use insulated tools. Cover live posts.\n"
        "Isolate every charging source and open the main link first; connect it last.\n"
        "Vented lead-acid gives off hydrogen: ventilate, and keep every spark away.\n"
        "Discharge large capacitors, and precharge them before closing a switch.\n\n"
        "This program is a planning aid. Its part data is representative unless it says otherwise. "
        "Local codes decide, and where they ask for a licensed person, a licensed person does the work. "
        "Above 60 V DC is outside its scope."),
    )  # fmt: skip


def about(parent: QWidget) -> None:
    """Name and version."""
    QMessageBox.about(
        parent, say("Jaunty Copper"),
        say('Jaunty Copper {version}\n\nPlans and checks low-voltage DC distribution, 12 to 48 V.\nMIT licence. The '
'Inter typeface is under the SIL Open Font License.', version=__version__),
    )  # fmt: skip
