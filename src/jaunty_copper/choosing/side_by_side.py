"""Tasks done one after the other, or shared with a second process, so that two cores have something to do."""

import os
import pickle
import subprocess
import sys
from collections import deque
from collections.abc import Callable, Iterator
from threading import Condition, Thread
from typing import Any, Protocol, TypeVar

T = TypeVar("T")
R = TypeVar("R")
Overtaken = Callable[[], bool]
LISTENS_S = 0.05
"""So often is asked whether to stop while the other process has the last task."""
SERVE = f"from {__name__} import serve; serve()"


class Spread(Protocol):
    """A way of doing tasks; both of this module's are."""

    def __call__(
        self, work: Callable[[T, Overtaken], R], waiting: deque[T], overtaken: Overtaken, begins: Callable[[T], None]
    ) -> Iterator[R]:
        """What each task comes to, in their order; tasks may be added while these are taken.

        Parameters
        ----------
        work : callable
            Does one task, and asks now and then whether to stop.
        waiting : deque
            Tasks; they are taken out of it.
        overtaken : callable
            Whether to stop.
        begins : callable
            Is given each task that is begun here.
        """


def in_turn(
    work: Callable[[T, Overtaken], R], waiting: deque[T], overtaken: Overtaken, begins: Callable[[T], None]
) -> Iterator[R]:
    """One task after the other. Parameters as in `Spread`."""
    while waiting and not overtaken():
        task = waiting.popleft()
        begins(task)
        yield work(task, overtaken)


def side_by_side(
    work: Callable[[T, Overtaken], R], waiting: deque[T], overtaken: Overtaken, begins: Callable[[T], None]
) -> Iterator[R]:
    """As `in_turn`, with a second process that does every task that is not begun here.

    It is worth its start, a second, for tasks of a second each. Where it cannot be had, or ends before its time, all is
    done here. Parameters as in `Spread`; work, tasks and what they come to must be able to be pickled.
    """
    other = _begun(work) if len(os.sched_getaffinity(0)) > 1 else None
    if other is None:
        yield from in_turn(work, waiting, overtaken, begins)
        return
    shared = _Shared(waiting, other)
    thread = Thread(target=shared.hand_over, name="side by side", daemon=True)
    thread.start()
    try:
        while (taken := shared.next_result(overtaken)) is not None:
            if isinstance(taken, _Made):
                yield taken.result
                continue
            number, task = taken
            begins(task)
            shared.put(number, work(task, overtaken))
    finally:
        shared.close()
        thread.join()


class _Made:
    """What a task came to."""

    def __init__(self, result: Any) -> None:
        self.result = result


class _Shared:
    """Tasks that two take from, and what they came to."""

    def __init__(self, waiting: deque[Any], other: "subprocess.Popen[bytes]") -> None:
        self._waiting, self._other, self._changed = waiting, other, Condition()
        self._begun, self._given, self._closed = 0, 0, False
        self._made: dict[int, Any] = {}
        self._back: list[tuple[int, Any]] = []

    def next_result(self, overtaken: Overtaken) -> _Made | tuple[int, Any] | None:
        """The next result in order; else a task to be done here; None at the end."""
        with self._changed:
            while not overtaken():
                if self._given in self._made:
                    self._given += 1
                    return _Made(self._made.pop(self._given - 1))
                if self._back or self._waiting:
                    return self._taken()
                if self._given == self._begun:
                    return None
                self._changed.wait(LISTENS_S)
        return None

    def put(self, number: int, result: Any) -> None:
        """Say what a task came to."""
        with self._changed:
            self._made[number] = result
            self._changed.notify_all()

    def close(self) -> None:
        """Whatever the other does is no longer wanted."""
        with self._changed:
            self._closed = True
            self._changed.notify_all()
        self._other.kill()

    def _taken(self) -> tuple[int, Any]:
        if self._back:
            return self._back.pop()
        self._begun += 1
        return self._begun - 1, self._waiting.popleft()

    def hand_over(self) -> None:
        """Give the other process one task after the other; in a thread of its own, which does nothing but wait."""
        assert self._other.stdin is not None
        assert self._other.stdout is not None
        with self._other:
            while True:
                with self._changed:
                    while not self._waiting and not self._closed:
                        self._changed.wait(LISTENS_S)
                    if self._closed:
                        return
                    number, task = self._taken()
                try:
                    pickle.dump(task, self._other.stdin)
                    self._other.stdin.flush()
                    self.put(number, pickle.load(self._other.stdout))
                except Exception:
                    # It has ended, or answers what cannot be read: what it had is done here, and so is the rest. Were
                    # anything let through, whoever waits for that result would wait for ever.
                    with self._changed:
                        self._back.append((number, task))
                        self._changed.notify_all()
                    self._other.kill()
                    return


def _begun(work: Callable[..., Any]) -> "subprocess.Popen[bytes] | None":
    """A second process that waits for tasks; None where none can be started."""
    paths = os.pathsep.join(p for p in sys.path if p)
    try:
        other = subprocess.Popen(
            [sys.executable, "-c", SERVE],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=os.environ | {"PYTHONPATH": paths, "OPENBLAS_NUM_THREADS": "1"},
        )  # fmt: skip
        assert other.stdin is not None
        pickle.dump(work, other.stdin)
        other.stdin.flush()
    except OSError:
        return None
    return other


def serve() -> None:
    """Do tasks that come in by the standard input, until it ends: the second process."""
    came, goes = sys.stdin.buffer, sys.stdout.buffer
    # What anything here should print must not come between.
    sys.stdout = sys.stderr
    try:
        work = pickle.load(came)
        while True:
            pickle.dump(work(pickle.load(came), lambda: False), goes)
            goes.flush()
    except (EOFError, BrokenPipeError):
        return
