"""For each book a plan in which everything is in order, and each of its rules broken once."""

from functools import cache

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.building import reshape
from jaunty_copper.choosing.beginning import Beginning, begun
from jaunty_copper.choosing.protect import protect
from jaunty_copper.choosing.wiring_up import wire_up
from jaunty_copper.codes.code import code_names, code_of
from jaunty_copper.codes.rules import RULES
from jaunty_copper.codes.rules.switching import turn_round
from jaunty_copper.plan import edits
from jaunty_copper.plan.lines import add_line
from jaunty_copper.plan.model import (
    Alternator,
    Bar,
    BarStud,
    Battery,
    Breaker,
    Chassis,
    Contactor,
    Disconnect,
    Fuse,
    PlugConnector,
    Post,
    PowerLoad,
    Route,
    Scenario,
    Splice,
    Zone,
    split_ref,
)
from jaunty_copper.plan.topology import bonds_of, chain

LINES = (
    "Inverter 400 W 1.2 m",
    "charger 20 A 2 m",
    "Pump 90 W 6 m",
    "converter 24 to 12 V 20 A 1 m",
    "Radio 12 V 3 A 4 m",
)
INVERTER, CHARGER, PUMP, CONVERTER, RADIO = "E1", "E2", "E3", "E4", "E5"


@cache
def sound(practice):
    """24 V, two strings of two units that say what they drive into a short, five pieces of equipment wired up and protected."""
    plan = begun(Beginning(24.0, "agm", 12.0, 110.0, 2, practice, "minus"))
    for line in LINES:
        plan, _ = add_line(plan, line, 24.0)
    units = {x.id: {"short_circuit_a": 1600.0} for x in plan.items if isinstance(x, Battery)}
    plan = edits.change_each(wire_up(plan).plan, units)
    # A charger's own leads in a covering: small craft wants a device at its end where they have none.
    plan = edits.change_each(plan, {r.id: {"sheathed": True} for r in chain(plan, f"{CHARGER}.plus")})
    return protect(plan).plan


@pytest.mark.parametrize("practice", code_names())
def test_a_plan_in_order_has_no_finding(practice):
    known = Assessment(sound(practice))
    assert [f.headline for f in known.findings] == []
    # Most rules looked at something in it.
    assert len({c.rule.id for c in known.checks}) > 45


def units(plan):
    return [x.id for x in plan.items if isinstance(x, Battery)]


def each(plan, ids, **fields):
    return edits.change_each(plan, dict.fromkeys(ids, fields))


def runs(plan, e, terminal="plus"):
    return [r.id for r in chain(plan, f"{e}.{terminal}")]


def both_ways(plan, e):
    plus, minus = plan.by_id[e].port
    return [r.id for ref in (plus, minus) for r in chain(plan, ref)]


def in_line(plan, e, kind=Fuse):
    """The first thing of a kind in a circuit's plus."""
    ends = (split_ref(end)[0] for r in chain(plan, plan.by_id[e].port[0]) for end in (r.a, r.b))
    return next(id_ for id_ in ends if isinstance(plan.by_id[id_], kind))


def without(plan, kind, keep=()):
    for id_ in [x.id for x in plan.items if isinstance(x, kind) and x.id not in keep]:
        plan = edits.remove_inline(plan, id_)
    return plan


def breaker(plan, e, family, rating=32.0):
    id_ = in_line(plan, e)
    return edits.replace_item(plan, id_, Breaker(id=id_, family=family, rating_a=rating)), id_


def with_contactor(plan, **fields):
    (first, *_) = runs(plan, PUMP)
    return edits.insert_inline(plan, first, Contactor(id="K9", rating_a=30.0).model_copy(update=fields), 1.0)


def with_coil(plan, at):
    plan = edits.add(with_contactor(plan), PowerLoad(id="COIL", nominal_v=24.0, power_w=6.0, drives="K9"))
    (plus,) = [t for t in ("K9.a", "K9.b") if (t in chain_ends(plan, f"{PUMP}.plus")) is (at == "behind")]
    plan, _ = edits.connect(plan, plus, "COIL.plus")
    plan, _ = edits.connect(plan, "COIL.minus", "M1")
    return plan


def chain_ends(plan, ref):
    """Ends of the one run at a terminal."""
    (run,) = plan.runs_at[ref]
    return {run.a, run.b}


def with_plug(plan, **fields):
    run = runs(plan, PUMP)[0]
    return edits.insert_inline(plan, run, PlugConnector(id="J9", rating_a=30.0).model_copy(update=fields), 1.0)


