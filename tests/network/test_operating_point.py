"""The solver against closed forms, an independent solver, and the laws it must obey."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import fsolve

from jaunty_copper.network.demand import duty_of
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire as compiled
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import (
    Alternator,
    Charger,
    Chassis,
    ChassisPoint,
    Converter,
    CurrentLoad,
    Disconnect,
    Plan,
    PowerLoad,
    ResistiveLoad,
    Scenario,
    SolarController,
)
from tests.build import agm_emf, bar, battery, loop, ohms, wire


def only(plan):
    (state,) = study(plan).states
    return state


# Closed forms


def test_constant_power_takes_the_upper_root():
    e, r, p = agm_emf(50), 0.05, 300.0
    state = only(loop(PowerLoad(id="E", power_w=p), 0.02, 0.02, 0.01))
    v = (e + np.sqrt(e * e - 4 * r * p)) / 2
    assert state.port(state.wiring.plan.equipment[0]) == pytest.approx((v, p / v), rel=1e-10)


def test_constant_current_and_resistance():
    e = agm_emf(50)
    state = only(loop(CurrentLoad(id="E", current_a=20.0)))
    assert state.port(state.wiring.plan.equipment[0]) == pytest.approx((e - 20 * 0.05, 20.0), rel=1e-10)
    state = only(loop(ResistiveLoad(id="E", power_w=144.0, nominal_v=12.0)))
    assert state.port(state.wiring.plan.equipment[0])[1] == pytest.approx(e / (1.0 + 0.05), rel=1e-10)


def test_a_power_that_cannot_be_delivered_is_a_collapse_with_the_most_there_is():
    e, r = agm_emf(50), 0.05
    most = e * e / (4 * r)
    state = only(loop(PowerLoad(id="E", power_w=most * 1.001)))
    assert not state.solved
    why = state.point.collapse
    assert why.deliverable_w == pytest.approx(most, rel=1e-3)
    assert why.load == 0
    assert not why.jointly
    assert np.isnan(state.point.current_a).all()
    assert only(loop(PowerLoad(id="E", power_w=most * 0.999))).solved


def test_collapse_names_the_load_that_gives_way():
    plan = loop(PowerLoad(id="E", power_w=50.0))
    plan = edits.add(
        plan,
        PowerLoad(id="X", power_w=400.0),
        ohms("x1", "B.plus", "X.plus", 0.1),
        ohms("x2", "X.minus", "B.minus", 0.1),
    )
    state = only(plan)
    assert state.wiring.loads[state.point.collapse.load].id == "X"
    assert state.wiring.branches[state.point.collapse.branch].owner in ("x1", "x2")


def charger_plan(kind=Charger, sense=False, soc=50.0, share="on", **more):
    values = {"set_v": 14.4, "current_a": 30.0, **more}
    if sense:
        values |= {"sense_plus": "B.plus", "sense_minus": "B.minus"}
    return loop(kind(id="E", **values), soc=soc, states={"E": share})


def test_a_charger_far_from_its_set_point_gives_all_its_current():
    state = only(charger_plan())
    assert state.current("B") == pytest.approx(-30.0)
    assert state.mode(state.wiring.plan.equipment[0]) == "gives all its current"


def test_a_charger_with_local_sense_ends_its_charge_early_one_with_remote_sense_does_not():
    e = agm_emf(100)
    local, remote = (
        only(charger_plan(soc=100, current_a=80.0)),
        only(charger_plan(soc=100, sense=True, current_a=200.0)),
    )
    assert local.current("B") == pytest.approx(-(14.4 - e) / 0.05, rel=1e-7)
    assert remote.current("B") == pytest.approx(-(14.4 - e) / 0.01, rel=1e-7)
    assert remote.volts("B.plus") - remote.volts("B.minus") == pytest.approx(14.4, abs=1e-6)


def test_a_charger_below_the_battery_gives_nothing():
    state = only(charger_plan(set_v=12.0, soc=100))
    assert state.current("B") == pytest.approx(0.0, abs=1e-9)
    assert state.mode(state.wiring.plan.equipment[0]) == "gives nothing"


def test_a_solar_controller_is_limited_by_power():
    state = only(charger_plan(SolarController, power_w=200.0, current_a=60.0))
    v, i = state.port(state.wiring.plan.equipment[0])
    assert -v * i == pytest.approx(200.0, rel=1e-10)
    assert state.mode(state.wiring.plan.equipment[0]) == "gives all its power"


def test_a_share_scales_a_source():
    assert only(charger_plan(Alternator, share=0.5)).current("B") == pytest.approx(-15.0)


def test_an_isolated_converter_couples_power_and_not_potential():
    plan = loop(Converter(id="E", set_v=5.0, out_nominal_v=5.0, current_a=20.0, efficiency=0.8, idle_w=1.0))
    plan = plan.model_copy(update={"runs": ()})
    plan = edits.add(
        plan, ohms("i1", "B.plus", "E.in_plus", 0.02), ohms("i2", "E.in_minus", "B.minus", 0.02),
        CurrentLoad(id="L", current_a=4.0), ohms("o1", "E.out_plus", "L.plus", 0.05), ohms("o2", "L.minus", "E.out_minus", 0.05),
    )  # fmt: skip
    state = only(plan)
    v, i = state.port(plan.equipment[0])
    assert state.output(plan.equipment[0]) == pytest.approx((5.0, 4.0), rel=1e-8)
    assert v * i == pytest.approx(5.0 * 4.0 / 0.8 + 1.0, rel=1e-9)
    assert state.port(plan.equipment[1])[0] == pytest.approx(5.0 - 0.4, rel=1e-8)


def test_a_converter_above_its_limit_gives_way():
    plan = loop(Converter(id="E", set_v=12.0, out_nominal_v=12.0, current_a=5.0, efficiency=0.9))
    plan = edits.add(
        plan.model_copy(update={"runs": ()}),
        ohms("i1", "B.plus", "E.in_plus", 0.02), ohms("i2", "E.in_minus", "B.minus", 0.02),
        ResistiveLoad(id="L", power_w=144.0), ohms("o1", "E.out_plus", "L.plus", 0.001), ohms("o2", "L.minus", "E.out_minus", 0.001),
    )  # fmt: skip
    state = only(plan)
    assert state.output(plan.equipment[0])[1] == pytest.approx(5.0)
    assert state.output(plan.equipment[0])[0] == pytest.approx(5.0 * 1.002, rel=1e-6)


def test_a_starved_converter_stops_and_says_at_what():
    plan = loop(Converter(id="E", set_v=5.0, current_a=100.0, min_v=11.5), out=0.2, back=0.2)
    plan = edits.add(
        plan.model_copy(update={"runs": ()}),
        ohms("i1", "B.plus", "E.in_plus", 0.2), ohms("i2", "E.in_minus", "B.minus", 0.2),
        CurrentLoad(id="L", current_a=10.0), ohms("o1", "E.out_plus", "L.plus", 0.001), ohms("o2", "L.minus", "E.out_minus", 0.001),
    )  # fmt: skip
    state = only(plan)
    assert state.solved
    assert state.output(plan.equipment[0])[1] == 0.0
    assert state.point.starved_v[0] < 11.5
    assert state.mode(plan.equipment[1]) == "is not fed"


def test_two_chargers_on_one_place_the_higher_holds_it():
    plan = charger_plan(soc=100, current_a=80.0, set_v=14.0)
    plan = edits.add(
        plan,
        Charger(id="X", set_v=14.4, current_a=80.0),
        ohms("x1", "B.plus", "X.plus", 0.02),
        ohms("x2", "X.minus", "B.minus", 0.02),
    )
    state = only(plan)
    assert state.port(plan.equipment[0])[1] == pytest.approx(0.0, abs=1e-9) or state.volts("E.plus") - state.volts(
        "E.minus"
    ) == pytest.approx(14.0, abs=1e-6)
    assert state.volts("X.plus") - state.volts("X.minus") == pytest.approx(14.4, abs=1e-6)


def test_equal_chargers_that_sense_one_place_share_alike():
    plan = edits.add(
        charger_plan(soc=100, sense=True, current_a=200.0),
        Charger(id="X", set_v=14.4, current_a=200.0, sense_plus="B.plus", sense_minus="B.minus"),
        ohms("x1", "B.plus", "X.plus", 0.01), ohms("x2", "X.minus", "B.minus", 0.05),
    )  # fmt: skip
    state = only(plan)
    shares = [state.port(e)[1] for e in plan.equipment]
    assert shares[0] == pytest.approx(shares[1], rel=1e-4)
    assert sum(shares) == pytest.approx(-(14.4 - agm_emf(100)) / 0.01, rel=1e-6)


# Topology


def test_a_bar_fed_in_the_middle_halves_its_worst_segment():
    def plan(feed):
        loads = tuple(CurrentLoad(id=f"E{k}", current_a=10.0) for k in range(1, 5))
        order = [f"s{k}" for k in range(1, 6)]
        order.remove(feed)
        return Plan(
            items=(battery(), bar("P", 5), bar("M", 5)),
            equipment=loads,
            runs=(
                ohms("feed", "B.plus", f"P.{feed}", 0.001),
                ohms("back", f"M.{feed}", "B.minus", 0.001),
                *(ohms(f"p{k}", f"P.{s}", f"E{k}.plus", 0.01) for k, s in enumerate(order, 1)),
                *(ohms(f"m{k}", f"E{k}.minus", f"M.{s}", 0.01) for k, s in enumerate(order, 1)),
            ),
        )

    def worst(feed):
        state = only(plan(feed))
        return max(abs(state.point.current_a[k]) for k in state.wiring.segments["P"])

    assert worst("s1") == pytest.approx(40.0)
    assert worst("s3") == pytest.approx(20.0)


def test_doubled_cables_and_rings_share_by_conductance():
    plan = loop(CurrentLoad(id="E", current_a=30.0), out=0.02)
    plan = edits.add(plan, ohms("twin", "B.plus", "E.plus", 0.04))
    state = only(plan)
    assert state.current("out") == pytest.approx(20.0)
    assert state.current("twin") == pytest.approx(10.0)


def test_parallel_conductors_of_one_run_halve_its_resistance():
    def drop(count):
        plan = loop(CurrentLoad(id="E", current_a=5.0))
        plan = plan.model_copy(update={"runs": (wire("out", "B.plus", "E.plus", 4.0, parallel=count), plan.runs[1])})
        return only(plan).drop("out")

    assert drop(2) == pytest.approx(drop(1) / 2, rel=2e-3)


def test_chassis_return_has_its_resistance_and_is_zero_volts():
    chassis = Chassis(id="H", points=(ChassisPoint(id="p1", ohm=0.003), ChassisPoint(id="p2", ohm=0.004)))
    plan = loop(CurrentLoad(id="E", current_a=10.0))
    plan = plan.model_copy(update={"items": (*plan.items, chassis), "runs": plan.runs[:1]})
    plan = edits.add(plan, ohms("e", "E.minus", "H.p1", 0.001), ohms("b", "H.p2", "B.minus", 0.001))
    state = only(plan)
    assert state.volts("H.p1") == pytest.approx(0.03)
    assert state.volts("H.p2") == pytest.approx(-0.04)


def test_a_grounded_plus_puts_the_minus_below_zero():
    chassis = Chassis(id="H", points=(ChassisPoint(id="p1"),))
    plan = edits.add(loop(), chassis, ohms("bond", "B.plus", "H.p1", 0.001))
    state = only(plan)
    assert state.volts("B.plus") == pytest.approx(0.0, abs=1e-9)
    assert state.volts("B.minus") < -12.0


def test_an_open_switch_cuts_off_what_is_behind_it():
    plan = edits.insert_inline(loop(), "out", Disconnect(id="Q", rating_a=100.0))
    plan = edits.set_state(plan, "s", "Q", "open")
    state = only(plan)
    assert state.point.unfed[0]
    assert state.current("B") == pytest.approx(0.0, abs=1e-12)


def test_swapped_poles_are_told():
    plan = loop()
    runs = (ohms("out", "B.plus", "E.minus", 0.02), ohms("back", "E.plus", "B.minus", 0.02))
    assert only(plan.model_copy(update={"runs": runs})).point.reversed_[0]


def test_a_load_between_two_separate_sources_has_no_return():
    plan = Plan(
        items=(battery("A"), battery("B")),
        equipment=(PowerLoad(id="E", power_w=10.0),),
        runs=(ohms("out", "A.plus", "E.plus", 0.02), ohms("back", "E.minus", "B.minus", 0.02)),
    )
    assert only(plan).point.no_return[0]


def test_a_shorted_and_a_contradicted_battery_are_torn():
    shorted = edits.add(loop(), ohms("short", "B.plus", "B.minus", 0.001))
    assert only(shorted).point.torn
    other = edits.add(
        loop(), battery("C", 24.0), ohms("c1", "B.plus", "C.plus", 0.01), ohms("c2", "C.minus", "B.minus", 0.01)
    )
    state = only(other)
    assert state.point.torn
    assert state.current("C") > 100.0


def test_an_empty_plan_and_a_lone_battery_have_a_state():
    assert study(Plan()).states[0].solved
    assert only(Plan(items=(battery(),))).current("B") == 0.0


# Laws


@settings(max_examples=40)
@given(st.data())
def test_kirchhoff_holds_node_by_node_on_any_mesh(data):
    count = data.draw(st.integers(3, 8))
    ends = st.integers(0, count - 1)
    extra = data.draw(st.lists(st.tuples(ends, ends), max_size=10))
    ohm = st.floats(1e-4, 0.1)
    pairs = [(k, k + 1) for k in range(count - 1)] + [(a, b) for a, b in extra if a != b]
    runs = [ohms(f"w{k}", f"P.s{a + 1}", f"P.s{b + 1}", data.draw(ohm)) for k, (a, b) in enumerate(pairs)]
    loads = [PowerLoad(id=f"E{k}", power_w=data.draw(st.floats(0.1, 40.0))) for k in range(count)]
    plan = Plan(
        items=(battery(), bar("P", count), bar("M", count)),
        equipment=tuple(loads),
        runs=(
            *runs, ohms("feed", "B.plus", "P.s1", 0.001), ohms("back", "M.s1", "B.minus", 0.001),
            *(ohms(f"p{k}", f"P.s{k + 1}", f"E{k}.plus", 0.01) for k in range(count)),
            *(ohms(f"m{k}", f"E{k}.minus", f"M.s{k + 1}", 0.01) for k in range(count)),
        ),
    )  # fmt: skip
    state = only(plan)
    assert state.solved
    assert state.point.residual < 1e-9
    c, p = state.wiring.circuit, state.point
    balance = np.zeros(c.nodes)
    for a, b, i in ((c.a, c.b, p.current_a), (c.load_plus, c.load_minus, p.load_a)):
        np.add.at(balance, a, i)
        np.add.at(balance, b, -i)
    assert np.abs(balance).max() < 1e-9 * np.abs(p.current_a).max()
    power = (p.current_a[c.is_battery] * agm_emf(80)).sum()
    lost = (p.current_a**2 * p.ohm).sum()
    assert power == pytest.approx(lost + (p.load_a * p.load_v).sum(), rel=1e-9)


def linear(current_at, amps):
    plan = loop(CurrentLoad(id="E", current_a=1.0))
    items = (battery(), bar("P", 4), bar("M", 4))
    loads = tuple(CurrentLoad(id=f"E{k}", current_a=a) for k, a in zip(current_at, amps, strict=True))
    runs = [ohms("feed", "B.plus", "P.s1", 0.002), ohms("back", "M.s1", "B.minus", 0.003)]
    for k in (2, 3, 4):
        runs += [ohms(f"x{k}", f"P.s{k - 1}", f"P.s{k}", 0.01 * k)]
    for k in current_at:
        runs += [ohms(f"p{k}", f"P.s{k}", f"E{k}.plus", 0.01), ohms(f"m{k}", f"E{k}.minus", f"M.s{k}", 0.01)]
    return only(plan.model_copy(update={"items": items, "equipment": loads, "runs": tuple(runs)}))


def test_superposition_holds_where_everything_is_linear():
    rest = linear((), ())
    one, two, both = linear((2,), (8.0,)), linear((4,), (5.0,)), linear((2, 4), (8.0, 5.0))
    for ref in ("P.s1", "P.s2", "P.s3", "P.s4"):
        v0 = rest.volts(ref)
        assert both.volts(ref) - v0 == pytest.approx(one.volts(ref) - v0 + two.volts(ref) - v0, abs=1e-10)


def test_reciprocity_holds_where_everything_is_linear():
    rest = linear((), ())
    at_four = rest.volts("P.s4") - linear((2,), (8.0,)).volts("P.s4")
    at_two = rest.volts("P.s2") - linear((4,), (8.0,)).volts("P.s2")
    assert at_four == pytest.approx(at_two, rel=1e-9)


@given(st.floats(0.2, 5.0))
def test_scaling_all_resistances_and_powers_scales_all_drops(factor):
    def drop(k):
        plan = loop(PowerLoad(id="E", power_w=40.0 / k), 0.02 * k, 0.03 * k, 0.01 * k)
        return only(plan).volts("E.plus")

    assert drop(factor) == pytest.approx(drop(1.0), rel=1e-9)


def test_the_order_of_things_in_the_file_does_not_matter():
    plan = example("orchard_station")
    turned = plan.model_copy(
        update={name: tuple(reversed(getattr(plan, name))) for name in ("items", "equipment", "runs")}
    )
    one, two = study(plan), study(turned)
    for a, b in zip(one.states, two.states, strict=True):
        for run in plan.runs:
            assert a.current(run.id) == pytest.approx(b.current(run.id), abs=1e-6)


@pytest.mark.parametrize("name", names())
def test_every_example_agrees_with_a_general_root_finder(name):
    """A second method: the same equations, written for SciPy's hybrid Powell solver."""
    plan = example(name)
    for state in study(plan).states:
        c, p, d = state.wiring.circuit, state.point, duty_of(state.wiring, state.scenario)
        g = np.where(d.closed, 1.0 / p.ohm, 0.0)
        n, m = c.nodes, c.source_plus.size

        def equations(x, c=c, p=p, d=d, g=g, n=n, m=m):
            v, i = x[:n], x[n:]
            f = np.zeros(n + m)
            branch = g * (v[c.a] - v[c.b] + d.emf_v)
            np.add.at(f, c.a, branch)
            np.add.at(f, c.b, -branch)
            off = p.unfed | p.reversed_ | p.no_return
            lv = v[c.load_plus] - v[c.load_minus]
            load = np.where(off, 0.0, d.load_w / np.where(off, 1.0, lv) + d.load_a + d.load_s * lv)
            np.add.at(f, c.load_plus, load)
            np.add.at(f, c.load_minus, -load)
            np.add.at(f, c.source_plus, -i)
            np.add.at(f, c.source_minus, i)
            ov = v[c.source_plus] - v[c.source_minus]
            for k in range(m):
                if c.feed_plus[k] >= 0 and p.feed_a[k] != 0.0:
                    fv = v[c.feed_plus[k]] - v[c.feed_minus[k]]
                    feed = (ov[k] * i[k] / c.efficiency[k] + d.standby_w[k]) / fv
                    f[c.feed_plus[k]] += feed
                    f[c.feed_minus[k]] -= feed
                sensed = v[c.sense_plus[k]] - v[c.sense_minus[k]]
                f[n + k] = [i[k], sensed - d.source_v[k], i[k] - d.source_a[k], i[k] * ov[k] - d.source_w[k]][p.mode[k]]
            f[p.pins] += v[p.pins]
            return f

        start = np.concatenate([np.round(p.volts, 1), np.round(p.source_a, 0)])
        root, info, ok, _ = fsolve(equations, start, full_output=True, xtol=1e-13)
        assert ok == 1 or np.abs(info["fvec"]).max() < 1e-5
        np.testing.assert_allclose(root[:n], p.volts, atol=1e-6 * np.abs(p.volts).max())


