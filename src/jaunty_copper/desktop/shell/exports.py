"""Documents of the plan, written where a person says."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.assessment.assessment import Assessment
    from jaunty_copper.desktop.shell.exporting import Exporter
    from jaunty_copper.desktop.shell.printing import Printing
    from jaunty_copper.desktop.shell.window import Window
    from jaunty_copper.documents.alteration import AlterationSheet
    from jaunty_copper.documents.comparison import Comparison


class Exports:
    """The entries of the Export menu."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self._exporter: Exporter | None = None
        self._printing: Printing | None = None

    def write(self, name: str, path: Path | None = None) -> None:
        """Write a document of the plan; asks where to, unless it is said."""
        known = self._ready()
        if known is None:
            return
        exporter = self._made()
        if path is not None:
            from jaunty_copper.desktop.shell.exporting import DOCUMENTS

            exporter.write(DOCUMENTS[name], known, path)
        elif name == "report":
            self._ask_report(exporter, known)
        elif name == "map" and self.window.map.picture is not None:
            from jaunty_copper.desktop.shell.exporting import map_as_seen

            seen = map_as_seen(self.window.map.look, self.window.map.picture.read)
            exporter.ask(self.window, name, known, self._folder, seen)
        else:
            exporter.ask(self.window, name, known, self._folder)

    def _ask_report(self, exporter: Exporter, known: Assessment) -> None:
        """Ask what it shall hold, then where to."""
        from jaunty_copper.desktop.shell.exporting import report_asked
        from jaunty_copper.desktop.shell.reporting import ReportDialog
        from jaunty_copper.desktop.widgets.asking import ask

        dialog = ReportDialog(self.window.settings, parent=self.window)
        dialog.answered.connect(
            lambda asked: exporter.ask(self.window, "report", known, self._folder, report_asked(asked))
        )
        ask(dialog)

    def print(self) -> None:
        """Ask what the report shall hold, and show its pages before they are printed."""
        known = self._ready()
        if known is None:
            return
        from jaunty_copper.desktop.shell.exporting import report_asked
        from jaunty_copper.desktop.shell.printing import Printing
        from jaunty_copper.desktop.shell.reporting import ReportDialog
        from jaunty_copper.desktop.widgets.asking import ask

        if self._printing is None:
            self._printing = Printing(self.window)
            self._printing.said.connect(self.window.show_notice)
            self._printing.shown.connect(self.window.hide_notice)
        printing = self._printing
        dialog = ReportDialog(self.window.settings, say("Show the pages…"), self.window)
        dialog.answered.connect(lambda asked: printing.begin(report_asked(asked), known))
        ask(dialog)

    def compared(self, found: Comparison | AlterationSheet) -> None:
        """Write the report of the plan, with what differs from another; asks where to."""
        from jaunty_copper.desktop.shell.exporting import report_on

        known = self._ready()
        if known is not None:
            self._made().ask(self.window, "report", known, self._folder, report_on(found))

    def _ready(self) -> Assessment | None:
        if self.window.picture is None or self.window.picture.known is None:
            self.window.show_notice(say("Nothing can be written yet: the plan is being studied"))
            return None
        return self.window.picture.known

    def _made(self) -> Exporter:
        from jaunty_copper.desktop.shell.exporting import Exporter

        if self._exporter is None:
            self._exporter = Exporter()
            self._exporter.said.connect(self.window.show_notice)
        return self._exporter

    @property
    def _folder(self) -> Path:
        return self.window.document.path.parent if self.window.document.path is not None else Path.home()

    def close(self) -> None:
        """End what is being written."""
        for made in (self._exporter, self._printing):
            if made is not None:
                made.worker.close()
