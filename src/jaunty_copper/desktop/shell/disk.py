"""File work off the window's thread: a slow disk must not hold the window."""

import queue
import sys
import threading
from collections.abc import Callable
from functools import partial
from typing import TypeVar

from PySide6.QtCore import QObject, Signal

T = TypeVar("T")


class Disk(QObject):
    """Does one piece of work after the other, in the order asked."""

    _ready = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._work: queue.SimpleQueue[Callable[[], None] | None] = queue.SimpleQueue()
        self._ready.connect(self._deliver)
        self._closed = False
        self._thread = threading.Thread(target=self._run, name="disk", daemon=True)
        self._thread.start()

    def ask(self, work: Callable[[], T], then: Callable[[T], None] | None = None) -> None:
        """Do some work there, and hand what it returns to a function here."""

        def both() -> None:
            found = work()
            if then is not None:
                self._ready.emit(partial(then, found))

        self._work.put(both)

    def close(self) -> None:
        """End when all that was asked is done; nothing is handed on any more."""
        self._work.put(None)
        self._thread.join(10.0)
        self._closed = True

    def _run(self) -> None:
        while (work := self._work.get()) is not None:
            # What must be reported returns its error; whatever fails must not end the rest.
            try:
                work()
            except OSError:
                continue
            except Exception:
                sys.excepthook(*sys.exc_info())

    def _deliver(self, call: Callable[[], None]) -> None:
        # What was on its way when the window closed finds nobody to tell.
        if not self._closed:
            call()
