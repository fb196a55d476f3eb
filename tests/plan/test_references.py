"""Readings, log entries and stock name what there is: said on reading, followed by edits."""

import json

import pytest

from jaunty_copper.battery.patterns import arrange
from jaunty_copper.codes.code import code_names
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import PlanError, dumps, parse
from jaunty_copper.plan.model import Plan, Practice, StockPiece

DEMO = example("orchard_station")


def test_the_practices_of_a_plan_are_the_rule_books():
    assert tuple(sorted(Practice.__args__)) == code_names()


READING = {"scenario": "measuring", "quantity": "volts", "a": "F2.b", "b": "INV.plus", "value": 0.1}


@pytest.mark.parametrize(
    ("fields", "why"),
    [
        ({"readings": [{**READING, "b": "INV.nose"}]}, "readings.0: b: there is no terminal INV.nose"),
        ({"readings": [{**READING, "scenario": "party"}]}, "there is no scenario party"),
        ({"readings": [{**READING, "quantity": "joint", "a": "W999", "b": "a"}]}, "there is no conductor W999"),
        ({"readings": [{**READING, "quantity": "amps", "a": "nothing", "b": ""}]}, "nothing is called nothing"),
        ({"log": [{"id": "l", "on": "2026-01-02", "about": "W999"}]}, "l: about: nothing is called W999"),
        ({"log": [{"id": "l", "on": "2026-02-30"}]}, "the calendar has no day 2026-02-30"),
        ({"log": [{"id": "l", "on": "2026-01-02", "kind": "measured", "readings": [{**READING, "a": "X.b"}]}]}, "l: readings.0: a: there is no terminal X.b"),
        ({"stock": [{"id": "s", "conductor": "mm2-11", "length_m": 1}]}, "there is no conductor mm2-11"),
        ({"stock": [{"id": "s", "conductor": "mm2-10", "insulation": "felt", "length_m": 1}]}, "there is no insulation felt"),
        ({"practice": "moon"}, "practice"),
    ],
)  # fmt: skip
def test_what_dangles_is_an_error_with_its_place(fields, why):
    values = {**json.loads(dumps(DEMO)), **fields}
    with pytest.raises(PlanError) as caught:
        parse(json.dumps(values).encode(), "station")
    assert why in "; ".join(caught.value.details)


def measured():
    plan = edits.take_reading(DEMO, "measuring", "volts", "F2.b", "INV.plus", 0.1)
    plan = edits.take_reading(plan, DEMO.scenarios[0].id, "amps", "W21", "", 50.0)
    plan = edits.log_readings(plan, "2026-01-02", "first day")
    return edits.log_entry(plan, "hot", "2026-01-03", about="W21", value=60.0, text="warm lug")


def test_renaming_is_followed():
    plan = edits.rename(measured(), "W21", "W21new")
    assert [r.a for r in plan.readings] == ["F2.b", "W21new"]
    assert plan.log[1].about == "W21new"
    plan = edits.rename(plan, DEMO.scenarios[0].id, "dusk")
    assert [r.scenario for r in plan.readings] == ["measuring", "dusk"]
    assert [r.scenario for r in plan.log[0].readings] == ["measuring", "dusk"]


def test_removing_lets_readings_go_and_keeps_what_the_log_says():
    plan = edits.remove(measured(), "W21")
    assert [r.a for r in plan.readings] == ["F2.b"]
    assert plan.log[0].text == "first day 1 reading went with what was removed."
    assert [r.a for r in plan.log[0].readings] == ["F2.b"]
    assert (plan.log[1].about, plan.log[1].text) == ("", "warm lug About W21, since removed.")
    plan = edits.remove(measured(), DEMO.scenarios[0].id)
    assert [r.scenario for r in plan.readings] == ["measuring"]
    plan = edits.remove_inline(measured(), "F2")
    assert not [r for r in plan.readings if r.a.startswith("F2")]
    assert edits.checked(plan) == plan


def test_another_pattern_lets_the_old_links_readings_go():
    plan = edits.take_reading(DEMO, "measuring", "joint", "L1p", "a", 0.001)
    arranged = arrange(plan, "B1", "bars")
    assert "L1p" not in arranged.run_by_id
    assert arranged.readings == ()


def test_stock_with_one_id_twice_is_said():
    piece = StockPiece(id="left-1", conductor="mm2-10", length_m=1.0)
    with pytest.raises(edits.EditError, match="left-over lengths have this id"):
        edits.checked(Plan(stock=(piece, piece)))
