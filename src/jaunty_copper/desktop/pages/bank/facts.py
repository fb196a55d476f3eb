"""What the Bank page shows, computed off the window's thread piece by piece."""

from functools import partial
from typing import NamedTuple

from jaunty_copper.battery.arrangements import Influence, Option, influences, options
from jaunty_copper.battery.discharge import Hours, over_time
from jaunty_copper.battery.paralleling import Meeting, meeting
from jaunty_copper.battery.patterns import why_not
from jaunty_copper.battery.sharing import bank_of
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan.model import Plan, Scenario


class BankAsked(NamedTuple):
    """What was asked: a bank in a scenario of a plan, for some hours."""

    plan: Plan
    unit: str
    scenario: Scenario
    hours: float


class BankFacts(NamedTuple):
    """Everything the page shows beside the study; what is None is still to come."""

    asked: BankAsked
    no_patterns: str | None
    options: tuple[Option, ...]
    influences: tuple[Influence, ...] | None = None
    hours: Hours | None = None
    meeting: Meeting | None = None
    """Where units have charges of their own: what flows when they are joined."""


def facts_of(asked: BankAsked) -> Work:
    """Compare patterns, follow the bank for some hours, then try one fault after the other."""
    return partial(_facts, asked)


def _facts(asked: BankAsked, task: Task) -> None:
    plan, unit, scenario, hours = asked
    bank = bank_of(wire(plan), unit)
    apart = {u.soc_percent for u in bank.units}
    met = meeting(plan, unit, {}) if len(apart) > 1 and len(bank.units) > 1 else None
    made = BankFacts(asked, why_not(plan, bank), tuple(options(plan, unit, scenario)), meeting=met)
    task.report(made)
    if task.overtaken:
        return
    made = made._replace(hours=over_time(plan, scenario, hours, max(10.0, hours * 3600.0 / 8640.0)))
    task.report(made)
    found: list[Influence] = []
    if len(bank.strings) > 1:
        for influence in influences(plan, unit, scenario):
            if task.overtaken:
                return
            found.append(influence)
    task.report(made._replace(influences=tuple(sorted(found, key=lambda i: -i.spread))))
