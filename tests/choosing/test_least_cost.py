"""Sizes at the least cost: beside an exhaustive search, a circuit by hand, and what the rules say of the answer."""

import random
from itertools import pairwise, product
from math import inf

import numpy as np
import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import QUESTIONS
from jaunty_copper.choosing.least_cost.answer import Worth
from jaunty_copper.choosing.least_cost.lessons import HELPS
from jaunty_copper.choosing.least_cost.limits import Drops, ProgrammeRow, by_power
from jaunty_copper.choosing.least_cost.options import spots_of, with_options
from jaunty_copper.choosing.least_cost.programme import Programme
from jaunty_copper.choosing.least_cost.said import in_words
from jaunty_copper.choosing.least_cost.search import frontier, least_cost
from jaunty_copper.choosing.sizing import rated_current
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import DEMO as DEMO_FILE
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Charger, Disconnect, Fuse, Plan, PowerLoad, ResistiveLoad, Scenario
from tests.build import bar, battery, wire
from tests.trials import WHOLE

DEMO = example(DEMO_FILE)
UNASKED = frozenset({"selectivity"})


def verdicts(plan):
    found = {}
    for f in Assessment(plan).findings:
        if f.rule.id not in QUESTIONS:
            found[f.rule.id, f.place] = min(f.verdict, found.get((f.rule.id, f.place), f.verdict))
    return found


def wrong(plan, begin, left=()):
    """What sizes should have mended of a plan, what is new in it, and what was wrong and is more so."""
    return set(each_wrong(plan, verdicts(begin), left))


def each_wrong(plan, had, left):
    """The same one by one, where it is known what was wrong before: who looks for none can stop at the first."""
    for f in Assessment(plan).each_finding():
        key = f.rule.id, f.place
        asked = f.rule.id not in QUESTIONS and f.rule.id not in UNASKED and key not in left
        if asked and (key not in had or f.rule.id in HELPS or f.verdict < had[key]):
            yield key


def cheapest_of_all(plan, spots, left, most=20000):
    """Every choice, the cheapest first, until the rules find nothing wrong: its cost; None where that takes too long."""
    ways, had = product(*(range(len(s.options)) for s in spots)), verdicts(plan)
    priced = sorted((sum(s.options[n].price for s, n in zip(spots, way, strict=True)), way) for way in ways)
    for price, way in priced[:most]:
        if next(each_wrong(with_options(plan, spots, dict(enumerate(way))), had, left), None) is None:
            return price
    return None if len(priced) > most else inf


def system(seed):
    """A bank behind a main fuse and two or three circuits, with sizes by chance."""
    rng = random.Random(seed)
    count, volts = rng.choice((2, 3)), rng.choice((12.0, 24.0))
    sizes = ("mm2-4", "mm2-6", "mm2-10", "mm2-16")
    items = [
        battery("B", volts, ohm=rng.choice((0.004, 0.01))),
        Fuse(id="F0", family="class-t-fuse", rating_a=100.0),
        bar("P", count + 1),
        bar("M", count + 1),
    ]
    runs = [
        wire("W0", "B.plus", "F0.a", 0.1, "mm2-35"), wire("T1", "F0.b", "P.s1", rng.uniform(0.5, 3.0), "mm2-35"),
        wire("T2", "M.s1", "B.minus", rng.uniform(0.5, 3.0), "mm2-35"),
    ]  # fmt: skip
    loads = []
    for k in range(count):
        f, e = f"F{k + 1}", f"L{k + 1}"
        items.append(Fuse(id=f, family="class-t-fuse", rating_a=rng.choice((15.0, 30.0))))
        more = {"id": e, "nominal_v": volts, "critical": rng.random() < 0.5}
        watts = rng.choice((30.0, 80.0, 150.0, 240.0))
        loads.append(PowerLoad(power_w=watts, **more) if rng.random() < 0.7 else ResistiveLoad(power_w=watts, **more))
        length, size = rng.uniform(1.0, 8.0), rng.choice(sizes)
        runs += [
            wire(f"A{k + 1}", f"P.s{k + 2}", f"{f}.a", 0.1, size), wire(f"O{k + 1}", f"{f}.b", f"{e}.plus", length, size),
            wire(f"R{k + 1}", f"{e}.minus", f"M.s{k + 2}", length, size),
        ]  # fmt: skip
    return Plan(
        items=tuple(items), equipment=tuple(loads), runs=tuple(runs), scenarios=(Scenario(id="s", soc_percent=60.0),)
    )


