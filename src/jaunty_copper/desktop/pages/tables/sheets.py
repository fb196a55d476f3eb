"""What each table shows: its rows, its columns, and the edits that its cells are; a table of tables."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Any, NamedTuple

from jaunty_copper.choosing import sizing
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.code import code_of
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.desktop.inspector.fields import FIELDS, KIND_WORDS, Field
from jaunty_copper.desktop.pages.map import removing
from jaunty_copper.desktop.pages.tables import adding
from jaunty_copper.desktop.pages.tables.adding import SheetAdding
from jaunty_copper.desktop.pages.tables.fields import LISTED
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.parts.models import Chemistry, Conductor, DeviceFamily, Insulation
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import (
    Bar,
    BarStud,
    Battery,
    Board,
    Breaker,
    Chassis,
    ChassisPoint,
    Equipment,
    Fuse,
    Inline,
    Named,
    Override,
    Plan,
    Post,
    Route,
    Run,
    Scenario,
    StockPiece,
    Zone,
    split_ref,
)

Value = str | float | None
Changes = Mapping[str, Mapping[str, Any]]
"""By the key of a row, values by the names of fields."""


class SheetRow(NamedTuple):
    """A row: what its edits name it by, and the thing itself."""

    key: str
    thing: Any


class Fact(NamedTuple):
    """A computed column: its title with the unit, and a figure or words from what is known of a row."""

    title: str
    of: Callable[[Picture, str | None, SheetRow], Value]


@dataclass(frozen=True)
class Sheet:
    """One table.

    Attributes
    ----------
    kinds : tuple of type
        Of the things in its rows; its columns are all that can be edited of any of them.
    rows : callable
        From a plan to its rows.
    put : callable
        What cells do: plan, and by the key of a row values by the names of fields.
    lead, facts : tuple of Fact
        What is computed: behind the name, and behind the fields that are usual.
    key : str
        Head of the column of keys.
    renames : bool
        Whether a key can be typed over.
    more : callable
        Columns that depend on the plan.
    value : callable
        What a field of a thing is.
    adding : callable
        What can be added.
    drop : callable or None
        Takes a row away.
    """

    title: str
    hint: str
    kinds: tuple[type, ...]
    rows: Callable[[Plan], list[SheetRow]]
    put: Callable[[Plan, Changes], Plan]
    lead: tuple[Fact, ...] = ()
    facts: tuple[Fact, ...] = ()
    key: str = "Id"
    renames: bool = True
    more: Callable[[Plan], tuple[Field, ...]] = lambda _: ()
    value: Callable[[Any, str], Any] = lambda thing, name: getattr(thing, name)
    adding: Callable[[Plan, Case], Iterator[SheetAdding]] = lambda *_: iter(())
    drop: Callable[[Plan, str], Edit | None] | None = None

    @cached_property
    def fields(self) -> dict[type, dict[str, Field]]:
        """What can be edited of each kind, by name."""
        return {kind: {f.name: f for f in FIELDS.get(kind, LISTED.get(kind, ()))} for kind in self.kinds}

    @cached_property
    def columns(self) -> tuple[Field, ...]:
        """All that can be edited of any kind: the usual first, then by their groups."""
        found: dict[str, Field] = {}
        for fields in self.fields.values():
            for f in fields.values():
                found.setdefault(f.name, f)
        groups = dict.fromkeys(f.group for f in found.values())
        return tuple(f for group in sorted(groups, key=lambda g: g != "") for f in found.values() if f.group == group)


# What is computed


def _between(p: Picture, _: str | None, row: SheetRow) -> str:
    return p.plan.run_title(row.thing)


def _of_run(name: str) -> Callable[[Picture, str | None, SheetRow], float]:
    return lambda p, scenario, row: abs(getattr(p.run(row.key, scenario), name))


def _drop_percent(p: Picture, scenario: str | None, row: SheetRow) -> float:
    return 100.0 * p.equipment(row.thing, scenario).drop_share


def _at(p: Picture, scenario: str | None, row: SheetRow) -> float:
    return p.equipment(row.thing, scenario).voltage_v


def _kind(_: Picture, __: str | None, row: SheetRow) -> str:
    return KIND_WORDS[type(row.thing)]


def _through(p: Picture, scenario: str | None, row: SheetRow) -> float:
    return abs(p.through(row.key, scenario)[0])


def _interrupt(name: str) -> Callable[[Picture, str | None, SheetRow], Value]:
    def figure(p: Picture, _: str | None, row: SheetRow) -> Value:
        if not isinstance(row.thing, Fuse | Breaker) or p.case is None:
            return None
        value: float | None = getattr(interrupting(p.case, row.key), name)
        return None if value is None else value / 1000.0

    return figure


def _hub(p: Picture, _: str | None, row: SheetRow) -> str:
    return p.plan.by_id[split_ref(row.key)[0]].title


def _on(p: Picture, _: str | None, row: SheetRow) -> str:
    return ", ".join(r.id for r in p.plan.runs_at.get(row.key, ()))


# Where rows come from, and what their cells do


def _things(*kinds: type) -> Callable[[Plan], list[SheetRow]]:
    def rows(plan: Plan) -> list[SheetRow]:
        found: list[Named | Run] = [*plan.placed, *plan.runs]
        return [SheetRow(x.id, x) for x in found if isinstance(x, kinds)]

    return rows


def _listed(where: str) -> Callable[[Plan], list[SheetRow]]:
    return lambda plan: [SheetRow(edits.key_of(x), x) for x in edits.listed(plan, where)]


def _put_listed(where: str) -> Callable[[Plan, Changes], Plan]:
    def put(plan: Plan, changes: Changes) -> Plan:
        for key, values in changes.items():
            plan = edits.change_listed(plan, where, key, **values)
        return plan

    return put


def _put_stud(plan: Plan, changes: Changes) -> Plan:
    for key, values in changes.items():
        plan = edits.change_stud(plan, key, **values)
    return plan


def _drop_listed(where: str, word: str) -> Callable[[Plan, str], Edit]:
    return lambda _, key: Edit(
        say("Remove {word} {key}", word=word, key=key), partial(edits.drop_listed, where=where, key=key)
    )


def _drop_thing(word: str) -> Callable[[Plan, str], Edit]:
    return lambda _, key: Edit(say("Remove {word} {key}", word=word, key=key), partial(_without, id_=key))


def _without(plan: Plan, id_: str) -> Plan:
    return edits.remove(plan, id_)


def _studs(plan: Plan) -> list[SheetRow]:
    hubs = [x for x in plan.items if isinstance(x, Bar | Chassis)]
    return [SheetRow(h.ref(n), edits.stud_of(plan, h.ref(n))) for h in hubs for n in h.terminal_names]


def _drop_stud(plan: Plan, key: str) -> Edit:
    hub, stud = split_ref(key)
    return Edit(
        say("Remove stud {stud} of {hub}", stud=stud, hub=plan.by_id[hub].title),
        partial(edits.remove_stud, hub_id=hub, stud_id=stud),
    )


AMBIENT = "ambient_c."
"""Before the id of a zone: how warm it is in a scenario."""


def _ambients(plan: Plan) -> tuple[Field, ...]:
    return tuple(Field(f"{AMBIENT}{z.id}", say("Ambient of {z}", z=z.title), "blank", "°C") for z in plan.zones)


def _of_scenario(s: Scenario, name: str) -> Any:
    return s.ambient_c.get(name.removeprefix(AMBIENT)) if name.startswith(AMBIENT) else getattr(s, name)


def _put_scenario(plan: Plan, changes: Changes) -> Plan:
    for key, name, value in ((key, name, value) for key, values in changes.items() for name, value in values.items()):
        if name.startswith(AMBIENT):
            plan = edits.set_ambient(plan, key, name.removeprefix(AMBIENT), value)
        else:
            plan = edits.change_field(plan, key, name, value)
    return plan


def _limit(p: Picture, _: str | None, row: SheetRow) -> str:
    own = code_of(p.plan.practice).limits.get(row.key)
    return f"{own.value:g} {own.unit}, {own.source}" if own is not None else say("no limit of this code")


def _own(title: str, hint: str, field: str, kind: type) -> Sheet:
    where = f"parts.{field}"
    return Sheet(
        title, hint, (kind,), _listed(where), _put_listed(where), key="Short name", renames=False, adding=adding.like(field),
        drop=_drop_listed(where, say("own part")),
    )  # fmt: skip


DEVICES = tuple(kind for kind in FIELDS if issubclass(kind, Inline))
EQUIPMENT = tuple(kind for kind in FIELDS if issubclass(kind, Equipment))
CURRENT = Fact(say("Current, A"), _through)
KIND = Fact(say("Kind"), _kind)


def _sheets() -> Iterator[tuple[str, Sheet]]:
    yield "conductors", Sheet(
        say("Conductors"), say("Every conductor, from terminal to terminal"), (Run,), _things(Run), sizing.change_many,
        (Fact(say("Between"), _between),),
        (
            Fact(say("Current, A"), _of_run("current_a")), Fact(say("Ampacity, A"), _of_run("ampacity_a")), Fact(say("Drop, V"), _of_run("drop_v")),
            Fact(say("Copper, °C"), _of_run("temperature_c")),
        ),
        drop=removing.removal,
    )  # fmt: skip
    yield "devices", Sheet(
        say("Devices"), say("What stands in a conductor: fuses, breakers, switches, shunts"), DEVICES, _things(*DEVICES), sizing.change_many,
        (KIND,), (CURRENT, Fact(say("Interrupt rating, kA"), _interrupt("able_a")), Fact(say("Prospective current, kA"), _interrupt("prospective_a"))),
        drop=removing.removal,
    )  # fmt: skip
    yield "equipment", Sheet(
        say("Equipment"), say("Loads, sources and converters"), EQUIPMENT, _things(*EQUIPMENT), sizing.change_many, (KIND,),
        (Fact(say("At its terminals, V"), _at), Fact(say("Drop, %"), _drop_percent)), drop=removing.removal,
    )  # fmt: skip
    yield "batteries", Sheet(
        say("Battery units"), say("Each unit of each bank"), (Battery,), _things(Battery), sizing.change_many, (), (CURRENT,), drop=removing.removal,
    )  # fmt: skip
    yield "bars", Sheet(
        say("Busbars"), say("Busbars, single studs, chassis"), (Bar, Post, Chassis), _things(Bar, Post, Chassis), sizing.change_many, (KIND,),
        adding=adding.new_hubs, drop=removing.removal,
    )  # fmt: skip
    yield "studs", Sheet(
        say("Studs"), say("Each stud of each busbar, and where the chassis is tapped"), (BarStud, ChassisPoint), _studs, _put_stud,
        (Fact(say("Of"), _hub), Fact(say("On it"), _on)), renames=False, adding=adding.new_studs, drop=_drop_stud,
    )  # fmt: skip
    yield "zones", Sheet(
        say("Zones"), say("Places with an air temperature and hazards of their own"), (Zone,), _listed("zones"), sizing.change_many,
        adding=adding.new(lambda plan: Zone(id=edits.fresh_id(plan, "zone"), name=say("New zone")), say("Add a zone")), drop=_drop_thing("zone"),
    )  # fmt: skip
    yield "scenarios", Sheet(
        say("Scenarios"), say("What runs together, at which charge, how warm"), (Scenario,), _listed("scenarios"), _put_scenario,
        more=_ambients, value=_of_scenario, drop=_drop_thing("scenario"),
        adding=adding.new(lambda plan: Scenario(id=edits.fresh_id(plan, "scenario"), name=say("New scenario")), say("Add a scenario")),
    )  # fmt: skip
    yield "routes", Sheet(
        say("Routes"), say("Ways that conductors share"), (Route,), _listed("routes"), sizing.change_many,
        adding=adding.new(lambda plan: Route(id=edits.fresh_id(plan, "route"), name=say("New route")), say("Add a route")), drop=_drop_thing("route"),
    )  # fmt: skip
    yield "boards", Sheet(
        say("Boards"), say("Panels that things are screwed onto"), (Board,), _listed("boards"), sizing.change_many,
        adding=adding.new(lambda plan: Board(id=edits.fresh_id(plan, "board"), name=say("New board")), say("Add a board")), drop=_drop_thing("board"),
    )  # fmt: skip
    yield "stock", Sheet(
        say("Left-over cable"), say("Lengths from before, used first"), (StockPiece,), _listed(say("stock")), _put_listed("stock"), renames=False,
        adding=adding.new_stock, drop=_drop_listed("stock", say("left-over length")),
    )  # fmt: skip
    yield "overrides", Sheet(
        say("Replaced limits"), say("Limits of the code that this plan replaces, and why"), (Override,), _listed(say("overrides")), _put_listed("overrides"),
        (), (Fact(say("The code's own"), _limit),), key="Limit", renames=False, adding=adding.new_override, drop=_drop_listed("overrides", say("the override of")),
    )  # fmt: skip
    yield "own_sizes", _own(say("Own sizes"), say("Conductor sizes that only this plan knows"), "conductors", Conductor)
    yield (
        "own_insulations",
        _own(say("Own insulations"), say("Kinds of insulation that only this plan knows"), "insulations", Insulation),
    )
    yield (
        "own_devices",
        _own(say("Own devices"), say("Device families that only this plan knows"), "device_families", DeviceFamily),
    )
    yield (
        "own_chemistries",
        _own(say("Own chemistries"), say("Chemistries that only this plan knows"), "battery_chemistries", Chemistry),
    )


SHEETS = dict(_sheets())
