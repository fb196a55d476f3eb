"""What each unit of a bank carries: in a scenario, in other patterns, with a fault, over time."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property, partial
from math import inf, nan
from typing import Any, NamedTuple

import numpy as np

from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.course import Course, Units, course
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import Battery, Breaker, CurrentLoad, Fuse, Inverter, Load, Plan, Run, Scenario, split_ref
from jaunty_copper.plan.patterns import Pattern, arrange, fitting, why_not
from jaunty_copper.study.demand import duty_of
from jaunty_copper.study.devices import band_for
from jaunty_copper.study.study import State, solve_scenario
from jaunty_copper.study.wiring import Wiring, battery_ohm, cells, held_ah, wire

BAD_JOINT_OHM = 1e-3
"""A dirty or loose joint: what a sensitivity assumes."""


@dataclass(frozen=True)
class Limits:
    """What a unit may carry, A, and whether that is its own figure or its chemistry's."""

    discharge_a: float
    charge_a: float
    own: bool


def limits_of(wiring: Wiring, unit: Battery) -> Limits:
    """Continuous limits of a unit."""
    chemistry = wiring.parts.battery_chemistries[unit.chemistry]
    return Limits(
        unit.max_discharge_a or chemistry.max_discharge_c * unit.capacity_ah,
        unit.max_charge_a or chemistry.max_charge_c * unit.capacity_ah,
        unit.max_discharge_a is not None,
    )


@dataclass(frozen=True)
class Share:
    """A unit in a scenario.

    Attributes
    ----------
    unit : str
        Its id.
    current_a : float
        Out of its plus; negative while it is charged.
    share : float
        Of the current of all strings in parallel with it.
    even : float
        What that share would be if all took the same for each ampere-hour they hold.
    c_rate : float
        Current over capacity, 1/h.
    terminal_v : float
        Between its posts.
    limit_a : float
        What it may carry in that direction.
    """

    unit: str
    current_a: float
    share: float
    even: float
    c_rate: float
    terminal_v: float
    limit_a: float

    @property
    def used(self) -> float:
        """Share of its limit."""
        return abs(self.current_a) / self.limit_a


@dataclass(frozen=True)
class Sharing:
    """How a bank shares in one scenario.

    Attributes
    ----------
    shares : tuple of Share
        In the order of the file; nan where there is no operating point.
    current_a : float
        Of the bank.
    spread : float
        Between the most and the least loaded string in parallel, for each ampere-hour, over
        their mean; 0 where nothing flows or nothing is in parallel.
    heat_w : dict
        Loss in each link and lead.
    """

    bank: Bank
    scenario: Scenario
    shares: tuple[Share, ...]
    current_a: float
    spread: float
    heat_w: dict[str, float]

    @cached_property
    def by_unit(self) -> dict[str, Share]:
        """Shares by the id of the unit."""
        return {s.unit: s for s in self.shares}

    @property
    def worst_link(self) -> str | None:
        """The link or lead that loses most."""
        return max(self.heat_w, key=lambda k: self.heat_w[k], default=None)


def sharing(bank: Bank, state: State) -> Sharing:
    """How a bank shares its current in a solved scenario."""
    w, solved = state.wiring, state.solved
    current = {u.id: state.current(u.id) if solved else nan for u in bank.units}
    shares: dict[str, Share] = {}
    spread = 0.0
    for group in bank.groups:
        strings = [bank.strings[k] for k in group]
        held = np.array([min(held_ah(bank.by_id[u]) for u in s) for s in strings])
        amps = np.array([current[s[0]] for s in strings])
        whole = float(amps.sum())
        rate = amps / held
        mean = float(np.abs(rate).mean())
        # Below a thousandth of the capacity in an hour what flows between units is no load to share.
        if len(strings) > 1 and solved and mean > 1e-3:
            spread = max(spread, float(rate.max() - rate.min()) / mean)
        for s, a, even in zip(strings, amps, held / held.sum(), strict=True):
            for u in s:
                unit = bank.by_id[u]
                limits = limits_of(w, unit)
                shares[u] = Share(
                    u, float(a), float(a) / whole if whole else float(even), float(even), float(a) / held_ah(unit),
                    state.volts(unit.ref("plus")) - state.volts(unit.ref("minus")) if solved else nan,
                    limits.charge_a if a < 0.0 else limits.discharge_a,
                )  # fmt: skip
    total = sum(current[u] for u in bank.outlets)
    heat = {id_: state.current(id_) * state.drop(id_) if solved else nan for id_ in bank.inside}
    return Sharing(bank, state.scenario, tuple(shares[u.id] for u in bank.units), float(total), spread, heat)


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


def bank_of(wiring: Wiring, unit: str) -> Bank:
    """The bank of a unit.

    Raises
    ------
    KeyError
        There is no such unit.
    """
    for bank in wiring.banks:
        if unit in bank.by_id:
            return bank
    raise KeyError(unit)


def alone(plan: Plan, bank: Bank, amps: float) -> Plan:
    """A bank with its links and leads and nothing else, with a current out of its take-offs."""
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
        yield _influence(plan, unit, scenario, id_, "with a joint of 1 mΩ", partial(bad_joint, run=id_))
        if run.length_m and run.measured_ohm is None:
            longer = partial(edits.change, id_=id_, length_m=1.5 * run.length_m)
            yield _influence(plan, unit, scenario, id_, "50 % longer", longer)
    for u in bank.units:
        weak = partial(edits.change, id_=u.id, capacity_share=0.8 * u.capacity_share)
        yield _influence(plan, unit, scenario, u.id, "with 80 % of its capacity", weak)
        stiff = partial(edits.change, id_=u.id, internal_ohm=1.5 * battery_ohm(u, parts))
        yield _influence(plan, unit, scenario, u.id, "with half as much resistance again", stiff)


