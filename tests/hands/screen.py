"""A screen without a monitor, and the mouse and keyboard that belong to it.

Everything goes through the X server: the program under test sees what it would see of a person.
"""

import contextlib
import os
import re
import subprocess
import time
from pathlib import Path

from PIL import Image
from Xlib import XK, X
from Xlib.display import Display
from Xlib.error import BadWindow
from Xlib.ext import xtest

from .dropping import drop_file

WIDE, HIGH = 1440, 900
WINDOW_MANAGER = Path(__file__).with_name("openbox.xml")
KEYS = {
    "ctrl": "Control_L", "shift": "Shift_L", "alt": "Alt_L", "return": "Return", "escape": "Escape", "tab": "Tab",
    "space": "space", "delete": "Delete", "backspace": "BackSpace", "insert": "Insert", "up": "Up", "down": "Down",
    "left": "Left", "right": "Right", "home": "Home", "end": "End", "menu": "Menu", "pageup": "Prior", "pagedown": "Next",
    "plus": "plus", "minus": "minus",
}  # fmt: skip
"""Keys by the names that tests use for them; others are single characters or F1 to F12."""
STEP_S = 0.004
"""Between two events of one gesture: a hand is not infinitely fast, and a drag has places between its ends."""
DOUBLE_S, DOUBLE_PX = 0.45, 8
"""Two clicks as close as that are taken for a double click; who means two clicks leaves more between them."""


