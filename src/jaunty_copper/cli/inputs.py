"""What commands take: plans, scenarios, practices; and how they fail."""

import sys

from jaunty_copper.language import say
from jaunty_copper.network.demand import scenarios_of
from jaunty_copper.network.state import State
from jaunty_copper.network.study import Study
from jaunty_copper.plan.files import PlanError, load
from jaunty_copper.plan.model import Plan, Scenario

UNREADABLE = 2


def complain(*lines: str) -> int:
    """Say what is wrong on standard error; the exit status for it."""
    for line in lines:
        print(line, file=sys.stderr)
    return UNREADABLE


def plan_or_complaint(path: str) -> Plan | int:
    """A plan, or an exit status after saying what is wrong with its file."""
    try:
        return load(path)
    except PlanError as error:
        return complain(say("{file}: not opened", file=error.file), *(f"  {detail}" for detail in error.details))


def scenario_or_complaint(plan: Plan, scenario: str | None) -> Scenario | int:
    """A plan's scenario, the first where none is asked, or an exit status after a complaint."""
    found = scenarios_of(plan)
    known = next((s for s in found if s.id == scenario), None) if scenario else found[0]
    return known if known is not None else _no_scenario(scenario, plan)


def _no_scenario(scenario: str | None, plan: Plan) -> int:
    known = ", ".join(s.id for s in scenarios_of(plan))
    return complain(say("there is no scenario {scenario!r}; there are: {known}", scenario=scenario, known=known))


def states_or_complaint(study: Study, scenario: str | None) -> tuple[State, ...] | int:
    """The state of a scenario, of all where none is asked, or an exit status after a complaint."""
    if scenario is None:
        return study.states
    try:
        return (study.state(scenario),)
    except KeyError:
        return _no_scenario(scenario, study.plan)
