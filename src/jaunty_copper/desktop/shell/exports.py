"""Documents of the plan, written where a person says."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.exporting import Exporter
    from jaunty_copper.desktop.shell.window import Window


class Exports:
    """The entries of the Export menu."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self._exporter: Exporter | None = None

    def write(self, name: str, path: Path | None = None) -> None:
        """Write a document of the plan; asks where to, unless it is said."""
        from jaunty_copper.desktop.shell.exporting import Exporter

        if self.window.picture is None or self.window.picture.known is None:
            self.window.show_notice(say("Nothing can be written yet: the plan is being studied"))
            return
        if self._exporter is None:
            self._exporter = Exporter()
            self._exporter.said.connect(self.window.show_notice)
        if path is not None:
            self._exporter.write(name, self.window.picture.known, path)
        else:
            folder = self.window.document.path.parent if self.window.document.path is not None else Path.home()
            self._exporter.ask(self.window, name, self.window.picture.known, folder)

    def close(self) -> None:
        """End what is being written."""
        if self._exporter is not None:
            self._exporter.worker.close()
