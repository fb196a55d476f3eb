"""Whole circuits: cut out of a plan as a plan of their own, put into another, led to other bars."""

from collections.abc import Collection
from typing import Any

from jaunty_copper.language import say
from jaunty_copper.plan.edits.basic import EditError, _with, checked, fresh_id, fresh_name
from jaunty_copper.plan.edits.circuits import free_terminal, remove_circuit
from jaunty_copper.plan.model import (
    Bar,
    Chassis,
    Equipment,
    Inline,
    Item,
    Plan,
    Post,
    Run,
    split_ref,
)
from jaunty_copper.plan.supply import supply_of

Hub = Bar | Post | Chassis


def circuit_of(plan: Plan, equipment_id: str) -> tuple[tuple[Run, ...], tuple[Inline, ...], dict[str, str]]:
    """Conductors and devices of a circuit from its equipment to its hubs.

    Returns
    -------
    runs, items, hubs
        `hubs` has the hub's terminal by the equipment's terminal that leads to it; a converter's outputs are not of it.

    Raises
    ------
    EditError
        It is no equipment.
    """
    thing = plan.by_id.get(equipment_id)
    if not isinstance(thing, Equipment):
        raise EditError(say("{equipment_id} is no equipment", equipment_id=equipment_id))
    runs, items, hubs = list[Run](), list[Inline](), dict[str, str]()
    for start in thing.port:
        ref = start
        while True:
            here = [r for r in plan.runs_at.get(ref, ()) if r not in runs]
            if len(here) != 1:
                break
            runs.append(here[0])
            far = here[0].b if here[0].a == ref else here[0].a
            item = plan.by_id[split_ref(far)[0]]
            if isinstance(item, Bar | Post | Chassis):
                hubs[start] = far
            if (
                not isinstance(item, Inline)
                or len(plan.runs_at[far]) > 1
                or len(plan.runs_at.get(_beyond(item, far), ())) > 1
            ):
                # What others hang on too is not the circuit's own.
                break
            if item not in items:
                items.append(item)
            ref = _beyond(item, far)
    return tuple(runs), tuple(items), hubs


def _beyond(item: Inline, ref: str) -> str:
    return item.ref("b" if split_ref(ref)[1] == "a" else "a")


def cut_out(plan: Plan, equipment_ids: tuple[str, ...]) -> Plan:
    """Circuits as a plan of their own, with the hubs that they are on.

    Raises
    ------
    EditError
        Nothing of it is equipment.
    """
    runs, items, hubs, equipment = dict[str, Run](), dict[str, Any](), dict[str, Item](), list[Any]()
    for id_ in equipment_ids:
        own, devices, ends = circuit_of(plan, id_)
        equipment.append(plan.by_id[id_])
        runs |= {
            r.id: r
            for r in own
            if set(map(_owner, (r.a, r.b))) <= {id_, *(d.id for d in devices), *map(_owner, ends.values())}
        }
        items |= {d.id: d for d in devices}
        for ref in ends.values():
            hub = plan.by_id[_owner(ref)]
            assert isinstance(hub, Bar | Post | Chassis)
            hubs[hub.id] = hub
    if not equipment:
        raise EditError(say("nothing of it is a circuit"))
    named = {getattr(x, "zone", None) for x in (*items.values(), *equipment, *runs.values(), *hubs.values())}
    routes = {r.route for r in runs.values()}
    return checked(
        Plan(
            name="Circuits", practice=plan.practice, parts=plan.parts,
            zones=tuple(z for z in plan.zones if z.id in named), routes=tuple(r for r in plan.routes if r.id in routes),
            items=(*hubs.values(), *items.values()), equipment=tuple(_alone(e, items) for e in equipment), runs=tuple(runs.values()),
        )
    )  # fmt: skip


def _owner(ref: str) -> str:
    return split_ref(ref)[0]


def _alone(e: Any, items: Collection[str]) -> Any:
    """Equipment without what it says of things that are not with it: where it senses, whose coil it is."""
    if hasattr(e, "sense_plus"):
        return e.model_copy(update={"sense_plus": None, "sense_minus": None})
    return e.model_copy(update={"drives": None}) if getattr(e, "drives", None) not in (None, *items) else e


