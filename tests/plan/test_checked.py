"""What is wrong with a plan, found by what an edit changed, against all of it looked at."""

import random

import pytest

from jaunty_copper.plan import check
from jaunty_copper.plan.check import problems
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Bar, Contactor, Disconnect, Load
from tests.networks import network


def in_place(plan, field, index, thing):
    held = list(getattr(plan, field))
    held[index] = thing
    return plan.model_copy(update={field: tuple(held)})


def altered(plan, rng):
    """Another plan by a change that may make it wrong: a name of nothing, a part that is not there, a thing of another kind."""
    field = rng.choice(["runs", "items", "equipment"])
    held = getattr(plan, field)
    if not held:
        return plan
    k = rng.randrange(len(held))
    thing = held[k]
    match rng.randrange(7):
        case 0:
            return in_place(plan, field, k, thing.model_copy(update={"zone": rng.choice([None, "nowhere"])}))
        case 1 if field == "runs":
            size = rng.choice([thing.conductor, rng.choice(held).conductor, "mm2-of-none"])
            return in_place(
                plan, field, k, thing.model_copy(update={"conductor": size, "length_m": rng.uniform(0.1, 5.0)})
            )
        case 2:
            return plan.model_copy(update={field: held[:k] + held[k + 1 :]})
        case 3:
            return plan.model_copy(update={field: (*held, held[k])})
        case 4 if field == "items":
            other = rng.choice([Disconnect, Contactor]).model_construct(id=thing.id)
            return in_place(plan, field, k, other)
        case 5 if isinstance(thing, Load):
            return in_place(
                plan, field, k, thing.model_copy(update={"drives": rng.choice([None, *(x.id for x in plan.items)])})
            )
        case _:
            return in_place(plan, field, k, thing.model_copy(update={"id": thing.id}))


@pytest.mark.parametrize("seed", range(12))
def test_what_an_edit_leaves_alone_need_not_be_looked_at_again(seed, monkeypatch):
    rng = random.Random(seed)
    first = network(seed) if seed % 4 else example(rng.choice(names()))
    looked, right, wrong = [], 0, 0
    dangling = check._dangling
    monkeypatch.setattr(check, "_dangling", lambda place, *rest: looked.append(place) or dangling(place, *rest))
    plan = first
    for _ in range(60):
        plan = altered(plan if rng.random() < 0.6 else first, rng)
        looked.clear()
        found = problems(plan)
        seldom = len(looked) < len(plan.runs) / 2
        assert found == list(check._problems(plan, check.names_of(plan)))
        right += seldom and not found
        wrong += seldom and bool(found)
        if found:
            plan = first
    # Else nothing was left out, or nothing found where much was.
    assert right
    assert wrong or seed


def told(plan):
    return [str(p) for p in problems(plan)]


def test_what_names_something_is_looked_at_again_once_that_is_gone():
    plan = example("orchard_station")
    assert told(plan) == []
    k, bar = next((k, x) for k, x in enumerate(plan.items) if isinstance(x, Bar))
    used = next(ref for r in plan.runs for ref in (r.a, r.b) if ref.startswith(f"{bar.id}."))
    studs = tuple(s for s in bar.studs if bar.ref(s.id) != used)
    without = in_place(plan, "items", k, bar.model_copy(update={"studs": studs}))
    assert any(used in line for line in told(without))
    assert told(plan) == []
    zone = next(x.zone for x in plan.placed if x.zone)
    nowhere = plan.model_copy(update={"zones": tuple(z for z in plan.zones if z.id != zone)})
    assert any(zone in line for line in told(nowhere))


def test_what_drives_something_is_looked_at_again_once_that_is_another():
    plan = example("orchard_station")
    k = next(k for k, x in enumerate(plan.items) if isinstance(x, Disconnect))
    id_ = plan.items[k].id
    load = next(k for k, x in enumerate(plan.equipment) if isinstance(x, Load))
    driven = in_place(plan, "items", k, Contactor.model_construct(id=id_))
    driving = in_place(driven, "equipment", load, plan.equipment[load].model_copy(update={"drives": id_}))
    assert told(driving) == []
    assert told(in_place(driving, "items", k, plan.items[k])) == [
        f"{plan.equipment[load].id}: drives: {id_} is no contactor"
    ]
