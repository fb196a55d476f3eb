"""Single conductors: laid, led elsewhere, and what sits in them swapped."""

import pytest

from jaunty_copper.plan import edits
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.files import dumps, parse


def test_a_conductor_to_a_bar_takes_its_first_free_stud_or_a_new_one():
    plan, first = edits.connect(blank(), "E1.plus", "P1", 2.0, conductor="mm2-6")
    assert (plan.run_by_id[first].b, plan.run_by_id[first].length_m) == ("P1.s3", 2.0)
    for _ in range(3):
        plan, last = edits.connect(plan, "E1.plus", "P1")
    assert plan.run_by_id[last].b == "P1.s6"
    plan, more = edits.connect(plan, "E1.plus", "P1")
    assert plan.run_by_id[more].b == "P1.s7"
    assert parse(dumps(plan), "here") == plan


@pytest.mark.parametrize(
    ("a", "b", "why"),
    [
        ("P1.s1", "P1.s1", "must end elsewhere"), ("P1.s1", "P9", "no terminal P9"), ("P1.s1", "E1.q", "no terminal E1.q"),
        ("F1", "P1.s3", "several terminals"),
    ],
)  # fmt: skip
def test_what_cannot_be_laid_says_why(a, b, why):
    with pytest.raises(EditError, match=why):
        edits.connect(blank(), a, b)


def test_an_end_led_elsewhere_forgets_what_was_measured_with_it():
    plan = edits.change(blank(), "W8", measured_ohm=0.01, joint_b_ohm=1e-4, lug_b="M8", joint_a_ohm=2e-4)
    run = edits.aim(plan, "W8", "b", "M1.s5").run_by_id["W8"]
    assert (run.a, run.b) == ("E1.minus", "M1.s5")
    assert (run.measured_ohm, run.joint_b_ohm, run.lug_b, run.joint_a_ohm) == (None, None, None, 2e-4)
    with pytest.raises(EditError, match="no run"):
        edits.aim(plan, "F1", "a", "M1.s5")


def test_two_studs_change_places_with_what_is_on_them():
    plan = edits.swap_studs(blank(), "P1", "s1", "s2")
    assert [s.id for s in plan.by_id["P1"].studs][:3] == ["s2", "s1", "s3"]
    assert plan.runs == blank().runs
    assert edits.swap_studs(plan, "P1", "s1", "s2") == blank()
    with pytest.raises(EditError, match="no studs"):
        edits.swap_studs(plan, "P1", "s1", "s9")


def test_two_devices_change_places():
    plan = edits.swap_items(blank(), "F1", "F2")
    assert plan.run_by_id["W1"].b == "F2.a"
    assert plan.run_by_id["W2"].a == "F2.b"
    assert plan.run_by_id["W6"].b == "F1.a"
    assert edits.swap_items(plan, "F2", "F1") == blank()
    # Beside each other, with one conductor between.
    beside = edits.swap_items(blank(), "F1", "Q1")
    assert beside.run_by_id["W2"].a == "Q1.b"
    assert beside.run_by_id["W2"].b == "F1.a"
    with pytest.raises(EditError, match="conductors"):
        edits.swap_items(plan, "F1", "P1")
