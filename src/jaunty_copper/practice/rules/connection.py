"""Whether the plan hangs together and has an operating point."""

from collections.abc import Iterator
from functools import partial

import numpy as np

from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Battery, Converter, Equipment, Inline, Load, split_ref
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.words import volts
from jaunty_copper.study.demand import share_of


def above_limit(case: Case, rule: Rule) -> Iterator[Finding]:
    """Any place above the highest voltage the program plans."""
    limit = case.book.limit("highest_v")
    worst: tuple[float, str] | None = None
    across = case.study.across_v
    if across.size and across.max() > limit:
        worst = (float(across.max()), split_ref(case.wiring.refs[int(np.argmax(across))])[0])
    for x in case.plan.placed:
        claims = x.nominal_v if isinstance(x, Battery | Equipment) else 0.0
        if claims > limit and (worst is None or claims > worst[0]):
            worst = (claims, x.id)
    if worst is not None:
        spread, place = worst
        yield case.finding(
            rule, Severity.STOP, place, f"{spread:.0f} V occur here: outside what this program plans",
            figure=spread, limit=limit, unit="V", source=case.book.source("highest_v"),
        )  # fmt: skip


def torn(case: Case, rule: Rule) -> Iterator[Finding]:
    """Batteries in a loop that does not add up: shorted, or against each other."""
    seen: set[int] = set()
    rail = case.wiring.rail
    for state in case.study.states:
        for k in state.point.torn:
            if k in seen:
                continue
            seen.add(k)
            c = case.wiring.circuit
            battery = case.wiring.branches[k].owner
            if rail[c.a[k]] == rail[c.b[k]]:
                words = f"{case.title(battery)} is short-circuited: copper joins its plus and its minus"
            else:
                words = f"{case.title(battery)} is connected against batteries of another voltage"
            yield case.finding(rule, Severity.STOP, battery, words, scenario=state.scenario.id,
                               source="Kirchhoff's voltage law")  # fmt: skip


def collapse(case: Case, rule: Rule) -> Iterator[Finding]:
    """Scenarios in which the asked power cannot be delivered."""
    for state in case.study.states:
        why = state.point.collapse
        if why is None:
            continue
        load = case.wiring.loads[why.load] if case.wiring.loads else None
        branch = case.wiring.branches[why.branch].owner
        name = load.title if load is not None else "a source"
        place = load.id if load is not None else branch
        if why.deliverable_w == 0.0:
            yield case.finding(
                rule, Severity.STOP, place, f"“{state.scenario.title}” has no operating point, even without its constant powers",
                scenario=state.scenario.id, source="No state satisfies Kirchhoff's laws and the limits of all sources",
            )  # fmt: skip
            continue
        joint = " even with all loads cut back alike" if why.jointly else ""
        yield case.finding(
            rule, Severity.STOP, place,
            f"{name} asks {why.asked_w:.0f} W; at most {why.deliverable_w:.0f} W can reach it{joint}. "
            f"{case.title(branch)} has the largest voltage drop",
            figure=why.asked_w, limit=why.deliverable_w, unit="W", scenario=state.scenario.id,
            source="Largest power deliverable through the network, V²/4R for a single path",
        )  # fmt: skip


PROBLEMS = (
    ("no_return", "no_return", "{} has no way back to the source that feeds it"),
    ("reversed_", "reversed", "{} has plus and minus swapped"),
    ("unfed", "unfed", "{} is not fed"),
)


def loads_cut_off(case: Case, rule: Rule) -> Iterator[Finding]:
    """Loads that ask for power and get none, because of how things are connected."""
    seen: set[tuple[str, str]] = set()
    for state in case.study.states:
        for field, key, words in PROBLEMS:
            for k in np.flatnonzero(getattr(state.point, field)):
                e = case.wiring.loads[int(k)]
                if (e.id, key) in seen:
                    continue
                seen.add((e.id, key))
                open_switch = "open" in state.scenario.states.values()
                severity = Severity.NOTE if key == "unfed" and open_switch else Severity.STOP
                yield case.finding(
                    rule, severity, e.id, f"{words.format(e.title)} in “{state.scenario.title}”",
                    scenario=state.scenario.id, source="A circuit is a closed path from bank plus to bank minus",
                )  # fmt: skip


