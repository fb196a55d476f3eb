"""Two maps side by side: what differs is ringed, what is selected on one is selected on the other, and they move together."""

import pytest
from PySide6.QtCore import QPointF, Qt

from jaunty_copper.desktop.shell.comparing import Comparing
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.palette import LIGHT
from jaunty_copper.documents.words import Units
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save

DEMO = example("orchard_station")


@pytest.fixture
def maps(qtbot, tmp_path):
    """The demo before some changes, and as it is."""
    before = edits.remove(edits.change(edits.rename(DEMO, "PUMP", "WELLPUMP"), "W21", length_m=3.0), "LAMP")
    before = edits.change(edits.rename(before, "W31", "W310"), "W310", length_m=5.0)
    path = tmp_path / "before.copper.json"
    save(before, path)
    dialog = Comparing(DEMO, path, Look(LIGHT, LENSES[0], DEMO.scenarios[0].id, Units()))
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=20000)
    dialog.sections.buttons["maps"].click()
    yield dialog.stack.currentWidget()
    dialog.close()


def test_what_differs_is_ringed_on_the_map_that_has_it(maps):
    before, after = maps.maps
    assert "W21" in before.look.also & after.look.also
    assert "LAMP" in after.look.also - before.look.also
    assert "W310" in before.look.also - after.look.also
    assert "W31" in after.look.also - before.look.also
    assert not {"INV", "PUMP", "WELLPUMP"} & (before.look.also | after.look.also), "another name alone is no difference"
    before.select("F2")
    assert "W21" in before.look.also, "what is selected beside it takes no ring away"


def test_what_is_selected_on_one_is_selected_on_the_other(maps):
    told = []
    maps.picked.connect(told.append)
    before, after = maps.maps
    before.select("WELLPUMP")
    assert after.selected == "PUMP"
    after.select("P24.s2")
    assert before.selected == "P24.s2"
    after.select("LAMP")
    assert before.selected is None
    assert told == ["PUMP", "P24.s2", "LAMP"]


def test_both_are_looked_through_one_lens_and_move_together(maps):
    before, after = maps.maps
    maps.lens.setCurrentIndex(maps.lens.findData("short"))
    maps.scenario.setCurrentIndex(maps.scenario.findData(None))
    for side in maps.maps:
        assert (side.look.lens.id, side.look.scenario) == ("short", None)
    before.zoom(2.0, QPointF(100.0, 50.0))
    assert after.look.scale == before.look.scale
    before.verticalScrollBar().setValue(before.verticalScrollBar().maximum())
    assert after.verticalScrollBar().value() == after.verticalScrollBar().maximum() > 0


def test_they_stand_side_by_side_where_there_is_room(maps):
    assert maps.both.orientation() == Qt.Orientation.Vertical
    maps.resize(2200, 700)
    assert maps.both.orientation() == Qt.Orientation.Horizontal


def test_nothing_can_be_dragged_on_them(maps, qtbot):
    after = maps.maps[1]
    moved = []
    for signal in (after.stud_moved, after.joined, after.carried, after.aimed):
        signal.connect(lambda *_: moved.append(1))
    place = next(s for s in after.picture.diagram.studs if s.ref == "P24.s2")
    at = after.to_view(place.x, place.y).toPoint()
    qtbot.mousePress(after.viewport(), Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(after.viewport(), after.to_view(place.x, place.y + 60.0).toPoint())
    qtbot.mouseRelease(
        after.viewport(), Qt.MouseButton.LeftButton, pos=after.to_view(place.x, place.y + 60.0).toPoint()
    )
    assert moved == []
