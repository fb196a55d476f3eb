"""Edits of one thing, or of a list of things; what all other edits are made of."""

import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any, NamedTuple

from pydantic import ValidationError

from jaunty_copper.language import say
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.plan.check import problems
from jaunty_copper.plan.model import (
    AnyEquipment,
    Board,
    Entry,
    Equipment,
    Item,
    Override,
    Plan,
    Route,
    Run,
    Scenario,
    State,
    Zone,
)


class EditError(ValueError):
    """The edit makes no sense on this plan; its text says why."""


class Edit(NamedTuple):
    """An edit with the words that undo and buttons show for it.

    Attributes
    ----------
    slow : bool
        It may take more than a moment, as sizing many circuits does: it is worked out off the window's thread.
    """

    label: str
    apply: Callable[[Plan], Plan]
    slow: bool = False


def made_of(plan: Plan, before: Plan, after: Plan) -> Plan:
    """What was worked out for a plan, if that is still the one.

    Raises
    ------
    EditError
        It is another one by now.
    """
    if plan is not before:
        raise EditError(say("the plan was changed meanwhile"))
    return after


SIZES = frozenset({"conductor", "parallel", "family", "rating_a"})
"""Fields that a person chooses a size by: what was chosen no longer follows the load."""
LONGEST_STEM = 180
"""Letters of a name, before the number that tells it from others."""
LISTS = ("items", "equipment", "runs", "zones", "scenarios", "routes", "boards", "log")
"""Fields of a plan that hold things with ids."""


def fresh_name(taken: Iterable[str], like: str) -> str:
    """A name like another that nothing has yet, short enough for a plan.

    Examples
    --------
    >>> fresh_name(["Evening", "Evening 2"], "Evening 2"), fresh_name([], "Night")
    ('Evening 3', 'Night')
    """
    held = set(taken)
    stem = re.sub(r" \d+$", "", like)[:LONGEST_STEM].rstrip()
    names = (like if k == 1 and len(like) <= LONGEST_STEM else f"{stem} {k}" for k in range(1, len(held) + 3))
    return next(name for name in names if name not in held)


def find(plan: Plan, id_: str) -> tuple[str, int]:
    """Which list holds an id, and where.

    Raises
    ------
    EditError
        Nothing has that id.
    """
    for field in LISTS:
        for index, thing in enumerate(getattr(plan, field)):
            if thing.id == id_:
                return field, index
    raise EditError(say("nothing is called {id}", id=id_))


def _rebuilt(thing: Any, changes: dict[str, Any]) -> Any:
    values = {name: getattr(thing, name) for name in type(thing).model_fields}
    called = values.get("id") or values.get("limit")
    unknown = changes.keys() - values.keys()
    if unknown:
        raise EditError(say("{called} has no {unknown}", called=called, unknown=", ".join(sorted(unknown))))
    try:
        return type(thing).model_validate({**values, **changes})
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(x) for x in first["loc"])
        raise EditError(f"{called}: {place}: {first['msg'].removeprefix('Value error, ')}") from None


def checked(plan: Plan) -> Plan:
    """Return the plan itself, if it is one.

    Raises
    ------
    EditError
        It has `problems`.
    """
    wrong = problems(plan)
    if wrong:
        raise EditError(f"{wrong[0].place}: {wrong[0].reason}")
    return plan


def _with(plan: Plan, **lists: Any) -> Plan:
    return plan.model_copy(update=lists)


def _put(plan: Plan, field: str, index: int, thing: Any) -> Plan:
    held = getattr(plan, field)
    return _with(plan, **{field: (*held[:index], thing, *held[index + 1 :])})


def change(plan: Plan, id_: str, **fields: Any) -> Plan:
    """Change fields of an item, equipment, run, zone or scenario.

    Something whose size is changed no longer follows its load, unless that is asked for.

    Examples
    --------
    >>> from jaunty_copper.plan.model import Plan, Zone
    >>> change(Plan(zones=(Zone(id="loft"),)), "loft", ambient_c=45.0).zones[0].ambient_c
    45.0
    """
    return change_each(plan, {id_: fields})


