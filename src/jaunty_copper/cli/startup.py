"""What makes the program start sooner: done by its entry points alone, never by who imports the core."""

import builtins
import gc
import os
import sys
from types import SimpleNamespace

LOADER = "pydantic.plugin._loader"
"""Looks for plugins among all installed packages, with mail and zip handling loaded to do so: a tenth of the start."""


def without_plugins() -> None:
    """Let the validation library not look for plugins: this program has none."""
    sys.modules.setdefault(LOADER, SimpleNamespace(get_plugins=tuple))  # type: ignore[arg-type]


def one_thread() -> None:
    """Let linear algebra use one thread, before NumPy is loaded: these matrices are small.

    Its other threads would only wait for work, each keeping a core busy: half as much computing again, and a core
    that the window, its study or another process could use.
    """
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")


def seldom_garbage() -> None:
    """Look for garbage less often than Python does by default.

    Loading makes thousands of objects that stay, and so does a plan: looking through them again and again costs a
    twentieth of the start, and of a study of thousands of conductors a fifth.
    """
    gc.set_threshold(50_000, 20, 50)


def no_garbage() -> None:
    """Look for no garbage until the window stands: what a start makes stays, but for a little."""
    gc.set_threshold(400_000, 20, 50)


def loaded() -> None:
    """Look for garbage again, but never among what has been loaded."""
    gc.freeze()
    seldom_garbage()


def load_qt() -> None:
    """Load Qt, leaving the interpreter's import as it was.

    Qt's binding puts an import of its own in place, which reads the source of every module that comes
    after, looking for a switch that this program does not use.
    """
    plain = builtins.__import__
    import PySide6.QtWidgets  # noqa: F401

    builtins.__import__ = plain
