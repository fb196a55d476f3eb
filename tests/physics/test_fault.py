"""Fault currents against a direct solve of the faulted network, one fault at a time."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaunty_copper.physics import branch_currents
from jaunty_copper.physics.fault import FaultNetwork, along


def direct(nodes, a, b, ohm, emf, p, m, fault_ohm):
    """The faulted network, its fault a branch like any other; and the current of every branch."""
    a, b = [*a, p], [*b, m]
    g = 1.0 / np.array([*ohm, fault_ohm])
    e = np.array([*emf, 0.0])
    y = np.zeros((nodes, nodes))
    push = np.zeros(nodes)
    for k in range(len(a)):
        y[a[k], a[k]] += g[k]
        y[b[k], b[k]] += g[k]
        y[a[k], b[k]] -= g[k]
        y[b[k], a[k]] -= g[k]
        push[a[k]] -= g[k] * e[k]
        push[b[k]] += g[k] * e[k]
    v = np.linalg.lstsq(y, push, rcond=None)[0]
    flow = g * (v[a] - v[b] + e)
    return flow[-1], flow[:-1]


@st.composite
def networks(draw):
    nodes = draw(st.integers(2, 9))
    a, b = [], []
    for n in range(1, nodes):
        a.append(draw(st.integers(0, n - 1)))
        b.append(n)
    for _ in range(draw(st.integers(0, 4))):
        p, q = draw(st.integers(0, nodes - 1)), draw(st.integers(0, nodes - 1))
        if p != q:
            a.append(p)
            b.append(q)
    ohm = [draw(st.sampled_from([0.001, 0.004, 0.02, 0.3])) for _ in a]
    emf = [draw(st.sampled_from([0.0, 0.0, 12.0, -12.0, 24.0])) for _ in a]
    pairs = draw(st.lists(st.tuples(st.integers(0, nodes - 1), st.integers(0, nodes - 1)), min_size=1, max_size=5))
    return nodes, np.array(a), np.array(b), np.array(ohm), np.array(emf), [p for p in pairs if p[0] != p[1]] or [(0, 1)]


@settings(max_examples=300)
@given(networks())
def test_every_fault_and_every_branch_agree_with_a_direct_solve(network):
    nodes, a, b, ohm, emf, pairs = network
    first, second = (np.array(x) for x in zip(*pairs, strict=True))
    got = FaultNetwork(nodes, a, b, first, second, np.arange(a.size)).solve(ohm, emf, 0.01)
    for k, (p, m) in enumerate(pairs):
        fault, flows = direct(nodes, a, b, ohm, emf, p, m, 0.01)
        assert got.current_a[k] == pytest.approx(fault, rel=1e-9, abs=1e-7)
        np.testing.assert_allclose(got.branch_a.dense()[:, k], flows, rtol=1e-8, atol=1e-6)


@pytest.mark.parametrize("at_once", [1, 2_000_000])
@settings(max_examples=150, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(networks(), st.sampled_from([0.0, 0.1, 0.9]))
def test_however_they_are_asked_for_branch_currents_are_those_of_the_table(monkeypatch, at_once, network, share):
    monkeypatch.setattr(branch_currents, "ENTRIES_AT_ONCE", at_once)
    nodes, a, b, ohm, emf, pairs = network
    first, second = (np.array(x) for x in zip(*pairs, strict=True))
    found = FaultNetwork(nodes, a, b, first, second, np.arange(a.size)).solve(ohm, emf, 0.01)
    through, table, whole = found.branch_a, found.branch_a.dense(), np.abs(found.current_a)
    branch, fault = (x.ravel() for x in np.indices(table.shape))
    assert through.each(branch, fault).tolist() == table.ravel().tolist()
    assert [through.at(int(k), int(n)) for k, n in zip(branch, fault, strict=True)] == table.ravel().tolist()
    faults = np.arange(len(pairs))[::-1]
    rows, position, amps = through.during(faults, share)
    seen = np.zeros(table.shape)
    np.add.at(seen, (rows, faults[position]), amps)
    kept = np.abs(table) >= share * whole
    np.testing.assert_array_equal(seen[kept], table[kept])
    # What carries a fault in a tree carries all of it.
    assert (np.abs(seen[~kept]) == 0.0).all()
    most, where = through.greatest()
    np.testing.assert_array_equal(most, np.abs(table).max(axis=1))
    np.testing.assert_array_equal(most, np.abs(table[np.arange(a.size), where]))


@settings(max_examples=300)
@given(networks())
def test_what_a_link_in_place_of_a_branch_would_carry_agrees_with_a_direct_solve(network):
    nodes, a, b, ohm, emf, pairs = network
    first, second = (np.array(x) for x in zip(*pairs, strict=True))
    got = FaultNetwork(nodes, a, b, first, second, np.arange(a.size)).solve(ohm, emf, 0.01)
    for k, (p, m) in enumerate(pairs):
        for branch in np.flatnonzero(emf == 0.0).tolist():
            linked = ohm.copy()
            linked[branch] = 1e-7
            _, flows = direct(nodes, a, b, linked, emf, p, m, 0.01)
            (linked,) = got.prospective_a(np.array([branch]), np.array([k]))
            assert linked == pytest.approx(flows[branch], rel=1e-3, abs=1e-3)


@given(networks())
def test_contributions_of_sources_add_up(network):
    nodes, a, b, ohm, emf, pairs = network
    first, second = (np.array(x) for x in zip(*pairs, strict=True))
    made = FaultNetwork(nodes, a, b, first, second, np.arange(a.size))
    whole = made.solve(ohm, emf).current_a
    parts = sum(made.solve(ohm, np.where(np.arange(a.size) == k, emf, 0.0)).current_a for k in range(a.size))
    np.testing.assert_allclose(parts, whole, rtol=1e-9, atol=1e-6)


def test_a_battery_a_cable_and_a_short_by_hand():
    # 12 V behind 4 mOhm, 1 mOhm out and 1 mOhm back.
    net = FaultNetwork(4, np.array([0, 1, 3]), np.array([1, 2, 0]), np.array([2]), np.array([3]), np.array([0, 1, 2]))
    got = net.solve(np.array([0.004, 0.001, 0.001]), np.array([12.0, 0.0, 0.0]))
    assert got.current_a[0] == pytest.approx(12.0 / 0.006, rel=1e-12)
    assert got.ohm[0] == pytest.approx(0.006)
    np.testing.assert_allclose(got.branch_a.dense()[:, 0], 2000.0)


def test_what_does_not_conduct_gives_nothing():
    net = FaultNetwork(3, np.array([0, 1]), np.array([1, 2]), np.array([2, 1]), np.array([0, 0]), np.array([0, 1]))
    got = net.solve(np.array([0.01, np.inf]), np.array([12.0, 24.0]))
    assert got.current_a[0] == 0.0
    assert got.ohm[0] == np.inf
    assert got.current_a[1] == pytest.approx(1200.0)
    loop = FaultNetwork(3, np.array([0, 1, 2]), np.array([1, 2, 0]), np.array([1]), np.array([0]), np.array([0, 1, 2]))
    assert loop.solve(np.array([0.01, np.inf, np.inf]), np.array([12.0, 0.0, 5.0])).current_a[0] == pytest.approx(
        1200.0
    )


@given(networks(), st.integers(0, 30), st.sampled_from([0.01, 0.25, 0.7, 0.99]))
def test_a_fault_within_a_conductor_is_as_if_it_were_cut_there(network, which, share):
    nodes, a, b, ohm, emf, _ = network
    k = which % a.size
    emf[k] = 0.0
    other = next(n for n in range(nodes + 1) if n not in (a[k], b[k]))
    if other == nodes:
        return
    first, second = np.array([a[k], b[k]]), np.array([other, other])
    seen = FaultNetwork(nodes, a, b, first, second, np.zeros(0, dtype=int)).solve(ohm, emf)
    got = along(np.array([share]), ohm[k], seen.ohm[0], seen.ohm[1], seen.span_ohm(k))[0]
    cut = share
    a2, b2 = np.append(a, nodes), np.append(b, b[k])
    b2[k] = nodes
    ohm2 = np.append(ohm, (1.0 - cut) * ohm[k])
    ohm2[k] = cut * ohm[k]
    there = FaultNetwork(nodes + 1, a2, b2, np.array([nodes]), np.array([other]), np.zeros(0, dtype=int))
    whole = there.solve(ohm2, np.append(emf, 0.0))
    if np.isfinite(got) or np.isfinite(whole.ohm[0]):
        assert got == pytest.approx(whole.ohm[0], rel=1e-6)
