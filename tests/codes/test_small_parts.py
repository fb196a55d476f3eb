"""Plugs, coils, holders, leads of monitors: each rule broken and mended by hand."""

import random

import pytest

from jaunty_copper.battery.needs import needs
from jaunty_copper.choosing import circuits
from jaunty_copper.choosing.devices import choices
from jaunty_copper.choosing.windows import window
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.fabrication.cuts import cuts_of
from jaunty_copper.fabrication.materials import workshop_of
from jaunty_copper.network.study import solve_scenario, study
from jaunty_copper.network.wiring import wire as wired
from jaunty_copper.plan import edits
from jaunty_copper.plan.check import problems
from jaunty_copper.plan.model import (
    Board,
    Charger,
    Contactor,
    Converter,
    Disconnect,
    Plan,
    PlugConnector,
    PowerLoad,
    ResistiveLoad,
    Scenario,
    Shunt,
    Splice,
    Spot,
)
from jaunty_copper.plan.topology import distributor_of
from tests.build import bar, battery, fused, judge, wire
from tests.trials import WHOLE


def found(plan, rule):
    return [f for f in judge(study(plan)) if f.rule.id == rule]


def plugged(**more):
    """The fused circuit with a plug in its plus, before the load: fed from side a."""
    return edits.insert_inline(fused(), "W5", PlugConnector(id="J", rating_a=30.0, **more), 2.0)


def test_bare_pins_belong_on_the_side_that_is_dead_when_parted():
    (f,) = found(plugged(pins="a"), "live_pins")
    assert (f.place, f.verdict) == ("J", Verdict.DEFECT)
    assert f.fix().apply(plugged(pins="a")).by_id["J"].pins == "b"
    assert found(plugged(pins="b"), "live_pins") == []
    assert found(plugged(), "live_pins") == []


def test_between_a_bank_and_a_charger_either_side_is_live():
    plan = edits.add(
        fused(),
        Charger(id="C", set_v=14.2, current_a=10.0),
        wire("C1", "P.s3", "C.plus"),
        wire("C2", "C.minus", "M.s3"),
    )
    for pins in "ab":
        both = edits.insert_inline(plan, "C1", PlugConnector(id="J", rating_a=30.0, pins=pins))
        (f,) = found(both, "live_pins")
        assert f.fix() is None
        assert "both its sides" in f.headline


def test_a_plug_in_the_grounded_pole_has_no_live_pins():
    plan = edits.insert_inline(fused(), "W6", PlugConnector(id="J", rating_a=30.0, pins="a"))
    assert found(plan, "live_pins") == []


def test_a_plug_is_as_good_as_the_weaker_of_its_halves():
    plan = plugged(mate_rating_a=4.0)
    (f,) = found(plan, "part_rating")
    assert (f.place, f.limit) == ("J", 4.0)
    assert found(f.fix().apply(plan), "part_rating") == []


@pytest.mark.parametrize(
    ("plan", "told"),
    [
        (plugged(), True),
        (plugged(under_load=True), False),
        (edits.insert_inline(plugged(), "W4", Disconnect(id="Q", rating_a=30.0)), False),
        (edits.change(plugged(), "E", power_w=6.0), False),
    ],
)
def test_a_plug_is_parted_without_current(plan, told):
    assert bool(found(plan, "plug_under_load")) is told


def held(plus="P.s3", **coil):
    """A contactor in the fused circuit and its coil as a load of its own."""
    plan = edits.insert_inline(fused(), "W5", Contactor(id="K", rating_a=20.0, coil_w=5.0), 1.0)
    load = ResistiveLoad(id="COIL", power_w=8.0, hours_per_day=2.0, drives="K", min_v=9.0, **coil)
    return edits.add(
        plan, load, wire("K1", plus, "COIL.plus", 1.0, "mm2-1"), wire("K2", "COIL.minus", "M.s3", 1.0, "mm2-1")
    )


def test_a_coil_behind_its_own_contacts_never_closes_them():
    assert found(held(), "coil_supply") == []
    assert found(held("K.a"), "coil_supply") == []
    (f,) = found(held("K.b"), "coil_supply")
    assert f.place == "COIL"


