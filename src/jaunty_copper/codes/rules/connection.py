"""Whether the plan hangs together and has an operating point."""

from collections.abc import Iterator
from functools import partial
from math import isfinite, nan

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.words import volts
from jaunty_copper.language import say
from jaunty_copper.network.demand import is_momentary, share_of
from jaunty_copper.network.levels import most_held_v
from jaunty_copper.network.state import State
from jaunty_copper.network.wiring import cells
from jaunty_copper.physics import graph
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Battery, Converter, Equipment, Inline, Load, Shunt, Source, split_ref
from jaunty_copper.plan.topology import chain

TOPIC = say("Connection and operating point")
CLOSED = say("A circuit is a closed path from bank plus to bank minus")


def above_limit(case: Case, rule: Rule) -> Iterator[Check]:
    """Any place above the highest voltage the program plans."""
    limit = case.code.limit("highest_v")
    across = case.study.across_v
    places = [(x.nominal_v, x.id) for x in case.plan.placed if isinstance(x, Battery | Equipment)]
    # What a source is set to comes in time, though no scenario be so far.
    places += zip(most_held_v(case.wiring), (e.id for e in case.wiring.sources), strict=True)
    if across.size:
        places.append((float(across.max()), split_ref(case.wiring.refs[int(np.argmax(across))])[0]))
    for volts_, place in sorted(places, reverse=True)[:1]:
        check = case.check(rule, place, volts_, limit, "V", source=case.code.source("highest_v"))
        yield (
            check
            if volts_ <= limit
            else check.fails(
                Verdict.DANGER, say("{volts:.0f} V occur here: outside what this program plans", volts=volts_)
            )
        )


def torn(case: Case, rule: Rule) -> Iterator[Check]:
    """Batteries in a loop that does not add up: shorted, or against each other."""
    w, rail = case.wiring, case.wiring.rail
    # Units that are alike and only differ in charge level out: that is a matter of the bank.
    uneven = {
        u.id
        for banks in _that_meet(case)
        if not any(bank.torn for bank in banks) and _one_kind(case, banks)
        for bank in banks
        for u in bank.units
    }
    found = {
        k: state.scenario.id
        for state in reversed(case.study.every)
        for k in state.point.torn
        if w.branches[k].owner not in uneven or rail[w.circuit.a[k]] == rail[w.circuit.b[k]]
    }
    for k, b in enumerate(w.branches):
        if not isinstance(case.plan.by_id.get(b.owner), Battery):
            continue
        check = case.check(rule, b.owner, scenario=found.get(k), source=say("Kirchhoff's voltage law"))
        if k not in found:
            yield check
        elif rail[w.circuit.a[k]] == rail[w.circuit.b[k]]:
            yield check.fails(
                Verdict.DANGER,
                say("{owner} is short-circuited: copper joins its plus and its minus", owner=case.title(b.owner)),
            )
        else:
            yield check.fails(
                Verdict.DANGER,
                say("{owner} is connected against batteries of another voltage", owner=case.title(b.owner)),
            )


def _that_meet(case: Case) -> list[list[Bank]]:
    """Banks whose poles meet once every switch is closed, each with the others."""
    w, found = case.wiring, dict[tuple[int, ...], list[Bank]]()
    for bank in w.banks:
        found.setdefault(tuple(w.rail_of(bank.takeoffs[side][0]) for side in ("plus", "minus")), []).append(bank)
    return list(found.values())


def _one_kind(case: Case, banks: list[Bank]) -> bool:
    """Whether the strings of some banks have as many cells of one chemistry each, so that only charge can part them."""
    kinds = {
        (frozenset(bank.by_id[u].chemistry for u in s), sum(cells(bank.by_id[u], case.parts) for u in s))
        for bank in banks
        for s in bank.strings
    }
    return len(kinds) == 1