def converters_starved(case: Case, rule: Rule) -> Iterator[Finding]:
    """Sources that should run and cannot: nothing at their input, or too little."""
    for k, e in enumerate(case.wiring.sources):
        if not isinstance(e, Converter):
            continue
        for state in case.study.states:
            if not state.solved or share_of(state.scenario, e.id) == 0.0 or state.point.mode[k] != 0:
                continue
            starved = float(state.point.starved_v[k])
            feed = float(state.point.feed_v[k]) if np.isnan(starved) else starved
            if feed >= (e.min_v or 0.0) and feed > 1e-3:
                continue
            yield case.finding(
                rule, Severity.MEND, e.id,
                f"{e.title} stops in “{state.scenario.title}”: "
                + (f"{volts(feed)} at its input" if feed > 1e-3 else "its input gives way"),
                figure=feed, limit=e.min_v, unit="V", scenario=state.scenario.id, source="The converter's own input limit",
            )  # fmt: skip
            break


def dangling(case: Case, rule: Rule) -> Iterator[Finding]:
    """Things with a terminal that nothing is on."""
    at = case.plan.runs_at
    for x in case.plan.placed:
        if isinstance(x, Inline | Battery | Equipment):
            free = [t for t in x.terminal_names if not at.get(x.ref(t))]
            if isinstance(x, Converter) and not x.isolated and "out_minus" in free and at.get(x.ref("in_minus")):
                free.remove("out_minus")
            if isinstance(x, Converter) and not x.isolated and "in_minus" in free and at.get(x.ref("out_minus")):
                free.remove("in_minus")
            if not free:
                continue
            mend = None
            if isinstance(x, Inline):
                mend = Edit(f"Remove {x.title}", partial(edits.remove_inline, item_id=x.id))
            elif isinstance(x, Load):
                mend = Edit(f"Remove {x.title}", partial(edits.remove_circuit, equipment_id=x.id))
            yield case.finding(
                rule, Severity.MEND, x.id, f"nothing is connected to {', '.join(free).replace('_', ' ')} of {x.title}",
                source="A circuit is a closed path from bank plus to bank minus", mend=mend,
            )  # fmt: skip


def unknown_overrides(case: Case, rule: Rule) -> Iterator[Finding]:
    """Overrides of limits that this practice does not have."""
    for o in case.plan.overrides:
        if o.limit not in case.book.limits:
            yield case.finding(
                rule, Severity.NOTE, o.limit, f"{case.book.name} has no limit called {o.limit}: the override does nothing",
                source="the plan", mend=Edit(f"Drop the override of {o.limit}", partial(edits.set_override, limit=o.limit, value=None)),
            )  # fmt: skip


RULES = (
    Rule("above_60_v", "Above 60 V DC",
         "Above 60 V a touch can kill and an arc does not go out by itself: other rules apply, and a licensed person decides.", above_limit),
    Rule("contradictory_sources", "Contradictory sources",
         "A battery that is shorted or works against another drives thousands of amperes at once: it burns, and can burst.", torn),
    Rule("collapse", "Power cannot be delivered",
         "The more current the load takes, the more voltage the way to it eats, until nothing is left: the load cuts out or stalls.", collapse),
    Rule("cut_off", "Not fed, or no return",
         "Without a closed path from plus to minus nothing flows; with the poles swapped things break at once.", loads_cut_off),
    Rule("converter_starved", "Converter stops",
         "When its input sags below its limit a converter drops everything behind it.", converters_starved),
    Rule("dangling", "Dangling end",
         "A loose end is forgotten work at best, and a live lug that touches something at worst.", dangling),
    Rule("unknown_override", "Override without effect",
         "A limit that somebody set on purpose should not be silently without effect.", unknown_overrides),
)  # fmt: skip
