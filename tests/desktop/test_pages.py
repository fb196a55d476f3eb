"""The Needs and Bank pages, driven as a person would."""

from functools import partial

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from jaunty_copper.desktop.pages.bank.choices import choices
from jaunty_copper.desktop.work.worker import Worker
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Battery, Fuse, Plan, PowerLoad, Scenario
from tests.battery.test_sharing import row
from tests.build import bar, battery, loop, ohms, wire
from tests.desktop.conftest import settled

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def bank(window, qtbot):
    """The Bank page, everything computed."""
    qtbot.mouseClick(window.rail.buttons["bank"], LEFT)
    page = window.pages["bank"]
    qtbot.waitUntil(lambda: known(page))
    return page


def known(page):
    return page.facts is not None and page.facts.influences is not None and page.facts.asked.plan is page.picture.plan


def typed(line, text, qtbot):
    """Type over what a line holds."""
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, text)
    qtbot.keyClick(line, Qt.Key.Key_Return)


def test_pages_are_made_when_first_gone_to_and_lenses_belong_to_the_map(window, qtbot):
    assert not window.pages
    assert window.bar.lenses.button(0).isVisible()
    qtbot.mouseClick(window.rail.buttons["needs"], LEFT)
    assert set(window.pages) == {"needs"}
    assert not window.bar.lenses.button(0).isVisible()
    window.show_page("map")
    assert window.bar.lenses.button(0).isVisible()


def test_the_demo_shows_at_first_sight_that_its_bank_shares_badly(window, bank):
    assert "current sharing spread 34 %" in bank.head.text()
    assert "limit 20 %" in bank.head.text()
    figures = {c.name: c.figure for c in bank.cards.cards}
    assert figures["as it is"] == "34.2 %"
    assert float(figures["opposite corners"].split()[0]) < 10.0
    assert "Most sensitive joint: L1p" in bank.below.text()


def test_one_click_applies_a_pattern_and_undo_takes_it_back(window, bank, qtbot):
    before = window.document.plan
    card = next(c for c in bank.cards.cards if c.name == "opposite corners")
    qtbot.mouseClick(card, LEFT)
    settled(window, qtbot)
    qtbot.waitUntil(lambda: known(bank))
    assert window.document.plan != before
    assert "bank_spread" not in {f.rule.id for f in window.picture.findings}
    assert float(bank.cards.cards[0].figure.split()[0]) < 10.0
    window.menus.undo.trigger()
    settled(window, qtbot)
    assert window.document.plan == before


def test_a_pattern_can_be_applied_by_keyboard(window, bank, qtbot):
    card = next(c for c in bank.cards.cards if c.name == "equal leads to bars")
    card.setFocus()
    qtbot.keyClick(card, Qt.Key.Key_Return)
    settled(window, qtbot)
    assert "BP1" in window.document.plan.by_id
    assert bank.view.post("BP1.s1") is not None


def test_dragging_a_unit_moves_it_and_its_links_follow(window, bank, qtbot):
    view = bank.view
    centre = view.case(view.bank.by_id["B4"]).center().toPoint()
    length = window.document.plan.run_by_id["L3p"].length_m
    qtbot.mousePress(view, LEFT, pos=centre)
    for step in (10, 40, 60):
        QTest.mouseMove(view, centre + QPoint(step, 0))
    qtbot.mouseRelease(view, LEFT, pos=centre + QPoint(60, 0))
    settled(window, qtbot)
    plan = window.document.plan
    assert plan.by_id["B4"].at_mm is not None
    assert plan.run_by_id["L3p"].length_m > length + 0.05
    assert window.map.selected == "B4"


def test_arrow_keys_move_the_selected_unit_and_never_into_another(window, bank, qtbot):
    bank.view.setFocus()
    bank.view.select("B4")
    qtbot.keyClick(bank.view, Qt.Key.Key_Right)
    settled(window, qtbot)
    assert window.document.plan.by_id["B4"].at_mm[0] == pytest.approx(700.0)
    for _ in range(4):
        qtbot.keyClick(bank.view, Qt.Key.Key_Left)
        settled(window, qtbot)
    assert "inside" in window._notice_text.text()
    qtbot.keyClick(bank.view, Qt.Key.Key_Tab)
    assert bank.view.selected == "L1p"


