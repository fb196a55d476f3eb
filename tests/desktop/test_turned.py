"""A slider makes one step of however many figures it passes; printing that is ended leaves no half sheet behind."""

from functools import partial

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QProgressDialog, QPushButton, QWidget

from jaunty_copper.desktop.shell import printing
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.turning import STEPS, Ends
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.pdf.report import INSPECTED, report_pdf
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.examples import example

PLAN = example("seed_shed")
FIRST = PLAN.run_by_id["W11"].length_m


def length(metres, run="W11"):
    return Edit(f"{run} {metres}", partial(edits.change, id_=run, length_m=metres))


def test_many_figures_are_one_step_and_the_first_one_again_is_none(qapp):
    d = Document(PLAN)
    d.do(length(2.5, "W21"))
    before = d.plan
    for metres in (4.0, 5.0, 6.0):
        d.turn(length(metres))
        assert d.plan.run_by_id["W11"].length_m == metres
        assert d.unturned is before
    d.undo()
    assert d.plan is before
    d.redo()
    assert d.plan.run_by_id["W11"].length_m == 6.0
    d.turn(length(FIRST))
    assert (d.plan, d.undo_label, d.redo_label) == (before, "W21 2.5", None)
    d.turn(length(7.0))
    d.settle()
    d.turn(length(8.0))
    d.undo()
    assert d.plan.run_by_id["W11"].length_m == 7.0
    d.do(length(9.0))
    d.turn(length(2.0))
    assert [d.undo_label, d.undo(), d.undo_label] == ["W11 2.0", None, "W11 9.0"]


def test_what_the_plan_refuses_leaves_what_was_turned(qapp):
    d = Document(PLAN)
    d.turn(length(4.0))
    with pytest.raises(EditError):
        d.turn(length(-1.0))
    assert d.plan.run_by_id["W11"].length_m == 4.0
    d.undo()
    assert d.plan is PLAN


@pytest.mark.parametrize(("unit", "value"), [("m", 1.6), ("W", 3000.0), ("°C", 25.0), ("%", 80.0), ("A", 0.4)])
def test_the_slider_begins_at_the_figure_and_goes_up_to_its_right(unit, value):
    ends = Ends(unit, value)
    assert ends.value(ends.place(value)) == pytest.approx(value, rel=0.01)
    passed = [ends.value(k) for k in range(STEPS + 1)]
    assert passed == sorted(passed)
    assert passed[0] < value < passed[-1]


def test_printing_can_be_ended(qtbot, tmp_path, monkeypatch):
    monkeypatch.setattr(printing, "PATIENCE_MS", 0)
    monkeypatch.setattr(printing, "PRINTED_DPI", 60.0)
    window = QWidget()
    qtbot.addWidget(window)
    window.show()
    made, said = printing.Printing(window), []
    made.said.connect(said.append)
    data = report_pdf(Dossier(PLAN), chapters=INSPECTED)
    printer = QPrinter()
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "paper.pdf"))

    def end():
        for dialog in window.findChildren(QProgressDialog):
            if dialog.isVisible():
                dialog.findChild(QPushButton).click()

    timer = QTimer(interval=0)
    timer.timeout.connect(end)
    timer.start()
    made._put(printer, printing.Sheets(data, ()), window)
    timer.stop()
    assert said == ["Printing was ended"]
    made._put(printer, printing.Sheets(data, ()), window)
    assert said[1:] == ["Printed"]
    made.worker.close()