def collapses(case: Case, rule: Rule) -> Iterator[Check]:
    """Scenarios in which the asked power cannot be delivered."""
    calm = [s.calm for s in case.study.states if s.calm is not None and s.calm.point.collapse is not None]
    for state in (*case.study.states, *calm):
        why, scenario = state.point.collapse, state.scenario
        if why is None:
            yield case.check(
                rule, scenario.id, scenario=scenario.id, source=say("Kirchhoff's laws and the limits of all sources")
            )
            continue
        load = case.wiring.loads[why.load] if case.wiring.loads else None
        branch = case.wiring.branches[why.branch].owner
        place = load.id if load is not None else branch
        if why.deliverable_w == 0.0:
            yield case.check(
                rule, place, scenario=scenario.id,
                source=say("No state satisfies Kirchhoff's laws and the limits of all sources"),
            ).fails(Verdict.DANGER, say('“{scenario}” has no operating point, even without its constant powers', scenario=scenario.title))  # fmt: skip
            continue
        joint = say(" even with all loads cut back alike") if why.jointly else ""
        yield case.check(
            rule, place, why.asked_w, why.deliverable_w, "W", scenario=scenario.id,
            source=say("Largest power deliverable through the network, V²/4R for a single path"),
        ).fails(
            Verdict.DANGER,
            say('{load} asks {asked_w:.0f} W; at most {deliverable_w:.0f} W can reach it{joint}. {branch} has the '
'largest voltage drop', load=load.title if load is not None else say('a source'), asked_w=why.asked_w, deliverable_w=why.deliverable_w, joint=joint, branch=case.title(branch)),
        )  # fmt: skip


PROBLEMS = (
    ("no_return", "no_return", say("{} has no way back to the source that feeds it")),
    ("reversed_", "reversed", say("{} has plus and minus swapped")),
    ("unfed", "unfed", say("{} is not fed")),
)


def loads_cut_off(case: Case, rule: Rule) -> Iterator[Check]:
    """Loads that ask for power and get none, because of how things are connected."""
    found: dict[int, list[tuple[str, str, State]]] = {}
    for state in case.study.states:
        for field, key, words in PROBLEMS:
            for k in np.flatnonzero(getattr(state.point, field)).tolist():
                known = found.setdefault(k, [])
                if key not in (other for other, _, _ in known):
                    known.append((key, words, state))
    for k, e in enumerate(case.wiring.loads):
        if k not in found:
            yield case.check(rule, e.id, source=CLOSED)
        for key, words, state in found.get(k, ()):
            open_switch = "open" in state.scenario.states.values()
            yield case.check(rule, e.id, scenario=state.scenario.id, source=CLOSED).fails(
                Verdict.ADVICE if key == "unfed" and open_switch else Verdict.DANGER,
                say("{format} in “{scenario}”", format=words.format(e.title), scenario=state.scenario.title),
            )


def never_on(case: Case, rule: Rule) -> Iterator[Check]:
    """Equipment that is off in every scenario, and loads that run at a part of their power in all: the rest is held against nothing."""
    for e in case.plan.equipment:
        check = case.check(
            rule, e.id, source=say("Currents, drops and ratings are held against what the scenarios have on")
        )
        # As they are written down: of a coil that is off with its contactor, that is reported at the contactor.
        most = max((share_of(s, e.id) for s in case.plan.scenarios), default=1.0)
        if most >= 1.0 or (most > 0.0 and not isinstance(e, Load)):
            yield check
        elif most > 0.0:
            yield check.fails(
                Verdict.ADVICE,
                say("{e} runs at {share:.0f} % at most in every scenario: nothing in its circuit is held against more",
                    e=e.title, share=100.0 * most),
                partial(_with_it_on, case, e),
            )  # fmt: skip
        else:
            yield check.fails(
                Verdict.ADVICE,
                say("{e} is off in every scenario: nothing in its circuit is held against {what}", e=e.title,
                    what=say("what it gives") if isinstance(e, Source) else say("what it draws")),
                partial(_with_it_on, case, e),
            )  # fmt: skip


