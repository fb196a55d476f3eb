"""Currents that a plan's scenario does not show at first sight: at the lowest voltage, between units, against the usual way."""

import pytest

from jaunty_copper.codes.checks import Verdict
from jaunty_copper.codes.rules.switching import turn_round
from jaunty_copper.network.study import study
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import (
    Battery,
    Breaker,
    Charger,
    Converter,
    CurrentLoad,
    Fuse,
    Inverter,
    Plan,
    PowerLoad,
    Scenario,
    Shunt,
)
from tests.build import agm_emf, bar, battery, fused, judge, wire


def found(plan, rule):
    return [f for f in judge(study(plan)) if f.rule.id == rule]


def inverter(rating, cut_out=20.8):
    return Plan(
        items=(battery(volts=24.0, ohm=0.004), Fuse(id="F", family="class-t-fuse", rating_a=rating)),
        equipment=(Inverter(id="I", nominal_v=24.0, power_w=2250.0, efficiency=0.9, cut_out_v=cut_out, idle_w=0.0),),
        runs=(
            wire("W1", "B.plus", "F.a", 0.1, "mm2-70"), wire("W2", "F.b", "I.plus", 0.9, "mm2-70"),
            wire("W3", "I.minus", "B.minus", 1.0, "mm2-70"),
        ),
        scenarios=(Scenario(id="run", soc_percent=90.0),),
    )  # fmt: skip


def test_a_device_carries_what_flows_at_the_lowest_voltage_at_which_the_equipment_still_runs():
    # 2250 W at 90 % efficiency and 20.8 V are 120.2 A; at the bank's present voltage 100 and some.
    (f,) = found(inverter(110.0), "device_too_small")
    assert f.figure == pytest.approx(2250.0 / 0.9 / 20.8, rel=1e-6)
    assert found(inverter(125.0), "device_too_small") == []
    # Where nothing says how far down it runs, what flows in the scenario counts.
    assert found(inverter(110.0, cut_out=None), "device_too_small") == []


def test_at_a_code_that_asks_125_percent_exactly_that_passes():
    plan = fused(rating=12.5)
    load = CurrentLoad(id="E", current_a=10.0)
    plan = plan.model_copy(update={"equipment": (load,), "practice": "nfpa_70"})
    assert found(plan, "device_too_small") == []
    assert found(edits.change(plan, "E", current_a=10.1), "device_too_small")


def pair(first, second, amps=5.0):
    units = [
        Battery(id=f"B{k}", chemistry="agm", nominal_v=12.0, capacity_ah=90.0, internal_ohm=0.008, soc_percent=soc)
        for k, soc in ((1, first), (2, second))
    ]
    return Plan(
        items=(*units, Fuse(id="F", family="class-t-fuse", rating_a=60.0)),
        equipment=(CurrentLoad(id="L", current_a=amps),),
        runs=(
            wire("L1", "B1.plus", "B2.plus", 0.3, "mm2-25"), wire("L2", "B1.minus", "B2.minus", 0.3, "mm2-25"),
            wire("W1", "B1.plus", "F.a", 0.1, "mm2-25"), wire("W2", "F.b", "L.plus", 1.0, "mm2-25"),
            wire("W3", "L.minus", "B2.minus", 1.0, "mm2-25"),
        ),
        scenarios=(Scenario(id="s", soc_percent=60.0),),
    )  # fmt: skip


def test_units_at_different_charge_level_out_and_are_no_units_of_another_voltage():
    plan = pair(70.0, 30.0)
    assert found(plan, "contradictory_sources") == []
    assert found(plan, "bank_spread") == []
    (f,) = found(plan, "levelling")
    # 0.36 V behind twice 8 milliohm and two links of 0.21 + 0.08 milliohm each; the load takes 5 A from the stronger side.
    drive = agm_emf(70) - agm_emf(30)
    between = 2 * 0.008 + 2 * (0.3 * 0.00078 + 80e-6)
    assert f.figure == pytest.approx(drive / between - 2.5, rel=0.06)
    assert f.figure > f.limit
    assert f.verdict is Verdict.DANGER
    assert found(pair(70.0, 65.0), "levelling")[0].verdict is Verdict.ADVICE
    assert found(pair(60.0, 60.0), "levelling") == []


