"""Edits: pure functions from plan to plan.

Every gesture of the window, every mend of a finding and every test goes through these.
An edit that makes no sense raises `EditError` with words for a person.
"""

import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any, Literal, NamedTuple

from pydantic import ValidationError

from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.plan.check import problems
from jaunty_copper.plan.model import (
    LONGEST_ENTRY,
    MEASURED_IN,
    AnyEquipment,
    Bar,
    BarStud,
    Board,
    Breaker,
    Converter,
    Entry,
    Equipment,
    Fuse,
    Inline,
    Item,
    Named,
    Override,
    Plan,
    Reading,
    Route,
    Run,
    Scenario,
    State,
    Zone,
    split_ref,
)


class EditError(ValueError):
    """The edit makes no sense on this plan; its text says why."""


class Edit(NamedTuple):
    """An edit with the words that undo and buttons show for it."""

    label: str
    apply: Callable[[Plan], Plan]


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
    raise EditError(f"nothing is called {id_}")


def _rebuilt(thing: Any, changes: dict[str, Any]) -> Any:
    values = {name: getattr(thing, name) for name in type(thing).model_fields}
    unknown = changes.keys() - values.keys()
    if unknown:
        raise EditError(f"{thing.id} has no {', '.join(sorted(unknown))}")
    try:
        return type(thing).model_validate({**values, **changes})
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(x) for x in first["loc"])
        raise EditError(f"{thing.id}: {place}: {first['msg']}") from None


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
    field, index = find(plan, id_)
    thing = getattr(plan, field)[index]
    if SIZES & fields.keys() and getattr(thing, "follows_load", False):
        fields = {"follows_load": False, **fields}
    return checked(_put(plan, field, index, _rebuilt(thing, fields)))


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


def rename(plan: Plan, old: str, new: str) -> Plan:
    """Give a thing another id, and everything that names it likewise."""
    field, index = find(plan, old)
    if new == old:
        return plan
    if any(thing.id == new for name in LISTS for thing in getattr(plan, name)):
        raise EditError(f"{new} is taken")
    plan = _put(plan, field, index, _rebuilt(getattr(plan, field)[index], {"id": new}))
    if field in ("items", "equipment"):

        def moved(ref: str | None) -> str | None:
            if ref is None:
                return None
            item, terminal = split_ref(ref)
            return f"{new}.{terminal}" if item == old else ref

        plan = _with(
            plan,
            runs=tuple(r.model_copy(update={"a": moved(r.a), "b": moved(r.b)}) for r in plan.runs),
            equipment=tuple(
                e.model_copy(update={s: moved(getattr(e, s)) for s in ("sense_plus", "sense_minus") if hasattr(e, s)})
                for e in plan.equipment
            ),
            scenarios=tuple(
                s.model_copy(update={"states": {new if k == old else k: v for k, v in s.states.items()}})
                for s in plan.scenarios
            ),
            boards=tuple(
                b.model_copy(
                    update={"spots": tuple(s.model_copy(update={"of": new}) if s.of == old else s for s in b.spots)}
                )
                for b in plan.boards
            ),
        )
    if field in ("items", "equipment", "runs", "scenarios"):
        plan = _renamed_readings(plan, old, new, of_scenario=field == "scenarios")
    if field == "routes":
        swap = {"route": new}
        plan = _with(plan, runs=tuple(r.model_copy(update=swap) if r.route == old else r for r in plan.runs))
    if field == "zones":
        swap = {"zone": new}
        plan = _with(
            plan,
            **{
                name: tuple(x.model_copy(update=swap) if x.zone == old else x for x in getattr(plan, name))
                for name in ("items", "equipment", "runs")
            },
            scenarios=tuple(
                s.model_copy(update={"ambient_c": {new if k == old else k: v for k, v in s.ambient_c.items()}})
                for s in plan.scenarios
            ),
        )
    return checked(plan)


