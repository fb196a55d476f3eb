"""Banks built by their numbers."""

import random

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.building import add_bank, all_like, drawn_bank, growing, in_force, reshape, shape_of
from jaunty_copper.battery.patterns import PATTERNS, arrange
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import banks_of, snapped, unit_places
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.files import dumps, parse
from jaunty_copper.plan.model import Battery, Fuse, Plan
from jaunty_copper.plan.topology import topology

PLANS = {"blank": blank(), **{name: example(name) for name in names()}}


def first(plan):
    return banks_of(topology(plan))[0]


def overlapping(plan):
    units = [x for x in plan.items if isinstance(x, Battery)]
    at = unit_places(tuple(units))
    for k, a in enumerate(units):
        for b in units[k + 1 :]:
            (ax, ay), (bx, by) = at[a.id], at[b.id]
            if ax < bx + b.width_mm and bx < ax + a.width_mm and ay < by + b.depth_mm and by < ay + a.depth_mm:
                yield a.id, b.id


@pytest.mark.parametrize("name", PLANS)
def test_it_has_the_numbers_that_were_asked_and_what_leads_away_still_does(name):
    r = random.Random(name)
    plan = PLANS[name]
    for _ in range(8):
        series, parallel = r.randint(1, 4), r.randint(1, 5)
        before = first(plan)
        outside = {x.id for x in plan.runs} - set(before.inside)
        built = reshape(plan, before.id, series, parallel)
        bank = first(built)
        assert shape_of(bank) == (series, parallel)
        assert bank.nominal_v == pytest.approx(series * before.units[0].nominal_v)
        assert not bank.torn
        # Nothing but the bank's own links was touched, and every run outside still ends on its two poles.
        assert outside <= {x.id for x in built.runs}
        kept = {x.id: (x.conductor, x.length_m) for x in plan.runs if x.id in outside}
        assert {x.id: (x.conductor, x.length_m) for x in built.runs if x.id in outside} == kept
        for side in ("plus", "minus"):
            rails = [topology(p).rail_of(b.takeoffs[side][0]) for p, b in ((plan, before), (built, bank))]
            ends = [
                {x.id for x in p.runs if topology(p).rail_of(x.a) == rail and x.id in outside}
                for p, rail in zip((plan, built), rails, strict=True)
            ]
            assert ends[0] == ends[1]
        assert not list(overlapping(built))
        assert parse(dumps(built), "here") == built
        plan = built


@pytest.mark.parametrize("pattern", [p.id for p in PATTERNS if p.fits(4)])
def test_the_pattern_stays(pattern):
    plan = arrange(reshape(blank(), "B1", 1, 4), "B1", pattern)
    assert in_force(plan, first(plan)) == pattern
    more = reshape(plan, "B1", 2, 6)
    assert in_force(more, first(more)) == pattern
    back = reshape(more, "B1", 1, 4)
    assert in_force(back, first(back)) == pattern
    shares = [Assessment(p).case.sharings[first(p).id][0].spread for p in (plan, back)]
    assert shares[0] == pytest.approx(shares[1], abs=0.02)


def test_what_stands_between_the_units_is_never_lost():
    plan = reshape(blank(), "B1", 1, 3)
    link = plan.run_by_id[first(plan).inside[0]]
    with_fuse = edits.insert_inline(plan, link.id, Fuse(id="F9", family="class-t-fuse", rating_a=100.0))
    with pytest.raises(EditError, match="F9 stands between its units"):
        reshape(with_fuse, "B1", 1, 4)
    assert [e.label for e in growing(with_fuse, "B1")] == ["Add another bank"]
    for numbers in ((0, 1), (1, 0), (25, 1)):
        with pytest.raises(EditError, match="1 to 24"):
            reshape(plan, "B1", *numbers)


def test_a_second_bank_stands_clear_and_grows_by_itself():
    plan, id_ = add_bank(example("orchard_station"), "B1")
    grown = reshape(plan, id_, 2, 3)
    banks = banks_of(topology(grown))
    assert [shape_of(b) for b in banks] == [(1, 4), (2, 3)]
    assert banks[0].units == first(example("orchard_station")).units
    assert not list(overlapping(grown))
    alone, new = add_bank(Plan())
    assert alone.by_id[new].nominal_v == 12.0


def test_all_units_become_like_one():
    plan = edits.change(example("orchard_station"), "B2", capacity_ah=300.0, name="Big one")
    like = all_like(plan, "B2")
    assert {u.capacity_ah for u in drawn_bank(like, "B1").units} == {300.0}
    assert [u.title for u in drawn_bank(like, "B1").units].count("Big one") == 1


def test_a_unit_put_down_near_a_line_falls_into_it():
    units = tuple(x for x in reshape(blank(), "B1", 1, 3).items if isinstance(x, Battery))
    # 300 mm wide and 20 mm of air: beside the second stands x = 640.
    assert snapped(units, "B3", 647.0, 8.0, 10.0) == (640.0, 0.0)
    assert snapped(units, "B3", 647.0, 88.0, 10.0) == (640.0, 88.0)
    assert snapped(units[:1], "B1", 3.0, 4.0, 10.0) == (3.0, 4.0)
