"""Variants judged whole: each is the plan that it stands for, and rules fail as often as a distribution says."""

from dataclasses import replace
from math import erf, sqrt

import numpy as np
import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.commissioning import judged as module
from jaunty_copper.commissioning.judged import judged, variant
from jaunty_copper.commissioning.spreads import Spreads, drawn
from jaunty_copper.commissioning.varying import chances, varied_states
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Battery, CurrentLoad, Fuse, Plan, Run, Scenario
from tests.build import battery
from tests.networks import network

RULE = "device_too_small"
NONE = Spreads(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
SAME = replace(Spreads(), emf=0.0, device=0.0, body=0.0)
"""What both ways can say: the charge and what devices hold are no fields of a plan, nor are a chassis' own ways."""


def by_place(found):
    return {(c.rule, c.place): c for c in found.found}


@pytest.mark.parametrize(
    "plan",
    [
        example("orchard_station"),
        edits.change(example("seed_shed"), "W1", joint_a_ohm=0.002),
        *(network(s) for s in range(6)),
    ],
    ids=lambda p: p.name,
)
def test_a_variant_as_a_plan_has_the_volts_of_the_variant_solved_with_all_others(plan, monkeypatch):
    """Two ways to one system: the network varied in place, and the plan drawn anew."""
    case = Assessment(plan).case
    names, z = drawn(case, 20, 3)
    monkeypatch.setattr("jaunty_copper.commissioning.varying.Spreads", lambda: SAME)
    together = {s.scenario.id: (s, v) for s, v in varied_states(case, 20, 3)}
    compared = 0
    for k in range(3):
        alone = Assessment(variant(case, names, z[k], SAME)).study
        for state in alone.states:
            if state.scenario.id not in together or not state.solved:
                continue
            planned, varied = together[state.scenario.id]
            if not varied.settled[k] or planned.momentary:
                continue
            most = np.nanmax(np.abs(planned.point.volts))
            # All together take warmth as going with the square of the current: off where copper is far too hot.
            np.testing.assert_allclose(varied.volts[k], state.point.volts, atol=3e-3 * most)
            compared += 1
    assert compared or not any(s.solved and not s.momentary for s in case.study.states)


def test_what_is_not_known_is_drawn_for_every_field_that_says_it():
    plan = example("orchard_station")
    case = Assessment(plan).case
    names, z = drawn(case, 1, 0)
    other = variant(case, names, z[0], Spreads())
    assert all(x != y for x, y in zip(plan.runs, other.runs, strict=True))
    assert all(x != y for x, y in zip(plan.zones, other.zones, strict=False))
    units = [(x, y) for x, y in zip(plan.items, other.items, strict=True) if isinstance(x, Battery)]
    assert all(x.internal_ohm != y.internal_ohm for x, y in units)
    assert [e.id for e in other.equipment] == [e.id for e in plan.equipment]
    asked = [[getattr(e, field, None) for field in module.ASKED] for e in (*plan.equipment, *other.equipment)]
    changed = [a != b for a, b in zip(asked[: len(plan.equipment)], asked[len(plan.equipment) :], strict=True)]
    assert changed == [e in case.wiring.loads for e in plan.equipment]


def fused(amps):
    return Plan(
        items=(battery(), Fuse(id="F", family="class-t-fuse", rating_a=25.0)),
        equipment=(CurrentLoad(id="E", nominal_v=12.0, current_a=amps, hours_per_day=8.0),),
        runs=(
            Run(id="in", a="B.plus", b="F.a", length_m=0.2, conductor="mm2-10"), Run(id="out", a="F.b", b="E.plus", length_m=2.0, conductor="mm2-10"),
            Run(id="back", a="E.minus", b="B.minus", length_m=2.0, conductor="mm2-10"),
        ),
        scenarios=(Scenario(id="s"),),
    )  # fmt: skip


@pytest.mark.parametrize("share", [0.94, 1.0, 1.05])
def test_a_device_is_too_small_as_often_as_a_normal_distribution_says(share, monkeypatch):
    """A load known to 5 % behind a fuse that just carries so much for hours."""
    monkeypatch.setattr(module, "JUDGED_WORK", 10**6)
    (check,) = [c for c in Assessment(fused(20.0)).checks if (c.rule.id, c.place) == (RULE, "F")]
    edge = 20.0 * check.limit / check.figure
    case = Assessment(fused(share * edge)).case
    spreads = replace(NONE, load=0.05)
    found = judged(case, chances(case, 150, spreads=spreads), spreads=spreads, most=150)
    assert found.judged == 150
    told = by_place(found)[RULE, "F"]
    below = 0.5 * (1.0 + erf((1.0 / share - 1.0) / 0.05 / sqrt(2.0)))
    assert told.chance == pytest.approx(1.0 - below, abs=3.0 * sqrt(below * (1.0 - below) / 150.0))
    assert told.matters[0][:2] == ("load", "E")
    assert told.low < told.middle < told.high


def test_without_any_spread_nothing_is_in_doubt():
    case = Assessment(example("seed_shed")).case
    before = chances(case, 100, spreads=NONE)
    after = judged(case, before, spreads=NONE, most=10)
    assert (after.judged, after.found) == (10, before.found)


def test_the_demo_s_doubts_are_those_of_its_variants_counted_one_by_one():
    case = Assessment(example("orchard_station")).case
    told = []
    before = chances(case, 200, 5)
    found = judged(case, before, 5, most=12, progress=lambda done, of: told.append((done, of)))
    assert told == [(k, 12) for k in range(12)]
    names, z = drawn(case, 200, 5)
    failing = [
        {(c.rule.id, c.place) for c in Assessment(variant(case, names, z[k], Spreads())).checks if c.verdict is not Verdict.HOLDS}
        for k in range(12)
    ]  # fmt: skip
    more = {key: c for key, c in by_place(found).items() if key not in by_place(before)}
    figured = {rule for rule, _ in by_place(before)}
    doubtful = {key for key in set().union(*failing) if key[0] not in figured and not all(key in f for f in failing)}
    assert set(more) == doubtful
    for key, c in more.items():
        assert c.chance == pytest.approx(sum(key in f for f in failing) / 12.0)
    # Overtaken, nothing is added; too few to count, neither.
    assert judged(case, before, 5, overtaken=lambda: True) is before
    assert judged(case, before, 5, most=5) is before
