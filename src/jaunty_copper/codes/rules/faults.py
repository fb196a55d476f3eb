"""Devices against the short circuit that may flow through them, and against the heat they stand in."""

from collections.abc import Callable, Iterator
from functools import partial
from math import inf, isfinite
from typing import NamedTuple

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.words import amps, duration, energy
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.withstand import ADIABATIC_S, withstand_a2s
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Breaker, Fuse, Run
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.withstand import limits_of

WARM_S = 3600.0
CONVENTIONAL_S, CONVENTIONAL_SHARE = 7200.0, 1.45
"""Conventional time, taken as two hours, and share of ampacity, IEC 60364-4-43."""
CRANKING_TABLE = ((650.0, 1500.0, 750.0), (1100.0, 3000.0, 1500.0), (inf, 5000.0, 2500.0))
"""Up to a total of cold cranking amperes: interrupt rating of main and branch breakers, A."""
HOW = "IEC 61660-1: charged units, 0.9 of their resistance, pure copper at 20 °C, a link in the device's place"


def interrupt_rating(case: Case, rule: Rule) -> Iterator[Check]:
    """Fuses and breakers that cannot interrupt the current of a fault beyond them."""
    for device in case.plan.items:
        if not isinstance(device, Fuse | Breaker):
            continue
        family = case.parts.device_families[device.family]
        volts = case.operating_v(device)
        most, where = case.protection.faults.prospective(device.id)
        able = case.interrupt_a(device)
        if able is None:
            # A voltage beyond the family's is a finding of its own; nothing holds there.
            continue
        check = case.check(rule, device.id, most, able, "A", source=f"{family.source}; current by {HOW}")
        yield (
            check
            if most <= able
            else check.fails(
                Verdict.DANGER,
                f"{device.title} can interrupt {amps(able)} at {volts:.3g} V; {amps(most)} are prospective {_place(case, device, where)}",
                partial(_stronger, case, device, volts, most),
            )
        )


def _place(case: Case, device: Fuse | Breaker, ref: str) -> str:
    item, _, _ = ref.partition(".")
    return "right at it" if item == device.id else f"for a short at {case.title(item)}"


def able_families(case: Case, device: Fuse | Breaker, volts: float, most: float) -> list[DeviceFamily]:
    """Families of a device's kind and rating that interrupt a current at a voltage, the least able first."""
    kind = "fuse" if isinstance(device, Fuse) else "breaker"
    found = [
        (able, f)
        for f in case.parts.device_families.values()
        if f.kind == kind
        and f.min_a <= device.rating_a <= f.max_a
        and f.max_v_dc >= volts
        and (able := f.interrupt_a(volts)) is not None
        and able >= most
    ]
    return [f for _, f in sorted(found, key=lambda pair: pair[0])]


def _stronger(case: Case, device: Fuse | Breaker, volts: float, most: float) -> Edit | None:
    families = able_families(case, device, volts, most)
    if not families:
        return None
    new = families[0]
    return Edit(
        f"Change {device.title} to {new.label}", partial(edits.change, id_=device.id, family=new.id, thread=None)
    )


