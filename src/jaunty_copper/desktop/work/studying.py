"""What the window asks to be computed of a plan."""

from functools import partial

from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.plan.model import Plan
from jaunty_copper.plan.topology import topology


def sketch_of(plan: Plan) -> Picture:
    """Only lay a plan out: what can be shown before anything is solved."""
    return Picture(plan, lay_out(topology(plan)))


def study_of(plan: Plan, scenario: str | None) -> Work:
    """Lay out, study and judge a plan; reports a `Picture` of its figures, then one with its findings.

    Parameters
    ----------
    scenario : str or None
        The one that is looked at; None for the worst of all.
    """
    return partial(_study, plan, scenario)


def _study(plan: Plan, scenario: str | None, task: Task) -> None:
    # Solver and rules are loaded here, with the first study: the window need not wait.
    from jaunty_copper.desktop.work import making

    for picture in making.pictures_of(plan, scenario):
        task.report(picture)
        if not picture.judged:
            task.give_way()
        if task.overtaken:
            return
