"""The heat balance against itself turned round, against other methods, and against common sense."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from jaunty_copper.physics import heat
from jaunty_copper.physics.copper import ALPHA20_PER_K


def cable(area=50.0, r_km=0.386, outer=13.5, n=1):
    return heat.Cable(np.full(n, r_km * 1e-3), np.full(n, area), np.full(n, outer))


def test_surface_loss_agrees_with_the_correlation_worked_by_hand():
    # A 20 mm cylinder at 60 C in 20 C air; air properties at 313.15 K from tables:
    # k = 0.0272 W/mK, nu = 17.1e-6 m2/s, Pr = 0.706.
    k, nu, pr, d, rise = 0.0272, 17.1e-6, 0.706, 0.020, 40.0
    ra = 9.81 / 313.15 * rise * d**3 * pr / nu**2
    nusselt = (0.60 + 0.387 * ra ** (1 / 6) / (1 + (0.559 / pr) ** (9 / 16)) ** (8 / 27)) ** 2
    convection = nusselt * k / d * rise
    radiation = 0.9 * 5.670374e-8 * (333.15**4 - 293.15**4)
    assert heat.surface_loss(60.0, 20.0, 20.0) == pytest.approx(np.pi * d * (convection + radiation), rel=0.01)


def test_no_rise_no_loss():
    assert heat.surface_loss(30.0, 30.0, 10.0) == 0.0


@given(
    st.floats(1.0, 300.0),
    st.floats(-20.0, 60.0),
    st.sampled_from([(1.0, 19.5, 2.6), (10.0, 1.91, 6.5), (120.0, 0.161, 19.5)]),
)
def test_temperature_and_current_are_each_others_inverse(current, air, size):
    area, r_km, outer = size
    c = cable(area, r_km, outer)
    t = heat.steady_temperature(c, current, air)
    if t[0] < 390.0:
        assert heat.steady_current(c, t, air)[0] == pytest.approx(current, rel=1e-6)


def test_temperature_agrees_with_a_bracketing_solver():
    c, air, current = cable(), 40.0, 180.0
    wall = float(c.insulation_k_m_per_w[0])

    def excess(surface):
        lost = float(heat.surface_loss(surface, air, 13.5))
        t = surface + lost * wall
        return lost - current**2 * 0.386e-3 * (1 + ALPHA20_PER_K * (t - 20))

    surface = brentq(excess, 40.0, 300.0, xtol=1e-12)
    expected = surface + float(heat.surface_loss(surface, air, 13.5)) * wall
    assert heat.steady_temperature(c, current, air)[0] == pytest.approx(expected, abs=1e-6)


def test_energy_balances_at_the_steady_state():
    c, air = cable(10.0, 1.91, 6.5), 30.0
    t = heat.steady_temperature(c, 60.0, air)
    made = 60.0**2 * 1.91e-3 * (1 + ALPHA20_PER_K * (t - 20))
    surface = t - made * c.insulation_k_m_per_w
    assert heat.surface_loss(surface, air, c.outer_mm) == pytest.approx(made, rel=1e-9)


def test_hotter_air_and_more_current_make_it_hotter():
    c = cable(n=5)
    by_current = heat.steady_temperature(c, np.array([0.0, 50.0, 100.0, 150.0, 200.0]), 30.0)
    by_air = heat.steady_temperature(c, 100.0, np.array([0.0, 15.0, 30.0, 45.0, 60.0]))
    assert np.all(np.diff(by_current) > 0)
    assert np.all(np.diff(by_air) > 0)
    assert by_current[0] == pytest.approx(30.0)


def test_no_cable_bears_current_in_air_hotter_than_itself():
    assert heat.steady_current(cable(), 60.0, 70.0)[0] == 0.0


def test_a_melting_current_ends_at_the_hottest_temperature():
    assert heat.steady_temperature(cable(1.0, 19.5, 2.6), 500.0, 30.0)[0] == heat.HOTTEST_C


@given(
    st.floats(0.0, 300.0),
    st.floats(-20.0, 60.0),
    st.floats(-20.0, heat.HOTTEST_C),
    st.sampled_from([(1.0, 19.5, 2.6), (10.0, 1.91, 6.5), (120.0, 0.161, 19.5)]),
)
def test_one_step_at_a_time_from_however_hot_ends_where_all_at_once_does(current, air, start, size):
    area, r_km, outer = size
    c = cable(area, r_km, outer)
    at_once = heat.steady_temperature(c, current, air)
    t = np.array([start])
    for _ in range(300):
        t = heat.steady_temperature(c, current, air, start_c=t, steps=1)
    assert t == pytest.approx(at_once, abs=1e-3)


def test_time_to_reach_agrees_with_an_independent_integrator():
    c, air, limit, current = cable(16.0, 1.21, 8.0), 30.0, 105.0, 160.0
    capacity = float(c.heat_j_per_m_k[0])

    def rate(_, y):
        made = current**2 * 1.21e-3 * (1 + ALPHA20_PER_K * (y[0] - 20))
        wall = float(c.insulation_k_m_per_w[0])
        surface = brentq(
            lambda s: float(heat.surface_loss(s, air, 8.0)) - (y[0] - s) / wall, air, max(y[0], air + 1e-9)
        )
        return [(made - float(heat.surface_loss(surface, air, 8.0))) / capacity]

    reached = lambda _, y: y[0] - limit  # noqa: E731
    reached.terminal = True
    run = solve_ivp(rate, (0.0, 4000.0), [air], events=reached, rtol=1e-8, atol=1e-8)
    assert heat.time_to_reach(c, current, limit, air)[0] == pytest.approx(run.t_events[0][0], rel=2e-3)


def test_a_current_that_is_borne_never_reaches_the_limit():
    c = cable()
    bearable = heat.steady_current(c, 105.0, 30.0)
    assert heat.time_to_reach(c, 0.99 * bearable, 105.0, 30.0)[0] == np.inf
    assert heat.time_to_reach(c, 1.01 * bearable, 105.0, 30.0)[0] < np.inf


def test_short_times_are_adiabatic():
    # Without losses: C dT = I2 R20 (1 + alpha (T - 20)) dt, in closed form.
    c, current = cable(), 8000.0
    a = float(c.heat_j_per_m_k[0]) / (current**2 * 0.386e-3 * ALPHA20_PER_K)
    closed = a * np.log((1 + ALPHA20_PER_K * 140.0) / (1 + ALPHA20_PER_K * 10.0))
    assert heat.time_to_reach(c, current, 160.0, 30.0)[0] == pytest.approx(closed, rel=2e-3)


def test_thicker_cable_is_slower():
    slow, fast = heat.time_constant(cable(), 80.0, 30.0)[0], heat.time_constant(cable(2.5, 7.98, 3.6), 80.0, 30.0)[0]
    assert 60.0 < fast < slow < 3600.0


def followed(c, amps, air, seconds, start):
    """The same balance by an integrator of its own steps."""

    def rate(_, t):
        loss = heat.surface_loss(heat._surface_at(c, t, np.full(1, air)), air, c.outer_mm)
        return (amps**2 * c.r20_ohm_per_m * (1.0 + ALPHA20_PER_K * (t - 20.0)) - loss) / c.heat_j_per_m_k

    return float(solve_ivp(rate, (0.0, seconds), [start], rtol=1e-8, atol=1e-6).y[0, -1])


@pytest.mark.parametrize(("amps", "start"), [(60.0, 30.0), (180.0, 30.0), (260.0, 45.0), (0.0, 80.0)])
@pytest.mark.parametrize("minutes", [0.5, 4.0, 30.0, 600.0])
def test_a_conductor_warms_as_its_heat_balance_says(amps, start, minutes):
    c = cable()
    got = float(heat.temperature_after(c, amps, 30.0, 60.0 * minutes, start)[0])
    assert got == pytest.approx(followed(c, amps, 30.0, 60.0 * minutes, start), abs=0.05)


def test_after_long_it_is_what_it_stays_and_after_no_time_what_it_was():
    c = cable()
    steady = float(heat.steady_temperature(c, 150.0, 25.0)[0])
    assert float(heat.temperature_after(c, 150.0, 25.0, 1e6)[0]) == pytest.approx(steady, abs=1e-6)
    assert float(heat.temperature_after(c, 150.0, 25.0, 0.0)[0]) == 25.0
    times = heat.temperature_after(cable(n=30), 150.0, 25.0, np.linspace(0.0, 7200.0, 30))
    assert (np.diff(times) > 0.0).all()
    # At first nothing is lost yet: I² R t over the heat capacity.
    first = float(heat.temperature_after(c, 150.0, 25.0, 1.0)[0]) - 25.0
    assert first == pytest.approx(
        150.0**2 * float(c.r20_ohm_per_m[0]) * (1.0 + 5.0 * ALPHA20_PER_K) / float(c.heat_j_per_m_k[0]), rel=0.01
    )