def live_half(plan):
    """The end of a plug that leads to the bars."""
    plan = with_plug(plan)
    near = chain_ends(plan, f"{PUMP}.plus")
    return with_plug(plan_without_plug(plan), pins="b" if "J9.a" in near else "a")


def plan_without_plug(plan):
    return edits.remove_inline(plan, "J9")


def joined(plan, thing, *ends, length=0.5, conductor="mm2-35"):
    plan = edits.add(plan, thing)
    for a, b in ends:
        plan, _ = edits.connect(plan, a, b, length, conductor=conductor)
    return plan


def parallel(plan):
    """Four strings, none with a device of its own."""
    plan = without(plan, Fuse, [x.id for x in plan.items if x.id not in string_fuses(plan)])
    return reshape(plan, "B1", 2, 4)


def string_fuses(plan):
    bank = {f"{u}.{t}" for u in units(plan) for t in ("plus", "minus")}
    hubs = {x.id for x in plan.items if isinstance(x, Bar) and x.id.startswith("B")}
    found = set()
    for r in plan.runs:
        for near, far in ((r.a, r.b), (r.b, r.a)):
            item = plan.by_id[split_ref(far)[0]]
            if near in bank and isinstance(item, Fuse) and hubs:
                found.add(item.id)
    return found


def scenario(plan, **fields):
    return plan.model_copy(update={"scenarios": (*plan.scenarios, Scenario(id="broken", **fields))})


def with_post(plan):
    run = plan.run_by_id[runs(plan, PUMP)[0]]
    end = "a" if run.a.startswith(PUMP) else "b"
    plan = edits.add(plan, Post(id="T9", rating_a=0.5))
    plan = edits.aim(plan, run.id, end, "T9.stud")
    plan, _ = edits.connect(plan, "T9.stud", f"{PUMP}.plus", 0.2)
    return plan


def in_zone(plan, ids, **zone):
    return each(edits.add(plan, Zone(id="z9", **zone)), ids, zone="z9")


def crossed(plan):
    """A second bank of 12 V with a bar of its own, joined by a switch that is drawn open."""
    plan = edits.add(
        plan, Battery(id="B9", chemistry="agm", nominal_v=12.0, capacity_ah=110.0, short_circuit_a=1600.0),
        Bar(id="P9", rating_a=200.0, studs=(BarStud(id="s1"), BarStud(id="s2"))), Disconnect(id="Q9", rating_a=200.0, closed=False),
    )  # fmt: skip
    for a, b in (("B9.plus", "P9.s1"), ("P9.s2", "Q9.a"), ("Q9.b", "P1"), ("B9.minus", "M1")):
        plan, _ = edits.connect(plan, a, b, 0.3, conductor="mm2-95")
    return plan


def past_shunt(plan):
    """The charger's return led to the bank's own side of the shunt."""
    (to_bank,) = [r for r in plan.runs if "S1.a" in (r.a, r.b)]
    far = to_bank.b if to_bank.a == "S1.a" else to_bank.a
    last = runs(plan, CHARGER, "minus")[-1]
    run = plan.run_by_id[last]
    end = "a" if split_ref(run.a)[0] == "M1" else "b"
    hub = split_ref(far)[0]
    return edits.aim(plan, last, end, hub if isinstance(plan.by_id[hub], Bar) else far)


def on_one_stud(plan):
    """Every circuit of the plus bar on its first stud."""
    for e in (INVERTER, CHARGER, PUMP, CONVERTER):
        last = plan.run_by_id[(chain(plan, plan.by_id[e].port[0]))[-1].id]
        plan = edits.aim(plan, last.id, "a" if split_ref(last.a)[0] == "P1" else "b", "P1.s1")
    return plan


def lug(plan, **size):
    run = next(r for r in plan.runs if "P1.s1" in (r.a, r.b))
    return edits.change(plan, run.id, **({"lug_a": size["lug"]} if run.a == "P1.s1" else {"lug_b": size["lug"]}))


def conduit(plan):
    plan = edits.add(plan, Route(id="R9", inner_mm=8.0))
    return each(plan, [*both_ways(plan, PUMP), *both_ways(plan, INVERTER)], route="R9")


def rated_just_below_ampacity(plan):
    case = Assessment(plan).case
    able = min(case.ampacities[r].amps for r in runs(plan, PUMP))
    ratings = [r for r in case.parts.device_ratings_a if r <= able]
    return edits.change(plan, in_line(plan, PUMP), family="cylindrical-fuse", rating_a=ratings[-1])


def turned(plan):
    plan, id_ = breaker(plan, PUMP, "thermal-breaker", 25.0)
    return turn_round(plan, id_)


