"""Each rule: a plan that breaks it, the same plan just inside the limit, and what the mend does."""

import numpy as np
import pytest

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.codes.rules import RULES
from jaunty_copper.codes.rules.drop import worst_drop
from jaunty_copper.network.study import study
from jaunty_copper.physics.heat import time_to_reach
from jaunty_copper.plan import defaults, edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import (
    Charger,
    Contactor,
    Converter,
    CurrentLoad,
    Disconnect,
    Fuse,
    Inverter,
    Override,
    Plan,
    PlugConnector,
    Post,
    PowerLoad,
    Route,
    Scenario,
    Shunt,
    Zone,
)
from tests.build import bar, battery, fused, judge, loop, ohms, wire

NA, ISO = "north_american_small_craft", "iso_small_craft"
NFPA, IEC = "nfpa_70", "iec_60364"


def found(plan, rule, practice=NA):
    return [f for f in judge(study(plan), practice) if f.rule.id == rule]


def mended(plan, rule, practice=NA, place=None):
    """The plan after the mend of its only finding of a rule, which must be gone."""
    (finding,) = [f for f in found(plan, rule, practice) if place in (None, f.place)]
    assert finding.fix() is not None
    after = finding.fix().apply(plan)
    assert not [f for f in found(after, rule, practice) if f.place == finding.place]
    return after


def test_a_sound_plan_has_no_findings_in_either_practice():
    sound = edits.insert_inline(fused(), "W2", Disconnect(id="Q", rating_a=60.0))
    for practice in (NA, ISO):
        assert [f.rule.id for f in judge(study(sound), practice)] == ["bond_unsaid"]


def test_the_clean_example_is_clean_and_the_demo_is_not():
    assert judge(study(example("seed_shed"))) == ()
    assert judge(study(example("relay_mast"))) == ()
    rules = {f.rule.id for f in judge(study(example("orchard_station")))}
    assert rules >= {
        "no_protection", "branch_unprotected", "interrupt_rating", "heat_opens", "selectivity", "bank_spread", "voltage_drop",
        "lowest_voltage", "lug_stud",
    }  # fmt: skip


def test_every_finding_says_all_it_should():
    for name in ("orchard_station", "relay_mast"):
        for practice in (NA, ISO):
            for f in judge(study(example(name)), practice):
                assert f.headline
                assert f.why.endswith(".")
                assert f.source
                assert f.code == practice
                assert f.verdict in Verdict
                if f.limit is not None:
                    assert f.unit


def test_rule_ids_are_unique():
    assert len({r.id for r in RULES}) == len(RULES)


@pytest.mark.parametrize("practice", [NA, ISO])
def test_every_mend_of_the_demo_mends_and_brings_no_new_stop(practice):
    plan = example("orchard_station")
    before = judge(study(plan), practice)
    stops = sum(f.verdict is Verdict.DANGER and f.rule.id != "interrupt_rating" for f in before)
    for f in before:
        if f.fix() is not None:
            after = judge(study(f.fix().apply(plan)), practice)
            assert (f.rule.id, f.place) not in {(g.rule.id, g.place) for g in after}, f.headline
            # A thicker cable lets more fault current through: that a device must then be stronger is news.
            new = [g for g in after if g.verdict is Verdict.DANGER and g.rule.id != "interrupt_rating"]
            assert len(new) <= stops, f.headline


def test_mending_all_one_after_the_other_leaves_little():
    plan = example("orchard_station")
    for _ in range(30):
        mend = next((f.fix() for f in judge(study(plan)) if f.fix() is not None), None)
        if mend is None:
            break
        plan = mend.apply(plan)
    left = judge(study(plan))
    assert not [f for f in left if f.verdict is Verdict.DANGER], [f.headline for f in left]


# Conductors


def test_ampacity():
    plan = edits.change(fused(power=330.0, conductor="mm2-1.5", rating=40.0, length=1.0), "F0", rating_a=80.0)
    over = {f.place for f in found(plan, "ampacity")}
    assert over == {"W4", "W5", "W6"}
    after = mended(plan, "ampacity", place="W6")
    assert after.run_by_id["W6"].conductor != "mm2-1.5"
    assert not found(fused(power=100.0), "ampacity")


