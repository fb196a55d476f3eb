"""A fault in time against closed forms, and against an independent stiff integrator."""

import math

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from jaunty_copper.physics.curves import band_of
from jaunty_copper.physics.fault import FaultNetwork
from jaunty_copper.physics.fault_course import Devices, Network, Unsolved
from jaunty_copper.physics.transient import course
from jaunty_copper.physics.withstand import withstand_a2s

INF = math.inf
NONE = Devices(np.zeros(0, dtype=int), np.zeros(0), (), False, 30.0)
BAND = band_of(((1.1, 360000.0, None), (2.0, 2.0, 60.0), (6.0, 0.04, 1.0)), True, 0.0)


def network(nodes, rows, late=None, **more):
    """Rows of a, b, fixed ohm, copper ohm, henry, emf, 1 / farad, area; the last one is the fault."""
    r = np.array(rows, dtype=float)
    zero = np.zeros(len(rows))
    values = {
        "nodes": nodes, "a": r[:, 0].astype(int), "b": r[:, 1].astype(int), "fixed_ohm": r[:, 2], "copper_ohm": r[:, 3],
        "henry": r[:, 4], "emf_v": r[:, 5], "late_emf_v": r[:, 5] if late is None else np.array(late), "late_ohm": zero,
        "decay_s": 0.1, "per_farad": r[:, 6], "area_mm2": r[:, 7], "start_c": zero + 20.0, "ambient_c": zero + 20.0,
        "loss_per_s": zero,
    }  # fmt: skip
    return Network(**{**values, **more})


def fuse(rating, certainly=False, arc_v=40.0, branch=1):
    return Devices(np.array([branch]), np.array([rating]), (BAND,), certainly, arc_v)


def test_r_and_l_rise_by_the_exponential():
    c = course(network(2, [(0, 1, 0.002, 0, 1e-6, 24, 0, INF), (1, 0, 0.003, 0, 5e-6, 0, 0, INF)]), NONE, 0.02)
    exact = 24.0 / 0.005 * -np.expm1(-c.times_s * 0.005 / 6e-6)
    np.testing.assert_allclose(c.current_a[:, 1], exact, atol=1e-4 * exact[-1])


def test_r_and_c_die_away_by_the_exponential():
    # A capacitor charged to 24 V by a source far weaker than itself, shorted through 10 milliohm.
    rows = [
        (0, 1, 1e3, 0, 1e-6, 24, 0, INF),
        (0, 1, 0.005, 0, 1e-10, 0, 1 / 0.02, INF),
        (1, 0, 0.005, 0, 1e-10, 0, 0, INF),
    ]
    c = course(network(2, rows), NONE, 1e-3)
    exact = 24.0 / 0.01 * np.exp(-c.times_s / (0.01 * 0.02))
    late = c.times_s > 1e-6
    np.testing.assert_allclose(c.current_a[late, 2], exact[late], rtol=1e-4, atol=0.3)


def test_r_l_and_c_ring_as_the_closed_form_says():
    r, h, farad = 0.02, 20e-6, 0.01
    rows = [
        (0, 1, 1e4, 0, 1e-6, 24, 0, INF),
        (0, 1, r / 2, 0, h / 2, 0, 1 / farad, INF),
        (1, 0, r / 2, 0, h / 2, 0, 0, INF),
    ]
    c = course(network(2, rows), NONE, 2e-2)
    a, w0 = r / (2 * h), 1 / math.sqrt(h * farad)
    w = math.sqrt(w0**2 - a**2)
    exact = 24.0 / (w * h) * np.exp(-a * c.times_s) * np.sin(w * c.times_s)
    np.testing.assert_allclose(c.current_a[:, 2], exact, atol=1e-4 * np.abs(exact).max())


def test_a_battery_falls_from_its_first_moment_to_what_lasts():
    rows = [(0, 1, 0.0045, 0, 1e-7, 25.2, 0, INF), (1, 0, 0.005, 0, 1e-6, 0, 0, INF)]
    n = network(2, rows, late=[0.95 * 25.2, 0.0], late_ohm=np.array([0.0005, 0.0]))
    c = course(n, NONE, 3.0)
    assert np.abs(c.current_a[:, 1]).max() == pytest.approx(25.2 / 0.0095, rel=0.01)
    assert c.current_a[-1, 1] == pytest.approx(0.95 * 25.2 / 0.010, rel=1e-5)


