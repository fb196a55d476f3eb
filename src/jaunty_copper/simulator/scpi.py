"""Instruments that answer SCPI, a line at a time.

Of the standard (SCPI-1999, IEEE 488.2) what a simple meter needs: common commands, an error queue, short and long
keywords in any case, `MEASure`, `CONFigure` and `READ?`. A stand-in has no hands: `ROUTe:PROBe` says where its
probes are, `SIMulate:SCENario` what runs.
"""

import re
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from jaunty_copper.commissioning.meter import MAKER, NO_NUMBER
from jaunty_copper.commissioning.model import METER_A, METER_A_SHARE, METER_K, METER_V, METER_V_SHARE, NothingToMeasure
from jaunty_copper.commissioning.points import Point
from jaunty_copper.plan.model import Scenario
from jaunty_copper.simulator.hidden import AsBuilt

COUNTS = 20_000
"""Of the display: what a range is divided into."""
RANGES = {"volts": (0.2, 2.0, 20.0, 200.0), "amps": (40.0, 400.0, 2000.0), "celsius": (200.0,)}
COUNTS_OF = {"volts": COUNTS, "amps": 4000, "celsius": 2000}
FUNCTIONS = {"VOLT": "volts", "CURR": "amps", "TEMP": "celsius"}
OVERLOAD = 9.9e37
"""What SCPI says where a range is exceeded."""
KEYWORDS = (
    "MEASure", "CONFigure", "READ", "FETCh", "VOLTage", "CURRent", "TEMPerature", "DC", "SYSTem", "ERRor", "NEXT",
    "ROUTe", "PROBe", "SIMulate", "SCENario", "VERSion",
)  # fmt: skip


def spelt(quantity: str, value: float) -> float:
    """A value as a display of limited counts gives it; `OVERLOAD` beyond its last range.

    Parameters
    ----------
    quantity : str
        What is measured, as the instrument calls it.
    value : float
        In the quantity's unit.
    """
    for top in RANGES[quantity]:
        if abs(value) < top:
            step = top / COUNTS_OF[quantity]
            return round(value / step) * step
    return OVERLOAD


def short_form(header: str) -> str:
    """A header in its short form: MEASure:VOLTage:DC? and meas:volt? are one; empty where a keyword is unknown."""
    question = "?" if header.endswith("?") else ""
    found = []
    for word in header.rstrip("?").strip(":").split(":"):
        upper = word.upper()
        known = next((k for k in KEYWORDS if upper in (k.upper(), "".join(c for c in k if c.isupper()))), None)
        if known is None:
            return ""
        found.append("".join(c for c in known if c.isupper()))
    return ":".join(w for w in found if w not in ("DC", "NEXT")) + question


@dataclass
class Instrument:
    """A meter on a system as it was built.

    Attributes
    ----------
    name : str
        multimeter, clamp meter or battery monitor.
    measures : tuple of str
        Quantities that it knows.
    probe : Point
        Where it is.
    """

    name: str
    measures: tuple[str, ...]
    built: AsBuilt
    scenarios: dict[str, Scenario]
    probe: Point
    rng: np.random.Generator
    scenario: str = ""
    errors: deque[str] = field(default_factory=deque)
    configured: str = ""

    def __post_init__(self) -> None:
        self.scenario = self.scenario or next(iter(self.scenarios))
        self.configured = self.measures[0]

    def answer(self, line: str) -> str | None:
        """What it says to one line; None where there is nothing to say."""
        replies = [r for part in line.strip().split(";") if part.strip() and (r := self._one(part.strip())) is not None]
        return ";".join(replies) if replies else None

    def _one(self, command: str) -> str | None:
        header, _, argument = command.partition(" ")
        common: dict[str, Callable[[], str | None]] = {
            "*IDN?": lambda: f"{MAKER},{self.name},0,1", "*RST": self._reset, "*CLS": self._clear, "*OPC?": lambda: "1",
            "*OPC": lambda: None, "*ESR?": lambda: "0", "*TST?": lambda: "0",
        }  # fmt: skip
        if header.upper() in common:
            return common[header.upper()]()
        match short_form(header).split(":"):
            case ["SYST", "ERR?"]:
                return self.errors.popleft() if self.errors else '0,"No error"'
            case ["SYST", "VERS?"]:
                return "1999.0"
            case ["MEAS", function] if function.endswith("?"):
                return self._measure(function[:-1])
            case ["CONF", function]:
                return self._configure(function)
            case ["READ?"] | ["FETC?"]:
                return self._take(self.configured)
            case ["ROUT", "PROB"]:
                return self._set_probe(argument)
            case ["ROUT", "PROB?"]:
                return f'"{self.probe.quantity}","{self.probe.a}","{self.probe.b}"'
            case ["SIM", "SCEN"]:
                return self._set_scenario(argument)
            case ["SIM", "SCEN?"]:
                return f'"{self.scenario}"'
        return self._error(-113, "Undefined header")

    def _reset(self) -> str | None:
        self.configured = self.measures[0]
        return None

    def _clear(self) -> str | None:
        self.errors.clear()
        return None

    def _error(self, number: int, words: str) -> str | None:
        self.errors.append(f'{number},"{words}"')
        return None

    def _configure(self, function: str) -> str | None:
        if FUNCTIONS.get(function) not in self.measures:
            return self._error(-113, "Undefined header")
        self.configured = FUNCTIONS[function]
        return None

    def _measure(self, function: str) -> str | None:
        self._configure(function)
        return self._take(FUNCTIONS[function]) if FUNCTIONS.get(function) in self.measures else None

    def _set_probe(self, argument: str) -> str | None:
        words = re.findall(r'"([^"]*)"', argument)
        if len(words) != 3:
            return self._error(-109, "Missing parameter")
        point = Point(*words)
        try:
            self.built.value(self.scenarios[self.scenario], point)
        except NothingToMeasure:
            pass
        except KeyError:
            return self._error(-224, "Illegal parameter value")
        self.probe = point
        return None

    def _set_scenario(self, argument: str) -> str | None:
        name = argument.strip().strip('"')
        if name not in self.scenarios:
            return self._error(-224, "Illegal parameter value")
        self.scenario = name
        return None

    def _take(self, quantity: str) -> str | None:
        """The value at the probe with noise, to the counts of the display."""
        fits = {"volts": ("volts", "joint"), "amps": ("amps",), "celsius": ("celsius",)}[quantity]
        if self.probe.quantity not in fits:
            # Probes that are not where this can be measured pick up nothing.
            return f"{spelt(quantity, 0.0):+.6E}"
        try:
            value = self.built.value(self.scenarios[self.scenario], self.probe)
        except NothingToMeasure:
            self._error(-230, "Data corrupt or stale")
            return f"{NO_NUMBER:+.6E}"
        spread = {
            "volts": METER_V + METER_V_SHARE * abs(value), "amps": METER_A + METER_A_SHARE * abs(value), "celsius": METER_K,
        }[quantity]  # fmt: skip
        return f"{spelt(quantity, value + float(self.rng.normal()) * spread):+.6E}"
