"""The whole way of a first user, in the real window."""

import random
import subprocess
import sys
from functools import partial

import pytest
from benchmarks.generate import generated
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtWidgets import QApplication, QComboBox, QFileDialog, QLineEdit, QMessageBox

from jaunty_copper.choosing.beginning import Beginning, begun
from jaunty_copper.cli.main import main
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.desktop.shell import place_menu
from jaunty_copper.desktop.shell.beginning import BeginningDialog
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.picture import WORST
from jaunty_copper.plan import edits
from jaunty_copper.plan.autosave import left_behind
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps, load, save
from jaunty_copper.plan.model import PowerLoad
from tests.build import battery, fused, loop
from tests.desktop.conftest import settled

CLICK = Qt.MouseButton.LeftButton


def at(window, id_):
    """Where something stands in the map's viewport."""
    return window.map.to_view(*window.map.place(id_)).toPoint()


def click(window, qtbot, id_, button=CLICK):
    qtbot.mouseClick(window.map.viewport(), button, pos=at(window, id_))


def rules(window):
    return {f.rule.id for f in window.findings.model.all}


def choose(window, qtbot, selected, *texts):
    """Choose a line of the menu of a place, through its submenus."""
    menu = place_menu.of(window, selected)
    for text in texts:
        action = next(a for a in menu.actions() if a.text() == text)
        menu = action.menu() or menu
    action.trigger()
    settled(window, qtbot)
    menu.deleteLater()


def test_the_issue_in_one_go(window, qtbot, tmp_path, capsys, monkeypatch):
    """See, find, thicken, watch, undo, save, and hear the same from the command line."""
    window.scenarios.show("work")
    before = window.picture.equipment(window.document.plan.by_id["PUMP"], "work")
    assert "voltage_drop" in rules(window)
    click(window, qtbot, "W63")
    box = window.inspector.editor("W63", "conductor")
    assert isinstance(box, QComboBox)
    box.choose("mm2-10")
    settled(window, qtbot)
    after = window.picture.equipment(window.document.plan.by_id["PUMP"], "work")
    assert after.drop_v < before.drop_v
    assert not any(f.rule.id == "voltage_drop" and f.place == "PUMP" for f in window.findings.model.all)
    window.menus.undo.trigger()
    settled(window, qtbot)
    assert window.document.plan == example("orchard_station")
    assert window.picture.equipment(window.document.plan.by_id["PUMP"], "work").drop_v == pytest.approx(before.drop_v)
    window.menus.redo.trigger()
    settled(window, qtbot)
    target = tmp_path / "mine"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(target), ""))
    window.menus.save.trigger()
    saved = tmp_path / "mine.copper.json"
    assert load(saved) == window.document.plan
    assert not window.isWindowModified()
    assert main(["check", str(saved)]) == 1
    text = capsys.readouterr().out
    for f in window.findings.model.all:
        assert f.headline in text


def test_every_finding_jumps_to_its_place_and_a_mend_is_one_undo(window, qtbot):
    plan = window.document.plan
    for finding in window.findings.model.shown:
        window.findings.select(finding)
        assert window.map.selected == finding.place
        assert window.map.viewport().rect().contains(at(window, finding.place))
        assert window.findings.why.text() == finding.why
    wanted = (f for f in window.findings.model.shown if (f.rule.id, f.place) == ("lug_stud", "W30"))
    window.findings.select(next(wanted))
    qtbot.mouseClick(window.findings.mend, CLICK)
    settled(window, qtbot)
    assert window.document.plan.run_by_id["W30"].lug_a != plan.run_by_id["W30"].lug_a
    window.document.undo()
    assert window.document.plan == plan


def test_the_fix_that_was_pressed_is_applied_whatever_leaving_the_button_changes(window, qtbot):
    panel = window.findings
    panel.select(next(f for f in panel.model.shown if (f.rule.id, f.place) == ("lug_stud", "W30")))
    lug = window.document.plan.run_by_id["W30"].lug_a
    panel.mend.setFocus()
    leaving = QApplication.instance().focusChanged.connect(lambda *_: panel.set_findings(()))
    qtbot.mouseClick(panel.mend, CLICK)
    QApplication.instance().focusChanged.disconnect(leaving)
    assert window.document.plan.run_by_id["W30"].lug_a != lug


