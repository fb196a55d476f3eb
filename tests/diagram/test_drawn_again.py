"""A plan drawn after another one stands where it would stand by itself; what looks the same is the same drawing."""

import random

import pytest

from jaunty_copper.diagram import layout
from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Fuse
from jaunty_copper.plan.topology import topology
from tests.networks import network
from tests.trials import trials


def afresh(plan):
    """Drawn as if nothing had been drawn before."""
    kept = layout._last[:]
    layout._last.clear()
    try:
        return lay_out(topology(plan))
    finally:
        layout._last[:] = kept


def edited(plan, r):
    """One edit by chance: of a length, a size, a name, a rating, an end; or something less."""
    run, thing = r.choice(plan.runs), r.choice((*plan.items, *plan.equipment))
    match r.randrange(7):
        case 0 | 1:
            return edits.change(plan, run.id, length_m=r.choice((0.1, 0.5, 2.0, 9.0)))
        case 2:
            return edits.change(plan, run.id, conductor=r.choice(("mm2-4", "mm2-25", "awg-2")))
        case 3:
            return edits.change(plan, thing.id, name=f"Thing {r.randrange(100)}")
        case 4:
            fuses = [x for x in plan.items if isinstance(x, Fuse)]
            return edits.change(plan, r.choice(fuses).id, rating_a=r.choice((10.0, 30.0))) if fuses else plan
        case 5:
            return edits.change(plan, run.id, a=run.b, b=run.a)
    return edits.remove(plan, run.id)


@pytest.mark.parametrize("seed", range(trials(60, 12)))
def test_what_was_drawn_before_changes_nothing(seed):
    r = random.Random(seed)
    plan = network(seed) if seed % 4 else example(r.choice(names()))
    lay_out(topology(plan))
    for _ in range(12):
        try:
            plan = edited(plan, r)
        except EditError:
            continue
        assert lay_out(topology(plan)) == afresh(plan)


def test_a_length_moves_a_device_to_the_other_end_only_where_it_lies_beyond_the_middle():
    plan = example("orchard_station")
    before = lay_out(topology(plan))
    pairs = (plan.runs_at[x.ref("a")] + plan.runs_at[x.ref("b")] for x in plan.items if isinstance(x, Fuse))
    two = next(p for p in pairs if len(p) == 2 and max(r.length_m for r in p) > 4.0 * min(r.length_m for r in p))
    long, short = sorted(two, key=lambda run: -run.length_m)
    same = edits.change(plan, long.id, length_m=long.length_m + 0.5, conductor="mm2-35")
    assert lay_out(topology(same)) is before
    moved = edits.change_each(plan, {long.id: {"length_m": 0.1}, short.id: {"length_m": 5.0}})
    assert lay_out(topology(moved)) != before
