"""Edits of what is built, measured and noted."""

from collections.abc import Iterable, Mapping
from typing import Any, Literal

from jaunty_copper.language import say
from jaunty_copper.plan.edits.basic import EditError, _with, change, change_plan, find, fresh_id
from jaunty_copper.plan.model import (
    Board,
    Plan,
    Reading,
)


def tick(plan: Plan, step: str, on: bool, day: str | None = None) -> Plan:
    """Tick a step of the work, with the day where it is known, or take the tick away."""
    kept = tuple(s for s in plan.done if s != step)
    days = {s: d for s, d in plan.done_on.items() if s != step}
    if on and day is not None:
        days[step] = day
    return change_plan(plan, done=(*kept, step) if on else kept, done_on=days)


def take_reading(plan: Plan, scenario: str, quantity: str, a: str, b: str, value: float | None) -> Plan:
    """Put a reading in place of an earlier one at the same point; None takes it away.

    Parameters
    ----------
    quantity : str
        volts, amps, joint or celsius: what is read.
    a, b : str
        Terminals between which, or the thing at which, it is read.
    value : float or None
        In the quantity's unit.
    """
    point = (scenario, quantity, a, b)
    kept = [r for r in plan.readings if (r.scenario, r.quantity, r.a, r.b) != point]
    if value is None:
        return change_plan(plan, readings=tuple(kept))
    new = {"scenario": scenario, "quantity": quantity, "a": a, "b": b, "value": value}
    return change_plan(plan, readings=(*kept, new))


def log_entry(plan: Plan, kind: str, on: str, **fields: Any) -> Plan:
    """Add a line to the log, with an id of its own."""
    entry = {"id": fresh_id(plan, "log-"), "kind": kind, "on": on, **fields}
    return change_plan(plan, log=(*plan.log, entry))


def remove_entry(plan: Plan, id_: str) -> Plan:
    """Take a line out of the log."""
    return change_plan(plan, log=tuple(e for e in plan.log if e.id != id_))


def log_readings(plan: Plan, on: str, text: str = "") -> Plan:
    """Put the readings that stand in the plan into the log as those of a day.

    Raises
    ------
    EditError
        None was taken.
    """
    if not plan.readings:
        raise EditError(say("no reading was taken yet"))
    return log_entry(plan, "measured", on, text=text, readings=plan.readings)


def put_spot(plan: Plan, board: str, of: str, at_mm: tuple[float, float], turned: bool = False) -> Plan:
    """Put a thing onto a board, or move it there from where it stands.

    Parameters
    ----------
    at_mm : tuple of float
        Its upper left corner, to the right and down, mm.
    turned : bool
        By a quarter.
    """
    spots = tuple(s for s in _board(plan, board).spots if s.of != of)
    new = {"of": of, "at_mm": at_mm, "turned": turned}
    others = tuple(
        b.model_copy(update={"spots": tuple(s for s in b.spots if s.of != of)}) if b.id != board else b
        for b in plan.boards
    )
    return change(_with(plan, boards=others), board, spots=(*spots, new))


def _board(plan: Plan, id_: str) -> Board:
    field, index = find(plan, id_)
    held = getattr(plan, field)[index]
    if not isinstance(held, Board):
        raise EditError(say("{id} is no board", id=id_))
    return held


def nudge_spot(plan: Plan, board: str, of: str, by_mm: tuple[float, float], turn: bool = False) -> Plan:
    """Move a thing on a board from where it stands in this very plan, or turn it.

    Parameters
    ----------
    by_mm : tuple of float
        How far to the right and down, mm.
    turn : bool
        By a quarter.
    """
    spot = next((s for s in _board(plan, board).spots if s.of == of), None)
    if spot is None:
        raise EditError(say("{of} does not stand on {board}", of=of, board=board))
    at = (spot.at_mm[0] + by_mm[0], spot.at_mm[1] + by_mm[1])
    return put_spot(plan, board, of, at, spot.turned is not turn)


def take_spot(plan: Plan, board: str, of: str) -> Plan:
    """Take a thing off a board."""
    return change(plan, board, spots=tuple(s for s in _board(plan, board).spots if s.of != of))


def put_value(plan: Plan, field: Literal["prices", "torques"], key: str, value: float | None) -> Plan:
    """Give a plan a price or torque of its own; None takes it out.

    Parameters
    ----------
    field : str
        prices or torques.
    key : str
        What it is of, as the tables call it.
    value : float or None
        A price without currency, or N m.
    """
    kept = {k: v for k, v in getattr(plan, field).items() if k != key}
    return change_plan(plan, **{field: kept if value is None else {**kept, key: value}})


def put_price(plan: Plan, key: str, price: float | None, pack: int | None) -> Plan:
    """Give a plan a price of its own and say how many it is for; None takes either out.

    Parameters
    ----------
    key : str
        What it is of, as the list of materials calls it.
    price : float or None
        Without currency: of one, or of a pack.
    pack : int or None
        How many are sold together.
    """
    packs = {k: v for k, v in plan.packs.items() if k != key}
    return change_plan(put_value(plan, "prices", key, price), packs=packs if pack is None else {**packs, key: pack})


def put_prices(plan: Plan, prices: Mapping[str, float], packs: Mapping[str, int]) -> Plan:
    """Give a plan several prices of its own; what is no more sold in packs is so no more.

    Parameters
    ----------
    prices : mapping
        Without currency, by key: of one, or of a pack.
    packs : mapping
        How many are in a pack, by key.
    """
    kept = {k: v for k, v in plan.packs.items() if k not in prices}
    return change_plan(plan, prices={**plan.prices, **prices}, packs={**kept, **packs})


def take_readings(plan: Plan, readings: Iterable[Reading]) -> Plan:
    """Add readings, each in place of an older one at the same point and scenario."""
    new = tuple(readings)
    at = {(r.scenario, r.quantity, r.a, r.b) for r in new}
    kept = (r for r in plan.readings if (r.scenario, r.quantity, r.a, r.b) not in at)
    return change_plan(plan, readings=(*kept, *new))


def clear_readings(plan: Plan, scenario: str) -> Plan:
    """Forget what was read in a scenario."""
    return change_plan(plan, readings=tuple(r for r in plan.readings if r.scenario != scenario))
