"""Battery units as a course over hours takes them: what they hold, meet when charged, and what opens them."""

from dataclasses import dataclass

import numpy as np

from jaunty_copper.physics.battery import acceptance_ohm
from jaunty_copper.physics.circuit import Flags
from jaunty_copper.physics.copper import Floats

EMPTY_BELOW = 30.0
"""Charge, %, below which resistance rises."""


@dataclass(frozen=True)
class Acceptance:
    """What charging meets in each unit.

    Attributes
    ----------
    ohm : ndarray, shape (u,)
        Besides its resistance when empty; divided by what is still missing.
    end : ndarray, shape (u,)
        Share of the charge at which that stops growing.
    efficiency : ndarray, shape (u,)
        Of what goes in, what stays.
    tail_a : ndarray, shape (u,)
        Current at held voltage below which a unit counts as full, A; 0 where only its charge says so.
    """

    ohm: Floats
    end: Floats
    efficiency: Floats
    tail_a: Floats


@dataclass(frozen=True)
class Rate:
    """How much less a unit gives the faster it is discharged.

    Attributes
    ----------
    exponent : ndarray, shape (u,)
        Peukert's; 1 where the rate is of no effect.
    rated_a : ndarray, shape (u,)
        Current at which it holds what it is sold for; below it nothing is gained.

    References
    ----------
    W. Peukert, Elektrotechnische Zeitschrift 20 (1897) 287: I^k t is the same at every current.
    """

    exponent: Floats
    rated_a: Floats


@dataclass(frozen=True)
class Management:
    """What opens units by themselves; inf where nothing does.

    Attributes
    ----------
    out_a, in_a : ndarray, shape (u,)
        Discharge and charge current above which each opens.
    when_empty : ndarray of bool, shape (u,)
        Whether it opens at its stop voltage, rather than that the course ends.
    no_charge : ndarray of bool, shape (u,)
        Whether it lets nothing in, as one that is too cold: it gives all the same.
    """

    out_a: Floats
    in_a: Floats
    when_empty: Flags
    no_charge: Flags


@dataclass(frozen=True)
class CellUnits:
    """The batteries of a circuit, in the order of their branches.

    Attributes
    ----------
    capacity_ah : ndarray, shape (u,)
        What each holds.
    ocv_v : ndarray, shape (u, 11)
        Open-circuit voltage of each at 0, 10 ... 100 % charge.
    ohm, empty_factor : ndarray, shape (u,)
        Resistance above 30 % charge, and how many times that it is when empty.
    soc_percent : ndarray, shape (u,)
        Charge to begin with.
    stop_v : ndarray, shape (u,)
        Voltage at its terminals below which a unit is empty.
    acceptance : Acceptance, optional
        None where what goes in meets what comes out does, and all of it stays.
    management : Management, optional
        None where no unit has a management system.
    rate : Rate, optional
        None where the rate is of no effect.
    """

    capacity_ah: Floats
    ocv_v: Floats
    ohm: Floats
    empty_factor: Floats
    soc_percent: Floats
    stop_v: Floats
    acceptance: Acceptance | None = None
    management: Management | None = None
    rate: Rate | None = None

    @property
    def no_charge(self) -> Flags:
        """Which of them let nothing in."""
        return np.zeros(self.ohm.size, dtype=bool) if self.management is None else self.management.no_charge

    def emf(self, soc: Floats) -> tuple[Floats, Floats]:
        """Open-circuit voltages at a charge, V, and their slope, V per %.

        Parameters
        ----------
        soc : ndarray, shape (units,)
            Charge of each unit, %.
        """
        from_soc, low, slope = self.segment(soc)
        return low + slope * (soc - from_soc), slope

    def segment(self, soc: Floats) -> tuple[Floats, Floats, Floats]:
        """The tenth of the curve that each unit is in: where it begins, %, its EMF there, its slope.

        Parameters
        ----------
        soc : ndarray, shape (units,)
            Charge of each unit, %.
        """
        k = np.clip((soc / 10.0).astype(np.int64), 0, 9)
        unit = np.arange(soc.size)
        low = self.ocv_v[unit, k]
        return np.asarray(10.0 * k, dtype=np.float64), low, (self.ocv_v[unit, k + 1] - low) / 10.0

    def extra_ohm(self, soc: Floats, charged: Flags | bool = False) -> Floats:
        """What the resistance at a charge adds to `ohm`: more near empty, and for what is charged more near full.

        Parameters
        ----------
        soc : ndarray, shape (units,)
            Charge of each unit, %.
        charged : ndarray of bool, shape (units,)
            Which of them are charged.
        """
        out = self.ohm * (self.empty_factor - 1.0) * np.clip(1.0 - soc / EMPTY_BELOW, 0.0, 1.0)
        a = self.acceptance
        if a is None:
            return np.asarray(out)
        return np.asarray(out + np.where(charged, acceptance_ohm(soc, a.ohm, a.end), 0.0))

    def kept(self, current: Floats) -> Floats:
        """How much each unit's charge changes for each ampere-hour: less than one where it is charged, more where fast discharged.

        Parameters
        ----------
        current : ndarray, shape (units,)
            Out of each, A; negative where it is charged.
        """
        found: Floats = np.ones(self.ohm.size)
        if self.rate is not None:
            found = np.maximum(current / self.rate.rated_a, 1.0) ** (self.rate.exponent - 1.0)
        return found if self.acceptance is None else np.where(current < 0.0, self.acceptance.efficiency, found)