def _renamed_readings(plan: Plan, old: str, new: str, of_scenario: bool) -> Plan:
    """Readings and log entries of a thing, or in a scenario, under its new id."""

    def moved(name: str) -> str:
        item, dot, terminal = name.partition(".")
        return f"{new}{dot}{terminal}" if item == old and not of_scenario else name

    def read(readings: Iterable[Reading]) -> tuple[Reading, ...]:
        named = {old: new} if of_scenario else {}
        return tuple(
            r.model_copy(update={"scenario": named.get(r.scenario, r.scenario), "a": moved(r.a), "b": moved(r.b)})
            for r in readings
        )

    log = tuple(e.model_copy(update={"about": moved(e.about), "readings": read(e.readings)}) for e in plan.log)
    return _with(plan, readings=read(plan.readings), log=log)


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


def remove(plan: Plan, *ids: str) -> Plan:
    """Remove things, the runs that end at them, and what scenarios say of them."""
    gone = set(ids)
    for id_ in ids:
        find(plan, id_)

    def stays(ref: str | None) -> str | None:
        return None if ref is not None and split_ref(ref)[0] in gone else ref

    def kept(things: Iterable[Any]) -> tuple[Any, ...]:
        return tuple(t for t in things if t.id not in gone)

    left = _with(
            plan,
            items=tuple(_unzoned(x, gone) for x in kept(plan.items)),
            equipment=tuple(
                _unzoned(e, gone).model_copy(
                    update={s: stays(getattr(e, s)) for s in ("sense_plus", "sense_minus") if hasattr(e, s)}
                )
                for e in kept(plan.equipment)
            ),
            runs=tuple(
                _unzoned(r, gone)
                for r in kept(plan.runs)
                if not {split_ref(r.a)[0], split_ref(r.b)[0]} & gone
            ),
            zones=kept(plan.zones),
            routes=kept(plan.routes),
            log=kept(plan.log),
            boards=tuple(
                b.model_copy(update={"spots": tuple(s for s in b.spots if s.of not in gone)}) for b in kept(plan.boards)
            ),
            scenarios=tuple(
                s.model_copy(
                    update={
                        "states": {k: v for k, v in s.states.items() if k not in gone},
                        "ambient_c": {k: v for k, v in s.ambient_c.items() if k not in gone},
                    }
                )
                for s in kept(plan.scenarios)
            ),
        )  # fmt: skip
    return checked(without_dangling(left))


def without_dangling(plan: Plan) -> Plan:
    """Let readings go with what they were taken at; the log keeps its entries, and says what went."""
    if not plan.readings and not plan.log:
        return plan
    stands = {ref for x in plan.placed for ref in (x.id, *(x.ref(t) for t in x.terminal_names))} | plan.run_by_id.keys()
    scenarios = {*MEASURED_IN, *(s.id for s in plan.scenarios)}

    def stays(r: Reading) -> bool:
        return r.scenario in scenarios and r.a in stands and (r.quantity != "volts" or r.b in stands)

    def kept(entry: Entry) -> Entry:
        readings = tuple(r for r in entry.readings if stays(r))
        lost, words = len(entry.readings) - len(readings), []
        if entry.about and entry.about not in stands:
            words.append(f"About {entry.about}, since removed.")
        if lost:
            words.append(f"{lost} reading{'s' if lost > 1 else ''} went with what was removed.")
        if not words:
            return entry
        about = entry.about if entry.about in stands else ""
        text = " ".join(filter(None, (entry.text, *words)))[:LONGEST_ENTRY]
        return entry.model_copy(update={"about": about, "readings": readings, "text": text})

    return _with(plan, readings=tuple(r for r in plan.readings if stays(r)), log=tuple(kept(e) for e in plan.log))


def _unzoned(thing: Any, gone: set[str]) -> Any:
    lost = {name: None for name in ("zone", "route") if getattr(thing, name, None) in gone}
    return thing.model_copy(update=lost) if lost else thing


