"""Two banks with a switch between them: two systems while it is open, one when it is closed."""

import pytest

from jaunty_copper.battery.needs import needs
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire as wired
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import banks_of
from jaunty_copper.plan.model import Disconnect, Plan, PowerLoad, Scenario
from jaunty_copper.plan.supply import places
from jaunty_copper.plan.topology import topology
from jaunty_copper.protection.protection import Protection
from tests.build import bar, battery, judge, wire

CLOSED = Scenario(id="joined", states={"X": "closed"})


def two(closed=False, mains=True, scenarios=(Scenario(id="s", soc_percent=50.0),), **second):
    """Two banks with a main switch, a plus bar and a load each, a shared minus bar, and a switch between the plus bars."""
    sides = [("A", battery("BA")), ("C", battery("BC").model_copy(update=second))]
    return Plan(
        items=(
            bar("M", 6), Disconnect(id="X", rating_a=200.0, closed=closed),
            *(thing for side, unit in sides for thing in (
                unit, Disconnect(id=f"Q{side}", rating_a=200.0, closed=mains), bar(f"P{side}", 4)
            )),
        ),
        equipment=tuple(PowerLoad(id=f"E{side}", power_w=60.0, hours_per_day=10.0) for side, _ in sides),
        runs=(
            wire("x1", "PA.s4", "X.a", 0.5, "mm2-35"), wire("x2", "X.b", "PC.s4", 0.5, "mm2-35"),
            *(run for k, (side, unit) in enumerate(sides) for run in (
                wire(f"u{side}", f"{unit.id}.plus", f"Q{side}.a", 0.5, "mm2-35"),
                wire(f"q{side}", f"Q{side}.b", f"P{side}.s1", 0.5, "mm2-35"),
                wire(f"m{side}", f"{unit.id}.minus", f"M.s{k + 1}", 0.5, "mm2-35"),
                wire(f"p{side}", f"P{side}.s2", f"E{side}.plus", 3.0),
                wire(f"r{side}", f"E{side}.minus", f"M.s{k + 4}", 3.0),
            )),
        ),
        scenarios=scenarios,
    )  # fmt: skip


def units(plan):
    return [[u.id for u in bank.units] for bank in banks_of(topology(plan))]


def found(plan, rule):
    return [f for f in judge(study(plan)) if f.rule.id == rule]


@pytest.mark.parametrize("mains", [True, False])
def test_an_open_cross_over_leaves_two_banks_and_an_open_main_switch_none(mains):
    # The main switches are in series with their banks: open, they disconnect, and part nothing that lives without them.
    assert units(two(mains=mains)) == [["BA"], ["BC"]]
    assert units(two(closed=True, mains=mains)) == [["BA", "BC"]]
    assert topology(two(mains=mains)).crossings(frozenset({"X", "QA", "QC"})) == {"X"}
    without_second = edits.remove(two(mains=mains), "BC")
    assert not topology(without_second).crossings(frozenset({"X", "QA"})), "what has no units lives by the other bank"


def test_strings_of_one_bank_stay_one_bank_with_their_switches_open():
    plan = edits.add(two(mains=False), wire("one", "PA.s3", "PC.s3", 0.5, "mm2-35"))
    assert units(plan) == [["BA", "BC"]]


def test_banks_that_have_nothing_to_feed_yet_are_two_by_their_bars():
    plan = edits.remove(edits.remove(two(), "EA"), "EC")
    assert units(plan) == [["BA"], ["BC"]]


def test_a_switch_beside_a_closed_way_parts_nothing():
    plan = edits.add(two(), wire("beside", "PA.s3", "PC.s3", 0.5, "mm2-35"))
    assert units(plan) == [["BA", "BC"]]


def test_places_for_equipment_follow_the_cross_over():
    assert len({p.rail for p in places(two())}) == 2
    assert len({p.rail for p in places(two(closed=True))}) == 1


def test_units_are_held_against_one_another_only_where_they_are_one_bank():
    assert not found(two(chemistry="lifepo4"), "bank_mixed")
    assert [f.verdict for f in found(two(closed=True, chemistry="lifepo4"), "bank_mixed")] == [Verdict.DANGER]
    assert [f.verdict for f in found(two(chemistry="lifepo4"), "cross_over")] == [Verdict.DEFECT]
    assert [f.verdict for f in found(two(nominal_v=24.0), "cross_over")] == [Verdict.DANGER]
    assert not found(two(), "cross_over")


def test_banks_of_one_kind_at_another_charge_are_not_of_another_voltage_once_they_are_joined():
    joined = two(scenarios=(CLOSED,), soc_percent=20.0)
    assert not found(joined, "contradictory_sources")
    assert found(two(scenarios=(CLOSED,), nominal_v=24.0), "contradictory_sources")
    # What levels out through the cross-over is held against each unit's limit.
    state = study(joined).states[0]
    assert state.current("BC") < -5.0 < 5.0 < state.current("BA")


def test_each_bank_has_an_account_of_its_own():
    plan = edits.change(two(), "EC", hours_per_day=20.0)
    w = wired(plan)
    by_bank = {bank.id: needs(w, bank) for bank in w.banks}
    assert {id_: n.used_wh for id_, n in by_bank.items()} == {"BA": 600.0, "BC": 1200.0}
    assert by_bank["BA"].states[0].draws[0].id == "EA"
    assert len(by_bank["BA"].states[0].draws) == 1
    # Joined they carry both.
    closed = wired(edits.change(plan, "X", closed=True))
    assert needs(closed).used_wh == 1800.0
    # What hangs on no bank yet is counted with the largest.
    loose = wired(edits.add(plan, PowerLoad(id="N", power_w=10.0, hours_per_day=10.0)))
    assert sum(needs(loose, bank).used_wh for bank in loose.banks) == 1900.0
    assert needs(loose).used_wh == 700.0


def test_the_drop_is_counted_from_the_bank_that_feeds():
    plan = two(soc_percent=100.0)
    made = study(plan)
    without = study(edits.remove(plan, "X"))
    (alone,) = without.states
    state, load = made.states[0], plan.by_id["EA"]
    assert made.drop_v(load, state) == pytest.approx(without.drop_v(load, alone), rel=1e-6)
    assert made.drop_v(load, state) == pytest.approx(2 * 60.0 / state.port(load)[0] * 3.0 * 0.00191, rel=0.35), (
        "a few millivolts per metre, and not the distance between two banks"
    )
    assert state.port(load) == pytest.approx(alone.port(load))


@pytest.mark.parametrize("scenarios", [(), (CLOSED,)])
def test_the_least_current_counts_on_no_bank_beyond_an_open_cross_over(scenarios):
    plan = two(scenarios=scenarios)
    alone = edits.remove(plan, "X")

    def least(of):
        f = Protection(study(of)).faults
        return {pair: abs(f.least.current_a[k]) for k, pair in enumerate(f.places.refs)}

    expected, got = least(alone), least(plan)
    shared = [pair for pair in expected if pair in got]
    assert len(shared) > 10
    assert [got[p] for p in shared] == pytest.approx([expected[p] for p in shared], rel=1e-6)
    assert all(least(edits.change(plan, "X", closed=True))[p] >= got[p] * (1 - 1e-9) for p in shared)


def test_a_cross_over_that_a_scenario_opens_is_not_counted_on_either():
    opens = Scenario(id="apart", states={"X": "open"})
    drawn_open, opened = (
        Protection(study(two(closed=closed, scenarios=(opens,)))).faults.least.current_a for closed in (False, True)
    )
    assert opened == pytest.approx(drawn_open)
