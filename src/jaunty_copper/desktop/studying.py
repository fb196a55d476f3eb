"""Studies off the interface's thread. The latest edit wins; what it overtakes is dropped."""

import threading
import traceback

from PySide6.QtCore import QObject, Signal

from jaunty_copper.desktop.picture import Picture
from jaunty_copper.layout.chart import lay_out
from jaunty_copper.plan.model import Plan
from jaunty_copper.plan.topology import topology


def sketch_of(plan: Plan) -> Picture:
    """Only lay a plan out: what can be shown before anything is solved."""
    return Picture(plan, lay_out(topology(plan)))


class Studying(QObject):
    """One worker that studies whatever plan was asked for last."""

    done = Signal(object)
    """A `Picture`."""
    failed = Signal(str)
    """What went wrong inside; the window goes on with what it has."""
    busy = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        self._wanted: Plan | None = None
        self._wake = threading.Condition()
        self._stop = False
        self._thread = threading.Thread(target=self._work, name="study", daemon=True)
        self._thread.start()

    def ask(self, plan: Plan) -> None:
        """Study a plan, in place of any that waits."""
        with self._wake:
            self._wanted = plan
            self._wake.notify()
        self.busy.emit(True)

    def close(self) -> None:
        """End the worker."""
        with self._wake:
            self._stop = True
            self._wanted = None
            self._wake.notify()
        self._thread.join(5.0)

    def _work(self) -> None:
        while True:
            with self._wake:
                while self._wanted is None and not self._stop:
                    self._wake.wait()
                if self._stop:
                    return
                plan, self._wanted = self._wanted, None
            assert plan is not None
            try:
                # Solver and rules are loaded here, with the first study: the window need not wait.
                from jaunty_copper.desktop import making

                made = making.picture_of(plan)
            except Exception:
                self.failed.emit(traceback.format_exc())
                self.busy.emit(False)
                continue
            with self._wake:
                overtaken = self._wanted is not None
            if not overtaken and not self._stop:
                self.done.emit(made)
                self.busy.emit(False)