def test_findings_of_one_kind_are_one_line_that_opens_and_is_fixed_at_once(window, qtbot):
    plan, panel = window.document.plan, window.findings
    members = tuple(f for f in panel.model.all if f.rule.id == "interrupt_rating")
    closed = len(panel.model.rows)
    assert closed == len({f.rule.id for f in panel.model.all})
    k = panel.model.row_of("interrupt_rating", None)
    words = panel.model.index(k).data(Qt.ItemDataRole.AccessibleTextRole)
    assert words.startswith(f"danger: {len(members)} devices interrupt less")
    view = panel.list
    view.scrollTo(panel.model.index(k))
    qtbot.mouseClick(view.viewport(), CLICK, pos=view.visualRect(panel.model.index(k)).center())
    assert [panel.model.rows[k + 1 + n] for n in range(len(members))] == list(members)
    assert f"Fix all {len(members)}" in panel.mend.text()
    qtbot.keyClick(view, Qt.Key.Key_Left)
    assert len(panel.model.rows) == closed
    qtbot.mouseClick(panel.mend, CLICK)
    settled(window, qtbot)
    left = {f.place for f in panel.model.all if f.rule.id == "interrupt_rating"}
    assert not left & {f.place for f in members}
    window.document.undo()
    assert window.document.plan == plan


def test_the_key_for_the_next_finding_goes_into_groups(window):
    panel, met = window.findings, []
    for _ in panel.model.all:
        window.going.step(1)
        met.append(panel.current)
    assert sorted(met, key=id) == sorted(panel.model.all, key=id)
    window.going.step(-1)
    assert panel.current == met[-2]


def test_findings_are_counted_and_filtered(window, qtbot):
    findings = window.findings
    for severity, button in findings.filters.items():
        count = sum(f.verdict is severity for f in findings.model.all)
        assert button.text() == severity.counted(count)
    qtbot.mouseClick(findings.filters[Verdict.DANGER], CLICK)
    assert all(f.verdict is not Verdict.DANGER for f in findings.model.shown)
    qtbot.mouseClick(findings.filters[Verdict.DANGER], CLICK)
    assert len(findings.model.shown) == len(findings.model.all)


def test_scenarios_and_the_worst_of_all(window, qtbot):
    box = window.bar.scenarios
    assert [box.itemText(k) for k in range(box.count())][-1] == "Worst case"
    inverter = window.document.plan.by_id["INV"]
    amps = []
    for s in window.document.plan.scenarios:
        window.scenarios.show(s.id)
        amps.append(window.picture.run("W21", s.id).current_a)
    window.scenarios.show(WORST)
    assert window.picture.run("W21", WORST).current_a == pytest.approx(max(amps))
    assert window.picture.equipment(inverter, WORST).drop_v > 0.5
    qtbot.keyClick(window, "]")
    assert window.scenarios.shown == window.document.plan.scenarios[0].id


def test_lenses_units_and_looks_change_what_is_drawn(window, qtbot):
    def shot():
        # The image must outlive the view of its bytes.
        image = window.map.grab().toImage()
        return bytes(image.constBits())

    shots = {shot()}
    for step in (window.looks.switch_units, partial_lens(window, "drop"), window.looks.switch):
        step()
        QApplication.processEvents()
        shots.add(shot())
    assert len(shots) == 4
    assert window.looks.units.awg
    run = window.document.plan.run_by_id["W21"]
    assert "AWG" in LENSES[0].run(window.picture, run, None, window.looks.units)


def partial_lens(window, lens):
    return lambda: window.set_lens(lens)


