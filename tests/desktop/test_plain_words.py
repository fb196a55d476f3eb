"""What looks like markup in a name is a name: nothing on the screen obeys it."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QWidget

from jaunty_copper.desktop.pages import PAGES
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example

BAIT = '<img src="/dev/null" width="900000">'


@pytest.fixture
def baited(qtbot):
    plan = example("orchard_station")
    for thing in (*plan.items, *plan.equipment, *plan.scenarios, *plan.zones, *plan.routes, *plan.boards):
        plan = edits.change(plan, thing.id, name=f"{BAIT}{thing.id}")
    window = Window(Document(edits.change_plan(plan, name=BAIT)))
    qtbot.addWidget(window)
    window.show()
    qtbot.waitUntil(lambda: window.picture is not None and window.picture.study is not None)
    yield window
    window.document.path = None


def test_no_label_or_tip_obeys_a_name(baited, qtbot, monkeypatch):
    told = []
    monkeypatch.setattr("jaunty_copper.desktop.shell.document_window.DocumentWindow.may_leave", lambda self: True)
    for page in PAGES:
        baited.show_page(page)
        for place in ("PUMP", "W21", "F1", "B1"):
            baited.map.select(place)
            baited.show_inspector()
            if page in baited.pages:
                baited.pages[page].select(place)
        qtbot.wait(50)
        for widget in baited.findChildren(QWidget):
            if isinstance(widget, QLabel):
                assert widget.textFormat() != Qt.TextFormat.AutoText, widget.text()
                if widget.textFormat() == Qt.TextFormat.RichText:
                    assert "<img" not in widget.text()
                elif BAIT in widget.text():
                    told.append(widget.text())
            assert "<img" not in widget.toolTip()
            assert "<img" not in widget.statusTip() + widget.whatsThis()
    assert told, "the names were nowhere to be seen"
    for id_ in ("PUMP", "W21", "B1", "P24.s1"):
        assert baited.map.describe(id_)


def test_a_notice_shows_markup_as_it_is(baited):
    baited.show_notice(BAIT)
    assert baited._notice_text.text() == BAIT
    assert baited._notice_text.textFormat() == Qt.TextFormat.PlainText
