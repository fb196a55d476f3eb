"""Busbars: what their copper carries for good, heats by in a short, and bends under."""

from collections import defaultdict
from collections.abc import Callable, Iterator
from functools import partial
from math import ceil, floor, inf, isfinite, log
from typing import NamedTuple

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED, Check, Rule, Verdict
from jaunty_copper.codes.rules.words import amps, duration
from jaunty_copper.language import say
from jaunty_copper.parts.figures import short
from jaunty_copper.physics.busbars import (
    AFTER_FAULT_C,
    BAR_C,
    THICKNESSES_MM,
    bar_ampacity,
    bar_current,
    bar_withstand,
    heat_kept,
    thick_enough,
)
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import even_ratios
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar
from jaunty_copper.protection.devices import Device

Ends = tuple[tuple[Device, float], ...]
"""Devices that end a short, each with its share of it."""
FEWEST, STEP = 60, 0.02
"""A range of currents is looked at in so many places at least, no two farther apart than that in the logarithm."""
ALONE, COUNTS = 0.9, 0.1
"""Share of a fault from which a device carries it, alone or with others; and below which it has no part in ending it."""
COPPER_YIELD_N_MM2 = 120.0
"""Soft copper bar, representative; half-hard withstands twice as much."""
NO_PROOF_A = 10e3
"""Prospective short-circuit current, A, up to which IEC 61439-1 10.11.2 asks for no proof of strength."""


class Short(NamedTuple):
    """Shorts that a bar carries and the same devices end: the least and the greatest, A."""

    ends: Ends
    least: float
    most: float


def heat_let_through(
    guards: Ends, least: float, most: float, heats: Callable[[Floats, Floats], Floats]
) -> tuple[Device | None, float, float, float]:
    """The most that a short may heat something by: the device that lets it, A²s, and the current and time at which, A and s.

    Parameters
    ----------
    guards : tuple of (Device, float)
        What ends it, as `ended_by` has them.
    least, most : float
        Least current that can do harm, and the greatest, A.
    heats : callable
        From currents, A, and times, s, arrays of shape (n,), to the heat that stays, A²s.
    """
    current = (
        even_ratios(least, most, max(FEWEST, ceil(log(most / least) / STEP) + 1)) if most > least else np.full(1, most)
    )
    # The last of those that share a fault ends it.
    each = [d.longest(share * current) for d, share in guards]
    seconds = np.max(each, axis=0) if each else np.full(current.size, inf)
    lets = heats(current, seconds)
    k = int(np.argmax(lets))
    device = guards[int(np.argmax([x[k] for x in each]))][0] if each else None
    return device, float(lets[k]), float(current[k]), float(seconds[k])


def ended_by(case: Case, guard: str | None, place: str) -> Ends:
    """Devices that end a fault through something, each with its share of the current.

    On the way back nothing guards alone: what carries the whole fault, in the other pole, opens for it; or those
    that carry it together, as each string's own do.

    Parameters
    ----------
    guard : str, optional
        Id of the device that guards it by itself.
    place : str
        Terminal of the fault.
    """
    own = case.protection.devices.get(guard or "")
    return ((own, 1.0),) if own is not None else case.once(_carrying, "").get(place, ())


def _carrying(case: Case, _: str) -> dict[str, Ends]:
    """Of the short at each place what carries it all, the first of those to open; or those that carry it together."""
    f, devices = case.protection.faults, list(case.protection.devices.values())
    whole = np.abs(f.peak.current_a)
    row, column, amps_ = f.peak.branch_a.during(np.flatnonzero(whole > 0.0), COUNTS)
    column = np.flatnonzero(whole > 0.0)[column]
    on = row < len(devices)
    row, column, share = row[on], column[on], np.abs(amps_[on]) / whole[column[on]]
    seconds = np.where(share >= ALONE, _longest(devices, row, whole[column]), inf)
    found: dict[int, list[tuple[Device, float]]] = defaultdict(list)
    for k in np.lexsort((row, seconds, share < ALONE, column)).tolist():
        found[int(column[k])].append((devices[row[k]], float(share[k])))
    refs = {k: ref for ref, k in f.at.items()}
    return {refs[k]: _ending(each) for k, each in found.items() if k in refs}


