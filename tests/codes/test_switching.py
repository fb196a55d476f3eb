"""Starts, capacitors, switches in a fault, bars, line sides, ignition, selectivity; and the fixed-installation books."""

import math

import numpy as np
import pytest

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.codes.code import code_of
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import (
    Breaker,
    Charger,
    Chassis,
    ChassisPoint,
    Contactor,
    Disconnect,
    Fuse,
    PowerLoad,
    Run,
    Zone,
)
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.starts import starts_of
from tests.build import battery, fused, judge, wire

IEC, NFPA, NA = "iec_60364", "nfpa_70", "north_american_small_craft"


def found(plan, rule, practice=None):
    return [f for f in judge(study(plan), practice) if f.rule.id == rule]


def two_circuits(first=10.0, second=5.0, family="blade-fuse"):
    plan = fused(rating=first, family=family)
    return edits.add_circuit(
        plan, "P", "M", PowerLoad(id="E2", power_w=20.0), Fuse(id="F2", family="blade-fuse", rating_a=second)
    )


def switched(**contactor):
    plan = edits.change(fused(conductor="mm2-10", rating=40.0), "E", input_uf=20000.0)
    return edits.insert_inline(plan, "W2", Contactor(id="C", **{"rating_a": 20.0, "thread": "M8", **contactor}))


# Starts and capacitors


def test_a_start_that_opens_a_fuse_is_told_by_the_bands_fast_edge():
    plan = edits.change(fused(power=100.0), "E", surge_w=240.0, surge_s=2.0)
    plan = edits.change(plan, "s", states={"E": "surge"})
    plan = edits.add(plan, plan.scenarios[0].model_copy(update={"id": "calm", "states": {}}))
    (f,) = found(plan, "surge_opens")
    s = Protection(study(plan))
    amps = abs(s.study.state("s").current("F1"))
    assert f.limit == pytest.approx(float(s.devices["F1"].shortest(np.array(amps))))
    assert f.figure == 2.0
    assert not found(edits.change(plan, "F1", rating_a=25.0), "surge_opens")
    assert not found(edits.change(plan, "E", surge_s=f.limit * 0.9), "surge_opens")


def test_capacitors_that_fill_at_once_weld_a_contactor_and_a_resistor_mends_it():
    plan = switched()
    (f,) = found(plan, "inrush")
    s = Protection(study(plan)).faults
    k = s.at["E.plus"]
    assert f.place == "C"
    assert f.figure == pytest.approx(abs(s.peak.open_v[k]) / (s.peak.ohm[k] + 0.005))
    assert f.limit == 200.0
    after = f.fix().apply(plan)
    c = after.by_id["C"]
    # Five time constants of the resistor with 20 mF.
    assert c.precharge_s == pytest.approx(5.0 * c.precharge_ohm * 0.02, abs=0.1)
    assert not found(after, "inrush")
    assert found(edits.change(after, "C", precharge_s=0.1 * c.precharge_s), "inrush")
    assert not found(switched(making_a=5000.0), "inrush")


# Switches and bars in a fault


def test_a_switch_that_bears_less_than_its_fuse_lets_through():
    plan = edits.insert_inline(
        fused(), "W2", Disconnect(id="Q", rating_a=60.0, making_a=300.0, short_time_a=60.0, thread="M8")
    )
    by_severity = {f.verdict: f for f in found(plan, "short_time")}
    assert set(by_severity) == {Verdict.DEFECT, Verdict.ADVICE}
    assert by_severity[Verdict.ADVICE].figure == pytest.approx(Protection(study(plan)).faults.greatest_through("Q")[0])
    strong = edits.change(plan, "Q", making_a=5000.0, short_time_a=5000.0)
    assert not found(strong, "short_time")


def test_a_switch_is_heated_by_less_than_its_short_time_current_that_flows_for_longer():
    # A class T fuse of 60 A lets 3.5 times that flow for some seconds; the switch bears a little more, but for one.
    plan = edits.insert_inline(fused(), "W2", Disconnect(id="Q", rating_a=60.0, short_time_a=230.0, thread="M8"))
    d = Protection(study(plan)).devices["F0"]
    amps = np.geomspace(23.0, 229.0, 200)
    # What goes on for longer heats it no less than in the first five seconds.
    lets = (amps**2 * np.minimum(d.longest(amps), 5.0)).max()
    assert bool(found(plan, "short_time")) is bool(lets > 230.0**2)
    assert lets > 230.0**2
    bears = edits.change(plan, "Q", short_time_a=1.02 * np.sqrt(lets))
    assert not [f for f in found(bears, "short_time") if f.verdict is not Verdict.ADVICE]
    assert found(edits.change(plan, "Q", short_time_a=0.97 * np.sqrt(lets)), "short_time")


