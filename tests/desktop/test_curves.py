"""The Curves page, choosing, protecting and replaying, driven as a person would."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QGraphicsTextItem

from jaunty_copper.choosing.changes import PROTECTION
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.codes.permitted import normal
from jaunty_copper.desktop.shell import own_device, place_menu, protecting
from jaunty_copper.documents.curves import currents_of, curves_of, damage, guarded_run, marks_of
from jaunty_copper.documents.drawing import Text
from jaunty_copper.documents.drawings import curves_drawing
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Plan
from tests.build import fused, judge, loop
from tests.desktop.conftest import settled

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def curves(window, qtbot):
    """The Curves page at the inverter's fuse, everything computed."""
    window.map.select("F2")
    qtbot.mouseClick(window.rail.buttons["curves"], LEFT)
    page = window.pages["curves"]
    qtbot.waitUntil(lambda: known(page))
    return page


def known(page):
    fits = page.fits is not None and page.fits.plan is page.case.plan and page.fits.device == page._device
    return fits and page.replay.found is not None


def test_it_goes_to_the_path_of_what_is_selected(curves, window, qtbot):
    assert [c.device.item.id for c in curves.chain.cards] == ["F1", "F2"]
    assert curves.which.currentText() == "Workshop inverter"
    assert curves.head.text().endswith("Workshop inverter")
    assert "not selective" in curves.chain.verdicts[0].text()
    curves.which.setCurrentIndex(curves.which.findData("PUMP"))
    curves.which.activated.emit(curves.which.currentIndex())
    assert [c.device.item.id for c in curves.chain.cards] == ["F1", "F6"]
    assert curves.chain.verdicts[0].text().startswith("✓ selective")
    qtbot.mouseClick(curves.chain.cards[0], LEFT)
    assert window.map.selected == "F1"
    assert curves._device == "F1"
    window.map.select("W61")
    curves.select("W61")
    assert curves.equipment.id == "PUMP"


def test_pointing_into_the_chart_reads_current_and_time(curves, qtbot):
    told = curves.chart.reading_at(1000.0, 1.0)
    f1, f2 = (curves.case.protection.devices[d] for d in ("F1", "F2"))
    assert told.startswith("1 kA, 1 s")
    assert "F1 opens in" in told
    assert f"{1000 * float(f2.shortest(np.array(1000.0))):.3g} ms" in told
    assert "F1 holds" in curves.chart.reading_at(0.9 * f1.fast_a, 1.0)
    box = curves.chart.plot.getViewBox()
    curves.chart._hover(box.mapViewToScene(QPointF(3.0, 0.0)))
    assert curves.chart.reading.text().split("  ·  ")[1:] == told.split("  ·  ")[1:]
    assert curves.chart.cross[0].isVisible()


def test_what_is_drawn_is_what_is_computed(curves):
    case = curves.case
    device = case.protection.devices["F2"]
    c = currents_of(case, device)
    assert c.most_a == pytest.approx(case.protection.faults.greatest_through("F2")[0])
    # At the lowest voltage at which the inverter still runs: more than in the scenario.
    assert c.normal_a == case.once(normal, "F2").amps > float(case.study.continuous_a[device.branch])
    run = guarded_run(case, device)
    assert run.id in ("W20", "W21", "W22")
    limit = damage(case, run, np.array([1.0, 1e4]))
    assert limit[0] == pytest.approx(
        float(case.protection.withstand.current(np.array([1.0]), np.array([case.protection.withstand.row[run.id]]))[0])
    )
    assert {m.words for m in marks_of(case, device)} == {
        "Workshop inverter fills",
        "Workshop, low bank, while Workshop inverter starts",
    }
    assert [m.words for m in marks_of(case, case.protection.devices["F6"])] == ["Pump starts"]


def test_a_rating_changed_there_moves_the_verdict_and_undoes(curves, window, qtbot):
    rating = curves.chain.cards[1].rating
    rating.choose(100.0)
    settled(window, qtbot)
    assert window.document.plan.by_id["F2"].rating_a == 100.0
    qtbot.waitUntil(lambda: known(curves))
    assert "selective" in curves.chain.verdicts[0].text()
    window.document.undo()
    assert window.document.plan.by_id["F2"].rating_a == 200.0


