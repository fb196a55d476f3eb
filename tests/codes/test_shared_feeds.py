"""What comes through devices while voltages sag, while banks are low, at starts: by each of several the share that it carries."""

import random
from functools import lru_cache

import numpy as np
import pytest

from jaunty_copper.codes.carried import normal
from jaunty_copper.codes.case import Case
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Charger, Converter, CurrentLoad, Fuse, PowerLoad, Source
from jaunty_copper.protection.protection import Protection
from tests.build import bar, battery, fused, judge, wire
from tests.networks import network


def side_by_side(surge_w=2700.0, rating=40.0):
    """Two units on one bar, each behind a fuse of its own, and one load that starts."""
    plan = fused(power=500.0, conductor="mm2-120", rating=300.0, family="class-t-fuse")
    plan = edits.change(edits.change(plan, "E", surge_w=surge_w, surge_s=5.0, min_v=10.0), "F0", rating_a=rating)
    plan = edits.change(plan, "B", internal_ohm=0.001, capacity_ah=400.0)
    for run in ("W1", "W2", "W3"):
        plan = edits.change(plan, run, conductor="mm2-120")
    calm = plan.scenarios[0].model_copy(update={"id": "calm"})
    plan = edits.add(edits.change(plan, "s", states={"E": "surge"}), calm)
    return edits.add(
        plan, plan.by_id["B"].model_copy(update={"id": "B2"}), Fuse(id="F9", family="class-t-fuse", rating_a=rating),
        wire("X1", "B2.plus", "F9.a", 0.15, "mm2-120"), wire("X2", "F9.b", "P.s4", 0.5, "mm2-120"),
        wire("X3", "B2.minus", "M.s4", 0.6, "mm2-120"),
    )  # fmt: skip


def told(plan, rule):
    return {f.place for f in judge(study(plan)) if f.rule.id == rule}


def test_a_start_that_two_fuses_share_opens_them():
    plan = side_by_side()
    amps = abs(study(plan).state("s").current("F0"))
    # Half of 246 A; the band of 40 A opens then before the start is over.
    assert amps == pytest.approx(118.0, abs=2.0)
    assert told(plan, "surge_opens") == {"F0", "F9"}
    assert not told(side_by_side(rating=100.0), "surge_opens")


def test_of_what_draws_more_as_the_voltage_sags_each_of_two_fuses_carries_its_share():
    plan = side_by_side()
    solved = study(plan)
    calm = solved.state("calm")
    (volts, amps), case = calm.port(plan.by_id["E"]), Case(Protection(solved))
    both = [normal(case, id_).amps for id_ in ("F0", "F9")]
    # 500 W at 10 V are 50 A.
    assert sum(both) == pytest.approx(amps * volts / 10.0, rel=0.01)
    assert sum(both) == pytest.approx(50.0, rel=0.01)


def drawn(seed):
    """A network without converters in which some loads keep their power up, down to a voltage, and one starts."""
    plan, r = network(seed), random.Random(seed)
    if any(isinstance(e, Converter) for e in plan.equipment):
        return None
    for e in plan.equipment:
        if isinstance(e, CurrentLoad) and r.random() < 0.7:
            load = PowerLoad(
                id=e.id, nominal_v=e.nominal_v, power_w=e.current_a * e.nominal_v, surge_w=8.0 * e.current_a * e.nominal_v,
                surge_s=r.choice((0.5, 3.0, 20.0)), min_v=round(0.8 * e.nominal_v, 1),
            )  # fmt: skip
            plan = plan.model_copy(update={"equipment": tuple(load if x.id == e.id else x for x in plan.equipment)})
    return plan


NETWORKS = [plan for seed in range(150) if (plan := drawn(seed)) is not None]
FED = [p for p in NETWORKS if not any(isinstance(e, Source) for e in p.equipment)]
CHARGED = [
    plan for plan in map(network, range(400))
    if {type(e) for e in plan.equipment} == {Charger, CurrentLoad}
]  # fmt: skip


def test_there_are_networks_to_try():
    assert min(len(NETWORKS), len(FED), len(CHARGED)) >= 30


def test_a_fuse_that_carries_all_of_a_charger_only_once_the_bank_is_low():
    plan = edits.change(fused(), "B", internal_ohm=0.03, capacity_ah=400.0)
    plan = edits.add(
        edits.change(plan, "s", soc_percent=99.0), Charger(id="G", nominal_v=12.0, set_v=13.0, current_a=30.0),
        Fuse(id="F5", family="blade-fuse", rating_a=15.0), wire("X1", "P.s4", "F5.a", 0.1, "mm2-6"),
        wire("X2", "F5.b", "G.plus", 2.0, "mm2-6"), wire("X3", "G.minus", "M.s4", 2.0, "mm2-6"),
    )  # fmt: skip
    assert abs(study(plan).state("s").current("F5")) < 10.0
    (f,) = [f for f in judge(study(plan)) if (f.rule.id, f.place) == ("device_too_small", "F5")]
    assert f.figure == pytest.approx(30.0)
    assert "once the bank is low" in f.headline
    assert not told(edits.change(plan, "F5", rating_a=40.0), "device_too_small")


