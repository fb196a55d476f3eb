import pytest

from jaunty_copper.choosing.devices import choices, that_fit
from jaunty_copper.choosing.putting import applying, put_device
from jaunty_copper.choosing.windows import window
from jaunty_copper.codes.case import Case
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Breaker, Zone
from tests.build import fused, judge
from tests.codes.test_switching import two_circuits
from tests.networks import network


def case(plan, practice=None):
    return Case(study(plan), practice)


def by_family(plan, device, practice=None):
    return {c.family.id: c for c in choices(case(plan, practice), device)}


def test_the_window_reaches_from_the_load_to_the_weakest_thing_behind():
    c = case(fused(power=100.0))
    w = window(c, c.plan.by_id["F1"])
    assert w.low.amps == pytest.approx(float(c.study.continuous_a[c.wiring.branch["F1"]]))
    assert w.high.amps == pytest.approx(min(c.ampacities[r].amps for r in ("W5", "W6")))
    assert w.high.place == "W5"
    fixed = case(fused(power=100.0), "nfpa_70")
    assert window(fixed, fixed.plan.by_id["F1"]).low.amps == pytest.approx(1.25 * w.low.amps)


def test_every_family_that_does_not_fit_says_why():
    found = by_family(example("orchard_station"), "F2")
    assert found["class-t-fuse"].fits
    assert "interrupt rating 2 kA at 28" in found["strip-fuse-sf51"].fails[0]
    assert any("ends at 40 A" in f for f in found["blade-fuse"].fails)
    assert all(c.fails for c in found.values() if not c.fits)
    high = edits.change(fused(), "B", nominal_v=48.0)
    assert any("made for 32 V" in f for f in by_family(high, "F1")["blade-fuse"].fails)


def test_a_hot_place_takes_a_larger_rating_or_another_release():
    plan = edits.change(
        edits.add(fused(power=200.0, conductor="mm2-4"), Zone(id="hot", ambient_c=70.0)), "F1", zone="hot"
    )
    found = by_family(plan, "F1")
    current = float(study(plan).continuous_a[study(plan).wiring.branch["F1"]])
    assert found["blade-fuse"].rating_a * 0.90 >= current
    assert found["hydraulic-magnetic-breaker"].rating_a >= current


def test_where_vapour_gathers_only_what_is_ignition_protected_fits():
    plan = edits.add(fused(power=300.0, conductor="mm2-10"), Zone(id="bilge", ignition_hazard=True))
    plan = edits.change(plan, "F1", zone="bilge")
    assert {f for f, c in by_family(plan, "F1").items() if c.fits} == {"terminal-cube-fuse"}


def test_both_schools_of_size():
    plan = fused(power=60.0)
    large, small = (
        by_family(edits.change_plan(plan, devices_by=by), "F1")["blade-fuse"] for by in ("conductor", "load")
    )
    c = case(plan)
    assert small.rating_a == min(
        r for r in c.parts.ratings(small.family) if r >= window(c, c.plan.by_id["F1"]).low.amps
    )
    assert large.rating_a > small.rating_a
    assert large.rating_a <= window(c, c.plan.by_id["F1"]).high.amps


def test_a_start_sets_the_least_rating():
    plan = edits.change(fused(power=60.0, conductor="mm2-10"), "E", surge_w=400.0, surge_s=3.0)
    plan = edits.change_plan(edits.change(plan, "s", states={"E": "surge"}), devices_by="load")
    plan = edits.add(plan, plan.scenarios[0].model_copy(update={"id": "calm", "states": {}}))
    calm = edits.change_plan(fused(power=60.0, conductor="mm2-10"), devices_by="load")
    assert by_family(plan, "F1")["blade-fuse"].rating_a > by_family(calm, "F1")["blade-fuse"].rating_a


def test_the_proposal_is_selective_with_its_neighbours_and_one_edit_applies_it():
    plan = edits.change(two_circuits(), "F1", family="class-t-fuse", rating_a=50.0)
    c = case(plan)
    best = choices(c, "F1")[0]
    assert best.selective == "total"
    after = applying(c, "F1", best).apply(plan)
    assert not [f for f in judge(study(after)) if f.rule.id == "selectivity"]


def test_a_fuse_becomes_a_breaker_in_its_place_and_keeps_its_name():
    plan = edits.change(fused(), "F1", name="Lamp fuse")
    after = put_device(plan, "F1", "breaker", "hydraulic-magnetic-breaker", 10.0)
    item = after.by_id["F1"]
    assert isinstance(item, Breaker)
    assert (item.name, item.rating_a) == ("Lamp fuse", 10.0)
    assert put_device(after, "F1", "breaker", "thermal-breaker", 25.0).by_id["F1"].family == "thermal-breaker"


def test_what_choosing_finds_right_the_rules_find_right_too():
    plan = example("orchard_station")
    c = case(plan)
    told = {"interrupt_rating", "device_voltage", "device_too_large", "device_too_small", "heat_opens", "surge_opens"}
    for device in ("F2", "F3", "F5", "F6", "F7"):
        best = choices(c, device)[0]
        assert best.fits
        after = judge(study(applying(c, device, best).apply(plan)))
        assert not [f.headline for f in after if f.place == device and f.rule.id in told]


@pytest.mark.parametrize(
    "plan", [example("orchard_station"), *(network(seed) for seed in range(4))], ids=lambda p: p.name
)
def test_what_fits_is_what_is_chosen_from_without_the_rest(plan):
    """The same, in the same order: for loads and for conductors, with the window as it is and with others."""
    for by in ("load", "conductor"):
        known = case(edits.change_plan(plan, devices_by=by))
        for id_ in known.protection.devices:
            for asked in ({}, {"low_a": 40.0}, {"high_a": 300.0}):
                fit = tuple(c for c in choices(known, id_, **asked) if c.fits)
                assert that_fit(known, id_, **asked) == fit