@pytest.mark.parametrize(
    ("minutes", "verdict"),
    [
        (None, Verdict.DANGER),
        (0.5, Verdict.DEFECT),
        (2.0, Verdict.DEFECT),
        (15.0, Verdict.DANGER),
        (300.0, Verdict.DANGER),
    ],
)
def test_more_than_the_ampacity_for_minutes_is_judged_by_its_warmth_too(minutes, verdict):
    plan = edits.change(fused(power=330.0, conductor="mm2-1.5", rating=40.0, length=1.0), "F0", rating_a=80.0)
    plan = edits.change_plan(plan, scenarios=(Scenario(id="s", minutes=minutes),))
    (told,) = [f for f in found(plan, "ampacity") if f.place == "W5"]
    assert told.verdict == verdict
    # By another way: the time in which that current brings the copper there, an integral over its temperature.
    (state,) = study(plan).states
    k = state.wiring.branch["W5"]
    amps = np.abs(state.point.current_a[state.wiring.circuit.heated])
    (row,) = [n for n, r in enumerate(state.wiring.heated_runs) if r.id == "W5"]
    reached = float(time_to_reach(state.wiring.circuit.cable, amps, 105.0, 30.0)[row])
    assert float(state.point.temperature_c[k]) > 105.0
    assert (told.verdict is Verdict.DEFECT) == (minutes is not None and 60.0 * minutes < reached)
    assert (told.verdict is Verdict.DEFECT) == ("where something ends the load in time" in told.headline)
    # What cannot lose its heat, or comes again and again, is warmer than that: no excuse.
    for field in ({"bundle": 3}, {"conduit": True}, {"sheathed": True}, {"parallel": 2}):
        laid = edits.change(plan, "W5", **field)
        assert {f.verdict for f in found(laid, "ampacity") if f.place == "W5"} <= {Verdict.DANGER}, field
    again = edits.change_plan(
        plan, scenarios=(plan.scenarios[0].model_copy(update={"after": "t"}), Scenario(id="t", minutes=1.0, after="s"))
    )
    assert {f.verdict for f in found(again, "ampacity") if f.place == "W5"} == {Verdict.DANGER}
    # Another scenario that goes on for good takes the excuse away.
    also = edits.change_plan(plan, scenarios=(*plan.scenarios, Scenario(id="on")))
    assert {f.verdict for f in found(also, "ampacity") if f.place == "W5"} == {Verdict.DANGER}


def test_ampacity_falls_with_ambient_bundle_and_parallel_raises_it():
    plan = fused(power=250.0, conductor="mm2-2.5", rating=30.0)
    assert not found(plan, "ampacity")
    assert found(edits.change(plan, "W5", bundle=4), "ampacity")
    hot = edits.change(edits.add(plan, Zone(id="hot", ambient_c=85.0)), "W5", zone="hot")
    assert found(hot, "ampacity")
    assert not found(edits.change(hot, "W5", parallel=2), "ampacity")


def test_a_scenarios_own_ambient_counts():
    plan = edits.change(edits.add(fused(power=250.0, rating=30.0), Zone(id="hot")), "W5", zone="hot")
    assert not found(plan, "ampacity")
    assert found(edits.change(plan, "s", ambient_c={"hot": 85.0}), "ampacity")


def test_insulation_for_an_engine_space():
    plan = edits.add(fused(), Zone(id="engine", ambient_c=50.0, engine_space=True))
    plan = edits.change(plan, "W5", zone="engine", insulation="pvc-60")
    assert not found(plan, "insulation", NA)
    after = mended(plan, "insulation", ISO)
    assert after.run_by_id["W5"].insulation != "pvc-60"
    boiling = edits.change(plan, "engine", ambient_c=60.0)
    assert found(boiling, "insulation", NA)


def test_return_conductor():
    plan = edits.change(fused(), "W6", conductor="mm2-1.5")
    assert found(plan, "return_conductor")[0].place == "W6"
    assert mended(plan, "return_conductor").run_by_id["W6"].conductor == "mm2-2.5"
    assert not found(edits.change(fused(), "W6", conductor="mm2-1.5", parallel=2), "return_conductor")


# Protection