def test_the_force_between_bars_is_that_of_the_formula():
    plan = edits.change(fused(), "B", internal_ohm=0.0004)
    plan = edits.change(plan, "P", gap_mm=30.0, support_mm=400.0, width_mm=10.0, thickness_mm=3.0)
    (f,) = found(plan, "bar_force")
    s = Protection(study(plan)).faults
    peak = max(abs(s.peak.current_a[s.at[f"P.s{k}"]]) for k in range(1, 5))
    newton = 0.2 * (peak / 1000.0) ** 2 * 400.0 / 30.0
    assert f.figure == pytest.approx(newton * 400.0 / 8.0 / (10.0 * 3.0**2 / 6.0))
    after = f.fix().apply(plan)
    assert after.by_id["P"].support_mm < 400.0
    assert not found(after, "bar_force")
    assert not found(fused(), "bar_force")


def test_a_breaker_fed_at_its_load_side_is_turned_round():
    plan = edits.replace_item(fused(), "F1", Breaker(id="K", family="thermal-breaker", rating_a=25.0))
    assert not found(plan, "line_side")
    wrong = edits.change(edits.change(plan, "W4", b="K.b"), "W5", a="K.a")
    (f,) = found(wrong, "line_side")
    after = f.fix().apply(wrong)
    assert (after.run_by_id["W4"].b, after.run_by_id["W5"].a) == ("K.a", "K.b")
    assert not found(after, "line_side")
    assert not found(edits.change(wrong, "K", family="hydraulic-magnetic-breaker"), "line_side")


# Ignition


def test_what_may_spark_does_not_stand_where_vapour_gathers():
    plan = edits.add(fused(), Zone(id="bilge", ignition_hazard=True))
    plan = edits.change(plan, "F1", zone="bilge")
    (f,) = found(plan, "ignition")
    assert (f.place, f.verdict) == ("F1", Verdict.DANGER)
    assert not found(f.fix().apply(plan), "ignition")
    assert not found(edits.change(plan, "F1", ignition_protected=True), "ignition")
    assert not found(edits.change(plan, "F1", family="terminal-cube-fuse", rating_a=30.0), "ignition")
    assert not found(edits.change(plan, "bilge", ignition_hazard=False), "ignition")
    pump = edits.change(plan, "E", zone="bilge")
    assert {f.place for f in found(pump, "ignition")} == {"F1", "E"}
    assert {f.place for f in found(edits.change(pump, "E", ignition_protected=True), "ignition")} == {"F1"}


def test_a_family_of_which_some_are_protected_is_to_be_looked_up():
    plan = edits.replace_item(fused(), "F1", Breaker(id="K", family="hydraulic-magnetic-breaker", rating_a=10.0))
    plan = edits.change(edits.add(plan, Zone(id="bilge", ignition_hazard=True)), "K", zone="bilge")
    assert [f.verdict for f in found(plan, "ignition")] == [Verdict.DEFECT]


# Selectivity


def test_an_unselective_pair_is_told_at_the_downstream_device_and_one_circuit_is_not():
    assert not found(two_circuits(), "selectivity")
    plan = edits.change(two_circuits(), "F1", family="class-t-fuse", rating_a=50.0)
    (f,) = found(plan, "selectivity")
    assert (f.place, f.verdict) == ("F1", Verdict.DEFECT)
    alone = edits.change(fused(), "F1", family="class-t-fuse", rating_a=50.0)
    assert not found(alone, "selectivity")


# Overload


def test_an_overload_that_the_device_lets_flow_for_hours_is_told_beyond_five_seconds():
    # A slow link of 60 A: nothing to say of 16 mm2, but 6 mm2 overheats within the minute that it may take.
    plan = edits.change(
        fused(conductor="mm2-16", power=300.0, length=2.0), "F1", family="open-link-limiter", rating_a=60.0
    )
    assert not [f for f in found(plan, "fault_withstand") if f.place == "W5"]
    thin = edits.change(plan, "W5", conductor="mm2-6")
    s = Protection(study(thin))
    (f,) = [f for f in found(thin, "fault_withstand") if f.place == "W5"]
    assert (f.verdict, f.unit) == (Verdict.DEFECT, "A")
    seconds = s.devices["F1"].longest(np.array([f.figure]))
    assert seconds[0] > 5.0
    assert f.limit == pytest.approx(float(s.withstand.current(seconds, np.array([s.withstand.row["W5"]]))[0]))
    assert f.figure > f.limit
    assert not [g for g in found(f.fix().apply(thin), "fault_withstand") if g.place == "W5"]


