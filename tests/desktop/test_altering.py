"""The order of an alteration is ticked in the plan that is being made real: kept, undone, told in its tables."""

from functools import partial

import pytest

from jaunty_copper.desktop.shell.altering import Altering, open_for
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import load, save


@pytest.fixture
def opened():
    """Opens files, and lets go of them in the end."""
    documents = []
    yield lambda path: documents.append(Document.open(path)) or documents[-1]
    for document in documents:
        document.close()


@pytest.fixture
def altering(tmp_path, opened, qtbot):
    """A longer cable than the file has, and how it gets there."""
    path = tmp_path / "as it is.copper.json"
    save(example("seed_shed"), path)
    document = opened(path)
    run = document.plan.runs[-1].id
    document.do(Edit("longer", partial(edits.change, id_=run, length_m=9.0)))
    dialog = open_for(document, None)
    qtbot.addWidget(dialog)
    assert isinstance(dialog, Altering)
    dialog.wanted.connect(document.do)
    qtbot.waitUntil(lambda: dialog.found is not None)
    return document, dialog


def done(dialog):
    (work,) = (t for t in dialog.found.tables() if t.name == "work")
    return [row[0] for row in work.rows if row[work.head.index("done")] == "x"]


def test_a_tick_is_an_edit_of_the_plan_and_can_be_undone(altering):
    document, dialog = altering
    first, third = dialog.boxes[0], dialog.boxes[2]
    first[1].click()
    third[1].click()
    assert document.plan.done == (first[0], third[0])
    assert set(document.plan.done_on) == {first[0], third[0]}
    assert done(dialog) == [1, 3]
    assert dialog.count.text().startswith(f"2 of {len(dialog.boxes)} steps done.")
    document.undo()
    assert not third[1].isChecked()
    assert done(dialog) == [1]
    first[1].click()
    assert document.plan.done == ()


def test_ticks_are_found_again_while_the_same_is_to_be_done(altering, opened, tmp_path, qtbot):
    document, dialog = altering
    dialog.boxes[1][1].click()
    other = tmp_path / "as it shall be.copper.json"
    save(document.plan, other)
    again = open_for(opened(other), None)
    qtbot.addWidget(again)
    again.take(tmp_path / "as it is.copper.json")
    qtbot.waitUntil(lambda: again.found is not None and bool(again.found.found.steps))
    assert [box.isChecked() for _, box in again.boxes] == [k == 1 for k in range(len(again.boxes))]
    assert load(other).done == (again.boxes[1][0],)
    assert "another name" not in again.count.text()
    assert "another name" in dialog.count.text(), "saved under its own name it would be the plan as it is"


def test_a_tick_goes_into_no_other_plan_that_is_open_by_now(open_window, opened, tmp_path, qtbot):
    path = tmp_path / "as it is.copper.json"
    save(example("seed_shed"), path)
    window = open_window(document=opened(path))
    window.do(Edit("longer", partial(edits.change, id_=window.document.plan.runs[-1].id, length_m=9.0)))
    window.going.alter()
    (dialog,) = window.findChildren(Altering)
    qtbot.waitUntil(lambda: bool(dialog.boxes))
    first = window.document
    window._adopt(Document(example("relay_mast")))
    dialog.boxes[0][1].click()
    assert window.document.plan.done == first.plan.done == ()
    assert not dialog.boxes[0][1].isChecked()
    assert "another plan is open" in window._notice_text.text()
    dialog.reject()
