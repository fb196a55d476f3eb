import numpy as np
import pytest

from jaunty_copper.physics.arc import arc_current


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
