"""Covers, plugs that are unplugged, splices, coils that hold contactors, leads of monitors."""

from collections.abc import Iterable, Iterator, Sequence
from functools import partial

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.isolation import parts_with, switches
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Contactor,
    Converter,
    Inline,
    Load,
    PlugConnector,
    Run,
    Shunt,
    Splice,
    split_ref,
)
from jaunty_copper.plan.topology import chain

TOPIC = say("Covers, plugs, splices, coils and monitors")
CARRIES_A = 1.0
"""Current at which parting a plug draws an arc that matters; representative."""
MONITOR_A = 1.0
"""Usual fuse of a monitor's lead."""


def live_pins(case: Case, rule: Rule) -> Iterator[Check]:
    """Plugs whose bare pins are on the side that stays live."""
    w, hot = case.wiring, case.protection.guard.hot_rails
    for x in case.plan.items:
        if not isinstance(x, PlugConnector):
            continue
        check = case.check(rule, x.id, source=say("IEC 61984: no live part may be touched when a connector is unmated"))
        if x.pins is None or w.rail_of(x.ref("a")) not in hot:
            yield check
            continue
        parts = parts_with(case, (*w.drawn_open, x.id))
        alive = {side for side in ("a", "b") if _gives(case, parts, x.ref(side))}
        if x.pins not in alive:
            yield check
            continue
        other = "b" if x.pins == "a" else "a"
        yield check.fails(
            Verdict.DEFECT,
            say("The bare pins of {x} stay live when it is unplugged", x=x.title)
            + (say(": both its sides are fed; it takes halves that are covered") if other in alive else ""),
            partial(Edit, say("Turn the halves of {x} round", x=x.title), partial(edits.change, id_=x.id, pins=other))
            if other not in alive
            else None,
        )


def _gives(case: Case, parts: list[int], ref: str) -> bool:
    """Whether something that gives a voltage is on what copper joins to a terminal."""
    w, here = case.wiring, parts[case.wiring.node[ref]]
    posts = [u.ref("plus") for bank in w.banks for u in bank.units] + [
        u.ref("minus") for bank in w.banks for u in bank.units
    ]
    outputs = [e.output[0] for e in w.sources]
    return any(parts[w.node[r]] == here for r in (*posts, *outputs))


def under_load(case: Case, rule: Rule) -> Iterator[Check]:
    """Plugs without breaking capacity, and with no switch in their circuit."""
    for x in case.plan.items:
        if not isinstance(x, PlugConnector):
            continue
        k = case.wiring.branch[x.id]
        current = float(case.study.continuous_a[k])
        check = case.check(
            rule, x.id, source=say("IEC 61984: a connector without breaking capacity is not unmated under load")
        )
        beside = [y for side in ("a", "b") for y in _along(case, x.ref(side))]
        able = any(switches(case, y) for y in beside)
        yield check if x.under_load or able or current <= CARRIES_A else check.fails(
            Verdict.ADVICE,
            say("{x} carries {current} and has no breaking capacity; no switch in its circuit takes the load off before it is unplugged",
                x=x.title, current=amps(current)),
        )  # fmt: skip


def _along(case: Case, ref: str) -> Iterable[Inline]:
    """What stands in line with a terminal, up to where conductors meet."""
    ends = (split_ref(end)[0] for run in chain(case.plan, ref) for end in (run.a, run.b))
    return (item for id_ in dict.fromkeys(ends) if isinstance(item := case.plan.by_id[id_], Inline))


