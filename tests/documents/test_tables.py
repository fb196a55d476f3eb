"""Tables, spreadsheet, report, labels and drawings, held against the plan itself."""

import csv
import io
import re
import xml.etree.ElementTree as ET
from datetime import date

import openpyxl
import pypdfium2
import pytest

from jaunty_copper.cli.main import FORMS, TABLES, main
from jaunty_copper.cli.report import state_values
from jaunty_copper.codes.rules import RULES
from jaunty_copper.documents.curves import curves_of
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.drawing import Circle, Drawing, Rect, Text, as_svg, line
from jaunty_copper.documents.drawings import board_drawing, cable_drawing, curves_drawing, reels_drawing, shares_drawing
from jaunty_copper.documents.notices import notices_of
from jaunty_copper.documents.pdf.labels import labels_pdf
from jaunty_copper.documents.pdf.report import report_pdf
from jaunty_copper.documents.pdf.sheet import plain, spell
from jaunty_copper.documents.states import state_tables
from jaunty_copper.documents.table import WIDEST, Column, Table, as_csv, as_text, as_xlsx, columns
from jaunty_copper.documents.tables import MAKERS, all_tables, table
from jaunty_copper.fabrication.packing import KERF_M
from jaunty_copper.parts.figures import quantity
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import Plan

DEMO = example("orchard_station")
D = Dossier(DEMO)


def rows(name, d=D):
    return list(csv.DictReader(io.StringIO(as_csv(table(d, name)))))


# CSV and spreadsheet


def test_cells_that_begin_like_a_formula_are_words():
    text = as_csv(Table("t", "T", columns("a", "b"), (("=1+1", -2.5), ("@x", None), ("plain", float("inf")))))
    assert text == "a,b\n'=1+1,-2.5\n'@x,\nplain,\n"


def test_a_spreadsheet_holds_figures_as_numbers_and_never_a_formula():
    made = as_xlsx((Table("t", "T", columns("a", "b"), (("=1+1", -2.5), ("-x", 7), ("plain", float("nan")))),))
    sheet = openpyxl.load_workbook(io.BytesIO(made))["T"]
    assert [[c.value for c in row] for row in sheet.iter_rows()] == [
        ["a", "b"],
        ["=1+1", -2.5],
        ["-x", 7],
        ["plain", None],
    ]
    assert [sheet.cell(2, 1).data_type, sheet.cell(2, 2).data_type, sheet.cell(3, 1).data_type] == ["s", "n", "s"]


def test_characters_that_no_spreadsheet_takes_are_replaced():
    made = as_xlsx((Table("t", "T", columns("a"), (("one\x0btwo\x00",),)),))
    assert openpyxl.load_workbook(io.BytesIO(made))["T"].cell(2, 1).value == "one\ntwo\ufffd"


def test_a_table_on_a_terminal_keeps_its_columns_and_cuts_no_last_one():
    long = "x" * (WIDEST + 20)
    heads = (Column("a", "what"), Column("b", "A", places=1), Column("c", "why"))
    made = as_text(Table("t", "T", heads, ((long, 1.25, long), ("y", -0.0, "z"), ("w", None, "v"))))
    head, first, second, third = made.split("\n")
    assert len(set(map(len, (head[: WIDEST + 9], second[: WIDEST + 9])))) == 1
    assert first.endswith(long)
    assert "…" in first
    assert second.split() == ["y", "0.0", "z"]
    assert first.index("1.2") + 3 == second.index("0.0") + 3 == head.index(" A ") + 2
    assert third.split() == ["w", "v"]


def test_a_solved_state_tells_the_same_in_a_table_and_as_values():
    state = D.study.states[1]
    values = state_values(D.case, state)
    equipment, batteries, conductors = state_tables(D.case, state)
    assert [r[2] for r in equipment.rows] == [values["equipment"][e.id]["current_a"] for e in DEMO.equipment]
    assert [r[2] for r in batteries.rows] == list(values["batteries_a"].values())
    told = {r[0].partition(",")[0]: r for r in conductors.rows}
    assert set(told) == {k for k, v in values["runs"].items() if v["ampacity_a"] is not None}
    for id_, row in told.items():
        run = values["runs"][id_]
        assert row[1:6] == pytest.approx(
            (run["current_a"], 1e3 * run["drop_v"], run["loss_w"], run["temperature_c"], run["ampacity_a"])
        )
        assert row[6] == pytest.approx(100 * run["used"])


