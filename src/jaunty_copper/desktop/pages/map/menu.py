"""What can be done at a place of the map: the same list for mouse and keyboard."""

from collections.abc import Iterator
from functools import partial
from typing import NamedTuple

from jaunty_copper.battery.building import growing
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.plan import defaults, edits
from jaunty_copper.plan.check import SWITCHES
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Chassis,
    Converter,
    Equipment,
    Inline,
    Item,
    Plan,
    Post,
    Run,
)

HUB_NAMES: dict[type, str] = {Bar: say("busbar"), Post: say("stud"), Chassis: say("chassis")}


class MenuChoice(NamedTuple):
    """One line of a menu.

    Attributes
    ----------
    group : str
        Submenu it stands in; empty for the menu itself.
    selects : str or None
        What to select after the edit.
    """

    group: str
    text: str
    edit: Edit
    selects: str | None = None


def menu_choices(plan: Plan, picture: Picture | None, selected: str | None) -> Iterator[MenuChoice]:
    """Everything that can be done at a selection, in the order of the menu."""
    if not selected:
        yield from _anywhere(plan)
        return
    id_, _, terminal = selected.partition(".")
    if id_ in plan.run_by_id:
        yield from _at_run(plan, picture, plan.run_by_id[id_])
        return
    thing = plan.by_id.get(id_)
    match thing:
        case Bar() | Chassis() | Post():
            yield from _at_hub(plan, thing, terminal or None)
        case Inline():
            yield from _at_inline(plan, thing)
        case Battery():
            yield from _at_unit(plan, thing)
            yield MenuChoice("", say("Remove this unit"), Edit(say("Remove {thing}", thing=thing.title), _remover(id_)))
        case Equipment():
            yield from _at_equipment(plan, thing)


def _at_unit(plan: Plan, unit: Battery) -> Iterator[MenuChoice]:
    new = edits.fresh_id(plan, "B")
    found = growing(plan, unit.id)
    if not any(edit.label.endswith("in parallel") for edit in found):
        # Where something stands between its units the others stay as they are.
        edit = Edit(say("Add a unit beside {unit}", unit=unit.title), partial(defaults.add_unit, beside=unit.id))
        yield MenuChoice("", say("Add a unit in parallel"), edit, new)
    for edit in found:
        yield MenuChoice("", edit.label, edit, new if edit.label.startswith("Add") else None)


def _remover(*ids: str) -> "partial[Plan]":
    return partial(edits.remove_all, ids=ids)


def _adder(*things: Item) -> "partial[Plan]":
    return partial(_add, things=things)


def _add(plan: Plan, things: tuple[Item, ...]) -> Plan:
    return edits.add(plan, *things)


def _anywhere(plan: Plan) -> Iterator[MenuChoice]:
    for kind, word in defaults.HUB_WORDS.items():
        hubs = defaults.new_hubs(plan, kind)
        yield MenuChoice(
            "Add", word, Edit(say("Add {word} {hubs}", word=word.lower(), hubs=hubs[0].id), _adder(*hubs)), hubs[0].id
        )
    unit = Battery(id=edits.fresh_id(plan, "B"), chemistry="lifepo4", nominal_v=12.0, capacity_ah=100.0)
    yield MenuChoice("Add", say("Battery unit"), Edit(say("Add battery {unit}", unit=unit.id), _adder(unit)), unit.id)


def _at_run(plan: Plan, picture: Picture | None, run: Run) -> Iterator[MenuChoice]:
    ampacity = 30.0
    if picture is not None and picture.case is not None and run.id in picture.case.ampacities:
        ampacity = picture.case.ampacities[run.id].amps
    for kind, word in defaults.INLINE_WORDS.items():
        item = defaults.new_inline(plan, kind, ampacity)
        yield MenuChoice(
            "Insert",
            word,
            Edit(
                say("Insert {word} in {run}", word=word.lower(), run=run.id),
                partial(edits.insert_inline, run_id=run.id, item=item),
            ),
            item.id,
        )
    twin = run.model_copy(update={"id": edits.fresh_id(plan, "W")})
    yield MenuChoice(
        "",
        say("Add a parallel conductor"),
        Edit(say("Double {run}", run=run.id), partial(edits.change, id_=run.id, parallel=run.parallel + 1)),
    )
    yield MenuChoice(
        "",
        say("Lay a second run between the same ends"),
        Edit(say("Add {twin}", twin=twin.id), partial(_add_run, run=twin)),
        twin.id,
    )
    yield MenuChoice("", say("Remove this conductor"), Edit(say("Remove {run}", run=run.id), _remover(run.id)))