def test_no_protection_by_distance_with_its_covered_exceptions():
    far = edits.change(fused(), "W1", length_m=0.9)
    assert found(far, "no_protection", NA)[0].limit == pytest.approx(0.178)
    assert found(far, "no_protection", ISO)[0].limit == pytest.approx(0.2)
    covered = edits.change(far, "W1", sheathed=True)
    assert not found(covered, "no_protection", NA)
    assert not found(covered, "no_protection", ISO)
    farther = edits.change(covered, "W1", length_m=1.9)
    assert found(farther, "no_protection", NA)[0].limit == pytest.approx(1.829)
    assert not found(farther, "no_protection", ISO)
    assert not found(edits.change(far, "W1", cranking=True), "no_protection", NA)
    between = edits.change(fused(), "W1", length_m=0.19)
    assert found(between, "no_protection", NA)
    assert not found(between, "no_protection", ISO)


def test_a_battery_has_no_tap_rule_in_fixed_installations():
    """NFPA 70 240.21(H): as close as practicable, in whatever it lies. IEC 60364-4-43 434.3: farther only as it says."""
    far = edits.change(fused(), "W1", length_m=0.9)
    laid = {
        "plain": {}, "sheathed": {"sheathed": True}, "in conduit": {"conduit": True}, "short-proof": {"short_proof": True},
        "all": {"sheathed": True, "conduit": True, "short_proof": True},
    }  # fmt: skip
    told = {
        code: {name for name, how in laid.items() if found(edits.change(far, "W1", **how), "no_protection", code)}
        for code in (NFPA, IEC)
    }
    assert told == {NFPA: set(laid), IEC: {"plain", "sheathed", "in conduit"}}
    (finding,) = found(far, "no_protection", IEC)
    assert finding.headline.endswith("0.15 m allowed; 3.00 m where it is laid short-proof, nothing that burns near")
    assert "434.2" in finding.source
    assert found(edits.change(far, "W1", length_m=3.1, short_proof=True), "no_protection", IEC)
    # The fix brings it near enough for both.
    for code in (NFPA, IEC):
        after = mended(far, "no_protection", code)
        assert not found(after, "no_protection", code)


def test_a_tap_in_a_fixed_installation_asks_for_what_its_exception_needs():
    """IEC 434.2.1: laid so that a short is unlikely. NFPA 240.21(B)(1): in a raceway, a tenth of the feeder's device."""
    tap = fused(to_fuse=2.0)
    for code, how in ((IEC, "short_proof"), (NFPA, "conduit")):
        told = {
            name: bool(found(edits.change(tap, "W4", **{name: True}), "branch_unprotected", code))
            for name in ("sheathed", "conduit", "short_proof")
        }
        assert told == {name: name != how for name in told}
    # 2.5 mm2 in conduit may carry more than a tenth of 60 A, and less than a tenth of 400 A.
    strong = edits.change(tap, "F0", rating_a=400.0)
    strong = edits.change(edits.change(strong, "W2", conductor="mm2-120"), "W1", conductor="mm2-120")
    assert found(edits.change(strong, "W4", conduit=True), "branch_unprotected", NFPA)
    assert not found(edits.change(strong, "W4", short_proof=True), "branch_unprotected", IEC)


def test_a_raceway_is_a_conduit_not_an_open_tray():
    tap = edits.add(fused(to_fuse=2.0), Route(id="tray"), Route(id="pipe", inner_mm=32.0))
    assert found(edits.change(tap, "W4", route="tray"), "branch_unprotected", NFPA)
    assert not found(edits.change(tap, "W4", route="pipe"), "branch_unprotected", NFPA)


def test_the_mend_of_a_near_device_moves_it_and_keeps_the_way_as_long():
    plan = edits.change(fused(), "W1", length_m=0.9)
    after = mended(plan, "no_protection")
    assert sum(r.length_m for r in after.runs) == pytest.approx(sum(r.length_m for r in plan.runs))


def test_no_protection_at_all_puts_a_device_at_the_post():
    plan = edits.remove_inline(fused(), "F0")
    (finding,) = found(plan, "no_protection")
    assert finding.place == "W1"
    after = mended(plan, "no_protection")
    assert len(after.items) == len(plan.items) + 1


def test_links_between_units_are_part_of_the_bank():
    assert not found(defaults.add_unit(fused(), "B"), "no_protection")


