"""What is typed and edited survives: fast edits, failing parts, odd folders, a disk that is full."""

import errno
import os
import time
from functools import partial

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from jaunty_copper.desktop.inspector.editors import NumberEditor
from jaunty_copper.desktop.shell import document_window
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.plan import autosave
from jaunty_copper.plan.edits import Edit, EditError, change, change_plan
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import load, save

from .conftest import settled


def renamed(k):
    return Edit(f"name {k}", lambda p: change_plan(p, name=f"work {k}"))


def test_edits_without_a_pause_are_kept_all_the_same(window, qtbot):
    begin, k = time.monotonic(), 0
    while not window.autosave.file.exists():
        assert time.monotonic() - begin < 60.0, "edits that come fast are never kept"
        window.do(renamed(k))
        k += 1
        qtbot.wait(50)
    assert k > 1
    assert document_window.AUTOSAVE_AFTER_MS <= 3000


def test_an_error_anywhere_keeps_the_work_at_once(window, qtbot):
    window.do(renamed(1))
    assert not window.autosave.file.exists()
    window.own_error("The program made an error of its own.")
    qtbot.waitUntil(lambda: window.autosave.file.exists())


def test_an_autosave_that_cannot_be_moved_stays(window, qtbot, tmp_path, monkeypatch):
    old = autosave.Autosave(tmp_path)
    old.keep(change_plan(example("seed_shed"), name="from before"), None)
    old._lock.release()
    (found,) = autosave.left_behind(tmp_path)
    monkeypatch.setattr(document_window, "left_behind", lambda: [found])

    def full(*_):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(window.autosave, "keep", full)
    window.offer_recovery()
    window._notice_buttons[0].click()
    assert window.document.plan.name == "from before"
    qtbot.waitUntil(lambda: "Autosave does not work here: No space left" in window._notice_text.text())
    assert old.file.exists()


def test_without_a_folder_for_autosaves_the_window_opens_and_says_so(open_window, qtbot, tmp_path, monkeypatch):
    (tmp_path / "file").write_text("no folder")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file"))
    window = open_window()
    window.offer_recovery()
    window.do(renamed(1))
    qtbot.waitUntil(lambda: "Autosave does not work here" in window._notice_text.text())
    assert window.save_as(tmp_path / "plan.copper.json")
    assert load(tmp_path / "plan.copper.json").name == "work 1"


def test_a_notice_that_nothing_was_saved_goes_with_the_next_save(window, tmp_path):
    window.do(renamed(1))
    assert not window.save_as(tmp_path / "nowhere" / "plan.json")
    assert window.notice.isVisible()
    assert window._notice_text.text().startswith("Not saved to")
    assert window.save_as(tmp_path / "plan.json")
    assert not window.notice.isVisible()


def test_an_edit_that_no_reader_would_take_is_refused(window):
    before = window.document.plan
    with pytest.raises(EditError, match="name"):
        window.document.do(Edit("x", lambda p: p.model_copy(update={"name": "x" * 500})))
    assert window.document.plan is before


def test_scenarios_can_be_added_for_ever(window, tmp_path):
    for _ in range(40):
        window.scenarios.add()
    names = [s.title for s in window.document.plan.scenarios]
    assert len(set(names)) == len(names)
    save(window.document.plan, tmp_path / "plan.json")
    assert load(tmp_path / "plan.json") == window.document.plan


def test_figures_that_come_in_leave_what_is_being_typed_alone(window, qtbot):
    window.map.select("PUMP")
    window.show_inspector()
    field = window.inspector.editor("PUMP", "power_w")
    assert isinstance(field, NumberEditor)
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "7")
    window.do(Edit("elsewhere", partial(change, id_="F1", rating_a=175.0)))
    settled(window, qtbot)
    window.do(Edit("its own form", partial(change, id_="PUMP", name="Another pump")))
    settled(window, qtbot)
    field = window.inspector.editor("PUMP", "power_w")
    assert field.text() == "7"
    QTest.keyClicks(field, "50")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert window.document.plan.by_id["PUMP"].power_w == 750


def test_a_table_keeps_an_open_cell_while_figures_come_in_and_takes_it_over_before_other_rows(window, qtbot):
    window.show_page("needs")
    view = window.pages["needs"].view
    row = [e.id for e in window.document.plan.equipment].index("PUMP")
    at = view.model().index(row, 1)
    view.setCurrentIndex(at)
    view.edit(at)
    editor = view.indexWidget(at)
    editor.selectAll()
    QTest.keyClicks(editor, "64")
    window.do(Edit("elsewhere", partial(change, id_="F1", rating_a=175.0)))
    settled(window, qtbot)
    assert view.indexWidget(at) is editor
    assert editor.text() == "64"
    window.document.undo()
    window.scenarios.add()
    settled(window, qtbot)
    assert window.document.plan.by_id["PUMP"].power_w == 64


def test_undo_to_the_end_leads_back_after_what_was_typed(window):
    first = window.document.plan
    window.map.select("PUMP")
    window.show_inspector()
    field = window.inspector.editor("PUMP", "power_w")
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "333")
    window.menus.undo.setEnabled(True)
    window.menus.undo.trigger()
    assert window.document.plan == first
    assert isinstance(window.document, Document)
