"""Bars, switches, shunts and plugs against the current through them."""

from bisect import bisect_left
from collections.abc import Iterator
from functools import partial
from math import inf, isfinite

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.bars import copper_for
from jaunty_copper.codes.rules.words import amps, duration
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar, Breaker, Contactor, Disconnect, Fuse, PlugConnector, Post, Shunt
from jaunty_copper.plan.topology import distributor_of

OWN = say("The part's own rating")


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


def rated(case: Case, id_: str, rating: float) -> Edit:
    """A part of another rating, and what belongs to that: both halves of a plug, the copper of a bar.

    Parameters
    ----------
    rating : float
        A.
    """
    fields: dict[str, float | None] = {"rating_a": rating}
    thing = case.plan.by_id[id_]
    if isinstance(thing, PlugConnector):
        fields["mate_rating_a"] = None
    words = say("Make {id} {rating:g} A", id=case.title(id_), rating=rating)
    if isinstance(thing, Bar) and (thick := copper_for(case, thing, rating)) > thing.thickness_mm:
        fields["thickness_mm"] = thick
        words = say("Make {id} {rating:g} A, {thick:g} mm thick", id=case.title(id_), rating=rating, thick=thick)
    return Edit(
        words,
        partial(edits.change_each, changes={id_: fields}),
    )


def larger(case: Case, id_: str, current: float) -> Edit | None:
    """A part of the next rating that carries a current; None where there is none.

    Parameters
    ----------
    current : float
        A.
    """
    rating = next_rating(case, current)
    return rated(case, id_, rating) if rating is not None else None


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
                say(
                    "{bar} carries {current} between studs {at} and {names}; it may carry {rating_a}",
                    bar=bar.title,
                    current=amps(current),
                    at=names[at],
                    names=names[at + 1],
                    rating_a=amps(bar.rating_a),
                ),
                partial(larger, case, bar.id, current),
            )
        )


def inline_ratings(case: Case, rule: Rule) -> Iterator[Check]:
    """Disconnects, contactors, shunts and plugs below their continuous current."""
    for x in case.plan.items:
        if not isinstance(x, Disconnect | Contactor | Shunt | PlugConnector) or x.rating_a is None:
            continue
        k = case.wiring.branch[x.id]
        current, scenario = float(case.study.continuous_a[k]), case.study.lasting_state(k).scenario
        # A plug is as good as the weaker of its halves.
        may = x.carries_a if isinstance(x, PlugConnector) else x.rating_a
        check = case.check(rule, x.id, current, may, "A", scenario=scenario.id, source=OWN)
        yield (
            check
            if current <= may
            else check.fails(
                Verdict.DANGER,
                say(
                    "{x} carries {current} in “{scenario}”; it may carry {rating_a}",
                    x=x.title,
                    current=amps(current),
                    scenario=scenario.title,
                    rating_a=amps(may),
                ),
                partial(larger, case, x.id, current),
            )
        )


def posts(case: Case, rule: Rule) -> Iterator[Check]:
    """Plain studs through which more passes than they may carry."""
    for x in case.plan.items:
        if not isinstance(x, Post) or x.rating_a is None:
            continue
        ks = [case.wiring.branch[r.id] for r in case.plan.runs_at.get(x.ref("stud"), ())]
        lasting = (s for s in case.study.every if s.solved and not s.momentary)
        # What comes in goes out: half of all.
        current = max((0.5 * float(np.abs(s.point.current_a[ks]).sum()) for s in lasting), default=0.0)
        check = case.check(rule, x.id, current, x.rating_a, "A", source=OWN)
        yield check if current <= x.rating_a else check.fails(
            Verdict.DANGER, say('{x} passes {current}; it may carry {rating_a}', x=x.title, current=amps(current), rating_a=amps(x.rating_a)),
            partial(larger, case, x.id, current),
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
                    say(
                        "{x} is rated for short duty only and carries {lasting} in “{scenario}”",
                        x=x.title,
                        lasting=amps(lasting),
                        scenario=scenario.title,
                    ),
                    partial(larger, case, x.id, lasting),
                )
            )
        if isinstance(x, Contactor) and x.intermittent_s is not None:
            yield from _too_long(case, rule, x, k)
        if x.intermittent_a is not None:
            scenario = case.study.worst_state(k).scenario
            check = case.check(rule, x.id, peak, x.intermittent_a, "A", scenario=scenario.id, source=OWN)
            yield (
                check
                if peak <= x.intermittent_a
                else check.fails(
                    Verdict.DEFECT,
                    say(
                        "{x} sees {peak} in “{scenario}”; {intermittent_a} is its short-time rating",
                        x=x.title,
                        peak=amps(peak),
                        scenario=scenario.title,
                        intermittent_a=amps(x.intermittent_a),
                    ),
                )
            )


