"""Plans that lack something: every page and lens shows them, or says in words that it cannot."""

import sys
from pathlib import Path

import pytest
from PySide6.QtWidgets import QWidget

from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.desktop.widgets import painting
from jaunty_copper.desktop.work.making import picture_of
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import parse
from tests.torture.drawing import draw

PLANS = Path(__file__).parent / "plans"
"""Plans by chance, damaged by chance, on which something once failed."""


@pytest.fixture
def caught(monkeypatch):
    errors = []
    monkeypatch.setattr(sys, "excepthook", lambda kind, value, trace: errors.append(value))
    return errors


@pytest.fixture
def window(qtbot):
    made = Window(Document(example("seed_shed")))
    qtbot.addWidget(made)
    yield made
    made.document.path = None


@pytest.mark.parametrize("gone", ["W62", "W63", "W41", "W5", "CV", "B2", "P12", "PUMP"])
def test_a_plan_that_lacks_something_is_drawn(window, caught, qtbot, gone):
    plan = edits.remove(example("orchard_station"), gone)
    draw(window, picture_of(plan), seed=len(gone), things=4)
    window.map.select("PUMP")
    for lens in ("short", "guard"):
        window.show_page("map")
        window.set_lens(lens)
        window.grab()
    window.show_page("curves")
    window.pages["curves"].select("PUMP")
    window.grab()
    qtbot.wait(20)
    assert not caught


@pytest.mark.parametrize("plan", sorted(PLANS.iterdir()), ids=lambda path: path.name.partition(".")[0])
def test_what_once_was_not_drawn(window, caught, qtbot, plan):
    draw(window, picture_of(parse(plan.read_bytes())))
    qtbot.wait(20)
    assert not caught


def test_what_cannot_be_drawn_says_so_and_is_reported_once(qtbot, caught):
    class Broken(painting.Painted):
        def draw(self, p):
            p.setPen("red")
            raise ZeroDivisionError("on purpose")

    widget = Broken()
    qtbot.addWidget(widget)
    widget.resize(400, 100)
    blank = QWidget()
    qtbot.addWidget(blank)
    blank.resize(400, 100)
    shown = widget.grab().toImage()
    widget.grab()
    qtbot.waitUntil(lambda: bool(caught))
    qtbot.wait(20)
    assert [type(e) for e in caught] == [ZeroDivisionError]
    assert shown != blank.grab().toImage()
