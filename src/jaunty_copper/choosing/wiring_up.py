"""Wire up: circuits for all equipment that nothing leads to."""

from collections.abc import Callable
from typing import NamedTuple

from jaunty_copper.choosing.circuits import OUTPUT_M, lay_between
from jaunty_copper.choosing.sizing import sized
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import AnyEquipment, Bar, Converter, Plan
from jaunty_copper.plan.supply import Place, joins_units, places
from jaunty_copper.plan.topology import topology

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


def wire_up(plan: Plan, overtaken: Callable[[], bool] = lambda: False) -> WiredUp:
    """Lay a circuit for each piece of loose equipment, at a bar of its voltage, sized and protected for its load.

    Parameters
    ----------
    overtaken : callable
        Asked now and then whether to stop.
    """
    waiting = list(loose(plan))
    done, left = list[str](), dict[str, str]()
    for e in waiting:
        at = _place_for(plan, e.nominal_v)
        if at is None:
            left[e.id] = f"there is no bar for {e.nominal_v:g} V with one for its return"
            continue
        output = _place_for(plan, e.out_nominal_v, at) if isinstance(e, Converter) else None
        try:
            plan = lay_between(plan, e, at, output, e.distance_m or OUTPUT_M)
        except EditError as error:
            left[e.id] = str(error)
            continue
        done.append(e.id)
    plan = sized(plan, *done, overtaken=overtaken)
    return WiredUp(plan, tuple(done), left)


def _place_for(plan: Plan, volts: float, other_than: Place | None = None) -> Place | None:
    """The bars of a voltage with most studs left free; of a converter's output those of another bank, if there is one."""
    joined = topology(plan)
    rail = joined.rail_of(_ref(plan, other_than)) if other_than is not None else None
    found = []
    for place in places(plan):
        hub = plan.by_id[place.plus[0]]
        if not isinstance(hub, Bar) or abs(place.volts - volts) > OTHER_V * volts:
            continue
        other = other_than is None or (place.bank is not None and joined.rail_of(_ref(plan, place)) != rail)
        if other:
            taken = -sum(not plan.runs_at.get(hub.ref(t)) for t in hub.terminal_names)
            found.append((joins_units(plan, hub), taken, hub.id, place))
    return min(found)[-1] if found else None


def _ref(plan: Plan, place: Place) -> str:
    """A terminal on a place's plus side."""
    hub = plan.by_id[place.plus[0]]
    return hub.ref(place.plus[1] or hub.terminal_names[0])
