"""Meters that misbehave: each is told in words, within its time and in little memory."""

import random
import socket
import threading
import time

from jaunty_copper.commissioning.meter import MeterError, take
from jaunty_copper.commissioning.points import Point

TIMEOUT_S = 0.4
SLACK_S = 4.0
REPLIES = (
    b"", b"\n", b"1.5\n", b"1.5", b"nan\n", b"9.91e37\n", b"1_2\n", b"-inf\n", b"\xff\xfe\n", b"ERR\n", b"1" * 3000 + b"\n", b"1" * 100_000,
    b"1.5,2.5\r\n", b"\x00\n", b'"\n', b"1e400\n",
)  # fmt: skip


class Talker:
    """A server that answers each line by a seed: sense, nonsense, silence, a flood, or a closed line."""

    def __init__(self, seed):
        self.random = random.Random(seed)
        self.server = socket.create_server(("127.0.0.1", 0))
        self.server.settimeout(10.0)
        self.address = f"TCPIP0::127.0.0.1::{self.server.getsockname()[1]}::SOCKET"
        self.ends = threading.Event()
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self):
        try:
            line, _ = self.server.accept()
        except OSError:
            return
        with line:
            line.settimeout(10.0)
            try:
                while not self.ends.is_set():
                    said = line.recv(4096)
                    if not said:
                        return
                    if b"?" not in said:
                        continue
                    match self.random.randrange(8):
                        case 0:
                            return
                        case 1:
                            end = time.monotonic() + 2.0
                            while time.monotonic() < end and not self.ends.is_set():
                                line.sendall(b"7" * 65536)
                        case 2:
                            self.ends.wait(2.0)
                        case _:
                            line.sendall(b"-1.5e-3\n" if self.random.random() < 0.6 else self.random.choice(REPLIES))
            except OSError:
                return

    def close(self):
        self.ends.set()
        self.server.close()


def use(seed):
    """Read it once; whether that gave a figure."""
    talker = Talker(seed)
    begin = time.monotonic()
    try:
        value = take(talker.address, Point("volts", "B1.plus", "B1.minus"), timeout_s=TIMEOUT_S).value
    except MeterError as error:
        value, why = None, str(error)
    finally:
        talker.close()
    assert time.monotonic() - begin < 3 * TIMEOUT_S + SLACK_S, "it took too long to give up"
    if value is None:
        assert talker.address in why
        assert len(why) < 400
    else:
        assert abs(value) < 1e36
    return value is not None
