"""Two faults at once, the next reading, estimates, and what changed between two days."""

import numpy as np
import pytest
from scipy.stats import chi2

from jaunty_copper.commissioning.choice import fewest, groups
from jaunty_copper.commissioning.diagnose import diagnose
from jaunty_copper.commissioning.estimates import changed, estimates
from jaunty_copper.commissioning.model import bench
from jaunty_copper.commissioning.next_reading import next_reading
from jaunty_copper.commissioning.points import Point, Unknown, bank_alone, everything_on, joints_of
from jaunty_copper.commissioning.weighing import Suspect
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Post
from tests.build import covers, loop
from tests.trials import hold, trials

DEMO = example("orchard_station")


@pytest.fixture(scope="module")
def demo():
    return bench(DEMO, everything_on(DEMO))


def built(b, rng, **more):
    off = rng.normal(size=b.parameters) * b.spread
    for owner, ohm in more.items():
        off[next(k for k, p in enumerate(b.places) if p.owner == owner)] += ohm
    return off


def measured(b, rng, off):
    return b.read(b.solve(off), off) + rng.normal(size=len(b.points)) * b.meter


@pytest.mark.parametrize("more", [0.0, 0.00003, 0.002])
def test_how_often_chance_gives_as_much_is_the_tail_of_the_chi_square_distribution(demo, more):
    rng = np.random.default_rng(11)
    d = diagnose(demo, measured(demo, rng, built(demo, rng, W21=more)))
    spent = len(d.blamed) if d.alarm else 0
    assert d.alarm == (more > 0.001)
    assert d.p == pytest.approx(chi2.sf(d.chi_square, d.readings), rel=1e-9)
    assert d.left_p == pytest.approx(chi2.sf(d.left, d.readings - spent), rel=1e-9)
    assert d.p < 1e-6 < d.left_p if d.alarm else d.p == d.left_p


@pytest.mark.chance
@pytest.mark.parametrize("name", ["seed_shed", "relay_mast"])
def test_what_a_bad_joint_has_is_told_with_the_spread_it_has(name):
    """Joints of 4 to 250 mΩ in conductors drawn by chance: what is told over what it says to be off by is a normal deviate."""
    plan, rng, off_by, share = example(name), np.random.default_rng(5), [], []
    b = bench(plan, everything_on(plan))
    able = [
        k
        for k, p in enumerate(b.places)
        if b.wiring.branches[p.branch].kind == "run" and abs(b.base.current_a[p.branch]) > 3.0
    ]
    for _ in range(trials(80, least=25)):
        k = int(rng.choice(able))
        off = built(b, rng, **{b.places[k].owner: float(np.exp(rng.uniform(np.log(0.004), np.log(0.25))))})
        if b.solve(off).solved and (blamed := diagnose(b, measured(b, rng, off)).blamed):
            off_by.append((blamed[0].more_ohm - off[k]) / blamed[0].sigma_ohm)
            share.append(blamed[0].more_ohm / off[k] - 1.0)
    assert len(off_by) >= 20
    assert 0.6 < float(np.std(off_by)) < 1.5
    assert np.mean(np.abs(off_by) < 2.0) >= 0.85
    assert np.median(np.abs(share)) < 0.03


@pytest.mark.chance
def test_two_bad_joints_are_named_together_in_at_least_95_of_100(demo):
    rng = np.random.default_rng(12)
    able = [
        p.owner
        for p in demo.places
        if demo.wiring.branches[p.branch].kind == "run" and abs(demo.base.current_a[p.branch]) > 3.0
    ]
    n, named = trials(60), 0
    for _ in range(n):
        pair = [str(x) for x in rng.choice(able, 2, replace=False)]
        two = diagnose(demo, measured(demo, rng, built(demo, rng, **dict.fromkeys(pair, 0.02)))).two
        if two is not None:
            a, b = (s for s in (two.first, two.second))
            named += (covers(a, pair[0]) and covers(b, pair[1])) or (covers(a, pair[1]) and covers(b, pair[0]))
    hold("two conductors with 20 mΩ more are named together", named, n, at_least=0.95)


@pytest.mark.chance
def test_one_bad_joint_is_seldom_told_as_two(demo):
    rng = np.random.default_rng(13)
    found = [
        diagnose(demo, measured(demo, rng, built(demo, rng, **{x: 0.02})))
        for x in ("W2", "W62", "L2p", "F3") * trials(15, least=3)
    ]
    hold("one bad joint is reported as two", sum(d.two is not None for d in found), len(found), at_most=0.1)
    hold("one bad joint raises an alarm", sum(d.alarm for d in found), len(found), at_least=1.0)


