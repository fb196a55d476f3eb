"""The bank over the days to come: loads and sources by the hour, sun good and bad, what stops when."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from jaunty_copper.battery.by_hour import hours_of_load, hours_of_source
from jaunty_copper.battery.discharge import cut_outs, units_of
from jaunty_copper.battery.feeding import bank_by_thing, charged_by, feeding
from jaunty_copper.battery.sharing import bank_of
from jaunty_copper.network.demand import asked_by, compensation_v, duty_of
from jaunty_copper.network.wiring import Wiring, held_ah, wire
from jaunty_copper.physics import days as physics
from jaunty_copper.physics.circuit import Duty, Flags
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.days import Belongs, Phase, Stages, follow_days
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.refusing import solved
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.clock import HOURS
from jaunty_copper.plan.model import Battery, Plan, Scenario, Shunt, SolarController, Source

LEAST_H = 1e-9
CLEAR = (1.0, 1.0, 1.0)
"""Days that are looked at where a plan does not say how the sun will be."""


@dataclass(frozen=True)
class Stop:
    """A load that was not fed when it should have run.

    Attributes
    ----------
    hours : float
        For how long altogether.
    bank : int
        Number of the bank that it hangs on, -1 for none.
    """

    id: str
    hours: float
    bank: int


@dataclass(frozen=True)
class DaysAhead:
    """A plan over some days.

    Attributes
    ----------
    units : tuple of str
        Ids, in the order of the columns of the course.
    sun : tuple of float
        Of each day.
    belongs : Belongs
        What hangs on which bank.
    """

    wiring: Wiring
    scenario: Scenario
    units: tuple[str, ...]
    sun: tuple[float, ...]
    belongs: Belongs
    course: physics.Days

    @cached_property
    def held_ah(self) -> Floats:
        """What each unit holds when full."""
        return np.array([held_ah(self.wiring.plan.by_id[u]) for u in self.units], dtype=float)  # type: ignore[arg-type]

    def charge(self, bank: Bank) -> Floats:
        """What a bank's units hold over time, % of what they hold when full.

        Parameters
        ----------
        bank : Bank
            One of the plan's.
        """
        mine = [k for k, u in enumerate(self.units) if u in bank.by_id]
        held = self.held_ah[mine]
        return np.asarray(np.clip(self.course.soc_percent[:, mine], 0.0, 100.0) @ held / held.sum())

    def current_a(self, bank: Bank) -> Floats:
        """Out of a bank over time.

        Parameters
        ----------
        bank : Bank
            One of the plan's.
        """
        mine = [k for k, u in enumerate(self.units) if u in bank.outlets]
        return np.asarray(self.course.current_a[:, mine].sum(axis=1))

    @cached_property
    def stops(self) -> tuple[Stop, ...]:
        """Loads that were not fed for a time, longest first."""
        found = zip(self.wiring.loads, self.course.load_h.tolist(), self.belongs.load.tolist(), strict=True)
        return tuple(sorted((Stop(e.id, h, k) for e, h, k in found if h > LEAST_H), key=lambda s: -s.hours))

    def stops_of(self, bank: Bank) -> tuple[Stop, ...]:
        """Those that hang on a bank.

        Parameters
        ----------
        bank : Bank
            One of the plan's.
        """
        number = self.wiring.banks.index(bank)
        return tuple(s for s in self.stops if s.bank == number)

    def floats_of(self, bank: Bank) -> tuple[tuple[float, str], ...]:
        """When a bank's sources go over to float, and which.

        Parameters
        ----------
        bank : Bank
            One of the plan's.
        """
        number, sources = self.wiring.banks.index(bank), self.wiring.sources
        return tuple(
            (e.hour, sources[e.index].title)
            for e in self.course.events
            if e.kind == "float" and self.belongs.charges[e.index] == number
        )

    @cached_property
    def refuses(self) -> tuple[str, ...]:
        """Units whose management system let no charge in for a time: too cold or too warm."""
        return tuple(self.units[e.index] for e in self.course.events if e.kind == "refuses")

    @cached_property
    def dark(self) -> tuple[tuple[str, float, float], ...]:
        """Banks that fed nothing: the bank's id, from which hour, until which."""
        found, since = [], dict[int, float]()
        end = float(self.course.hours[-1]) if self.course.hours.size else 0.0
        banks = self.wiring.banks
        for e in self.course.events:
            if e.kind == "dark":
                since.setdefault(e.index, e.hour)
            elif e.kind == "back" and e.index in since:
                found.append((banks[e.index].id, since.pop(e.index), e.hour))
        return (*found, *((banks[k].id, hour, end) for k, hour in since.items()))

    def monitor(self, shunt: Shunt, bank: Bank) -> Floats:
        """What a battery monitor shows over time, %.

        It counts what it reads from what the bank holds at first, and shows 100 when the bank's source goes over to float.

        Parameters
        ----------
        shunt : Shunt
            That it reads, with what is set in it.
        bank : Bank
            Whose charge it counts.
        """
        c = self.course
        capacity = shunt.monitor_ah or float(
            self.held_ah[[k for k, u in enumerate(self.units) if u in bank.by_id]].sum()
        )
        read = self.current_a(bank) + shunt.monitor_offset_a
        counted = np.where(read < 0.0, read * shunt.monitor_efficiency, read)
        full = {hour for hour, _ in self.floats_of(bank)}
        shown = np.empty(c.hours.size)
        at = float(self.charge(bank)[0])
        for k, step in enumerate(np.diff(c.hours, prepend=c.hours[0])):
            at = min(max(at - 100.0 * (counted[k - 1] if k else 0.0) * step / capacity, 0.0), 100.0)
            if c.hours[k] in full:
                at = 100.0
            shown[k] = at
        return shown


