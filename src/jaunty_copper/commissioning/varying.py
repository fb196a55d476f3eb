"""What is not known of a plan, many times at once: the chance of findings, how far figures spread, what matters most."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import isfinite, log, nan
from typing import NamedTuple

import numpy as np

from jaunty_copper.battery.sharing import limits_of
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import backed_up
from jaunty_copper.commissioning.model import BANK_SHARE, BODY_SHARE, COPPER_SHARE, EMF_SHARE, LOAD_SHARE, UNIT_SHARE
from jaunty_copper.network.state import State
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.samples import Variants, Varied, vary
from jaunty_copper.plan.model import Battery, Converter, Inverter, Load, Source

JOINT_SIGMA = 0.35
"""Standard deviation of the logarithm of a joint's resistance over its planned one: from clean to tired; representative."""
AIR_K = 5.0
"""Of the air, all places alike; representative."""
DEVICE_SHARE = 0.05
"""Of the current that a device holds; representative."""
FAULT_SAMPLES, FAULT_WORK = 100, 40_000
"""Of so many variants, in large plans of fewer, short-circuit currents are computed too: in so many branches in all."""
MOST_MATTER, LEAST_SHARE = 3, 0.02
"""So many of what matters are named, each from such a share of the spread."""
CHANCE_TIMES = 1.5
"""So many times the largest share that mere chance gives: what is less is not named."""
LEAST_KNOWN = 10
LOW, MIDDLE, HIGH = 5.0, 50.0, 95.0


@dataclass(frozen=True)
class Spreads:
    """Standard deviation of each kind of thing that is not known.

    Attributes
    ----------
    copper, body, bank, unit, load, emf, device : float
        As a share: conductors' own resistance (length and copper), device bodies, a bank's units all alike, units among
        each other, loads' power, EMF (the charge), and the current that a device holds.
    joint : float
        Of the logarithm of a joint's resistance.
    air_k : float
        Of the air, K.
    """

    copper: float = COPPER_SHARE
    joint: float = JOINT_SIGMA
    body: float = BODY_SHARE
    bank: float = BANK_SHARE
    unit: float = UNIT_SHARE
    load: float = LOAD_SHARE
    emf: float = EMF_SHARE
    air_k: float = AIR_K
    device: float = DEVICE_SHARE


class Matter(NamedTuple):
    """Something that is not known, and its share of a figure's spread.

    Attributes
    ----------
    kind, owner : str
        copper, joint, body, unit, bank, load, device, emf or air; whose, by its id.
    """

    kind: str
    owner: str
    share: float


class Chance(NamedTuple):
    """A limit, and how often it is broken.

    Attributes
    ----------
    rule, place : str
        Which, and where.
    chance : float
        Share of the variants that break it.
    low, middle, high : float
        What 5, 50 and 95 % of them stay below; nan where it is no matter of figures.
    limit, unit : float, str
        As of the finding; where the limit differs between variants, the middle one.
    most : bool
        Whether the figure must not exceed its limit; else it must not be below.
    matters : tuple of Matter
        What is not known that moves it most; none where it is sure.
    limits : (float, float)
        What 5 and 95 % of the limits stay below; nan where it is one for all.
    """

    rule: str
    place: str
    chance: float
    low: float
    middle: float
    high: float
    limit: float
    unit: str
    most: bool
    matters: tuple[Matter, ...]
    limits: tuple[float, float] = (nan, nan)


@dataclass(frozen=True)
class Chances:
    """What comes of all variants.

    Attributes
    ----------
    samples : int
        How many there were.
    found : tuple of Chance
        What is broken in some and kept in others first, the most doubtful foremost.
    left_out : float
        Share of the variants that have no operating point in the modes of the plan, at most in any scenario.
    judged : int
        How many of them were judged under every rule.
    """

    samples: int
    found: tuple[Chance, ...]
    left_out: float
    judged: int = 0


Columns = dict[tuple[str, str], int]
"""Column of each unknown, by its kind and whose it is."""


class _Figure(NamedTuple):
    """A figure of every variant, in one scenario."""

    rule: str
    place: str
    values: Floats
    limit: Floats | float
    unit: str
    most: bool


def chances(
    case: Case,
    samples: int = 2000,
    seed: int = 0,
    spreads: Spreads | None = None,
    overtaken: Callable[[], bool] = lambda: False,
) -> Chances:
    """Vary what is not known of a plan, and see which limits hold.

    Parameters
    ----------
    case : Case
        The studied plan under its code.
    samples : int
        How many variants.
    seed : int
        Of the random numbers.
    spreads : Spreads, optional
        The usual ones where none are given.
    overtaken : callable
        Asked between the scenarios whether to stop.
    """
    spreads = spreads or Spreads()
    names, z = drawn(case, samples, seed)
    worst: dict[tuple[str, str], _Figure] = {}
    out = 0.0
    for state, varied in _each(case, names, z, spreads, overtaken):
        out = max(out, 1.0 - float(varied.settled.mean()))
        for f in _figures(case, state, varied, z, names, spreads):
            before = worst.get((f.rule, f.place))
            values = f.values if before is None else (np.fmax if f.most else np.fmin)(f.values, before.values)
            worst[f.rule, f.place] = f._replace(values=values)
    for f in _interrupted(case, names, z, spreads, overtaken):
        worst[f.rule, f.place] = f
    standard = (z - z.mean(axis=0)) / z.std(axis=0)
    found = [c for f in worst.values() if (c := _chance(f, names, standard)) is not None]
    return Chances(samples, sorted_by_doubt(found), out)