def test_a_fuse_at_a_constant_current_opens_at_its_bands_time():
    rows = [(0, 1, 0.1, 0, 1e-9, 24, 0, INF), (1, 2, 0.1, 0, 1e-9, 0, 0, INF), (2, 0, 0.1, 0, 1e-9, 0, 0, INF)]
    for certainly in (False, True):
        (melts, clears) = course(network(3, rows), fuse(20.0, certainly), 1e4).events
        read = BAND.longest if certainly else BAND.shortest
        assert melts.time_s == pytest.approx(float(read(80.0 / 20.0)), rel=1e-4)
        assert (melts.cleared, clears.cleared) == (False, True)


def test_an_arc_drives_the_current_to_zero_in_a_closed_form():
    r, h, arc = 0.01, 10e-6, 40.0
    rows = [(0, 1, r / 2, 0, h / 2, 24, 0, INF), (1, 2, 0.0, 0, 1e-12, 0, 0, INF), (2, 0, r / 2, 0, h / 2, 0, 0, INF)]
    melts, clears = course(network(3, rows), fuse(100.0, arc_v=arc), 10.0).events
    # From i0 towards (24 - 40) / R: zero after L/R ln(1 + i0 R / 16).
    assert clears.time_s - melts.time_s == pytest.approx(
        h / r * math.log1p(melts.current_a * r / (arc - 24.0)), rel=1e-3
    )


def test_copper_that_takes_what_it_bears_ends_at_what_its_insulation_bears():
    # A constant 2 kA through 16 mm2 for I2t = K2 S2 ln(...): from 20 to 160 C.
    area, amps = 16.0, 2000.0
    rows = [(0, 1, 100.0, 0, 1e-9, 100.0 * amps, 0, INF), (1, 0, 0.0, 1e-6, 1e-9, 0, 0, area)]
    seconds = float(withstand_a2s(area, 20.0, 160.0)) / amps**2
    c = course(network(2, rows), NONE, seconds)
    assert c.conductor_c[-1, 1] == pytest.approx(160.0, abs=0.05)


def test_copper_that_melts_ends_the_course():
    rows = [(0, 1, 0.001, 0, 1e-7, 24, 0, INF), (1, 0, 0.0, 0.004, 1e-6, 0, 0, 2.5)]
    c = course(network(2, rows), NONE, 100.0)
    assert c.burnt == (1,)
    assert c.times_s[-1] < 1.0


def test_an_independent_stiff_integrator_gives_the_same_course():
    """Two sources, a capacitor, a fuse, a conductor that warms: branch equations written out by hand, BDF."""
    k2s2, alpha, beta = (226.0 * 2.5) ** 2, 0.00393, 234.5
    rows = [
        (0, 1, 0.004, 0, 2e-6, 26, 0, INF),  # battery and its leads
        (1, 2, 0.001, 0, 1e-7, 0, 0, INF),  # fuse
        (2, 0, 0.0, 0.02, 4e-6, 0, 0, 2.5),  # conductor to the fault, warming
        (0, 1, 0.5, 0, 1e-6, 25, 0, INF),  # a charger, weak
        (0, 1, 0.01, 0, 5e-8, 0, 1 / 0.01, INF),  # capacitor across the source
        (2, 0, 0.001, 0, 1e-8, 0, 0, INF),  # the fault, past the fuse
    ]
    c = course(network(3, rows), fuse(60.0), 1e3)

    # Unknowns: battery i1, charger i2, capacitor i3 (out of it), fault i5, capacitor volts, copper, melting.
    # Conductor 2-0 carries i4 = i1 + i2 + i3 - i5; the fuse carries i1 + i2 + i3.
    mass = np.zeros((4, 4))
    for weights, henry in (
        ((1, 0, 0, 0), 2e-6), ((0, 1, 0, 0), 1e-6), ((0, 0, 1, 0), 5e-8), ((1, 1, 1, 0), 1e-7), ((0, 0, 0, 1), 1e-8),
        ((1, 1, 1, -1), 4e-6),
    ):  # fmt: skip
        w = np.array(weights, dtype=float)
        mass += henry * np.outer(w, w)
    inverse = np.linalg.inv(mass)

    def slope(_, y):
        i1, i2, i3, i5, volts, hot, _melt = y
        through, i4 = i1 + i2 + i3, i1 + i2 + i3 - i5
        drop_fuse, drop_wire = 0.001 * through, 0.02 * (1 + alpha * (hot - 20.0)) * i4
        push = np.array([
            26 - 0.004 * i1 - drop_fuse - drop_wire,
            25 - 0.5 * i2 - drop_fuse - drop_wire,
            volts - 0.01 * i3 - drop_fuse - drop_wire,
            drop_wire - 0.001 * i5,
        ])  # fmt: skip
        rate = 1.0 / float(BAND.shortest(abs(through) / 60.0))
        return [*(inverse @ push), -i3 / 0.01, (hot + beta) * i4**2 / k2s2, rate]

    # Before the fault the conductor 2-0 is a load: its steady currents.
    wire = 0.02 + 0.001
    v1 = (26 / 0.004 + 25 / 0.5) / (1 / 0.004 + 1 / 0.5 + 1 / wire)
    begin = [(26 - v1) / 0.004, (25 - v1) / 0.5, 0.0, 0.0, v1, 20.0, 0.0]
    melts = c.events[0]
    other = solve_ivp(
        slope,
        (0.0, melts.time_s),
        begin,
        method="BDF",
        rtol=1e-8,
        atol=[1e-5] * 4 + [1e-7, 1e-6, 1e-9],
        dense_output=True,
    )
    until = c.times_s < melts.time_s
    theirs = other.sol(c.times_s[until])
    ours = c.current_a[until]
    for column, row, sign in ((0, 0, 1.0), (3, 1, 1.0), (4, 2, 1.0), (5, 3, 1.0)):
        np.testing.assert_allclose(sign * ours[:, column] / 5000.0, theirs[row] / 5000.0, atol=1e-4)
    np.testing.assert_allclose(c.conductor_c[until][:, 2], theirs[5], rtol=1e-4)
    assert other.y[6, -1] == pytest.approx(1.0, rel=1e-3)