def test_building_by_mouse(window, qtbot):
    plan = window.document.plan
    choose(window, qtbot, "W31", "Insert", "Disconnect")
    new = next(x for x in window.document.plan.items if x not in plan.items)
    assert window.map.selected == new.id
    choose(window, qtbot, new.id, "Replace by", "Breaker")
    assert window.document.plan.by_id[new.id].kind == "breaker"
    choose(window, qtbot, new.id, "Open it")
    choose(window, qtbot, new.id, "Remove, joining the conductor")
    assert window.document.plan.run_by_id["W31"].length_m == 4.0
    choose(window, qtbot, "P24.s8", "Add circuit", "Load of constant current")
    e = next(x for x in window.document.plan.equipment if x not in plan.equipment)
    assert e.nominal_v == 24.0
    assert window.map.selected == e.id
    choose(window, qtbot, e.id, "Remove this circuit")
    choose(window, qtbot, "P12.s6", "Add circuit", "Resistive load")
    e = next(x for x in window.document.plan.equipment if x not in plan.equipment)
    assert e.nominal_v == 12.0
    choose(window, qtbot, "P24", "Add a stud here")
    choose(window, qtbot, "B2", "Add a unit in parallel")
    choose(window, qtbot, "", "Add", "Chassis")
    choose(window, qtbot, "W21", "Add a parallel conductor")
    assert window.document.plan.run_by_id["W21"].parallel == 2
    choose(window, qtbot, "W21", "Lay a second run between the same ends")
    while window.document.undo_label is not None:
        window.document.undo()
    assert dumps(window.document.plan) == dumps(plan)


def test_every_menu_line_everywhere_gives_a_plan_or_a_clear_refusal(window, qtbot):
    plan = window.document.plan
    # One of each kind that has a menu of its own, and some more by chance: hands go through all of them.
    firsts = {type(x): x.id for x in reversed((*plan.placed, *plan.runs))}
    some = random.Random(3).sample([*plan.by_id, *plan.run_by_id], 2)
    places = ["", *dict.fromkeys((*firsts.values(), *some)), "P24.s3"]
    count = 0
    for place in places:
        menu = place_menu.of(window, place)
        for action in menu.actions():
            for line in action.menu().actions() if action.menu() else [action]:
                # What asks first is tried by hand.
                shows_only = line.text() in ("Short circuit here", "Fold its circuits", "Unfold its circuits")
                if shows_only or line.text().endswith("…") or line.isSeparator():
                    continue
                window.hide_notice()
                line.trigger()
                assert window.document.undo_label is not None or window.notice.isVisible()
                while window.document.undo_label is not None:
                    window.document.undo()
                count += 1
        menu.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert count > 60
    settled(window, qtbot)


