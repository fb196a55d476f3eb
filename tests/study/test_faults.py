"""Fault currents of plans, against hand calculation by IEC 61660-1."""

import pytest

from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Converter, Plan, PowerLoad
from jaunty_copper.study.faults import faults_of
from jaunty_copper.study.wiring import wire
from tests.build import battery, loop, ohms


def test_a_radial_case_by_hand():
    # AGM at 12 V: 1.05 x 12 = 12.6 V, full charge gives 6 x 2.14 = 12.84 V, the higher counts.
    # 10 mOhm inside, 20 mOhm out, 20 mOhm back.
    f = faults_of(wire(loop()))
    k = f.at["E.plus"]
    assert f.peak.current_a[k] == pytest.approx(12.84 / (0.9 * 0.010 + 0.040), rel=1e-9)
    assert f.steady.current_a[k] == pytest.approx(0.95 * 12.84 / (0.010 + 0.040), rel=1e-9)
    assert f.least.current_a[k] == pytest.approx(6 * 1.955 / (1.7 * 0.010 + 0.040), rel=1e-9)
    at_posts = f.at["B.plus"]
    assert f.peak.current_a[at_posts] == pytest.approx(12.84 / 0.009, rel=1e-9)


def test_a_data_sheets_short_circuit_current_is_given_back_at_the_posts():
    f = faults_of(wire(edits.change(loop(), "B", short_circuit_a=1500.0)))
    assert f.peak.current_a[f.at["B.plus"]] == pytest.approx(1500.0, rel=1e-9)


def test_contributions_add_up_to_the_fault():
    f = faults_of(wire(example("orchard_station")))
    for ref in ("P24.s3", "INV.plus", "F5.b"):
        parts = f.contributions(ref)
        assert set(parts) == {"B1", "B2", "B3", "B4", "SUN", "GEN", "CV"}
        assert sum(parts[u] for u in ("B1", "B2", "B3", "B4", "SUN", "GEN")) == pytest.approx(
            f.peak.current_a[f.at[ref]], rel=1e-6
        )


def test_behind_a_converter_the_current_is_its_limit():
    converter = Converter(id="V", nominal_v=24.0, set_v=12.0, current_a=20.0)
    plan = Plan(
        items=(battery(volts=24.0),), equipment=(converter, PowerLoad(id="E", power_w=10.0)),
        runs=(
            ohms("a", "B.plus", "V.in_plus", 0.01), ohms("b", "V.in_minus", "B.minus", 0.01),
            ohms("c", "V.out_plus", "E.plus", 0.001), ohms("d", "E.minus", "V.out_minus", 0.001),
        ),
    )  # fmt: skip
    f = faults_of(wire(plan))
    k = f.at["E.plus"]
    # 12 V behind 12 V / 30 A, and 2 mOhm of cable.
    assert f.peak.current_a[k] == pytest.approx(12.0 / (12.0 / 30.0 + 0.002), rel=1e-9)
    assert f.least.current_a[k] == pytest.approx(12.0 / (12.0 / 20.0 + 0.002), rel=1e-9)


def test_a_device_sees_the_fault_behind_it_not_the_sum_at_the_node():
    f = faults_of(wire(example("orchard_station")))
    most, where = f.greatest_through("F7")
    assert where.startswith("F7") or where == "FAN.plus"
    assert most < abs(f.peak.current_a[f.at["P24.s7"]])
    for device in f.devices:
        assert f.greatest_through(device)[0] > 0.0
    assert abs(f.least.current_a).max() < abs(f.peak.current_a).max()
