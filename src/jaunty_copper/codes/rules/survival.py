"""Conductors in what becomes of short circuits at their ends: whether they survive, and whether anything opens in time."""

from collections.abc import Callable, Iterator
from functools import partial
from math import isfinite
from typing import NamedTuple

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED, Check, Rule, Verdict
from jaunty_copper.codes.permitted import is_tap
from jaunty_copper.codes.rules.words import amps, duration, energy
from jaunty_copper.language import say
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.fault_course import NOTHING_A
from jaunty_copper.physics.sequence import Sequences
from jaunty_copper.physics.withstand import ADIABATIC_S, withstand_a2s
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Run
from jaunty_copper.protection.withstand import heating_limits

CONVENTIONAL_S, CONVENTIONAL_SHARE = 7200.0, 1.45
"""Conventional time, taken as two hours, and share of ampacity, IEC 60364-4-43."""


class GuardedRun(NamedTuple):
    """A run that a device alone guards.

    Attributes
    ----------
    branch : int
        Of the run.
    row : int
        Of the run in the table of withstand.
    least_a, most_a : float
        Through the device, for a fault at an end of the run.
    """

    run: Run
    branch: int
    row: int
    least_a: float
    most_a: float


def guarded_runs(case: Case, device: str) -> tuple[GuardedRun, ...]:
    """Runs that a device alone guards and that a fault can reach.

    Not the first stretch that a practice leaves to the device before the bar.
    """
    f, guard, judged = case.protection.faults, case.protection.guard, case.once(judged_runs, "")
    row_of, runs = case.protection.withstand.row, case.protection.withstand.runs
    least_a, most_a = f.least_through(f.row[device]), np.abs(f.peak.branch_a.row(f.row[device]))
    found = []
    for k in guard.guarded_by.get(device, ()):
        row = row_of.get(case.wiring.branches[k].owner, -1)
        ends = case.greatest_faults[0].columns(row) if judged.get(row) == k else ()
        # A fault before the device is another one's.
        ends = [j for j in ends if min(least_a[j], most_a[j]) > NOTHING_A]
        if ends:
            least, most = min(float(least_a[j]) for j in ends), max(float(most_a[j]) for j in ends)
            found.append(GuardedRun(runs[row], k, row, least, most))
    return tuple(found)


class AtRun(NamedTuple):
    """A run in one of the faults at its ends.

    Attributes
    ----------
    found : Sequences
        What becomes of all faults.
    entry, case : int
        The run's entry, and the fault's.
    open_ : frozenset of str
        Switches that are open meanwhile.
    """

    found: Sequences
    entry: int
    case: int
    open_: frozenset[str] = frozenset()

    @property
    def carried_a(self) -> float:
        """Through the run, A, before anything opens."""
        return float(self.found.carried_a[self.entry])

    @property
    def until_s(self) -> float:
        """When it is over, or no more than its ampacity, s."""
        return float(self.found.until_s[self.entry])


def judged_runs(case: Case, _: str) -> dict[int, int]:
    """Runs that must survive a fault at their ends: row in the table of withstand, and branch.

    Not what nothing protects, which is a finding of its own, nor the first stretch that a practice leaves to the
    device before the bar.
    """
    guard, excused = case.protection.guard, case.code.limit("first_protection_m")
    found = {}
    for row, run in enumerate(case.protection.withstand.runs):
        k = case.wiring.branch[run.id]
        short = guard.is_live(k) and guard.stretch(k).length_m <= excused
        if isfinite(guard.bound(k).amps) and not short:
            found[row] = k
    return found


def _worst(case: Case, figure: Callable[[Sequences], Floats]) -> tuple[Floats, Callable[[int], AtRun]]:
    """Greatest figure of each run in any of its faults, -inf where it has none, and that fault."""
    every = (*case.greatest_faults, *case.least_faults)
    rows = len(case.protection.withstand.runs)
    most, entry, which = np.full(rows, -np.inf), np.zeros(rows, dtype=np.int64), np.zeros(rows, dtype=np.int64)
    for n, faults in enumerate(every):
        figures = figure(faults.found)
        order = np.argsort(figures, kind="stable")
        own, at = np.full(rows, -np.inf), np.zeros(rows, dtype=np.int64)
        # The last that is written stays: the greatest.
        own[faults.row[order]], at[faults.row[order]] = figures[order], order
        better = own > most
        most, entry, which = np.where(better, own, most), np.where(better, at, entry), np.where(better, n, which)

    def worst(row: int) -> AtRun:
        faults = every[int(which[row])]
        return AtRun(faults.found, int(entry[row]), int(faults.case[entry[row]]), faults.opened)

    return most, worst


