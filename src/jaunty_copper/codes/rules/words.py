"""Figures as findings say them."""

from jaunty_copper.parts.figures import quantity, short


def amps(value: float) -> str:
    """Amperes to three figures.

    Parameters
    ----------
    value : float
        A.
    """
    return quantity(value, "A")


def metres(value: float) -> str:
    """Metres to the centimetre.

    Parameters
    ----------
    value : float
        m.
    """
    return f"{value:.2f} m"


def volts(value: float) -> str:
    """Volts to two decimals.

    Parameters
    ----------
    value : float
        V.
    """
    return f"{value:.2f} V"


def percent(value: float) -> str:
    """Per cent to one decimal.

    Parameters
    ----------
    value : float
        Per cent.
    """
    return f"{value:.1f} %"


def energy(value: float) -> str:
    """Let-through energy to three figures.

    Parameters
    ----------
    value : float
        A²s.
    """
    return quantity(value, "A²s")


def duration(seconds: float) -> str:
    """A time in the unit that suits it.

    Parameters
    ----------
    seconds : float
        s.
    """
    for size, unit in ((3600.0, "h"), (60.0, "min"), (1.0, "s")):
        if seconds >= size * (2.0 if unit == "min" else 1.0):
            return f"{short(seconds / size)} {unit}"
    return f"{short(1000.0 * seconds)} ms"
