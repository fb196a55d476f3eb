"""Every document of every example, and of plans joined anyhow."""

import pypdfium2
import pytest
from hypothesis import given, settings

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.pdf.labels import labels_pdf
from jaunty_copper.documents.pdf.report import report_pdf
from jaunty_copper.documents.table import as_csv, as_xlsx
from jaunty_copper.documents.tables import MAKERS, all_tables, table
from jaunty_copper.fabrication.board import arranged
from jaunty_copper.fabrication.fitting import troubles
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Board, Plan
from tests.codes.test_bank_rules import tangles


@pytest.fixture(scope="module", params=names())
def dossier(request):
    return Dossier(example(request.param))


@pytest.mark.parametrize("name", list(MAKERS))
def test_every_row_is_as_wide_as_its_head(dossier, name):
    t = table(dossier, name)
    assert t.name == name
    assert len(set(t.head)) == len(t.head)
    assert all(len(row) == len(t.head) for row in t.rows)
    assert all(isinstance(c, str | int | float | None) for row in t.rows for c in row)
    assert as_csv(t).count("\n") >= len(t.rows) + 1


def test_a_report_and_labels_can_be_made(dossier):
    report = pypdfium2.PdfDocument(report_pdf(dossier))
    text = " ".join(report[k].get_textpage().get_text_range() for k in range(len(report)))
    assert dossier.plan.name in text
    assert dossier.case.code.name in text
    # Labels of cables, 42 a page, then the notices.
    assert len(pypdfium2.PdfDocument(labels_pdf(dossier))) == -(-2 * len(dossier.shop.cuts) // 42) + 1


def test_everything_fits_on_a_board_large_enough(dossier):
    board = Board(id="large", width_mm=3000.0, height_mm=3000.0)
    plan = dossier.plan.model_copy(update={"boards": (arranged(dossier.plan, board, dossier.shop.wiring.parts),)})
    told = [t.words for t in troubles(wire(plan), plan.boards[0])]
    assert not [t for t in told if "overlap" in t or "edge" in t or "air" in t]


@settings(max_examples=6, deadline=None)
@given(tangles())
def test_units_joined_anyhow_make_documents_too(plan):
    d = Dossier(plan)
    assert as_xlsx(all_tables(d))[:2] == b"PK"
    assert report_pdf(d).startswith(b"%PDF")


def test_names_that_look_like_markup_or_formulas_stay_words():
    plan = edits.change_plan(example("seed_shed"), name="<b>Shed</b> & =1+1", note="=HYPERLINK(1)\n<i>note</i>")
    first = plan.equipment[0].id
    plan = edits.change(plan, first, name="=cmd|'/c'!A1")
    d = Dossier(plan)
    document = pypdfium2.PdfDocument(report_pdf(d))
    assert "<b>Shed</b> & =1+1" in document[0].get_textpage().get_text_range()
    assert "'=cmd" in as_csv(table(d, "equipment"))


def test_no_scenario_no_bank_no_cable():
    for plan in (Plan(), Plan(name="x", equipment=example("seed_shed").equipment)):
        d = Dossier(plan)
        assert report_pdf(d).startswith(b"%PDF")
        assert all(t.head for t in all_tables(d))
