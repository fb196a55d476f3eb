"""What a chart of devices in series shows: their bands, what they guard, the currents that can occur.

On the screen and on paper it is the same: both draw what `curves_of` finds.
"""

from collections.abc import Sequence
from math import inf, isfinite, nan
from typing import Literal, NamedTuple

import numpy as np

from jaunty_copper.codes.carried import normal
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.rules.inrush import filled_through
from jaunty_copper.codes.rules.survival import guarded_runs
from jaunty_copper.language import say
from jaunty_copper.parts.figures import quantity
from jaunty_copper.physics.copper import Floats
from jaunty_copper.plan.model import Equipment, Inline, Run, split_ref
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.selectivity import Pair, in_series
from jaunty_copper.protection.starts import starts_of

LONGEST_S, SHORTEST_S = 1e4, 1e-4
"""What a chart shows, s."""
POINTS = 240


class Mark(NamedTuple):
    """A current and time that must not open a device.

    Attributes
    ----------
    current_a, seconds : float
        How much, for how long.
    words : str
        What it is.
    """

    current_a: float
    seconds: float
    words: str


class FaultPath(NamedTuple):
    """Devices in series before one place.

    Attributes
    ----------
    ref : str
        The place.
    devices : tuple of Device
        From the source on.
    pairs : dict
        Selectivity by (upstream, downstream).
    """

    ref: str
    devices: tuple[Device, ...]
    pairs: dict[tuple[str, str], Pair]


class PathCurrents(NamedTuple):
    """What flows through a device: for long, and in faults behind it; nan where unknown."""

    normal_a: float
    least_a: float
    most_a: float


class OpeningBand(NamedTuple):
    """Where a device may open and where it has opened, up to the greatest current through it.

    Attributes
    ----------
    device : Device
        Whose band it is.
    amps, shortest_s, longest_s : array (P,)
        Of the currents at which it may open, A; the times within what the chart shows.
    """

    device: Device
    amps: Floats
    shortest_s: Floats
    longest_s: Floats


class WithstandCurve(NamedTuple):
    """What a conductor withstands: current and time, arrays (P,), A and s."""

    run: Run
    amps: Floats
    seconds: Floats
    words: str


class Upright(NamedTuple):
    """A current that stands on the chart from bottom to top, A."""

    kind: Literal["normal", "least", "greatest", "selective"]
    amps: float
    words: str


class Curves(NamedTuple):
    """All that a chart shows.

    Attributes
    ----------
    devices : tuple of Device
        In series, from the source on.
    foremost : Device
        The one that limit, currents and marks are about.
    span_a : tuple of float
        Least and greatest current shown, A.
    bands : tuple of OpeningBand
        Of the devices that open within it.
    limit : WithstandCurve or None
        Of what the foremost device guards.
    uprights : tuple of Upright
        What flows through it for good, in faults, and up to where it is selective.
    marks : tuple of Mark
        What it must let pass.
    """

    devices: tuple[Device, ...]
    foremost: Device
    span_a: tuple[float, float]
    bands: tuple[OpeningBand, ...]
    limit: WithstandCurve | None
    uprights: tuple[Upright, ...]
    marks: tuple[Mark, ...]


def curves_of(case: Case, devices: Sequence[Device], foremost: str | None = None) -> Curves:
    """What a chart of devices in series shows.

    Parameters
    ----------
    case : Case
        The studied plan under its code.
    devices : sequence of Device
        At least one, from the source on.
    foremost : str, optional
        Id of the one that is looked at; the last where none of them is named.
    """
    own = next((d for d in devices if d.item.id == foremost), devices[-1])
    each = {d.item.id: currents_of(case, d) for d in devices}
    low, high = span = _span(devices, each)
    bands = tuple(b for d in devices if (b := _band(d, each[d.item.id].most_a, low, high)) is not None)
    run = guarded_run(case, own)
    seconds = np.geomspace(SHORTEST_S, LONGEST_S, POINTS)
    limit = None
    if run is not None:
        size = case.parts.conductors[run.conductor].label
        limit = WithstandCurve(
            run, damage(case, run, seconds), seconds, say("{run}, {size}: damaged beyond", run=run.id, size=size)
        )
    uprights = tuple(u for u in _uprights(case, devices, own, each[own.item.id]) if isfinite(u.amps) and u.amps > 0.0)
    return Curves(tuple(devices), own, span, bands, limit, uprights, marks_of(case, own))


def _span(devices: Sequence[Device], each: dict[str, PathCurrents]) -> tuple[float, float]:
    low = min(min(d.fast_a, each[d.item.id].normal_a or d.fast_a) for d in devices)
    high = max((c.most_a for c in each.values() if isfinite(c.most_a)), default=1e3)
    return max(0.5 * low, 0.2), 1.6 * max(high, 20.0 * low)


