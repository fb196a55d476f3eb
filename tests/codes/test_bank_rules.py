import contextlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.needs import needs
from jaunty_copper.battery.patterns import arrange
from jaunty_copper.choosing.circuits import add_circuit
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import (
    Alternator,
    Battery,
    Breaker,
    Charger,
    Contactor,
    Disconnect,
    Fuse,
    Plan,
    PowerLoad,
    Run,
    Scenario,
    Zone,
)
from jaunty_copper.plan.topology import topology
from tests.battery.test_sharing import row
from tests.build import bar, battery, fused, judge, ohms
from tests.build import wire as lead

NA, ISO = "north_american_small_craft", "iso_small_craft"


def found(plan, rule, practice=NA):
    return [f for f in judge(study(plan), practice) if f.rule.id == rule]


def even(m=2, **more):
    return arrange(row(m, load=PowerLoad(id="E", power_w=300.0), **more), "B0x0", "opposite")


def test_unlike_chemistry_make_and_age_are_told_each_by_itself():
    plan = even()
    assert not found(plan, "bank_mixed")
    assert found(edits.change(plan, "B1x0", chemistry="gel"), "bank_mixed")[0].verdict is Verdict.DANGER
    two = edits.change(edits.change(plan, "B0x0", make="one"), "B1x0", make="another")
    assert [f.verdict for f in found(two, "bank_mixed")] == [Verdict.ADVICE]
    old = edits.change(edits.change(plan, "B0x0", bought="2020-01"), "B1x0", bought="2022-07")
    (f,) = found(old, "bank_mixed")
    assert f.figure == pytest.approx(2.5)
    same = edits.change(edits.change(plan, "B0x0", bought="2022-01"), "B1x0", bought="2022-07")
    assert not found(same, "bank_mixed")


def test_a_weaker_unit_in_series_is_named():
    plan = row(1, series=2, load=PowerLoad(id="E", power_w=100.0, nominal_v=24.0))
    assert not found(plan, "bank_mixed")
    (f,) = found(edits.change(plan, "B0x1", capacity_share=0.7), "bank_mixed")
    assert f.place == "B0x1"


def test_unequal_strings_are_refused_by_one_school_and_tolerated_by_the_other():
    plan = edits.change(even(), "B1x0", capacity_ah=60.0, internal_ohm=0.004 * 100 / 60)
    assert [f.verdict for f in found(plan, "bank_unequal", NA)] == [Verdict.DEFECT]
    (f,) = found(plan, "bank_unequal", ISO)
    assert f.verdict is Verdict.ADVICE
    assert "tolerated" in f.headline
    tight = edits.change(plan, "B1x0", max_discharge_a=2.0)
    assert [f.verdict for f in found(tight, "bank_unequal", ISO)] == [Verdict.DEFECT]


def test_a_badly_shared_bank_is_mended_by_a_pattern():
    plan = row(4, load=PowerLoad(id="E", power_w=1200.0))
    (f,) = found(plan, "bank_spread")
    assert f.place == "B0x0"
    assert not found(f.fix().apply(plan), "bank_spread")
    assert not found(arrange(plan, "B0x0", "bars"), "bank_spread")


def test_currents_between_resting_units_are_no_bad_sharing():
    plan = edits.change(even(4), "B0x0", soc_percent=52.0)
    resting = plan.model_copy(update={"scenarios": (plan.scenarios[0].model_copy(update={"states": {"E": "off"}}),)})
    assert not found(resting, "bank_spread")


def test_a_unit_beyond_its_limit_is_told_in_discharge_and_in_charge():
    plan = edits.change(even(), "B1x0", max_discharge_a=5.0)
    (f,) = found(plan, "unit_limit")
    assert (f.place, f.verdict, f.limit) == ("B1x0", Verdict.DANGER, 5.0)
    source = Charger(id="E", nominal_v=12.0, set_v=30.0, current_a=60.0)
    (f,) = found(row(1, load=source), "unit_limit")
    assert f.limit == 25.0
    assert "is charged with" in f.headline


