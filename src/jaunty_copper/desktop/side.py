"""The right-hand side: what is selected, and what is found."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter

from jaunty_copper.desktop.dividers import name_divider
from jaunty_copper.desktop.findings import Findings
from jaunty_copper.desktop.inspector import Inspector
from jaunty_copper.desktop.picture import Picture


class Side(QSplitter):
    """Inspector over findings."""

    def __init__(self) -> None:
        super().__init__(Qt.Orientation.Vertical)
        self.inspector = Inspector()
        self.inspector.setObjectName("panel")
        self.findings = Findings()
        self.addWidget(self.inspector)
        self.addWidget(self.findings)
        self.setSizes([400, 320])
        name_divider(self, "Divider above the findings")

    def show_picture(self, picture: Picture) -> None:
        """List what a study found."""
        self.findings.set_findings(picture.findings)
        if picture.case is not None:
            self.findings.say_by(picture.case.book.name)
