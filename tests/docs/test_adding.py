"""What docs/adding.md promises: one of each added from outside, touching what the page says and no more."""

import shutil
from functools import partial

import pytest

from jaunty_copper.assessment import assessment
from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes import code
from jaunty_copper.codes.checks import Rule, Verdict
from jaunty_copper.documents import tables
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import Table, as_csv, columns
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.examples import example
from tests.build import fused

DEMO = example("orchard_station")


def too_long(case, rule):
    for run in case.plan.runs:
        check = case.check(rule, run.id, run.length_m, 5.0, "m", source="a test")
        yield check if run.length_m <= 5.0 else check.fails(
            Verdict.ADVICE, f"{case.run_title(run)} is long",
            partial(Edit, f"Shorten {run.id}", partial(edits.change, id_=run.id, length_m=5.0)),
        )  # fmt: skip


def test_a_rule(monkeypatch):
    rule = Rule("too_long", "Long", "Long cables cost.", too_long, "{} runs are long", page="build", topic="Test")
    monkeypatch.setattr(assessment, "RULES", (*assessment.RULES, rule))
    known = Assessment(DEMO)
    mine = [f for f in known.findings if f.rule is rule]
    assert {f.place for f in mine} == {r.id for r in DEMO.runs if r.length_m > 5.0}
    assert len([c for c in known.checks if c.rule is rule]) == len(DEMO.runs)
    # The tables have it, and its fix does what it says, with no other file touched.
    rows = tables.table(Dossier(known), "checks").rows
    assert len([r for r in rows if r[0] == "Long"]) == len(DEMO.runs)
    assert all(r.length_m <= 5.0 for f in mine for r in f.fix().apply(DEMO).runs if r.id == f.place)


def test_a_code(monkeypatch, tmp_path):
    shutil.copytree(code.FOLDER, tmp_path / "data")
    text = (tmp_path / "data" / "iso_small_craft.toml").read_text("utf-8")
    (tmp_path / "data" / "works_practice.toml").write_text(text.replace("ISO small craft", "Works practice"), "utf-8")
    monkeypatch.setattr(code, "FOLDER", tmp_path / "data")
    code.code_of.cache_clear()
    try:
        assert "works_practice" in code.code_names()
        assert code.code_name("works_practice") == "Works practice"
        theirs, mine = Assessment(DEMO, "iso_small_craft"), Assessment(DEMO, "works_practice")
        assert [(f.rule, f.place) for f in mine.findings] == [(f.rule, f.place) for f in theirs.findings]
        assert {f.code for f in mine.findings} == {"works_practice"}
    finally:
        code.code_of.cache_clear()
        code.code_name.cache_clear()


def test_a_table(monkeypatch):
    def made(d):
        return Table(
            "lengths", "Lengths of all", columns("run", "length_m"), tuple((r.id, r.length_m) for r in d.plan.runs)
        )

    monkeypatch.setitem(tables.MAKERS, "lengths", made)
    text = as_csv(tables.table(Dossier(DEMO), "lengths"))
    assert text.splitlines()[0] == "run,length_m"
    assert len(text.splitlines()) == len(DEMO.runs) + 1


def test_a_part():
    like = Assessment(DEMO).case.parts.device_families["blade-fuse"]
    values = like.model_dump() | {"id": "own-blade", "label": "own blade", "curve": "blade-fuse", "source": "a test"}
    plan = edits.put_family(fused(), DeviceFamily.model_validate(values))
    plan = edits.change(plan, "F1", family="own-blade")
    assert Assessment(plan).protection.devices["F1"].family.label == "own blade"


def test_a_page(monkeypatch, qtbot):
    pytest.importorskip("PySide6")
    import sys
    from types import ModuleType

    from jaunty_copper.desktop import pages
    from jaunty_copper.desktop.pages.base import Page
    from jaunty_copper.desktop.shell.document import Document
    from jaunty_copper.desktop.shell.window import Window

    class Mine(Page):
        def show_picture(self, picture, scenario):
            self.shown = picture.plan

    module = ModuleType("jaunty_copper.desktop.pages.mine")
    module.Mine = Mine
    monkeypatch.setitem(sys.modules, module.__name__, module)
    monkeypatch.setitem(pages.PAGES, "mine", ("Mine", "A page of a test", "mine.Mine"))
    window = Window(Document(fused()))
    qtbot.addWidget(window, before_close_func=lambda w: w.close())
    window.show()
    qtbot.waitUntil(lambda: window.picture is not None)
    window.rail.buttons["mine"].click()
    assert window.page == "mine"
    assert window.pages["mine"].shown == window.document.plan
    assert [a.text() for a in window.menuBar().actions()[3].menu().actions()].count("Go to &mine") == 1