def test_chargers_too_large_and_too_small_for_the_bank():
    def charged(amps):
        return row(1, load=Charger(id="E", nominal_v=12.0, set_v=14.4, current_a=amps))

    assert [f.verdict for f in found(charged(30.0), "charge_rate")] == [Verdict.DEFECT]
    assert not found(charged(20.0), "charge_rate")
    assert [f.verdict for f in found(charged(3.0), "charge_rate")] == [Verdict.ADVICE]


def test_equipment_on_a_bank_of_another_voltage():
    (f,) = found(row(1, series=2, load=PowerLoad(id="E", power_w=50.0, nominal_v=12.0)), "wrong_voltage")
    assert f.verdict is Verdict.DANGER
    assert not found(row(1, series=2, load=PowerLoad(id="E", power_w=50.0, nominal_v=24.0)), "wrong_voltage")


def test_a_string_of_another_voltage_in_parallel_is_a_finding_not_an_error():
    plan = row(2)
    odd = edits.change(plan, "B1x0", nominal_v=24.0)
    assert "contradictory_sources" in {f.rule.id for f in judge(study(odd))}


def test_three_strings_want_protection_of_their_own_and_two_do_not():
    assert not found(even(2), "string_protection")
    (f,) = found(even(3), "string_protection")
    assert f.figure == 3.0
    plan = Plan(
        items=(*even(3).items[:3], *(Fuse(id=f"F{k}", family="class-t-fuse", rating_a=100.0) for k in range(3)),
               edits.add(Plan(), *_bars()).items[0], edits.add(Plan(), *_bars()).items[1]),
        equipment=even(3).equipment,
        runs=(
            *(ohms(f"a{k}", f"B{k}x0.plus", f"F{k}.a", 1e-4) for k in range(3)),
            *(ohms(f"b{k}", f"F{k}.b", f"P.s{k + 1}", 1e-4) for k in range(3)),
            *(ohms(f"m{k}", f"B{k}x0.minus", f"M.s{k + 1}", 1e-4) for k in range(3)),
            ohms("out", "P.s4", "E.plus", 1e-3), ohms("back", "E.minus", "M.s4", 1e-3),
        ),
    )  # fmt: skip
    assert not found(plan, "string_protection")


def _bars():
    from tests.build import bar

    return bar("P", 4), bar("M", 4)


def in_a_box(chemistry, **zone):
    """Two units of 12 V in one box."""
    plan = even().model_copy(update={"zones": (Zone(id="box", name="Battery box", **zone),)})
    for unit in ("B0x0", "B1x0"):
        plan = edits.change(plan, unit, chemistry=chemistry, zone="box", capacity_ah=100.0)
    return plan


def test_vented_units_want_ventilation_and_no_sparks():
    plan = in_a_box("flooded-lead-acid")
    (f,) = found(plan, "hydrogen")
    assert "not ventilated" in f.headline
    aired = f.fix().apply(plan)
    # IEC 62485-2: two units of 6 cells and 100 Ah at 20 mA/Ah: 0.05 * 12 * 20 * 100 / 1000 = 1.2 m³/h, 28 * 1.2 = 33.6 cm².
    (f,) = found(aired, "hydrogen")
    assert (f.verdict, f.limit) == (Verdict.ADVICE, None)
    assert "1.2 m³/h at boost, openings of 33.6 cm² each way" in f.headline
    open_ = edits.change(aired, "box", opening_cm2=33.6)
    assert not found(open_, "hydrogen")
    (f,) = found(edits.change(aired, "box", opening_cm2=33.0), "hydrogen")
    assert (f.verdict, f.limit) == (Verdict.DANGER, pytest.approx(33.6))
    sparks = edits.change(open_, "E", zone="box")
    (f,) = found(sparks, "hydrogen")
    assert f.place == "E"


def test_of_vented_units_that_stand_nowhere_it_is_asked_where():
    def nowhere(chemistry):
        return edits.change_each(in_a_box(chemistry), {unit: {"zone": None} for unit in ("B0x0", "B1x0")})

    (f,) = found(nowhere("flooded-lead-acid"), "hydrogen")
    assert (f.place, f.verdict) == ("B0x0", Verdict.ADVICE)
    assert not found(nowhere("agm"), "hydrogen")


