"""Small plans whose verdicts can be reckoned by hand."""

import pytest

from jaunty_copper.choosing.protect import protect
from jaunty_copper.choosing.windows import window
from jaunty_copper.codes.case import Case
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import (
    Battery,
    Charger,
    Chassis,
    ChassisPoint,
    Converter,
    CurrentLoad,
    Fuse,
    Plan,
    PowerLoad,
    Run,
    Scenario,
)
from jaunty_copper.protection.protection import Protection
from tests.build import bar, battery, judge, ohms

PURE = 17.241e-9 / 1e-6
"""Ohm of a metre of one square millimetre of pure copper."""
JOINTS = 2 * 40e-6


def found(plan, rule):
    return [f for f in judge(study(plan)) if f.rule.id == rule]


def copper(id_, a, b, length, area):
    return Run(id=id_, a=a, b=b, length_m=length, conductor=f"mm2-{area:g}")


def stiff(family):
    """A bank of 2 milliohm and a lead of its own with a fuse right at the post."""
    return Plan(
        items=(battery(volts=24.0, ohm=0.002), Fuse(id="F", family=family, rating_a=60.0)),
        equipment=(PowerLoad(id="E", nominal_v=24.0, power_w=300.0),),
        runs=(
            copper("W1", "B.plus", "F.a", 0.1, 16), copper("W2", "F.b", "E.plus", 3.0, 16),
            copper("W3", "E.minus", "B.minus", 3.0, 16),
        ),
        scenarios=(Scenario(id="s", soc_percent=70.0),),
    )  # fmt: skip


def test_a_fuse_at_the_post_must_interrupt_what_a_link_in_its_place_would_carry():
    # Full charge is 12 x 2.14 = 25.68 V, above 1.05 x 24; 0.9 x 2 milliohm inside, and 0.1 m of 16 mm2 before it.
    prospective = 25.68 / (0.9 * 0.002 + 0.1 * PURE / 16 + JOINTS)
    (f,) = found(stiff("terminal-cube-fuse"), "interrupt_rating")
    assert f.figure == pytest.approx(prospective, rel=1e-6)
    # 5 kA at 32 V is what counts at 25.7 V, and not the 10 kA of 14 V nor anything between.
    assert f.limit == 5000.0
    assert 12_000.0 < prospective < 14_000.0
    # Its own 0.08 V / 60 A = 1.3 milliohm would have let less through.
    through = Protection(study(stiff("terminal-cube-fuse"))).faults.greatest_through("F")[0]
    assert through < 0.65 * prospective
    assert found(stiff("class-t-fuse"), "interrupt_rating") == []


def far_bar(own=True):
    """A feeder to bars 12 m away: their minus comes back by a conductor of its own."""
    return Plan(
        items=(
            battery(volts=24.0, ohm=0.004), Fuse(id="F1", family="class-t-fuse", rating_a=60.0), bar("P1", 2), bar("M1", 2),
            bar("P2", 2), bar("M2", 2), Fuse(id="F2", family="cylindrical-fuse", rating_a=15.0),
        ),
        equipment=(PowerLoad(id="E", nominal_v=24.0, power_w=100.0),),
        runs=(
            ohms("a", "B.plus", "F1.a", 0.0005), ohms("b", "F1.b", "P1.s1", 0.001), ohms("c", "M1.s1", "B.minus", 0.001),
            ohms("out", "P1.s2", "P2.s1", 0.022), ohms("back", "M2.s1", "M1.s2", 0.022),
            ohms("d", "P2.s2", "F2.a", 0.001), ohms("e", "F2.b", "E.plus", 0.01), ohms("f", "E.minus", "M2.s2", 0.01),
        ),
        scenarios=(Scenario(id="s", soc_percent=70.0),),
    )  # fmt: skip


def test_a_feeders_fault_comes_back_by_the_feeders_own_return():
    f = Protection(study(far_bar())).faults
    fuse = 0.08 / 60.0
    most = 25.68 / (0.9 * 0.004 + 0.0005 + fuse + 0.001 + 0.022 + 0.022 + 0.001)
    least = 12 * 1.955 / (1.7 * 0.004 + 0.0005 + fuse + 0.001 + 0.022 + 0.022 + 0.001)
    assert f.most_a("P2.s1") == pytest.approx(most, rel=0.01)
    assert f.least_a("P2.s1") == pytest.approx(least, rel=0.01)


def two_banks(shared):
    """Two banks of 12 V and a converter between; their minus one, or each its own."""
    lands = "M.s3" if shared else "N.s1"
    return Plan(
        items=(
            battery("A"), Battery(id="B", chemistry="agm", nominal_v=12.0, capacity_ah=140.0, internal_ohm=0.003),
            Fuse(id="F1", family="class-t-fuse", rating_a=60.0), Fuse(id="F2", family="class-t-fuse", rating_a=60.0),
            Fuse(id="FM", family="class-t-fuse", rating_a=100.0), bar("P", 3), bar("M", 4), bar("N", 2),
        ),
        equipment=(
            Converter(id="V", nominal_v=12.0, out_nominal_v=12.0, set_v=14.2, current_a=30.0, isolated=not shared),
            CurrentLoad(id="L", current_a=10.0),
        ),
        runs=(
            copper("W1", "A.plus", "F1.a", 0.1, 25), copper("W2", "F1.b", "V.in_plus", 3.0, 25),
            copper("W3", "V.out_plus", "F2.a", 0.4, 25), copper("W4", "F2.b", "P.s1", 0.1, 25),
            copper("W5", "B.plus", "FM.a", 0.1, 35), copper("W6", "FM.b", "P.s2", 0.4, 35),
            copper("W7", "M.s1", "B.minus", 0.5, 35), copper("W8", "P.s3", "L.plus", 2.0, 25),
            copper("W9", "L.minus", "M.s2", 2.0, 25), copper("W10", lands, "A.minus", 1.0, 25),
            copper("W11", "V.in_minus", lands.replace("3", "4") if shared else "N.s2", 0.5, 25),
            *(() if shared else (copper("W12", "V.out_minus", "M.s4", 0.5, 25),)),
        ),
        scenarios=(Scenario(id="s", soc_percent=70.0),),
    )  # fmt: skip


