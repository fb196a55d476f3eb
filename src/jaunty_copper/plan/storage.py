"""Files read and written so that nothing is lost, nothing hangs, and nothing grows without end."""

import contextlib
import errno
import os
import stat
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from jaunty_copper.language import say

PRIVATE = 0o600
"""Of files that hold unsaved work: nobody else's business."""
STALE_S = 3600.0
"""A file that was being written longer ago than this was left behind by a crash."""
MOST_TEXT = 4_000_000
"""Bytes of a table of readings, prices or a curve."""
NEW = ".new"
STEM_BYTES = 40
"""Of a file's name, in the name of what is about to take its place: that must not become too long for the disk."""


def read_bytes(path: str | os.PathLike[str], most: int) -> bytes:
    """All of a regular file.

    Parameters
    ----------
    most : int
        Bytes; a larger file is not read.

    Raises
    ------
    OSError
        It cannot be read, is no regular file (a pipe would wait for ever), or is larger.
    """
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    with open(handle, "rb") as stream:
        found = os.fstat(handle)
        if stat.S_ISDIR(found.st_mode):
            raise IsADirectoryError(errno.EISDIR, os.strerror(errno.EISDIR), str(path))
        if not stat.S_ISREG(found.st_mode):
            raise OSError(errno.EINVAL, say("Not a regular file"), str(path))
        data = stream.read(most + 1)
    if len(data) > most:
        raise OSError(errno.EFBIG, say("Larger than {most:g} MB", most=most / 1000000.0), str(path))
    return data


def read_text(path: str | os.PathLike[str], most: int) -> str:
    """All of a regular text file; as `read_bytes`.

    Parameters
    ----------
    most : int
        Bytes that it may have.

    Raises
    ------
    UnicodeDecodeError
        It is not UTF-8.
    """
    return read_bytes(path, most).decode("utf-8-sig")


def write_atomically(
    path: Path, data: bytes, verify: Callable[[bytes], None] | None = None, mode: int | None = None
) -> None:
    """Put bytes in a file in one step, through links, keeping its permissions.

    At any moment the file is the old one or the new one: the bytes go to a new file in the same folder, are forced
    to disk, and take the old file's name in one step.

    Parameters
    ----------
    verify : callable or None
        Is given what was written, read again, before it takes the old file's place; raises where that must not be.
    mode : int or None
        Permissions; the old file's, else as the person's mask has it, where not given.

    Raises
    ------
    OSError
        The disk or the folder refuses; the old file is untouched.
    """
    # Loaded with the first save: the window need not wait for it.
    import tempfile

    target = _through_links(path)
    begins = f".{_stem(target)}."
    handle, temporary = tempfile.mkstemp(prefix=begins, suffix=NEW, dir=target.parent)
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
            os.fchmod(stream.fileno(), _mode(target) if mode is None else mode)
        if verify is not None:
            verify(Path(temporary).read_bytes())
        os.replace(temporary, target)
    except BaseException:
        with contextlib.suppress(OSError):
            os.unlink(temporary)
        raise
    folder = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
    sweep(target.parent, begins)


def sweep(folder: Path, begins: str = ".", older_s: float = STALE_S) -> None:
    """Take away what was being written when a program ended long ago.

    Parameters
    ----------
    begins : str
        How their names begin.
    older_s : float
        Age from which they are left over, s.
    """
    with contextlib.suppress(OSError):
        for file in _left(folder, begins):
            if time.time() - file.stat().st_mtime > older_s:
                file.unlink(missing_ok=True)


def _left(folder: Path, begins: str) -> Iterator[Path]:
    for name in os.listdir(folder):
        if name.startswith(begins) and name.endswith(NEW):
            yield folder / name


def _stem(target: Path) -> str:
    return os.fsencode(target.name)[:STEM_BYTES].decode("utf-8", "ignore")


def _through_links(path: Path) -> Path:
    """The file that a path stands for.

    A link in a folder that anybody may write to is followed only where it is the person's own, as the kernel does it:
    else anybody could choose which file is overwritten.
    """
    try:
        target = path.resolve()
    except RuntimeError:
        raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path)) from None
    if path.is_symlink():
        link, folder = path.lstat(), path.parent.stat()
        shared = folder.st_mode & stat.S_ISVTX and folder.st_mode & stat.S_IWOTH
        if shared and link.st_uid not in (os.geteuid(), folder.st_uid):
            raise PermissionError(errno.EACCES, say("A link of somebody else's in a shared folder"), str(path))
    elif target.is_symlink():
        raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path))
    return target


def _mode(target: Path) -> int:
    try:
        return target.stat().st_mode & 0o777
    except OSError:
        return 0o666 & ~_umask()


def _umask() -> int:
    """The mask of this process; read without changing it, which another thread would notice."""
    with contextlib.suppress(OSError, ValueError, IndexError):
        status = Path("/proc/self/status").read_text("ascii", "replace")
        return int(status.split("Umask:")[1].split()[0], 8)
    return 0o077
