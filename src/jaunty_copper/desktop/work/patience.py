"""Work that may take longer than a person waits without a word: off the window's thread, and to be cancelled."""

import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtCore import QEventLoop, QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QProgressDialog, QWidget
from shiboken6 import isValid

from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.language import say
from jaunty_copper.physics.giving_up import giving_up

T = TypeVar("T")
SILENT_S = 0.25
"""How long nothing is said: most files are read by then."""


class Cancelled(Exception):
    """The person did not want to wait; what is still being done is for nothing, and ends where it next looks up."""


class _Waiting(QObject, Generic[T]):
    done = Signal()

    def __init__(self, work: Callable[[], T]) -> None:
        super().__init__()
        self._work = work
        self.found: list[T] = []
        self.error: BaseException | None = None
        self.given_up = threading.Event()
        self.thread_ = threading.Thread(target=self._run, name="waited for", daemon=True)

    def _run(self) -> None:
        try:
            with giving_up(self.given_up.is_set):
                self.found.append(self._work())
        except BaseException as error:
            self.error = error
        self.done.emit()


def _give_back(waiting: QWidget) -> None:
    """Give the keyboard back to what waited, or what is below it once that has closed for the work is done.

    A window manager that was about to give it to the dialog, which is gone, may leave it with nobody.
    """
    windows = [waiting]
    while (above := windows[-1].parentWidget()) is not None:
        windows.append(above.window())

    def activate() -> None:
        seen = (w for w in windows if isValid(w) and w.isVisible())
        if (window := next(seen, None)) is not None:
            window.activateWindow()

    QTimer.singleShot(0, windows[-1], activate)


def waited(parent: QWidget, words: str, work: Callable[[], T]) -> T:
    """Do some work in another thread and wait for it; after a moment say for what, and offer to give up.

    Parameters
    ----------
    parent : QWidget
        Whose window waits.
    words : str
        What is waited for.

    Returns
    -------
    object
        What the work returned.

    Raises
    ------
    Cancelled
        The person gave up.
    Exception
        Whatever the work raised.
    """
    waiting: _Waiting[T] = _Waiting(work)
    loop = QEventLoop()
    waiting.done.connect(loop.quit, Qt.ConnectionType.QueuedConnection)
    waiting.thread_.start()
    waiting.thread_.join(SILENT_S)
    if waiting.thread_.is_alive():
        dialog = QProgressDialog(parent)
        dialog.setWindowTitle(say("Please wait"))
        dialog.setLabel(Label(words))
        dialog.setRange(0, 0)
        dialog.setMinimumDuration(0)
        dialog.setWindowModality(Qt.WindowModality.WindowModal)
        dialog.canceled.connect(loop.quit)
        dialog.show()
        # The work may end between the look at its thread and the loop.
        QTimer.singleShot(0, lambda: None if waiting.thread_.is_alive() else loop.quit())
        loop.exec()
        gave_up = dialog.wasCanceled()
        dialog.hide()
        dialog.deleteLater()
        _give_back(parent.window())
        if gave_up and waiting.thread_.is_alive():
            waiting.given_up.set()
            raise Cancelled
        waiting.thread_.join()
    if waiting.error is not None:
        raise waiting.error
    return waiting.found[0]
