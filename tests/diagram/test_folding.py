"""Circuits of a bar folded into one line: all is still there, nothing lies over anything, the rest stays."""

import pytest

from jaunty_copper.diagram.folding import IN_PLACE, LEAST, circuits, fold, foldable
from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Bar
from jaunty_copper.plan.topology import topology
from tests.build import fused
from tests.networks import network
from tests.trials import WHOLE

from .test_room import overlapping

SEEDS = 600 if WHOLE else 30
DEMO = example("orchard_station")


def bars(plan):
    return [x.id for x in plan.items if isinstance(x, Bar)]


def faults(plan, chart):
    """What is wrong with a map on which some bars are folded."""
    yield from (f"{a.id} over {b.id}" for a, b in overlapping(chart))
    held = {id_ for s in chart.shapes for id_ in s.holds}
    shown = {s.id for s in (*chart.shapes, *chart.loose)} | held
    yield from (f"no {x.id}" for x in plan.placed if x.id not in shown)
    drawn = {r.run for r in chart.ribbons}
    yield from (f"no {r.id}" for r in plan.runs if r.id not in drawn | held)
    yield from (f"{id_} twice" for id_ in held & (drawn | {s.id for s in chart.shapes if s.kind == "equipment"}))
    yield from (f"{r.ref} is no terminal" for r in (*chart.studs, *chart.terminals) if IN_PLACE.format("") in r.ref)


@pytest.mark.chance
def test_in_any_network_all_is_drawn_or_held():
    wrong, folded = [], 0
    for seed in range(SEEDS):
        plan = network(seed)
        chart = fold(plan, bars(plan))
        wrong += [f"{seed}: {fault}" for fault in faults(plan, chart)]
        folded += any(s.kind == "fold" for s in chart.shapes)
    assert wrong == []
    assert folded > SEEDS // 4


@pytest.mark.parametrize("name", names())
def test_nothing_folded_is_the_map_as_it_was(name):
    assert fold(example(name), ()) == lay_out(topology(example(name)))


def test_a_fold_stands_for_its_circuits_and_makes_the_map_lower():
    chart = fold(DEMO, ["P12"])
    (block,) = [s for s in chart.shapes if s.kind == "fold"]
    assert block.id == "P12"
    assert {"LAMP", "RADIO", "COLD", "LOG", "F11", "F12", "F13", "F14"} <= set(block.holds)
    assert chart.height < lay_out(topology(DEMO)).height
    # A converter is never folded: what it feeds would hang in the air.
    assert "CV" not in circuits(DEMO)
    assert {id_ for id_, c in circuits(DEMO).items() if c.plus == "P24"} >= {"INV", "FAN", "PUMP"}


def test_bars_with_less_than_two_circuits_are_not_folded():
    assert LEAST == 2
    assert foldable(DEMO) == {"P24", "P12", "M24"}
    assert foldable(fused()) == set()
