"""The worked examples in docs/ are what the program gives, to the last digit shown."""

import doctest
import importlib.util
import math
import re
import tomllib
from pathlib import Path

import pytest

from jaunty_copper.codes.code import code_names, code_of

DOCS = Path(__file__).parents[2] / "docs"
DATA = DOCS.parent / "src" / "jaunty_copper" / "codes" / "data"
PAGES = sorted(p for p in DOCS.rglob("*.md") if ">>> " in p.read_text("utf-8"))


@pytest.mark.parametrize("page", PAGES, ids=lambda p: p.stem)
def test_the_sessions_on_a_page(page):
    failed, tried = doctest.testfile(str(page), module_relative=False, encoding="utf-8")
    assert tried > 2
    assert failed == 0


@pytest.mark.parametrize("page", [DOCS.parent / "README.md", *sorted(DOCS.rglob("*.md"))], ids=lambda p: p.stem)
def test_every_link_leads_somewhere(page):
    for target in re.findall(r"\]\(([^)#]+)(?:#[^)]*)?\)", page.read_text("utf-8")):
        assert (page.parent / target).exists(), target


def test_every_method_page_is_listed():
    listed = (DOCS / "methods" / "README.md").read_text("utf-8")
    for page in (DOCS / "methods").glob("*.md"):
        assert page.name == "README.md" or f"({page.name})" in listed


def test_the_hand_calculations_on_the_pages_are_right():
    """The figures in the text, computed here from nothing but the numbers in the text."""
    root = (12.21**2 - 4 * 300 * 0.05) ** 0.5
    assert f"{(12.21 + root) / 2:.4f}" == "10.8242"
    assert f"{300 / ((12.21 + root) / 2):.4f}" == "27.7156"
    assert f"{(12.21 - root) / 2:.4f}" == "1.3858"
    assert f"{12.21**2 / 0.2:.2f}" == "745.42"
    assert f"{(14.40 - 12.84) / 0.05:.1f}" == "31.2"
    assert f"{12.84 + 31.2 * 0.01:.3f}" == "13.152"
    assert f"{14.40 + 156 * 0.04:.2f}" == "20.64"
    assert f"{120 * (35 / 75) ** 0.5:.2f}" == "81.98"
    assert f"{102 * (35 / 55) ** 0.5:.2f}" == "81.37"
    assert f"{2 * 8 * 3.30 / 1000 * 10:.3f}" == "0.528"
    assert f"{(4 + 2 * 0.3) / 4:.2f}" == "1.15"
    assert f"{100 * 1.15 / 2.15:.2f} {100 / 2.15:.2f}" == "53.49 46.51"
    assert f"{100 * (53.49 - 46.51) / 50:.1f}" == "14.0"
    assert f"{6 * 2.035 - 10 * 0.004:.2f}" == "12.17"
    assert f"{(12.72 - 12.12) / 0.0086:.1f} {0.6 * 0.6 / 0.0086:.1f}" == "69.8 41.9"
    assert f"{1500 / 21:.1f} {1500 / 24:.1f} {200 * 24 * 0.5 / 1500:.1f}" == "71.4 62.5 1.6"
    assert f"{12.84 / (0.9 * 0.010 + 0.040):.1f}" == "262.0"
    assert f"{0.95 * 12.84 / 0.050:.1f} {6 * 1.955 / (1.7 * 0.010 + 0.040):.1f}" == "244.0 205.8"
    assert f"{60 * 0.84:.1f}" == "50.4"
    assert f"{12 / 10:.1f} {0.5 / 10:.2f} {(12 / 0.5) ** 2:.0f}" == "1.2 0.05 576"
    assert f"{(1.6 - 0.0255) * 1.03 + 0.04:.4f}" == "1.6617"
    assert f"{226 * 16 * (math.log(394.5 / 339.5) / 0.1) ** 0.5:.0f}" == "4431"
    assert f"{math.log(394.5 / 339.5):.5f}" == "0.15015"
    assert pytest.approx(400.0) == 0.2 * 20**2 * 300 / 60
    assert f"{100 * 2 * (4.3 / 16.9) ** 2:.1f}" == "12.9"
    assert f"{50 + 2 * 4 * 10 * math.tan(math.radians(90) / 2):.0f}" == "130"
    assert f"{0.45 * 400 / 50:.1f}" == "3.6"
    assert f"{1000 * 6e-6 / 0.005:.1f} {24 / 0.005:.0f}" == "1.2 4800"


def test_the_pages_of_the_codes_say_what_their_data_says():
    spec = importlib.util.spec_from_file_location("codes_pages", DOCS / "codes.py")
    pages = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(pages)
    assert sorted(p.stem for p in (DOCS / "codes").glob("*.md")) == list(code_names())
    for id_ in code_names():
        code = code_of(id_)
        assert (DOCS / "codes" / f"{id_}.md").read_text("utf-8") == pages.page(code)
        assert code.edition
        # The figure by hand is the data file's own row, read without the program.
        _, conductor, insulation, amps = pages.EXAMPLES[id_]
        file = DATA / tomllib.loads((DATA / f"{id_}.toml").read_text("utf-8"))["ampacity"]["table"]
        head, *rows = [line.split(",") for line in file.read_text("utf-8").splitlines() if not line.startswith("#")]
        size = {"mm2-16": "6" if id_.startswith("north") else "16", "awg-6": "6", "mm2-10": "10"}[conductor]
        (row,) = [r for r in rows if r[0] == size]
        assert float(row[head.index(insulation.removeprefix("pvc-"))]) == amps
