"""Tasks shared with a second process: the same results in the same order, whatever becomes of that process."""

import os
import signal
import time
from collections import deque
from functools import partial

import pytest

from jaunty_copper.choosing import side_by_side as module
from jaunty_copper.choosing.brief import Brief
from jaunty_copper.choosing.draft import drafts
from jaunty_copper.choosing.side_by_side import in_turn, side_by_side
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps


def worked(factor, task, overtaken):
    """What a task comes to, and in which process."""
    time.sleep(0.02)
    return factor * task, os.getpid()


def fatal_elsewhere(here, task, overtaken):
    if os.getpid() != here:
        os.kill(os.getpid(), signal.SIGKILL)
    time.sleep(0.05)
    return task


def long_elsewhere(here, task, overtaken):
    if os.getpid() != here:
        time.sleep(60.0)
    # Long enough for the other to have begun.
    time.sleep(3.0)
    return task


class Unreadable:
    """What can be sent and not be read."""

    def __reduce__(self):
        return int, ("no number",)


def unreadable_elsewhere(here, task, overtaken):
    time.sleep(0.05)
    return task if os.getpid() == here else Unreadable()


def no_pickle_elsewhere(here, task, overtaken):
    time.sleep(0.05)
    return task if os.getpid() == here else (lambda: task)


def never(*_):
    return False


@pytest.fixture
def two_cores(monkeypatch):
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: {0, 1})


@pytest.mark.parametrize("spread", [in_turn, side_by_side])
def test_each_task_is_done_once_and_they_come_in_order_also_those_added_meanwhile(spread, two_cores):
    waiting, begun, found = deque(range(400)), [], []
    for result, where in spread(partial(worked, 3), waiting, never, begun.append):
        found.append((result, where))
        if result == 9:
            waiting.append(1000)
    assert [result for result, _ in found] == [3 * k for k in (*range(400), 1000)]
    elsewhere = [result for result, where in found if where != os.getpid()]
    assert len(begun) + len(elsewhere) == 401
    assert bool(elsewhere) == (spread is side_by_side)


@pytest.mark.parametrize("work", [fatal_elsewhere, unreadable_elsewhere, no_pickle_elsewhere])
def test_what_a_second_process_that_fails_had_is_done_here(work, two_cores):
    waiting = deque(range(60))
    assert list(side_by_side(partial(work, os.getpid()), waiting, never, lambda _: None)) == list(range(60))


def test_it_stops_while_the_other_process_is_at_work(two_cores):
    waiting, stop = deque(range(2)), []
    begun = time.monotonic()
    found = side_by_side(partial(long_elsewhere, os.getpid()), waiting, lambda: bool(stop), stop.append)
    assert list(found) == []
    assert time.monotonic() - begun < 30.0


def test_without_a_second_core_or_process_all_is_done_here(monkeypatch):
    begun = []
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: {0})
    assert [r for r, _ in side_by_side(partial(worked, 2), deque([1, 2]), never, begun.append)] == [2, 4]
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: {0, 1})
    monkeypatch.setattr(module.sys, "executable", "/nowhere/python")
    assert [r for r, _ in side_by_side(partial(worked, 2), deque([1, 2]), never, begun.append)] == [2, 4]
    assert begun == [1, 2, 1, 2]


def test_drafts_are_the_same_in_two_processes_as_in_one(two_cores):
    plan = example("seed_shed")
    ways = [list(drafts(plan, Brief(plan.practice, "lifepo4"), spread=spread)) for spread in (in_turn, side_by_side)]
    one, two = ([(d.title, d.why_not, d.plan and dumps(d.plan)) for d in found] for found in ways)
    assert one == two
    assert any(text for _, _, text in one)
    for mine, theirs in zip(*([d for d in found if d.plan] for found in ways), strict=True):
        for figure in ("price", "copper_kg", "loss_w", "fault_a"):
            assert getattr(mine, figure) == pytest.approx(getattr(theirs, figure), rel=1e-9)
        assert mine.needs.autonomy_days == pytest.approx(theirs.needs.autonomy_days)
        assert [f.headline for f in (*mine.findings, *mine.decisions)] == [
            f.headline for f in (*theirs.findings, *theirs.decisions)
        ]