def test_the_conventional_current_is_asked_by_one_book_only():
    plan = edits.change(
        fused(length=6.0, conductor="mm2-4", power=250.0, insulation="pvc-70"),
        "F1",
        family="gbat-fuse",
        rating_a=35.0,
    )
    (f,) = found(plan, "conventional_current", IEC)
    s = Protection(study(plan))
    bears = Case(s, IEC).ampacities["W5"].amps
    assert f.limit == pytest.approx(1.45 * bears)
    assert f.figure == pytest.approx(s.devices["F1"].slow_a * s.devices["F1"].band.opens_at(7200.0))
    assert not found(plan, "conventional_current", NA)


# Fixed installations


@pytest.mark.parametrize(
    ("practice", "conductor", "insulation", "conduit", "amps"),
    [
        (IEC, "mm2-10", "pvc-70", False, 63.0), (IEC, "mm2-10", "pvc-70", True, 57.0), (IEC, "mm2-50", "pvc-70", False, 168.0),
        (NFPA, "awg-6", "pvc-60", False, 55.0), (NFPA, "awg-6", "pvc-60", True, 55.0), (NFPA, "awg-1/0", "pvc-75", True, 150.0),
        # 152.0 mm² are 300 kcmil; 150 mm² are not thinner than 250.
        (NFPA, "mm2-150", "pvc-75", False, 255.0), (IEC, "mm2-240", "pvc-70", False, 461.0),
    ],
)  # fmt: skip
def test_ampacity_of_fixed_installations_is_the_standards_table(practice, conductor, insulation, conduit, amps):
    plan = edits.change(fused(), "W5", conductor=conductor, insulation=insulation, conduit=conduit)
    assert Case(study(plan), practice).ampacities["W5"].by_table == pytest.approx(amps)


def test_grouped_and_warm_conductors_carry_less_by_the_standards_factors():
    plan = edits.change(fused(), "W5", conductor="mm2-10", insulation="pvc-70", bundle=4)
    assert Case(study(plan), IEC).ampacities["W5"].by_table == pytest.approx(63.0 * 0.80)
    warm = edits.change(
        edits.add(fused(), Zone(id="z", ambient_c=50.0)), "W5", conductor="mm2-10", insulation="pvc-70", zone="z"
    )
    # B.52.14: 0.71 at 50 C; the rule behind the table gives 0.707.
    assert Case(study(warm), IEC).ampacities["W5"].by_table == pytest.approx(63.0 * math.sqrt(0.5), rel=1e-6)


def test_terminals_limit_by_their_own_column_below_and_above_one_gauge():
    small = edits.change(fused(), "W5", conductor="awg-6", insulation="xlpe-125")
    assert Case(study(small), NFPA).ampacities["W5"].by_terminals == pytest.approx(55.0)
    large = edits.change(fused(), "W5", conductor="awg-4/0", insulation="xlpe-125")
    assert Case(study(large), NFPA).ampacities["W5"].by_terminals == pytest.approx(230.0)


def test_a_device_for_a_continuous_load_is_a_quarter_larger():
    plan = fused(power=105.0)
    current = float(study(plan).continuous_a[study(plan).wiring.branch["F1"]])
    assert 8.0 < current < 10.0
    (f,) = found(plan, "device_too_small", NFPA)
    assert f.figure == pytest.approx(1.25 * current)
    assert not found(plan, "device_too_small", NA)


def test_the_books_of_fixed_installations_have_every_limit_with_a_source():
    for name in (IEC, NFPA):
        b = code_of(name)
        assert set(b.limits) == set(code_of(NA).limits)
        assert all(x.source for x in b.limits.values())


# The table beside the computed value


@pytest.mark.parametrize("alone", [True, False])
def test_a_breaker_with_a_line_side_between_two_banks_has_a_wrong_side_whichever_way_it_stands(alone):
    """A second bank behind the bars drives a short before the breaker through it from its load side, by a divider of ohms."""
    plan = edits.replace_item(fused(), "F0", Breaker(id="K", family="thermal-breaker", rating_a=60.0))
    if not alone:
        plan = edits.add(
            plan, battery("B2", ohm=0.02), Fuse(id="F2", family="class-t-fuse", rating_a=60.0), wire("X1", "B2.plus", "F2.a", 0.1, "mm2-16"),
            wire("X2", "F2.b", "P.s4", 0.3, "mm2-16"), wire("X3", "B2.minus", "M.s4", 0.3, "mm2-16"),
        )  # fmt: skip
    told = found(plan, "line_side")
    assert [f.place for f in told] == ([] if alone else ["K"])
    for f in told:
        # A full AGM unit, nine tenths of 20 mOhm, the copper about it of a few, at most.
        assert 13.0 / (0.9 * 0.02 + 0.008) < f.figure < 13.5 / (0.9 * 0.02)
        after = f.fix().apply(plan)
        assert after.by_id["K"].family == "hydraulic-magnetic-breaker"
        assert not found(after, "line_side")