def sorted_by_doubt(found: list[Chance]) -> tuple[Chance, ...]:
    """The most doubtful first."""
    return tuple(sorted(found, key=lambda c: (abs(c.chance - 0.5), -c.chance)))


def varied_states(
    case: Case, samples: int, seed: int = 0, overtaken: Callable[[], bool] = lambda: False
) -> Iterator[tuple[State, Varied]]:
    """Each operating point of a plan with its variants, the very ones that `chances` counts.

    Parameters
    ----------
    case : Case
        The studied plan.
    samples : int
        How many variants.
    seed : int
        Of the random numbers.
    overtaken : callable
        Asked between the scenarios whether to stop.
    """
    return _each(case, *drawn(case, samples, seed), Spreads(), overtaken)


def _each(
    case: Case, names: Columns, z: Floats, spreads: Spreads, overtaken: Callable[[], bool]
) -> Iterator[tuple[State, Varied]]:
    variants = _variants(case, names, z, spreads)
    for state in case.study.states:
        if state.solved and not overtaken():
            yield state, _solved(case, state, variants)


def drawn(case: Case, samples: int, seed: int) -> tuple[Columns, Floats]:
    """What may differ, by kind and place, with its column; and standard normal numbers, a column each.

    Parameters
    ----------
    case : Case
        The studied plan.
    samples : int
        How many rows.
    seed : int
        Of the random numbers.

    Returns
    -------
    dict, ndarray of shape (samples, unknowns)
    """
    w = case.wiring
    keys: list[tuple[str, str]] = []
    for b in w.branches:
        keys += [("copper", b.owner), ("joint", b.owner)] if b.kind == "run" else []
        keys += [("unit", b.owner)] if b.kind == "battery" else []
        keys += [("body", b.owner)] if b.kind not in ("run", "battery") else []
    keys += [("bank", b.id) for b in w.banks] + [("load", e.id) for e in w.loads]
    keys += [("device", id_) for id_ in case.protection.devices] + [("emf", ""), ("air", "")]
    names = {key: k for k, key in enumerate(dict.fromkeys(keys))}
    return names, np.random.default_rng(seed).standard_normal((samples, len(names)))


def _variants(case: Case, names: Columns, z: Floats, spreads: Spreads) -> Variants:
    w = case.wiring
    fixed, copper, emf = (
        np.ones((z.shape[0], len(w.branches))),
        np.ones((z.shape[0], len(w.branches))),
        np.zeros((z.shape[0], len(w.branches))),
    )
    of_bank = {u.id: b.id for b in w.banks for u in b.units}
    for k, b in enumerate(w.branches):
        if b.kind == "run":
            fixed[:, k] = np.exp(spreads.joint * z[:, names["joint", b.owner]])
            copper[:, k] = np.maximum(1.0 + spreads.copper * z[:, names["copper", b.owner]], 0.5)
        elif b.kind == "battery":
            alike = z[:, names["bank", of_bank[b.owner]]] if b.owner in of_bank else 0.0
            fixed[:, k] = np.exp(spreads.bank * alike + spreads.unit * z[:, names["unit", b.owner]])
            emf[:, k] = spreads.emf * z[:, names["emf", ""]]
        else:
            fixed[:, k] = np.exp(spreads.body * z[:, names["body", b.owner]])
    load = (
        np.stack([1.0 + spreads.load * z[:, names["load", e.id]] for e in w.loads], axis=1)
        if w.loads
        else np.ones((z.shape[0], 0))
    )
    air = np.repeat(spreads.air_k * z[:, [names["air", ""]]], len(w.branches), axis=1)
    return Variants(fixed, copper, emf, np.maximum(load, 0.0), air)


def _solved(case: Case, state: State, variants: Variants) -> Varied:
    solver = Solver(case.wiring.circuit)
    solver.solve(state.duty)
    emf = variants.emf_v * state.duty.emf_v
    return vary(solver, Variants(variants.fixed, variants.copper, emf, variants.load, variants.air_k))