def _with_it_on(case: Case, e: Equipment) -> Edit:
    """One more scenario, as the first one that lasts, but with equipment on that is on in none."""
    every = case.plan.scenarios
    first = next((s for s in every if not is_momentary(s)), every[0])
    more = first.model_copy(
        update={
            "id": edits.fresh_id(case.plan, "on"),
            "name": say("{scenario}, with {e} on", scenario=first.title, e=e.title),
            "states": {k: v for k, v in first.states.items() if k != e.id},
            "after": None,
        }
    )
    return Edit(
        say("Add a scenario with {e} on", e=e.title),
        partial(edits.change_plan, scenarios=(*case.plan.scenarios, more)),
    )


def converters_starved(case: Case, rule: Rule) -> Iterator[Check]:
    """Sources that should run and cannot: nothing at their input, or too little."""
    for k, e in enumerate(case.wiring.sources):
        if not isinstance(e, Converter):
            continue
        runs = [s for s in case.study.states if s.solved and share_of(s.scenario, e.id) != 0.0]
        stops = [(feed, s) for s in runs if s.point.mode[k] == 0 and (feed := _feed(s, k)) < max(e.min_v or 0.0, 1e-3)]
        least = min((float(s.point.feed_v[k]) for s in runs), default=nan)
        feed, state = stops[0] if stops else (least, None)
        check = case.check(
            rule, e.id, feed if isfinite(feed) else None, e.min_v, "V",
            scenario=state.scenario.id if state else None, source=say("The converter's own input limit"),
        )  # fmt: skip
        yield (
            check
            if state is None
            else check.fails(
                Verdict.DEFECT,
                say("{e} stops in “{scenario}”: ", e=e.title, scenario=state.scenario.title)
                + (say("{feed} at its input", feed=volts(feed)) if feed > 1e-3 else say("its input gives way")),
            )
        )


def _feed(state: State, k: int) -> float:
    """Voltage at a converter's input: that at which it stopped, where it did."""
    starved = float(state.point.starved_v[k])
    return float(state.point.feed_v[k]) if np.isnan(starved) else starved


def dangling(case: Case, rule: Rule) -> Iterator[Check]:
    """Things with a terminal that nothing is on."""
    at = case.plan.runs_at
    for x in case.plan.placed:
        if not isinstance(x, Inline | Battery | Equipment):
            continue
        free = [t for t in x.terminal_names if not at.get(x.ref(t))]
        if isinstance(x, Converter) and not x.isolated and "out_minus" in free and at.get(x.ref("in_minus")):
            free.remove("out_minus")
        if isinstance(x, Converter) and not x.isolated and "in_minus" in free and at.get(x.ref("out_minus")):
            free.remove("in_minus")
        check = case.check(rule, x.id, source=CLOSED)
        yield check if not free else check.fails(
            Verdict.DEFECT, say('nothing is connected to {free} of {x}', free=', '.join(free).replace('_', ' '), x=x.title),
            partial(_without, x),
        )  # fmt: skip


def _without(x: Inline | Battery | Equipment) -> Edit | None:
    """The removal of a loose thing: of a load with its circuit."""
    if isinstance(x, Inline):
        return Edit(say("Remove {x}", x=x.title), partial(edits.remove_inline, item_id=x.id))
    if isinstance(x, Load):
        return Edit(say("Remove {x}", x=x.title), partial(edits.remove_circuit, equipment_id=x.id))
    return None


