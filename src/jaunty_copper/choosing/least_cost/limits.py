"""What holds for a choice of sizes, as rows of a linear programme: devices and conductors, and drop.

Rows are over choices: each is 1 where its option is taken. Those on devices hold before anything is solved. Those on
drop are tangents at a solved plan: the drop of what draws a constant power is a convex function of resistances, so that a
tangent never asks for too much; where resistances draw, it is a concave one, and the tangent is bent to lie below it.
"""

from collections.abc import Collection, Iterator
from math import isfinite
from typing import NamedTuple

import numpy as np

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.least_cost.options import SizedPlace
from jaunty_copper.choosing.putting import device_like
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.permitted import allowed_rating, is_tap, leaves_hub
from jaunty_copper.language import say
from jaunty_copper.network.slopes import sensitivity_of
from jaunty_copper.network.study import State
from jaunty_copper.network.wiring import body_ohm, cable_of, run_ohms
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.physics.heat import steady_temperature
from jaunty_copper.physics.modes import VOLTAGE
from jaunty_copper.plan.model import Breaker, Converter, Equipment, Fuse, Inverter, Load, ResistiveLoad, Source

EASE = 0.002
"""Of what may be lost, by so much a tangent is let pass where nothing was wrong: other sizes are not quite as warm."""
NEAR = 0.4
"""A tangent is of use where less than this share of what may be lost is left."""
Column = tuple[int, int]
"""A place and one of its options, by their numbers."""


class ProgrammeRow(NamedTuple):
    """A sum over choices that must not exceed a limit.

    Attributes
    ----------
    terms : dict
        What each choice adds, by place and option.
    most : float
        The limit.
    why : str
        What asks for it, in words.
    key : tuple of str or None
        Rule and place of the finding that it keeps away.
    """

    terms: dict[Column, float]
    most: float
    why: str
    key: tuple[str, str] | None = None


def by_devices(case: Case, spots: tuple[SizedPlace, ...]) -> Iterator[ProgrammeRow]:
    """No device larger than a conductor that it guards permits.

    Parameters
    ----------
    spots : tuple of SizedPlace
        With their options.
    """
    number = {id_: k for k, spot in enumerate(spots) for id_ in spot.ids}
    guard = case.protection.guard
    for id_, known in case.protection.devices.items():
        device = known.item
        for branch in guard.guarded_by.get(id_, ()):
            run = case.plan.run_by_id.get(case.wiring.branches[branch].owner)
            if run is None or run.id not in case.ampacities or is_tap(case, branch) or leaves_hub(case, branch):
                continue
            if id_ not in number and run.id not in number:
                continue
            yield from _pair(case, spots, number, device, branch)


def _pair(
    case: Case, spots: tuple[SizedPlace, ...], number: dict[str, int], device: Fuse | Breaker, branch: int
) -> Iterator[ProgrammeRow]:
    run = case.plan.run_by_id[case.wiring.branches[branch].owner]
    d, r = number.get(device.id), number.get(run.id)
    devices = spots[d].options if d is not None else (None,)
    as_they = [run] if r is None else [run.model_copy(update=o.fields) for o in spots[r].options]
    amps = [a.amps for a in case.ampacities_of(as_they)]
    why = say("{device} guards {run}", device=device.title, run=case.title(run.id))
    for family in {o.family if o else device.family for o in devices}:
        mine = [
            (n, o.rating_a if o else device.rating_a) for n, o in enumerate(devices) if o is None or o.family == family
        ]
        as_one = device.model_copy(update={"family": family})
        able = [
            (n, allowed_rating(case, branch, as_one, as_if)) for n, as_if in enumerate(zip(as_they, amps, strict=True))
        ]
        for rating in sorted({rating for _, rating in mine}):
            weak = [n for n, allowed in able if allowed * 1.0001 < rating]
            terms = {(r, n): 1.0 for n in weak if r is not None}
            terms |= {(d, n): 1.0 for n, one in mine if d is not None and one >= rating}
            # One of the two stands as it is: then what of the other does not go with it is out.
            given = (r is None and bool(weak)) + (d is None)
            if weak and terms:
                yield ProgrammeRow(terms, 1.0 - given, why)