def _add_run(plan: Plan, run: Run) -> Plan:
    return edits.add(plan, run)


def _at_inline(plan: Plan, item: Inline) -> Iterator[MenuChoice]:
    rating = getattr(item, "rating_a", None) or 30.0
    kind_now = getattr(item, "kind", "")
    for kind, word in defaults.INLINE_WORDS.items():
        if kind == kind_now:
            continue
        new = defaults.new_inline(plan, kind, rating).model_copy(
            update={"id": item.id, "name": item.name, "zone": item.zone}
        )
        yield MenuChoice(
            say("Replace by"),
            word,
            Edit(
                say("Replace {item} by a {word}", item=item.title, word=word.lower()),
                partial(edits.replace_item, item_id=item.id, new=new),
            ),
        )
    if isinstance(item, SWITCHES):
        word = say("Open") if item.closed else say("Close")
        yield MenuChoice(
            "",
            say("{word} it", word=word),
            Edit(f"{word} {item.title}", partial(edits.change, id_=item.id, closed=not item.closed)),
        )
    yield MenuChoice(
        "",
        say("Remove, joining the conductor"),
        Edit(say("Remove {item}", item=item.title), partial(edits.remove_inline, item_id=item.id)),
    )


def _at_hub(plan: Plan, hub: Bar | Chassis | Post, terminal: str | None) -> Iterator[MenuChoice]:
    # The rules come with it: they are loaded with the first study, not with the window.
    from jaunty_copper.choosing import circuits

    if not isinstance(hub, Chassis):
        for word, equipment in circuits.that_fit(plan, hub):
            edit = Edit(
                say("Add {word} {equipment}", word=word.lower(), equipment=equipment.id),
                partial(circuits.add_circuit, hub_id=hub.id, equipment=equipment, terminal=terminal),
                slow=True,
            )
            yield MenuChoice(say("Add circuit"), word, edit, equipment.id)
    if not isinstance(hub, Bar):
        yield MenuChoice(
            "",
            say("Remove this {hub_names}", hub_names=HUB_NAMES[type(hub)]),
            Edit(say("Remove {hub}", hub=hub.title), _remover(hub.id)),
        )
        return
    names = hub.terminal_names
    at = names.index(terminal) if terminal in names else len(names) - 1
    yield MenuChoice(
        "",
        say("Add a stud here"),
        Edit(say("Add a stud to {hub}", hub=hub.title), partial(_add_stud, bar_id=hub.id, at=at + 1)),
    )
    if terminal is not None:
        if at > 0:
            yield MenuChoice(
                "",
                say("Move this stud up"),
                Edit(
                    say("Move stud {terminal} up", terminal=terminal),
                    partial(edits.move_stud, bar_id=hub.id, stud_id=terminal, to=at - 1),
                ),
            )
        if at + 1 < len(names):
            yield MenuChoice(
                "",
                say("Move this stud down"),
                Edit(
                    say("Move stud {terminal} down", terminal=terminal),
                    partial(edits.move_stud, bar_id=hub.id, stud_id=terminal, to=at + 1),
                ),
            )
        if not plan.runs_at.get(hub.ref(terminal)):
            yield MenuChoice(
                "",
                say("Remove this stud"),
                Edit(
                    say("Remove stud {terminal}", terminal=terminal),
                    partial(edits.remove_stud, hub_id=hub.id, stud_id=terminal),
                ),
            )
    yield MenuChoice(
        "",
        say("Remove this {hub_names}", hub_names=HUB_NAMES[type(hub)]),
        Edit(say("Remove {hub}", hub=hub.title), _remover(hub.id)),
    )


def _add_stud(plan: Plan, bar_id: str, at: int) -> Plan:
    return edits.add_stud(plan, bar_id, at)[0]


def _at_equipment(plan: Plan, e: Equipment) -> Iterator[MenuChoice]:
    if not isinstance(e, Converter):
        for kind, word, fresh in defaults.equipment_for(plan, e.nominal_v):
            if kind in ("converter", getattr(e, "kind", "")):
                continue
            new = fresh.model_copy(update={"id": e.id, "name": e.name, "zone": e.zone})
            yield MenuChoice(
                say("Replace by"),
                word,
                Edit(
                    say("Replace {e} by a {word}", e=e.title, word=word.lower()),
                    partial(edits.replace_item, item_id=e.id, new=new),
                ),
            )
    yield MenuChoice(
        "",
        say("Remove this circuit"),
        Edit(say("Remove {e}", e=e.title), partial(edits.remove_circuit, equipment_id=e.id)),
    )
