"""Which mode each source regulates in: what it would rather do, and which converters have too little to run on."""

import numpy as np

from jaunty_copper.physics.circuit import Flags, Ints, Mode
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.setting import Setting

# Plain numbers: NumPy is slow to compare an array with a member of an enumeration.
OFF, VOLTAGE, CURRENT, POWER = (int(m) for m in Mode)


def first(s: Setting) -> Ints:
    """Where to begin: beside a battery a source gives all its current, alone it holds its voltage.

    Parameters
    ----------
    s : Setting
        What the topology of the duty decides.
    """
    below = s.sense_base < s.duty.source_v
    alone = np.where(s.beside_battery, np.where(below, CURRENT, OFF), VOLTAGE)
    return np.where(s.source_live, alone, OFF)


def feed_volts(s: Setting, v: Floats) -> Floats:
    """Voltage at the input of each converter, V; nan for other sources.

    Parameters
    ----------
    v : ndarray, shape (nodes,)
        Voltage of each node.
    """
    c = s.circuit
    fed = c.feed_plus >= 0
    return np.where(fed, v[np.maximum(c.feed_plus, 0)] - v[np.maximum(c.feed_minus, 0)], np.nan)


def starved(s: Setting, feed_v: Floats) -> Flags:
    """Converters that run with too little at their input.

    Parameters
    ----------
    s : Setting
        For the least that each converter runs on.
    feed_v : ndarray, shape (sources,)
        Voltage at each input, V; nan where there is none.
    """
    return s.source_live & (feed_v < s.duty.feed_min_v)


def sinking(s: Setting, feed_v: Floats) -> Flags:
    """After a failure, the converters whose input was giving way.

    Parameters
    ----------
    s : Setting
        For the voltages while nothing flows.
    feed_v : ndarray, shape (sources,)
        Voltage at each input where the solution was lost, V.
    """
    unloaded = feed_volts(s, s.base)
    return s.source_live & ~np.isnan(unloaded) & ~(feed_v > 0.5 * unloaded)


def wanted(s: Setting, v: Floats, source_a: Floats, mode: Ints) -> tuple[Ints, Floats]:
    """The mode each source would rather be in, and how far it is from content (A or V).

    Parameters
    ----------
    v : ndarray, shape (nodes,)
        Voltage of each node.
    source_a, mode : ndarray, shape (sources,)
        What each gives, A, and the `Mode` it is in.
    """
    c, d, i = s.circuit, s.duty, source_a
    sensed = v[c.sense_plus] - v[c.sense_minus]
    own = v[c.source_plus] - v[c.source_minus]
    by_power = d.source_w / np.maximum(own, 1e-3)
    limit = np.minimum(d.source_a, by_power)
    limiting = np.where(by_power < d.source_a, POWER, CURRENT)
    tiny = 1e-9 * np.maximum(1.0, np.abs(d.source_a))
    held, idle = mode == VOLTAGE, mode == OFF
    rather, urgency = mode.copy(), np.zeros(i.size)
    over, under = held & (i > limit + tiny), held & (i < -tiny)
    rather[over] = limiting[over]
    rather[under] = OFF
    high = ~held & ~idle & (sensed > d.source_v + 1e-9)
    low = idle & s.source_live & (sensed < d.source_v - 1e-9)
    rather[high | low] = VOLTAGE
    crossed = (mode == CURRENT) & (i > by_power + tiny) & ~high
    rather[crossed] = POWER
    back = (mode == POWER) & (i > d.source_a + tiny) & ~high
    rather[back] = CURRENT
    urgency[over] = (i - limit)[over]
    urgency[under] = -i[under]
    gap = np.abs(sensed - d.source_v)
    urgency[high | low] = gap[high | low]
    urgency[crossed | back] = 1e-3
    return rather, urgency