@pytest.mark.parametrize("code", ["north_american_small_craft", "iso_small_craft", "nfpa_70", "iec_60364"])
def test_valve_regulated_units_give_off_hydrogen_too(code):
    """8 mA/Ah at boost: 0.05 * 12 * 8 * 100 / 1000 = 0.48 m³/h, 13.44 cm²."""
    shut = in_a_box("agm")
    (f,) = [f for f in judge(study(shut), code) if f.rule.id == "hydrogen"]
    assert f.verdict is (Verdict.DEFECT if code in ("nfpa_70", "iec_60364") else Verdict.ADVICE)
    assert "13.4 cm²" in f.headline
    assert not found(f.fix().apply(shut), "hydrogen")
    narrow = study(in_a_box("gel", ventilated=True, opening_cm2=10.0))
    grave = f.verdict
    (f,) = [f for f in judge(narrow, code) if f.rule.id == "hydrogen"]
    assert f.verdict is grave
    assert f.limit == pytest.approx(13.44)
    assert not found(in_a_box("lifepo4"), "hydrogen")
    # In open air nothing gathers.
    assert not found(edits.change(even(), "B0x0", chemistry="agm"), "hydrogen")


def opening_bank(**fields):
    """A unit that opens by itself, two circuits behind a main fuse."""
    plan = add_circuit(fused(), "P", PowerLoad(id="E2", nominal_v=12.0, power_w=60.0))
    return edits.change(plan, "B", **{"managed": True, **fields})


def test_a_circuits_fuse_that_asks_for_more_than_the_bank_lets_out_is_told():
    """By the slow edge of its own band, read the other way round."""

    def told(**fields):
        return [f for f in Assessment(opening_bank(**fields)).findings if f.rule.id == "opens_first"]

    first = told(max_discharge_a=10.0)
    assert {f.place for f in first} >= {"F1"}
    assert "F0" not in {f.place for f in first}
    (f,) = [f for f in first if f.place == "F1"]
    case = Assessment(opening_bank()).case
    device, within = case.protection.devices["F1"], case.code.limit("fault_opening_s")
    assert f.limit == 10.0
    assert float(device.longest(np.array(f.figure))) == pytest.approx(within, rel=1e-6)
    enough = 1.01 * f.figure
    assert [x.place for x in told(max_discharge_a=enough)] == [x.place for x in first if x.figure > enough]
    # A peak counts where it lasts as long as the device may take.
    assert told(max_discharge_a=10.0, peak_discharge_a=500.0, peak_s=within) == []
    assert len(told(max_discharge_a=10.0, peak_discharge_a=500.0, peak_s=0.5 * within)) == len(first)
    assert told(max_discharge_a=10.0, managed=False) == []


def test_in_a_live_minus_too():
    """Plus is bonded, the devices stand in the minus: those of a circuit, not the bank's own."""
    plan = example("relay_mast")
    units = [x.id for x in plan.items if isinstance(x, Battery)]
    plan = edits.change_each(plan, {u: {"managed": True, "max_discharge_a": 1.0} for u in units})
    known = Assessment(plan)
    told = {f.place for f in known.findings if f.rule.id == "opens_first"}
    assert told
    everything = {e.id for d in known.case.protection.devices for e in known.case.protection.faults.hangs_on(d)}
    for id_ in told:
        assert 0 < len(known.case.protection.faults.hangs_on(id_)) < len(everything)


def test_autonomy_is_told_when_it_falls_short():
    plan = edits.change(even(), "E", hours_per_day=8.0)
    wanted = edits.change_plan(plan, autonomy_days=3.0)
    (f,) = found(wanted, "autonomy")
    # 2 x 100 Ah x 12 V x one half usable, over 300 W x 8 h.
    assert f.figure == pytest.approx(1200.0 / 2400.0)
    assert not found(edits.change_plan(plan, autonomy_days=0.4), "autonomy")


def test_every_mend_of_a_bank_can_be_applied():
    plan = example("orchard_station")
    for f in judge(study(plan)):
        if f.fix() is not None:
            assert isinstance(f.fix(), Edit)
            assert f.fix().apply(plan) != plan


def test_a_run_of_no_length_between_units_is_part_of_the_bank():
    plan = edits.add(even(), Run(id="strap", a="B0x0.plus", b="B1x0.plus", length_m=0.0))
    assert "strap" in study(plan).wiring.banks[0].inside


