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
from jaunty_copper.network.state import State
from jaunty_copper.network.wiring import body_ohm, cable_of, run_ohms
from jaunty_copper.physics.copper import Floats, resistance_at
from jaunty_copper.physics.heat import steady_temperature
from jaunty_copper.physics.modes import VOLTAGE
from jaunty_copper.physics.setting import setting_of
from jaunty_copper.plan.model import Breaker, Converter, Equipment, Fuse, Inverter, Load, ResistiveLoad, Run, Source
from jaunty_copper.plan.topology import chain

EASE = 0.002
"""Of what may be lost, by so much a tangent is let pass where nothing was wrong: other sizes are not quite as warm."""
NEAR = 0.4
"""A tangent is of use where less than this share of what may be lost is left."""
COLDEST_C = -50.0
"""No copper of a plan is colder."""
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


def by_power(case: Case, spots: tuple[SizedPlace, ...]) -> Iterator[ProgrammeRow]:
    """No more resistance in a circuit than lets what draws a constant power have it: V²/4R, whatever else there is.

    Parameters
    ----------
    spots : tuple of SizedPlace
        With their options.

    Notes
    -----
    Through the conductors of a circuit alone flows what its load draws, from no more than the highest voltage that
    anything sets: of one bank its strings' EMF, or what a source holds. Cold copper, so that no choice is forbidden that
    may stand; plans of several banks, or of sources that do not stand on the bank's minus, are left to the rules: there one
    may lie on top of the other.
    """
    w = case.wiring
    feet = {w.rail_of(ref) for bank in w.banks for ref in bank.takeoffs["minus"]}
    if len(w.banks) != 1 or len(feet | {w.rail_of(e.output[1]) for e in w.sources}) != 1:
        return
    number = {id_: k for k, spot in enumerate(spots) for id_ in spot.ids}
    branch, strings = w.branch, w.banks[0].strings
    duties = [state.duty for state in case.study.every]
    if not duties:
        return
    volts = [float(sum(d.emf_v[branch[u]] for u in string)) for d in duties for string in strings]
    highest_v = max([*volts, *(float(v) for d in duties for v in d.source_v)], default=0.0)
    # What is off, or behind an open switch, asks nothing.
    each_w = [np.where(setting_of(w.circuit, d).load_on, d.load_w, 0.0) for d in duties]
    for e, asked_w in zip(w.loads, np.max(each_w, axis=0, initial=0.0).tolist(), strict=True):
        if asked_w <= 0.0:
            continue
        most, terms = highest_v**2 / (4.0 * asked_w), dict[Column, float]()
        for run in {r.id: r for ref in e.port for r in chain(case.plan, ref)}.values():
            k = number.get(run.id)
            if k is None:
                most -= _cold_ohm(case, run)
                continue
            for n, o in enumerate(spots[k].options):
                terms[k, n] = terms.get((k, n), 0.0) + _cold_ohm(case, run.model_copy(update=o.fields))
        if terms:
            yield ProgrammeRow(terms, most, say("what {e} asks can reach it", e=e.title), ("collapse", e.id))


def _cold_ohm(case: Case, run: Run) -> float:
    fixed, copper = run_ohms(run, case.parts)
    return fixed + float(resistance_at(copper, COLDEST_C))


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


