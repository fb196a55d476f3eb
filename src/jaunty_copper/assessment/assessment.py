"""Everything known of a plan, each fact computed when it is first asked for, and kept."""

from collections.abc import Collection, Iterator
from functools import cached_property

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Finding, Verdict
from jaunty_copper.codes.rules import RULES
from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.diagram.shapes import Diagram
from jaunty_copper.network.study import Study, study
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics.giving_up import go_on
from jaunty_copper.plan.model import Plan
from jaunty_copper.protection.protection import Protection


class Assessment:
    """A plan under one code.

    Window, documents, benchmarks and command line ask this and nothing else, so that a fact
    has one value everywhere.

    Parameters
    ----------
    plan : Plan or Study
        The plan, or its operating points where they are known.
    code : str, optional
        Id of a code; the plan's own where none is given.

    Raises
    ------
    UnknownCode
        There is no such code.
    """

    def __init__(self, plan: Plan | Study, code: str | None = None) -> None:
        self.study: Study = study(plan) if isinstance(plan, Plan) else plan
        self.plan: Plan = self.study.plan
        self.case = Case(self.study, code)

    @property
    def wiring(self) -> Wiring:
        """The plan as a network."""
        return self.study.wiring

    @property
    def protection(self) -> Protection:
        """Faults and devices."""
        return self.case.protection

    @cached_property
    def diagram(self) -> Diagram:
        """Where everything stands on the map."""
        return lay_out(self.wiring)

    @cached_property
    def checks(self) -> tuple[Check, ...]:
        """Everything that was held against a rule, passing or not, in the order of the rules."""
        return tuple(_checks_of(self.case))

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """Checks that fail, worst first."""
        return worst_first(self.checks)

    def failing(self, rules: Collection[str]) -> tuple[Finding, ...]:
        """Checks that fail by some rules, without the work of all the others.

        Parameters
        ----------
        rules : collection of str
            Ids of rules.
        """
        known = "checks" in self.__dict__
        found = (c for c in self.checks if c.rule.id in rules) if known else _checks_of(self.case, rules)
        return tuple(c for c in found if c.verdict is not Verdict.HOLDS)

    def each_finding(self) -> Iterator[Finding]:
        """Checks that fail, in the order of the rules, each judged when it is come to.

        Who knows enough after some of them stops; after the last all checks are known as if they had been asked for.
        """
        if "checks" in self.__dict__:
            yield from (c for c in self.checks if c.verdict is not Verdict.HOLDS)
            return
        judged = []
        for check in _checks_of(self.case):
            judged.append(check)
            if check.verdict is not Verdict.HOLDS:
                yield check
        self.checks = tuple(judged)


def _checks_of(case: Case, rules: Collection[str] | None = None) -> Iterator[Check]:
    """All checks of a case, or those by some rules, in the order of the rules; between two of them it may be given up."""
    for rule in RULES:
        if (not rule.only or case.code.id in rule.only) and (rules is None or rule.id in rules):
            go_on()
            yield from rule.check(case, rule)


def worst_first(checks: tuple[Check, ...]) -> tuple[Finding, ...]:
    """The checks that fail, worst first, else in their order."""
    return tuple(sorted((c for c in checks if c.verdict is not Verdict.HOLDS), key=lambda c: c.verdict))
