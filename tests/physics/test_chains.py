"""Networks cut down to their hubs, against the whole network solved node by node."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_copper.physics.chains import Chains, Core


@st.composite
def networks(draw):
    """Trees, rings, rings on rings, parallel branches, parts that nothing joins, open branches."""
    nodes = draw(st.integers(2, 12))
    some = st.integers(0, nodes - 1)
    pairs = draw(st.lists(st.tuples(some, some).filter(lambda p: p[0] != p[1]), min_size=1, max_size=18))
    ring = draw(st.lists(some, unique=True, max_size=nodes))
    if len(ring) > 2:
        pairs += list(zip(ring, [*ring[1:], ring[0]], strict=True))
    count = len(pairs)
    ohm = draw(st.lists(st.sampled_from([0.001, 0.004, 0.02, 0.3, 1e6]), min_size=count, max_size=count))
    on = draw(st.lists(st.sampled_from([True, True, True, False]), min_size=count, max_size=count))
    emf = draw(st.lists(st.sampled_from([0.0, 0.0, 12.0, -24.0]), min_size=count, max_size=count))
    a, b = (np.array(x) for x in zip(*pairs, strict=True))
    return nodes, a, b, np.array(ohm), np.array(on), np.array(emf)


def potentials(network, push):
    """Voltages of all nodes for some injections, a column each, by least squares, and the current of every branch."""
    nodes, a, b, ohm, on, emf = network
    g = np.where(on, 1.0 / ohm, 0.0)
    y, rhs = np.zeros((nodes, nodes)), push.copy()
    for k in range(a.size):
        y[a[k], a[k]] += g[k]
        y[b[k], b[k]] += g[k]
        y[a[k], b[k]] -= g[k]
        y[b[k], a[k]] -= g[k]
        rhs[a[k]] -= g[k] * emf[k]
        rhs[b[k]] += g[k] * emf[k]
    v = np.linalg.pinv(y, rcond=1e-14) @ rhs
    return v, g[:, None] * (v[a] - v[b] + emf[:, None])


def core(network):
    nodes, a, b, ohm, on, _ = network
    chains = Chains(nodes, a, b, on)
    return chains, Core(chains, ohm)


def joined(chains):
    return [(p, q) for p in range(chains.nodes) for q in range(chains.nodes) if chains.part[p] == chains.part[q]]


@settings(max_examples=300)
@given(networks())
def test_what_any_pair_sees_of_any_other_is_that_of_the_whole_network(network):
    nodes, a, b, ohm, on, emf = network
    # An open switch of 1e6 ohm costs the least squares their digits, not ours: it is held in the tests of faults.
    network = nodes, a, b, np.minimum(ohm, 0.3), on, 0.0 * emf
    chains, found = core(network)
    pairs = joined(chains)
    p, q = np.array(pairs).T
    every = np.arange(len(pairs))
    push = np.zeros((nodes, len(pairs)))
    np.add.at(push, (p, every), 1.0)
    np.add.at(push, (q, every), -1.0)
    v, amps = potentials(network, push)
    wanted = v[p] - v[q]
    np.testing.assert_allclose(found.table(p, q, p, q), wanted, rtol=1e-9, atol=1e-11)
    each, other = (x.ravel() for x in np.meshgrid(every, every, indexing="ij"))
    np.testing.assert_allclose(
        found.each(p[each], q[each], p[other], q[other]), wanted[each, other], rtol=1e-9, atol=1e-11
    )
    henry = 1e-7 * (1.0 + np.arange(a.size))
    np.testing.assert_allclose(found.wound(henry, p, q), np.where(on, henry, 0.0) @ amps**2, rtol=1e-8, atol=1e-15)


@given(networks())
def test_voltages_before_any_fault_are_those_of_the_whole_network(network):
    nodes, a, b, ohm, on, emf = network
    network = nodes, a, b, np.minimum(ohm, 0.3), on, emf
    chains, found = core(network)
    v, wanted = found.volts(emf), potentials(network, np.zeros((nodes, 1)))[0][:, 0]
    for p, q in joined(chains):
        assert v[p] - v[q] == pytest.approx(wanted[p] - wanted[q], rel=1e-9, abs=1e-9)


@given(networks())
def test_parts_are_what_conducting_branches_join(network):
    nodes, a, b, _, on, _ = network
    chains, _ = core(network)
    reach = np.eye(nodes, dtype=int)
    reach[a[on], b[on]] = reach[b[on], a[on]] = 1
    whole = np.linalg.matrix_power(reach, nodes) > 0
    assert (whole == (chains.part[:, None] == chains.part)).all()
    # Every branch that conducts lies on one chain, once; and only where three ways meet, or one ends, is a hub.
    assert sorted(chains.branch.tolist()) == np.flatnonzero(on).tolist()


def test_what_lies_beside_an_open_switch_keeps_its_digits():
    """A ring of 1 mOhm steps with a switch of 1e6 ohm in it: two steps apart are 2 mOhm, to the last digits, by hand."""
    n = 9
    a, b = np.arange(n), (np.arange(n) + 1) % n
    ohm = np.full(n, 0.001)
    ohm[4] = 1e6
    found = Core(Chains(n, a, b, np.ones(n, dtype=bool)), ohm)
    pairs = [(0, 2), (5, 7), (6, 8), (2, 4)]
    p, q = np.array(pairs).T
    np.testing.assert_allclose(found.each(p, q, p, q), 0.002, rtol=1e-8)
    assert found.each(*(np.array([x]) for x in (4, 5, 4, 5)))[0] == pytest.approx(0.008, rel=1e-8)


def test_a_ring_by_hand():
    """Four steps of 1, 2, 3 and 4 ohm: seen over the first it is 1 beside 9; over two of them 3 beside 7."""
    found = Core(
        Chains(4, np.arange(4), np.array([1, 2, 3, 0]), np.ones(4, dtype=bool)), np.array([1.0, 2.0, 3.0, 4.0])
    )
    p, q = np.array([0, 0]), np.array([1, 2])
    assert found.each(p, q, p, q) == pytest.approx([0.9, 2.1])
    # Of one ampere over the first two 0.7 go that way and 0.3 the other: 0.49 * 2 + 0.09 * 2 of 1 H a step.
    assert found.wound(np.ones(4), p, q) == pytest.approx([0.81 + 3 * 0.01, 2 * 0.49 + 2 * 0.09])