BROKEN = {
    "above_60_v": lambda p: edits.change(p, PUMP, nominal_v=72.0),
    "contradictory_sources": lambda p: joined(
        p, Battery(id="B9", chemistry="agm", nominal_v=12.0, capacity_ah=100.0), ("B9.plus", "P1"), ("B9.minus", "M1")
    ),
    "collapse": lambda p: edits.change(p, PUMP, power_w=60000.0),
    "cut_off": lambda p: edits.remove(p, *runs(p, PUMP, "minus")),
    "never_on": lambda p: p.model_copy(
        update={"scenarios": tuple(s.model_copy(update={"states": {**s.states, PUMP: "off"}}) for s in p.scenarios)}
    ),
    "converter_starved": lambda p: edits.change(p, CONVERTER, min_v=40.0),
    "dangling": lambda p: edits.remove(p, *runs(p, PUMP, "minus")),
    "past_the_shunt": past_shunt,
    "unknown_override": lambda p: edits.set_override(p, "no_such_limit", 1.0, "to try"),
    "no_protection": lambda p: without(p, Fuse),
    "branch_unprotected": lambda p: edits.remove_inline(p, in_line(p, PUMP)),
    "source_end": lambda p: each(p, both_ways(p, CHARGER), conductor="mm2-0.5"),
    "device_too_large": lambda p: edits.change(p, in_line(p, PUMP), family="class-t-fuse", rating_a=100.0),
    "feeds_too_strong": lambda p: edits.change(p, "P2", rating_a=10.0),
    "device_too_small": lambda p: edits.change(p, in_line(p, INVERTER), family="class-t-fuse", rating_a=5.0),
    "not_listed": lambda p: edits.change(p, in_line(p, PUMP), family="cylindrical-fuse"),
    "device_rating": lambda p: edits.change(p, in_line(p, PUMP), rating_a=13.7),
    "device_voltage": lambda p: edits.change(p, "Q1", max_v=12.0),
    "interrupt_rating": lambda p: edits.change(p, in_line(p, PUMP), family="glass-fuse-5x20", rating_a=5.0),
    "data_sheet": lambda p: each(
        edits.change(p, in_line(p, PUMP), family="terminal-cube-fuse", rating_a=30.0), units(p), short_circuit_a=None
    ),
    "heat_opens": lambda p: in_zone(breaker(p, CHARGER, "thermal-breaker", 25.0)[0], [in_line(p, CHARGER)], ambient_c=80.0),
    "breaker_table": lambda p: each(breaker(p, PUMP, "thermal-breaker", 25.0)[0], units(p), cranking_a=900.0),
    "fault_withstand": lambda p: each(edits.change(p, in_line(p, PUMP), family="class-t-fuse", rating_a=150.0), both_ways(p, PUMP), conductor="mm2-0.5"),
    "slow_opening": lambda p: each(
        edits.change(p, in_line(p, PUMP), family="class-t-fuse", rating_a=25.0), [runs(p, PUMP)[0], *runs(p, PUMP, "minus")], length_m=30.0
    ),
    "conventional_current": rated_just_below_ampacity,
    "selectivity": lambda p: edits.change(edits.change(p, in_line(p, PUMP), family="class-t-fuse", rating_a=30.0), "F1", rating_a=30.0),
    "surge_opens": lambda p: scenario(edits.change(p, PUMP, surge_w=600.0, surge_s=600.0), states={PUMP: "surge"}),
    "inrush": lambda p: edits.change(edits.change(p, "Q1", making_a=20.0), INVERTER, input_uf=20000.0),
    "short_time": lambda p: edits.change(p, "Q1", short_time_a=20.0),
    "turning_current": lambda p: breaker(p, CHARGER, "dc-miniature-breaker")[0],
    "line_side": turned,
    "bar_section": lambda p: edits.change(p, "P1", width_mm=5.0, thickness_mm=1.0),
    "bar_heat": lambda p: edits.change(p, "P1", width_mm=2.0, thickness_mm=0.5),
    "bar_force": lambda p: edits.change(p, "P1", gap_mm=1.0, support_mm=3000.0),
    "ignition": lambda p: in_zone(p, ["Q1"], ignition_hazard=True),
    "bank_switch": lambda p: edits.remove_inline(p, "Q1"),
    "source_switch": lambda p: edits.remove_inline(p, in_line(p, CHARGER, Disconnect)),
    "bond_size": lambda p: each(p, [r.id for r in bonds_of(p)], conductor="mm2-0.75"),
    "several_bonds": lambda p: edits.connect(p, "M1", "H1", 0.5, conductor="mm2-95")[0],
    "cross_over": crossed,
    "bank_mixed": lambda p: edits.change(p, "B1", chemistry="gel"),
    "bank_unequal": lambda p: each(p, ["B1", "B2"], capacity_ah=30.0),
    "bank_spread": lambda p: scenario(edits.change(p, "L1", length_m=100.0), states={CHARGER: "off"}),
    "levelling": lambda p: each(p, ["B1", "B2"], soc_percent=10.0),
    "unit_limit": lambda p: each(p, units(p), max_discharge_a=0.5),
    "opens_first": lambda p: each(p, units(p), managed=True, max_discharge_a=15.0),
    "opens_itself": lambda p: joined(
        each(p, units(p), managed=True), Alternator(id="A9", nominal_v=24.0, set_v=28.0, current_a=20.0), ("A9.plus", "P1"), ("A9.minus", "M1")
    ),
    "charge_voltage": lambda p: edits.change(p, CHARGER, set_v=32.0),
    "cold_charge": lambda p: scenario(
        p, soc_percent=40.0, ambient_c={z.id: -35.0 for z in p.zones}, states={INVERTER: "off", PUMP: "off"}
    ),
    "hot_bank": lambda p: scenario(p, ambient_c={z.id: 70.0 for z in p.zones}),
    "charge_rate": lambda p: edits.change(p, CHARGER, current_a=0.5),
    "wrong_voltage": lambda p: edits.change(p, PUMP, nominal_v=12.0),
    "cross_ties": lambda p: edits.connect(p, "B1.plus", "B3.plus", 0.3, conductor="mm2-95")[0],
    "string_protection": parallel,
    "autonomy": lambda p: p.model_copy(
        update={"autonomy_days": 50.0, "equipment": tuple(e.model_copy(update={"hours_per_day": 8.0}) if e.id == PUMP else e for e in p.equipment)}
    ),
    "hydrogen": lambda p: in_zone(each(p, units(p), chemistry="flooded-lead-acid"), units(p), ventilated=False),
    "ampacity": lambda p: each(p, both_ways(p, INVERTER), conductor="mm2-0.75"),
    "least_size": lambda p: each(p, both_ways(p, RADIO), conductor="mm2-0.5"),
    "insulation": lambda p: in_zone(p, runs(p, PUMP), ambient_c=120.0),
    "return_conductor": lambda p: each(p, runs(p, INVERTER, "minus"), conductor="mm2-1"),
    "conduit_fill": conduit,
    "bar_rating": lambda p: edits.change(p, "P1", rating_a=1.0),
    "part_rating": lambda p: edits.change(p, "Q1", rating_a=1.0),
    "post_rating": with_post,
    "fuse_holder": lambda p: edits.change(p, in_line(p, PUMP), holder_a=1.0),
    "contactor_duty": lambda p: with_contactor(p, rating_a=None, intermittent_a=100.0),
    "bond_unsaid": lambda p: edits.remove(p, next(x.id for x in p.items if isinstance(x, Chassis))),
    "covers": lambda p: edits.change(p, "B1", covered=False),
    "splice": lambda p: edits.insert_inline(p, runs(p, PUMP)[-1], Splice(id="J1", within_reach=False)),
    "live_pins": live_half,
    "plug_under_load": with_plug,
    "coil_supply": lambda p: with_coil(p, "behind"),
    "coil_suppression": lambda p: with_contactor(p, suppression="none"),
    "monitor_lead": lambda p: edits.change(p, "S1", monitor_fuse_a=None),
    "voltage_drop": lambda p: each(p, both_ways(p, PUMP), length_m=40.0),
    "lowest_voltage": lambda p: edits.change(p, PUMP, min_v=35.0),
    "lug_stud": lambda p: lug(p, lug="M12"),
    "lug_conductor": lambda p: lug(p, lug="M5"),
    "lugs_per_stud": on_one_stud,
}  # fmt: skip
"""How each rule is broken in a plan that is in order."""
SILENT = {("not_listed", code) for code in code_names() if not code_of(code).unlisted}
"""Rules that a book has nothing to say by: it forbids no family."""


def test_every_rule_is_broken_here():
    assert BROKEN.keys() == {r.id for r in RULES}


@pytest.mark.parametrize("practice", code_names())
@pytest.mark.parametrize("rule", [r.id for r in RULES])
def test_broken_once_a_rule_says_so(rule, practice):
    only = next(r.only for r in RULES if r.id == rule)
    plan = BROKEN[rule](sound(practice))
    told = {f.rule.id for f in Assessment(plan).findings}
    said = (not only or practice in only) and (rule, practice) not in SILENT
    assert (rule in told) is said
