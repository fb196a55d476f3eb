"""How near devices come to opening while nothing is wrong."""

from typing import NamedTuple

from jaunty_copper.codes.carried import normal
from jaunty_copper.codes.case import Case
from jaunty_copper.network.state import State
from jaunty_copper.protection.devices import Device


class Nearness(NamedTuple):
    """How near a device comes to opening while nothing is wrong.

    Attributes
    ----------
    carries_a, state : float, State
        Most that it carries for good, A, and where.
    worth_a : float
        What its rating is worth in the hottest air around it, A.
    """

    device: Device
    carries_a: float
    state: State
    worth_a: float

    @property
    def share(self) -> float:
        """Of what it is worth, what it carries."""
        return self.carries_a / self.worth_a


def nearest_first(case: Case) -> list[Nearness]:
    """All devices of a plan, those first that carry most of what they are worth.

    Parameters
    ----------
    case : Case
        The studied plan under its code.
    """
    found = []
    for id_, device in case.protection.devices.items():
        most = case.once(normal, id_)
        found.append(Nearness(device, most.amps, most.state, device.fast_a))
    return sorted(found, key=lambda n: -n.share)
