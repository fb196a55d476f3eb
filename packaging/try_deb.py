"""Install the Debian package in a clean root, start it as a desktop does, and take it away without a trace.

Start it with ``./run deb TRY``. As root, with debootstrap: makes a root of the release that the package is for.
"""

import contextlib
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from Xlib import X
from Xlib.display import Display

SUITES = {"deb12": "bookworm", "deb13": "trixie"}
TOOLS = ("libglib2.0-bin", "shared-mime-info", "hicolor-icon-theme", "desktop-file-utils", "man-db", "passwd")
PATIENCE_S = 120.0
MENU = "/usr/share/applications/jaunty-copper.desktop"


class Root:
    """A file system of its own to work in."""

    def __init__(self, folder: Path, suite: str) -> None:
        self.folder = folder
        print(f"Making a clean root of {suite}", flush=True)
        subprocess.run(["debootstrap", "--variant=minbase", suite, folder], check=True, stdout=subprocess.DEVNULL)
        self("apt-get", "update", "-qq")
        self("apt-get", "install", "-y", "-qq", "--no-install-recommends", *TOOLS)
        self("useradd", "--create-home", "person")

    def command(self, *words: str, person: str | None = None, **env: str) -> list[str]:
        """A command within, of root or of a person."""
        who = ["runuser", "-u", person, "--"] if person is not None else []
        home = f"/home/{person}" if person is not None else "/root"
        surroundings = {
            "PATH": "/usr/sbin:/usr/bin:/sbin:/bin",
            "HOME": home,
            "LC_ALL": "C.UTF-8",
            "DEBIAN_FRONTEND": "noninteractive",
            **env,
        }
        return ["chroot", str(self.folder), *who, "env", "-i", *(f"{k}={v}" for k, v in surroundings.items()), *words]

    def __call__(self, *words: str, person: str | None = None, **env: str) -> str:
        """What a command within prints; the end of everything where it fails."""
        done = subprocess.run(self.command(*words, person=person, **env), capture_output=True, text=True, check=False)
        if done.returncode:
            raise SystemExit(f"{' '.join(words)} ended with {done.returncode}:\n{done.stdout}{done.stderr}")
        return done.stdout

    def traces(self) -> list[str]:
        """What a search for the program's name finds."""
        named = [str(p.relative_to(self.folder)) for p in self.folder.rglob("*jaunty*")]
        kept = [
            p for folder in ("usr/share", "etc", "var/lib") for p in (self.folder / folder).rglob("*") if p.is_file()
        ]
        held = [
            str(p.relative_to(self.folder)) for p in kept
            if not p.is_symlink() and p.stat().st_size < 8 << 20 and b"jaunty-copper" in p.read_bytes()
        ]  # fmt: skip
        return sorted({*named, *held})


def titles(display: Display) -> list[str]:
    """Titles of all windows on a screen."""
    found, waiting = [], [display.screen().root]
    while waiting:
        window = waiting.pop()
        with contextlib.suppress(Exception):
            waiting += window.query_tree().children
            text = window.get_full_property(display.intern_atom("_NET_WM_NAME"), X.AnyPropertyType)
            if text is not None:
                found.append(bytes(text.value).decode("utf-8", "replace"))
    return found


def seen(display: Display, words: str) -> None:
    """Wait for a window by its title."""
    end = time.monotonic() + PATIENCE_S
    while not any(words in title for title in titles(display)):
        if time.monotonic() > end:
            raise SystemExit(f"no window whose title has {words!r}; there are {titles(display)}")
        time.sleep(0.2)
    print(f"  a window: {words}", flush=True)


def closed(root: Root) -> None:
    """End the program."""
    subprocess.run(root.command("pkill", "-f", "jaunty"), check=False, capture_output=True)
    subprocess.run(["pkill", "-f", "/usr/bin/jaunty-copper"], check=False)
    time.sleep(0.5)


def tried(package: Path, display: Display) -> None:
    """One package, in its clean root."""
    release = package.name.partition("~")[2].partition("_")[0]
    with tempfile.TemporaryDirectory() as room:
        root = Root(Path(room) / "root", SUITES[release])
        assert root.traces() == []
        shutil.copy(package, root.folder / "root" / "package.deb")
        print(f"Installing {package.name}", flush=True)
        root("apt-get", "install", "-y", "-qq", "--no-install-recommends", "/root/package.deb")
        (root.folder / "root" / "package.deb").unlink()
        print("  " + root("jaunty-copper", "--version", person="person").strip())
        assert "SYNOPSIS" in root("man", "jaunty-copper", person="person", MANPAGER="cat", TERM="dumb")
        plan = "/home/person/shed.copper.json"
        root("cp", "/usr/lib/jaunty-copper/jaunty_copper/plan/examples/orchard_station.copper.json", plan)
        root("chown", "person", plan)
        kind = root("gio", "info", "-a", "standard::content-type", plan, person="person")
        assert "application/x-jaunty-copper+json" in kind, kind
        assert "jaunty-copper.desktop" in root("gio", "mime", "application/x-jaunty-copper+json", person="person")
        root("jaunty-copper", "thumbnail", plan, "/home/person/shed.png", person="person")
        assert (root.folder / "home/person/shed.png").read_bytes().startswith(b"\x89PNG")
        screen = {"DISPLAY": display.get_display_name()}
        for words, start in (("Jaunty Copper", ("gio", "launch", MENU)), ("shed.copper.json", ("gio", "open", plan))):
            process = subprocess.Popen(root.command(*start, person="person", **screen))
            seen(display, words)
            closed(root)
            process.wait(30)
        root("apt-get", "purge", "-y", "-qq", "jaunty-copper")
        root("apt-get", "clean")
        left = [t for t in root.traces() if not t.startswith(("home/person/", "var/log/", "var/lib/apt/"))]
        assert left == [], f"left behind: {left}"
        print("  taken away without a trace", flush=True)


def main() -> None:
    """Every package in a folder."""
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-noreset"], pass_fds=(write,)
    )
    os.close(write)
    with os.fdopen(read) as pipe:
        display = Display(f":{pipe.readline().strip()}")
    try:
        for package in sorted(Path(sys.argv[1]).glob("*.deb")):
            tried(package, display)
    finally:
        server.terminate()


if __name__ == "__main__":
    main()
