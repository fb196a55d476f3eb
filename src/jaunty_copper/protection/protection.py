"""Faults and protective devices of a plan, each fact computed when it is first asked for."""

from dataclasses import dataclass
from functools import cached_property

from jaunty_copper.network.study import Study
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.protection.devices import Device, devices_of
from jaunty_copper.protection.faults import Faults, faults_of
from jaunty_copper.protection.guard import Guard
from jaunty_copper.protection.selectivity import Pair, pairs_of
from jaunty_copper.protection.sequences import Sequence, at_ends, at_terminal
from jaunty_copper.protection.surges import LoneSurge, lone_surges
from jaunty_copper.protection.withstand import Withstand, withstand_of


@dataclass(frozen=True)
class Protection:
    """What a short circuit does to a studied plan, and what stands against it."""

    study: Study

    @property
    def wiring(self) -> Wiring:
        """The network that was studied."""
        return self.study.wiring

    @cached_property
    def guard(self) -> Guard:
        """Which device guards which conductor."""
        return Guard(self.wiring)

    @cached_property
    def faults(self) -> Faults:
        """Short-circuit currents everywhere."""
        return faults_of(self.wiring)

    @cached_property
    def devices(self) -> dict[str, Device]:
        """Fuses and breakers with their curves, by id."""
        return devices_of(self.wiring, self.study.hottest_ambient_c, self.study.coolest_ambient_c)

    @cached_property
    def lone_surges(self) -> dict[str, list[LoneSurge]]:
        """Starts that no scenario shows, by the plus terminal of what starts."""
        return lone_surges(self.study, self.faults)

    @cached_property
    def withstand(self) -> Withstand:
        """What each conductor withstands, for how long."""
        return withstand_of(self.wiring, self.study.hottest_ambient_c)

    @cached_property
    def run_faults(self) -> Ints:
        """Conductors, by their rows in `withstand`, each with the faults it is followed in; shape (pairs, 2)."""
        return at_ends(self.faults, self.guard, self.withstand)

    def sequence(self, ref: str) -> Sequence:
        """What becomes of the short circuit from pole to pole at a terminal.

        Raises
        ------
        KeyError
            No fault is looked at there.
        """
        if ref not in self._sequences:
            self._sequences[ref] = at_terminal(self.faults, self.devices, ref)
        return self._sequences[ref]

    @cached_property
    def _sequences(self) -> dict[str, Sequence]:
        return {}

    @cached_property
    def pairs(self) -> tuple[Pair, ...]:
        """Every two devices in series, with their selectivity."""
        return pairs_of(self.faults, self.devices)
