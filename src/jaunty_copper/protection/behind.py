"""What lies behind each device: the faults whose whole current it carries."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jaunty_copper.physics.circuit import Flags, Ints


@dataclass(frozen=True)
class Behind:
    """Pairs of a device and a fault behind it: as a table they would grow with the square of a plan.

    Attributes
    ----------
    shape : (int, int)
        Devices, faults.
    device, fault : ndarray of int, shape (pairs,)
        Numbers of both, ascending by device and then by fault.
    """

    shape: tuple[int, int]
    device: Ints
    fault: Ints

    @cached_property
    def _begins(self) -> Ints:
        return np.searchsorted(self.device, np.arange(self.shape[0] + 1))

    @cached_property
    def count(self) -> Ints:
        """How many faults lie behind each device, shape (devices,)."""
        return np.diff(self._begins)

    def faults_of(self, device: int) -> Ints:
        """Numbers of the faults behind a device, ascending.

        Parameters
        ----------
        device : int
            Number of a device.
        """
        begin, end = self._begins[device : device + 2].tolist()
        return self.fault[begin:end]

    def devices_of(self, fault: int) -> Ints:
        """Numbers of the devices that a fault lies behind, ascending.

        Parameters
        ----------
        fault : int
            Number of a fault.
        """
        return np.asarray(self.device[self.fault == fault])

    def among(self, faults: Ints) -> Flags:
        """Whether each of some faults lies behind each device, shape (devices, n).

        Parameters
        ----------
        faults : ndarray of int, shape (n,)
            Numbers of faults.
        """
        found = np.zeros((self.shape[0], faults.size), dtype=bool)
        order = np.argsort(faults, kind="stable")
        ranked = faults[order]
        first, last = np.searchsorted(ranked, self.fault), np.searchsorted(ranked, self.fault, side="right")
        for k in range(int((last - first).max(initial=0))):
            on = first + k < last
            found[self.device[on], order[first[on] + k]] = True
        return found
