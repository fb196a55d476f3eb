"""A plan's assessment with what its documents add to it, each computed once."""

from functools import cached_property

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Finding
from jaunty_copper.commissioning.choice import fewest
from jaunty_copper.commissioning.model import Bench, NothingToMeasure, bench
from jaunty_copper.commissioning.points import everything_on
from jaunty_copper.fabrication.materials import Workshop, workshop_of
from jaunty_copper.fabrication.order import Step, steps_of
from jaunty_copper.fabrication.ready_made import ReadyMade
from jaunty_copper.network.study import Study
from jaunty_copper.plan.model import Plan
from jaunty_copper.protection.protection import Protection


class Dossier:
    """One plan with what can be said of it.

    Parameters
    ----------
    plan : Plan or Assessment
        The plan, or what is known of it.
    """

    def __init__(self, plan: Plan | Assessment) -> None:
        self.known = Assessment(plan) if isinstance(plan, Plan) else plan
        self.plan = self.known.plan

    @property
    def study(self) -> Study:
        """The operating points."""
        return self.known.study

    @property
    def protection(self) -> Protection:
        """Faults and devices."""
        return self.known.protection

    @property
    def case(self) -> Case:
        """The plan under its code."""
        return self.known.case

    @property
    def checks(self) -> tuple[Check, ...]:
        """Everything that was held against a rule."""
        return self.known.checks

    @property
    def findings(self) -> tuple[Finding, ...]:
        """Checks that fail, worst first."""
        return self.known.findings

    @cached_property
    def shop(self) -> Workshop:
        """What is made and bought."""
        return workshop_of(self.study.wiring)

    @cached_property
    def ready_made(self) -> ReadyMade:
        """Which cables to buy ready-made, and which to make."""
        return ReadyMade(self.shop)

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """In which order to connect."""
        return steps_of(self.study.wiring)

    @cached_property
    def bench(self) -> Bench | None:
        """What to measure with everything on; None where that has no operating point."""
        try:
            return bench(self.plan, everything_on(self.plan))
        except NothingToMeasure:
            return None

    @cached_property
    def fewest(self) -> frozenset[int]:
        """Positions of the fewest readings that reveal a bad joint."""
        return frozenset(fewest(self.bench)[0]) if self.bench is not None else frozenset()