def ahead(plan: Plan, scenario: Scenario, sun: Sequence[float] = (), step_s: float = 60.0) -> DaysAhead:
    """Follow a plan for some days.

    Parameters
    ----------
    scenario : Scenario
        For the charge to begin with, the switches and the air; what runs follows the hours.
    sun : sequence of float
        Of each day, how much of its yield a solar controller gives; the plan's own where none.
    step_s : float
        Time step, s.
    """
    wiring = wire(plan)
    sun = tuple(sun) or plan.sun or CLEAR
    switched = {k: v for k, v in scenario.states.items() if v in ("open", "closed")}
    base = scenario.model_copy(update={"states": switched})
    solver, units = Solver(wiring.circuit), units_of(wiring, base)
    asked = {e.id: hours_of_load(plan, e) for e in wiring.loads}
    given = {e.id: hours_of_source(e) for e in wiring.sources if isinstance(e, Source)}
    known: dict[object, Duty] = {}
    phases: list[Phase] = []
    for day in sun:
        for hour in range(HOURS):
            shares = {
                e.id: float(given[e.id][hour]) * (day if isinstance(e, SolarController) else 1.0)
                for e in wiring.sources
                if isinstance(e, Source)
            }
            on = tuple(float(asked[e.id][hour]) if shares.get(e.runs_with or "", 1.0) else 0.0 for e in wiring.loads)
            key = (on, tuple(shares.values()))
            if key not in known:
                known[key] = _warm(solver, _duty(wiring, base, on, shares), units.no_charge)
            # An hour each, be it like the one before: what waits or has opened is looked at on the hour.
            phases.append(Phase(1.0, known[key]))
    names = tuple(x.id for x in plan.items if isinstance(x, Battery))
    belongs = _belongs(wiring, names)
    course = follow_days(solver, phases, units, belongs, _stages(wiring, base), cut_outs(wiring), step_s)
    return DaysAhead(wiring, base, names, sun, belongs, course)


def _duty(wiring: Wiring, base: Scenario, on: tuple[float, ...], shares: dict[str, float]) -> Duty:
    duty = duty_of(wiring, base.model_copy(update={"states": {**base.states, **shares}}))
    # Through an hour a load draws the mean of what it does.
    running = [asked_by(e, Scenario(id="running", states={e.id: e.duty})) for e in wiring.loads]
    mean = np.array(running, dtype=float).reshape(-1, 3) * np.array(on, dtype=float).reshape(-1, 1)
    return replace(duty, load_w=mean[:, 0], load_a=mean[:, 1], load_s=mean[:, 2])


def _warm(solver: Solver, duty: Duty, no_charge: Flags) -> Duty:
    """With the conductors as warm as what is asked makes them."""
    point = solved(solver, duty, no_charge).point
    return replace(duty, held_c=point.temperature_c[solver.circuit.heated]) if point.solved else duty


def _belongs(wiring: Wiring, names: tuple[str, ...]) -> Belongs:
    of = bank_by_thing(wiring, feeding(wiring))
    number = {bank.id: k for k, bank in enumerate(wiring.banks)}

    def at(ids: Sequence[str]) -> list[int]:
        return [number[of[i].id] if i in of else -1 for i in ids]

    return Belongs(
        unit=np.array([number[bank_of(wiring, u).id] for u in names], dtype=np.int64),
        load=np.array(at([e.id for e in wiring.loads]), dtype=np.int64),
        source=np.array(at([e.id for e in wiring.sources]), dtype=np.int64),
        charges=np.array(
            [number[b.id] if (b := charged_by(wiring, e)) else -1 for e in wiring.sources], dtype=np.int64
        ),
    )


def _stages(wiring: Wiring, base: Scenario) -> Stages:
    def floats(e: object) -> float:
        if not isinstance(e, Source) or e.float_v is None:
            return np.nan
        return e.float_v + compensation_v(wiring.plan, e, base)

    return Stages(
        float_v=np.array([floats(e) for e in wiring.sources], dtype=float),
        absorb_h=np.array([getattr(e, "absorb_h", None) or np.inf for e in wiring.sources], dtype=float),
    )
