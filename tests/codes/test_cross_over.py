"""Two banks with a switch between them: two systems while it is open, one when it is closed."""

import random
from functools import reduce
from itertools import combinations

import numpy as np
import pytest
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from jaunty_copper.battery.needs import needs
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire as wired
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import banks_of
from jaunty_copper.plan.model import Bar, Battery, Converter, Disconnect, Fuse, Plan, PowerLoad, Scenario
from jaunty_copper.plan.supply import places
from jaunty_copper.plan.topology import topology
from jaunty_copper.protection.protection import Protection
from tests.build import bar, battery, judge, wire
from tests.networks import network
from tests.trials import WHOLE

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


def driven_a(plan, closed):
    """Greatest current through copper once some open switches are closed, nothing drawing: 10 milliohm everywhere, by Kirchhoff's laws alone."""
    wiring = wired(plan)
    sources = {x.id: (x.ref("minus"), x.ref("plus"), x.nominal_v) for x in plan.items if isinstance(x, Battery)}
    edges = [
        (b.a, b.b, sources[b.owner][2] if b.kind == "battery" else 0.0)
        for b in wiring.branches
        if b.kind != "body" or getattr(plan.by_id[b.owner], "closed", True) or b.owner in closed
    ]
    lonely = converters_alone(plan, wiring)
    edges += [(wiring.node[e.ref("out_minus")], wiring.node[e.ref("out_plus")], e.out_nominal_v) for e in lonely]
    a, b, emf = (np.array(x) for x in zip(*edges, strict=True))
    into = np.zeros((len(wiring.refs), len(edges)))
    into[a, np.arange(a.size)], into[b, np.arange(a.size)] = -1.0, 1.0
    volts = np.linalg.lstsq(into @ into.T, into @ emf, rcond=None)[0]
    return float(np.abs(emf - into.T @ volts).max()) / 0.01


def converters_alone(plan, wiring):
    """Converters on whose output no battery stands, by what hangs together with every switch as drawn."""
    joined = [b for b in wiring.branches if b.kind != "body" or getattr(plan.by_id[b.owner], "closed", True)]
    ends = np.array([(b.a, b.b) for b in joined]).T
    count = len(wiring.refs)
    _, part = connected_components(coo_array((np.ones(len(joined)), ends), shape=(count, count)), directed=False)
    ports = {e: [part[wiring.node[e.ref(t)]] for t in ("out_minus", "out_plus")] for e in plan.equipment if isinstance(e, Converter)}  # fmt: skip
    return [e for e, (minus, plus) in ports.items() if minus != plus]


@pytest.mark.chance("networks in which closing open switches drives a current where the rule says so, and nowhere else")
@pytest.mark.parametrize("seed", range(300) if WHOLE else range(24))
def test_closing_open_switches_drives_a_current_where_it_is_told_and_nowhere_else(seed):
    rng, plan = random.Random(seed), network(seed)
    ends = [x.id for x in plan.items if isinstance(x, Bar)]
    ends += [x.ref(t) for x in plan.items if isinstance(x, Battery) for t in ("plus", "minus")]
    switches = [f"S{k}" for k in range(rng.choice((1, 1, 2, 3)))]
    for id_ in switches:
        plan = edits.add(plan, Disconnect(id=id_, rating_a=200.0, closed=False))
        for side, end in zip("ab", rng.sample(ends, 2), strict=True):
            plan, _ = edits.connect(plan, f"{id_}.{side}", end, 0.4, conductor="mm2-35")
    if driven_a(plan, ()) > 1e-3:
        return
    some = [c for n in range(1, len(switches) + 1) for c in combinations(switches, n)]
    told = [f for f in found(plan, "cross_over") if f.verdict is Verdict.DANGER]
    assert bool(told) == any(driven_a(plan, closed) > 1e-3 for closed in some)
    # Those that are not named may all be closed.
    assert driven_a(plan, set(switches) - {f.place for f in told}) < 1e-3


