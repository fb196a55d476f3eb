"""What a fuse lets through to the next one, against the fault followed in time and against a closed form."""

import random

import numpy as np
import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.interrupting import interrupting, limiters
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Fuse, Plan, Run
from jaunty_copper.protection import back_up
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.replay import replay
from tests.build import bar, battery, spread
from tests.trials import WHOLE, hold

SEEDS = 150 if WHOLE else 15


def findings(plan):
    return [f for f in Assessment(plan).findings if f.rule.id == "interrupt_rating"]


def test_on_a_straight_rise_the_cut_off_current_is_the_cube_root_of_three_i2t_times_the_slope():
    device = Protection(study(spread())).devices["U"]
    prospective, rise_s = 60e3, 0.05
    melts = float(device.longest(np.array(prospective))) * prospective**2
    slope = prospective / rise_s
    opens_s, cut_off_a = back_up.cut_off(device, prospective, rise_s)
    assert cut_off_a == pytest.approx((3.0 * melts * slope) ** (1 / 3), rel=0.08)
    assert cut_off_a == pytest.approx(slope * opens_s, rel=0.05)


def test_where_the_current_is_there_at_once_nothing_is_cut_off():
    device = Protection(study(spread())).devices["U"]
    opens_s, cut_off_a = back_up.cut_off(device, 5000.0, 0.0)
    assert cut_off_a == pytest.approx(5000.0)
    assert opens_s == pytest.approx(float(device.longest(np.array(5000.0))), rel=0.02)


def test_a_fuse_that_never_opens_limits_nothing():
    device = Protection(study(spread())).devices["U"]
    assert back_up.cut_off(device, 20.0, 1e-3) == (np.inf, 20.0)


def test_the_standard_counts_it_and_the_others_ask_for_a_test():
    for practice, left in (("iec_60364", []), ("nfpa_70", ["D1", "D2"])):
        assert [f.place for f in findings(spread(practice=practice))] == left
    case = Assessment(spread()).case
    found = interrupting(case, "D1")
    assert found.backed is not None
    assert found.backed.by == "U"
    assert found.wanted_a <= 6000.0 < found.prospective_a
    # What holds says what it stands on.
    (check,) = [c for c in Assessment(spread()).checks if c.rule.id == "interrupt_rating" and c.place == "D1"]
    assert (check.figure, check.limit) == (pytest.approx(found.wanted_a), 6000.0)
    assert "434.5.1" in check.source


def test_a_large_fuse_does_not_back_up_small_ones_and_one_that_bursts_itself_neither():
    assert [f.place for f in findings(spread(upstream_a=300.0))] == ["D1", "D2"]
    assert {"U", "D1", "D2"} == {f.place for f in findings(spread(family="strip-fuse-sf51"))}
    assert "U" not in limiters(Assessment(spread(family="strip-fuse-sf51")).case)


def test_a_second_source_behind_the_fuse_adds_what_it_drives():
    plan = spread()
    second = battery("B2", volts=24.0, ohm=0.0013)
    more = (
        Run(id="X1", a="B2.plus", b="P.s4", length_m=0.5, conductor="mm2-10"),
        Run(id="X2", a="B2.minus", b="M.s4", length_m=0.5, conductor="mm2-10"),
    )
    items = tuple(bar(x.id, 4) if x.id in "PM" else x for x in plan.items)
    both = plan.model_copy(update={"items": (*items, second), "runs": (*plan.runs, *more)})
    found = interrupting(Assessment(Plan.model_validate(both.model_dump())).case, "D1")
    assert found.backed is not None
    assert found.wanted_a > 0.4 * found.prospective_a
    assert not found.is_enough


def test_a_fuse_in_another_string_limits_nothing():
    """Two units side by side, each with a fuse of its own: for a short at the bar both carry as much, neither through the other."""
    plan = spread()
    second = battery("B2", volts=24.0, ohm=0.0014)
    more = (
        Run(id="X1", a="B2.plus", b="S2.a", length_m=0.1, conductor="mm2-95", apart=True),
        Run(id="X2", a="S2.b", b="P.s4", length_m=2.5, conductor="mm2-95", apart=True),
        Run(id="X3", a="B2.minus", b="M.s4", length_m=2.5, conductor="mm2-95", apart=True),
    )
    weak = Fuse(id="S2", family="strip-fuse-sf51", rating_a=60.0)
    both = plan.model_copy(update={"items": (*plan.items, second, weak), "runs": (*plan.runs, *more)})
    case = Assessment(Plan.model_validate(both.model_dump())).case
    found = interrupting(case, "S2")
    assert "U" in limiters(case)
    assert not found.is_enough
    assert found.wanted_a == pytest.approx(found.prospective_a, rel=0.05)


@pytest.mark.chance
def test_no_replayed_fault_drives_more_through_a_device_than_is_said_to_be_let_through():
    wrong, cut = [], 0
    for seed in range(SEEDS):
        r = random.Random(seed)
        plan = spread(
            r.choice((30.0, 60.0, 100.0, 200.0)), ohm=r.uniform(0.0003, 0.003), length=r.uniform(0.5, 8.0),
            volts=r.choice((12.0, 24.0, 48.0)),
        )  # fmt: skip
        case = Assessment(plan).case
        told = back_up.back_up(case.protection.faults, "D1", {"U": case.protection.devices["U"]})
        assert told is not None
        cut += told.let_through_a < 0.8 * case.protection.faults.prospective("D1")[0]
        # The device itself as good as a link: only what stands before it opens.
        linked = edits.change(plan, "D1", family="strip-fuse-sf51-70v", rating_a=500.0)
        course = replay(Assessment(linked).case.protection, "D1.b", certainly=True, fault_ohm=1e-6)
        most = float(np.abs(course.course.current_a[:, course.branch["D1"]]).max())
        if most > told.let_through_a * 1.001:
            wrong.append((seed, most, told))
    assert cut > SEEDS // 5
    hold("devices that must interrupt more than is said to be let through", len(wrong), SEEDS, at_most=0.0)