def test_what_is_left_after_the_explanation_is_chance(demo):
    off = built(demo, np.random.default_rng(1), W21=0.01)
    d = diagnose(demo, measured(demo, np.random.default_rng(2), off))
    assert d.p < 1e-6
    assert d.left < d.chi_square
    assert d.left_p > 0.01
    assert d.readings == len(demo.points)
    assert [s.owner for s in d.blamed] == ["W21"]


def test_the_next_reading_parts_what_the_readings_cannot():
    plan = loop()
    cut = edits.change(edits.add(plan, Post(id="P")), "out", b="P.stud")
    cut = edits.add(cut, plan.run_by_id["out"].model_copy(update={"id": "x", "a": "P.stud"}))
    b = bench(cut, cut.scenarios[0], (Point("volts", "B.plus", "E.plus"), Point("volts", "E.plus", "E.minus")))
    off = np.zeros(b.parameters)
    off[b.at[Unknown(b.wiring.branch["x"], "x")]] = 0.02
    values = b.read(b.solve(off), off)
    first = diagnose(b, values)
    assert next_reading(b, values, first) is None
    more = b.with_points([Point("volts", "B.plus", "P.stud"), Point("volts", "P.stud", "E.plus")])
    so_far = np.concatenate([values, [np.nan, np.nan]])
    proposed = next_reading(more, so_far, diagnose(more, so_far))
    assert proposed is not None
    assert proposed.point in more.points[2:]
    assert set(proposed.between) == {"out", "x"}
    truth = more.read(more.solve(off), off)
    k = more.points.index(proposed.point)
    assert min(abs(proposed.one - truth[k]), abs(proposed.other - truth[k])) < 0.1 * abs(proposed.one - proposed.other)
    so_far[k] = truth[k]
    again = diagnose(more, so_far)
    assert again.suspects[0].owner == "x"
    assert again.suspects[0].with_it == ()
    assert next_reading(more, so_far, again) is None


def test_a_joint_measured_by_itself_parts_the_lug_from_the_copper(demo):
    plain = DEMO.run_by_id["W21"]
    more = demo.with_points(joints_of(plain))
    off = np.zeros(more.parameters)
    off[more.at[Unknown(more.wiring.branch["W21"], "W21", "b")]] = 0.01
    values = more.read(more.solve(off), off)
    without = values.copy()
    without[-2:] = np.nan
    blurred = diagnose(more, without).suspects[0]
    assert {blurred.part, *(n.partition(":")[2] for n in blurred.with_it)} == {"a", "copper", "b"}
    proposed = next_reading(more, without, diagnose(more, without))
    assert proposed is not None
    assert proposed.point.quantity == "joint"
    sharp = diagnose(more, values).suspects[0]
    assert (sharp.name, sharp.with_it) == ("W21:b", ())
    assert sharp.more_ohm == pytest.approx(0.01, rel=0.02)


def test_groups_that_the_fewest_readings_cannot_part_come_with_the_one_that_does(demo):
    chosen, _ = fewest(demo)
    found = groups(demo, chosen)
    assert found
    for g in found:
        assert len(g.names) > 1
        if g.parted_by is not None:
            k = demo.points.index(g.parted_by.point)
            assert k not in chosen
            apart = groups(demo, [*chosen, k])
            assert not any(set(g.names[:2]) <= set(x.names) for x in apart)
    assert any(g.parted_by is not None for g in found)
    assert groups(demo, []) == ()


# Estimates


@pytest.mark.chance
def test_intervals_hold_what_they_claim(demo):
    """Of all places of many sound systems, about 95 of 100 lie within two standard deviations."""
    rng, inside, n = np.random.default_rng(3), [], len(demo.places)
    for _ in range(trials(60)):
        off = built(demo, rng)
        found = estimates(demo, measured(demo, rng, off))
        more = np.array([e.ohm - e.planned_ohm for e in found])
        sigma = np.array([e.sigma_ohm for e in found])
        inside.append(np.abs(more - off[:n]) <= 2.0 * sigma)
    within, of = int(np.sum(inside)), int(np.size(inside))
    hold("a resistance lies within its interval of two standard deviations", within, of, at_least=0.93)
    assert within < 0.985 * of


