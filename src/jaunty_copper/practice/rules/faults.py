"""Devices against the short circuit that may flow through them, and against the heat they stand in."""

from collections.abc import Iterator
from functools import partial
from math import inf, isfinite
from typing import NamedTuple

import numpy as np

from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import Band, ambient_factor
from jaunty_copper.physics.withstand import ADIABATIC_S, withstand_a2s
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Breaker, Fuse, Run
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.words import amps, energy, kiloamps
from jaunty_copper.study.devices import band_for

HOW = "IEC 61660-1: charged units, 1.05 of nominal voltage, 0.9 of their resistance, conductors at 20 °C"


def interrupt_rating(case: Case, rule: Rule) -> Iterator[Finding]:
    """Fuses and breakers that cannot interrupt the current of a fault beyond them."""
    for device in case.plan.items:
        if not isinstance(device, Fuse | Breaker):
            continue
        family = case.parts.device_families[device.family]
        volts = case.system_v(device)
        most, where = case.study.faults.greatest_through(device.id)
        able = case.interrupt_a(device)
        if able is None or most <= able:
            # A voltage beyond the family's is a finding of its own.
            continue
        yield case.finding(
            rule, Severity.STOP, device.id,
            f"{device.title} can interrupt {kiloamps(able)} at {volts:g} V; a short {_place(case, device, where)} drives {kiloamps(most)} through it",
            figure=most, limit=able, unit="A", source=f"{family.source}; current by {HOW}",
            mend=_stronger(case, device, volts, most),
        )  # fmt: skip


def _place(case: Case, device: Fuse | Breaker, ref: str) -> str:
    item, _, _ = ref.partition(".")
    return "right behind it" if item == device.id else f"at {case.title(item)}"


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


def heat(case: Case, rule: Rule) -> Iterator[Finding]:
    """Devices whose rating, at the air around them, falls below what they carry for long."""
    for device in case.plan.items:
        if not isinstance(device, Fuse | Breaker):
            continue
        family = case.parts.device_families[device.family]
        k = case.wiring.branch[device.id]
        air = float(case.study.hottest_ambient_c[k])
        left = device.rating_a * float(ambient_factor(family.release, air))
        current = float(case.study.continuous_a[k])
        if not left < current <= device.rating_a:
            continue
        yield case.finding(
            rule, Severity.MEND, device.id,
            f"{device.title} carries {amps(current)}; at {air:.0f} °C its {device.rating_a:g} A are worth {amps(left)}: heat will open it",
            figure=current, limit=left, unit="A", source="Ambient factor of its kind of release, representative",
        )  # fmt: skip


class Guarded(NamedTuple):
    """Runs that one device of a family alone guards.

    Attributes
    ----------
    least_a, most_a : ndarray, shape (runs,)
        Through the device, for a fault at an end of the run: the least, and the greatest.
    """

    devices: tuple[Fuse | Breaker, ...]
    runs: tuple[Run, ...]
    least_a: Floats
    most_a: Floats


def _guarded(case: Case, _: str) -> dict[str, Guarded]:
    """Runs that one device alone guards, by the device's family.

    Not the first stretch that a practice leaves to the device before the bar.
    """
    f, guard, excused = case.study.faults, case.study.guard, case.book.limit("first_protection_m")
    found: dict[str, list[tuple[Fuse | Breaker, Run, float, float]]] = {}
    for id_, branches in guard.guarded_by.items():
        device = case.plan.by_id[id_]
        if not isinstance(device, Fuse | Breaker):
            continue
        row = f.row[id_]
        for k in branches:
            b = case.wiring.branches[k]
            run = case.plan.run_by_id.get(b.owner) if b.kind == "run" else None
            ends = [f.at[ref] for ref in (run.a, run.b) if ref in f.at] if run is not None else []
            if run is not None and ends and guard.stretch(k).length_m > excused:
                least = min(abs(float(f.least.branch_a[row, j])) for j in ends)
                most = max(abs(float(f.peak.branch_a[row, j])) for j in ends)
                if most > 0.0:
                    found.setdefault(device.family, []).append((device, run, least, most))
    made = {}
    for family, rows in found.items():
        devices, runs, least_a, most_a = zip(*rows, strict=True)
        made[family] = Guarded(devices, runs, np.array(least_a), np.array(most_a))
    return made


