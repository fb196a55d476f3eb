"""What the lens heat writes and tones, against the heat balance asked for one conductor alone."""

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.words import Units
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.physics.heat import temperature_after
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example

HEAT = next(lens for lens in LENSES if lens.id == "heat")
DEMO = example("orchard_station")


def picture_of(plan):
    known = Assessment(plan)
    return Picture(plan, known.diagram, known)


@pytest.mark.parametrize("minutes", [4.0, 20.0])
@pytest.mark.parametrize("run_id", ["W21", "W62", "W110"])
def test_a_scenario_that_lasts_minutes_ends_before_the_copper_is_warm(run_id, minutes):
    picture = picture_of(edits.change(DEMO, "work", minutes=minutes))
    run, reading = picture.plan.run_by_id[run_id], picture.run(run_id, "work")
    cable = picture.study.wiring.circuit.cable_of(picture.study.wiring.branch[run_id])
    (ends,) = temperature_after(cable, reading.current_a, reading.air_c, 60.0 * minutes)
    w = picture.warmth(run_id, "work")
    assert w.ends_c == pytest.approx(ends, abs=0.05)
    assert w.steady_c == reading.temperature_c >= w.ends_c
    text = HEAT.run(picture, run, "work", Units())
    steady = f"{w.steady_c:.0f} °C"
    assert text == (steady if f"{ends:.0f} °C" == steady else f"{ends:.0f} → {steady}")
    # Terminals of 75 degrees hold the cable of a higher class back.
    limit = min(picture.case.parts.insulations[run.insulation].max_c, picture.case.terminal_c(run))
    assert HEAT.tone(picture, run, "work") == pytest.approx((ends - reading.air_c) / (limit - reading.air_c), abs=1e-3)


def test_without_a_time_the_copper_is_as_warm_as_in_the_end():
    picture = picture_of(DEMO)
    for run in DEMO.runs:
        w = picture.warmth(run.id, "work")
        if w is not None:
            assert (w.ends_c, w.minutes) == (w.steady_c, None)
            assert HEAT.run(picture, run, "work", Units()) == f"{w.steady_c:.0f} °C"


def test_of_all_scenarios_the_warmest_counts_and_not_the_one_with_the_most_current():
    # Nothing flows to the charger in the heat of the lean-to while another scenario loads the same air less.
    hot = edits.change(DEMO, "evening", ambient_c={"lean-to": 80.0})
    picture = picture_of(hot)
    # What starts in a scenario runs in it then.
    running = tuple(
        s.model_copy(update={"states": {k: "on" if v == "surge" else v for k, v in s.states.items()}})
        for s in hot.scenarios
    )
    each = picture_of(hot.model_copy(update={"scenarios": running}))
    for run in hot.runs:
        warmths = [w for s in running if (w := each.warmth(run.id, s.id)) is not None]
        if warmths:
            assert picture.warmth(run.id, None).ends_c == max(w.ends_c for w in warmths), run.id
    worst = picture.warmth("W40", None)
    assert worst.ends_c == pytest.approx(80.0, abs=0.5)
    assert picture.state_of("W40", None).scenario.id == "generator", "where it carries most it is cooler"


def test_devices_tell_what_they_are_worth_in_their_air_and_equipment_the_air():
    picture = picture_of(DEMO)
    breaker = DEMO.by_id["K4"]
    worth = breaker.rating_a * float(ambient_factor(picture.case.parts.device_families[breaker.family].release, 66.0))
    assert HEAT.part(picture, "K4", "generator") == f"{worth:.3g} of 60 A"
    assert HEAT.part(picture, "F11", "generator") == "10 A"
    # In the air of the scenario that is looked at; of all of them in the hottest.
    cooler = breaker.rating_a * float(ambient_factor(picture.case.parts.device_families[breaker.family].release, 50.0))
    assert HEAT.part(picture, "K4", "evening") == f"{cooler:.3g} of 60 A" != HEAT.part(picture, "K4", "generator")
    assert HEAT.part(picture, "K4", None) == HEAT.part(picture, "K4", "generator")
    assert HEAT.part(picture, "Q1", "generator") == ""
    assert HEAT.equipment(picture, DEMO.by_id["GEN"], "generator") == "air 66 °C"
    assert HEAT.equipment(picture, DEMO.by_id["GEN"], "evening") == "air 50 °C"
    # Of all scenarios the hottest.
    assert HEAT.equipment(picture, DEMO.by_id["GEN"], None) == "air 66 °C"
