"""Nothing on the map lies over anything else, in any network; every conductor is on it, and it is always the same map."""

import random

import pytest

from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.diagram.room import Room
from jaunty_copper.diagram.shapes import Box
from jaunty_copper.plan import defaults, edits
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Bar, Inline, Plan
from jaunty_copper.plan.supply import supply_of
from jaunty_copper.plan.topology import topology
from tests.build import bar, battery, wire
from tests.networks import network
from tests.trials import WHOLE, hold

SEEDS = 2000 if WHOLE else 60
ROW_PX, COLUMN_PX = 45.0, 150.0


def overlapping(diagram):
    shapes = sorted((*diagram.shapes, *diagram.loose), key=lambda s: s.box.x)
    for k, a in enumerate(shapes):
        for b in shapes[k + 1 :]:
            if b.box.x >= a.box.right - 0.5:
                break
            if a.box.y < b.box.bottom - 0.5 and b.box.y < a.box.bottom - 0.5:
                yield a, b


def faults(plan):
    """What is wrong with the map of a plan."""
    diagram = lay_out(topology(plan))
    found = [f"{a.kind} {a.id} over {b.kind} {b.id}" for a, b in overlapping(diagram)]
    drawn = {r.run for r in diagram.ribbons} | {id_ for s in diagram.shapes for id_ in s.holds}
    found += [f"no {r.id}" for r in plan.runs if r.id not in drawn]
    shown = {s.id for s in (*diagram.shapes, *diagram.loose)} | {id_ for s in diagram.shapes for id_ in s.holds}
    found += [f"no {x.id}" for x in plan.placed if x.id not in shown]
    for s in (*diagram.shapes, *diagram.loose):
        if s.box.x < 0 or s.box.y < 0 or s.box.right > diagram.width or s.box.bottom > diagram.height:
            found.append(f"{s.id} beyond the edge")
    return found


def edited(plan, r):
    """The plan after a random edit of its network."""
    refs = [x.ref(t) for x in plan.placed for t in x.terminal_names]
    run = r.choice(plan.runs) if plan.runs else None
    inline = [x.id for x in plan.items if isinstance(x, Inline)]
    ways = [
        lambda: edits.connect(plan, *r.sample(refs, 2))[0],
        lambda: edits.add_stud(plan, r.choice(refs).split(".")[0])[0],
    ]
    if run is not None:
        ways += [lambda: edits.aim(plan, run.id, r.choice("ab"), r.choice(refs)), lambda: edits.remove(plan, run.id)]
    if inline:
        ways.append(lambda: edits.remove_inline(plan, r.choice(inline)))
    if plan.equipment:
        ways.append(lambda: edits.paste(plan, edits.cut_out(plan, (r.choice(plan.equipment).id,)))[0])
    try:
        return r.choice(ways)()
    except EditError:
        return plan


@pytest.mark.chance
def test_no_two_things_lie_over_each_other_and_nothing_is_missing():
    wrong = [(seed, found) for seed in range(SEEDS) if (found := faults(network(seed)))]
    assert wrong == []
    hold("maps with two things over each other, or one missing", len(wrong), SEEDS, at_most=0.0)


@pytest.mark.chance
@pytest.mark.parametrize("name", ["blank", *names()])
def test_after_any_edits_either(name):
    r = random.Random(name)
    plan = blank() if name == "blank" else example(name)
    for step in range(SEEDS // 4):
        plan = edited(plan, r)
        assert faults(plan) == [], step


def test_a_bar_on_both_poles_of_a_unit_stands_on_the_map_with_what_shorts_it():
    plan = Plan(
        items=(battery("B"), bar("N", 3)),
        runs=(wire("W1", "N.s1", "B.plus", 0.5), wire("W2", "B.minus", "N.s2", 0.5)),
    )  # fmt: skip
    assert faults(plan) == []


def test_the_same_plan_is_the_same_map_and_a_length_moves_nothing():
    demo = example("orchard_station")
    assert lay_out(topology(demo)) == lay_out(topology(demo))
    longer = lay_out(topology(edits.change(demo, "W21", length_m=3.0)))
    assert {(s.id, s.side, s.box) for s in longer.shapes} == {
        (s.id, s.side, s.box) for s in lay_out(topology(demo)).shapes
    }


def test_room_finds_the_nearest_free_place():
    room = Room()
    assert room.near(Box(0, 0, 10, 10), 5.0) == Box(0, 0, 10, 10)
    room.take(Box(0, 100, 40, 20))
    assert not room.is_free(Box(30, 110, 40, 20))
    assert room.is_free(Box(45, 110, 40, 20))
    assert room.near(Box(0, 104, 40, 20), 5.0).y in (74.0, 124.0)
    assert room.below(Box(0, 104, 40, 20), 5.0).y == 124.0


@pytest.mark.chance
def test_one_more_circuit_moves_little():
    """The others stay in their order, nearly all within about a row of where they were and a column of how far right."""
    tried, seen, far = 0, 0, []
    for seed in range(SEEDS):
        plan = network(seed)
        bars = [x for x in plan.items if isinstance(x, Bar) and supply_of(plan, x).back]
        if not bars:
            continue
        bar = random.Random(seed).choice(bars)
        found = supply_of(plan, bar)
        plus, minus = (bar.id, found.back) if found.side == "plus" else (found.back, bar.id)
        load, fuse = defaults.new_equipment(plan, "constant_power", 12.0), defaults.new_fuse(plan, 10.0)
        before = equipment_of(plan)
        after = equipment_of(edits.add_circuit(plan, plus, minus, load, fuse))
        assert [id_ for id_ in after if id_ in before] == list(before), seed
        for id_, box in before.items():
            down, along = abs(after[id_].y - box.y), abs(after[id_].x - box.x)
            # Where a second system stands below, a new row may move it by what its sources need.
            assert down <= 4.0 * ROW_PX, (seed, id_)
            assert along <= COLUMN_PX, (seed, id_)
            far += [(seed, id_)] * (down > 2.5 * ROW_PX)
        tried, seen = tried + 1, seen + len(before)
    assert tried > SEEDS // 2
    hold("equipment that moves by more than a row when a circuit is added elsewhere", len(far), seen, at_most=0.01)


def equipment_of(plan):
    """Where equipment stands, from above."""
    shapes = [s for s in lay_out(topology(plan)).shapes if s.kind == "equipment"]
    return {s.id: s.box for s in sorted(shapes, key=lambda s: s.box.y)}
