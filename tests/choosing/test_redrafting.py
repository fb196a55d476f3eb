"""A bar drafted anew: no worse by the rules, nothing lost of what hangs on it, the largest current nearest to the feed."""

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import QUESTIONS
from jaunty_copper.choosing.redrafting import circuits_of, redrafted
from jaunty_copper.choosing.sizing import rated_current
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps, parse
from jaunty_copper.plan.model import Bar, Breaker, Disconnect, Fuse, split_ref
from jaunty_copper.plan.supply import supply_of
from tests.networks import network
from tests.trials import WHOLE

DEMO = example("orchard_station")


def wrong(plan):
    found = [f for f in Assessment(plan).findings if f.rule.id not in QUESTIONS]
    return tuple(sum(f.verdict == v for f in found) for v in (Verdict.DANGER, Verdict.DEFECT, Verdict.ADVICE))


def ways(plan, id_):
    """How long the conductors of a circuit are on each side, and what stands in it but fuses."""
    runs, items, hubs = edits.circuit_of(plan, id_)
    e = plan.by_id[id_]
    plus = {r.id for r in _side(plan, e.port[0])}
    return (
        round(sum(r.length_m for r in runs if r.id in plus), 6), round(sum(r.length_m for r in runs if r.id not in plus), 6),
        {x.id for x in items if not isinstance(x, Fuse)}, {split_ref(ref)[0] for ref in hubs.values()},
    )  # fmt: skip


def _side(plan, start):
    """Conductors one after the other from a terminal of equipment to its hub."""
    found, at = [], start
    while True:
        here = [r for r in plan.runs_at.get(at, ()) if r not in found]
        if len(here) != 1:
            return found
        found.append(here[0])
        owner, end = split_ref(here[0].b if here[0].a == at else here[0].a)
        if isinstance(plan.by_id[owner], Bar):
            return found
        at = f"{owner}.{'b' if end == 'a' else 'a'}"


@pytest.mark.chance("networks whose every bar, drafted anew, is no worse, with all that hung on it")
@pytest.mark.parametrize("seed", range(60) if WHOLE else range(6))
def test_any_bar_drafted_anew_is_no_worse_and_loses_nothing(seed):
    plan = network(seed)
    for bar in (x for x in plan.items if isinstance(x, Bar)):
        circuits = circuits_of(plan, bar)
        if not circuits:
            with pytest.raises(EditError):
                redrafted(plan, bar.id)
            continue
        found = redrafted(plan, bar.id)
        after = parse(dumps(found.plan))
        assert wrong(after) <= wrong(plan)
        assert set(found.circuits) == set(circuits)
        if found.plan == plan:
            continue
        for id_ in circuits:
            (*lengths, kept, hubs), (*before, had, ends) = ways(after, id_), ways(plan, id_)
            assert (lengths, hubs) == (before, ends), id_
            # The device that is put may be a breaker where that is the cheapest that fits.
            assert had <= kept
            assert all(isinstance(after.by_id[x], Breaker) for x in kept - had)
        own = {x.id for id_ in circuits for part in edits.circuit_of(after, id_)[:2] for x in part}
        same = [x for x in (*plan.items, *plan.equipment, *plan.runs) if x.id not in own]
        there = {x.id: x for x in (*after.items, *after.equipment, *after.runs)}
        assert [x.id for x in same if there.get(x.id) != x and not isinstance(x, Fuse)] == []


def test_the_demo_s_bar_gets_its_devices_and_its_order():
    found = redrafted(DEMO, "P24")
    bar = found.plan.by_id["P24"]
    assert found.after < found.before
    amps = [rated_current(found.plan.by_id[id_]) for id_ in found.circuits]
    assert amps == sorted(amps, reverse=True)
    assert supply_of(found.plan, bar).device_at == "plus"
    for id_, ref in circuits_of(found.plan, bar).items():
        (run,) = found.plan.runs_at[ref]
        owner, _ = split_ref(run.b if run.a == ref else run.a)
        assert isinstance(found.plan.by_id[owner], Fuse | Breaker), id_
    # A switch of a circuit stays in it.
    kept = edits.insert_inline(DEMO, "W71", Disconnect(id="QF", rating_a=50.0))
    assert "QF" in ways(redrafted(kept, "P24").plan, "FAN")[2]


def test_what_is_no_bar_is_refused():
    with pytest.raises(EditError, match="no bar"):
        redrafted(DEMO, "INV")
