"""Units of different charge that are joined."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import inf, nan
from typing import NamedTuple

import numpy as np

from jaunty_copper.battery.discharge import over_time, units_of
from jaunty_copper.battery.sharing import bank_of, sharing
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.network.study import solve_scenario
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import Breaker, Fuse, Plan, Run, Scenario
from jaunty_copper.protection.devices import band_for

# Joining


class Overload(NamedTuple):
    """A device above its rating: how many times it, and between which times it opens at that, s.

    What levels units out falls over hours, so that its first moment decides over a device.
    """

    device: str
    times: float
    shortest_s: float
    longest_s: float


@dataclass(frozen=True)
class Meeting:
    """Units of different charge that are joined.

    Attributes
    ----------
    peak_a : float
        Largest current through any unit in the first moment.
    unit : str
        The unit that carries it.
    used : float
        That current over what the unit may carry in that direction.
    level_h : float
        Hours until the largest has fallen to a twentieth; inf where a day does not suffice, or one of them is too cold or too warm to take a charge.
    heat_w : float
        Lost in links, leads and units in the first moment.
    fuses : tuple of Overload
        Fuses and breakers that carry more than their rating then, the worst first.
    """

    peak_a: float
    unit: str
    used: float
    level_h: float
    heat_w: float
    fuses: tuple[Overload, ...]


def meeting(plan: Plan, unit: str, soc_percent: dict[str, float]) -> Meeting:
    """What flows when the units of a bank are joined at different charges, with everything else off.

    Parameters
    ----------
    soc_percent : dict
        Charge of each unit by id; others as the first scenario has them.

    Raises
    ------
    EditError
        There is no such unit.
    """
    for id_, soc in soc_percent.items():
        plan = edits.change(plan, id_, soc_percent=soc)
    if unit not in plan.by_id:
        raise EditError(say("there is no unit {unit}", unit=unit))
    alone = plan.model_copy(update={"equipment": (), "runs": tuple(_of_items(plan)), "scenarios": ()})
    quiet = Scenario(id="joined", soc_percent=plan.scenarios[0].soc_percent if plan.scenarios else 80.0)
    first = solve_scenario(alone, quiet)
    bank = bank_of(first.wiring, unit)
    if not first.solved:
        return Meeting(nan, unit, nan, nan, nan, ())
    shared = sharing(bank, first)
    worst = max(shared.shares, key=lambda s: abs(s.current_a))
    run = over_time(alone, quiet, 24.0, 20.0)
    mine = [k for k, u in enumerate(run.units) if u in bank.by_id]
    calm = np.flatnonzero(np.abs(run.course.current_a[:, mine]).max(axis=1) <= 0.05 * abs(worst.current_a))
    levels = calm.size and not any(u in bank.by_id for u in run.refuses)
    units = units_of(run.wiring, quiet)
    emf, _ = units.emf(units.soc_percent)
    amps = np.array([shared.by_unit[run.units[k]].current_a for k in mine])
    return Meeting(
        abs(worst.current_a), worst.unit, worst.used, float(run.course.hours[calm[0]]) if levels else inf,
        float((emf[mine] * amps).sum()), tuple(_overloaded(first)),
    )  # fmt: skip


def _overloaded(state: State) -> Iterator[Overload]:
    """Fuses and breakers above their rating, the worst first."""
    found = []
    for x in state.wiring.plan.items:
        if isinstance(x, Fuse | Breaker) and (times := abs(state.current(x.id)) / x.rating_a) > 1.0:
            band = band_for(state.wiring.parts, x.family)
            found.append(Overload(x.id, times, float(band.shortest(times)), float(band.longest(times))))
    yield from sorted(found, key=lambda o: -o.times)


def _of_items(plan: Plan) -> Iterator[Run]:
    equipment = {e.id for e in plan.equipment}
    for r in plan.runs:
        if r.a.partition(".")[0] not in equipment and r.b.partition(".")[0] not in equipment:
            yield r