class _Bound(NamedTuple):
    """A voltage that must not grow by more than is left of what it may be.

    Attributes
    ----------
    nodes : tuple of (int, float)
        Nodes, and by what their voltages count.
    left_v, ease_v : float
        What is left, and what a tangent may be off.
    share, limit : float
        Of the voltage of what feeds it, lost now and to be lost at most.
    """

    nodes: tuple[tuple[int, float], ...]
    left_v: float
    ease_v: float
    share: float
    limit: float
    why: str
    key: tuple[str, str]

    def bent(self, volts: Floats) -> Floats:
        """What resistances draw less by makes up for some of the drop: as much as it may, so that nothing is asked too much.

        Parameters
        ----------
        volts : ndarray
            More drop of each option by the tangent, V.

        Notes
        -----
        V0 R / (R + RL) with a share s lost has the slope V0 (1 - s)^2 / RL: the steepest at no drop, the least at the most
        that may be.
        """
        less, more = 1.0 / (1.0 - self.share) ** 2, ((1.0 - max(self.share, self.limit)) / (1.0 - self.share)) ** 2
        return np.asarray(np.where(volts < 0.0, volts * less, volts * more))


def by_drop(
    known: Assessment,
    spots: tuple[SizedPlace, ...],
    chosen: dict[int, int],
    begin: Assessment | None = None,
    aside: Collection[tuple[str, str]] = (),
) -> Iterator[ProgrammeRow]:
    """Tangents of what each piece of equipment loses, and of the least voltage that it gets, at a solved choice.

    Parameters
    ----------
    chosen : dict
        The option at each place that is solved.
    begin : Assessment, optional
        The plan as it was.
    aside : collection of (str, str)
        Rule and place of what cannot be mended: it need only be no worse than in that plan.
    """
    case = known.case
    resistive = any(isinstance(e, ResistiveLoad) for e in case.plan.equipment)
    things = [(k, id_) for k, spot in enumerate(spots) for id_ in spot.ids]
    for state in known.study.states:
        bounds = [b for e in case.plan.equipment for b in _bounds(case, e, state)] if state.solved else []
        if not bounds:
            continue
        slopes, more = sensitivity_of(state).volts, _more_ohm(case, spots, chosen, things, state)
        for bound in bounds:
            slope = sum(count * slopes[n] for n, count in bound.nodes)
            terms: dict[Column, float] = {}
            for (k, id_), ohms in zip(things, more, strict=True):
                volts = slope[state.wiring.branch[id_]] * ohms
                for n, v in enumerate((bound.bent(volts) if resistive else volts).tolist()):
                    if v:
                        terms[k, n] = terms.get((k, n), 0.0) + v
            left_v = bound.left_v
            if bound.key in aside and begin is not None:
                left_v = max(left_v, left_v - _now_left_v(begin, state, bound))
            most = left_v if left_v < 0.0 else left_v + bound.ease_v
            worst = dict[int, float]()
            for (k, _), v in terms.items():
                worst[k] = max(worst.get(k, 0.0), v)
            if terms and sum(worst.values()) > most and left_v < NEAR * bound.ease_v / EASE:
                yield ProgrammeRow(terms, most, bound.why, bound.key)


def _holds_voltage(e: Equipment, state: State) -> bool:
    """Whether a source gives the less the more its leads have: its drop is no convex function then, and left to the rules."""
    return isinstance(e, Source) and int(state.point.mode[state.wiring.source_index[e.id]]) == VOLTAGE


def _shares(lost_v: float, limit_v: float, feed_v: float) -> tuple[float, float]:
    """Of the voltage of what feeds something, what is lost and what may be, no more than nine tenths."""
    return min(max(lost_v / feed_v, 0.0), 0.9), min(max(limit_v / feed_v, 0.0), 0.9)


