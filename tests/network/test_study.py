"""What a study knows beyond the operating point: bodies, ambients, drops, worst cases."""

from functools import reduce

import numpy as np
import pytest

from jaunty_copper.network.demand import AS_DRAWN, duty_of, scenarios_of, share_of
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import JOINT_OHM, body_ohm, cells, run_ohms
from jaunty_copper.network.wiring import wire as compiled
from jaunty_copper.parts.catalogue import library
from jaunty_copper.physics.battery import internal_resistance, open_circuit_voltage
from jaunty_copper.physics.copper import bar_resistance, resistance_at
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Breaker,
    Contactor,
    Converter,
    Disconnect,
    Fuse,
    Inverter,
    PlugConnector,
    PowerLoad,
    ResistiveLoad,
    Run,
    Scenario,
    Shunt,
    Zone,
)
from tests.build import battery, fused, loop, ohms, wire

LIB = library()
DEMO = example("orchard_station")


def test_copper_warms_by_the_standards_coefficient():
    assert resistance_at(1.0, 20.0) == 1.0
    assert resistance_at(1.0, 120.0) == pytest.approx(1.393)


def test_a_metre_of_a_square_bar():
    assert bar_resistance(1.0, 10.0, 10.0) == pytest.approx(17.241e-9 / 1e-4)


def test_open_circuit_voltage_is_the_tables_and_linear_between():
    table = LIB.battery_chemistries["lifepo4"].ocv_per_cell_v
    assert open_circuit_voltage([0, 50, 100], 8, table).tolist() == pytest.approx([21.6, 26.36, 27.2])
    assert open_circuit_voltage(55.0, 1, table) == pytest.approx((3.295 + 3.305) / 2)


def test_internal_resistance_falls_with_capacity():
    assert internal_resistance(8, 0.060, 100.0) == pytest.approx(0.0048)
    assert internal_resistance(8, 0.060, 200.0) == pytest.approx(0.0024)


@pytest.mark.parametrize(
    ("item", "ohm"),
    [
        (Fuse(id="x", family="blade-fuse", rating_a=10), 0.008),
        (Breaker(id="x", family="thermal-breaker", rating_a=50), 0.003),
        (Shunt(id="x", rating_a=500), 0.0001),
        (Shunt(id="x", rating_a=100, drop_mv=75), 0.00075),
        (Disconnect(id="x", rating_a=300), 0.0002),
        (Contactor(id="x", rating_a=300), 0.0002),
        (PlugConnector(id="x", rating_a=50, contact_ohm=0.0005), 0.0005),
        (Fuse(id="x", family="blade-fuse", rating_a=10, measured_ohm=0.02), 0.02),
    ],
)
def test_bodies(item, ohm):
    assert body_ohm(item, LIB) == pytest.approx(ohm)


def test_a_run_is_copper_and_two_joints_unless_it_was_measured():
    run = Run(id="w", a="x.a", b="y.b", length_m=2.0, conductor="mm2-10")
    assert run_ohms(run, LIB) == pytest.approx((2 * JOINT_OHM, 2 * 1.91e-3))
    pair = run.model_copy(update={"parallel": 2})
    assert run_ohms(pair, LIB) == pytest.approx((JOINT_OHM, 1.91e-3))
    bolted = run.model_copy(update={"length_m": 0.0})
    assert run_ohms(bolted, LIB) == pytest.approx((JOINT_OHM, 0.0))
    bad = run.model_copy(update={"joint_b_ohm": 0.002})
    assert run_ohms(bad, LIB) == pytest.approx((JOINT_OHM + 0.002, 2 * 1.91e-3))
    assert run_ohms(bolted.model_copy(update={"joint_b_ohm": 0.002}), LIB)[0] == 0.002
    assert run_ohms(run.model_copy(update={"measured_ohm": 0.01}), LIB) == (0.01, 0.0)