class Screen:
    """Xvfb with a small window manager, and one pair of hands."""

    def __init__(self, folder: Path) -> None:
        read, write = os.pipe()
        self._server = subprocess.Popen(
            ["Xvfb", "-displayfd", str(write), "-screen", "0", f"{WIDE}x{HIGH}x24", "-nolisten", "tcp", "-noreset", "-r"],
            pass_fds=(write,), stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(write)
        with os.fdopen(read) as pipe:
            self.name = f":{pipe.readline().strip()}"
        self.env = {
            **os.environ,
            "DISPLAY": self.name,
            "QT_QPA_PLATFORM": "xcb",
            "XDG_CURRENT_DESKTOP": "",
            "LC_ALL": "C.UTF-8",
        }
        home = folder / "openbox"
        home.mkdir()
        self._manager = subprocess.Popen(
            ["openbox", "--sm-disable", "--config-file", str(WINDOW_MANAGER)],
            env={**self.env, "HOME": str(home), "XDG_CACHE_HOME": str(home), "XDG_CONFIG_HOME": str(home), "XDG_DATA_HOME": str(home)},
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        for process in (self._server, self._manager):
            # A monitor and a mouse are as quick on a busy machine: where it may, the screen goes before what it shows.
            with contextlib.suppress(PermissionError):
                os.setpriority(os.PRIO_PROCESS, process.pid, -10)
        self._x = Display(self.name)
        self._root = self._x.screen().root
        self.moved_at = time.monotonic()
        """When hands last did anything."""
        self._clicked = (0, 0.0, 0.0, 0.0)
        """The last click: its button, where, and when."""
        managed = self._x.intern_atom("_NET_SUPPORTING_WM_CHECK")
        while self._root.get_full_property(managed, X.AnyPropertyType) is None:
            assert self._manager.poll() is None, "the window manager ended"
            time.sleep(0.02)

    def close(self) -> None:
        """Take the screen down."""
        with contextlib.suppress(Exception):
            self._x.close()
        for process in (self._manager, self._server):
            process.terminate()
            process.wait()

    @property
    def manager(self):
        """The process that hands the keyboard from window to window."""
        return self._manager.pid

    # What a hand does

    def _fake(self, kind: int, detail: int = 0, x: int = 0, y: int = 0) -> None:
        xtest.fake_input(self._x, kind, detail, x=x, y=y)
        self._x.sync()
        self.moved_at = time.monotonic()
        time.sleep(STEP_S)

    def _at_once(self, *events: tuple[int, int]) -> None:
        """Send events that the server times: a finger is as quick on a busy machine, where each answer takes its time."""
        for kind, detail in events:
            xtest.fake_input(self._x, kind, detail, time=5)
        self._x.sync()
        self.moved_at = time.monotonic()

    def move(self, x: float, y: float) -> None:
        """Put the pointer somewhere."""
        self._fake(X.MotionNotify, x=round(x), y=round(y))

    def hold(self, button: int = 1) -> None:
        """Press a button of the mouse."""
        self._fake(X.ButtonPress, button)

    def let_go(self, button: int = 1) -> None:
        """Release a button of the mouse."""
        self._fake(X.ButtonRelease, button)

    def click(self, x: float, y: float, button: int = 1, times: int = 1) -> None:
        """Click somewhere."""
        before, bx, by, at = self._clicked
        if before == button and abs(x - bx) < DOUBLE_PX and abs(y - by) < DOUBLE_PX:
            time.sleep(max(0.0, at + DOUBLE_S - time.monotonic()))
        # Two motions: what opened under a resting pointer learns of it only by the second.
        self.move(x - 1, y)
        self.move(x, y)
        self._at_once(*((kind, button) for kind in (X.ButtonPress, X.ButtonRelease) * times))
        self._clicked = (button, x, y, time.monotonic())

    def drag(self, start: tuple[float, float], end: tuple[float, float], button: int = 1, steps: int = 12) -> None:
        """Take hold of something, move it, let it go."""
        (x0, y0), (x1, y1) = start, end
        self.move(x0 - 1, y0)
        self.move(x0, y0)
        self.hold(button)
        for k in range(1, steps + 1):
            self.move(x0 + (x1 - x0) * k / steps, y0 + (y1 - y0) * k / steps)
        self.move(x1, y1)
        self.let_go(button)

    def drop(self, path: Path, x: float, y: float) -> bool:
        """Drag a file in from another program and let go of it; whether it was taken."""
        self.move(x, y)
        taken = drop_file(self._x, self._root, path, x, y)
        self.moved_at = time.monotonic()
        return taken

    def titles(self) -> list[str]:
        """Titles of all programs' windows."""
        listed = self._root.get_full_property(self._x.intern_atom("_NET_CLIENT_LIST"), X.AnyPropertyType)
        named, found = self._x.intern_atom("_NET_WM_NAME"), []
        for id_ in listed.value if listed is not None else ():
            # A window may go between the list and the question.
            with contextlib.suppress(BadWindow):
                text = self._x.create_resource_object("window", id_).get_full_property(named, X.AnyPropertyType)
                found += [] if text is None else [bytes(text.value).decode("utf-8")]
        return found

    def wheel(self, x: float, y: float, clicks: int, *with_keys: str) -> None:
        """Turn the wheel, towards the person where negative."""
        self.move(x, y)
        codes = [self._code(k)[0] for k in with_keys]
        for code in codes:
            self._fake(X.KeyPress, code)
        for _ in range(abs(clicks)):
            self.hold(4 if clicks > 0 else 5)
            self.let_go(4 if clicks > 0 else 5)
        for code in codes:
            self._fake(X.KeyRelease, code)

    def hold_key(self, key: str) -> None:
        """Keep a key pressed."""
        self._fake(X.KeyPress, self._code(key)[0])

    def let_key(self, key: str) -> None:
        """Let a key go."""
        self._fake(X.KeyRelease, self._code(key)[0])

    def _code(self, key: str) -> tuple[int, bool]:
        """Key code, and whether Shift belongs to it."""
        name = KEYS.get(key.lower(), key.upper() if re.fullmatch(r"f\d+", key) else key)
        sym = XK.string_to_keysym(name) if len(name) > 1 else ord(name)
        found = [c for c in self._x.keysym_to_keycodes(sym) if c[1] in (0, 1)]
        assert found, f"no key on this keyboard gives {key!r}"
        code, level = min(found, key=lambda c: c[1])
        return code, level == 1

    def key(self, chord: str) -> None:
        """Press a key, such as ``a``, ``F8`` or ``ctrl+shift+s``."""
        parts = chord.split("+") if len(chord) > 1 else [chord]
        codes = []
        for part in parts:
            code, shifted = self._code(part)
            codes += [self._code("shift")[0], code] if shifted else [code]
        self._at_once(*((X.KeyPress, code) for code in codes), *((X.KeyRelease, code) for code in reversed(codes)))

    def type(self, text: str) -> None:
        """Type some text."""
        for ch in text:
            self.key({" ": "space", "\t": "tab", "\n": "return"}.get(ch, ch))

    # What there is to see

    def picture(self) -> Image.Image:
        """The whole screen as it is now."""
        raw = self._root.get_image(0, 0, WIDE, HIGH, X.ZPixmap, 0xFFFFFFFF)
        return Image.frombytes("RGB", (WIDE, HIGH), raw.data, "raw", "BGRX")