@st.composite
def tangles(draw):
    """Batteries, a bar and a load, joined anyhow: right, wrong, shorted, reversed or not at all."""
    n = draw(st.integers(1, 4))
    items = [battery(f"B{k}", volts=draw(st.sampled_from([6.0, 12.0, 24.0])), ohm=None, thread="M8") for k in range(n)]
    kinds = draw(st.lists(st.sampled_from(["fuse", "breaker", "contactor"]), max_size=3))
    for k, kind in enumerate(kinds):
        made = {
            "fuse": Fuse(id=f"D{k}", family="class-t-fuse", rating_a=30.0),
            "breaker": Breaker(id=f"D{k}", family="thermal-breaker", rating_a=50.0),
            "contactor": Contactor(id=f"D{k}", rating_a=40.0, making_a=100.0, short_time_a=100.0),
        }
        items.append(made[kind])
    refs = [f"B{k}.{t}" for k in range(n) for t in ("plus", "minus")] + ["P.s1", "P.s2", "P.s3", "E.plus", "E.minus"]
    refs += [f"D{k}.{t}" for k in range(len(kinds)) for t in "ab"] + ["C.plus", "C.minus"]
    runs = []
    for k in range(draw(st.integers(0, 9))):
        a, b = draw(st.sampled_from(refs)), draw(st.sampled_from(refs))
        if a != b:
            runs.append(Run(id=f"r{k}", a=a, b=b, length_m=0.5, conductor="mm2-35"))
    load = PowerLoad(
        id="E", power_w=draw(st.sampled_from([5.0, 400.0])), nominal_v=12.0,
        input_uf=draw(st.sampled_from([None, 5000.0])), motor_ohm=draw(st.sampled_from([None, 0.2])),
    )  # fmt: skip
    charger = Charger(id="C", set_v=14.4, current_a=20.0)
    return Plan(items=(*items, bar("P", 3)), equipment=(load, charger), runs=tuple(runs))


@settings(max_examples=150, deadline=None)
@given(tangles())
def test_whatever_is_joined_to_whatever_is_judged_and_never_an_error(plan):
    for practice in (NA, ISO):
        for f in judge(study(plan), practice):
            assert f.headline
            if f.fix() is not None:
                with contextlib.suppress(edits.EditError):
                    f.fix().apply(plan)
    lay_out(topology(plan))
    needs(wire(plan))


def charged_at(set_v, chemistry="agm", bank_c=25.0, own_c=25.0, **more):
    """A charger of one 24 V bank, each in a room of its own."""
    return Plan(
        items=(Battery(id="B", chemistry=chemistry, nominal_v=24.0, capacity_ah=180.0, zone="bank"),),
        zones=(Zone(id="bank", ambient_c=bank_c), Zone(id="own", ambient_c=own_c)),
        equipment=(Charger(id="C", nominal_v=24.0, set_v=set_v, current_a=20.0, zone="own", **more),),
        runs=(Run(id="p", a="B.plus", b="C.plus", length_m=1.0), Run(id="m", a="C.minus", b="B.minus", length_m=1.0)),
    )


@pytest.mark.parametrize(
    ("plan", "verdict", "words"),
    [
        # Twelve cells of AGM: 2.40 V each, 28.8 V.
        (charged_at(28.8), None, ""),
        (charged_at(29.9), None, ""),
        (charged_at(30.2), Verdict.DEFECT, "28.8 V at most"),
        (charged_at(27.0), None, ""),
        (charged_at(26.5), Verdict.ADVICE, "never here"),
        # Eight cells of lithium: 3.55 V each, 28.4 V, at any warmth.
        (charged_at(28.4, "lifepo4", bank_c=45.0), None, ""),
        (charged_at(29.8, "lifepo4"), Verdict.DEFECT, "28.4 V at most"),
        (charged_at(28.4, "lifepo4", own_c=-15.0, compensation_mv_k=-48.0), Verdict.DEFECT, "lithium wants no"),
        # At 50 C 12 cells want 12 * 4 mV * 25 K = 1.2 V less: 27.6 V, and 28.8 V are 4.3 % more.
        (charged_at(28.8, bank_c=50.0), Verdict.DEFECT, "27.6 V at most"),
        (charged_at(28.8, bank_c=50.0, compensation_mv_k=-48.0, probe="B"), None, ""),
        # Float above what fills them is no better.
        (charged_at(28.8, float_v=30.4), Verdict.DEFECT, "28.8 V at most"),
        # A charger in the cold that feels its own air: 40 K * 48 mV = 1.92 V more.
        (charged_at(28.8, own_c=-15.0, compensation_mv_k=-48.0), Verdict.DEFECT, "probe is not at these units"),
    ],
)
def test_the_charge_voltage_against_the_units_as_warm_as_they_are(plan, verdict, words):
    found = [f for f in judge(study(plan)) if f.rule.id == "charge_voltage"]
    assert [f.verdict for f in found] == ([] if verdict is None else [verdict])
    for f in found:
        assert words in f.headline
        fix = f.fix()
        if fix is not None:
            fixed = fix.apply(plan)
            assert not [g for g in judge(study(fixed)) if g.rule.id == "charge_voltage"]


