"""What the models alone cannot see: ids, references and terminals across the plan."""

from collections import Counter
from collections.abc import Iterator
from math import inf
from typing import NamedTuple

from pydantic import BaseModel

from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.model import (
    MEASURED_IN,
    Bar,
    Battery,
    Breaker,
    Contactor,
    Disconnect,
    Equipment,
    Fuse,
    Load,
    Named,
    Plan,
    Reading,
    Source,
)
from jaunty_copper.plan.references import MISSING, Space, named_in, names_of, of_kind

SWITCHES = (Breaker, Disconnect, Contactor)


class Problem(NamedTuple):
    """Something that makes a document no plan."""

    place: str
    reason: str

    def __str__(self) -> str:
        return f"{self.place}: {self.reason}"


class _Checked(NamedTuple):
    """A plan, what is wrong with it, and what others are held against: every name, and the kind of each thing."""

    plan: Plan
    found: list[Problem]
    names: dict[Space, set[str]]
    kinds: dict[str, type[Named]]


_last: list[_Checked] = []
"""What was checked last: an edit checks what it makes, and whoever takes it checks that again."""
KEPT = 3
"""So many of those: what is written in between is read back and checked as well."""


def problems(plan: Plan) -> list[Problem]:
    """Every duplicate id, dangling reference and unknown part, in the order of the file."""
    last = _last[:]
    for checked in last:
        if checked.plan is plan:
            return checked.found[:]
    made = _Checked(plan, [], names_of(plan), {x.id: type(x) for x in plan.placed})
    known = frozenset(k for checked in last if _as_sound(made, checked) for k in _identities(checked.plan))
    made.found.extend(_problems(plan, made.names, known))
    _last[:] = [made, *last][:KEPT]
    return made.found[:]


def _as_sound(made: _Checked, before: _Checked) -> bool:
    """Whether what is right in a plan that was checked before is right in another as well: the same names mean the same there."""
    same_parts = made.plan.parts is before.plan.parts
    return not before.found and same_parts and made.kinds == before.kinds and made.names == before.names


def _identities(plan: Plan) -> Iterator[int]:
    """Of all things and runs: most edits leave most of them the very same."""
    return map(id, (*plan.placed, *plan.runs))


