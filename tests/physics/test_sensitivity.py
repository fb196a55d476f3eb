"""Slopes at an operating point, against differences of full solutions and closed forms."""

import numpy as np
import pytest

from jaunty_copper.network.demand import duty_of
from jaunty_copper.network.wiring import wire
from jaunty_copper.physics.answers import sensitivity
from jaunty_copper.physics.circuit import Mode
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import CurrentLoad, PowerLoad, ResistiveLoad
from tests.build import agm_emf, loop


def solved(plan):
    w = wire(plan)
    solver = Solver(w.circuit)
    duty = duty_of(w, plan.scenarios[0])
    return w, solver, duty, solver.solve(duty)


def test_nothing_solved_nothing_told():
    with pytest.raises(ValueError, match="nothing has been solved"):
        sensitivity(Solver(wire(loop()).circuit))


def test_a_constant_current_by_hand():
    """10 A through a loop: an ohm more anywhere lowers the load's voltage by 10 V, a share more of it by 10 A times 50 mΩ."""
    w, solver, _, point = solved(loop(CurrentLoad(id="E", current_a=10.0)))
    s = sensitivity(solver)
    e = s.volts[w.node["E.plus"]] - s.volts[w.node["E.minus"]]
    for owner in ("out", "back", "B"):
        assert e[w.branch[owner]] == pytest.approx(-10.0)
    load = w.circuit.a.size
    assert e[load] == pytest.approx(-10.0 * 0.05)
    assert s.current[w.branch["out"], load] == pytest.approx(point.current_a[w.branch["out"]])
    assert e[-1] == pytest.approx(agm_emf(50.0))
    assert s.current[w.branch["out"], -1] == pytest.approx(0.0, abs=1e-9)


def test_a_resistance_by_hand():
    """V = E R / (R + r): dV/dr = -E R / (R + r)², and a share more of E is a share more of V."""
    w, solver, _, _ = solved(loop(ResistiveLoad(id="E", power_w=144.0)))
    s = sensitivity(solver)
    e = s.volts[w.node["E.plus"]] - s.volts[w.node["E.minus"]]
    emf, load, rest = agm_emf(50.0), 1.0, 0.05
    assert e[w.branch["out"]] == pytest.approx(-emf * load / (load + rest) ** 2)
    assert e[-1] == pytest.approx(emf * load / (load + rest))


def test_a_constant_power_by_hand():
    """V² - E V + P r = 0: dV/dr = -P / (2 V - E)."""
    w, solver, _, point = solved(loop(PowerLoad(id="E", power_w=120.0)))
    s = sensitivity(solver)
    e = s.volts[w.node["E.plus"]] - s.volts[w.node["E.minus"]]
    volts = float(point.load_v[0])
    assert e[w.branch["back"]] == pytest.approx(-120.0 / (2.0 * volts - agm_emf(50.0)))


@pytest.mark.parametrize("name", names())
def test_every_example_answers_as_differences_of_full_solutions_do(name):
    w, solver, duty, point = solved(example(name))
    s = sensitivity(solver)
    size, loads = w.circuit.a.size, len(w.loads)
    from dataclasses import replace

    def other(**change):
        return Solver(w.circuit).solve(replace(duty, **change))

    for k in range(0, size, max(1, size // 12)):
        extra = np.zeros(size)
        extra[k] = 1e-5
        moved = (other(extra_ohm=duty.extra_ohm + extra).current_a - point.current_a) / 1e-5
        if np.abs(moved).max() > 1e-3:
            np.testing.assert_allclose(s.current[:, k], moved, atol=3e-3 * np.abs(moved).max())
    for k in range(loads):
        share = np.ones(loads)
        share[k] += 1e-4
        moved = (
            other(load_w=duty.load_w * share, load_a=duty.load_a * share, load_s=duty.load_s * share).volts
            - point.volts
        ) / 1e-4
        np.testing.assert_allclose(s.volts[:, size + k], moved, atol=max(3e-3 * np.abs(moved).max(), 1e-6))
    for k in range(len(w.sources)):
        share = np.ones(len(w.sources))
        share[k] += 1e-5
        mode = point.mode
        changed = {
            "source_v": np.where(mode == Mode.VOLTAGE, duty.source_v * share, duty.source_v),
            "source_a": np.where(mode == Mode.CURRENT, duty.source_a * share, duty.source_a),
            "source_w": np.where(mode == Mode.POWER, duty.source_w * share, duty.source_w),
        }
        moved = (other(**changed).volts - point.volts) / 1e-5
        np.testing.assert_allclose(s.volts[:, size + loads + k], moved, atol=max(5e-3 * np.abs(moved).max(), 1e-5))


def test_copper_that_warms_answers_less_than_copper_held_cold():
    """A thin cable near its limit: what warming adds is a good part of its answer."""
    plan = edits.change(example("orchard_station"), "W62", conductor="mm2-1.5")
    w, solver, duty, point = solved(plan)
    assert point.solved
    warm = sensitivity(solver)
    from dataclasses import replace

    cold_solver = Solver(w.circuit)
    cold_solver.solve(replace(duty, held_c=point.temperature_c[w.circuit.heated]))
    cold = sensitivity(cold_solver)
    k = w.branch["W62"]
    # More current is driven by a lower voltage at a constant power, and meets more resistance.
    assert abs(warm.current[k, k]) >= abs(cold.current[k, k])
