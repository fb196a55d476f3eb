"""Edits of the network: parts put into conductors, studs of bars, whole circuits."""

from typing import Any, Literal, NamedTuple

from jaunty_copper.language import say
from jaunty_copper.plan.edits.basic import EditError, _put, _rebuilt, _with, checked, find, fresh_id
from jaunty_copper.plan.edits.references import remove, without_dangling
from jaunty_copper.plan.model import (
    AnyEquipment,
    Bar,
    BarStud,
    Breaker,
    Chassis,
    ChassisPoint,
    Converter,
    Equipment,
    Fuse,
    Inline,
    Named,
    Plan,
    Run,
    split_ref,
)

NEAR_M = 0.1
"""From one thing to another that stands next to it."""


def insert_inline(plan: Plan, run_id: str, item: Inline, at_m: float | None = None) -> Plan:
    """Put a two-terminal item into a run, which becomes two.

    Parameters
    ----------
    at_m : float, optional
        How far from the run's end a; close to that end (at most 0.1 m) where not given.
    """
    field, index = find(plan, run_id)
    if field != "runs":
        raise EditError(say("{run_id} is no run", run_id=run_id))
    run = plan.runs[index]
    first = min(NEAR_M, run.length_m / 2) if at_m is None else round(min(max(at_m, 0.0), run.length_m), 6)
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


def insert_far(plan: Plan, ref: str, item: Inline) -> Plan:
    """Put a two-terminal item into the one conductor at a terminal, next to what stands at its other end.

    Parameters
    ----------
    ref : str
        The terminal, of equipment for example.

    Raises
    ------
    EditError
        No conductor, or more than one, is on it.
    """
    if len(plan.runs_at.get(ref, ())) != 1:
        raise EditError(say("there is not one conductor on {ref}", ref=ref))
    (run,) = plan.runs_at[ref]
    near = min(NEAR_M, run.length_m / 2)
    return insert_inline(plan, run.id, item, run.length_m - near if run.a == ref else near)


def remove_inline(plan: Plan, item_id: str) -> Plan:
    """Take a two-terminal item out; the runs on its two sides become one."""
    item = plan.by_id.get(item_id)
    if not isinstance(item, Inline):
        raise EditError(say("{item_id} does not sit in a conductor", item_id=item_id))
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


def move_stud(plan: Plan, bar_id: str, stud_id: str, to: int) -> Plan:
    """Move one stud of a bar, with what is on it, to another place in the order.

    Parameters
    ----------
    to : int
        Its place in the order, from 0.
    """
    field, index = find(plan, bar_id)
    bar = plan.items[index] if field == "items" else None
    if not isinstance(bar, Bar):
        raise EditError(say("{bar_id} is no bar", bar_id=bar_id))
    stud = next((s for s in bar.studs if s.id == stud_id), None)
    if stud is None:
        raise EditError(say("{bar_id} has no stud {stud_id}", bar_id=bar_id, stud_id=stud_id))
    rest = [s for s in bar.studs if s is not stud]
    rest.insert(min(max(to, 0), len(rest)), stud)
    return _put(plan, field, index, bar.model_copy(update={"studs": tuple(rest)}))


class StudsOf(NamedTuple):
    """Where a kind of hub has its studs, what they are, and how their names begin."""

    field: str
    kind: type[BarStud | ChassisPoint]
    stem: str


STUDS: dict[type, StudsOf] = {Bar: StudsOf("studs", BarStud, "s"), Chassis: StudsOf("points", ChassisPoint, "p")}


def studs_of(plan: Plan, hub_id: str) -> tuple[Bar | Chassis, StudsOf]:
    """A bar or the chassis, and where it has its studs."""
    hub = plan.by_id.get(hub_id)
    if not isinstance(hub, Bar | Chassis):
        raise EditError(say("{hub_id} is no bar and no chassis", hub_id=hub_id))
    return hub, STUDS[type(hub)]


def add_stud(plan: Plan, hub_id: str, at: int | None = None) -> tuple[Plan, str]:
    """Add a stud to a bar or a point to the chassis, at the end where no place is given; return its terminal too.

    Parameters
    ----------
    at : int, optional
        Its place in the order, from 0.
    """
    hub, of = studs_of(plan, hub_id)
    held, taken = list(getattr(hub, of.field)), set(hub.terminal_names)
    name = next(f"{of.stem}{k}" for k in range(1, len(taken) + 2) if f"{of.stem}{k}" not in taken)
    held.insert(len(held) if at is None else at, of.kind(id=name, thread=held[-1].thread))
    return _put(plan, *find(plan, hub_id), hub.model_copy(update={of.field: tuple(held)})), hub.ref(name)


def remove_stud(plan: Plan, hub_id: str, stud_id: str) -> Plan:
    """Take away a stud, or a point of the chassis, that nothing is on."""
    hub, of = studs_of(plan, hub_id)
    if stud_id not in hub.terminal_names:
        raise EditError(say("{hub_id} has no stud {stud_id}", hub_id=hub_id, stud_id=stud_id))
    if plan.runs_at.get(hub.ref(stud_id)):
        raise EditError(say("something is on stud {stud_id} of {hub}", stud_id=stud_id, hub=hub.title))
    if len(hub.terminal_names) == 1:
        raise EditError(say("{hub} has one stud only", hub=hub.title))
    kept = tuple(s for s in getattr(hub, of.field) if s.id != stud_id)
    return checked(without_dangling(_put(plan, *find(plan, hub_id), hub.model_copy(update={of.field: kept}))))


def free_terminal(plan: Plan, hub: Named, wanted: str | None) -> tuple[Plan, str]:
    """The wanted terminal, or the first free one of a hub, or a new stud."""
    if wanted is not None:
        return plan, hub.ref(wanted)
    for name in hub.terminal_names:
        if not plan.runs_at.get(hub.ref(name)):
            return plan, hub.ref(name)
    if isinstance(hub, Bar | Chassis):
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
    """Add equipment, or take what is there, with its device and an equal pair of conductors.

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
            raise EditError(say("nothing is called {id}", id=id_))
    plan, start = free_terminal(plan, plan.by_id[plus], plus_terminal)
    plan, end = free_terminal(plan, plan.by_id[minus], minus_terminal)
    inlet, outlet = ("in_plus", "in_minus") if isinstance(equipment, Converter) else ("plus", "minus")
    common: dict[str, Any] = {"conductor": conductor, "insulation": insulation, "follows_load": follows_load}
    ids = [fresh_id(plan, "W")]
    for _ in range(2):
        ids.append(fresh_id(plan, "W", ids))
    there = Run(id=ids[0], a=start, b=equipment.ref(inlet), length_m=length_m, **common)
    back = Run(id=ids[1], a=equipment.ref(outlet), b=end, length_m=length_m, **common)
    if equipment.id not in plan.by_id:
        plan = _with(plan, equipment=(*plan.equipment, equipment))
    if device is not None:
        short = min(0.1, length_m / 2)
        hub = plan.by_id[plus if device_at == "plus" else minus]
        if isinstance(hub, Bar) and hub.fuse_family is not None and isinstance(device, Fuse):
            # A distributor takes its own fuses, straight in its positions.
            short, device = 0.0, device.model_copy(update={"family": hub.fuse_family})
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
        raise EditError(say("{equipment_id} is no equipment", equipment_id=equipment_id))
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