def coil_supply(case: Case, rule: Rule) -> Iterator[Check]:
    """Coils that hang behind the contacts they are to close, or behind others that wait for these."""
    coils = [e for e in case.plan.equipment if isinstance(e, Load) and e.drives is not None]
    stuck = _never_closed(case, coils)
    for e in coils:
        contactor = case.plan.by_id[e.drives or ""]
        check = case.check(rule, e.id, source=say("A coil needs its supply before its contacts close"))
        if dead := _dead(case, e, (contactor.id,)):
            yield check.fails(
                Verdict.DEFECT,
                say("{coil} takes its {pole} from behind {contactor}, which it is to close: it never will",
                    coil=e.title, pole=dead, contactor=contactor.title),
            )  # fmt: skip
        elif contactor.id in stuck:
            others = [x for x in stuck if x != contactor.id]
            before = next((x for x in others if _dead(case, e, (x,))), others[0])
            yield check.fails(
                Verdict.DEFECT,
                say("{coil} takes its {pole} from behind {before}, which never closes: nor does {contactor}",
                    coil=e.title, pole=_dead(case, e, stuck), before=case.title(before), contactor=contactor.title),
            )  # fmt: skip
        else:
            yield check


def _never_closed(case: Case, coils: Sequence[Load]) -> tuple[str, ...]:
    """Contactors that stay open if all begin open and each closes once its coil is fed."""
    stuck = tuple(dict.fromkeys(e.drives for e in coils if e.drives))
    while True:
        left = {e.drives for e in coils if not _dead(case, e, stuck)}
        if not left & set(stuck):
            return stuck
        stuck = tuple(x for x in stuck if x not in left)


def _dead(case: Case, e: Load, opened: Iterable[str]) -> str:
    """The pole of equipment that nothing gives a voltage to once some things are open; empty for neither."""
    w, parts = case.wiring, parts_with(case, opened)
    posts = (u.ref(t) for bank in w.banks for u in bank.units for t in ("plus", "minus"))
    alive = {parts[w.node[ref]] for ref in posts}
    converters = [x for x in w.sources if isinstance(x, Converter)]
    alive |= {parts[w.node[ref]] for x in w.sources if x not in converters for ref in x.output}
    for _ in converters:
        fed = [x for x in converters if all(parts[w.node[ref]] in alive for ref in x.port)]
        alive |= {parts[w.node[ref]] for x in fed for ref in x.output}
    dead = [parts[w.node[ref]] not in alive for ref in e.port]
    return say("plus") if dead[0] else say("minus") if dead[1] else ""


def suppression(case: Case, rule: Rule) -> Iterator[Check]:
    """Coils that nothing keeps from hundreds of volts, or that a diode alone holds too long."""
    for x in case.plan.items:
        if not isinstance(x, Contactor) or x.suppression is None:
            continue
        check = case.check(rule, x.id, source=say("Makers' common advice for DC contactors, representative"))
        if x.suppression == "fast":
            yield check
            continue
        yield check.fails(
            Verdict.ADVICE,
            say(
                "A diode alone over the coil of {x} lets it go late and slowly: its contacts arc and may weld; a Zener diode or resistor with it opens fast",
                x=x.title,
            )
            if x.suppression == "diode"
            else say(
                "Nothing is over the coil of {x}: at opening it drives hundreds of volts into what switches it",
                x=x.title,
            ),
            partial(
                Edit,
                say("Put a diode and a Zener diode or resistor over the coil of {x}", x=x.title),
                partial(edits.change, id_=x.id, suppression="fast"),
            ),
        )


def monitor_lead(case: Case, rule: Rule) -> Iterator[Check]:
    """Shunts whose monitor's own lead from the plus pole has no fuse that is known."""
    for x in case.plan.items:
        if not isinstance(x, Shunt):
            continue
        check = case.check(
            rule, x.id, source=say("Every conductor from a bank is protected at its start, the thin ones too")
        )
        yield check if x.monitor_fuse_a is not None else check.fails(
            Verdict.ADVICE,
            say("Say which fuse stands at the start of the lead that feeds the monitor of {x}", x=x.title),
            partial(
                Edit, say("Fuse the monitor's lead at {x} with {amps:g} A", x=x.title, amps=MONITOR_A),
                partial(edits.change, id_=x.id, monitor_fuse_a=MONITOR_A),
            ),
        )  # fmt: skip


