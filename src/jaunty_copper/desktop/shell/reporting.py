"""The dialog that asks what a report holds and who it is by; what was answered is remembered."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QGridLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.desktop.shell.settings import Settings
from jaunty_copper.desktop.widgets.asking import answers
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.documents.pdf.cover import MOST_LOGO, Cover, NoPicture, logo_of
from jaunty_copper.documents.pdf.report import CHAPTERS, INSPECTED
from jaunty_copper.language import say
from jaunty_copper.plan.storage import read_bytes

COLUMNS = 2
WRITE = say("Write…")


class AskedReport(NamedTuple):
    """What a report shall hold.

    Attributes
    ----------
    chapters : tuple of str
        Names out of `CHAPTERS`.
    cover : Cover
        Who it is by.
    """

    chapters: tuple[str, ...]
    cover: Cover


class ReportDialog(QDialog):
    """Chapters to tick; author, firm and logo of the first page.

    Parameters
    ----------
    verb : str
        What is done with it.
    """

    answered = Signal(object)
    """What was asked for."""

    def __init__(self, settings: Settings, verb: str = WRITE, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("Report"))
        self.settings = settings
        wanted = settings.get("report chapters", list(INSPECTED))
        self.boxes = {name: QCheckBox(chapter.title) for name, chapter in CHAPTERS.items()}
        column = QVBoxLayout(self)
        for title, appendix in ((say("What an inspector reads"), False), (say("Appendices"), True)):
            head = Label(title)
            head.setObjectName("head")
            column.addWidget(head)
            some = [name for name, chapter in CHAPTERS.items() if chapter.appendix is appendix]
            grid = QGridLayout()
            for k, name in enumerate(some):
                self.boxes[name].setChecked(name in wanted)
                grid.addWidget(self.boxes[name], k // COLUMNS, k % COLUMNS)
            column.addLayout(grid)
        head = Label(say("First page"))
        head.setObjectName("head")
        column.addWidget(head)
        self.author, self.firm, self.logo = QLineEdit(), QLineEdit(), QLineEdit()
        form = QGridLayout()
        for row, (field, title, name) in enumerate(
            ((self.author, say("Author"), "author"), (self.firm, say("Firm"), "firm"), (self.logo, say("Logo"), "logo"))
        ):
            field.setAccessibleName(title)
            field.setText(settings.get(f"report {name}", ""))
            label = Label(title)
            label.setBuddy(field)
            form.addWidget(label, row, 0)
            form.addWidget(field, row, 1)
        self.logo.setPlaceholderText(say("a PNG or JPEG picture; none"))
        browse = QPushButton(say("Choose…"))
        browse.setAutoDefault(False)  # Enter in a field writes the report.
        browse.clicked.connect(self._browse)
        form.addWidget(browse, 2, 2)
        column.addLayout(form)
        self.wrong = Label()
        self.wrong.setObjectName("bad")
        self.wrong.setWordWrap(True)
        # Room for it from the start: a dialog that grows moves away under the pointer.
        self.wrong.setMinimumHeight(2 * self.wrong.fontMetrics().lineSpacing())
        column.addWidget(self.wrong)
        buttons = answers(QDialogButtonBox.StandardButton.Cancel)
        self.make = buttons.addButton(verb, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self._accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.make.setDefault(True)  # Only a button that is in its dialog can be its default.

    def _browse(self) -> None:
        folder = Path(self.logo.text()).parent if self.logo.text() else Path.home()
        chosen, _ = QFileDialog.getOpenFileName(
            self, say("Choose a logo"), str(folder), say("Pictures (*.png *.jpg *.jpeg)")
        )
        if chosen:
            self.logo.setText(chosen)

    def _accept(self) -> None:
        chapters = tuple(name for name, box in self.boxes.items() if box.isChecked())
        path = self.logo.text().strip()
        try:
            logo = read_bytes(path, MOST_LOGO) if path else b""
            if logo:
                logo_of(logo)
        except (OSError, NoPicture) as error:
            why = error.strerror or say("cannot be read") if isinstance(error, OSError) else str(error)
            self.wrong.setText(f"{Path(path).name}: {why}")
            return
        for name, field in (("author", self.author), ("firm", self.firm), ("logo", self.logo)):
            self.settings.values[f"report {name}"] = field.text()
        self.settings.put("report chapters", list(chapters))
        self.settings.write()
        self.accept()
        self.answered.emit(AskedReport(chapters, Cover(self.author.text(), self.firm.text(), logo)))
