"""A window on a plan, its first study done."""

from functools import partialmethod

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.plan.examples import example

PATIENCE_MS = 300_000
"""No test fails because something else keeps the machine busy; one that hangs fails in the end."""


@pytest.fixture
def qtbot(qtbot, monkeypatch):
    """Waits as long as it takes."""
    monkeypatch.setattr(QtBot, "waitUntil", partialmethod(QtBot.waitUntil, timeout=PATIENCE_MS))
    return qtbot


def settled(window, qtbot):
    """Wait until the window shows the study of its own plan."""
    qtbot.waitUntil(lambda: window.picture is not None and window.picture.plan is window.document.plan)


@pytest.fixture
def open_window(qtbot, monkeypatch):
    """Make windows that close at the end whatever is unsaved."""
    made = []

    def build(plan=None, document=None):
        window = Window(document or Document(plan or example("orchard_station")))
        made.append(window)
        window.looks.apply()
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
