"""Long work that is given up in its middle, wherever in it that is."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_when: ContextVar[Callable[[], bool] | None] = ContextVar("when", default=None)


class GivenUp(Exception):
    """Nobody waits for what was being worked out."""


@contextmanager
def giving_up(when: Callable[[], bool]) -> Iterator[None]:
    """Let work within be given up; of this thread alone.

    Parameters
    ----------
    when : callable
        Whether nobody waits any more; asked some times a second.
    """
    before = _when.set(when)
    try:
        yield
    finally:
        _when.reset(before)


def go_on() -> None:
    """Asked by the work itself, before each of its parts.

    Raises
    ------
    GivenUp
        Nobody waits any more.
    """
    when = _when.get()
    if when is not None and when():
        raise GivenUp
