"""Figures as findings say them."""

from jaunty_copper.parts.figures import quantity, short


def amps(value: float) -> str:
    """Amperes to three figures."""
    return quantity(value, "A")


def metres(value: float) -> str:
    """Metres to the centimetre."""
    return f"{value:.2f} m"


def volts(value: float) -> str:
    """Volts to two decimals."""
    return f"{value:.2f} V"


def percent(value: float) -> str:
    """Per cent to one decimal."""
    return f"{value:.1f} %"


def energy(value: float) -> str:
    """Let-through energy to three figures."""
    return quantity(value, "A²s")


def duration(seconds: float) -> str:
    """A time in the unit that suits it."""
    for size, unit in ((3600.0, "h"), (60.0, "min"), (1.0, "s")):
        if seconds >= size * (2.0 if unit == "min" else 1.0):
            return f"{short(seconds / size)} {unit}"
    return f"{short(1000.0 * seconds)} ms"
