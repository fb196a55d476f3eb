"""What the Help menu shows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jaunty_copper.desktop.shell.document_window import dialogs

if TYPE_CHECKING:
    from jaunty_copper.codes.checks import Rule
    from jaunty_copper.desktop.shell.window import Window


class Help:
    """The entries of the Help menu."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def pages(self, name: str | None = None) -> None:
        """How things are computed and what codes ask for, to read and search."""
        from jaunty_copper.desktop.shell import help_pages

        self._pages = help_pages.open_for(self.window, name)

    def method(self, rule: Rule) -> None:
        """How the figures of a rule are computed."""
        from jaunty_copper.codes.rules import method_of

        self.pages(f"methods/{method_of(rule)}.md")

    def keys(self) -> None:
        """Which keys do what."""
        from jaunty_copper.desktop.shell import keys

        self._keys = keys.open_for(self.window.menuBar().actions(), self.window)

    def cautions(self) -> None:
        """What may hurt."""
        dialogs().cautions(self.window)

    def about(self) -> None:
        """Name and version."""
        dialogs().about(self.window)