@pytest.mark.chance("plans of two or three circuits sized at the least cost that trying every choice finds")
@pytest.mark.parametrize("seed", range(200) if WHOLE else (4, 5, 7))
def test_nothing_that_keeps_the_rules_costs_less(seed):
    plan = system(seed)
    rng = random.Random(seed)
    # Feeders that circuits share, with the conductors and the device of one of them; three places take minutes to try.
    places = 3 if seed < 20 else 2
    ids = [*rng.sample(["T1", "T2", "O1", "R1", "O2", "R2"], places), *rng.sample(["F1", "F2", "F0"], 1)]
    found, spots = least_cost(plan, ids), spots_of(Assessment(plan).case, ids)
    left = [(f.rule.id, f.place) for f in found.left]
    least = cheapest_of_all(plan, spots, left)
    assert least is not None
    assert found.bound <= found.cost * (1.0 + 1e-9)
    if left:
        # What is left may be no worse than it was, which the rules do not ask; no choice at all is without it.
        assert found.cost >= least * (1.0 - 1e-9)
        assert seed < 20 or cheapest_of_all(plan, spots, ()) == inf
        return
    assert found.cost == pytest.approx(least, rel=2e-4)
    assert wrong(found.plan, plan) == set()


def test_demo_is_sized_to_the_proof_and_keeps_every_rule():
    found = least_cost(DEMO)
    assert found.found
    assert found.gap < 2.1e-4
    assert wrong(found.plan, DEMO, [(f.rule.id, f.place) for f in found.left]) == set()
    assert found.broken > 0
    # Circuit by circuit is dearer, and leaves something.
    assert found.cost <= found.circuits
    # What it costs is what its places come to, counted anew.
    spots = spots_of(Assessment(DEMO).case)
    chosen = {k: s.option_in(found.plan) for k, s in enumerate(spots)}
    assert None not in chosen.values()
    assert sum(s.options[chosen[k]].price for k, s in enumerate(spots)) == pytest.approx(found.price)
    assert found.edit.apply(DEMO) == found.plan
    assert {id_ for c in found.changes for id_ in c.ids} == {
        x.id for x, y in zip((*DEMO.runs, *DEMO.items), (*found.plan.runs, *found.plan.items), strict=True) if x != y
    }


def test_less_is_lost_where_a_watt_is_worth_more_and_never_for_less():
    plan = system(1)
    points = frontier(plan)
    assert len(points) >= 3
    assert all(p.gap < 2.1e-4 and wrong(p.plan, plan) == set() for p in points)
    prices, watts = [p.price for p in points], [p.lost_w for p in points]
    assert prices == sorted(prices)
    assert watts == sorted(watts, reverse=True)
    # The least of a sum with growing weight: what a watt less costs grows along the curve.
    slopes = [(b - a) / (v - w) for a, b, v, w in zip(prices, prices[1:], watts, watts[1:], strict=False)]
    assert all(later > 0.99 * earlier for earlier, later in pairwise(slopes))


def test_copper_is_least_where_copper_counts():
    plan = system(2)
    by_price, by_copper = least_cost(plan), least_cost(plan, worth=Worth("copper"))
    assert by_copper.gap < 2.1e-4
    assert by_copper.copper_kg <= by_price.copper_kg * 1.0002
    assert by_copper.price >= by_price.price * 0.9998


def test_a_part_is_chosen_and_the_rest_stays():
    found = least_cost(DEMO, ["W62", "W63", "F6"])
    assert found.found
    assert {id_ for c in found.changes for id_ in c.ids} <= {"W62", "W63", "F6"}


def circuit(length=5.0, watts=300.0, **more):
    """A battery, a fuse at it and a load: nothing else."""
    load = PowerLoad(id="L", nominal_v=12.0, power_w=watts, **more)
    return Plan(
        items=(battery("B", ohm=0.004), Fuse(id="F", family="class-t-fuse", rating_a=40.0)), equipment=(load,),
        runs=(
            wire("W0", "B.plus", "F.a", 0.1, "mm2-16"), wire("W1", "F.b", "L.plus", length, "mm2-16"),
            wire("W2", "L.minus", "B.minus", length, "mm2-16"),
        ),
        scenarios=(Scenario(id="s", soc_percent=60.0),),
    )  # fmt: skip