def insert_inline(plan: Plan, run_id: str, item: Inline, at_m: float | None = None) -> Plan:
    """Put a two-terminal item into a run, which becomes two.

    Parameters
    ----------
    at_m : float, optional
        How far from the run's end a; close to that end (at most 0.1 m) where not given.
    """
    field, index = find(plan, run_id)
    if field != "runs":
        raise EditError(f"{run_id} is no run")
    run = plan.runs[index]
    first = min(0.1, run.length_m / 2) if at_m is None else min(max(at_m, 0.0), run.length_m)
    second_id = fresh_id(plan, f"{run_id}-")
    near = _rebuilt(
        run, {"b": item.ref("a"), "length_m": first, "lug_b": None, "measured_ohm": None, "joint_b_ohm": None}
    )
    far = _rebuilt(
        run,
        {
            "id": second_id, "a": item.ref("b"), "length_m": round(run.length_m - first, 6),
            "lug_a": None, "measured_ohm": None, "joint_a_ohm": None,
        },
    )  # fmt: skip
    runs = (*plan.runs[:index], near, far, *plan.runs[index + 1 :])
    return checked(_with(plan, runs=runs, items=(*plan.items, item)))


def remove_inline(plan: Plan, item_id: str) -> Plan:
    """Take a two-terminal item out; the runs on its two sides become one."""
    item = plan.by_id.get(item_id)
    if not isinstance(item, Inline):
        raise EditError(f"{item_id} does not sit in a conductor")
    ends = [plan.runs_at.get(item.ref(t), ()) for t in ("a", "b")]
    if any(len(e) != 1 for e in ends) or ends[0][0] is ends[1][0]:
        return remove(plan, item_id)
    one, two = ends[0][0], ends[1][0]
    longer, other = (one, two) if one.length_m >= two.length_m else (two, one)

    def far(run: Run, terminal: str) -> tuple[str, dict[str, Any]]:
        """The end of a run away from the item, and what is known of it."""
        if run.b == item.ref(terminal):
            return run.a, {"lug": run.lug_a, "joint": run.joint_a_ohm}
        return run.b, {"lug": run.lug_b, "joint": run.joint_b_ohm}

    (ref_a, a), (ref_b, b) = far(one, "a"), far(two, "b")
    joined = _rebuilt(
        longer,
        {
            "id": one.id, "a": ref_a, "b": ref_b, "length_m": round(one.length_m + two.length_m, 6),
            "lug_a": a["lug"], "joint_a_ohm": a["joint"], "lug_b": b["lug"], "joint_b_ohm": b["joint"],
            "measured_ohm": None, "zone": longer.zone or other.zone,
        },
    )  # fmt: skip
    runs = tuple(joined if r is one else r for r in plan.runs if r is not two)
    return remove(_with(plan, runs=runs), item_id)


def replace_item(plan: Plan, item_id: str, new: Item | AnyEquipment) -> Plan:
    """Put another thing in the place of one; it must have the terminals that runs use."""
    field, index = find(plan, item_id)
    wants_equipment = isinstance(new, Equipment)
    if field != ("equipment" if wants_equipment else "items"):
        raise EditError(f"{new.id} cannot stand in the place of {item_id}")
    if new.id != item_id:
        plan = rename(plan, item_id, new.id)
    return checked(_put(plan, field, index, new))


def move_stud(plan: Plan, bar_id: str, stud_id: str, to: int) -> Plan:
    """Move one stud of a bar, with what is on it, to another place in the order."""
    field, index = find(plan, bar_id)
    bar = plan.items[index] if field == "items" else None
    if not isinstance(bar, Bar):
        raise EditError(f"{bar_id} is no bar")
    stud = next((s for s in bar.studs if s.id == stud_id), None)
    if stud is None:
        raise EditError(f"{bar_id} has no stud {stud_id}")
    rest = [s for s in bar.studs if s is not stud]
    rest.insert(min(max(to, 0), len(rest)), stud)
    return _put(plan, field, index, bar.model_copy(update={"studs": tuple(rest)}))