def test_a_bad_joint_shows_what_it_does_and_can_be_taken_away(window, bank, qtbot):
    labels = [e.label for e in choices(bank.picture, "L2p")]
    assert labels[0] == "Give L2p a bad joint of 1 mΩ"
    window.do(choices(bank.picture, "L2p")[0])
    settled(window, qtbot)
    assert bank.view.sharing.spread > 0.5
    assert f"current sharing spread {100 * bank.view.sharing.spread:.0f} %" in bank.head.text()
    assert window.document.plan.run_by_id["L2p"].joint_a_ohm == 1e-3
    sound = next(e for e in choices(bank.picture, "L2p") if "as planned" in e.label)
    window.do(sound)
    settled(window, qtbot)
    assert window.document.plan == example("orchard_station")
    assert not bank.menu_for("B2").isEmpty()


def test_the_slider_shows_the_units_some_hours_on(window, bank, qtbot):
    assert "Unit 1 is empty after" in bank.course.words.text()
    bank.course.slider.setValue(500)
    moment = bank.view.moment
    last = bank.course.hours.course
    assert moment.hour == pytest.approx(last.hours[-1] / 2)
    assert last.soc_percent[-1, 0] < moment.soc_percent["B1"] < last.soc_percent[0, 0]
    bank.course.slider.setValue(0)
    assert bank.view.moment is None
    typed(bank.course.span, "1", qtbot)
    qtbot.waitUntil(lambda: "After 1.0 h no unit is empty" in bank.course.words.text())


def test_another_scenario_and_another_look_reach_the_page(window, bank, qtbot):
    window.scenarios.show("generator")
    assert "into the bank" in bank.head.text()
    window.looks.show("dark")
    assert bank.view.palette_.name == "dark"
    window.looks.switch_units()
    assert "ft" in bank.view.units.length(1.0)
    window.looks.show("light")
    window.looks.switch_units()


def test_the_view_tells_what_is_under_the_mouse(window, bank):
    view = bank.view
    unit = view.case(view.bank.by_id["B2"]).center()
    assert view.hit(unit) == "B2"
    assert "between its posts" in view.tip("B2")
    strap = view.strap(window.document.plan.run_by_id["L1p"]).pointAtPercent(0.5)
    assert view.hit(strap) == "L1p"
    assert " W" in view.tip("L1p")
    assert view.hit(QPointF(2, 2)) is None


def test_a_double_click_on_a_unit_of_the_map_opens_the_bank(window, qtbot):
    window.map.opened.emit("B2")
    assert window.page == "bank"
    assert window.pages["bank"].view.selected == "B2"


def test_a_finding_about_the_bank_jumps_to_its_page(window, qtbot):
    finding = next(f for f in window.picture.findings if f.rule.id == "bank_spread")
    window.going.jump(finding)
    assert window.page == "bank"
    window.going.jump(next(f for f in window.picture.findings if f.rule.id == "lug_stud"))
    assert window.page == "map"


def test_units_that_their_management_systems_open_are_named(window, bank, qtbot):
    plan = window.document.plan
    units = {x.id: {"managed": True} for x in plan.items if isinstance(x, Battery)}
    window.do(Edit("Managed", partial(edits.change_each, changes=units)))
    qtbot.waitUntil(lambda: "every unit has opened; the first was" in bank.course.words.text())


def test_units_with_charges_of_their_own_are_told_what_joining_does(window, bank, qtbot):
    from functools import partial

    from jaunty_copper.plan.edits import Edit, change

    window.do(Edit("x", partial(change, id_="B1", soc_percent=100.0)))
    settled(window, qtbot)
    qtbot.waitUntil(lambda: "Joined at these charges" in bank.below.text())