def test_every_table_is_a_sheet_with_the_same_figures_as_its_csv():
    book = openpyxl.load_workbook(io.BytesIO(as_xlsx(all_tables(D))))
    assert len(book.sheetnames) == len(MAKERS)
    for t in all_tables(D):
        sheet = book[t.title[:31]]
        assert sheet.max_row == len(t.rows) + 1
        for row, cells in zip(t.rows, sheet.iter_rows(min_row=2, values_only=True), strict=True):
            for value, cell in zip(row, cells, strict=True):
                if isinstance(value, float) and abs(value) < 1e12:
                    assert cell == pytest.approx(value, abs=1e-6)
                    assert isinstance(cell, int | float)


def test_the_command_line_knows_every_table():
    assert set(TABLES) == set(MAKERS)
    assert set(FORMS) > set(TABLES)


# Agreement with the plan


def test_cuts_labels_and_studs_agree_with_the_plan_to_the_last_cable():
    cables = [r for r in DEMO.runs if r.length_m > 0.0]
    cut = rows("cuts")
    assert sorted(r["run"] for r in cut) == sorted(r.id for r in cables for _ in range(r.parallel))
    assert sum(float(r["way_m"]) for r in cut) == pytest.approx(sum(r.length_m * r.parallel for r in cables))
    assert all(float(r["cut_m"]) > 0.0 for r in cut)
    assert len(rows("labels")) == 2 * len(cut)
    lugs = sum(1 for r in cut for end in ("lug_a", "lug_b") if r[end])
    assert (
        sum(
            len(r["lugs_from_the_metal_up"].split(", W")) + r["lugs_from_the_metal_up"].count(", L")
            for r in rows("terminals")
        )
        == lugs
    )
    bought = sum(float(r["length_m"]) for r in rows("reels"))
    left = sum(float(r["left_m"]) for r in rows("reels"))
    used = sum(float(r["cut_m"]) for r in cut)
    assert used <= bought - left <= used + KERF_M * len(cut) + 1e-9


def test_totals_of_materials_are_those_of_their_lines():
    lines = rows("materials")
    assert sum(float(r["total"]) for r in lines) == pytest.approx(D.shop.total)
    assert sum(float(r["mass_kg"]) for r in lines) == pytest.approx(D.shop.mass_kg)
    for r in lines:
        assert float(r["quantity"]) * float(r["price"]) == pytest.approx(float(r["total"]), abs=1e-6)
    lugs = sum(float(r["quantity"]) for r in lines if r["key"].startswith("lug:"))
    assert lugs == sum(int(r["count"]) for r in rows("crimps"))
    assert sum(float(r["quantity"]) for r in lines if r["key"].startswith("hardware:")) == len(rows("terminals"))
    assert lugs == sum(1 for r in rows("cuts") for end in ("lug_a", "lug_b") if r[end])


def test_checks_hold_every_conductor_device_and_equipment_and_every_finding():
    found = rows("checks")
    names = [r["place"] for r in found]
    for r in DEMO.runs:
        if r.length_m > 0.0:
            assert D.case.title(r.id) in names
    amps = {r["place"]: r for r in found if r["check"] == "Ampacity"}
    k = D.study.wiring.branch["W21"]
    assert float(amps[D.case.title("W21")]["figure"]) == pytest.approx(float(D.study.continuous_a[k]), abs=1e-6)
    assert float(amps[D.case.title("W21")]["limit"]) == pytest.approx(D.case.ampacities["W21"].amps, abs=1e-6)
    titles = {r.id: r.title for r in RULES}
    for f in D.findings:
        mine = [r for r in found if (r["check"], r["place"]) == (titles[f.rule.id], D.case.title(f.place))]
        assert any(r["verdict"] == f.verdict.word for r in mine), f.headline
    for r in found:
        if r["verdict"] == "holds" and r["check"] in ("Ampacity", "Voltage drop"):
            assert float(r["figure"]) <= float(r["limit"])
        if r["verdict"] == "holds" and r["check"] == "Interrupt rating":
            assert float(r["figure"]) <= float(r["limit"])


