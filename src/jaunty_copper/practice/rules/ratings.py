"""Bars, switches, shunts and plugs against the current through them."""

from bisect import bisect_left
from collections.abc import Iterator
from functools import partial

from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar, Contactor, Disconnect, PlugConnector, Post, Shunt
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.words import amps

OWN = "The part's own rating"


def next_rating(case: Case, current: float) -> float | None:
    """The next standard rating at or above a current, A."""
    ratings = case.parts.device_ratings_a
    at = bisect_left(ratings, current)
    return ratings[at] if at < len(ratings) else None


def _larger(case: Case, id_: str, current: float) -> Edit | None:
    rating = next_rating(case, current)
    if rating is None:
        return None
    return Edit(f"Make {case.title(id_)} {rating:g} A", partial(edits.change, id_=id_, rating_a=rating))


def bar_segments(case: Case, rule: Rule) -> Iterator[Finding]:
    """Bars with a segment that carries more than the bar may."""
    for bar in case.plan.items:
        if not isinstance(bar, Bar) or bar.id not in case.wiring.segments:
            continue
        segments = case.wiring.segments[bar.id]
        worst = max(segments, key=lambda k: case.study.continuous_a[k])
        current = float(case.study.continuous_a[worst])
        if current <= bar.rating_a:
            continue
        at = case.wiring.branches[worst].index
        names = bar.terminal_names
        state = case.study.worst_state(worst, lasting=True)
        yield case.finding(
            rule, Severity.STOP, bar.id,
            f"{bar.title} carries {amps(current)} between studs {names[at]} and {names[at + 1]}; it may carry {amps(bar.rating_a)}",
            figure=current, limit=bar.rating_a, unit="A", scenario=state.scenario.id, source=OWN,
            mend=_larger(case, bar.id, current),
        )  # fmt: skip


def inline_ratings(case: Case, rule: Rule) -> Iterator[Finding]:
    """Disconnects, contactors, shunts and plugs below their continuous current."""
    for x in case.plan.items:
        if not isinstance(x, Disconnect | Contactor | Shunt | PlugConnector) or x.rating_a is None:
            continue
        k = case.wiring.branch[x.id]
        current = float(case.study.continuous_a[k])
        if current <= x.rating_a:
            continue
        state = case.study.worst_state(k, lasting=True)
        yield case.finding(
            rule, Severity.STOP, x.id, f"{x.title} carries {amps(current)} in “{state.scenario.title}”; it may carry {amps(x.rating_a)}",
            figure=current, limit=x.rating_a, unit="A", scenario=state.scenario.id, source=OWN,
            mend=_larger(case, x.id, current),
        )  # fmt: skip


def posts(case: Case, rule: Rule) -> Iterator[Finding]:
    """Plain studs through which more passes than they may bear."""
    for x in case.plan.items:
        if not isinstance(x, Post) or x.rating_a is None:
            continue
        ks = [case.wiring.branch[r.id] for r in case.plan.runs_at.get(x.ref("stud"), ())]
        current = float(max((case.study.continuous_a[k] for k in ks), default=0.0))
        if current > x.rating_a:
            yield case.finding(
                rule, Severity.STOP, x.id, f"{x.title} passes {amps(current)}; it may carry {amps(x.rating_a)}",
                figure=current, limit=x.rating_a, unit="A", source=OWN, mend=_larger(case, x.id, current),
            )  # fmt: skip


def short_duty(case: Case, rule: Rule) -> Iterator[Finding]:
    """Contactors rated for short duty that carry current all the time, and surges beyond it."""
    for x in case.plan.items:
        if not isinstance(x, Contactor | Disconnect):
            continue
        k = case.wiring.branch[x.id]
        lasting, peak = float(case.study.continuous_a[k]), float(case.study.largest_a[k])
        if x.rating_a is None and lasting > 1e-3:
            state = case.study.worst_state(k, lasting=True)
            yield case.finding(
                rule, Severity.STOP, x.id,
                f"{x.title} is rated for short duty only and carries {amps(lasting)} in “{state.scenario.title}”",
                figure=lasting, limit=0.0, unit="A", scenario=state.scenario.id, source=OWN,
                mend=_larger(case, x.id, lasting),
            )  # fmt: skip
        if x.intermittent_a is not None and peak > x.intermittent_a:
            state = case.study.worst_state(k)
            yield case.finding(
                rule, Severity.MEND, x.id,
                f"{x.title} sees {amps(peak)} in “{state.scenario.title}”; {amps(x.intermittent_a)} is its short-time rating",
                figure=peak, limit=x.intermittent_a, unit="A", scenario=state.scenario.id, source=OWN,
            )  # fmt: skip


RULES = (
    Rule("bar_rating", "Busbar segment",
         "A bar heats where the current adds up: between the feed and the first studs.", bar_segments),
    Rule("part_rating", "Switch, shunt or plug rating",
         "A contact above its continuous rating heats, oxidises, heats more, and welds or melts.", inline_ratings),
    Rule("post_rating", "Stud rating", "A stud above its rating heats every lug on it.", posts),
    Rule("contactor_duty", "Contactor duty",
         "A contactor rated for seconds burns its coil or its contacts when it stays in.", short_duty),
)  # fmt: skip