def test_too_much_in_one_scenario_is_found_though_too_little_in_another_is_farther_off():
    # By its own air: 48 mV * 30 K = 1.44 V over 28.8 V in the cold, 5 %; 1.87 V under it in the heat, 6.5 %, which is let pass.
    plan = charged_at(28.8, compensation_mv_k=-48.0)
    plan = plan.model_copy(
        update={
            "scenarios": (Scenario(id="cold", ambient_c={"own": -5.0}), Scenario(id="hot", ambient_c={"own": 64.0}))
        }
    )
    (f,) = [f for f in judge(study(plan)) if f.rule.id == "charge_voltage"]
    assert f.verdict is Verdict.DEFECT
    assert f.figure == pytest.approx(5.0, abs=0.01)
    assert f.limit == 4.0


def test_how_high_the_bars_go_when_a_bank_leaves_what_charges_it():
    """An alternator by ISO 16750-2; a charger of 60 A that takes 1 ms to let go, on 12 mF: 28 + 60 · 0.001 / 0.012 = 33 V."""
    plan = example("orchard_station")
    plan = edits.change_each(plan, {x.id: {"managed": True} for x in plan.items if isinstance(x, Battery)})
    told = {c.place: c for c in Assessment(plan).checks if c.rule.id == "opens_itself"}
    assert told["SUN"].figure == pytest.approx(33.0)
    assert not [f for f in Assessment(plan).findings if f.rule.id == "opens_itself"]
    bare = edits.change(plan, "INV", input_uf=None)
    assert next(c for c in Assessment(bare).checks if c.rule.id == "opens_itself" and c.place == "SUN").figure is None
    engine = edits.replace_item(
        plan, "GEN", Alternator(id="GEN", name="Engine", nominal_v=24.0, set_v=28.0, current_a=50.0)
    )
    (found,) = [f for f in Assessment(engine).findings if f.rule.id == "opens_itself"]
    assert "to 151 to 202 V for up to 350 ms" in found.headline


@pytest.mark.parametrize(
    ("chemistry", "air_c", "managed", "verdict"),
    [
        ("lifepo4", -5.0, False, Verdict.DANGER), ("lifepo4", -5.0, True, Verdict.DEFECT), ("lifepo4", 1.0, False, None),
        ("agm", -5.0, False, None), ("agm", -25.0, False, Verdict.ADVICE),
    ],
)  # fmt: skip
def test_a_charge_in_the_cold_by_chemistry_and_air(chemistry, air_c, managed, verdict):
    """Lithium from 0 °C, lead from -20 °C: the coldest scenario in which something goes in counts, and none in which nothing does."""
    plan = charged_at(28.4, own_c=20.0)
    plan = edits.change_each(
        plan, {x.id: {"chemistry": chemistry, "managed": managed} for x in plan.items if isinstance(x, Battery)}
    )
    (unit,) = [x for x in plan.items if isinstance(x, Battery)]
    plan = edits.change(edits.add(plan, Zone(id="shed", ambient_c=20.0)), unit.id, zone="shed")
    states = {e.id: "off" for e in plan.equipment}
    scenarios = (
        Scenario(id="warm", soc_percent=50.0), Scenario(id="cold", soc_percent=50.0, ambient_c={"shed": air_c}),
        Scenario(id="frost", soc_percent=50.0, ambient_c={"shed": -40.0}, states=states),
    )  # fmt: skip
    plan = edits.change_plan(plan, scenarios=scenarios)
    known = Assessment(plan)
    cold = next(s for s in known.study.states if s.scenario.id == "cold")
    assert (cold.charged or cold).current(unit.id) < -1.0
    found = [f for f in known.findings if f.rule.id == "cold_charge"]
    assert [f.verdict for f in found] == ([] if verdict is None else [verdict])
    (check,) = [c for c in known.checks if c.rule.id == "cold_charge"]
    assert (check.figure, check.scenario) == (min(air_c, 20.0), "cold")


