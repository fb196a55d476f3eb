"""Switches that close onto empty capacitors, one after the other in any order, against trying every order."""

import random
from itertools import chain, combinations

import pytest

from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Battery, Contactor, Disconnect, Fuse
from jaunty_copper.protection.fault_network import CAPACITOR_OHM
from jaunty_copper.protection.protection import Protection
from tests.build import fused, judge, wire
from tests.networks import network


def found(plan):
    return [f for f in judge(study(plan)) if f.rule.id == "inrush"]


def two_banks(making_a):
    """Two units, each behind its switch, on one bar: together they fill what hangs there with twice the current."""
    plan = edits.change(fused(conductor="mm2-35", rating=60.0, family="class-t-fuse"), "E", input_uf=20000.0)
    plan = edits.insert_inline(plan, "W2", Disconnect(id="Q1", rating_a=300.0, making_a=making_a, thread="M8"))
    unit = plan.by_id["B"].model_copy(update={"id": "B2"})
    assert isinstance(unit, Battery)
    return edits.add(
        plan, unit, Disconnect(id="Q2", rating_a=300.0, making_a=making_a, thread="M8"),
        wire("X1", "B2.plus", "Q2.a", 0.65, "mm2-16"), wire("X2", "Q2.b", "P.s4", 0.1, "mm2-16"),
        wire("X3", "B2.minus", "M.s4", 0.6, "mm2-16"),
    )  # fmt: skip


def first_a(plan):
    faults = Protection(study(plan)).faults
    k = faults.at["E.plus"]
    return abs(faults.peak.open_v[k]) / (faults.peak.ohm[k] + CAPACITOR_OHM)


def test_the_first_of_two_switches_beside_each_other_closes_onto_all_of_it():
    """Closed first, a switch makes what its own bank gives alone: more than its half of what both give."""
    both, alone = first_a(two_banks(5000.0)), first_a(edits.remove(two_banks(5000.0), "Q2"))
    assert 0.5 * both < alone < both
    (f,) = found(two_banks(0.95 * alone))
    assert f.place in ("Q1", "Q2")
    assert f.figure == pytest.approx(alone, rel=0.05)
    assert not found(two_banks(1.05 * max(alone, first_a(edits.remove(two_banks(5000.0), "Q1")))))


def test_of_fuses_beside_each_other_the_first_to_be_switched_on_passes_all_that_its_bank_gives():
    """What its bank alone makes of a fuse, both make of it too: whichever is switched on first is alone."""
    told = set()
    for rating in (3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 30.0):
        fuse = {"rating_a": rating, "family": "blade-fuse"}
        both = edits.insert_inline(edits.change(two_banks(5000.0), "F0", **fuse), "X2", Fuse(id="F9", **fuse))
        assert Protection(study(both)).faults.shares("F0")["E.plus"] == pytest.approx(0.5, abs=0.05)
        opens = bool(found(edits.remove(both, "Q2")))
        assert bool(found(both)) == opens, rating
        told.add(opens)
    assert told == {True, False}


def drawn(seed):
    """A network by chance with switches in some of its ways, and with capacitors in some of its equipment."""
    plan, r = network(seed), random.Random(seed)
    for e in plan.equipment:
        if r.random() < 0.6:
            plan = edits.change(plan, e.id, input_uf=r.choice((2000.0, 20000.0)))
    batteries = [x for x in plan.items if isinstance(x, Battery)]
    ways = [plan.runs_at[x.ref("plus")][0].id for x in batteries if plan.runs_at.get(x.ref("plus"))]
    others = [run.id for run in plan.runs if run.id not in ways]
    for k, run in enumerate([*ways[:4], *r.sample(others, 2)]):
        kind = r.choice((Disconnect, Contactor))
        switch = kind(id=f"Q{k}", rating_a=100.0, making_a=r.choice((100.0, 300.0, 1000.0, 3000.0)), thread="M8")
        plan = edits.insert_inline(plan, run, switch)
    return plan


def in_any_order(faults, e, switches):
    """Each switch with each first current that it may make, and whether nothing fed the equipment before it closed."""
    column = faults.at[e.port[0]]
    for x in switches:
        rest = [y.id for y in switches if y is not x]
        for opened in chain.from_iterable(combinations(rest, n) for n in range(len(rest) + 1)):
            after = faults.without(*opened)
            whole = abs(after.current_a[column])
            if whole < 1.0 or abs(after.branch_a.at(faults.row[x.id], column)) <= 0.5 * whole:
                continue
            before = abs(faults.without(*opened, x.id).current_a[column])
            amps = abs(after.open_v[column]) / (after.ohm[column] + CAPACITOR_OHM)
            yield x, amps, before < 0.05 * whole


@pytest.mark.parametrize("seed", range(40))
def test_no_order_of_closing_welds_a_switch_that_is_not_told(seed):
    plan = drawn(seed)
    faults = Protection(study(plan)).faults
    told = {f.headline.split(" begins")[0]: f for f in found(plan)}
    switches = [x for x in plan.items if isinstance(x, Disconnect | Contactor)]
    for e in plan.equipment:
        if e.input_uf is None or e.port[0] not in faults.at:
            continue
        f = told.get(f"Filling the capacitors of {e.title}")
        made = list(in_any_order(faults, e, switches))
        if any(empty and amps > x.making_a for x, amps, empty in made):
            assert f is not None, f"nothing said of {e.id}"
        if f is not None and f.place.startswith("Q"):
            assert any(x.id == f.place and amps >= 0.98 * f.figure for x, amps, _ in made)