def _now_left_v(begin: Assessment, state: State, bound: _Bound) -> float:
    """What was left of a bound in the plan as it was, in the same scenario, V; 0 where it did not hold there."""
    was = begin.study.state(state.scenario.id)
    e = begin.plan.by_id[bound.key[1]]
    assert isinstance(e, Equipment)
    same = (b for b in _bounds(begin.case, e, was) if b.key == bound.key) if was.solved else iter(())
    return next((b.left_v for b in same), 0.0)


def _bounds(case: Case, e: Equipment, state: State) -> Iterator[_Bound]:
    """What the rules on voltage hold equipment to in one state."""
    node = state.wiring.node
    here, amps = state.port(e)
    if not isfinite(here) or abs(amps) <= 1e-6:
        return
    plus, minus = (node[ref] for ref in e.port)
    lost = case.study.drop_v(e, state)
    if isfinite(lost) and not state.momentary and not _holds_voltage(e, state):
        v = state.point.volts
        feeds = case.study.feeds_of(e, state)
        top, foot = max(feeds[0], key=lambda n: v[n]), min(feeds[1], key=lambda n: v[n])
        sign = -1.0 if amps < 0.0 else 1.0
        limit = case.drop_limit(e)[0] / 100.0 * e.nominal_v
        ways = ((top, sign), (foot, -sign), (plus, -sign), (minus, sign))
        feed_v = float(v[top] - v[foot])
        yield _Bound(
            ways,
            limit - lost,
            EASE * limit,
            *_shares(lost, limit, feed_v),
            say("drop to {e}", e=e.title),
            ("voltage_drop", e.id),
        )
    lowest = (
        (e.cut_out_v or e.min_v) if isinstance(e, Inverter) else e.min_v if isinstance(e, Load | Converter) else None
    )
    if lowest is not None and amps > 0.0:
        supply_v = case.study.supply_v(e, state)
        feed_v = supply_v if isfinite(supply_v) else e.nominal_v
        shares = _shares(feed_v - here, feed_v - lowest, feed_v)
        why = say("least voltage of {e} in “{scenario}”", e=e.title, scenario=state.scenario.title)
        yield _Bound(
            ((plus, -1.0), (minus, 1.0)), here - lowest, EASE * e.nominal_v, *shares, why, ("lowest_voltage", e.id)
        )


def _more_ohm(
    case: Case, spots: tuple[SizedPlace, ...], chosen: dict[int, int], things: list[tuple[int, str]], state: State
) -> list[Floats]:
    """What more each option of each thing has than the chosen one, ohm, conductors as warm as what flows now makes them."""
    found = [
        _run_ohms(case, spots[k], id_, state) if spots[k].is_run else _device_ohms(case, spots[k], id_)
        for k, id_ in things
    ]
    return [ohm - ohm[chosen[k]] for (k, _), ohm in zip(things, found, strict=True)]


def _device_ohms(case: Case, spot: SizedPlace, id_: str) -> Floats:
    x = case.plan.by_id[id_]
    assert isinstance(x, Fuse | Breaker)
    return np.array([body_ohm(device_like(x, x.kind, o.family, o.rating_a), case.parts) for o in spot.options])


def _run_ohms(case: Case, spot: SizedPlace, id_: str, state: State) -> Floats:
    run = case.plan.run_by_id[id_]
    made, k = [run.model_copy(update=o.fields) for o in spot.options], state.wiring.branch[id_]
    each_a = abs(float(state.point.current_a[k])) / np.array([r.parallel for r in made])
    warm: Floats | float = float(state.point.temperature_c[k])
    if not state.momentary:
        warm = steady_temperature(cable_of(made, case.parts), each_a, state.scenario.air_c(case.plan.zone_of(run.zone)))
    fixed, copper = np.array([run_ohms(r, case.parts) for r in made]).T
    return np.asarray(fixed + resistance_at(copper, warm))
