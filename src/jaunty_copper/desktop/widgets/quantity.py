"""Quantities as people type them: a number alone, or with a unit; "1,5 kW", "12ft 6", "3/8 in", "104 F"."""

import re
from collections.abc import Mapping
from decimal import Decimal

from jaunty_copper.language import say

UNITS: Mapping[str, Mapping[str, float]] = {
    "m": {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": 0.3048, "'": 0.3048, "in": 0.0254, '"': 0.0254},
    "ft": {"ft": 1.0, "'": 1.0, "in": 1 / 12, '"': 1 / 12, "m": 1 / 0.3048, "cm": 0.01 / 0.3048, "mm": 0.001 / 0.3048},
    "mm": {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, '"': 25.4},
    "A": {"a": 1.0, "ma": 0.001, "ka": 1000.0},
    "V": {"v": 1.0, "mv": 0.001, "m": 0.001, "kv": 1000.0},
    "mV": {"mv": 1.0, "v": 1000.0},
    "W": {"w": 1.0, "kw": 1000.0, "mw": 0.001},
    "Ah": {"ah": 1.0, "mah": 0.001},
    "Ω": {"ω": 1.0, "ohm": 1.0, "mω": 0.001, "mohm": 0.001, "µω": 1e-6, "μω": 1e-6, "uohm": 1e-6},
    "µF": {"µf": 1.0, "μf": 1.0, "uf": 1.0, "mf": 1000.0, "f": 1e6},
    "s": {"s": 1.0, "ms": 0.001, "min": 60.0, "h": 3600.0},
    "h": {"h": 1.0, "min": 1 / 60, "d": 24.0},
    "%": {"%": 1.0},
    "of 1": {"%": 0.01},
    "°C": {"°c": 1.0, "c": 1.0},
}
"""By the unit of a field, what else may be typed there, in small letters, and what it is in the field's unit."""
PART = re.compile(
    r"(?P<sign>[-+]?)(?:(?P<whole>\d+)\s+(?=\d+/))?(?P<number>\d+(?:[.,]\d+)?(?:e[-+]?\d+)?)(?:/(?P<under>\d+))?\s*(?P<unit>[^\d\s.,+/-]*)\s*",
    re.IGNORECASE,
)
FEET = ("ft", "'")
FAHRENHEIT = ("f", "°f")


class NotUnderstood(ValueError):
    """What was typed is no such quantity; the text says why."""


def written(value: float) -> str:
    """A number as a field shows it: six digits at most, never with an exponent."""
    return format(Decimal(f"{value:.6g}"), "f")


def read(text: str, unit: str = "") -> float:
    """A number in the unit of a field.

    Parameters
    ----------
    text : str
        As typed: decimal point or comma, or a fraction, perhaps with units; several parts add up, inches after feet need no unit.
    unit : str
        The field's own, meant where none is typed.

    Raises
    ------
    NotUnderstood
        It is no number, has a unit of something else, or could be read in two ways.

    Examples
    --------
    >>> read("12 ft 6 in", "m"), read("1,5 kW", "W")
    (3.81, 1500.0)
    """
    text = text.strip().replace("−", "-")
    if re.fullmatch(r"-?\d{1,3}(,\d{3})+", text):
        raise NotUnderstood(
            say(
                "{text} can be read in two ways; write {text_2} or {text_3}",
                text=text,
                text_2=text.replace(",", ""),
                text_3=text.replace(",", "."),
            )
        )
    total, at, parts, before = 0.0, 0, 0, ""
    while at < len(text):
        found = PART.match(text, at)
        if found is None:
            raise NotUnderstood(say("“{text}” is no number", text=text))
        typed = found["unit"].lower()
        if parts and not typed:
            if before not in FEET:
                raise NotUnderstood(say("“{text}” is no number", text=text))
            typed = "in"
        total += _in_unit(_number(found), typed, unit)
        at, parts, before = found.end(), parts + 1, typed
    if not parts:
        raise NotUnderstood(say("a number is needed here"))
    return round(total, 9)


def _number(found: re.Match[str]) -> float:
    """A figure, a fraction, or both: 12,5 or 3/8 or 1 1/2."""
    value = float(found["number"].replace(",", "."))
    if found["under"] is not None:
        if float(found["under"]) == 0.0:
            raise NotUnderstood(say("{found} is a size of a conductor, no number", found=found[0].strip()))
        value /= float(found["under"])
    value += float(found["whole"] or 0)
    return -value if found["sign"] == "-" else value


def positive(text: str, unit: str = "") -> float:
    """A number above 0, as `read` takes it.

    Raises
    ------
    NotUnderstood
        As `read`; or it is 0 or less.
    """
    value = read(text, unit)
    if value <= 0.0:
        raise NotUnderstood(say("“{text}” is not above 0", text=text))
    return value


def read_lengths(text: str) -> tuple[float, ...]:
    """Lengths in m, separated by spaces, commas with a space, or semicolons: each once, the shortest first.

    Raises
    ------
    NotUnderstood
        One is none, or not between 0 and 10,000 m.
    """
    lengths = tuple(sorted({read(x, "m") for x in text.replace(", ", " ").replace(";", " ").split()}))
    if not all(0.0 < x < 1e4 for x in lengths):
        raise NotUnderstood(say("lengths between 0 and 10,000 m are needed here"))
    return lengths


def _in_unit(value: float, typed: str, unit: str) -> float:
    if not typed or typed == unit.lower():
        return value
    if unit == "°C" and typed in FAHRENHEIT:
        return (value - 32.0) / 1.8
    factor = UNITS.get(unit, {}).get(typed)
    if factor is None:
        raise NotUnderstood(
            say(
                "{typed} is not a unit of what is asked here{words}",
                typed=typed,
                words=say(", in {unit}", unit=unit) if unit else "",
            )
        )
    return value * factor