def test_a_coil_on_a_converter_behind_its_own_contacts_never_closes_them():
    plan = edits.insert_inline(fused(), "W2", Contactor(id="K", rating_a=100.0))
    plan = edits.add(
        plan, Converter(id="C", set_v=12.0, current_a=5.0), ResistiveLoad(id="COIL", power_w=8.0, drives="K"),
        wire("c1", "P.s3", "C.in_plus"), wire("c2", "C.in_minus", "M.s3"), wire("k1", "C.out_plus", "COIL.plus"), wire("k2", "COIL.minus", "C.out_minus"),
    )  # fmt: skip
    (f,) = found(plan, "coil_supply")
    assert (f.place, "takes its plus from behind" in f.headline) == ("COIL", True)
    at_bank = edits.change(edits.change(plan, "c1", a="B.plus"), "c2", b="B.minus")
    assert found(at_bank, "coil_supply") == []


def coils_by_chance(seed):
    """Bars fed from one another through contactors, a converter between two of them, each coil somewhere."""
    rng = random.Random(seed)
    n = rng.choice((2, 3, 4))
    items = [battery("B"), bar("P0", 12), bar("M", 16)]
    equipment, runs = [], [wire("b1", "B.plus", "P0.s1"), wire("b2", "B.minus", "M.s1")]
    for k in range(1, n + 1):
        items += [Contactor(id=f"K{k}", rating_a=100.0), bar(f"P{k}", 12)]
        runs += [wire(f"a{k}", f"P{rng.randrange(k)}.s{k + 1}", f"K{k}.a"), wire(f"o{k}", f"K{k}.b", f"P{k}.s1")]
    items.append(bar("PC", 12))
    equipment.append(Converter(id="C", set_v=12.0, current_a=20.0, isolated=False))
    runs += [wire("c1", f"P{rng.randrange(n + 1)}.s6", "C.in_plus"), wire("c2", "C.in_minus", "M.s2"), wire("c3", "C.out_plus", "PC.s1"),
             wire("c4", "C.out_minus", "M.s3")]  # fmt: skip
    for k in range(1, n + 1):
        equipment.append(ResistiveLoad(id=f"E{k}", power_w=8.0, drives=f"K{k}"))
        at = rng.choice(("P0", "PC", *(f"P{j}" for j in range(1, n + 1))))
        runs += [wire(f"e{k}", f"{at}.s{k + 6}", f"E{k}.plus"), wire(f"f{k}", f"E{k}.minus", f"M.s{k + 5}")]
    return Plan(items=tuple(items), equipment=tuple(equipment), runs=tuple(runs)), n


@pytest.mark.chance(
    "networks of contactors of which those stay open that the rule reports, as they close one after another"
)
@pytest.mark.parametrize("seed", range(200) if WHOLE else range(20))
def test_contactors_stay_open_that_never_get_a_voltage_as_they_close_one_after_another(seed):
    plan, n = coils_by_chance(seed)
    closed = set()
    while True:
        states = {f"K{k}": "closed" if k in closed else "open" for k in range(1, n + 1)}
        at = solve_scenario(plan, Scenario(id="s", soc_percent=80.0, states=states))
        more = {k for k in range(1, n + 1) if at.port(plan.by_id[f"E{k}"])[0] > 9.0} - closed
        if not more:
            break
        closed |= more
    assert {f.place for f in found(plan, "coil_supply")} == {f"E{k}" for k in range(1, n + 1) if k not in closed}


def test_a_drawn_coil_counts_once_and_is_off_where_its_contactor_is_open():
    plan = held()
    lines = {d.id: d.wh for d in needs(wired(plan)).daily}
    assert lines["COIL"] == pytest.approx(16.0)
    assert "K" not in lines
    alone = edits.remove_all(plan, ("COIL", "K1", "K2"))
    assert {d.id for d in needs(wired(alone)).daily} >= {"K"}
    plan = plan.model_copy(update={"scenarios": (Scenario(id="on"), Scenario(id="off", states={"K": "open"}))})
    on, off = study(plan).states
    k = on.wiring.branch["K1"]
    # 8 W at 12 V are 18 ohm: at the bank's 12.8 V some 0.71 A.
    assert float(on.point.current_a[k]) == pytest.approx(0.71, abs=0.02)
    assert float(off.point.current_a[k]) == 0.0


