"""Bars, switches, shunts and plugs against the current through them."""

from bisect import bisect_left
from collections.abc import Iterator
from functools import partial

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar, Contactor, Disconnect, PlugConnector, Post, Shunt

OWN = "The part's own rating"


def next_rating(case: Case, current: float) -> float | None:
    """The next standard rating at or above a current, A.

    Parameters
    ----------
    current : float
        A.
    """
    ratings = case.parts.device_ratings_a
    at = bisect_left(ratings, current)
    return ratings[at] if at < len(ratings) else None


def _larger(case: Case, id_: str, current: float) -> Edit | None:
    rating = next_rating(case, current)
    if rating is None:
        return None
    return Edit(f"Make {case.title(id_)} {rating:g} A", partial(edits.change, id_=id_, rating_a=rating))


def bar_segments(case: Case, rule: Rule) -> Iterator[Check]:
    """Bars with a segment that carries more than the bar may."""
    for bar in case.plan.items:
        if not isinstance(bar, Bar) or bar.id not in case.wiring.segments:
            continue
        worst = max(case.wiring.segments[bar.id], key=lambda k: case.study.continuous_a[k])
        current = float(case.study.continuous_a[worst])
        at, names = case.wiring.branches[worst].index, bar.terminal_names
        scenario = case.study.lasting_state(worst).scenario.id
        check = case.check(rule, bar.id, current, bar.rating_a, "A", scenario=scenario, source=OWN)
        yield (
            check
            if current <= bar.rating_a
            else check.fails(
                Verdict.DANGER,
                f"{bar.title} carries {amps(current)} between studs {names[at]} and {names[at + 1]}; it may carry {amps(bar.rating_a)}",
                partial(_larger, case, bar.id, current),
            )
        )


def inline_ratings(case: Case, rule: Rule) -> Iterator[Check]:
    """Disconnects, contactors, shunts and plugs below their continuous current."""
    for x in case.plan.items:
        if not isinstance(x, Disconnect | Contactor | Shunt | PlugConnector) or x.rating_a is None:
            continue
        k = case.wiring.branch[x.id]
        current, scenario = float(case.study.continuous_a[k]), case.study.lasting_state(k).scenario
        check = case.check(rule, x.id, current, x.rating_a, "A", scenario=scenario.id, source=OWN)
        yield (
            check
            if current <= x.rating_a
            else check.fails(
                Verdict.DANGER,
                f"{x.title} carries {amps(current)} in “{scenario.title}”; it may carry {amps(x.rating_a)}",
                partial(_larger, case, x.id, current),
            )
        )


def posts(case: Case, rule: Rule) -> Iterator[Check]:
    """Plain studs through which more passes than they may carry."""
    for x in case.plan.items:
        if not isinstance(x, Post) or x.rating_a is None:
            continue
        ks = [case.wiring.branch[r.id] for r in case.plan.runs_at.get(x.ref("stud"), ())]
        current = float(max((case.study.continuous_a[k] for k in ks), default=0.0))
        check = case.check(rule, x.id, current, x.rating_a, "A", source=OWN)
        yield check if current <= x.rating_a else check.fails(
            Verdict.DANGER, f"{x.title} passes {amps(current)}; it may carry {amps(x.rating_a)}",
            partial(_larger, case, x.id, current),
        )  # fmt: skip


def short_duty(case: Case, rule: Rule) -> Iterator[Check]:
    """Contactors rated for short duty that carry current all the time, and surges beyond it."""
    for x in case.plan.items:
        if not isinstance(x, Contactor | Disconnect):
            continue
        k = case.wiring.branch[x.id]
        lasting, peak = float(case.study.continuous_a[k]), float(case.study.largest_a[k])
        if x.rating_a is None:
            scenario = case.study.lasting_state(k).scenario
            check = case.check(rule, x.id, lasting, 0.0, "A", scenario=scenario.id, source=OWN)
            yield (
                check
                if lasting <= 1e-3
                else check.fails(
                    Verdict.DANGER,
                    f"{x.title} is rated for short duty only and carries {amps(lasting)} in “{scenario.title}”",
                    partial(_larger, case, x.id, lasting),
                )
            )
        if x.intermittent_a is not None:
            scenario = case.study.worst_state(k).scenario
            check = case.check(rule, x.id, peak, x.intermittent_a, "A", scenario=scenario.id, source=OWN)
            yield (
                check
                if peak <= x.intermittent_a
                else check.fails(
                    Verdict.DEFECT,
                    f"{x.title} sees {amps(peak)} in “{scenario.title}”; {amps(x.intermittent_a)} is its short-time rating",
                )
            )


TOPIC = "Ratings of parts"
RULES = (
    Rule("bar_rating", "Busbar segment",
         "A bar heats where the current adds up: between the feed and the first studs.", bar_segments,
         "{} busbars carry more than their rating", topic=TOPIC),
    Rule("part_rating", "Switch, shunt or plug rating",
         "A contact above its continuous rating heats, oxidises, heats more, and welds or melts.", inline_ratings,
         "{} switches, shunts or plugs carry more than their rating", topic=TOPIC),
    Rule("post_rating", "Stud rating", "A stud above its rating heats every lug on it.", posts,
         "{} studs carry more than their rating", topic=TOPIC),
    Rule("contactor_duty", "Contactor duty",
         "A contactor rated for seconds burns its coil or its contacts when it stays in.", short_duty,
         "{} contactors work beyond their duty", topic=TOPIC),
)  # fmt: skip