def test_units_of_another_voltage_stay_contradictory():
    plan = edits.change(pair(60.0, 60.0), "B2", nominal_v=24.0)
    assert found(plan, "contradictory_sources")


def counted(lands):
    plan = edits.add(fused(), Shunt(id="S", rating_a=100.0))
    plan = edits.change(plan, "W3", a="S.b")
    return edits.add(
        plan, wire("WS", "M.s1", "S.a", 0.2, "mm2-16"), Charger(id="C", set_v=14.2, current_a=5.0),
        Fuse(id="FC", family="cylindrical-fuse", rating_a=10.0), wire("C1", "P.s3", "FC.a", 0.1, "mm2-2.5"),
        wire("C2", "FC.b", "C.plus", 1.0, "mm2-2.5"), wire("C3", "C.minus", lands, 1.0, "mm2-2.5"),
    )  # fmt: skip


def test_what_lands_on_the_banks_side_of_the_shunt_is_not_counted():
    (f,) = found(counted("B.minus"), "past_the_shunt")
    assert f.place == "C"
    assert found(counted("M.s3"), "past_the_shunt") == []


def test_a_shunt_of_one_circuit_alone_accuses_no_other():
    plan = edits.add(fused(), Shunt(id="S", rating_a=100.0), PowerLoad(id="X", power_w=20.0))
    plan = edits.change(plan, "W6", b="S.a")
    plan = edits.add(
        plan, wire("WS", "S.b", "M.s2", 0.1, "mm2-2.5"), wire("X1", "P.s4", "X.plus"), wire("X2", "X.minus", "M.s4")
    )
    assert found(plan, "past_the_shunt") == []


def turning(family):
    """A breaker between a bank and bars with a load and a charger: charging, the current turns."""
    return Plan(
        items=(battery(ohm=0.02), Breaker(id="K", family=family, rating_a=50.0), bar("P", 3), bar("M", 3)),
        equipment=(PowerLoad(id="E", power_w=100.0), Charger(id="C", set_v=14.2, current_a=20.0)),
        runs=(
            wire("W1", "B.plus", "K.a", 0.1), wire("W2", "K.b", "P.s1", 0.3), wire("W3", "M.s1", "B.minus", 0.4),
            wire("W4", "P.s2", "E.plus"), wire("W5", "E.minus", "M.s2"),
            wire("W6", "P.s3", "C.plus"), wire("W7", "C.minus", "M.s3"),
        ),
        scenarios=(
            Scenario(id="night", soc_percent=60.0, states={"C": "off"}),
            Scenario(id="day", soc_percent=60.0, states={"E": "off"}),
        ),
    )  # fmt: skip


def test_a_breaker_with_marked_poles_must_not_break_a_current_that_turns():
    (f,) = found(turning("dc-miniature-breaker"), "turning_current")
    assert f.verdict is Verdict.DANGER
    after = f.fix().apply(turning("dc-miniature-breaker"))
    assert found(after, "turning_current") == []
    assert found(turning("hydraulic-magnetic-breaker"), "turning_current") == []
    only_night = turning("dc-miniature-breaker").model_copy(
        update={"scenarios": turning("dc-miniature-breaker").scenarios[:1]}
    )
    # That no scenario lets it charge does not keep it from charging.
    (f,) = found(only_night, "turning_current")
    assert f.figure == pytest.approx(20.0, rel=0.01)
    assert f.scenario is None
    assert "once what charges feeds nothing but the bank" in f.headline
    assert found(edits.remove(only_night, "C"), "turning_current") == []


