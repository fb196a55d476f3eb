"""How a window shows things: light or dark, metric or AWG."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jaunty_copper.desktop.widgets.theme import PALETTES, style_sheet
from jaunty_copper.desktop.widgets.words import Units

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window


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
