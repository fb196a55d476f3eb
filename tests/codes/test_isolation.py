"""What switches a bank and its sources off, held against solutions with the switches drawn open."""

import random

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.beginning import Beginning, begun
from jaunty_copper.choosing.wiring_up import wire_up
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import (
    Alternator,
    Breaker,
    Charger,
    Converter,
    Disconnect,
    Fuse,
    PlugConnector,
    PowerLoad,
    Scenario,
    SolarController,
    Source,
)
from tests.build import fused, judge, wire
from tests.networks import network
from tests.trials import hold, trials

BOOKS = ("north_american_small_craft", "iso_small_craft", "iec_60364", "nfpa_70", "telecom_dc_48v")


def found(plan, rule, practice=None):
    return [f for f in judge(study(plan), practice) if f.rule.id == rule]


def switched(**more):
    """The fused bank with a switch behind its main fuse."""
    return edits.insert_inline(fused(), "W2", Disconnect(id="Q", rating_a=60.0, **more), 0.1)


def with_charger(*inline):
    """The same with a charger, and what stands in its conductor."""
    plan = edits.add(switched(), Charger(id="C", set_v=14.2, current_a=20.0))
    plan = edits.add(plan, wire("C1", "P.s3", "C.plus", 1.0), wire("C2", "C.minus", "M.s3", 1.0))
    for item in inline:
        plan = edits.insert_far(plan, "C.plus", item)
    return plan


@pytest.mark.parametrize("practice", BOOKS)
def test_a_bank_without_a_switch_is_told_and_one_with_it_is_not(practice):
    (f,) = found(fused(), "bank_switch", practice)
    assert f.place == "B"
    assert f.verdict is (Verdict.ADVICE if practice == "nfpa_70" else Verdict.DEFECT)
    assert found(switched(), "bank_switch", practice) == []


def test_a_switch_out_of_reach_switches_nothing_off_in_time():
    (f,) = found(switched(within_reach=False), "bank_switch")
    assert "within reach" in f.headline


def test_what_goes_past_the_switch_stays_on():
    plan = edits.add(
        switched(),
        PowerLoad(id="X", name="Sump pump", power_w=20.0),
        Fuse(id="FX", family="cylindrical-fuse", rating_a=5.0),
    )
    plan = edits.add(
        plan, wire("X1", "F0.b", "FX.a", 0.1, "mm2-2.5"), wire("X2", "FX.b", "X.plus", 1.0, "mm2-2.5"),
        wire("X3", "X.minus", "M.s4", 1.0, "mm2-2.5"),
    )  # fmt: skip
    (f,) = found(plan, "bank_switch")
    assert (f.place, f.verdict) == ("X", Verdict.ADVICE)


@pytest.mark.parametrize(("family", "switches"), [("hydraulic-magnetic-breaker", True), ("thermal-breaker", False)])
def test_a_breaker_is_a_switch_where_its_family_is_made_for_it(family, switches):
    plan = edits.replace_item(fused(), "F0", Breaker(id="F0", family=family, rating_a=60.0))
    assert (found(plan, "bank_switch") == []) is switches


@pytest.mark.parametrize("practice", BOOKS)
def test_a_source_that_nothing_parts_gets_a_switch(practice):
    fuse = Fuse(id="FC", family="class-t-fuse", rating_a=30.0)
    (f,) = found(with_charger(fuse), "source_switch", practice)
    assert f.verdict is Verdict.ADVICE
    after = f.fix().apply(with_charger(fuse))
    assert found(after, "source_switch", practice) == []
    (switch,) = [x for x in after.items if isinstance(x, Disconnect) and x.id != "Q"]
    # What stands behind a fuse of 30 A is made for 30 A.
    assert switch.rating_a == 30.0
    before = {x.rule.id for x in judge(study(with_charger(fuse)), practice)}
    assert {x.rule.id for x in judge(study(after), practice)} <= before


@pytest.mark.parametrize("practice", BOOKS)
def test_what_the_sun_drives_is_a_defect_where_the_book_has_a_clause_for_it(practice):
    sun = SolarController(id="C", set_v=14.2, current_a=20.0, power_w=300.0)
    plan = with_charger()
    plan = plan.model_copy(update={"equipment": tuple(sun if e.id == "C" else e for e in plan.equipment)})
    (f,) = found(plan, "source_switch", practice)
    assert f.verdict is (Verdict.DEFECT if practice in ("nfpa_70", "iec_60364") else Verdict.ADVICE)


def test_an_alternator_is_stopped_by_its_engine_and_gets_no_switch():
    plan = with_charger()
    engine = Alternator(id="C", set_v=14.2, current_a=20.0)
    plan = plan.model_copy(update={"equipment": tuple(engine if e.id == "C" else e for e in plan.equipment)})
    assert found(plan, "source_switch") == []
    begun_ = begun(Beginning(24.0, "agm", 12.0, 110.0, 2, "iso_small_craft", "minus"))
    before = sum(isinstance(x, Disconnect) for x in begun_.items)
    begun_ = edits.add(begun_, Alternator(id="A9", nominal_v=24.0, set_v=28.0, current_a=30.0))
    wired = wire_up(begun_)
    assert wired.done == ("A9",)
    assert sum(isinstance(x, Disconnect) for x in wired.plan.items) == before


@pytest.mark.parametrize(
    ("inline", "parted"),
    [
        ((PlugConnector(id="J", rating_a=50.0),), True),
        ((Breaker(id="K", family="hydraulic-magnetic-breaker", rating_a=30.0),), True),
        ((Breaker(id="K", family="hydraulic-magnetic-breaker", rating_a=30.0, within_reach=False),), False),
        ((Fuse(id="FC", family="class-t-fuse", rating_a=30.0),), False),
        ((), False),
    ],
)
def test_what_parts_a_source(inline, parted):
    assert (found(with_charger(*inline), "source_switch") == []) is parted


@pytest.mark.chance
def test_what_is_said_to_stay_on_does_so_with_every_switch_open():
    """Networks by chance, with switches by chance: the solved plan, all switches drawn open, says what still runs."""
    stayed, silent = 0, []
    for seed in range(trials(300)):
        r = random.Random(seed)
        plan = network(seed)
        for run in plan.runs:
            if r.random() < 0.15:
                plan = edits.insert_inline(
                    plan, run.id, Disconnect(id=edits.fresh_id(plan, "Q"), rating_a=300.0, max_v=80.0)
                )
        case = Assessment(plan).case
        told = {f.place for f in Assessment(plan).findings if f.rule.id == "bank_switch"}
        everything = {b.id for b in case.wiring.banks} & told
        opened = edits.change_each(
            plan, {x.id: {"closed": False} for x in plan.items if isinstance(x, Disconnect | Breaker)}
        )
        # What a source or a converter feeds by itself is told of that.
        off = {e.id: "off" for e in plan.equipment if isinstance(e, Source | Converter)}
        opened = opened.model_copy(update={"scenarios": (Scenario(id="s", soc_percent=80.0, states=off),)})
        (state,) = study(opened).states
        for k, e in enumerate(case.wiring.loads):
            runs = not (state.point.unfed[k] or state.point.no_return[k])
            own = [
                b.id
                for b in case.wiring.banks
                if case.wiring.rail_of(b.takeoffs["plus"][0]) == case.wiring.rail_of(e.port[0])
            ]
            if runs and own:
                stayed += 1
                silent += [(seed, e.id)] * (e.id not in told and not set(own) & everything)
    assert stayed > 20
    assert silent == []
    hold("loads that run on with every switch open and are not reported", len(silent), stayed, at_most=0.0)