def test_every_branch_knows_what_it_stands_for():
    wiring = compiled(DEMO)
    kinds = [b.kind for b in wiring.branches]
    bars = [x for x in DEMO.items if isinstance(x, Bar)]
    assert kinds.count("run") == len(DEMO.runs)
    assert kinds.count("battery") == 4
    assert kinds.count("segment") == sum(len(b.studs) - 1 for b in bars)
    assert kinds.count("inside") == 1
    for run in DEMO.runs:
        k = wiring.branch[run.id]
        assert wiring.refs[wiring.circuit.a[k]] == run.a
        assert wiring.refs[wiring.circuit.b[k]] == run.b


def test_a_plans_own_battery_resistance_replaces_its_chemistrys():
    given = loop(ohm=0.02)
    assert study(given).states[0].point.ohm[0] == pytest.approx(0.02)
    plan = given.model_copy(update={"items": (battery(ohm=None),)})
    assert study(plan).states[0].point.ohm[0] == pytest.approx(6 * 0.075 / 100)


def test_zones_and_scenarios_set_the_air():
    plan = edits.add(fused(), Zone(id="hot", ambient_c=50.0))
    plan = edits.change(plan, "W5", zone="hot")
    wiring = compiled(plan)
    k = wiring.branch["W5"]
    assert duty_of(wiring, plan.scenarios[0]).ambient_c[k] == 50.0
    assert duty_of(wiring, plan.scenarios[0]).ambient_c[wiring.branch["W4"]] == 30.0
    hotter = plan.scenarios[0].model_copy(update={"ambient_c": {"hot": 65.0}})
    assert duty_of(wiring, hotter).ambient_c[k] == 65.0


def test_what_loads_ask():
    inverter = Inverter(id="E", power_w=900.0, surge_w=1800.0, efficiency=0.9, idle_w=10.0)

    def asked(load, state):
        plan = loop(load)
        scenario = Scenario(id="s", states={} if state is None else {"E": state})
        duty = duty_of(compiled(plan), scenario)
        return float(duty.load_w[0]), float(duty.load_s[0])

    assert asked(inverter, None)[0] == pytest.approx(1010.0)
    assert asked(inverter, 0.5)[0] == pytest.approx(510.0)
    assert asked(inverter, "surge")[0] == pytest.approx(2010.0)
    assert asked(inverter, "off") == (0.0, 0.0)
    assert asked(PowerLoad(id="E", power_w=50.0), "surge")[0] == 50.0
    assert asked(PowerLoad(id="E", power_w=50.0, surge_w=90.0), "surge")[0] == 90.0
    assert asked(ResistiveLoad(id="E", power_w=48.0, nominal_v=12.0), 0.5)[1] == pytest.approx(24 / 144)


def test_shares_and_the_scenario_that_nobody_wrote():
    s = Scenario(id="s", states={"A": "off", "B": 0.25, "C": "surge"})
    assert [share_of(s, x) for x in "ABCD"] == [0.0, 0.25, 1.0, 1.0]
    assert scenarios_of(loop()) == loop().scenarios
    assert scenarios_of(loop().model_copy(update={"scenarios": ()})) == (AS_DRAWN,)


def test_drop_counts_from_where_conductors_leave_the_bank():
    made = study(DEMO)
    state = made.state("work")
    pump = DEMO.by_id["PUMP"]
    by_hand = state.volts("B1.plus") - state.volts("B1.minus") - (state.volts("PUMP.plus") - state.volts("PUMP.minus"))
    assert made.drop_v(pump, state) == pytest.approx(by_hand)
    along = sum(abs(state.drop(r)) for r in ("W60", "W61", "W62", "W63")) + sum(
        abs(state.drop(x)) for x in ("F6", "C6")
    )
    assert along < by_hand < along + 0.4


def test_drop_behind_a_converter_counts_from_its_output():
    made = study(DEMO)
    state = made.state("work")
    lamp = DEMO.by_id["LAMP"]
    out_v, _ = state.output(DEMO.by_id["CV"])
    assert made.supply_v(lamp, state) == pytest.approx(out_v)
    assert made.drop_v(lamp, state) == pytest.approx(out_v - state.port(lamp)[0])


