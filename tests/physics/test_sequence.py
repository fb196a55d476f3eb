"""Faults in steps against a solver that is given the network anew after every opening."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_copper.physics.curves import band_of
from jaunty_copper.physics.fault import FaultNetwork
from jaunty_copper.physics.fault_course import HOTTEST_C
from jaunty_copper.physics.sequence import Openers, sequences
from jaunty_copper.physics.warming import Watched
from jaunty_copper.physics.withstand import endurance_current
from tests.physics.test_fault import direct, networks

BAND = band_of(((1.1, 7200.0, None), (1.35, 60.0, 3600.0), (2.0, 1.0, 30.0), (10.0, 0.01, 0.05)), True, 0.0)


def followed(found, faults, ohms, ratings, case, branch, certainly=True, bears=30.0):
    n = len(case)

    def of(x):
        return np.full(n, x)

    watched = Watched(
        np.array(case), np.arange(n), np.array(branch), of(2.5), of(70.0), of(160.0), of(30.0), of(45.0), of(bears)
    )
    devices = Openers(np.array(ratings, dtype=float), (BAND,) * len(ratings), certainly)
    return sequences(found, np.array(faults), np.array(ohms, dtype=float), devices, watched)


def slowly(network, p, m, ohm, ratings, rows):
    """The sequence by solving everything anew with the open branches at a huge resistance."""
    nodes, a, b, ohms, emf, _ = network
    now, melted, time, events = np.array(ohms, dtype=float), np.zeros(len(rows)), 0.0, []
    for _ in range(50):
        fault, flows = direct(nodes, a, b, now, emf, p, m, ohm)
        if abs(fault) < 1e-3:
            break
        lasts = BAND.longest(np.abs(flows[rows]) / ratings)
        gone = [k for k, _ in events]
        waits = np.where(np.isin(np.arange(len(rows)), gone), np.inf, np.maximum(1.0 - melted, 1e-12) * lasts)
        dt = waits.min(initial=np.inf)
        if np.isinf(dt):
            return events, abs(fault)
        melted += dt / lasts
        time += dt
        for k in np.flatnonzero(waits <= dt * (1.0 + 1e-6)).tolist():
            events.append((k, time))
            now[rows[k]] *= 1e9
    return events, 0.0


@settings(max_examples=150, deadline=None)
@given(networks(), st.data())
def test_the_order_of_openings_agrees_with_solving_anew(network, data):
    nodes, a, b, ohm, emf, pairs = network
    plain = np.flatnonzero(emf == 0.0)
    chosen = data.draw(st.lists(st.sampled_from(plain.tolist()), unique=True, max_size=4)) if plain.size else []
    rows = np.array(chosen, dtype=np.int64)
    ratings = np.array([data.draw(st.sampled_from([7.0, 23.0, 61.0, 190.0])) for _ in chosen])
    first, second = (np.array(x) for x in zip(*pairs, strict=True))
    asked = np.concatenate([rows, np.array([k for k in range(a.size) if k not in chosen], dtype=np.int64)])
    found = FaultNetwork(nodes, a, b, first, second, asked).solve(ohm, emf)
    ohms = [0.01 * (k + 1) for k in range(len(pairs))]
    got = followed(found, range(len(pairs)), ohms, ratings, [0], [0])
    for k, (p, m) in enumerate(pairs):
        events, left = slowly(network, p, m, ohms[k], ratings, rows)
        mine = got.order(k)
        assert sorted(d for d, _ in mine) == sorted(d for d, _ in events)
        times = dict(events)
        for device, at in mine:
            assert at == pytest.approx(times[device], rel=1e-4)
        assert got.left_a[k] == pytest.approx(left, rel=1e-4, abs=2e-3)


def ring(ohm=0.02):
    """A source, a conductor with a device at each end to a load's node, and a second one beside it."""
    a = np.array([0, 1, 2, 3, 1, 4])
    b = np.array([1, 2, 3, 4, 5, 5])
    # 0 -(battery)- 1 -(device 1)- 2 -(conductor)- 3 -(device 2)- 4 -(way)- 5 -(way)- 1: a ring fed at 1.
    return a, b, np.array([0.005, 0.001, ohm, 0.001, 0.004, 0.004]), np.array([12.0, 0, 0, 0, 0, 0])