def _band(device: Device, most: float, low: float, high: float) -> OpeningBand | None:
    amps = np.geomspace(low, min(most, high) if isfinite(most) else high, POINTS)
    fast, slow = device.shortest(amps), device.longest(amps)
    shown = np.isfinite(fast)
    if not shown.any():
        return None
    return OpeningBand(device, amps[shown], *(np.clip(t[shown], SHORTEST_S, LONGEST_S) for t in (fast, slow)))


def _uprights(case: Case, devices: Sequence[Device], own: Device, currents: PathCurrents) -> tuple[Upright, ...]:
    normal_a, least_a, most_a = currents
    ids = [d.item.id for d in devices]
    before = ids[: ids.index(own.item.id)]
    pair = next(
        (p for p in case.protection.pairs if before and (p.upstream, p.downstream) == (before[-1], own.item.id)), None
    )
    up_to = inf if pair is None else pair.up_to_a
    return (
        Upright("normal", normal_a, say("carries {amps}", amps=quantity(normal_a, "A"))),
        Upright("least", least_a, say("least fault {amps}", amps=quantity(least_a, "A"))),
        Upright("greatest", most_a, say("greatest fault {amps}", amps=quantity(most_a, "A"))),
        Upright("selective", up_to, say("selective up to {amps}", amps=quantity(up_to, "A"))),
    )


def path_to(case: Case, e: Equipment) -> FaultPath | None:
    """The devices before equipment; None where no fault is looked at there."""
    f, ref = case.protection.faults, e.port[0]
    if ref not in f.at:
        return None
    devices = tuple(case.protection.devices[d] for d in in_series(f, ref))
    pairs = {(p.upstream, p.downstream): p for p in case.protection.pairs}
    return FaultPath(ref, devices, pairs)


def equipment_of(case: Case, id_: str) -> str | None:
    """Equipment whose path something lies on: itself, or the first that a device or conductor leads to."""
    plan, f = case.plan, case.protection.faults
    if isinstance(plan.by_id.get(id_), Equipment):
        return id_
    for e in plan.equipment:
        for terminal in e.port:
            for run in case.chain(e, split_ref(terminal)[1]):
                ends = (plan.by_id[split_ref(ref)[0]] for ref in (run.a, run.b))
                if id_ in (run.id, *(x.id for x in ends if isinstance(x, Inline))):
                    return e.id
    device = id_
    if id_ in plan.run_by_id:
        guards = case.protection.guard.bound(case.wiring.branch[id_]).guards
        device = guards[0] if guards else ""
    if device not in case.protection.devices:
        return None
    behind = set(f.behind.faults_of(f.row[device]).tolist())
    hung = [e for e in plan.equipment if e.port[0] in f.at and f.at[e.port[0]] in behind]
    # The one that shows most: before which the most devices stand.
    best = max(hung, key=lambda e: f.behind.devices_of(f.at[e.port[0]]).size, default=None)
    return best.id if best is not None else None


def currents_of(case: Case, device: Device) -> PathCurrents:
    """Normal, least and greatest current of a device."""
    f = case.protection.faults
    row = f.row[device.item.id]
    most = f.greatest_through(device.item.id)[0]
    behind = f.shorts_through(device.item.id)
    least = float(np.abs(f.least.branch_a.row(row))[behind].min(initial=np.inf))
    return PathCurrents(
        case.once(normal, device.item.id).amps, least if isfinite(least) else nan, most if most > 0.0 else nan
    )


def guarded_run(case: Case, device: Device) -> Run | None:
    """The conductor that a device alone guards and that withstands least in a fault; not what may do without."""
    found = case.once(guarded_runs, device.item.id)
    area = case.protection.withstand.area_mm2
    return min(found, key=lambda g: (float(area[g.row]), g.run.id)).run if found else None


def damage(case: Case, run: Run, seconds: Floats) -> Floats:
    """Current that a run withstands for each time, A.

    Parameters
    ----------
    seconds : array (P,)
        For how long, s.
    """
    e = case.protection.withstand
    return np.asarray(e.current(seconds[None, :], np.array([e.row[run.id]]))[0])


def marks_of(case: Case, device: Device) -> tuple[Mark, ...]:
    """Starts and filling capacitors that a device must let pass; not what draws nothing, for it is not fed."""
    found = [Mark(s.current_a, s.lasts_s, s.title) for s in starts_of(case.protection, device.item.id)]
    for e, peak, tau in filled_through(case, device.item.id):
        # A current that dies away with tau heats like its first value for half as long.
        found.append(Mark(peak, max(tau / 2.0, 2.0 * SHORTEST_S), say("{e} fills", e=e.title)))
    return tuple(m for m in found if m.current_a > 0.0 and m.seconds > 0.0)