def test_a_coil_drives_a_contactor_and_nothing_else():
    plan = held()
    wrong = plan.model_copy(
        update={
            "equipment": tuple(e.model_copy(update={"drives": "P"}) if e.id == "COIL" else e for e in plan.equipment)
        }
    )
    assert [p.place for p in problems(wrong)] == ["COIL"]
    gone = edits.remove_inline(plan, "K")
    assert gone.by_id["COIL"].drives is None
    assert edits.rename(plan, "K", "K9").by_id["COIL"].drives == "K9"


@pytest.mark.parametrize(("kind", "told"), [(None, False), ("fast", False), ("diode", True), ("none", True)])
def test_suppression_of_a_coil(kind, told):
    plan = edits.change(held(), "K", suppression=kind)
    assert bool(found(plan, "coil_suppression")) is told
    for f in found(plan, "coil_suppression"):
        assert found(f.fix().apply(plan), "coil_suppression") == []


def starting(**contactor):
    """A contactor for a motor that takes 40 A for three seconds."""
    plan = edits.insert_inline(
        fused(rating=30.0, conductor="mm2-6"), "W5", Contactor(id="K", rating_a=20.0, **contactor), 1.0
    )
    plan = edits.change(plan, "E", surge_w=480.0, surge_s=3.0)
    return plan.model_copy(update={"scenarios": (Scenario(id="s"), Scenario(id="start", states={"E": "surge"}))})


def test_a_contactor_carries_its_intermittent_rating_for_its_time():
    assert found(starting(intermittent_a=100.0, intermittent_s=5.0), "contactor_duty") == []
    (f,) = found(starting(intermittent_a=100.0, intermittent_s=2.0), "contactor_duty")
    assert (f.figure, f.limit, f.unit, f.scenario) == (3.0, 2.0, "s", "start")
    lasting = starting(intermittent_a=100.0, intermittent_s=60.0).model_copy(update={"scenarios": (Scenario(id="s"),)})
    lasting = edits.change(lasting, "E", power_w=300.0)
    assert [f.figure for f in found(lasting, "contactor_duty")] == [None]


def test_a_holder_carries_what_its_fuse_is_rated_for():
    assert found(edits.change(fused(), "F1", holder_a=10.0), "fuse_holder") == []
    (f,) = found(edits.change(fused(), "F1", holder_a=7.5), "fuse_holder")
    assert (f.figure, f.limit) == (10.0, 7.5)


def distributing(**more):
    """The fused circuit with its fuse straight on the plus bar, which is a distributor for blade fuses."""
    plan = edits.change(fused(to_fuse=0.0), "P", fuse_family="blade-fuse", position_a=15.0)
    return edits.change(plan, "F1", **more) if more else plan


def test_a_distributor_takes_its_own_fuses_up_to_what_a_position_carries():
    assert found(distributing(), "fuse_holder") == []
    (f,) = found(distributing(rating_a=20.0), "fuse_holder")
    assert (f.figure, f.limit, f.verdict) == (20.0, 15.0, Verdict.DEFECT)
    (f,) = found(distributing(family="large-blade-fuse"), "fuse_holder")
    assert "does not fit its contacts" in f.headline
    # What only stands beside it may be anything.
    assert found(edits.change(distributing(family="large-blade-fuse"), "W4", length_m=0.1), "fuse_holder") == []
    with pytest.raises(edits.EditError, match="no family of fuses"):
        edits.change(fused(), "P", fuse_family="dc-miniature-breaker")


