"""Put instruments onto the loopback, each on a port of its own, or onto a serial line that is none."""

import os
import pty
import socketserver
import threading
import time
import tty
from typing import Literal, cast

from jaunty_copper.simulator.scpi import Instrument

Manner = Literal["well", "silent", "slow", "nonsense"]
"""How it behaves: real meters do all of these."""
SLOW_S = 30.0


class _Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        server = cast("_Tcp", self.server)
        for raw in self.rfile:
            reply = server.owner.reply(raw)
            if reply is not None:
                self.wfile.write(reply)


class _Tcp(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True
    owner: "Served"


class Served:
    """One instrument that can be reached.

    Parameters
    ----------
    instrument : Instrument
        What answers.
    port : int
        On the loopback; any free one where 0.
    serial : bool
        On a pseudo-terminal in place of a socket.
    manner : str
        How it behaves.
    """

    def __init__(self, instrument: Instrument, port: int = 0, serial: bool = False, manner: Manner = "well") -> None:
        self.instrument, self.manner = instrument, manner
        self._lock = threading.Lock()
        self._stop = threading.Event()
        self._tcp: _Tcp | None = None
        if serial:
            self._master, self._slave = pty.openpty()
            tty.setraw(self._slave)
            self.address = f"ASRL{os.ttyname(self._slave)}::INSTR"
            threading.Thread(target=self._talk, name=instrument.name, daemon=True).start()
        else:
            self._tcp = _Tcp(("127.0.0.1", port), _Handler)
            self._tcp.owner = self
            self.address = f"TCPIP0::127.0.0.1::{self._tcp.server_address[1]}::SOCKET"
            threading.Thread(target=self._tcp.serve_forever, args=(0.05,), name=instrument.name, daemon=True).start()

    def reply(self, raw: bytes) -> bytes | None:
        """What goes back for one line; one line after the other, whoever asks."""
        with self._lock:
            answer = self.instrument.answer(raw.decode("ascii", "replace"))
        if answer is None or self.manner == "silent":
            return None
        if self.manner == "slow":
            self._stop.wait(SLOW_S)
            return None
        if self.manner == "nonsense":
            return b"%%%OVEN READY\n"
        return f"{answer}\n".encode("ascii")

    def _talk(self) -> None:
        held = b""
        while not self._stop.is_set():
            try:
                held += os.read(self._master, 4096)
            except OSError:
                time.sleep(0.01)
                continue
            while b"\n" in held:
                line, _, held = held.partition(b"\n")
                answer = self.reply(line)
                if answer is not None:
                    os.write(self._master, answer)
        os.close(self._master)

    def close(self) -> None:
        """Take it off its line."""
        self._stop.set()
        if self._tcp is not None:
            self._tcp.shutdown()
            self._tcp.server_close()
        else:
            os.close(self._slave)
