"""What was read with meters, brought from the log to the map."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from jaunty_copper.documents.map.picture import Picture

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.log.measured import Measured
    from jaunty_copper.desktop.shell.window import Window


class MapReadings:
    """Readings as the lens "read" shows them."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self._weighed: Measured | None = None

    def take(self, found: Measured) -> None:
        """Readings were weighed: show them on the map."""
        self._weighed = found
        if self.window.picture is not None and found.plan is self.window.picture.plan:
            self.window.picture = self.over(self.window.picture)
            self.window.map.set_picture(self.window.picture)
            self.window.strip.update()

    def over(self, picture: Picture) -> Picture:
        """A picture with what was read, where that was weighed before the picture came, or again after it."""
        found = self._weighed
        if found is None or found.plan is not picture.plan:
            return picture
        return replace(picture, read=found.over, read_in=found.scenario.title)

    def weigh(self) -> None:
        """Let the Log page work out what to expect, for the lens that shows it."""
        if self.window.picture is not None and self.window.map.look.lens.id == "read":
            page = self.window.page_of("log")
            page.show_picture(self.window.picture, self.window.scenarios.shown)
            page.weigh_readings()
