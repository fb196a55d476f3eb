"""Figures as the whole window shows them: one choice of units, one number of digits."""

from collections.abc import Callable
from math import isfinite

from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.parts.figures import quantity
from jaunty_copper.parts.models import Conductor

FEET = 3.280839895


def volts(value: float) -> str:
    """Volts to two decimals.

    Parameters
    ----------
    value : float
        V; a dash stands for what is not finite.
    """
    return f"{round(value, 2) + 0.0:.2f} V".replace("-", "−") if isfinite(value) else "–"


def drop(value: float) -> str:
    """A lost voltage: millivolts below one volt.

    Parameters
    ----------
    value : float
        V, of either sign.
    """
    value = abs(value)
    if not isfinite(value):
        return "–"
    return f"{1e3 * value:.0f} mV" if value < 1.0 else f"{value:.2f} V"


def amps(value: float) -> str:
    """A current to three figures, without sign.

    Parameters
    ----------
    value : float
        A.
    """
    return quantity(abs(value), "A") if isfinite(value) else "–"


def percent(share: float) -> str:
    """A share as per cent.

    Parameters
    ----------
    share : float
        1 for all of it.
    """
    return f"{100 * share:.0f} %" if isfinite(share) else "–"


def celsius(value: float) -> str:
    """A temperature.

    Parameters
    ----------
    value : float
        Degrees Celsius.
    """
    return f"{value:.0f} °C".replace("-", "−") if isfinite(value) else "–"


def between(band: tuple[float, float], spell: Callable[[float], str]) -> str:
    """Two figures as one says them: the unit once where it is the same.

    Parameters
    ----------
    band : tuple of float
        Low and high.
    spell : callable
        A figure in words, with its unit.
    """
    low, high = (spell(x) for x in band)
    (first, unit), (_, other) = (x.rpartition(" ")[::2] for x in (low, high))
    return high if low == high else f"{first} … {high}" if unit == other and first else f"{low} … {high}"


class Units:
    """Metric or AWG, for the whole window."""

    def __init__(self, awg: bool = False) -> None:
        self.awg = awg

    def length(self, metres: float) -> str:
        """A conductor's length.

        Parameters
        ----------
        metres : float
            m.
        """
        return f"{metres * FEET:.1f} ft" if self.awg else f"{metres:.2f} m" if metres < 1 else f"{metres:.1f} m"

    def size(self, conductor: Conductor, parts: Catalogue) -> str:
        """A conductor's size: its own name, or the nearest gauge not thicker than it."""
        if not self.awg:
            return (
                conductor.label
                if conductor.system == "metric"
                else say("{conductor} ({area_mm2:.3g} mm²)", conductor=conductor.label, area_mm2=conductor.area_mm2)
            )
        if conductor.system != "metric":
            return conductor.label
        gauges = [g for g in parts.sizes("awg") if g.area_mm2 <= conductor.area_mm2 * 1.001]
        return f"≥ {gauges[-1].label}" if gauges else f"< {parts.sizes('awg')[0].label}"
