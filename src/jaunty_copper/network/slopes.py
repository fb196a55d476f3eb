"""How an operating point answers to small changes."""

from jaunty_copper.network.state import State
from jaunty_copper.physics.answers import sensitivity
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
    solver = Solver(state.wiring.circuit)
    solver.resume(state.duty, state.point)
    return sensitivity(solver)
