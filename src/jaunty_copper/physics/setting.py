"""What the topology of one duty decides before anything is solved: rails and their voltages, what is live, what can run."""

from dataclasses import dataclass

import numpy as np

from jaunty_copper.physics import graph
from jaunty_copper.physics.circuit import Circuit, Duty, Flags, Ints
from jaunty_copper.physics.copper import Floats


@dataclass(frozen=True)
class Setting:
    """Circuit and duty, with what the topology of this duty decides.

    Attributes
    ----------
    base : ndarray, shape (nodes,)
        Voltage of each node while nothing flows, V.
    drive : ndarray, shape (branches,)
        What drives a current through each branch while all nodes are at their base, V.
    load_base, out_base, sense_base : ndarray
        Voltage of each load, source output and sensed place while nothing flows, V.
    live : ndarray of bool, shape (nodes,)
        Nodes in a part of the circuit with a source.
    pins : ndarray of int
        The node that is 0 V in each part.
    load_on, source_live : ndarray of bool
        Loads that can run, sources that have what they run on.
    beside_battery : ndarray of bool
        Sources whose output a battery holds.
    unfed, reversed_, no_return : ndarray of bool
        Loads without voltage, with voltage the wrong way round, with poles in parts that share no return.
    torn : tuple of int
        Battery branches that close a loop whose EMFs do not add up to zero.
    """

    circuit: Circuit
    duty: Duty
    base: Floats
    drive: Floats
    load_base: Floats
    out_base: Floats
    sense_base: Floats
    live: Flags
    pins: Ints
    load_on: Flags
    source_live: Flags
    beside_battery: Flags
    unfed: Flags
    reversed_: Flags
    no_return: Flags
    torn: tuple[int, ...]


def setting_of(c: Circuit, d: Duty) -> Setting:
    """Find rails, parts, what is alive in them and which loads can run at all.

    Parameters
    ----------
    c : Circuit
        Nodes, branches, loads and sources.
    d : Duty
        What the scenario asks of them.
    """
    rail = c.rails(d.closed)
    rails = int(rail.max(initial=-1)) + 1
    cells = np.flatnonzero(c.is_battery & d.closed)
    edges = list(zip(rail[c.a[cells]].tolist(), rail[c.b[cells]].tolist(), d.emf_v[cells].tolist(), strict=True))
    grounds = [int(rail[g]) for g in c.grounds]
    rail_v, block_list, torn = graph.potentials(rails, edges, grounds)
    volts, block = np.array(rail_v), np.array(block_list, dtype=np.int64)
    blocks = int(block.max(initial=-1)) + 1

    own = c.feed_plus < 0
    runs = d.source_on & own
    alive_rail = np.zeros(rails, dtype=bool)
    while True:
        out_plus, out_minus = rail[c.source_plus], rail[c.source_minus]
        claims = [
            (int(block[m]), int(block[p]), float(v - volts[p] + volts[m]))
            for p, m, v in zip(out_plus[runs], out_minus[runs], d.source_v[runs], strict=True)
        ]
        shift, part_list, _ = graph.potentials(blocks, claims, [int(block[g]) for g in grounds])
        part = np.array(part_list, dtype=np.int64)[block] if rails else block
        base_rail = volts + np.array(shift)[block] if rails else volts
        seeded = np.zeros(int(part.max(initial=-1)) + 1, dtype=bool)
        seeded[part[rail[c.a[cells]]]] = True
        seeded[part[out_plus[runs]]] = True
        alive_rail = seeded[part] if rails else alive_rail
        fp, fm = rail[np.maximum(c.feed_plus, 0)], rail[np.maximum(c.feed_minus, 0)]
        fed = (part[fp] == part[fm]) & alive_rail[fp] & (base_rail[fp] - base_rail[fm] > np.maximum(d.feed_min_v, 0.0))
        now = d.source_on & (own | fed)
        if np.array_equal(now, runs):
            break
        runs = now

    base, node_part, live = base_rail[rail], part[rail], alive_rail[rail]
    p, m = c.load_plus, c.load_minus
    asks = (d.load_w > 0.0) | (d.load_a > 0.0) | (d.load_s > 0.0)
    joined = node_part[p] == node_part[m]
    across = base[p] - base[m]
    no_return = asks & live[p] & live[m] & ~joined
    reversed_ = asks & joined & (across < -1e-6)
    unfed = asks & ~no_return & ~reversed_ & (~joined | ~live[p] | (across < 1e-6))
    _, pins = np.unique(node_part, return_index=True)
    pinned = {int(node_part[k]): int(k) for k in pins}
    for g in reversed(c.grounds):
        pinned[int(node_part[g])] = g
    pin_nodes = np.array(sorted(pinned.values()), dtype=np.int64)
    # The base of a part starts where it is pinned, so that its ground reads 0 V.
    offset = np.zeros(int(node_part.max(initial=-1)) + 1)
    offset[node_part[pin_nodes]] = base[pin_nodes]
    base = base - offset[node_part]
    drive = base[c.a] - base[c.b] + np.where(d.closed, d.emf_v, 0.0)
    return Setting(
        c, d, base, drive, base[p] - base[m], base[c.source_plus] - base[c.source_minus],
        base[c.sense_plus] - base[c.sense_minus], live, pin_nodes, asks & ~(unfed | reversed_ | no_return),
        runs, block[rail[c.source_plus]] == block[rail[c.source_minus]], unfed, reversed_, no_return,
        tuple(int(cells[k]) for k in torn),
    )  # fmt: skip
