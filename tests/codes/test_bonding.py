"""The bond between a pole and the chassis, with the figures by hand."""

import pytest

from jaunty_copper.fabrication.cuts import cuts_of
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire as wired
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Chassis, ChassisPoint, Run
from tests.build import bar, battery, fused, judge, wire

NA, ISO, NFPA, IEC = "north_american_small_craft", "iso_small_craft", "nfpa_70", "iec_60364"


def bonded(conductor, largest="mm2-16", **more):
    """A bar of the minus bonded to a frame; the largest conductor of the plus leads to the main fuse."""
    plan = edits.add(
        fused(), Chassis(id="H", points=(ChassisPoint(id="p1"), ChassisPoint(id="p2"), ChassisPoint(id="p3"))),
        Run(id="G", a="M.s4", b="H.p1", length_m=0.5, conductor=conductor, **more),
    )  # fmt: skip
    for id_ in ("W1", "W2", "W3"):
        plan = edits.change(plan, id_, conductor=largest)
    return plan


def found(plan, rule, code=NA):
    return [f for f in judge(study(plan), code) if f.rule.id == rule]


@pytest.mark.parametrize(
    ("code", "largest", "least"),
    [
        # One size below: 95 below 120 mm², 10 below 16; 2 AWG below 1 AWG where the bond is by gauge.
        (NA, "mm2-120", "mm2-95"), (NA, "mm2-16", "mm2-10"), (ISO, "mm2-16", "mm2-10"),
        # 54.2: to 16 mm² alike, to 35 mm² 16, above half: 60 of 120, so 70.
        (IEC, "mm2-10", "mm2-10"), (IEC, "mm2-25", "mm2-16"), (IEC, "mm2-35", "mm2-16"), (IEC, "mm2-120", "mm2-70"),
        # 250.166(B): as large as the largest, 8 AWG (8.37 mm²) at least, 3/0 AWG (85 mm²) at most.
        (NFPA, "mm2-25", "mm2-25"), (NFPA, "mm2-6", "mm2-10"), (NFPA, "mm2-120", "mm2-95"),
    ],
)  # fmt: skip
def test_a_bond_is_as_thick_as_the_book_asks_for(code, largest, least):
    plan = bonded(least, largest)
    sizes = ["mm2-1.5", "mm2-2.5", "mm2-4", "mm2-6", "mm2-10", "mm2-16", "mm2-25", "mm2-35", "mm2-50", "mm2-70", "mm2-95", "mm2-120"]  # fmt: skip
    if largest == "mm2-6":
        # Other conductors are thinner still.
        plan = edits.change(plan, "F0", rating_a=30.0)
    assert not found(plan, "bond_size", code)
    thinner = edits.change(plan, "G", conductor=sizes[sizes.index(least) - 1])
    (finding,) = found(thinner, "bond_size", code)
    assert finding.place == "G"
    assert finding.fix().apply(thinner).run_by_id["G"].conductor == least
    assert not found(edits.change(thinner, "G", parallel=3), "bond_size", code)


def test_a_bond_is_held_against_the_conductors_of_its_own_system():
    plan = edits.add(
        bonded("mm2-95", "mm2-120"), battery("B2"), bar("P2", 2), wire("V1", "B2.plus", "P2.s1", 1.0, "mm2-10"),
        Run(id="G2", a="B2.minus", b="H.p2", length_m=0.5, conductor="mm2-10"),
    )  # fmt: skip
    assert not found(plan, "bond_size")
    assert [f.place for f in found(edits.change(plan, "G2", conductor="mm2-4"), "bond_size")] == ["G2"]
    assert [f.place for f in found(edits.change(plan, "G", conductor="mm2-10"), "bond_size")] == ["G"]
    # What joins the two banks makes them one system.
    joined = edits.add(plan, wire("J", "B2.minus", "M.s3", 1.0, "mm2-10"))
    assert [f.place for f in found(joined, "bond_size")] == ["G2"]


def test_half_a_square_millimetre_under_a_fuse_of_300_a_is_told():
    plan = edits.change(bonded("mm2-0.5", "mm2-95"), "F0", rating_a=300.0)
    for code in (NA, ISO, NFPA, IEC):
        assert {f.rule.id for f in judge(study(plan), code) if f.place == "G"} >= {"bond_size", "fault_withstand"}


def test_one_bond_is_enough():
    plan = bonded("mm2-16")
    assert not found(plan, "several_bonds")
    twice = edits.add(plan, Run(id="G2", a="M.s3", b="H.p2", length_m=0.5, conductor="mm2-16"))
    (finding,) = found(twice, "several_bonds")
    assert finding.place == "G2"
    assert finding.fix().apply(twice) == plan
    # Another system bonded to the same frame has a bond of its own.
    apart = edits.add(
        plan, battery("B2"), bar("M2", 3), wire("X", "M2.s1", "B2.minus", 0.2, "mm2-16"),
        Run(id="G3", a="H.p2", b="M2.s2", length_m=0.5, conductor="mm2-16"),
    )  # fmt: skip
    assert not found(apart, "several_bonds")
    # A frame that equipment returns through is a conductor, with as many ways to it as it needs.
    through = edits.aim(twice, "W6", "b", "H.p3")
    assert not found(through, "several_bonds")


def test_only_the_bond_is_green_and_yellow():
    plan = bonded("mm2-16")
    colours = {c.run: c.colour for c in cuts_of(wired(plan))}
    assert colours["G"] == "green and yellow"
    assert colours["W3"] == colours["W6"] == "black"
    assert colours["W1"] == colours["W5"] == "red"