def test_a_load_that_takes_all_a_charger_gives_hides_no_current_that_turns():
    plan = turning("dc-miniature-breaker")
    plan = edits.change(plan, "E", power_w=400.0).model_copy(
        update={"scenarios": (Scenario(id="both", soc_percent=60.0),)}
    )
    assert study(plan).state("both").current("K") > 5.0
    (f,) = found(plan, "turning_current")
    # The charger's 20 A, against the way in which the bank feeds the load.
    assert f.figure == pytest.approx(20.0, rel=0.01)


def charged(family="dc-miniature-breaker"):
    """A breaker in a charger's own circuit: what it carries comes from the charger, a short from the bank."""
    return edits.add(
        fused(), Charger(id="C", set_v=14.2, current_a=20.0), Breaker(id="K", family=family, rating_a=32.0),
        wire("C1", "P.s3", "K.a", 0.1), wire("C2", "K.b", "C.plus", 1.0), wire("C3", "C.minus", "M.s3", 1.0),
    )  # fmt: skip


def test_a_breaker_with_marked_poles_stands_wrong_in_a_chargers_circuit_either_way_round():
    (f,) = found(charged(), "turning_current")
    assert (f.place, f.verdict) == ("K", Verdict.DANGER)
    assert f.figure == pytest.approx(20.0, rel=1e-6)
    turned = turn_round(charged(), "K")
    assert found(charged(), "line_side") == []
    assert [x.place for x in found(turned, "line_side")] == ["K"]
    assert [x.place for x in found(turned, "turning_current")] == ["K"]
    assert found(f.fix().apply(charged()), "turning_current") == []
    assert found(charged("hydraulic-magnetic-breaker"), "turning_current") == []


def test_a_breaker_with_marked_poles_between_two_banks_meets_a_short_from_either_side():
    """Each bank drives into a short beyond the breaker what 50 milliohm allow, and at most ten more of copper and breaker."""
    plan = Plan(
        items=(battery("B", ohm=0.05), battery("D", ohm=0.05), Breaker(id="K", family="dc-miniature-breaker", rating_a=32.0)),
        runs=(
            wire("W1", "B.plus", "K.a", 0.5), wire("W2", "K.b", "D.plus", 0.5), wire("W3", "B.minus", "D.minus", 1.0),
        ),
    )  # fmt: skip
    (f,) = found(plan, "turning_current")
    assert f.scenario is None
    assert agm_emf(100.0) / 0.06 < f.figure < agm_emf(100.0) / 0.05
    assert "from either side" in f.headline


def test_marks_of_line_and_load_side_alone_do_not_forbid_a_current_either_way():
    own = library().device_families["dc-miniature-breaker"].model_copy(update={"id": "own", "sided": "line"})
    plan = edits.put_family(charged("hydraulic-magnetic-breaker"), own)
    plan = edits.change(plan, "K", family="own")
    assert found(plan, "turning_current") == []
    # What only says that it is marked may be marked for polarity.
    plan = edits.put_family(plan, own.model_copy(update={"sided": "yes"}))
    assert [f.place for f in found(plan, "turning_current")] == ["K"]


def test_a_converter_at_half_gives_half_of_its_current():
    converter = Converter(id="V", nominal_v=24.0, out_nominal_v=12.0, set_v=14.4, current_a=20.0)
    plan = Plan(
        items=(battery(volts=24.0), battery("C")),
        equipment=(converter,),
        runs=(
            wire("a", "B.plus", "V.in_plus"), wire("b", "V.in_minus", "B.minus"),
            wire("c", "V.out_plus", "C.plus"), wire("d", "V.out_minus", "C.minus"),
        ),
        scenarios=(Scenario(id="half", soc_percent=50.0, states={"V": 0.5}), Scenario(id="full", soc_percent=50.0)),
    )  # fmt: skip
    half, full = (s.output(converter)[1] for s in study(plan).states)
    assert (half, full) == (pytest.approx(10.0), pytest.approx(20.0))
