"""A consistent set of protective devices for a whole plan."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import (
    PROTECTION,
    STRUCTURE,
    Change,
    Making,
    adds_nothing,
    change_key,
    keys_of,
    made,
    merged,
    now_there,
)
from jaunty_copper.choosing.devices import Choice, selectivity_now
from jaunty_copper.choosing.mending import Mender
from jaunty_copper.choosing.putting import applying
from jaunty_copper.choosing.shortening import Shortening, ends_first
from jaunty_copper.choosing.ways import best_at, reason_of, stronger, why_chosen
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Finding
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Plan
from jaunty_copper.protection.devices import Device, instead_of

ROUNDS = 6
MOST_JUDGED, SMALL = 300, 100
"""So many mends are judged in a plan of up to so many conductors; the larger it is, the fewer."""
SPENT = say("There is more that could be tried: so much is wrong here that the search was ended")


@dataclass(frozen=True)
class Protected:
    """What protecting a plan comes to.

    Attributes
    ----------
    plan : Plan
        With all changes made.
    changes : tuple of Change
        In the order in which they are to be made.
    found, left : tuple of Finding
        Findings about protection before and after.
    reasons : dict
        Why each that is left is left, by rule and place.
    known : Assessment
        The plan with all changes, judged.
    """

    plan: Plan
    changes: tuple[Change, ...]
    found: tuple[Finding, ...]
    left: tuple[Finding, ...]
    reasons: dict[tuple[str, str], str]
    known: Assessment

    @property
    def edit(self) -> Edit:
        """All changes as one."""
        return Edit(
            say_many("Protect: {count} change", "Protect: {count} changes", len(self.changes)),
            partial(made, changes=self.changes),
        )


def protect(
    plan: Plan,
    code: str | None = None,
    overtaken: Callable[[], bool] = lambda: False,
    progress: Callable[[str], None] = lambda _: None,
    known: Assessment | None = None,
) -> Protected:
    """Propose devices for a whole plan: none missing, each able, selective with its neighbours.

    Parameters
    ----------
    plan : Plan
        A plan without `problems`.
    code : str, optional
        Id of a code; the plan's own where none is given.
    overtaken : callable
        Asked between the steps whether to stop.
    progress : callable
        Is given what is being done, step by step.
    known : Assessment, optional
        The plan by that code, for a caller that has judged it.

    Notes
    -----
    First what is missing is put in its place. Then, from the ends of the network to its root, each
    device that a rule finds fault with is chosen anew with its neighbours as they then are; where
    no rating that fits is selective, what stands in the way is made stronger. Study and judgement
    follow every round, until nothing changes. In the end the whole is judged by every rule. What is then still wrong,
    or newly so, is mended one by one (devices and conductors together where the device alone cannot), each mend judged
    in full before it is kept; where something stays wrong that was in order, the changes are taken one by one, and only
    those are kept that bring nothing.
    """
    begin = plan
    known = known or Assessment(plan, code)
    found, allowed = _about(known), keys_of(known)
    changes: list[Change] = []
    for _ in range(ROUNDS):
        progress(say("Putting devices where none are"))
        new = _missing(known)
        after = made(plan, new)
        if not new or overtaken() or after == plan:
            break
        then = Assessment(after, code)
        # What does not get fewer is not fixed by more of the same.
        if _count(then) >= _count(known):
            break
        changes += new
        plan, known = after, then
    for n in range(ROUNDS):
        progress(say("Choosing devices, round {n}", n=n + 1))
        new = _round(known)
        if not new or overtaken():
            break
        changes += new
        plan = made(plan, new)
        known = Assessment(plan, code)
    changes = merged(changes)
    judge = partial(Assessment, code=code)
    most = min(MOST_JUDGED, MOST_JUDGED * SMALL // max(len(begin.runs), 1))
    # Half of the judgements for all at once; the other half for what is kept where that fails.
    mender = Mender(begin, judge, allowed, overtaken, most // 2)
    if not overtaken():
        progress(say("Holding the whole against every rule"))
        changes, known = mender.mend([*changes, *_room(known)])
        mender.grant(most - most // 2)
        if not adds_nothing(known, allowed):
            changes, known = _that_add_nothing(begin, changes, judge, allowed, overtaken)
            progress(say("Mending what that leaves"))
            changes, known = mender.mend(changes, known)
        progress(say("Making nothing larger than need be"))
        short = Shortening(begin, changes, known, judge, overtaken, most)
        short.shorten()
        # What stands smaller may let a device in where none fitted before.
        changes, known = mender.mend(short.changes, short.known)
        if changes != short.changes:
            short.changes, short.known = changes, known
            short.shorten()
            changes, known = short.changes, short.known
        changes, known = mender.last_turn(changes, known)
    left = _about(known)
    reasons = {change_key(f): SPENT if mender.spent else reason_of(known, f) for f in left}
    after = made(begin, changes)
    return Protected(after, tuple(changes), found, left, reasons, known if known.plan == after else judge(after))


def _that_add_nothing(
    begin: Plan,
    changes: list[Change],
    judge: Callable[[Plan], Assessment],
    allowed: set[tuple[str, str]],
    overtaken: Callable[[], bool],
) -> tuple[list[Change], Assessment]:
    """The changes, without those by which something would be wrong that was in order; and what is then known."""
    kept, known, making = list[Change](), judge(begin), Making(begin)
    for one in changes:
        if overtaken():
            break
        then = judge(making.of((*kept, one)))
        if adds_nothing(then, allowed):
            kept.append(one)
            known = then
    return kept, known


def _room(known: Assessment) -> list[Change]:
    """Parts made stronger that several feeds together overload."""
    return [
        Change(f.place, now_there(known.case, f.place), fix.label, f.headline, f.source, fix)
        for f in known.findings
        if f.rule.id == "feeds_too_strong" and (fix := f.fix()) is not None
    ]


def _missing(known: Assessment) -> list[Change]:
    """Fixes of what has no device, one for each place."""
    found: dict[str, Change] = {}
    for f in known.findings:
        if f.rule.id in STRUCTURE and f.place not in found and (fix := f.fix()) is not None:
            found[f.place] = Change(f.place, "", fix.label, f.headline, f.source, fix)
    return list(found.values())


def _count(known: Assessment) -> int:
    return sum(f.rule.id in STRUCTURE for f in known.findings)


def _about(known: Assessment) -> tuple[Finding, ...]:
    return tuple(f for f in known.findings if f.rule.id in PROTECTION)


def _round(known: Assessment) -> list[Change]:
    """Choose anew every device that something is wrong with, ends first."""
    case, wrong, asked = known.case, dict[str, str](), set[str]()
    for f in _about(known):
        wrong.setdefault(f.place, f.headline)
    for p in case.protection.pairs:
        if p.downstream in wrong and not p.same:
            # Which of the two gives way shows only when both are tried.
            if p.upstream not in wrong:
                asked.add(p.upstream)
            wrong.setdefault(p.upstream, say("selectivity with {downstream}", downstream=case.title(p.downstream)))
    devices = dict(case.protection.devices)
    changes: list[Change] = []
    for id_ in ends_first(case):
        if id_ not in wrong and not _runs_wrong(case, id_, wrong):
            continue
        if id_ in asked and selectivity_now(case, id_, devices) == "total":
            # The other one gave way.
            continue
        best = best_at(case, id_, devices)
        if best is None:
            continue
        choice, more = best
        now = devices[id_]
        assert choice.rating_a is not None
        changes += [c for place, rating in more if (c := stronger(case, id_, place, rating)) is not None]
        if (choice.family.id, choice.rating_a) == (now.family.id, now.item.rating_a):
            continue
        edit = applying(case, id_, choice)
        devices[id_] = _as(case, now, choice)
        after = say("{family} of {rating_a:g} A", family=choice.family.label, rating_a=choice.rating_a)
        changes.append(
            Change(id_, now_there(case, id_), after, wrong.get(id_, ""), why_chosen(case, id_, choice), edit)
        )
    return changes


def _runs_wrong(case: Case, device: str, wrong: Mapping[str, str]) -> bool:
    """Whether something is wrong with what a device guards."""
    return any(case.wiring.branches[k].owner in wrong for k in case.protection.guard.guarded_by.get(device, ()))


def _as(case: Case, now: Device, choice: Choice) -> Device:
    assert choice.rating_a is not None
    return instead_of(now, case.parts, choice.family, choice.rating_a)