def _problems(plan: Plan, names: dict[Space, set[str]], known: frozenset[int] = frozenset()) -> Iterator[Problem]:
    things, terminals = plan.by_id, names["terminal"]
    parts = library().with_own(plan.parts)
    for group, ids in (
        (say("items, equipment and runs"), [*(x.id for x in plan.placed), *(r.id for r in plan.runs)]),
        ("zones", [z.id for z in plan.zones]),
        ("scenarios", [s.id for s in plan.scenarios]),
        (say("log entries"), [e.id for e in plan.log]),
        (say("left-over lengths"), [p.id for p in plan.stock]),
        ("routes", [r.id for r in plan.routes]),
        ("boards", [b.id for b in plan.boards]),
    ):
        for id_, count in Counter(ids).items():
            if count > 1:
                yield Problem(id_, say("{count} of the {group} have this id", count=count, group=group))

    for x in plan.placed:
        if id(x) in known:
            continue
        own = x.terminal_names
        if len(set(own)) < len(own):
            yield Problem(x.id, say("two of its studs have the same id"))
        yield from _dangling(x.id, x, "equipment" if isinstance(x, Equipment) else "items", names)
        if isinstance(x, Fuse | Breaker):
            family = parts.device_families.get(x.family)
            if family is None:
                yield Problem(x.id, say("family: there is no device family {family}", family=x.family))
            elif family.kind != x.kind:
                yield Problem(
                    x.id,
                    say(
                        "family: {family} is a family of {kind}s, this is a {kind_2}",
                        family=x.family,
                        kind=family.kind,
                        kind_2=x.kind,
                    ),
                )
        if isinstance(x, Bar) and x.fuse_family is not None:
            family = parts.device_families.get(x.fuse_family)
            if family is None or family.kind != "fuse":
                yield Problem(x.id, say("fuse_family: there is no family of fuses {family}", family=x.fuse_family))
        if isinstance(x, Battery) and x.chemistry not in parts.battery_chemistries:
            yield Problem(x.id, say("chemistry: there is no battery chemistry {chemistry}", chemistry=x.chemistry))
        if isinstance(x, Source) and (x.sense_plus is None) != (x.sense_minus is None):
            yield Problem(x.id, say("sense_plus and sense_minus go together"))
        if isinstance(x, Load) and x.drives in things and not isinstance(things[x.drives], Contactor):
            yield Problem(x.id, say("drives: {drives} is no contactor", drives=x.drives))

    for run in plan.runs:
        if id(run) in known:
            continue
        yield from _dangling(run.id, run, "runs", names)
        if run.a == run.b:
            yield Problem(run.id, say("both its ends are on {a}", a=run.a))
        if run.conductor not in parts.conductors:
            yield Problem(run.id, say("conductor: there is no conductor {conductor}", conductor=run.conductor))
        if run.insulation not in parts.insulations:
            yield Problem(run.id, say("insulation: there is no insulation {insulation}", insulation=run.insulation))

    for s in plan.scenarios:
        yield from _dangling(s.id, s, "scenarios", names)
        for id_, state in s.states.items():
            yield from _state_problems(s.id, id_, state, things.get(id_))

    for k, reading in enumerate(plan.readings):
        yield from _reading_problems(f"readings.{k}", reading, plan, terminals)
    for entry in plan.log:
        if entry.about and entry.about not in names["point"]:
            yield Problem(entry.id, say("about: {point} {about}", point=MISSING["point"], about=entry.about))
        for k, reading in enumerate(entry.readings):
            yield from _reading_problems(say("{entry}: readings.{k}", entry=entry.id, k=k), reading, plan, terminals)

    for piece in plan.stock:
        if piece.conductor not in parts.conductors:
            yield Problem(piece.id, say("conductor: there is no conductor {conductor}", conductor=piece.conductor))
        if piece.insulation not in parts.insulations:
            yield Problem(piece.id, say("insulation: there is no insulation {insulation}", insulation=piece.insulation))

    stands: dict[str, str] = {}
    for board in plan.boards:
        yield from _dangling(board.id, board, "boards", names)
        for spot in board.spots:
            if spot.of in stands:
                yield Problem(board.id, say("spots: {of} stands on {of_2} already", of=spot.of, of_2=stands[spot.of]))
            stands[spot.of] = board.id


def _reading_problems(place: str, reading: Reading, plan: Plan, terminals: set[str]) -> Iterator[Problem]:
    if reading.scenario not in MEASURED_IN and all(s.id != reading.scenario for s in plan.scenarios):
        yield Problem(place, say("scenario: there is no scenario {scenario}", scenario=reading.scenario))
    match reading.quantity:
        case "volts":
            for field in ("a", "b"):
                ref = getattr(reading, field)
                if ref not in terminals:
                    yield Problem(place, say("{field}: there is no terminal {ref}", field=field, ref=ref))
        case "joint":
            if reading.a not in plan.run_by_id:
                yield Problem(place, say("a: there is no conductor {a}", a=reading.a))
        case "celsius" if reading.b and not _is_time(reading.b):
            yield Problem(place, say("b: minutes under load, above 0, and not {b}", b=reading.b))
        case _:
            if reading.a not in plan.run_by_id and reading.a not in plan.by_id:
                yield Problem(place, say("a: nothing is called {a}", a=reading.a))


def _is_time(text: str) -> bool:
    """Whether a text is a number above zero."""
    try:
        return 0.0 < float(text) < inf
    except ValueError:
        return False


def _dangling(place: str, thing: BaseModel, holder: str, names: dict[Space, set[str]]) -> Iterator[Problem]:
    """Names that a thing holds of something that is not there."""
    for r, name in named_in(thing, of_kind(holder, type(thing))):
        if name not in names[r.to]:
            yield Problem(place, f"{r.inside or r.field}: {MISSING[r.to]} {name}")


def _state_problems(scenario: str, id_: str, state: object, thing: Named | None) -> Iterator[Problem]:
    if thing is None:
        return
    if isinstance(thing, SWITCHES):
        if state not in ("open", "closed"):
            yield Problem(scenario, say("states: {id} is a switch: open or closed, not {state}", id=id_, state=state))
    elif isinstance(thing, Equipment):
        if state in ("open", "closed"):
            yield Problem(
                scenario,
                say("states: {id} is equipment: on, off, surge or a share of 1, not {state}", id=id_, state=state),
            )
    else:
        yield Problem(scenario, say("states: {id} is neither equipment nor a switch", id=id_))