@pytest.mark.parametrize(
    ("chemistry", "soc", "off", "told"),
    [
        ("lifepo4", 50.0, (), True), ("lifepo4", 100.0, ("E",), True), ("lifepo4", 50.0, ("C",), False),
        ("lifepo4", 50.0, ("Q",), False), ("agm", 50.0, (), False),
    ],
)  # fmt: skip
def test_lithium_is_charged_in_the_cold_once_what_draws_there_is_off(chemistry, soc, off, told):
    """20 A of a charger beside a load of 60 A, or beside a full bank: nothing goes in yet."""
    plan = edits.add(
        edits.change(fused(power=720.0, conductor="mm2-35", rating=80.0), "B", chemistry=chemistry, internal_ohm=0.01),
        Charger(id="C", set_v=14.2 if soc < 100.0 else 13.2, current_a=20.0), Disconnect(id="Q", rating_a=60.0), lead("C1", "P.s3", "Q.a"), lead("C3", "Q.b", "C.plus"),
        lead("C2", "C.minus", "M.s3"), Zone(id="shed", ambient_c=20.0),
    )  # fmt: skip
    plan = edits.change(plan, "B", zone="shed")
    cold = Scenario(
        id="cold",
        soc_percent=soc,
        ambient_c={"shed": -30.0},
        states={x: "open" if x == "Q" else "off" for x in off},
    )
    known = Assessment(edits.change_plan(plan, scenarios=(cold,)))
    (state,) = known.study.states
    assert -state.current("B") < 1.0
    found = [f for f in known.findings if f.rule.id == "cold_charge"]
    assert [(f.verdict, "up to 20 A, once it is low" in f.headline) for f in found] == [(Verdict.DANGER, True)] * told


@pytest.mark.parametrize(
    ("chemistry", "air_c", "on", "managed", "told"),
    [
        ("lifepo4", 44.0, True, False, ""), ("lifepo4", 47.0, False, False, ""), ("lifepo4", 47.0, True, False, "permits 45 °C"),
        ("lifepo4", 47.0, True, True, "lets no charge in"), ("lifepo4", 62.0, False, False, "stands at 62 °C"),
        ("agm", 47.0, True, False, ""), ("agm", 52.0, False, False, "stands at 52 °C"),
    ],
)  # fmt: skip
def test_a_bank_in_the_heat_by_chemistry_air_and_charge(chemistry, air_c, on, managed, told):
    """Lithium to 45 °C where something goes in, to 60 °C at all; lead to 50 °C either way."""
    plan = charged_at(28.4, own_c=20.0)
    plan = edits.change_each(
        plan, {x.id: {"chemistry": chemistry, "managed": managed} for x in plan.items if isinstance(x, Battery)}
    )
    (unit,) = [x for x in plan.items if isinstance(x, Battery)]
    plan = edits.change(edits.add(plan, Zone(id="shed", ambient_c=20.0)), unit.id, zone="shed")
    states = {} if on else {e.id: "off" for e in plan.equipment}
    scenarios = (
        Scenario(id="mild", soc_percent=50.0), Scenario(id="hot", soc_percent=50.0, ambient_c={"shed": air_c}, states=states),
    )  # fmt: skip
    known = Assessment(edits.change_plan(plan, scenarios=scenarios))
    found = [f for f in known.findings if f.rule.id == "hot_bank"]
    assert [f.verdict for f in found] == ([Verdict.DEFECT] if told else [])
    assert all(told in f.headline and f.scenario == "hot" for f in found)
    (check,) = [c for c in known.checks if c.rule.id == "hot_bank"]
    assert (check.figure > check.limit) == bool(told)