@pytest.mark.parametrize("begin", ["PUMP", "P24.s6"])
def test_what_is_dragged_while_the_plan_changes_is_let_go(window, qtbot, begin):
    view = window.map.viewport()
    first = at(window, begin)
    qtbot.mousePress(view, CLICK, pos=first)
    for far in (20, 120):
        qtbot.mouseMove(view, QPoint(first.x() + far, first.y() - far // 3))
    plan = window.document.plan
    caught = []
    before, sys.excepthook = sys.excepthook, lambda *what: caught.append(what[1])
    try:
        # A bank that was asked for comes while the button is still down; what is dragged is gone.
        gone = edits.remove(plan, "PUMP", "F6", "C6")
        window.document.do(edits.Edit("meanwhile", lambda _: edits.add(gone, battery("B9", volts=24.0))))
        window.map.grab()
        settled(window, qtbot)
        qtbot.mouseMove(view, QPoint(first.x() + 60, first.y() - 60))
        window.map.grab()
        qtbot.mouseRelease(view, CLICK, pos=QPoint(first.x() + 60, first.y() - 60))
        settled(window, qtbot)
    finally:
        sys.excepthook = before
    assert caught == []
    assert window.document.plan.by_id.keys() == {*plan.by_id, "B9"} - {"PUMP", "F6", "C6"}
    assert len(window.document.plan.runs) == len(gone.runs)


def test_dragging_a_stud_moves_its_row(window, qtbot):
    view = window.map.viewport()
    first, target = at(window, "P24.s6"), at(window, "P24.s2")
    qtbot.mousePress(view, CLICK, pos=first)
    qtbot.mouseMove(view, QPoint(first.x(), first.y() - 20))
    qtbot.mouseMove(view, QPoint(target.x(), target.y() - 12))
    window.map.grab()
    qtbot.mouseRelease(view, CLICK, pos=QPoint(target.x(), target.y() - 12))
    settled(window, qtbot)
    assert window.document.plan.by_id["P24"].terminal_names[:3] == ("s1", "s6", "s2")
    assert next(r.id for r in window.picture.diagram.rows) == "PUMP"


def test_everything_by_keyboard(window, qtbot):
    plan = window.document.plan
    view = window.map
    view.setFocus()
    view.select("INV")
    seen = set()
    for key in (
        Qt.Key.Key_Down,
        Qt.Key.Key_Left,
        Qt.Key.Key_Left,
        Qt.Key.Key_Down,
        Qt.Key.Key_Right,
        Qt.Key.Key_Up,
    ) * 3:
        qtbot.keyClick(view, key)
        assert view.selected is not None
        assert view.viewport().rect().contains(at(window, view.selected))
        seen.add(view.selected)
    assert len(seen) > 6
    view.select("P24.s6")
    qtbot.keyClick(view, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert window.document.plan.by_id["P24"].terminal_names[4] == "s6"
    view.select("F7")
    qtbot.keyClick(view, Qt.Key.Key_Delete)
    assert "F7" not in window.document.plan.by_id
    view.select("FAN")
    qtbot.keyClick(view, Qt.Key.Key_Delete)
    assert "FAN" not in window.document.plan.by_id
    view.select("W31")
    qtbot.keyClick(view, Qt.Key.Key_Return)
    line = window.inspector.editor("W31", "length_m")
    assert line.hasFocus()
    line.selectAll()
    qtbot.keyClicks(line, "2.5")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert window.document.plan.run_by_id["W31"].length_m == 2.5
    settled(window, qtbot)
    assert window.inspector.editor("W31", "length_m").hasFocus()
    for _ in range(4):
        qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.document.plan == plan
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    assert view.selected is None
    qtbot.keyClick(window, Qt.Key.Key_F8)
    assert window.findings.current is not None
    qtbot.keyClick(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert window.document.undo_label is not None


def test_the_inspector_edits_every_kind_of_field(window, qtbot):
    plan = window.document.plan
    window.map.select("W31")
    editor = window.inspector.editor
    flag = editor("W31", "sheathed")
    flag.click()
    assert window.document.plan.run_by_id["W31"].sheathed
    line = editor("W31", "joint_a_ohm")
    qtbot.keyClicks(line, "0.002")
    line.editingFinished.emit()
    assert window.document.plan.run_by_id["W31"].joint_a_ohm == 0.002
    line = editor("W31", "joint_a_ohm")
    line.clear()
    line.editingFinished.emit()
    assert window.document.plan.run_by_id["W31"].joint_a_ohm is None
    window.looks.switch_units()
    assert float(editor("W31", "length_m").text()) == pytest.approx(4.0 * 3.28084, rel=1e-4)
    window.looks.switch_units()
    line = editor("W31", "length_m")
    line.setText("long")
    line.editingFinished.emit()
    assert line.text() == "4"
    line.setText("-3")
    line.editingFinished.emit()
    assert "not done" in window._notice_text.text()
    assert editor("W31", "length_m").text() == "4"
    window.map.select("PUMP")
    state = editor("PUMP", "state")
    state.choose("surge")
    assert window.document.plan.scenarios[0].states["PUMP"] == "surge"
    window.map.select(None)
    name = editor("plan", "name")
    assert isinstance(name, QLineEdit)
    name.setText("Mine")
    name.editingFinished.emit()
    assert window.document.plan.name == "Mine"
    practice = editor("plan", "practice")
    practice.choose("iso_small_craft")
    settled(window, qtbot)
    assert {f.code for f in window.findings.model.all} == {"iso_small_craft"}
    while window.document.undo_label is not None:
        window.document.undo()
    assert window.document.plan == plan


@pytest.mark.parametrize("kind", ["orchard_station", "relay_mast", "seed_shed"])
def test_everything_on_every_example_can_be_looked_at(open_window, kind, qtbot):
    window = open_window(example(kind))
    for id_ in (*window.document.plan.by_id, *window.document.plan.run_by_id):
        window.map.select(id_, show=True)
        assert window.map.describe(id_)
        for lens in ("flow", "drop"):
            window.set_lens(lens)
            assert not window.map.grab().isNull()
        assert not window.strip.grab().isNull()


def test_scenarios_and_zones_can_be_made_and_taken_away(window, qtbot):
    plan = window.document.plan
    window.scenarios.add()
    settled(window, qtbot)
    assert len(window.document.plan.scenarios) == len(plan.scenarios) + 1
    assert window.scenarios.shown not in [s.id for s in plan.scenarios]
    window.scenarios.delete()
    assert window.document.plan.scenarios == plan.scenarios
    window.additions.zone()
    assert len(window.document.plan.zones) == len(plan.zones) + 1


# Looking about


def test_zoom_pan_and_fit(window, qtbot):
    view = window.map
    fitted = view.look.scale
    view.zoom(2.0)
    assert view.look.scale == pytest.approx(2 * fitted)
    assert view.horizontalScrollBar().maximum() > 0
    empty = QPoint(view.viewport().width() // 2, 3)
    before = view.verticalScrollBar().value(), view.horizontalScrollBar().value()
    qtbot.mousePress(view.viewport(), Qt.MouseButton.MiddleButton, pos=empty + QPoint(0, 200))
    qtbot.mouseMove(view.viewport(), empty + QPoint(-80, 120))
    qtbot.mouseRelease(view.viewport(), Qt.MouseButton.MiddleButton, pos=empty)
    assert (view.verticalScrollBar().value(), view.horizontalScrollBar().value()) != before
    view.fit()
    assert view.look.scale == pytest.approx(fitted)
    view.fit_all()
    assert view.picture.diagram.height * view.look.scale <= view.viewport().height() + 1


def test_the_strip_stands_under_the_maps_columns_and_ends_where_the_figures_say(window, qtbot):
    window.scenarios.show("work")
    for row in ("INV", "PUMP", "GEN", "LAMP"):
        scenario = "generator" if row == "GEN" else "work"
        window.scenarios.show(scenario)
        window.map.select(row)
        steps = window.strip.steps()
        reading = window.picture.equipment(window.document.plan.by_id[row], scenario)
        assert abs(steps[-1][2]) == pytest.approx(abs(reading.drop_v), abs=0.02)
        columns = {ref: x for x, ref, _ in steps}
        for shape in window.picture.diagram.shapes:
            if shape.id == row and shape.kind == "equipment":
                assert columns[f"{row}.plus"] == shape.box.x
                assert columns[f"{row}.minus"] == shape.box.right


def test_sixty_circuits_stay_readable(open_window, qtbot):
    window = open_window(generated(200))
    assert len(window.picture.diagram.rows) >= 55
    assert window.map.look.scale >= 0.7
    assert window.map.verticalScrollBar().maximum() > 0
    last = window.picture.diagram.rows[-1].id
    window.map.select(last, show=True)
    assert window.map.viewport().rect().contains(at(window, last))


def test_hovering_tells_what_a_thing_is(window, qtbot):
    assert "carries" not in window.map.describe("W21")
    words = window.map.describe("W40")
    assert "no device at its start" in words
    assert "of 150 A, by engine space" in words
    assert "24 V plus bar, s3" in window.map.describe("P24.s3")
    assert "surge" not in window.map.describe("B1")


def test_a_plan_that_cannot_be_solved_is_still_shown(open_window, qtbot):
    window = open_window(loop(PowerLoad(id="E", power_w=5000.0)))
    assert "collapse" in rules(window)
    window.map.select("E")
    assert not window.map.grab().isNull()
    assert not window.strip.grab().isNull()


def test_the_latest_of_many_edits_wins(window, qtbot):
    shown = []
    window.studying.done.connect(lambda p: p.judged and shown.append(p.plan))
    for k in range(1, 30):
        window.do(Edit("length", lambda p, k=k: edits.change(p, "W31", length_m=float(k))))
    settled(window, qtbot)
    assert window.picture.plan.run_by_id["W31"].length_m == 29.0
    assert len(shown) < 29


def test_the_map_shows_figures_before_the_plan_is_judged(window, qtbot):
    seen, before = [], window.picture.findings
    window.studying.done.connect(lambda p: seen.append((p.judged, window.map.picture)))
    window.do(Edit("length", lambda p: edits.change(p, "W31", length_m=40.0)))
    # Whoever listens hears of it one after the other: the window first.
    qtbot.waitUntil(lambda: len(seen) == 2)
    assert [judged for judged, _ in seen] == [False, True]
    early, late = (picture for _, picture in seen)
    # Both are of the new plan; the earlier still says what was wrong with the old one.
    assert early.plan is late.plan is window.document.plan
    assert early.run("W31", None) == late.run("W31", None)
    assert early.findings == before != late.findings
    assert window.picture is late


def test_a_lens_on_faults_waits_until_they_are_known(window, qtbot):
    window.set_lens("short")
    seen = []
    window.studying.done.connect(lambda p: seen.append(window.map.picture.judged))
    window.do(Edit("length", lambda p: edits.change(p, "W31", length_m=40.0)))
    qtbot.waitUntil(lambda: len(seen) == 2)
    assert seen == [True, True]


def test_a_study_that_fails_inside_leaves_the_window_alive(window, qtbot, monkeypatch):
    from jaunty_copper.desktop.work import making

    def broken(plan, scenario):
        raise ZeroDivisionError("for the test")

    monkeypatch.setattr(making, "pictures_of", broken)
    window.do(Edit("x", lambda p: edits.change(p, "W31", length_m=1.0)))
    qtbot.waitUntil(window.notice.isVisible)
    assert "for the test" in window._notice_text.text()
    monkeypatch.undo()
    window.document.undo()
    settled(window, qtbot)


# Files


def test_new_open_recent_and_leaving_unsaved_work(window, qtbot, tmp_path, monkeypatch):
    path = tmp_path / "p.copper.json"
    save(fused(), path)
    assert window.open(path)
    settled(window, qtbot)
    assert window.document.plan == fused()
    assert window.settings.recent == [str(path)]
    window.fill_recent()
    assert window.menus.recent.actions()[0].text() == str(path)
    window.do(Edit("x", lambda p: edits.change(p, "F1", rating_a=5.0)))
    answers = iter(
        (QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Save, QMessageBox.StandardButton.Discard)
    )
    monkeypatch.setattr(QMessageBox, "exec", lambda *a: next(answers))
    window.new()
    assert window.document.path == path
    window.new()
    dialog = window.findChild(BeginningDialog)
    dialog.buttons.accepted.emit()
    settled(window, qtbot)
    assert window.document.plan == begun(Beginning())
    assert load(path).by_id["F1"].rating_a == 5.0
    window.do(Edit("x", lambda p: edits.change(p, "F1", rating_a=50.0)))
    window.open_example("seed_shed")
    settled(window, qtbot)
    assert window.document.plan == example("seed_shed")


def test_a_broken_file_says_what_is_wrong_where_and_leaves_the_plan_alone(window, qtbot, tmp_path):
    path = tmp_path / "broken.json"
    path.write_bytes(dumps(fused()).replace(b'"rating_a": 10.0', b'"rating_a": "ten"'))
    plan = window.document.plan
    assert not window.open(path)
    assert "items[5] (F1) › rating_a" in window._box.informativeText()
    assert "untouched" in window._box.text()
    window._box.close()
    assert window.document.plan is plan


def test_a_change_on_disk_is_told_and_can_be_loaded(window, qtbot, tmp_path, monkeypatch):
    path = tmp_path / "p.json"
    window.save_as(path)
    other = edits.change(window.document.plan, "F1", rating_a=175.0)
    save(other, path)
    window.look_at_disk()
    qtbot.waitUntil(lambda: "changed by another program" in window._notice_text.text())
    button = next(b for b in window._notice_buttons if b.text() == "Load it")
    qtbot.mouseClick(button, CLICK)
    settled(window, qtbot)
    assert window.document.plan == other
    save(fused(), path)
    window.do(Edit("x", lambda p: edits.change(p, "F1", rating_a=200.0)))
    monkeypatch.setattr(QMessageBox, "exec", lambda *a: QMessageBox.StandardButton.Cancel)
    assert not window.save()
    assert load(path) == fused()
    path.write_text("{")
    window.look_at_disk()
    qtbot.waitUntil(lambda: "no longer a valid plan" in window._notice_text.text())
    path.unlink()
    save(fused(), path)
    window.save_as(path)
    path.unlink()
    window.look_at_disk()
    qtbot.waitUntil(lambda: "no longer on disk" in window._notice_text.text())


def test_a_plan_open_in_another_window_is_told(open_window, qtbot, tmp_path):
    path = tmp_path / "p.json"
    first = open_window(fused())
    first.save_as(path)
    second = open_window(loop())
    second.open(path)
    assert "open in another window" in second._notice_text.text()


def test_a_save_that_fails_is_told_and_loses_nothing(window, qtbot, tmp_path):
    window.do(Edit("x", lambda p: edits.change(p, "F1", rating_a=175.0)))
    assert not window.save_as(tmp_path / "none" / "p.json")
    assert "Not saved" in window._notice_text.text()
    assert window.document.unsaved


def test_unsaved_work_is_journalled_and_recovered_after_a_crash(open_window, qtbot, tmp_path, monkeypatch):
    code = """
import os, sys
from PySide6.QtTest import QTest
from jaunty_copper.desktop.shell.app import application
from jaunty_copper.desktop.shell.document import demo_document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
app = application()
window = Window(demo_document())
window.do(Edit("x", lambda p: edits.change(p, "F1", rating_a=125.0)))
window._keep_autosave()
window.disk.close()
os._exit(9)
"""
    subprocess.run([sys.executable, "-c", code], check=False, capture_output=True)
    (left,) = left_behind()
    assert left.plan.by_id["F1"].rating_a == 125.0
    window = open_window(loop())
    window.offer_recovery()
    assert "Quince Hollow" in window._notice_text.text()
    qtbot.mouseClick(next(b for b in window._notice_buttons if b.text() == "Recover it"), CLICK)
    settled(window, qtbot)
    assert window.document.plan == left.plan
    assert window.document.unsaved
    folder = window.autosave.file.parent
    qtbot.waitUntil(lambda: list(folder.glob("unsaved-*.json")) == [window.autosave.file])
    window.save_as(tmp_path / "p.json")
    qtbot.waitUntil(lambda: not window.autosave.file.exists())


def test_closing_asks_only_when_something_would_be_lost(open_window, qtbot, monkeypatch):
    asked = []
    monkeypatch.setattr(QMessageBox, "exec", lambda *a: asked.append(a) or QMessageBox.StandardButton.Cancel)
    calm = open_window(fused())
    assert calm.close()
    assert asked == []
    busy = open_window(fused())
    busy.do(Edit("x", lambda p: edits.change(p, "F1", rating_a=5.0)))
    assert not busy.close()
    assert len(asked) == 1


def test_help_can_be_read(window, qtbot, monkeypatch):
    read = []
    monkeypatch.setattr(QMessageBox, "information", lambda *a: read.append(a[-1]))
    monkeypatch.setattr(QMessageBox, "about", lambda *a: read.append(a[-1]))
    for show in (window.help.cautions, window.help.about):
        show()
    assert "licensed person" in read[0]
    assert "insulated tools" in read[0]


def test_undo_and_redo_come_back_to_what_was_studied(qtbot):
    window = Window(Document(example("seed_shed")))
    qtbot.addWidget(window)
    window.show()
    studied = lambda: window.picture is not None and window.picture.plan is window.document.plan  # noqa: E731
    qtbot.waitUntil(studied, timeout=60000)
    first = window.picture.known
    window.do(Edit("longer", partial(edits.change, id_="W11", length_m=9.0)))
    qtbot.waitUntil(studied, timeout=60000)
    second = window.picture.known
    assert second is not first
    window.document.undo()
    qtbot.waitUntil(studied, timeout=60000)
    assert window.picture.known is first
    window.document.redo()
    qtbot.waitUntil(studied, timeout=60000)
    assert window.picture.known is second
    window.document.path = None
    while window.document.undo_label is not None:
        window.document.undo()
