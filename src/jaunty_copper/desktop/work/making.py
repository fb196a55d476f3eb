"""Make the picture of a plan: assess it, and have its findings at hand."""

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.desktop.work.picture import Picture
from jaunty_copper.plan.model import Plan


def picture_of(plan: Plan, code: str | None = None) -> Picture:
    """Assess a plan, with all that the window shows at once."""
    known = Assessment(plan, code)
    # Not left to the window's own thread.
    _ = known.findings
    return Picture(plan, known.diagram, known)
