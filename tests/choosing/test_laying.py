"""A conductor that is laid has the size that what flows in it asks for."""

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.laying import lay
from jaunty_copper.plan import edits
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Bar, BarStud, Battery, PowerLoad


def test_a_branch_behind_a_device_bears_what_that_lets_through():
    plan = edits.add(blank(), Bar(id="P2", rating_a=200.0, studs=(BarStud(id="s1"), BarStud(id="s2"))))
    laid = lay(plan, "P1", "P2", 1.5)
    (run,) = [r for r in laid.runs if r.id not in plan.run_by_id]
    case = Assessment(laid).case
    assert case.ampacities[run.id].amps >= 125.0
    thinner = [s for s, _ in case.sizes_of(run) if s.area_mm2 < case.parts.conductors[run.conductor].area_mm2]
    worse = Assessment(edits.change(laid, run.id, conductor=thinner[-1].id)).case
    assert worse.ampacities[run.id].amps < 125.0
    assert not run.follows_load


def test_both_ways_to_a_load_follow_it():
    plan = edits.add(blank(), PowerLoad(id="E9", nominal_v=12.0, power_w=480.0))
    half = lay(plan, "P1", "E9.plus", 3.0)
    both = lay(half, "E9.minus", "M1", 3.0)
    runs = [r for r in both.runs if r.id not in plan.run_by_id]
    assert all(r.follows_load for r in runs)
    assert len({r.conductor for r in runs}) == 1
    bears = Assessment(both).case.ampacities
    assert min(bears[r.id].amps for r in runs) >= 480.0 / 12.0
    assert not [f for f in Assessment(both).findings if f.rule.id == "voltage_drop" and f.place == "E9"]


def test_a_link_of_the_bank_is_as_thick_as_its_others():
    demo = example("orchard_station")
    plan = edits.add(demo, Battery(id="B9", chemistry="agm", nominal_v=24.0, capacity_ah=200.0))
    laid = lay(plan, "B9.plus", "B4.plus", 0.25)
    (run,) = [r for r in laid.runs if r.id not in plan.run_by_id]
    assert run.conductor == demo.run_by_id["L1p"].conductor


@pytest.mark.parametrize(("a", "b", "least"), [("B9.plus", "P1.s5", "mm2-10"), ("P1.s5", "P1.s6", "mm2-2.5")])
def test_where_nothing_flows_yet_it_is_as_thick_as_what_is_there(a, b, least):
    plan = edits.add(blank(), Battery(id="B9", chemistry="lifepo4", nominal_v=12.0, capacity_ah=100.0))
    laid = lay(plan, a, b, 0.5)
    (run,) = [r for r in laid.runs if r.id not in plan.run_by_id]
    parts = Assessment(laid).case.parts.conductors
    assert parts[run.conductor].area_mm2 >= parts[least].area_mm2
