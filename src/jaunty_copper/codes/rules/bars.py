"""Busbars: what their copper carries for good, heats by in a short, and bends under."""

from collections.abc import Iterator
from functools import partial
from math import floor, isfinite, sqrt

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED, Check, Rule, Verdict
from jaunty_copper.codes.rules.switching import heat_let_through
from jaunty_copper.codes.rules.words import amps, duration
from jaunty_copper.language import say
from jaunty_copper.parts.figures import short
from jaunty_copper.physics.busbars import BAR_C, THICKNESSES_MM, bar_ampacity, bar_withstand, thick_enough
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar

COPPER_YIELD_N_MM2 = 120.0
"""Soft copper bar, representative; half-hard withstands twice as much."""
NO_PROOF_A = 10e3


def _peak(case: Case, bar: Bar) -> tuple[float, str]:
    """The most that a short at a stud of a bar draws, A, and the stud."""
    f = case.protection.faults
    refs = [bar.ref(t) for t in bar.terminal_names if bar.ref(t) in f.at]
    return max(((abs(float(f.peak.current_a[f.at[ref]])), ref) for ref in refs), default=(0.0, ""))


def _ambient(case: Case, bar: Bar) -> float:
    zone = case.plan.zone_of(bar.zone)
    return max([zone.ambient_c, *(s.scenario.ambient_c.get(zone.id, zone.ambient_c) for s in case.study.states)])


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


def _as_heated(bar: Bar, lets_a2s: float) -> Edit | None:
    """Copper enough for what a short lets through; None where nothing is sure to open."""
    takes = (t for t in THICKNESSES_MM if bar_withstand(bar.width_mm * t) >= lets_a2s)
    return _thickened(bar, next(takes, None))


def bar_heat(case: Case, rule: Rule) -> Iterator[Check]:
    """Bars that a short heats too far before its device opens."""
    for bar in case.plan.items:
        if not isinstance(bar, Bar) or not case.wiring.segments.get(bar.id):
            continue
        takes = bar_withstand(bar.width_mm * bar.thickness_mm)
        (peak, place), bears_a = _peak(case, bar), sqrt(takes)
        if peak <= 0.1 * bears_a:
            yield case.check(
                rule, bar.id, 0.0, takes, "A²s", source=say("IEC 60364-5-54 annex A, bare copper from 90 to 200 °C")
            )
            continue
        # Segments behind one device are heated alike.
        alike = {case.protection.guard.bound(k).guard: k for k in case.wiring.segments[bar.id]}
        found = (heat_let_through(case, k, peak, bears_a, place) for k in alike.values())
        device, lets, current, seconds = max(found, key=lambda x: x[1])
        check = case.check(
            rule, bar.id, lets if isfinite(lets) else None, takes, "A²s",
            source=say("IEC 60364-5-54 annex A, bare copper from 90 to 200 °C"),
        )  # fmt: skip
        yield check if lets <= takes else check.fails(
            Verdict.DEFECT,
            say("{bar} takes {takes} A²s in a short; {device} lets {current} flow for {seconds}",
                bar=bar.title, takes=short(takes), device=device.item.title, current=amps(current), seconds=duration(seconds))
            if device is not None and isfinite(seconds)
            else say("{bar} takes {takes} A²s in a short; {peak} may flow over it and nothing is sure to open",
                     bar=bar.title, takes=short(takes), peak=amps(peak)),
            partial(_as_heated, bar, lets),
        )  # fmt: skip


def bar_force(case: Case, rule: Rule) -> Iterator[Check]:
    """Bars that the force of a short would bend."""
    for bar in case.plan.items:
        if not isinstance(bar, Bar):
            continue
        peak, _ = _peak(case, bar)
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
