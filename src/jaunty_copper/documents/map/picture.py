"""What the window shows of one plan: its map, its study, its findings; and readings of them."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from math import isfinite, nan
from typing import TYPE_CHECKING, NamedTuple

from jaunty_copper.codes.checks import Finding, Verdict
from jaunty_copper.diagram.shapes import Diagram
from jaunty_copper.plan.model import Converter, Equipment, Plan

if TYPE_CHECKING:
    # Rules and solver are loaded with the first study, once the window stands.
    from jaunty_copper.assessment.assessment import Assessment
    from jaunty_copper.codes.case import Case
    from jaunty_copper.commissioning.bands import Bands
    from jaunty_copper.network.state import State
    from jaunty_copper.network.study import Study
    from jaunty_copper.protection.protection import Protection

MOST_READ = 300
"""Of a plan of more runs only a part is in sight: each is read once it is painted."""
WORST = None
"""In place of a scenario's id: the worst of all."""


class RunReading(NamedTuple):
    """A run in a scenario; nan where there is no operating point."""

    current_a: float
    drop_v: float
    loss_w: float
    temperature_c: float
    air_c: float
    ampacity_a: float
    used: float


class EquipmentReading(NamedTuple):
    """Equipment in a scenario; nan where there is no operating point."""

    voltage_v: float
    current_a: float
    drop_v: float
    drop_share: float
    limit_share: float
    mode: str


class Warmth(NamedTuple):
    """Copper of a run, degrees Celsius.

    Attributes
    ----------
    ends_c : float
        When the scenario's own time is over; in the end, where it says none.
    steady_c : float
        In the end.
    limit_c : float
        What its insulation and terminals are rated for.
    air_c : float
        About it.
    minutes : float or None
        How long the scenario lasts.
    """

    ends_c: float
    steady_c: float
    limit_c: float
    air_c: float
    minutes: float | None


NO_RUN = RunReading(nan, nan, nan, nan, nan, nan, nan)
NO_EQUIPMENT = EquipmentReading(nan, nan, nan, nan, nan, "")


class Read(NamedTuple):
    """What was expected somewhere, how closely, and what was read there, in volts, amperes or degrees."""

    expected: float
    tolerance: float
    value: float
    unit: str

    @property
    def times(self) -> float:
        """By how many tolerances it is off."""
        return abs(self.value - self.expected) / max(self.tolerance, 1e-12)


