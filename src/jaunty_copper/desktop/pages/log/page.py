"""The Log page: measure, what was done and seen since, what became of it, and why a device opened."""

from pathlib import Path

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout

from jaunty_copper.desktop.pages.base import Page
from jaunty_copper.desktop.pages.log.logbook import LogbookPane
from jaunty_copper.desktop.pages.log.measure import MeasurePane
from jaunty_copper.desktop.pages.log.trends import TrendsPane
from jaunty_copper.desktop.pages.log.trips import TripsPane
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.sections import Sections
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import Palette
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say

SECTIONS = {
    "measure": (say("Measure"), say("What to measure, what to expect, what was read")),
    "logbook": (say("Logbook"), say("What was done and seen, by its days")),
    "trends": (say("Trends"), say("What became of joints, capacity and charge; before and after")),
    "trips": (say("Trips"), say("Why a device opened")),
}
"""Parts of the page, with what each is for."""


class LogPage(Page):
    """Four panes, one shown."""

    def __init__(self) -> None:
        super().__init__()
        self.head = Label()
        self.head.setObjectName("head")
        self.measure, self.logbook, self.trends, self.trips = MeasurePane(), LogbookPane(), TrendsPane(), TripsPane()
        self.panes = (self.measure, self.logbook, self.trends, self.trips)
        self.stack = QStackedWidget()
        self.sections = Sections(SECTIONS)
        self.sections.chosen.connect(self.show_section)
        top = QHBoxLayout()
        top.setContentsMargins(16, 6, 12, 0)
        top.addWidget(self.head, 1)
        top.addWidget(self.sections)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(top)
        column.addWidget(self.stack, 1)
        for pane in self.panes:
            self.stack.addWidget(pane)
            pane.wanted.connect(self.wanted)
            pane.picked.connect(self.picked)
            pane.refused.connect(self.refused)
            pane.headline_changed.connect(self._show_headline)
        self.measure.measured.connect(self.measured)

    @property
    def pane(self) -> MeasurePane | LogbookPane | TrendsPane | TripsPane:
        """The pane that is shown."""
        return self.panes[self.stack.currentIndex()]

    def show_section(self, name: str) -> None:
        """Go to a part of the page."""
        self.stack.setCurrentIndex(self.sections.show_chosen(name))
        self.head.setText(self.pane.headline)
        self.pane.refresh()

    def _show_headline(self, headline: str) -> None:
        if self.sender() is self.pane:
            self.head.setText(headline)

    def show_picture(self, picture: Picture, scenario: str | None) -> None:
        """Show another plan, or another scenario."""
        for pane in self.panes:
            pane.show_picture(picture, scenario)

    def showEvent(self, _: QShowEvent) -> None:
        """Compute when the page is looked at, not before."""
        self.pane.refresh()

    def select(self, id_: str | None) -> None:
        """Go to what there is of something."""
        for pane in self.panes:
            pane.select(id_)

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.trends.set_palette(palette)
        self.trips.chart.set_palette(palette)

    def set_units(self, _: Units) -> None:
        """Volts are volts."""

    def set_folder(self, folder: Path | None) -> None:
        """Where pictures that entries name are looked for."""
        self.logbook.folder = folder

    def weigh_readings(self) -> None:
        """Work out what to expect, for the lens that shows it."""
        self.measure.refresh()

    def close_worker(self) -> None:
        """End the page's threads, and take simulated meters off their lines."""
        for pane in self.panes:
            pane.close_worker()
