"""Starts that no scenario shows: what equipment draws when it starts by itself while all else runs."""

from math import isfinite, sqrt
from typing import NamedTuple

from jaunty_copper.network.demand import asked_by
from jaunty_copper.network.state import State
from jaunty_copper.network.study import Study
from jaunty_copper.plan.model import Load, Scenario
from jaunty_copper.protection.faults import Faults


class LoneSurge(NamedTuple):
    """A load that starts in no scenario, in one in which it runs.

    Attributes
    ----------
    load, state : Load, State
        What starts, and with what else on.
    runs_a, starts_a : float
        What it draws there when it runs, and when it starts, A.
    """

    load: Load
    state: State
    runs_a: float
    starts_a: float


def lone_surges(study: Study, faults: Faults) -> dict[str, list[LoneSurge]]:
    """Loads with a surge that start in no scenario, by their plus terminals, in each scenario in which they run and nothing else starts.

    Parameters
    ----------
    study : Study
        Of the plan.
    faults : Faults
        For the resistance from which each is fed.
    """
    shown = {id_ for s in study.states for id_, what in s.scenario.states.items() if what == "surge"}
    rail = study.wiring.rail_of
    banks = {(rail(b.takeoffs["plus"][0]), rail(b.takeoffs["minus"][0])) for b in study.wiring.banks}
    found: dict[str, list[LoneSurge]] = {}
    for e in study.wiring.loads:
        if e.id in shown or e.port[0] not in faults.at:
            continue
        k = faults.at[e.port[0]]
        most = abs(float(faults.peak.current_a[k]))
        on_bank = (rail(e.port[0]), rail(e.port[1])) in banks
        for state in study.states:
            if not state.solved or state.momentary:
                continue
            volts, runs = state.port(e)
            if volts > 0.0 and runs > 0.0:
                # No more than a short there: behind a converter that is its limit.
                # As warm and as old as may be: the deeper the voltage falls, the more a constant power draws. A converter
                # holds its voltage up to its limit, and only copper gives way behind it.
                ohm = (
                    float(faults.least.ohm[faults.far[e.port[0]]])
                    if on_bank
                    else max(study.drop_v(e, state), 0.0) / runs
                )
                starts = min(_starting_a(e, state, volts, runs, ohm if isfinite(ohm) else 0.0), max(most, runs))
                if starts > runs * (1.0 + 1e-6):
                    found.setdefault(e.port[0], []).append(LoneSurge(e, state, runs, starts))
    return found


def _starting_a(e: Load, state: State, volts: float, runs: float, ohm: float) -> float:
    """What a load draws when it starts behind a resistance, A: the upper root of v = v1 - R (P / v + I + G v)."""
    watts, current, siemens = asked_by(e, Scenario(id=state.scenario.id, states={e.id: "surge"}))
    before = volts + ohm * runs - ohm * current
    times = 1.0 + ohm * siemens
    # Where so much cannot be delivered, the most that can.
    v = (before + sqrt(max(before**2 - 4.0 * times * ohm * watts, 0.0))) / (2.0 * times)
    return watts / v + current + siemens * v if v > 0.0 else (volts + ohm * runs) / max(ohm, 1e-9)
