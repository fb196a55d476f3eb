"""A course over hours against closed forms, and the response against small differences."""

from dataclasses import replace

import numpy as np
import pytest

from jaunty_copper.battery.discharge import cut_outs, over_time, units_of
from jaunty_copper.network.demand import AS_DRAWN, duty_of
from jaunty_copper.network.wiring import wire
from jaunty_copper.physics.answers import response
from jaunty_copper.physics.cell_units import Acceptance, CellUnits
from jaunty_copper.physics.course import course
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Charger, CurrentLoad, Plan, PowerLoad, ResistiveLoad
from tests.build import battery, loop, ohms

R, A = 0.004, 0.0003


def two(first=60.0, second=50.0):
    """Two units in parallel with nothing else."""
    return Plan(
        items=(battery("a", ohm=R, soc_percent=first), battery("b", ohm=R, soc_percent=second)),
        runs=(ohms("p", "a.plus", "b.plus", A), ohms("m", "a.minus", "b.minus", A)),
    )


def straight(n, slope_v=0.1, low=12.0, capacity=100.0, soc=50.0):
    """Units whose voltage rises in a straight line by so much for every ten per cent."""
    curve = np.tile(low + slope_v * np.arange(11.0), (n, 1))
    one = np.ones(n)
    return CellUnits(capacity * one, curve, R * one, one, soc * one, 0.0 * one)


def run(plan, units, hours, step=10.0, **duty):
    w = wire(plan)
    d = replace(duty_of(w, AS_DRAWN), **duty)
    return course(Solver(w.circuit), d, units, hours, step, cut_outs(w))


def test_two_units_level_out_as_an_exponential():
    # Loop: dI/dt = -I (S1 + S2) / R; S = 0.1 V over 10 Ah for each.
    units = replace(straight(2), soc_percent=np.array([60.0, 50.0]))
    c = run(two(), units, 3.0, 2.0)
    loop_ohm = 2 * R + 2 * A
    start = 0.1 / loop_ohm
    tau_h = loop_ohm / (2 * 0.1 / 10.0)
    want = start * np.exp(-c.hours / tau_h)
    np.testing.assert_allclose(c.current_a[:-1, 0], want[:-1], rtol=5e-3, atol=0.02)
    np.testing.assert_allclose(c.current_a[:, 0], -c.current_a[:, 1], atol=1e-9)
    assert c.soc_percent[-1] == pytest.approx([55.0, 55.0], abs=0.02)


def test_the_error_halves_with_the_step():
    units = replace(straight(2), soc_percent=np.array([60.0, 50.0]))
    tau_h = (2 * R + 2 * A) / 0.02
    want = 55.0 + 5.0 * np.exp(-0.5 / tau_h)
    errors = [abs(run(two(), units, 0.5, step).soc_percent[-1, 0] - want) for step in (120.0, 60.0, 30.0)]
    assert errors[0] / errors[1] == pytest.approx(2.0, rel=0.15)
    assert errors[1] / errors[2] == pytest.approx(2.0, rel=0.15)


def test_a_very_long_step_stays_stable():
    units = replace(straight(2, slope_v=0.5), soc_percent=np.array([70.0, 30.0]))
    c = run(two(), units, 20.0, 3600.0)
    assert np.all(np.diff(np.abs(c.current_a[:, 0])) <= 1e-9)
    assert c.soc_percent[-1] == pytest.approx([50.0, 50.0], abs=0.5)


def test_a_constant_current_empties_a_unit_when_its_charge_says():
    plan = loop(CurrentLoad(id="E", current_a=20.0), ohm=R)
    c = run(plan, straight(1, soc=50.0), 10.0)
    assert c.stopped.kind == "empty"
    assert c.stopped.hour == pytest.approx(2.5, abs=0.01)
    assert c.solutions < 60


def test_a_stop_voltage_ends_it_before_the_charge_is_gone():
    plan = loop(CurrentLoad(id="E", current_a=20.0), ohm=R)
    units = replace(straight(1, soc=50.0), stop_v=np.array([12.2]))
    c = run(plan, units, 10.0)
    # E - r I = 12.2 V at E = 12.28 V: 28 % charge.
    assert c.soc_percent[-1, 0] == pytest.approx(28.0, abs=0.1)
    assert c.terminal_v[-1, 0] == pytest.approx(12.2, abs=1e-3)