def withstand(case: Case, rule: Rule) -> Iterator[Check]:
    """Conductors that let too much through before what guards them has opened, from the greatest fault to an overload."""
    e = case.protection.withstand
    able = withstand_a2s(e.area_mm2, e.start_c, e.end_c)
    # A current for the first seconds is judged by its heat; where it is too much that is what to report.
    lets, _ = _worst(case, lambda f: np.where(f.until_s <= ADIABATIC_S, f.let_a2s, 0.0))
    quick, burning = _worst(case, lambda f: np.where(f.damaged_s <= ADIABATIC_S, -f.damaged_s, -np.inf))
    slowly, heating = _worst(case, lambda f: np.where(np.isfinite(f.damaged_s), f.carried_a, -np.inf))
    for row, k in case.once(judged_runs, "").items():
        run = e.runs[row]
        check = case.check(
            rule, run.id, max(float(lets[row]), 0.0), float(able[row]), "A²s",
            source=say("IEC 60949, from {row:g} to {row_2:g} °C; devices' slowest, representative", row=e.start_c[row], row_2=e.end_c[row]),
        )  # fmt: skip
        if isfinite(quick[row]):
            yield _as_allowed(case, k, _burns(case, check, run, row, burning(row), float(able[row])))
        elif isfinite(slowly[row]) and case.protection.guard.bound(k).amps <= case.ampacities[run.id].amps * ROUNDED:
            # What may carry less than may flow through it for good is a finding of its own.
            yield _as_allowed(case, k, _overheats(case, check, run, row, heating(row)))
        else:
            yield check


def _as_allowed(case: Case, branch: int, found: Check) -> Check:
    """A conductor so short that its code asks for no device is no danger under that code; the finding says why it is listed."""
    if not is_tap(case, branch):
        return found
    words = say(
        "{what}. {code} lets a stretch this short do without a device of its own; a short in it destroys it all the same",
        what=found.headline,
        code=case.code.name,
    )
    return found._replace(verdict=max(found.verdict, Verdict.DEFECT), headline=words)


def opening(case: Case, at: AtRun) -> str:
    """Which devices open before a fault is over for a run, in words, with when."""
    order = [(case.protection.faults.devices[d], t) for d, t in at.found.order(at.case) if t <= at.until_s * ROUNDED]
    opened = [
        say("{d} opens after {t}", d=case.title(d), t=duration(t))
        for d, t in order
        if t <= max(ADIABATIC_S, order[0][1])
    ]
    return say(", then ").join(opened) or say("nothing opens")


def _while(case: Case, at: AtRun) -> str:
    """Which switches are open meanwhile, in words."""
    return say(" with {open} open", open=", ".join(case.title(s) for s in sorted(at.open_))) if at.open_ else ""


def _burns(case: Case, check: Check, run: Run, row: int, at: AtRun, able: float) -> Check:
    lets = float(at.found.let_a2s[at.entry])
    return check.fails(
        Verdict.DANGER,
        say(
            "{run} withstands {able}; at {carried_a}{while_} {opening}: {lets}",
            run=case.run_title(run),
            able=energy(able),
            carried_a=amps(at.carried_a),
            while_=_while(case, at),
            opening=opening(case, at),
            lets=energy(lets),
        ),
        partial(_thicker, case, run, row),
        figure=lets,
    )


def _overheats(case: Case, check: Check, run: Run, row: int, at: AtRun) -> Check:
    """A conductor that overheats in minutes or hours before it is over."""
    e, seconds = case.protection.withstand, at.until_s
    limit = float(e.current(seconds, np.array([row]))[0])
    able = (
        say("{limit} that long", limit=amps(limit)) if isfinite(seconds) else say("{limit} for good", limit=amps(limit))
    )
    return check.fails(
        Verdict.DEFECT,
        say('At {carried_a}{while_} {opening}; {run} withstands {able}', carried_a=amps(at.carried_a), while_=_while(case, at), opening=opening(case, at), run=case.run_title(run), able=able),
        partial(_thicker, case, run, row), figure=at.carried_a, limit=limit, unit="A",
        source=say("Heat balance to {row:g} °C, IEC 60949 up to 5 s; devices' slowest, representative", row=float(e.end_c[row])),
    )  # fmt: skip


def _thicker(case: Case, run: Run, row: int) -> Edit | None:
    """The smallest size of the run's own system that withstands each current that it carries for its time."""
    now = case.parts.conductors[run.conductor]
    sizes = [s for s in case.parts.sizes(now.system) if s.area_mm2 > now.area_mm2]
    tried = tuple(run.model_copy(update={"conductor": s.id}) for s in sizes)
    limits = heating_limits(tried, case.parts, np.full(len(sizes), case.protection.withstand.air_c[row]))
    current, seconds = (
        np.concatenate([getattr(f.found, name)[f.of(row)] for f in (*case.greatest_faults, *case.least_faults)])
        for name in ("carried_a", "until_s")
    )
    shape = (len(sizes), current.size)
    able = limits.withstands(np.broadcast_to(current, shape), np.broadcast_to(seconds, shape), np.arange(len(sizes)))
    size = next((s for s, enough in zip(sizes, np.all(able, axis=1).tolist(), strict=True) if enough), None)
    return (
        Edit(
            say("Make {run} {size}", run=run.id, size=size.label), partial(edits.change, id_=run.id, conductor=size.id)
        )
        if size
        else None
    )


