"""What is hidden in the copper, and that the readings find it."""

import numpy as np
import pytest

from jaunty_copper.commissioning.diagnose import diagnose
from jaunty_copper.commissioning.model import NothingToMeasure, bench
from jaunty_copper.commissioning.points import Point, bank_alone, everything_on
from jaunty_copper.commissioning.turned import righted
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Plan
from jaunty_copper.simulator.hidden import AsBuilt, Deviation, deviations
from jaunty_copper.simulator.training import NothingToHide, hide
from tests.build import covers
from tests.trials import hold, trials

DEMO = example("orchard_station")
KINDS = ("loose lug", "thin cable", "weak unit", "wrong tap", "hot device")
SCENARIOS = (everything_on(DEMO), bank_alone(DEMO))
BENCHES = {s.id: bench(DEMO, s) for s in SCENARIOS}


def read(built, b, rng):
    ideal = np.array([built.value(b.scenario, p) for p in b.points])
    return ideal + rng.normal(size=ideal.size) * b.meter


def test_sound_copper_reads_within_what_is_expected():
    b = BENCHES["measuring"]
    values = np.array([AsBuilt(DEMO, None, seed=1).value(b.scenario, p) for p in b.points])
    off = (values - b.values) / np.sqrt(np.diag(b.covariance))
    assert 0.2 < off.std() < 2.0
    assert np.abs(off).max() < 5.0


def test_the_same_copper_is_there_every_day_and_in_every_scenario():
    point = Point("volts", "F2.b", "INV.plus")
    first, again = AsBuilt(DEMO, None, seed=5), AsBuilt(DEMO, None, seed=5)
    assert first.value(SCENARIOS[0], point) == again.value(SCENARIOS[0], point)
    ohm = [first.value(s, point) / first.value(s, Point("amps", "W21", "")) for s in SCENARIOS]
    assert ohm[0] == pytest.approx(ohm[1], rel=0.02)
    assert AsBuilt(DEMO, None, seed=6).value(SCENARIOS[0], point) != first.value(SCENARIOS[0], point)


def test_a_loose_lug_shows_at_its_own_joint_and_warms_it():
    d = Deviation("loose lug", "W21", "b", 0.01)
    loose, sound = AsBuilt(DEMO, d, seed=2), AsBuilt(DEMO, None, seed=2)
    amps = loose.value(SCENARIOS[0], Point("amps", "W21", ""))
    joint = [x.value(SCENARIOS[0], Point("joint", "W21", "b")) for x in (loose, sound)]
    assert joint[0] - joint[1] == pytest.approx(0.01 * amps, rel=0.05)
    other = [x.value(SCENARIOS[0], Point("joint", "W21", "a")) for x in (loose, sound)]
    assert other[0] == pytest.approx(other[1], rel=0.2)
    warm = [x.value(SCENARIOS[0], Point("celsius", "W21", "")) for x in (loose, sound)]
    assert warm[0] > warm[1] + 100.0


@pytest.mark.chance
@pytest.mark.parametrize("kind", KINDS)
def test_each_kind_is_named_first_in_at_least_95_of_100(kind):
    """Every deviation of the kind that shows, in the scenario where it shows, in turn until there are 100 trials."""
    rng = np.random.default_rng(KINDS.index(kind))
    found = [(s, d) for s in SCENARIOS for d in deviations(DEMO, s, rng) if d.kind == kind]
    assert found
    wanted = trials(100)
    named = tried = k = 0
    while tried < wanted:
        # All of them in turn where there are few; spread over all where there are many.
        (scenario, d), k = found[k * max(len(found) // wanted, 1) % len(found)], k + 1
        b = BENCHES[scenario.id]
        try:
            values = read(AsBuilt(DEMO, d, seed=k), b, rng)
        except NothingToMeasure:
            # Then the inverter has stopped, and there is nothing to measure under this load.
            continue
        tried += 1
        said = diagnose(b, values)
        if said.alarm:
            first = said.suspects[0]
            named += (first.kind, first.to) == ("tap", d.to) if d.kind == "wrong tap" else covers(first, d.owner)
        # Whatever is hidden: no reading passes for one with its leads swapped.
        assert righted(b, values)[1] == ()
    assert k < 1.2 * wanted + 3
    hold(f"{kind}: hidden in copper as built, it is named first", named, tried, at_least=0.95)


@pytest.mark.parametrize("deviation", [None, Deviation("loose lug", "W21", "b", 0.01)], ids=["sound", "loose lug"])
def test_leads_swapped_and_a_clamp_turned_are_seen_and_change_nothing(deviation):
    """Each reading that says its direction, turned round by itself, and some of them together."""
    b, rng = BENCHES[SCENARIOS[0].id], np.random.default_rng(4)
    values = read(AsBuilt(DEMO, deviation, seed=3), b, rng)
    right, none = righted(b, values)
    assert none == ()
    assert (right == values).all()
    inside = {(r.a, r.b) for r in DEMO.runs for bank in b.wiring.banks if r.id in bank.inside}
    outside = np.array([(p.a, p.b) not in inside for p in b.points])
    sure = np.flatnonzero(outside & (np.abs(b.values) > 5.0 * np.sqrt(np.diag(b.covariance))))
    assert sure.size > 20
    own = next(k for k, p in enumerate(b.points) if (p.a, p.b) == ("F2.b", "INV.plus"))
    for some in (*([k] for k in sure), rng.choice(sure, 5, replace=False)):
        wrong = values.copy()
        wrong[some] *= -1.0
        right, turned = righted(b, wrong)
        # Near a loose lug a voltage may be neither as planned nor a conductor's drop: it is left as it is.
        if deviation is None or own in some:
            assert set(turned) == {b.points[k] for k in some}
            assert right == pytest.approx(values)
    assert righted(b, -values)[1] == ()


@pytest.mark.chance
@pytest.mark.parametrize("scenario", SCENARIOS, ids=lambda s: s.id)
def test_no_alarm_without_a_deviation_in_at_least_95_of_100(scenario):
    b, rng = BENCHES[scenario.id], np.random.default_rng(9)
    n = trials(100)
    alarms = sum(diagnose(b, read(AsBuilt(DEMO, None, seed=k), b, rng)).alarm for k in range(n))
    hold(f"copper as built without a deviation raises an alarm, {scenario.id}", alarms, n, at_most=0.05)


def test_all_kinds_are_hidden_and_told_in_words():
    hidden = [hide(DEMO, seed) for seed in range(25)]
    assert {d.kind for d in hidden} == set(KINDS)
    assert hide(DEMO, 4) == hide(DEMO, 4)
    for d in hidden:
        assert len(d.words(DEMO)) > 20
    tap = next(d for d in hidden if d.kind == "wrong tap")
    assert f"landed on {tap.to} in place of B1." in tap.words(DEMO)


def test_a_plan_in_which_nothing_shows_says_so():
    with pytest.raises(NothingToHide):
        hide(Plan(), 1)