def test_a_factorisation_serves_several_scenarios():
    plan = example("seed_shed")
    wiring = compiled(plan)
    solver = Solver(wiring.circuit)
    duty = duty_of(wiring, plan.scenarios[0])
    solver.solve(duty)
    first = solver.factorisations
    solver.solve(replace(duty, load_w=duty.load_w * 1.01))
    assert solver.factorisations == first


def test_a_surge_finds_conductors_as_warm_as_before_it():
    plan = loop(PowerLoad(id="E", power_w=100.0, surge_w=300.0))
    plan = plan.model_copy(
        update={
            "runs": (
                wire("out", "B.plus", "E.plus", 2.0, "mm2-2.5"),
                wire("back", "E.minus", "B.minus", 2.0, "mm2-2.5"),
            ),
            "scenarios": (
                Scenario(id="calm", soc_percent=50.0),
                Scenario(id="surge", soc_percent=50.0, states={"E": "surge"}),
            ),
        }
    )
    calm, surge = study(plan).states
    k = calm.wiring.branch["out"]
    assert surge.momentary
    assert surge.point.temperature_c[k] == pytest.approx(calm.point.temperature_c[k])
    assert surge.current("out") > 2.5 * calm.current("out")


def test_what_gives_way_is_the_load_behind_the_weak_converter_not_the_one_with_the_lowest_voltage():
    converter = Converter(id="V", nominal_v=24.0, out_nominal_v=12.0, set_v=12.6, current_a=10.0)
    pump, lamp = PowerLoad(id="PUMP", power_w=200.0), PowerLoad(id="LAMP", nominal_v=24.0, power_w=240.0)
    plan = Plan(
        items=(battery(volts=24.0),),
        equipment=(lamp, pump, converter),
        runs=(
            ohms("a", "B.plus", "V.in_plus", 0.01), ohms("b", "V.in_minus", "B.minus", 0.01),
            ohms("c", "V.out_plus", "PUMP.plus", 0.01), ohms("d", "PUMP.minus", "V.out_minus", 0.01),
            ohms("e", "B.plus", "LAMP.plus", 0.15), ohms("f", "LAMP.minus", "B.minus", 0.15),
        ),
        scenarios=(Scenario(id="s", soc_percent=60.0),),
    )  # fmt: skip
    why = study(plan).states[0].point.collapse
    assert why is not None
    assert study(plan).wiring.loads[why.load].id == "PUMP"
    assert not why.jointly
    # Ten amperes at 12.6 V, less what the lead loses; the lamp at its far end has less than nine tenths of its voltage.
    assert 90.0 < why.deliverable_w <= 126.0
    lit = study(edits.change(plan, "PUMP", power_w=100.0)).states[0]
    assert lit.solved
    assert lit.port(lamp)[0] < 0.9 * 24.0