def past_the_shunt(case: Case, rule: Rule) -> Iterator[Check]:
    """Equipment whose current does not pass the shunt that counts the bank's."""
    w = case.wiring
    for shunt in (x for x in case.plan.items if isinstance(x, Shunt)):
        k = w.branch[shunt.id]
        copper = [n for n, b in enumerate(w.branches) if b.kind != "battery" and n != k]
        label = graph.components(len(w.refs), (w.branches[n].a for n in copper), (w.branches[n].b for n in copper))
        sides = [label[w.node[shunt.ref(t)]] for t in ("a", "b")]
        if sides[0] == sides[1]:
            continue
        ports = {e.id: (e, {label[w.node[e.ref(t)]] for t in e.terminal_names}) for e in case.plan.equipment}
        units = [{label[w.node[u.ref(t)]] for t in u.terminal_names} for bank in w.banks for u in bank.units]
        # The bank is on one side of it, and most of what it feeds on the other.
        own = [side for side in sides if any(side in unit for unit in units)]
        if len(own) != 1:
            continue
        other = sides[0] if own[0] == sides[1] else sides[1]
        past = [e for e, at in ports.values() if own[0] in at and other not in at]
        away = chain(case.plan, shunt.ref("ab"[sides.index(other)]))
        ends = {split_ref(ref)[0] for run in away[-1:] for ref in (run.a, run.b)}
        if ends & ports.keys() or len(past) > sum(other in at for _, at in ports.values()):
            # A shunt of one circuit, or of some.
            continue
        check = case.check(rule, shunt.id, source=say("What a shunt counts is what flows through it"))
        if not past:
            yield check
        for e in past:
            yield case.check(rule, e.id, source=check.source).fails(
                Verdict.DEFECT,
                say("The current of {e} goes past {shunt}: it is not counted", e=e.title, shunt=shunt.title),
            )


def unknown_overrides(case: Case, rule: Rule) -> Iterator[Check]:
    """Overrides of limits that this code does not have."""
    for o in case.plan.overrides:
        check = case.check(rule, o.limit, source=say("the plan"))
        yield check if o.limit in case.code.limits else check.fails(
            Verdict.ADVICE, say('{code} has no limit called {limit}: the override does nothing', code=case.code.name, limit=o.limit),
            partial(Edit, say('Remove the override of {limit}', limit=o.limit), partial(edits.set_override, limit=o.limit, value=None)),
        )  # fmt: skip


RULES = (
    Rule("above_60_v", say("Above 60 V DC"),
         say("Above 60 V a touch can kill: other rules apply, and a licensed person decides. Arcs burn at any of these voltages."), above_limit,
         say("{} places are above 60 V DC"), topic=TOPIC),
    Rule("contradictory_sources", say("Contradictory sources"),
         say("A battery that is shorted or works against another drives thousands of amperes at once: it burns, and can burst."), torn,
         say("{} batteries are shorted or work against another"), topic=TOPIC),
    Rule("collapse", say("Power cannot be delivered"),
         say("The more current the load takes, the more voltage its cables take, until nothing is left: the load cuts out or stalls."), collapses,
         say("power cannot be delivered in {} cases"), topic=TOPIC),
    Rule("cut_off", say("Not fed, or no return"),
         say("Without a closed path from plus to minus nothing flows; with the poles swapped things break at once."), loads_cut_off,
         say("{} loads are not fed, or have no return"), topic=TOPIC),
    Rule("never_on", say("Never on, or never at full power"),
         say("What no scenario has on is found fine whatever its circuit is: the first time it runs is the test."), never_on,
         say("{} pieces of equipment are on, or at full power, in no scenario"), topic=TOPIC),
    Rule("converter_starved", say("Converter stops"),
         say("When its input sags below its limit a converter drops everything behind it."), converters_starved,
         say("{} converters stop"), topic=TOPIC),
    Rule("dangling", say("Dangling end"),
         say("A loose end is forgotten work at best, and a live lug that touches something at worst."), dangling,
         say("{} things have a terminal with nothing on it"), topic=TOPIC),
    Rule("past_the_shunt", say("Current that the shunt does not see"),
         say("A monitor that misses a charger or a load shows a charge that the bank does not have."), past_the_shunt,
         say("{} pieces of equipment go past the shunt"), topic=TOPIC),
    Rule("unknown_override", say("Override without effect"),
         say("A limit that somebody set on purpose should not be silently without effect."), unknown_overrides,
         say("{} overrides are without effect"), topic=TOPIC),
)  # fmt: skip
