"""A circuit that follows its load is right for the place it lands in, wherever that is."""

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing import circuits, sizing
from jaunty_copper.choosing.protect import protect
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.codes.code import code_names as practices
from jaunty_copper.codes.code import code_of
from jaunty_copper.network.study import study
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.plan import edits
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Bar, Battery, Breaker, Chassis, ChassisPoint, Converter, Fuse, Run, Source
from jaunty_copper.plan.topology import chain, topology
from tests.build import judge

PLANS = {"blank": blank(), **{name: example(name) for name in names()}}
BARS = [(name, x.id) for name, plan in PLANS.items() for x in plan.items if isinstance(x, Bar)]


@pytest.mark.parametrize("practice", practices())
def test_a_new_plan_has_no_finding_but_asks_how_it_is_bonded(practice):
    found = judge(study(edits.change_plan(blank(), practice=practice)))
    assert [f.rule.id for f in found] == ["bond_unsaid"]


@pytest.mark.parametrize(("name", "bar"), BARS)
def test_what_is_added_at_any_bar_has_no_finding(name, bar):
    plan = PLANS[name]
    kinds = list(circuits.that_fit(plan, plan.by_id[bar]))
    assert len(kinds) >= 5
    for word, equipment in kinds:
        added = circuits.add_circuit(plan, bar, equipment)
        own = {x.id for x in (*added.placed, *added.runs)} - {x.id for x in (*plan.placed, *plan.runs)}
        # A device may be selective up to some current only: a note, where nothing better fits.
        found = [f for f in judge(study(added)) if f.place in own and f.verdict is not Verdict.ADVICE]
        assert not found, (word, found)
        e = added.by_id[equipment.id]
        assert e.id in own
        device = next(x for x in added.items if x.id in own and isinstance(x, Fuse | Breaker))
        case = Case(study(added))
        # By hand: the device carries the load in its air, and every conductor of the circuit bears the device.
        amps = (
            sizing.rated_current(e)
            if isinstance(e, Source | Converter)
            else abs(max(float(s.port(e)[1]) for s in case.study.states))
        )
        left = float(
            ambient_factor(case.parts.device_families[device.family].release, case.plan.zone_of(device.zone).ambient_c)
        )
        assert device.rating_a * left >= 0.99 * amps
        for run in (*chain(added, e.port[0]), *chain(added, e.port[1])):
            assert case.ampacities[run.id].amps >= device.rating_a * 0.999
            assert run.follows_load


def test_where_plus_is_earthed_the_device_stands_in_minus():
    plan = PLANS["relay_mast"]
    _, e = next(circuits.that_fit(plan, plan.by_id["G48"]))
    added = circuits.add_circuit(plan, "G48", e)
    ends = [ref for r in chain(added, e.ref("minus")) for ref in (r.a, r.b)]
    assert any(isinstance(added.by_id[ref.split(".")[0]], Fuse | Breaker) for ref in ends)
    assert any(ref.startswith("N48.") for ref in ends)
    assert all(
        not isinstance(added.by_id[ref.split(".")[0]], Fuse | Breaker)
        for r in chain(added, e.ref("plus"))
        for ref in (r.a, r.b)
    )


def test_sources_are_offered_only_where_there_is_a_bank_with_room():
    demo = PLANS["orchard_station"]
    at_12 = {type(e) for _, e in circuits.that_fit(demo, demo.by_id["P12"])}
    at_24 = [e for _, e in circuits.that_fit(demo, demo.by_id["P24"])]
    assert not any(issubclass(t, Source) for t in at_12)
    assert any(isinstance(e, Source) for e in at_24)
    shed = PLANS["seed_shed"]
    may = shed.by_id["B1"].max_charge_a or 0.25 * shed.by_id["B1"].capacity_ah
    for _, e in circuits.that_fit(shed, shed.by_id["P1"]):
        if isinstance(e, Source):
            assert e.current_a + sum(x.current_a for x in shed.equipment if isinstance(x, Source)) <= may


def test_sizes_follow_the_load_until_they_are_chosen():
    plan = blank()
    thick = sizing.change(plan, "E1", power_w=3000.0)
    areas = [Case(study(p)).parts.conductors[p.run_by_id["W7"].conductor].area_mm2 for p in (plan, thick)]
    assert areas[1] > 10 * areas[0]
    assert thick.by_id["F2"].rating_a >= 250
    assert all(s.solved for s in study(thick).states)
    assert sizing.change(thick, "E1", power_w=60.0).run_by_id["W7"].conductor == plan.run_by_id["W7"].conductor
    chosen = sizing.change(thick, "W7", conductor="mm2-95")
    assert not chosen.run_by_id["W7"].follows_load
    assert chosen.run_by_id["W8"].follows_load
    back = sizing.change(chosen, "E1", power_w=60.0)
    assert back.run_by_id["W7"].conductor == "mm2-95"
    assert back.run_by_id["W8"].conductor == plan.run_by_id["W8"].conductor
    longer = sizing.change(plan, "W7", length_m=25.0)
    assert Case(study(longer)).parts.conductors[longer.run_by_id["W7"].conductor].area_mm2 > areas[0]
    assert not [f for f in judge(study(longer)) if f.rule.id == "voltage_drop"]


