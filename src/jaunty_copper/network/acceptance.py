"""Units that are charged meet more than their resistance: which do shows in the solution, and the solution in which do."""

from dataclasses import replace

import numpy as np

from jaunty_copper.network.wiring import Wiring, cells, held_ah
from jaunty_copper.physics.battery import acceptance_ohm
from jaunty_copper.physics.circuit import Duty, Flags, OperatingPoint
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan.model import Battery, Scenario

MOST_TURNS = 8
"""How often it is solved again: a unit's characteristic has one kink, at no current, so that few turns settle it."""
CHARGED_A = 1e-6
"""A current into a unit, A, from which it is charged."""


def accepted(wiring: Wiring, solver: Solver, duty: Duty, scenario: Scenario) -> tuple[Duty, OperatingPoint]:
    """Solve with what each unit that is charged meets at its charge; the duty with that, and its operating point.

    Parameters
    ----------
    duty : Duty
        Of the scenario, every unit as it is discharged.
    scenario : Scenario
        For the charge of the units.
    """
    units = [x for x in wiring.plan.items if isinstance(x, Battery)]
    kinds = [wiring.parts.battery_chemistries[x.chemistry] for x in units]
    at = np.array([wiring.branch[x.id] for x in units], dtype=np.int64)
    soc = [scenario.soc_percent if x.soc_percent is None else x.soc_percent for x in units]
    empty = [k.accept_ohm_ah * cells(x, wiring.parts) / held_ah(x) for k, x in zip(kinds, units, strict=True)]
    more = acceptance_ohm(soc, empty, [k.accept_end for k in kinds])
    plain, charged = duty.extra_ohm, np.zeros(len(units), dtype=bool)
    point = solver.solve(duty)
    for _ in range(MOST_TURNS):
        now = (point.current_a[at] < -CHARGED_A) & _charging(wiring, point, units)
        if not point.solved or (now == charged).all():
            break
        charged = now
        extra = np.zeros(len(wiring.branches))
        extra[at] = np.where(charged, more, 0.0)
        duty = replace(duty, extra_ohm=np.asarray(plain + extra))
        point = solver.solve(duty)
    return duty, point


def _charging(wiring: Wiring, point: OperatingPoint, units: list[Battery]) -> Flags:
    """Units of banks that a source feeds: what levels out among units by themselves begins without any of this."""
    gives = {
        wiring.rail_of(e.output[0]) for e, amps in zip(wiring.sources, point.source_a, strict=True) if amps > CHARGED_A
    }
    fed = {u.id for bank in wiring.banks if wiring.rail_of(bank.takeoffs["plus"][0]) in gives for u in bank.units}
    return np.array([u.id in fed for u in units], dtype=bool)
