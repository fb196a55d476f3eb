"""What is computed of a thing, in labels and words, for the inspector."""

from math import isfinite

from jaunty_copper.choosing.devices import window
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.desktop.widgets import words
from jaunty_copper.desktop.widgets.words import Units
from jaunty_copper.desktop.work.picture import Picture
from jaunty_copper.parts.figures import short
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Breaker,
    Converter,
    Equipment,
    Fuse,
    Inline,
    Named,
    Run,
    split_ref,
)


def selection_facts(
    picture: Picture | None, thing: Named | Run, stud: str, scenario: str | None, units: Units
) -> list[tuple[str, str]]:
    """Computed figures of a thing; none while its study is still to come."""
    if picture is None or picture.case is None:
        return []
    case = picture.case
    # The study is of the plan as it was a moment ago: ask it for its own version of the thing.
    known = case.plan.run_by_id.get(thing.id) or case.plan.by_id.get(thing.id)
    if known is None:
        return []
    thing = known
    if isinstance(thing, Run):
        return _run_facts(picture, case, thing, scenario)
    facts: list[tuple[str, str]] = []
    if isinstance(thing, Equipment):
        r = picture.equipment(thing, scenario)
        if r.mode == "":
            return [("Now", "no operating point")]
        facts.append(("Now", f"{words.amps(r.current_a)} at {words.volts(r.voltage_v)}, {r.mode}"))
        one_way, both = _lengths(case, thing)
        facts.append(
            (
                "Voltage drop",
                f"{words.drop(r.drop_v)}, {100 * r.drop_share:.1f} % of {100 * r.limit_share:.0f} % allowed",
            )
        )
        facts.append(("Length one way", f"{units.length(one_way)}; circuit length {units.length(both)}"))
        if isinstance(thing, Converter):
            v, amps = picture.output(thing, scenario)
            facts.append(("Gives", f"{words.amps(amps)} at {words.volts(v)}"))
    elif isinstance(thing, Battery):
        current = picture.through(thing.id, scenario)[0]
        verb = "takes" if current < 0 else "gives"
        facts.append(("Now", f"{verb} {words.amps(current)} at {words.volts(picture.battery_v(thing.id, scenario))}"))
        facts.append(("C-rate", f"{abs(current) / thing.capacity_ah:.2f} per hour"))
    elif isinstance(thing, Inline):
        current, lost = picture.through(thing.id, scenario)
        facts.append(("Now", f"{words.amps(current)}; voltage drop {words.drop(lost)}"))
        if isinstance(thing, Fuse | Breaker):
            low, high = window(case, thing)
            permitted = (
                f"{short(low.amps)} to {short(high.amps)} A"
                if high.amps >= low.amps
                else f"none: at least {short(low.amps)} A, at most {short(high.amps)} A"
            )
            facts.append(("Permitted rating", permitted if isfinite(high.amps) else f"from {short(low.amps)} A"))
            facts.append(("Limiting element", high.why))
            found = interrupting(case, thing.id)
            rated = "none" if found.able_a is None else words.amps(found.able_a)
            facts.append(("Interrupt rating", f"{rated} at {case.operating_v(thing):.3g} V"))
            facts.append(("Prospective current", words.amps(found.prospective_a)))
            if found.backed is not None:
                facts.append(("Let through", f"{words.amps(found.wanted_a)} by {case.title(found.backed.by)}"))
    elif isinstance(thing, Bar):
        if stud:
            facts.append(("Stud", f"{stud}: {words.volts(picture.node_v(thing.ref(stud), scenario))}"))
        worst = max(
            (
                max((abs(float(s.point.current_a[k])) for s in picture.states(scenario)), default=0.0)
                for k in case.wiring.segments.get(thing.id, [])
            ),
            default=0.0,
        )
        facts.append(("Worst segment", f"{words.amps(worst)} of {words.amps(thing.rating_a)}"))
    return facts


def _bound(case: Case, run: Run) -> str:
    """The most that can flow through a run for good, and what limits that."""
    k = case.wiring.branch[run.id]
    bound = case.protection.guard.bound(k)
    if not isfinite(bound.amps):
        return "nothing limits it"
    by = " + ".join(bound.feeds) or "no source"
    return f"{words.amps(bound.amps)}, limited by {by}"


def _run_facts(picture: Picture, case: Case, run: Run, scenario: str | None) -> list[tuple[str, str]]:
    r = picture.run(run.id, scenario)
    amp = case.ampacities.get(run.id)
    if not isfinite(r.current_a):
        facts = [("Now", "no operating point")]
    else:
        facts = [("Now", f"{words.amps(r.current_a)}; voltage drop {words.drop(r.drop_v)}, loss {r.loss_w:.1f} W")]
    if amp is not None:
        facts.append(("Ampacity", f"{words.amps(amp.amps)}, by {amp.governs}"))
        if isfinite(r.used):
            facts.append(("Used", words.percent(r.used)))
        facts.append(("Greatest lasting current", _bound(case, run)))
        limits = ", ".join(
            f"{name} {value:.0f} A"
            for name, value in (
                ("table", amp.by_table),
                ("terminals", amp.by_terminals),
                ("heat balance", amp.by_heat),
            )
            if isfinite(value)
        )
        facts.append(("Limits", limits))
        if isfinite(r.temperature_c):
            facts.append(("Copper", f"{r.temperature_c:.0f} °C steady"))
    return facts


def _lengths(case: Case, e: Equipment) -> tuple[float, float]:
    """Length of the equipment's own conductors one way, and out and back, m."""
    plus, minus = (sum(r.length_m for r in case.chain(e, split_ref(ref)[1])) for ref in e.port)
    return plus, plus + minus
