"""Make the picture of a plan: assess it, and have its findings at hand."""

from collections import deque
from collections.abc import Iterator

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.plan.model import Plan

MOST_RUNS = 300
"""A larger plan's study takes the room of many small ones: only the newest is kept."""
_latest: deque[Picture] = deque(maxlen=6)
"""What was studied lately: undo and redo come back to the very same plans."""


def pictures_of(plan: Plan, scenario: str | None) -> Iterator[Picture]:
    """A plan with its figures, then the same with its findings; with both at once where it was studied lately.

    Parameters
    ----------
    scenario : str or None
        The one that is looked at; None for the worst of all.
    """
    before = next((p for p in _latest if p.plan is plan), None)
    if before is not None:
        yield before
        return
    known = Assessment(plan)
    early = Picture(plan, known.diagram, known, judged=False)
    early.read_ahead(scenario)
    yield early
    found = _judged(known)
    if len(plan.runs) > MOST_RUNS:
        _latest.clear()
    _latest.append(found)
    yield found


def picture_of(plan: Plan, code: str | None = None) -> Picture:
    """Assess a plan, with all that the window shows at once."""
    return _judged(Assessment(plan, code))


def _judged(known: Assessment) -> Picture:
    _ = known.findings
    return Picture(known.plan, known.diagram, known)