def test_a_converters_own_leads_follow_what_it_gives():
    demo = PLANS["orchard_station"]
    converter = next(e for _, e in circuits.that_fit(demo, demo.by_id["P24"]) if isinstance(e, Converter))
    added = circuits.add_circuit(demo, "P24", converter)
    bars = [x for x in added.items if isinstance(x, Bar) and x.id not in demo.by_id]
    assert [b.name for b in bars] == ["12 V plus bar", "12 V minus bar"]
    strong = sizing.change(added, converter.id, current_a=60.0)
    case = Case(study(strong))
    for terminal in ("out_plus", "out_minus"):
        (run,) = chain(strong, converter.ref(terminal))
        assert case.ampacities[run.id].amps >= 60.0 > Case(study(added)).ampacities[run.id].amps


def test_a_plan_in_which_nothing_follows_is_left_alone():
    demo = PLANS["orchard_station"]
    assert sizing.change(demo, "PUMP", power_w=500.0) == edits.change(demo, "PUMP", power_w=500.0)
    assert sizing.change_field(demo, "PUMP", "name", "x").by_id["PUMP"].name == "x"


def test_a_circuit_needs_a_return():
    lonely = edits.add(blank(), Chassis(id="H1", points=(ChassisPoint(id="p1"),)))
    lonely = edits.remove(lonely, "M1")
    _, e = next(circuits.that_fit(blank(), blank().by_id["P1"]))
    assert list(circuits.that_fit(edits.remove(lonely, "H1"), lonely.by_id["P1"])) == []
    with pytest.raises(EditError, match="needs a return"):
        circuits.add_circuit(edits.remove(lonely, "H1"), "P1", e)
    with pytest.raises(EditError, match="no bar, stud or chassis"):
        circuits.add_circuit(blank(), "F1", e)


def test_chains_end_where_conductors_meet():
    plan = blank()
    assert [r.id for r in chain(plan, "E1.plus")] == ["W7", "W6"]
    forked = edits.add(plan, Run(id="W99", a="E1.plus", b="P1.s5", length_m=1.0))
    assert chain(forked, "E1.plus") == []


def reached_past_no_device(plan, without):
    """Terminals that a battery's posts reach by conductors, bars, switches and shunts, but one conductor."""
    joined = {}
    for r in plan.runs:
        if r.id != without:
            joined.setdefault(r.a, []).append(r.b)
            joined.setdefault(r.b, []).append(r.a)
    for x in plan.items:
        if not isinstance(x, Battery | Fuse | Breaker):
            for t in x.terminal_names:
                joined.setdefault(x.ref(t), []).extend(x.ref(u) for u in x.terminal_names)
    found = {x.ref(t) for x in plan.items if isinstance(x, Battery) for t in x.terminal_names}
    waiting = list(found)
    while waiting:
        for other in joined.get(waiting.pop(), ()):
            if other not in found:
                found.add(other)
                waiting.append(other)
    return found


def without_frames(plan):
    """A plan that is bonded nowhere."""
    return edits.remove_all(plan, tuple(x.id for x in plan.items if isinstance(x, Chassis)))


@pytest.mark.parametrize("name", ["seed_shed", "orchard_station"])
def test_a_system_that_floats_on_purpose_gets_a_device_in_each_pole(name):
    plan = edits.change_plan(without_frames(example(name)), floating=True)
    wrong = {f.place for f in Assessment(plan).findings if f.rule.id == "no_protection"}
    assert wrong
    mended = protect(plan).plan
    limit = code_of(plan.practice).limit("first_protection_m")
    for run in mended.runs:
        bare = {run.a, run.b} & reached_past_no_device(mended, run.id)
        if bare and not all(ref.split(".")[0].startswith("B") for ref in (run.a, run.b)):
            assert run.length_m <= max(limit, 1.83), run
    kinds = {f.rule.id for f in Assessment(mended).findings}
    assert not kinds & {"no_protection", "branch_without_device", "device_too_large"}


def test_a_circuit_drawn_in_it_has_one_in_each_pole_too_and_nothing_to_say_about_them():
    plan = protect(edits.change_plan(without_frames(example("seed_shed")), floating=True)).plan
    for bar in ("P1", "M1"):
        _, e = next(iter(circuits.that_fit(plan, plan.by_id[bar])))
        added = circuits.add_circuit(plan, bar, e)
        own = {x.id for x in added.items} - {x.id for x in plan.items}
        assert len(own) == 2
        assert all(isinstance(added.by_id[id_], Fuse | Breaker) for id_ in own)
        sides = {topology(added).rail_of(added.by_id[id_].ref("a")) for id_ in own}
        assert sides == {topology(added).rail_of(ref) for ref in e.port}
        new = {r.id for r in added.runs} - {r.id for r in plan.runs}
        assert [f.headline for f in Assessment(added).findings if f.place in own | new | {e.id}] == []
