"""Which field of a plan names what: the one table that checking, renaming and removing follow."""

from collections.abc import Callable, Iterator, Sequence
from functools import cache
from itertools import groupby
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel

from jaunty_copper.language import say
from jaunty_copper.plan.model import MEASURED_IN, Plan

Space = Literal["thing", "terminal", "point", "zone", "route", "scenario"]
"""Names of one kind: of items and equipment, of their terminals, of either or a run, of zones, routes, scenarios."""
SPACES: dict[str, tuple[Space, ...]] = {
    "items": ("thing", "terminal", "point"), "equipment": ("thing", "terminal", "point"), "runs": ("point",),
    "zones": ("zone",), "routes": ("route",), "scenarios": ("scenario",),
}  # fmt: skip
"""By the plan's list that a thing stands in: names of which kinds it has."""
MISSING: dict[Space, str] = {
    "thing": say("nothing is called"), "point": say("nothing is called"), "terminal": say("there is no terminal"),
    "zone": say("there is no zone"), "route": say("there is no route"), "scenario": say("there is no scenario"),
}  # fmt: skip


class Reference(NamedTuple):
    """A field that names something else in the plan.

    Attributes
    ----------
    holder : str
        The plan's list of things that have it.
    field : str
        Its name; of a mapping, where `keys` holds, whose keys are the names.
    to : str
        Kind of name.
    needed : bool
        Whether what has the field goes with what it names, rather than the name alone.
    inside : str
        The list within each thing whose elements have the field; empty for the thing itself.
    """

    holder: str
    field: str
    to: Space
    needed: bool = False
    inside: str = ""
    keys: bool = False


_READING = (("scenario", "scenario"), ("a", "point"), ("b", "point"))
REFERENCES: tuple[Reference, ...] = (
    Reference("items", "zone", "zone"),
    Reference("equipment", "zone", "zone"),
    Reference("equipment", "drives", "thing"),
    Reference("equipment", "runs_with", "thing"),
    Reference("equipment", "probe", "thing"),
    Reference("equipment", "sense_plus", "terminal"),
    Reference("equipment", "sense_minus", "terminal"),
    Reference("runs", "a", "terminal", needed=True),
    Reference("runs", "b", "terminal", needed=True),
    Reference("runs", "zone", "zone"),
    Reference("runs", "route", "route"),
    Reference("scenarios", "after", "scenario"),
    Reference("scenarios", "states", "thing", keys=True),
    Reference("scenarios", "ambient_c", "zone", keys=True),
    *(Reference("readings", field, to, needed=True) for field, to in _READING),  # type: ignore[arg-type]
    Reference("log", "about", "point"),
    *(Reference("log", field, to, needed=True, inside="readings") for field, to in _READING),  # type: ignore[arg-type]
    Reference("boards", "of", "thing", needed=True, inside="spots"),
)
"""Every field that names a thing, terminal, zone, route or scenario, those of one holder together."""
NewName = Callable[[Reference, str], str | None]
"""From a reference and a name to the name it shall have; None where what it names is gone."""


def names_of(plan: Plan) -> dict[Space, set[str]]:
    """Every name that there is, by its kind."""
    things = {x.id for x in plan.placed}
    terminals = {x.ref(t) for x in plan.placed for t in x.terminal_names}
    return {
        "thing": things, "terminal": terminals, "point": things | terminals | plan.run_by_id.keys(),
        "zone": {z.id for z in plan.zones}, "route": {r.id for r in plan.routes},
        "scenario": {*MEASURED_IN, *(s.id for s in plan.scenarios)},
    }  # fmt: skip


def named_in(thing: Any, references: Sequence[Reference]) -> Iterator[tuple[Reference, str]]:
    """Every name that a thing holds, with the reference it is held by."""
    for r in references:
        for one in getattr(thing, r.inside) if r.inside else (thing,):
            value = getattr(one, r.field, None)
            if value:
                yield from ((r, name) for name in (value if r.keys else (value,)))


@cache
def of_holder(holder: str) -> tuple[Reference, ...]:
    """References that the things of one of the plan's lists have."""
    return tuple(r for r in REFERENCES if r.holder == holder)


@cache
def of_kind(holder: str, kind: type[BaseModel]) -> tuple[Reference, ...]:
    """References that the things of one kind in one of the plan's lists have."""
    return tuple(r for r in of_holder(holder) if (r.inside or r.field) in kind.model_fields)


def followed(plan: Plan, new_name: NewName) -> Plan:
    """A plan in which every reference has the name that a function gives it.

    Where that is None the name is taken away, and with a reference that is needed what has it.
    """
    lists = {}
    for holder, references in groupby(REFERENCES, key=lambda r: r.holder):
        table, before = tuple(references), getattr(plan, holder)
        after = tuple(x for thing in before if (x := _one(thing, table, new_name)) is not None)
        if len(after) != len(before) or any(a is not b for a, b in zip(after, before, strict=True)):
            lists[holder] = after
    return plan.model_copy(update=lists) if lists else plan


def _one(thing: Any, references: Sequence[Reference], new_name: NewName) -> Any:
    changes: dict[str, Any] = {}
    for inside in dict.fromkeys(r.inside for r in references if r.inside):
        inner = [r._replace(inside="") for r in references if r.inside == inside]
        before = getattr(thing, inside)
        after = tuple(x for one in before if (x := _one(one, inner, new_name)) is not None)
        if after != before:
            changes[inside] = after
    for r in references:
        value = getattr(thing, r.field, None) if not r.inside else None
        if not value:
            continue
        if r.keys:
            named = {new: v for k, v in value.items() if (new := new_name(r, k)) is not None}
            if named != value:
                changes[r.field] = named
            continue
        new = new_name(r, value)
        if new is None and r.needed:
            return None
        if new != value:
            # A name that may be left out is empty or None, as its model has it.
            changes[r.field] = type(thing).model_fields[r.field].default if new is None else new
    return thing.model_copy(update=changes) if changes else thing


def item_of(r: Reference, name: str) -> str:
    """The id of what a name belongs to: of a terminal its item."""
    return name.partition(".")[0] if r.to in ("terminal", "point") else name


def renamed(plan: Plan, spaces: tuple[Space, ...], old: str, new: str) -> Plan:
    """A plan in which every name of something, and of its terminals, is another."""

    def moved(r: Reference, name: str) -> str:
        if r.to not in spaces or item_of(r, name) != old:
            return name
        return new + name[len(old) :]

    return followed(plan, moved)