def test_the_first_moment_of_the_rise_is_the_inductance_over_the_resistance_seen():
    # A ring fed at two places: the time constant is the integral of what is missing to the last value.
    rows = [
        (0, 1, 0.004, 0, 1e-6, 24, 0, INF), (1, 2, 0.002, 0, 3e-6, 0, 0, INF), (1, 3, 0.006, 0, 2e-6, 0, 0, INF),
        (2, 3, 0.003, 0, 4e-6, 0, 0, INF), (0, 2, 0.005, 0, 2e-6, 24, 0, INF), (3, 0, 0.0001, 0, 1e-9, 0, 0, INF),
    ]  # fmt: skip
    n = network(4, rows)
    c = course(n, NONE, 0.1)
    last = c.current_a[-1, 5]
    missing = np.trapezoid(1.0 - c.current_a[:, 5] / last, c.times_s)
    made = FaultNetwork(4, n.a[:5], n.b[:5], np.array([3]), np.array([0]), np.zeros(0, dtype=int))
    found = made.solve(n.fixed_ohm[:5], n.emf_v[:5], henry=n.henry[:5])
    assert found.current_a[0] == pytest.approx(24.0 / found.ohm[0])
    assert found.henry[0] / (found.ohm[0] + 1e-4) == pytest.approx(missing, rel=2e-2)


def test_two_like_fuses_side_by_side_open_in_one_moment_and_in_a_row_both_clear():
    side = [
        (0, 1, 0.05, 0, 1e-7, 24, 0, INF), (1, 2, 0.01, 0, 1e-8, 0, 0, INF), (1, 2, 0.01, 0, 1e-8, 0, 0, INF),
        (2, 0, 0.0001, 0, 1e-7, 0, 0, INF),
    ]  # fmt: skip
    both = Devices(np.array([1, 2]), np.array([20.0, 20.0]), (BAND, BAND), False, 40.0)
    c = course(network(3, side), both, 100.0)
    assert {e.device for e in c.events if not e.cleared} == {0, 1}
    assert abs(c.current_a[-1, 3]) < 1.0
    row = [
        (0, 1, 0.05, 0, 1e-7, 24, 0, INF), (1, 2, 0.01, 0, 1e-8, 0, 0, INF), (2, 3, 0.01, 0, 1e-8, 0, 0, INF),
        (3, 0, 0.0001, 0, 1e-7, 0, 0, INF),
    ]  # fmt: skip
    c = course(network(4, row), both, 100.0)
    assert {e.device for e in c.events if e.cleared} == {0, 1}
    assert c.times_s[-1] < 10.0


def test_a_course_that_cannot_be_solved_is_an_error_and_not_a_short_course(monkeypatch):
    class Broken:
        status, message, t = -1, "no step is small enough", np.array([0.0, 1e-3])

    monkeypatch.setattr("jaunty_copper.physics.transient.solve_ivp", lambda *_, **__: Broken)
    rows = [(0, 1, 0.01, 0, 1e-6, 24, 0, INF), (1, 0, 0.01, 0, 1e-6, 0, 0, INF)]
    with pytest.raises(Unsolved, match=r"broke off after 0\.001 s: no step"):
        course(network(2, rows), NONE)