def paste(plan: Plan, piece: Plan, hub: str | None = None) -> tuple[Plan, tuple[str, ...]]:
    """Put the circuits of another plan into this one; return the ids of their equipment.

    Each end goes to the hub of the same id, or of the same name, or else to the one that is given and the one on its
    other side; an end for which there is none stays loose.

    Parameters
    ----------
    piece : Plan
        From `cut_out`, or any plan.
    hub : str, optional
        Where those ends go that have nowhere else; foremost where it is on the same side as they were.

    Raises
    ------
    EditError
        There are no circuits in it.
    """
    if not piece.equipment:
        raise EditError(say("there is no circuit on the clipboard"))
    ids, taken = dict[str, str](), set[str]()
    for x in (*piece.equipment, *(i for i in piece.items if isinstance(i, Inline)), *piece.runs):
        new = x.id if x.id not in _all(plan) | taken else fresh_id(plan, x.id.rstrip("0123456789") or "X", taken)
        ids[x.id] = new
        taken.add(new)
    zones, routes = {z.id for z in plan.zones}, {r.id for r in plan.routes}
    names = [x.name for x in plan.placed if getattr(x, "name", "")]

    def renewed(x: Any) -> Any:
        changes: dict[str, Any] = {"id": ids[x.id]}
        if getattr(x, "zone", None) not in (None, *zones):
            changes["zone"] = None
        if getattr(x, "route", None) not in (None, *routes):
            changes["route"] = None
        if getattr(x, "drives", None) is not None:
            changes["drives"] = ids.get(x.drives)
        if getattr(x, "name", ""):
            changes["name"] = fresh_name(names, x.name)
            names.append(changes["name"])
        return x.model_copy(update=changes)

    equipment = tuple(renewed(e) for e in piece.equipment)
    items = tuple(renewed(x) for x in piece.items if isinstance(x, Inline))
    plan = _with(plan, equipment=(*plan.equipment, *equipment), items=(*plan.items, *items))
    runs = list[Run]()
    for run in piece.runs:
        ends = {}
        for end in ("a", "b"):
            owner, terminal = split_ref(getattr(run, end))
            if owner in ids:
                ends[end] = f"{ids[owner]}.{terminal}"
                continue
            home = _home(plan, piece, owner, hub)
            if home is None:
                break
            plan, ends[end] = free_terminal(_with(plan, runs=(*plan.runs, *runs)), plan.by_id[home], None)
            plan = _with(plan, runs=tuple(r for r in plan.runs if r not in runs))
        if len(ends) == 2:
            fresh = renewed(run).model_copy(
                update={**ends, "measured_ohm": None, "joint_a_ohm": None, "joint_b_ohm": None}
            )
            runs.append(fresh)
    return checked(_with(plan, runs=(*plan.runs, *runs))), tuple(e.id for e in equipment)


def _all(plan: Plan) -> set[str]:
    return {*plan.by_id, *plan.run_by_id, *(z.id for z in plan.zones), *(s.id for s in plan.scenarios)}


def _home(plan: Plan, piece: Plan, owner: str, hub: str | None) -> str | None:
    """The hub in a plan that stands for one of a piece."""
    there = piece.by_id[owner]
    given = plan.by_id.get(hub) if hub is not None else None
    if isinstance(given, Bar | Post | Chassis) and hub != owner:
        # The side of a hub in the piece follows from what leads to it.
        plus = any(split_ref(ref)[1] in ("plus", "in_plus") for ref in _reached(piece, owner))
        side = "plus" if plus else "minus"
        supply = supply_of(plan, given)
        return given.id if supply.side == side else supply.back
    same = plan.by_id.get(owner)
    if isinstance(same, Bar | Post | Chassis):
        return owner
    alike = [
        x.id
        for x in plan.items
        if isinstance(x, Bar | Post | Chassis) and x.name and x.name == getattr(there, "name", None)
    ]
    return alike[0] if alike else None


def _reached(piece: Plan, hub: str) -> set[str]:
    """Terminals of equipment that a hub of a piece leads to, through devices."""
    found, waiting = set[str](), [piece.by_id[hub].ref(t) for t in piece.by_id[hub].terminal_names]
    seen = set[str]()
    while waiting:
        ref = waiting.pop()
        for run in piece.runs_at.get(ref, ()):
            far = run.b if run.a == ref else run.a
            if far in seen:
                continue
            seen.add(far)
            thing = piece.by_id[_owner(far)]
            if isinstance(thing, Inline):
                waiting.append(_beyond(thing, far))
            elif isinstance(thing, Equipment):
                found.add(far)
    return found


def cut_away(plan: Plan, equipment_ids: tuple[str, ...]) -> Plan:
    """Remove circuits."""
    for id_ in equipment_ids:
        plan = remove_circuit(plan, id_)
    return plan


def lead_circuit(plan: Plan, equipment_id: str, hub: str) -> Plan:
    """Lead a circuit to another bar, and its other pole to the one on that bar's other side.

    Raises
    ------
    EditError
        It is no hub, or has no other side.
    """
    to = plan.by_id.get(hub)
    if not isinstance(to, Bar | Post | Chassis):
        raise EditError(say("{hub} is no bar, stud or chassis", hub=hub))
    supply = supply_of(plan, to)
    if supply.back is None:
        raise EditError(say("no bar on the other side of {to}'s system: a circuit needs a return", to=to.title))
    runs, _, hubs = circuit_of(plan, equipment_id)
    if not hubs:
        raise EditError(say("{equipment_id} is on no bar", equipment_id=plan.by_id[equipment_id].title))
    own = {r.id for r in runs}
    for start, ref in hubs.items():
        pole = "plus" if split_ref(start)[1] in ("plus", "in_plus") else "minus"
        home = hub if pole == supply.side else supply.back
        if _owner(ref) == home:
            continue
        plan, end = free_terminal(plan, plan.by_id[home], None)
        moved = tuple(
            r
            if r.id not in own
            else r.model_copy(update={"a": end if r.a == ref else r.a, "b": end if r.b == ref else r.b})
            for r in plan.runs
        )
        plan = checked(_with(plan, runs=moved))
    return plan
