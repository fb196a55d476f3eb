"""Everything that documents of a plan draw on, each computed once."""

from functools import cached_property

from jaunty_copper.assembly.materials import Workshop, workshop_of
from jaunty_copper.assembly.order import Step, steps_of
from jaunty_copper.commission.diagnose import fewest
from jaunty_copper.commission.model import Bench, NoOperatingPoint, bench, everything_on
from jaunty_copper.plan.model import Plan
from jaunty_copper.practice.case import Case
from jaunty_copper.practice.findings import Finding
from jaunty_copper.practice.judge import judge_case
from jaunty_copper.study.study import Study, study


class Dossier:
    """One plan with what can be said of it.

    Parameters
    ----------
    plan : Plan or Study
        The plan, or its study where there is one.
    """

    def __init__(self, plan: Plan | Study) -> None:
        self.study: Study = study(plan) if isinstance(plan, Plan) else plan
        self.plan = self.study.plan

    @cached_property
    def case(self) -> Case:
        """The study under the plan's own practice."""
        return Case(self.study)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, worst first."""
        return judge_case(self.case)

    @cached_property
    def shop(self) -> Workshop:
        """What is made and bought."""
        return workshop_of(self.study.wiring)

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """In which order to connect."""
        return steps_of(self.study.wiring)

    @cached_property
    def bench(self) -> Bench | None:
        """What to measure with everything on; None where that has no operating point."""
        try:
            return bench(self.plan, everything_on(self.plan))
        except NoOperatingPoint:
            return None

    @cached_property
    def fewest(self) -> frozenset[int]:
        """Positions of the fewest readings that reveal a bad joint."""
        return frozenset(fewest(self.bench)[0]) if self.bench is not None else frozenset()
