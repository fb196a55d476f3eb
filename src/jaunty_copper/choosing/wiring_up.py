"""Wire up: circuits for all equipment that nothing leads to."""

from collections.abc import Callable, Iterable
from typing import NamedTuple

from jaunty_copper.choosing.circuits import OUTPUT_M, lay_between
from jaunty_copper.choosing.sizing import sized
from jaunty_copper.language import say
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import AnyEquipment, Bar, Converter, Plan
from jaunty_copper.plan.supply import Place, joins_units, places


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
    """Lay a circuit for each piece of loose equipment, at the first supply of its voltage, sized and protected for it.

    Parameters
    ----------
    overtaken : callable
        Asked now and then whether to stop.
    """
    waiting = list(loose(plan))
    done, left, there, bars = list[str](), dict[str, str](), list(places(plan)), _bars(plan)
    for e in waiting:
        at = _place_for(plan, there, e.nominal_v)
        if at is None:
            left[e.id] = say("there is no bar for {nominal_v:g} V with one for its return", nominal_v=e.nominal_v)
            continue
        output = _place_for(plan, there, e.out_nominal_v, at) if isinstance(e, Converter) else None
        try:
            plan = lay_between(plan, e, at, output, e.distance_m or OUTPUT_M)
        except EditError as error:
            left[e.id] = str(error)
            continue
        done.append(e.id)
        if _bars(plan) != bars:
            # A converter brings bars of its own; a load brings no place to join another.
            there, bars = list(places(plan)), _bars(plan)
    plan = sized(plan, *done, overtaken=overtaken)
    return WiredUp(plan, tuple(done), left)


def _bars(plan: Plan) -> list[str]:
    return [x.id for x in plan.items if isinstance(x, Bar)]


def _place_for(plan: Plan, there: Iterable[Place], volts: float, other_than: Place | None = None) -> Place | None:
    """Bars of a voltage: those that were drawn first, and of one supply those with most studs left free.

    A converter's output goes to another supply than its input, and only where a bank is: two converters side by side
    would be in parallel.
    """
    bars = {x.id: k for k, x in enumerate(plan.items) if isinstance(x, Bar)}
    fit = [p for p in there if p.plus[0] in bars and p.fits(volts)]
    if other_than is not None:
        fit = [p for p in fit if p.bank is not None and p.rail != other_than.rail]
    if not fit:
        return None
    first = min(fit, key=lambda p: bars[p.plus[0]]).rail
    return min((p for p in fit if p.rail == first), key=lambda p: _worth(plan, p.plus[0]))


def _worth(plan: Plan, bar_id: str) -> tuple[bool, int, str]:
    """How bars of one supply are ranked: those for circuits, with most studs left free, come first."""
    bar = plan.by_id[bar_id]
    assert isinstance(bar, Bar)
    free = sum(not plan.runs_at.get(bar.ref(t)) for t in bar.terminal_names)
    return joins_units(plan, bar), -free, bar.id