def test_plans_without_bank_and_with_a_lone_unit_have_pages_too(open_window, qtbot):
    window = open_window(loop())
    window.show_page("bank")
    page = window.pages["bank"]
    qtbot.waitUntil(lambda: known(page))
    assert "only one string" in page.below.text()
    empty = loop().model_copy(update={"items": (), "runs": ()})
    bare = open_window(empty)
    for name in ("bank", "needs"):
        bare.show_page(name)
        bare.grab()
    assert bare.pages["bank"].bank is None


# Needs


@pytest.fixture
def needs(window, qtbot):
    window.show_page("needs")
    return window.pages["needs"]


def cell(page, row, title):
    table = page.table
    titles = [table.headerData(k, Qt.Orientation.Horizontal) for k in range(table.columnCount())]
    return table.index([e.id for e in table.plan.equipment].index(row), titles.index(title))


def test_the_matrix_edits_needs_and_scenarios_and_the_sums_follow(window, needs, qtbot):
    assert "329 Ah a day" in needs.summary.text()
    assert needs.table.setData(cell(needs, "FAN", "h/day"), "12")
    settled(window, qtbot)
    assert window.document.plan.by_id["FAN"].hours_per_day == 12.0
    assert "351 Ah a day" in needs.summary.text()
    assert needs.table.setData(cell(needs, "FAN", "Evening on battery"), "50 %")
    settled(window, qtbot)
    assert window.document.plan.scenarios[0].states["FAN"] == 0.5
    assert needs.table.data(cell(needs, "FAN", "Evening on battery")) == "50 %"
    assert needs.table.setData(cell(needs, "COLD", "Duty %"), "60")
    settled(window, qtbot)
    assert window.document.plan.by_id["COLD"].duty == pytest.approx(0.6)


def test_what_cannot_be_read_changes_nothing_and_what_makes_no_sense_is_told(window, needs, qtbot):
    plan = window.document.plan
    assert not needs.table.setData(cell(needs, "FAN", "h/day"), "often")
    assert not needs.table.setData(cell(needs, "FAN", "Evening on battery"), "maybe")
    assert window.document.plan is plan
    needs.table.setData(cell(needs, "FAN", "h/day"), "30")
    assert "not done" in window._notice_text.text()
    assert window.document.plan is plan


def test_typing_in_a_cell_is_an_edit_and_undo_takes_it_back(window, needs, qtbot):
    view = needs.view
    view.setCurrentIndex(cell(needs, "PUMP", "h/day"))
    view.setFocus()
    # The digit begins the edit: no lens may take it.
    qtbot.waitUntil(view.hasFocus)
    qtbot.keyClick(view, Qt.Key.Key_3)
    (editor,) = view.findChildren(QLineEdit)
    assert window.map.look.lens.id == "flow"
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.document.plan.by_id["PUMP"].hours_per_day == 3.0)
    window.menus.undo.trigger()
    assert window.document.plan.by_id["PUMP"].hours_per_day == 1.5


def test_days_wanted_are_an_edit_and_selection_reaches_the_inspector(window, needs, qtbot):
    typed(needs.days, "0.5", qtbot)
    settled(window, qtbot)
    assert window.document.plan.autonomy_days == 0.5
    assert "autonomy" not in {f.rule.id for f in window.picture.findings}
    needs.view.setCurrentIndex(cell(needs, "PUMP", "Equipment"))
    assert window.map.selected == "PUMP"
    assert needs.bars.selected == "PUMP"
    needs.bars.grab()
    assert any("Well pump" in text for _, text in needs.bars._blocks)


# Work off the window's thread


