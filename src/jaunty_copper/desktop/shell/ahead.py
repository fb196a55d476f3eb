"""What pages need, loaded while nobody waits for it: the first visit to a page must not hold the window."""

import threading
from collections.abc import Iterator
from importlib import import_module

from PySide6 import QtCore, QtGui, QtWidgets
from PySide6.QtCore import QObject, QTimer, Signal

from jaunty_copper.desktop.pages import MODULES

BEHIND_PAGES = (
    "protection.replay", "choosing.protect", "choosing.least_cost.search", "fabrication.board", "fabrication.materials", "fabrication.order", "commissioning.diagnose",
    "commissioning.charging", "commissioning.trends", "commissioning.trips", "commissioning.meter", "simulator.training", "documents.tables",
)  # fmt: skip
"""What pages compute with. Nothing of Qt: its binding ends the process where a second thread makes its types."""
BEFORE_PLOTS = (
    "xml.etree.ElementTree",
    "multiprocessing",
    "PySide6.QtSvg",
    "PySide6.QtTest",
    "PySide6.QtOpenGLWidgets",
)
"""What the library of plots asks for, which can be had in pieces."""
PAGE_MODULES = (*MODULES, "shell.protecting", "shell.exporting")
TYPES_AT_ONCE = 40
PAUSE_MS = 15
"""Between two pieces, each of some tens of milliseconds: a click or key comes first."""
SHOWN_MS = 400
"""After a first study: what shows it has the interpreter to itself."""


def _pieces() -> Iterator[None]:
    # The library of plots looks at every type of Qt at once, and the binding makes each when it is first looked at.
    for module in (QtCore, QtGui, QtWidgets):
        names = dir(module)
        for begin in range(0, len(names), TYPES_AT_ONCE):
            for name in names[begin : begin + TYPES_AT_ONCE]:
                getattr(module, name, None)
            yield
    for name in (*BEFORE_PLOTS, "pyqtgraph", *(f"jaunty_copper.desktop.{m}" for m in PAGE_MODULES)):
        import_module(name)
        yield


class Ahead(QObject):
    """Loads in a second thread what computes, then on the window's own, piece by piece, what shows."""

    done = Signal()
    """Everything is loaded."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._leaving = threading.Event()
        self._thread = threading.Thread(target=self._load, name="pages", daemon=True)
        self._pieces = _pieces()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._next)

    def start(self) -> None:
        """Begin in a moment, if not yet begun."""
        if self._thread.ident is None and not self.loading:
            self._timer.start(SHOWN_MS)

    @property
    def loading(self) -> bool:
        """Whether anything is still to be loaded."""
        return self._timer.isActive()

    def close(self) -> None:
        """Leave the rest; the interpreter must not end in the middle of an import."""
        self._timer.stop()
        self._leaving.set()
        if self._thread.ident is not None:
            self._thread.join()

    def _load(self) -> None:
        for name in BEHIND_PAGES:
            if self._leaving.is_set():
                return
            import_module(f"jaunty_copper.{name}")

    def _next(self) -> None:
        if self._thread.ident is None:
            self._thread.start()
            self._timer.setInterval(PAUSE_MS)
        elif not self._thread.is_alive() and next(self._pieces, self) is self:
            self._timer.stop()
            self.done.emit()
