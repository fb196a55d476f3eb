"""Plans that join the same share what follows from it: the same as when it is worked out for each."""

import random

import pytest

from jaunty_copper.plan.banks import _banks, banks_of
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Battery, Breaker, Contactor, Converter, Disconnect, Fuse
from jaunty_copper.plan.topology import _joined, topology
from tests.networks import network

SAID = ("refs", "node", "branches", "branch", "segments", "rail", "own_rail", "drawn_open")


def with_(plan, field, index, **changes):
    """A plan with one thing changed, all else the very same."""
    held = list(getattr(plan, field))
    held[index] = held[index].model_copy(update=changes)
    return plan.model_copy(update={field: tuple(held)})


def altered(plan, rng):
    """Another plan by a change of any kind, whether it makes sense or not."""
    k = rng.randrange(len(plan.runs))
    other = rng.choice(plan.runs)
    item = rng.randrange(len(plan.items))
    thing = plan.items[item]
    match rng.randrange(9):
        case 0 | 1:
            return with_(plan, "runs", k, length_m=rng.uniform(0.1, 9.0), conductor=other.conductor)
        case 2:
            return with_(plan, "runs", k, b=other.a)
        case 3:
            return plan.model_copy(update={"runs": plan.runs[:k] + plan.runs[k + 1 :]})
        case 4 if isinstance(thing, Fuse | Breaker):
            return with_(plan, "items", item, rating_a=rng.uniform(5.0, 200.0))
        case 5 if isinstance(thing, Breaker | Disconnect | Contactor):
            return with_(plan, "items", item, closed=not thing.closed)
        case 6 if isinstance(thing, Battery):
            return with_(plan, "items", item, nominal_v=rng.choice([12.0, 24.0]))
        case 7 if plan.equipment:
            e = rng.randrange(len(plan.equipment))
            if isinstance(plan.equipment[e], Converter):
                return with_(plan, "equipment", e, isolated=not plan.equipment[e].isolated)
            return with_(plan, "equipment", e, name="another")
        case _:
            return plan.model_copy(update={"runs": (*plan.runs[k:], *plan.runs[:k])})


@pytest.mark.parametrize("seed", range(12))
def test_what_is_shared_is_what_is_worked_out_anew(seed):
    rng = random.Random(seed)
    first = network(seed) if seed % 4 else example(rng.choice(names()))
    plan, seen, shared = first, [], 0
    for _ in range(25):
        plan = altered(plan if rng.random() < 0.7 else first, rng)
        known = topology(plan)
        anew = _joined(plan, tuple((r.id, r.a, r.b) for r in plan.runs))
        for name in SAID:
            assert getattr(known, name) == getattr(anew, name), name
        opened = frozenset(
            x.id for x in plan.items if isinstance(x, Breaker | Disconnect | Contactor) and rng.random() < 0.5
        )
        assert known.rails_apart(opened) == anew.rails_apart(opened)
        assert banks_of(known) == _banks.__wrapped__(anew)
        shared += any(known.joints is joints for joints in seen)
        seen.append(known.joints)
    # Else every plan would have been numbered anew.
    assert shared


def test_only_what_joins_nothing_shares():
    plan = network(3)
    joints = topology(plan).joints
    run = plan.runs[0]
    assert topology(with_(plan, "runs", 0, length_m=run.length_m + 1.0, conductor="mm2-70")).joints is joints
    assert topology(with_(plan, "runs", 0, a=plan.runs[1].b)).joints is not joints
    fuse = next(k for k, x in enumerate(plan.items) if isinstance(x, Fuse))
    assert topology(with_(plan, "items", fuse, rating_a=7.0)).joints is joints
    battery = next(k for k, x in enumerate(plan.items) if isinstance(x, Battery))
    assert topology(with_(plan, "items", battery, nominal_v=6.0)).joints is not joints
    assert topology(plan).joints is joints
