"""Write documents of the plan from the window: chosen by name, made off its thread."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.desktop.work.worker import Task, Work, Worker
from jaunty_copper.language import say
from jaunty_copper.plan.storage import write_atomically

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.reporting import AskedReport
    from jaunty_copper.documents.alteration import AlterationSheet
    from jaunty_copper.documents.comparison import Comparison
    from jaunty_copper.documents.map.look import Look
    from jaunty_copper.documents.map.picture import Read


def _report(known: Assessment) -> bytes:
    from jaunty_copper.documents.dossier import Dossier
    from jaunty_copper.documents.pdf.report import report_pdf

    return report_pdf(Dossier(known))


def report_asked(asked: AskedReport) -> ExportKind:
    """The report with the chapters and the first page that a person asked for."""

    def make(known: Assessment) -> bytes:
        from jaunty_copper.documents.dossier import Dossier
        from jaunty_copper.documents.pdf.report import report_pdf

        return report_pdf(Dossier(known), chapters=asked.chapters, cover=asked.cover)

    return ExportKind(DOCUMENTS["report"].file, DOCUMENTS["report"].kind, make)


def report_on(found: Comparison | AlterationSheet) -> ExportKind:
    """The report of the second of two plans, with what differs from the first."""

    def make(_: Assessment) -> bytes:
        from jaunty_copper.documents.pdf.report import report_pdf

        return report_pdf(found.after, before=found.before)

    return ExportKind(DOCUMENTS["report"].file, DOCUMENTS["report"].kind, make)


def _labels(known: Assessment) -> bytes:
    from jaunty_copper.documents.dossier import Dossier
    from jaunty_copper.documents.pdf.labels import labels_pdf

    return labels_pdf(Dossier(known))


def _tables(known: Assessment) -> bytes:
    from jaunty_copper.documents.dossier import Dossier
    from jaunty_copper.documents.table import as_xlsx
    from jaunty_copper.documents.tables import all_tables

    return as_xlsx(all_tables(Dossier(known)))


def _map(known: Assessment) -> bytes:
    from jaunty_copper.documents.map.drawing import map_svg

    state = next((s for s in known.study.states if s.solved), None)
    if state is None:
        raise ValueError(say("no scenario has an operating point"))
    return map_svg(known, state.scenario.id).encode("utf-8")


def map_as_seen(look: Look, read: dict[str, Read]) -> ExportKind:
    """The map as it is looked at: its lens, scenario, units, and what was measured."""
    lens, scenario, units = look.lens, look.scenario, look.units

    def make(known: Assessment) -> bytes:
        from jaunty_copper.documents.drawing import as_svg
        from jaunty_copper.documents.map.drawing import map_drawing

        return as_svg(map_drawing(known, scenario, lens, units=units, read=read)).encode("utf-8")

    return ExportKind("map.svg", say("SVG (*.svg)"), make)


class ExportKind(NamedTuple):
    """What can be written: the name and kind of its file, and how it is made."""

    file: str
    kind: str
    make: Callable[[Assessment], bytes]


DOCUMENTS = {
    "report": ExportKind("report.pdf", say("PDF (*.pdf)"), _report),
    "tables": ExportKind("tables.xlsx", say("Spreadsheet (*.xlsx)"), _tables),
    "labels": ExportKind("labels.pdf", say("PDF (*.pdf)"), _labels),
    "map": ExportKind("map.svg", say("SVG (*.svg)"), _map),
}


class Exporter(QObject):
    """Makes one document after the other; the latest wish wins."""

    said = Signal(str)
    """What became of it, for a person."""

    def __init__(self) -> None:
        super().__init__()
        self.worker = Worker("export")
        self.worker.done.connect(lambda words: self.said.emit(str(words)))
        self.worker.failed.connect(self._failed)

    def _failed(self, trace: str) -> None:
        self.said.emit(say("Not written: {splitlines}", splitlines=trace.strip().splitlines()[-1]))

    def ask(
        self, parent: QWidget, name: str, known: Assessment, folder: Path, document: ExportKind | None = None
    ) -> None:
        """Ask where to, and write it there: one of the documents, or another kind of it."""
        d = document or DOCUMENTS[name]
        chosen, _ = QFileDialog.getSaveFileName(
            parent, say("Export the {name}", name=name), str(folder / d.file), d.kind
        )
        if chosen:
            self.write(d, known, Path(chosen))

    def write(self, document: ExportKind, known: Assessment, path: Path) -> None:
        """Write a document."""
        self.said.emit(say("Writing {path}…", path=path.name))
        self.worker.ask(_work(document, known, path))


def _work(document: ExportKind, known: Assessment, path: Path) -> Work:
    def work(task: Task) -> None:
        try:
            write_atomically(path, document.make(known))
        except OSError as error:
            task.report(say("Not written to {path}: {strerror}", path=path, strerror=error.strerror))
            return
        task.report(say("Written to {path}", path=path))

    return work
