import pytest

from jaunty_copper.battery.days import ahead
from jaunty_copper.battery.needs import needs
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.clock import hours_read
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import (
    Battery,
    Charger,
    Contactor,
    Converter,
    CurrentLoad,
    Inverter,
    Plan,
    PowerLoad,
    ResistiveLoad,
    Run,
    Scenario,
    SolarController,
)
from tests.build import battery, ohms


def plan_of(*equipment, items=(), runs=(), **scenario):
    joined = [r for e in equipment if not isinstance(e, Converter)
              for r in (ohms(f"p{e.id}", "B.plus", f"{e.id}.plus", 1e-3), ohms(f"m{e.id}", f"{e.id}.minus", "B.minus", 1e-3))]  # fmt: skip
    return Plan(
        items=(battery(volts=24.0), *items), equipment=equipment, runs=(*joined, *runs),
        scenarios=(Scenario(id="s", **scenario),),
    )  # fmt: skip


def test_a_constant_power_load_draws_most_just_before_its_cut_out():
    # 1.5 kW at 21 V is 71 A, not the 63 A of the nominal 24 V.
    n = needs(wire(plan_of(Inverter(id="I", nominal_v=24.0, power_w=1500.0, efficiency=1.0, cut_out_v=21.0))))
    assert n.lowest_v == 21.0
    assert n.states[0].nominal_a == pytest.approx(62.5)
    assert n.continuous_a == pytest.approx(1500.0 / 21.0)


def test_each_kind_of_load_by_hand():
    n = needs(wire(plan_of(
        PowerLoad(id="P", nominal_v=24.0, power_w=48.0), CurrentLoad(id="C", nominal_v=24.0, current_a=3.0),
        ResistiveLoad(id="R", nominal_v=24.0, power_w=96.0),
    )))  # fmt: skip
    # Lowest: twelve cells at 1.75 V.
    assert n.lowest_v == pytest.approx(21.0)
    nominal = {d.id: d.nominal_a for d in n.states[0].draws}
    lowest = {d.id: d.lowest_a for d in n.states[0].draws}
    assert nominal == pytest.approx({"P": 2.0, "C": 3.0, "R": 4.0})
    assert lowest == pytest.approx({"P": 48.0 / 21.0, "C": 3.0, "R": 4.0 * 21.0 / 24.0})


def test_surge_and_shares_follow_the_scenario():
    load = PowerLoad(id="P", nominal_v=24.0, power_w=48.0, surge_w=240.0)
    assert needs(wire(plan_of(load, states={"P": 0.5}))).states[0].nominal_a == pytest.approx(1.0)
    surge = needs(wire(plan_of(load, states={"P": "surge"})))
    assert surge.states[0].nominal_a == pytest.approx(10.0)
    assert surge.continuous_a == 0.0
    assert surge.peak_a == pytest.approx(240.0 / 21.0)


def test_a_day_with_converter_losses_and_standing_draws():
    load = PowerLoad(id="L", nominal_v=12.0, power_w=20.0, hours_per_day=10.0, duty=0.5)
    converter = Converter(id="V", nominal_v=24.0, set_v=12.0, current_a=10.0, efficiency=0.8, idle_w=2.0)
    inverter = Inverter(
        id="I", nominal_v=24.0, power_w=900.0, efficiency=0.9, idle_w=10.0, hours_per_day=4.0, duty=0.25
    )
    plan = plan_of(
        inverter, converter,
        runs=(
            ohms("a", "B.plus", "V.in_plus", 1e-3), ohms("b", "V.in_minus", "B.minus", 1e-3),
            ohms("c", "V.out_plus", "L.plus", 1e-3), ohms("d", "L.minus", "V.out_minus", 1e-3),
            ohms("e", "B.plus", "K.a", 1e-3),
        ),
        items=(Contactor(id="K", coil_w=3.0),),
    )  # fmt: skip
    plan = plan.model_copy(update={"equipment": (*plan.equipment, load)})
    n = needs(wire(plan))
    wh = {(d.id, d.what.rpartition(", ")[2]): d.wh for d in n.daily}
    assert wh["L", "L"] == pytest.approx(20.0 * 10.0 * 0.5 / 0.8)
    assert wh["V", "idling"] == pytest.approx(48.0)
    assert wh["I", "through it"] == pytest.approx(900.0 / 0.9 * 4.0 * 0.25)
    assert wh["I", "idling"] == pytest.approx(40.0)
    assert wh["K", "its coil"] == pytest.approx(72.0)
    assert n.used_wh == pytest.approx(125.0 + 48.0 + 1000.0 + 40.0 + 72.0)
    assert n.used_ah == pytest.approx(n.used_wh / 24.0)
    # 100 Ah at 24 V, half of it usable.
    assert n.autonomy_days == pytest.approx(1200.0 / n.used_wh)
    assert n.proposed_ah == pytest.approx(n.used_wh / 0.5 / 24.0)