def heat(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices whose rating, at the air around them, falls below what they carry for long."""
    for device in case.protection.devices.values():
        item, left, rating = device.item, device.fast_a, device.item.rating_a
        current = float(case.study.continuous_a[device.branch])
        check = case.check(
            rule, item.id, current, left, "A", source="Ambient factor of its kind of release, representative"
        )
        if current > rating:
            # That is a finding of its own; nothing holds here.
            continue
        if current <= left:
            yield check
            continue
        air = float(case.study.hottest_ambient_c[device.branch])
        opens = left * device.band.opens_at(WARM_S, certainly=False)
        yield check.fails(
            Verdict.DEFECT,
            f"{item.title} carries {amps(current)}; at {air:.0f} °C its {rating:g} A are worth {amps(left)}, "
            f"and from {amps(opens)} it may open within an hour",
        )


class Guarded(NamedTuple):
    """Runs that one device of a family alone guards.

    Attributes
    ----------
    rows : ndarray of int, shape (runs,)
        Of each run in the table of withstand.
    rating_a : ndarray, shape (runs,)
        What the device's rating is worth where it opens latest.
    least_a, most_a : ndarray, shape (runs,)
        Through the device, for a fault at an end of the run: the least, and the greatest.
    """

    devices: tuple[Device, ...]
    runs: tuple[Run, ...]
    rows: Ints
    rating_a: Floats
    least_a: Floats
    most_a: Floats


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
    f, guard, excused = case.protection.faults, case.protection.guard, case.code.limit("first_protection_m")
    row_of, row = case.protection.withstand.row, f.row[device]
    least_a, most_a = (np.abs(c.branch_a.row(row)) for c in (f.least, f.peak))
    found = []
    for k in guard.guarded_by.get(device, ()):
        b = case.wiring.branches[k]
        run = case.plan.run_by_id.get(b.owner) if b.kind == "run" and guard.is_live(k) else None
        ends = [f.at[ref] for ref in (run.a, run.b) if ref in f.at] if run is not None else []
        if run is not None and ends and run.id in row_of and guard.stretch(k).length_m > excused:
            least, most = min(float(least_a[j]) for j in ends), max(float(most_a[j]) for j in ends)
            if most > 0.0:
                found.append(GuardedRun(run, k, row_of[run.id], least, most))
    return tuple(found)


def _guarded(case: Case, _: str) -> dict[str, Guarded]:
    """Runs that one device alone guards, by the device's family."""
    found: dict[str, list[tuple[Device, Run, int, float, float, float]]] = {}
    for id_, device in case.protection.devices.items():
        for g in case.once(guarded_runs, id_):
            found.setdefault(device.family.id, []).append((device, g.run, g.row, device.slow_a, g.least_a, g.most_a))
    made = {}
    for family, rows in found.items():
        devices, runs, at, *figures = zip(*rows, strict=True)
        made[family] = Guarded(devices, runs, np.array(at), *(np.array(x, dtype=float) for x in figures))
    return made


def withstand(case: Case, rule: Rule) -> Iterator[Check]:
    """Conductors that their device lets too much through to, from a lasting overload to the greatest fault."""
    e = case.protection.withstand
    for g in case.once(_guarded, "").values():
        current = np.geomspace(np.minimum(g.rating_a, g.most_a), g.most_a, 80, axis=1)
        seconds = g.devices[0].band.longest(current / g.rating_a[:, None])
        fails = ~e.withstands(current, seconds, g.rows)
        # A current for the first seconds is judged by its heat; where it is too much that is what to report.
        short = seconds <= ADIABATIC_S
        lets = np.where(short, current**2 * seconds, 0.0)
        able = withstand_a2s(e.area_mm2[g.rows], e.start_c[g.rows], e.end_c[g.rows])
        worst, first, any_ = np.argmax(lets, axis=1), np.any(fails & short, axis=1), np.any(fails, axis=1)
        for n, bad in enumerate(any_.tolist()):
            run, device, k = g.runs[n], g.devices[n].item, int(worst[n])
            begins, ends = float(e.start_c[g.rows[n]]), float(e.end_c[g.rows[n]])
            check = case.check(
                rule, run.id, float(lets[n, k]), float(able[n]), "A²s",
                source=f"IEC 60949, from {begins:g} to {ends:g} °C; device's slowest, representative",
            )  # fmt: skip
            fix = partial(_thicker, case, run, current[n], seconds[n])
            if first[n]:
                k = int(np.argmax(np.where(fails[n], lets[n], 0.0)))
                yield check.fails(
                    Verdict.DANGER,
                    f"{case.run_title(run)} withstands {energy(float(able[n]))}; at {amps(float(current[n, k]))} "
                    f"{device.title} lets {energy(float(lets[n, k]))} through",
                    fix, figure=float(lets[n, k]),
                )  # fmt: skip
            elif not bad:
                yield check
            elif device.rating_a <= case.ampacities[run.id].amps:
                # A device larger than its conductor allows is reported as that, not by how it then overheats.
                k = int(np.argmax(current[n] / e.current(seconds[n : n + 1], g.rows[n : n + 1])[0]))
                yield _overheats(case, check, g, n, float(current[n, k]), float(seconds[n, k]), fix)


def _overheats(
    case: Case, check: Check, g: Guarded, n: int, current: float, seconds: float, fix: Callable[[], Edit | None]
) -> Check:
    """A conductor that its device lets overheat in minutes or hours."""
    run, e = g.runs[n], case.protection.withstand
    limit = float(e.current(seconds, g.rows[n : n + 1])[0])
    lasts = f"for up to {duration(seconds)}" if isfinite(seconds) else "for ever"
    able = f"{amps(limit)} that long" if isfinite(seconds) else amps(limit)
    return check.fails(
        Verdict.DEFECT,
        f"{g.devices[n].item.title} lets {amps(current)} flow {lasts}; {case.run_title(run)} withstands {able}",
        fix, figure=current, limit=limit, unit="A",
        source=f"Heat balance to {float(e.end_c[g.rows[n]]):g} °C, IEC 60949 up to 5 s; device's slowest, representative",
    )  # fmt: skip


def _thicker(case: Case, run: Run, current: Floats, seconds: Floats) -> Edit | None:
    """The smallest size of the run's own system that withstands each current for its time."""
    now = case.parts.conductors[run.conductor]
    sizes = [s for s in case.parts.sizes(now.system) if s.area_mm2 > now.area_mm2]
    tried = tuple(run.model_copy(update={"conductor": s.id}) for s in sizes)
    air = case.protection.withstand.air_c[case.protection.withstand.row[run.id]]
    limits = limits_of(tried, case.parts, np.full(len(sizes), air))
    shape = (len(sizes), current.size)
    able = limits.withstands(np.broadcast_to(current, shape), np.broadcast_to(seconds, shape), np.arange(len(sizes)))
    size = next((s for s, enough in zip(sizes, np.all(able, axis=1).tolist(), strict=True) if enough), None)
    return Edit(f"Make {run.id} {size.label}", partial(edits.change, id_=run.id, conductor=size.id)) if size else None


def slow(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices that a fault at the far end of their conductor opens late or not at all; the worst place of each."""
    limit, source = case.code.limit("fault_opening_s"), case.code.source("fault_opening_s")
    worst: dict[str, tuple[bool, float, float, Run]] = {}
    for g in case.once(_guarded, "").values():
        seconds = g.devices[0].band.longest(g.least_a / g.rating_a)
        for device, run, least, late in zip(g.devices, g.runs, g.least_a.tolist(), seconds.tolist(), strict=True):
            # What the conductor carries for ever needs no opening.
            bad = late > limit and least > (case.ampacities[run.id].amps if run.id in case.ampacities else inf)
            known = worst.get(device.item.id)
            if known is None or (not bad, least) < (not known[0], known[2]):
                worst[device.item.id] = (bad, late, least, run)
    for id_, (bad, late, least, run) in worst.items():
        if not bad and late > limit:
            able = case.ampacities[run.id].amps if run.id in case.ampacities else None
            yield case.check(rule, id_, least, able, "A", source="The conductor carries it for good: nothing need open")
            continue
        check = case.check(rule, id_, late if isfinite(late) else None, limit, "s", source=source)
        when = f"after up to {duration(late)}" if isfinite(late) else "with no guarantee that it opens"
        yield (
            check
            if not bad
            else check.fails(
                Verdict.DEFECT,
                f"A short at the far end of {case.run_title(run)} drives {amps(least)} at least: {case.title(id_)} opens {when}",
            )
        )


def conventional(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices that are sure to open only above 1.45 times the ampacity of what they guard."""
    weakest: dict[str, tuple[float, float]] = {}
    for g in case.once(_guarded, "").values():
        opens = g.devices[0].band.opens_at(CONVENTIONAL_S)
        for device, run in zip(g.devices, g.runs, strict=True):
            able = case.ampacities[run.id].amps
            # A device above the ampacity itself is a finding of its own.
            if device.item.rating_a <= able:
                known = weakest.get(device.item.id, (inf, 0.0))
                weakest[device.item.id] = min(known, (able, opens * device.slow_a))
    for id_, (able, opens_a) in weakest.items():
        check = case.check(
            rule, id_, opens_a, CONVENTIONAL_SHARE * able, "A", source="IEC 60364-4-43 433.1: I_2 at or below 1.45 I_z"
        )
        yield (
            check
            if opens_a <= CONVENTIONAL_SHARE * able
            else check.fails(
                Verdict.DEFECT,
                f"{case.title(id_)} is sure to open from {amps(opens_a)}; its conductor may carry {amps(able)}, and 1.45 times that is {amps(CONVENTIONAL_SHARE * able)}",
            )
        )


def cranking_table(case: Case, rule: Rule) -> Iterator[Check]:
    """Breakers below the North American small-craft table by cold cranking amperes, beside what is computed."""
    units = [b for bank in case.wiring.banks for b in bank.units]
    total = sum(b.cranking_a or 0.0 for b in units)
    bank_v = max((b.nominal_v for b in case.wiring.banks), default=0.0)
    if not total or not all(b.cranking_a for b in units) or bank_v > 24.0:
        return
    main_a, branch_a = next((m, b) for most, m, b in CRANKING_TABLE if total <= most)
    for device in case.protection.devices.values():
        able, through = case.interrupt_a(device.item), case.protection.faults.prospective(device.item.id)[0]
        if not isinstance(device.item, Breaker) or able is None:
            continue
        first = _is_main(case, device.item.id)
        wanted = main_a if first else branch_a
        check = case.check(
            rule, device.item.id, able, wanted, "A",
            source="North American small-craft table for breakers, lead-acid, 12 and 24 V",
        )  # fmt: skip
        yield (
            check
            if able >= wanted
            else check.fails(
                Verdict.DEFECT,
                f"{device.item.title} can interrupt {amps(able)}; for {total:.0f} cold cranking amperes the table asks "
                f"{amps(wanted)} of a {'main' if first else 'branch'} breaker; {amps(through)} is computed",
            )
        )


def _is_main(case: Case, device: str) -> bool:
    """Whether nothing stands before a device."""
    return not any(p.downstream == device for p in case.protection.pairs)


TOPIC = "Short circuits"
RULES = (
    Rule("interrupt_rating", "Interrupt rating",
         "A device that cannot interrupt a short bursts, and the arc goes on burning.", interrupt_rating,
         "{} devices interrupt less than the short circuit at their place", topic=TOPIC),
    Rule("heat_opens", "Device in a hot place",
         "In a hot place a thermal device opens below its rating, again and again, with nothing wrong.", heat,
         "{} devices may open below their rating in the heat", page="curves", topic=TOPIC),
    Rule("fault_withstand", "Conductor in a short circuit",
         "The device opens, but by then the insulation has melted off: the next fault is already there.", withstand,
         "{} conductors do not withstand what their device lets through", page="curves", topic=TOPIC),
    Rule("slow_opening", "Short circuit at the far end",
         "A fault too weak to open its device feeds a fire in peace.", slow,
         "{} devices open late at a far short circuit", page="curves", topic=TOPIC),
    Rule("conventional_current", "Overload that nothing opens",
         "Between its rating and what is sure to open it a device lets an overload heat the conductor for hours.", conventional,
         "{} devices let an overload last for hours", frozenset({"iec_60364"}), page="curves", topic=TOPIC),
    Rule("breaker_table", "Breaker against the cranking table",
         "An inspector will hold the breaker against this table, whatever is computed.", cranking_table,
         "{} breakers are below the cranking table", frozenset({"north_american_small_craft"}), topic=TOPIC),
)  # fmt: skip
