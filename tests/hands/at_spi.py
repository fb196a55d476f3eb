"""What a screen reader sees: the accessibility tree of all programs, over a session bus of its own."""

import contextlib
import os
import shutil
import subprocess
import tempfile
from typing import NamedTuple

from jeepney import DBusAddress, MatchRule, Properties, message_bus, new_method_call
from jeepney.io.blocking import Proxy, open_dbus_connection

ACCESSIBLE = "org.a11y.atspi.Accessible"
REGISTRY = ("org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root")
ANNOUNCED = MatchRule(type="signal", interface="org.a11y.atspi.Event.Object", member="Announcement")
FOCUSABLE, FOCUSED, VISIBLE, SHOWING = 11, 12, 30, 25
"""Bits of a state, as AT-SPI numbers them."""


class Node(NamedTuple):
    """One thing of the tree."""

    name: str
    role: str
    description: str
    states: int
    depth: int

    def has(self, bit):
        """Whether a state holds."""
        return bool(self.states >> bit & 1)


@contextlib.contextmanager
def session_bus():
    """The address of a message bus that ends with the block."""
    daemon = shutil.which("dbus-daemon")
    assert daemon, "dbus-daemon must be installed: ./run test does it"
    # The bus of the accessibility tree has its socket in this folder: two of them in one are none.
    room = tempfile.mkdtemp(prefix="bus-")
    process = subprocess.Popen(
        [daemon, "--session", "--nofork", "--print-address=1"],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
        env={**os.environ, "XDG_RUNTIME_DIR": room},
    )
    try:
        yield process.stdout.readline().strip()
    finally:
        process.terminate()
        process.wait()
        process.stdout.close()
        shutil.rmtree(room, ignore_errors=True)


class Reader:
    """Looks at the tree as a screen reader does, and hears what is announced."""

    def __init__(self, address):
        with contextlib.closing(open_dbus_connection(address)) as session:
            bus = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus")
            status = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Status")
            (where,) = session.send_and_get_reply(new_method_call(bus, "GetAddress")).body
            for name in ("IsEnabled", "ScreenReaderEnabled"):
                session.send_and_get_reply(Properties(status).set(name, "b", True))
        self.bus = open_dbus_connection(where)
        Proxy(message_bus, self.bus).AddMatch(ANNOUNCED)
        registry = DBusAddress("/org/a11y/atspi/registry", "org.a11y.atspi.Registry", "org.a11y.atspi.Registry")
        self.bus.send_and_get_reply(new_method_call(registry, "RegisterEvent", "s", ("object:announcement",)))

    def close(self):
        """Look away."""
        self.bus.close()

    def _call(self, at, method, signature=None, body=()):
        owner, path = at
        address = DBusAddress(path, owner, ACCESSIBLE)
        reply = self.bus.send_and_get_reply(new_method_call(address, method, signature, body), timeout=30)
        return reply.body[0]

    def _value(self, at, name):
        owner, path = at
        reply = self.bus.send_and_get_reply(Properties(DBusAddress(path, owner, ACCESSIBLE)).get(name), timeout=30)
        return reply.body[0][1]

    def programs(self):
        """Roots of the programs that speak."""
        return [tuple(x) for x in self._call(REGISTRY, "GetChildren")]

    def tree(self):
        """Everything of every program that is on the screen, from the windows inwards."""
        found, waiting = [], [(root, 0) for root in reversed(self.programs())]
        while waiting:
            at, depth = waiting.pop()
            try:
                low, high = self._call(at, "GetState")
                node = Node(
                    self._value(at, "Name"),
                    self._call(at, "GetRoleName"),
                    self._value(at, "Description"),
                    low | high << 32,
                    depth,
                )
                below = [tuple(x) for x in self._call(at, "GetChildren")]
            except (TypeError, ValueError, IndexError, KeyError):
                continue  # It went away while it was looked at.
            if depth < 2 or node.has(SHOWING):
                found.append(node)
                waiting += [(x, depth + 1) for x in reversed(below)]
        return found

    def announced(self, timeout=30.0):
        """The next thing that is said aloud."""
        with self.bus.filter(ANNOUNCED) as heard:
            body = self.bus.recv_until_filtered(heard, timeout=timeout).body
        return body[3][1]
