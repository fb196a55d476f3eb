"""What is not the same in two plans: put in, taken out and changed, by id and then by likeness."""

from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from pydantic import BaseModel

from jaunty_copper.language import say
from jaunty_copper.plan.model import Equipment, Plan, split_ref
from jaunty_copper.plan.references import followed

LISTS = ("items", "equipment", "runs", "zones", "scenarios", "routes", "boards")
SETTINGS = ("name", "practice", "floating", "devices_by", "autonomy_days", "sun", "overrides")
Thing = Any


class Difference(NamedTuple):
    """Something that is not the same in both plans.

    Attributes
    ----------
    kind : str
        added, removed or changed.
    id : str
        In the second plan; in the first where it is no longer there.
    title, field : str
        What it is; which of its fields.
    before, after : str
        As text; empty where there is none.
    """

    kind: str
    id: str
    title: str
    field: str
    before: str
    after: str


def same_things(first: Plan, second: Plan) -> dict[str, str]:
    """Ids of one plan's things with those of the same things in another: by id and kind, then by likeness.

    Parameters
    ----------
    first, second : Plan
        Before and after.
    """
    found: dict[str, str] = {}
    for holder in LISTS:
        one, other = _by_id(first, holder), _by_id(second, holder)
        found |= {id_: id_ for id_ in one if id_ in other and _kind(one[id_]) == _kind(other[id_])}
    taken = set(found.values())
    for holder in LISTS:
        one, other = _by_id(first, holder), _by_id(second, holder)
        free = {id_: x for id_, x in other.items() if id_ not in taken}
        for id_, x in one.items():
            if id_ in found:
                continue
            like = next((k for k, y in free.items() if _alike(x, y, found)), None)
            if like is not None:
                found[id_] = like
                taken.add(like)
                del free[like]
    return found


def renamed(first: Plan, same: Mapping[str, str]) -> Plan:
    """One plan with the ids that its things have in another, in all that names them.

    Parameters
    ----------
    same : mapping of str to str
        As `same_things` gives it.
    """

    def new_name(_: object, name: str) -> str:
        owner, dot, terminal = name.partition(".")
        return f"{same.get(owner, owner)}{dot}{terminal}"

    return followed(first, new_name)


def differences(first: Plan, second: Plan) -> tuple[Difference, ...]:
    """What was put in, taken out and changed between two plans; what only has another id has not changed.

    Parameters
    ----------
    first, second : Plan
        Before and after.
    """
    return tuple(_differences(first, second))


def _differences(first: Plan, second: Plan) -> Iterator[Difference]:
    same = same_things(first, second)
    for name in SETTINGS:
        was, now = getattr(first, name), getattr(second, name)
        if was != now:
            yield Difference("changed", "", say("the plan"), name, _text(was), _text(now))
    there = renamed(first, same)
    kept = set(same.values())
    for holder in LISTS:
        before, after, moved = (_by_id(p, holder) for p in (first, second, there))
        for id_, x in before.items():
            new = same.get(id_)
            if new is None:
                yield Difference("removed", id_, title_of(first, x), "", _kind(x), "")
                continue
            y = after[new]
            for name in type(x).model_fields:
                was, now = getattr(moved[id_], name), getattr(y, name, None)
                if name != "id" and was != now:
                    yield Difference("changed", new, title_of(second, y), name, _text(getattr(x, name)), _text(now))
        for id_, y in after.items():
            if id_ not in kept:
                yield Difference("added", id_, title_of(second, y), "", "", _kind(y))


def title_of(plan: Plan, x: Thing) -> str:
    """What something is called; a conductor by what it joins."""
    if hasattr(x, "conductor") and hasattr(x, "a"):
        a, b = (plan.by_id[split_ref(ref)[0]].title for ref in (x.a, x.b))
        return say("{a} to {b}", a=a, b=b)
    return str(getattr(x, "title", x.id))


def _by_id(plan: Plan, holder: str) -> Mapping[str, Thing]:
    return {x.id: x for x in getattr(plan, holder)}


def _kind(x: Thing) -> str:
    return str(getattr(x, "kind", type(x).__name__.lower()))


def _alike(x: Thing, y: Thing, same: Mapping[str, str]) -> bool:
    """Whether two things with different ids are the same: of one kind, and of one name or between the same ends."""
    if _kind(x) != _kind(y):
        return False
    if hasattr(x, "conductor") and hasattr(x, "a"):
        one = {same.get(split_ref(ref)[0]) for ref in (x.a, x.b)}
        return None not in one and one == {split_ref(ref)[0] for ref in (y.a, y.b)}
    if isinstance(x, Equipment) or getattr(x, "name", None):
        return bool(x.name) and x.name == y.name
    return False


def _text(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, BaseModel):
        return str(value.model_dump(exclude_defaults=True))
    if isinstance(value, tuple):
        return ", ".join(_text(v) for v in value)
    if isinstance(value, dict):
        return ", ".join(f"{k}: {_text(v)}" for k, v in value.items())
    return str(value)
