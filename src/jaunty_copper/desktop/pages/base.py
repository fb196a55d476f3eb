"""What every page answers and asks: all that the window knows of it."""

from pathlib import Path

from PySide6.QtCore import Signal

from jaunty_copper.desktop.widgets.part import ViewPart
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import Palette
from jaunty_copper.documents.words import Units


class Page(ViewPart):
    """A page; one that has no use for something leaves its answer as it is here."""

    asked = Signal(str)
    """Something that the window does, by its name in the window's table."""
    measured = Signal(object)
    """Readings were weighed; a `Measured`."""

    def show_picture(self, picture: Picture, scenario: str | None) -> None:
        """Show another plan, or the same in another scenario."""
        raise NotImplementedError

    def select(self, id_: str | None) -> None:
        """Go to what there is of something."""

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""

    def set_units(self, units: Units) -> None:
        """Change units."""

    def set_folder(self, folder: Path | None) -> None:
        """Tell where the plan's file is."""

    def weigh_readings(self) -> None:
        """Work out what to expect of readings, though nobody looks."""

    def short_at(self, place: str) -> None:
        """Follow a short circuit at a place."""

    def write(self) -> None:
        """Put the keyboard where something new is typed."""

    def close_worker(self) -> None:
        """End threads."""