def test_a_charger_loses_the_other_way():
    made = study(DEMO)
    state = made.state("generator")
    charger = DEMO.by_id["GEN"]
    assert state.port(charger)[0] > made.supply_v(charger, state)
    assert made.drop_v(charger, state) > 0


def test_the_worst_of_all_is_the_worst_of_each():
    made = study(DEMO)
    k = made.wiring.branch["W62"]
    currents = [abs(s.current("W62")) for s in made.states]
    assert made.largest_a[k] == max(currents)
    assert made.continuous_a[k] == max(c for c, s in zip(currents, made.states, strict=True) if not s.momentary)
    assert made.worst_state(k).scenario.id == "pump"
    assert made.lasting_state(k).scenario.id != "pump"


def test_across_is_what_a_device_may_have_to_interrupt():
    made = study(reduce(lambda plan, run: edits.change(plan, run, conductor="mm2-10"), ("W40", "W41", "W42"), DEMO))
    assert made.across_v[made.wiring.node["GEN.plus"]] == pytest.approx(28.0, abs=0.1)
    assert 26.0 < made.across_v[made.wiring.node["P24.s1"]] < 28.0
    relay = study(example("relay_mast"))
    node = relay.wiring.node
    assert relay.across_v[node["N48.s1"]] > 48.0
    assert relay.across_v[node["LAMP.plus"]] < 13.0


def test_unknown_scenarios_are_told():
    with pytest.raises(KeyError):
        study(loop()).state("never")


def test_power_is_conserved_over_the_whole_demo():
    for state in study(DEMO).states:
        p, c = state.point, state.wiring.circuit
        emf = duty_of(state.wiring, state.scenario).emf_v
        made = (p.current_a * emf).sum() + (p.source_a * p.source_v).sum()
        used = (p.current_a**2 * p.ohm)[np.isfinite(p.ohm)].sum() + (p.load_a * p.load_v).sum()
        fed = sum(p.feed_a[k] * p.feed_v[k] for k in range(c.source_plus.size) if c.feed_plus[k] >= 0)
        assert made == pytest.approx(used + fed, rel=1e-8)


def test_a_converter_that_is_not_isolated_joins_its_minuses():
    converter = Converter(id="CV", set_v=5.0, current_a=5.0, isolated=False)
    plan = edits.add(
        loop(), converter, ohms("i1", "B.plus", "CV.in_plus", 0.01), ohms("i2", "CV.in_minus", "B.minus", 0.01),
        ResistiveLoad(id="L", power_w=5.0, nominal_v=5.0), wire("o1", "CV.out_plus", "L.plus"), wire("o2", "L.minus", "CV.out_minus"),
    )  # fmt: skip
    made = study(plan)
    assert made.wiring.rail[made.wiring.node["CV.out_minus"]] == made.wiring.rail[made.wiring.node["B.minus"]]
    assert made.states[0].volts("CV.out_plus") == pytest.approx(5.0, abs=0.05)


@pytest.mark.parametrize(
    ("chemistry", "volts", "count"),
    [
        ("lifepo4", 12.0, 4), ("lifepo4", 12.8, 4), ("lifepo4", 24.0, 8), ("lifepo4", 25.6, 8), ("lifepo4", 48.0, 16),
        ("lifepo4", 51.2, 16), ("lifepo4", 38.4, 12), ("lifepo4", 3.2, 1), ("agm", 2.0, 1), ("agm", 6.0, 3), ("agm", 12.0, 6),
        ("agm", 48.0, 24),
    ],
)  # fmt: skip
def test_a_unit_named_by_its_cells_has_as_many(chemistry, volts, count):
    unit = Battery(id="B", chemistry=chemistry, nominal_v=volts, capacity_ah=100.0)
    assert cells(unit, library()) == count
