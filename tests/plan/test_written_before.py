"""Plans as every version so far has written them: each of them is read for good. A new version adds its own, and changes none."""

import json
from pathlib import Path

import pytest

from jaunty_copper import __version__
from jaunty_copper.network.study import study
from jaunty_copper.plan.files import PlanError, dumps, load, parse

WRITTEN = sorted((Path(__file__).parent / "written").glob("*.copper.json"))


@pytest.mark.parametrize("file", WRITTEN, ids=lambda f: f.name)
def test_what_a_version_wrote_is_read_and_kept(file):
    plan = load(file)
    assert plan.items
    assert plan.equipment
    assert parse(dumps(plan), "again") == plan
    before = json.loads(file.read_text())
    assert [x["id"] for x in before["items"]] == [x.id for x in plan.items], "nothing is left out"
    assert [r["id"] for r in before["runs"]] == [r.id for r in plan.runs]
    assert any(state.solved for state in study(plan).states)


def test_this_version_has_left_its_own():
    assert any(file.name.startswith(f"{__version__}-") for file in WRITTEN)


def test_what_a_later_version_writes_is_refused_in_words(tmp_path):
    later = tmp_path / "later.copper.json"
    later.write_text(json.dumps({**json.loads(WRITTEN[0].read_text()), "version": 2}))
    with pytest.raises(PlanError, match="written by a newer program"):
        load(later)
