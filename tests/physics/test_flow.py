"""The greatest flow to a place, against a linear program that knows nothing of cuts."""

import random
from itertools import pairwise
from math import inf, isfinite

import numpy as np
import pytest
from scipy.optimize import linprog
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from jaunty_copper.physics.blocks import Blocks, Sides
from jaunty_copper.physics.flow import Flow, Flows
from jaunty_copper.physics.forest import Forest

ENOUGH = 1e6


def by_linear_program(nodes, a, b, capacity, sources, goal, without=-1):
    """Greatest flow into a node: one variable for each direction of each edge, one for each source."""
    edges = [k for k in range(len(a)) if k != without]
    most = [min(capacity[k], ENOUGH) for k in edges]
    bounds = [(0, c) for c in most for _ in (0, 1)] + [(0, min(amps, ENOUGH)) for _, amps in sources]
    balance = np.zeros((nodes, len(bounds)))
    for column, k in enumerate(edges):
        for way, sign in ((2 * column, 1.0), (2 * column + 1, -1.0)):
            balance[a[k], way] -= sign
            balance[b[k], way] += sign
    for column, (n, _) in enumerate(sources, 2 * len(edges)):
        balance[n, column] += 1.0
    rows = [n for n in range(nodes) if n != goal]
    found = linprog(-balance[goal], A_eq=balance[rows], b_eq=np.zeros(len(rows)), bounds=bounds)
    assert found.status == 0
    return -found.fun


def network(seed):
    """Trees with some edges more, parallel ones among them; devices of few ratings, sources with and without limit."""
    r = random.Random(seed)
    n = r.randint(2, 12)
    a, b = [], []
    for k in range(1, n):
        if r.random() < 0.9:
            a.append(r.randrange(k))
            b.append(k)
    for _ in range(r.randint(0, 5)):
        p, q = r.sample(range(n), 2)
        a.append(p)
        b.append(q)
    capacity = [r.choice((inf, inf, 10.0, 25.0, 62.5, 100.0)) for _ in a]
    sources = [(r.randrange(n), r.choice((inf, 20.0, 35.5))) for _ in range(r.randint(0, 4))]
    return n, a, b, capacity, sources


@pytest.mark.parametrize("seed", range(90))
def test_the_greatest_flow_is_that_of_a_linear_program(seed):
    n, a, b, capacity, sources = network(seed)
    flows = Flows(Blocks(n, a, b), capacity, sources)
    for goal in range(n):
        want = by_linear_program(n, a, b, capacity, sources, goal)
        found = flows.into(goal)
        assert found.amps == pytest.approx(want, abs=0.01) if isfinite(found.amps) else want >= ENOUGH
    for k in range(len(a)):
        for end in (a[k], b[k]):
            want = by_linear_program(n, a, b, capacity, sources, end, without=k)
            found = flows.past(k, end)
            assert found.amps == pytest.approx(want, abs=0.01) if isfinite(found.amps) else want >= ENOUGH


@pytest.mark.parametrize("seed", range(150))
def test_the_cut_passes_just_the_flow_and_parts_the_place_from_every_source(seed):
    n, a, b, capacity, sources = network(seed)
    flows = Flows(Blocks(n, a, b), capacity, sources)
    for goal in range(n):
        found = flows.into(goal)
        if not isfinite(found.amps):
            assert all(not isfinite(sources[~k][1]) for k in found.cut)
            continue
        assert sum(capacity[k] if k >= 0 else sources[~k][1] for k in found.cut) == pytest.approx(found.amps, abs=0.01)
        open_ = [0.0 if k in found.cut else c for k, c in enumerate(capacity)]
        left = [(m, 0.0 if ~k in found.cut else amps) for k, (m, amps) in enumerate(sources)]
        assert Flows(Blocks(n, a, b), open_, left).into(goal).amps == pytest.approx(0.0, abs=0.01)


