"""The greatest flow and its cut, against a general library and by looking through every cut."""

import random
from itertools import combinations
from math import inf, isfinite

import numpy as np
import pytest
from scipy.sparse import csr_array
from scipy.sparse.csgraph import maximum_flow

from jaunty_copper.physics.flow import Flow, greatest

CAPACITIES = (5.0, 7.5, 10.0, 16.0, 40.0, inf)


def drawn(seed):
    """A network by chance: nodes, edges with capacities, supplies, and where they flow."""
    r = random.Random(seed)
    parts = r.randint(2, 7)
    ends = [tuple(r.sample(range(parts), 2)) for _ in range(r.randint(parts - 1, 3 * parts))]
    capacity = [r.choice(CAPACITIES) for _ in ends]
    goal = r.randrange(parts)
    others = [n for n in range(parts) if n != goal]
    supplies = [
        (n, Flow(r.choice((*CAPACITIES, 3.0, 100.0)), (~k,)))
        for k, n in enumerate(r.choices(others, k=r.randint(1, 3)))
    ]
    return parts, ends, capacity, supplies, goal


def least_cut(parts, ends, capacity, supplies, goal):
    """Through every set of nodes about the goal: the least that crosses into one."""
    others = [n for n in range(parts) if n != goal]
    found = inf
    for size in range(len(others) + 1):
        for some in combinations(others, size):
            near = {goal, *some}
            crossing = sum(c for (p, q), c in zip(ends, capacity, strict=True) if (p in near) != (q in near))
            found = min(found, crossing + sum(f.amps for n, f in supplies if n in near))
    return found


@pytest.mark.parametrize("seed", range(200))
def test_it_is_the_least_of_all_cuts_and_names_one(seed):
    parts, ends, capacity, supplies, goal = drawn(seed)
    found = greatest(parts, ends, range(len(ends)), capacity, supplies, goal)
    assert found.amps == pytest.approx(least_cut(parts, ends, capacity, supplies, goal), rel=1e-12)
    amps = {k: capacity[k] for k in range(len(ends))} | {~k: f.amps for k, (_, f) in enumerate(supplies)}
    if isfinite(found.amps):
        assert sum(amps[k] for k in found.cut) == pytest.approx(found.amps, rel=1e-12), "its cut limits it"
    else:
        assert found.cut
        assert all(amps[k] == inf for k in found.cut), "sources without limit"


@pytest.mark.parametrize("seed", range(60))
def test_a_general_library_finds_as_much(seed):
    parts, ends, capacity, supplies, goal = drawn(1000 + seed)
    most = 1_000_000
    table = np.zeros((parts + 1, parts + 1), dtype=np.int64)
    for (p, q), c in zip(ends, capacity, strict=True):
        steps = round(10 * c) if isfinite(c) else most
        table[p, q] += steps
        table[q, p] += steps
    for n, f in supplies:
        table[parts, n] += round(10 * f.amps) if isfinite(f.amps) else most
    solved = maximum_flow(csr_array(table.astype(np.int32)), parts, goal).flow_value
    found = greatest(parts, ends, range(len(ends)), capacity, supplies, goal)
    assert (10 * found.amps == pytest.approx(solved)) if solved < most else not isfinite(found.amps)