@lru_cache
def once_low(n):
    """A network as it is with its bank full, and solved with chargers that no voltage holds back; None where either cannot be."""
    full = edits.change(CHARGED[n], "s", soc_percent=98.0)
    other = full
    for e in full.equipment:
        if isinstance(e, Charger):
            other = edits.change(other, e.id, set_v=2.0 * e.nominal_v)
    case, (low,) = Case(Protection(study(full))), study(other).states
    return (case, low) if case.study.states[0].solved and low.solved else None


@lru_cache
def sagging(n):
    """A network as it is, and solved with what each load draws at its lowest voltage as a constant current; None where either cannot be."""
    plan, loads = FED[n], [e for e in FED[n].equipment if isinstance(e, PowerLoad)]
    lowest = tuple(
        CurrentLoad(id=e.id, nominal_v=e.nominal_v, current_a=e.power_w / e.min_v) if e in loads else e
        for e in plan.equipment
    )
    case, (low,) = Case(Protection(study(plan))), study(plan.model_copy(update={"equipment": lowest})).states
    now = case.study.states[0]
    # What a scenario cannot give at that voltage is not asked for.
    able = now.solved and low.solved and all(now.port(e)[0] > e.min_v for e in loads)
    return (case, low) if able and loads else None


def test_most_networks_can_be_tried():
    assert sum(once_low(n) is not None for n in range(30)) >= 25
    assert sum(sagging(n) is not None for n in range(30)) >= 20


@pytest.mark.parametrize("n", range(30))
def test_what_each_device_carries_once_banks_are_low_is_what_chargers_drive_that_give_all_they_can(n):
    for case, low in filter(None, [once_low(n)]):
        for id_, device in case.protection.devices.items():
            assert normal(case, id_).amps >= 0.97 * abs(float(low.point.current_a[device.branch])) - 0.05, id_


@pytest.mark.parametrize("n", range(30))
def test_what_each_device_carries_at_the_lowest_voltage_is_what_constant_currents_drive(n):
    for case, low in filter(None, [sagging(n)]):
        for id_, device in case.protection.devices.items():
            want, most = abs(float(low.point.current_a[device.branch])), normal(case, id_).amps
            assert most >= 0.97 * want - 0.05, id_
            assert most <= max(1.03 * want, case.study.continuous_a[device.branch]) + 0.05, id_


def test_a_converter_between_banks_takes_all_it_can_give_at_the_lowest_voltage_of_its_input():
    plan = edits.change(fused(), "B", internal_ohm=0.003, capacity_ah=400.0)
    plan = edits.add(
        edits.change(plan, "s", soc_percent=99.0), battery("B2", ohm=0.03), bar("P2", 3), bar("M2", 3),
        Converter(id="C", nominal_v=12.0, out_nominal_v=12.0, set_v=13.0, current_a=30.0, min_v=10.0, efficiency=0.9),
        Fuse(id="F5", family="class-t-fuse", rating_a=30.0), Fuse(id="F6", family="class-t-fuse", rating_a=30.0),
        wire("X1", "P.s4", "F5.a", 0.1, "mm2-16"), wire("X2", "F5.b", "C.in_plus", 0.2, "mm2-16"),
        wire("X3", "C.in_minus", "M.s4", 0.2, "mm2-16"), wire("X4", "C.out_plus", "F6.a", 0.2, "mm2-16"),
        wire("X5", "C.out_minus", "M2.s1", 0.2, "mm2-16"), wire("X6", "F6.b", "P2.s1", 0.2, "mm2-16"),
        wire("X7", "P2.s2", "B2.plus", 0.2, "mm2-16"), wire("X8", "B2.minus", "M2.s2", 0.2, "mm2-16"),
    )  # fmt: skip
    case = Case(Protection(study(plan)))
    now = case.study.states[0]
    assert now.output(plan.by_id["C"])[1] < 15.0
    assert normal(case, "F6").amps == pytest.approx(30.0, rel=1e-6)
    # 30 A at what it holds, over 90 % of 10 V.
    assert normal(case, "F5").amps == pytest.approx(30.0 * now.output(plan.by_id["C"])[0] / 9.0, rel=1e-6)


@pytest.mark.parametrize("n", range(30))
def test_no_device_opens_at_a_start_that_is_not_told(n):
    """Each start by itself: what it makes a device carry, by the study with it and without, against its band."""
    for e in (e for e in NETWORKS[n].equipment if isinstance(e, PowerLoad)):
        plan = edits.change(NETWORKS[n], "s", states={e.id: "surge"})
        plan = edits.add(plan, plan.scenarios[0].model_copy(update={"id": "calm", "states": {}}))
        solved = study(plan)
        starts, calm = solved.state("s"), solved.state("calm")
        if not starts.solved or not calm.solved:
            continue
        found = told(plan, "surge_opens")
        for id_, device in Protection(solved).devices.items():
            amps, before = (abs(float(s.point.current_a[device.branch])) for s in (starts, calm))
            opens = float(device.shortest(np.array(amps))) <= e.surge_s
            if opens and amps > before + 0.05 * abs(starts.port(e)[1]):
                assert id_ in found
