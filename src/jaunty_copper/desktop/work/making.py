"""Make the picture of a plan: assess it, and have its findings at hand."""

from collections.abc import Iterator

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.plan.model import Plan


def pictures_of(plan: Plan) -> Iterator[Picture]:
    """A plan with its figures, then the same with its findings."""
    known = Assessment(plan)
    # What the map shows of them, not left to the window's own thread.
    _ = known.case.ampacities
    yield Picture(plan, known.diagram, known, judged=False)
    yield _judged(known)


def picture_of(plan: Plan, code: str | None = None) -> Picture:
    """Assess a plan, with all that the window shows at once."""
    return _judged(Assessment(plan, code))


def _judged(known: Assessment) -> Picture:
    _ = known.findings
    return Picture(known.plan, known.diagram, known)
