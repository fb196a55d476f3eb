"""Empty capacitors: what their filling opens or welds, and what precharges them."""

from collections.abc import Iterator
from functools import partial
from math import exp, inf, isfinite
from typing import NamedTuple

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.ratings import larger, next_rating
from jaunty_copper.codes.rules.switching import TOPIC
from jaunty_copper.codes.rules.words import amps, duration
from jaunty_copper.language import say
from jaunty_copper.parts.figures import short
from jaunty_copper.physics.curves import melted
from jaunty_copper.physics.fault_course import NOTHING_A
from jaunty_copper.physics.fault_currents import FaultCurrents
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Contactor, Disconnect, Equipment
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.fault_network import CAPACITOR_OHM

BESIDE = 0.05
"""Of a fault's current: what carries more takes part in feeding it; what carries all but so much has nothing beside it."""
HIGHER = 1.25
"""Times what all together give that one way alone may, where its units stand higher: more is not looked for."""
WELDS_TIMES = 10.0
"""Times its continuous rating that a contact may close onto, where nothing is given; representative."""
PRECHARGE_S = 1.0
"""Time that a proposed resistor takes."""
FULL_TIMES = 5.0
"""Time constants after which a capacitor counts as full."""
RESISTORS_OHM = (1.0, 2.2, 4.7, 10.0, 22.0, 47.0, 100.0, 220.0, 470.0, 1000.0)


class Closing(NamedTuple):
    """One way to connect a piece of equipment.

    Attributes
    ----------
    feeding : FaultCurrents
        What then feeds it.
    through : list of Disconnect or Contactor
        What most of that flows through: any resistor there fills the capacitors first.
    last : list of Disconnect or Contactor
        Those of them that may be the last to close.
    """

    feeding: FaultCurrents
    through: list[Disconnect | Contactor]
    last: list[Disconnect | Contactor]


def filling(case: Case, e: Equipment, feeding: FaultCurrents | None = None) -> tuple[float, float] | None:
    """First current into equipment's empty capacitors, A, and its time constant, s; None without any.

    Parameters
    ----------
    feeding : FaultCurrents, optional
        With what feeds it; everything where not given.
    """
    f = case.protection.faults
    if e.input_uf is None or e.port[0] not in f.at:
        return None
    k, feeding = f.at[e.port[0]], feeding or f.peak
    ohm = float(feeding.ohm[k]) + CAPACITOR_OHM
    return (abs(float(feeding.open_v[k])) / ohm, ohm * 1e-6 * e.input_uf) if isfinite(ohm) else None


def filled_through(case: Case, device: str) -> Iterator[tuple[Equipment, float, float]]:
    """Equipment whose capacitors fill through a device, the share of the first current that it carries, A, and the time constant, s."""
    shares = case.protection.faults.shares(device)
    for e in case.plan.equipment:
        found = filling(case, e) if e.port[0] in shares else None
        if found is not None:
            yield e, abs(shares[e.port[0]]) * found[0], found[1]


def _shares(case: Case, e: Equipment, feeding: FaultCurrents) -> dict[str, float]:
    """Of what flows into equipment, the share through each device and switch that has a part in it, by id."""
    f = case.protection.faults
    column = f.at[e.port[0]]
    whole = max(abs(float(feeding.current_a[column])), NOTHING_A)
    names = (*f.devices, *f.switches)
    rows, _, amps_ = feeding.branch_a.during(np.array([column]))
    return {names[row]: share for row, a in zip(rows, amps_, strict=True) if (share := abs(float(a)) / whole) > BESIDE}


def closings(case: Case, e: Equipment) -> Iterator[Closing]:
    """With all of what feeds it at once, and by each switch beside which others lie while those are open."""
    f = case.protection.faults
    switches = [x for x in case.plan.items if isinstance(x, Disconnect | Contactor)]
    now, most = _shares(case, e, f.peak), filling(case, e)
    some = [x for x in switches if x.id in now]
    alike = [x for x in some if now[x.id] > 1.0 - BESIDE]
    yield Closing(f.peak, [x for x in some if now[x.id] > 0.5], alike)
    beside = [x for x in some if x not in alike]
    divided = any(now.get(id_, 1.0) <= 1.0 - BESIDE for id_ in f.devices)
    for x in beside:
        if most is None or (HIGHER * most[0] <= _may_make(x) and not divided):
            continue
        # What carries no less once another is open does not lie in series with it.
        others = [
            y.id for y in beside
            if y is not x and _shares(case, e, f.without(y.id)).get(x.id, 0.0) >= now[x.id]
        ]  # fmt: skip
        alone = f.without(*others)
        then = _shares(case, e, alone)
        if then.get(x.id, 0.0) > 0.5:
            through = [y for y in switches if then.get(y.id, 0.0) > 0.5]
            yield Closing(alone, through, through)


class Filling(NamedTuple):
    """What filling a piece of equipment's empty capacitors by one way comes to.

    Attributes
    ----------
    peak_a : float
        First current, after what a resistor has filled before.
    last, welds : list of Disconnect or Contactor
        Those that may be the last to close, and those of them that it welds.
    opens : list of str
        Titles of devices that it opens.
    """

    peak_a: float
    last: list[Disconnect | Contactor]
    welds: list[Disconnect | Contactor]
    opens: list[str]

    @property
    def weakest(self) -> Disconnect | Contactor | None:
        """What of the last is welded, or would be first."""
        return min(self.last, key=_may_make, default=None)

    @property
    def share(self) -> float:
        """Of what that one may make."""
        return self.peak_a / _may_make(self.weakest) if self.weakest is not None else 0.0


def _by(case: Case, e: Equipment, closing: Closing) -> Filling:
    found = filling(case, e, closing.feeding)
    assert found is not None
    assert e.input_uf is not None
    peak, tau = found
    charged = next((x for x in closing.through if isinstance(x, Contactor) and x.precharge_ohm is not None), None)
    if isinstance(charged, Contactor) and charged.precharge_ohm is not None:
        peak, tau = _after_precharge(peak, tau, charged.precharge_ohm * 1e-6 * e.input_uf, charged.precharge_s)
    shares, devices = _shares(case, e, closing.feeding), case.protection.devices
    opens = [
        devices[id_].item.title for id_ in shares if id_ in devices and _opened(devices[id_], shares[id_] * peak, tau)
    ]
    return Filling(peak, closing.last, [x for x in closing.last if peak > _may_make(x)], opens)


def inrush(case: Case, rule: Rule) -> Iterator[Check]:
    """Capacitors whose filling opens a device or welds a switch, with no precharge or too little of it."""
    f = case.protection.faults
    for e in case.plan.equipment:
        if filling(case, e) is None or e.input_uf is None:
            continue
        ways = [_by(case, e, closing) for closing in closings(case, e)]
        worst = next((way for way in ways if way.welds or way.opens), max(ways, key=lambda way: way.share))
        (peak, before, welds, opens), weak = worst, worst.weakest
        limit = _may_make(weak) if weak is not None else inf
        check = case.check(
            rule, weak.id if weak is not None else e.id, peak, limit if isfinite(limit) else None, "A",
            source=say("V / R exp(-t / RC) with the path's own resistance; contacts representative where no making current is given"),
        )  # fmt: skip
        if not welds and not opens:
            yield check
            continue
        volts, farad = abs(float(f.peak.open_v[f.at[e.port[0]]])), 1e-6 * e.input_uf
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
