"""What is computed of a thing, in labels and words, for the inspector."""

from collections.abc import Sequence
from functools import lru_cache
from math import isfinite

from jaunty_copper.choosing.insulations import by_insulation
from jaunty_copper.choosing.thicker import one_size_up
from jaunty_copper.choosing.windows import window
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.documents import words
from jaunty_copper.documents.map.picture import Picture, RunReading
from jaunty_copper.documents.words import Units
from jaunty_copper.fabrication.posts import at_posts, reach_mm
from jaunty_copper.language import say
from jaunty_copper.network.lasting import begins_at_c, ends_at_c
from jaunty_copper.network.state import State
from jaunty_copper.parts.figures import short
from jaunty_copper.physics.heat import temperature_after
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Breaker,
    Converter,
    Equipment,
    Fuse,
    Inline,
    Run,
    split_ref,
)

LEAST_GAIN_W = 0.05
"""Below that nobody thinks of a thicker cable."""
FELT_K = 3.0
"""A rise that a hand notices."""
A_FEW_MIN = 4.0


@lru_cache(maxsize=1)
def facts_of(
    picture: Picture | None, id_: str, stud: str, scenario: str | None, units: Units
) -> Sequence[tuple[str, str]]:
    """Computed figures of a thing; none while its study is still to come.

    Kept until another is asked for: an edit shows those of the study before it until its own is there.

    Parameters
    ----------
    id_ : str
        Of an item, equipment or a run.
    stud : str
        Of a bar; empty for none.
    """
    if picture is None or picture.case is None:
        return ()
    case = picture.case
    # The study is of the plan as it was a moment ago: ask it for its own version of the thing.
    thing: object = case.plan.run_by_id.get(id_) or case.plan.by_id.get(id_)
    if thing is None:
        return ()
    if isinstance(thing, Run):
        return _run_facts(picture, case, thing, scenario)
    facts: list[tuple[str, str]] = []
    if isinstance(thing, Equipment):
        r = picture.equipment(thing, scenario)
        if r.mode == "":
            return [(say("Now"), say("no operating point"))]
        facts.append(
            (
                say("Now"),
                say(
                    "{current_a} at {voltage_v}, {mode}",
                    current_a=words.amps(r.current_a),
                    voltage_v=words.volts(r.voltage_v),
                    mode=r.mode,
                ),
            )
        )
        one_way, both = _lengths(case, thing)
        facts.append(
            (
                say("Voltage drop"),
                say(
                    "{drop_v}, {drop_share:.1f} % of {limit_share:.0f} % allowed",
                    drop_v=words.drop(r.drop_v),
                    drop_share=100 * r.drop_share,
                    limit_share=100 * r.limit_share,
                ),
            )
        )
        facts.append(
            (
                say("Length one way"),
                say("{one_way}; circuit length {both}", one_way=units.length(one_way), both=units.length(both)),
            )
        )
        if isinstance(thing, Converter):
            v, amps = picture.output(thing, scenario)
            facts.append((say("Gives"), say("{amps} at {v}", amps=words.amps(amps), v=words.volts(v))))
    elif isinstance(thing, Battery):
        current = picture.through(thing.id, scenario)[0]
        verb = say("takes") if current < 0 else say("gives")
        facts.append(
            (
                say("Now"),
                say(
                    "{verb} {current} at {battery_v}",
                    verb=verb,
                    current=words.amps(current),
                    battery_v=words.volts(picture.battery_v(thing.id, scenario)),
                ),
            )
        )
        cold = [s.scenario.title for s in picture.states(scenario) if thing.id in s.kept_out]
        if cold:
            facts.append((say("Charge"), say("lets none in, too cold or too warm: “{title}”", title=cold[0])))
        facts.append((say("C-rate"), say("{current:.2f} per hour", current=abs(current) / thing.capacity_ah)))
        bank = next((b for b in case.wiring.banks if thing.id in b.by_id), None)
        if bank is not None:
            most, volts = at_posts(case.protection, bank)
            facts.append((say("Short circuit at the posts"), words.amps(most)))
            facts.append(
                (say("An arc there burns"), say("up to {reach}", reach=units.length(reach_mm(volts, most) / 1000.0)))
            )
    elif isinstance(thing, Inline):
        current, lost = picture.through(thing.id, scenario)
        facts.append(
            (say("Now"), say("{current}; voltage drop {lost}", current=words.amps(current), lost=words.drop(lost)))
        )
        if isinstance(thing, Fuse | Breaker):
            low, high = window(case, thing)
            permitted = (
                say("{amps} to {amps_2} A", amps=short(low.amps), amps_2=short(high.amps))
                if high.amps >= low.amps
                else say("none: at least {amps} A, at most {amps_2} A", amps=short(low.amps), amps_2=short(high.amps))
            )
            facts.append(
                (
                    say("Permitted rating"),
                    permitted if isfinite(high.amps) else say("from {amps} A", amps=short(low.amps)),
                )
            )
            facts.append((say("Limiting element"), high.why))
            found = interrupting(case, thing.id)
            rated = say("none") if found.able_a is None else words.amps(found.able_a)
            facts.append(
                (
                    say("Interrupt rating"),
                    say("{rated} at {operating_v:.3g} V", rated=rated, operating_v=case.operating_v(thing)),
                )
            )
            facts.append((say("Prospective current"), words.amps(found.prospective_a)))
            if found.backed is not None:
                facts.append(
                    (
                        say("Let through"),
                        say("{wanted_a} by {by}", wanted_a=words.amps(found.wanted_a), by=case.title(found.backed.by)),
                    )
                )
    elif isinstance(thing, Bar):
        if stud:
            facts.append((say("Stud"), f"{stud}: {words.volts(picture.node_v(thing.ref(stud), scenario))}"))
        worst = max(
            (
                max((abs(float(s.point.current_a[k])) for s in picture.states(scenario)), default=0.0)
                for k in case.wiring.segments.get(thing.id, [])
            ),
            default=0.0,
        )
        facts.append(
            (
                say("Worst segment"),
                say("{worst} of {rating_a}", worst=words.amps(worst), rating_a=words.amps(thing.rating_a)),
            )
        )
    return facts


