"""What lies over the figures of the map, for the lenses that show it: readings, and how far figures spread."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jaunty_copper.desktop.shell.readings import MapReadings
from jaunty_copper.desktop.shell.spreading import MapBands
from jaunty_copper.documents.map.picture import Picture

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window


class OnMap:
    """Each of them made where its lens is looked through, and laid over every picture of the plan it was made for."""

    def __init__(self, window: Window) -> None:
        self.readings, self.bands = MapReadings(window), MapBands(window)

    def over(self, picture: Picture) -> Picture:
        """A picture with what is known of it besides."""
        return self.bands.over(self.readings.over(picture))

    def work_out(self) -> None:
        """Work out what the lens shows."""
        self.readings.weigh()
        self.bands.work_out()

    def close(self) -> None:
        """End what works."""
        self.bands.close()
