"""What became of things since: trends, comparison, charging."""

import json
from functools import reduce
from math import inf, isfinite

import numpy as np
import pytest

from jaunty_copper.cli.main import main
from jaunty_copper.commissioning.charging import charge_hours, charging_of, slower, with_more
from jaunty_copper.commissioning.model import bench
from jaunty_copper.commissioning.points import Point, everything_on
from jaunty_copper.commissioning.trends import capacities, compare, costs, days_of, recovered, side_by_side, trend
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import run_ohms, wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import Reading
from jaunty_copper.simulator.hidden import AsBuilt, Deviation

DEMO = example("orchard_station")
ON = everything_on(DEMO)
POINTS = bench(DEMO, ON).points


def day(ohm, seed=1):
    built = AsBuilt(DEMO, Deviation("loose lug", "W21", "a", ohm) if ohm else None, seed)
    return tuple(Reading(scenario=ON.id, quantity=p.quantity, a=p.a, b=p.b, value=built.value(ON, p)) for p in POINTS)


@pytest.fixture(scope="module")
def logged():
    plan = DEMO
    for on, ohm in (("2026-06-01", 0.003), ("2026-01-01", 0.0)):
        plan = edits.change_plan(plan, readings=day(ohm))
        plan = edits.log_readings(plan, on)
    return edits.change_plan(plan, readings=())


def test_days_come_in_their_order_whatever_that_of_the_file(logged):
    assert [e.on for e in days_of(logged)] == ["2026-01-01", "2026-06-01"]


def test_a_trend_finds_the_resistance_of_each_day_within_its_interval(logged):
    first, last = trend(logged, "W21")
    assert (first.on, last.on) == ("2026-01-01", "2026-06-01")
    assert last.ohm - first.ohm == pytest.approx(0.003, abs=3.0 * last.sigma_ohm)
    assert first.ohm == pytest.approx(first.planned_ohm, rel=0.15)
    assert trend(logged, "no-such-thing") == ()
    assert trend(DEMO, "W21") == ()


def test_a_trend_outlives_what_was_taken_away_since(logged):
    assert len(trend(edits.remove_circuit(logged, "LAMP"), "W21")) == 2


def test_before_and_after_names_what_changed(logged):
    before, after = (e.readings for e in days_of(logged))
    b, found = compare(logged, before, after)
    assert b is not None
    assert found.alarm
    assert found.suspects[0].owner == "W21"
    assert not compare(logged, before, before)[1].alarm
    assert compare(logged, before, ())[0] is None


def test_charge_and_capacity_are_listed_by_their_days():
    plan = edits.log_entry(DEMO, "charge", "2026-05-01", about="GEN", value=90.0, hours=3.0)
    plan = edits.log_entry(plan, "charge", "2026-02-01", value=100.0)
    plan = edits.log_entry(plan, "capacity", "2026-03-01", about="B1", value=96.0)
    first, second = recovered(plan)
    assert (first.on, first.ah, isfinite(first.per_hour)) == ("2026-02-01", 100.0, False)
    assert second.per_hour == pytest.approx(30.0)
    assert capacities(plan) == (("2026-03-01", "B1", 96.0),)


# Charging


LONG = reduce(lambda plan, run: edits.change(plan, run, conductor="mm2-10"), ("W40", "W41", "W42"), DEMO)
"""Leads so thin that they hold the generator back."""
LOW = DEMO.scenarios[0].model_copy(update={"soc_percent": 50.0})


def test_a_charger_that_reads_low_or_a_bad_joint_makes_charging_longer():
    planned = charge_hours(LONG, LOW, "GEN")
    assert 2.0 < planned < 10.0
    for cost in (slower(LONG, LOW, "GEN", -0.4), slower(LONG, LOW, "GEN", joints={"W40": 0.02})):
        assert cost.planned_h == planned
        assert cost.real_h > 1.2 * planned
    assert slower(DEMO, LOW, "GEN", -4.0).real_h == inf
    with pytest.raises(KeyError):
        charge_hours(DEMO, LOW, "INV")


