"""How a circuit's batteries discharge or charge over hours.

The open-circuit voltage and the resistance of each unit follow its charge; modes, loads and
sources follow the voltages. Between full solutions the circuit answers linearly: its response
to the EMFs is factored once and used until a voltage has moved too far or something switches.
Each step is implicit in the charge (Rosenbrock's first-order method), so that units that
level each other out stay stable whatever the step.
"""

from dataclasses import dataclass, replace

import numpy as np

from jaunty_copper.physics.answers import response
from jaunty_copper.physics.cell_units import CellUnits
from jaunty_copper.physics.circuit import Duty, Flags, Ints, OperatingPoint
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.refusing import Refusing

MOVED_SHARE = 2e-3
"""EMF that has moved by this share of itself asks for a new full solution."""
NEARLY_FULL = 90.0
"""Charge, %, below which a small current says that little is given, not that the unit is full."""
MOST_TURNS = 6
"""How often what is charged is taken anew within one solution."""
SLOPE_SHARE = 1e-3
"""How far the charge's answer to a current may be off within a step: what is taken is counted exactly all the same."""
TURNED_A = 1e-3
"""A current that has turned by so much into or out of a unit asks for one too."""
ENDS = ("empty", "full", "collapse", "all_open")
"""Events that end a course."""


@dataclass(frozen=True)
class Event:
    """Something that switched.

    Attributes
    ----------
    hour : float
        When.
    kind : str
        A load stopped for want of voltage, a source changed its mode, a unit is empty or
        full, a unit's management system opened it or let no charge in, all of them are open,
        or there was no operating point any more.
    index : int
        Which load, source or unit.
    """

    hour: float
    kind: str
    index: int


@dataclass(frozen=True)
class Course:
    """What happened over time.

    Attributes
    ----------
    hours : ndarray, shape (t,)
        Times, from 0.
    current_a : ndarray, shape (t, u)
        Out of each unit's plus over the step that begins then; negative while it is charged.
    soc_percent, terminal_v : ndarray, shape (t, u)
        Charge and voltage of each unit.
    events : tuple of Event
        In order.
    solutions : int
        Full solutions that it took.
    """

    hours: Floats
    current_a: Floats
    soc_percent: Floats
    terminal_v: Floats
    events: tuple[Event, ...]
    solutions: int

    @property
    def stopped(self) -> Event | None:
        """Why it ended early; None where it ran to its end."""
        last = self.events[-1] if self.events else None
        return last if last and last.kind in ENDS else None


def course(
    solver: Solver, duty: Duty, units: CellUnits, hours: float, step_s: float = 10.0, cut_v: Floats | None = None
) -> Course:
    """Follow the units until time is up or the first of them is empty or full.

    Parameters
    ----------
    solver : Solver
        Of the circuit.
    duty : Duty
        What is asked throughout; its EMFs are replaced by the units' own.
    units : Units
        In the order of the circuit's battery branches.
    hours : float
        How long.
    step_s : float
        Time step, s.
    cut_v : ndarray, optional
        Voltage below which each load stops for good; 0 for never.

    Returns
    -------
    Course

    Notes
    -----
    Within a step the charge q of each unit obeys dq/dt = -I with I = I0 + J (E(q) - E0). One
    step solves (1 + h J S) I = I0 + J (E - E0), S being dE/dq, so that the ampere-hours taken
    are exactly those integrated.
    """
    return Following(solver, duty, units, step_s, cut_v).to(hours)


@dataclass(frozen=True)
class Tapering:
    """Sources that go on once a bank is full, at another voltage or at the same.

    Attributes
    ----------
    may : ndarray of bool, shape (s,)
        Which of them still go over to float when the bank is full.
    left_h : ndarray, shape (s,)
        How long each holds its voltage before it does so anyway; inf for as long as it takes.
    bank : ndarray of int, shape (s,)
        The bank that each charges, -1 for none.
    unit_bank : ndarray of int, shape (u,)
        The bank of each unit.
    watched : ndarray of bool, shape (u,)
        Units at which it ends when one is empty: the others feed nothing already.
    """

    may: Flags
    left_h: Floats
    bank: Ints
    unit_bank: Ints
    watched: Flags