def test_proposals_follow_power_over_voltage_and_copper_its_square():
    n = needs(wire(example("orchard_station")))
    twelve, twenty_four, forty_eight = n.proposals
    assert twelve.current_a == pytest.approx(4.0 * forty_eight.current_a)
    assert twenty_four.current_a == pytest.approx(max(s.nominal_a for s in n.states))
    assert twelve.copper_kg == pytest.approx(16.0 * forty_eight.copper_kg)
    assert any("48 V is the lowest" in r for r in n.reasons)


def test_a_plan_without_bank_or_equipment_has_needs_too():
    assert needs(wire(Plan())).used_wh == 0.0
    n = needs(wire(Plan(equipment=(PowerLoad(id="P", power_w=120.0, hours_per_day=1.0),))))
    assert n.bank is None
    assert n.used_ah == pytest.approx(10.0)


def test_a_bank_that_another_charges_counts_in_both_days():
    # 24 V bank, a converter of 90 %, a 12 V bank with a lamp of 20 W for ten hours.
    plan = Plan(
        items=(
            Battery(id="A", chemistry="agm", nominal_v=24.0, capacity_ah=200.0), Battery(id="B", chemistry="agm", nominal_v=12.0, capacity_ah=60.0),
        ),
        equipment=(
            Converter(id="C", nominal_v=24.0, out_nominal_v=12.0, set_v=13.8, current_a=10.0, efficiency=0.9, idle_w=1.0),
            PowerLoad(id="L", nominal_v=12.0, power_w=20.0, hours_per_day=10.0),
        ),
        runs=tuple(
            Run(id=f"w{k}", a=a, b=b, length_m=1.0)
            for k, (a, b) in enumerate((
                ("A.plus", "C.in_plus"), ("A.minus", "C.in_minus"), ("C.out_plus", "B.plus"), ("C.out_minus", "B.minus"),
                ("B.plus", "L.plus"), ("B.minus", "L.minus"),
            ))
        ),
    )  # fmt: skip
    w = wire(plan)
    large, small = (needs(w, next(b for b in w.banks if u in b.by_id)) for u in ("A", "B"))
    assert small.used_wh == pytest.approx(200.0)
    assert small.given_wh == pytest.approx(200.0)
    assert large.used_wh == pytest.approx(200.0 / 0.9 + 24.0)
    # While the small bank is low the converter takes its most.
    assert large.states[0].nominal_a == pytest.approx((13.8 * 10.0 / 0.9 + 1.0) / 24.0)
    assert small.states[0].given_a == pytest.approx(10.0)


def test_what_a_source_gives_is_shown_as_rated():
    # 60 A are 60 A at any voltage, not the 71 that its watts would be at 24 V; an array gives no more than its power.
    charger = Charger(id="C", nominal_v=24.0, set_v=28.4, current_a=60.0, hours_per_day=2.0)
    assert needs(wire(plan_of(charger))).states[0].given_a == 60.0
    assert needs(wire(plan_of(charger))).given_wh == pytest.approx(60.0 * 24.0 * 2.0)
    sun = SolarController(id="S", nominal_v=24.0, set_v=28.4, current_a=60.0, power_w=960.0, hours_per_day=2.0)
    assert needs(wire(plan_of(sun))).states[0].given_a == pytest.approx(40.0)
    # Nobody is promised more of the sun than its twelve hours at an array's most, as in the days ahead.
    long = sun.model_copy(update={"hours_per_day": 16.0})
    assert needs(wire(plan_of(long))).given_wh == pytest.approx(960.0 * 12.0)


def test_what_runs_only_while_a_source_gives_is_off_without_it():
    charger = Charger(id="G", nominal_v=24.0, set_v=28.4, current_a=40.0, by_hour=hours_read("9-12"))
    load = PowerLoad(id="L", nominal_v=24.0, power_w=120.0, hours_per_day=24.0, runs_with="G")
    plan = plan_of(charger, load)
    quiet = plan.model_copy(
        update={"scenarios": (Scenario(id="off", states={"G": "off"}), Scenario(id="half", states={"G": 0.5}))}
    )
    off, half = needs(wire(quiet)).states
    assert [d.id for d in off.draws] == []
    assert [d.id for d in half.draws] == ["L"]
    off, half = study(quiet).states
    assert off.port(plan.by_id["L"])[1] == pytest.approx(0.0, abs=1e-9)
    assert half.port(plan.by_id["L"])[1] > 4.0
    # Over a day it runs in those hours alone, and its account says so.
    assert needs(wire(plan)).used_wh == pytest.approx(120.0 * 3.0)
    days = ahead(plan, plan.scenarios[0], (1.0,))
    amps = days.current_a(days.wiring.banks[0])
    night = (days.course.hours < 8.9) | (days.course.hours > 12.1)
    assert abs(amps[night]).max() == pytest.approx(0.0, abs=1e-6)
    # Without its source it is off for good, and nothing names what is gone.
    alone = edits.remove(plan, "G")
    assert alone.by_id["L"].runs_with is None
