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


def study_of(plan: Plan) -> Work:
    """Lay out, study and judge a plan; reports a `Picture` of its figures, then one with its findings."""
    return partial(_study, plan)


def _study(plan: Plan, task: Task) -> None:
    # Solver and rules are loaded here, with the first study: the window need not wait.
    from jaunty_copper.desktop.work import making

    for picture in making.pictures_of(plan):
        task.report(picture)
        if not picture.judged:
            task.give_way()
        if task.overtaken:
            return
