"""Isolation: what switches a bank and each source off, and what stays live all the same."""

from collections.abc import Iterable, Iterator
from functools import partial

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.language import say
from jaunty_copper.physics.graph import components
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.defaults import new_inline
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import (
    Alternator,
    Breaker,
    Contactor,
    Disconnect,
    Equipment,
    Fuse,
    Inline,
    Item,
    PlugConnector,
    SolarController,
    Source,
    split_ref,
)

TOPIC = say("Isolation")
COMMON = say("Common practice, representative: a source is isolated from the bank by a switch of its own")
CARRIES = 1.25
"""Times a source's current that its switch is made for, at least."""


def switches(case: Case, thing: Item | Inline) -> bool:
    """Whether a thing is a switch, or a breaker made to serve as one."""
    if isinstance(thing, Breaker):
        return case.parts.device_families[thing.family].switching == "yes"
    return isinstance(thing, Disconnect | Contactor)


def _reached(x: Item | Inline) -> bool:
    """Whether a switch can be opened at once; a contactor's own switch counts as within reach."""
    return getattr(x, "within_reach", True)


def parts_with(case: Case, opened: Iterable[str]) -> list[int]:
    """What copper joins, by node, once some things are open."""
    w, gone = case.wiring, frozenset(opened)
    copper = [b for b in w.branches if b.kind != "battery" and not (b.kind == "body" and b.owner in gone)]
    return components(len(w.refs), (b.a for b in copper), (b.b for b in copper))


def _fed(case: Case, bank: Bank, parts: list[int]) -> list[Equipment]:
    """Equipment that a bank feeds over some parts: by its live pole where the other is grounded, else by both.

    Without sources, which have a rule of their own.
    """
    w, guard = case.wiring, case.protection.guard
    rails = {side: w.rail_of(bank.takeoffs[side][0]) for side in ("plus", "minus")}
    # A post may stand apart from the others of its pole once a switch is open.
    posts = [w.node[unit.ref(t)] for unit in bank.units for t in unit.terminals]
    at = {side: {parts[n] for n in posts if w.rail[n] == rail} for side, rail in rails.items()}
    live = [side for side, rail in rails.items() if rail in guard.hot_rails]
    sides = live if len(live) == 1 and not guard.floating_rails & set(rails.values()) else list(rails)
    return [
        e for e in case.plan.equipment
        if not isinstance(e, Source)
        and all(parts[w.node[e.port[("plus", "minus").index(side)]]] in at[side] for side in sides)
    ]  # fmt: skip


def bank_off(case: Case, rule: Rule) -> Iterator[Check]:
    """Banks that nothing within reach switches off, and equipment that stays on whatever is switched off."""
    able = [x for x in case.plan.items if switches(case, x)]
    every, within = (parts_with(case, (x.id for x in able if ok(x))) for ok in (lambda _: True, _reached))
    grave = Verdict.DEFECT if case.code.limit("bank_switch") else Verdict.ADVICE
    for bank in case.wiring.banks:
        fed, anyhow, stays = (_fed(case, bank, parts) for parts in (parts_with(case, ()), every, within))
        if not fed:
            continue
        check = case.check(rule, bank.id, source=case.code.source("bank_switch"))
        if len(anyhow) == len(fed):
            yield check.fails(
                grave,
                say("Nothing switches the bank of {unit} off: no switch stands between it and what it feeds", unit=case.title(bank.id)),
            )  # fmt: skip
        elif len(stays) == len(fed):
            yield check.fails(
                grave, say("No switch within reach switches the bank of {unit} off", unit=case.title(bank.id))
            )
        else:
            yield check
            for e in stays:
                yield case.check(rule, e.id, source=check.source).fails(
                    Verdict.ADVICE,
                    say("{e} stays on the bank whatever switch is opened: right for what must never stop, else put a switch before it", e=e.title),
                )  # fmt: skip


def source_off(case: Case, rule: Rule) -> Iterator[Check]:
    """Sources with nothing in their own circuit that isolates them from the bars.

    Not alternators: what stops one is its engine, and a switch that opens before it destroys it.
    """
    for e in case.plan.equipment:
        if not isinstance(e, Source) or isinstance(e, Alternator) or not case.plan.runs_at.get(e.ref("plus")):
            continue
        # The books' clauses are about what the sun drives, which nothing else stops.
        asked = isinstance(e, SolarController) and case.code.limit("source_switch") > 0.0
        standing = [x for t in e.terminals for x in _in_line(case, e, t)]
        able = [x for x in standing if switches(case, x) or isinstance(x, PlugConnector)]
        check = case.check(rule, e.id, source=case.code.source("source_switch") if asked else COMMON)
        if any(_reached(x) for x in able):
            yield check
            continue
        yield check.fails(
            Verdict.DEFECT if asked else Verdict.ADVICE,
            say("{able} isolates {e} from the bank, and is out of reach", able=able[0].title, e=e.title)
            if able
            else say("Nothing in the circuit of {e} isolates it: it goes on feeding when the bank is switched off", e=e.title),
            partial(_switched, case, e) if not able else None,
        )  # fmt: skip


def _in_line(case: Case, e: Source, terminal: str) -> Iterator[Inline]:
    """What stands in a source's own conductor, up to where others meet it."""
    ref = e.ref(terminal)
    for run in case.chain(e, terminal):
        far = case.plan.by_id[split_ref(run.b if run.a == ref else run.a)[0]]
        if not isinstance(far, Inline):
            return
        yield far
        ref = next(far.ref(t) for t in far.terminal_names if far.ref(t) not in (run.a, run.b))


def _switched(case: Case, e: Source) -> Edit | None:
    """A switch in a source's own live conductor."""
    pole = next((t for t in e.terminals if case.wiring.rail_of(e.ref(t)) in case.protection.guard.hot_rails), "plus")
    if len(case.plan.runs_at.get(e.ref(pole), ())) != 1:
        return None
    devices = [x.rating_a for t in e.terminals for x in _in_line(case, e, t) if isinstance(x, Fuse | Breaker)]
    switch = new_inline(case.plan, "disconnect", max([CARRIES * e.current_a, *devices]))
    assert isinstance(switch, Disconnect)
    return Edit(
        say("Put a switch of {rating:g} A into the circuit of {e}", rating=switch.rating_a, e=e.title),
        partial(edits.insert_far, ref=e.ref(pole), item=switch),
    )


RULES = (
    Rule("bank_switch", say("Switching the bank off"),
         say("In smoke or in water there is a moment to switch everything off, by one hand that knows where."), bank_off,
         say("{} banks or pieces of equipment cannot be switched off"), topic=TOPIC),
    Rule("source_switch", say("Switching a source off"),
         say("The bank's switch is open, and the panel on the roof still feeds the fault."), source_off,
         say("{} sources cannot be switched off by themselves"), topic=TOPIC),
)  # fmt: skip
