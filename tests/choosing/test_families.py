"""Whatever the chooser says fits, the rules find nothing against; and what it refuses, they do."""

import pytest

from jaunty_copper.choosing.devices import choices
from jaunty_copper.choosing.putting import put_device
from jaunty_copper.choosing.windows import window
from jaunty_copper.codes.case import Case
from jaunty_copper.network.study import study
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from tests.build import fused, judge

ABOUT = {
    "interrupt_rating", "device_voltage", "device_too_large", "device_too_small", "device_rating", "heat_opens",
    "surge_opens", "slow_opening", "fault_withstand",
}  # fmt: skip
PLANS = {
    "small": fused(power=60.0),
    "long": fused(power=40.0, length=9.0, conductor="mm2-4"),
    "stiff": edits.change(fused(power=250.0, length=1.0, conductor="mm2-10", rating=30.0), "B", internal_ohm=0.001),
    "48 V": fused(power=400.0, volts=48.0, conductor="mm2-6", family="class-t-fuse"),
}


@pytest.mark.parametrize("practice", ["north_american_small_craft", "iso_small_craft", "iec_60364", "nfpa_70"])
@pytest.mark.parametrize("name", sorted(PLANS))
def test_what_fits_passes_every_rule_about_it(name, practice):
    plan = PLANS[name]
    case = Case(study(plan), practice)
    tried = 0
    for c in choices(case, "F1"):
        if not c.fits:
            continue
        tried += 1
        after = put_device(plan, "F1", c.family.kind, c.family.id, c.rating_a)
        against = [
            f.headline for f in judge(study(after), practice) if f.rule.id in ABOUT and f.place in ("F1", "W5", "W6")
        ]
        assert against == [], c.family.id
    assert tried >= 1


@pytest.mark.parametrize("name", sorted(PLANS))
def test_what_is_refused_for_its_voltage_or_interrupt_rating_is_found_by_the_rules(name):
    plan = PLANS[name]
    case = Case(study(plan))
    for c in choices(case, "F1"):
        words = " ".join(c.fails)
        rule = "device_voltage" if "made for" in words else "interrupt_rating" if "fault current" in words else None
        if rule is None:
            continue
        rating = c.rating_a or case.parts.ratings(c.family)[-1]
        after = put_device(plan, "F1", c.family.kind, c.family.id, rating)
        assert (rule, "F1") in {(f.rule.id, f.place) for f in judge(study(after))}, c.family.id


@pytest.mark.parametrize("family", sorted(library().device_families))
def test_ratings_offered_lie_in_the_window_at_the_air_of_the_place(family):
    plan = fused(power=150.0, conductor="mm2-10")
    case = Case(study(plan))
    choice = next(c for c in choices(case, "F1") if c.family.id == family)
    w = window(case, plan.by_id["F1"])
    if choice.rating_a is not None:
        assert w.low.amps <= choice.rating_a <= w.high.amps * 1.0001
        assert choice.rating_a in case.parts.ratings(choice.family)
    else:
        assert choice.fails
