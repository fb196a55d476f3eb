"""Who guards what, as findings: plans whose verdict can be reckoned by hand."""

import pytest

from jaunty_copper.codes.checks import Verdict
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire as compiled
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Breaker, Charger, Converter, CurrentLoad, Fuse, Plan, Scenario
from jaunty_copper.protection.guard import Guard
from tests.build import bar, battery, fused, judge, wire

ISO = "iso_small_craft"


def found(plan, rule, code=ISO):
    return [f for f in judge(study(plan), code) if f.rule.id == rule]


def beside_a_converter(size="mm2-2.5"):
    """A thin branch off a large bank's bar, on which a converter's output lands too."""
    return Plan(
        items=(
            battery("BL", 24.0), Fuse(id="F1", family="class-t-fuse", rating_a=225.0),
            Breaker(id="K1", family="hydraulic-magnetic-breaker", rating_a=200.0), bar("P", 4, rating_a=400.0),
            bar("M", 4, rating_a=400.0), battery("BS", 24.0), Fuse(id="F2", family="class-t-fuse", rating_a=80.0),
        ),
        equipment=(
            CurrentLoad(id="L", nominal_v=24.0, current_a=6.0),
            Converter(id="C", nominal_v=24.0, out_nominal_v=24.0, set_v=28.4, current_a=25.0),
        ),
        runs=(
            wire("W1", "BL.plus", "F1.a", 0.12, "mm2-95"), wire("W2", "F1.b", "K1.a", 0.3, "mm2-95"),
            wire("W3", "K1.b", "P.s1", 0.4, "mm2-95"), wire("W4", "M.s1", "BL.minus", 0.7, "mm2-95"),
            wire("W5", "P.s2", "L.plus", 5.0, size), wire("W6", "L.minus", "M.s2", 5.0, size),
            wire("W7", "BS.plus", "F2.a", 0.12, "mm2-25"), wire("W8", "F2.b", "C.in_plus", 1.5, "mm2-25"),
            wire("W9", "C.in_minus", "BS.minus", 1.5, "mm2-25"), wire("W10", "C.out_plus", "P.s3", 0.9, "mm2-10"),
            wire("W11", "C.out_minus", "M.s3", 0.9, "mm2-10"),
        ),
        scenarios=(Scenario(id="s", soc_percent=70.0),),
    )  # fmt: skip


def test_a_converter_on_a_bar_does_not_stand_in_for_the_device_of_a_branch():
    bare = found(beside_a_converter(), "branch_unprotected")
    # Towards the large bank both have nothing but 200 A before them.
    assert {f.place for f in bare} == {"W5", "W10"}
    assert all(f.verdict is Verdict.DANGER and "200 A" in f.headline for f in bare)
    # What returns from the bare branch is mended with it, not by a smaller main breaker.
    assert not found(beside_a_converter(), "device_too_large")


def test_a_fuse_between_a_converter_and_the_battery_it_charges_guards_towards_the_battery():
    plan = Plan(
        items=(
            battery("BA", 24.0), Fuse(id="F1", family="class-t-fuse", rating_a=50.0), battery("BB"),
            Fuse(id="F2", family="class-t-fuse", rating_a=40.0),
        ),
        equipment=(Converter(id="C", nominal_v=24.0, out_nominal_v=12.0, set_v=14.2, current_a=28.0),),
        runs=(
            wire("W1", "BA.plus", "F1.a", 0.1, "mm2-16"), wire("W2", "F1.b", "C.in_plus", 2.2, "mm2-16"),
            wire("W3", "C.in_minus", "BA.minus", 2.3, "mm2-16"), wire("W4", "C.out_plus", "F2.a", 1.4, "mm2-16"),
            wire("W5", "F2.b", "BB.plus", 0.12, "mm2-16"), wire("W6", "BB.minus", "C.out_minus", 1.5, "mm2-16"),
        ),
        scenarios=(Scenario(id="s", soc_percent=70.0),),
    )  # fmt: skip
    for rule in ("no_protection", "branch_unprotected", "feeds_too_strong", "device_too_large"):
        assert found(plan, rule) == []
    far = edits.change(plan, "W5", length_m=0.9)
    (one,) = found(far, "no_protection")
    assert (one.place, one.figure) == ("W5", pytest.approx(0.9))


