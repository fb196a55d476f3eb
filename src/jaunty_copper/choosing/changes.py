"""What protecting a plan changes, and what it is about."""

from collections.abc import Iterable, Set
from typing import NamedTuple

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Finding
from jaunty_copper.language import say
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Plan

STRUCTURE = ("no_protection", "branch_unprotected", "line_side")
"""Rules whose fixes put, move or turn a device: what is missing comes before what is wrong."""
PROTECTION = frozenset({
    *STRUCTURE, "device_too_large", "device_too_small", "device_voltage", "device_rating", "interrupt_rating",
    "heat_opens", "fault_withstand", "slow_opening", "selectivity", "surge_opens", "feeds_too_strong", "turning_current",
    "conventional_current", "breaker_table", "not_listed",
})  # fmt: skip
"""Rules that a set of devices should leave nothing of."""
QUESTIONS = frozenset({"data_sheet", "bond_unsaid"})
"""Rules that ask for what is not known: no device is wrong by them."""
ROOM = say("makes room for")


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


def made(plan: Plan, changes: Iterable[Change]) -> Plan:
    """Make changes one after the other; one whose place another choice has taken away is left out."""
    for change in changes:
        try:
            plan = change.edit.apply(plan)
        except EditError:
            continue
    return plan


class Making:
    """A plan with one row of changes after another made to it: where two rows begin alike, the second goes on from there.

    Parameters
    ----------
    begin : Plan
        Without any of them.
    """

    def __init__(self, begin: Plan) -> None:
        self._changes: list[Change] = []
        self._plans = [begin]
        """After each change of the row before, and before the first."""

    def of(self, changes: Iterable[Change]) -> Plan:
        """The plan with changes made one after the other, as `made` does."""
        row = list(changes)
        pairs = zip(self._changes, row, strict=False)
        alike = next(
            (n for n, (before, now) in enumerate(pairs) if before is not now), min(len(self._changes), len(row))
        )
        del self._changes[alike:], self._plans[alike + 1 :]
        for change in row[alike:]:
            self._changes.append(change)
            self._plans.append(made(self._plans[-1], (change,)))
        return self._plans[-1]


def merged(changes: list[Change]) -> list[Change]:
    """Where a thing is changed twice: what it was first, what was wrong first, and what it is last."""
    merged: dict[tuple[str, int], Change] = {}
    for n, c in enumerate(changes):
        # What puts or moves a device stays as it is: later changes build on it.
        key = (c.place, -1) if c.before else (c.place, n)
        first = merged.get(key)
        # A change of the rating alone builds on the one that brought the family.
        merged[key] = (
            c._replace(before=first.before, finding=first.finding, edit=_both(first.edit, c.edit)) if first else c
        )
    return list(merged.values())


def _both(first: Edit, then: Edit) -> Edit:
    return Edit(then.label, lambda plan: then.apply(first.apply(plan)))


def change_key(f: Finding) -> tuple[str, str]:
    """The rule and place of a finding."""
    return f.rule.id, f.place


def keys_of(known: Assessment) -> set[tuple[str, str]]:
    """What is found wrong, and where; not what is only asked."""
    return {change_key(f) for f in known.findings if f.rule.id not in QUESTIONS}


def adds_nothing(known: Assessment, wrong: Set[tuple[str, str]]) -> bool:
    """Whether nothing else is found wrong; rules are asked only up to the first that finds it.

    Parameters
    ----------
    known : Assessment
        Of a plan with some changes made.
    wrong : set
        What may be wrong in it, as `keys_of` has it.
    """
    return all(change_key(f) in wrong for f in known.each_finding() if f.rule.id not in QUESTIONS)


def now_there(case: Case, id_: str) -> str:
    """What stands at a place, in words."""
    device = case.protection.devices.get(id_)
    if device is not None:
        return say("{family} of {rating_a:g} A", family=device.family.label, rating_a=device.item.rating_a)
    run = case.plan.run_by_id.get(id_)
    if run is not None:
        return case.parts.conductors[run.conductor].label
    rating = getattr(case.plan.by_id.get(id_), "rating_a", None)
    return f"{rating:g} A" if rating else ""
