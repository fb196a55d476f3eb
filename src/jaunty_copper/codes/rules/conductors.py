"""Ampacity, permitted insulation, and the conductor back."""

from collections.abc import Iterator
from functools import partial
from typing import NamedTuple

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED, Check, Rule, Verdict
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.codes.warmth import bears_c, ends_c
from jaunty_copper.language import say
from jaunty_copper.network.conduits import Fill
from jaunty_copper.network.lasting import comes_again
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Converter, Plan, Run

TOPIC = say("Conductors")


def resize(plan: Plan, ids: tuple[str, ...], conductor: str) -> Plan:
    """Give several runs one conductor size."""
    for id_ in ids:
        plan = edits.change(plan, id_, conductor=conductor)
    return plan


def ampacity_exceeded(case: Case, rule: Rule) -> Iterator[Check]:
    """Runs that carry more than their ampacity in a scenario without surge."""
    for run in case.plan.runs:
        if run.id not in case.ampacities or run.cranking:
            continue
        k = case.wiring.branch[run.id]
        amp, current = case.ampacities[run.id], float(case.study.continuous_a[k])
        able, governs, source = case.for_load(amp)
        check = case.check(
            rule, run.id, current, able, "A", scenario=case.study.lasting_state(k).scenario.id, source=source
        )
        if current <= able * ROUNDED:
            yield check
            continue
        over = say(
            "{run} carries {current}; its ampacity is {able}, limited by {governs}",
            run=case.run_title(run), current=amps(current), able=amps(able), governs=governs,
        )  # fmt: skip
        worst, verdict = _over_in_time(case, run, able), Verdict.DANGER
        if worst is not None and worst.ends_c <= worst.limit_c:
            verdict = Verdict.DEFECT
            over = say(
                "{over}. At the end of the {minutes:g} min of “{scenario}” it has {warm:.0f} °C; {limit:.0f} °C are its limit, and it keeps to "
                "that only where something ends the load in time",
                over=over, warm=worst.ends_c, limit=worst.limit_c, minutes=worst.minutes, scenario=worst.title,
            )  # fmt: skip
        yield check.fails(verdict, over, partial(thicker, case, run, current))


class InTime(NamedTuple):
    """A conductor at the end of a scenario that says how long it lasts, in minutes; degrees Celsius."""

    ends_c: float
    limit_c: float
    minutes: float
    title: str


def _over_in_time(case: Case, run: Run, able: float) -> InTime | None:
    """The warmest end of those scenarios in which a conductor carries more than it may; None where that is not known.

    It is not of a scenario that goes on, or comes again and again; nor of a conductor that cannot lose its heat as one alone in
    free air does.
    """
    if not case.lies_alone(run):
        return None
    found = []
    for state in case.study.every:
        s = state.scenario
        if not state.solved or state.momentary or abs(state.current(run.id)) <= able * ROUNDED:
            continue
        warm = case.once(ends_c, s.id).get(run.id)
        if s.minutes is None or warm is None or comes_again(case.study, s) or state is not case.study.state(s.id):
            return None
        found.append(InTime(warm, bears_c(case, run), s.minutes, s.title))
    return max(found, default=None)


def thicker(case: Case, run: Run, current: float) -> Edit | None:
    """The smallest thicker size that may carry a current.

    Parameters
    ----------
    current : float
        To be carried for good, A.
    """
    size = case.smallest_conductor(run, current)
    if size is None:
        return None
    label = case.parts.conductors[size].label
    return Edit(say("Make {run} {label}", run=run.id, label=label), partial(resize, ids=(run.id,), conductor=size))


def as_thick(case: Case, run: Run, least_mm2: float) -> Edit | None:
    """The smallest size of a run's own system that is at least so thick.

    Parameters
    ----------
    least_mm2 : float
        Section of one conductor, mm2.
    """
    sizes = case.parts.sizes(case.parts.conductors[run.conductor].system)
    fits = next((s for s in sizes if s.area_mm2 * 1.001 >= least_mm2), None)
    if fits is None:
        return None
    return Edit(
        say("Make {run} {size}", run=run.id, size=fits.label), partial(resize, ids=(run.id,), conductor=fits.id)
    )


def too_small(case: Case, rule: Rule) -> Iterator[Check]:
    """Conductors thinner than the code allows at all, or than it allows in parallel."""
    for run in case.plan.runs:
        if run.length_m == 0.0:
            continue
        size = case.parts.conductors[run.conductor]
        name = "parallel_least_mm2" if run.parallel > 1 and case.code.limit("parallel_least_mm2") else "least_mm2"
        least = case.code.limit(name)
        check = case.check(rule, run.id, size.area_mm2, least, "mm²", source=case.code.source(name))
        yield (
            check
            if size.area_mm2 * 1.001 >= least
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{run} has {area:.3g} mm²; {least:.3g} mm² are the least{parallel}",
                    run=case.run_title(run),
                    area=size.area_mm2,
                    least=least,
                    parallel=say(" in parallel") if name == "parallel_least_mm2" else "",
                ),
                partial(as_thick, case, run, least),
            )
        )