def test_one_circuit_by_hand():
    """Cheapest pair of sizes, by trying them against the drop itself: 300 W over 5 m at 12 V."""
    plan = circuit()
    case = Assessment(plan).case
    found = least_cost(plan, ["W1", "W2"])
    limit = case.drop_limit(plan.equipment[0])[0] / 100.0 * 12.0
    sizes = [s for s in case.parts.sizes("metric") if 2.0 <= s.area_mm2 <= 120.0]
    able = []
    for s in sizes:
        pair = edits.change_each(plan, {"W1": {"conductor": s.id}, "W2": {"conductor": s.id}})
        known = study(pair)
        if known.drop_v(pair.equipment[0], known.states[0]) <= limit and not wrong(pair, plan):
            able.append(s.area_mm2)
    conductors = case.parts.conductors
    areas = [conductors[found.plan.run_by_id[id_].conductor].area_mm2 for id_ in ("W1", "W2")]
    # Of one size both ways the thinnest that does; of two sizes no more copper than that.
    assert sum(areas) <= 2.0 * min(able)
    known = study(found.plan)
    assert known.drop_v(found.plan.equipment[0], known.states[0]) <= limit


def test_what_no_size_mends_is_left_no_worse_and_said():
    # At 12 V more is lost over 200 m than any size within reach gives back.
    plan = circuit(length=200.0, watts=40.0, critical=True)
    assert "voltage_drop" in {f.rule.id for f in Assessment(plan).findings}
    found = least_cost(plan)
    assert ("voltage_drop", "L") in [(f.rule.id, f.place) for f in found.left]
    assert any("drop to L" in why for why in found.contradiction)
    was, now = (study(p) for p in (plan, found.plan))
    assert now.drop_v(plan.equipment[0], now.states[0]) <= was.drop_v(plan.equipment[0], was.states[0]) * 1.001


def test_of_reasons_that_contradict_each_other_none_can_be_left_out():
    programme = Programme([3, 2])
    programme.add([
        ProgrammeRow({(0, 0): 1.0, (0, 1): 1.0}, 0.0, "thicker"), ProgrammeRow({(0, 2): 1.0, (1, 0): 1.0}, 1.0, "one or the other"),
        ProgrammeRow({(1, 1): 1.0}, 0.0, "not that"), ProgrammeRow({(0, 0): 1.0}, 1.0, "idle"),
    ])  # fmt: skip
    costs = [[1.0, 2.0, 3.0], [1.0, 2.0]]
    assert programme.solve(costs).chosen is None
    why = [row.why for row in programme.contradiction(costs)]
    assert set(why) == {"thicker", "one or the other", "not that"}
    for left_out in why:
        rest = [r for r in programme.rows if r.why != left_out]
        assert programme.solve(costs, rows=rest).chosen is not None


@pytest.mark.parametrize("seed", range(12))
def test_the_programme_finds_the_least_of_all_choices(seed):
    rng = np.random.default_rng(seed)
    counts = rng.integers(2, 5, size=4).tolist()
    costs = [rng.uniform(1.0, 9.0, n).tolist() for n in counts]
    programme = Programme(counts)
    for k in range(5):
        terms = {(p, o): float(rng.normal()) for p, n in enumerate(counts) for o in range(n) if rng.random() < 0.6}
        if terms:
            programme.add([ProgrammeRow(terms, float(rng.uniform(-0.5, 1.0)), str(k))])
    able = [
        sum(costs[p][o] for p, o in enumerate(way))
        for way in product(*map(range, counts))
        if all(sum(row.terms.get(x, 0.0) for x in enumerate(way)) <= row.most + 1e-9 for row in programme.rows)
    ]
    found = programme.solve(costs)
    if not able:
        assert found.chosen is None
        return
    assert sum(costs[p][o] for p, o in found.chosen.items()) == pytest.approx(min(able), rel=2e-4)
    assert found.bound == pytest.approx(min(able), rel=2e-4)


