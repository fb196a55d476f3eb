"""Closing and bearing: starting currents, capacitors that fill, faults through switches and bars, line sides."""

from collections.abc import Iterator
from functools import partial
from math import exp, inf, isfinite

import numpy as np

from jaunty_copper.physics.curves import melted
from jaunty_copper.physics.withstand import ADIABATIC_S
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar, Contactor, Disconnect, Equipment, Plan
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.words import amps, duration, kiloamps
from jaunty_copper.study.devices import Device
from jaunty_copper.study.faults import CAPACITOR_OHM
from jaunty_copper.study.starts import starts_of

WELDS_TIMES = 10.0
"""Times its continuous rating that a contact may close onto, where nothing is given; representative."""
PRECHARGE_S = 1.0
"""Time that a proposed resistor takes."""
FULL_TIMES = 5.0
"""Time constants after which a capacitor counts as full."""
RESISTORS_OHM = (1.0, 2.2, 4.7, 10.0, 22.0, 47.0, 100.0, 220.0, 470.0, 1000.0)
COPPER_YIELD_N_MM2 = 120.0
"""Soft copper bar, representative; half-hard bears twice as much."""


def surge(case: Case, rule: Rule) -> Iterator[Finding]:
    """Devices that a start opens."""
    if not any(s.momentary for s in case.study.states):
        return
    starting = {id_ for s in case.study.states for id_, x in s.scenario.states.items() if x == "surge"}
    for id_, device in case.study.devices.items():
        if starting.isdisjoint(e.id for e in case.study.faults.hangs_on(id_)):
            continue
        held = [(float(device.shortest(np.array(s.current_a))), s) for s in starts_of(case.study, id_)]
        fails = [(holds, s) for holds, s in held if holds <= s.lasts_s]
        if not fails:
            continue
        holds, start = min(fails, key=lambda x: x[0])
        scenario = start.state.scenario
        yield case.finding(
            rule, Severity.MEND, id_,
            f"{device.item.title} may open after {duration(holds)} at {amps(start.current_a)}; the start in “{scenario.title}” lasts {duration(start.lasts_s)}",
            figure=start.lasts_s, limit=holds, unit="s", scenario=scenario.id, source="Fast edge of its family's opening band, representative",
        )  # fmt: skip


def filling(case: Case, e: Equipment) -> tuple[float, float] | None:
    """First current into equipment's empty capacitors, A, and its time constant, s; None without any."""
    f = case.study.faults
    if e.input_uf is None or e.port[0] not in f.at:
        return None
    k = f.at[e.port[0]]
    ohm = float(f.peak.ohm[k]) + CAPACITOR_OHM
    return (abs(float(f.peak.open_v[k])) / ohm, ohm * 1e-6 * e.input_uf) if isfinite(ohm) else None


def inrush(case: Case, rule: Rule) -> Iterator[Finding]:
    """Capacitors whose filling opens a device or welds a switch, with no precharge or too little of it."""
    f = case.study.faults
    switches = [x for x in case.plan.items if isinstance(x, Disconnect | Contactor)]
    for e in case.plan.equipment:
        found = filling(case, e)
        if found is None or e.input_uf is None:
            continue
        peak, tau = found
        column, whole = f.at[e.port[0]], abs(float(f.peak.current_a[f.at[e.port[0]]]))
        before = [x for x in switches if abs(f.peak.branch_a.at(f.row[x.id], column)) > 0.5 * whole]
        charged = next((x for x in before if isinstance(x, Contactor) and x.precharge_ohm is not None), None)
        volts, farad = abs(float(f.peak.open_v[column])), 1e-6 * e.input_uf
        if isinstance(charged, Contactor) and charged.precharge_ohm is not None:
            peak, tau = _after_precharge(peak, tau, charged.precharge_ohm * farad, charged.precharge_s)
        joule = 0.5 * farad * volts**2
        first = before[0] if before else None
        proposal = next((r for r in RESISTORS_OHM if r >= PRECHARGE_S / (FULL_TIMES * farad)), RESISTORS_OHM[-1])
        mend = None
        contactor = next((x for x in before if isinstance(x, Contactor)), None)
        if contactor is not None:
            lasts = round(FULL_TIMES * proposal * farad, 2)
            mend = Edit(
                f"Precharge {e.title} through {proposal:g} Ω at {contactor.title}, {duration(max(lasts, 0.1))}",
                partial(edits.change, id_=contactor.id, precharge_ohm=proposal, precharge_s=max(lasts, 0.1)),
            )
        advice = f"; {proposal:g} Ω for {duration(FULL_TIMES * proposal * farad)} would do, {joule:.2g} J"
        welds = [x for x in before if peak > _may_make(x)]
        opens = [
            d.item.title for id_, d in case.study.devices.items() if e in f.hangs_on(id_) and _opened(d, peak, tau)
        ]
        if not welds and not opens:
            continue
        what = f"weld {welds[0].title}" if welds else f"open {opens[0]}"
        place = welds[0].id if welds else first.id if first is not None else e.id
        yield case.finding(
            rule, Severity.MEND, place,
            f"Filling the capacitors of {e.title} begins with {kiloamps(peak)} and may {what}{advice}",
            figure=peak, limit=_may_make(welds[0]) if welds else None, unit="A", mend=mend,
            source="V / R exp(-t / RC) with the path's own resistance; contacts representative where no making current is given",
        )  # fmt: skip


def _may_make(x: Disconnect | Contactor) -> float:
    return x.making_a or (WELDS_TIMES * x.rating_a if x.rating_a else inf)


def _after_precharge(peak: float, tau: float, fill_s: float, given_s: float | None) -> tuple[float, float]:
    """What is left of an inrush after a resistor has filled the capacitors for a time."""
    return peak * exp(-(given_s or 0.0) / max(fill_s, 1e-9)), tau