def change_each(plan: Plan, changes: Mapping[str, Mapping[str, Any]]) -> Plan:
    """Change fields of several things by their ids, as `change`; the whole is checked once."""
    for id_, fields in changes.items():
        field, index = find(plan, id_)
        thing = getattr(plan, field)[index]
        if SIZES & fields.keys() and getattr(thing, "follows_load", False):
            fields = {"follows_load": False, **fields}
        if fields.get("by_hour"):
            fields = {"hours_per_day": round(sum(fields["by_hour"]), 6), **fields}
        elif "hours_per_day" in fields and getattr(thing, "by_hour", None):
            # Whoever types their number says no longer which they are.
            fields = {"by_hour": (), **fields}
        plan = _put(plan, field, index, _rebuilt(thing, dict(fields)))
    return checked(plan)


def change_field(plan: Plan, id_: str, field: str, value: Any) -> Plan:
    """Change one field by its name."""
    return change(plan, id_, **{field: value})


def change_plan(plan: Plan, **fields: Any) -> Plan:
    """Change fields of the plan itself: name, note, practice, overrides, parts."""
    try:
        values = {name: getattr(plan, name) for name in Plan.model_fields}
        return checked(Plan.model_validate({**values, **fields}))
    except ValidationError as error:
        raise EditError(error.errors()[0]["msg"]) from None


def fresh_id(plan: Plan, stem: str, also: Iterable[str] = ()) -> str:
    """An id that nothing in the plan has: the stem and the first free number."""
    taken = {thing.id for name in LISTS for thing in getattr(plan, name)} | set(also)
    number = 1
    while f"{stem}{number}" in taken:
        number += 1
    return f"{stem}{number}"


KINDS: dict[type, str] = {
    Run: "runs", Zone: "zones", Scenario: "scenarios", Route: "routes", Board: "boards", Entry: "log",
    Equipment: "equipment",
}  # fmt: skip
"""Field that holds a kind of thing; items otherwise."""


def add(plan: Plan, *things: Item | AnyEquipment | Run | Zone | Scenario | Route | Board | Entry) -> Plan:
    """Add things of any kind."""
    for thing in things:
        field = next((f for kind, f in KINDS.items() if isinstance(thing, kind)), "items")
        plan = _with(plan, **{field: (*getattr(plan, field), thing)})
    return checked(plan)


def set_state(plan: Plan, scenario_id: str, id_: str, state: State | None) -> Plan:
    """Say what equipment or a switch does in a scenario; None takes it back."""
    field, index = find(plan, scenario_id)
    if field != "scenarios":
        raise EditError(say("{scenario_id} is no scenario", scenario_id=scenario_id))
    scenario = plan.scenarios[index]
    states = {k: v for k, v in scenario.states.items() if k != id_}
    if state is not None:
        states[id_] = state
    return checked(_put(plan, field, index, scenario.model_copy(update={"states": states})))


def put_family(plan: Plan, family: DeviceFamily) -> Plan:
    """Let a plan carry a device family of its own, in place of one of the same id."""
    kept = tuple(f for f in plan.parts.device_families if f.id != family.id)
    return change_plan(plan, parts=plan.parts.model_copy(update={"device_families": (*kept, family)}))


def set_override(plan: Plan, limit: str, value: float | None, reason: str = "") -> Plan:
    """Replace a limit of the practice in this plan; None goes back to the code's own.

    Parameters
    ----------
    limit : str
        Id of the limit.
    value : float or None
        In the limit's unit.
    reason : str
        Why this plan differs from its code.
    """
    others = tuple(o for o in plan.overrides if o.limit != limit)
    if value is None:
        return _with(plan, overrides=others)
    if not reason.strip():
        raise EditError(say("an override needs its reason"))
    return _with(plan, overrides=(*others, Override(limit=limit, value=value, reason=reason)))
