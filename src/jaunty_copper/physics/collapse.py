"""Where the asked power cannot be delivered: which load gives way, and the most it could be given."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Generic, TypeVar

import numpy as np

from jaunty_copper.physics.circuit import Collapse
from jaunty_copper.physics.copper import Floats

SUSPECTS = 8
"""So many loads of the lowest voltages are suspected."""
HALVINGS, ROUGHLY = 10, 4
"""Finds a share to one part in 1000; and near enough to see which loads are worst off."""

S = TypeVar("S")


@dataclass(frozen=True)
class Attempt(Generic[S]):
    """An operating point with other powers than asked.

    Attributes
    ----------
    state : object
        From which a solver goes on to one nearby.
    load_share : ndarray, shape (loads,)
        Voltage of each load over its unloaded one; inf for what does not run.
    widest : int
        The branch that most voltage drops over.
    """

    state: S
    load_share: Floats
    widest: int


Try = Callable[[Floats, S | None], Attempt[S] | None]
"""From powers by load, W, and the state of an attempt nearby to another one; None where they cannot be delivered."""


def collapse(asked_w: Floats, attempt: Try[S]) -> Collapse:
    """Find which load gives way, and the most it could be given.

    Parameters
    ----------
    asked_w : ndarray, shape (loads,)
        Power that each load asks.
    attempt : callable
        Finds the operating point with other powers.
    """
    share, found = _greatest(lambda x: asked_w * x, attempt, ROUGHLY)
    if found is None:
        load = int(np.argmax(asked_w)) if asked_w.size else 0
        return Collapse(load, float(asked_w[load]) if asked_w.size else 0.0, 0.0, 0, True)
    share_of = np.where(asked_w > 0.0, found.load_share, np.inf)
    lowest = [int(k) for k in np.argsort(share_of, kind="stable")[:SUSPECTS] if np.isfinite(share_of[k])]
    load, jointly = lowest[0] if lowest else 0, True
    # The lowest voltage need not be the fault of the load that has it: without the one whose fault it is, all is well.
    for suspect in lowest:
        own_share, own = _greatest(partial(_less, asked_w, suspect), attempt, HALVINGS)
        if own is not None and own_share >= 1e-6:
            load, jointly, share, found = suspect, False, own_share, own
            break
    else:
        finer, better = _greatest(lambda x: asked_w * x, attempt, HALVINGS)
        share, found = (finer, better) if better is not None else (share, found)
    return Collapse(load, float(asked_w[load]), float(asked_w[load] * share), found.widest, jointly)


def _less(asked_w: Floats, load: int, share: float) -> Floats:
    """The powers asked, with a share of one of them only."""
    load_w = asked_w.copy()
    load_w[load] *= share
    return load_w


def _greatest(load_w: Callable[[float], Floats], attempt: Try[S], halvings: int) -> tuple[float, Attempt[S] | None]:
    """Largest share of what is asked that can be delivered."""
    low, high, best = 0.0, 1.0, attempt(load_w(0.0), None)
    if best is None:
        return 0.0, None
    for _ in range(halvings):
        mid = 0.5 * (low + high)
        found = attempt(load_w(mid), best.state)
        if found is None:
            high = mid
        else:
            low, best = mid, found
    return low, best