def _ending(carrying: list[tuple[Device, float]]) -> Ends:
    """Of devices with a part in a short, those that end it; what carries all of it comes first."""
    device, share = carrying[0]
    if share >= ALONE:
        return ((device, 1.0),)
    return tuple(carrying) if sum(share for _, share in carrying) >= ALONE else ()


def _longest(devices: list[Device], row: Ints, current_a: Floats) -> Floats:
    """By when devices have opened, each at one current, s."""
    bands = {id(d.band): d.band for d in devices}
    of, slow_a = np.array([id(d.band) for d in devices]), np.array([d.slow_a for d in devices])
    found = np.full(row.size, inf)
    for number, band in bands.items():
        own = np.flatnonzero(of[row] == number)
        found[own] = band.longest(current_a[own] / slow_a[row[own]])
    return found


def _shorts_of(case: Case, bar_id: str) -> list[Short]:
    """What a bar carries: of the live pole, shorts at its own studs; on the way back, those behind every device."""
    w, bar = case.wiring, case.plan.by_id[bar_id]
    assert isinstance(bar, Bar)
    guards = dict.fromkeys(case.protection.guard.bound(k).guard for k in w.segments.get(bar_id, ()))
    first = bar.ref(bar.terminal_names[0])
    if w.rail_of(first) not in case.protection.guard.hot_rails:
        part = int(w.part[w.node[first]])
        return [s for guard in guards for s in _returning(case, part, guard)]
    f, refs = case.protection.faults, _studs(case, bar)
    worst = max(refs, key=f.most_a, default=None)
    if worst is None:
        return []
    return [Short(ended_by(case, guard, worst), min(map(f.least_a, refs)), f.most_a(worst)) for guard in guards]


def _returning(case: Case, part: int, guard: str | None) -> list[Short]:
    """Shorts on their way back through what a device guards by itself, or nothing does."""
    device = case.protection.devices.get(guard or "")
    if device is None:
        return case.once(_by_curve, part)
    return [s._replace(ends=((device, 1.0),)) for s in case.once(_overlapping, part)]


def _behind(case: Case, _: str) -> dict[int, list[Short]]:
    """Shorts behind the devices of each part, each by what ends it."""
    f, w = case.protection.faults, case.wiring
    ends = [
        (f.row[id_], f.at[ref], ref)
        for id_, d in case.protection.devices.items()
        for ref in (d.item.ref("a"), d.item.ref("b"))
        if ref in f.at
    ]
    row, column = (np.array([end[k] for end in ends], dtype=np.int64) for k in (0, 1))
    whole = np.abs(f.peak.current_a[column])
    found: dict[int, list[Short]] = defaultdict(list)
    for k in np.flatnonzero(np.abs(f.peak.branch_a.each(row, column)) >= ALONE * whole).tolist():
        ref = ends[k][2]
        found[int(w.part[w.node[ref]])].append(Short(ended_by(case, None, ref), f.least_a(ref), f.most_a(ref)))
    return found


def _by_curve(case: Case, part: int) -> list[Short]:
    """Those of them that end alike and whose currents overlap, as one."""
    alike: dict[tuple[tuple[str, float, float], ...], list[Short]] = defaultdict(list)
    for s in case.once(_behind, "").get(part, ()):
        alike[tuple((x.family.id, x.slow_a, share) for x, share in s.ends)].append(s)
    return [joined for shorts in alike.values() for joined in _joined(shorts)]


def _overlapping(case: Case, part: int) -> list[Short]:
    """All of them whose currents overlap as one."""
    return list(_joined(case.once(_behind, "").get(part, [])))


def _joined(shorts: list[Short]) -> Iterator[Short]:
    """Ranges of currents that overlap as one, with what ends the greatest of them."""
    now: Short | None = None
    for s in sorted(shorts, key=lambda s: s.least):
        if now is None or s.least > now.most:
            if now is not None:
                yield now
            now = s
        elif s.most > now.most:
            now = Short(s.ends, now.least, s.most)
    if now is not None:
        yield now


def _peak(case: Case, bar: Bar) -> float:
    """The most that a short draws over a bar, A."""
    return max((case.protection.faults.most_a(ref) for ref in _studs(case, bar)), default=0.0)


