"""Starts that a protective device must let pass."""

from typing import NamedTuple

from jaunty_copper.network.state import State
from jaunty_copper.plan.model import Load
from jaunty_copper.protection.protection import Protection

SHORTEST_SURGE_S = 0.1
"""A surge that is given without its length lasts at least so long."""


class Start(NamedTuple):
    """Something that a device feeds, alone or with others beside it, and that starts in a scenario.

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
    shares = protection.faults.shares(device)
    fed = [(e, abs(shares[e.port[0]])) for e in protection.study.wiring.loads if e.port[0] in shares]
    branch, found = protection.devices[device].branch, []
    for state in protection.study.states:
        starting = [(e, share) for e, share in fed if state.scenario.states.get(e.id) == "surge"]
        if starting and state.solved:
            amps = abs(float(state.point.current_a[branch]))
            before = amps * (1.0 - _power_w(state, starting) / max(_power_w(state, fed), 1e-9))
            lasts = max(max(e.surge_s, SHORTEST_SURGE_S) for e, _ in starting)
            found.append(Start(amps, lasts, max(before, 0.0), state))
    return tuple(found)


def _power_w(state: State, fed: list[tuple[Load, float]]) -> float:
    """What comes to loads through a device that has a share in each, W."""
    return sum(share * volts * amps for share, (volts, amps) in ((share, state.port(e)) for e, share in fed))
