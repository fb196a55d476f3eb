"""What a command prints, kept from steering the terminal: names come from anybody's file."""

import contextlib
import sys
from collections.abc import Iterator
from typing import TextIO

from jaunty_copper.plan.text import lines


class Plain:
    """A stream that lets words and line ends through, and nothing that a terminal would obey."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        """Write words."""
        self._stream.write(lines(text) if text != "\n" else text)
        return len(text)

    def __getattr__(self, name: str) -> object:
        return getattr(self._stream, name)


@contextlib.contextmanager
def plain_output() -> Iterator[None]:
    """Let everything that is printed pass through `Plain`."""
    with (
        contextlib.redirect_stdout(Plain(sys.stdout)),  # type: ignore[type-var]
        contextlib.redirect_stderr(Plain(sys.stderr)),  # type: ignore[type-var]
    ):
        yield
