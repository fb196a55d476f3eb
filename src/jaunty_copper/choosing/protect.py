"""A consistent set of protective devices for a whole plan."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.devices import Choice, applying, choices, window
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
WIDER = 10
"""How many ratings beyond what stands in the way are tried."""
STRUCTURE = ("no_protection", "branch_unprotected", "line_side")
"""Rules whose fixes put, move or turn a device: what is missing comes before what is wrong."""
PROTECTION = frozenset({
    *STRUCTURE, "device_too_large", "device_too_small", "device_voltage", "device_rating", "interrupt_rating",
    "heat_opens", "fault_withstand", "slow_opening", "selectivity", "surge_opens", "feeds_too_strong", "line_side",
    "conventional_current", "breaker_table",
})  # fmt: skip
"""Rules that a set of devices should leave nothing of."""


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
    """

    plan: Plan
    changes: tuple[Change, ...]
    found: tuple[Finding, ...]
    left: tuple[Finding, ...]

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
    follow every round, until nothing changes. In the end the whole is judged by every rule: where it would make
    anything wrong that was in order, only those changes are kept that do not.
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
    if not overtaken():
        progress("Making room where feeds add up")
        changes += _room(known)
        progress("Holding the whole against every rule")
        changes, known = _that_add_nothing(begin, changes, code, allowed, overtaken)
    return Protected(made(begin, tuple(changes)), tuple(changes), found, _about(known))


def _keys(known: Assessment) -> set[tuple[str, str]]:
    """What is found wrong, and where."""
    return {(f.rule.id, f.place) for f in known.findings}


def _that_add_nothing(
    begin: Plan, changes: list[Change], code: str | None, allowed: set[tuple[str, str]], overtaken: Callable[[], bool]
) -> tuple[list[Change], Assessment]:
    """The changes, without those by which something would be wrong that was in order; and what is then known."""
    known = Assessment(made(begin, tuple(changes)), code)
    if _keys(known) <= allowed:
        return changes, known
    kept, known = list[Change](), Assessment(begin, code)
    for change in changes:
        if overtaken():
            break
        then = Assessment(made(begin, (*kept, change)), code)
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
    case, wrong = known.case, dict[str, str]()
    for f in _about(known):
        wrong.setdefault(f.place, f.headline)
    for p in case.protection.pairs:
        if p.downstream in wrong and not p.same:
            # Which of the two gives way shows only when both are tried.
            wrong.setdefault(p.upstream, f"selectivity with {case.title(p.downstream)}")
    depth = dict.fromkeys(case.protection.devices, 0)
    for p in case.protection.pairs:
        depth[p.downstream] += 1
    devices = dict(case.protection.devices)
    changes: list[Change] = []
    for id_ in sorted(devices, key=lambda d: -depth[d]):
        if id_ not in wrong and not _runs_wrong(case, id_, wrong):
            continue
        best = _best(case, id_, devices)
        if best is None:
            continue
        choice, more = best
        now = devices[id_]
        assert choice.rating_a is not None
        for place, rating in more:
            edit = strengthen(case, place, rating)
            if edit is not None:
                room = f"makes room for {now.item.title} of {rating:g} A"
                changes.append(Change(place, _now(case, place), edit.label, "", room, edit))
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
        words.append(
            f"interrupt rating {amps(able)}; {amps(case.protection.faults.prospective(id_)[0])} prospective"
        )
    words.append(f"selectivity {choice.selective}" + (f" ({choice.with_whom})" if choice.with_whom else ""))
    return "; ".join(words)