@dataclass(frozen=True, eq=False)
class Picture:
    """Everything the window shows, made from one plan.

    Attributes
    ----------
    judged : bool
        Whether what is wrong is known too, and not only the figures.
    awaited : tuple of Finding
        What was wrong before, shown until it is.
    bands : Bands, optional
        Between what its figures lie where what is not known differs, once that is worked out.
    """

    plan: Plan
    diagram: Diagram
    known: Assessment | None = None
    read: dict[str, Read] = field(default_factory=dict)
    read_in: str = ""
    judged: bool = True
    awaited: tuple[Finding, ...] = ()
    bands: Bands | None = None

    @property
    def study(self) -> Study | None:
        """The operating points, once they are known."""
        return self.known.study if self.known is not None else None

    @property
    def case(self) -> Case | None:
        """The plan under its code, once it is studied."""
        return self.known.case if self.known is not None else None

    @property
    def protection(self) -> Protection | None:
        """Faults and devices, once the plan is studied."""
        return self.known.protection if self.known is not None else None

    @property
    def findings(self) -> tuple[Finding, ...]:
        """What is wrong, worst first."""
        if not self.judged:
            return self.awaited
        return self.known.findings if self.known is not None else ()

    @cached_property
    def worst_at(self) -> dict[str, Verdict]:
        """The worst finding at each place."""
        found: dict[str, Verdict] = {}
        for f in self.findings:
            found[f.place] = min(f.verdict, found.get(f.place, f.verdict))
        return found

    def looks_like(self, other: Picture) -> bool:
        """Whether another shows the same figures, verdicts and readings, for lenses that operating points tell all of."""
        same = self.known is other.known and self.diagram is other.diagram
        return same and self.worst_at == other.worst_at and self.read == other.read and self.bands is other.bands

    @cached_property
    def order(self) -> dict[str, int]:
        """Place of each thing in the plan."""
        return {id_: k for k, id_ in enumerate(self.plan.by_id)}

    @cached_property
    def row_of_run(self) -> dict[str, str | None]:
        """The row that each run belongs to; None for those that rows share."""
        return {r.run: r.row for r in self.diagram.ribbons}

    def states(self, scenario: str | None) -> list[State]:
        """The solved states to look at: of one scenario, or of all in which nothing surges.

        Limits of ampacity and drop hold for what lasts; a surge is looked at by choosing it.
        """
        return self.case.once(_states, scenario) if self.case is not None else []

    def run(self, id_: str, scenario: str | None) -> RunReading:
        """A run in a scenario, or where it carries most."""
        return self.case.once(_run, (id_, scenario)) if self.case is not None else NO_RUN

    def warmth(self, id_: str, scenario: str | None) -> Warmth | None:
        """How warm a run gets in a scenario, or where it ends warmest; None where that is not followed."""
        return self.case.once(_warmth, (id_, scenario)) if self.case is not None else None

    def read_ahead(self, scenario: str | None) -> None:
        """Make the readings that the map shows of a scenario, where nobody waits for them; of a large plan what they share."""
        if self.case is None:
            return
        # Loaded with the first study.
        from jaunty_copper.codes.warmth import ends_c

        _ = self.case.ampacities, self.case.protection.devices
        for state in self.states(scenario):
            self.case.once(ends_c, state.scenario.id)
        for bank in self.case.wiring.banks:
            self.spread(next(iter(bank.by_id)), scenario)
        if len(self.plan.runs) > MOST_READ:
            return
        for run in self.plan.runs:
            self.run(run.id, scenario)
            self.warmth(run.id, scenario)
        for e in self.plan.equipment:
            self.equipment(e, scenario)

    def through(self, id_: str, scenario: str | None) -> tuple[float, float]:
        """Current through an inline item or out of a battery, and its drop, where it is largest."""
        state = self.state_of(id_, scenario)
        return (state.current(id_), state.drop(id_)) if state is not None else (nan, nan)

    def state_of(self, id_: str, scenario: str | None) -> State | None:
        """The state in which a run, an inline item or a battery carries most."""
        return self.case.once(_carries_most, (id_, scenario)) if self.case is not None else None

    def battery_v(self, id_: str, scenario: str | None) -> float:
        """Terminal voltage of a battery: the lowest of the scenarios looked at."""
        return min((s.volts(f"{id_}.plus") - s.volts(f"{id_}.minus") for s in self.states(scenario)), default=nan)

    def bank(self, unit: str, scenario: str | None) -> tuple[float, float]:
        """Current out of the whole bank of a unit where it is largest, and the voltage between its take-offs then."""
        states = self.states(scenario)
        bank = next((b for b in self.study.wiring.banks if unit in b.by_id), None) if self.study else None
        if bank is None or not states:
            return nan, nan
        amps = [sum(s.current(u) for u in bank.outlets) for s in states]
        k = max(range(len(states)), key=lambda n: abs(amps[n]))
        plus, minus = (bank.takeoffs[side][0] for side in ("plus", "minus"))
        return amps[k], states[k].volts(plus) - states[k].volts(minus)

    def spread(self, unit: str, scenario: str | None) -> float:
        """How far apart the strings of a unit's bank are; nan where it has one only, or nothing flows."""
        bank = next((b for b in self.study.wiring.banks if unit in b.by_id), None) if self.study else None
        if bank is None or self.case is None or len(bank.strings) < 2:
            return nan
        states = self.case.study.every if scenario is WORST else self.case.study.states
        found = zip(self.case.every_sharing[bank.id], states, strict=False)
        return max((x.spread for x, s in found if scenario in (WORST, s.scenario.id)), default=nan)

    def node_v(self, ref: str, scenario: str | None) -> float:
        """Voltage of a terminal; with all scenarios, where it is farthest from 0 V."""
        return max((s.volts(ref) for s in self.states(scenario) if ref in s.wiring.node), key=abs, default=nan)

    def output(self, e: Converter, scenario: str | None) -> tuple[float, float]:
        """Voltage and current at a converter's output, where it gives most."""
        found = [s.output(e) for s in self.states(scenario) if e.id in s.wiring.source_index]
        return max(found, key=lambda pair: pair[1], default=(nan, nan))

    def worst_for(self, e: Equipment, scenario: str | None) -> State | None:
        """The state in which equipment loses most voltage."""
        return self.case.once(_worst_for, (e.id, scenario)) if self.case is not None else None

    def equipment(self, e: Equipment, scenario: str | None) -> EquipmentReading:
        """Equipment in a scenario, or where it loses most."""
        return self.case.once(_equipment, (e.id, scenario)) if self.case is not None else NO_EQUIPMENT


