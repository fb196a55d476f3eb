"""Autosave, recovery after a crash, and noticing that a plan is open elsewhere.

Each running window keeps one autosave: a file with its unsaved plan, and a lock that the
system lets go of when the process ends, however it ends. An autosave whose lock is free was
left behind by a crash.
"""

import contextlib
import errno
import fcntl
import hashlib
import os
import time
from pathlib import Path
from typing import IO, NamedTuple

import platformdirs
from pydantic import BaseModel

from jaunty_copper.plan.files import LARGEST_BYTES, PlanError, Stamp, dumps, parse, read_back
from jaunty_copper.plan.model import Plan
from jaunty_copper.plan.storage import PRIVATE, read_bytes, sweep, write_atomically


def state_folder() -> Path:
    """Where autosaves and locks live; made if it is not there.

    Raises
    ------
    OSError
        It cannot be made, or not be written to.
    """
    folder = Path(platformdirs.user_state_dir("jaunty-copper"))
    folder.mkdir(parents=True, exist_ok=True)
    if not os.access(folder, os.W_OK | os.X_OK):
        raise PermissionError(errno.EACCES, os.strerror(errno.EACCES), str(folder))
    return folder


class _Lock:
    """A lock file that is held until it is let go of, or the process ends; it is taken away with the lock."""

    def __init__(self, path: Path, stream: IO[bytes]) -> None:
        self.path, self._stream = path, stream

    @classmethod
    def take(cls, path: Path) -> "_Lock | None":
        """Hold a lock file; None where another process holds it."""
        while True:
            stream = open(os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, PRIVATE), "r+b")  # noqa: SIM115 - held as long as the lock
            try:
                fcntl.flock(stream, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                stream.close()
                return None
            with contextlib.suppress(FileNotFoundError):
                if os.path.samestat(os.fstat(stream.fileno()), os.stat(path)):
                    return cls(path, stream)
            # Whoever held it took the file away in this very moment: again, with a new one.
            stream.close()

    def release(self) -> None:
        """Let go of it."""
        with contextlib.suppress(OSError):
            self.path.unlink(missing_ok=True)
        self._stream.close()


class _Head(BaseModel):
    """First line of an autosave."""

    path: str | None
    when: float
    held: str | None = None


class Recovered(NamedTuple):
    """What a crash left behind.

    Attributes
    ----------
    plan : Plan
        The plan as last kept.
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
    autosave: Path
    stamp: Stamp | None = None

    def discard(self) -> None:
        """Discard it."""
        for path in (self.autosave, self.autosave.with_suffix(".lock")):
            path.unlink(missing_ok=True)


class Autosave:
    """The unsaved work of one window.

    Attributes
    ----------
    trouble : OSError or None
        Why nothing can be kept, where there is no folder to keep it in.
    """

    def __init__(self, folder: Path | None = None) -> None:
        self.trouble: OSError | None = None
        self._lock: _Lock | None = None
        self.file: Path | None = None
        try:
            file = (folder or state_folder()) / f"unsaved-{os.getpid()}-{time.time_ns()}.json"
            self._lock = _Lock.take(file.with_suffix(".lock"))
            self.file = file
        except OSError as error:
            self.trouble = error

    def keep(self, plan: Plan, path: str | None, stamp: Stamp | None = None) -> None:
        """Write down unsaved work, and make sure that it can be read.

        Raises
        ------
        OSError
            The disk refuses.
        PlanError
            Nobody could read it.
        """
        if self.file is None:
            assert self.trouble is not None
            raise self.trouble
        held = stamp.digest if stamp is not None else None
        head = _Head(path=path, when=time.time(), held=held).model_dump_json().encode("utf-8")
        data = head + b"\n" + dumps(plan)
        write_atomically(self.file, data, lambda written: read_back(plan, written.partition(b"\n")[2]), PRIVATE)

    def clear(self) -> None:
        """Forget it: everything is saved."""
        if self.file is not None:
            self.file.unlink(missing_ok=True)

    def close(self) -> None:
        """Forget it and let go."""
        self.clear()
        if self._lock is not None:
            self._lock.release()
            self._lock = None


def left_behind(folder: Path | None = None) -> list[Recovered]:
    """Unsaved work of windows that no longer run, newest first.

    An autosave that cannot be read is left where it is, and passed over; what else dead windows left is taken away.
    """
    try:
        folder = folder or state_folder()
        names = sorted(os.listdir(folder))
    except OSError:
        return []
    found = []
    for name in names:
        file = folder / name
        if name.startswith("unsaved-") and name.endswith(".json"):
            with contextlib.suppress(OSError, ValueError, PlanError, RecursionError):
                lock = _Lock.take(file.with_suffix(".lock"))
                if lock is not None:
                    lock.release()
                    found.append(_read(file))
        elif name.endswith(".lock") and not file.with_suffix(".json").exists():
            with contextlib.suppress(OSError):
                lock = _Lock.take(file)
                if lock is not None:
                    lock.release()
    sweep(folder)
    return sorted(found, key=lambda r: -r.when)


def _read(file: Path) -> Recovered:
    head, _, body = read_bytes(file, LARGEST_BYTES).partition(b"\n")
    values = _Head.model_validate_json(head)
    stamp = Stamp(values.held) if values.held is not None else None
    return Recovered(parse(body, str(file)), values.path, values.when, file, stamp)


class OpenFile:
    """A claim on a plan's file for as long as it is open in one window."""

    def __init__(self, path: str | os.PathLike[str], folder: Path | None = None) -> None:
        self._lock: _Lock | None = None
        self.ours = True
        """Whether nobody else on this machine is known to have it open."""
        name = hashlib.sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:24]
        with contextlib.suppress(OSError):
            self._lock = _Lock.take((folder or state_folder()) / f"open-{name}.lock")
            self.ours = self._lock is not None

    def release(self) -> None:
        """Let others have it."""
        if self._lock is not None:
            self._lock.release()
            self._lock = None