def closable(a, b):
    """A bank of two units of 12 V in series with a load, and a switch that is drawn open from one terminal to another."""
    return Plan(
        items=(battery("B"), battery("C"), bar("P", 3), bar("N", 3), Disconnect(id="S", rating_a=200.0, closed=False)),
        equipment=(PowerLoad(id="E", nominal_v=24.0, power_w=60.0),),
        runs=(
            wire("u", "B.plus", "P.s1"), wire("s", "B.minus", "C.plus"), wire("n", "C.minus", "N.s1"),
            wire("p", "P.s2", "E.plus"), wire("q", "E.minus", "N.s2"), wire("x", a, "S.a"), wire("y", "S.b", b),
        ),
    )  # fmt: skip


@pytest.mark.parametrize(("a", "b", "volts"), [("P.s3", "N.s3", 24.0), ("P.s3", "C.plus", 12.0)])
def test_an_open_switch_across_a_bank_or_a_unit_of_it_is_a_danger(a, b, volts):
    (finding,) = found(closable(a, b), "cross_over")
    assert (finding.verdict, finding.place, finding.figure) == (Verdict.DANGER, "S", volts)
    assert "shorts" in finding.headline


def test_banks_that_share_no_minus_may_meet_at_one_pole():
    apart = edits.remove(two(nominal_v=24.0), "mC")
    assert not found(edits.remove(apart, "rC"), "cross_over")


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


# What each scenario leaves on


def least_of(plan):
    """The least current of each fault by the pair of its terminals, A."""
    f = Protection(study(plan)).faults
    return {pair: f.least_of(k) for k, pair in enumerate(f.places.refs)}


def test_one_bank_off_and_the_cross_over_closed_the_other_feeds_from_afar():
    """Its own main switch open, a bank's circuits hang on the other one: by hand, the way there and back is longer."""
    off = Scenario(id="service", states={"QA": "open", "X": "closed"})
    got, alone = least_of(two(scenarios=(off,))), least_of(two())
    afar = least_of(edits.remove(edits.change(two(closed=True), "QC", closed=True), "QA"))
    pair = ("EA.plus", "EA.minus")
    assert got[pair] == pytest.approx(afar[pair], rel=1e-6)
    assert got[pair] < 0.97 * alone[pair]
    # What stands at the other bank never sees less than that bank alone gives.
    assert got["EC.plus", "EC.minus"] == pytest.approx(alone["EC.plus", "EC.minus"], rel=1e-6)


def strings(count, scenarios=()):
    """Units in parallel between two bars, each with a switch of its own, and a lamp on a long thin cable behind a fuse."""
    names = "ABCD"[:count]
    return Plan(
        items=(
            bar("P", 6), bar("M", 6), Fuse(id="F", family="large-blade-fuse", rating_a=30.0),
            *(thing for n in names for thing in (battery(f"B{n}"), Disconnect(id=f"Q{n}", rating_a=100.0))),
        ),
        equipment=(PowerLoad(id="E", power_w=20.0, nominal_v=12.0),),
        runs=(
            *(run for k, n in enumerate(names) for run in (
                wire(f"u{n}", f"B{n}.plus", f"Q{n}.a", 0.5, "mm2-16"), wire(f"q{n}", f"Q{n}.b", f"P.s{k + 1}", 0.5, "mm2-16"),
                wire(f"m{n}", f"B{n}.minus", f"M.s{k + 1}", 0.5, "mm2-16"),
            )),
            wire("f", "P.s5", "F.a", 0.1, "mm2-16"), wire("e", "F.b", "E.plus", 6.0, "mm2-16"),
            wire("r", "E.minus", "M.s5", 6.0, "mm2-16"),
        ),
        scenarios=scenarios,
    )  # fmt: skip