@pytest.mark.parametrize("seed", [0, 1, 2, 3, 4, 7, 9])
def test_no_tangent_forbids_what_the_drop_allows(seed):
    """A row made at one choice holds at any other whose drops and voltages, solved in full, are allowed."""
    rng, plan = random.Random(seed), DEMO if seed < 3 else system(seed)
    spots = spots_of(Assessment(plan).case)
    # Thinner here and there, so that tangents are not those of the plan as it stands.
    begin = {k: rng.randint(0, max(s.now // 2, 1)) if s.is_run else s.now for k, s in enumerate(spots)}
    rows = list(Drops(Assessment(plan).case, spots).rows(Assessment(with_options(plan, spots, begin)), begin))
    assert rows
    tried = 0
    for _ in range(200):
        other = {
            k: min(max(s.now + rng.randint(-1, 4), 0), len(s.options) - 1)
            if s.is_run
            else rng.randrange(len(s.options))
            for k, s in enumerate(spots)
        }
        then = Assessment(with_options(plan, spots, other))
        if not {f.rule.id for f in then.findings} & {"voltage_drop", "lowest_voltage", "collapse"}:
            tried += 1
            for row in rows:
                assert sum(row.terms.get(x, 0.0) for x in other.items()) <= row.most + 1e-9, row.why
        if tried == 4:
            break
    assert tried == 4


def test_leads_of_one_bank_are_chosen_alike():
    units = tuple(battery(f"B{k}") for k in range(2))
    leads = [
        wire(f"W{k}{s}", f"B{k}.{side}", f"{bar_}.s{k + 1}", 0.6, "mm2-35")
        for k in range(2)
        for s, side, bar_ in (("p", "plus", "P"), ("m", "minus", "M"))
    ]
    plan = Plan(
        items=(*units, bar("P", 3), bar("M", 3), Fuse(id="F", family="class-t-fuse", rating_a=60.0)),
        equipment=(PowerLoad(id="L", nominal_v=12.0, power_w=400.0),),
        runs=(*leads, wire("W1", "P.s3", "F.a", 0.1, "mm2-16"), wire("W2", "F.b", "L.plus", 2.0, "mm2-16"), wire("W3", "L.minus", "M.s3", 2.0, "mm2-16")),
        scenarios=(Scenario(id="s", soc_percent=60.0),),
    )  # fmt: skip
    spots = spots_of(Assessment(plan).case)
    assert ("W0p", "W1p") in [s.ids for s in spots]
    found = least_cost(plan)
    assert found.plan.run_by_id["W0p"].conductor == found.plan.run_by_id["W1p"].conductor


def test_a_plan_of_many_circuits_within_a_per_cent():
    from benchmarks.generate import generated

    plan = generated(300 if WHOLE else 80)
    assert len(plan.equipment) > (90 if WHOLE else 20)
    found = least_cost(plan)
    assert found.found
    assert found.gap < 0.01
    assert wrong(found.plan, plan, [(f.rule.id, f.place) for f in found.left]) == set()


def test_no_circuit_is_chosen_for_less_than_its_equipment_is_rated_to_draw():
    """All scenarios run the load at a tenth; its fuse and cable still carry what it is made for."""
    plan = circuit(length=2.0, watts=300.0)
    slow = plan.model_copy(update={"scenarios": (Scenario(id="s", soc_percent=60.0, states={"L": 0.1}),)})
    found = least_cost(slow)
    case = Assessment(found.plan).case
    drawn = float(case.study.continuous_a[case.wiring.branch["W1"]])
    assert drawn < 3.0
    rated = rated_current(slow.equipment[0])
    assert rated > 25.0
    assert found.plan.by_id["F"].rating_a >= rated
    for id_ in ("W0", "W1", "W2"):
        assert case.may_carry(found.plan.run_by_id[id_]) >= rated


def test_what_was_only_advice_does_not_become_a_danger():
    """A source with no device at its end is advice; the same place with a lead too thin for it is a danger, told by the same rule."""
    key, plan = ("source_end", "GEN"), DEMO.model_copy(update={"practice": "iso_small_craft"})
    assert verdicts(plan)[key] == Verdict.ADVICE
    thin = edits.change(plan, "W41", conductor="mm2-4")
    assert verdicts(thin)[key] == Verdict.DANGER
    for begin, ids in ((thin, ["W40", "W41"]), (plan, ["W40", "W41", "K4"])):
        found = least_cost(begin, ids)
        assert found.found
        assert verdicts(found.plan)[key] == Verdict.ADVICE


def test_a_plan_that_collapses_is_sized_until_it_stands():
    # V² / 4 R: at most 236 W come through 0.16 ohm from 12.2 V.
    plan = circuit(length=60.0, watts=250.0)
    assert "collapse" in {rule for rule, _ in verdicts(plan)}
    found = least_cost(plan)
    assert "collapse" not in {rule for rule, _ in verdicts(found.plan)}


@pytest.mark.parametrize(("length", "watts", "least"), [(60.0, 250.0, 5), (25.0, 600.0, 3), (3.0, 4000.0, 0)])
def test_no_size_that_lets_a_power_through_is_forbidden_for_it(length, watts, least):
    """Every pair of sizes, solved: what stands keeps the row, and of what collapses for its own circuit alone the row forbids some."""
    plan = edits.change(circuit(length=length, watts=watts), "F", rating_a=400.0)
    case = Assessment(plan).case
    spots = spots_of(case, ["W1", "W2"])
    (row,) = by_power(case, spots)
    assert row.key == ("collapse", "L")
    fell = forbidden = 0
    for one in range(len(spots[0].options)):
        for other in range(0, len(spots[1].options), 2):
            chosen = {0: one, 1: other}
            (state,) = study(with_options(plan, spots, chosen)).states
            breaks = sum(row.terms[k, n] for k, n in chosen.items()) > row.most
            assert not (breaks and state.solved)
            fell, forbidden = fell + (not state.solved), forbidden + breaks
    assert fell > 5
    assert forbidden >= least


def test_what_may_lie_on_top_of_a_bank_leaves_it_to_the_rules():
    """A charger whose minus stands on the bank's plus would lift what reaches a load above all that either sets."""
    plan = circuit(length=60.0, watts=250.0)
    gives = Charger(id="C", nominal_v=12.0, set_v=14.0, current_a=10.0)
    at = {"foot": ("C.plus", "B.plus", "C.minus", "B.minus"), "top": ("C.plus", "F.b", "C.minus", "B.plus")}
    for where, rows in (("foot", 1), ("top", 0)):
        plus, its, minus, other = at[where]
        runs = (*plan.runs, wire("C1", plus, its, 1.0, "mm2-16"), wire("C2", minus, other, 1.0, "mm2-16"))
        if where == "top":
            runs = tuple(r for r in runs if r.id != "W0")
        both = plan.model_copy(update={"equipment": (*plan.equipment, gives), "runs": runs})
        case = Assessment(both).case
        assert len(list(by_power(case, spots_of(case, ["W1", "W2"])))) == rows, where


def test_a_load_behind_an_open_switch_asks_nothing_of_its_conductors():
    plan = circuit(length=60.0, watts=250.0)
    for closed in (True, False):
        switch = Disconnect(id="S", rating_a=300.0, closed=closed)
        runs = (
            *plan.runs[:1],
            wire("W1", "F.b", "S.a", 60.0, "mm2-16"),
            wire("W3", "S.b", "L.plus", 0.2, "mm2-16"),
            plan.runs[2],
        )
        case = Assessment(plan.model_copy(update={"items": (*plan.items, switch), "runs": runs})).case
        assert len(list(by_power(case, spots_of(case, ["W1", "W2"])))) == closed


def test_where_no_size_can_be_chosen_that_is_said():
    plan = circuit()
    measured = edits.change_each(plan, {r.id: {"measured_ohm": 0.001} for r in plan.runs})
    found = least_cost(measured, ["W1"])
    assert not found.found
    assert "nothing here" in in_words(found)
    assert found.edit.apply(measured) == measured


def test_an_answer_says_what_else_is_wrong():
    found = least_cost(DEMO, ["W62", "W63"])
    told = in_words(found)
    assert found.others
    assert f"{len(found.others)} findings that are no matter of sizes remain" in told
    assert {(f.rule.id, f.place) for f in (*found.others, *found.left)} == set(verdicts(found.plan))


def test_a_price_of_ones_own_counts():
    plan = circuit()
    case = Assessment(plan).case
    alone = next(s for s in spots_of(case) if s.ids == ("F",))
    family, rating = alone.options[0].family, alone.options[0].rating_a
    own = plan.model_copy(update={"prices": {f"{family}:{rating:g}": 1.25}})
    priced = next(s for s in spots_of(Assessment(own).case) if s.ids == ("F",))
    assert [o.price for o in priced.options if (o.family, o.rating_a) == (family, rating)] == [1.25]
