"""A window on a plan, its first study done."""

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from jaunty_copper.desktop.app import application
from jaunty_copper.desktop.document import Document
from jaunty_copper.desktop.window import Window
from jaunty_copper.plan.examples import example


def settled(window, qtbot):
    """Wait until the window shows the study of its own plan."""
    qtbot.waitUntil(lambda: window.picture is not None and window.picture.plan is window.document.plan, timeout=10000)


@pytest.fixture(scope="session")
def qapp():
    return application()


@pytest.fixture
def open_window(qtbot, monkeypatch):
    """Make windows that close at the end whatever is unsaved."""
    made = []

    def build(plan=None, document=None):
        window = Window(document or Document(plan or example("orchard_station")))
        made.append(window)
        window.apply_look()
        window.show()
        qtbot.waitExposed(window)
        settled(window, qtbot)
        return window

    yield build
    for window in made:
        monkeypatch.setattr(window, "may_leave", lambda: True)
        window.close()
        window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def window(open_window):
    return open_window()
