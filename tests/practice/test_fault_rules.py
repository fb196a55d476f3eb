import pytest

from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Breaker, Zone
from jaunty_copper.practice.findings import Severity
from jaunty_copper.practice.judge import judge
from jaunty_copper.study.study import study
from tests.build import fused


def found(plan, rule):
    return [f for f in judge(study(plan)) if f.rule == rule]


def strong(**fields):
    """A plan whose unit gives a fault current well above a blade fuse's interrupt rating."""
    return edits.change(fused(length=0.3, conductor="mm2-16", rating=30.0, **fields), "B", internal_ohm=0.002)


def test_a_device_that_cannot_interrupt_is_told_and_a_stronger_family_mends_it():
    plan = strong()
    (f,) = found(plan, "interrupt_rating")
    assert (f.place, f.severity, f.limit) == ("F1", Severity.STOP, 1000.0)
    made = study(plan)
    assert f.figure == pytest.approx(made.faults.greatest_through("F1")[0])
    after = f.mend.apply(plan)
    assert after.by_id["F1"].family != "blade-fuse"
    assert not found(after, "interrupt_rating")
    assert not found(fused(), "interrupt_rating")


def test_a_voltage_beyond_the_family_is_left_to_its_own_rule():
    plan = edits.change(strong(), "B", nominal_v=36.0)
    assert not found(plan, "interrupt_rating")
    assert "device_voltage" in {f.rule for f in judge(study(plan))}


def test_a_thermal_breaker_in_a_hot_place_is_told_at_its_ambient():
    plan = edits.add(fused(power=240.0), Zone(id="hot", ambient_c=75.0))
    breaker = Breaker(id="K", family="thermal-breaker", rating_a=25.0, zone="hot")
    plan = edits.replace_item(plan, "F1", breaker)
    (f,) = found(plan, "heat_opens")
    assert f.limit == pytest.approx(25.0 * 0.78)
    assert 19.5 < f.figure <= 25.0
    assert not found(edits.change(plan, "hot", ambient_c=25.0), "heat_opens")


def test_the_demo_has_a_device_too_weak_and_one_that_heat_opens():
    rules = {(f.rule, f.place) for f in judge(study(example("orchard_station")))}
    assert ("interrupt_rating", "F1") in rules
    assert ("heat_opens", "K4") in rules
