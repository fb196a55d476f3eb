"""Which protective devices fit a place, which do not, and why."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import inf, isfinite
from typing import NamedTuple

import numpy as np

from jaunty_copper.choosing.windows import RatingBound, RatingWindow, seat_of, window
from jaunty_copper.codes.carried import normal
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import backed_up
from jaunty_copper.codes.permitted import answers_for, voltage_at
from jaunty_copper.codes.rules.inrush import filled_through
from jaunty_copper.codes.rules.survival import guarded_runs
from jaunty_copper.codes.rules.words import amps, duration, volts
from jaunty_copper.fabrication.prices import device_price
from jaunty_copper.language import say
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import ambient_factor, even_ratios, melted
from jaunty_copper.plan.topology import distributor_of
from jaunty_copper.protection.back_up import BackUp
from jaunty_copper.protection.devices import Device, instead_of
from jaunty_copper.protection.selectivity import STEPS, Pair, Selectivity, selective_up_to, selectivity_of
from jaunty_copper.protection.starts import Start, starts_of

RANK: dict[Selectivity, int] = {"total": 0, "partial": 1, "none": 2}


STRONGER = say("made stronger")
DEAR = 1.5
"""A family that the plan has already is taken up to so many times the price of the cheapest that fits."""


@dataclass(frozen=True)
class Choice:
    """A family at a place.

    Attributes
    ----------
    family : DeviceFamily
        Which.
    rating_a : float or None
        The best of its ratings there; None where none is in the window.
    fails : tuple of str
        Why it cannot stand there; empty where it can.
    selective : str
        The worst verdict with any neighbour that feeds more or less than it does.
    with_whom : str
        The neighbour and the current up to which that holds, in words.
    """

    family: DeviceFamily
    rating_a: float | None
    fails: tuple[str, ...]
    selective: Selectivity
    with_whom: str

    @property
    def fits(self) -> bool:
        """Whether it may stand there."""
        return not self.fails


class _Place(NamedTuple):
    """All that a candidate at one place is held against, computed once."""

    device: Device
    window: RatingWindow
    volts: float
    operating_v: float
    prospective_a: float
    backed: BackUp | None
    hazard: bool
    takes: str | None
    unlisted: frozenset[str]
    surges: tuple[Start, ...]
    fills: tuple[tuple[Floats, Floats, str], ...]
    rows: Ints
    most_a: Floats
    least_a: Floats
    bears_a: Floats
    pairs: tuple[Pair, ...]


def _place(case: Case, id_: str) -> _Place:
    device = case.protection.devices[id_]
    f, item = case.protection.faults, device.item
    zone = next((z for z in case.plan.zones if z.id == item.zone), None)
    seat = distributor_of(case.plan, item.id)
    fills = []
    for e, peak, tau in filled_through(case, item.id):
        times = np.linspace(0.0, 6.0 * tau, 200)
        fills.append((times, peak * np.exp(-times / tau), e.title))
    guarded = [g for g in case.once(guarded_runs, item.id) if answers_for(case, item, g.branch)]
    return _Place(
        device, window(case, item), max(voltage_at(case, item.ref("a")), case.operating_v(item)),
        case.operating_v(item), f.prospective(item.id)[0], backed_up(case, item.id),
        zone is not None and zone.ignition_hazard, seat.fuse_family if seat is not None else None, case.code.unlisted, starts_of(case.protection, item.id), tuple(fills),
        np.array([g.row for g in guarded], dtype=np.int64), np.array([g.most_a for g in guarded]),
        np.array([g.least_a for g in guarded]), np.array([case.ampacities[g.run.id].amps for g in guarded]),
        tuple(p for p in case.protection.pairs if item.id in (p.upstream, p.downstream) and not p.same),
    )  # fmt: skip


def choices(
    case: Case,
    id_: str,
    others: Mapping[str, Device] | None = None,
    high_a: float | None = None,
    low_a: float = 0.0,
) -> tuple[Choice, ...]:
    """Every family at a device's place: those that fit first, the best of them foremost.

    Parameters
    ----------
    case : Case
        The studied plan under its code.
    id_ : str
        Of a fuse or breaker.
    others : mapping, optional
        The other devices, where they are to be other than the plan's.
    high_a : float, optional
        Upper end of the window, where it is to be another: what else must then be made stronger.
    low_a : float
        Lower end of the window, where more is to be carried than any scenario asks for, A.

    Raises
    ------
    KeyError
        There is no such device.
    """
    here, others = _asked(case, id_, high_a, low_a), others or case.protection.devices
    found = [_choice(case, here, family, others) for family in case.parts.device_families.values()]
    return _in_order(case, here, found)


def that_fit(
    case: Case, id_: str, others: Mapping[str, Device] | None = None, high_a: float | None = None, low_a: float = 0.0
) -> tuple[Choice, ...]:
    """The choices of families that fit a device's place, the best foremost; those that cannot are not looked at further.

    Parameters as in `choices`, whose first ones these are.

    Parameters
    ----------
    high_a, low_a : float
        Ends of the window, where they are to be others, A.
    """
    here, others = _asked(case, id_, high_a, low_a), others or case.protection.devices
    may = (family for family in case.parts.device_families.values() if not any(_unfit(here, family)))
    return _in_order(case, here, [c for family in may if (c := _fit(case, here, family, others)) is not None])


def _asked(case: Case, id_: str, high_a: float | None, low_a: float) -> _Place:
    """A place with the window that is asked for."""
    here = case.once(_place, id_)
    if high_a is not None:
        # What a device stands in is not made stronger.
        high = min(RatingBound(high_a, STRONGER), seat_of(case, here.device.item), key=lambda bound: bound.amps)
        here = here._replace(window=RatingWindow(here.window.low, high))
    return _carrying(here, low_a)


def _in_order(case: Case, here: _Place, found: list[Choice]) -> tuple[Choice, ...]:
    cheapest = min((_price(c) for c in found if c.fits), default=inf)
    at_hand = {d.family.id for d in case.protection.devices.values()}
    return tuple(sorted(found, key=lambda c: _rank(here, at_hand, cheapest, c)))


def _carrying(here: _Place, low_a: float) -> _Place:
    """A place where more is to be carried than any scenario asks for, A."""
    if low_a <= here.window.low.amps:
        return here
    low = RatingBound(low_a, say("carries the equipment's rated current"))
    return here._replace(window=RatingWindow(low, here.window.high))


def that_may_stand(case: Case, id_: str, within: tuple[float, float] | None = None) -> list[Choice]:
    """Every rating in a device's window of every family that may stand there, the least costly first.

    Parameters
    ----------
    within : tuple of float, optional
        Other bounds of the ratings, A.
    """
    here = case.once(_place, id_)
    low, high = within or (here.window.low.amps, here.window.high.amps)
    found = [
        Choice(family, rating, (), "none", say("not looked at"))
        for family in case.parts.device_families.values()
        if not any(_unfit(here, family))
        for rating in case.parts.ratings(family)
        if low <= rating <= high * 1.0001
    ]
    return sorted(found, key=_price)


def that_carry(case: Case, id_: str, least_a: float, rated_a: float) -> Iterator[Choice]:
    """Every rating of a device's kind that stands at its place and carries what it must, whatever conductors there are, the least costly first.

    Parameters
    ----------
    least_a : float
        What flows there for good at least, A; what is most at the lowest voltage, or with the bank low, is no less with other sizes.
    rated_a : float
        What it must carry at least, A, before what the code asks more for what lasts.
    """
    here, share = case.once(_place, id_), max(case.code.limit("continuous_share"), 1.0)
    carries = here.window.low.amps if case.once(normal, id_).when else min(share * least_a, here.window.low.amps)
    low, high = max(carries, share * rated_a), seat_of(case, here.device.item).amps
    here = here._replace(rows=np.zeros(0, dtype=np.int64))
    able = [
        Choice(family, rating, (), "none", say("not looked at"))
        for family in case.parts.device_families.values()
        if family.kind == here.device.item.kind and not any(_unfit(here, family))
        for least in (low / float(ambient_factor(family.release, here.device.air_c[0])),)
        for rating in case.parts.ratings(family)
        if least <= rating <= high
    ]
    for c in sorted(able, key=lambda c: (_price(c), c.rating_a, c.family.id)):
        assert c.rating_a is not None
        if not any(_trouble(case, here, instead_of(here.device, case.parts, c.family, c.rating_a))):
            yield c


def _rank(here: _Place, at_hand: set[str], cheapest: float, c: Choice) -> tuple[object, ...]:
    """Fitting, selective, of the same kind and family; then what is at hand and not dear, then what costs least."""
    now = here.device.family
    price = _price(c)
    return (
        not c.fits, len(c.fails), RANK[c.selective], c.family.kind != now.kind, c.family.id != now.id,
        c.family.id not in at_hand or price > DEAR * cheapest, price, c.family.id,
    )  # fmt: skip


def _price(c: Choice) -> float:
    return inf if c.rating_a is None else device_price(c.family, c.rating_a)


def _choice(case: Case, here: _Place, family: DeviceFamily, others: Mapping[str, Device]) -> Choice:
    fails = list(_unfit(here, family))
    low, high, ratings = _ratings(case, here, family)
    if not ratings:
        fails.append(_no_rating(here, low, high, case.parts.ratings(family)))
        return Choice(family, None, tuple(fails), "none", "")
    best: tuple[tuple[int, int], float, list[str], Selectivity, str] | None = None
    for rating in ratings:
        device = instead_of(here.device, case.parts, family, rating)
        wrong = list(_trouble(case, here, device))
        verdict, words = _selective(case, here, device, others)
        key = (len(wrong), RANK[verdict])
        if best is None or key < best[0]:
            best = key, rating, wrong, verdict, words
        if best[0] == (0, 0):
            break
    assert best is not None
    return Choice(family, best[1], (*fails, *best[2]), best[3], best[4])


def _ratings(case: Case, here: _Place, family: DeviceFamily) -> tuple[float, float, list[float]]:
    """What a rating of a family must lie between at a place, and those that do, in the order in which they are tried."""
    low = here.window.low.amps / float(ambient_factor(family.release, here.device.air_c[0]))
    high = here.window.high.amps
    found = [r for r in case.parts.ratings(family) if low <= r <= high * 1.0001]
    return low, high, found[::-1] if case.plan.devices_by == "conductor" else found


def _fit(case: Case, here: _Place, family: DeviceFamily, others: Mapping[str, Device]) -> Choice | None:
    """The best rating of a family that does nothing wrong, as `_choice` finds it; None where there is none."""
    best: Choice | None = None
    for rating in _ratings(case, here, family)[2]:
        device = instead_of(here.device, case.parts, family, rating)
        if any(_trouble(case, here, device)):
            continue
        verdict, words = _selective(case, here, device, others)
        if best is None or RANK[verdict] < RANK[best.selective]:
            best = Choice(family, rating, (), verdict, words)
        if RANK[verdict] == 0:
            break
    return best


def _unfit(here: _Place, family: DeviceFamily) -> Iterator[str]:
    """What no rating of a family can help."""
    if family.max_v_dc < here.volts:
        yield say("made for {max_v_dc:g} V, sees {volts}", max_v_dc=family.max_v_dc, volts=volts(here.volts))
    able = family.interrupt_a(here.operating_v)
    backed = here.backed.let_through_a if here.backed is not None and family.kind == "fuse" else inf
    if able is not None and able < min(here.prospective_a, backed):
        yield say(
            "interrupt rating {able} at {operating_v:.3g} V; {prospective_a} are prospective",
            able=amps(able), operating_v=here.operating_v, prospective_a=amps(here.prospective_a),
        )  # fmt: skip
    if family.id in here.unlisted:
        yield say("not listed as protection of a circuit")
    if here.takes not in (None, family.id):
        yield say("does not fit the distributor that it stands on")
    if here.hazard and family.ignition_protected != "yes":
        yield say("not known to be ignition protected")


def _no_rating(here: _Place, low: float, high: float, all_: tuple[float, ...]) -> str:
    at = say(" at {air_c:.0f} °C", air_c=here.device.air_c[0]) if low > here.window.low.amps * 1.0001 else ""
    if low > high:
        return say(
            "needs {low}{at}, more than {high}: {why}", low=amps(low), at=at, high=amps(high), why=here.window.high.why
        )
    if all_ and all_[0] > high:
        return say("begins at {all:g} A, {high} is the most", all=all_[0], high=amps(high))
    if all_ and all_[-1] < low:
        return say("ends at {all:g} A, {low} is the least{at}", all=all_[-1], low=amps(low), at=at)
    return say("no rating from {low}{at} to {high}", low=amps(low), at=at, high=amps(high))


def _trouble(case: Case, here: _Place, device: Device) -> Iterator[str]:
    """What one rating of a family does wrong."""
    for start in here.surges:
        holds = device.shortest_warm(start.current_a, start.before_a)
        if holds <= start.lasts_s:
            yield say(
                "may open after {holds} in “{title}”, which lasts {lasts}",
                holds=duration(holds), title=start.state.scenario.title, lasts=duration(start.lasts_s),
            )  # fmt: skip
    for times, inrush, title in here.fills:
        if float(melted(device.band, inrush / device.fast_a, times)[-1]) >= 1.0:
            yield say("may open when the capacitors of {title} fill", title=title)
    if not here.rows.size:
        return
    low = np.minimum(device.slow_a, here.most_a)
    currents = even_ratios(low, here.most_a, 60)
    enough: Flags = case.protection.withstand.withstands(currents, device.longest(currents), here.rows)
    # What is to be made stronger anyway is judged when it is.
    stays = (here.bears_a >= device.item.rating_a) | (here.window.high.why != STRONGER)
    failing = np.flatnonzero(~enough.all(axis=1) & stays)
    if failing.size:
        run = case.protection.withstand.runs[int(here.rows[failing[0]])]
        yield say("{run} does not withstand what it lets through", run=case.run_title(run))
    limit = case.code.limit("fault_opening_s")
    late = device.longest(here.least_a)
    slow = (late > limit) & (here.least_a > here.bears_a)
    if slow.any():
        worst = float(late[slow].max())
        when = (
            say("after up to {worst}", worst=duration(worst))
            if isfinite(worst)
            else say("with no guarantee that it opens")
        )
        yield say(
            "opens {when} on a short of {min} at the far end", when=when, min=amps(float(here.least_a[slow].min()))
        )


def selectivity_now(case: Case, id_: str, devices: Mapping[str, Device]) -> Selectivity:
    """The worst verdict of a device with its neighbours, all as they are to be."""
    return _selective(case, case.once(_place, id_), devices[id_], devices)[0]


def with_neighbour(device: Device, p: Pair, others: Mapping[str, Device]) -> tuple[Selectivity, float]:
    """How selective a device is with its neighbour in a pair, and up to which current, A.

    Parameters
    ----------
    device : Device
        One of the two, as it is to be.
    p : Pair
        Both, with the currents that can occur.
    others : mapping
        The other devices, by id.
    """
    up, down = (device, others[p.downstream]) if p.upstream == device.item.id else (others[p.upstream], device)
    current = even_ratios(p.least_a, p.most_a, STEPS)
    until = float(selective_up_to(up.band, up.fast_a, down.band, down.slow_a, current, p.share))
    return selectivity_of(until, p.least_a), until


def _selective(case: Case, here: _Place, device: Device, others: Mapping[str, Device]) -> tuple[Selectivity, str]:
    worst: tuple[Selectivity, str] = ("total", "")
    for p in here.pairs:
        is_up = p.upstream == device.item.id
        other = others[p.downstream if is_up else p.upstream]
        verdict, until = with_neighbour(device, p, others)
        if RANK[verdict] > RANK[worst[0]]:
            whom = f"{say('behind it') if is_up else say('before it')} {case.title(other.item.id)}"
            worst = (
                verdict,
                say("{whom}, up to {until}", whom=whom, until=amps(until)) if verdict == "partial" else whom,
            )
    return worst
