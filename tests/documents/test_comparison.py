"""Two plans side by side: nothing where they are alike, each change once, and what it moves."""

import json
import random

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli.main import main
from jaunty_copper.documents.comparison import Comparison
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import Plan
from tests.networks import network

DEMO = example("orchard_station")


def compare(one, other, code=None):
    return Comparison(Dossier(Assessment(one)), Dossier(Assessment(other, code)))


def test_a_plan_differs_from_itself_by_nothing():
    c = compare(DEMO, Plan.model_validate(DEMO.model_dump()))
    assert (c.changes, c.gone, c.come, c.figures) == ((), (), (), ())
    assert all(f.before == f.after for f in c.totals)


def test_other_names_alone_are_no_difference():
    plan = DEMO
    for old, new in (("PUMP", "WELLPUMP"), ("F6", "F66"), ("W31", "W310"), ("P24", "PLUS")):
        plan = edits.rename(plan, old, new)
    c = compare(DEMO, plan)
    assert c.same["PUMP"] == "WELLPUMP"
    assert c.same["W31"] == "W310"
    assert [x for x in c.changes if x.field != "id"] == []
    assert c.figures == ()
    assert (c.gone, c.come) == ((), ())


@pytest.mark.parametrize("seed", range(6))
def test_each_of_some_changes_by_chance_is_told_once(seed):
    rng = random.Random(seed)
    plan = network(seed)
    runs = rng.sample(plan.runs, min(4, len(plan.runs)))
    after = plan
    for run in runs:
        after = edits.change(after, run.id, length_m=round(run.length_m + 0.5, 3))
    c = compare(plan, after)
    assert {(x.kind, x.id, x.field) for x in c.changes} == {("changed", r.id, "length_m") for r in runs}
    before, then = ({(f.rule.id, f.place) for f in d.findings} for d in (c.before, c.after))
    assert {(f.rule.id, f.place) for f in c.gone} == before - then
    assert {(f.rule.id, f.place) for f in c.come} == then - before
    # Every figure is that of its own plan, and what is not named has not moved.
    told = {(f.what, f.id) for f in c.figures}
    for f in c.figures:
        assert f.moved > 5e-3
    for run in plan.runs:
        k = c.before.study.wiring.branch[run.id]
        a, b = (abs(float(d.study.lasting_state(k).point.current_a[k])) for d in (c.before, c.after))
        if abs(a - b) > 0.01 * max(a, b, 1e-9):
            assert ("lasting current", run.id) in told


def test_what_is_taken_out_and_put_in():
    after = edits.remove_circuit(DEMO, "FAN")
    c = compare(DEMO, after)
    gone = {x.id for x in c.changes if x.kind == "removed"}
    assert {"FAN", "F7"} <= gone
    back = compare(after, DEMO)
    assert {x.id for x in back.changes if x.kind == "added"} == gone
    price = next(f for f in c.totals if f.what == "price")
    assert price.after < price.before
    assert next(f for f in back.totals if f.what == "price").after == pytest.approx(price.before)


def test_one_plan_by_two_codes():
    c = compare(DEMO, DEMO, "nfpa_70")
    assert c.changes == ()
    assert c.come
    assert {f.rule.id for f in c.come} - {f.rule.id for f in c.before.findings}


def test_the_command(tmp_path, capsys):
    one, other = tmp_path / "a.copper.json", tmp_path / "b.copper.json"
    save(DEMO, one)
    save(edits.change(DEMO, "W60", length_m=20.0), other)
    assert main(["compare", str(one), str(other)]) == 0
    text = capsys.readouterr().out
    assert "W60" in text
    assert "length_m" in text
    assert main(["compare", str(one), str(other), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert [(c["id"], c["field"], c["after"]) for c in found["changes"]] == [("W60", "length_m", "20")]
    assert main(["compare", str(one), "--practice", "iec_60364", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["come"]
    assert main(["compare", str(one)]) == 2
    assert main(["compare", str(one), "--practice", "none"]) == 2