def test_device_too_large_and_the_next_size_up():
    big = fused(rating=40.0)
    assert found(big, "device_too_large", NA)[0].place == "F1"
    assert mended(big, "device_too_large").by_id["F1"].rating_a <= 35
    # 6 mm2 counts as 10 AWG: 60 A, bundled by three 42 A. A current of 41 A fits no standard
    # rating up to 42 A, so North American practice lets 50 A stand, but not 60 A.
    tight = fused(conductor="mm2-6", rating=50.0, family="large-blade-fuse", length=0.4, bundle=3)
    tight = edits.replace_item(tight, "E", CurrentLoad(id="E", current_a=41.0))
    assert not found(tight, "device_too_large", NA)
    assert found(edits.change(tight, "F1", rating_a=60.0), "device_too_large", NA)
    strict = edits.set_override(tight, "next_size_up_share", 1.0, "for the test")
    assert found(strict, "device_too_large", NA)[0].limit == pytest.approx(42.0)
    # Where 40 A carries the current, 50 A does not stand.
    lighter = edits.change(tight, "E", current_a=39.0)
    assert found(lighter, "device_too_large", NA)[0].limit == pytest.approx(42.0)


def test_a_branch_is_told_by_its_ampacity_not_by_the_next_size():
    thin = edits.change(example("orchard_station"), "W40", conductor="mm2-10")
    (finding,) = [f for f in judge(study(thin)) if f.rule.id == "branch_unprotected"]
    assert "it may carry 57.3 A" in finding.headline


def test_a_device_too_large_for_a_switch_or_plug_behind_it():
    plan = edits.insert_inline(fused(rating=20.0), "W5", PlugConnector(id="X", rating_a=10.0))
    assert "X permits" in found(plan, "device_too_large")[0].headline
    assert mended(plan, "device_too_large").by_id["F1"].rating_a == 10.0


def test_a_branch_without_a_device_of_its_own():
    plan = edits.remove_inline(fused(), "F1")
    (finding,) = found(plan, "branch_unprotected")
    assert finding.place == "W4"
    after = mended(plan, "branch_unprotected")
    new = next(x for x in after.items if x not in plan.items)
    assert isinstance(new, Fuse)
    assert new.rating_a <= 35.0
    assert not found(
        edits.change(edits.remove_inline(fused(conductor="mm2-16"), "F1"), "W4", length_m=2.0), "branch_unprotected"
    )


def test_a_short_tap_to_its_own_device_needs_none():
    assert not found(fused(to_fuse=0.17), "branch_unprotected")
    assert found(fused(to_fuse=0.3), "branch_unprotected", NA)
    assert not found(fused(to_fuse=0.3, sheathed=True), "branch_unprotected", NA)


def test_several_feeds_together():
    plan = edits.add(
        fused(conductor="mm2-16", rating=40.0), battery("C"), Fuse(id="FC", family="class-t-fuse", rating_a=100.0),
        wire("X1", "C.plus", "FC.a", 0.1, "mm2-50"), wire("X2", "FC.b", "P.s4", 0.5, "mm2-50"), wire("X3", "C.minus", "M.s4", 0.5, "mm2-50"),
        PowerLoad(id="E2", power_w=50.0), wire("Y1", "P.s3", "E2.plus", 2.0, "mm2-16"), wire("Y2", "E2.minus", "M.s3", 2.0, "mm2-16"),
    )  # fmt: skip
    assert {f.place for f in found(plan, "feeds_too_strong")} >= {"Y1"}


def test_device_too_small():
    plan = fused(power=150.0, rating=10.0)
    assert found(plan, "device_too_small")[0].place == "F1"
    assert mended(plan, "device_too_small").by_id["F1"].rating_a == 15.0


def test_a_surge_does_not_count_as_normal_current():
    plan = fused(power=60.0)
    plan = edits.change(plan, "E", surge_w=200.0)
    plan = edits.set_state(plan, "s", "E", "surge")
    assert not found(plan, "device_too_small")


def test_a_rating_that_is_not_made():
    plan = fused(rating=11.0)
    assert found(plan, "device_rating")[0].verdict is Verdict.ADVICE
    assert mended(plan, "device_rating").by_id["F1"].rating_a == 10.0


def test_device_voltage():
    plan = fused(volts=48.0)
    places = {f.place for f in found(plan, "device_voltage")}
    assert places == {"F1"}
    assert not found(fused(volts=24.0), "device_voltage")
    breaker = edits.change(
        edits.insert_inline(plan, "W2", Disconnect(id="Q", rating_a=100.0, max_v=32.0)), "F1", rating_a=32.0
    )
    assert {f.place for f in found(breaker, "device_voltage")} == {"F1", "Q"}


