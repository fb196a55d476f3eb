"""One side of a diagram as a tree that grows from its sources."""

from collections import deque
from dataclasses import dataclass, field

from jaunty_copper.diagram.chains import Chain, Side, Site, Wires


@dataclass
class SideTree:
    """One side of the map: which chain leads to each site, and what hangs on each hub."""

    side: Side
    up: dict[Site, Chain] = field(default_factory=dict)
    down: dict[Site, list[Chain]] = field(default_factory=dict)
    level: dict[Site, int] = field(default_factory=dict)
    extra: list[Chain] = field(default_factory=list)
    order: list[Site] = field(default_factory=list)


def grow(wires: Wires, side: Side) -> SideTree:
    """Grow one side breadth first from its sources; chains that close a loop are extra."""
    tree = SideTree(side)
    at: dict[Site, list[Chain]] = {}
    for chain in wires.chains:
        if chain.side == side:
            at.setdefault(chain.start, []).append(chain)
            at.setdefault(chain.end, []).append(chain.turned())
    sites = sorted(at, key=lambda s: (not s.is_root, not s.is_hub))
    used: set[str] = set()
    for seeds in ([s for s in sites if s.is_root], *([s] for s in sites)):
        queue: deque[Site] = deque()
        for s in seeds:
            if s not in tree.level:
                tree.level[s] = 0 if s.is_root else 1
                queue.append(s)
        while queue:
            here = queue.popleft()
            tree.order.append(here)
            for chain in at.get(here, ()):
                key = chain.links[0].run.id
                if key in used:
                    continue
                used.update(link.run.id for link in chain.links)
                if chain.end in tree.level or chain.end == here:
                    tree.extra.append(chain)
                    continue
                tree.level[chain.end] = tree.level[here] + 1
                tree.up[chain.end] = chain
                tree.down.setdefault(here, []).append(chain)
                if chain.end.kind not in ("equipment", "end"):
                    queue.append(chain.end)
                else:
                    tree.order.append(chain.end)
    # From one piece of equipment straight to another: neither leads on.
    tree.extra += [c for c in wires.chains if c.side == side and c.links[0].run.id not in used]
    return tree
