"""Wire up: circuits for all equipment that nothing leads to."""

from collections.abc import Callable
from typing import NamedTuple

from jaunty_copper.choosing.circuits import lay_circuit, sized
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import AnyEquipment, Bar, Converter, Plan
from jaunty_copper.plan.supply import supply_of

OTHER_V = 0.25
"""Share of its nominal voltage by which a bar may be off."""


class WiredUp(NamedTuple):
    """A plan with its circuits laid.

    Attributes
    ----------
    plan : Plan
        With them.
    done : tuple of str
        Ids of the equipment that got one.
    left : dict
        Why other equipment got none, by id.
    """

    plan: Plan
    done: tuple[str, ...]
    left: dict[str, str]


def loose(plan: Plan) -> tuple[AnyEquipment, ...]:
    """Equipment with nothing on its port, converters first: they bring the bars of their system."""
    found = [e for e in plan.equipment if not any(plan.runs_at.get(ref) for ref in e.port)]
    return tuple(sorted(found, key=lambda e: not isinstance(e, Converter)))


def wire_up(
    plan: Plan, progress: Callable[[str], None] = lambda _: None, overtaken: Callable[[], bool] = lambda: False
) -> WiredUp:
    """Lay a circuit for each piece of loose equipment, at a bar of its voltage, sized and protected for its load.

    Parameters
    ----------
    progress, overtaken : callable
        Told what is being done; asked now and then whether to stop.
    """
    waiting = list(loose(plan))
    done, left = list[str](), dict[str, str]()
    for e in waiting:
        bar = _bar_for(plan, e)
        if bar is None:
            left[e.id] = f"there is no bar for {e.nominal_v:g} V with one for its return"
            continue
        try:
            plan = lay_circuit(plan, bar, e)
        except EditError as error:
            left[e.id] = str(error)
            continue
        done.append(e.id)
    for n, id_ in enumerate(done):
        if overtaken():
            break
        progress(f"{plan.by_id[id_].title}, {n + 1} of {len(done)}")
        plan = sized(plan, id_)
    return WiredUp(plan, tuple(done), left)


def _bar_for(plan: Plan, e: AnyEquipment) -> str | None:
    """The plus bar of a voltage with most studs left free."""
    found = []
    for bar in plan.items:
        if isinstance(bar, Bar):
            supply = supply_of(plan, bar)
            fits = supply.back is not None and abs(supply.volts - e.nominal_v) <= OTHER_V * e.nominal_v
            if fits and supply.side == "plus":
                free = sum(not plan.runs_at.get(bar.ref(t)) for t in bar.terminal_names)
                found.append((-free, bar.id))
    return min(found)[1] if found else None
