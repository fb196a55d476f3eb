"""How warm conductors are when a scenario has lasted its time, after what went before it."""

import numpy as np

from jaunty_copper.network.state import State
from jaunty_copper.network.study import Study
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.heat import temperature_after
from jaunty_copper.plan.model import Scenario


def ends_at_c(study: Study, state: State) -> Floats:
    """Temperature of each heated conductor at the end of a scenario, C.

    One that says no time has lasted for good. One that comes after another begins as warm as that ended; what goes in
    circles, or has no operating point, begins at the air.

    Parameters
    ----------
    study : Study
        With both scenarios.
    state : State
        Of the scenario.

    Returns
    -------
    ndarray, shape (heated,)
    """
    return _ends_at_c(study, state, frozenset())


def begins_at_c(study: Study, state: State) -> Floats:
    """Temperature of each heated conductor when a scenario begins, C: as `ends_at_c` of the one before it.

    Parameters
    ----------
    study : Study
        With both scenarios.
    state : State
        Of the scenario.
    """
    return _begins_at_c(study, state, frozenset())


def comes_again(study: Study, scenario: Scenario) -> bool:
    """Whether a scenario comes after itself, be it by way of others: how warm it begins is not followed then.

    Parameters
    ----------
    study : Study
        With all of them.
    scenario : Scenario
        One of its plan.
    """
    by_id = {s.scenario.id: s.scenario for s in study.states}
    seen, before = {scenario.id}, scenario.after
    while before in by_id and before not in seen:
        seen.add(before)
        before = by_id[before].after
    return before in seen


def _begins_at_c(study: Study, state: State, seen: frozenset[str]) -> Floats:
    before = next((s for s in study.states if s.scenario.id == state.scenario.after), None)
    if before is None or not before.solved or before.scenario.id in seen | {state.scenario.id}:
        return _air(state)
    return _ends_at_c(study, before, seen | {state.scenario.id})


def _ends_at_c(study: Study, state: State, seen: frozenset[str]) -> Floats:
    c = state.wiring.circuit
    if state.scenario.minutes is None or not c.heated.size:
        return np.asarray(state.point.temperature_c[c.heated])
    begins, amps = _begins_at_c(study, state, seen), state.point.current_a[c.heated]
    return temperature_after(c.cable, amps, _air(state), 60.0 * state.scenario.minutes, begins)


def _air(state: State) -> Floats:
    plan = state.wiring.plan
    return np.array([state.scenario.air_c(plan.zone_of(r.zone)) for r in state.wiring.heated_runs], dtype=float)