def _opened(device: Device, peak: float, tau: float) -> bool:
    """Whether a current that dies away may open a device."""
    times = np.linspace(0.0, 6.0 * tau, 200)
    return bool(melted(device.band, peak * np.exp(-times / tau) / device.fast_a, times)[-1] >= 1.0)


def short_time(case: Case, rule: Rule) -> Iterator[Finding]:
    """Switches that bear less than their device lets through, or close onto more than they may."""
    f, guard = case.study.faults, case.study.guard
    for x in case.plan.items:
        if not isinstance(x, Disconnect | Contactor):
            continue
        most, _ = f.greatest_through(x.id)
        if x.making_a is not None and most > x.making_a:
            yield case.finding(
                rule, Severity.NOTE, x.id,
                f"Closed onto a short, {x.title} makes {kiloamps(most)}; it may make {kiloamps(x.making_a)}: find the fault before you close it again",
                figure=most, limit=x.making_a, unit="A", source="The part's own making current",
            )  # fmt: skip
        if x.short_time_a is None or most <= 0.1 * x.short_time_a:
            continue
        feeds = guard.bound(case.wiring.branch[x.id]).feeds
        device = case.study.devices.get(feeds[0]) if len(feeds) == 1 else None
        current = np.geomspace(0.1 * x.short_time_a, most, 60)
        seconds = device.longest(current) if device is not None else np.full(60, inf)
        # Short-time current squared times a second is all the heat it takes for as long as none is lost.
        lets = np.where(seconds <= ADIABATIC_S, current**2 * seconds, np.where(current > x.short_time_a, inf, 0.0))
        k = int(np.argmax(lets))
        if lets[k] > x.short_time_a**2:
            yield case.finding(
                rule, Severity.MEND, x.id,
                f"{x.title} has a short-time withstand of {kiloamps(x.short_time_a)} (1 s); "
                + (f"{device.item.title} lets {kiloamps(float(current[k]))} flow for {duration(float(seconds[k]))}" if device is not None and isfinite(seconds[k]) else f"{kiloamps(most)} may flow through it and nothing surely opens"),
                figure=float(current[k]), limit=x.short_time_a, unit="A", source="The part's own short-time current",
            )  # fmt: skip


def bar_force(case: Case, rule: Rule) -> Iterator[Finding]:
    """Bars that the force of a short would bend."""
    f = case.study.faults
    for bar in case.plan.items:
        if not isinstance(bar, Bar) or bar.gap_mm is None:
            continue
        ks = [f.at[bar.ref(t)] for t in bar.terminal_names if bar.ref(t) in f.at]
        peak = float(np.abs(f.peak.current_a[ks]).max()) if ks else 0.0
        length = bar.support_mm or max(bar.spacing_mm * (len(bar.studs) - 1), bar.spacing_mm)
        force = 0.2 * (peak / 1000.0) ** 2 * length / bar.gap_mm
        narrow, wide = sorted((bar.width_mm, bar.thickness_mm))
        stress = force * length / 8.0 / (wide * narrow**2 / 6.0)
        if stress <= COPPER_YIELD_N_MM2:
            continue
        allowed = (COPPER_YIELD_N_MM2 * 8.0 * wide * narrow**2 / 6.0 * bar.gap_mm / 0.2 / (peak / 1000.0) ** 2) ** 0.5
        apart = float(np.floor(allowed))
        yield case.finding(
            rule, Severity.MEND, bar.id,
            f"{kiloamps(peak)} press {bar.title} with {force:.0f} N between supports {length:g} mm apart: {stress:.0f} N/mm², soft copper bends at {COPPER_YIELD_N_MM2:g}",
            figure=stress, limit=COPPER_YIELD_N_MM2, unit="N/mm²", source="IEC 60865-1: 0.2 I² L / d, beam on two supports; copper representative",
            mend=Edit(f"Support {bar.title} every {apart:g} mm", partial(edits.change, id_=bar.id, support_mm=apart)) if apart >= 10.0 else None,
        )  # fmt: skip


def line_side(case: Case, rule: Rule) -> Iterator[Finding]:
    """Devices with a marked line side that face the wrong way."""
    for id_, device in case.study.devices.items():
        if device.family.sided != "yes" or case.study.faults.feeds_from_a(id_):
            continue
        yield case.finding(
            rule, Severity.MEND, id_,
            f"{device.item.title} has its line side away from what drives a short through it",
            source=device.family.source + ": line and load side are marked",
            mend=Edit(f"Turn {device.item.title} round", partial(turn_round, id_=id_)),
        )  # fmt: skip


def turn_round(plan: Plan, id_: str) -> Plan:
    """Swap what lands on the two terminals of an inline item."""
    a, b = f"{id_}.a", f"{id_}.b"
    other = {a: b, b: a}
    for run in plan.runs:
        if run.a in other or run.b in other:
            plan = edits.change(plan, run.id, a=other.get(run.a, run.a), b=other.get(run.b, run.b))
    return plan


RULES = (
    Rule("surge_opens", "Start that opens a device",
         "It opens when the pump starts, and somebody will put in a larger one.", surge),
    Rule("inrush", "Capacitors that fill at once",
         "An empty capacitor is a short circuit for a moment: contacts weld, fuses age.", inrush),
    Rule("short_time", "Switch in a short circuit",
         "Contacts that are thrown apart by a fault weld or burst before the fuse has opened.", short_time),
    Rule("bar_force", "Force between busbars",
         "The bars of a short repel each other: they bend, and the fault moves on.", bar_force),
    Rule("line_side", "Line and load side",
         "A breaker fed from the wrong side may not put out its arc.", line_side),
)  # fmt: skip
