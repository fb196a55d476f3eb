"""Fault currents of plans, against hand calculation by IEC 61660-1."""

import os
import subprocess
import sys

import numpy as np
import pytest

from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Charger, Converter, Fuse, Plan, PowerLoad, Run
from jaunty_copper.protection.contributions import contributions
from jaunty_copper.protection.fault_network import branches_of, ends_of
from jaunty_copper.protection.faults import faults_of
from tests.build import bar, battery, fused, loop, ohms
from tests.networks import network


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
        parts = contributions(f, ref)
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


def direct(w, ohm, emf, first, second, fault_ohm=1e-3):
    """One fault, solved with the fault as a branch like any other, by least squares."""
    c = w.circuit
    a, b = (np.append(ends, node) for ends, node in zip(ends_of(w), (first, second), strict=True))
    g = 1.0 / np.array([*ohm, fault_ohm])
    e = np.array([*emf, 0.0])
    y, push = np.zeros((c.nodes, c.nodes)), np.zeros(c.nodes)
    for k in range(a.size):
        y[a[k], a[k]] += g[k]
        y[b[k], b[k]] += g[k]
        y[a[k], b[k]] -= g[k]
        y[b[k], a[k]] -= g[k]
        push[a[k]] -= g[k] * e[k]
        push[b[k]] += g[k] * e[k]
    v = np.linalg.lstsq(y, push, rcond=1e-14)[0]
    return g * (v[a] - v[b] + e)


@pytest.mark.parametrize("name", names())
@pytest.mark.parametrize("case", ["peak", "steady", "least"])
def test_every_terminal_of_every_example_agrees_with_a_direct_solve(name, case):
    w = wire(example(name))
    f = faults_of(w)
    found = branches_of(w, case)
    ohm, emf = found.ohm, found.emf_v
    got = f.network.solve(ohm, emf, 1e-3)
    rows = [w.branch[d] for d in (*f.devices, *f.switches)]
    for k in range(len(f.places.refs)):
        flow = direct(w, ohm, emf, f.places.first[k], f.places.second[k])
        assert got.current_a[k] == pytest.approx(flow[-1], rel=1e-9, abs=1e-5)
        np.testing.assert_allclose(got.branch_a.dense()[:, k], flow[rows], rtol=1e-8, atol=1e-4)


def test_faults_to_the_chassis_are_looked_at_where_there_is_one():
    f = faults_of(wire(example("relay_mast")))
    to_mast = [ref for ref, to in f.places.refs if to.startswith("MAST")]
    assert {"N48.s1", "F2.b", "B1.minus"} <= set(to_mast)
    # The plus pole is the chassis: a fault of it to the chassis is none.
    assert "G48.s1" not in to_mast
    k = f.places.refs.index(("N48.s1", "MAST."))
    assert 0.8 < abs(f.peak.current_a[k] / f.peak.current_a[f.at["N48.s1"]]) < 1.1


def test_a_longer_conductor_weakens_the_fault_behind_it_only():
    plan = example("orchard_station")
    near, far = faults_of(wire(plan)), faults_of(wire(edits.change(plan, "W62", length_m=22.0)))
    assert abs(far.peak.current_a[far.at["PUMP.plus"]]) < abs(near.peak.current_a[near.at["PUMP.plus"]])
    assert far.peak.current_a[far.at["INV.plus"]] == pytest.approx(near.peak.current_a[near.at["INV.plus"]], rel=1e-12)


def test_old_cold_warm_and_corroded_make_the_least():
    plan = loop()
    base = faults_of(wire(plan)).least.current_a[0]
    assert base < faults_of(wire(plan)).steady.current_a[0]
    copper = edits.change(plan, "out", measured_ohm=None, length_m=10.0)
    f = faults_of(wire(copper))
    k = f.at["E.plus"]
    # 10 m of 10 mm2 at its insulation's limit instead of 20 C, two joints at 200 microhm instead of 40.
    # And pure copper instead of the most that its standard lets a conductor have.
    size, pure = wire(copper).parts.conductors["mm2-10"].r_ohm_per_km / 100.0, 10.0 * 17.241e-9 / 10e-6
    cold, hot = pure + 80e-6, size * (1 + 0.00393 * (105 - 20)) + 400e-6
    assert f.peak.ohm[k] == pytest.approx(0.009 + 0.020 + cold, rel=1e-9)
    assert f.least.ohm[k] == pytest.approx(0.017 + 0.020 + hot, rel=1e-3)


def test_places_do_not_depend_on_the_order_of_sets():
    code = (
        "from jaunty_copper.network.wiring import wire; from jaunty_copper.plan.examples import example;"
        "from jaunty_copper.protection.places import places_of; print(places_of(wire(example('orchard_station'))).refs)"
    )
    told = {
        subprocess.run(
            [sys.executable, "-c", code],
            env={**os.environ, "PYTHONHASHSEED": seed},
            capture_output=True,
            text=True,
            check=True,
        ).stdout
        for seed in ("1", "2", "3")
    }
    assert len(told) == 1


