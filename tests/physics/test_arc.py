import numpy as np
import pytest

from jaunty_copper.physics.arc import arc_current, burn_distance_mm, burn_energy


def test_the_arc_takes_its_voltage_and_the_rest_drives_the_current():
    amps = float(arc_current(54.0, 0.01, 5.0))
    assert 54.0 - 0.01 * amps == pytest.approx((20.0 + 0.534 * 5.0) * amps**0.12, rel=1e-9)
    assert amps < 54.0 / 0.01


def test_at_twelve_volts_the_law_says_nothing_and_across_a_wider_gap_the_arc_is_weaker():
    assert np.isnan(arc_current(13.0, 0.001, 1.0))
    wide, narrow = (float(arc_current(54.0, 0.01, gap)) for gap in (10.0, 2.0))
    assert 0.0 < wide < narrow


def test_where_nothing_joins_the_two_there_is_no_arc():
    np.testing.assert_array_equal(arc_current([54.0, 0.0], [np.inf, 0.01], 3.0), [0.0, 0.0])


@pytest.mark.parametrize(
    ("volts", "bolted", "seconds", "distance"), [(26.0, 18000.0, 2.0, 450.0), (54.0, 9000.0, 0.2, 300.0)]
)
def test_how_far_an_arc_burns_is_near_what_the_standard_takes(volts, bolted, seconds, distance):
    """NFPA 70E annex D.5.1 rounds the same balance: 0.01 V I t / D², I half of the bolted current, D in cm."""
    rounded = 0.01 * volts * 0.5 * bolted * seconds / (0.1 * distance) ** 2
    assert burn_energy(volts, bolted, seconds, distance) == pytest.approx(rounded, rel=0.06)
    reach = burn_distance_mm(volts, bolted, seconds)
    assert burn_energy(volts, bolted, seconds, reach) == pytest.approx(1.2)


def test_no_arc_takes_more_than_a_quarter_of_voltage_times_bolted_current():
    volts, ohm = 54.0, 0.006
    currents = np.linspace(0.0, volts / ohm, 2001)
    power = (volts - ohm * currents) * currents
    joules = burn_energy(volts, volts / ohm, 1.0, 100.0) * 4.184 * 4.0 * np.pi * 10.0**2
    assert power.max() == pytest.approx(joules, rel=1e-6)
