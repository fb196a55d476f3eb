"""Equipment of one voltage on another, wherever that comes from; and what sources are set to, whatever the scenario."""

import random

import pytest

from jaunty_copper.codes.checks import Verdict
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Charger, Converter, CurrentLoad, Fuse, PowerLoad, Zone
from tests.build import bar, fused, judge, wire
from tests.networks import network


def found(solved, rule):
    return [f for f in judge(solved) if f.rule.id == rule]


def behind_a_converter(set_v, load_v):
    """A load on bars that a converter alone feeds."""
    return edits.add(
        fused(), bar("P2", 3), bar("M2", 3), Fuse(id="F5", family="blade-fuse", rating_a=20.0),
        Converter(id="C", nominal_v=12.0, out_nominal_v=24.0, set_v=set_v, current_a=5.0),
        PowerLoad(id="X", nominal_v=load_v, power_w=20.0),
        wire("X1", "P.s4", "F5.a", 0.1, "mm2-6"), wire("X2", "F5.b", "C.in_plus", 1.0, "mm2-6"),
        wire("X3", "C.in_minus", "M.s4", 1.0, "mm2-6"), wire("X4", "C.out_plus", "P2.s1", 0.3), wire("X5", "C.out_minus", "M2.s1", 0.3),
        wire("X6", "P2.s2", "X.plus"), wire("X7", "X.minus", "M2.s2"),
    )  # fmt: skip


def test_equipment_on_a_converter_of_another_voltage():
    (f,) = found(study(behind_a_converter(25.0, 12.0)), "wrong_voltage")
    assert (f.place, f.verdict, f.figure, f.limit) == ("X", Verdict.DANGER, 25.0, 12.0)
    assert not found(study(behind_a_converter(25.0, 24.0)), "wrong_voltage")
    # Of its own voltage, but set too high.
    assert found(study(behind_a_converter(31.0, 24.0)), "wrong_voltage")


def test_what_a_source_is_set_to_counts_though_no_scenario_comes_so_far():
    def charged(**voltages):
        return edits.add(
            fused(volts=48.0), Charger(id="G", nominal_v=48.0, current_a=15.0, **voltages), wire("X1", "P.s4", "G.plus", 2.0, "mm2-6"),
            wire("X2", "G.minus", "M.s4", 2.0, "mm2-6"),
        )  # fmt: skip

    low = study(charged(set_v=62.0))
    assert float(low.across_v.max()) < 60.0
    (f,) = found(low, "above_60_v")
    assert (f.place, f.figure) == ("G", 62.0)
    assert not found(study(charged(set_v=57.6)), "above_60_v")
    assert found(study(charged(set_v=57.6, float_v=60.5)), "above_60_v")
    # A probe 45 K below 25 °C at 72 mV/K asks for 3.24 V more.
    cold = edits.change(
        edits.add(charged(set_v=57.6, compensation_mv_k=-72.0), Zone(id="z", ambient_c=25.0)), "G", zone="z"
    )
    assert not found(study(cold), "above_60_v")
    (f,) = found(study(edits.change(cold, "s", ambient_c={"z": -20.0})), "above_60_v")
    assert f.figure == pytest.approx(57.6 + 3.24)


def test_a_converter_charges_a_bank_as_a_charger_does():
    plan = fused()
    plan = edits.add(
        plan, plan.by_id["B"].model_copy(update={"id": "B2", "capacity_ah": 20.0}), bar("P2", 3), bar("M2", 3),
        Converter(id="C", nominal_v=12.0, out_nominal_v=12.0, set_v=14.2, current_a=30.0),
        wire("X1", "P.s4", "C.in_plus", 1.0, "mm2-10"), wire("X2", "C.in_minus", "M.s4", 1.0, "mm2-10"),
        wire("X3", "C.out_plus", "P2.s1", 0.3, "mm2-10"), wire("X4", "C.out_minus", "M2.s1", 0.3, "mm2-10"),
        wire("X5", "P2.s2", "B2.plus", 0.3, "mm2-10"), wire("X6", "B2.minus", "M2.s2", 0.3, "mm2-10"),
    )  # fmt: skip
    (f,) = found(study(plan), "charge_rate")
    assert (f.place, f.figure) == ("B2", 30.0)
    assert not found(study(edits.change(plan, "C", current_a=4.0)), "charge_rate")


@pytest.mark.parametrize("seed", range(60))
def test_whatever_gets_far_more_or_less_than_it_is_made_for_is_told(seed):
    """By the voltage that the network solved has at each load, whatever feeds it there."""
    plan, r = network(seed), random.Random(seed)
    for e in plan.equipment:
        if isinstance(e, CurrentLoad):
            # Next to nothing, so that nothing is lost on the way.
            nominal = r.choice((6.0, 12.0, 24.0, 48.0)) if r.random() < 0.5 else e.nominal_v
            plan = edits.change(plan, e.id, nominal_v=nominal, current_a=0.01)
    solved = study(plan)
    state, told = solved.states[0], {f.place for f in found(solved, "wrong_voltage")}
    if not state.solved:
        return
    for e in plan.equipment:
        volts, amps = state.port(e)
        if isinstance(e, CurrentLoad) and amps > 0.0:
            if not 0.7 <= volts / e.nominal_v <= 1.4:
                assert e.id in told
            if 0.9 <= volts / e.nominal_v <= 1.15:
                assert e.id not in told
