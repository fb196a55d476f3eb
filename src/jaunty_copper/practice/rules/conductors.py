"""Ampacity, permitted insulation, and the conductor back."""

from collections.abc import Iterator
from functools import partial

from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Converter, Plan, Run
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.words import amps


def resize(plan: Plan, ids: tuple[str, ...], conductor: str) -> Plan:
    """Give several runs one conductor size."""
    for id_ in ids:
        plan = edits.change(plan, id_, conductor=conductor)
    return plan


def ampacity_exceeded(case: Case, rule: Rule) -> Iterator[Finding]:
    """Runs that carry more than their ampacity in a scenario without surge."""
    for run in case.plan.runs:
        if run.id not in case.ampacities:
            continue
        k = case.wiring.branch[run.id]
        amp, current = case.ampacities[run.id], float(case.study.continuous_a[k])
        if current <= amp.amps or run.cranking:
            continue
        state = case.study.worst_state(k, lasting=True)
        size = case.smallest_conductor(run, current)
        label = case.parts.conductors[size].label if size else ""
        yield case.finding(
            rule, Severity.STOP, run.id,
            f"{case.run_title(run)} carries {amps(current)}; its ampacity is {amps(amp.amps)}, limited by {amp.governs}",
            figure=current, limit=amp.amps, unit="A", scenario=state.scenario.id, source=amp.source,
            mend=Edit(f"Make {run.id} {label}", partial(resize, ids=(run.id,), conductor=size)) if size else None,
        )  # fmt: skip


def insulation_not_permitted(case: Case, rule: Rule) -> Iterator[Finding]:
    """Insulation too cool for an engine space, or already at its limit by the air alone."""
    table = case.book.ampacity
    for run in case.plan.runs:
        if run.length_m == 0.0:
            continue
        insulation = case.parts.insulations[run.insulation]
        zone = case.plan.zone_of(run.zone)
        air = float(case.study.hottest_ambient_c[case.wiring.branch[run.id]])
        if zone.engine_space and insulation.max_c < table.lowest_engine_space_class:
            limit, words = float(table.lowest_engine_space_class), "engine spaces need at least"
        elif insulation.max_c <= air:
            limit, words = air, "the air there has already"
        else:
            continue
        better = next(
            (
                i
                for i in sorted(case.parts.insulations.values(), key=lambda i: i.max_c)
                if i.max_c >= max(limit, air + 30.0)
            ),
            None,
        )
        yield case.finding(
            rule, Severity.STOP, run.id,
            f"{case.run_title(run)} has {insulation.label} insulation; {words} {limit:.0f} °C",
            figure=insulation.max_c, limit=limit, unit="°C", source=table.engine_space_source,
            mend=Edit(f"Make {run.id} {better.label}", partial(edits.change, id_=run.id, insulation=better.id)) if better else None,
        )  # fmt: skip


def _area(case: Case, run: Run) -> float:
    return case.parts.conductors[run.conductor].area_mm2 * run.parallel


def _thinnest(case: Case, runs: list[Run]) -> tuple[float, Run] | None:
    """Section and run of the thinnest conductor of a chain, mm2; None where it has none."""
    long = [(_area(case, r), r) for r in runs if r.length_m > 0.0]
    return min(long, key=lambda pair: pair[0], default=None)


def return_too_thin(case: Case, rule: Rule) -> Iterator[Finding]:
    """A return conductor thinner than the one that goes out."""
    least = case.book.limit("return_share")
    for e in case.plan.equipment:
        ports = [e.port]
        if isinstance(e, Converter):
            ports.append((e.ref("out_plus"), e.ref("out_minus")))
        for plus, minus in ports:
            out, back = (case.chain(e, ref.split(".")[1]) for ref in (plus, minus))
            one, two = _thinnest(case, out), _thinnest(case, back)
            if one is None or two is None:
                continue
            live = case.wiring.rail_of(plus) in case.study.guard.live_rails
            thick, thin = (one, two) if live else (two, one)
            if thin[0] >= least * thick[0] * 0.999:
                continue
            label = case.parts.conductors[thick[1].conductor].label
            side = back if thin is two else out
            ids = tuple(r.id for r in side if _area(case, r) < thick[0])
            yield case.finding(
                rule, Severity.MEND, thin[1].id,
                f"{e.title}: {case.run_title(thin[1])} has {thin[0]:.4g} mm², its partner {thick[0]:.4g} mm²",
                figure=thin[0], limit=least * thick[0], unit="mm²", source=case.book.source("return_share"),
                mend=Edit(f"Make {', '.join(ids)} {label}", partial(resize, ids=ids, conductor=thick[1].conductor)),
            )  # fmt: skip


def conduit_too_full(case: Case, rule: Rule) -> Iterator[Finding]:
    """Conduits that hold more cable than can be drawn in, or give off its heat."""
    for f in case.fills:
        if not f.full:
            continue
        words = (
            f"{f.route.title} is {100.0 * f.share:.0f} % full with {f.cables} cables, {100.0 * f.limit:.0f} % allowed"
        )
        mend = None
        if f.least_mm is not None:
            change = partial(edits.change, id_=f.route.id, inner_mm=f.least_mm)
            mend = Edit(f"Make {f.route.title} {f.least_mm:g} mm wide inside", change)
        yield case.finding(
            rule, Severity.MEND, f.runs[0], words, figure=100.0 * f.share, limit=100.0 * f.limit, unit="%",
            source=case.book.source(case.conduit_limit(f.cables)),
            mend=mend,
        )  # fmt: skip


RULES = (
    Rule("ampacity", "Ampacity",
         "A conductor above its ampacity cooks its insulation a little every time, until it shorts or burns.", ampacity_exceeded),
    Rule("insulation", "Insulation for the place",
         "Insulation that the air alone brings near its limit softens, and the copper moves through it.", insulation_not_permitted),
    Rule("return_conductor", "Return conductor",
         "The way back carries the same current as the way out: a thinner one gets hot, and no device looks after it.", return_too_thin),
    Rule("conduit_fill", "Conduit fill",
         "Cables drawn into a full conduit are stretched and scraped, and lie too close to lose their heat.", conduit_too_full),
)  # fmt: skip