def covers(case: Case, rule: Rule) -> Iterator[Check]:
    """Posts and live bars that a tool can fall onto."""
    under_lid = {s.of for board in case.plan.boards if board.depth_mm is not None for s in board.spots}
    hot, w = case.protection.guard.hot_rails, case.wiring
    for x in case.plan.items:
        live = isinstance(x, Battery) or (isinstance(x, Bar) and w.rail_of(x.ref(x.studs[0].id)) in hot)
        if not isinstance(x, Battery | Bar) or not live:
            continue
        check = case.check(
            rule, x.id,
            source=say("33 CFR 183.420(b): no metal may touch a live battery terminal; IEC 62485-2 asks for covers or insulated tools; check the edition"),
        )  # fmt: skip
        yield check if x.covered or x.id in under_lid else check.fails(
            Verdict.DEFECT,
            say("The posts of {x} have no cover: nothing ahead of them opens when a spanner falls onto them", x=x.title)
            if isinstance(x, Battery)
            else say("{x} is live and has neither a cover nor a lid over it", x=x.title),
            partial(Edit, say("Cover {x}", x=x.title), partial(edits.change, id_=x.id, covered=True)),
        )  # fmt: skip


def splices(case: Case, rule: Rule) -> Iterator[Check]:
    """Splices out of reach, or between conductors that one sleeve does not hold."""
    for x in case.plan.items:
        if not isinstance(x, Splice):
            continue
        check = case.check(rule, x.id, source=say("IEC 60364-5-52 526.3 and NFPA 70 300.15: joints stay within reach"))
        yield check if x.within_reach else check.fails(
            Verdict.DEFECT,
            say("{x} can neither be looked at nor made anew: lead a whole conductor, or bring the joint to where it is reached", x=x.title),
        )  # fmt: skip
        ends = [r for t in x.terminal_names for r in case.plan.runs_at.get(x.ref(t), ())]
        sizes = {(case.parts.conductors[r.conductor].area_mm2, r.parallel): r for r in ends}
        check = case.check(
            rule, x.id, source=say("A sleeve is crimped to one section, with the die that is made for it")
        )
        yield check if len(sizes) < 2 else check.fails(
            Verdict.ADVICE,
            say("{x} joins {sizes}: it takes a splice that is made for both", x=x.title,
                sizes=say(" and ").join(_bunch(case, r) for r in sizes.values())),
        )  # fmt: skip


def _bunch(case: Case, run: Run) -> str:
    label = case.parts.conductors[run.conductor].label
    return f"{run.parallel} × {label}" if run.parallel > 1 else label


RULES = (
    Rule("covers", say("Covers"),
         say("A spanner across two posts melts in the hand; no fuse is in that circuit."), covers,
         say("{} batteries or live bars have no cover"), topic=TOPIC),
    Rule("splice", say("Splice"),
         say("A joint that nobody can reach is looked at once, on the day it is made."), splices,
         say("{} splices are out of reach, or join what one sleeve does not hold"), topic=TOPIC),
    Rule("live_pins", say("Live pins"),
         say("An unplugged half swings on its cable; live pins meet the first metal they find."), live_pins,
         say("{} plugs have pins that stay live"), topic=TOPIC),
    Rule("plug_under_load", say("Plug under load"),
         say("Pulled under load a plug draws an arc between fingers, and never makes good contact again."), under_load,
         say("{} plugs may be unplugged under load"), topic=TOPIC),
    Rule("coil_supply", say("Supply of a coil"),
         say("A contactor that needs itself closed to close stays open for ever."), coil_supply,
         say("{} coils hang behind their own contacts"), topic=TOPIC),
    Rule("coil_suppression", say("Suppression of a coil"),
         say("What a coil stores has to go somewhere: into the electronics that switch it, or into contacts that open late."), suppression,
         say("{} coils are badly suppressed"), topic=TOPIC),
    Rule("monitor_lead", say("Lead of a monitor"),
         say("The thinnest wire on the bank is the one that nobody fused."), monitor_lead,
         say("{} monitor leads have no fuse that is known"), topic=TOPIC),
)  # fmt: skip
