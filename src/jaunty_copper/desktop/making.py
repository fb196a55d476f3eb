"""Make the picture of a plan: lay it out, study it, judge it."""

from jaunty_copper.desktop.picture import Picture
from jaunty_copper.layout.chart import lay_out
from jaunty_copper.plan.model import Plan
from jaunty_copper.practice.case import Case
from jaunty_copper.practice.judge import judge_case
from jaunty_copper.study.study import study


def picture_of(plan: Plan, practice: str | None = None) -> Picture:
    """Lay out, study and judge a plan."""
    made = study(plan)
    case = Case(made, practice)
    return Picture(plan, lay_out(made.wiring), made, case, judge_case(case))