def test_hours_of_charging_at_a_constant_current_by_hand():
    """With resistance taken away the charger gives its 50 A to the end: 45 % of 400 Ah take 3.6 h."""
    plan = DEMO
    for r in DEMO.runs:
        plan = edits.change(plan, r.id, measured_ohm=1e-6)
    for unit in ("B1", "B2", "B3", "B4"):
        plan = edits.change(plan, unit, internal_ohm=1e-5)
    assert charge_hours(edits.change(plan, "GEN", set_v=40.0), LOW, "GEN") == pytest.approx(
        0.45 * 400.0 / 50.0, rel=0.02
    )


def test_what_a_source_loses_on_the_way_is_read_at_both_ends():
    b = bench(DEMO, ON)
    (found,) = charging_of(
        b, {Point("volts", "GEN.plus", "GEN.minus"): 28.1, Point("volts", "B1.plus", "B1.minus"): 26.5}
    )
    assert (found.source, found.lost_v) == ("GEN", pytest.approx(1.6))
    assert found.error_v == pytest.approx(0.1)
    assert charging_of(b, {Point("volts", "GEN.plus", "GEN.minus"): 28.1}) == ()


@pytest.mark.parametrize("change", [{}, {"measured_ohm": 0.01}, {"joint_a_ohm": 0.001}])
def test_a_worse_joint_adds_what_it_has_to_whatever_is_known(change):
    plan = edits.change(DEMO, "W40", **change)
    parts = wire(plan).parts
    before = sum(run_ohms(plan.run_by_id["W40"], parts))
    after = sum(run_ohms(with_more(plan, "W40", 0.02).run_by_id["W40"], parts))
    assert after - before == pytest.approx(0.02)


def test_two_days_side_by_side_with_what_the_change_costs(logged):
    before, after = (e.readings for e in days_of(logged))
    b, difference = compare(logged, before, after)
    sides = side_by_side(b, before, after)
    assert len(sides) == len(before)
    # What differs most is a reading across what changed, and by what 3 mΩ make of its current.
    first = sides[0]
    assert "W21" in first.point.a or {first.point.a, first.point.b} & {"F2.b", "INV.plus"}
    assert first.times > 5.0
    assert [s.times for s in sides] == sorted((s.times for s in sides), reverse=True)
    whole = study(logged)
    cost = costs(whole, difference)[0]
    branch = whole.wiring.branch["W21"]
    most = max(abs(float(s.point.current_a[branch])) for s in whole.states if s.solved and not s.momentary)
    more = difference.suspects[0].more_ohm
    assert (cost.owner, cost.amps) == ("W21", pytest.approx(most))
    assert cost.volts == pytest.approx(most * more)
    assert cost.watts == pytest.approx(most**2 * more)
    # The other way round it is gained.
    back = costs(whole, compare(logged, after, before)[1])[0]
    assert back.watts == pytest.approx(-cost.watts, rel=0.05)


def test_days_of_one_kind_differ_by_what_is_said(logged):
    """Of readings of sound days hardly any differ by more than two standard deviations."""
    beyond = total = 0
    rng, meter = np.random.default_rng(3), bench(DEMO, ON).meter
    for seed in range(6):
        read = day(0.0, seed)
        before, after = (
            tuple(
                r.model_copy(update={"value": r.value + off})
                for r, off in zip(read, rng.normal(size=len(read)) * meter, strict=True)
            )
            for _ in range(2)
        )
        sides = side_by_side(compare(DEMO, before, after)[0], before, after)
        beyond += sum(s.times > 1.0 for s in sides)
        total += len(sides)
    assert beyond < 0.12 * total


def test_the_command_compares_days_and_plans(logged, tmp_path, capsys):
    path, other = tmp_path / "a.copper.json", tmp_path / "b.copper.json"
    save(logged, path)
    save(edits.change_plan(logged, log=tuple(e for e in logged.log if e.on != "2026-06-01")), other)
    assert main(["trend", str(path), "--before", "2026-01-01"]) == 0
    text = capsys.readouterr().out
    assert "W21: 2.9" in text
    assert "W lost" in text
    assert main(["trend", str(path), "--before", str(other), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["changed"]
    assert found["costs"][0]["owner"] == "W21"
    assert main(["trend", str(path), "--before", "2027-01-01"]) == 2
    assert main(["trend", str(path)]) == 2