def test_source_end_by_both_schools():
    def plan(current, conductor):
        return edits.add(
            fused(), Charger(id="G", set_v=14.4, current_a=current), Fuse(id="FG", family="large-blade-fuse", rating_a=30.0),
            wire("G1", "P.s3", "FG.a", 0.1, conductor), wire("G2", "FG.b", "G.plus", 2.0, conductor), wire("G3", "G.minus", "M.s3", 2.0, conductor),
        )  # fmt: skip

    assert not found(plan(25.0, "mm2-2.5"), "source_end", NA)
    assert found(plan(25.0, "mm2-2.5"), "source_end", ISO)[0].verdict is Verdict.ADVICE
    weak = plan(60.0, "mm2-2.5")
    assert found(weak, "source_end", NA)[0].verdict is Verdict.DANGER
    assert found(weak, "source_end", ISO)[0].verdict is Verdict.DANGER
    mended(weak, "source_end", NA)
    # The way back carries the same.
    (f,) = found(edits.change(plan(25.0, "mm2-2.5"), "G3", conductor="mm2-1"), "source_end", NA)
    assert (f.verdict, f.figure) == (Verdict.DANGER, 25.0)


# Ratings


def test_bar_segment():
    plan = edits.change(fused(power=240.0, rating=30.0), "P", rating_a=15.0)
    assert "between studs s1 and s2" in found(plan, "bar_rating")[0].headline
    assert mended(plan, "bar_rating").by_id["P"].rating_a == 25.0


@pytest.mark.parametrize(
    "item",
    [
        Disconnect(id="X", rating_a=3.0),
        Shunt(id="X", rating_a=3.0),
        PlugConnector(id="X", rating_a=3.0),
        Contactor(id="X", rating_a=3.0),
    ],
)
def test_part_rating(item):
    plan = edits.insert_inline(fused(power=100.0), "W2", item)
    assert found(plan, "part_rating")[0].place == "X"
    assert mended(plan, "part_rating").by_id["X"].rating_a == 10.0


def test_stud_rating():
    plan = edits.add(loop(), Post(id="T", rating_a=3.0))
    plan = edits.change(plan, "out", b="T.stud")
    plan = edits.add(plan, ohms("on", "T.stud", "E.plus", 0.001))
    assert mended(plan, "post_rating").by_id["T"].rating_a == 6.0


def test_a_stud_passes_what_all_its_conductors_bring():
    plan = edits.add(loop(), Post(id="T", rating_a=3.0))
    plan = edits.change(plan, "out", b="T.stud")
    plan = edits.add(
        plan,
        ohms("out2", "B.plus", "T.stud", 0.01),
        ohms("on", "T.stud", "E.plus", 0.01),
        ohms("on2", "T.stud", "E.plus", 0.01),
    )
    whole = study(plan).states[0].port(plan.by_id["E"])[1]
    (f,) = found(plan, "post_rating")
    assert f.figure == pytest.approx(whole)
    assert found(edits.change(plan, "T", rating_a=0.9 * whole), "post_rating")
    assert not found(edits.change(plan, "T", rating_a=1.1 * whole), "post_rating")


def test_what_starts_runs_on_though_no_other_scenario_has_it_on():
    plan = edits.change(fused(power=360.0, rating=40.0, family="class-t-fuse"), "E", surge_w=370.0, surge_s=1.0)
    plan = edits.add(edits.change(plan, "s", states={"E": "surge"}), Scenario(id="off", states={"E": "off"}))
    over = {f.place: f for f in found(plan, "ampacity")}
    assert set(over) == {"W4", "W5", "W6"}
    assert {f.scenario for f in over.values()} == {"s"}
    on = study(edits.change(plan, "s", states={}))
    assert over["W5"].figure == pytest.approx(on.state("s").current("W5"))
    plain = study(plan)
    assert [s.scenario.title for s in plain.every] == ["s", "off", "s, once all has started"]
    # It is no scenario of its own.
    assert len(plain.states) == 2


