"""Errors of the program's own: written down, reported in one sentence, and never in the way of what comes next."""

import os
import sys
import threading
import time
import traceback
from collections.abc import Callable
from functools import partial
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QObject, Signal

from jaunty_copper import __version__
from jaunty_copper.language import say
from jaunty_copper.plan.autosave import state_folder
from jaunty_copper.plan.storage import PRIVATE

MOST_BYTES = 1_000_000
"""Of the file of details; one that is larger begins anew."""


def write_down(trace: str) -> str:
    """Keep the details of an error for whoever looks into it.

    Parameters
    ----------
    trace : str
        The traceback.

    Returns
    -------
    str
        Where they are, in words for a person: also where they could not be written.
    """
    print(trace, file=sys.stderr, flush=True)
    try:
        file = state_folder() / "errors.log"
        mode = "w" if file.exists() and file.stat().st_size > MOST_BYTES else "a"
        with open(file, mode, encoding="utf-8", opener=partial(os.open, mode=PRIVATE)) as stream:
            stream.write(f"{time.strftime('%Y-%m-%d %H:%M:%S')} jaunty-copper {__version__}\n{trace}\n")
    except OSError as error:
        return say("The details could not be written down: {strerror}.", strerror=error.strerror)
    return say("The details are in {short}.", short=_short(file))


def _short(file: Path) -> str:
    home = Path.home()
    return f"~/{file.relative_to(home)}" if file.is_relative_to(home) else str(file)


class Trouble(QObject):
    """Hears of every error that nothing else caught, in whatever thread."""

    reported = Signal(str)
    """One plain sentence, and where the details are."""

    def listen(self) -> None:
        """Take the place of the interpreter's own hooks."""
        sys.excepthook = self._caught
        threading.excepthook = lambda args: self._caught(
            args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
        )

    def _caught(self, kind: type[BaseException], value: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, value, trace)
            return
        where = write_down("".join(traceback.format_exception(kind, value, trace)))
        self.reported.emit(
            say(
                "The program made an error of its own: what it shows may be out of date, your work is kept. {where}",
                where=where,
            )
        )


def each(*steps: Callable[[], object]) -> None:
    """Do one step after the other; one that fails is reported, and the next is done all the same."""
    for step in steps:
        try:
            step()
        except Exception:
            sys.excepthook(*sys.exc_info())
