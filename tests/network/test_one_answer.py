"""An operating point is what is asked, not what was solved before it."""

from itertools import permutations

import numpy as np
import pytest

from jaunty_copper.network.demand import duty_of
from jaunty_copper.network.slopes import sensitivity_of
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.together import FEWEST, solve_together
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import CurrentLoad, Scenario
from tests.build import fused
from tests.networks import network
from tests.trials import WHOLE, hold, trials

TIMES = (3.0, 20.0, 60.0)
"""As many times their lasting current loads ask, so that copper glows and converters give all they can."""


def asked(seed):
    """The wiring of a network by chance, and four duties: at rest, all too much, nothing, and half of it from an empty bank."""
    plan = network(seed)
    loads = [e for e in plan.equipment if isinstance(e, CurrentLoad)]
    more = {e.id: {"surge_a": e.current_a * TIMES[k % 3], "surge_s": 2.0} for k, e in enumerate(loads)}
    scenarios = (
        Scenario(id="rest", soc_percent=60.0),
        Scenario(id="much", soc_percent=60.0, states={e.id: "surge" for e in loads}),
        Scenario(id="none", soc_percent=30.0, states={e.id: "off" for e in loads}),
        Scenario(id="half", soc_percent=10.0, states={e.id: "surge" for e in loads[::2]}),
    )
    wiring = wire(edits.change_each(plan, more))
    return wiring, [duty_of(wiring, s) for s in scenarios]


@pytest.mark.chance("networks whose operating points are the same whatever was solved before")
@pytest.mark.parametrize("seed", range(300) if WHOLE else (5, 13, 29, 38, 65, 74, 77, 95, 128, 132))
def test_an_operating_point_is_the_same_whatever_was_solved_before(seed):
    wiring, duties = asked(seed)
    alone = [Solver(wiring.circuit).solve(d) for d in duties]
    for before, k in permutations(range(len(duties)), 2):
        solver = Solver(wiring.circuit)
        solver.solve(duties[before])
        after = solver.solve(duties[k])
        assert after.solved == alone[k].solved
        if after.solved:
            np.testing.assert_array_equal(after.mode, alone[k].mode)
            np.testing.assert_allclose(after.current_a, alone[k].current_a, rtol=1e-6, atol=1e-6)
            np.testing.assert_allclose(after.temperature_c, alone[k].temperature_c, atol=1e-3)


@pytest.mark.chance
def test_operating_points_found_together_are_those_found_alone():
    found = solved = 0
    for seed in range(trials(300, 40)):
        wiring, duties = asked(seed)
        together = Solver(wiring.circuit)
        solve_together(together, duties)
        for duty in duties:
            alone, before = Solver(wiring.circuit).solve(duty), together.iterations
            point = together.solve(duty)
            found += together.iterations == before
            solved += alone.solved
            assert point.solved == alone.solved
            if point.solved:
                np.testing.assert_array_equal(point.mode, alone.mode)
                np.testing.assert_allclose(point.volts, alone.volts, rtol=1e-6, atol=1e-6)
                np.testing.assert_allclose(point.current_a, alone.current_a, rtol=1e-6, atol=1e-6)
                np.testing.assert_allclose(point.temperature_c, alone.temperature_c, atol=1e-3)
    hold("operating points that scenarios solved together find, as each by itself does", found, solved, at_least=0.7)


def test_few_duties_are_left_to_the_solver():
    wiring, duties = asked(12)
    for some in (duties[: FEWEST - 1], ()):
        solver = Solver(wiring.circuit)
        solve_together(solver, some)
        for duty in some:
            before = solver.iterations
            solver.solve(duty)
            assert solver.iterations > before


@pytest.mark.parametrize(("share", "solved"), [(0.97, True), (1.03, False)])
def test_what_can_be_delivered_up_to_the_last_watt_is(share, solved):
    """A constant power behind a resistance R stands up to V² / 4 R, copper as warm as it gets then."""
    plan = fused(power=10.0, length=30.0, conductor="mm2-2.5", rating=40.0).model_copy(update={"scenarios": (Scenario(id="s", soc_percent=60.0),)})  # fmt: skip
    (state,) = study(plan).states
    volts, amps = state.port(plan.by_id["E"])
    emf = float(state.duty.emf_v.max())
    most = emf**2 / 4.0 / ((emf - volts) / amps)
    # What half of the voltage drives warms the copper first.
    hot = study(edits.change(plan, "E", power_w=0.93 * most)).states[0]
    warm_v, warm_a = hot.port(plan.by_id["E"])
    most = emf**2 / 4.0 / ((emf - warm_v) / warm_a)
    assert study(edits.change(plan, "E", power_w=share * most)).states[0].solved is solved


def test_a_solver_resumed_at_a_point_answers_as_the_one_that_solved_it():
    wiring, (duty, *_) = asked(12)
    first, second = Solver(wiring.circuit), Solver(wiring.circuit)
    point = first.solve(duty)
    second.resume(duty, point)
    np.testing.assert_allclose(second.branch_current(), first.branch_current(), rtol=1e-9, atol=1e-9)
    np.testing.assert_allclose(second.branch_ohm(), point.ohm, rtol=1e-12)


def test_what_has_no_operating_point_answers_to_nothing():
    plan = network(6)
    loads = {e.id: {"current_a": 1e5} for e in plan.equipment if isinstance(e, CurrentLoad)}
    (state, *_) = study(edits.change_each(plan, loads)).states
    assert not state.solved
    with pytest.raises(ValueError, match="nothing has been solved"):
        sensitivity_of(state)