def _studs(case: Case, bar: Bar) -> list[str]:
    return [bar.ref(t) for t in bar.terminal_names if bar.ref(t) in case.protection.faults.at]


def _ambient(case: Case, bar: Bar) -> float:
    zone = case.plan.zone_of(bar.zone)
    return max([zone.ambient_c, *(s.scenario.air_c(zone) for s in case.study.states)])


def section(case: Case, rule: Rule) -> Iterator[Check]:
    """Bars whose copper carries less than they are rated for, or said to carry."""
    for bar in case.plan.items:
        if not isinstance(bar, Bar):
            continue
        ambient = _ambient(case, bar)
        may = bar_ampacity(bar.width_mm, bar.thickness_mm, ambient)
        check = case.check(
            rule, bar.id, bar.rating_a, may, "A",
            source=say("Heat balance of a bare bar at {bar_c:g} °C, near DIN 43671, representative", bar_c=BAR_C),
        )  # fmt: skip
        yield check if bar.rating_a <= may * ROUNDED else check.fails(
            Verdict.DEFECT,
            say("{bar} is rated {rating}; its copper of {width:g} x {thickness:g} mm carries {may} in air of {ambient:g} °C",
                bar=bar.title, rating=amps(bar.rating_a), width=bar.width_mm, thickness=bar.thickness_mm, may=amps(may), ambient=ambient),
            partial(_as_rated, case, bar),
        )  # fmt: skip


def copper_for(case: Case, bar: Bar, rating_a: float) -> float:
    """Thickness at which a bar carries a rating where it stands, mm; its own where it does already, or none does.

    Parameters
    ----------
    rating_a : float
        A.
    """
    return thick_enough(bar.width_mm, bar.thickness_mm, rating_a, _ambient(case, bar)) or bar.thickness_mm


def _thickened(bar: Bar, thickness_mm: float | None) -> Edit | None:
    if thickness_mm is None or thickness_mm <= bar.thickness_mm:
        return None
    return Edit(
        say("Make {bar} {thickness:g} mm thick", bar=bar.title, thickness=thickness_mm),
        partial(edits.change, id_=bar.id, thickness_mm=thickness_mm),
    )


def _as_rated(case: Case, bar: Bar) -> Edit | None:
    return _thickened(bar, copper_for(case, bar, bar.rating_a))


def _limits(case: Case, bar: Bar, thickness_mm: float) -> tuple[float, float]:
    """What a bar of a thickness takes in a short, A²s, and the current that brings it there for good, A."""
    rise = max(AFTER_FAULT_C - _ambient(case, bar), 1.0)
    return (
        bar_withstand(bar.width_mm * thickness_mm),
        bar_current(bar.width_mm, thickness_mm, rise, AFTER_FAULT_C),
    )


def _let_through(case: Case, bar: Bar, thickness_mm: float) -> tuple[Device | None, float, float, float]:
    """The worst of what shorts leave in a bar of a thickness: device, A²s, and the current and time at which, A and s."""
    takes, for_good = _limits(case, bar, thickness_mm)
    stays = partial(heat_kept, takes_a2s=takes, for_good_a=for_good)
    found = [
        heat_let_through(s.ends, min(max(for_good, s.least), s.most), s.most, stays)
        for s in case.once(_shorts_of, bar.id)
        if s.most > for_good
    ]
    return max(found, key=lambda x: x[1], default=(None, 0.0, 0.0, 0.0))


def _as_heated(case: Case, bar: Bar) -> Edit | None:
    """Copper enough for what a short lets through; None where none is."""
    thicker = (t for t in THICKNESSES_MM if t > bar.thickness_mm)
    fits = (t for t in thicker if _let_through(case, bar, t)[1] <= _limits(case, bar, t)[0])
    return _thickened(bar, next(fits, None))


