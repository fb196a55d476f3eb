"""A DC circuit as arrays, what a scenario asks of it, and what it then does."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from jaunty_copper.physics import graph
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.heat import Cable

Flags = NDArray[np.bool_]
Ints = NDArray[np.int64]


class Mode(IntEnum):
    """What a source regulates at its operating point."""

    OFF = 0
    VOLTAGE = 1
    CURRENT = 2
    POWER = 3


@dataclass(frozen=True)
class Circuit:
    """Topology and resistances; nothing that a scenario changes.

    Attributes
    ----------
    nodes : int
        Number of nodes.
    a, b : ndarray of int
        Ends of each branch; its current counts from a to b.
    is_battery : ndarray of bool
        Branches with an EMF that drives current from a (minus) to b (plus).
    fixed_ohm, copper_ohm : ndarray
        Resistance of each branch that does not follow temperature, and at 20 C the part
        that does.
    heated : ndarray of int
        Branches whose copper warms by its own current, in the order of `cable`.
    cable : Cable
        Their sections and insulation.
    load_plus, load_minus : ndarray of int
        Port of each load.
    source_plus, source_minus, sense_plus, sense_minus : ndarray of int
        Port of each source and where it senses the voltage it regulates.
    feed_plus, feed_minus : ndarray of int
        Where a converter draws its power; -1 for a source with energy of its own.
    efficiency : ndarray
        Output over input power of each converter.
    grounds : tuple of int
        Nodes to call 0 V where their part of the circuit has one, in order of preference.
    """

    nodes: int
    a: Ints
    b: Ints
    is_battery: Flags
    fixed_ohm: Floats
    copper_ohm: Floats
    heated: Ints
    cable: Cable
    load_plus: Ints
    load_minus: Ints
    source_plus: Ints
    source_minus: Ints
    sense_plus: Ints
    sense_minus: Ints
    feed_plus: Ints
    feed_minus: Ints
    efficiency: Floats
    grounds: tuple[int, ...]

    def cable_of(self, branch: int) -> Cable | None:
        """The one conductor that a branch is; None where its copper does not warm.

        Parameters
        ----------
        branch : int
            Number of the branch.
        """
        at = np.flatnonzero(self.heated == branch)
        c = self.cable
        return Cable(c.r20_ohm_per_m[at], c.area_mm2[at], c.outer_mm[at]) if at.size else None

    def rails(self, closed: Flags) -> Ints:
        """What hangs together without a battery between: the number of each node's rail.

        Parameters
        ----------
        closed : ndarray of bool, shape (branches,)
            Branches that conduct.

        Returns
        -------
        ndarray of int, shape (nodes,)
            From 0 in order of first appearance.
        """
        wire = closed & ~self.is_battery
        return _rails(self.nodes, self.a[wire].tobytes(), self.b[wire].tobytes())


@lru_cache(maxsize=32)
def _rails(nodes: int, a: bytes, b: bytes) -> Ints:
    """Remembered: scenarios differ in their loads more often than in their switches, and edits in lengths more often than in ends."""
    first, second = (np.frombuffer(x, dtype=np.int64).tolist() for x in (a, b))
    found = np.array(graph.components(nodes, first, second), dtype=np.int64)
    found.setflags(write=False)
    return found


@dataclass(frozen=True)
class Duty:
    """What one scenario asks: switches, charge, ambient, loads, sources.

    Attributes
    ----------
    closed : ndarray of bool
        Branches that conduct.
    emf_v, ambient_c : ndarray
        EMF (0 but for batteries) and air temperature of each branch.
    load_w, load_a, load_s : ndarray
        Constant power, current and conductance of each load; they add up.
    source_on : ndarray of bool
        Sources that run.
    source_v, source_a, source_w : ndarray
        Voltage set point, current limit and power limit (inf for none) of each source.
    feed_min_v, standby_w : ndarray
        Input voltage below which a converter stops, and what it draws of its own.
    held_c : ndarray or None
        Temperature of each heated branch where it is given: for what lasts too short to warm
        a conductor. None lets each take the steady temperature of its current.
    extra_ohm : ndarray or float
        What adds to the fixed resistance of each branch: a battery's when it is nearly empty.
    """

    closed: Flags
    emf_v: Floats
    ambient_c: Floats
    load_w: Floats
    load_a: Floats
    load_s: Floats
    source_on: Flags
    source_v: Floats
    source_a: Floats
    source_w: Floats
    feed_min_v: Floats
    standby_w: Floats
    held_c: Floats | None = None
    extra_ohm: Floats | float = 0.0


@dataclass(frozen=True)
class Collapse:
    """Why there is no operating point.

    Attributes
    ----------
    load : int
        The load whose voltage gives way (an index past the loads names a converter's input).
    asked_w, deliverable_w : float
        Power it asks, and the most it could be given with everything else as it is
        (with everything scaled down alike, where `jointly`).
    branch : int
        Branch with the greatest drop at that limit.
    jointly : bool
        The others alone are already too much.
    """

    load: int
    asked_w: float
    deliverable_w: float
    branch: int
    jointly: bool


@dataclass(frozen=True)
class Response:
    """Small changes of an operating point per volt of EMF.

    Attributes
    ----------
    cells : ndarray of int, shape (u,)
        Battery branches, in the circuit's order; the columns below follow it.
    current_s : ndarray, shape (u, u)
        Change of each battery's current, A/V.
    volts : ndarray, shape (nodes, u)
        Change of each node's voltage, V/V.
    source_s : ndarray, shape (sources, u)
        Change of each source's current, A/V.
    """

    cells: Ints
    current_s: Floats
    volts: Floats
    source_s: Floats


@dataclass(frozen=True)
class Sensitivity:
    """Small changes of an operating point, conductors warming with their current.

    The columns are, in this order: an ohm more in each branch, a share more of each load, a share more of what
    each source holds (its voltage, its current or its power), a share more of every EMF alike; or some of these.

    Attributes
    ----------
    volts : ndarray, shape (nodes, branches + loads + sources + 1)
        Change of each node's voltage.
    current : ndarray, shape (branches, branches + loads + sources + 1)
        Change of each branch's current.
    """

    volts: Floats
    current: Floats


@dataclass(frozen=True)
class OperatingPoint:
    """The solved state. Arrays follow the circuit's order; nan where there is none.

    Attributes
    ----------
    volts : ndarray
        Node voltages against the ground of their part.
    live : ndarray of bool
        Nodes in a part of the circuit with a source.
    pins : ndarray of int
        The node that is 0 V in each part.
    current_a, drop_v, ohm, temperature_c : ndarray
        Of each branch, current and drop counted from a to b.
    load_v, load_a : ndarray
        Of each load.
    source_v, source_a, feed_v, feed_a : ndarray
        Of each source, at its own terminals and at its input.
    mode : ndarray of int
        `Mode` of each source.
    starved_v : ndarray
        Input voltage at which a converter had to stop; nan where none did.
    unfed, reversed_, no_return : ndarray of bool
        Loads with no voltage, with voltage the wrong way round, and with both poles live
        but in parts that share no return.
    torn : tuple of int
        Battery branches that close a loop whose EMFs do not add up to zero.
    residual : float
        Largest violation of Kirchhoff's current law over the largest current.
    iterations, factorisations : int
        What it took.
    limit : callable or None
        Finds what gives way, where there is no operating point.
    """

    volts: Floats
    live: Flags
    pins: Ints
    current_a: Floats
    drop_v: Floats
    ohm: Floats
    temperature_c: Floats
    load_v: Floats
    load_a: Floats
    source_v: Floats
    source_a: Floats
    feed_v: Floats
    feed_a: Floats
    mode: Ints
    starved_v: Floats
    unfed: Flags
    reversed_: Flags
    no_return: Flags
    torn: tuple[int, ...]
    residual: float
    iterations: int
    factorisations: int
    limit: Callable[[], Collapse] | None = None

    @property
    def solved(self) -> bool:
        """Whether there is an operating point at all."""
        return self.limit is None

    @cached_property
    def collapse(self) -> Collapse | None:
        """What gives way where there is none."""
        return self.limit() if self.limit is not None else None