def test_rules_and_findings_count_alike():
    assert sum(int(r["findings"]) for r in rows("rules")) == len(D.findings) == len(rows("findings"))


def test_readings_are_those_of_the_bench_with_what_was_read():
    plan = edits.take_reading(DEMO, "measuring", "volts", "F2.b", "INV.plus", 0.0912)
    found = rows("readings", Dossier(plan))
    assert len(found) == len(D.bench.points)
    (one,) = [r for r in found if (r["a"], r["b"]) == ("F2.b", "INV.plus")]
    assert float(one["read"]) == 0.0912
    assert sum(r["among_the_fewest"] == "x" for r in found) == len(D.fewest)


# Report


def pages(data):
    document = pypdfium2.PdfDocument(data)
    return [document[k].get_textpage().get_text_range() for k in range(len(document))]


@pytest.fixture(scope="module")
def report():
    plan = edits.log_entry(DEMO, "torque", "2026-03-02", about="W21", value=12.0, text="all studs marked")
    plan = edits.tick(plan, "before:hands", True)
    return report_pdf(Dossier(plan), date(2026, 4, 5))


def test_the_report_names_every_cable_finding_source_step_and_part(report):
    text = re.sub(r"\s+", " ", " ".join(pages(report)))
    squeezed = text.replace(" ", "")
    for c in D.shop.cuts:
        assert c.run in text
    for f in D.findings:
        assert re.sub(r"\s+", "", f.headline) in squeezed
        assert re.sub(r"\s+", "", f.source) in squeezed
    for s in D.steps:
        assert re.sub(r"\s+", "", s.text) in squeezed
    for x in D.shop.lines:
        assert re.sub(r"\s+", "", x.what) in squeezed
    for word in (
        "North American small craft",
        "representative",
        "licensed practice",
        "all studs marked",
        "2026-04-05",
        "Main panel",
        "done",
    ):
        assert word in text
    assert f"{D.shop.total:.2f} in all" in text


def test_the_report_is_paged_and_its_contents_point_to_its_heads(report):
    found = pages(report)
    for k, text in enumerate(found, 1):
        assert f"{k} of {len(found)}" in text
    contents = re.findall(r"^(\w[\w ]+?) (?:\. )+\.? ?(\d+)\s*$", found[0].replace("\r", ""), re.MULTILINE)
    assert len(contents) > 10
    for title, page in contents:
        assert title in found[int(page) - 1]
    assert [t for t, _ in contents] == sorted((t for t, _ in contents), key=lambda t: int(dict(contents)[t]))


def test_a_report_says_what_differs_from_another_plan(report):
    longer = edits.change(DEMO, "W62", length_m=31.25)
    told = " ".join(pages(report_pdf(Dossier(longer), date(2026, 4, 5), before=D)))
    assert "What differs" in told
    assert "What is not the same" in told
    assert "Both maps" in told
    assert "31.25" in told
    assert "What differs" not in " ".join(pages(report))


def test_the_report_can_be_read_in_black_and_white(report):
    document = pypdfium2.PdfDocument(report)
    grey = document[3].render(scale=0.5, grayscale=True).to_numpy()
    assert grey.min() < 60
    assert grey.max() > 240


def test_a_plan_of_nothing_still_makes_a_report():
    assert "Cautions" in " ".join(pages(report_pdf(Dossier(Plan()))))


def test_figures_are_spelt_without_exponents_and_nothing_as_nothing():
    assert [spell(x) for x in (None, float("nan"), 0.0, -1e-12, 12.3456, 14587.06, "x")] == [
        "",
        "",
        "0",
        "0",
        "12.35",
        "14587",
        "x",
    ]
    assert [plain(124.3, 2), plain(0.0123456, 4)] == ["120", "0.01235"]


def test_there_are_two_labels_for_every_cable():
    text = " ".join(pages(labels_pdf(D)))
    for c in D.shop.cuts:
        assert len(re.findall(rf"\b{c.run}\b", text)) >= 2
    assert len(re.findall(r"\bhere\b", text)) == 2 * len(D.shop.cuts)


