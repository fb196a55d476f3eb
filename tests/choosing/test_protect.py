import random
from functools import lru_cache

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import PROTECTION, QUESTIONS, made
from jaunty_copper.choosing.protect import SPENT, protect
from jaunty_copper.choosing.putting import put_device
from jaunty_copper.choosing.ways import limiters_before
from jaunty_copper.codes.case import Case
from jaunty_copper.network.study import study
from jaunty_copper.parts.catalogue import library
from jaunty_copper.physics.giving_up import GivenUp, giving_up
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps
from jaunty_copper.plan.model import Breaker, Fuse
from jaunty_copper.protection.protection import Protection
from tests.build import fused, judge, spread
from tests.networks import network
from tests.trials import WHOLE

DEMO = example("orchard_station")


@pytest.fixture(scope="module")
def protected():
    return protect(DEMO)


def test_the_demo_has_one_of_each_and_protecting_leaves_none(protected):
    before = {f.rule.id for f in judge(study(DEMO))}
    assert {"interrupt_rating", "selectivity", "no_protection", "heat_opens"} <= before
    after = judge(study(protected.plan))
    assert [f.headline for f in after if f.rule.id in PROTECTION] == []
    assert protected.left == ()
    assert all(p.same or p.verdict == "total" for p in Protection(study(protected.plan)).pairs)


def test_it_is_given_up_in_the_midst_of_judging_what_it_tries():
    asked, said = [], []

    def when():
        asked.append(1)
        return bool(said)

    with pytest.raises(GivenUp), giving_up(when):
        protect(DEMO, progress=said.append)
    assert len(said) == 1
    assert len(asked) > 1


def test_it_brings_no_new_stop(protected):
    def stops(plan):
        return {(f.rule.id, f.place) for f in judge(study(plan)) if f.verdict == 0}

    assert stops(protected.plan) <= stops(DEMO)


def test_its_changes_one_after_the_other_make_its_plan(protected):
    assert dumps(made(DEMO, protected.changes)) == dumps(protected.plan)
    assert dumps(protected.edit.apply(DEMO)) == dumps(protected.plan)
    assert all(c.finding or c.why for c in protected.changes)


def test_some_of_its_changes_can_be_left_out(protected):
    some = tuple(c for c in protected.changes if c.place != "F6")
    plan = made(DEMO, some)
    assert plan.by_id["F6"] == DEMO.by_id["F6"]
    assert plan.by_id["F2"] == protected.plan.by_id["F2"]


def test_in_another_practice_too():
    assert protect(DEMO, "iso_small_craft").left == ()


def test_what_it_leaves_no_device_of_the_library_mends():
    """By IEC the main cables leave too little between the inverter's fuse and the main one: every rating of every family is tried."""
    code = "iec_60364"
    proposed = protect(DEMO, code)
    assert [(f.rule.id, f.place) for f in proposed.left] == [("selectivity", "F2")]
    assert "selectivity none" in proposed.reasons["selectivity", "F2"]

    def told(plan):
        return {(f.rule.id, f.place) for f in judge(study(plan), code)}

    now = told(proposed.plan)
    parts = library()
    tried = 0
    for family in parts.device_families.values():
        # The least able of those that interrupt 8 kA at 28 V are far from the rest.
        for rating in (
            parts.ratings(family) if family.kind == "fuse" and (family.interrupt_a(28.0) or 0.0) > 8e3 else ()
        ):
            for place, least in (("F1", 170.0), ("F2", 140.0)):
                if least <= rating <= 250.0:
                    tried += 1
                    assert not told(edits.change(proposed.plan, place, family=family.id, rating_a=rating)) < now
    assert tried >= 10


def test_nothing_of_it_is_larger_than_need_be(protected):
    """Each conductor or part that was made stronger and each device that was made larger, one step back: something is wrong then."""
    parts, plan = library(), protected.plan
    allowed = {(f.rule.id, f.place) for f in judge(study(plan))}
    metric = [c.id for c in parts.sizes("metric")]
    lesser = {}
    for run in plan.runs:
        was = DEMO.run_by_id.get(run.id)
        if was is not None and metric.index(run.conductor) > metric.index(was.conductor):
            lesser[run.id] = {"conductor": metric[metric.index(run.conductor) - 1]}
    for item in plan.items:
        now, was = getattr(item, "rating_a", None), getattr(DEMO.by_id.get(item.id), "rating_a", None)
        if now and was and now > was:
            ratings = (
                parts.ratings(parts.device_families[item.family]) if hasattr(item, "family") else parts.device_ratings_a
            )
            lesser[item.id] = {"rating_a": max(r for r in ratings if r < now)}
    assert {"W2", "W3", "W4", "W5", "F1", "P24"} <= lesser.keys()
    assert plan.by_id["F1"].rating_a == 300.0
    for id_, fields in lesser.items():
        assert {(f.rule.id, f.place) for f in judge(study(edits.change(plan, id_, **fields)))} - allowed, (id_, fields)


