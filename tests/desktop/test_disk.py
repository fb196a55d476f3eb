import threading

from jaunty_copper.desktop.shell.disk import Disk
from jaunty_copper.plan.edits import Edit, change


def test_work_is_done_in_order_and_a_failure_does_not_end_it(qtbot):
    disk, done, told = Disk(), [], []

    def refused():
        raise PermissionError

    for k in range(5):
        disk.ask(lambda k=k: done.append(k) or k, told.append)
        disk.ask(refused)
    qtbot.waitUntil(lambda: told == [0, 1, 2, 3, 4])
    disk.ask(lambda: done.append("last"))
    disk.close()
    assert done == [0, 1, 2, 3, 4, "last"]


def test_a_slow_disk_does_not_hold_the_window(window, qtbot, monkeypatch):
    kept, free = [], threading.Event()

    def slow(plan, path, stamp):
        free.wait()
        kept.append(plan)

    monkeypatch.setattr(window.autosave, "keep", slow)
    window.do(Edit("x", lambda p: change(p, "F1", rating_a=175.0)))
    window._keep_autosave()
    assert not kept
    free.set()
    qtbot.waitUntil(lambda: kept == [window.document.plan])


def test_a_disk_that_refuses_the_autosave_is_told(window, qtbot, monkeypatch):
    def refuse(plan, path, stamp):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(window.autosave, "keep", refuse)
    window.do(Edit("x", lambda p: change(p, "F1", rating_a=175.0)))
    window._keep_autosave()
    qtbot.waitUntil(lambda: "Autosave does not work here: No space left" in window._notice_text.text())


def test_what_is_on_its_way_when_the_window_closes_is_dropped(qtbot):
    disk, told = Disk(), []
    disk.ask(lambda: "done", told.append)
    disk.close()
    qtbot.wait(20)
    assert told == []
