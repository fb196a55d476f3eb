"""How warm conductors are when a scenario has lasted its time, after what went before."""

import numpy as np
import pytest

from jaunty_copper.network.lasting import begins_at_c, ends_at_c
from jaunty_copper.network.study import study
from jaunty_copper.physics.heat import temperature_after
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example

DEMO = example("orchard_station")


def timed(**fields):
    plan = DEMO
    for id_, values in fields.items():
        plan = edits.change(plan, id_, **values)
    return study(plan)


def test_a_scenario_without_a_time_lasts_for_good():
    s = study(DEMO)
    for state in s.states:
        if state.solved:
            np.testing.assert_array_equal(ends_at_c(s, state), state.point.temperature_c[state.wiring.circuit.heated])


def test_it_begins_at_the_air_or_where_the_one_before_ended():
    s = timed(work={"minutes": 10.0}, evening={"minutes": 5.0, "after": "work"})
    work, evening = s.state("work"), s.state("evening")
    c = work.wiring.circuit
    air = begins_at_c(s, work)
    zones = [s.plan.zone_of(r.zone) for r in work.wiring.heated_runs]
    np.testing.assert_array_equal(air, [work.scenario.ambient_c.get(z.id, z.ambient_c) for z in zones])
    ended = ends_at_c(s, work)
    np.testing.assert_allclose(ended, temperature_after(c.cable, work.point.current_a[c.heated], air, 600.0, air))
    np.testing.assert_array_equal(begins_at_c(s, evening), ended)
    then = ends_at_c(s, evening)
    steady = evening.point.temperature_c[c.heated]
    # Between where it began and where it would end.
    low, high = np.minimum(ended, steady), np.maximum(ended, steady)
    assert np.all((then >= low - 0.1) & (then <= high + 0.1))
    # The inverter's cable was warm from work, and cools.
    k = [r.id for r in evening.wiring.heated_runs].index("W21")
    assert ended[k] > steady[k]
    assert steady[k] < then[k] < ended[k]


def test_longer_comes_nearer_to_the_end():
    off = []
    for minutes in (1.0, 10.0, 100.0, 10000.0):
        s = timed(work={"minutes": minutes})
        state = s.state("work")
        off.append(float(np.abs(ends_at_c(s, state) - state.point.temperature_c[state.wiring.circuit.heated]).max()))
    assert off == sorted(off, reverse=True)
    assert off[-1] < 0.2


def test_circles_begin_at_the_air():
    s = timed(work={"minutes": 10.0, "after": "evening"}, evening={"minutes": 5.0, "after": "work"})
    assert np.isfinite(ends_at_c(s, s.state("work"))).all()
    own = timed(work={"minutes": 10.0, "after": "work"})
    alone = timed(work={"minutes": 10.0})
    np.testing.assert_array_equal(ends_at_c(own, own.state("work")), ends_at_c(alone, alone.state("work")))


def test_what_is_taken_away_names_nothing():
    plan = edits.change(DEMO, "evening", after="work")
    assert edits.remove(plan, "work").scenarios[0].after is None
    with pytest.raises(edits.EditError):
        edits.change(DEMO, "evening", after="nothing")