def _too_long(case: Case, rule: Rule, x: Contactor, k: int) -> Iterator[Check]:
    """A contactor above its continuous rating for longer than it may."""
    may, longest, during = x.intermittent_s or 0.0, 0.0, None
    for state in case.study.every:
        if state.solved and abs(float(state.point.current_a[k])) > (x.rating_a or 0.0) + 1e-3:
            starts = [e.surge_s for e in case.wiring.loads if state.scenario.states.get(e.id) == "surge"]
            lasts = max(starts) if starts else inf
            if lasts > longest:
                longest, during = lasts, state.scenario
    check = case.check(rule, x.id, longest if isfinite(longest) else None, may, "s", source=OWN)
    if longest <= may or during is None:
        yield check
        return
    yield check.fails(
        Verdict.DEFECT,
        say("{x} carries more than its continuous rating in “{scenario}” for {lasts}; it may for {may}",
            x=x.title, scenario=during.title, may=duration(may), lasts=duration(longest) if isfinite(longest) else say("good")),
        scenario=during.id,
    )  # fmt: skip


def holders(case: Case, rule: Rule) -> Iterator[Check]:
    """Fuses in holders that are made for less, and devices on distributors that are made for others."""
    for x in case.plan.items:
        bar = distributor_of(case.plan, x.id) if isinstance(x, Fuse | Breaker) else None
        if bar is not None and isinstance(x, Fuse | Breaker):
            yield from _position(case, rule, x, bar)
        if not isinstance(x, Fuse) or x.holder_a is None:
            continue
        check = case.check(rule, x.id, x.rating_a, x.holder_a, "A", source=say("The holder's own rating"))
        yield check if x.rating_a <= x.holder_a else check.fails(
            Verdict.DEFECT,
            say("{x} of {rating} stands in a holder for {holder}: it heats before the fuse opens",
                x=x.title, rating=amps(x.rating_a), holder=amps(x.holder_a)),
        )  # fmt: skip


def _position(case: Case, rule: Rule, x: Fuse | Breaker, bar: Bar) -> Iterator[Check]:
    """What a distributor asks of a device in one of its positions."""
    takes = case.parts.device_families[bar.fuse_family or x.family]
    own = say("The distributor's own rating")
    check = case.check(rule, x.id, source=own)
    yield check if x.family == takes.id else check.fails(
        Verdict.DEFECT,
        say("{x} stands on {bar}, a distributor for {takes}: it does not fit its contacts",
            x=x.title, bar=bar.title, takes=takes.label),
    )  # fmt: skip
    if bar.position_a is not None:
        check = case.check(rule, x.id, x.rating_a, bar.position_a, "A", source=own)
        yield check if x.rating_a <= bar.position_a else check.fails(
            Verdict.DEFECT,
            say("{x} of {rating} stands in a position of {bar} for {most}: it heats before the fuse opens",
                x=x.title, rating=amps(x.rating_a), bar=bar.title, most=amps(bar.position_a)),
        )  # fmt: skip


TOPIC = say("Ratings of parts")
RULES = (
    Rule("bar_rating", say("Busbar segment"),
         say("A bar heats where the current adds up: between the feed and the first studs."), bar_segments,
         say("{} busbars carry more than their rating"), topic=TOPIC),
    Rule("part_rating", say("Switch, shunt or plug rating"),
         say("A contact above its continuous rating heats, oxidises, heats more, and welds or melts."), inline_ratings,
         say("{} switches, shunts or plugs carry more than their rating"), topic=TOPIC),
    Rule("post_rating", say("Stud rating"), say("A stud above its rating heats every lug on it."), posts,
         say("{} studs carry more than their rating"), topic=TOPIC),
    Rule("fuse_holder", say("Fuse and holder"),
         say("A holder too small for its fuse softens and lets go of the blades long before the fuse opens."), holders,
         say("{} devices stand in holders or positions that are not made for them"), topic=TOPIC),
    Rule("contactor_duty", say("Contactor duty"),
         say("A contactor rated for seconds burns its coil or its contacts when it stays in."), short_duty,
         say("{} contactors work beyond their duty"), topic=TOPIC),
)  # fmt: skip
