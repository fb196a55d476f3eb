"""What can be said of readings in one scenario, worked out off the window's thread."""

from dataclasses import dataclass
from functools import cached_property

from jaunty_copper.commissioning.charging import Charging, Slower, charging_of, slower
from jaunty_copper.commissioning.choice import Group, fewest, groups
from jaunty_copper.commissioning.diagnose import Diagnosis, diagnose
from jaunty_copper.commissioning.estimates import estimates
from jaunty_copper.commissioning.model import SOURCE_SHARE, Bench, NothingToMeasure, bench, known
from jaunty_copper.commissioning.next_reading import Next, next_reading
from jaunty_copper.commissioning.points import UNIT, Expected, Point, joints_of
from jaunty_copper.commissioning.turned import righted
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.documents.map.picture import Read
from jaunty_copper.language import say
from jaunty_copper.physics.circuit import Mode
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.giving_up import go_on
from jaunty_copper.plan.model import Plan, Scenario

Readings = dict[Point, float]


@dataclass(frozen=True)
class Measured:
    """A scenario's expectations, what was read, and what that says.

    Attributes
    ----------
    bench : Bench or None
        None where nothing can be measured; `trouble` then says why.
    usual : int
        How many of the bench's points are those of every plan; further ones follow.
    estimated : dict
        Resistance of each conductor, device and unit by the readings, and one standard deviation, ohm.
    turned : tuple of Point
        Where leads were swapped or a clamp was turned round: what was read there counts with the other sign.
    """

    plan: Plan
    scenario: Scenario
    taken: Readings
    more: tuple[Point, ...]
    bench: Bench | None
    usual: int
    fewest: tuple[int, ...]
    blind: tuple[str, ...]
    groups: tuple[Group, ...]
    diagnosis: Diagnosis | None
    next: Next | None
    charging: tuple[tuple[Charging, Slower | None], ...]
    estimated: dict[str, tuple[float, float]]
    trouble: str
    turned: tuple[Point, ...] = ()

    @cached_property
    def expected(self) -> tuple[Expected, ...]:
        """What every point should read."""
        return self.bench.expected() if self.bench is not None else ()

    @cached_property
    def over(self) -> dict[str, Read]:
        """What was expected and read over each conductor and device, and at each unit and source, by its id."""
        found: dict[str, Read] = {}
        by_ends = {(r.a, r.b): r.id for r in self.plan.runs}
        for e in self.expected:
            p, value = e.point, self.taken.get(e.point)
            id_ = by_ends.get((p.a, p.b)) or (p.a if p.quantity != "volts" else p.a.partition(".")[0])
            if value is not None and (id_ not in found or p.quantity == "volts"):
                found[id_] = Read(e.value, e.tolerance, -value if p in self.turned else value, UNIT[p.quantity])
        return found


KEPT_APART = frozenset(
    {
        "readings",
        "log",
        "done",
        "done_on",
        "prices",
        "packs",
        "ready_m",
        "stock",
        "reels_m",
        "boards",
        "routes",
        "torques",
        "stud_material",
        "name",
        "note",
    }
)
"""Fields of a plan that what to expect does not depend on."""


def same_copper(one: Plan, other: Plan) -> bool:
    """Whether two plans differ in their readings and the like only, so that the same is to be expected."""
    return one is other or all(
        getattr(one, name) == getattr(other, name) for name in Plan.model_fields if name not in KEPT_APART
    )


def measuring(
    plan: Plan, scenario: Scenario, taken: Readings, more: tuple[Point, ...], before: Measured | None
) -> Work:
    """Work out what to expect and what the readings say; reports `Measured`.

    Parameters
    ----------
    taken : dict
        What was read, by its point; what the plan no longer has is left out.
    more : tuple of Point
        To measure beyond the usual points.
    before : Measured, optional
        What was found last: of the same copper, its bench is used again.
    """

    def work(task: Task) -> None:
        task.report(measure())

    def measure() -> Measured:
        try:
            usual = (
                before.bench
                if before is not None
                and before.bench is not None
                and before.scenario == scenario
                and same_copper(before.plan, plan)
                else bench(plan, scenario)
            )
        except NothingToMeasure as error:
            return Measured(plan, scenario, taken, more, None, 0, (), (), (), None, None, (), {}, str(error))
        count = before.usual if before is not None and usual is before.bench else len(usual.points)
        kept = {p: v for p, v in taken.items() if known(usual.wiring, p)}
        b = usual.with_points([*(p for p in more if known(usual.wiring, p)), *kept])
        if before is not None and b is before.bench and before.fewest:
            chosen, blind, alike = before.fewest, before.blind, before.groups
        else:
            few, hidden = fewest(b)
            chosen, blind, alike = tuple(few), tuple(hidden), groups(b, few)
        go_on()
        values, turned = righted(b, b.readings(kept))
        right = {p: -v if p in turned else v for p, v in kept.items()}
        found = diagnose(b, values)
        return Measured(
            plan, scenario, kept, more, b, count, chosen, blind, alike, found, _next(b, right, found), _charging(b, right, found), _estimated(b, values, found), "", turned
        )  # fmt: skip

    return work


def _next(b: Bench, taken: Readings, found: Diagnosis) -> Next | None:
    """The next best reading, joints by themselves among those to choose from."""
    if not found.alarm:
        return None
    names = {s.owner for s in found.plausible[:3]} | {
        n.partition(":")[0] for s in found.plausible[:1] for n in s.with_it
    }
    runs = b.wiring.plan.run_by_id
    wide = b.with_points(p for n in sorted(names) if n in runs for p in joints_of(runs[n]))
    values = wide.readings(taken)
    return next_reading(wide, values, diagnose(wide, values) if wide is not b else found)


def _estimated(b: Bench, values: Floats, found: Diagnosis) -> dict[str, tuple[float, float]]:
    """Resistance of everything whose readings say anything of it."""
    if not found.readings:
        return {}
    sums: dict[str, tuple[float, float]] = {}
    for e in estimates(b, values, found.blamed):
        ohm, variance = sums.get(e.place.owner, (0.0, 0.0))
        sums[e.place.owner] = ohm + e.ohm, variance + e.sigma_ohm**2
    return {owner: (ohm, variance**0.5) for owner, (ohm, variance) in sums.items()}


def _charging(b: Bench, taken: Readings, found: Diagnosis) -> tuple[tuple[Charging, Slower | None], ...]:
    """Every source that was read at both its ends, with the hours that its error and a blamed joint cost."""
    joints = {s.owner: s.more_ohm for s in found.blamed if s.owner in b.wiring.plan.run_by_id and s.more_ohm > 0.0}
    made = []
    for c in charging_of(b, taken):
        holds = b.base.mode[b.wiring.source_index[c.source]] == Mode.VOLTAGE
        error = c.error_v if holds and abs(c.error_v) > 2.0 * SOURCE_SHARE[Mode.VOLTAGE] * c.set_v else 0.0
        made.append((c, slower(b.wiring.plan, b.scenario, c.source, error, joints) if error or joints else None))
    return tuple(made)


def typed_value(f: Measured | None, point: Point, text: str) -> float:
    """What was typed for a point, in its unit; watts as the amperes that they are at the voltage of their system.

    Raises
    ------
    NotUnderstood
        It is no such quantity, or watts where several voltages meet.
    """
    if point.quantity != "amps" or not text.strip().casefold().endswith("w"):
        return read(text, UNIT[point.quantity])
    volts = f.bench.system_v(point.a) if f is not None and f.bench is not None else None
    if volts is None:
        raise NotUnderstood(say("watts say nothing here, where several voltages meet: write amperes"))
    return read(text, "W") / volts