def test_a_sound_plan_is_left_alone():
    assert protect(fused()).changes == ()
    for name in ("seed_shed", "relay_mast"):
        assert protect(example(name)).changes == ()


def test_it_can_be_stopped():
    found = protect(DEMO, overtaken=lambda: True)
    assert found.changes == ()


@pytest.mark.parametrize(
    ("device", "rating", "gone", "come"),
    [
        # Two sizes up: larger than its cable allows, and than what melts before it.
        ("F6", 60.0, set(), {("device_too_large", "F6"), ("slow_opening", "F6"), ("fault_withstand", "W61"), ("fault_withstand", "W62"), ("fault_withstand", "W63")}),
        # More than its cable may carry; the return has the same section and is told with it.
        ("F5", 80.0, set(), {("device_too_large", "F5"), ("fault_withstand", "W51")}),
        # At 66 C this one carries the charger.
        ("K4", 80.0, {("heat_opens", "K4")}, set()),
        ("F7", 15.0, set(), set()),
    ],
)  # fmt: skip
def test_a_rating_up_or_down_changes_exactly_these_verdicts(device, rating, gone, come):
    def told(plan):
        return {(f.rule.id, f.place) for f in judge(study(plan))}

    before, after = told(DEMO), told(edits.change(DEMO, device, rating_a=rating))
    assert before - after == gone
    assert after - before == come


def wrong(plan):
    return {(f.rule.id, f.place) for f in judge(study(plan)) if f.rule.id not in QUESTIONS}


def stays(plan, rule, place):
    return place in {f.place for f in Assessment(plan).failing({rule})}


def any_device(plan, place):
    """The plan with every device of the library at a place, one after the other; some of them in a short run."""
    parts = Case(study(plan)).parts
    found = [(f, rating) for f in parts.device_families.values() for rating in parts.ratings(f)]
    for family, rating in found if WHOLE else random.Random(1).sample(found, 40):
        yield put_device(plan, place, family.kind, family.id, rating)


@lru_cache(maxsize=8)
def protected_network(seed):
    return protect(network(seed))


@pytest.mark.chance("networks to which protect adds no finding, and leaves none that a device would mend")
@pytest.mark.parametrize("seed", range(300) if WHOLE else (1, 43))
def test_on_networks_drawn_by_chance_it_adds_no_finding_and_leaves_none_that_a_device_mends(seed):
    plan = network(seed)
    proposed = protected_network(seed)
    before, after = wrong(plan), wrong(proposed.plan)
    assert after <= before
    assert dumps(made(plan, proposed.changes)) == dumps(proposed.plan)
    left = {(f.rule.id, f.place) for f in proposed.left}
    assert left == {key for key in after if key[0] in PROTECTION} == set(proposed.reasons)
    assert all(proposed.reasons.values())
    # Whatever is left at a device, no device of the library in its place takes away without putting something else.
    assert SPENT not in proposed.reasons.values()
    for rule, place in sorted(left)[:2]:
        if isinstance(proposed.plan.by_id.get(place), Fuse | Breaker):
            for other in any_device(proposed.plan, place):
                # Most leave it as it is: only then are all the other rules asked.
                assert stays(other, rule, place) or not wrong(other) < after


def test_a_breaker_small_enough_to_leave_less_of_a_fault_is_found():
    """Of 40 A it is unselective; the first that is selective leaves so little of a fault by its own resistance."""
    proposed = protected_network(43)
    assert not proposed.left
    assert proposed.plan.by_id["F20"].rating_a < 40.0


@pytest.mark.chance
def test_most_of_what_is_wrong_with_protection_is_mended():
    found = left = 0
    for seed in range(100, 200) if WHOLE else (1, 3, 7):
        proposed = protected_network(seed)
        found += len(proposed.found)
        left += len(proposed.left)
    assert found > 30
    assert left <= 0.1 * found


def test_one_fuse_that_limits_more_mends_what_interrupts_too_little_behind_it():
    plan = spread(upstream_a=200.0)
    known = Assessment(plan)
    assert {f.place for f in known.findings if f.rule.id == "interrupt_rating"} == {"D1", "D2"}
    (finding,) = [f for f in known.findings if f.rule.id == "interrupt_rating" and f.place == "D1"]
    (change,) = limiters_before(known.case, finding)
    assert change.place == "U"
    after = Assessment(change.edit.apply(plan))
    assert not [f for f in after.findings if f.rule.id == "interrupt_rating"]
    assert not list(limiters_before(Assessment(plan, "nfpa_70").case, finding))
