"""The report on paper: its pages are looked at first, and printed from there."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import pypdfium2
from PySide6.QtCore import QObject, QRect, Qt, Signal
from PySide6.QtGui import QAction, QImage, QKeySequence, QPageLayout, QPageSize, QPaintEngine, QPainter
from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtWidgets import QProgressDialog, QWidget

from jaunty_copper.desktop.widgets.asking import ask
from jaunty_copper.desktop.work.worker import Task, Worker
from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.assessment.assessment import Assessment
    from jaunty_copper.desktop.shell.exporting import ExportKind

SEEN_DPI, PRINTED_DPI = 110.0, 300.0
"""Dots an inch of a page as it is looked at, and on paper."""
PRINT = "Print"
"""What the library calls the entry that prints, which has no key of its own there."""
PATIENCE_MS = 500
"""Printing that takes longer says so, and can be ended."""


class Sheets(NamedTuple):
    """A document to print.

    Attributes
    ----------
    data : bytes
        The PDF.
    seen : tuple of QImage
        Its pages as they are looked at.
    """

    data: bytes
    seen: tuple[QImage, ...]


def page_image(document: pypdfium2.PdfDocument, at: int, dpi: float) -> QImage:
    """A page of a PDF as a picture."""
    drawn = document[at].render(scale=dpi / 72.0)
    image = QImage(bytes(drawn.buffer), drawn.width, drawn.height, drawn.stride, QImage.Format.Format_BGR888)
    # The bitmap goes with its page.
    return image.copy()


class Printing(QObject):
    """Makes documents off the window's thread and shows their pages."""

    said = Signal(str)
    """What became of it, for a person."""
    shown = Signal()
    """The pages are there to be looked at."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._window = parent
        self._printer: QPrinter | None = None
        self.worker = Worker("print")
        self.worker.done.connect(self._show)
        self.worker.failed.connect(
            lambda trace: self.said.emit(say("Not printed: {why}", why=trace.strip().splitlines()[-1]))
        )

    def begin(self, document: ExportKind, known: Assessment) -> None:
        """Make a document, then show its pages."""
        self.said.emit(say("Making the pages…"))

        def work(task: Task) -> None:
            data = document.make(known)
            read = pypdfium2.PdfDocument(data)
            seen: list[QImage] = []
            for k in range(len(read)):
                if task.overtaken:
                    return
                seen.append(page_image(read, k, SEEN_DPI))
            task.report(Sheets(data, tuple(seen)))

        self.worker.ask(work)

    def _show(self, found: object) -> None:
        assert isinstance(found, Sheets)
        self.shown.emit()
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
        printer.setFullPage(True)
        printer.setPageOrientation(QPageLayout.Orientation.Portrait)
        printer.setDocName(say("Report"))
        dialog = QPrintPreviewDialog(printer, self._window)
        dialog.setWindowTitle(say("Print preview"))
        dialog.resize(940, 760)
        dialog.paintRequested.connect(lambda on: self._put(on, found, dialog))
        self._printer = printer  # It must live as long as the dialog.
        for action in dialog.findChildren(QAction):
            if action.text() == PRINT:
                action.setShortcut(QKeySequence.StandardKey.Print)
        ask(dialog)

    def _put(self, printer: QPrinter, sheets: Sheets, parent: QWidget) -> None:
        """Put all pages down, on the screen or on paper."""
        painter = QPainter()
        if not painter.begin(printer):
            self.said.emit(say("Not printed: the printer or its file cannot be written to"))
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        try:
            if printer.paintEngine().type() == QPaintEngine.Type.Picture:
                for k, image in enumerate(sheets.seen):
                    _lay(painter, printer, image, first=k == 0)
            else:
                self.said.emit(
                    say("Printed") if _printed(painter, printer, sheets, parent) else say("Printing was ended")
                )
        finally:
            painter.end()


def _printed(painter: QPainter, printer: QPrinter, sheets: Sheets, parent: QWidget) -> bool:
    """Put the pages that were asked for onto paper; whether nobody ended it meanwhile."""
    document = pypdfium2.PdfDocument(sheets.data)
    first, last = printer.fromPage() or 1, printer.toPage() or len(document)
    wanted = range(first - 1, min(last, len(document)))
    progress = QProgressDialog(say("Printing…"), say("Cancel"), 0, len(wanted), parent)
    progress.setWindowModality(Qt.WindowModality.WindowModal)
    progress.setMinimumDuration(PATIENCE_MS)
    try:
        for n, k in enumerate(wanted):
            _lay(painter, printer, page_image(document, k, PRINTED_DPI), first=n == 0)
            progress.setValue(n + 1)
            if progress.wasCanceled():
                printer.abort()
                return False
    finally:
        progress.deleteLater()
    return True


def _lay(painter: QPainter, printer: QPrinter, image: QImage, first: bool) -> None:
    """Put one page down."""
    if not first:
        printer.newPage()
    painter.drawImage(_whole(printer, image), image)


def _whole(printer: QPrinter, image: QImage) -> QRect:
    """Where a page stands on the paper, as large as it fits."""
    paper = printer.pageLayout().fullRectPixels(printer.resolution())
    size = image.size().scaled(paper.size(), Qt.AspectRatioMode.KeepAspectRatio)
    return QRect(
        (paper.width() - size.width()) // 2, (paper.height() - size.height()) // 2, size.width(), size.height()
    )
