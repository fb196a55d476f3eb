"""Voltage drop over the round trip, and what equipment tolerates."""

from collections.abc import Iterator
from functools import partial
from math import isfinite

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.words import percent, volts
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import AnyEquipment, Converter, Equipment, Inverter, Load, Plan, Source


def worst_drop(case: Case, e: Equipment) -> tuple[float, State] | None:
    """Largest drop of equipment over scenarios without surge, V, and where; None if it never runs."""
    found: tuple[float, State] | None = None
    for state in case.study.every:
        if state.momentary or not state.solved:
            continue
        v, amps = state.port(e)
        lost = case.study.drop_v(e, state)
        if isfinite(v) and isfinite(lost) and abs(amps) > 1e-6 and (found is None or lost > found[0]):
            found = (lost, state)
    return found


def too_much(case: Case, rule: Rule) -> Iterator[Check]:
    """Equipment that loses more voltage over the round trip than its code allows."""
    for e in case.plan.equipment:
        worst = worst_drop(case, e)
        if worst is None:
            continue
        lost, state = worst
        limit, source = case.drop_limit(e)
        share = 100.0 * lost / e.nominal_v
        check = case.check(rule, e.id, share, limit, "%", scenario=state.scenario.id, source=source)
        way = say("between charger and bank") if isinstance(e, Source) else say("on the round trip")
        yield (
            check
            if share <= limit
            else check.fails(
                Verdict.DEFECT,
                say(
                    "Voltage drop to {e}: {lost} {way}, {share} of {nominal_v:g} V, {limit:g} % allowed",
                    e=e.title,
                    lost=volts(lost),
                    way=way,
                    share=percent(share),
                    nominal_v=e.nominal_v,
                    limit=limit,
                ),
                partial(_thicker, case, e, state, lost - limit / 100.0 * e.nominal_v),
            )
        )


def resize_each(plan: Plan, sizes: tuple[tuple[str, str], ...]) -> Plan:
    """Give each run its own conductor size."""
    for id_, conductor in sizes:
        plan = edits.change(plan, id_, conductor=conductor)
    return plan


def _thicker(case: Case, e: AnyEquipment, state: State, excess_v: float) -> Edit | None:
    """Enlarge the equipment's own pair until the excess is gone, or None where that cannot do it."""
    runs = [r for ref in e.port for r in case.chain(e, ref.split(".")[1]) if r.length_m > 0 and r.measured_ohm is None]
    if not runs:
        return None
    thinnest = min(runs, key=lambda r: case.parts.conductors[r.conductor].area_mm2)
    now = case.parts.conductors[thinnest.conductor]
    for size in case.parts.sizes(now.system):
        if size.area_mm2 <= now.area_mm2:
            continue
        thin = [r for r in runs if case.parts.conductors[r.conductor].area_mm2 < size.area_mm2]
        saved = sum(
            abs(state.drop(r.id)) * (1.0 - size.r_ohm_per_km / case.parts.conductors[r.conductor].r_ohm_per_km)
            for r in thin
        )
        # Joints do not shrink with the copper, and a constant power gives a little back: ask 3 % more.
        if saved >= 1.03 * excess_v:
            sizes = tuple((r.id, size.id) for r in thin)
            return Edit(
                say("Make {thin} {size}", thin=", ".join(r.id for r in thin), size=size.label),
                partial(resize_each, sizes=sizes),
            )
    return None


def below_lowest(case: Case, rule: Rule) -> Iterator[Check]:
    """Equipment below its minimum voltage, surges included."""
    for e in case.plan.equipment:
        if not isinstance(e, Load | Converter):
            continue
        lowest = e.cut_out_v if isinstance(e, Inverter) and e.cut_out_v else e.min_v
        if lowest is None:
            continue
        ports = [(*state.port(e), state) for state in case.study.every if state.solved]
        running = [(v, state) for v, amps, state in ports if isfinite(v) and amps > 1e-6]
        if not running:
            continue
        v, state = min(running, key=lambda pair: pair[0])
        check = case.check(
            rule, e.id, v, lowest, "V", scenario=state.scenario.id, source=say("The equipment's own limit")
        )
        verb = say("cuts out") if isinstance(e, Inverter) else say("has too little voltage")
        yield (
            check
            if v >= lowest
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{e} {verb} in “{scenario}”: {v} at its terminals, {lowest} needed",
                    e=e.title,
                    verb=verb,
                    scenario=state.scenario.title,
                    v=volts(v),
                    lowest=volts(lowest),
                ),
            )
        )


TOPIC = say("Voltage")
RULES = (
    Rule("voltage_drop", say("Voltage drop"),
         say("What the cable takes the equipment lacks: it dims, stalls, or charges the bank only part of the way."), too_much,
         say("{} pieces of equipment have too much voltage drop"), topic=TOPIC),
    Rule("lowest_voltage", say("Minimum voltage"),
         say("Below its limit equipment stops, usually at the moment when it is needed most."), below_lowest,
         say("{} pieces of equipment get too little voltage"), topic=TOPIC),
)  # fmt: skip
