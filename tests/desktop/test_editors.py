"""The widgets that edit one value, and the document behind them."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent

from jaunty_copper.desktop.inspector.editors import ChoiceEditor, FlagEditor, NumberEditor, TextEditor, editor_for
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.files import load, save
from tests.build import fused


def heard(editor):
    said = []
    editor.committed.connect(said.append)
    return said


def typed(qtbot, editor, text):
    editor.selectAll()
    qtbot.keyClicks(editor, text)
    qtbot.keyClick(editor, Qt.Key.Key_Return)


@pytest.mark.parametrize(
    ("kind", "factor", "before", "text", "after"),
    [
        ("number", 1.0, 2.0, "2,5", 2.5),
        ("number", 3.28084, 2.0, "3.28084", 1.0),
        ("blank", 1.0, None, "4e-3", 0.004),
        ("count", 1.0, 1, "3", 3),
    ],
)
def test_a_number_is_read_in_its_unit(qtbot, kind, factor, before, text, after):
    editor = NumberEditor(kind, factor)
    qtbot.addWidget(editor)
    editor.show_value(before)
    said = heard(editor)
    typed(qtbot, editor, text)
    assert said == [pytest.approx(after)]


@pytest.mark.parametrize("text", ["", "ten", "1 2", "--3"])
def test_what_is_no_number_goes_back_to_what_was(qtbot, text):
    editor = NumberEditor("number", 1.0)
    qtbot.addWidget(editor)
    editor.show_value(7.5)
    said = heard(editor)
    editor.setText(text)
    editor.editingFinished.emit()
    assert said == []
    assert editor.text() == "7.5"


def test_leaving_a_number_out_is_a_value_where_it_may_be(qtbot):
    editor = NumberEditor("blank", 1.0)
    qtbot.addWidget(editor)
    editor.show_value(0.002)
    said = heard(editor)
    editor.clear()
    editor.editingFinished.emit()
    assert said == [None]


def test_a_value_that_is_being_typed_over_is_not_taken_away(qtbot):
    editor = TextEditor()
    qtbot.addWidget(editor)
    editor.show()
    qtbot.waitExposed(editor)
    editor.show_value("old")
    editor.activateWindow()
    editor.setFocus()
    qtbot.waitUntil(editor.hasFocus)
    qtbot.keyClicks(editor, "x")
    editor.show_value("newer")
    assert "x" in editor.text()
    editor.reject("newer")
    assert editor.text() == "newer"


def test_choices_say_only_what_is_new_and_leave_the_wheel_to_the_page(qtbot):
    editor = ChoiceEditor([(None, "none"), ("a", "first"), ("b", "second")])
    qtbot.addWidget(editor)
    editor.show_value("a")
    said = heard(editor)
    editor.choose("a")
    editor.choose(None)
    assert said == [None]
    editor.show_value("own")
    assert editor.currentText() == "own"
    editor.show()
    wheel = QWheelEvent(
        QPointF(5, 5), QPointF(5, 5), QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    editor.clearFocus()
    editor.wheelEvent(wheel)
    assert editor.currentText() == "own"
    assert not wheel.isAccepted()


def test_a_flag_says_what_it_became(qtbot):
    editor = FlagEditor()
    qtbot.addWidget(editor)
    editor.show_value(True)
    said = heard(editor)
    editor.click()
    assert said == [False]
    editor.reject(True)
    assert editor.isChecked()


def test_every_kind_has_its_editor(qtbot):
    kinds = {
        "text": TextEditor,
        "choice": ChoiceEditor,
        "flag": FlagEditor,
        "number": NumberEditor,
        "blank": NumberEditor,
    }
    for kind, made in kinds.items():
        editor = editor_for(kind, [("a", "a")], 1.0)
        qtbot.addWidget(editor)
        assert type(editor) is made


def rated(amps):
    return Edit(f"{amps} A", lambda p: edits.change(p, "F1", rating_a=amps))


def test_history_goes_both_ways_and_a_new_edit_ends_the_old_future(qapp):
    document = Document(fused())
    for amps in (5.0, 7.5, 15.0):
        document.do(rated(amps))
    document.undo()
    document.undo()
    assert (document.undo_label, document.redo_label) == ("5.0 A", "7.5 A")
    document.do(rated(20.0))
    assert document.redo_label is None
    document.redo()
    assert document.plan.by_id["F1"].rating_a == 20.0
    for _ in range(5):
        document.undo()
    assert document.plan == fused()


def test_an_edit_that_changes_nothing_or_makes_no_sense_leaves_no_trace(qapp):
    document = Document(fused())
    document.do(rated(10.0))
    assert document.undo_label is None
    with pytest.raises(EditError):
        document.do(rated(-1.0))
    assert document.plan == fused()
    assert not document.unsaved


def test_undoing_back_to_the_saved_plan_is_saved_again(qapp, tmp_path):
    path = tmp_path / "p.json"
    save(fused(), path)
    document = Document.open(path)
    document.do(rated(5.0))
    assert document.unsaved
    document.undo()
    assert not document.unsaved
    document.redo()
    document.save()
    assert not document.unsaved
    assert load(path).by_id["F1"].rating_a == 5.0
    document.undo()
    assert document.unsaved
    document.close()


def test_saving_under_another_name_moves_the_claim(qapp, tmp_path):
    one, two = tmp_path / "one.json", tmp_path / "two.json"
    save(fused(), one)
    document = Document.open(one)
    document.save(two)
    other = Document.open(one)
    assert not other.open_elsewhere
    third = Document.open(two)
    assert third.open_elsewhere
    for d in (document, other, third):
        d.close()


def test_things_of_a_kind_share_fields_and_never_what_was_typed_in_them(window, qtbot):
    window.map.select("PUMP")
    field = window.inspector.editor("PUMP", "power_w")
    before = window.document.plan.by_id["FAN"].power_w
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "77 Ah")
    window.map.select("FAN")
    assert window.inspector.editor("FAN", "power_w") is field, "made once"
    assert field.text() == f"{before:g}"
    assert not field.isUndoAvailable(), "nor does undo bring it back"
    assert window.document.plan.by_id["FAN"].power_w == before
    assert window.document.plan.by_id["PUMP"].power_w == 420.0