def _band(case: Case, family_id: str) -> Band:
    return band_for(case.parts, family_id)


def withstand(case: Case, rule: Rule) -> Iterator[Finding]:
    """Conductors that their device lets too much energy through to, from the least to the greatest fault."""
    for family, g in case.once(_guarded, "").items():
        rating = np.array([d.rating_a for d in g.devices])
        low = np.maximum(g.least_a, 1.0)
        current = np.geomspace(low, np.maximum(g.most_a, low), 60, axis=1)
        seconds = case.once(_band, family).longest(current / rating[:, None])
        lets_through = np.where(seconds <= ADIABATIC_S, current**2 * seconds, 0.0)
        worst = np.argmax(lets_through, axis=1)
        insulations = [case.parts.insulations[r.insulation] for r in g.runs]
        area = np.array([case.parts.conductors[r.conductor].area_mm2 * r.parallel for r in g.runs])
        begins = np.array([i.max_c for i in insulations])
        ends = np.array([i.fault_c or i.max_c + 50.0 for i in insulations])
        bears = withstand_a2s(area, begins, ends)
        for n in np.flatnonzero(lets_through[np.arange(len(g.runs)), worst] > bears):
            run, device, lets = g.runs[n], g.devices[n], float(lets_through[n, worst[n]])
            yield case.finding(
                rule, Severity.STOP, run.id,
                f"{case.run_title(run)} bears {energy(float(bears[n]))}; at {kiloamps(float(current[n, worst[n]]))} "
                f"{device.title} lets {energy(lets)} through",
                figure=lets, limit=float(bears[n]), unit="A²s",
                source=f"IEC 60949, from {begins[n]:g} to {ends[n]:g} °C; device's slowest, representative",
                mend=_thicker(case, run, float(area[n] * np.sqrt(lets / bears[n]))),
            )  # fmt: skip


def _thicker(case: Case, run: Run, area_mm2: float) -> Edit | None:
    """The smallest size of the run's own system with a section."""
    now = case.parts.conductors[run.conductor]
    size = next((s for s in case.parts.sizes(now.system) if s.area_mm2 * run.parallel >= area_mm2), None)
    return Edit(f"Make {run.id} {size.label}", partial(edits.change, id_=run.id, conductor=size.id)) if size else None


def slow(case: Case, rule: Rule) -> Iterator[Finding]:
    """Devices that a fault at the far end of their conductor opens late or not at all; the worst place of each."""
    limit = case.book.limit("fault_opening_s")
    worst: dict[str, tuple[float, float, Run]] = {}
    for family, g in case.once(_guarded, "").items():
        seconds = case.once(_band, family).longest(g.least_a / np.array([d.rating_a for d in g.devices]))
        for n in np.flatnonzero(seconds > limit):
            device, run, least = g.devices[n], g.runs[n], float(g.least_a[n])
            bears = case.ampacities[run.id].amps if run.id in case.ampacities else inf
            # What the conductor carries for ever needs no opening.
            if least > bears and (device.id not in worst or least < worst[device.id][1]):
                worst[device.id] = (float(seconds[n]), least, run)
    for id_, (late, least, run) in worst.items():
        when = f"after up to {late:.0f} s" if isfinite(late) else "not surely at all"
        yield case.finding(
            rule, Severity.MEND, id_,
            f"A short at the far end of {case.run_title(run)} drives {kiloamps(least)} at least: {case.title(id_)} opens {when}",
            figure=late if isfinite(late) else None, limit=limit, unit="s", source=case.book.source("fault_opening_s"),
        )  # fmt: skip


RULES = (
    Rule("interrupt_rating", "Interrupt rating",
         "A device that cannot interrupt a short bursts, and the arc goes on burning.", interrupt_rating),
    Rule("heat_opens", "Device in a hot place",
         "In a hot place a thermal device opens below its rating, again and again, with nothing wrong.", heat),
    Rule("fault_withstand", "Conductor in a short circuit",
         "The device opens, but by then the insulation has melted off: the next fault is already there.", withstand),
    Rule("slow_opening", "Short circuit at the far end",
         "A fault too weak to open its device feeds a fire in peace.", slow),
)  # fmt: skip
