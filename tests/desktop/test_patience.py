import os
import threading
import time

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QProgressDialog, QPushButton, QWidget

from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.desktop.work.patience import Cancelled, waited
from jaunty_copper.desktop.work.worker import Worker
from jaunty_copper.physics.giving_up import go_on
from jaunty_copper.plan.examples import example


@pytest.fixture
def parent(qtbot):
    made = QWidget()
    qtbot.addWidget(made)
    made.show()
    return made


def dialogs():
    return [w for w in QApplication.topLevelWidgets() if isinstance(w, QProgressDialog) and w.isVisible()]


def test_what_is_quick_is_done_without_a_word(parent):
    assert waited(parent, "x", lambda: 42) == 42
    with pytest.raises(ZeroDivisionError):
        waited(parent, "x", lambda: 1 / 0)


def test_what_takes_long_says_so_and_ends_by_itself(parent):
    go, seen = threading.Event(), []

    def look():
        seen.extend(d.labelText() for d in dialogs())
        go.set()

    QTimer.singleShot(350, look)
    assert waited(parent, "<b>Reading</b>", lambda: go.wait(60) and "done") == "done"
    assert seen == ["<b>Reading</b>"]
    assert not dialogs()


def test_what_hangs_can_be_given_up(parent):
    go = threading.Event()
    QTimer.singleShot(350, lambda: dialogs()[0].findChild(QPushButton).click())
    with pytest.raises(Cancelled):
        waited(parent, "Reading", lambda: go.wait(60))
    go.set()


def test_what_is_given_up_ends_where_it_next_looks_up(parent):
    looks, ended = [], threading.Event()

    def work():
        try:
            while len(looks) < 6000:
                go_on()
                looks.append(threading.current_thread())
                time.sleep(0.01)
        finally:
            ended.set()

    QTimer.singleShot(350, lambda: dialogs()[0].findChild(QPushButton).click())
    with pytest.raises(Cancelled):
        waited(parent, "Reading", work)
    assert ended.wait(60)
    assert 0 < len(looks) < 6000


def test_what_is_overtaken_ends_where_it_next_looks_up_and_without_a_word(qtbot):
    worker, failed, found, begun = Worker("looking up"), [], [], threading.Event()

    def long(task):
        for _ in range(6000):
            go_on()
            begun.set()
            time.sleep(0.01)
        task.report("in vain")

    worker.failed.connect(failed.append)
    worker.done.connect(found.append)
    worker.ask(long)
    assert begun.wait(60)
    worker.ask(lambda task: task.report("wanted"))
    qtbot.waitUntil(lambda: bool(found), timeout=30_000)
    worker.close()
    assert found == ["wanted"]
    assert not failed


def test_a_pipe_a_folder_and_a_device_are_no_plans(qtbot, tmp_path):
    window = Window(Document(example("seed_shed")))
    qtbot.addWidget(window)
    os.mkfifo(tmp_path / "pipe")
    for path, why in (
        (tmp_path / "pipe", "not a regular file"),
        (tmp_path, "is a directory"),
        ("/dev/zero", "not a regular file"),
    ):
        assert not window.open(type(tmp_path)(path))
        assert why in window._box.informativeText()
        window._box.close()
    window.document.path = None
