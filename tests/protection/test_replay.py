"""A plan's faults in time against its prospective currents, and along its conductors."""

import numpy as np
import pytest

from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Post, Run
from jaunty_copper.protection.along import along_run
from jaunty_copper.protection.contributions import contributions, stored
from jaunty_copper.protection.faults import faults_of
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.replay import FAULT_OHM, replay
from tests.build import fused

DEMO = Protection(study(edits.change(example("orchard_station"), "INV", input_uf=None)))


@pytest.mark.parametrize("at", ["PUMP.plus", "LAMP.plus", "P24.s1"])
def test_it_rises_to_the_prospective_current_unless_a_device_is_faster(at):
    f = DEMO.faults
    k = f.at[at]
    expected = abs(f.peak.open_v[k]) / (f.peak.ohm[k] + FAULT_OHM)
    found = replay(DEMO, at)
    assert found.most_a == pytest.approx(expected, rel=0.02)
    assert found.most_a <= expected * 1.001


def test_selective_devices_open_from_the_fault_on_and_the_fault_ends():
    s = Protection(study(fused()))
    found = replay(s, "E.plus")
    assert [d for d, _, _ in found.opened] == ["F1"]
    assert found.ended_s == pytest.approx(found.opened[0][1], abs=1e-3)
    d = s.devices["F1"]
    amps = found.opened[0][2]
    # The rise is over long before it melts: the band's own time at what flows.
    assert found.opened[0][1] == pytest.approx(float(d.shortest(np.array(amps))), rel=0.1)
    late = replay(s, "E.plus", certainly=True)
    assert late.opened[0][1] > found.opened[0][1]


def test_the_demo_s_main_fuse_opens_beside_its_unselective_neighbour():
    found = replay(DEMO, "INV.plus", certainly=True)
    assert next(d for d, _, _ in found.opened) == "F2"
    end = {d: found.course.melted[-1, k] for k, d in enumerate(found.devices)}
    assert end["F2"] >= 1.0
    assert 0.0 < end["F1"] < 1.0


def test_links_of_the_bank_that_nothing_protects_burn_through():
    found = replay(DEMO, "B1.plus")
    assert "L1p" in {id_ for id_, k in found.branch.items() if k in found.course.burnt}
    assert found.opened == ()


def test_capacitors_answer_first_and_motors_run_on():
    plan = edits.change(fused(), "E", input_uf=20000.0)
    with_caps, without = replay(Protection(study(plan)), "E.plus"), replay(Protection(study(fused())), "E.plus")

    def early(r):
        return float(np.interp(2e-6, r.course.times_s, np.abs(r.course.current_a[:, r.fault])))

    assert early(with_caps) > 5.0 * early(without)
    given = stored(Protection(study(plan)).faults, "E.plus")["E"]
    # 12 V and some behind the capacitors' own 5 milliohm, gone with RC.
    assert given.current_a == pytest.approx(12.84 / 0.005, rel=0.02)
    assert given.decay_s == pytest.approx(0.005 * 0.02, rel=0.02)
    motor = faults_of(wire(edits.change(fused(), "E", motor_ohm=0.5)))
    plain = faults_of(wire(fused()))
    gain = motor.peak.current_a[motor.at["E.plus"]] - plain.peak.current_a[plain.at["E.plus"]]
    assert gain == pytest.approx(contributions(motor, "E.plus")["E"], rel=1e-6)
    assert gain == pytest.approx(12.84 / 0.5, rel=0.02)


@pytest.mark.parametrize("case", ["peak", "steady", "least"])
@pytest.mark.parametrize(("run", "share"), [("W4", 0.5), ("W4", 0.8)])
def test_a_fault_along_a_conductor_is_that_of_a_plan_which_has_a_stud_there(run, share, case):
    plan = edits.change(fused(length=6.0), "W4", length_m=2.0)
    joints = {"joint_a_ohm": 0.0, "joint_b_ohm": 0.0}
    for r in plan.runs:
        plan = edits.change(plan, r.id, **joints)
    long = plan.run_by_id[run]
    cut = edits.add(plan, Post(id="X"))
    cut = edits.change(cut, run, b="X.stud", length_m=share * long.length_m)
    rest = Run(
        id="Wx", a="X.stud", b=long.b, length_m=(1 - share) * long.length_m, conductor=long.conductor, **joints
    )  # fmt: skip
    cut = edits.add(cut, rest)
    f, there = faults_of(wire(plan)), faults_of(wire(cut))
    got = float(along_run(f, run, np.array([share]), case)[0])
    one, two = ({f.places.refs[k][1] for k in f.places.columns[ref]} for ref in (long.a, long.b))
    at_x = {there.places.refs[k][1]: k for k in there.places.columns["X.stud"]}
    # To the return that both ends have beside them; the bank's own post is beside one only.
    k = at_x[next(iter(one & two & set(at_x)))]
    assert got == pytest.approx(abs(float(getattr(there, case).current_a[k])), rel=1e-6)


def test_a_fault_halfway_is_between_those_at_the_ends():
    a, b = (replay(DEMO, ref).most_a for ref in ("F6.b", "PUMP.plus"))
    run = next(r.id for r in DEMO.study.plan.runs if r.b == "PUMP.plus")
    half = replay(DEMO, DEMO.study.plan.run_by_id[run].a, to="PUMP.minus", run=(run, 0.5)).most_a
    assert b < half < a


def test_along_equipments_own_cable_both_its_conductors_grow():
    plan = fused(length=6.0)
    near, far = (
        faults_of(wire(edits.change(edits.change(plan, "W5", length_m=3.0), "W6", length_m=3.0))),
        faults_of(wire(plan)),
    )
    half = float(along_run(far, "W5", np.array([0.5]))[0])
    # Two joints fewer than with half the cable and lugs at its end.
    assert half == pytest.approx(near.peak.current_a[near.at["E.plus"]], rel=0.02)
