import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from jaunty_copper.physics.withstand import BETA_C, K_COPPER, endurance_current, outlasts, withstand_a2s


def test_the_adiabatic_limit_has_the_standards_constant():
    # Protective conductors, copper 30 to 250 C: 176 (IEC 60364-5-54 table A.54.2).
    assert math.sqrt(float(withstand_a2s(1.0, 30.0, 250.0))) == pytest.approx(176.0, abs=0.6)
    # Copper, PVC 70 to 160 C: 115; cross-linked 90 to 250 C: 143 (IEC 60364-4-43 table 43A).
    assert math.sqrt(float(withstand_a2s(1.0, 70.0, 160.0))) == pytest.approx(115.0, abs=0.5)
    assert math.sqrt(float(withstand_a2s(1.0, 90.0, 250.0))) == pytest.approx(143.0, abs=0.5)


def test_it_goes_with_the_square_of_the_section():
    assert float(withstand_a2s(10.0, 70.0, 160.0)) == pytest.approx(100.0 * float(withstand_a2s(1.0, 70.0, 160.0)))


PVC = {"area_mm2": 16.0, "start_c": 105.0, "end_c": 160.0, "long_a": 200.0, "ambient_c": 30.0}


def test_both_regimes_meet_at_five_seconds_and_end_at_the_lasting_current():
    below, above = (float(endurance_current(t, **PVC)) for t in (5.0, 5.0 + 1e-6))
    assert above == pytest.approx(below, rel=1e-5)
    assert below == pytest.approx(math.sqrt(float(withstand_a2s(16.0, 105.0, 160.0)) / 5.0))
    assert float(endurance_current(math.inf, **PVC)) == pytest.approx(200.0, rel=1e-6)
    times = np.geomspace(1e-3, 1e6, 400)
    assert (np.diff(endurance_current(times, **PVC)) <= 0.0).all()


def test_between_them_it_is_the_heat_balance_integrated():
    seconds = 90.0
    amps = float(endurance_current(seconds, **PVC))
    k2s2 = (K_COPPER * 16.0) ** 2
    loss = 200.0**2 / k2s2 * (160.0 + BETA_C) / 130.0

    def slope(t, y):
        return (y + BETA_C) * amps**2 / k2s2 - (loss * (y - 30.0) if t > 5.0 else 0.0)

    first = solve_ivp(slope, (0.0, 5.0), [105.0], rtol=1e-10, atol=1e-8)
    after = solve_ivp(lambda _, y: slope(6.0, y), (5.0, seconds), first.y[:, -1], rtol=1e-10, atol=1e-8)
    assert after.y[0, -1] == pytest.approx(160.0, abs=1e-3)


@given(
    st.floats(1e-3, 1e5), st.floats(0.75, 120.0), st.sampled_from([(70.0, 160.0), (105.0, 160.0), (200.0, 220.0)]),
    st.floats(0.2, 3.0), st.floats(0.5, 2.0),
)  # fmt: skip
def test_what_outlasts_is_what_lies_below_the_limit(seconds, area, temperatures, long_share, share):
    start, end = temperatures
    limits = {"area_mm2": area, "start_c": start, "end_c": end, "long_a": long_share * 10.0 * area, "ambient_c": 30.0}
    limit = float(endurance_current(seconds, **limits))
    if abs(share - 1.0) > 1e-3:
        assert bool(outlasts(share * limit, seconds, **limits)) is (share < 1.0)
