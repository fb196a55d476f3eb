"""What a plan's conductors bear, taken from its parts and the air around them."""

import numpy as np
import pytest

from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import cable_of
from jaunty_copper.physics.heat import steady_current
from jaunty_copper.physics.withstand import withstand_a2s
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Zone
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.withstand import heating_limits
from tests.build import fused


def test_a_run_bears_its_section_and_insulation_for_a_second_and_its_heat_balance_for_ever():
    s = Protection(study(fused()))
    e, k = s.withstand, s.withstand.row["W5"]
    at = np.array([k, k])
    short, for_ever = e.current(np.array([1.0, np.inf]), at)
    assert short**2 == pytest.approx(float(withstand_a2s(2.5, 105.0, 160.0)))
    cable = cable_of([s.study.plan.run_by_id["W5"]], s.wiring.parts)
    assert for_ever == pytest.approx(float(steady_current(cable, 160.0, 30.0)[0]))


def test_two_side_by_side_bear_twice_as_much_in_a_fault():
    one, two = (Protection(study(edits.change(fused(), "W5", parallel=n))).withstand for n in (1, 2))
    ratio = two.current(np.array([0.1]), np.array([two.row["W5"]])) / one.current(
        np.array([0.1]), np.array([one.row["W5"]])
    )
    assert float(ratio[0]) == pytest.approx(2.0)


def test_hot_air_takes_from_what_lasts_and_not_from_a_fault():
    plan = edits.change(edits.add(fused(), Zone(id="hot", ambient_c=80.0)), "W5", zone="hot")
    cool, hot = Protection(study(fused())).withstand, Protection(study(plan)).withstand
    at = np.array([cool.row["W5"], cool.row["W5"]])
    times = np.array([0.5, np.inf])
    assert hot.current(times, at)[0] == pytest.approx(cool.current(times, at)[0])
    assert hot.current(times, at)[1] < 0.9 * cool.current(times, at)[1]


def test_limits_of_runs_that_a_plan_does_not_have():
    s = Protection(study(fused()))
    runs = tuple(s.study.plan.run_by_id["W5"].model_copy(update={"conductor": f"mm2-{a}"}) for a in (4, 10))
    limits = heating_limits(runs, s.wiring.parts, np.full(2, 30.0))
    bears = limits.current(np.array([1.0, 1.0]), np.arange(2))
    assert bears[1] / bears[0] == pytest.approx(2.5)
    assert limits.withstands(
        np.array([bears[0] * 0.99, bears[1] * 1.01]), np.array([1.0, 1.0]), np.arange(2)
    ).tolist() == [
        True,
        False,
    ]
