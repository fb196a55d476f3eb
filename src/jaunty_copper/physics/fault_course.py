"""What a fault in time is given, and what comes of it."""

from dataclasses import dataclass

from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import Band

NOTHING_A = 1e-3
"""A current that no longer matters: below are the remains of arithmetic."""
SAME = 1e-6
"""Devices this near to opening when another opens do so with it."""
HOTTEST_C = 1084.0
"""Copper melts; what burns through is not followed any further."""


class Overtaken(Exception):
    """Whoever asked for a course asked for something else since."""


class Unsolved(RuntimeError):
    """The equations could not be solved to the accuracy asked for."""


@dataclass(frozen=True)
class Network:
    """A network at the moment of a fault: one array entry for each branch, from a to b.

    Attributes
    ----------
    nodes : int
        Number of nodes.
    a, b : ndarray of int
        Ends; the last branch is the fault itself, which begins to conduct at time 0.
    fixed_ohm, copper_ohm : ndarray
        Resistance that stays, and at 20 C the part that follows the copper's temperature.
    henry : ndarray
        Inductance; every loop must have some.
    emf_v, late_emf_v : ndarray
        EMF, driving from a to b, in the first moment and long after.
    late_ohm : ndarray
        What the fixed resistance gains by then.
    decay_s : float
        Time constant of that change.
    per_farad : ndarray
        One over the capacitance in series; 0 where there is none.
    area_mm2, start_c, ambient_c, loss_per_s : ndarray
        Of the copper: section, inf where it does not warm, temperatures, and the share of its
        rise that it loses each second.
    """

    nodes: int
    a: Ints
    b: Ints
    fixed_ohm: Floats
    copper_ohm: Floats
    henry: Floats
    emf_v: Floats
    late_emf_v: Floats
    late_ohm: Floats
    decay_s: float
    per_farad: Floats
    area_mm2: Floats
    start_c: Floats
    ambient_c: Floats
    loss_per_s: Floats


@dataclass(frozen=True)
class Devices:
    """What may open: one entry for each device.

    Attributes
    ----------
    branch : ndarray of int
        Where it sits.
    rating_a : ndarray
        At its ambient.
    bands : tuple of Band
        How it opens.
    certainly : bool
        By the slow edge of the bands; else by the fast one.
    arc_v : float
        Voltage with which an opening device drives its current to zero.
    """

    branch: Ints
    rating_a: Floats
    bands: tuple[Band, ...]
    certainly: bool
    arc_v: float


@dataclass(frozen=True)
class FaultEvent:
    """A device that melts (or unlatches), or whose current has come to zero."""

    time_s: float
    device: int
    cleared: bool
    current_a: float


@dataclass(frozen=True)
class FaultCourse:
    """What happened.

    Attributes
    ----------
    times_s : ndarray, shape (t,)
        From 0, close together where things change fast; a time that an event splits comes twice.
    current_a : ndarray, shape (t, branches)
        Through each branch.
    conductor_c : ndarray, shape (t, branches)
        Temperature of each branch's copper.
    melted : ndarray, shape (t, devices)
        How far each device is towards opening, 1 where it opens.
    events : tuple of Event
        In order of time.
    burnt : tuple of int
        Branches whose copper came to its melting point; nothing is followed beyond that.
    """

    times_s: Floats
    current_a: Floats
    conductor_c: Floats
    melted: Floats
    events: tuple[FaultEvent, ...]
    burnt: tuple[int, ...]
