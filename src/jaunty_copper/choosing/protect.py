"""A consistent set of protective devices for a whole plan."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Literal, NamedTuple

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.devices import Choice, applying, choices, selectivity_now, that_may_stand, window
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Finding
from jaunty_copper.codes.permitted import is_tap, leaves_hub
from jaunty_copper.codes.rules.protection import strengthen
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Breaker, Fuse, Plan
from jaunty_copper.protection.devices import Device, band_for

ROUNDS = 6
MENDS = 24
"""So many mends are made one after the other in the end."""
Pass = Literal["quick", "deep", "every"]
PASSES: tuple[Pass, ...] = ("quick", "deep", "every")
"""What a finding proposes; that with what must be mended then; every device of the library that may stand there."""
MOST_JUDGED, SMALL = 300, 100
"""So many mends are judged in a plan of up to so many conductors; the larger it is, the fewer."""
SPENT = "There is more that could be tried: so much is wrong here that the search was ended"
ROOM = "makes room for"
DEEP = 6
"""So many to mend what one of them makes worse."""
WIDER = 10
"""How many ratings beyond what stands in the way are tried."""
STRUCTURE = ("no_protection", "branch_unprotected", "line_side")
"""Rules whose fixes put, move or turn a device: what is missing comes before what is wrong."""
PROTECTION = frozenset({
    *STRUCTURE, "device_too_large", "device_too_small", "device_voltage", "device_rating", "interrupt_rating",
    "heat_opens", "fault_withstand", "slow_opening", "selectivity", "surge_opens", "feeds_too_strong", "turning_current",
    "conventional_current", "breaker_table",
})  # fmt: skip
"""Rules that a set of devices should leave nothing of."""


QUESTIONS = frozenset({"data_sheet"})
"""Rules that ask for what is not known: no device is wrong by them."""


class Change(NamedTuple):
    """One difference that protecting a plan makes.

    Attributes
    ----------
    place : str
        Id of the device, run or part.
    before, after : str
        What stands there; nothing before, where something is put.
    finding : str
        What was wrong, in the words of its finding; empty where it follows from another change.
    why : str
        What makes this one right.
    edit : Edit
        Makes it.
    """

    place: str
    before: str
    after: str
    finding: str
    why: str
    edit: Edit


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
    """

    plan: Plan
    changes: tuple[Change, ...]
    found: tuple[Finding, ...]
    left: tuple[Finding, ...]
    reasons: dict[tuple[str, str], str]

    @property
    def edit(self) -> Edit:
        """All changes as one."""
        return Edit(f"Protect: {len(self.changes)} changes", partial(made, changes=self.changes))


def made(plan: Plan, changes: tuple[Change, ...]) -> Plan:
    """Make changes one after the other; one whose place another choice has taken away is left out."""
    for change in changes:
        try:
            plan = change.edit.apply(plan)
        except EditError:
            continue
    return plan