def test_a_family_of_another_kind_takes_its_place(curves, window, qtbot):
    curves.chain.cards[1].family.choose("hydraulic-magnetic-breaker")
    settled(window, qtbot)
    assert window.document.plan.by_id["F2"].kind == "breaker"
    qtbot.waitUntil(lambda: known(curves))
    assert curves.chain.cards[1].device.family.id == "hydraulic-magnetic-breaker"


def test_one_click_uses_what_fits(curves, window, qtbot):
    choice, button = curves.chain.uses[0]
    assert choice.fits
    qtbot.mouseClick(button, LEFT)
    settled(window, qtbot)
    f2 = window.document.plan.by_id["F2"]
    assert (f2.family, f2.rating_a) == (choice.family.id, choice.rating_a)
    assert "interrupt_rating" not in {f.rule.id for f in window.picture.findings if f.place == "F2"}


def test_the_replay_tells_the_order_and_follows_what_is_chosen(curves, qtbot):
    first = curves.replay.found
    assert "F2 opens after" in curves.replay.words.text()
    curves.replay.edge.setCurrentIndex(1)
    curves.replay.edge.activated.emit(1)
    qtbot.waitUntil(lambda: curves.replay.found is not None and curves.replay.found is not first)
    assert curves.replay.found.certainly
    assert curves.replay.found.opened[0][1] > first.opened[0][1]
    assert curves.replay.read(curves.replay.found, 1e-3).startswith("After 1 ms")


def test_short_circuit_here_from_the_map(window, qtbot):
    window.map.select("W61")
    action = next(a for a in place_menu.of(window, "W61").actions() if a.text() == "Short circuit here")
    action.trigger()
    page = window.pages["curves"]
    assert window.page == "curves"
    qtbot.waitUntil(lambda: known(page))
    assert page.replay.place.currentText() == "halfway along W61"
    assert page.replay.found.ended_s is not None
    page.short_at("W40")
    assert (page.equipment.id, page.replay.place.currentText()) == ("GEN", "halfway along W40")
    window.show_page("map")
    window.map.select("INV")
    window.going.short()
    qtbot.waitUntil(lambda: known(page) and page.replay.found.at == "INV.plus")


def test_a_finding_of_curves_leads_there(window, qtbot):
    f = next(f for f in window.findings.model.shown if f.rule.id == "selectivity")
    window.findings.select(f)
    assert window.page == "curves"
    assert window.map.selected == f.place


@pytest.mark.parametrize("plan", [Plan(), loop(), fused()])
def test_every_plan_has_a_curves_page(open_window, qtbot, plan):
    window = open_window(plan)
    window.show_page("curves")
    page = window.pages["curves"]
    if not plan.equipment:
        assert page.path is None
    elif not any(d.kind == "fuse" for d in plan.items):
        assert page.path.devices == ()
    else:
        assert len(page.chain.cards) == 2
    window.looks.switch()
    window.looks.switch_units()
    assert not page.grab().isNull()


def test_protecting_shows_every_difference_and_makes_the_ticked_ones(window, qtbot):
    before = window.document.plan
    window.additions.protect()
    dialog = window.additions._protecting
    assert isinstance(dialog, protecting.Protecting)
    qtbot.waitUntil(lambda: dialog.found is not None)
    assert len(dialog.boxes) == len(dialog.found.changes) > 5
    assert window.document.plan is before
    k = next(k for k, c in enumerate(dialog.found.changes) if c.place == "F7")
    dialog.boxes[k].setChecked(False)
    assert f"{len(dialog.boxes) - 1} are ticked" in dialog.head.text()
    qtbot.mouseClick(dialog.use, LEFT)
    settled(window, qtbot)
    assert window.document.plan.by_id["F7"] == before.by_id["F7"]
    left = {
        f.place for f in judge(study(window.document.plan)) if f.rule.id in PROTECTION and f.verdict is Verdict.DANGER
    }
    assert left == {"F7"}
    window.document.undo()
    assert window.document.plan == before