def test_a_feeder_far_away_returns_by_its_own_conductor_and_a_bar_beside_the_bank_gives_most():
    plan = fused(length=3.0)
    f = faults_of(wire(plan))
    # At the load's end: out and back by the circuit's own conductors.
    assert f.places.refs[f.at["E.plus"]][1] == "E.minus"
    # The fuse stands by the bar: its return is where the circuit's lands.
    assert {f.places.refs[k][1] for k in f.places.columns["F1.b"]} == {"M.s2"}
    # A stud has beside it the return of what leaves there; a free one that of its bar.
    assert {f.places.refs[k][1] for k in f.places.columns["P.s2"]} == {"M.s2"}
    assert all(f.places.refs[k][1].startswith("M.") for k in f.places.columns["P.s4"])
    # The main fuse stands by the post.
    assert {f.places.refs[k][1] for k in f.places.columns["F0.a"]} == {"B.minus"}
    assert f.most_a("F1.b") > f.most_a("E.plus") > f.least_a("E.plus") > 0.0
    assert f.least_a("F1.b") < f.most_a("F1.b")


def test_a_data_sheets_current_bounds_the_least_too():
    plan = edits.change(loop(), "B", short_circuit_a=1000.0)
    f = faults_of(wire(plan))
    assert f.least_a("B.plus") < 1000.0 / 1.7
    assert f.least_a("B.plus") == pytest.approx(6 * 1.955 / (1.7 * 12.84 / 1000.0 / 0.9), rel=1e-9)


def test_what_charges_a_bank_lifts_its_greatest_fault():
    rest = faults_of(wire(fused())).most_a("F0.a")
    charger = Charger(id="C", set_v=14.4, current_a=0.001)
    plan = edits.add(fused(), charger, Run(id="c", a="P.s4", b="C.plus", length_m=1.0, conductor="mm2-6"))
    plan = edits.add(plan, Run(id="d", a="C.minus", b="M.s4", length_m=1.0, conductor="mm2-6"))
    assert faults_of(wire(plan)).most_a("F0.a") == pytest.approx(rest * 14.4 / 12.84, rel=1e-3)


# Devices beside one another


def beside(both=True):
    """A bank that feeds a bar through one fuse, or through two beside one another."""
    second = ("F1", "F2")[: 1 + both]
    return Plan(
        items=(
            battery("B"), bar("S", 6), bar("P", 6), bar("M", 4),
            *(Fuse(id=id_, family="blade-fuse", rating_a=30.0) for id_ in second),
        ),
        equipment=(PowerLoad(id="E", power_w=60.0),),
        runs=(
            ohms("u", "B.plus", "S.s1", 0.001), ohms("m", "B.minus", "M.s1", 0.001),
            *(run for k, id_ in enumerate(second) for run in (
                ohms(f"a{id_}", f"S.s{k + 2}", f"{id_}.a", 0.002), ohms(f"b{id_}", f"{id_}.b", f"P.s{k + 1}", 0.002)
            )),
            ohms("e", "P.s4", "E.plus", 0.01), ohms("r", "E.minus", "M.s3", 0.01),
        ),
    )  # fmt: skip


def test_a_fuse_beside_another_must_interrupt_what_flows_once_the_other_has_opened():
    two, one = (faults_of(wire(beside(both))) for both in (True, False))
    assert two.prospective("F1")[0] == pytest.approx(one.prospective("F1")[0], rel=1e-6)
    # With both in place the other way takes its share of a fault right behind it.
    column = two.places.columns["F1.b"][0]
    shared = abs(two.peak.prospective_a(np.array([two.row["F1"]]), np.array([column]))[0])
    assert shared < 0.93 * two.prospective("F1")[0]


@pytest.mark.parametrize("seed", range(25))
def test_what_comes_without_a_device_is_what_the_plan_without_it_gives(seed):
    """By one change of rank one, and by solving the network anew with the device open."""
    f = faults_of(wire(network(seed)))
    looked_at = 0
    for device, row in f.row.items():
        columns = np.array(
            [k for end in ("a", "b") for k in f.places.columns.get(f"{device}.{end}", ())], dtype=np.int64
        )
        unaided = f.peak.unaided_a(np.full(columns.size, row), columns)
        open_a = f.without(device).current_a[columns]
        round_ = unaided != 0.0
        looked_at += int(round_.sum())
        assert unaided[round_] == pytest.approx(open_a[round_], rel=1e-4, abs=1e-3)
        assert (f.prospective(device)[0] >= np.abs(unaided) * (1.0 - 1e-9)).all()
    assert looked_at or not any(f.peak.solved.is_round[: len(f.row)])
