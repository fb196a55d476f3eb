"""Units over hours of one scenario."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from jaunty_copper.battery.sharing import bank_of, limits_of
from jaunty_copper.network.demand import duty_of
from jaunty_copper.network.refusing import no_charge_of
from jaunty_copper.network.wiring import Wiring, battery_ohm, cells, held_ah, wire
from jaunty_copper.physics.cell_units import Acceptance, CellUnits, Management, Rate
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.course import Course, course
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.refusing import solved
from jaunty_copper.plan.model import Battery, Inverter, Load, Plan, Scenario

RATED_H = 20.0
"""Hours over which capacity is sold, usually; representative."""
# Over time


def units_of(wiring: Wiring, scenario: Scenario) -> CellUnits:
    """The batteries of a plan as a course takes them, in the order of their branches."""
    batteries = [x for x in wiring.plan.items if isinstance(x, Battery)]
    kinds = [wiring.parts.battery_chemistries[b.chemistry] for b in batteries]
    n = np.array([cells(b, wiring.parts) for b in batteries], dtype=float)
    return CellUnits(
        capacity_ah=np.array([held_ah(b) for b in batteries], dtype=float),
        ocv_v=np.array([k.ocv_per_cell_v for k in kinds], dtype=float).reshape(-1, 11) * n[:, None],
        ohm=np.array([battery_ohm(b, wiring.parts) for b in batteries], dtype=float),
        empty_factor=np.array([k.r_empty_factor for k in kinds], dtype=float),
        soc_percent=np.array(
            [scenario.soc_percent if b.soc_percent is None else b.soc_percent for b in batteries], dtype=float
        ),
        stop_v=np.array([k.stop_v for k in kinds], dtype=float) * n,
        acceptance=Acceptance(
            ohm=np.array([k.accept_ohm_ah / held_ah(b) for k, b in zip(kinds, batteries, strict=True)], dtype=float)
            * n,
            end=np.array([k.accept_end for k in kinds], dtype=float),
            efficiency=np.array([k.charge_efficiency for k in kinds], dtype=float),
            tail_a=np.array([k.tail_c * held_ah(b) for k, b in zip(kinds, batteries, strict=True)], dtype=float),
        ),
        management=_management(wiring, batteries, scenario) if any(b.managed for b in batteries) else None,
        rate=Rate(
            exponent=np.array([k.rate_exponent for k in kinds], dtype=float),
            rated_a=np.array([held_ah(b) / RATED_H for b in batteries], dtype=float),
        )
        if any(k.rate_exponent > 1.0 for k in kinds)
        else None,
    )


def _management(wiring: Wiring, batteries: list[Battery], scenario: Scenario) -> Management:
    limits = [limits_of(wiring, b) for b in batteries]
    return Management(
        # What a unit gives for seconds is no limit of an hour: its management system waits that long.
        out_a=np.array([x.discharge_a if b.managed else np.inf for x, b in zip(limits, batteries, strict=True)]),
        in_a=np.array([x.charge_a if b.managed else np.inf for x, b in zip(limits, batteries, strict=True)]),
        when_empty=np.array([b.managed for b in batteries], dtype=bool),
        no_charge=no_charge_of(wiring, scenario),
    )


def cut_outs(wiring: Wiring) -> Floats:
    """Voltage below which each load stops, V; 0 where a plan does not say."""
    return np.array([cut_out_v(e) for e in wiring.loads], dtype=float)


def cut_out_v(e: Load) -> float:
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
        """Ampere-hours that left each unit's posts; negative where it was charged, what charging lost among them."""
        c = self.course
        return np.asarray((c.current_a[:-1] * np.diff(c.hours)[:, None]).sum(axis=0))

    @cached_property
    def stored_ah(self) -> Floats:
        """What each unit holds more than at the beginning, Ah."""
        held = np.array([held_ah(self.wiring.plan.by_id[u]) for u in self.units])  # type: ignore[arg-type]
        return np.asarray((self.course.soc_percent[-1] - self.course.soc_percent[0]) / 100.0 * held)

    @cached_property
    def taken_wh(self) -> Floats:
        """Watt-hours that left each unit's posts."""
        c = self.course
        power = c.current_a[:-1] * 0.5 * (c.terminal_v[:-1] + c.terminal_v[1:])
        return np.asarray((power * np.diff(c.hours)[:, None]).sum(axis=0))

    @cached_property
    def refuses(self) -> tuple[str, ...]:
        """Units whose management system let no charge in for a time: too cold or too warm."""
        return tuple(self.units[e.index] for e in self.course.events if e.kind == "refuses")

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
    def others(self) -> bool:
        """Whether the unit that ended it has neighbours in its bank."""
        stopped = self.course.stopped
        return stopped is not None and len(bank_of(self.wiring, self.units[stopped.index]).units) > 1

    @cached_property
    def left_ah(self) -> float:
        """What the other units still hold above (or could take below) the first that stopped, Ah."""
        stopped = self.course.stopped
        if stopped is None or stopped.kind in ("collapse", "all_open"):
            return 0.0
        soc = self.course.soc_percent[-1]
        held = np.array([held_ah(self.wiring.plan.by_id[u]) for u in self.units])  # type: ignore[arg-type]
        bank = bank_of(self.wiring, self.units[stopped.index])
        mine = np.array([u in bank.by_id for u in self.units])
        return float((np.abs(soc - soc[stopped.index]) / 100.0 * held)[mine].sum())


def over_time(plan: Plan, scenario: Scenario, hours: float, step_s: float = 10.0) -> Hours:
    """Follow a plan for some hours of one scenario; a surge is taken as running.

    Parameters
    ----------
    hours : float
        How long, h.
    step_s : float
        Longest step, s.
    """
    calm = scenario.model_copy(update={"states": {k: "on" if v == "surge" else v for k, v in scenario.states.items()}})
    wiring = wire(plan)
    duty = duty_of(wiring, calm)
    solver = Solver(wiring.circuit)
    units = units_of(wiring, calm)
    first = solved(solver, duty, units.no_charge).point
    if first.solved:
        duty = replace(duty, held_c=first.temperature_c[wiring.circuit.heated])
    names = tuple(x.id for x in plan.items if isinstance(x, Battery))
    return Hours(wiring, calm, names, course(solver, duty, units, hours, step_s, cut_outs(wiring)))
