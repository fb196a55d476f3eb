"""What can be added in a table, and the edit that adds it."""

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any, NamedTuple

from jaunty_copper.codes.case import Case
from jaunty_copper.language import say
from jaunty_copper.plan import defaults, edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar, Chassis, Plan, StockPiece


class SheetAdding(NamedTuple):
    """Something that can be added: what it is called, what has to be said with it, and the edit."""

    text: str
    asks: str
    make: Callable[[str], Edit]


def new(make: Callable[[Plan], Any], text: str) -> Callable[[Plan, Case], Iterator[SheetAdding]]:
    """One thing with an id and a name of its own."""

    def adding(plan: Plan, _: Case) -> Iterator[SheetAdding]:
        new = make(plan)
        yield SheetAdding(text, "", lambda _: Edit(f"{text}: {new.id}", partial(_with, thing=new)))

    return adding


def _with(plan: Plan, thing: Any) -> Plan:
    return edits.add(plan, thing)


def new_hubs(plan: Plan, _: Case) -> Iterator[SheetAdding]:
    """Busbars, a pair of them, a stud, a chassis."""
    for kind, word in defaults.HUB_WORDS.items():
        hubs = defaults.new_hubs(plan, kind)
        yield SheetAdding(word, "", partial(_more_hubs, word, hubs))


def _more_hubs(word: str, hubs: tuple[Any, ...], _: str) -> Edit:
    return Edit(say("Add {word} {hubs}", word=word.lower(), hubs=hubs[0].id), partial(_with_all, things=hubs))


def _with_all(plan: Plan, things: tuple[Any, ...]) -> Plan:
    return edits.add(plan, *things)


def new_studs(plan: Plan, _: Case) -> Iterator[SheetAdding]:
    """One more stud on a bar, or point of the chassis."""
    for hub in plan.items:
        if isinstance(hub, Bar | Chassis):
            yield SheetAdding(say("on {hub}", hub=hub.title), "", partial(_more_studs, hub))


def _more_studs(hub: Bar | Chassis, _: str) -> Edit:
    return Edit(say("Add a stud to {hub}", hub=hub.title), partial(_one_more_stud, hub_id=hub.id))


def _one_more_stud(plan: Plan, hub_id: str) -> Plan:
    return edits.add_stud(plan, hub_id)[0]


def new_stock(plan: Plan, case: Case) -> Iterator[SheetAdding]:
    """A left-over length."""
    ids = {p.id for p in plan.stock}
    piece = StockPiece(
        id=next(f"left-{k}" for k in range(1, len(ids) + 2) if f"left-{k}" not in ids),
        conductor=next(iter(case.parts.conductors)), length_m=1.0,
    )  # fmt: skip
    edit = Edit(
        say("Add left-over length {piece}", piece=piece.id), partial(edits.add_listed, where="stock", thing=piece)
    )
    yield SheetAdding(say("Add a left-over length"), "", lambda _: edit)


def new_override(plan: Plan, case: Case) -> Iterator[SheetAdding]:
    """A limit of the code that the plan does not replace yet."""
    taken = {o.limit for o in plan.overrides}
    for name, limit in sorted(case.code.limits.items()):
        if name not in taken:
            yield SheetAdding(
                f"{name.replace('_', ' ')}: {limit.value:g} {limit.unit}".rstrip(),
                say("Why does this plan replace it?"),
                partial(_overriding, name, limit.value),
            )


def _overriding(name: str, value: float, reason: str) -> Edit:
    return Edit(
        say("Replace the limit {name}", name=name.replace("_", " ")),
        partial(edits.set_override, limit=name, value=value, reason=reason),
    )


def like(field: str) -> Callable[[Plan, Case], Iterator[SheetAdding]]:
    """A part of one's own that begins like one of the library."""

    def adding(_: Plan, case: Case) -> Iterator[SheetAdding]:
        for part in getattr(case.parts, field).values():
            yield SheetAdding(
                say("like {part}", part=part.label),
                say("Its short name: letters, digits and hyphens"),
                partial(_copied, field, part),
            )

    return adding


def _copied(field: str, part: Any, id_: str) -> Edit:
    return Edit(say("Add {id} of one's own", id=id_), partial(_with_copy, field=field, part=part, id_=id_))


def _with_copy(plan: Plan, field: str, part: Any, id_: str) -> Plan:
    where = f"parts.{field}"
    own = say("of this plan; say where its figures are from")
    return edits.change_listed(
        edits.add_listed(plan, where, part.model_copy(update={"id": id_, "source": own})), where, id_, label=id_
    )