# Readings are made once for a case: painting asks for the same ones again and again.


def _states(case: Case, scenario: str | None) -> list[State]:
    # Copper is to carry in the worst case what units that let no charge in now will take once they are warm.
    solved = [s for s in (case.study.every if scenario is WORST else case.study.states) if s.solved]
    solved = [s for s in solved if scenario in (WORST, s.scenario.id)]
    return [s for s in solved if scenario is not WORST or not s.momentary] or solved


def _carries_most(case: Case, key: tuple[str, str | None]) -> State | None:
    id_, scenario = key
    states = case.once(_states, scenario) if id_ in case.wiring.branch else ()
    return max(states, key=lambda s: abs(s.current(id_)), default=None)


def _run(case: Case, key: tuple[str, str | None]) -> RunReading:
    id_, state = key[0], case.once(_carries_most, key)
    if state is None:
        return NO_RUN
    k = state.wiring.branch[id_]
    current, lost = state.current(id_), state.drop(id_)
    known = case.ampacities.get(id_)
    amp, able = (known.amps, case.for_load(known)[0]) if known is not None else (nan, nan)
    used = abs(current) / able if able > 0.0 else nan
    zone = state.wiring.plan.zone_of(state.wiring.plan.run_by_id[id_].zone)
    air = state.scenario.air_c(zone)
    return RunReading(current, lost, current * lost, float(state.point.temperature_c[k]), air, amp, used)


def _warmth(case: Case, key: tuple[str, str | None]) -> Warmth | None:
    # Loaded with the first study.
    from jaunty_copper.codes.warmth import bears_c, ends_c

    run, states = case.plan.run_by_id.get(key[0]), case.once(_states, key[1])
    if run is None:
        return None
    ends = [(c, s) for s in states if (c := case.once(ends_c, s.scenario.id).get(run.id)) is not None]
    if not ends:
        return None
    # Not where it carries most: hot air may count for more.
    warm_c, state = max(ends, key=lambda pair: pair[0])
    steady_c = float(state.point.temperature_c[state.wiring.branch[run.id]])
    air_c = state.scenario.air_c(case.plan.zone_of(run.zone))
    return Warmth(warm_c, steady_c, bears_c(case, run), air_c, state.scenario.minutes)


def _worst_for(case: Case, key: tuple[str, str | None]) -> State | None:
    e, states = case.plan.by_id.get(key[0]), case.once(_states, key[1])
    if not isinstance(e, Equipment):
        return None
    lost = [(s, case.study.drop_v(e, s)) for s in states]
    found = [(s, drop) for s, drop in lost if isfinite(drop) and abs(s.port(e)[1]) > 1e-9]
    return max(found or lost, key=lambda pair: pair[1], default=(None, nan))[0]


def _equipment(case: Case, key: tuple[str, str | None]) -> EquipmentReading:
    e, state = case.plan.by_id.get(key[0]), case.once(_worst_for, key)
    if not isinstance(e, Equipment) or state is None:
        return NO_EQUIPMENT
    v, current = state.port(e)
    lost = case.study.drop_v(e, state) if abs(current) > 1e-9 else 0.0
    limit = case.drop_limit(e)[0] / 100.0
    return EquipmentReading(v, current, lost, lost / e.nominal_v, limit, state.mode(e))
