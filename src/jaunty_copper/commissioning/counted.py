"""The limits that are counted in every variant, as figures of all variants in one scenario."""

from collections.abc import Callable, Iterator
from math import isfinite
from typing import NamedTuple

import numpy as np

from jaunty_copper.codes.carried import LOW, SAGS, normal
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import backed_up
from jaunty_copper.codes.rules.units import levels, may_bear
from jaunty_copper.commissioning.spreads import Columns, Spreads, variants_of
from jaunty_copper.network.state import State
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.physics.samples import Varied
from jaunty_copper.plan.model import Converter, Inverter, Load, Source

FAULT_SAMPLES, FAULT_WORK = 100, 40_000
"""Of so many variants, in large plans of fewer, short-circuit currents are computed too: in so many branches in all."""
LEAST_KNOWN = 10
"""Of fewer variants nothing is said."""


class Counted(NamedTuple):
    """A figure of every variant, in one scenario.

    Attributes
    ----------
    rule, place : str
        Which limit, and where.
    values : ndarray, shape (samples,)
        nan where it is not known.
    limit : ndarray, shape (samples,), or float
    unit : str
        Of both.
    most : bool
        Whether the figure must not exceed its limit; else it must not be below.
    """

    rule: str
    place: str
    values: Floats
    limit: Floats | float
    unit: str
    most: bool

    def or_worse(self, other: "Counted") -> "Counted":
        """In each variant the one of two that is farther beyond its limit, or nearer to it.

        Parameters
        ----------
        other : Counted
            Of the same limit and place, in another scenario.
        """
        # What may carry nothing has a limit of 0: with nothing in it that is no share, beyond it infinitely much.
        with np.errstate(divide="ignore", invalid="ignore"):
            mine, theirs = self.values / self.limit, other.values / other.limit
        worse = np.isnan(mine) | (theirs > mine if self.most else theirs < mine)
        one, two = np.broadcast_to(self.limit, worse.shape), np.broadcast_to(other.limit, worse.shape)
        return self._replace(values=np.where(worse, other.values, self.values), limit=np.where(worse, two, one))


def figures(case: Case, state: State, r: Varied, z: Floats, names: Columns, spreads: Spreads) -> Iterator[Counted]:
    """What limits are held against, in one scenario.

    Parameters
    ----------
    case : Case
        The studied plan.
    state : State
        One of `Study.every`.
    r : Varied
        Its variants.
    z : ndarray, shape (samples, unknowns)
        What they are drawn from.
    names : dict
        Column of each unknown.
    spreads : Spreads
        Of each kind.
    """
    yield from _volts(case, state, r)
    for bank in case.wiring.banks:
        # Levelling out is a finding of its own.
        for unit in () if levels(case.sharing_in(bank.id, state)) else bank.units:
            out = r.current_a[:, case.wiring.branch[unit.id]]
            gives, takes = may_bear(case.wiring, unit, state)
            yield Counted("unit_limit", unit.id, np.abs(out), np.where(out < 0.0, takes, gives), "A", True)
    if state.momentary:
        return
    for run in case.plan.runs:
        known = case.ampacities.get(run.id)
        if known is not None and not run.cranking:
            through = np.abs(r.current_a[:, case.wiring.branch[run.id]])
            yield Counted("ampacity", run.id, through, case.for_load(known)[0], "A", True)
    for id_, device in case.protection.devices.items():
        air = device.air_c[0] + spreads.air_k * z[:, names["air", ""]]
        worth = device.item.rating_a * ambient_factor(device.family.release, air)
        holds = worth * (1.0 + spreads.device * z[:, names["device", id_]])
        carries = case.once(normal, id_)
        flows = np.abs(r.current_a[:, device.branch])
        if carries.state is state and carries.when == LOW:
            # What charges gives all it can then, whatever copper and loads are.
            flows = np.maximum(flows, carries.amps)
        elif carries.state is state and carries.when == SAGS:
            # Of equipment that keeps its power up, at the lowest voltage at which it runs.
            planned = abs(float(state.point.current_a[device.branch]))
            flows = flows * carries.amps / planned if planned > 0.0 else np.maximum(flows, carries.amps)
        yield Counted("heat_opens", id_, 100.0 * flows / holds, 100.0, "%", True)


def _volts(case: Case, state: State, r: Varied) -> Iterator[Counted]:
    """What is lost on the way to equipment, and what is left for it."""
    w, v = case.wiring, r.volts
    for e in case.plan.equipment:
        here, amps = state.port(e)
        if not isfinite(here) or abs(amps) < 1e-6:
            continue
        own = v[:, w.node[e.port[0]]] - v[:, w.node[e.port[1]]]
        plus, minus = case.study.feeds_of(e, state)
        if plus and not state.momentary:
            lost = v[:, plus].max(axis=1) - v[:, minus].min(axis=1) - own
            share = 100.0 * (lost if amps > 0.0 else -lost) / e.nominal_v
            yield Counted("voltage_drop", e.id, share, case.drop_limit(e)[0], "%", True)
        least = (e.cut_out_v if isinstance(e, Inverter) else None) or (
            e.min_v if isinstance(e, Load | Converter) else None
        )
        if least is not None and not isinstance(e, Source) and amps > 0.0:
            yield Counted("lowest_voltage", e.id, own, least, "V", False)


def interrupted(
    case: Case, names: Columns, z: Floats, spreads: Spreads, overtaken: Callable[[], bool]
) -> Iterator[Counted]:
    """Short-circuit currents against what devices interrupt: of the first variants, each with all its faults.

    Parameters
    ----------
    case : Case
        The studied plan.
    names : dict
        Column of each unknown.
    z : ndarray, shape (samples, unknowns)
        What the variants are drawn from.
    spreads : Spreads
        Of each kind.
    overtaken : callable
        Asked between the variants whether to stop.
    """
    able = {id_: a for id_, d in case.protection.devices.items() if (a := case.interrupt_a(d.item)) is not None}
    faults, many = (
        case.protection.faults,
        min(FAULT_SAMPLES, FAULT_WORK // max(len(case.wiring.branches), 1), z.shape[0]),
    )
    if not able or many < LEAST_KNOWN:
        return
    variants, amps = variants_of(case, names, z[:many], spreads), np.full((z.shape[0], len(faults.row)), np.nan)
    for k in range(many):
        if overtaken():
            return
        amps[k] = faults.varied_a(variants.fixed[k], variants.copper[k])
    for id_, limit in able.items():
        # What a device before it lets through is another matter than what is prospective.
        if backed_up(case, id_) is None:
            yield Counted("interrupt_rating", id_, amps[:, faults.row[id_]], limit, "A", True)
