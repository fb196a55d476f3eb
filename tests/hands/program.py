"""The program under test in a process of its own, and a line to ask it what is in sight."""

import contextlib
import json
import multiprocessing
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

from . import watched

PATIENCE_S = float(os.environ.get("HANDS_PATIENCE_S", 120.0))
"""How long something may take that a person would wait for: only a program that hangs takes as long."""
READY = multiprocessing.get_context("forkserver")
"""Processes that have loaded the program already and begin with its first line: loading is two thirds of a start."""
READY.set_forkserver_preload([watched.__name__, "tests.hands.loaded"])


SETTLE_MS = 8.0
"""After a gesture: what the X server sent of it is in the program's queue by then."""
REGISTRY_BUSY = (
    'QSpiApplication::keyEventError  "org.freedesktop.DBus.Error.NoReply"',
    "QSpiApplication::notifyKeyboardListenerCallback with no queued key called",
)
"""What the library says, beside a screen reader only, where the desktop's registry of them, a program of its own, answers
late: the key reaches its widget all the same."""


class NotSeen(AssertionError):
    """What was looked for did not come into sight."""


class Ended(NotSeen):
    """The program is gone."""


@contextlib.contextmanager
def others_ended(screen):
    """End windows that the program under test has started on this screen, once they have been looked at."""
    try:
        yield
    finally:
        found = subprocess.run(["pgrep", "-f", "jaunty_copper new$"], capture_output=True, text=True, check=False)
        for pid in found.stdout.split():
            with contextlib.suppress(ProcessLookupError, FileNotFoundError):
                if f"DISPLAY={screen.name}\0".encode() in Path(f"/proc/{pid}/environ").read_bytes():
                    os.kill(int(pid), signal.SIGKILL)


class Fresh:
    """An interpreter that begins from nothing, as a person's does."""

    def __init__(self, where, arguments, env, folder, log):
        with open(log, "wb") as stderr:
            self._process = subprocess.Popen(
                [sys.executable, "-m", watched.__name__, where, *arguments], cwd=folder, stdout=subprocess.DEVNULL, stderr=stderr,
                env={**env, "PYTHONPATH": str(Path(__file__).parents[2])},
            )  # fmt: skip
        self.pid, self.wait = self._process.pid, self._process.wait

    @property
    def returned(self):
        """What it ended with; None while it runs."""
        return self._process.poll()


class Forked:
    """An interpreter that has loaded the program before."""

    def __init__(self, where, arguments, env, folder, log):
        self._process = READY.Process(target=watched.begin, args=(where, arguments, env, folder, log))
        self._process.start()
        self.pid, self.wait = self._process.pid, self._process.join

    @property
    def returned(self):
        """What it ended with; None while it runs."""
        return self._process.exitcode


class Program:
    """The program, and the questions to it."""

    def __init__(self, screen, folder, *arguments, fresh=False):
        self.log = folder / f"stderr-{time.monotonic_ns()}"
        self.log.touch()
        where = f"/tmp/hands-{os.getpid()}-{time.monotonic_ns()}"
        env = {
            **screen.env, "HOME": str(folder), "XDG_STATE_HOME": str(folder / "state"), "XDG_CONFIG_HOME": str(folder / "config"),
            "PYTHONFAULTHANDLER": "1",
        }  # fmt: skip
        self._screen = screen
        self._read_out = "QT_LINUX_ACCESSIBILITY_ALWAYS_ON" in env
        self.process = (Fresh if fresh else Forked)(where, [*map(str, arguments)], env, folder, self.log)
        self._line = socket.socket(socket.AF_UNIX)
        end = time.monotonic() + PATIENCE_S
        while True:
            try:
                self._line.connect(where)
                break
            except OSError:
                if not self.runs or time.monotonic() > end:
                    raise NotSeen(f"the program did not start: {self.trouble()}") from None
                time.sleep(0.02)
        os.unlink(where)
        self._file = self._line.makefile("rwb")

    def ask(self, about, **more):
        """One question to the window, once it has had the time to hear of the last gesture."""
        more.setdefault("after_ms", max(0.0, SETTLE_MS - 1e3 * (time.monotonic() - self._screen.moved_at)))
        self._file.write(json.dumps({"about": about, **more}).encode() + b"\n")
        self._file.flush()
        line = self._file.readline()
        if not line:
            self.process.wait(30)
            raise Ended(f"the program ended with {self.process.returned}: {self.trouble()}")
        found = json.loads(line)
        if isinstance(found, dict) and "error" in found:
            raise AssertionError(found["error"])
        return found

    @property
    def runs(self):
        """Whether the program still runs."""
        return self.process.returned is None

    def trouble(self):
        """What it wrote where only a programmer looks: tracebacks, Qt's warnings."""
        lines = self.log.read_text(errors="replace").strip().splitlines()
        return "\n".join(line for line in lines if not (self._read_out and line.startswith(REGISTRY_BUSY)))

    @contextlib.contextmanager
    def halted(self):
        """Keep it from running: as busy as can be, while hands go on."""
        os.kill(self.process.pid, signal.SIGSTOP)
        try:
            yield
        finally:
            os.kill(self.process.pid, signal.SIGCONT)

    def kill(self):
        """End it as a power cut does, or at the end of a test without questions."""
        if self.runs:
            os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()
        self._file.close()
        self._line.close()
