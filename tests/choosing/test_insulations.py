"""Insulations side by side, against the plan that has each of them."""

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.insulations import by_insulation
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example

DEMO = example("orchard_station")


@pytest.mark.parametrize("run", ["W21", "W62", "W41"])
def test_each_carries_what_it_does_in_a_plan_that_has_it(run):
    case = Assessment(DEMO).case
    found = by_insulation(case, DEMO.run_by_id[run])
    assert found
    assert [c.amps for c in found] == sorted(c.amps for c in found)
    for c in found:
        then = Assessment(edits.change(DEMO, run, insulation=c.id)).case
        amp = then.ampacities[run]
        assert not any(f.rule.id == "insulation" and f.place == run for f in Assessment(then.study).findings)
        assert c.amps == pytest.approx(then.for_load(amp)[0])
        assert c.governs == then.for_load(amp)[1]


def test_none_that_the_air_alone_is_too_hot_for():
    zone = DEMO.run_by_id["W41"].zone
    hot = edits.change(DEMO, zone, ambient_c=78.0)
    case = Assessment(hot).case
    assert all(case.parts.insulations[c.id].max_c > 78.0 for c in by_insulation(case, hot.run_by_id["W41"]))
