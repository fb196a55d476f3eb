"""Read a meter through VISA: whatever speaks SCPI over a socket or a serial line."""

from contextlib import suppress
from math import isfinite
from typing import Any, NamedTuple

from jaunty_copper.commissioning.points import Point, Quantity
from jaunty_copper.language import say
from jaunty_copper.parts.figures import figure

MAKER = "stand-in"
"""First field of a stand-in's identity: it is given where its probes are, a real meter is not."""
QUESTIONS: dict[Quantity, str] = {
    "volts": "MEAS:VOLT:DC?", "joint": "MEAS:VOLT:DC?", "amps": "MEAS:CURR:DC?", "celsius": "MEAS:TEMP?",
}  # fmt: skip
TIMEOUT_S = 3.0
MOST_REPLY = 4096
"""Bytes: a meter that sends more for one question does not stop."""
NO_NUMBER = 9.91e37
"""SCPI's word for: there is no number."""
NO_FIGURES = ("nan", "inf", "infinity")
BEYOND = 9e36
"""From here on a number is SCPI's word for an exceeded range."""


class MeterError(Exception):
    """A meter that could not be read; says which, why, and what to do."""


class Taken(NamedTuple):
    """What a meter said.

    Attributes
    ----------
    value : float
        In volts, amperes or degrees Celsius.
    identity : str
        Of the meter, as it names itself.
    simulated : bool
        Whether it is a stand-in.
    """

    value: float
    identity: str
    simulated: bool


def take(address: str, point: Point, scenario: str = "", timeout_s: float = TIMEOUT_S) -> Taken:
    """Read a meter once.

    Opened and closed for each reading, so that a meter that was switched off and on again is no trouble.

    Parameters
    ----------
    address : str
        As VISA writes it: TCPIP0::127.0.0.1::5025::SOCKET, ASRL/dev/ttyUSB0::INSTR.
    point : Point
        What is measured; a stand-in is given it, a person has set the probes of a real one.
    scenario : str
        What runs, given to a stand-in.
    timeout_s : float
        How long to wait for each reply.

    Raises
    ------
    MeterError
        It is absent, silent, slow, or talks nonsense.
    """
    with _Line(address, timeout_s) as line:
        identity = line.ask("*IDN?")
        fields = [f.strip() for f in identity.split(",")]
        simulated = fields[0] == MAKER
        if simulated:
            if scenario:
                line.write(f'SIM:SCEN "{scenario}"')
            line.write(f'ROUT:PROB "{point.quantity}","{point.a}","{point.b}"')
            trouble = line.ask("SYST:ERR?")
            if not trouble.startswith(("0", "+0")):
                raise MeterError(
                    say("{address}: the stand-in cannot measure there: {trouble}", address=address, trouble=trouble)
                )
        reply = line.ask(QUESTIONS[point.quantity])
    return Taken(number(reply, address), ", ".join(f for f in fields if f), simulated)


def number(reply: str, address: str) -> float:
    """The number in a reply.

    Raises
    ------
    MeterError
        There is none, or it says that a range is exceeded.
    """
    first = reply.split(",")[0].strip()
    try:
        value = float(first) if first.lower().lstrip("+-") in NO_FIGURES else figure(first)
    except ValueError:
        raise MeterError(
            say(
                "{address}: replied {reply!r}, which is no number: is it a meter, and set to this kind of reading?",
                address=address,
                reply=reply[:40],
            )
        ) from None
    if value == NO_NUMBER:
        raise MeterError(say("{address}: nothing to read: does what was to run still run?", address=address))
    if not isfinite(value) or abs(value) > BEYOND:
        raise MeterError(say("{address}: beyond its range: choose a higher one, or check the probes", address=address))
    return value


class _Line:
    """A connection; every trouble becomes a `MeterError` with words."""

    def __init__(self, address: str, timeout_s: float) -> None:
        self.address, self.timeout_s = address, timeout_s
        self._resource: Any = None

    def __enter__(self) -> "_Line":
        import pyvisa

        manager = pyvisa.ResourceManager("@py")
        try:
            self._resource = manager.open_resource(self.address, open_timeout=round(1000 * self.timeout_s))
            self._resource.timeout = round(1000 * self.timeout_s)
            self._resource.read_termination = self._resource.write_termination = "\n"
        except Exception as error:
            raise self._trouble(error) from None
        return self

    def __exit__(self, *_: object) -> None:
        if self._resource is not None:
            with suppress(Exception):
                self._resource.close()

    def write(self, line: str) -> None:
        try:
            self._resource.write(line)
        except Exception as error:
            raise self._trouble(error) from None

    def ask(self, line: str) -> str:
        self.write(line)
        try:
            reply = self._resource.read_bytes(MOST_REPLY, break_on_termchar=True)
            if len(reply) >= MOST_REPLY:
                raise MeterError(
                    say(
                        "{address}: talks without end: is it set to answer one question at a time?",
                        address=self.address,
                    )
                )
            return str(reply.decode("ascii")).strip()
        except MeterError:
            raise
        except UnicodeDecodeError:
            raise MeterError(
                say("{address}: its reply is no text: check speed and kind of the line", address=self.address)
            ) from None
        except Exception as error:
            raise self._trouble(error) from None

    def _trouble(self, error: Exception) -> MeterError:
        """Words for what the library raises: its kinds of error differ by interface, so it is read, not caught apart."""
        reason = str(error)
        if "TMO" in reason or isinstance(error, TimeoutError):
            return MeterError(
                say(
                    "{address}: no reply within {timeout_s:g} s: is it switched on, and set to remote control?",
                    address=self.address,
                    timeout_s=self.timeout_s,
                )
            )
        if any(
            w in reason
            for w in ("RSRC_NFOUND", "Connection refused", "could not open", "CONN_LOST", "SYSTEM_ERROR", "ERROR_IO")
        ):
            return MeterError(
                say(
                    "{address}: nothing answers there: check its cable, its address and its power", address=self.address
                )
            )
        if "INV_RSRC_NAME" in reason or "parse" in reason.lower():
            return MeterError(
                say(
                    "{address}: no address of a meter: for example TCPIP0::192.168.1.20::5025::SOCKET or "
                    "ASRL/dev/ttyUSB0::INSTR",
                    address=self.address,
                )
            )
        return MeterError(
            f"{self.address}: {reason.strip().splitlines()[0] if reason.strip() else type(error).__name__}"
        )
