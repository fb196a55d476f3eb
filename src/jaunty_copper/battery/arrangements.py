"""A bank in other interconnect patterns, and with one fault at a time."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from math import inf, nan
from typing import Any

from jaunty_copper.battery.patterns import Pattern, arrange, fitting, why_not
from jaunty_copper.battery.sharing import Sharing, bank_of, sharing
from jaunty_copper.language import say
from jaunty_copper.network.study import solve_scenario
from jaunty_copper.network.wiring import battery_ohm, wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.model import CurrentLoad, Plan, Run, Scenario, split_ref

BAD_JOINT_OHM = 1e-3
"""A dirty or loose joint: what a sensitivity assumes."""


@dataclass(frozen=True)
class Option:
    """A bank in one pattern.

    Attributes
    ----------
    pattern : Pattern or None
        None for the bank as it is.
    plan : Plan
        With the bank in that pattern.
    sharing : Sharing
        In the scenario compared.
    copper_m : float
        Length of all links and leads.
    """

    pattern: Pattern | None
    plan: Plan
    sharing: Sharing
    copper_m: float


def options(plan: Plan, unit: str, scenario: Scenario) -> Iterator[Option]:
    """The bank of a unit as it is, then in every pattern that it can take.

    Each is solved with the whole system, same units and the size of conductor that most of
    its links have.
    """
    yield _option(None, plan, unit, scenario)
    bank = bank_of(wire(plan), unit)
    if why_not(plan, bank):
        return
    for pattern in fitting(bank):
        yield _option(pattern, arrange(plan, unit, pattern.id), unit, scenario)


def _option(pattern: Pattern | None, plan: Plan, unit: str, scenario: Scenario) -> Option:
    state = solve_scenario(plan, scenario)
    shared = sharing(bank_of(state.wiring, unit), state)
    copper = sum(plan.run_by_id[id_].length_m * plan.run_by_id[id_].parallel for id_ in shared.bank.inside)
    return Option(pattern, plan, shared, copper)


def alone(plan: Plan, bank: Bank, amps: float) -> Plan:
    """A bank with its links and leads and nothing else, with a current out of its take-offs.

    Parameters
    ----------
    amps : float
        Current through the take-offs, A, either way: the shares are the same.
    """
    inside = [plan.run_by_id[id_] for id_ in bank.inside]
    held = {split_ref(ref)[0] for r in inside for ref in (r.a, r.b)} | set(bank.by_id)
    plus, minus = (bank.takeoffs[side][0] for side in ("plus", "minus"))
    ends: dict[str, Any] = {"length_m": 1.0, "measured_ohm": 1e-3}
    # Ids of its own: the plan may have any.
    load_id, out_id = edits.fresh_id(plan, "load"), edits.fresh_id(plan, "out")
    back_id = edits.fresh_id(plan, "back")
    out = Run(id=out_id, a=plus, b=f"{load_id}.plus", **ends)
    back = Run(id=back_id, a=f"{load_id}.minus", b=minus, **ends)
    # Charging is discharging with all signs turned: the shares are the same.
    load = CurrentLoad(id=load_id, nominal_v=max(bank.nominal_v, 1.0), current_a=max(abs(amps), 1e-3))
    return plan.model_copy(
        update={
            "items": tuple(x for x in plan.items if x.id in held),
            "equipment": (load,),
            "runs": (*inside, out, back),
            "scenarios": (),
            "boards": (),
            "readings": (),
            "log": (),
        }
    )


# What moves the shares


@dataclass(frozen=True)
class Influence:
    """What one fault does to a bank's spread.

    Attributes
    ----------
    place : str
        The run or unit.
    what : str
        In words.
    spread : float
        With the fault.
    """

    place: str
    what: str
    spread: float


def influences(plan: Plan, unit: str, scenario: Scenario) -> Iterator[Influence]:
    """The spread with one fault at a time: a bad joint, a link 50 % longer, a weak unit.

    Raises
    ------
    KeyError
        There is no such unit.
    """
    bank = bank_of(wire(plan), unit)
    parts = wire(plan).parts
    for id_ in bank.inside:
        run = plan.run_by_id[id_]
        yield _influence(plan, unit, scenario, id_, say("with a joint of 1 mΩ"), partial(bad_joint, run=id_))
        if run.length_m and run.measured_ohm is None:
            longer = partial(edits.change, id_=id_, length_m=1.5 * run.length_m)
            yield _influence(plan, unit, scenario, id_, say("50 % longer"), longer)
    for u in bank.units:
        weak = partial(edits.change, id_=u.id, capacity_share=0.8 * u.capacity_share)
        yield _influence(plan, unit, scenario, u.id, say("with 80 % of its capacity"), weak)
        stiff = partial(edits.change, id_=u.id, internal_ohm=1.5 * battery_ohm(u, parts))
        yield _influence(plan, unit, scenario, u.id, say("with half as much resistance again"), stiff)


def bad_joint(plan: Plan, run: str, ohm: float = BAD_JOINT_OHM) -> Plan:
    """Give a run's first joint the resistance of a bad one.

    Parameters
    ----------
    run : str
        Id of the conductor.
    ohm : float
        Resistance of that joint, ohm.
    """
    r = plan.run_by_id[run]
    if r.measured_ohm is not None:
        return edits.change(plan, run, measured_ohm=r.measured_ohm + ohm)
    return edits.change(plan, run, joint_a_ohm=ohm)


def _influence(
    plan: Plan, unit: str, scenario: Scenario, place: str, what: str, change: Callable[[Plan], Plan]
) -> Influence:
    return Influence(place, what, _option(None, change(plan), unit, scenario).sharing.spread)


def longest(plan: Plan, run: str, unit: str, scenario: Scenario, spread: float) -> float:
    """How long a link or lead may become before the spread exceeds a share, m.

    Found by bisection to a millimetre; inf where 100 m do not suffice, nan where the spread
    is exceeded as it is.

    Parameters
    ----------
    run : str
        Id of the link or lead.
    unit : str
        Id of a unit of the bank.
    spread : float
        The most allowed, as a share of the mean.
    """

    def excess(length: float) -> float:
        return _option(None, edits.change(plan, run, length_m=length), unit, scenario).sharing.spread - spread

    low, high = plan.run_by_id[run].length_m, 100.0
    if excess(low) > 0.0:
        return nan
    if excess(high) <= 0.0:
        return inf
    while high - low > 1e-3:
        mid = 0.5 * (low + high)
        low, high = (mid, high) if excess(mid) <= 0.0 else (low, mid)
    return low