def test_a_suspect_is_estimated_freely_and_the_rest_stays_near_the_plan(demo):
    off = np.zeros(demo.parameters)
    k = demo.at[Unknown(demo.wiring.branch["W62"], "W62")]
    off[k] = 0.002
    values = demo.read(demo.solve(off), off)
    bound = estimates(demo, values)[k]
    free = estimates(demo, values, diagnose(demo, values).suspects[:1])[k]
    assert free.ohm - free.planned_ohm == pytest.approx(0.002, rel=0.1)
    assert bound.ohm - bound.planned_ohm < 0.002
    assert free.sigma_ohm > bound.sigma_ohm
    assert bound.planned_ohm == pytest.approx(float(demo.base.ohm[demo.wiring.branch["W62"]]))


def test_readings_narrow_the_interval(demo):
    none = estimates(demo, np.full(len(demo.points), np.nan))
    some = estimates(demo, demo.values)
    assert all(a.sigma_ohm <= b.sigma_ohm * (1.0 + 1e-9) for a, b in zip(some, none, strict=True))
    assert none[demo.at[Unknown(demo.wiring.branch["W21"], "W21")]].ohm == pytest.approx(
        none[demo.at[Unknown(demo.wiring.branch["W21"], "W21")]].planned_ohm
    )


# Before and after


def day(b, rng, copper):
    off = copper.copy()
    off[b.lasting :] = rng.normal(size=b.parameters - b.lasting) * b.spread[b.lasting :]
    return measured(b, rng, off)


def test_a_change_between_two_days_shows_far_below_what_a_plan_can_tell(demo):
    rng = np.random.default_rng(5)
    copper = built(demo, rng)
    worse = copper.copy()
    worse[demo.at[Unknown(demo.wiring.branch["W21"], "W21")]] += 0.0005
    before, after = day(demo, rng, copper), day(demo, rng, worse)
    found = changed(demo, before, after)
    assert found.alarm
    assert found.suspects[0].owner == "W21"
    assert found.suspects[0].more_ohm == pytest.approx(0.0005, abs=3.0 * found.suspects[0].sigma_ohm)
    mended = changed(demo, after, before)
    assert mended.suspects[0].more_ohm < 0.0


@pytest.mark.chance
def test_two_days_alike_raise_no_alarm_in_at_least_95_of_100(demo):
    rng = np.random.default_rng(6)
    copper = built(demo, rng)
    n = trials(100)
    alarms = sum(changed(demo, day(demo, rng, copper), day(demo, rng, copper)).alarm for _ in range(n))
    hold("two days alike raise an alarm", alarms, n, at_most=0.05)
    nothing = np.full(len(demo.points), np.nan)
    assert not changed(demo, nothing, demo.values).alarm


# The slopes, and the scenario made for a bank


def test_slopes_agree_with_differences_of_full_solutions(demo):
    b = demo.with_points([*joints_of(DEMO.run_by_id["W21"]), Point("amps", "INV", "")][:2])
    n = len(b.places)
    for k in (*range(0, n, 7), *range(n, b.parameters, 4)):
        step = 1e-5 if k < n else 1e-4
        off = np.zeros(b.parameters)
        off[k] = step
        moved = (b.read(b.solve(off), off) - b.values) / step
        if np.abs(moved).max() > 1e-6:
            np.testing.assert_allclose(b.slopes.all[:, k], moved, atol=2e-3 * np.abs(moved).max())


def test_a_bank_alone_carries_everything():
    b = bench(DEMO, bank_alone(DEMO))
    unit = [float(b.base.current_a[b.wiring.branch[u]]) for u in ("B1", "B2", "B3", "B4")]
    assert sum(unit) > 100.0
    assert min(unit) > 20.0


# What no resistance explains


def test_readings_of_another_scenario_are_told_as_unexplained_or_alarming(demo):
    """Somebody measured with the inverter off: currents are far from what was to run."""
    rng = np.random.default_rng(11)
    calm = everything_on(DEMO).model_copy(update={"states": {"INV": "off", "SUN": "off"}})
    other = bench(DEMO, calm, demo.points)
    d = diagnose(demo, other.values + rng.normal(size=len(demo.points)) * demo.meter)
    assert d.unexplained
    assert d.left_p < 1e-3


