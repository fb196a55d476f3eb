"""What a report holds by choice, who it is by, and tables whose words do not break."""

from io import BytesIO

import pytest
from PIL import Image
from pypdfium2 import PdfDocument
from reportlab.pdfbase import pdfmetrics
from reportlab.platypus import Paragraph

from jaunty_copper.cli.main import main
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.fonts import STRONG, load_fonts
from jaunty_copper.documents.pdf.cover import Cover, NoPicture
from jaunty_copper.documents.pdf.report import CHAPTERS, INSPECTED, report_pdf
from jaunty_copper.documents.pdf.sheet import CELL, WIDTH, _roomy, spell, words
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save


@pytest.fixture(scope="module")
def demo():
    return Dossier(example("orchard_station"))


def picture(kind="PNG"):
    out = BytesIO()
    Image.new("RGB", (300, 100), "#c8733a").save(out, kind)
    return out.getvalue()


def text_of(pdf):
    document = PdfDocument(pdf)
    return "\n".join(page.get_textpage().get_text_range() for page in document), len(document)


def test_what_an_inspector_reads_is_a_quarter_of_the_whole(demo):
    short, pages = text_of(report_pdf(demo, chapters=INSPECTED))
    whole, all_pages = text_of(report_pdf(demo))
    assert pages <= 9
    assert 4 * pages < all_pages
    for title in ("What this rests on", "System", "Findings", "Short-circuit currents", "Cautions"):
        assert title in short
    for title in ("Every check", "Expected readings"):
        assert title not in short
        assert title in whole


def test_every_chapter_can_be_had_alone(demo):
    front, _ = text_of(report_pdf(demo, chapters=()))
    for name in CHAPTERS:
        alone, _ = text_of(report_pdf(demo, chapters=(name,)))
        assert len(alone) > len(front) or (name == "log" and not demo.plan.log), name


def test_the_first_page_says_who_it_is_by_and_shows_the_logo(demo):
    for kind in ("PNG", "JPEG"):
        made = report_pdf(demo, chapters=(), cover=Cover("A. Planner", "Some <b>Workshop</b>", picture(kind)))
        text, _ = text_of(made)
        assert "By A. Planner, Some <b>Workshop</b>." in text
        assert any(type(o).__name__ == "PdfImage" for o in PdfDocument(made)[0].get_objects())
    assert "By " not in text_of(report_pdf(demo, chapters=()))[0].partition("Code in force")[0]


def test_a_logo_that_is_no_picture_is_refused_in_words(demo, tmp_path, capsys):
    for data in (b"x", picture()[:40], b"<svg/>", b"\x89PNG\r\n\x1a\n" + b"\xff" * 64):
        with pytest.raises(NoPicture):
            report_pdf(demo, chapters=(), cover=Cover(logo=data))
    plan, bad = tmp_path / "p.copper.json", tmp_path / "logo.png"
    save(demo.plan, plan)
    bad.write_bytes(b"x")
    export = ["export", str(plan), "--to", "report", "-o", str(tmp_path / "r.pdf")]
    assert main([*export, "--logo", str(bad)]) == 2
    assert main([*export, "--logo", str(tmp_path / "none.png")]) == 2
    assert main([*export, "--chapters", "map,nonsense"]) == 2
    err = capsys.readouterr().err
    assert "no picture" in err
    assert "no such file" in err
    assert "there is no chapter nonsense" in err
    assert main([*export, "--chapters", "inspector", "--author", "A. Planner"]) == 0
    assert "By A. Planner." in text_of((tmp_path / "r.pdf").read_bytes())[0]


def test_long_figures_have_prefixes_and_words_do_not_break():
    assert spell(3742992.0) == "3.743 M"
    assert spell(-2.5e9) == "-2.5 G"
    assert spell(12345.0) == "12345"
    load_fonts()
    widths = _roomy(("strings", "what"), (("strings", "a b c " * 60), (1.0, "d")), (1, 40))
    assert sum(widths) == pytest.approx(WIDTH)
    assert widths[0] >= pdfmetrics.stringWidth("strings", STRONG, CELL.fontSize)


def test_words_are_broken_into_lines_anew_for_another_width_and_only_then(monkeypatch):
    load_fonts()
    text, broken, afresh = "a word and another one, and so on " * 9, [], Paragraph.breakLines

    def noted(self, width):
        broken.append(width[0])
        return afresh(self, width)

    monkeypatch.setattr(Paragraph, "breakLines", noted)
    one = words(text, CELL)
    asked = (120.0, 120.0, 60.0, 60.0, 120.0)
    found = [(one.wrap(w, 1e4), [line for _, line in one.blPara.lines]) for w in asked]
    assert broken == [120.0, 60.0, 120.0]
    for w, (size, lines) in zip(asked, found, strict=True):
        plain = Paragraph(text, CELL)
        assert size == plain.wrap(w, 1e4)
        assert lines == [line for _, line in plain.blPara.lines]
    assert found[0] != found[2]
