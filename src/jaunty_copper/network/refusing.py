"""Units whose management system lets no charge in, because they are too cold or too warm."""

import numpy as np

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.parts.models import Chemistry
from jaunty_copper.physics.circuit import Duty, Flags
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.refusing import Settled, solved
from jaunty_copper.plan.model import Battery, Scenario


def lets_no_charge_in(unit: Battery, kind: Chemistry, air_c: float) -> bool:
    """Whether a unit's management system keeps charge out because it is too cold or too warm; the air stands for the cells.

    Parameters
    ----------
    kind : Chemistry
        Of the unit.
    air_c : float
        About it, C.
    """
    return unit.managed and kind.gas_boost_ma_ah == 0.0 and not kind.charge_least_c <= air_c <= kind.charge_most_c


def no_charge_of(wiring: Wiring, scenario: Scenario) -> Flags:
    """Which units let no charge in, in the order of their branches.

    Parameters
    ----------
    scenario : Scenario
        For the air about them.

    Returns
    -------
    ndarray of bool, shape (u,)
        One for each battery of the plan.
    """
    plan, kinds = wiring.plan, wiring.parts.battery_chemistries
    units = [x for x in plan.items if isinstance(x, Battery)]
    return np.array(
        [lets_no_charge_in(x, kinds[x.chemistry], scenario.air_c(plan.zone_of(x.zone))) for x in units], dtype=bool
    )


def settled(wiring: Wiring, solver: Solver, duty: Duty, scenario: Scenario) -> Settled:
    """Solve a scenario so that nothing goes into a unit that lets no charge in.

    Parameters
    ----------
    solver : Solver
        Of the wiring's circuit.
    duty : Duty
        Of the scenario, with all units.
    scenario : Scenario
        For the air about the units.
    """
    return solved(solver, duty, no_charge_of(wiring, scenario))
