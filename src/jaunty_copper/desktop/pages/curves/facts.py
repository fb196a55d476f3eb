"""What the Curves page asks to be computed off the interface's thread."""

from contextlib import suppress
from functools import partial
from typing import Literal, NamedTuple

from jaunty_copper.choosing.devices import Choice, choices
from jaunty_copper.choosing.protect import Protected, protect
from jaunty_copper.choosing.windows import RatingWindow, window
from jaunty_copper.codes.case import Case
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.physics.fault_course import Overtaken
from jaunty_copper.plan.model import Plan
from jaunty_copper.protection.replay import Replay, replay


class CurvesAsked(NamedTuple):
    """A fault to follow: where, by which units, with devices that open early or late."""

    plan: Plan
    at: str
    run: tuple[str, float] | None
    case: Literal["peak", "least"]
    late: bool


class Fits(NamedTuple):
    """What fits at a device's place."""

    plan: Plan
    device: str
    window: RatingWindow
    choices: tuple[Choice, ...]


class Followed(NamedTuple):
    """A fault that was followed."""

    asked: CurvesAsked
    replay: Replay


def fits_of(case: Case, device: str) -> Work:
    """Try every family at a place; reports `Fits`."""

    def work(task: Task) -> None:
        item = case.protection.devices[device].item
        task.report(Fits(case.plan, device, window(case, item), choices(case, device)))

    return work


def replay_of(case: Case, asked: CurvesAsked) -> Work:
    """Follow a fault in time; reports `Followed`."""

    def work(task: Task) -> None:
        with suppress(Overtaken):
            found = replay(
                case.protection,
                asked.at,
                run=asked.run,
                case=asked.case,
                certainly=asked.late,
                overtaken=lambda: task.overtaken,
            )
            task.report(Followed(asked, found))

    return work


def protection_of(plan: Plan) -> Work:
    """Propose devices for a whole plan; reports what is being done in words, at last `Protected`."""
    return partial(_protection, plan)


def _protection(plan: Plan, task: Task) -> None:
    found: Protected = protect(plan, overtaken=lambda: task.overtaken, progress=task.report)
    task.report(found)