def insulation_not_permitted(case: Case, rule: Rule) -> Iterator[Check]:
    """Insulation too cool for an engine space, or already at its limit by the air alone."""
    table = case.code.ampacity
    for run in case.plan.runs:
        if run.length_m == 0.0:
            continue
        insulation = case.parts.insulations[run.insulation]
        air = float(case.study.hottest_ambient_c[case.wiring.branch[run.id]])
        engine = case.plan.zone_of(run.zone).engine_space and insulation.max_c < table.lowest_engine_space_class
        limit = float(table.lowest_engine_space_class) if engine else air
        check = case.check(rule, run.id, insulation.max_c, limit, "°C", source=table.engine_space_source)
        words = say("engine spaces need at least") if engine else say("the air there has already")
        yield check if not engine and insulation.max_c > air else check.fails(
            Verdict.DANGER, say('{run} has {insulation} insulation; {words} {limit:.0f} °C', run=case.run_title(run), insulation=insulation.label, words=words, limit=limit),
            partial(_better, case, run, max(limit, air + 30.0)),
        )  # fmt: skip


def _better(case: Case, run: Run, least_c: float) -> Edit | None:
    """The coolest insulation rated for a temperature."""
    by_rating = sorted(case.parts.insulations.values(), key=lambda i: i.max_c)
    better = next((i for i in by_rating if i.max_c >= least_c), None)
    if better is None:
        return None
    return Edit(
        say("Make {run} {better}", run=run.id, better=better.label),
        partial(edits.change, id_=run.id, insulation=better.id),
    )


def _area(case: Case, run: Run) -> float:
    return case.parts.conductors[run.conductor].area_mm2 * run.parallel


def _thinnest(case: Case, runs: list[Run]) -> tuple[float, Run] | None:
    """Section and run of the thinnest conductor of a chain, mm2; None where it has none."""
    long = [(_area(case, r), r) for r in runs if r.length_m > 0.0]
    return min(long, key=lambda pair: pair[0], default=None)


def return_too_thin(case: Case, rule: Rule) -> Iterator[Check]:
    """A return conductor thinner than the one that goes out."""
    least = case.code.limit("return_share")
    for e in case.plan.equipment:
        ports = [e.port]
        if isinstance(e, Converter):
            ports.append((e.ref("out_plus"), e.ref("out_minus")))
        for plus, minus in ports:
            out, back = (case.chain(e, ref.split(".")[1]) for ref in (plus, minus))
            one, two = _thinnest(case, out), _thinnest(case, back)
            if one is None or two is None:
                continue
            live = case.wiring.rail_of(plus) in case.protection.guard.hot_rails
            thick, thin = (one, two) if live else (two, one)
            check = case.check(
                rule, thin[1].id, thin[0], least * thick[0], "mm²", source=case.code.source("return_share")
            )
            if thin[0] >= least * thick[0] * 0.999:
                yield check
                continue
            label = case.parts.conductors[thick[1].conductor].label
            ids = tuple(r.id for r in (back if thin is two else out) if _area(case, r) < thick[0])
            yield check.fails(
                Verdict.DEFECT,
                say(
                    "{e}: {thin} has {thin_2:.4g} mm², its partner {thick:.4g} mm²",
                    e=e.title,
                    thin=case.run_title(thin[1]),
                    thin_2=thin[0],
                    thick=thick[0],
                ),
                partial(
                    Edit,
                    say("Make {ids} {label}", ids=", ".join(ids), label=label),
                    partial(resize, ids=ids, conductor=thick[1].conductor),
                ),
            )


def conduit_too_full(case: Case, rule: Rule) -> Iterator[Check]:
    """Conduits that hold more cable than can be drawn in, or give off its heat."""
    for f in case.fills:
        if not f.runs or not f.route.inner_mm:
            continue
        check = case.check(
            rule, f.runs[0], 100.0 * f.share, 100.0 * f.limit, "%", source=case.code.source(case.conduit_limit(f.cables))
        )  # fmt: skip
        yield (
            check
            if not f.full
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{route} is {share:.0f} % full with {cables} cables, {limit:.0f} % allowed",
                    route=f.route.title,
                    share=100.0 * f.share,
                    cables=f.cables,
                    limit=100.0 * f.limit,
                ),
                partial(_wider, f),
            )
        )


def _wider(f: Fill) -> Edit | None:
    """The conduit with the least width that the code allows."""
    if f.least_mm is None:
        return None
    change = partial(edits.change, id_=f.route.id, inner_mm=f.least_mm)
    return Edit(say("Make {route} {least_mm:g} mm wide inside", route=f.route.title, least_mm=f.least_mm), change)


RULES = (
    Rule("ampacity", say("Ampacity"),
         say("A conductor above its ampacity cooks its insulation a little every time, until it shorts or burns."), ampacity_exceeded,
         say("{} conductors carry more than their ampacity"), topic=TOPIC),
    Rule("least_size", say("Least size"),
         say("A thin conductor breaks at its lug before anything is wrong with its current."), too_small,
         say("{} conductors are thinner than the least"), topic=TOPIC),
    Rule("insulation", say("Insulation for the place"),
         say("Insulation that the air alone brings near its limit softens, and the copper moves through it."), insulation_not_permitted,
         say("{} conductors have insulation too weak for their place"), topic=TOPIC),
    Rule("return_conductor", say("Return conductor"),
         say("The return carries the same current as the supply: a thinner one gets hot, and no device guards it."), return_too_thin,
         say("{} return conductors are thinner than their partner"), topic=TOPIC),
    Rule("conduit_fill", say("Conduit fill"),
         say("Cables drawn into a full conduit are stretched and scraped, and lie too close to lose their heat."), conduit_too_full,
         say("{} conduits are too full"), page="build", topic=TOPIC),
)  # fmt: skip