def test_a_sound_plan_needs_no_protecting_and_closing_stops_the_work(open_window, qtbot):
    window = open_window(example("seed_shed"))
    window.additions.protect()
    dialog = window.additions._protecting
    qtbot.waitUntil(lambda: dialog.found is not None)
    assert dialog.head.text().startswith("Nothing to change")
    assert not dialog.use.isEnabled()
    dialog.reject()
    other = open_window()
    other.additions.protect()
    thread = other.additions._protecting.worker._thread
    other.additions._protecting.reject()
    qtbot.waitUntil(lambda: not thread.is_alive())


def test_a_device_of_ones_own_with_a_curve_from_a_file(window, qtbot, tmp_path):
    window.additions.device()
    form = window.additions._own_device
    assert isinstance(form, own_device.OwnDevice)
    form.like.setCurrentIndex(form.like.findData("class-t-fuse"))
    form._begin()
    sheet = tmp_path / "sheet.csv"
    sheet.write_text("current_a,shortest_s,longest_s\n20,1,x\n")
    form.rating.setText("10")
    form.read(sheet)
    assert "line 2: longest_s is no number" in form.note.text()
    sheet.write_text("current_a,shortest_s,longest_s\n20,1,30\n60,0.02,0.4\n")
    form.read(sheet)
    assert "2 points, from 2 to 6 times" in form.note.text()
    form._apply()
    assert form.note.text().startswith("Source")
    form.fields["source"].setText("sheet 7")
    form.fields["interrupt_v_ka"].setText("nonsense")
    form._apply()
    assert form.note.text().startswith("Interrupt rating")
    form.fields["interrupt_v_ka"].setText("32:4")
    form._apply()
    settled(window, qtbot)
    (family,) = window.document.plan.parts.device_families
    assert family.gates == ((2.0, 1.0, 30.0), (6.0, 0.02, 0.4))
    assert edits.change(window.document.plan, "F7", family=family.id).by_id["F7"].family == "own-class-t-fuse"


@pytest.mark.parametrize("lens", ["short", "guard"])
@pytest.mark.parametrize("kind", ["INV", "SUN", "LAMP", "CV"])
def test_the_strip_follows_the_lens_for_every_kind_of_row(window, qtbot, lens, kind):
    window.map.select(kind)
    empty = window.strip.grab().toImage()
    window.set_lens(lens)
    window.strip.update()
    drawn = window.strip.grab().toImage()
    assert drawn != empty


def test_a_path_whose_equipment_and_device_are_gone_asks_for_nothing(curves, window, qtbot):
    failed = []
    curves.choosing.failed.connect(failed.append)
    window.show_page("map")
    plan = window.document.plan
    window.document.do(
        edits.Edit("Take everything away", lambda p: edits.remove(p, *(e.id for e in plan.equipment), "F2"))
    )
    settled(window, qtbot)
    # What was asked for on the first visit is asked again on the second.
    for page in ("curves", "map", "curves"):
        window.show_page(page)
        settled(window, qtbot)
    qtbot.wait(200)
    assert curves.case is not None
    assert failed == []
    assert curves._device is None


def test_the_chart_shows_what_the_document_draws(curves):
    shown = curves_of(curves.case, curves.path.devices, curves.chart.selected)
    said = " ".join(t.toPlainText() for t in curves.chart.plot.items() if isinstance(t, QGraphicsTextItem))
    printed = [m.text for m in curves_drawing(shown).marks if isinstance(m, Text)]
    words = [u.words for u in shown.uprights] + [shown.limit.words] + [m.words for m in shown.marks]
    assert {u.kind for u in shown.uprights} >= {"normal", "least", "greatest"}
    for word in words:
        assert word in said
        assert word in printed
    for device in shown.devices:
        assert f"{device.item.id} {device.item.rating_a:g} A" in said
        assert device.item.title in printed