def test_contactor_duty():
    plan = edits.insert_inline(fused(), "W2", Contactor(id="X", intermittent_a=100.0))
    assert found(plan, "contactor_duty")[0].verdict is Verdict.DANGER
    assert mended(plan, "contactor_duty").by_id["X"].rating_a == 6.0
    weak = edits.insert_inline(fused(power=100.0), "W2", Contactor(id="X", rating_a=50.0, intermittent_a=5.0))
    assert found(weak, "contactor_duty")[0].verdict is Verdict.DEFECT


# Drop


def test_voltage_drop_by_practice_and_by_criticality():
    plan = fused(power=100.0, length=6.0)
    lost = worst_drop(Case(study(plan)), plan.equipment[0])[0]
    share = 100 * lost / 12.0
    assert 4.0 < share < 9.0
    assert not found(plan, "voltage_drop", NA)
    critical = edits.change(plan, "E", critical=True)
    assert found(critical, "voltage_drop", NA)[0].figure == pytest.approx(share)
    assert not found(critical, "voltage_drop", ISO)
    after = mended(critical, "voltage_drop", NA)
    assert after.run_by_id["W5"].conductor == after.run_by_id["W6"].conductor


def test_an_override_replaces_a_limit_with_its_reason():
    plan = fused(power=100.0, length=6.0)
    strict = edits.set_override(plan, "drop_other_percent", 2.0, "long winter nights")
    (finding,) = found(strict, "voltage_drop")
    assert finding.limit == 2.0
    assert "long winter nights" in finding.source
    odd = edits.change_plan(plan, overrides=(Override(limit="no_such", value=1.0, reason="x"),))
    assert mended(odd, "unknown_override").overrides == ()


def test_charge_drop_counts_the_other_way():
    plan = edits.add(
        fused(),
        Charger(id="G", set_v=14.4, current_a=20.0),
        wire("G1", "P.s3", "G.plus", 3.0, "mm2-4"),
        wire("G2", "G.minus", "M.s3", 3.0, "mm2-4"),
    )
    (finding,) = found(plan, "voltage_drop")
    assert finding.place == "G"
    assert "between charger and bank" in finding.headline


def test_lowest_voltage_and_inverter_cut_out():
    load = PowerLoad(id="E", power_w=60.0, min_v=12.1)
    assert found(loop(load), "lowest_voltage")[0].unit == "V"
    inverter = Inverter(id="E", power_w=100.0, surge_w=500.0, cut_out_v=11.0)
    calm = loop(inverter)
    assert not found(calm, "lowest_voltage")
    assert "cuts out" in found(edits.set_state(calm, "s", "E", "surge"), "lowest_voltage")[0].headline


# Terminals


def test_lug_and_stud():
    plan = edits.change(fused(), "W2", lug_b="M10")
    assert found(plan, "lug_stud")[0].verdict is Verdict.DEFECT
    assert found(edits.change(fused(), "W2", lug_b="M6"), "lug_stud")[0].verdict is Verdict.DANGER
    assert mended(plan, "lug_stud").run_by_id["W2"].lug_b is None


def test_lug_and_conductor():
    plan = edits.change(fused(), "P", studs=tuple(s.model_copy(update={"thread": "M5"}) for s in bar("P", 4).studs))
    assert not found(plan, "lug_conductor")
    assert found(edits.change(plan, "W2", conductor="mm2-50"), "lug_conductor")[0].limit == 25.0


def test_lugs_per_stud():
    plan = fused()
    crowded = edits.add(plan, *(wire(f"Z{k}", "P.s2", "M.s3", 1.0) for k in range(4)))
    places = {f.place for f in found(crowded, "lugs_per_stud")}
    assert places == {"P"}
    mended(crowded, "lugs_per_stud")


# Connection


def test_above_sixty_volts():
    plan = Plan(items=(battery("A", 48.0), battery("B", 48.0)), runs=(ohms("l", "A.plus", "B.minus", 0.001),))
    assert found(plan, "above_60_v")[0].verdict is Verdict.DANGER
    assert not found(example("relay_mast"), "above_60_v")