def test_the_latest_request_wins_and_a_failure_is_told(qtbot):
    worker, done, failed = Worker("test"), [], []
    worker.done.connect(done.append)
    worker.failed.connect(failed.append)
    gate = []

    def slow(task):
        while not gate:
            pass
        task.report("slow")

    worker.ask(slow)
    QTest.qWait(20)
    worker.ask(lambda task: task.report("overtaken too"))
    worker.ask(lambda task: task.report("last"))
    gate.append(1)
    qtbot.waitUntil(lambda: done == ["last"])

    def broken(_):
        raise ZeroDivisionError("ha")

    worker.ask(broken)
    qtbot.waitUntil(lambda: len(failed) == 1)
    assert "ha" in failed[0]
    worker.ask(lambda task: task.report("goes on"))
    qtbot.waitUntil(lambda: done[-1] == "goes on")
    worker.close()


def test_fuses_in_the_leads_are_seen_and_can_be_taken(open_window, qtbot):
    plan = Plan(
        items=(
            battery("B1"), battery("B2"), Fuse(id="F1", family="class-t-fuse", rating_a=100.0),
            Fuse(id="F2", family="class-t-fuse", rating_a=100.0), bar("P", 4), bar("M", 4),
        ),
        equipment=(PowerLoad(id="E", power_w=600.0),),
        runs=(
            wire("a", "B1.plus", "F1.a", 0.2), wire("b", "F1.b", "P.s1", 0.2), wire("c", "B2.plus", "F2.a", 0.2),
            wire("d", "F2.b", "P.s2", 0.2), wire("e", "B1.minus", "M.s1", 0.4), wire("f", "B2.minus", "M.s2", 0.4),
            wire("g", "P.s3", "E.plus"), wire("h", "E.minus", "M.s3"),
        ),
        scenarios=(Scenario(id="s"),),
    )  # fmt: skip
    window = open_window(plan)
    window.show_page("bank")
    page = window.pages["bank"]
    qtbot.waitUntil(lambda: known(page))
    view = page.view
    view.grab()
    assert view.hit(view._box(plan.by_id["F2"]).center()) == "F2"
    assert "A" in view.tip("F2")
    assert "would be lost" in page.below.text()
    assert view.strap(plan.run_by_id["a"]) is not None


def test_equipment_and_scenarios_can_be_entered_before_anything_is_connected(open_window, qtbot):
    window = open_window(Plan())
    window.show_page("needs")
    page = window.pages["needs"]
    next(a for a in page.adding.actions() if a.text().lower().startswith("inverter")).trigger()
    settled(window, qtbot)
    (e,) = window.document.plan.equipment
    assert page.table.setData(cell(page, e.id, "h/day"), "2")
    settled(window, qtbot)
    page.asked.emit("new scenario")
    settled(window, qtbot)
    assert len(window.document.plan.scenarios) == 1
    assert page.needs.used_wh > 0.0
    page.view.setCurrentIndex(cell(page, e.id, "Equipment"))
    qtbot.keyClick(page.view, Qt.Key.Key_Delete)
    settled(window, qtbot)
    assert not window.document.plan.equipment


def test_digits_choose_lenses_on_the_map_only(window, qtbot):
    assert all(a.isEnabled() for a in window.menus.lenses)
    window.show_page("needs")
    assert not any(a.isEnabled() for a in window.menus.lenses)
    window.show_page("map")
    assert all(a.isEnabled() for a in window.menus.lenses)


def test_a_bank_that_cannot_be_followed_says_so(window, bank, qtbot, monkeypatch):
    def broken(task):
        raise ArithmeticError("no way")

    monkeypatch.setattr("jaunty_copper.desktop.pages.bank.page.facts_of", lambda asked: broken)
    window.scenarios.show("noon")
    qtbot.waitUntil(lambda: "could not be followed: ArithmeticError: no way" in bank.below.text())


def test_a_cross_tied_bank_shows_its_own_current_once(open_window, qtbot):
    plan = edits.add(row(2, series=2), ohms("tie", "B0x0.plus", "B1x0.plus", 3e-4))
    window = open_window(plan)
    window.show_page("bank")
    page = window.pages["bank"]
    assert "100 A out of the bank" in page.head.text()
    assert window.picture.bank("B0x0", "s")[0] == pytest.approx(100.0, rel=1e-6)
