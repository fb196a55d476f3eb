import subprocess
import sys
import threading

import pytest

from jaunty_copper.desktop.work import trouble
from jaunty_copper.desktop.work.trouble import Trouble, each, write_down
from jaunty_copper.plan import edits
from jaunty_copper.plan.autosave import state_folder
from jaunty_copper.plan.edits import Edit


@pytest.fixture
def listening(monkeypatch):
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    made, heard = Trouble(), []
    made.reported.connect(heard.append)
    made.listen()
    return heard


def fails():
    raise ZeroDivisionError("on purpose")


def test_a_step_that_fails_stops_nothing_and_is_told(listening, capsys):
    done = []
    each(lambda: done.append(1), fails, lambda: done.append(2))
    assert done == [1, 2]
    assert "your work is kept" in listening[0]
    assert "errors.log" in listening[0]
    assert "ZeroDivisionError: on purpose" in (state_folder() / "errors.log").read_text()
    assert "ZeroDivisionError" in capsys.readouterr().err


def test_other_threads_are_heard(listening, qtbot, capsys):
    thread = threading.Thread(target=fails)
    thread.start()
    thread.join()
    qtbot.waitUntil(lambda: len(listening) == 1)


def test_details_that_cannot_be_written_are_told_too(monkeypatch, capsys):
    def refuse():
        raise PermissionError(13, "Permission denied")

    monkeypatch.setattr(trouble, "state_folder", refuse)
    assert "could not be written down: Permission denied" in write_down("x")


def test_a_long_file_begins_anew(monkeypatch, capsys):
    monkeypatch.setattr(trouble, "MOST_BYTES", 100)
    write_down("a" * 200)
    write_down("b")
    assert "a" * 200 not in (state_folder() / "errors.log").read_text()


def test_an_interrupt_from_the_keyboard_is_no_error():
    code = "from jaunty_copper.desktop.work.trouble import Trouble\nTrouble().listen()\nraise KeyboardInterrupt"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert "KeyboardInterrupt" in done.stderr
    assert not (state_folder() / "errors.log").exists()


def test_work_is_autosaved_whatever_fails_in_showing_it(window, qtbot, listening, monkeypatch, capsys):
    monkeypatch.setattr(window, "_study", fails)
    monkeypatch.setattr(window, "show_inspector", fails)
    window.do(Edit("x", lambda p: edits.change(p, "PUMP", power_w=500.0)))
    assert len(listening) == 2
    qtbot.waitUntil(lambda: window.autosave.file.exists() and b'"power_w": 500.0' in window.autosave.file.read_bytes())
    monkeypatch.undo()
    window.own_error("The program made an error.")
    assert "made an error" in window._notice_text.text()
