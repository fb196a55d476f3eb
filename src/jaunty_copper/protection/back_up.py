"""Back-up protection: a fuse nearer to the source that lets less through than the next one can interrupt.

Fuses that melt while a short circuit still rises keep it from ever reaching its prospective value (cut-off current,
IEC 60269-1). Another fuse behind one never has more to interrupt.
"""

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from jaunty_copper.physics.curves import melted
from jaunty_copper.physics.fault_course import NOTHING_A
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.faults import Faults

LEAST_RISE = 0.5
"""Of the time constant that is computed: where wires lie closer the current rises sooner; representative."""
STEPS = 400


class BackUp(NamedTuple):
    """What stands before a device that could not interrupt what is prospective.

    Attributes
    ----------
    by : str
        Id of the fuse that limits the current.
    opens_s : float
        When it has melted, at the latest.
    let_through_a : float
        The most that then flows through the device behind it, at any time.
    """

    by: str
    opens_s: float
    let_through_a: float


def back_up(faults: Faults, id_: str, limiters: Mapping[str, Device]) -> BackUp | None:
    """What limits the current through a device in every fault, by the fuse that limits it best.

    Parameters
    ----------
    faults : Faults
        Of the plan.
    id_ : str
        Of a device.
    limiters : mapping
        Fuses that interrupt what is prospective at their own place, by id.

    Returns
    -------
    BackUp or None
        For the fault in which most is let through; None where in one of them nothing limits it.
    """
    k = faults.row[id_]
    worst: BackUp | None = None
    for column, amps in faults.prospective_in(id_):
        own = faults.peak.branch_a.at(k, column)
        if abs(own) < NOTHING_A:
            continue
        linked = amps / abs(own)
        # With less resistance in the loop, the same inductance lets the current rise for longer.
        rise_s = LEAST_RISE * float(faults.rise_s[column]) * linked
        found = []
        for other, device in limiters.items():
            before = abs(faults.peak.branch_a.at(faults.row[other], column))
            if other == id_ or before < NOTHING_A:
                continue
            opens_s, cut_off_a = cut_off(device, linked * before, rise_s)
            # Both rise alike, so that the device behind has come as far; what flows past an open fuse comes on top. That
            # is all of it where the fuse stands beside the device, in another string, and limits nothing.
            past = abs(faults.without(other).branch_a.at(k, column))
            let_a = linked * (abs(own) * cut_off_a / (linked * before) + past)
            found.append(BackUp(other, opens_s, min(let_a, amps)))
        best = min(found, key=lambda b: b.let_through_a, default=None)
        if best is None:
            return None
        worst = best if worst is None or best.let_through_a > worst.let_through_a else worst
    return worst


def cut_off(device: Device, prospective_a: float, rise_s: float) -> tuple[float, float]:
    """When a fuse has melted on a rising current, at the latest, s, and the current then, A.

    Parameters
    ----------
    device : Device
        The fuse.
    prospective_a : float
        What the current rises to, as 1 - exp(-t / rise_s).
    rise_s : float
        Time constant of its rise; 0 where it is there at once.

    Notes
    -----
    As soon as a fuse has melted its arc's voltage, higher than the source's, lets the current fall: it is then at its
    highest (cut-off current, IEC 60269-1 2.3.7).
    """
    constant_s = float(device.longest(np.array(prospective_a)))
    if not np.isfinite(constant_s):
        return np.inf, prospective_a
    times = np.geomspace(1e-3 * min(constant_s, rise_s or constant_s), 3.0 * (constant_s + 3.0 * rise_s), STEPS)
    share = -np.expm1(-times / rise_s) if rise_s > 0.0 else np.ones(times.size)
    done = melted(device.band, prospective_a * share / device.slow_a, times, certainly=True)
    at = int(np.argmax(done >= 1.0)) if done[-1] >= 1.0 else -1
    return float(times[at]), float(prospective_a * share[at])
