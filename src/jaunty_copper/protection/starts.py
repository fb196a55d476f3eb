"""Starts that a protective device must let pass."""

from typing import NamedTuple

from jaunty_copper.network.state import State
from jaunty_copper.plan.model import Load
from jaunty_copper.protection.protection import Protection

SHORTEST_SURGE_S = 0.1
"""A surge that is given without its length lasts at least so long."""


class Start(NamedTuple):
    """Something behind a device that starts in a scenario.

    Attributes
    ----------
    current_a : float
        Through the device then.
    lasts_s : float
        As long as the slowest of what starts together.
    before_a : float
        What else runs behind it has warmed it with, A.
    state : State
        The scenario.
    """

    current_a: float
    lasts_s: float
    before_a: float
    state: State


def surge_s(state: State) -> float:
    """How long what starts in a scenario lasts, s; the shortest surge where nothing says.

    Parameters
    ----------
    state : State
        Of a scenario in which something starts.
    """
    starts = [e.surge_s for e in state.wiring.loads if state.scenario.states.get(e.id) == "surge"]
    return max([SHORTEST_SURGE_S, *starts])


def starts_of(protection: Protection, device: str) -> tuple[Start, ...]:
    """Starts behind a device, in the order of the scenarios."""
    loads = [e for e in protection.faults.hangs_on(device) if isinstance(e, Load)]
    branch, found = protection.devices[device].branch, []
    for state in protection.study.states:
        starting = [e for e in loads if state.scenario.states.get(e.id) == "surge"]
        if starting and state.solved:
            amps = abs(float(state.point.current_a[branch]))
            before = amps * (1.0 - _power_w(state, starting) / max(_power_w(state, loads), 1e-9))
            lasts = max(max(e.surge_s, SHORTEST_SURGE_S) for e in starting)
            found.append(Start(amps, lasts, max(before, 0.0), state))
    return tuple(found)


def _power_w(state: State, loads: list[Load]) -> float:
    return sum(volts * amps for volts, amps in map(state.port, loads))
