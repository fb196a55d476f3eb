import pytest

from jaunty_copper.codes.checks import Verdict
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Breaker, Zone
from jaunty_copper.protection.protection import Protection
from tests.build import fused, judge


def found(plan, rule):
    return [f for f in judge(study(plan)) if f.rule.id == rule]


def strong(**fields):
    """A plan whose unit gives a fault current well above a blade fuse's interrupt rating."""
    return edits.change(fused(length=0.3, conductor="mm2-16", rating=30.0, **fields), "B", internal_ohm=0.002)


def test_a_device_that_cannot_interrupt_is_told_and_a_stronger_family_mends_it():
    plan = strong()
    (f,) = found(plan, "interrupt_rating")
    assert (f.place, f.verdict, f.limit) == ("F1", Verdict.DANGER, 1000.0)
    made = study(plan)
    assert f.figure == pytest.approx(Protection(made).faults.prospective("F1")[0])
    # Line terminals, with a link in its place: 12.84 V through the unit, 0.75 m of 16 mm2, the main fuse, 0.6 m back
    # and 0.1 m before it; what it would let through itself is less.
    assert f.figure > Protection(made).faults.greatest_through("F1")[0]
    after = f.fix().apply(plan)
    assert after.by_id["F1"].family != "blade-fuse"
    assert not found(after, "interrupt_rating")
    assert not found(fused(), "interrupt_rating")


def test_a_voltage_beyond_the_family_is_left_to_its_own_rule():
    plan = edits.change(strong(), "B", nominal_v=36.0)
    assert not found(plan, "interrupt_rating")
    assert "device_voltage" in {f.rule.id for f in judge(study(plan))}


def test_a_thermal_breaker_in_a_hot_place_is_told_at_its_ambient():
    plan = edits.add(fused(power=240.0), Zone(id="hot", ambient_c=75.0))
    breaker = Breaker(id="K", family="thermal-breaker", rating_a=25.0, zone="hot")
    plan = edits.replace_item(plan, "F1", breaker)
    (f,) = found(plan, "heat_opens")
    assert f.limit == pytest.approx(25.0 * 0.78)
    assert 19.5 < f.figure <= 25.0
    assert not found(edits.change(plan, "hot", ambient_c=25.0), "heat_opens")


def test_the_demo_has_a_device_too_weak_and_one_that_heat_opens():
    rules = {(f.rule.id, f.place) for f in judge(study(example("orchard_station")))}
    assert ("interrupt_rating", "F1") in rules
    assert ("heat_opens", "K4") in rules


def test_a_conductor_that_melts_before_its_device_opens_is_told_and_a_thicker_one_mends_it():
    # A slow device of a high rating on a thin conductor that is long enough to need protection.
    plan = edits.change(
        fused(length=1.0, conductor="mm2-1.5", rating=60.0, to_fuse=0.1), "F1", family="open-link-limiter"
    )
    plan = edits.change(plan, "F1", rating_a=60.0)
    (f,) = [f for f in found(plan, "fault_withstand") if f.place == "W5"]
    assert f.verdict is Verdict.DANGER
    assert f.figure > f.limit
    # 1.5 mm2 of PVC 105: 226^2 * 2.25 * ln(394.5 / 339.5).
    assert f.limit == pytest.approx(226.0**2 * 2.25 * 0.150146, rel=1e-4)
    after = f.fix().apply(plan)
    assert not [g for g in found(after, "fault_withstand") if g.place == "W5"]
    assert not found(fused(), "fault_withstand")


def test_a_fault_too_weak_to_open_its_device_is_told():
    plan = fused(length=9.0, conductor="mm2-1.5", rating=40.0)
    (f,) = found(plan, "slow_opening")
    assert f.place == "F1"
    made = Protection(study(plan)).faults
    assert "no guarantee" in f.headline or f.figure > f.limit == 5.0
    assert min(abs(made.least.branch_a.at(made.row["F1"], made.at["E.plus"])), 1e9) < 200.0
    assert not found(fused(), "slow_opening")


def test_where_an_interrupt_rating_turns_on_an_unknown_battery_that_is_asked():
    plan = edits.change(fused(length=0.3, conductor="mm2-16", rating=30.0), "B", internal_ohm=None)
    # 1.8 kA with the representative resistance: 2 kA are enough for that, but not for twice as much.
    two = edits.change(plan, "F1", family="strip-fuse-sf30")
    assert Protection(study(two)).faults.prospective("F1")[0] == pytest.approx(1792.0, rel=0.01)
    (f,) = found(two, "data_sheet")
    assert (f.place, f.verdict) == ("B", Verdict.ADVICE)
    assert found(two, "interrupt_rating") == []
    # What its data sheet says is no question; nor is what stands far above, or is too weak anyway.
    assert found(edits.change(two, "B", short_circuit_a=900.0), "data_sheet") == []
    assert found(edits.change(plan, "F1", family="class-t-fuse"), "data_sheet") == []
    assert found(plan, "data_sheet") == []
    assert found(plan, "interrupt_rating")


def test_a_stub_that_the_code_allows_is_no_danger_by_it_and_is_told_why():
    """40 in of sheathed conductor may lead to its own device (33 CFR 183.455(b)(2)); behind a slow limiter it burns all the same."""
    plan = edits.change(
        fused(conductor="mm2-1.5", to_fuse=0.9, sheathed=True, rating=10.0),
        "F0",
        family="open-link-limiter",
        rating_a=100.0,
    )
    for id_ in ("W1", "W2", "W3"):
        plan = edits.change(plan, id_, conductor="mm2-35")
    (f,) = [f for f in found(plan, "fault_withstand") if f.place == "W4"]
    assert f.verdict is Verdict.DEFECT
    assert f.headline.endswith(
        "lets a stretch this short do without a device of its own; a short in it destroys it all the same"
    )
    assert not [f for f in found(plan, "branch_unprotected") if f.place == "W4"]
    bare = edits.change(plan, "W4", sheathed=False)
    (f,) = [f for f in found(bare, "fault_withstand") if f.place == "W4"]
    assert f.verdict is Verdict.DANGER