class Drops:
    """What each piece of equipment loses, and the least voltage that it gets, as tangents at solved choices.

    Parameters
    ----------
    case : Case
        The plan as it was.
    spots : tuple of SizedPlace
        With their options.
    """

    def __init__(self, case: Case, spots: tuple[SizedPlace, ...]) -> None:
        plan, parts = case.plan, case.parts
        self._case, self._begins = case, np.cumsum([0, *(len(spot.options) for spot in spots)])
        self._names: list[Column] = [(k, n) for k, spot in enumerate(spots) for n in range(len(spot.options))]
        self._resistive = any(isinstance(e, ResistiveLoad) for e in plan.equipment)
        # A line for each option of each thing: conductors first, for they warm.
        lines = [(k, n, id_) for k, spot in enumerate(spots) for id_ in spot.ids for n in range(len(spot.options))]
        lines.sort(key=lambda line: not spots[line[0]].is_run)
        runs = [
            plan.run_by_id[id_].model_copy(update=spots[k].options[n].fields) for k, n, id_ in lines if spots[k].is_run
        ]
        devices = [(plan.by_id[id_], spots[k].options[n]) for k, n, id_ in lines if not spots[k].is_run]
        bodies = [
            body_ohm(device_like(x, x.kind, o.family, o.rating_a), parts)
            for x, o in devices
            if isinstance(x, Fuse | Breaker)
        ]
        ohms = [*(run_ohms(r, parts) for r in runs), *((ohm, 0.0) for ohm in bodies)]
        self._runs, self._cable = len(runs), cable_of(runs, parts)
        self._parallel = np.array([float(r.parallel) for r in runs])
        self._zones = [plan.zone_of(r.zone) for r in runs]
        self._fixed, self._copper = np.array(ohms, dtype=float).reshape(-1, 2).T
        self._column = np.array([self._begins[k] + n for k, n, _ in lines], dtype=np.int64)
        self._branch = np.array([case.wiring.branch[id_] for _, _, id_ in lines], dtype=np.int64)
        self._thing = np.unique([f"{k}:{id_}" for k, _, id_ in lines], return_inverse=True)[1]
        self._option = [(k, n) for k, n, _ in lines]

    def rows(
        self, known: Assessment, chosen: dict[int, int], aside: Collection[tuple[str, str]] = ()
    ) -> Iterator[ProgrammeRow]:
        """Tangents at a solved choice.

        Parameters
        ----------
        known : Assessment
            Of the plan with that choice.
        chosen : dict
            The option at each place.
        aside : collection of (str, str)
            Rule and place of what cannot be mended: it need only be no worse than in the plan as it was.
        """
        for state in known.study.every if self._names else ():
            bounds = [b for e in known.plan.equipment for b in _bounds(known.case, e, state)] if state.solved else []
            if bounds:
                yield from self._tangents(bounds, state, chosen, aside)

    def _tangents(
        self, bounds: list["_Bound"], state: State, chosen: dict[int, int], aside: Collection[tuple[str, str]]
    ) -> Iterator[ProgrammeRow]:
        slopes, more = sensitivity_of(state).volts, self._more_ohm(state, chosen)
        for bound in bounds:
            slope = sum((count * slopes[n] for n, count in bound.nodes), np.zeros(slopes.shape[1]))
            volts = slope[self._branch] * more
            if self._resistive:
                volts = bound.bent(volts)
            terms = np.bincount(self._column, volts, len(self._names))
            left_v = bound.left_v
            if bound.key in aside:
                left_v = max(left_v, left_v - self._begun_left_v(state, bound))
            most = left_v if left_v < 0.0 else left_v + bound.ease_v
            worst = float(np.maximum(np.maximum.reduceat(terms, self._begins[:-1]), 0.0).sum())
            counted = np.flatnonzero(terms)
            if counted.size and worst > most and left_v < NEAR * bound.ease_v / EASE:
                yield ProgrammeRow({self._names[n]: float(terms[n]) for n in counted}, most, bound.why, bound.key)

    def _more_ohm(self, state: State, chosen: dict[int, int]) -> Floats:
        """What more each line has than the one that is chosen for its thing, ohm, conductors as warm as what flows now makes them."""
        n, branch = self._runs, self._branch[: self._runs]
        warm = np.full(self._fixed.size, 20.0)
        if state.momentary:
            warm[:n] = state.point.temperature_c[branch]
        elif n:
            air = np.array([state.scenario.air_c(zone) for zone in self._zones])
            each_a = np.abs(state.point.current_a[branch]) / self._parallel
            warm[:n] = steady_temperature(self._cable, each_a, air)
        ohm = self._fixed + resistance_at(self._copper, warm)
        now = np.array([chosen[k] == o for k, o in self._option])
        as_chosen = np.zeros(int(self._thing.max(initial=-1)) + 1)
        as_chosen[self._thing[now]] = ohm[now]
        return np.asarray(ohm - as_chosen[self._thing])

    def _begun_left_v(self, state: State, bound: "_Bound") -> float:
        """What was left of a bound in the plan as it was, in the same scenario, V; 0 where it did not hold there."""
        was = self._case.study.state(state.scenario.id)
        e = self._case.plan.by_id[bound.key[1]]
        assert isinstance(e, Equipment)
        same = (b for b in _bounds(self._case, e, was) if b.key == bound.key) if was.solved else iter(())
        return next((b.left_v for b in same), 0.0)


def _holds_voltage(e: Equipment, state: State) -> bool:
    """Whether a source gives the less the more its leads have: its drop is no convex function then, and left to the rules."""
    return isinstance(e, Source) and int(state.point.mode[state.wiring.source_index[e.id]]) == VOLTAGE


def _shares(lost_v: float, limit_v: float, feed_v: float) -> tuple[float, float]:
    """Of the voltage of what feeds something, what is lost and what may be, no more than nine tenths."""
    return min(max(lost_v / feed_v, 0.0), 0.9), min(max(limit_v / feed_v, 0.0), 0.9)


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