def test_strings_that_a_scenario_switches_off_do_not_help():
    one_off = Scenario(id="one", states={"QB": "open"})
    main_off = Scenario(id="none", states={"QA": "open", "QB": "open"})
    got, single = least_of(strings(2, (one_off,))), least_of(edits.remove(strings(2), "BB", "QB"))
    shared = [pair for pair in single if pair in got]
    assert len(shared) > 5
    assert [got[p] for p in shared] == pytest.approx([single[p] for p in shared], rel=1e-6)
    # Where nothing is fed in a scenario it tells nothing of the least current; at its own posts each unit feeds itself.
    both, whole = least_of(strings(2, (main_off,))), least_of(strings(2))
    for pair in (("E.plus", "E.minus"), ("F.a", "M.s5")):
        assert both[pair] == pytest.approx(whole[pair], rel=1e-6)
    assert both["BA.plus", "BA.minus"] < 0.7 * whole["BA.plus", "BA.minus"]


def test_a_device_that_opens_in_time_with_all_strings_and_late_with_one_is_told():
    weak = Scenario(id="weak", states={f"Q{n}": "open" for n in "BCD"})
    plan = edits.change_plan(strings(4), practice="iec_60364")
    plan = reduce(lambda p, n: edits.change(p, f"B{n}", capacity_ah=12.0), "ABCD", plan)

    def late(of):
        return [f.place for f in judge(study(of)) if f.rule.id == "slow_opening"]

    ratings = [r for r in (20.0, 30.0, 40.0, 50.0, 60.0, 80.0) if not late(edits.change(plan, "F", rating_a=r))]
    largest = edits.change(plan, "F", rating_a=max(ratings))
    assert late(edits.change_plan(largest, scenarios=(weak,))) == ["F"]
    (told,) = [f for f in judge(study(edits.change_plan(largest, scenarios=(weak,)))) if f.rule.id == "slow_opening"]
    assert "at least through it with QB, QC, QD open: F opens after" in told.headline


@pytest.mark.chance("networks whose least fault currents are those without what is switched off")
@pytest.mark.parametrize("seed", range(400 if WHOLE else 40))
def test_least_currents_are_those_of_the_plan_without_what_is_switched_off(seed):
    """Random networks, random switches in them, random ones of those open in two scenarios: each held against plans without."""
    r = random.Random(seed)
    plan = edits.change_plan(network(seed), scenarios=())
    for run in r.sample(plan.runs, min(4, len(plan.runs))):
        if run.length_m > 0.0:
            plan = edits.insert_inline(plan, run.id, Disconnect(id=f"SW{run.id}", rating_a=500.0), 0.5 * run.length_m)
    switches = [x.id for x in plan.items if isinstance(x, Disconnect)]
    off = [frozenset(r.sample(switches, r.randint(1, min(2, len(switches))))) for _ in range(2)]
    states = tuple(Scenario(id=f"s{k}", states=dict.fromkeys(sorted(one), "open")) for k, one in enumerate(off))
    both = edits.change_plan(plan, scenarios=states)
    got = least_of(both)
    f = Protection(study(both)).faults
    closed = {pair: abs(float(f.least.current_a[k])) for k, pair in enumerate(f.places.refs)}

    def blocked(ids):
        """The same plan with as good as nothing conducting in some switches."""
        return least_of(reduce(lambda p, id_: edits.change(p, id_, measured_ohm=1e6), sorted(ids), plan))

    off_a = [blocked(one) for one in off]
    # What a scenario disconnects and has no source stays connected in thought: less is told there, and never more.
    assert all(one <= {*off[0], *off[1]} for one in f.switchings[1:])
    thought_a = [blocked(one) for one in f.switchings[1:]]
    for pair, amps in got.items():
        fed, thought = ([found[pair] for found in (closed, *some) if found[pair] > 1e-3] for some in (off_a, thought_a))
        assert amps <= min(fed, default=closed[pair]) * (1.0 + 1e-5) + 1e-3, pair
        assert amps == pytest.approx(min(thought, default=closed[pair]), rel=1e-5, abs=1e-3), pair
