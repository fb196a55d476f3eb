import math

import pytest

from jaunty_copper.physics.withstand import withstand_a2s


def test_the_adiabatic_limit_has_the_standards_constant():
    # Protective conductors, copper 30 to 250 C: 176 (IEC 60364-5-54 table A.54.2).
    assert math.sqrt(float(withstand_a2s(1.0, 30.0, 250.0))) == pytest.approx(176.0, abs=0.6)
    # Copper, PVC 70 to 160 C: 115; cross-linked 90 to 250 C: 143 (IEC 60364-4-43 table 43A).
    assert math.sqrt(float(withstand_a2s(1.0, 70.0, 160.0))) == pytest.approx(115.0, abs=0.5)
    assert math.sqrt(float(withstand_a2s(1.0, 90.0, 250.0))) == pytest.approx(143.0, abs=0.5)


def test_it_goes_with_the_square_of_the_section():
    assert float(withstand_a2s(10.0, 70.0, 160.0)) == pytest.approx(100.0 * float(withstand_a2s(1.0, 70.0, 160.0)))
