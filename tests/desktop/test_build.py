"""The Build page, driven as a person would."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from jaunty_copper.plan.model import Plan
from tests.build import fused
from tests.desktop.conftest import settled

LEFT = Qt.MouseButton.LeftButton


def ready(page):
    return page.shop is not None and page.shop.plan is page.picture.plan


@pytest.fixture
def build(window, qtbot):
    qtbot.mouseClick(window.rail_buttons["build"], LEFT)
    page = window.pages["build"]
    qtbot.waitUntil(lambda: ready(page), timeout=10000)
    return page


def test_it_tells_the_cables_and_shows_the_chosen_one(build, window):
    assert build.head.text().startswith("43 cables")
    assert build.cuts.rowCount() == 43
    build.select("W21")
    assert build.cable.cut.run == "W21"
    before = build.cable.grab().toImage()
    build.select("L1p")
    assert build.cable.grab().toImage() != before
    build.cut_view.setFocus()
    build.cut_view.setCurrentIndex(build.cuts.index(7, 0))
    assert window.map.selected == build.cuts.rows[7].run


def test_a_click_on_a_reel_picks_the_cable(build, window, qtbot):
    build.show_section("reels")
    qtbot.waitUntil(lambda: bool(build.reels._boxes), timeout=5000)
    box, run = next((b, r) for b, r in build.reels._boxes if r == "W40")
    qtbot.mouseClick(build.reels, LEFT, pos=box.center().toPoint())
    assert window.map.selected == run == build.reels.selected


def test_lengths_and_left_overs_are_edits(build, window, qtbot):
    build.show_section("reels")
    build.lengths.setText("20, 10")
    build.lengths.editingFinished.emit()
    assert window.document.plan.reels_m == (10.0, 20.0)
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build), timeout=10000)
    build.lengths.setText("nonsense")
    build.lengths.editingFinished.emit()
    assert build.lengths.text() == "10 20"
    build.keep.click()
    assert window.document.plan.stock
    window.document.undo()
    window.document.undo()
    assert window.document.plan.reels_m == (5.0, 10.0, 25.0, 50.0)


def test_a_price_typed_replaces_the_representative_one(build, window, qtbot, tmp_path):
    build.show_section("materials")
    line = build.lines.rows[0]
    build.lines.setData(build.lines.index(0, 3), "12,5")
    assert window.document.plan.prices == {line.key: 12.5}
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build), timeout=10000)
    assert build.lines.data(build.lines.index(0, 3)) == "12.50"
    build.lines.setData(build.lines.index(0, 3), "")
    assert window.document.plan.prices == {}
    sheet = tmp_path / "own.csv"
    sheet.write_text("key,price\nx,bad\n")
    build.read_prices(sheet)
    assert "line 2" in build.note.text()
    sheet.write_text(f"key,price\n{line.key},3\n")
    build.read_prices(sheet)
    assert window.document.plan.prices == {line.key: 3.0}


def test_a_tick_is_kept_and_undone(build, window, qtbot):
    build.show_section("order")
    box = build.boxes["before:hands"]
    box.click()
    assert window.document.plan.done == ("before:hands",)
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build), timeout=10000)
    assert build.boxes["before:hands"].isChecked()
    window.document.undo()
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build), timeout=10000)
    assert not build.boxes["before:hands"].isChecked()


def test_the_table_that_is_shown_is_saved(build, tmp_path):
    for section in ("cuts", "reels", "materials", "order"):
        build.show_section(section)
        path = tmp_path / f"{section}.csv"
        build.save(path)
        assert path.read_text("utf-8").count("\n") > 10
    build.save(tmp_path / "no" / "where.csv")
    assert build.note.text().startswith("Not saved")


@pytest.mark.parametrize("plan", [Plan(), fused()])
def test_every_plan_can_be_built(open_window, qtbot, plan):
    window = open_window(plan)
    window.show_page("build")
    page = window.pages["build"]
    qtbot.waitUntil(lambda: ready(page), timeout=10000)
    assert page.cuts.rowCount() == len(plan.runs)
    for section in ("cuts", "reels", "materials", "order"):
        page.show_section(section)
        QTest.mouseMove(page, QPoint(10, 10))
        assert not page.grab().isNull()
    window.switch_look()
    window.switch_units()