# Drawings


@pytest.mark.parametrize(
    "drawing",
    [
        cable_drawing(D.shop, D.shop.cuts[0]), reels_drawing(D.shop), board_drawing(DEMO, D.shop.wiring.parts, DEMO.boards[0]),
        curves_drawing(curves_of(D.case, [D.protection.devices[x] for x in ("F1", "F2")])), shares_drawing(D.case.sharings["B1"][1], "Shares"),
    ],
    ids=lambda d: d.title[:20],
)  # fmt: skip
def test_drawings_are_svg_that_stays_on_its_sheet(drawing):
    root = ET.fromstring(as_svg(drawing))
    assert root.tag.endswith("svg")
    left, top, width, height = drawing.x, drawing.y, drawing.width, drawing.height
    for m in drawing.marks:
        if isinstance(m, Rect):
            assert left - 1 <= m.x <= m.x + m.w <= left + width + 1
        if isinstance(m, Rect | Circle | Text):
            assert top - 1 <= m.y <= top + height + 1


def test_a_cable_is_drawn_with_its_own_lugs_length_and_bend():
    cut = next(c for c in D.shop.cuts if c.run == "W21")
    words = " ".join(m.text for m in cable_drawing(D.shop, cut).marks if isinstance(m, Text))
    assert f"{1000 * cut.length_m:.0f} mm" in words
    assert "90°" in words


def test_words_in_a_drawing_are_escaped():
    d = Drawing("<a & b>", 0, 0, 10, 10)
    d.add(Text(1, 1, "1 < 2 & 3", turned=True), line(((0, 0), (1, 1)), title='"q"', run="a<b"))
    assert "".join(ET.fromstring(as_svg(d)).itertext()).count("&") == 2


# Commands


def test_export_writes_every_form(tmp_path, capsys):
    plan = tmp_path / "demo.copper.json"
    save(DEMO, plan)
    for form in FORMS:
        suffix = {"report": ".pdf", "tables": ".xlsx"}.get(form, ".txt")
        out = tmp_path / f"{form}{suffix}"
        assert main(["export", str(plan), "--to", form, "-o", str(out)]) == 0, form
        assert out.stat().st_size > 20
    assert (tmp_path / "report.pdf").read_bytes().startswith(b"%PDF")
    labels, sheet = tmp_path / "labels.pdf", tmp_path / "cuts.xlsx"
    assert main(["export", str(plan), "--to", "labels", "-o", str(labels)]) == 0
    assert labels.read_bytes().startswith(b"%PDF")
    assert main(["export", str(plan), "--to", "cuts", "-o", str(sheet)]) == 0
    assert openpyxl.load_workbook(sheet).sheetnames == ["Cut list"]
    capsys.readouterr()
    assert main(["export", str(plan), "--to", "report"]) == 2
    assert "-o FILE" in capsys.readouterr().err
    assert main(["export", str(plan), "--to", "cable-svg", "--of", "nothing"]) == 2
    assert main(["export", str(plan), "--to", "curves-svg", "--of", "F1,F2"]) == 0


def test_notices_name_the_fault_current_what_stays_live_and_where_sources_meet():
    notices = {n.place: n for n in notices_of(D)}
    bank = notices["B1"]
    most = max(
        abs(float(D.protection.faults.peak.current_a[D.protection.faults.at[f"{u}.plus"]]))
        for u in ("B1", "B2", "B3", "B4")
    )
    assert f"Available fault current {quantity(most, 'A')} DC" in " ".join(bank.lines)
    assert "Nominal voltage 24 V DC" in bank.lines
    assert any("cal/cm²" in line and "nothing opens it" in line for line in bank.lines)
    assert not any("hydrogen" in line for line in bank.lines)
    switch = notices["Q1"]
    assert "Sun controller, Generator charger" in " ".join(switch.lines)
    assert notices["P24"].head == "More than one source"
    assert "P12" not in notices
    assert [r[0] for r in table(D, "notices").rows] == list(notices)
    text = " ".join(pages(labels_pdf(D)))
    assert "Emergency: switches off the bank" in text
    relay = notices_of(Dossier(example("relay_mast")))
    assert any("hydrogen" in line for n in relay for line in n.lines)
