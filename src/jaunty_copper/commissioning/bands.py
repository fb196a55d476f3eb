"""Between what nine in ten variants of a plan lie: currents, voltages lost, temperatures, at every place."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.commissioning.varying import HIGH, LOW, varied_states
from jaunty_copper.physics.copper import Floats

MOST_SAMPLES, LEAST_SAMPLES, MOST_FIGURES = 2000, 200, 4_000_000
"""So many variants, fewer of a plan so large that their voltages would take more than some tens of megabytes."""

NOTHING_A = 1e-6
"""What is less is the rounding of a current that does not flow."""


class Interval(NamedTuple):
    """What 5 and 95 % of the variants stay below; nan where none was solved."""

    low: float
    high: float


@dataclass(frozen=True)
class _Solved:
    """Variants of one scenario.

    Attributes
    ----------
    volts : ndarray, shape (s, nodes)
        Only of those that have an operating point in the modes of the plan.
    current_a, temperature_c : ndarray, shape (2, branches)
        Low and high, of the current's size and of the copper.
    """

    volts: Floats
    current_a: Floats
    temperature_c: Floats


@dataclass(frozen=True)
class Bands:
    """What may be expected of a plan when what is not known of it differs.

    Attributes
    ----------
    samples : int
        How many variants were tried.
    left_out : dict of str to float
        By scenario: the share of them in which a source changes its mode, or nothing is delivered. They are not counted.
    """

    samples: int
    left_out: dict[str, float]
    _solved: dict[str, _Solved]

    def current(self, scenario: str, branch: int) -> Interval:
        """Size of the current in a branch, A.

        Parameters
        ----------
        scenario : str
            Id of one that has an operating point.
        branch : int
            Number of the branch.
        """
        return Interval(*self._solved[scenario].current_a[:, branch].tolist())

    def temperature(self, scenario: str, branch: int) -> Interval:
        """Of the copper of a branch, degrees Celsius.

        Parameters
        ----------
        scenario : str
            Id of one that has an operating point.
        branch : int
            Number of the branch.
        """
        return Interval(*self._solved[scenario].temperature_c[:, branch].tolist())

    def volts(self, scenario: str, plus: int, minus: int) -> Interval:
        """Voltage between two nodes, V.

        Parameters
        ----------
        scenario : str
            Id of one that has an operating point.
        plus, minus : int
            Numbers of the nodes.
        """
        v = self._solved[scenario].volts
        return Interval(*_between(v[:, plus] - v[:, minus]).tolist())

    def lost(self, scenario: str, path: Sequence[int], cut: int) -> list[Interval]:
        """Voltage lost from the first node of a path to each: up to equipment's plus, then on from its minus, V.

        Parameters
        ----------
        scenario : str
            Id of one that has an operating point.
        path : sequence of int
            Numbers of nodes.
        cut : int
            Place of the equipment's plus in it; what follows is its minus.
        """
        v = self._solved[scenario].volts[:, list(path)]
        lost = v[:, :1] - v
        # What the equipment itself takes is not lost.
        lost[:, cut + 1 :] -= (v[:, cut] - v[:, cut + 1])[:, None]
        return [Interval(low, high) for low, high in _between(lost).T.tolist()]


def _between(values: Floats) -> Floats:
    """Low and high along the first axis; nan of nothing."""
    if not values.shape[0]:
        return np.full((2, *values.shape[1:]), np.nan)
    return np.asarray(np.percentile(values, (LOW, HIGH), axis=0))


def bands(case: Case, seed: int = 0, overtaken: Callable[[], bool] = lambda: False) -> Bands:
    """Vary what is not known of a plan, and see between what its figures lie.

    Parameters
    ----------
    case : Case
        The studied plan.
    seed : int
        Of the random numbers.
    overtaken : callable
        Asked between the scenarios whether to stop.
    """
    each = max(len(case.wiring.refs) * max(len(case.study.states), 1), 1)
    samples = min(max(MOST_FIGURES // each, LEAST_SAMPLES), MOST_SAMPLES)
    solved, left_out = dict[str, _Solved](), dict[str, float]()
    for state, varied in varied_states(case, samples, seed, overtaken):
        fine = varied.settled
        amps = _between(np.abs(varied.current_a[fine]))
        amps[amps < NOTHING_A] = 0.0
        solved[state.scenario.id] = _Solved(varied.volts[fine], amps, _between(varied.temperature_c[fine]))
        left_out[state.scenario.id] = 1.0 - float(fine.mean())
    return Bands(samples, left_out, solved)
