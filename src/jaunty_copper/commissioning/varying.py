"""What is not known of a plan, many times at once: the chance of findings, how far figures spread, what matters most."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import log, nan
from typing import NamedTuple

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.commissioning.counted import LEAST_KNOWN, Counted, figures, interrupted
from jaunty_copper.commissioning.spreads import Columns, Spreads, drawn, solved, variants_of
from jaunty_copper.network.state import State
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.samples import Varied

MOST_MATTER, LEAST_SHARE = 3, 0.02
"""So many of what matters are named, each from such a share of the spread."""
CHANCE_TIMES = 1.5
"""So many times the largest share that mere chance gives: what is less is not named."""
LOW, MIDDLE, HIGH = 5.0, 50.0, 95.0


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
    variants = variants_of(case, names, z, spreads)
    worst: dict[tuple[str, str], Counted] = {}
    out = 0.0
    # Units that let no charge in today take it once they are warm: limits are to hold then too.
    for state in case.study.every:
        if not state.solved or overtaken():
            continue
        varied = solved(case, state, variants)
        out = max(out, 1.0 - float(varied.settled.mean()))
        for f in figures(case, state, varied, z, names, spreads):
            before = worst.get((f.rule, f.place))
            worst[f.rule, f.place] = f if before is None else before.or_worse(f)
    for f in interrupted(case, names, z, spreads, overtaken):
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
    variants = variants_of(case, *drawn(case, samples, seed), Spreads())
    for state in case.study.states:
        if state.solved and not overtaken():
            yield state, solved(case, state, variants)


def _chance(f: Counted, names: Columns, z: Floats) -> Chance | None:
    """How often a limit is broken; `z` standardised."""
    known = np.isfinite(f.values)
    if known.sum() < LEAST_KNOWN:
        return None
    values, limits = f.values[known], np.broadcast_to(f.limit, f.values.shape)[known]
    broken = values > limits if f.most else values < limits
    low, middle, high = percentiles(values)
    chance = float(broken.mean())
    least, limit, largest = percentiles(limits)
    matters = matters_of(values, z if known.all() else z[known], names) if 0.0 < chance < 1.0 else ()
    return Chance(
        f.rule, f.place, chance, low, middle, high, limit, f.unit, f.most, matters,
        (least, largest) if largest > least else (nan, nan),
    )  # fmt: skip


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
