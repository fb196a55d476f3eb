from math import inf

import numpy as np
import pytest

from jaunty_copper.network.study import study
from jaunty_copper.parts.catalogue import library
from jaunty_copper.physics.curves import Band
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.protection.devices import band_for
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.selectivity import selective_up_to
from tests.build import fused


def line(seconds_at_ten, slope, width=2.0):
    """A band that is a straight line in log and log from 1 to 100 times the rating."""
    m = np.array([1.0, 100.0])
    t = seconds_at_ten * (m / 10.0) ** slope
    return Band(m, t / width, m, t * width, True)


def pairs(plan):
    return {(p.upstream, p.downstream): p for p in Protection(study(plan)).pairs}


def test_two_fuses_of_constant_i2t_are_selective_by_the_ratio_of_their_ratings():
    band, current = line(0.1, -2.0), np.geomspace(10.0, 5000.0, 2000)
    # Longest of the small is 4 times its shortest: the ratings must differ by more than 2.
    assert selective_up_to(band, 210.0, band, 100.0, current) == inf
    assert selective_up_to(band, 190.0, band, 100.0, current) < 200.0


def test_curves_that_cross_are_selective_up_to_there():
    # At 10 x 50 A the lower one takes 0.2 s at most, the upper one falls with the fourth power.
    up, down = line(0.1, -4.0, 1.0), line(0.1, -1.0, 1.0)
    current = np.geomspace(100.0, 5000.0, 20000)
    # 0.1 (I/500)^-1 = 0.1 (I/1000)^-4: I = (1000^4 / 500)^(1/3).
    assert selective_up_to(up, 100.0, down, 50.0, current) == pytest.approx((1000.0**4 / 500.0) ** (1 / 3), rel=1e-3)


def test_where_the_upstream_device_never_opens_there_is_nothing_to_fear():
    current = np.geomspace(10.0, 90.0, 50)
    assert selective_up_to(line(0.1, -2.0), 100.0, line(0.1, -2.0), 80.0, current) == inf


def test_a_small_fuse_behind_a_large_one_is_total_and_equal_ones_are_not():
    plan = fused()
    p = pairs(plan)["F0", "F1"]
    assert (p.verdict, p.up_to_a) == ("total", inf)
    assert p.least_a < p.most_a
    same = edits.change(edits.change(plan, "F1", family="class-t-fuse"), "F1", rating_a=60.0)
    assert pairs(same)["F0", "F1"].verdict == "none"
    assert ("F1", "F0") not in pairs(plan)


def test_the_demo_has_pairs_of_every_kind_but_no_pair_side_by_side():
    found = pairs(example("orchard_station"))
    verdicts = {k: p.verdict for k, p in found.items()}
    assert verdicts["F1", "F2"] == "none"
    assert verdicts["F1", "F6"] == "total"
    assert ("F2", "F3") not in found
    assert ("F3", "F2") not in found


def test_one_rating_more_or_less_moves_only_its_own_pairs():
    plan = example("orchard_station")
    before, after = pairs(plan), pairs(edits.change(plan, "F2", rating_a=100.0))
    assert after["F1", "F2"].up_to_a > before["F1", "F2"].up_to_a
    others = [k for k in before if "F2" not in k]
    assert all(after[k].verdict == before[k].verdict for k in others)


def test_a_familys_band_is_found_by_its_curve():
    parts = library()
    plan = edits.change(fused(), "F1", family="strip-fuse-sf51-70v", rating_a=60.0)
    same = edits.change(fused(), "F1", family="strip-fuse-sf51", rating_a=60.0)
    one, two = (band_for(parts, p.by_id["F1"].family) for p in (plan, same))
    assert float(one.longest(2.0)) == float(two.longest(2.0)) == 15.0