def test_a_charger_gives_its_current_and_then_holds_its_voltage():
    plan = loop(Charger(id="E", set_v=12.9, current_a=30.0), out=0.001, back=0.001, ohm=R)
    c = run(plan, straight(1, soc=20.0), 24.0)
    kinds = [(e.kind, e.hour) for e in c.events]
    switched = next(h for k, h in kinds if k == "source_mode")
    # CC until E + 30 (r + leads) = 12.9 V: E = 12.72 V, 72 % charge, 52 Ah at 30 A.
    assert switched == pytest.approx(52.0 / 30.0, rel=0.02)
    before = c.hours < switched - 0.05
    np.testing.assert_allclose(c.current_a[before, 0], -30.0, rtol=1e-6)
    after = c.current_a[c.hours > switched + 0.05, 0]
    assert np.all(np.diff(after) >= -1e-9)
    # From there on an exponential with the resistance over the slope.
    tau = (R + 0.002) / 0.01
    hours = c.hours[c.hours > switched + 0.05]
    assert np.log(after[0] / after[200]) == pytest.approx((hours[200] - hours[0]) / tau, rel=0.02)


def test_a_load_below_its_cut_out_stops_for_good():
    plan = loop(PowerLoad(id="E", power_w=240.0, min_v=11.6), ohm=R)
    c = run(plan, straight(1, soc=60.0), 5.0)
    stop = next(e for e in c.events if e.kind == "load_stops")
    after = c.current_a[c.hours > stop.hour + 0.01, 0]
    assert after.size
    np.testing.assert_allclose(after, 0.0, atol=1e-9)


def test_power_that_cannot_be_delivered_ends_it():
    plan = loop(PowerLoad(id="E", power_w=745.0), out=0.02, back=0.02, ohm=0.01)
    c = run(plan, straight(1, low=11.5, soc=90.0), 5.0)
    assert c.stopped.kind == "collapse"
    assert np.all(np.isfinite(c.current_a))


def test_power_delivered_is_what_the_loads_take():
    plan = loop(ResistiveLoad(id="E", power_w=120.0), out=0.0, back=0.0, ohm=R)
    h = over_time(plan, plan.scenarios[0], 1.0)
    v = h.course.terminal_v[:-1, 0]
    want = float((v**2 / (144.0 / 120.0) * np.diff(h.course.hours)).sum())
    assert float(h.taken_wh[0]) == pytest.approx(want, rel=1e-3)


@pytest.mark.parametrize("k", [0, 1, 3, 4])
def test_the_response_is_what_small_changes_of_emf_do(k):
    plan = example("orchard_station")
    w = wire(plan)
    duty = duty_of(w, plan.scenarios[k])
    solver = Solver(w.circuit)
    first = solver.solve(duty)
    duty = replace(duty, held_c=first.temperature_c[w.circuit.heated])
    here = solver.solve(duty)
    r = response(solver)
    dv = 1e-5
    for n, cell in enumerate(r.cells):
        emf = duty.emf_v.copy()
        emf[cell] += dv
        there = Solver(w.circuit).solve(replace(duty, emf_v=emf))
        np.testing.assert_allclose(
            (there.current_a - here.current_a)[r.cells] / dv, r.current_s[:, n], rtol=2e-3, atol=0.05
        )
        np.testing.assert_allclose((there.volts - here.volts) / dv, r.volts[:, n], rtol=2e-3, atol=2e-4)


def test_nothing_solved_has_no_response():
    with pytest.raises(ValueError, match="nothing has been solved"):
        response(Solver(wire(loop()).circuit))


def test_resistance_rises_when_nearly_empty():
    units = units_of(wire(edits.change(loop(), "B", chemistry="agm")), AS_DRAWN)
    assert units.extra_ohm(np.array([50.0]))[0] == 0.0
    assert units.extra_ohm(np.array([0.0]))[0] == pytest.approx(0.8 * 0.01)
    assert units.extra_ohm(np.array([15.0]))[0] == pytest.approx(0.4 * 0.01)


