"""The Build page, driven as a person would."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QWidget

from jaunty_copper.desktop.pages.build import page as build_page
from jaunty_copper.desktop.pages.log import page as log_page
from jaunty_copper.plan.model import Plan
from tests.build import fused
from tests.desktop.conftest import settled

LEFT = Qt.MouseButton.LeftButton


def ready(page):
    return page.shop is not None and page.shop.plan is page.picture.plan


@pytest.fixture
def build(window, qtbot):
    qtbot.mouseClick(window.rail.buttons["build"], LEFT)
    page = window.pages["build"]
    qtbot.waitUntil(lambda: ready(page))
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
    qtbot.waitUntil(lambda: build.reels.drawing() is not None)
    box = next(m for m in build.reels.drawing().marks if getattr(m, "run", "") == "W40")
    qtbot.mouseClick(build.reels, LEFT, pos=QPoint(round(box.x + box.w / 2), round(box.y + box.h / 2)))
    assert window.map.selected == "W40" == build.reels.selected


def test_lengths_and_left_overs_are_edits(build, window, qtbot):
    build.show_section("reels")
    build.lengths.setText("20, 10")
    build.lengths.editingFinished.emit()
    assert window.document.plan.reels_m == (10.0, 20.0)
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build))
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
    qtbot.waitUntil(lambda: ready(build))
    assert build.lines.data(build.lines.index(0, 3)) == "12.50"
    build.lines.setData(build.lines.index(0, 3), "")
    assert window.document.plan.prices == {}
    build.lines.setData(build.lines.index(0, 3), "/ 4")
    assert (window.document.plan.prices, window.document.plan.packs) == ({}, {line.key: 4})
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build))
    build.lines.setData(build.lines.index(0, 3), build.lines.data(build.lines.index(0, 3)))
    assert window.document.plan.prices == {}, "as it was shown it stays representative"
    for wrong in ("-1", "3 / 2.5", "3 / x"):
        build.lines.setData(build.lines.index(0, 3), wrong)
        assert window.document.plan.prices == {}
    build.lines.setData(build.lines.index(0, 3), "")
    assert window.document.plan.packs == {}
    sheet = tmp_path / "own.csv"
    sheet.write_text("key,price\nx,bad\n")
    build.read_prices(sheet)
    assert "line 2" in build.note.text()
    sheet.write_text(f"key,price\n{line.key},3\n")
    build.read_prices(sheet)
    assert window.document.plan.prices == {line.key: 3.0}


def test_a_tick_is_kept_and_undone(build, window, qtbot):
    build.show_section("order")
    box = build.steps.boxes["before:hands"]
    box.click()
    assert window.document.plan.done == ("before:hands",)
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build))
    assert build.steps.boxes["before:hands"].isChecked()
    window.document.undo()
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build))
    assert not build.steps.boxes["before:hands"].isChecked()


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
    qtbot.waitUntil(lambda: ready(page))
    assert page.cuts.rowCount() == len(plan.runs)
    for section in ("cuts", "reels", "materials", "order"):
        page.show_section(section)
        QTest.mouseMove(page, QPoint(10, 10))
        assert not page.grab().isNull()
    window.looks.switch()
    window.looks.switch_units()


# Studs, conduits, boards


def up_to_date(build, window, qtbot):
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(build))


def test_torques_and_material_are_edits(build, window, qtbot):
    build.show_section("terminals")
    row = next(k for k, s in enumerate(build.studs.table.rows) if s.ref == "M24.s9")
    assert build.studs.table.data(build.studs.table.index(row, 3)).startswith("W122")
    build.studs.table.setData(build.studs.table.index(row, 4), "11,5 N m")
    assert window.document.plan.torques == {"M8:brass": 11.5}
    up_to_date(build, window, qtbot)
    assert build.studs.table.data(build.studs.table.index(row, 4)) == "11.5"
    build.studs.table.setData(build.studs.table.index(row, 4), "tight")
    build.studs.table.setData(build.studs.table.index(row, 4), "-3")
    assert window.document.plan.torques == {"M8:brass": 11.5}
    build.studs.table.setData(build.studs.table.index(row, 4), "")
    assert window.document.plan.torques == {}
    build.studs.material.setCurrentIndex(1)
    build.studs._material(1)
    assert window.document.plan.stud_material == "steel"


def test_conductors_are_laid_in_conduits(build, window, qtbot):
    build.show_section("conduits")
    build.routes._new()
    up_to_date(build, window, qtbot)
    build.routes.view.setCurrentIndex(build.routes.table.index(1, 0))
    build.select("W21")
    build.routes._lay()
    assert window.document.plan.run_by_id["W21"].route == "conduit1"
    up_to_date(build, window, qtbot)
    assert build.routes.table.rows[1].runs == ("W21",)
    build.routes.table.setData(build.routes.table.index(1, 1), "10 mm")
    up_to_date(build, window, qtbot)
    assert build.routes.table.data(build.routes.table.index(1, 3)).startswith("▲")
    assert any(f.rule.id == "conduit_fill" for f in window.picture.findings)
    build.routes._lay()
    assert window.document.plan.run_by_id["W21"].route is None


def test_a_part_is_dragged_turned_and_taken_off_its_board(build, window, qtbot):
    build.show_section("board")
    pane, view = build.boards, build.boards.view
    qtbot.waitUntil(lambda: view.board is not None and view.width() > 300)
    q = next(t for t in view.things() if t.thing.id == "Q1")
    scale = view._scale
    start = QPoint(round(14 + (q.x + q.w / 2) * scale), round(14 + (q.y + q.h / 2) * scale))
    by = QPoint(round(60 * scale), round(30 * scale))
    QTest.mousePress(view, LEFT, pos=start)
    QTest.mouseMove(view, start + by)
    # Figures that arrive meanwhile do not take it out of the hand.
    build.boards._show()
    QTest.mouseRelease(view, LEFT, pos=start + by)

    def spot():
        return next(s for s in window.document.plan.boards[0].spots if s.of == "Q1")

    assert spot().at_mm == (q.x + 60.0, q.y + 30.0)
    assert window.map.selected == "Q1"
    up_to_date(build, window, qtbot)
    qtbot.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert spot().at_mm[0] == q.x + 110.0
    up_to_date(build, window, qtbot)
    qtbot.keyClick(view, Qt.Key.Key_R)
    assert spot().turned
    up_to_date(build, window, qtbot)
    assert not view.grab().isNull()
    qtbot.keyClick(view, Qt.Key.Key_Delete)
    assert all(s.of != "Q1" for s in window.document.plan.boards[0].spots)
    up_to_date(build, window, qtbot)
    pane.off.setCurrentIndex(pane.off.findData("Q1"))
    pane._put()
    up_to_date(build, window, qtbot)
    assert spot().at_mm[0] == 10.0
    pane.width_field.setText("300")
    pane._size()
    up_to_date(build, window, qtbot)
    assert any("over the edge" in t.words for t in pane.table.rows)
    pane.width_field.setText("wide")
    pane._size()
    assert pane.width_field.text() == "300"
    pane._new()
    assert len(window.document.plan.boards) == 2


def test_a_first_board_has_everything_on_it(open_window, qtbot):
    window = open_window(fused())
    window.show_page("build")
    page = window.pages["build"]
    qtbot.waitUntil(lambda: ready(page))
    page.show_section("board")
    page.boards._new()
    (board,) = window.document.plan.boards
    assert {s.of for s in board.spots} >= {"P", "F0"}


def test_what_is_shown_is_saved_in_its_own_form(build, tmp_path):
    for section, file, begins in (
        ("terminals", "t.csv", b"terminal,"), ("materials", "m.xlsx", b"PK"), ("board", "b.svg", b"<svg"),
    ):  # fmt: skip
        build.show_section(section)
        build.save(tmp_path / file)
        assert (tmp_path / file).read_bytes().startswith(begins)
    build.save(tmp_path / "no" / "where.svg")
    assert build.note.text().startswith("Not saved")


@pytest.mark.parametrize(
    # The others are written by hand, from the menu: see tests/hands.
    ("name", "begins"),
    [("tables", b"PK"), ("map", b"<svg")],
)
def test_documents_are_written_from_the_menu(window, qtbot, tmp_path, name, begins):
    path = tmp_path / name
    window.exports.write(name, path)
    qtbot.waitUntil(path.exists)
    assert path.read_bytes().startswith(begins)
    qtbot.waitUntil(lambda: "Written to" in window.notice.findChild(QLabel).text())
    window.exports.write(name, tmp_path / "no" / "where")
    qtbot.waitUntil(lambda: "Not written" in window.notice.findChild(QLabel).text())


def test_an_edit_begins_where_the_plan_is_and_not_where_the_picture_was(build, window, qtbot):
    """Keys that come before the next picture do not undo what came before them."""
    build.show_section("board")
    build.boards._new()
    settled(window, qtbot)
    qtbot.waitUntil(lambda: build.boards.board is not None)
    board = build.boards.board
    first = next(s for s in board.spots if s.of == "F2")

    def spot():
        return next(s for s in window.document.plan.boards[0].spots if s.of == "F2")

    build.boards._moved("F2", first.at_mm[0] + 90.0, first.at_mm[1], first.turned)
    build.boards._nudged("F2", 5.0, 0.0, False)
    build.boards._nudged("F2", 0.0, 0.0, True)
    build.boards._taken_off("F1")
    assert spot().at_mm == (first.at_mm[0] + 95.0, first.at_mm[1])
    assert spot().turned is not first.turned
    lines = build.shop.lines[:2]
    for k, line in enumerate(lines):
        build._priced(line, str(11 + k))
    assert {line.key: 11.0 + k for k, line in enumerate(lines)}.items() <= window.document.plan.prices.items()
    stacks = {s.thread: s for s in build.studs.table.rows}
    for k, stack in enumerate(stacks.values()):
        build.studs._torque(stack, str(4 + k))
    assert len(window.document.plan.torques) == len(stacks) > 1


def test_no_section_asks_for_a_wider_window(build, window, qtbot):
    """A laptop's 1024 pixels: what is written on a section must not widen it."""
    for page, sections in (("build", build_page.SECTIONS), ("log", log_page.SECTIONS)):
        window.show_page(page)
        for name in sections:
            window.pages[page].show_section(name)
            qtbot.wait(150)
            wide = [
                f"{w.minimumSizeHint().width()} {type(w).__name__} {w.property('text') or ''}"
                for w in window.findChildren(QWidget)
                if 400 < w.minimumSizeHint().width() < 1024
            ]
            assert window.minimumSizeHint().width() <= 1024, f"{page} {name}: {wide}"
