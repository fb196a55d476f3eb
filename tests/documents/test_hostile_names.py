"""Names come from anybody's file: no format that they are written to obeys them."""

import csv
import io
import re
from xml.etree import ElementTree

import pytest

from jaunty_copper.cli.main import main
from jaunty_copper.documents.circuit import netlist
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.drawing import as_svg
from jaunty_copper.documents.drawings import reels_drawing
from jaunty_copper.documents.map.drawing import map_svg
from jaunty_copper.documents.pdf.labels import labels_pdf
from jaunty_copper.documents.pdf.report import report_pdf
from jaunty_copper.documents.table import as_csv, as_xlsx
from jaunty_copper.documents.tables import all_tables
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.text import lines, one_line

NAMES = {
    "an order to a solver": "x\n.control\nshell touch broken\n.endc\n*",
    "a formula after a bare return": "a\r=1+1",
    "a formula": "=cmd|' /C calc'!A0",
    "a terminal's escape": "\x1b[2J\x1b]0;owned\x07\x9b31m",
    "markup": "</text><script>x</script>&lt;<b>",
    "what no XML may hold": "a\x00\x01\x0b\ufffeb",
    "another direction of writing": "\u202etxt.exe\u2066",
}
CONTROL = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069\ud800-\udfff]")


@pytest.fixture(params=NAMES.values(), ids=NAMES)
def plan(request):
    plan = example("seed_shed")
    for thing in (*plan.items, *plan.equipment, *plan.scenarios, *plan.zones, *plan.routes, *plan.boards):
        plan = edits.change(plan, thing.id, name=request.param)
    return edits.log_entry(
        edits.change_plan(plan, name=request.param), kind="note", on="2026-01-02", text=request.param
    )


def test_no_line_of_a_netlist_is_of_a_name(plan):
    for state in Dossier(plan).study.states:
        text = netlist(state)
        assert "\r" not in text
        for line in text.splitlines()[:-3]:
            assert line.startswith(("*", "V", "R", "B", "I", ".nodeset V("))
        assert text.splitlines()[-2:] == [".op", ".end"]
        assert len(text.splitlines()) == len(text.split("\n")) - 1


def test_no_cell_is_a_formula_and_no_row_is_of_a_name(plan):
    for table in all_tables(Dossier(plan)):
        text = as_csv(table)
        assert not CONTROL.search(text)
        rows = list(csv.reader(io.StringIO(text, newline="")))
        assert len(rows) == 1 + len(table.rows)
        assert all(len(row) == len(table.head) for row in rows)
        for row in rows:
            for cell in row:
                assert not re.match(r"[=+@\t\r]|-[^\d.]", cell), cell
    assert as_xlsx(all_tables(Dossier(plan))).startswith(b"PK")


def test_drawings_are_well_formed(plan):
    d = Dossier(plan)
    for text in (map_svg(d.known, d.study.states[0].scenario.id), as_svg(reels_drawing(d.shop))):
        root = ElementTree.fromstring(text.encode("utf-8"))
        assert not [e for e in root.iter() if e.tag.endswith("script")]


def test_documents_are_made(plan):
    assert report_pdf(Dossier(plan)).startswith(b"%PDF")
    assert labels_pdf(Dossier(plan)).startswith(b"%PDF")


def test_no_terminal_obeys_a_name(plan, tmp_path, capsys):
    file = tmp_path / "plan.copper.json"
    save(plan, file)
    for command in ("check", "solve", "faults", "coordination", "needs", "readings", "bank"):
        main([command, str(file)])
        said = capsys.readouterr()
        assert said.out
        assert not CONTROL.search(said.out + said.err)


def test_words_that_steer_nothing_stay_as_they_are():
    for text in ("Brunnenpumpe 24 V", "Ωμέγα", "水泵", "a  b"):
        assert one_line(text) == text
        assert lines(text) == text
    assert one_line(" a\nb\t c ") == "a b  c"
    assert lines("a\r\nb\rc") == "a\nb\nc"