def test_what_is_lost_near_empty_is_followed_between_full_solutions():
    """20 A from 50 %; below 30 % the resistance grows to five times: the stop is where two straight lines meet."""
    units = replace(straight(1, soc=50.0), empty_factor=np.array([5.0]), stop_v=np.array([11.85]))
    c = run(loop(CurrentLoad(id="E", current_a=20.0), ohm=R), units, 10.0)
    # 12 + s/100 - 20 (0.004 + 0.016 (1 - s/30)) = 11.85 V: s = 12.097 %, after 37.903 Ah at 20 A.
    soc = (11.85 - 12.0 + 20.0 * 0.004 + 20.0 * 0.016) / (0.01 + 20.0 * 0.016 / 30.0)
    assert c.events[-1].kind == "empty"
    assert c.hours[-1] == pytest.approx((50.0 - soc) / 20.0, abs=0.004)


def accepting(soc=50.0, a=0.02, end=0.02, efficiency=0.9, tail=1.0, slope=0.0):
    units = straight(1, slope_v=slope, low=12.5, soc=soc)
    return replace(units, acceptance=Acceptance(*(np.array([x]) for x in (a, end, efficiency, tail))))


@pytest.mark.parametrize(("a", "efficiency"), [(0.02, 0.9), (0.005, 1.0), (0.06, 0.85)])
def test_at_held_voltage_what_goes_in_dies_away_as_the_closed_form_has_it(a, efficiency):
    """With x what is missing and the end: R (x - x0) + a ln(x / x0) = -eta dV t / C, for one open-circuit voltage."""
    ohm, set_v, leads = 0.004, 14.0, 0.002
    plan = loop(Charger(id="E", set_v=set_v, current_a=1000.0), out=0.001, back=0.001, ohm=ohm)
    c = run(plan, accepting(a=a, efficiency=efficiency, tail=0.0), 6.0, 5.0)
    missing = 1.0 - c.soc_percent[:, 0] / 100.0 + 0.02
    for k in (len(c.hours) // 10, len(c.hours) // 2, len(c.hours) - 1):
        left = (ohm + leads) * (missing[k] - missing[0]) + a * np.log(missing[k] / missing[0])
        assert left == pytest.approx(-efficiency * (set_v - 12.5) * c.hours[k] / 100.0, rel=5e-3)
    want = (set_v - 12.5) / (ohm + leads + a / missing)
    np.testing.assert_allclose(-c.current_a[1:-1, 0], want[1:-1], rtol=5e-3)


def test_a_source_that_gives_its_limit_goes_on_until_the_voltage_is_reached_and_then_to_the_tail():
    """20 A, then 14 V held: the change where 12.5 + 20 (0.006 + 0.02 / x) = 14, x = 0.2899; full where 1 A still flows."""
    plan = loop(Charger(id="E", set_v=14.0, current_a=20.0), out=0.001, back=0.001, ohm=0.004)
    c = run(plan, accepting(soc=20.0, end=0.02, tail=1.5), 24.0, 10.0)
    held = next(e.hour for e in c.events if e.kind == "source_mode")
    x = 0.02 / (1.5 / 20.0 - 0.006)
    assert held == pytest.approx((1.0 - (x - 0.02) - 0.2) * 100.0 / (20.0 * 0.9), rel=0.01)
    assert c.events[-1].kind == "full"
    assert -c.current_a[-1, 0] == pytest.approx(1.5, rel=0.02)


def test_half_the_step_of_a_charge_changes_half_as_much():
    plan = loop(Charger(id="E", set_v=14.0, current_a=50.0), out=0.001, back=0.001, ohm=0.004)
    ends = [run(plan, accepting(tail=0.0), 2.0, step).soc_percent[-1, 0] for step in (120.0, 60.0, 30.0, 15.0)]
    differences = np.abs(np.diff(ends))
    assert differences[0] > 1.6 * differences[1] > 1.6**2 * differences[2]


def test_what_one_unit_gives_another_meets_its_acceptance():
    """Two units at different charge: the fuller gives through its resistance, the emptier takes through more."""
    plan = two(90.0, 40.0)
    plain = straight(2)
    units = replace(
        plain, soc_percent=np.array([90.0, 40.0]),
        acceptance=Acceptance(np.array([0.02, 0.02]), np.array([0.02, 0.02]), np.ones(2), np.zeros(2)),
    )  # fmt: skip
    c = run(plan, units, 0.1)
    assert c.current_a[0, 0] == pytest.approx((12.9 - 12.4) / (2 * R + 2 * A + 0.02 / 0.62), rel=5e-3)
    np.testing.assert_allclose(c.current_a[:, 0], -c.current_a[:, 1], rtol=1e-9)
