"""Work off the interface's thread. The latest request wins; what it overtakes is dropped."""

import threading
import traceback
from collections.abc import Callable
from contextlib import suppress

from PySide6.QtCore import QObject, Signal

from jaunty_copper.desktop.work.trouble import write_down
from jaunty_copper.physics.giving_up import GivenUp, giving_up


class Task:
    """One request, as the work sees it."""

    def __init__(self, worker: "Worker") -> None:
        self._worker = worker

    @property
    def overtaken(self) -> bool:
        """Whether something newer waits, so that going on is in vain."""
        return self._worker.waiting

    def report(self, found: object) -> None:
        """Hand something to the window, unless overtaken."""
        if not self.overtaken:
            self._worker.shown.clear()
            self._worker.done.emit(found)

    def give_way(self) -> None:
        """Let the window show what was reported before work goes on: both want the one interpreter."""
        if not self.overtaken:
            self._worker.shown.wait(MOST_WAIT_S)


Work = Callable[[Task], None]
MOST_WAIT_S = 0.1
"""A window that is busy with something else does not hold up the work."""


class Worker(QObject):
    """One thread that does whatever was asked for last."""

    done = Signal(object)
    """What the work reports."""
    failed = Signal(str)
    """What went wrong inside; the window goes on with what it has."""
    busy = Signal(bool)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._wanted: Work | None = None
        self._wake = threading.Condition()
        self._stop = False
        self.shown = threading.Event()
        """Set by who has shown what was reported, where the work gives way to that."""
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)
        self._thread.start()

    @property
    def waiting(self) -> bool:
        """Whether a request waits, or the end."""
        with self._wake:
            return self._stop or self._wanted is not None

    def ask(self, work: Work) -> None:
        """Do some work, in place of any that waits."""
        with self._wake:
            self._wanted = work
            self._wake.notify()
            self.shown.set()
        self.busy.emit(True)

    def abandon(self) -> None:
        """Let the thread end when its work next checks; it reports nothing more."""
        with self._wake:
            self._stop = True
            self._wanted = None
            self._wake.notify()
            self.shown.set()

    def close(self) -> None:
        """End the thread."""
        self.abandon()
        self._thread.join(5.0)

    def _run(self) -> None:
        while True:
            with self._wake:
                while self._wanted is None and not self._stop:
                    self._wake.wait()
                if self._stop:
                    return
                work, self._wanted = self._wanted, None
            assert work is not None
            try:
                with suppress(GivenUp), giving_up(lambda: self.waiting):
                    work(Task(self))
            except Exception:
                trace = traceback.format_exc()
                write_down(trace)
                self.failed.emit(trace)
            if not self.waiting:
                self.busy.emit(False)