def test_a_slip_of_the_decimal_point_is_told(demo):
    values = demo.values.copy()
    k = demo.points.index(Point("volts", "B2.plus", "B2.minus"))
    values[k] /= 10.0
    assert diagnose(demo, values).unexplained


@pytest.mark.chance
def test_sound_systems_are_hardly_ever_unexplained(demo):
    rng = np.random.default_rng(12)
    n = trials(100)
    strange = sum(diagnose(demo, measured(demo, rng, built(demo, rng))).unexplained for _ in range(n))
    hold("a sound system is reported as unexplained", strange, n, at_most=0.05)


# Second methods


def test_a_small_excess_is_what_ordinary_least_squares_finds_in_whitened_readings(demo):
    """Readings divided by the root of their covariance have unit noise: one column at a time by numpy's lstsq."""
    rng = np.random.default_rng(8)
    k = demo.at[Unknown(demo.wiring.branch["W62"], "W62")]
    values = demo.values + 1e-4 * demo.slopes.all[:, k] + 0.1 * rng.normal(size=len(demo.points)) * demo.meter
    root = np.linalg.cholesky(np.linalg.inv(demo.covariance)).T
    r = root @ (values - demo.values)
    by_hand = {}
    for n, place in enumerate(demo.places):
        column = root @ demo.slopes.all[:, n : n + 1]
        (x,), (rest,), *_ = np.linalg.lstsq(column, r, rcond=None) if np.any(column) else ((0.0,), (r @ r,))
        by_hand[place.owner] = (float(x), float(r @ r - rest))
    found = diagnose(demo, values)
    assert found.chi_square == pytest.approx(float(r @ r))
    for s in found.suspects:
        x, explained = by_hand[s.owner]
        assert s.more_ohm == pytest.approx(x, rel=1e-6)
        assert s.score == pytest.approx(explained, rel=1e-6)


def test_estimates_are_those_of_the_information_form(demo):
    """The same posterior from (P⁻¹ + Sᵀ N⁻¹ S)⁻¹ Sᵀ N⁻¹ r, which shares no step with the gain form."""
    rng = np.random.default_rng(9)
    values = measured(demo, rng, built(demo, rng))
    n = demo.lasting
    slopes, inverse = demo.slopes.all[:, :n], np.linalg.inv(demo.passing())
    precision = np.diag(demo.spread[:n] ** -2.0) + slopes.T @ inverse @ slopes
    covariance = np.linalg.inv(precision)
    more = covariance @ slopes.T @ inverse @ (values - demo.values)
    for k, e in enumerate(estimates(demo, values)):
        assert e.ohm - e.planned_ohm == pytest.approx(more[k], rel=1e-4, abs=1e-9)
        assert e.sigma_ohm == pytest.approx(covariance[k, k] ** 0.5, rel=1e-4)


def test_what_the_next_reading_is_expected_to_be_is_the_conditional_mean_of_many_systems(demo):
    """Of many sound systems whose first reading is about the same, the mean of another is what is predicted from it."""
    i, j = (
        demo.points.index(Point("volts", "F2.b", "INV.plus")),
        demo.points.index(Point("volts", "INV.minus", "M24.s2")),
    )
    c = demo.covariance
    rng = np.random.default_rng(10)
    drawn = rng.multivariate_normal(demo.values[[i, j]], c[np.ix_([i, j], [i, j])], size=200_000)
    at = demo.values[i] + 1.0 * c[i, i] ** 0.5
    near = drawn[np.abs(drawn[:, 0] - at) < 0.05 * c[i, i] ** 0.5, 1]
    predicted = demo.values[j] + c[j, i] / c[i, i] * (at - demo.values[i])
    assert near.mean() == pytest.approx(predicted, abs=4.0 * near.std() / near.size**0.5)
    assert near.std() == pytest.approx((c[j, j] - c[j, i] ** 2 / c[i, i]) ** 0.5, rel=0.05)


@pytest.mark.parametrize(
    ("more", "sigma", "words"),
    [
        (0.006, 0.00008, "6.00 ± 0.16 mΩ"),
        (-0.0123, 0.0012, "12.3 ± 2.4 mΩ"),
        (0.2, 0.02, "200 ± 40 mΩ"),
        (0.01, np.inf, "10 ± inf mΩ"),
    ],
)
def test_how_much_more_is_told_to_the_digit_that_is_sure(more, sigma, words):
    assert Suspect("resistance", "W1", "", more, sigma, 1.0, (), 0.0).more == words