def test_a_conductor_of_a_ring_is_fed_from_both_ends_until_both_devices_have_opened():
    a, b, ohm, emf = ring()
    # The fault halfway: its conductor in two.
    a, b = np.append(a, 6), np.append(b, 3)
    b[2], ohm, emf = 6, np.append(ohm, 0.01), np.append(emf, 0.0)
    ohm[2] = 0.01
    found = FaultNetwork(7, a, b, np.array([6]), np.array([0]), np.array([1, 3])).solve(ohm, emf)
    got = followed(found, [0], [0.0], [40.0, 40.0], [0, 0], [2, 6])
    order = got.order(0)
    assert sorted(d for d, _ in order) == [0, 1]
    assert got.left_a[0] == 0.0
    # Each half bears its own current until its own device has opened; the second then carries all.
    last = order[-1][1]
    assert got.until_s.max() == pytest.approx(last)
    assert order[0][1] < last


@pytest.mark.parametrize("seconds", [0.5, 3.0, 40.0, 900.0])
def test_the_temperature_after_a_time_is_that_of_the_endurance_current(seconds):
    able = float(endurance_current(seconds, 2.5, 70.0, 160.0, 45.0, 30.0))
    for factor, damaged in ((0.999, False), (1.001, True)):
        amps = factor * able
        # A device that lasts exactly so long at that current.
        band = band_of(((0.9, seconds, seconds), (1.1, seconds, seconds)), False, 0.0)
        a, b, emf = np.array([0, 1]), np.array([1, 2]), np.array([12.0, 0.0])
        ohm = np.array([0.5 * 12.0 / amps, 0.5 * 12.0 / amps])
        found = FaultNetwork(3, a, b, np.array([2]), np.array([0]), np.array([1])).solve(ohm, emf)
        watched = Watched(
            np.array([0]), np.array([0]), np.array([1]), *(np.array([x]) for x in (2.5, 70.0, 160.0, 30.0, 45.0, 30.0))
        )
        got = sequences(found, np.array([0]), np.array([0.0]), Openers(np.array([amps]), (band,)), watched)
        assert np.isfinite(got.damaged_s[0]) == damaged
        assert got.opened_s[0] == pytest.approx(seconds)
        assert got.hottest_c[0] == pytest.approx(160.0, abs=1.0)
        assert got.let_a2s[0] == pytest.approx(amps**2 * min(seconds, 5.0))


def test_between_parts_that_nothing_joins_nothing_flows_nor_opens():
    """Two batteries with a device each and nothing in common: a fault from the one to the other, and one at each."""
    a, b = np.array([0, 1, 3, 4]), np.array([1, 2, 4, 5])
    # A second battery beside each, so that current can go round and both parts are solved, not merely trees.
    a, b = np.append(a, [2, 5]), np.append(b, [0, 3])
    ohm, emf = np.full(6, 0.02), np.array([12.0, 0.0, 24.0, 0.0, -12.0, -24.0])
    first, second = np.array([1, 2, 5]), np.array([4, 0, 3])
    found = FaultNetwork(6, a, b, first, second, np.array([1, 3])).solve(ohm, emf)
    got = followed(found, [0, 1, 2], [0.0] * 3, [20.0, 20.0], [0, 1], [1, 1])
    assert (got.first_a[0], got.left_a[0], got.carried_a[0]) == (0.0, 0.0, 0.0)
    assert got.order(0) == []
    assert got.first_a[1:].min() > 100.0


def test_what_nothing_opens_is_damaged_or_borne_for_good():
    a, b, emf = np.array([0, 1]), np.array([1, 2]), np.array([12.0, 0.0])
    for ohm, left in ((0.02, 300.0), (0.3, 20.0)):
        found = FaultNetwork(3, a, b, np.array([2]), np.array([0]), np.array([1])).solve(np.array([ohm, ohm]), emf)
        got = followed(found, [0], [0.0], [], [0], [1])
        assert got.left_a[0] == got.carried_a[0] == pytest.approx(left)
        hot = left > 45.0
        assert (got.hottest_c[0] == HOTTEST_C) == hot
        assert np.isfinite(got.damaged_s[0]) == hot
        assert got.until_s[0] == (np.inf if hot else 0.0)