def add_stud(plan: Plan, bar_id: str, at: int | None = None) -> tuple[Plan, str]:
    """Add a stud to a bar, at the end where no place is given; return its terminal too."""
    field, index = find(plan, bar_id)
    bar = getattr(plan, field)[index]
    if not isinstance(bar, Bar):
        raise EditError(f"{bar_id} is no bar")
    taken = {s.id for s in bar.studs}
    name = next(f"s{k}" for k in range(1, len(taken) + 2) if f"s{k}" not in taken)
    studs = list(bar.studs)
    studs.insert(len(studs) if at is None else at, BarStud(id=name, thread=bar.studs[-1].thread))
    return _put(plan, field, index, bar.model_copy(update={"studs": tuple(studs)})), bar.ref(name)


def remove_stud(plan: Plan, bar_id: str, stud_id: str) -> Plan:
    """Take away a stud that nothing is on."""
    field, index = find(plan, bar_id)
    bar = getattr(plan, field)[index]
    if not isinstance(bar, Bar) or stud_id not in bar.terminal_names:
        raise EditError(f"{bar_id} has no stud {stud_id}")
    if plan.runs_at.get(bar.ref(stud_id)):
        raise EditError(f"something is on stud {stud_id} of {bar.title}")
    if len(bar.studs) == 1:
        raise EditError(f"{bar.title} has one stud only")
    kept = tuple(s for s in bar.studs if s.id != stud_id)
    return checked(without_dangling(_put(plan, field, index, bar.model_copy(update={"studs": kept}))))


def _free_terminal(plan: Plan, hub: Named, wanted: str | None) -> tuple[Plan, str]:
    """The wanted terminal, or the first free one of a hub, or a new stud."""
    if wanted is not None:
        return plan, hub.ref(wanted)
    for name in hub.terminal_names:
        if not plan.runs_at.get(hub.ref(name)):
            return plan, hub.ref(name)
    if isinstance(hub, Bar):
        return add_stud(plan, hub.id)
    return plan, hub.ref(hub.terminal_names[-1])


def add_circuit(
    plan: Plan,
    plus: str,
    minus: str,
    equipment: AnyEquipment,
    device: Fuse | Breaker | None,
    *,
    length_m: float = 2.0,
    conductor: str = "mm2-2.5",
    insulation: str = "pvc-105",
    plus_terminal: str | None = None,
    minus_terminal: str | None = None,
    device_at: Literal["plus", "minus"] = "plus",
    follows_load: bool = False,
) -> Plan:
    """Add equipment with its device and an equal pair of conductors.

    Parameters
    ----------
    plus, minus : str
        Ids of the hubs (bars, posts, chassis) that feed it and take it back.
    device : Fuse or Breaker, optional
        Stands in the conductor of one side next to its hub.
    plus_terminal, minus_terminal : str, optional
        Stud of the plus and of the minus hub; the first free one, or a new one, where not given.
    device_at : str
        On which side the device stands: minus where plus is earthed.
    follows_load : bool
        Whether the conductors' size follows the load until a person chooses one.
    """
    for id_ in (plus, minus):
        if id_ not in plan.by_id:
            raise EditError(f"nothing is called {id_}")
    plan, start = _free_terminal(plan, plan.by_id[plus], plus_terminal)
    plan, end = _free_terminal(plan, plan.by_id[minus], minus_terminal)
    inlet, outlet = ("in_plus", "in_minus") if isinstance(equipment, Converter) else ("plus", "minus")
    common: dict[str, Any] = {"conductor": conductor, "insulation": insulation, "follows_load": follows_load}
    ids = [fresh_id(plan, "W")]
    for _ in range(2):
        ids.append(fresh_id(plan, "W", ids))
    there = Run(id=ids[0], a=start, b=equipment.ref(inlet), length_m=length_m, **common)
    back = Run(id=ids[1], a=equipment.ref(outlet), b=end, length_m=length_m, **common)
    plan = _with(plan, equipment=(*plan.equipment, equipment))
    if device is not None:
        short = min(0.1, length_m / 2)
        rest = round(length_m - short, 6)
        if device_at == "plus":
            lead = Run(id=ids[2], a=start, b=device.ref("a"), length_m=short, **common)
            there = there.model_copy(update={"a": device.ref("b"), "length_m": rest})
        else:
            # The line side faces the bar that feeds, here too.
            lead = Run(id=ids[2], a=device.ref("a"), b=end, length_m=short, **common)
            back = back.model_copy(update={"b": device.ref("b"), "length_m": rest})
        plan = _with(plan, items=(*plan.items, device), runs=(*plan.runs, lead))
    return checked(_with(plan, runs=(*plan.runs, there, back)))


