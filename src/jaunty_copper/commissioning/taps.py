"""Conductors that may have landed on another post than planned."""

from collections.abc import Iterator
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from jaunty_copper.commissioning.model import Bench
from jaunty_copper.network.wiring import wire
from jaunty_copper.physics.copper import Floats
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Battery, split_ref


class Tap(NamedTuple):
    """One end of a conductor, and where else it may have landed.

    Attributes
    ----------
    run : str
        Id of the conductor.
    end : str
        a or b.
    to : str
        The other terminal.
    """

    run: str
    end: str
    to: str


def taps_of(bench: Bench) -> Iterator[Tap]:
    """Every end of a bank's take-off, with each other post of the same pole that it may have landed on."""
    plan = bench.wiring.plan
    for bank in bench.wiring.banks:
        posts = [u.ref(t) for u in bank.units for t in u.terminal_names]
        for r in plan.runs:
            for end, ref, far in (("a", r.a, r.b), ("b", r.b, r.a)):
                leaves = ref in posts and not isinstance(plan.by_id[split_ref(far)[0]], Battery)
                if leaves and r.id not in bank.inside:
                    rail = bench.wiring.rail_of(ref)
                    yield from (Tap(r.id, end, p) for p in posts if p != ref and bench.wiring.rail_of(p) == rail)


def moved(bench: Bench, tap: Tap) -> Bench:
    """The bench of the copper as it would be with an end on another post."""
    plan = edits.change(bench.wiring.plan, tap.run, **{tap.end: tap.to})
    return replace(bench, wiring=wire(plan))


def shift(bench: Bench, tap: Tap) -> Floats | None:
    """How every reading would differ, probes set where the plan says; None where nothing could rest so."""
    there = moved(bench, tap)
    if not there.base.solved:
        return None
    return np.asarray(there.values - bench.values)
