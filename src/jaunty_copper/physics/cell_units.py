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
class Management:
    """What opens units by themselves; inf where nothing does.

    Attributes
    ----------
    out_a, in_a : ndarray, shape (u,)
        Discharge and charge current above which each opens.
    when_empty : ndarray of bool, shape (u,)
        Whether it opens at its stop voltage, rather than that the course ends.
    """

    out_a: Floats
    in_a: Floats
    when_empty: Flags


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
    """

    capacity_ah: Floats
    ocv_v: Floats
    ohm: Floats
    empty_factor: Floats
    soc_percent: Floats
    stop_v: Floats
    acceptance: Acceptance | None = None
    management: Management | None = None

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

    def kept(self, charged: Flags) -> Floats:
        """Share of each unit's current that changes its charge.

        Parameters
        ----------
        charged : ndarray of bool, shape (units,)
            Which of them are charged.
        """
        a = self.acceptance
        return np.ones(self.ohm.size) if a is None else np.where(charged, a.efficiency, 1.0)
