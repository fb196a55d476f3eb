"""A circuit's batteries over days: what is asked changes by the hour, what is empty waits until it is charged again.

Each hour is followed as a course of its own that begins where the last one ended. A source whose bank is full holds
another voltage from then on; a bank that is empty gives nothing more until it holds enough again.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jaunty_copper.physics.cell_units import CellUnits
from jaunty_copper.physics.circuit import Duty, Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.course import Course, Event, Following, Tapering
from jaunty_copper.physics.operating_point import Solver

BACK_PERCENT = 20.0
"""Charge at which a bank that was empty feeds its loads again, %: representative of what switches loads back on."""
CHARGED_AGAIN_PERCENT = 90.0
"""Charge below which a source in float charges again, %; representative."""
STANDS = ("empty", "collapse", "all_open")
"""Events after which nothing more is to be followed as it was."""
SHORTEST_H = 1e-9


@dataclass(frozen=True)
class Phase:
    """Some hours in which the same is asked."""

    hours: float
    duty: Duty


@dataclass(frozen=True)
class Belongs:
    """What hangs on which bank, by its number; -1 for none.

    Attributes
    ----------
    unit, load, source : ndarray of int
        Of each unit, each load, and each source; a converter's is the bank that feeds it.
    charges : ndarray of int
        Of each source the bank that it charges.
    """

    unit: Ints
    load: Ints
    source: Ints
    charges: Ints


@dataclass(frozen=True)
class Stages:
    """What each source does once its bank is full.

    Attributes
    ----------
    float_v : ndarray, shape (s,)
        What it holds then; nan where it goes on as before.
    absorb_h : ndarray, shape (s,)
        How long it holds its voltage at most before that; inf for until the bank takes no more than a tail.
    """

    float_v: Floats
    absorb_h: Floats


@dataclass(frozen=True)
class Days:
    """What happened.

    Attributes
    ----------
    hours : ndarray, shape (t,)
        Times, from 0; a time at which something switched stands twice.
    current_a, soc_percent, terminal_v : ndarray, shape (t, u)
        As of a course.
    events : tuple of Event
        In order; `float` when a source goes over to float, `refuses` when a unit first lets no charge in, `dark` when a bank (its number) feeds nothing more, `back` when
        it does again.
    load_h : ndarray, shape (l,)
        How long each load was asked for and not fed.
    gassed_ah : ndarray, shape (u,)
        What went into each unit while it was full, Ah.
    """

    hours: Floats
    current_a: Floats
    soc_percent: Floats
    terminal_v: Floats
    events: tuple[Event, ...]
    load_h: Floats
    gassed_ah: Floats


def follow_days(
    solver: Solver, phases: Sequence[Phase], units: CellUnits, belongs: Belongs, stages: Stages, cut_v: Floats,
    step_s: float = 60.0,
) -> Days:  # fmt: skip
    """Follow the units through phases.

    Parameters
    ----------
    solver : Solver
        Of the circuit.
    phases : sequence of Phase
        One after the other.
    units : CellUnits
        As they begin.
    belongs : Belongs
        What hangs on which bank.
    stages : Stages
        What sources do.
    cut_v : ndarray, shape (l,)
        Voltage below which each load stops for the rest of its phase; 0 for never.
    step_s : float
        Time step, s.
    """
    work = _Work(solver, units, belongs, stages, cut_v, step_s)
    for phase in phases:
        work.through(phase)
    return work.found()


class _Work:
    """Where the days stand."""

    def __init__(
        self, solver: Solver, units: CellUnits, belongs: Belongs, stages: Stages, cut_v: Floats, step_s: float
    ) -> None:
        m = units.management
        # What is empty stands still until it is charged, whoever opens it.
        calm = None if m is None else replace(m, when_empty=np.zeros_like(m.when_empty))
        self.solver, self.units, self.belongs, self.stages = solver, replace(units, management=calm), belongs, stages
        self.cut_v, self.step_s = cut_v, step_s
        self.soc, self.hour = units.soc_percent.astype(float), 0.0
        self.dark: set[int] = set()
        self.floating: Flags = np.zeros(stages.float_v.size, dtype=bool)
        self.left_h = stages.absorb_h.copy()
        self.ran: Flags = np.zeros(stages.float_v.size, dtype=bool)
        self.parts: list[tuple[Floats, Floats, Floats, Floats]] = []
        self.events: list[Event] = []
        self.load_h, self.gassed = np.zeros(cut_v.size), np.zeros(self.soc.size)

    def through(self, phase: Phase) -> None:
        """Follow one phase to its end, whatever switches in it."""
        self._begin(phase.duty)
        left, closed, fallen = phase.hours, phase.duty.closed, np.zeros(self.cut_v.size, dtype=bool)
        while left > SHORTEST_H:
            duty = self._duty(replace(phase.duty, closed=closed), fallen)
            may = ~np.isnan(self.stages.float_v) & ~self.floating
            following = Following(
                self.solver, duty, replace(self.units, soc_percent=self.soc), min(self.step_s, 3600.0 * left), self.cut_v,
                Tapering(
                    may, self.left_h, self.belongs.charges, self.belongs.unit, ~np.isin(self.belongs.unit, list(self.dark))
                ),
            )  # fmt: skip
            course = following.to(left)
            taken = min(float(course.hours[-1]), left) if course.hours.size else 0.0
            self._keep(course, following, phase.duty, duty, taken)
            left -= taken
            closed = following.duty.closed
            fallen |= _asks(duty) & ~_asks(following.duty)
            last = course.events[-1] if course.events else None
            if last is None or last.kind not in ("float", *STANDS):
                return
            if last.kind == "float":
                self.floating[last.index] = True
            elif not self._stops(last, duty):
                self._stand(left, phase.duty)
                return

    def found(self) -> Days:
        """All of it."""
        hours, current, soc, volts = (np.concatenate(rows) for rows in zip(*self.parts, strict=True))
        return Days(hours, current, soc, volts, tuple(self.events), self.load_h, self.gassed)

    def _begin(self, duty: Duty) -> None:
        """What a new phase brings back: banks that are charged again, sources that charge again."""
        for bank in sorted(self.dark):
            if self.soc[self.belongs.unit == bank].min() >= BACK_PERCENT:
                self.dark.discard(bank)
                self.events.append(Event(self.hour, "back", bank))
        for k in np.flatnonzero(duty.source_on):
            mine = self.belongs.unit == self.belongs.charges[k]
            low = mine.any() and self.soc[mine].min() < CHARGED_AGAIN_PERCENT
            if not self.ran[k] or (self.floating[k] and low):
                self.floating[k], self.left_h[k] = False, self.stages.absorb_h[k]
        self.ran = duty.source_on.copy()

    def _duty(self, duty: Duty, fallen: Flags) -> Duty:
        """What is asked, without what stands still."""
        dark = np.array(sorted(self.dark), dtype=np.int64)
        off = np.isin(self.belongs.load, dark) | fallen
        fed = self.solver.circuit.feed_plus >= 0
        return replace(
            duty,
            load_w=np.where(off, 0.0, duty.load_w),
            load_a=np.where(off, 0.0, duty.load_a),
            load_s=np.where(off, 0.0, duty.load_s),
            source_v=np.where(self.floating, self.stages.float_v, duty.source_v),
            source_on=duty.source_on & ~(fed & np.isin(self.belongs.source, dark)),
        )

    def _stops(self, last: Event, duty: Duty) -> bool:
        """Let the bank of what ended a course stand; False where it did already, or nobody knows which."""
        banks: set[int] = set()
        if last.kind == "empty":
            banks = {int(self.belongs.unit[last.index])}
        elif last.kind == "collapse":
            asks = self.belongs.load[[last.index]] if last.index >= 0 else self.belongs.load[_asks(duty)]
            banks = {int(n) for n in asks if n >= 0}
        new = banks - self.dark
        self.dark |= new
        self.events += [Event(self.hour, "dark", bank) for bank in sorted(new)]
        return bool(new)

    def _stand(self, hours: float, asked: Duty) -> None:
        """Nothing flows for some hours."""
        if hours <= SHORTEST_H:
            return
        rest = np.zeros((2, self.soc.size))
        volts, _ = self.units.emf(self.soc)
        self.parts.append((np.array([self.hour, self.hour + hours]), rest, rest + self.soc, rest + volts))
        self.load_h += hours * _asks(asked)
        self.hour += hours

    def _keep(self, course: Course, following: Following, asked: Duty, given: Duty, taken: float) -> None:
        reported = {e.index for e in self.events if e.kind == "refuses"}
        self.events += [
            replace(e, hour=e.hour + self.hour)
            for e in course.events
            if e.kind != "source_mode" and not (e.kind == "refuses" and e.index in reported)
        ]
        stopped = {e.index: e.hour for e in course.events if e.kind == "load_stops"}
        self.load_h += taken * (_asks(asked) & ~_asks(given))
        for k, hour in stopped.items():
            self.load_h[k] += taken - hour
        if course.hours.size:
            self.parts.append((course.hours + self.hour, course.current_a, course.soc_percent, course.terminal_v))
            self.soc = course.soc_percent[-1]
        self.gassed += following.gassed_ah
        assert following.left_h is not None
        self.left_h = following.left_h
        self.hour += taken


def _asks(duty: Duty) -> Flags:
    return (duty.load_w > 0.0) | (duty.load_a > 0.0) | (duty.load_s > 0.0)
