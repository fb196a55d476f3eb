"""Slopes of large plans, which are never held at once: against those that are, and work on them given up."""

from dataclasses import replace

import numpy as np
import pytest

from jaunty_copper.commissioning import slopes, weighing
from jaunty_copper.commissioning.choice import fewest, groups
from jaunty_copper.commissioning.diagnose import diagnose
from jaunty_copper.commissioning.estimates import changed, estimates
from jaunty_copper.commissioning.model import bench
from jaunty_copper.commissioning.next_reading import next_reading
from jaunty_copper.commissioning.points import everything_on, joints_of
from jaunty_copper.physics.giving_up import GivenUp, giving_up, go_on
from jaunty_copper.plan.examples import example

DEMO = example("orchard_station")
SEVERAL = 800
"""Figures at once, so that the demo has several parts."""


def few_at_once(monkeypatch):
    monkeypatch.setattr(slopes, "AT_ONCE", SEVERAL)
    for module in (slopes, weighing):
        monkeypatch.setattr(module, "KEPT", 0)


def fresh():
    return bench(DEMO, everything_on(DEMO)).with_points(joints_of(DEMO.run_by_id["W21"]))


def loose(b, owner="W21", ohm=0.02):
    off = np.zeros(b.parameters)
    off[next(k for k, p in enumerate(b.places) if p.owner == owner and p.part in ("", "a"))] = ohm
    return b.read(b.solve(off), off)


def everything(b):
    """All that is worked out of readings, as plain figures and names."""
    readings, again = loose(b), loose(b, "W62", 0.1)
    some = np.where(np.arange(readings.size) % 2, readings, np.nan)
    found = [diagnose(b, readings), diagnose(b, some), diagnose(b, loose(b, "W61", 0.05) + again - b.values)]
    few, blind = fewest(b)
    return (
        found,
        [next_reading(b, r, d) for r, d in zip((readings, some), found, strict=False)],
        [(e.ohm, e.sigma_ohm) for e in estimates(b, some, found[1].blamed)],
        changed(b, b.values, again),
        few, blind, [(g.names, g.parted_by and (g.parted_by.point, g.parted_by.apart)) for g in groups(b, few)],
        b.sigma, b.covariance, b.passing(),
    )  # fmt: skip


def same(one, other):
    if isinstance(one, list | tuple):
        assert len(one) == len(other)
        for a, b in zip(one, other, strict=True):
            same(a, b)
    elif hasattr(one, "__dataclass_fields__"):
        same(list(vars(one).values()), list(vars(other).values()))
    elif isinstance(one, float | np.ndarray):
        np.testing.assert_allclose(other, one, rtol=1e-6, atol=1e-12)
    else:
        assert one == other


def test_a_part_at_a_time_says_what_all_at_once_does(monkeypatch):
    whole = everything(fresh())
    assert whole[0][0].alarm
    assert whole[0][0].blamed[0].owner == "W21"
    assert whole[0][2].two is not None
    few_at_once(monkeypatch)
    b = fresh()
    assert len(list(b.slopes.parts())) > 5
    same(whole, everything(b))
    assert "all" not in vars(b.slopes)
    np.testing.assert_allclose(b.slopes.all, fresh().slopes.all, rtol=1e-5, atol=1e-6)


def test_some_slopes_are_those_of_all(monkeypatch):
    monkeypatch.setattr(slopes, "ROWS", 7)
    b = fresh()
    which = np.array([3, b.parameters - 1, len(b.places), 3, 17, b.lasting])
    np.testing.assert_allclose(b.slopes.of(which), b.slopes.all[:, which], rtol=1e-5, atol=1e-6)
    dense = (b.slopes.all * b.spread**2) @ b.slopes.all.T + np.diag(b.noise)
    np.testing.assert_allclose(b.covariance, dense, rtol=1e-9, atol=1e-15)
    np.testing.assert_array_equal(b.covariance, b.covariance.T)
    np.testing.assert_allclose(b.sigma**2, np.diag(dense), rtol=1e-9)


def test_what_nobody_waits_for_is_given_up_and_leaves_nothing_behind(monkeypatch):
    few_at_once(monkeypatch)
    b, asked = fresh(), []
    readings = loose(b)

    def third_time():
        asked.append(1)
        return len(asked) >= 3

    with pytest.raises(GivenUp), giving_up(third_time):
        diagnose(b, readings)
    assert len(asked) == 3
    go_on()
    assert diagnose(b, readings).blamed[0].owner == "W21"
    assert diagnose(replace(b), readings).alarm