def slow(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices that a fault at the far end of their conductor opens late or not at all; the worst place of each."""
    limit, source = case.code.limit("fault_opening_s"), case.code.source("fault_opening_s")
    guard = case.protection.guard
    worst: dict[str, tuple[bool, float, AtRun, Run]] = {}
    for row, k in case.once(judged_runs, "").items():
        ats = [
            AtRun(faults.found, n, int(faults.case[n]), faults.opened)
            for faults in case.least_faults
            for n in faults.of(row).tolist()
            if faults.found.carried_a[n] > NOTHING_A
        ]
        if not guard.is_live(k) or not ats:
            continue
        # Of what the conductor carries for ever nothing need open.
        late = max(ats, key=lambda at: (at.until_s, -at.carried_a))
        run, key = case.protection.withstand.runs[row], (late.until_s <= limit, late.carried_a)
        place = guard.bound(k).guard or run.id
        known = worst.get(place)
        if known is None or key < known[:2]:
            worst[place] = (*key, late, run)
    for place, (_, least, at, run) in worst.items():
        if at.until_s == 0.0:
            able = case.ampacities[run.id].amps
            yield case.check(
                rule, place, least, able, "A", source=say("The conductor carries it for good: nothing need open")
            )
            continue
        check = case.check(rule, place, at.until_s if isfinite(at.until_s) else None, limit, "s", source=source)
        yield (
            check
            if at.until_s <= limit
            else check.fails(
                Verdict.DEFECT,
                say(
                    "A short at an end of {run} drives {least} at least through it{while_}: ",
                    run=case.run_title(run),
                    least=amps(least),
                    while_=_while(case, at),
                )
                + (
                    opening(case, at)
                    if isfinite(at.until_s)
                    else say(
                        "there is no guarantee that {guards} opens", guards=_guards(case, case.wiring.branch[run.id])
                    )
                ),
            )
        )


def _guards(case: Case, branch: int) -> str:
    """What guards a branch, in words."""
    return " or ".join(case.title(d) for d in case.protection.guard.bound(branch).guards) or "anything"


def conventional(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices that are sure to open only above 1.45 times the ampacity of what they guard."""
    opens = {d.family.id: d.band for d in case.protection.devices.values()}
    sure = {family: band.opens_at(CONVENTIONAL_S) for family, band in opens.items()}
    weakest: dict[str, tuple[float, float]] = {}
    for id_, device in case.protection.devices.items():
        guarded = [case.ampacities[g.run.id].amps for g in case.once(guarded_runs, id_)]
        # A device above the ampacity itself is a finding of its own.
        bear = [amps_ for amps_ in guarded if device.item.rating_a <= amps_]
        if bear:
            weakest[id_] = min(bear), sure[device.family.id] * device.slow_a
    for id_, (able, opens_a) in weakest.items():
        check = case.check(
            rule,
            id_,
            opens_a,
            CONVENTIONAL_SHARE * able,
            "A",
            source=say("IEC 60364-4-43 433.1: I_2 at or below 1.45 I_z"),
        )
        yield (
            check
            if opens_a <= CONVENTIONAL_SHARE * able
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{id} is sure to open from {opens_a}; its conductor may carry {able}, and 1.45 times that is "
                    "{conventional_share}",
                    id=case.title(id_),
                    opens_a=amps(opens_a),
                    able=amps(able),
                    conventional_share=amps(CONVENTIONAL_SHARE * able),
                ),
            )
        )


TOPIC = say("Short circuits")
RULES = (
    Rule("fault_withstand", say("Conductor in a short circuit"),
         say("The device opens, but by then the insulation has melted off: the next fault is already there."), withstand,
         say("{} conductors do not withstand what their device lets through"), page="curves", topic=TOPIC),
    Rule("slow_opening", say("Short circuit at the far end"),
         say("A fault too weak to open its device feeds a fire in peace."), slow,
         say("{} devices open late at a far short circuit"), page="curves", topic=TOPIC),
    Rule("conventional_current", say("Overload that nothing opens"),
         say("Between its rating and what is sure to open it a device lets an overload heat the conductor for hours."), conventional,
         say("{} devices let an overload last for hours"), frozenset({"iec_60364"}), page="curves", topic=TOPIC),
)  # fmt: skip