@pytest.mark.parametrize("seed", range(200))
def test_from_several_to_several_on_trees(seed):
    """One question after the other of one forest, of hubs or of twigs: what it keeps of branches answers each anew."""
    r = random.Random(seed)
    n = r.randint(2, 12) if seed % 2 else r.randint(12, 40)
    nearest = r.choice((0.0, 0.5, 1.0))
    ends = [(int(r.randrange(k) * nearest), k) for k in range(1, n) if r.random() < 0.95]
    capacity = [r.choice((inf, 10.0, 25.0, 62.5, 100.0)) for _ in ends]
    feeds = [(r.randrange(n), r.choice((inf, 20.0, 35.5))) for _ in range(r.randint(1, 8))]
    forest = Forest(n, ends, capacity)
    for _ in range(8):
        goals = r.sample(range(n), r.randint(1, min(9, n)))
        at_work = [k for k in range(len(feeds)) if r.random() < 0.7]
        found = forest.sent(forest.placed([(feeds[k][0], Flow(feeds[k][1], (~k,))) for k in at_work]), goals)
        a, b = [p for p, _ in ends] + goals, [q for _, q in ends] + [n] * len(goals)
        supplies = [feeds[k] for k in at_work]
        want = by_linear_program(n + 1, a, b, [*capacity, *[inf] * len(goals)], supplies, n)
        if not isfinite(found.amps):
            assert want >= ENOUGH
            continue
        assert found.amps == pytest.approx(want, abs=0.01)
        assert sum(capacity[k] if k >= 0 else feeds[~k][1] for k in found.cut) == pytest.approx(found.amps, abs=0.01)
        if len(goals) == 1:
            # Of several least cuts, the one nearest to where it arrives, as where copper goes round.
            a, b = [p for p, _ in ends], [q for _, q in ends]
            alone = Flows(Blocks(n, a, b), capacity, supplies).into(*goals)
            assert {k if k >= 0 else ~at_work[~k] for k in alone.cut} == set(found.cut)
        # What it names holds all back.
        left = [0.0 if k in found.cut else c for k, c in enumerate(capacity)]
        others = [(feeds[k][0], Flow(0.0 if ~k in found.cut else feeds[k][1], (~k,))) for k in at_work]
        cut_off = Forest(n, ends, left)
        assert cut_off.sent(cut_off.placed(others), goals).amps == pytest.approx(0.0, abs=0.01)


@pytest.mark.parametrize("seed", range(100))
def test_sides_are_what_a_walk_without_the_edge_reaches(seed):
    n, a, b, _, _ = network(seed)
    r = random.Random(seed)
    nodes = [r.randrange(n) for _ in range(r.randint(0, 6))]
    blocks = Blocks(n, a, b)
    sides = Sides(blocks, nodes)

    def reached(start, without):
        kept = [k for k in range(len(a)) if k not in without]
        joined = coo_array((np.ones(len(kept)), ([a[k] for k in kept], [b[k] for k in kept])), shape=(n, n))
        _, label = connected_components(joined, directed=False)
        return {k for k, node in enumerate(nodes) if label[node] == label[start]}

    def members(spans):
        assert all(first < last for first, last in spans)
        assert all(last < first for (_, last), (first, _) in pairwise(spans))
        return sides.members(spans)

    for k in range(len(a)):
        block = {j for j in range(len(a)) if blocks.of[j] == blocks.of[k]}
        for end in (a[k], b[k]):
            assert members(sides.past(k, end)) == reached(end, {k})
            assert members(sides.by(k, end)) == reached(end, set()) - reached(end, block)
            assert members(sides.into(end)) == reached(end, set())
            assert members(sides.at(end)) == {j for j, node in enumerate(nodes) if node == end}


def test_a_ring_is_no_forest():
    with pytest.raises(ValueError, match="ring"):
        Forest(3, [(0, 1), (1, 2), (2, 0)], [1.0, 1.0, 1.0])
