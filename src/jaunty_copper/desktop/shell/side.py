"""The right-hand side: what is selected, and what is found."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter

from jaunty_copper.desktop.findings.panel import Findings
from jaunty_copper.desktop.inspector.panel import Inspector
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say


class Side(QSplitter):
    """Inspector over findings."""

    def __init__(self) -> None:
        super().__init__(Qt.Orientation.Vertical)
        self.inspector = Inspector()
        self.inspector.setObjectName("panel")
        self.findings = Findings()
        self.addWidget(self.inspector)
        self.addWidget(self.findings)
        self._page = "map"
        self._sizes = {"map": [370, 350]}
        self.setSizes(self._sizes["map"])
        name_divider(self, say("Divider above the findings"))

    def for_page(self, page: str) -> None:
        """Give findings the room that they have on a page: beside other work than the map's they are few lines."""
        self._sizes[self._page] = self.sizes()
        self._page = page
        self.setSizes(self._sizes.get(page, [510, 210]))

    def show_picture(self, picture: Picture) -> None:
        """List what a study found."""
        self.findings.set_findings(picture.findings)
        if picture.case is not None:
            self.findings.say_by(picture.case.code.name)
