"""A dialog whose content is worked out off the window's thread."""

from PySide6.QtWidgets import QDialog, QProgressBar, QWidget

from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.work.worker import Work, Worker
from jaunty_copper.language import say


class WorkDialog(QDialog):
    """Words about what is done, a bar while it is, and a thread that is left to itself when the dialog closes.

    Parameters
    ----------
    title : str
        Of the dialog.
    name : str
        Of its thread.
    """

    def __init__(self, title: str, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.head = Label()
        self.head.setWordWrap(True)
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.progress.hide()
        self.worker = Worker(name)
        self.worker.failed.connect(self._failed)

    def work(self, words: str, work: Work) -> None:
        """Begin something, and say what."""
        self.head.setText(words)
        self.progress.show()
        self.worker.ask(work)

    def _failed(self, trace: str) -> None:
        self.progress.hide()
        self.head.setText(say("Could not be computed: {splitlines}", splitlines=trace.strip().splitlines()[-1]))

    def done(self, result: int) -> None:
        """Let the work go when closed: nobody waits for what is not wanted any more."""
        self.worker.abandon()
        super().done(result)
