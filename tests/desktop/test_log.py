"""The Log page, driven as a person would."""

import csv
import io

import numpy as np
import pytest
from PySide6.QtCore import Qt

from jaunty_copper.plan.model import Plan
from tests.build import fused
from tests.desktop.conftest import settled

LEFT = Qt.MouseButton.LeftButton


def ready(page):
    f = page.found
    return f is not None and f.plan is page.picture.plan and f.scenario == page.scenario


@pytest.fixture
def log(open_window, qtbot):
    window = open_window(fused())
    qtbot.mouseClick(window.rail_buttons["log"], LEFT)
    page = window.pages["log"]
    qtbot.waitUntil(lambda: ready(page), timeout=20000)
    page.window_ = window
    return page


def sheet_with(page, tmp_path, place=None, more=0.0):
    """A file of what meters would read, with some more ohms at one conductor."""
    b = page.found.bench
    off = np.zeros(b.parameters)
    if place is not None:
        off[b.wiring.branch[place]] = more
    path = tmp_path / "read.csv"
    page.save(path)
    rows = list(csv.DictReader(io.StringIO(path.read_text("utf-8"))))
    for row, value in zip(rows, b.read(b.solve(off)), strict=True):
        row["read"] = f"{value:.6f}"
    with path.open("w", newline="") as file:
        writer = csv.DictWriter(file, rows[0].keys())
        writer.writeheader()
        writer.writerows(rows)
    return path


def test_it_tells_what_to_expect_at_every_conductor(log):
    assert log.head.text().endswith("readings taken")
    texts = [log.table.data(log.table.index(k, 0)) for k in range(log.table.rowCount())]
    assert sum(t.startswith("drop over") for t in texts) == len(log.found.plan.runs)
    assert "voltage of B" in "".join(texts)
    log.few.setChecked(True)
    assert log.table.rowCount() == len(log.found.fewest) < len(texts)


def test_a_reading_typed_is_kept_judged_and_undone(log, qtbot):
    window = log.window_
    row = next(k for k, r in enumerate(log.table.rows) if r.expected.point.a == "F1.b")
    expected = log.table.rows[row].expected.value
    log.table.setData(log.table.index(row, 5), f"{1e3 * (expected + 0.2):.1f} mV")
    (reading,) = window.document.plan.readings
    assert reading.value == pytest.approx(expected + 0.2, abs=1e-4)
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(log), timeout=20000)
    assert log.table.data(log.table.index(row, 6)).startswith("▲▲▲ +")
    assert log.suspects
    log.table.setData(log.table.index(row, 5), "nonsense")
    assert window.document.plan.readings == (reading,)
    log.table.setData(log.table.index(row, 5), "")
    assert window.document.plan.readings == ()
    window.document.undo()
    assert window.document.plan.readings == (reading,)


def test_a_loose_lug_read_from_a_file_is_the_first_suspect_and_leads_to_its_place(log, qtbot, tmp_path):
    window = log.window_
    bench = log.found.bench
    log.load(sheet_with(log, tmp_path, "W5", 0.02))
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(log) and bool(log.suspects), timeout=20000)
    assert log.found.bench is bench
    assert "W5" in log.suspects[0].text()
    qtbot.mouseClick(log.suspects[0], LEFT)
    assert window.map.selected == "W5"
    log.select("W5")
    assert log.table.rows[log.view.currentIndex().row()].expected.point.b == "E.plus"
    log._clear()
    assert window.document.plan.readings == ()


def test_a_sound_system_is_as_planned_and_a_bad_file_is_told(log, qtbot, tmp_path):
    window = log.window_
    path = sheet_with(log, tmp_path)
    log.load(path)
    settled(window, qtbot)
    qtbot.waitUntil(lambda: ready(log) and not np.isnan(log.found.diagnosis.p), timeout=20000)
    assert not log.suspects
    assert not log.found.diagnosis.alarm
    path.write_text("quantity,a,b,read\nvolts,no.where,x.y,1\n")
    log.load(path)
    assert "line 2" in log.note.text()
    log.save(tmp_path / "no" / "where.csv")
    assert log.note.text().startswith("Not saved")


def test_a_plan_with_nothing_to_measure_says_so(open_window, qtbot):
    window = open_window(Plan())
    window.show_page("log")
    page = window.pages["log"]
    qtbot.waitUntil(lambda: ready(page), timeout=20000)
    assert page.table.rowCount() == 0
    assert not page.grab().isNull()
