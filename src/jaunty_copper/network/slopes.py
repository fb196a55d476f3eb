"""How an operating point answers to small changes."""

from dataclasses import replace

from jaunty_copper.network.demand import duty_of
from jaunty_copper.network.study import State
from jaunty_copper.physics.circuit import Sensitivity
from jaunty_copper.physics.operating_point import Solver


def sensitivity_of(state: State) -> Sensitivity:
    """How a solved state answers to an ohm more anywhere, to more of a load, to another charge.

    Parameters
    ----------
    state : State
        With an operating point; a surge keeps the temperatures that it found.

    Raises
    ------
    ValueError
        It has none.
    """
    circuit, duty = state.wiring.circuit, duty_of(state.wiring, state.scenario)
    if state.momentary:
        duty = replace(duty, held_c=state.point.temperature_c[circuit.heated])
    solver = Solver(circuit)
    solver.solve(duty)
    return solver.sensitivity()
