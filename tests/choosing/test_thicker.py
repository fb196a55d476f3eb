"""One size up: what it gives back, against the plan solved with it."""

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.thicker import one_size_up
from jaunty_copper.fabrication.materials import workshop_of
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example

DEMO = example("orchard_station")


@pytest.mark.parametrize("run", ["W21", "W61", "W63", "W31", "W112"])
def test_what_it_gives_back_is_what_the_plan_with_it_loses_less(run):
    known = Assessment(DEMO)
    case = known.case
    k = known.wiring.branch[run]
    state = known.study.lasting_state(k)
    up = one_size_up(case, known.plan.run_by_id[run], state)
    thick = next(
        c.id
        for c in case.parts.sizes(case.parts.conductors[known.plan.run_by_id[run].conductor].system)
        if c.label == up.label
    )
    then = Assessment(edits.change(DEMO, run, conductor=thick))
    after = then.study.state(state.scenario.id)
    assert up.volts == pytest.approx(
        state.drop(run) * (1 if state.current(run) > 0 else -1)
        - after.drop(run) * (1 if after.current(run) > 0 else -1),
        rel=0.15,
    )
    assert up.watts == pytest.approx(
        abs(state.current(run) * state.drop(run)) - abs(after.current(run) * after.drop(run)), rel=0.2
    )
    assert up.amps == pytest.approx(
        then.case.for_load(then.case.ampacities[run])[0] - case.for_load(case.ampacities[run])[0]
    )
    assert up.price > 0.0
    assert up.mass_kg > 0.0


def test_the_thickest_and_what_is_bolted_have_none():
    known = Assessment(edits.change(DEMO, "W21", conductor="mm2-300"))
    run = known.plan.run_by_id["W21"]
    assert one_size_up(known.case, run, known.study.states[0]) is None
    measured = Assessment(edits.change(DEMO, "W21", measured_ohm=0.001))
    assert one_size_up(measured.case, measured.plan.run_by_id["W21"], measured.study.states[0]) is None
    assert workshop_of(known.wiring).total > workshop_of(Assessment(DEMO).wiring).total
