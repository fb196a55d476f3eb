import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from jaunty_copper.parts.catalogue import library
from jaunty_copper.physics.curves import ambient_factor, band_of, data_end_c, melted, warm_share

FAMILIES = list(library().device_families.values())


def band(family):
    return band_of(library().gates_of(family), family.beyond == "i2t", family.floor_s)


@pytest.mark.parametrize("family", FAMILIES, ids=lambda f: f.id)
def test_times_on_gates_are_exact(family):
    made = band(family)
    gates = library().gates_of(family)
    assert len(gates) > 3
    for multiple, short, long in gates:
        if short is not None:
            assert float(made.shortest(multiple)) == pytest.approx(max(short, family.floor_s), rel=1e-12)
        if long is not None:
            assert float(made.longest(multiple)) == pytest.approx(max(long, family.floor_s), rel=1e-12)


@pytest.mark.parametrize("family", FAMILIES, ids=lambda f: f.id)
def test_times_fall_with_current_and_the_edges_do_not_cross(family):
    made, m = band(family), np.geomspace(0.5, 200.0, 4000)
    for read in (made.shortest, made.longest):
        t = read(m)
        assert np.all(np.diff(t[np.isfinite(t)]) <= 1e-12)
    assert np.all(made.shortest(m) <= made.longest(m))
    assert np.isinf(made.shortest(0.9))


def test_beyond_the_last_gate_a_fuse_melts_at_constant_i2t_and_a_breaker_has_a_floor():
    fuse = band(library().device_families["class-t-fuse"])
    assert float(fuse.shortest(20.0)) * 20.0**2 == pytest.approx(0.004 * 10.0**2)
    breaker = band(library().device_families["dc-miniature-breaker"])
    assert float(breaker.shortest(100.0)) == pytest.approx(0.003)
    assert float(breaker.longest(100.0)) == pytest.approx(0.02)


@given(st.sampled_from(FAMILIES), st.floats(1.6, 60.0))
def test_the_melting_integral_of_a_constant_current_is_the_bands_time(family, multiple):
    made = band(family)
    for certainly, read in ((False, made.shortest), (True, made.longest)):
        t = float(read(multiple))
        if np.isinf(t):
            # Below the family's own sure gate nothing is certain, however long it lasts.
            assert melted(made, np.full(11, multiple), np.linspace(0.0, 1e5, 11), certainly)[-1] < 1.0
            continue
        times = np.linspace(0.0, t, 11)
        assert melted(made, np.full(11, multiple), times, certainly)[-1] == pytest.approx(1.0, rel=1e-9)


def test_the_melting_integral_of_a_decaying_current_is_its_i2t():
    made = band(library().device_families["class-t-fuse"])
    times = np.linspace(0.0, 0.02, 20001)
    current = 40.0 * np.exp(-times / 0.01)
    # All of it beyond the last gate: the device's own I2t is 0.4 s.
    deep = current >= 10.0
    want = np.trapezoid(current[deep] ** 2, times[deep]) / 0.4
    assert melted(made, current, times)[int(deep.sum()) - 1] == pytest.approx(want, rel=1e-6)


def test_the_smallest_opening_current_is_on_the_band():
    made = band(library().device_families["thermal-breaker"])
    for seconds in (10.0, 60.0, 600.0):
        m = made.opens_at(seconds)
        assert float(made.longest(m)) == pytest.approx(seconds, rel=1e-6)
    assert made.opens_at(1e-4) == np.inf


def halved(read, seconds):
    """The smallest multiple that opens within a time, by nothing but reading the band."""
    low, high = 1e-3, 1e6
    if float(read(high)) > seconds:
        return np.inf
    while high / low > 1.0 + 1e-10:
        mid = (low * high) ** 0.5
        low, high = (mid, high) if float(read(mid)) > seconds else (low, mid)
    return high