def test_torn_unfed_reversed_and_without_return():
    short = edits.add(loop(), ohms("short", "B.plus", "B.minus", 0.001))
    assert "short-circuited" in found(short, "contradictory_sources")[0].headline
    mixed = edits.add(
        loop(), battery("C", 24.0), ohms("c1", "B.plus", "C.plus", 0.1), ohms("c2", "C.minus", "B.minus", 0.1)
    )
    assert "another voltage" in found(mixed, "contradictory_sources")[0].headline
    cut = edits.remove(loop(), "back")
    assert "not fed" in found(cut, "cut_off")[0].headline
    switched = edits.set_state(edits.insert_inline(loop(), "out", Disconnect(id="Q", rating_a=50.0)), "s", "Q", "open")
    assert found(switched, "cut_off")[0].verdict is Verdict.ADVICE


def test_collapse_names_scenario_place_and_power():
    plan = loop(PowerLoad(id="E", name="Heater", power_w=2000.0))
    (finding,) = found(plan, "collapse")
    assert finding.scenario == "s"
    assert finding.place == "E"
    assert 700 < finding.limit < 760
    assert "Heater asks 2000 W" in finding.headline


def test_converter_starved():
    plan = edits.add(
        loop(), Converter(id="CV", set_v=5.0, current_a=30.0, min_v=12.0), ohms("i1", "B.plus", "CV.in_plus", 0.5), ohms("i2", "CV.in_minus", "B.minus", 0.5),
        CurrentLoad(id="L", current_a=10.0), ohms("o1", "CV.out_plus", "L.plus", 0.01), ohms("o2", "L.minus", "CV.out_minus", 0.01),
    )  # fmt: skip
    assert found(plan, "converter_starved")[0].limit == 12.0


def test_dangling():
    plan = edits.add(loop(), Fuse(id="F", family="blade-fuse", rating_a=5.0), ohms("x", "B.plus", "F.a", 0.01))
    assert "nothing is connected to b of F" in found(plan, "dangling")[0].headline
    assert "F" not in mended(plan, "dangling").by_id


def test_a_plan_with_no_scenario_that_solves_still_gets_its_findings():
    plan = edits.change(fused(power=5000.0), "s", name="impossible")
    rules = {f.rule.id for f in judge(study(plan))}
    assert "collapse" in rules
    assert judge(study(Plan(scenarios=(Scenario(id="x"),)))) == ()


def test_what_no_scenario_has_on_is_held_against_nothing_and_that_is_said():
    # 20 A through a fuse of 5 A: nothing shows it while the load is off.
    plan = fused(power=240.0, rating=5.0, conductor="mm2-2.5").model_copy(
        update={"scenarios": (Scenario(id="night", states={"E": "off"}),)}
    )
    told = {f.rule.id: f for f in judge(study(plan))}
    assert "device_too_small" not in told
    assert told["never_on"].verdict is Verdict.ADVICE
    after = told["never_on"].fix().apply(plan)
    assert [s.id for s in after.scenarios] == ["night", "on1"]
    told = {f.rule.id for f in judge(study(after))}
    assert "device_too_small" in told
    assert "never_on" not in told
    # Half of it at most: 10 A through 5 A are told, and that nobody asks for the other half.
    half = plan.model_copy(update={"scenarios": (Scenario(id="dim", states={"E": 0.5}),)})
    told = {f.rule.id: f for f in judge(study(half))}
    assert "at 50 % at most" in told["never_on"].headline
    assert "never_on" not in {f.rule.id for f in judge(study(told["never_on"].fix().apply(half)))}
    # A surge is on too, and so is what only a surge has on; a source is held as a load is.
    surges = plan.model_copy(update={"scenarios": (Scenario(id="start", states={"E": "surge"}),)})
    assert "never_on" not in {f.rule.id for f in judge(study(surges))}


def test_the_scenario_that_has_it_on_is_one_that_lasts():
    starts = Scenario(id="start", states={"E": "off", "F": "surge"})
    rests = Scenario(id="rest", soc_percent=40.0, states={"E": "off"})
    plan = edits.add(
        fused(),
        PowerLoad(id="F", power_w=10.0, surge_w=20.0),
        wire("f1", "P.s3", "F.plus"),
        wire("f2", "F.minus", "M.s3"),
    )
    plan = plan.model_copy(update={"scenarios": (starts, rests)})
    (finding,) = found(plan, "never_on")
    more = finding.fix().apply(plan).scenarios[-1]
    assert (more.soc_percent, more.states) == (40.0, {})
    # Without a scenario everything is on.
    assert not found(plan.model_copy(update={"scenarios": ()}), "never_on")
