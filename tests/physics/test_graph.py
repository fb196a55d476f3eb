import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from jaunty_copper.physics import graph
from jaunty_copper.physics.linear import DENSE_UP_TO, Singular, factor


@given(st.integers(1, 30), st.lists(st.tuples(st.integers(0, 29), st.integers(0, 29)), max_size=60))
def test_components_agree_with_a_graph_library(n, edges):
    edges = [(a, b) for a, b in edges if a < n and b < n]
    label = np.array(graph.components(n, [a for a, _ in edges], [b for _, b in edges]))
    ones = np.ones(len(edges))
    matrix = coo_array((ones, ([a for a, _ in edges], [b for _, b in edges])), shape=(n, n))
    theirs = connected_components(matrix, directed=False)[1]
    same = label[:, None] == label[None, :]
    np.testing.assert_array_equal(same, theirs[:, None] == theirs[None, :])


def test_potentials_add_up_along_a_string():
    volts, part, torn = graph.potentials(4, [(0, 1, 12.0), (1, 2, 12.5)])
    assert volts[:3] == [0.0, 12.0, 24.5]
    assert part == [0, 0, 0, 1]
    assert torn == []


def test_equal_batteries_side_by_side_do_not_contradict():
    assert graph.potentials(2, [(0, 1, 12.8), (0, 1, 12.8)])[2] == []


@pytest.mark.parametrize("edges", [[(0, 0, 12.0)], [(0, 1, 12.0), (0, 1, 24.0)]])
def test_a_short_and_a_contradiction_are_torn(edges):
    assert graph.potentials(2, edges)[2]


@pytest.mark.parametrize("size", [5, DENSE_UP_TO + 40])
def test_both_factorisations_solve(size):
    rng = np.random.default_rng(size)
    k = np.arange(size)
    rows = np.concatenate([k, k[:-1], k[1:]])
    cols = np.concatenate([k, k[1:], k[:-1]])
    values = np.concatenate([4.0 + rng.random(size), -np.ones(size - 1), -np.ones(size - 1)])
    matrix = np.zeros((size, size))
    np.add.at(matrix, (rows, cols), values)
    rhs = rng.random(size)
    np.testing.assert_allclose(matrix @ factor(size, rows, cols, values)(rhs), rhs, atol=1e-12)


@pytest.mark.parametrize("size", [3, DENSE_UP_TO + 3])
def test_a_floating_system_is_singular(size):
    k = np.arange(size)
    with pytest.raises(Singular):
        factor(size, k, k, np.where(k == 1, 0.0, 1.0))


@given(st.integers(1, 9), st.lists(st.tuples(st.integers(0, 8), st.integers(0, 8)), max_size=20))
def test_loops_go_round_and_are_as_many_as_there_are(nodes, edges):
    edges = [(p % nodes, q % nodes) for p, q in edges]
    a, b = [p for p, _ in edges], [q for _, q in edges]
    loops, chords = graph.loops(nodes, a, b)
    parts = len(set(graph.components(nodes, a, b)))
    assert len(loops) == len(edges) - nodes + parts
    for signs, chord in zip(loops, chords, strict=True):
        assert signs[chord] == 1.0
        flow = [0.0] * nodes
        for k, sign in signs.items():
            flow[a[k]] -= sign
            flow[b[k]] += sign
        assert flow == [0.0] * nodes
        assert sum(chord in other for other in loops) == 1


def test_leaves_come_off_until_only_the_ring_is_left():
    #  4 - 3 - 0 - 1 - 2 - 0
    order, up, parent = graph.leaves(5, [0, 1, 2, 0, 3], [1, 2, 0, 3, 4])
    assert order == [4, 3]
    assert (up[4], parent[4], up[3], parent[3]) == (4, 3, 3, 0)
    assert up[0] == up[1] == up[2] == -1
