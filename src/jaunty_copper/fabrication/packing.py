"""Packing cuts into lengths that can be bought."""

from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csc_array

from jaunty_copper.language import say

KERF_M = 0.003
"""What a saw or a pair of shears takes at each cut."""
EXACT_UP_TO = 12
"""Cuts of one kind for which every way is tried; beyond, first fit decreasing with a bound."""
LONGEST_S = 2.0
"""How long one kind may be worked on; what is found by then is reported with its bound."""


@dataclass(frozen=True)
class Piece:
    """One length to take off the shelf or to buy.

    Attributes
    ----------
    stock_m : float
        Its length.
    cuts : tuple of int
        Which cuts come out of it.
    left_m : float
        What remains.
    owned : bool
        Left over from before: it costs nothing.
    """

    stock_m: float
    cuts: tuple[int, ...]
    left_m: float
    owned: bool


@dataclass(frozen=True)
class Packing:
    """How the cuts of one kind come out of what can be bought.

    Attributes
    ----------
    pieces : tuple of Piece
        Each cut is in one of them.
    cost : float
        Of what is bought.
    bound : float
        No packing costs less.
    """

    pieces: tuple[Piece, ...]
    cost: float
    bound: float

    @property
    def proven(self) -> bool:
        """Whether nothing cheaper exists."""
        return self.cost <= self.bound * (1.0 + 1e-9) + 1e-9

    @property
    def waste_m(self) -> float:
        """What remains of all pieces."""
        return sum(p.left_m for p in self.pieces)


class TooLong(ValueError):
    """A cut is longer than every length that can be had."""


def pack(
    lengths_m: tuple[float, ...], stock: tuple[tuple[float, float], ...], owned_m: tuple[float, ...] = ()
) -> Packing:
    """Pack cuts at the least cost.

    Parameters
    ----------
    lengths_m : tuple of float
        Cuts of one kind.
    stock : tuple of (length, cost)
        What can be bought, each as often as wanted.
    owned_m : tuple of float
        Lengths left over from before, each once.

    Returns
    -------
    Packing
        The cheapest up to `EXACT_UP_TO` cuts, where `proven` says so.

    Raises
    ------
    TooLong
        With the cut's length.

    Notes
    -----
    Cutting stock: choose subsets of the cuts, each in the cheapest length that holds it, so that
    every cut is in exactly one. All subsets that fit are given to a mixed-integer solver, and its
    dual bound is reported. For more cuts first fit decreasing is taken, and the bound is the cheapest
    metre times all of them.
    """
    if not lengths_m:
        return Packing((), 0.0, 0.0)
    longest = max([s for s, _ in stock] + list(owned_m), default=0.0)
    if max(lengths_m) > longest:
        raise TooLong(
            say(
                "{max:.2f} m is longer than every length that can be had ({longest:g} m)",
                max=max(lengths_m),
                longest=longest,
            )
        )
    return _exact(lengths_m, stock, owned_m) if len(lengths_m) <= EXACT_UP_TO else _greedy(lengths_m, stock, owned_m)


def _taken(lengths_m: tuple[float, ...], cuts: tuple[int, ...]) -> float:
    return sum(lengths_m[k] for k in cuts) + KERF_M * max(len(cuts) - 1, 0)


def _exact(lengths_m: tuple[float, ...], stock: tuple[tuple[float, float], ...], owned_m: tuple[float, ...]) -> Packing:
    n = len(lengths_m)
    columns: list[tuple[tuple[int, ...], float, float, int]] = []
    for size in range(1, n + 1):
        for cuts in combinations(range(n), size):
            taken = _taken(lengths_m, cuts)
            fits = [(cost, s) for s, cost in stock if s >= taken - 1e-9]
            if fits:
                cost, length = min(fits)
                columns.append((cuts, length, cost, -1))
            columns += [(cuts, own, 0.0, k) for k, own in enumerate(owned_m) if own >= taken - 1e-9]
    rows, cols = [], []
    for j, (cuts, _, _, own) in enumerate(columns):
        rows += [*cuts, *([n + own] if own >= 0 else [])]
        cols += [j] * (len(cuts) + (own >= 0))
    height = n + len(owned_m)
    matrix = csc_array((np.ones(len(rows)), (rows, cols)), shape=(height, len(columns)))
    costs = np.array([c for _, _, c, _ in columns])
    # Among ways that cost the same the one with fewest pieces.
    solved = milp(
        costs + 1e-6,
        integrality=np.ones(len(columns), dtype=np.int64), bounds=Bounds(0.0, 1.0),
        constraints=LinearConstraint(matrix, [1.0] * n + [0.0] * len(owned_m), [1.0] * height),
        options={"mip_rel_gap": 0.0, "time_limit": LONGEST_S},
    )  # fmt: skip
    quick = _greedy(lengths_m, stock, owned_m)
    bound = max(quick.bound, float(solved.mip_dual_bound or 0.0) - 1e-6 * n)
    if solved.x is None or float(costs[solved.x > 0.5].sum()) > quick.cost:
        return Packing(quick.pieces, quick.cost, min(quick.cost, bound))
    pieces = tuple(
        Piece(length, cuts, length - _taken(lengths_m, cuts), own >= 0)
        for (cuts, length, _, own), x in zip(columns, solved.x, strict=True)
        if x > 0.5
    )
    whole = float(costs[solved.x > 0.5].sum())
    return Packing(pieces, whole, whole if solved.status == 0 else min(whole, bound))


def _greedy(
    lengths_m: tuple[float, ...], stock: tuple[tuple[float, float], ...], owned_m: tuple[float, ...]
) -> Packing:
    left: list[tuple[float, list[int], bool]] = [(own, [], True) for own in sorted(owned_m)]
    # The length with the cheapest metre, then the shortest that holds what it came to.
    best = min(stock, key=lambda s: (s[1] / s[0], -s[0]), default=(0.0, 0.0))[0]
    for k in sorted(range(len(lengths_m)), key=lambda k: -lengths_m[k]):
        place = next((p for p in left if _taken(lengths_m, (*p[1], k)) <= p[0] + 1e-9), None)
        if place is None:
            length = best if best >= lengths_m[k] else min(s for s, _ in stock if s >= lengths_m[k])
            place = (length, [], False)
            left.append(place)
        place[1].append(k)
    pieces, whole = [], 0.0
    for length, cuts, own in left:
        if not cuts:
            continue
        taken = _taken(lengths_m, tuple(cuts))
        if not own:
            cost, length = min((cost, s) for s, cost in stock if s >= taken - 1e-9)
            whole += cost
        pieces.append(Piece(length, tuple(cuts), length - taken, own))
    rate = min((cost / s for s, cost in stock), default=0.0)
    return Packing(tuple(pieces), whole, max(0.0, (sum(lengths_m) - sum(owned_m)) * rate))
