"""What the Help menu shows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from jaunty_copper.desktop.shell.document_window import dialogs
from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.codes.checks import Rule
    from jaunty_copper.desktop.shell.touring import Tour
    from jaunty_copper.desktop.shell.window import Window


class Help:
    """The entries of the Help menu."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self._tour: Tour | None = None

    def pages(self, name: str | None = None) -> None:
        """How things are computed and what codes ask for, to read and search."""
        from jaunty_copper.desktop.shell import help_pages

        self._pages = help_pages.open_for(self.window, name)

    def method(self, rule: Rule) -> None:
        """How the figures of a rule are computed."""
        from jaunty_copper.codes.rules import method_of

        self.pages(f"methods/{method_of(rule)}.md")

    def tour(self) -> None:
        """Point at one thing of the demo after the other."""
        from jaunty_copper.desktop.shell import touring
        from jaunty_copper.desktop.shell.tour_steps import DEMO
        from jaunty_copper.plan.examples import example

        if self.window.document.plan.name != example(DEMO).name:
            self.window.open_example(DEMO)
            if self.window.document.plan.name != example(DEMO).name:
                return
        if self._tour is not None:
            self._tour.end()
        self._tour = touring.open_for(self.window)
        self._tour.ended.connect(self._tour_over)

    def _tour_over(self) -> None:
        self._tour = None

    def offer_tour(self) -> None:
        """Offer the tour to who starts the program for the first time."""
        window = self.window
        if window.settings.get("tour offered", False) or window.notice.isVisible():
            return
        window.settings.put("tour offered", True)
        window.show_notice(
            say("New here? A tour points at one thing of this demo after the other."), (say("Show me"), self.tour)
        )

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
