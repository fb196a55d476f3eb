"""The lines of the inspector, as data: heads, computed facts, fields with what they edit."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache, partial
from typing import Any, Literal

from jaunty_copper.choosing import sizing
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.code import code_name, code_names
from jaunty_copper.desktop.inspector.facts import facts_of
from jaunty_copper.desktop.inspector.fields import COUNTED, FIELDS, KIND_WORDS, Kind
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.words import FEET, Units
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.check import SWITCHES
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Equipment, Named, Plan, Run, Scenario, Zone

NARROW = 21
"""Letters that a field beside its label has room for."""


@dataclass(frozen=True)
class FieldEntry:
    """One line of the inspector.

    Attributes
    ----------
    kind : str
        A head, a caption, a gap, a computed fact, a note, or a field.
    id, name, scenario : str
        Thing and field that a field edits, and in which scenario where it is about one.
    value : object
        What to show.
    field, choices, factor
        How a field is edited.
    edit : callable or None
        From a new value to the edit.
    """

    kind: Literal["head", "caption", "gap", "fact", "note", "field"]
    label: str = ""
    value: Any = ""
    id: str = ""
    name: str = ""
    scenario: str = ""
    field: Kind = "text"
    choices: tuple[tuple[Any, str], ...] = ()
    factor: float = 1.0
    unit: str = ""
    edit: Callable[[Any], Edit] | None = None

    @property
    def spoken(self) -> str:
        """What it is called, with its unit, for who does not see the field."""
        return f"{self.label}, {self.unit}" if self.unit else self.label

    @property
    def wide(self) -> bool:
        """Whether its value needs the whole width of the panel, below its label."""
        return self.kind == "field" and (self.id == "plan" or _longest(self.choices) > NARROW)

    @property
    def form(self) -> tuple[object, ...]:
        """What it is about, and how it is edited: all but the value."""
        return (self.id, self.scenario, *self.shape)

    @property
    def shape(self) -> tuple[object, ...]:
        """How it looks and is edited: entries of one shape can share a widget, whatever they are about."""
        label = self.label if self.kind in ("fact", "field") else ""
        return (self.kind, label, self.wide, self.name, self.field, self.choices, self.factor, self.unit)


@lru_cache(maxsize=64)
def _longest(choices: tuple[tuple[Any, str], ...]) -> int:
    """Letters of the longest of some choices, remembered: all terminals of a plan are looked at for each conductor."""
    return max((len(word) for _, word in choices), default=0)


def describe(
    picture: Picture, plan: Plan, selected: str | None, scenario: str | None, units: Units
) -> Iterator[FieldEntry]:
    """All lines for a selection of a plan, with figures of its newest study.

    Parameters
    ----------
    picture : Picture
        The newest study, perhaps of the plan as it was a moment ago.
    selected : str or None
        Id or terminal of what is selected; the plan itself where None.
    scenario : str or None
        Whose figures to show.
    """
    case = picture.case
    assert case is not None
    id_, _, stud = (selected or "").partition(".")
    thing: Named | Run | None = plan.run_by_id.get(id_) or plan.by_id.get(id_)
    if thing is None:
        yield from _the_plan(plan, case, scenario, units)
        return
    if isinstance(thing, Run):
        yield FieldEntry("head", value=plan.run_title(thing))
        yield FieldEntry("caption", value=say("{thing} · conductor", thing=thing.id))
    else:
        yield FieldEntry("head", value=thing.title)
        yield FieldEntry(
            "caption", value=f"{thing.id}{say(' · stud ') + stud if stud else ''} · {KIND_WORDS[type(thing)]}"
        )
    for label, value in facts_of(picture, thing.id, stud, scenario, units):
        yield FieldEntry("fact", label, value)
    yield FieldEntry("gap")
    yield from _fields(plan, case, thing, units)
    yield from _state(plan, thing, scenario)


OF_ONE = frozenset({"name", "a", "b", "measured_ohm", "joint_a_ohm", "joint_b_ohm"})
"""Fields that each thing has for itself."""
SEVERAL = "several"


def describe_all(picture: Picture, plan: Plan, ids: tuple[str, ...], units: Units) -> Iterator[FieldEntry]:
    """What several things have in common, to be changed for all of them at once."""
    case = picture.case
    assert case is not None
    things = [x for id_ in ids if (x := plan.run_by_id.get(id_) or plan.by_id.get(id_)) is not None]
    kinds = {type(x) for x in things}
    counted = COUNTED[kinds.pop()] if len(kinds) == 1 else COUNTED[object]
    yield FieldEntry("head", value=counted(len(things)))
    yield FieldEntry("caption", value=say("what is changed here is changed for all of them"))
    yield FieldEntry("gap")
    shared = [set(FIELDS[type(x)]) for x in things]
    chosen = tuple(x.id for x in things)
    group = ""
    for field in FIELDS[type(things[0])] if things else ():
        if field.name in OF_ONE or not all(field in fields for fields in shared):
            continue
        if field.group != group:
            group = field.group
            yield FieldEntry("gap")
            yield FieldEntry("caption", value=group)
        values = {getattr(x, field.name) for x in things}
        feet = field.unit == "m" and units.awg
        unit = "ft" if feet else field.unit

        def edit(new: Any, name: str = field.name, label: str = field.label) -> Edit:
            return Edit(
                say("{label} of {those}", label=label, those=counted(len(chosen))),
                partial(_change_all, ids=chosen, field=name, value=new),
                slow=True,
            )

        yield FieldEntry(
            "field", field.label, values.pop() if len(values) == 1 else SEVERAL,
            "+".join(chosen), field.name, "", field.kind, tuple(field.choices(plan, case, units)) if field.choices else (),
            FEET if feet else field.factor, unit, edit,
        )  # fmt: skip


def _change_all(plan: Plan, ids: tuple[str, ...], field: str, value: Any) -> Plan:
    return sizing.change_many(plan, {id_: {field: value} for id_ in ids})


def _the_plan(plan: Plan, case: Case, scenario_id: str | None, units: Units) -> Iterator[FieldEntry]:
    yield FieldEntry("head", value=plan.title or say("Plan without a name"))
    yield FieldEntry("caption", value=say("the plan"))
    yield FieldEntry(
        "field", say("Name"), plan.name, "plan", "name",
        edit=lambda v: Edit(say("Rename the plan"), partial(edits.change_plan, name=v)),
    )  # fmt: skip
    yield FieldEntry(
        "field", say("Code"), plan.practice, "plan", "practice", "", "choice", tuple((n, code_name(n)) for n in code_names()),
        edit=lambda v: Edit(say('Judge by {code}', code=code_name(v)), partial(edits.change_plan, practice=v)),
    )  # fmt: skip
    yield FieldEntry("note", value=case.code.summary)
    yield FieldEntry(
        "field", say("Devices by"), plan.devices_by, "plan", "devices_by", "", "choice",
        (("conductor", say("largest that protects the conductor")), ("load", say("smallest that carries the load"))),
        edit=lambda v: Edit(say('Choose devices by the {v}', v=v), partial(edits.change_plan, devices_by=v)),
    )  # fmt: skip
    yield FieldEntry(
        "field", say("Floating on purpose"), plan.floating, "plan", "floating", "", "flag",
        edit=lambda v: Edit(say("Let the system float") if v else say("Do not say that the system floats"), partial(edits.change_plan, floating=v)),
    )  # fmt: skip
    yield FieldEntry(
        "field", say("Note"), plan.note, "plan", "note", "", "long",
        edit=lambda v: Edit(say("Note on the plan"), partial(edits.change_plan, note=v)),
    )  # fmt: skip
    scenario = next((s for s in plan.scenarios if s.id == scenario_id), None)
    if scenario is not None:
        yield FieldEntry("gap")
        yield FieldEntry("caption", value=say("This scenario"))
        yield from _fields(plan, case, scenario, units)
    for zone in plan.zones:
        yield FieldEntry("gap")
        yield FieldEntry("caption", value=say("Zone {zone}", zone=zone.id))
        yield from _fields(plan, case, zone, units)


def _fields(plan: Plan, case: Case, thing: Named | Run | Zone | Scenario, units: Units) -> Iterator[FieldEntry]:
    title = thing.id if isinstance(thing, Run) else getattr(thing, "title", thing.id)
    group = ""
    for field in FIELDS[type(thing)]:
        if field.group != group:
            group = field.group
            yield FieldEntry("gap")
            yield FieldEntry("caption", value=group)
        feet = field.unit == "m" and units.awg
        unit = "ft" if feet else field.unit

        def edit(new: Any, name: str = field.name, label: str = field.label) -> Edit:
            return Edit(
                say("{label} of {title}", label=label, title=title), partial(sizing.change, id_=thing.id, **{name: new})
            )

        yield FieldEntry(
            "field", field.label, getattr(thing, field.name), thing.id, field.name,
            "", field.kind, tuple(field.choices(plan, case, units)) if field.choices else (), FEET if feet else field.factor, unit, edit,
        )  # fmt: skip


def _state(plan: Plan, thing: Named | Run, scenario_id: str | None) -> Iterator[FieldEntry]:
    """What equipment or a switch does in the chosen scenario."""
    scenario = next((s for s in plan.scenarios if s.id == scenario_id), None)
    switch = isinstance(thing, SWITCHES)
    if scenario is None or not (switch or isinstance(thing, Equipment)):
        return
    value = scenario.states.get(thing.id)
    choices: list[tuple[Any, str]] = (
        [(None, say("as drawn")), ("closed", "closed"), ("open", "open")]
        if switch
        else [
            (None, say("on")),
            ("off", say("off")),
            ("surge", say("surge")),
            *((k / 10, f"{10 * k} %") for k in range(1, 10)),
        ]
    )
    value = None if value == "on" else value
    if isinstance(value, float) and value not in [c for c, _ in choices]:
        choices.append((value, f"{100 * value:g} %"))
    id_ = scenario.id
    yield FieldEntry("gap")
    yield FieldEntry(
        "field", say('In “{scenario}”', scenario=scenario.title), value, thing.id, "state", id_, "choice", tuple(choices),
        edit=lambda v: Edit(
            say('{thing} in {scenario}', thing=thing.id, scenario=scenario.title), partial(edits.set_state, scenario_id=id_, id_=thing.id, state=v)
        ),
    )  # fmt: skip
