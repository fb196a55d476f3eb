"""Starts that a protective device must let pass."""

from typing import NamedTuple

from jaunty_copper.language import say
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
    alone : str
        What starts in it though the scenario does not say so; empty where it does.
    """

    current_a: float
    lasts_s: float
    before_a: float
    state: State
    alone: str = ""

    @property
    def title(self) -> str:
        """When it is."""
        scenario = self.state.scenario.title
        return say("{scenario}, while {e} starts", scenario=scenario, e=self.alone) if self.alone else scenario


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
    """Starts behind a device: in the order of the scenarios, and of each load that starts in none the worst by itself."""
    shares = protection.faults.shares(device)
    loads = protection.study.wiring.load_by_port
    fed = [(loads[ref], abs(share)) for ref, share in shares.items() if ref in loads]
    branch, found = protection.devices[device].branch, []
    for state in protection.study.states:
        starting = [(e, share) for e, share in fed if state.scenario.states.get(e.id) == "surge"]
        if starting and state.solved:
            amps = abs(float(state.point.current_a[branch]))
            before = amps * (1.0 - _power_w(state, starting) / max(_power_w(state, fed), 1e-9))
            lasts = max(max(e.surge_s, SHORTEST_SURGE_S) for e, _ in starting)
            found.append(Start(amps, lasts, max(before, 0.0), state))
    alone: dict[str, Start] = {}
    for ref, share in shares.items():
        for s in protection.lone_surges.get(ref, ()):
            now = float(s.state.point.current_a[branch])
            amps, before = abs(now + share * (s.starts_a - s.runs_a)), max(abs(now) - abs(share) * s.runs_a, 0.0)
            start = Start(amps, max(s.load.surge_s, SHORTEST_SURGE_S), before, s.state, s.load.title)
            alone[s.load.id] = max(alone.get(s.load.id, start), start, key=lambda x: x.current_a)
    return (*found, *alone.values())


def _power_w(state: State, fed: list[tuple[Load, float]]) -> float:
    """What comes to loads through a device that has a share in each, W."""
    return sum(share * volts * amps for share, (volts, amps) in ((share, state.port(e)) for e, share in fed))