def test_a_conductor_thinner_than_its_converter_gives_is_a_danger():
    plan = beside_a_converter("mm2-70")
    alone = edits.change(edits.remove(plan, "W10"), "C", current_a=100.0)
    alone = edits.add(alone, wire("W12", "C.out_plus", "P.s4", 0.9, "mm2-2.5"))
    # Away from any battery: behind nothing but the converter itself.
    cut = edits.remove(alone, "W3")
    (one,) = [f for f in found(cut, "feeds_too_strong") if f.place == "W12"]
    assert one.verdict is Verdict.DANGER
    assert one.figure == pytest.approx(100.0)


def test_a_device_in_the_other_pole_of_a_floating_circuit_is_said_to_guard_half():
    plan = Plan(
        items=(battery("B", 24.0), Breaker(id="K", family="thermal-breaker", rating_a=25.0)),
        equipment=(CurrentLoad(id="L", nominal_v=24.0, current_a=7.0),),
        runs=(
            wire("W1", "B.plus", "L.plus", 5.0), wire("W2", "L.minus", "K.b", 5.0), wire("W3", "K.a", "B.minus", 0.12),
        ),
        scenarios=(Scenario(id="s", soc_percent=70.0),),
    )  # fmt: skip
    (one,) = found(plan, "no_protection")
    assert one.verdict is Verdict.DEFECT
    assert "K in the other pole opens on a short between the poles only" in one.headline


def test_chargers_count_for_the_bar_they_feed():
    plan = edits.change(fused(), "P", rating_a=75.0)
    assert not found(plan, "feeds_too_strong")
    charged = edits.add(
        plan, Charger(id="G", set_v=14.4, current_a=30.0), Fuse(id="FG", family="class-t-fuse", rating_a=40.0),
        wire("G1", "P.s3", "FG.a", 0.1), wire("G2", "FG.b", "G.plus", 2.0), wire("G3", "G.minus", "M.s3", 2.0),
    )  # fmt: skip
    (one,) = [f for f in found(charged, "feeds_too_strong") if f.place == "P"]
    # The main fuse passes 60 A, the charger gives 30.
    assert one.figure == pytest.approx(90.0)
    assert one.verdict is Verdict.DEFECT


def test_two_unfused_leads_at_one_bar_are_told_each_and_a_sheathed_one_hides_none():
    def told(**first):
        plan = edits.add(
            fused(), battery("C"), wire("X1", "C.plus", "P.s3", 1.5, "mm2-16", **first),
            wire("X2", "C.plus", "P.s4", 1.5, "mm2-16"), wire("X3", "C.minus", "M.s4", 1.5, "mm2-16"),
        )  # fmt: skip
        return {f.place for f in found(plan, "no_protection")}

    assert {"X1", "X2"} <= told()
    assert "X2" in told(sheathed=True)


def test_a_thin_return_of_another_circuit_is_not_hidden_by_a_bare_branch():
    plan = edits.add(
        beside_a_converter(), CurrentLoad(id="L2", nominal_v=24.0, current_a=6.0), wire("X1", "P.s4", "L2.plus", 2.0, "mm2-95"),
        wire("X2", "L2.minus", "M.s4", 2.0, "mm2-10"),
    )  # fmt: skip
    assert "X2" in found(plan, "device_too_large")[0].headline


def test_conductors_in_parallel_are_held_each_against_its_share_of_all_that_feeds_them():
    plan = edits.change(fused(), "W2", conductor="mm2-10")
    plan = edits.add(
        plan, wire("Y1", "F0.b", "P.s1", 0.5, "mm2-10"), Charger(id="G", set_v=14.4, current_a=60.0),
        Fuse(id="FG", family="class-t-fuse", rating_a=60.0), wire("G1", "P.s3", "FG.a", 0.1, "mm2-16"),
        wire("G2", "FG.b", "G.plus", 2.0, "mm2-16"), wire("G3", "G.minus", "M.s3", 2.0, "mm2-16"),
    )  # fmt: skip
    guard = Guard(compiled(plan))
    for run in ("W2", "Y1"):
        # Alike, so half of the 60 A of the main fuse or of the charger each.
        assert guard.bound(guard.wiring.branch[run]).amps == pytest.approx(30.0)


def test_a_return_thinner_than_its_circuits_fuse_is_found():
    plan = edits.change(fused(rating=30.0, conductor="mm2-10"), "W6", conductor="mm2-1")
    (one,) = found(plan, "device_too_large")
    assert (one.place, one.figure) == ("F1", 30.0)
    assert "W6" in one.headline