class Following:
    """The work of one course.

    Parameters
    ----------
    solver, duty, units, step_s, cut_v
        As for `course`.
    taper : Tapering, optional
        None where a unit that is full ends the course; else what is full stays so, and sources go over to float.
    """

    def __init__(
        self, solver: Solver, duty: Duty, units: CellUnits, step_s: float, cut_v: Floats | None,
        taper: Tapering | None = None,
    ) -> None:  # fmt: skip
        c = solver.circuit
        self.solver, self.units, self.h = solver, units, step_s / 3600.0
        self.cells = np.flatnonzero(c.is_battery)
        self.cut_v = np.zeros(c.load_plus.size) if cut_v is None else cut_v
        self.duty = duty
        self.soc = units.soc_percent.astype(float).copy()
        self.events: list[Event] = []
        self.solutions = 0
        self.mode: Floats | None = None
        self.charged: Flags = np.zeros(self.soc.size, dtype=bool)
        self.open: Flags = np.zeros(self.soc.size, dtype=bool)
        self.refusing = Refusing(c, units.no_charge) if units.no_charge.any() else None
        self.refused: Flags = np.zeros(self.soc.size, dtype=bool)
        self.taper = taper
        self.left_h = None if taper is None else taper.left_h.copy()
        self.gassed_ah = np.zeros(self.soc.size)

    def to(self, hours: float) -> Course:
        """Follow the units for some hours, or until something ends it.

        Parameters
        ----------
        hours : float
            How long.
        """
        u = self.units
        steps = max(1, round(hours / self.h))
        times: Floats = np.arange(steps + 1, dtype=np.float64) * float(self.h)
        rows = steps + 1
        current, soc, volts = (np.full((rows, self.soc.size), np.nan) for _ in range(3))
        valid = False
        at = 0
        eye = np.eye(self.soc.size)
        begins = np.full(self.soc.size, np.inf)
        kept_before = np.ones(self.soc.size)
        while at < rows:
            into = self.soc - begins
            if into.min() < 0.0 or into.max() >= 10.0:
                begins, low, slope = u.segment(self.soc)
                into, inverse = self.soc - begins, None
            emf = low + slope * into
            if valid:
                more, drive, now = self._answer(emf)
            if not valid or self._moved_far(emf, more, now):
                if not self._solve(times[at], emf):
                    break
                valid, inverse = True, None
                more, drive, now = np.zeros_like(emf), self.i0, self.i0
            fixed = not more.any()
            soc[at], current[at] = self.soc, now
            volts[at] = emf - (u.ohm + self.extra + more) * now
            if self._opens(times[at], now, volts[at]):
                # Taken again at the same moment, by those that are left: they may open in their turn.
                if self.open.all():
                    current[at] = 0.0
                    self.events.append(Event(times[at], "all_open", self.events[-1].index))
                    break
                valid = False
                continue
            ended = self._ended(times[at], now, volts[at])
            if ended is not None:
                self.events.append(ended)
                break
            # Charge in % falls by 100 h I / C; S in V per % of charge.
            kept = u.kept(now)
            if np.abs(kept - kept_before).max() > SLOPE_SHARE:
                inverse, kept_before = None, kept
            per_a = 100.0 * self.h / u.capacity_ah * kept_before
            if not fixed:
                step = np.linalg.solve(eye + self.response.current_s * (more + slope * per_a), drive)
            else:
                if inverse is None:
                    inverse = np.linalg.inv(eye + self.response.current_s * (slope * per_a))
                step = inverse @ drive
            out: Floats = np.asarray(step, dtype=np.float64)
            self.soc = self.soc - 100.0 * self.h / u.capacity_ah * u.kept(out) * out
            if self.taper is not None and at + 1 < rows:
                self._fill()
            current[at] = step
            at += 1
        last = int(np.count_nonzero(~np.isnan(current).any(axis=1)))
        return Course(times[:last], current[:last], soc[:last], volts[:last], tuple(self.events), self.solutions)

    def _opens(self, hour: float, now: Floats, volts: Floats) -> bool:
        """Whether a unit's management system opens it: the one farthest beyond its limit first."""
        m = self.units.management
        if m is None:
            return False
        beyond = np.maximum(now / m.out_a, -now / m.in_a)
        empty = m.when_empty & (now > 0.0) & ((volts < self.units.stop_v) | (self.soc <= 0.0))
        beyond = np.where(self.open, 0.0, np.maximum(beyond, np.where(empty, 1.0 + 1e-9, 0.0)))
        k = int(np.argmax(beyond))
        if beyond[k] <= 1.0:
            return False
        self.open[k] = True
        closed = self.duty.closed.copy()
        closed[self.cells[k]] = False
        self.duty = replace(self.duty, closed=closed)
        self.events.append(Event(hour, "opened", k))
        return True

    def _answer(self, emf: Floats) -> tuple[Floats, Floats, Floats]:
        """What resistances have gained since the last full solution, ohm; currents without that, and with it, A."""
        more = self.units.extra_ohm(self.soc, self.charged) - self.extra
        drive = self.i0 + self.response.current_s @ (emf - self.emf0)
        if not more.any():
            return more, drive, drive
        return (
            more,
            drive,
            np.asarray(np.linalg.solve(np.eye(more.size) + self.response.current_s * more, drive), dtype=np.float64),
        )

    def _moved_far(self, emf: Floats, more: Floats, now: Floats) -> bool:
        """Whether the last full solution is too far away, something switches, or a unit is charged that was not."""
        # What a resistance has gained takes its part of the EMF's change.
        moved = emf - self.emf0 - more * now
        if np.abs(moved).max() > MOVED_SHARE * emf.max() or self._switches(moved):
            return True
        turned = (now < 0.0) != self.charged
        return self.units.acceptance is not None and bool(np.any(turned & (np.abs(now) > TURNED_A)))

    def _solve(self, hour: float, emf: Floats) -> bool:
        """Solve in full at the present charge, as often as loads fall out; False where nothing holds."""
        c = self.solver.circuit
        all_emf, all_extra = np.zeros(c.a.size), np.zeros(c.a.size)
        all_emf[self.cells] = emf
        turns = 0
        while True:
            self.extra = self.units.extra_ohm(self.soc, self.charged)
            all_extra[self.cells] = self.extra
            self.duty = replace(self.duty, emf_v=all_emf.copy(), extra_ohm=all_extra.copy())
            point = self.solver.solve(self.duty if self.refusing is None else self.refusing.without(self.duty))
            self.solutions += 1
            if not point.solved:
                self.events.append(Event(hour, "collapse", point.collapse.load if point.collapse else -1))
                return False
            if self.refusing is not None and not self.refusing.settle(emf, point):
                continue
            charged = point.current_a[self.cells] < 0.0
            if self.units.acceptance is not None and (charged != self.charged).any() and turns < MOST_TURNS:
                # What is charged meets more: solved again until the two agree.
                self.charged, turns = charged, turns + 1
                continue
            asked = (self.duty.load_w > 0.0) | (self.duty.load_a > 0.0) | (self.duty.load_s > 0.0)
            low = asked & (point.load_v < self.cut_v)
            if not low.any():
                break
            self.events += [Event(hour, "load_stops", int(k)) for k in np.flatnonzero(low)]
            self.duty = replace(
                self.duty,
                load_w=np.where(low, 0.0, self.duty.load_w),
                load_a=np.where(low, 0.0, self.duty.load_a),
                load_s=np.where(low, 0.0, self.duty.load_s),
            )
        if self.refusing is not None:
            self.events += [Event(hour, "refuses", int(k)) for k in np.flatnonzero(self.refusing.out & ~self.refused)]
            self.refused |= self.refusing.out
        if self.mode is not None:
            self.events += [Event(hour, "source_mode", int(k)) for k in np.flatnonzero(point.mode != self.mode)]
        self.mode = point.mode.astype(float)
        self.point, self.response, self.emf0 = point, response(self.solver), emf
        self.i0 = point.current_a[self.cells]
        self._watch(point)
        return True

    def _watch(self, point: OperatingPoint) -> None:
        """What would switch: sensed voltages against set points, load voltages against cut-outs, units that are out against their EMF."""
        c, d, v = self.solver.circuit, self.duty, self.response.volts
        sensed = point.volts[c.sense_plus] - point.volts[c.sense_minus]
        limited, idle = (point.mode == 2) | (point.mode == 3), (point.mode == 0) & d.source_on & (c.feed_plus < 0)
        asked = (d.load_w > 0.0) | (d.load_a > 0.0) | (d.load_s > 0.0)
        # Each row is kept above 0; where it falls below, something switches.
        room = [(d.source_v - sensed)[limited], (sensed - d.source_v)[idle], (point.load_v - self.cut_v)[asked]]
        slopes = [
            -(v[c.sense_plus] - v[c.sense_minus])[limited],
            (v[c.sense_plus] - v[c.sense_minus])[idle],
            (v[c.load_plus] - v[c.load_minus])[asked],
        ]
        held = point.mode == 1
        room.append(point.source_a[held])
        slopes.append(self.response.source_s[held])
        if self.refusing is not None:
            own, answers = self.refusing.room(self.emf0, point, v)
            room.append(own)
            slopes.append(answers)
        self.room, self.slopes = np.concatenate(room), np.concatenate(slopes)

    def _switches(self, moved: Floats) -> bool:
        return bool(np.any(self.room + self.slopes @ moved < -1e-9))

    def _ended(self, hour: float, now: Floats, volts: Floats) -> Event | None:
        """Whether a unit is empty or full."""
        a = self.units.acceptance
        # A converter that holds its own loads' voltage holds nobody's charge.
        held = (self.point.mode == 1) & (self.solver.circuit.feed_plus < 0)
        tail = a is not None and bool(held.any()) and bool((-now < a.tail_a)[now < 0.0].any())
        if self.left_h is not None and (floats := self._floats(held, now)) is not None:
            return Event(hour, "float", floats)
        if (volts >= self.units.stop_v).all() and self.soc.min() > 0.0 and self.soc.max() < 100.0 and not tail:
            return None
        empty: Flags = (now > 0.0) & ((volts < self.units.stop_v) | (self.soc <= 0.0))
        if self.taper is not None:
            empty &= self.taper.watched
            return Event(hour, "empty", int(np.flatnonzero(empty)[0])) if empty.any() else None
        full: Flags = (now < 0.0) & (self.soc >= 100.0)
        if a is not None and tail:
            full |= (now < 0.0) & (-now < a.tail_a) & (self.soc > NEARLY_FULL)
        for kind, which in (("empty", empty), ("full", full)):
            if which.any():
                return Event(hour, kind, int(np.flatnonzero(which)[0]))
        return None

    def _fill(self) -> None:
        """What is full stays full: what still goes in is lost. Sources that hold their voltage do so for their time."""
        over = np.maximum(self.soc - 100.0, 0.0)
        if over.any():
            self.gassed_ah += over / 100.0 * self.units.capacity_ah
            self.soc = self.soc - over
        assert self.left_h is not None
        self.left_h = self.left_h - np.where(self.point.mode == 1, self.h, 0.0)

    def _floats(self, held: Flags, now: Floats) -> int | None:
        """A source that holds its voltage and goes over to float: its bank takes no more than a tail, or its time is up."""
        a, taper, left_h = self.units.acceptance, self.taper, self.left_h
        assert taper is not None
        assert left_h is not None
        for k in np.flatnonzero(held & taper.may):
            mine = taper.unit_bank == taper.bank[k]
            into = -float(now[mine].sum())
            tail = 0.0 if a is None else float(a.tail_a[mine].sum())
            full = mine.any() and self.soc[mine].min() > NEARLY_FULL and 0.0 < into < tail
            if full or left_h[k] <= 0.0 or (mine.any() and self.soc[mine].min() >= 100.0):
                return int(k)
        return None