def remove_circuit(plan: Plan, equipment_id: str) -> Plan:
    """Remove equipment with its conductors and whatever sits in them, up to the hubs."""
    thing = plan.by_id.get(equipment_id)
    if not isinstance(thing, Equipment):
        raise EditError(f"{equipment_id} is no equipment")
    items, runs = {equipment_id}, set[str]()
    for terminal in thing.terminal_names:
        ref: str | None = thing.ref(terminal)
        while ref is not None:
            here = [r for r in plan.runs_at.get(ref, ()) if r.id not in runs]
            if len(here) != 1:
                runs.update(r.id for r in here if split_ref(ref)[0] == equipment_id)
                break
            run = here[0]
            runs.add(run.id)
            item_id, end = split_ref(run.b if run.a == ref else run.a)
            item = plan.by_id[item_id]
            if not isinstance(item, Inline) or len(plan.runs_at[item.ref(end)]) > 1:
                break
            items.add(item_id)
            ref = item.ref("b" if end == "a" else "a")
    return remove(plan, *items, *(runs - {r.id for r in plan.runs if {split_ref(r.a)[0], split_ref(r.b)[0]} & items}))


def set_state(plan: Plan, scenario_id: str, id_: str, state: State | None) -> Plan:
    """Say what equipment or a switch does in a scenario; None takes it back."""
    field, index = find(plan, scenario_id)
    if field != "scenarios":
        raise EditError(f"{scenario_id} is no scenario")
    scenario = plan.scenarios[index]
    states = {k: v for k, v in scenario.states.items() if k != id_}
    if state is not None:
        states[id_] = state
    return checked(_put(plan, field, index, scenario.model_copy(update={"states": states})))


def tick(plan: Plan, step: str, on: bool, day: str | None = None) -> Plan:
    """Tick a step of the work, with the day where it is known, or take the tick away."""
    kept = tuple(s for s in plan.done if s != step)
    days = {s: d for s, d in plan.done_on.items() if s != step}
    if on and day is not None:
        days[step] = day
    return change_plan(plan, done=(*kept, step) if on else kept, done_on=days)


def take_reading(plan: Plan, scenario: str, quantity: str, a: str, b: str, value: float | None) -> Plan:
    """Put a reading in place of an earlier one at the same point; None takes it away."""
    point = (scenario, quantity, a, b)
    kept = [r for r in plan.readings if (r.scenario, r.quantity, r.a, r.b) != point]
    if value is None:
        return change_plan(plan, readings=tuple(kept))
    new = {"scenario": scenario, "quantity": quantity, "a": a, "b": b, "value": value}
    return change_plan(plan, readings=(*kept, new))


def log_entry(plan: Plan, kind: str, on: str, **fields: Any) -> Plan:
    """Add a line to the log, with an id of its own."""
    entry = {"id": fresh_id(plan, "log-"), "kind": kind, "on": on, **fields}
    return change_plan(plan, log=(*plan.log, entry))