@pytest.mark.parametrize(("cranking", "limit"), [(600.0, 1500.0), (900.0, 3000.0), (1200.0, 5000.0)])
def test_a_main_breaker_below_the_cranking_table_is_told_beside_what_is_computed(cranking, limit):
    plan = edits.replace_item(fused(), "F0", Breaker(id="K", family="thermal-breaker", rating_a=60.0))
    weak = plan.parts.model_copy(update={
        "device_families": (study(plan).wiring.parts.device_families["thermal-breaker"].model_copy(
            update={"id": "weak", "interrupt_v_ka": ((14.0, 1.0), (48.0, 0.5))}),)})  # fmt: skip
    plan = edits.change(edits.change_plan(plan, parts=weak), "K", family="weak")
    assert not found(plan, "breaker_table", NA)
    (f,) = found(edits.change(plan, "B", cranking_a=cranking), "breaker_table", NA)
    assert (f.figure, f.limit) == (1000.0, limit)
    assert not found(edits.change(plan, "B", cranking_a=cranking), "breaker_table", IEC)


def test_a_bank_that_feeds_a_charger_s_cable_in_reverse_is_said_to():
    plan = edits.add_circuit(
        fused(), "P", "M", Charger(id="CHG", set_v=14.4, current_a=20.0), None, length_m=3.0, conductor="mm2-6"
    )
    run = next(r.id for r in plan.runs if r.b == "CHG.plus")
    # Its only device stands at the charger, on a main cable without any.
    plan = edits.insert_inline(plan, run, Fuse(id="FC", family="strip-fuse-sf30", rating_a=30.0), 2.9)
    plan = edits.remove_inline(plan, "F0")
    reverse = [f for f in found(plan, "no_protection") if "in reverse, past FC" in f.headline]
    assert reverse
    assert all("in reverse" not in f.headline for f in found(edits.remove_inline(fused(), "F0"), "no_protection"))


@pytest.mark.parametrize(
    ("ends", "told"), [(("B.minus", "K.a", "K.b", "M.s1"), False), (("B.minus", "K.b", "K.a", "M.s1"), True)]
)
def test_in_a_live_minus_the_line_side_is_still_the_banks(ends, told):
    """Plus is earthed: a breaker with line and load side marked stands in minus, its line side at the bank."""
    plan = edits.remove(fused(), "W3")
    plan = edits.add(
        plan, Breaker(id="K", family="thermal-breaker", rating_a=60.0), Chassis(id="H", points=(ChassisPoint(id="p1"),)),
        wire("N1", ends[0], ends[1], 0.15, "mm2-16"), wire("N2", ends[2], ends[3], 0.5, "mm2-16"), wire("N3", "P.s4", "H.p1", 0.3, "mm2-16"),
    )  # fmt: skip
    assert bool([f for f in judge(study(plan)) if f.rule.id == "line_side"]) is told


def test_a_start_finds_a_device_warm_from_what_else_it_carries():
    # One fuse before two loads: alone the start passes it, after an hour of the other it does not.
    plan = edits.change(fused(power=90.0, rating=15.0), "E", surge_w=340.0, surge_s=0.1)
    plan = edits.change(plan, "s", states={"E": "surge"})
    p = Case(study(plan)).protection
    start = starts_of(p, "F1")[0]
    assert start.before_a == pytest.approx(0.0, abs=1e-6)
    device = p.devices["F1"]
    cold = device.shortest_warm(start.current_a, 0.0)
    warm = device.shortest_warm(start.current_a, 0.9 * device.fast_a)
    assert warm < 0.6 * cold
    lasts = 0.5 * (warm + cold)
    alone = edits.change(plan, "E", surge_s=lasts)
    assert not found(alone, "surge_opens")
    # Another load behind the same fuse, its current on top of a start that is smaller by it.
    other = edits.add(alone, PowerLoad(id="E2", power_w=0.9 * device.fast_a * 12.0))
    other = edits.change_plan(
        other, runs=(*other.runs, Run(id="X1", a="E.plus", b="E2.plus", length_m=0.1), Run(id="X2", a="E.minus", b="E2.minus", length_m=0.1))
    )  # fmt: skip
    other = edits.change(other, "E", surge_w=340.0 - 0.9 * device.fast_a * 12.0)
    (begun,) = starts_of(Case(study(other)).protection, "F1")
    assert begun.before_a == pytest.approx(0.9 * device.fast_a, rel=0.3)
    (f,) = found(other, "surge_opens")
    assert "warm from" in f.headline
