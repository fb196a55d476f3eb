"""Empty capacitors: what their filling opens or welds, and what precharges them."""

from collections.abc import Iterator
from functools import partial
from math import exp, inf, isfinite

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.ratings import larger, next_rating
from jaunty_copper.codes.rules.switching import TOPIC
from jaunty_copper.codes.rules.words import amps, duration
from jaunty_copper.language import say
from jaunty_copper.parts.figures import short
from jaunty_copper.physics.curves import melted
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Contactor, Disconnect, Equipment
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.fault_network import CAPACITOR_OHM

WELDS_TIMES = 10.0
"""Times its continuous rating that a contact may close onto, where nothing is given; representative."""
PRECHARGE_S = 1.0
"""Time that a proposed resistor takes."""
FULL_TIMES = 5.0
"""Time constants after which a capacitor counts as full."""
RESISTORS_OHM = (1.0, 2.2, 4.7, 10.0, 22.0, 47.0, 100.0, 220.0, 470.0, 1000.0)


def filling(case: Case, e: Equipment) -> tuple[float, float] | None:
    """First current into equipment's empty capacitors, A, and its time constant, s; None without any."""
    f = case.protection.faults
    if e.input_uf is None or e.port[0] not in f.at:
        return None
    k = f.at[e.port[0]]
    ohm = float(f.peak.ohm[k]) + CAPACITOR_OHM
    return (abs(float(f.peak.open_v[k])) / ohm, ohm * 1e-6 * e.input_uf) if isfinite(ohm) else None


def inrush(case: Case, rule: Rule) -> Iterator[Check]:
    """Capacitors whose filling opens a device or welds a switch, with no precharge or too little of it."""
    f = case.protection.faults
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
        welds = [x for x in before if peak > _may_make(x)]
        opens = [
            d.item.title for id_, d in case.protection.devices.items() if e in f.hangs_on(id_) and _opened(d, peak, tau)
        ]
        weak = min(before, key=_may_make, default=None)
        place = welds[0].id if welds else weak.id if weak is not None else e.id
        limit = _may_make(welds[0]) if welds else _may_make(weak) if weak is not None else inf
        check = case.check(
            rule, place, peak, limit if isfinite(limit) else None, "A",
            source=say("V / R exp(-t / RC) with the path's own resistance; contacts representative where no making current is given"),
        )  # fmt: skip
        if not welds and not opens:
            yield check
            continue
        proposal = next((r for r in RESISTORS_OHM if r >= PRECHARGE_S / (FULL_TIMES * farad)), RESISTORS_OHM[-1])
        lasts = FULL_TIMES * proposal * farad
        contactor = next((x for x in before if isinstance(x, Contactor)), None)
        what = say("weld {welds}", welds=welds[0].title) if welds else say("open {opens}", opens=opens[0])
        yield check.fails(
            Verdict.DEFECT,
            say(
                "Filling the capacitors of {e} begins with {peak} and may {what}; {proposal:g} Ω for {lasts} would do, "
                "{farad} J",
                e=e.title,
                peak=amps(peak),
                what=what,
                proposal=proposal,
                lasts=duration(lasts),
                farad=short(0.5 * farad * volts**2),
            ),
            partial(_precharge, e, contactor, proposal, lasts)
            if contactor is not None
            else partial(larger, case, welds[0].id, peak / WELDS_TIMES)
            if welds and _grows(case, welds[0], peak)
            else None,
        )


def _precharge(e: Equipment, contactor: Contactor, ohm: float, lasts_s: float) -> Edit:
    """A resistor that fills a piece of equipment's capacitors before a contactor closes."""
    seconds = max(round(lasts_s, 2), 0.1)
    return Edit(
        say(
            "Precharge {e} through {ohm:g} Ω at {contactor}, {seconds}",
            e=e.title,
            ohm=ohm,
            contactor=contactor.title,
            seconds=duration(seconds),
        ),
        partial(edits.change, id_=contactor.id, precharge_ohm=ohm, precharge_s=seconds),
    )


def _grows(case: Case, x: Disconnect | Contactor, peak: float) -> bool:
    """Whether a larger switch would do: one whose making capacity is not given, and that there is."""
    return isinstance(x, Disconnect) and x.making_a is None and next_rating(case, peak / WELDS_TIMES) is not None


def _may_make(x: Disconnect | Contactor) -> float:
    return x.making_a or (WELDS_TIMES * x.rating_a if x.rating_a else inf)


def _after_precharge(peak: float, tau: float, fill_s: float, given_s: float | None) -> tuple[float, float]:
    """What is left of an inrush after a resistor has filled the capacitors for a time."""
    return peak * exp(-(given_s or 0.0) / max(fill_s, 1e-9)), tau


def _opened(device: Device, peak: float, tau: float) -> bool:
    """Whether a current that dies away may open a device."""
    times = np.linspace(0.0, 6.0 * tau, 200)
    return bool(melted(device.band, peak * np.exp(-times / tau) / device.fast_a, times)[-1] >= 1.0)


RULES = (
    Rule("inrush", say("Inrush of capacitors"),
         say("An empty capacitor is a short circuit for a moment: contacts weld, fuses age."), inrush,
         say("{} inrush currents open a device or weld a switch"), topic=TOPIC),
)  # fmt: skip
