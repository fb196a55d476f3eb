"""Start the window."""

import os
import signal
import sys
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import QSize, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from jaunty_copper.desktop.shell.document import Document, demo_document
from jaunty_copper.desktop.shell.looks import sized
from jaunty_copper.desktop.shell.settings import Settings
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.desktop.widgets.theme import BODY_PX, font, load_fonts
from jaunty_copper.desktop.work.trouble import Trouble
from jaunty_copper.language import say
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.files import PlanError

ICON_SIZES_PX = (16, 24, 32, 48, 64, 128, 256)


def icon() -> QIcon:
    """The program's icon, read in the sizes that somebody asks for."""
    made, folder = QIcon(), Path(str(files("jaunty_copper.desktop"))) / "share" / "icons" / "hicolor"
    for px in ICON_SIZES_PX:
        made.addFile(str(folder / f"{px}x{px}" / "apps" / "jaunty-copper.png"), QSize(px, px))
    return made


TYPED_MS = 1000
"""Letters typed into a list within so long of one another are one word: Qt's 400 ms part the words of slow hands."""


def application() -> QApplication:
    """The Qt application, with fonts, style and the size that the person chose."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        # A study computes in a thread of its own: let it give way to the window every millisecond.
        sys.setswitchinterval(0.001)
        sized(Settings())
        # Asked for by argument: setStyle would return the style, and making its type known to
        # Python costs more than the style itself.
        app = QApplication([*sys.argv[:1], "-style", "Fusion"])
        app.setApplicationName("Jaunty Copper")
        app.setDesktopFileName("jaunty-copper")
        app.setWindowIcon(icon())
        app.setKeyboardInputInterval(TYPED_MS)
        load_fonts()
        app.setFont(font(BODY_PX))
    return app


def run(what: str, path: str | None, loaded: Callable[[], None]) -> int:
    """Open the window and stay until it closes.

    Parameters
    ----------
    what : str
        demo, new or open.
    path : str or None
        The plan's file, to open.
    loaded : callable
        What is done once all pages are loaded.

    Returns
    -------
    int
        Exit status: 2 where the plan cannot be read, or there is no display.
    """
    try:
        document = (
            Document.open(Path(path))
            if what == "open" and path
            else Document(blank())
            if what == "new"
            else demo_document()
        )
    except PlanError as error:
        print(say("{file}: not opened", file=error.file), *(f"  {d}" for d in error.details), sep="\n", file=sys.stderr)
        return 2
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        # Qt would abort the process here.
        print(say("There is no display to open a window on. The commands check and solve need none."), file=sys.stderr)
        return 2
    app = application()
    trouble = Trouble()
    trouble.listen()
    window = Window(document)
    trouble.reported.connect(window.own_error)
    window.ahead.done.connect(loaded)
    window.looks.apply()
    window.show()
    if path:
        window.settings.used(Path(path))
    QTimer.singleShot(300, window.offer_recovery)
    if what == "demo":
        QTimer.singleShot(600, window.help.offer_tour)
    signal.signal(signal.SIGINT, lambda *_: window.close())
    # Python handles signals only when it runs: give it a chance now and then.
    pulse = QTimer(interval=250)
    pulse.timeout.connect(lambda: None)
    pulse.start()
    return app.exec()
