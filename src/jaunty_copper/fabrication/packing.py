"""Packing cuts into lengths that can be bought."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from jaunty_copper.language import say
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats

KERF_M = 0.003
"""What a saw or a pair of shears takes at each cut."""
EXACT_UP_TO = 12
"""Cuts of one kind for which every way is tried; beyond, first fit decreasing with a bound."""
A_PIECE = 1e-6
"""Of ways that cost the same, the one with fewest pieces is taken."""


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
    every cut is in exactly one. The least of every set of cuts is found from those of smaller sets
    (dynamic programming over subsets, as Held and Karp, Journal of SIAM 10, 1962): alike on every machine.
    For more cuts first fit decreasing is taken, and the bound is the cheapest metre times all of them.
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


@lru_cache(maxsize=EXACT_UP_TO + 1)
def _parts_of(n: int) -> tuple[Ints, Ints, Ints]:
    """Sets of n things as bits, ascending, each with all its subsets; and where those of each set begin."""
    whole, part = np.zeros(1, dtype=np.int64), np.zeros(1, dtype=np.int64)
    for k in range(n):
        inside = np.column_stack([part, part | 1 << k]).ravel()
        whole, part = np.concatenate([whole, np.repeat(whole | 1 << k, 2)]), np.concatenate([part, inside])
    return whole, part, np.searchsorted(whole, np.arange(1 << n))


def _exact(lengths_m: tuple[float, ...], stock: tuple[tuple[float, float], ...], owned_m: tuple[float, ...]) -> Packing:
    n = len(lengths_m)
    # What holds no cut is not tried: each length that is left over costs as much as all that is bought.
    owned_m = tuple(own for own in owned_m if own >= min(lengths_m) - 1e-9)
    sets = np.arange(1 << n)
    inside = (sets[:, None] >> np.arange(n) & 1).astype(bool)
    taken = inside @ np.array(lengths_m) + KERF_M * np.maximum(inside.sum(axis=1) - 1, 0)
    price, length = np.full(sets.size, np.inf), np.zeros(sets.size)
    for s, cost in sorted(stock, key=lambda x: (x[1], x[0]), reverse=True):
        fits = s >= taken - 1e-9
        price[fits], length[fits] = cost, s
    bought = _all_bought(n, price)
    # With one owned length more after the other: what it takes, or nothing.
    least = [bought]
    whole, part, begins = _parts_of(n)
    for own in owned_m:
        extra = np.where(part == 0, 0.0, np.where(own >= taken[part] - 1e-9, A_PIECE, np.inf))
        least.append(np.minimum.reduceat(extra + least[-1][whole ^ part], begins))
    left, pieces = int(sets[-1]), list[Piece]()

    def put(cuts: int, stock_m: float, owned: bool) -> None:
        pieces.append(Piece(stock_m, tuple(np.flatnonzero(inside[cuts]).tolist()), stock_m - float(taken[cuts]), owned))

    for own, before in reversed(list(zip(owned_m, least, strict=False))):
        some = part[begins[left] :][: 1 << left.bit_count()]
        extra = np.where(some == 0, 0.0, np.where(own >= taken[some] - 1e-9, A_PIECE, np.inf))
        cuts = int(some[np.argmin(extra + before[left ^ some])])
        if cuts:
            put(cuts, own, True)
        left ^= cuts
    cost = 0.0
    while left:
        first = 1 << (left.bit_length() - 1)
        rest = left ^ first
        some = part[begins[rest] :][: 1 << rest.bit_count()]
        cuts = first | int(some[np.argmin(price[some | first] + bought[rest ^ some])])
        put(cuts, float(length[cuts]), False)
        cost, left = cost + float(price[cuts]), left ^ cuts
    return Packing(tuple(sorted(pieces, key=lambda p: (len(p.cuts), p.cuts))), cost, cost)


def _all_bought(n: int, price: Floats) -> Floats:
    """The least that each set of cuts costs if all is bought; `A_PIECE` for each piece."""
    least = np.zeros(1)
    for k in range(n):
        # The last of them is in one piece with some of those before it.
        whole, part, begins = _parts_of(k)
        each = price[part | 1 << k] + A_PIECE + least[whole ^ part]
        least = np.concatenate([least, np.minimum.reduceat(each, begins)])
    return least


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
