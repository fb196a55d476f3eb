"""What is joined without a device, what lies between, and what goes for good from some islands to others."""

from collections.abc import Sequence
from functools import cached_property
from math import inf, isfinite

from jaunty_copper.physics.blocks import Blocks
from jaunty_copper.physics.flow import Flow, Flows, greatest
from jaunty_copper.physics.forest import Forest, Supplies

Supply = tuple[int, Flow]
"""An island, and what is given there."""


class Islands:
    """Islands of copper and the devices between them.

    Parameters
    ----------
    count : int
        How many there are.
    ends : sequence of (int, int)
        What joins them: the two islands of each.
    capacity_a : sequence of float
        Most that each passes, A; inf where nothing limits it.
    """

    def __init__(self, count: int, ends: Sequence[tuple[int, int]], capacity_a: Sequence[float]) -> None:
        self.count, self.ends, self.capacity_a = count, ends, capacity_a

    @cached_property
    def forest(self) -> Forest | None:
        """Where nothing goes round; else None."""
        try:
            return Forest(self.count, self.ends, self.capacity_a)
        except ValueError:
            return None

    @cached_property
    def blocks(self) -> Blocks:
        """For flows one by one, where something goes round."""
        return Blocks(self.count, [a for a, _ in self.ends], [b for _, b in self.ends])


class Senders:
    """Supplies at some islands, and what they send to others.

    Parameters
    ----------
    islands : Islands
        All there are.
    supplies : sequence of (int, Flow)
        Islands, and what is given there.
    """

    def __init__(self, islands: Islands, supplies: Sequence[Supply]) -> None:
        self._islands, self._supplies = islands, supplies
        self._free = frozenset(part for part, flow in supplies if not isfinite(flow.amps))
        self._known: dict[tuple[int, ...], Flow] = {}

    @cached_property
    def _placed(self) -> Supplies | None:
        forest = self._islands.forest
        return None if forest is None else forest.placed(self._supplies)

    def sends(self, to: tuple[int, ...], amps: float) -> bool:
        """Whether the first of some islands alone gets that much: quickly known, where devices stand in rings.

        Parameters
        ----------
        to : tuple of int
            Islands.
        amps : float
            How much is enough.
        """
        return self._islands.forest is None and self._one_by_one.into(to[0]).amps >= amps

    def to(self, to: tuple[int, ...]) -> Flow:
        """The greatest flow to islands that take all they get.

        Parameters
        ----------
        to : tuple of int
            Islands.
        """
        if to not in self._known:
            self._known[to] = self._greatest(to) if self._free.isdisjoint(to) else Flow(inf, ())
        return self._known[to]

    def _greatest(self, to: tuple[int, ...]) -> Flow:
        all_ = self._islands
        if all_.forest is not None and self._placed is not None:
            return all_.forest.sent(self._placed, to)
        if len(to) == 1:
            found = self._one_by_one.into(*to)
            cut = (k for n in found.cut for k in ((n,) if n >= 0 else self._supplies[~n][1].cut))
            return Flow(found.amps, tuple(cut))
        ends = [*all_.ends, *((part, all_.count) for part in to)]
        most = [*all_.capacity_a, *[inf] * len(to)]
        return greatest(all_.count + 1, ends, range(len(ends)), most, self._supplies, all_.count)

    @cached_property
    def _one_by_one(self) -> Flows:
        given = [(part, flow.amps) for part, flow in self._supplies]
        return Flows(self._islands.blocks, self._islands.capacity_a, given)
