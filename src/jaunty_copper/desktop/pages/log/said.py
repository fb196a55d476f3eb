"""Readings in words: how they are typed, shown and marked."""

from math import isfinite
from typing import NamedTuple

from jaunty_copper.commissioning.charging import LONGEST_H
from jaunty_copper.commissioning.diagnose import Diagnosis
from jaunty_copper.commissioning.points import Expected, Point
from jaunty_copper.language import say

CAUTION = say(
    "Measuring under load means live posts: insulated probes, one hand, nothing loose. Local codes and licensed practice decide."
)


class ReadingRow(NamedTuple):
    """One point with what was read there, the current it goes with, and the resistance that all readings give."""

    expected: Expected
    read: float | None
    amps: float
    estimate: tuple[float, float] | None


def reading_text(p: Point, value: float) -> str:
    """A value in the unit of its point."""
    if p.quantity == "celsius":
        return f"{value:.0f} °C"
    if p.quantity == "amps":
        return f"{value:.2f} A" if abs(value) < 20.0 else f"{value:.1f} A"
    return f"{value:.3f} V" if abs(value) >= 1.0 else f"{1e3 * value:.1f} mV"


def expect(row: ReadingRow) -> str:
    """What to expect, and how far off it may be, in the unit of what is expected."""
    e = row.expected
    if e.point.quantity in ("volts", "joint") and abs(e.value) >= 1.0:
        return f"{e.value:.2f} ± {e.tolerance:.2f} V"
    figure, unit = reading_text(e.point, e.value).split(" ")
    width = 1e3 * e.tolerance if unit == "mV" else e.tolerance
    places = 0 if unit == "°C" else 2 if unit == "A" and abs(e.value) < 20.0 else 1
    return f"{figure} ± {width:.{places}f} {unit}"


def estimated(row: ReadingRow) -> str:
    """Resistance by all readings together, with two standard deviations."""
    if row.estimate is None or row.expected.point.quantity not in ("volts", "joint"):
        return ""
    milli, sigma = 1e3 * row.estimate[0], 1e3 * row.estimate[1]
    places = 2 if milli < 10.0 else 1 if milli < 100.0 else 0
    return f"{milli:.{places}f} ± {2.0 * sigma:.{places}f}"


def off_by(row: ReadingRow) -> str:
    """How far off a reading is: by a mark that grows, and in figures."""
    if row.read is None:
        return ""
    e = row.expected
    off = row.read - e.value
    return f"{mark(off, e.tolerance)} {'+' if off >= 0 else '−'}{reading_text(e.point, abs(off))}"


def mark(off: float, tolerance: float) -> str:
    """A mark that grows with the deviation."""
    times = abs(off) / max(tolerance, 1e-12)
    return "✓" if times <= 1.0 else "▲" if times <= 2.0 else "▲▲" if times <= 5.0 else "▲▲▲"


def hours(value: float) -> str:
    """Hours of charging, as far as they were followed."""
    return f"{value:.1f} h" if isfinite(value) else say("more than {longest_h:g} h", longest_h=LONGEST_H)


def to(row: ReadingRow) -> str:
    """Where the other probe goes."""
    p = row.expected.point
    return {"volts": p.b, "joint": say("joint {b}", b=p.b)}.get(p.quantity, "")


def ohms(row: ReadingRow) -> str:
    """Resistance by volts and amperes, where both are known and it is a drop."""
    """Resistance by volts and amperes, where both are known and it is a drop."""
    p = row.expected.point
    if (
        row.read is None
        or p.quantity not in ("volts", "joint")
        or not isfinite(row.amps)
        or abs(row.amps) < 0.1
        or abs(row.read) > 5.0
    ):
        return ""
    milli = 1e3 * abs(row.read / row.amps)
    return f"{milli:.2f} mΩ" if milli < 10.0 else f"{milli:.0f} mΩ"


def chance(d: Diagnosis) -> str:
    """The chi-square test, before and after the likeliest explanation."""
    words = say(
        "Chi-square {chi_square:.0f} of {readings} readings; chance gives as much in {of_100} of 100 sound systems",
        chi_square=d.chi_square,
        readings=d.readings,
        of_100=_of_100(d.p),
    )
    return words + (
        say(", and in {of_100} of 100 once this is taken for true.", of_100=_of_100(d.left_p)) if d.alarm else "."
    )


def _of_100(p: float) -> str:
    return say("less than 0.01") if p < 1e-4 else f"{100 * p:.2g}"
