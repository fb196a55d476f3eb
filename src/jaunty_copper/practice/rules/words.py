"""Figures as findings say them."""


def amps(value: float) -> str:
    """Amperes to three figures."""
    return f"{value:.3g} A" if value < 1000 else f"{value:.0f} A"


def metres(value: float) -> str:
    """Metres to the centimetre."""
    return f"{value:.2f} m"


def volts(value: float) -> str:
    """Volts to two decimals."""
    return f"{value:.2f} V"


def percent(value: float) -> str:
    """Per cent to one decimal."""
    return f"{value:.1f} %"


def kiloamps(value: float) -> str:
    """Fault currents to three figures."""
    return f"{value / 1000.0:.3g} kA" if value >= 1000.0 else amps(value)


def energy(value: float) -> str:
    """Let-through energy to three figures."""
    return (
        f"{value / 1e6:.3g} MA²s" if value >= 1e6 else f"{value / 1e3:.3g} kA²s" if value >= 1e3 else f"{value:.3g} A²s"
    )


def duration(seconds: float) -> str:
    """A time in the unit that suits it."""
    for size, unit in ((3600.0, "h"), (60.0, "min"), (1.0, "s")):
        if seconds >= size * (2.0 if unit == "min" else 1.0):
            return f"{seconds / size:.3g} {unit}"
    return f"{1000.0 * seconds:.3g} ms"
