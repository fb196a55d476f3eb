"""The map above its strip, and how they share the height."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter

from jaunty_copper.desktop.pages.map.strip import Strip
from jaunty_copper.desktop.pages.map.view import MapView
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.language import say

STRIP_PX, HIGHEST_STRIP = 144, 0.45
"""Height of the strip below the map; the most of both that it takes where the map is small."""


class MapArea(QSplitter):
    """Map and strip, divided as a person wants it, or else as the map leaves room."""

    def __init__(self) -> None:
        super().__init__(Qt.Orientation.Vertical)
        self.map = MapView()
        self.strip = Strip(self.map)
        self.addWidget(self.map)
        self.addWidget(self.strip)
        self.setStretchFactor(0, 1)
        self.setSizes([574, STRIP_PX])
        self._divided = False
        self.splitterMoved.connect(self._divided_by_hand)
        name_divider(self, say("Divider between map and strip"))
        self.setCollapsible(0, False)

    def _divided_by_hand(self) -> None:
        self._divided = True

    def share_height(self) -> None:
        """Below a small map there is room for more of its strip, until a person has divided the two."""
        total = sum(self.sizes())
        if self._divided or total <= 0:
            return
        strip = round(min(max(total - self.map.height_wanted() - 12, STRIP_PX), HIGHEST_STRIP * total))
        if abs(self.sizes()[1] - strip) > 4:
            self.setSizes([total - strip, strip])
