"""What may be joined, against what the finished plan would be found to be."""

import random

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.plan import edits
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.joining import Joinings
from jaunty_copper.plan.model import Battery, PowerLoad
from tests.networks import network
from tests.trials import WHOLE

SHORT = {"contradictory_sources", "collapse", "cut_off", "wrong_voltage"}
"""What is found where poles are joined: sources against each other, or loads that get nothing."""
PLANS = [blank(), *(example(name) for name in names()), *(network(seed) for seed in range(60 if WHOLE else 4))]


def terminals(plan):
    return [x.ref(t) for x in plan.placed for t in x.terminal_names]


def wrongs(plan):
    found = Assessment(plan).findings
    return {(f.rule.id, f.place) for f in found if f.rule.id in SHORT}


def swapped(plan):
    found = Assessment(plan).findings
    return {(f.rule.id, f.place) for f in found if f.rule.id == "contradictory_sources" or "swapped" in f.headline}


@pytest.mark.parametrize("plan", PLANS, ids=lambda p: p.name)
def test_what_may_be_joined_shorts_nothing_and_swaps_nothing(plan):
    r = random.Random(1)
    joinings, before = Joinings(plan), swapped(plan)
    seen = 0
    for _ in range(40):
        a, b = r.sample(terminals(plan), 2)
        if joinings.between(a, b).standing == "fine":
            seen += 1
            assert swapped(edits.connect(plan, a, b, 1.0)[0]) <= before, (a, b)
    assert seen


@pytest.mark.parametrize("plan", PLANS, ids=lambda p: p.name)
def test_what_is_called_a_short_circuit_is_one(plan):
    r = random.Random(2)
    joinings, before = Joinings(plan), wrongs(plan)
    for _ in range(40):
        a, b = r.sample(terminals(plan), 2)
        found = joinings.between(a, b)
        if "short circuit" in found.why:
            assert found.standing == "forbidden"
            assert wrongs(edits.connect(plan, a, b, 1.0)[0]) - before, (a, b)


def test_it_says_why():
    plan = edits.add(blank(), PowerLoad(id="E9", name="Lamp", nominal_v=24.0, power_w=10.0))
    plan = edits.add(plan, Battery(id="B9", name="Spare", chemistry="agm", nominal_v=12.0, capacity_ah=50.0))
    j = Joinings(plan)
    assert j.between("P1.s3", "M1.s3").why == "a short circuit: 12 V lie between the two"
    assert j.between("B1.plus", "B1.plus").standing == "forbidden"
    assert j.between("F2.a", "F2.b").why == "it would bridge First fuse"
    assert j.between("E9.plus", "M1.s4").why == "plus of Lamp belongs on the other pole"
    assert j.between("E9.plus", "P1.s4").standing == "fine"
    half, _ = edits.connect(plan, "E9.plus", "P1.s4")
    assert Joinings(half).between("E9.minus", "M1.s4").why == "Lamp is for 24 V; 12 V lie there"
    # A loose unit may go in series or beside, and then its other pole may not close the circle.
    assert j.between("B9.minus", "B1.plus").standing == "fine"
    series, _ = edits.connect(plan, "B9.minus", "B1.plus")
    assert Joinings(series).between("B9.plus", "B1.minus").why == "a short circuit: 24 V lie between the two"
    beside, _ = edits.connect(plan, "B9.minus", "B1.minus")
    assert Joinings(beside).between("B9.plus", "B1.plus").standing == "fine"
    full, _ = edits.connect(edits.connect(plan, "P1.s6", "P1.s2")[0], "P1.s6", "P1.s1")
    assert Joinings(full).between("P1.s6", "B1.plus").why == "Plus bar, s6 has 2 lugs on it"
