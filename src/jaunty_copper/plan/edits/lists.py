"""Edits of what a plan holds in lists of its own: zones, routes, stock, overrides, own parts; and of studs."""

from collections.abc import Iterable
from typing import Any

from jaunty_copper.language import say
from jaunty_copper.plan.edits.basic import EditError, _rebuilt, change, change_plan
from jaunty_copper.plan.edits.circuits import studs_of
from jaunty_copper.plan.model import BarStud, ChassisPoint, Plan, split_ref

PARTS = "parts."
"""Before the name of a list of the plan's own parts."""


def listed(plan: Plan, where: str) -> tuple[Any, ...]:
    """The things in a list of a plan, or of its own parts."""
    own, _, field = where.rpartition(".")
    things: tuple[Any, ...] = getattr(plan.parts if own else plan, field)
    return things


def key_of(thing: Any) -> str:
    """What tells a thing from others of its list: its id, or the limit that it replaces."""
    key: str = thing.limit if hasattr(thing, "limit") else thing.id
    return key


def change_listed(plan: Plan, where: str, key: str, **fields: Any) -> Plan:
    """Change fields of a thing in a list.

    Raises
    ------
    EditError
        There is no such thing; or it would be none any more.
    """
    held = listed(plan, where)
    if all(key_of(x) != key for x in held):
        raise EditError(say("nothing is called {key}", key=key))
    return _with_list(plan, where, (_rebuilt(x, fields) if key_of(x) == key else x for x in held))


def add_listed(plan: Plan, where: str, thing: Any) -> Plan:
    """Add a thing to a list."""
    if key_of(thing) in {key_of(x) for x in listed(plan, where)}:
        raise EditError(say("there is one called {key_of} already", key_of=key_of(thing)))
    return _with_list(plan, where, (*listed(plan, where), thing))


def drop_listed(plan: Plan, where: str, key: str) -> Plan:
    """Take a thing out of a list."""
    return _with_list(plan, where, (x for x in listed(plan, where) if key_of(x) != key))


def _with_list(plan: Plan, where: str, things: Iterable[Any]) -> Plan:
    own, _, field = where.rpartition(".")
    if own:
        return change_plan(plan, parts=plan.parts.model_copy(update={field: tuple(things)}))
    return change_plan(plan, **{field: tuple(things)})


def stud_of(plan: Plan, ref: str) -> BarStud | ChassisPoint:
    """A stud of a bar, or a point of the chassis, by its reference.

    Raises
    ------
    EditError
        There is none.
    """
    id_, name = split_ref(ref)
    hub, of = studs_of(plan, id_)
    found: BarStud | ChassisPoint | None = next((s for s in getattr(hub, of.field) if s.id == name), None)
    if found is None:
        raise EditError(say("there is no stud {ref}", ref=ref))
    return found


def change_stud(plan: Plan, ref: str, **fields: Any) -> Plan:
    """Change a stud of a bar, or a point of the chassis: its thread, or its resistance to the chassis as a whole."""
    hub, of = studs_of(plan, split_ref(ref)[0])
    old = stud_of(plan, ref)
    kept = tuple(_rebuilt(s, fields) if s is old else s for s in getattr(hub, of.field))
    return change(plan, hub.id, **{of.field: kept})


def set_ambient(plan: Plan, scenario: str, zone: str, celsius: float | None) -> Plan:
    """Say how warm a zone is in a scenario; None goes back to the zone's own.

    Parameters
    ----------
    celsius : float or None
        Temperature of the air, °C.
    """
    held = next((s for s in plan.scenarios if s.id == scenario), None)
    if held is None:
        raise EditError(say("there is no scenario {scenario}", scenario=scenario))
    kept = {k: v for k, v in held.ambient_c.items() if k != zone}
    return change(plan, scenario, ambient_c=kept if celsius is None else {**kept, zone: celsius})