def bad_joint(plan: Plan, run: str, ohm: float = BAD_JOINT_OHM) -> Plan:
    """Give a run's first joint the resistance of a bad one."""
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


# Over time


def units_of(wiring: Wiring, scenario: Scenario) -> Units:
    """The batteries of a plan as a course takes them, in the order of their branches."""
    batteries = [x for x in wiring.plan.items if isinstance(x, Battery)]
    kinds = [wiring.parts.battery_chemistries[b.chemistry] for b in batteries]
    n = np.array([cells(b, wiring.parts) for b in batteries], dtype=float)
    return Units(
        capacity_ah=np.array([held_ah(b) for b in batteries], dtype=float),
        ocv_v=np.array([k.ocv_per_cell_v for k in kinds], dtype=float).reshape(-1, 11) * n[:, None],
        ohm=np.array([battery_ohm(b, wiring.parts) for b in batteries], dtype=float),
        empty_factor=np.array([k.r_empty_factor for k in kinds], dtype=float),
        soc_percent=np.array(
            [scenario.soc_percent if b.soc_percent is None else b.soc_percent for b in batteries], dtype=float
        ),
        stop_v=np.array([k.stop_v for k in kinds], dtype=float) * n,
    )


def cut_outs(wiring: Wiring) -> Floats:
    """Voltage below which each load stops, V; 0 where a plan does not say."""
    return np.array([cut_out(e) for e in wiring.loads], dtype=float)


def cut_out(e: Load) -> float:
    """Voltage below which a load stops, V; 0 where a plan does not say."""
    return (e.cut_out_v if isinstance(e, Inverter) else None) or e.min_v or 0.0


@dataclass(frozen=True)
class Hours:
    """A plan over some hours of one scenario.

    Attributes
    ----------
    units : tuple of str
        Ids, in the order of the columns of the course.
    """

    wiring: Wiring
    scenario: Scenario
    units: tuple[str, ...]
    course: Course

    @cached_property
    def taken_ah(self) -> Floats:
        """Ampere-hours taken out of each unit; negative where it was charged."""
        held = np.array([held_ah(self.wiring.plan.by_id[u]) for u in self.units])  # type: ignore[arg-type]
        return np.asarray((self.course.soc_percent[0] - self.course.soc_percent[-1]) / 100.0 * held)

    @cached_property
    def taken_wh(self) -> Floats:
        """Watt-hours that left each unit's posts."""
        c = self.course
        power = c.current_a[:-1] * 0.5 * (c.terminal_v[:-1] + c.terminal_v[1:])
        return np.asarray((power * np.diff(c.hours)[:, None]).sum(axis=0))

    @cached_property
    def drift_v(self) -> dict[str, float]:
        """How far each unit in series ends from the mean of its string, V: the mid-point's drift."""
        last = dict(zip(self.units, self.course.terminal_v[-1], strict=True))
        found: dict[str, float] = {}
        for bank in self.wiring.banks:
            for string in bank.strings:
                if len(string) > 1:
                    mean = sum(last[u] for u in string) / len(string)
                    found |= {u: float(last[u] - mean) for u in string}
        return found

    @cached_property
    def left_ah(self) -> float:
        """What the other units still hold above (or could take below) the first that stopped, Ah."""
        stopped = self.course.stopped
        if stopped is None or stopped.kind == "collapse":
            return 0.0
        soc = self.course.soc_percent[-1]
        held = np.array([held_ah(self.wiring.plan.by_id[u]) for u in self.units])  # type: ignore[arg-type]
        bank = bank_of(self.wiring, self.units[stopped.index])
        mine = np.array([u in bank.by_id for u in self.units])
        return float((np.abs(soc - soc[stopped.index]) / 100.0 * held)[mine].sum())


def over_time(plan: Plan, scenario: Scenario, hours: float, step_s: float = 10.0) -> Hours:
    """Follow a plan for some hours of one scenario; a surge is taken as running."""
    calm = scenario.model_copy(update={"states": {k: "on" if v == "surge" else v for k, v in scenario.states.items()}})
    wiring = wire(plan)
    duty = duty_of(wiring, calm)
    solver = Solver(wiring.circuit)
    units = units_of(wiring, calm)
    first = solver.solve(duty)
    if first.solved:
        duty = replace(duty, held_c=first.temperature_c[wiring.circuit.heated])
    names = tuple(x.id for x in plan.items if isinstance(x, Battery))
    return Hours(wiring, calm, names, course(solver, duty, units, hours, step_s, cut_outs(wiring)))


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
        The unit that bears it.
    used : float
        That current over what the unit may carry in that direction.
    level_h : float
        Hours until the largest has fallen to a twentieth; inf where a day does not suffice.
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
        raise EditError(f"there is no unit {unit}")
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
    units = units_of(run.wiring, quiet)
    emf, _ = units.emf(units.soc_percent)
    amps = np.array([shared.by_unit[run.units[k]].current_a for k in mine])
    return Meeting(
        abs(worst.current_a), worst.unit, worst.used, float(run.course.hours[calm[0]]) if calm.size else inf,
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
