"""integrate: the menu entry, the icons, the file type and the manual, where a desktop looks for them."""

import argparse
import shutil
import subprocess
import sys
from collections.abc import Iterator
from importlib.resources import as_file, files
from pathlib import Path

from jaunty_copper.cli.inputs import complain
from jaunty_copper.language import say
from jaunty_copper.plan.storage import write_atomically

INSTALLED = "share/jaunty-copper/installed.txt"
"""Under the prefix: what was put there, a path a line; by it alone things are taken away."""
CACHES = (
    ("update-mime-database", "share/mime"), ("update-desktop-database", "share/applications"),
    ("gtk-update-icon-cache", "-q", "-t", "-f", "share/icons/hicolor"),
)  # fmt: skip
"""Programs that renew what a desktop keeps of such files, where they are installed."""


def integrate(options: argparse.Namespace) -> int:
    """Install or take away what makes the program one of the desktop's."""
    prefix = Path(options.prefix).expanduser().absolute()
    try:
        taken = remove(prefix)
        if options.remove:
            print(say("{taken} files taken away from {prefix}", taken=taken, prefix=prefix))
            return 0
        put = install(prefix, Path(options.program or sys.argv[0]).absolute())
    except OSError as error:
        return complain(f"{error.filename or prefix}: {(error.strerror or say('cannot be written')).lower()}")
    print(
        say(
            "{put} files put under {prefix}; `jaunty-copper integrate --remove` takes them away", put=put, prefix=prefix
        )
    )
    return 0


def install(prefix: Path, program: Path | None = None) -> int:
    """Put the share files under a prefix; how many.

    Parameters
    ----------
    prefix : Path
        Such as ~/.local: its share folder is one where the desktop looks.
    program : Path, optional
        What menu entry and thumbnailer start; the name on the path where none is given.

    Raises
    ------
    OSError
        Something cannot be written.
    """
    put = list[str]()
    with as_file(files("jaunty_copper.desktop") / "share") as share:
        for source in sorted(p for p in share.rglob("*") if p.is_file()):
            name = Path("share") / source.relative_to(share)
            data = source.read_bytes()
            if program is not None and source.suffix in (".desktop", ".thumbnailer"):
                data = "\n".join(_with_program(data.decode("utf-8"), str(program))).encode("utf-8")
            (prefix / name).parent.mkdir(parents=True, exist_ok=True)
            write_atomically(prefix / name, data)
            put.append(str(name))
    listed = prefix / INSTALLED
    listed.parent.mkdir(parents=True, exist_ok=True)
    write_atomically(listed, "\n".join([*put, INSTALLED, ""]).encode("utf-8"))
    _renew(prefix)
    return len(put)


def remove(prefix: Path) -> int:
    """Take away what was put under a prefix, and folders that it leaves empty; how many files.

    Parameters
    ----------
    prefix : Path
        As it was given to `install`.

    Raises
    ------
    OSError
        Something cannot be taken away.
    """
    listed = prefix / INSTALLED
    if not listed.exists():
        return 0
    names = [n for n in listed.read_text(encoding="utf-8").splitlines() if n.startswith("share/") and ".." not in n]
    count = 0
    for name in names:
        if (prefix / name).is_file():
            (prefix / name).unlink()
            count += 1
    _renew(prefix)
    for folder in sorted({parent for n in names for parent in Path(n).parents if len(parent.parts) > 1}, reverse=True):
        if (prefix / folder).is_dir() and not any((prefix / folder).iterdir()):
            (prefix / folder).rmdir()
    return count


def _with_program(text: str, program: str) -> Iterator[str]:
    """An entry whose lines start the program by its place: a menu does not read a person's PATH."""
    quoted = f'"{program}"' if " " in program else program
    for line in text.split("\n"):
        key, equals, value = line.partition("=")
        if key == "TryExec":
            yield f"{key}{equals}{program}"
        elif key == "Exec":
            yield f"{key}{equals}{quoted}{value.removeprefix('jaunty-copper')}"
        else:
            yield line


def _renew(prefix: Path) -> None:
    for program, *arguments, folder in CACHES:
        if shutil.which(program) is not None and (prefix / folder).is_dir():
            subprocess.run([program, *arguments, prefix / folder], check=False, capture_output=True, timeout=60)