def _bound(case: Case, run: Run) -> str:
    """The most that can flow through a run for good, and what limits that."""
    k = case.wiring.branch[run.id]
    bound = case.protection.guard.bound(k)
    if not isfinite(bound.amps):
        return say("nothing limits it")
    by = " + ".join(bound.feeds) or say("no source")
    return say("{amps}, limited by {by}", amps=words.amps(bound.amps), by=by)


def _run_facts(picture: Picture, case: Case, run: Run, scenario: str | None) -> list[tuple[str, str]]:
    r = picture.run(run.id, scenario)
    amp = case.ampacities.get(run.id)
    if not isfinite(r.current_a):
        facts = [(say("Now"), say("no operating point"))]
    else:
        facts = [
            (
                say("Now"),
                say(
                    "{current_a}; voltage drop {drop_v}, loss {loss_w:.1f} W",
                    current_a=words.amps(r.current_a),
                    drop_v=words.drop(r.drop_v),
                    loss_w=r.loss_w,
                ),
            )
        ]
    if amp is not None:
        facts.append((say("Ampacity"), say("{amps}, by {governs}", amps=words.amps(amp.amps), governs=amp.governs)))
        able, governs, _ = case.for_load(amp)
        if able < amp.amps:
            facts.append((say("May flow for good"), say("{amps}: {governs}", amps=words.amps(able), governs=governs)))
        if isfinite(r.used):
            facts.append((say("Used"), words.percent(r.used)))
        facts.append((say("Greatest lasting current"), _bound(case, run)))
        limits = ", ".join(
            f"{name} {value:.0f} A"
            for name, value in (
                ("table", amp.by_table),
                ("terminals", amp.by_terminals),
                (say("heat balance"), amp.by_heat),
            )
            if isfinite(value)
        )
        facts.append((say("Limits"), limits))
        more = _next_size(picture, case, run, scenario)
        if more:
            facts.append((say("One size up"), more))
        facts.append((say("Other insulation"), _insulations(case, run)))
        if isfinite(r.temperature_c):
            facts.append((say("Copper"), _warmth(case, run, r, picture.states(scenario))))
    return facts


def _next_size(picture: Picture, case: Case, run: Run, scenario: str | None) -> str:
    """What one size up gains, where something flows."""
    states = [s for s in picture.states(scenario) if run.id in s.wiring.branch]
    if not states:
        return ""
    up = one_size_up(case, run, max(states, key=lambda s: abs(s.current(run.id))))
    if up is None or up.watts < LEAST_GAIN_W:
        return ""
    return say(
        "{label} gives back {volts} and {watts:.1f} W, carries {more} more, costs {price:.0f} more",
        label=up.label, volts=words.drop(up.volts), watts=up.watts, more=words.amps(up.amps), price=up.price,
    )  # fmt: skip


def _insulations(case: Case, run: Run) -> str:
    """Ampacity with each class of insulation; those that gain nothing over a cooler one are left out."""
    limits, most = list[str](), 0.0
    for c in by_insulation(case, run):
        if c.amps > most * 1.005:
            most = c.amps
            limits.append(
                say("{max_c:.0f} °C: {amps}", max_c=case.parts.insulations[c.id].max_c, amps=words.amps(c.amps))
            )
    return ", ".join(limits)


def _warmth(case: Case, run: Run, r: RunReading, states: list[State]) -> str:
    """How warm the copper gets, and how warm a hand finds it: at the end of a scenario's own time, else after a few minutes."""
    cable = case.wiring.circuit.cable_of(case.wiring.branch[run.id])
    if cable is None or r.temperature_c - r.air_c < FELT_K:
        return say("{temperature_c:.0f} °C steady", temperature_c=r.temperature_c)
    timed = [s for s in states if s.scenario.minutes is not None]
    if len(states) == 1 and timed and run in case.wiring.heated_runs:
        (state,), k = timed, case.wiring.heated_runs.index(run)
        return say(
            "{begins:.0f} °C at first, {ends:.0f} °C after {minutes:g} min, {steady:.0f} °C in the end",
            begins=float(begins_at_c(case.study, state)[k]),
            ends=float(ends_at_c(case.study, state)[k]),
            minutes=state.scenario.minutes,
            steady=r.temperature_c,
        )
    soon = float(temperature_after(cable, r.current_a, r.air_c, 60.0 * A_FEW_MIN)[0])
    return say(
        "{soon:.0f} °C after {minutes:g} min, {steady:.0f} °C in the end",
        soon=soon,
        minutes=A_FEW_MIN,
        steady=r.temperature_c,
    )


def _lengths(case: Case, e: Equipment) -> tuple[float, float]:
    """Length of the equipment's own conductors one way, and out and back, m."""
    plus, minus = (sum(r.length_m for r in case.chain(e, split_ref(ref)[1])) for ref in e.port)
    return plus, plus + minus
