"""What can be read on a plan, and in which scenarios."""

from math import inf, nan
from typing import Literal, NamedTuple

from jaunty_copper.language import say
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.plan.model import Inline, Plan, Run, Scenario, Source, State

Quantity = Literal["volts", "amps", "joint", "celsius"]
UNIT = {"volts": "V", "amps": "A", "joint": "V", "celsius": "°C"}


class Point(NamedTuple):
    """Where something is measured.

    Attributes
    ----------
    quantity : str
        volts from terminal a to terminal b; amps through the conductor, device or unit that `a` names;
        joint, the volts from a lug's barrel to its stud, at the end `b` (a or b) of the conductor `a`;
        celsius, at the warmest spot of the conductor or device `a`; there b says after how many minutes of that
        load, empty for long enough to rise no more.
    """

    quantity: Quantity
    a: str
    b: str


def minutes_of(point: Point) -> float:
    """After how many minutes of its load a warmth is read; inf for long enough, nan where that is no time.

    Parameters
    ----------
    point : Point
        Of quantity celsius.
    """
    try:
        minutes = float(point.b) if point.b else inf
    except ValueError:
        return nan
    return minutes if minutes > 0.0 else nan


class Unknown(NamedTuple):
    """Something whose resistance may differ from the plan.

    Attributes
    ----------
    branch : int
        Its branch.
    owner : str
        Id of its conductor, device or unit.
    part : str
        a or b, a conductor's joint there; copper, what lies between; empty where readings see it as a whole.
    """

    branch: int
    owner: str
    part: str = ""

    @property
    def name(self) -> str:
        """How it is written: W21, or W21:a."""
        return f"{self.owner}:{self.part}" if self.part else self.owner


class Expected(NamedTuple):
    """What a point should read.

    Attributes
    ----------
    value : float
        In volts or amperes.
    tolerance : float
        Two standard deviations of all that is not known: lengths, joints, loads, charge, meter.
    """

    point: Point
    value: float
    tolerance: float


def points_of(wiring: Wiring) -> tuple[Point, ...]:
    """Points that part every conductor from every other.

    The drop over each, stud to stud, and over each device; the voltage of each unit and of each source; where strings share a
    load, the current of each unit, which voltages of some millivolts cannot tell.
    """
    found = [Point("volts", r.a, r.b) for r in wiring.plan.runs]
    inline = [x for x in wiring.plan.items if isinstance(x, Inline) and x.ref("a") in wiring.node]
    found += [Point("volts", x.ref("a"), x.ref("b")) for x in inline]
    found += [Point("volts", b.ref("plus"), b.ref("minus")) for bank in wiring.banks for b in bank.units]
    found += [Point("volts", *e.output) for e in wiring.sources]
    found += [Point("amps", b.id, "") for bank in wiring.banks if len(bank.strings) > 1 for b in bank.units]
    return tuple(found)


def joints_of(run: Run) -> tuple[Point, ...]:
    """The joints of a conductor that can be measured by themselves, barrel to stud."""
    whole = run.length_m == 0.0 or run.measured_ohm is not None
    return () if whole else (Point("joint", run.id, "a"), Point("joint", run.id, "b"))


def everything_on(plan: Plan) -> Scenario:
    """A scenario to measure in: all equipment on, switches as drawn, so that every conductor carries what it can."""
    soc = plan.scenarios[0].soc_percent if plan.scenarios else 80.0
    return Scenario(id="measuring", name=say("everything on"), soc_percent=soc)


def bank_alone(plan: Plan) -> Scenario:
    """A scenario to measure a bank in: all loads on, all that charges off, so that the units carry everything."""
    soc = plan.scenarios[0].soc_percent if plan.scenarios else 80.0
    sources: dict[str, State] = {e.id: "off" for e in plan.equipment if isinstance(e, Source)}
    return Scenario(id="discharging", name=say("loads on, sources off"), soc_percent=soc, states=sources)


def to_measure_in(plan: Plan) -> tuple[Scenario, ...]:
    """Scenarios to measure in: the two made for it, then the plan's own of some duration."""
    return (everything_on(plan), bank_alone(plan), *plan.scenarios)
