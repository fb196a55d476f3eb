"""The report on paper: looked at, then printed; here into a file, since no printer stands beside."""

import pytest
from pypdfium2 import PdfDocument

from .gestures import BOTH

by_both = pytest.mark.parametrize("by", BOTH)


@by_both
def test_the_report_is_looked_at_and_printed(person, by):
    person.open_copy()
    person.menu("File", "Print…", by=by)
    person.sees("What an inspector reads", "Show the pages…")
    person.key("return") if by == "keyboard" else person.click("Show the pages…", "Button")
    person.sees("Print preview")
    person.key("ctrl+p") if by == "keyboard" else person.click("Print", "Button")
    person.sees("Print to File (PDF)")
    file = person.folder / "paper.pdf"
    person.fill_in_dialog("Output file:", str(file))
    person.key("return")
    person.until(lambda: file.exists() and file.read_bytes().rstrip().endswith(b"%%EOF"), "the printed file")
    pages = PdfDocument(file.read_bytes())
    assert len(pages) == 7, "as many as were looked at"
    paper = pages[0].render(scale=0.5).to_pil().convert("L")
    darkest, lightest = paper.getextrema()
    assert darkest < 60 < 200 < lightest, "letters on white"
    person.sees_no("Print preview")
    person.sees("Printed")