def test_what_may_stand_on_a_distributor_is_of_its_family_and_no_more_than_a_position():
    case = Case(study(distributing()))
    by_family = {c.family.id: c for c in choices(case, "F1")}
    assert [id_ for id_, c in by_family.items() if c.fits] == ["blade-fuse"]
    assert window(case, case.plan.by_id["F1"]).high.amps == 15.0
    # Nor where what stands behind it is made stronger for it.
    wider = {c.family.id: c for c in choices(case, "F1", high_a=60.0)}
    assert wider["blade-fuse"].rating_a <= 15.0
    held = edits.change(fused(), "F1", holder_a=7.5)
    assert window(Case(study(held)), held.by_id["F1"]).high.amps == 7.5


def test_a_circuit_at_a_distributor_is_bolted_to_it_with_a_fuse_of_its_family():
    plan = circuits.add_circuit(distributing(), "P", PowerLoad(id="E2", nominal_v=12.0, power_w=60.0))
    (new,) = [x for x in plan.items if x.id not in distributing().by_id]
    assert (new.family, distributor_of(plan, new.id).id) == ("blade-fuse", "P")
    assert not [f for f in judge(study(plan)) if f.place in ("E2", new.id)]


def test_a_distributor_is_bought_as_one_part_and_its_fuses_without_holders():
    lines = {line.what: line.quantity for line in workshop_of(wired(distributing())).lines}
    assert lines["distributor of 300 A with 3 positions for blade fuse"] == 1
    assert lines["blade fuse 10 A without a holder"] == 1
    assert "blade fuse 10 A" not in lines


def test_posts_and_live_bars_are_covered_or_under_a_lid():
    assert found(fused(), "covers") == []
    (f,) = found(edits.change(fused(), "B", covered=False), "covers")
    assert (f.place, f.verdict) == ("B", Verdict.DEFECT)
    assert f.fix().apply(edits.change(fused(), "B", covered=False)).by_id["B"].covered
    bare = edits.change_each(fused(), {"P": {"covered": False}, "M": {"covered": False}})
    assert [f.place for f in found(bare, "covers")] == ["P"]
    board = Board(id="b", spots=(Spot(of="P", at_mm=(20.0, 20.0)),))
    assert [f.place for f in found(edits.add(bare, board), "covers")] == ["P"]
    assert found(edits.add(bare, board.model_copy(update={"depth_mm": 90.0})), "covers") == []


def test_covers_are_bought():
    lines = {line.what: line.quantity for line in workshop_of(wired(fused())).lines}
    assert lines["cover for a battery post"] == 2
    assert lines["cover for a busbar of 4 studs"] == 2


def spliced(**more):
    return edits.insert_inline(fused(), "W5", Splice(id="J", **more), 2.0)


def test_a_splice_stays_within_reach_and_joins_one_size():
    assert found(spliced(), "splice") == []
    (f,) = found(spliced(within_reach=False), "splice")
    assert f.verdict is Verdict.DEFECT
    beyond = next(r.id for r in spliced().runs if r.a == "J.b")
    (f,) = found(edits.change(spliced(), beyond, conductor="mm2-4"), "splice")
    assert f.headline == "J joins 2.5 mm² and 4 mm²: it takes a splice that is made for both"


def test_a_splice_has_no_lugs_and_its_resistance_counts():
    """By hand: 5 A through 10 mΩ more than the usual 50 µΩ lose 49.75 mV more."""
    wiring = wired(spliced())
    ends = [e for c in cuts_of(wiring) for e in (c.a, c.b) if e.ref.startswith("J.")]
    assert [(e.thread, e.words) for e in ends] == [(None, "crimped into J")] * 2
    assert {x.what: x.quantity for x in workshop_of(wiring).lines}["butt splice 2.5 mm², insulated"] == 1
    first, worse = (study(p).states[0] for p in (spliced(), spliced(contact_ohm=0.01)))
    assert worse.drop("J") / worse.current("J") - first.drop("J") / first.current("J") == pytest.approx(0.00995)


def test_the_lead_of_a_monitor_is_asked_for():
    plan = edits.insert_inline(fused(), "W3", Shunt(id="S", rating_a=100.0))
    (f,) = found(plan, "monitor_lead")
    assert f.verdict is Verdict.ADVICE
    assert found(f.fix().apply(plan), "monitor_lead") == []
    assert found(edits.add(fused(), PowerLoad(id="X", power_w=1.0)), "monitor_lead") == []
