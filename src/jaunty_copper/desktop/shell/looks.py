"""How a window shows things: light or dark, metric or AWG, large or small."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from jaunty_copper.desktop.widgets.theme import style_sheet
from jaunty_copper.documents.palette import PALETTES
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.settings import Settings
    from jaunty_copper.desktop.shell.window import Window

SIZES = (80, 100, 125, 150, 200)
"""Of text and drawings, in per cent of what the desktop asks for."""


def sized(settings: Settings) -> None:
    """Let Qt draw everything in the size that was chosen; only before the application is made.

    The desktop's own text size comes through Qt, as dots per inch, and is multiplied by this.
    """
    size = settings.get("size", 100)
    if size in SIZES and size != 100:
        os.environ.setdefault("QT_SCALE_FACTOR", f"{size / 100:g}")


class Looks:
    """Colours and units of one window, kept in its settings."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.units = Units(bool(window.settings.get("awg", False)))
        self.palette = PALETTES.get(window.settings.get("look", "light"), PALETTES["light"])

    def switch_units(self) -> None:
        """Metric to AWG and back."""
        self.units = Units(not self.units.awg)
        self.window.settings.put("awg", self.units.awg)
        self.window.map.set_units(self.units)
        for page in self.window.pages.values():
            page.set_units(self.units)
        self.window.show_inspector()
        self.window.show_history()

    def switch(self) -> None:
        """Light to dark and back."""
        self.show("dark" if self.palette.name == "light" else "light")

    def show(self, name: str) -> None:
        """Light or dark."""
        self.palette = PALETTES[name]
        self.window.settings.put("look", name)
        self.apply()

    def size(self, percent: int) -> None:
        """Text and drawings in another size, from the next start on."""
        self.window.settings.put("size", percent)
        self.window.show_notice(
            say("Text and drawings are shown at {percent} % when the program is started again.", percent=percent)
        )

    def apply(self) -> None:
        """Give every part the colours in force."""
        sheet = style_sheet(self.palette)
        if self.window.styleSheet() != sheet:
            for page in self.window.pages.values():
                # To dress what nobody sees would hold the window: it is done when the page is gone to.
                if page is not self.window.stack.currentWidget():
                    self.window.stack.removeWidget(page)
                    page.setParent(None)
            self.window.setStyleSheet(sheet)
        self.window.map.set_palette(self.palette)
        self.window.map.set_units(self.units)
        if self.window.side is not None:
            self.window.findings.set_palette(self.palette)
        for page in self.window.pages.values():
            page.set_palette(self.palette)
        self.window.strip.update()
        self.window.show_history()
