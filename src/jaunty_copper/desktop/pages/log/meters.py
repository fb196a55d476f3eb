"""Meters read, and faults hidden to practise on, off the window's thread."""

from jaunty_copper.commissioning.meter import MeterError, take
from jaunty_copper.commissioning.points import Point
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.plan.model import Plan
from jaunty_copper.simulator.training import NothingToHide, TrainingBench, hide


def reading(addresses: str | dict[str, str], points: tuple[Point, ...], scenario: str) -> Work:
    """Read one meter, or each point's own; reports each reading as it comes, then what went wrong or nothing."""

    def work(task: Task) -> None:
        for p in points:
            if task.overtaken:
                return
            try:
                address = addresses if isinstance(addresses, str) else addresses[p.quantity]
                task.report((scenario, {p: take(address, p, scenario).value}, ""))
            except MeterError as error:
                task.report((scenario, {}, f"{error}."))
                return
        task.report((scenario, {}, ""))

    return work


def hiding(plan: Plan, seed: int) -> Work:
    """A training bench, or in words why there is none."""

    def work(task: Task) -> None:
        try:
            made = TrainingBench(plan, hide(plan, seed), seed)
        except (NothingToHide, OSError) as error:
            task.report(f"{str(error).capitalize()}.")
            return
        if task.overtaken:
            made.close()
        else:
            task.report(made)

    return work