def remove_entry(plan: Plan, id_: str) -> Plan:
    """Take a line out of the log."""
    return change_plan(plan, log=tuple(e for e in plan.log if e.id != id_))


def log_readings(plan: Plan, on: str, text: str = "") -> Plan:
    """Put the readings that stand in the plan into the log as those of a day.

    Raises
    ------
    EditError
        None was taken.
    """
    if not plan.readings:
        raise EditError("no reading was taken yet")
    return log_entry(plan, "measured", on, text=text, readings=plan.readings)


def put_spot(plan: Plan, board: str, of: str, at_mm: tuple[float, float], turned: bool = False) -> Plan:
    """Put a thing onto a board, or move it there from where it stands."""
    spots = tuple(s for s in _board(plan, board).spots if s.of != of)
    new = {"of": of, "at_mm": at_mm, "turned": turned}
    others = tuple(
        b.model_copy(update={"spots": tuple(s for s in b.spots if s.of != of)}) if b.id != board else b
        for b in plan.boards
    )
    return change(_with(plan, boards=others), board, spots=(*spots, new))


def _board(plan: Plan, id_: str) -> Board:
    field, index = find(plan, id_)
    held = getattr(plan, field)[index]
    if not isinstance(held, Board):
        raise EditError(f"{id_} is no board")
    return held


def nudge_spot(plan: Plan, board: str, of: str, by_mm: tuple[float, float], turn: bool = False) -> Plan:
    """Move a thing on a board from where it stands in this very plan, or turn it."""
    spot = next((s for s in _board(plan, board).spots if s.of == of), None)
    if spot is None:
        raise EditError(f"{of} does not stand on {board}")
    at = (spot.at_mm[0] + by_mm[0], spot.at_mm[1] + by_mm[1])
    return put_spot(plan, board, of, at, spot.turned is not turn)


def take_spot(plan: Plan, board: str, of: str) -> Plan:
    """Take a thing off a board."""
    return change(plan, board, spots=tuple(s for s in _board(plan, board).spots if s.of != of))


def put_value(plan: Plan, field: Literal["prices", "torques"], key: str, value: float | None) -> Plan:
    """Give a plan a price or torque of its own; None takes it out."""
    kept = {k: v for k, v in getattr(plan, field).items() if k != key}
    return change_plan(plan, **{field: kept if value is None else {**kept, key: value}})


def put_values(plan: Plan, field: Literal["prices", "torques"], values: Mapping[str, float]) -> Plan:
    """Give a plan several prices or torques of its own."""
    return change_plan(plan, **{field: {**getattr(plan, field), **values}})


def take_readings(plan: Plan, readings: Iterable[Reading]) -> Plan:
    """Add readings, each in place of an older one at the same point and scenario."""
    new = tuple(readings)
    at = {(r.scenario, r.quantity, r.a, r.b) for r in new}
    kept = (r for r in plan.readings if (r.scenario, r.quantity, r.a, r.b) not in at)
    return change_plan(plan, readings=(*kept, *new))


def clear_readings(plan: Plan, scenario: str) -> Plan:
    """Forget what was read in a scenario."""
    return change_plan(plan, readings=tuple(r for r in plan.readings if r.scenario != scenario))


def put_family(plan: Plan, family: DeviceFamily) -> Plan:
    """Let a plan carry a device family of its own, in place of one of the same id."""
    kept = tuple(f for f in plan.parts.device_families if f.id != family.id)
    return change_plan(plan, parts=plan.parts.model_copy(update={"device_families": (*kept, family)}))


def set_override(plan: Plan, limit: str, value: float | None, reason: str = "") -> Plan:
    """Replace a limit of the practice in this plan; None goes back to the practice's own."""
    others = tuple(o for o in plan.overrides if o.limit != limit)
    if value is None:
        return _with(plan, overrides=others)
    if not reason.strip():
        raise EditError("an override needs its reason")
    return _with(plan, overrides=(*others, Override(limit=limit, value=value, reason=reason)))