def protect(
    plan: Plan,
    code: str | None = None,
    overtaken: Callable[[], bool] = lambda: False,
    progress: Callable[[str], None] = lambda _: None,
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
    known = Assessment(plan, code)
    found, allowed = _about(known), _keys(known)
    changes: list[Change] = []
    for _ in range(ROUNDS):
        progress("Putting devices where none are")
        new = _missing(known)
        after = made(plan, tuple(new))
        if not new or overtaken() or after == plan:
            break
        then = Assessment(after, code)
        # What does not get fewer is not fixed by more of the same.
        if _count(then) >= _count(known):
            break
        changes += new
        plan, known = after, then
    for n in range(ROUNDS):
        progress(f"Choosing devices, round {n + 1}")
        new = _round(known)
        if not new or overtaken():
            break
        changes += new
        plan = made(plan, tuple(new))
        known = Assessment(plan, code)
    changes = _merged(changes)
    judge = partial(Assessment, code=code)
    budget: list[None] = [None] * min(MOST_JUDGED, MOST_JUDGED * SMALL // max(len(begin.runs), 1))
    if not overtaken():
        progress("Holding the whole against every rule")
        mender = _Mender(begin, judge, allowed, overtaken, budget)
        changes, known = mender.mend([*changes, *_room(known)])
        if not _keys(known) <= allowed:
            changes, known = _that_add_nothing(begin, changes, judge, allowed, overtaken)
            progress("Mending what that leaves")
            changes, known = mender.mend(changes, known)
        changes, known = _shorter(begin, changes, known, judge)
    left = _about(known)
    reasons = {_key(f): _reason(known, f) if budget else SPENT for f in left}
    return Protected(made(begin, tuple(changes)), tuple(changes), found, left, reasons)


def _key(f: Finding) -> tuple[str, str]:
    return f.rule.id, f.place


def _keys(known: Assessment) -> set[tuple[str, str]]:
    """What is found wrong, and where; not what is only asked."""
    return {_key(f) for f in known.findings if f.rule.id not in QUESTIONS}


def _shorter(
    begin: Plan, changes: list[Change], known: Assessment, judge: Callable[[Plan], Assessment]
) -> tuple[list[Change], Assessment]:
    """The same with each thing changed once and no more made stronger than need be, where that comes to the same."""
    once = _merged(changes)
    if len(once) < len(changes) and _keys(then := judge(made(begin, tuple(once)))) <= _keys(known):
        changes, known = once, then
    for room in [c for c in changes if c.why.startswith(ROOM)]:
        fewer = [c for c in changes if c is not room]
        if _keys(then := judge(made(begin, tuple(fewer)))) <= _keys(known):
            changes, known = fewer, then
    return changes, known


@dataclass(frozen=True)
class _Mender:
    """Mends what is wrong, each mend judged in full before it is kept.

    Attributes
    ----------
    begin : Plan
        As it was.
    judge : callable
        A plan by the code in force.
    allowed : set
        What was wrong in it.
    left : list
        One entry for each judgement that may still be made.
    """

    begin: Plan
    judge: Callable[[Plan], Assessment]
    allowed: set[tuple[str, str]]
    overtaken: Callable[[], bool]
    left: list[None]

    def mend(
        self,
        changes: list[Change],
        known: Assessment | None = None,
        passes: tuple[Pass, ...] = PASSES,
        most: int = MENDS,
    ) -> tuple[list[Change], Assessment]:
        """Changes and what mends the rest; and what is then known.

        Parameters
        ----------
        passes : tuple of str
            What is tried, the next only where none before it makes anything better.
        most : int
            So many mends.
        """
        known = known or self.judge(made(self.begin, tuple(changes)))
        tried = set[tuple[str, str, str]]()
        for _ in range(most):
            nexts = (self._next(changes, known, one, tried) for one in passes)
            found = next((n for n in nexts if n is not None), None)
            if found is None:
                break
            changes, known = found
        return changes, known

    def _next(
        self, changes: list[Change], known: Assessment, one: Pass, tried: set[tuple[str, str, str]]
    ) -> tuple[list[Change], Assessment] | None:
        """The first mend that makes it better."""
        score = self._score(known)
        for f in self.todo(known):
            for new in _ways_out(known, f, every=one == "every"):
                mark = (one, f.headline, "; ".join(f"{c.place} {c.after}" for c in new))
                if mark in tried or self.overtaken() or not self.left:
                    continue
                tried.add(mark)
                self.left.pop()
                then = [*changes, *new], self.judge(made(known.case.plan, tuple(new)))
                if one == "deep":
                    then = self.mend(*then, passes=("quick",), most=DEEP)
                if self._score(then[1]) < score:
                    return then
        return None

    def todo(self, known: Assessment) -> list[Finding]:
        """What protecting is to leave nothing of, and what was in order before; that first."""
        found = [
            f
            for f in known.findings
            if f.rule.id in PROTECTION or not (_key(f) in self.allowed or f.rule.id in QUESTIONS)
        ]
        return sorted(found, key=lambda f: (_key(f) in self.allowed, f.verdict))

    def _score(self, known: Assessment) -> tuple[int, ...]:
        """How bad it is: what is newly wrong, then dangers, defects, advice about protection."""
        todo = self.todo(known)
        return sum(_key(f) not in self.allowed for f in todo), *(sum(f.verdict == v for f in todo) for v in range(3))


def _ways_out(known: Assessment, f: Finding, every: bool) -> Iterator[list[Change]]:
    """What may mend a finding: what it proposes itself; at a device another, with what must then be made stronger.

    With `every`, in the end all ratings of all families that may stand at a device that the finding is about.
    """
    case = known.case
    fix = f.fix()
    if fix is not None:
        yield [Change(f.place, _now(case, f.place), fix.label, f.headline, f.source, fix)]
    for id_ in (f.place, *(d for d, ks in case.protection.guard.guarded_by.items() if _guards(case, ks, f.place))):
        best = case.once(_best_there, id_) if id_ in case.protection.devices else None
        if best is not None:
            choice, more = best
            room = [_stronger(case, id_, place, rating) for place, rating in more]
            edit = applying(case, id_, choice)
            after = f"{choice.family.label} of {choice.rating_a:g} A"
            why = _why(case, id_, choice)
            yield [*(c for c in room if c), Change(id_, _now(case, id_), after, f.headline, why, edit)]
    if every and f.place in case.protection.devices:
        for choice in that_may_stand(case, f.place):
            after, why = f"{choice.family.label} of {choice.rating_a:g} A", _why(case, f.place, choice)
            yield [Change(f.place, _now(case, f.place), after, f.headline, why, applying(case, f.place, choice))]


def _best_there(case: Case, id_: str) -> tuple[Choice, list[tuple[str, float]]] | None:
    return _best(case, id_, case.protection.devices)


def _guards(case: Case, branches: tuple[int, ...], place: str) -> bool:
    return any(case.wiring.branches[k].owner == place for k in branches)


def _stronger(case: Case, device: str, place: str, rating: float) -> Change | None:
    edit = strengthen(case, place, rating)
    room = f"{ROOM} {case.title(device)} of {rating:g} A"
    return Change(place, _now(case, place), edit.label, "", room, edit) if edit is not None else None


def _reason(known: Assessment, f: Finding) -> str:
    """Why a finding is left."""
    case = known.case
    if f.place not in case.protection.devices:
        return "What would mend it makes something else wrong" if f.fix() else "Nothing in the library mends it"
    best = choices(case, f.place)[0]
    if not best.fits:
        return f"No family fits: {best.family.label} {best.fails[0]}"
    if best.selective != "total":
        return f"The best that fits, {best.family.label} of {best.rating_a:g} A: selectivity {best.selective}, {best.with_whom}"
    return "What would mend it makes something else wrong"


def _that_add_nothing(
    begin: Plan,
    changes: list[Change],
    judge: Callable[[Plan], Assessment],
    allowed: set[tuple[str, str]],
    overtaken: Callable[[], bool],
) -> tuple[list[Change], Assessment]:
    """The changes, without those by which something would be wrong that was in order; and what is then known."""
    kept, known = list[Change](), judge(begin)
    for change in changes:
        if overtaken():
            break
        then = judge(made(begin, (*kept, change)))
        if _keys(then) <= allowed:
            kept.append(change)
            known = then
    return kept, known


def _room(known: Assessment) -> list[Change]:
    """Parts made stronger that several feeds together overload."""
    return [
        Change(f.place, _now(known.case, f.place), fix.label, f.headline, f.source, fix)
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


def _merged(changes: list[Change]) -> list[Change]:
    """Where a thing is changed twice: what it was first, what was wrong first, and what it is last."""
    merged: dict[tuple[str, int], Change] = {}
    for n, c in enumerate(changes):
        # What puts or moves a device stays as it is: later changes build on it.
        key = (c.place, -1) if c.before else (c.place, n)
        first = merged.get(key)
        merged[key] = c._replace(before=first.before, finding=first.finding) if first else c
    return list(merged.values())


def _about(known: Assessment) -> tuple[Finding, ...]:
    return tuple(f for f in known.findings if f.rule.id in PROTECTION)


def _now(case: Case, id_: str) -> str:
    device = case.protection.devices.get(id_)
    if device is not None:
        return f"{device.family.label} of {device.item.rating_a:g} A"
    run = case.plan.run_by_id.get(id_)
    if run is not None:
        return case.parts.conductors[run.conductor].label
    rating = getattr(case.plan.by_id.get(id_), "rating_a", None)
    return f"{rating:g} A" if rating else ""


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
            wrong.setdefault(p.upstream, f"selectivity with {case.title(p.downstream)}")
    depth = dict.fromkeys(case.protection.devices, 0)
    for p in case.protection.pairs:
        depth[p.downstream] += 1
    devices = dict(case.protection.devices)
    changes: list[Change] = []
    for id_ in sorted(devices, key=lambda d: -depth[d]):
        if id_ not in wrong and not _runs_wrong(case, id_, wrong):
            continue
        if id_ in asked and selectivity_now(case, id_, devices) == "total":
            # The other one gave way.
            continue
        best = _best(case, id_, devices)
        if best is None:
            continue
        choice, more = best
        now = devices[id_]
        assert choice.rating_a is not None
        changes += [c for place, rating in more if (c := _stronger(case, id_, place, rating)) is not None]
        if (choice.family.id, choice.rating_a) == (now.family.id, now.item.rating_a):
            continue
        edit = applying(case, id_, choice)
        devices[id_] = _as(case, now, choice)
        after = f"{choice.family.label} of {choice.rating_a:g} A"
        changes.append(Change(id_, _now(case, id_), after, wrong.get(id_, ""), _why(case, id_, choice), edit))
    return changes


def _runs_wrong(case: Case, device: str, wrong: Mapping[str, str]) -> bool:
    """Whether something is wrong with what a device guards."""
    return any(case.wiring.branches[k].owner in wrong for k in case.protection.guard.guarded_by.get(device, ()))


def _best(case: Case, id_: str, devices: Mapping[str, Device]) -> tuple[Choice, list[tuple[str, float]]] | None:
    """The best choice, and what must be made stronger for it."""
    first = choices(case, id_, devices)[0]
    if first.fits and first.selective == "total":
        return first, []
    item = case.protection.devices[id_].item
    low = window(case, item).low.amps
    second: Choice | None = None
    for high in [r for r in case.parts.device_ratings_a if r >= low][:WIDER]:
        wider = choices(case, id_, devices, high_a=high)[0]
        if not wider.fits or wider.rating_a is None:
            continue
        if wider.selective == "total":
            return wider, _too_weak(case, item, wider.rating_a)
        second = second or wider
    if first.fits:
        # Selectivity is no reason for a higher rating that does not get it.
        return first, []
    return (second, _too_weak(case, item, second.rating_a or 0.0)) if second else None


def _too_weak(case: Case, item: Fuse | Breaker, rating_a: float) -> list[tuple[str, float]]:
    found = []
    for branch in case.protection.guard.guarded_by.get(item.id, ()):
        if is_tap(case, branch) or leaves_hub(case, branch):
            continue
        if case.capacity(branch) < rating_a:
            found.append((case.wiring.branches[branch].owner, rating_a))
    return sorted(set(found))


def _as(case: Case, now: Device, choice: Choice) -> Device:
    assert choice.rating_a is not None
    family = choice.family
    k = now.branch
    air = [case.study.hottest_ambient_c[k], case.study.coolest_ambient_c[k]]
    hot, cool = (float(x) for x in ambient_factor(family.release, air))
    item = now.item.model_copy(update={"family": family.id, "rating_a": choice.rating_a})
    return Device(item, family, band_for(case.parts, family.id), k, choice.rating_a * hot, choice.rating_a * cool)


def _why(case: Case, id_: str, choice: Choice) -> str:
    item = case.protection.devices[id_].item
    able, w = choice.family.interrupt_a(case.operating_v(item)), window(case, item)
    words = [w.low.why]
    if able is not None:
        words.append(f"interrupt rating {amps(able)}; {amps(case.protection.faults.prospective(id_)[0])} prospective")
    words.append(f"selectivity {choice.selective}" + (f" ({choice.with_whom})" if choice.with_whom else ""))
    return "; ".join(words)