def bar_heat(case: Case, rule: Rule) -> Iterator[Check]:
    """Bars that a short heats too far before its device opens."""
    source = say("IEC 60364-5-54 annex A, bare copper from 90 to 200 °C; what it gives off by one time constant")
    for bar in case.plan.items:
        if not isinstance(bar, Bar) or not case.wiring.segments.get(bar.id):
            continue
        takes, for_good = _limits(case, bar, bar.thickness_mm)
        peak = max((s.most for s in case.once(_shorts_of, bar.id)), default=0.0)
        if peak <= for_good:
            # It carries that for good: nothing need open.
            yield case.check(rule, bar.id, peak, for_good, "A", source=source)
            continue
        device, lets, current, seconds = _let_through(case, bar, bar.thickness_mm)
        check = case.check(rule, bar.id, lets, takes, "A²s", source=source)
        yield check if lets <= takes else check.fails(
            Verdict.DEFECT,
            say("{bar} takes {takes} A²s in a short; {device} lets {current} flow for {seconds}",
                bar=bar.title, takes=short(takes), device=device.item.title, current=amps(current), seconds=duration(seconds))
            if device is not None and isfinite(seconds)
            else say("{bar} takes {takes} A²s in a short; {peak} may flow over it and nothing is sure to open",
                     bar=bar.title, takes=short(takes), peak=amps(peak)),
            partial(_as_heated, case, bar),
        )  # fmt: skip


def bar_force(case: Case, rule: Rule) -> Iterator[Check]:
    """Bars that the force of a short would bend."""
    for bar in case.plan.items:
        if not isinstance(bar, Bar):
            continue
        peak = _peak(case, bar)
        if bar.gap_mm is None:
            check = case.check(
                rule, bar.id, peak, NO_PROOF_A, "A", source=say("IEC 61439-1 10.11.2: no proof asked for up to 10 kA")
            )
            yield check if peak <= NO_PROOF_A else check.fails(
                Verdict.ADVICE,
                say("{peak} may flow over {bar}: say how far it stands from the other bar, and between which supports, so that the force can be held against it",
                    peak=amps(peak), bar=bar.title),
            )  # fmt: skip
            continue
        length = bar.support_mm or max(bar.spacing_mm * (len(bar.studs) - 1), bar.spacing_mm)
        force = 0.2 * (peak / 1000.0) ** 2 * length / bar.gap_mm
        narrow, wide = sorted((bar.width_mm, bar.thickness_mm))
        stress = force * length / 8.0 / (wide * narrow**2 / 6.0)
        check = case.check(
            rule, bar.id, stress, COPPER_YIELD_N_MM2, "N/mm²",
            source=say("IEC 60865-1: 0.2 I² L / d, beam on two supports; copper representative"),
        )  # fmt: skip
        yield (
            check
            if stress <= COPPER_YIELD_N_MM2
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{peak} press {bar} with {force:.0f} N between supports {length:g} mm apart: {stress:.0f} N/mm², soft "
                    "copper bends at {copper_yield_n_mm2:g}",
                    peak=amps(peak),
                    bar=bar.title,
                    force=force,
                    length=length,
                    stress=stress,
                    copper_yield_n_mm2=COPPER_YIELD_N_MM2,
                ),
                partial(_supported, bar, peak),
            )
        )


def _supported(bar: Bar, peak: float) -> Edit | None:
    """Supports close enough for the force of a current; None where they would touch."""
    narrow, wide = sorted((bar.width_mm, bar.thickness_mm))
    gap = bar.gap_mm or 0.0
    apart = float(floor((COPPER_YIELD_N_MM2 * 8.0 * wide * narrow**2 / 6.0 * gap / 0.2 / (peak / 1000.0) ** 2) ** 0.5))
    if apart < 10.0:
        return None
    return Edit(
        say("Support {bar} every {apart:g} mm", bar=bar.title, apart=apart),
        partial(edits.change, id_=bar.id, support_mm=apart),
    )


TOPIC = say("Busbars")
RULES = (
    Rule("bar_section", say("Section of a busbar"),
         say("A rating is words; the copper behind it either carries that or becomes hot."), section,
         say("{} busbars have too little copper for their rating"), topic=TOPIC),
    Rule("bar_heat", say("Busbar in a short circuit"),
         say("A bar that glows lets go of its supports and sets fire to what is behind it."), bar_heat,
         say("{} busbars become too hot in a short circuit"), topic=TOPIC),
    Rule("bar_force", say("Force between busbars"),
         say("The bars of a short repel each other: they bend, and the fault moves on."), bar_force,
         say("{} busbars bend in a short circuit"), topic=TOPIC),
)  # fmt: skip