def test_the_smallest_opening_current_is_what_halving_finds():
    rng, kinds = np.random.default_rng(12), set()
    bands = [band(family) for family in library().device_families.values()]
    for i2t, floor in ((True, 0.0), (False, 0.0), (True, 0.02), (False, 0.3)):
        multiples = np.sort(rng.uniform(1.1, 30.0, 5))
        times = np.sort(rng.uniform(0.01, 3000.0, 5))[::-1]
        times[2] = times[3]
        rows = [
            (float(m), float(t) if k else None, float(2 * t) if k < 4 else None)
            for k, (m, t) in enumerate(zip(multiples, times, strict=True))
        ]
        bands.append(band_of(tuple(rows), i2t, floor))
    for made in bands:
        own = [t * (1.0 + 1e-9) for t in (*made.long_s, *made.short_s)]
        for seconds in (1e-4, 0.005, 0.02, 0.4, 60.0, 3600.0, *own, *(1.1 * t for t in own)):
            for certainly, read in ((True, made.longest), (False, made.shortest)):
                expected = halved(read, seconds)
                assert made.opens_at(seconds, certainly) == pytest.approx(expected, rel=1e-8)
                kinds.add(expected == np.inf)
    assert kinds == {True, False}


def test_ambient_takes_from_a_rating_and_never_adds():
    assert ambient_factor("thermal", 60.0) == pytest.approx(0.84)
    assert ambient_factor("thermal", [10.0, 75.0]).tolist() == [1.0, 0.78]
    assert ambient_factor("fuse", 37.5) == pytest.approx(0.975)
    assert ambient_factor("none", [75.0, 120.0]).tolist() == [1.0, 1.0]


@pytest.mark.parametrize(("release", "end", "left"), [("fuse", 70.0, 0.90), ("thermal", 75.0, 0.78)])
def test_beyond_the_data_an_element_opens_at_the_temperature_it_always_opens_at(release, end, left):
    """An element that loses heat in proportion to its rise, followed in time: what current just brings it to that temperature?"""
    assert data_end_c(release) == end

    def hottest(share, air):
        element = air
        for _ in range(4000):
            # A time constant of 100 steps; at the rating in 25 °C the rise is what the last point says.
            element += (share**2 * (end - 25.0) / (1.0 - left**2) - (element - air)) / 100.0
        return element

    opens = hottest(left, end)
    for air in (end + 5.0, 90.0, 110.0):
        low, high = 0.0, 1.0
        for _ in range(40):
            mid = (low + high) / 2
            low, high = (mid, high) if hottest(mid, air) < opens else (low, mid)
        assert float(ambient_factor(release, air)) == pytest.approx(low, rel=1e-6)
    factors = ambient_factor(release, np.linspace(20.0, 400.0, 300))
    assert (np.diff(factors) <= 1e-12).all()
    assert factors.min() > 0.0


def test_an_interrupt_rating_counts_at_its_tested_voltage_and_below():
    cube = library().device_families["terminal-cube-fuse"]
    assert cube.interrupt_a(14.0) == 10000.0
    assert cube.interrupt_a(14.1) == cube.interrupt_a(23.0) == 5000.0
    assert cube.interrupt_a(12.0) == 10000.0
    assert cube.interrupt_a(58.0) == 2000.0
    assert cube.interrupt_a(60.0) is None


@pytest.mark.parametrize("now", [1.3, 2.0, 5.0, 20.0])
@pytest.mark.parametrize("before", [0.0, 0.4, 0.8, 1.0])
def test_a_warm_device_opens_as_a_body_of_one_time_constant_does(now, before):
    # Followed step by step: its warmth runs after the square of the current, and opens it at that of the most it holds.
    holds, tau = 1.1, 40.0

    def seconds(start):
        opens = lambda t, x: x[0] - holds**2  # noqa: E731
        opens.terminal = True
        run = solve_ivp(lambda t, x: (now**2 - x) / tau, (0.0, 1e4), [start], events=opens, rtol=1e-9, atol=1e-12)
        return float(run.t_events[0][0])

    assert float(warm_share(now, before, holds)) == pytest.approx(seconds(before**2) / seconds(0.0), rel=1e-5)


def test_a_current_that_never_opens_it_is_left_alone():
    assert float(warm_share(1.0, 0.9, 1.1)) == 1.0
    assert float(warm_share(2.0, 5.0, 1.1)) == pytest.approx(0.0, abs=1e-12)
