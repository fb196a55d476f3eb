"""Autosave, recovery after a crash, and noticing that a plan is open elsewhere.

Each running window keeps one journal: a file with its unsaved plan, and a lock that the
system lets go of when the process ends, however it ends. A journal whose lock is free was
left behind by a crash.
"""

import contextlib
import fcntl
import hashlib
import json
import os
import time
from pathlib import Path
from typing import IO, NamedTuple

import platformdirs

from jaunty_copper.plan.files import PlanError, Stamp, dumps, parse, read_back, write_atomically
from jaunty_copper.plan.model import Plan


def state_folder() -> Path:
    """Where journals and locks live; made if it is not there."""
    folder = Path(platformdirs.user_state_dir("jaunty-copper"))
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def _lock(path: Path) -> IO[bytes] | None:
    """Hold a lock file; None where another process holds it."""
    stream = open(path, "ab")  # noqa: SIM115 - held as long as the lock
    try:
        fcntl.flock(stream, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        stream.close()
        return None
    return stream


class Recovered(NamedTuple):
    """What a crash left behind.

    Attributes
    ----------
    plan : Plan
        The plan as last journalled.
    path : str or None
        File it belongs to.
    when : float
        Seconds since the epoch.
    stamp : Stamp or None
        What that file held when it was last read or written; None where that is not known.
    """

    plan: Plan
    path: str | None
    when: float
    journal: Path
    stamp: Stamp | None = None

    def discard(self) -> None:
        """Discard it."""
        for path in (self.journal, self.journal.with_suffix(".lock")):
            path.unlink(missing_ok=True)


class Journal:
    """The unsaved work of one window."""

    def __init__(self, folder: Path | None = None) -> None:
        folder = folder or state_folder()
        self.file = folder / f"unsaved-{os.getpid()}-{time.time_ns()}.json"
        self._lock = _lock(self.file.with_suffix(".lock"))

    def keep(self, plan: Plan, path: str | None, stamp: Stamp | None = None) -> None:
        """Write down unsaved work.

        Raises
        ------
        OSError
            The disk refuses.
        """
        held = stamp.digest if stamp is not None else None
        head = json.dumps({"path": path, "when": time.time(), "held": held}).encode("utf-8")
        write_atomically(self.file, head + b"\n" + dumps(plan), lambda data: read_back(plan, data.partition(b"\n")[2]))

    def clear(self) -> None:
        """Forget it: everything is saved."""
        self.file.unlink(missing_ok=True)

    def close(self) -> None:
        """Forget it and let go."""
        self.clear()
        if self._lock is not None:
            self._lock.close()
            self._lock = None
            self.file.with_suffix(".lock").unlink(missing_ok=True)


def left_behind(folder: Path | None = None) -> list[Recovered]:
    """Unsaved work of windows that no longer run, newest first.

    A journal that cannot be read is left where it is, and passed over.
    """
    folder = folder or state_folder()
    found = []
    for file in folder.glob("unsaved-*.json"):
        lock = _lock(file.with_suffix(".lock"))
        if lock is None:
            continue
        lock.close()
        with contextlib.suppress(OSError, ValueError, KeyError, PlanError):
            head, _, body = file.read_bytes().partition(b"\n")
            values = json.loads(head)
            held = values.get("held")
            stamp = Stamp(held) if isinstance(held, str) else None
            found.append(Recovered(parse(body, str(file)), values["path"], float(values["when"]), file, stamp))
    return sorted(found, key=lambda r: -r.when)


class OpenFile:
    """A claim on a plan's file for as long as it is open in one window."""

    def __init__(self, path: str | os.PathLike[str], folder: Path | None = None) -> None:
        folder = folder or state_folder()
        name = hashlib.sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:24]
        self._lock = _lock(folder / f"open-{name}.lock")

    @property
    def ours(self) -> bool:
        """Whether nobody else on this machine has it open."""
        return self._lock is not None

    def release(self) -> None:
        """Let others have it."""
        if self._lock is not None:
            self._lock.close()
            self._lock = None