def test_banks_that_share_only_their_minus_are_two():
    for shared in (True, False):
        plan = two_banks(shared)
        made = Protection(study(plan))
        assert [[u.id for u in bank.units] for bank in made.wiring.banks] == [["A"], ["B"]]
        # 12.84 V, 0.9 of 10 milliohm, 0.1 m of 25 mm2: the first bank's own, whatever the other has.
        own = 12.84 / (0.009 + 0.1 * PURE / 25 + JOINTS)
        assert made.faults.most_a("F1.a") == pytest.approx(own, rel=1e-3)
        case = Case(made)
        # Fed from both sides, and bounded by its own conductors.
        high = min(case.ampacities[r].amps for r in ("W3", "W4"))
        assert window(case, plan.by_id["F2"]).high.amps >= high * 0.99
        assert window(case, plan.by_id["F2"]).high.amps < 400.0


def test_a_bond_of_one_bank_makes_no_pole_of_another_bank_live_that_stands_apart():
    """The first bank's minus is bonded; the second meets it nowhere, and nothing says that it floats on purpose."""
    bonded = edits.add(
        edits.add_stud(two_banks(False), "M")[0], Chassis(id="H", points=(ChassisPoint(id="p"),)),
        copper("WH", "M.s5", "H.p", 0.3, 25),
    )  # fmt: skip
    for plan, minus, unsaid in (
        (bonded, set(), {"A"}),
        (edits.change_plan(bonded, floating=True), {"W10", "W11"}, set()),
        (two_banks(False), set(), {"A", "B"}),
        (edits.change_plan(two_banks(False), floating=True), {"W7", "W9", "W10", "W11", "W12"}, set()),
        (two_banks(True), set(), {"A"}),
    ):
        made, found = Protection(study(plan)), judge(study(plan))
        live = {r.id for r in plan.runs if made.guard.is_live(made.wiring.branch[r.id])}
        backs = {"W7", "W9", "W10", "W11", "W12", "WH"}
        assert live & backs == minus
        assert {f.place for f in found if f.rule.id == "bond_unsaid"} == unsaid
        bare = {f.place for f in found if f.rule.id == "no_protection"} & backs
        assert bare <= minus
        assert bool(bare) == bool(minus)


def branch_behind_the_main_fuse():
    """A charger's cable that only the main fuse guards, and lamps with a fuse of their own."""
    return Plan(
        items=(
            battery(volts=24.0, ohm=0.008), Fuse(id="F1", family="class-t-fuse", rating_a=60.0), bar("P", 3), bar("M", 3),
            Fuse(id="F2", family="blade-fuse", rating_a=15.0),
        ),
        equipment=(
            Charger(id="C", nominal_v=24.0, set_v=28.4, current_a=25.0), PowerLoad(id="L", nominal_v=24.0, power_w=80.0),
        ),
        runs=(
            copper("W1", "B.plus", "F1.a", 0.1, 25), copper("W2", "F1.b", "P.s1", 0.4, 25), copper("W3", "M.s1", "B.minus", 0.5, 25),
            copper("W4", "P.s2", "C.plus", 2.0, 10), copper("W5", "C.minus", "M.s2", 2.0, 10),
            copper("W6", "P.s3", "F2.a", 0.1, 2.5), copper("W7", "F2.b", "L.plus", 2.0, 2.5), copper("W8", "L.minus", "M.s3", 2.0, 2.5),
        ),
        scenarios=(Scenario(id="s", soc_percent=70.0),),
    )  # fmt: skip


def test_protect_never_raises_a_main_fuse_above_a_branch_that_only_it_guards():
    plan = branch_behind_the_main_fuse()
    proposed = protect(plan)
    # The lamps' fuse alone: a small able one, no device ten times dearer.
    (change,) = proposed.changes
    assert (change.place, proposed.plan.by_id["F2"].family) == ("F2", "cylindrical-fuse")
    assert proposed.plan.by_id["F1"] == plan.by_id["F1"]
    before, after = ({(f.rule.id, f.place) for f in judge(study(p))} for p in (plan, proposed.plan))
    assert after <= before


def test_a_main_fuse_that_lets_a_branch_overheat_becomes_smaller_and_not_larger():
    plan = edits.change(branch_behind_the_main_fuse(), "F1", rating_a=80.0)
    assert {f.place for f in found(plan, "fault_withstand")} == {"W4", "W5"}
    proposed = protect(plan)
    assert proposed.plan.by_id["F1"].rating_a < 80.0
    assert {c.place for c in proposed.changes} == {"F1", "F2"}
    assert proposed.left == ()


def test_what_is_in_order_stays_and_the_smaller_of_two_gives_way():
    plan = edits.change(branch_behind_the_main_fuse(), "F2", family="cylindrical-fuse", rating_a=10.0)
    assert protect(plan).changes == ()
    # 15 A are not selective with the main fuse; 10 A carry the lamps too, and nothing else need change.
    (change,) = protect(edits.change(plan, "F2", rating_a=15.0)).changes
    assert (change.place, change.after) == ("F2", "cylindrical fuse 10 x 38 of 10 A")
