"""A source that senses its own terminals: how far off it is, and what that costs in hours."""

from functools import partial
from typing import NamedTuple

from jaunty_copper.battery.discharge import over_time
from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.points import Point
from jaunty_copper.network.wiring import run_ohms, wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Converter, Plan, Run, Scenario, Source

FULL_PERCENT = 95.0
"""Charge up to which hours are counted: beyond it every bank takes long."""
LONGEST_H = 24.0
STEP_S = 60.0


class Charging(NamedTuple):
    """A source as read.

    Attributes
    ----------
    source : str
        Its id.
    set_v, own_v, bank_v : float
        What it should hold; what was read at its terminals, and at the bank.
    error_v, lost_v : float
        By how much it is off, and how much of its voltage never reaches the bank.
    """

    source: str
    set_v: float
    own_v: float
    bank_v: float

    @property
    def error_v(self) -> float:
        """Read at its terminals less what it is set to; only where it holds its voltage."""
        return self.own_v - self.set_v

    @property
    def lost_v(self) -> float:
        """Read at its terminals less read at the bank."""
        return self.own_v - self.bank_v


def charging_of(bench: Bench, taken: dict[Point, float]) -> tuple[Charging, ...]:
    """Sources whose own terminals were read, and a unit of the bank that they feed.

    Parameters
    ----------
    taken : dict
        Readings by point, V.
    """
    found = []
    for e in bench.wiring.sources:
        if isinstance(e, Converter):
            continue
        own = taken.get(Point("volts", *e.output))
        part = bench.wiring.part
        near = {int(part[bench.wiring.node[ref]]) for ref in e.output}
        units = [
            u for bank in bench.wiring.banks for u in bank.units if int(part[bench.wiring.node[u.ref("plus")]]) in near
        ]
        read = [v for u in units if (v := taken.get(Point("volts", u.ref("plus"), u.ref("minus")))) is not None]
        if own is not None and read:
            found.append(Charging(e.id, e.set_v, own, sum(read) / len(read)))
    return tuple(found)


def charge_hours(plan: Plan, scenario: Scenario, source: str) -> float:
    """Hours until the first unit holds `FULL_PERCENT`, one source on, all other equipment off; inf if it never does.

    Raises
    ------
    KeyError
        There is no such source.
    """
    thing = plan.by_id[source]
    if not isinstance(thing, Source):
        raise KeyError(source)
    alone = scenario.model_copy(
        update={"states": {**{e.id: "off" for e in plan.equipment}, source: "on"}, "id": "charging"}
    )
    c = over_time(plan, alone, LONGEST_H, STEP_S).course
    if not len(c.hours):
        return float("inf")
    fullest = c.soc_percent.max(axis=1)
    reached = (fullest >= FULL_PERCENT).nonzero()[0]
    return float(c.hours[reached[0]]) if reached.size else float("inf")


def with_more(plan: Plan, run: str, ohm: float) -> Plan:
    """The plan with so much more resistance in a conductor's first joint.

    Parameters
    ----------
    run : str
        Id of the conductor.
    ohm : float
        More than is planned, ohm.
    """
    r = plan.run_by_id[run]
    if r.measured_ohm is not None:
        return edits.change(plan, run, measured_ohm=r.measured_ohm + ohm)
    return edits.change(plan, run, joint_a_ohm=_joint(plan, r) + ohm)


def _joint(plan: Plan, run: Run) -> float:
    if run.joint_a_ohm is not None:
        return run.joint_a_ohm
    fixed, _ = run_ohms(run.model_copy(update={"joint_b_ohm": None}), wire(plan).parts)
    return fixed if run.length_m == 0.0 else fixed / 2.0


class Slower(NamedTuple):
    """What a source's error and a bad joint cost.

    Attributes
    ----------
    planned_h, real_h : float
        Hours as planned, and as the readings have it.
    """

    planned_h: float
    real_h: float


def slower(
    plan: Plan, scenario: Scenario, source: str, error_v: float = 0.0, joints: dict[str, float] | None = None
) -> Slower:
    """Hours of charging as planned, and with a source off by so much and joints with so many ohms more.

    Parameters
    ----------
    source : str
        Id of the charger, alternator or solar controller.
    error_v : float
        How much more it holds than it is set to, V.
    joints : dict, optional
        More resistance in the first joint of conductors, ohm, by id.
    """
    real = plan
    for run, ohm in (joints or {}).items():
        real = with_more(real, run, ohm)
    thing = plan.by_id[source]
    if error_v and isinstance(thing, Source):
        real = edits.change(real, source, set_v=thing.set_v + error_v)
    hours = partial(charge_hours, scenario=scenario, source=source)
    return Slower(hours(plan), hours(real))