def _figures(case: Case, state: State, r: Varied, z: Floats, names: Columns, spreads: Spreads) -> Iterator[_Figure]:
    w, v = case.wiring, r.volts
    for e in case.plan.equipment:
        here, amps = state.port(e)
        if not isfinite(here) or abs(amps) < 1e-6:
            continue
        own = v[:, w.node[e.port[0]]] - v[:, w.node[e.port[1]]]
        plus, minus = case.study.feeds_of(e, state)
        if plus and not state.momentary:
            lost = v[:, plus].max(axis=1) - v[:, minus].min(axis=1) - own
            yield _Figure(
                "voltage_drop",
                e.id,
                100.0 * (lost if amps > 0.0 else -lost) / e.nominal_v,
                case.drop_limit(e)[0],
                "%",
                True,
            )
        least = (e.cut_out_v if isinstance(e, Inverter) else None) or (
            e.min_v if isinstance(e, Load | Converter) else None
        )
        if least is not None and not isinstance(e, Source) and amps > 0.0:
            yield _Figure("lowest_voltage", e.id, own, least, "V", False)
    if state.momentary:
        return
    for run in case.plan.runs:
        known = case.ampacities.get(run.id)
        if known is not None:
            yield _Figure(
                "ampacity", run.id, np.abs(r.current_a[:, w.branch[run.id]]), case.for_load(known)[0], "A", True
            )
    for id_, device in case.protection.devices.items():
        air = device.air_c[0] + spreads.air_k * z[:, names["air", ""]]
        worth = device.item.rating_a * ambient_factor(device.family.release, air)
        holds = worth * (1.0 + spreads.device * z[:, names["device", id_]])
        yield _Figure("heat_opens", id_, 100.0 * np.abs(r.current_a[:, device.branch]) / holds, 100.0, "%", True)
    for unit in (x for x in case.plan.items if isinstance(x, Battery)):
        yield _Figure(
            "unit_limit", unit.id, r.current_a[:, w.branch[unit.id]], limits_of(w, unit).discharge_a, "A", True
        )


def _interrupted(
    case: Case, names: Columns, z: Floats, spreads: Spreads, overtaken: Callable[[], bool]
) -> Iterator[_Figure]:
    """Short-circuit currents against what devices interrupt: of the first variants, each with all its faults."""
    able = {id_: a for id_, d in case.protection.devices.items() if (a := case.interrupt_a(d.item)) is not None}
    faults, many = (
        case.protection.faults,
        min(FAULT_SAMPLES, FAULT_WORK // max(len(case.wiring.branches), 1), z.shape[0]),
    )
    if not able or many < LEAST_KNOWN:
        return
    variants, amps = _variants(case, names, z[:many], spreads), np.full((z.shape[0], len(faults.row)), np.nan)
    for k in range(many):
        if overtaken():
            return
        amps[k] = faults.varied_a(variants.fixed[k], variants.copper[k])
    for id_, limit in able.items():
        # What a device before it lets through is another matter than what is prospective.
        if backed_up(case, id_) is None:
            yield _Figure("interrupt_rating", id_, amps[:, faults.row[id_]], limit, "A", True)


def _chance(f: _Figure, names: Columns, z: Floats) -> Chance | None:
    """How often a limit is broken; `z` standardised."""
    known = np.isfinite(f.values)
    if known.sum() < LEAST_KNOWN:
        return None
    values = f.values[known]
    broken = values > f.limit if f.most else values < f.limit
    low, middle, high = percentiles(values)
    chance = float(broken.mean())
    matters = matters_of(values, z if known.all() else z[known], names) if 0.0 < chance < 1.0 else ()
    return Chance(f.rule, f.place, chance, low, middle, high, float(f.limit), f.unit, f.most, matters)


def percentiles(values: Floats) -> tuple[float, float, float]:
    """What 5, 50 and 95 % of some figures stay below; nan where there are none.

    Parameters
    ----------
    values : ndarray, shape (samples,)
        Figures; nan for those that are not known.
    """
    known = values[np.isfinite(values)]
    if not known.size:
        return nan, nan, nan
    low, middle, high = (float(x) for x in np.percentile(known, (LOW, MIDDLE, HIGH)))
    return low, middle, high


def matters_of(values: Floats, z: Floats, names: Columns) -> tuple[Matter, ...]:
    """Which unknowns move a figure most: the squared correlation of each with it.

    Of n variants the largest of m correlations by mere chance is about sqrt(2 ln(m) / n): what is not well above that is not named.

    Parameters
    ----------
    values : ndarray, shape (samples,)
        Figures that differ.
    z : ndarray, shape (samples, unknowns)
        Standardised unknowns.
    names : dict
        Column of each.
    """
    share = np.square((values - values.mean()) @ z / values.size / float(values.std()))
    least = max(LEAST_SHARE, CHANCE_TIMES * 2.0 * log(max(z.shape[1], 2)) / values.size)
    keys = list(names)
    return tuple(
        Matter(keys[k][0], keys[k][1], float(share[k])) for k in np.argsort(-share)[:MOST_MATTER] if share[k] > least
    )
