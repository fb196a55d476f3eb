"""Lay a plan out from plus to minus.

Every circuit is a closed path from a source's plus to its minus, drawn left to right.
Equipment stands in one column in the middle, one row each, in the order of the studs that
feed it. Hubs stand in columns by how many chains lie between them and their source; each
stud stands as near to the height of what it leads to as the order of the studs allows.
"""

from collections import deque
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from jaunty_copper.diagram.chains import Chain, Side, Site, Wires, trace
from jaunty_copper.diagram.room import Room
from jaunty_copper.diagram.shapes import Band, Box, Diagram, Ribbon, Row, Shape, ShapeKind, StudMark, TerminalMark
from jaunty_copper.plan.model import Bar, Battery, Chassis, Converter, Inline, Run, split_ref
from jaunty_copper.plan.topology import Topology

PITCH = 49.0
"""Height of a row."""
BAND_GAP = 50.0
"""Between voltage systems."""
TOP = 46.0
EDGE = 16.0
ITEM = (44.0, 24.0)
"""Width and height of an inline item."""
ITEM_PITCH = 66.0
TRAY = 110.0, 52.0
"""From one loose thing to the next, across and down."""
LABEL = 16.0
"""Height of what is written below an item."""
ITEM_STEP = 10.0
"""By how much an item goes up or down to where nothing stands."""
FIRST_ITEM = 16.0
"""From a hub's edge to the first item beside it."""
EQUIPMENT = (152.0, 40.0)
UNIT = (74.0, 40.0)
UNIT_PITCH = 49.0
BLOCK = 92.0
"""Height of a bank of several units, with its air."""
SLOT = 30.0
"""Between conductors that leave one block."""
BAR_W = 14.0
STUD_GAP = 13.0
"""Least distance between studs of one bar."""
LANE = 34.0
"""Between columns of hubs that stand beside each other."""
GROUP_GAP = 30.0
"""Between the rows of one hub and those of the next."""
TITLE_ROOM = 42.0
"""Above the highest stud, for the bar's end and its name."""
TRUNK_LEAST = 64.0
ROW_LEAST = 92.0
"""Room for the label of a row's conductor."""
RETURN_LEAST = 60.0


def spread(targets: Sequence[float | None], gap: float) -> list[float]:
    """Place things in order on a line, each as near to its target as the order allows.

    Least squares under x[k+1] >= x[k] + gap (pool adjacent violators); things without a
    target stand evenly between their neighbours, or a gap apart beyond the last one.

    Parameters
    ----------
    targets : sequence of float or None
        Wanted places, at least one of them given.
    gap : float
        Least distance.
    """
    known = [(k, t) for k, t in enumerate(targets) if t is not None]
    blocks: list[tuple[float, int]] = []
    for k, t in known:
        mean, count = t - k * gap, 1
        while blocks and blocks[-1][0] > mean:
            other, n = blocks.pop()
            mean, count = (other * n + mean * count) / (n + count), n + count
        blocks.append((mean, count))
    means = [m for m, n in blocks for _ in range(n)]
    placed = {k: m + k * gap for (k, _), m in zip(known, means, strict=True)}
    found: list[float] = []
    ks = sorted(placed)
    for k in range(len(targets)):
        if k in placed:
            found.append(placed[k])
            continue
        before = max((j for j in ks if j < k), default=None)
        after = min((j for j in ks if j > k), default=None)
        if before is None:
            assert after is not None
            found.append(placed[after] - (after - k) * max(gap, 0.5 * PITCH if after == 1 else gap))
        elif after is None:
            found.append(placed[before] + (k - before) * gap)
        else:
            share = (k - before) / (after - before)
            found.append(placed[before] + share * (placed[after] - placed[before]))
    return found


@dataclass
class _Tree:
    """One side of the map: which chain leads to each site, and what hangs on each hub."""

    side: Side
    up: dict[Site, Chain] = field(default_factory=dict)
    down: dict[Site, list[Chain]] = field(default_factory=dict)
    level: dict[Site, int] = field(default_factory=dict)
    extra: list[Chain] = field(default_factory=list)
    order: list[Site] = field(default_factory=list)


def _tree(wires: Wires, side: Side) -> _Tree:
    """Grow one side breadth first from its sources; chains that close a loop are extra."""
    tree = _Tree(side)
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


class _Slots(NamedTuple):
    """A bank's block: its height, and at which height and on which side each terminal is."""

    height: float
    y: dict[str, float]
    side: dict[str, Side]
    holds: tuple[str, ...]


class _Placing:
    """The work of one layout."""

    def __init__(self, wiring: Topology) -> None:
        self.wiring, self.plan = wiring, wiring.plan
        self.wires = trace(wiring)
        self.trees: dict[Side, _Tree] = {"plus": _tree(self.wires, "plus"), "minus": _tree(self.wires, "minus")}
        self.row_y: dict[Site, float] = {}
        self.bands: list[Band] = []
        self.stud_y: dict[str, float] = {}
        self.hub_x: dict[tuple[Side, Site], float] = {}
        self.at: dict[str, tuple[float, float]] = {}
        self.shapes: list[Shape] = []
        self.room = Room()
        self.studs: list[StudMark] = []
        self.ribbons: list[Ribbon] = []

    # Rows and heights

    def rows(self) -> None:
        """Give every piece of equipment and every loose end its row."""
        y = TOP
        plus, minus = self.trees["plus"], self.trees["minus"]
        for site in minus.order:
            # What hangs on the first studs stands above the circuits: below, it would cross all of them.
            chain = minus.up.get(site)
            if chain is not None and site.is_hub and not minus.down.get(site) and self._is_early(chain.first):
                self.row_y[site] = y + PITCH / 2
                y += PITCH
        roots = [s for s in plus.order if s.is_root or s not in plus.up]
        roots += [Site("bank", b[0].id) for b in self.wires.banks if Site("bank", b[0].id) not in roots]
        waiting = [e for e in self.plan.equipment if Site("equipment", e.id) not in plus.up]
        started = False
        for root in roots:
            leaves = list(self._leaves(plus, root))
            if not leaves and root.kind != "bank":
                continue
            if started:
                y += BAND_GAP
            top = y
            hub: Site | None = None
            for parent, leaf in leaves:
                if leaf not in self.row_y:
                    y += GROUP_GAP if hub not in (None, parent) else 0.0
                    hub = parent
                    self.row_y[leaf] = y + PITCH / 2
                    y += PITCH
            y = max(y, top + (self._slots(root).height if root.kind == "bank" else UNIT_PITCH))
            self.bands.append(Band(root.id, self._band_label(root), top, y))
            started = True
        alone = [s for s in minus.order if s.kind in ("equipment", "end") or (s in minus.up and not minus.down.get(s))]
        # A device that leads to equipment and comes from nowhere begins a tree that no source roots.
        alone += [s for s in self.trees["plus"].order if s.kind == "end"]
        for site in alone + [Site("equipment", e.id) for e in waiting]:
            if site not in self.row_y:
                self.row_y[site] = y + PITCH / 2
                y += PITCH
        self.bottom = max(y, TOP + PITCH)

    def _is_early(self, ref: str) -> bool:
        """Whether a terminal is one of the first two studs of a bar."""
        bar, stud = split_ref(ref)
        thing = self.plan.by_id[bar]
        return isinstance(thing, Bar) and stud in thing.terminal_names[:2]

    def _leaves(self, tree: _Tree, site: Site) -> Iterable[tuple[Site, Site]]:
        """What needs a row below a site, in the order of its terminals, each with its hub.

        Equipment, ends, and hubs that lead nowhere: a chassis that is only bonded, a spare bar.
        """
        for chain in self._ordered(tree, site):
            if tree.down.get(chain.end):
                yield from self._leaves(tree, chain.end)
            else:
                yield site, chain.end

    def _ordered(self, tree: _Tree, site: Site) -> list[Chain]:
        rank = {ref: k for k, ref in enumerate(self._terminals(site))}
        return sorted(tree.down.get(site, ()), key=lambda c: rank.get(c.first, 0))

    def _terminals(self, site: Site) -> list[str]:
        if site.kind == "bank":
            bank = next(b for b in self.wires.banks if b[0].id == site.id)
            block = next(k for k in self.wires.blocks if bank[0] in k)
            return [x.ref(t) for x in block for t in x.terminal_names]
        thing = self.plan.by_id[site.id]
        return [thing.ref(t) for t in thing.terminal_names]

    def _band_label(self, root: Site) -> str:
        if root.kind == "bank":
            volts = self.wiring.plan.by_id[root.id]
            assert isinstance(volts, Battery)
            return f"{self._bank_volts(root):g} V bank"
        thing = self.plan.by_id[root.id]
        if isinstance(thing, Converter):
            return f"{thing.out_nominal_v:g} V from {thing.title}"
        return "fed by nothing"

    def _bank_volts(self, root: Site) -> float:
        """Nominal voltage over a bank: the highest plus against the lowest minus of its units."""
        bank = next(b for b in self.wires.banks if b[0].id == root.id)
        rail_of = self.wiring.rail_of
        volts = {rail_of(bank[0].ref("minus")): 0.0}
        for _ in bank:
            for b in bank:
                m, p = (rail_of(b.ref(t)) for t in ("minus", "plus"))
                if m in volts:
                    volts.setdefault(p, volts[m] + b.nominal_v)
                elif p in volts:
                    volts.setdefault(m, volts[p] - b.nominal_v)
        return max(volts.values()) - min(volts.values())

    def heights(self, tree: _Tree) -> None:
        """Place the studs of each hub, leaves first; its feed follows the hub."""
        for site in reversed(tree.order):
            if not site.is_hub:
                continue
            names = self._terminals(site)
            want: dict[str, list[float]] = {}
            for chain in tree.down.get(site, ()):
                want.setdefault(chain.first, []).append(self._end_y(chain))
            for chain in tree.extra:
                for own, other in ((chain, chain.end), (chain.turned(), chain.start)):
                    if own.start == site and other in self.row_y:
                        want.setdefault(own.first, []).append(self.row_y[other])
            if site in self.row_y:
                want.setdefault(tree.up[site].last if site in tree.up else names[0], []).append(self.row_y[site])
            targets = [sum(want[n]) / len(want[n]) if n in want else None for n in names]
            if all(t is None for t in targets):
                targets[0] = self.bottom / 2
            places = spread(targets, STUD_GAP)
            if site.kind == "joint":
                places = [sum(places) / len(places)] * len(places)
            for name, y in zip(names, places, strict=True):
                self.stud_y[name] = y

    def _end_y(self, chain: Chain) -> float:
        """Height at which a chain arrives."""
        return self._y(chain.end, chain.last)

    def make_room(self) -> None:
        """Move everything down where a bar would reach beyond the top."""
        down = TITLE_ROOM - min(self.stud_y.values(), default=TITLE_ROOM)
        if down > 0.0:
            self.row_y = {site: y + down for site, y in self.row_y.items()}
            self.stud_y = {ref: y + down for ref, y in self.stud_y.items()}
            self.bands = [b._replace(top=b.top + down, bottom=b.bottom + down) for b in self.bands]
            self.bottom += down

    # Columns

    def columns(self) -> None:
        """Give every hub its column, and the equipment column its place between the sides."""
        widths: dict[Side, list[float]] = {}
        lanes: dict[Side, dict[Site, tuple[int, int]]] = {}
        for side, tree in self.trees.items():
            lanes[side] = self._lanes(tree)
            deepest = max((tree.level[s] for s in lanes[side]), default=0)
            gaps = []
            for level in range(deepest + 1):
                into = [c for s, c in tree.up.items() if s.is_hub and tree.level[s] == level + 1]
                into += [c for c in tree.extra if c.end.is_hub and tree.level[c.end] == level + 1]
                trunk = max((len(c.items) for c in into), default=0)
                gaps.append(max(TRUNK_LEAST, trunk * ITEM_PITCH + 44.0) if level < deepest else 0.0)
            widths[side] = gaps
        rows = {
            side: max(
                (len(c.items) for s, c in tree.up.items() if s.kind in ("equipment", "end")),
                default=0,
            )
            for side, tree in self.trees.items()
        }
        x = EDGE + UNIT[0]
        self.left_edge = x
        x = self._walk(lanes["plus"], widths["plus"], x, "plus")
        x += FIRST_ITEM + rows["plus"] * ITEM_PITCH + ROW_LEAST
        self.equipment_x = x
        right = FIRST_ITEM + rows["minus"] * ITEM_PITCH + RETURN_LEAST
        end = self._walk(lanes["minus"], widths["minus"], 0.0, "minus")
        self.right_edge = x + EQUIPMENT[0] + right + end
        for (side, site), own in list(self.hub_x.items()):
            if side == "minus":
                self.hub_x[side, site] = self.right_edge - own
        self.width = self.right_edge + UNIT[0] + EDGE

    def _walk(self, lanes: dict[Site, tuple[int, int]], gaps: list[float], x: float, side: Side) -> float:
        """Set hub columns outwards from a source; return where the last one ends."""
        for level, gap in enumerate(gaps[:-1], start=1):
            here = {s: lane for s, (own, lane) in lanes.items() if own == level}
            x += gap
            for site, lane in here.items():
                self.hub_x[side, site] = x + lane * (BAR_W + LANE) + BAR_W / 2
            x += BAR_W + max(here.values(), default=0) * (BAR_W + LANE)
        return x

    def _lanes(self, tree: _Tree) -> dict[Site, tuple[int, int]]:
        """Level of each hub, and a lane beside others of its level whose heights overlap."""
        found: dict[Site, tuple[int, int]] = {}
        taken: dict[tuple[int, int], list[tuple[float, float]]] = {}
        for site in tree.order:
            if not site.is_hub:
                continue
            ys = [self.stud_y[n] for n in self._terminals(site)]
            low, high = min(ys) - STUD_GAP, max(ys) + STUD_GAP
            lane = 0
            while any(low < bottom and high > top for top, bottom in taken.get((tree.level[site], lane), ())):
                lane += 1
            taken.setdefault((tree.level[site], lane), []).append((low, high))
            found[site] = (tree.level[site], lane)
        return found

    # Shapes

    def sources(self) -> None:
        """Draw banks and converter outputs at both edges."""
        bands = {b.root: b for b in self.bands}
        sides: tuple[tuple[Side, float], ...] = (("plus", EDGE), ("minus", self.right_edge))
        for bank in self.wires.banks:
            band = bands[bank[0].id]
            slots = self._slots(Site("bank", bank[0].id))
            start = self._bank_top(bank, band)
            kind: ShapeKind = "bank" if len(bank) > 1 else "unit"
            height = slots.height - (UNIT_PITCH - UNIT[1])
            wanted = Box(EDGE, start + (slots.height - height) / 2, UNIT[0], height)
            start += self.room.below(wanted, 8.0).y - wanted.y
            for side, x in sides:
                box = Box(x, start + (slots.height - height) / 2, UNIT[0], height)
                self._stand(Shape(kind, bank[0].id, side, box, None, slots.holds))
            for ref, y in slots.y.items():
                self.at[ref] = (self.left_edge if slots.side[ref] == "plus" else self.right_edge, start + y)
        for e in self.plan.equipment:
            if not isinstance(e, Converter):
                continue
            for side, x in sides:
                ref = e.ref("out_plus" if side == "plus" else "out_minus")
                if not self.plan.runs_at.get(ref):
                    continue
                tree = self.trees[side]
                ys = [self._end_y(c) for c in tree.down.get(Site("output", e.id), ())]
                ys += [self._y(c.end, c.last) for c in tree.extra if c.first == ref]
                ys += [self._y(c.start, c.first) for c in tree.extra if c.last == ref]
                # One whose output leads only back to itself has no band of its own.
                top = bands[e.id].top if e.id in bands else max((b.bottom for b in self.bands), default=EDGE)
                y = sum(ys) / len(ys) if ys else top + UNIT_PITCH / 2
                box = self.room.below(Box(x, y - UNIT[1] / 2, *UNIT), 8.0)
                y = box.cy
                self._stand(Shape("output", e.id, side, box))
                self.at[ref] = (self.left_edge if side == "plus" else self.right_edge, y)

    def _bank_top(self, bank: tuple[Battery, ...], band: Band) -> float:
        """Where a bank begins: so that its take-offs meet what they lead to, inside its band."""
        slots = self._slots(Site("bank", bank[0].id))
        place = slots.y
        shifts = []
        for tree in self.trees.values():
            for chain in (*tree.down.get(Site("bank", bank[0].id), ()), *tree.extra):
                for own in (chain, chain.turned()):
                    if own.first in place:
                        shifts.append(self._y(own.end, own.last) - place[own.first])
        wanted = sum(shifts) / len(shifts) if shifts else band.top
        return max(6.0, band.top - slots.height / 2, min(wanted, band.bottom - slots.height))

    def _slots(self, root: Site) -> _Slots:
        """Where conductors leave a bank's block: each take-off has a height of its own, the rest the middle."""
        block = next(b for b in self.wires.blocks if any(x.id == root.id for x in b))
        side: dict[str, Side] = {}
        taken: dict[Side, list[str]] = {"plus": [], "minus": []}
        for x in block:
            for t in x.terminal_names:
                ref = x.ref(t)
                own: Side = "plus" if self._is_plus(ref) else "minus"
                side[ref] = own
                if any(r not in self.wires.bank_links for r in self.plan.runs_at.get(ref, ())):
                    taken[own].append(ref)
        units = sum(isinstance(x, Battery) for x in block)
        height = max(UNIT_PITCH if units == 1 else BLOCK, SLOT * max(len(refs) for refs in taken.values()))
        y = dict.fromkeys(side, height / 2)
        for refs in taken.values():
            y |= {ref: height * (k + 0.5) / len(refs) for k, ref in enumerate(refs)}
        ids = {x.id for x in block}
        links = [r.id for r in self.wires.bank_links if split_ref(r.a)[0] in ids]
        return _Slots(height, y, side, (*(x.id for x in block), *links) if units > 1 else ())

    def _is_plus(self, ref: str) -> bool:
        """Whether a terminal of a bank is drawn on the plus side: its rail's side, in a string its pole."""
        item, terminal = split_ref(ref)
        if isinstance(self.plan.by_id[item], Battery):
            return terminal == "plus"
        rail = self.wiring.rail_of(ref)
        return any(self.wiring.rail_of(b.ref("plus")) == rail for bank in self.wires.banks for b in bank)

    def _y(self, site: Site, ref: str) -> float:
        if ref in self.stud_y:
            return self.stud_y[ref]
        return self.row_y.get(site, self.bottom / 2)

    def hubs(self) -> None:
        """Draw bars, posts, chassis, and items with several lugs, with their studs."""
        # Bars first: what has several lugs finds its place beside them.
        for (side, site), x in sorted(self.hub_x.items(), key=lambda hub: hub[0][1].kind == "joint"):
            names = self._terminals(site)
            ys = [self.stud_y[n] for n in names]
            if site.kind == "joint":
                up = self.trees[side].up.get(site)
                self._item(site.id, side, x, ys[0], up.last if up else names[0], None)
                continue
            for name, y in zip(names, ys, strict=True):
                self.at[name] = (x, y)
                if site.kind != "post":
                    self.studs.append(StudMark(name, site.id, x, y, bool(self.plan.runs_at.get(name))))
            if site.kind == "post":
                self._stand(Shape("post", site.id, side, Box(x - 8, ys[0] - 8, 16, 16)))
            elif site.kind == "bar" or site.kind == "chassis":
                pad = 10.0
                box = Box(x - BAR_W / 2, min(ys) - pad, BAR_W, max(ys) - min(ys) + 2 * pad)
                self._stand(Shape(site.kind, site.id, side, box))

    def _stand(self, shape: Shape) -> None:
        self.shapes.append(shape)
        self.room.take(shape.box)

    def _item(self, id_: str, side: Side, x: float, y: float, near: str, row: str | None) -> float:
        """Draw an inline item, with the terminal `near` on the side of the source; where it is free, and at which height."""
        half = ITEM[0] / 2
        sign = 1.0 if side == "plus" else -1.0
        # What it is rated for is written below it.
        whole = self.room.near(Box(x - half, y - ITEM[1] / 2, ITEM[0], ITEM[1] + LABEL), ITEM_STEP)
        self.room.take(whole)
        y = whole.y + ITEM[1] / 2
        self.shapes.append(Shape("item", id_, side, Box(whole.x, whole.y, *ITEM), row))
        far = f"{id_}.{'b' if split_ref(near)[1] == 'a' else 'a'}"
        self.at[near], self.at[far] = (x - sign * half, y), (x + sign * half, y)
        return y

    def ends(self) -> None:
        """Draw items with a terminal that nothing is on: in the middle, or at the edge where they begin."""
        for side, tree in self.trees.items():
            for site in tree.order:
                if site.kind != "end":
                    continue
                up = tree.up.get(site)
                plus = side == "plus"
                if up is not None:
                    x = self.equipment_x + ITEM[0] / 2 if plus else self.equipment_x + EQUIPMENT[0] - ITEM[0] / 2
                    self._item(site.id, side, x, self.row_y[site], up.last, site.id)
                else:
                    x = self.left_edge - ITEM[0] / 2 if plus else self.right_edge + ITEM[0] / 2
                    names = self._terminals(site)
                    free = next(n for n in names if not self.plan.runs_at.get(n))
                    self._item(site.id, side, x, self.row_y[site], free, site.id)

    def equipment(self) -> None:
        """Draw the middle column."""
        for site, y in self.row_y.items():
            if site.kind == "equipment":
                box = Box(self.equipment_x, y - EQUIPMENT[1] / 2, *EQUIPMENT)
                self._stand(Shape("equipment", site.id, "plus", box, site.id))
                e = self.plan.by_id[site.id]
                inlet = ("in_plus", "in_minus") if isinstance(e, Converter) else ("plus", "minus")
                self.at[e.ref(inlet[0])] = (self.equipment_x, y)
                self.at[e.ref(inlet[1])] = (self.equipment_x + EQUIPMENT[0], y)

    def conductors(self) -> None:
        """Draw every chain: its items and its runs."""
        for side, tree in self.trees.items():
            # What has a row of its own stands in it; what lies between hubs finds its place around that.
            for leaves in (True, False):
                for site in tree.order:
                    chain, leaf = tree.up.get(site), site.kind in ("equipment", "end")
                    if chain is not None and leaf == leaves:
                        self._chain(chain, side, site.id if leaf else None)
            beside: dict[tuple[str, str], int] = {}
            for chain in tree.up.values():
                beside[min(chain.first, chain.last), max(chain.first, chain.last)] = 1
            for chain in tree.extra:
                key = (min(chain.first, chain.last), max(chain.first, chain.last))
                self._chain(chain, side, None, 14.0 * beside.get(key, 0))
                beside[key] = beside.get(key, 0) + 1
        for run in self.wires.bank_links:
            if split_ref(run.a)[0] == split_ref(run.b)[0]:
                self._bank_link(run)

    def _chain(self, chain: Chain, side: Side, row: str | None, bulge: float = 0.0) -> None:
        """Draw one chain outwards from its source."""
        start, reach = self.at[chain.first], self.at[chain.last]
        leaf = row is not None
        sign = 1.0 if side == "plus" else -1.0
        count = len(chain.items)
        half = ITEM[0] / 2
        hub = start[0] + sign * (BAR_W / 2 if chain.start.has_width else 0.0)
        stop = reach[0] - sign * (BAR_W / 2 if chain.end.has_width else 0.0)
        here = (hub, start[1])
        near = _near_start(chain)
        y = reach[1] + bulge
        for k, link in enumerate(chain.links):
            if link.item is None:
                self._ribbon(link.run.id, link.first, here, (stop, reach[1]), side, row, bulge)
                break
            if leaf and k < near:
                x = hub + sign * (FIRST_ITEM + half + k * ITEM_PITCH)
            elif leaf:
                x = stop - sign * (FIRST_ITEM + half + (count - 1 - k) * ITEM_PITCH)
            elif chain.start == chain.end:
                x = hub + sign * (FIRST_ITEM + half + k * ITEM_PITCH)
            else:
                x = hub + (stop - hub) * (k + 1) / (count + 1)
            at = self._item(link.item, side, x, y, link.second, row)
            self._ribbon(link.run.id, link.first, here, (x - sign * half, at), side, row, 0.0)
            here = (x + sign * half, at)

    def _ribbon(
        self, run_id: str, first: str, p: tuple[float, float], q: tuple[float, float], side: Side, row: str | None,
        bulge: float,
    ) -> None:  # fmt: skip
        forward = self.plan.run_by_id[run_id].a == first
        if p[0] > q[0]:
            p, q, forward = q, p, not forward
        self.ribbons.append(Ribbon(run_id, *p, *q, forward, side, row, bulge))

    def _bank_link(self, run: Run) -> None:
        """Draw what joins a unit's plus to its own minus, outside the map's edge: it is a mistake to be seen."""
        (_, ay), (_, by) = self.at[run.a], self.at[run.b]
        self.ribbons.append(Ribbon(run.id, EDGE, ay, EDGE, by, True, "plus", None, -15.0))

    # Rows as paths

    def paths(self) -> tuple[Row, ...]:
        """The way of each row from source plus to source minus."""
        found = []
        rows = [(site, y) for site, y in self.row_y.items() if not site.is_hub]
        for site, y in sorted(rows, key=lambda pair: pair[1]):
            there, root = self._way(self.trees["plus"], site, None)
            back, _ = self._way(self.trees["minus"], site, root)
            path = [*reversed(there), *back]
            found.append(Row(site.id, y, tuple(path)))
        return tuple(found)

    def _way(self, tree: _Tree, site: Site, wanted: Site | None) -> tuple[list[tuple[float, str]], Site]:
        """The way from a site to its root, or to the wanted root where a chain leads there."""
        way: list[tuple[float, str]] = []
        while site in tree.up:
            chain = next(
                (c for own in tree.extra for c in (own, own.turned()) if c.start == site and c.end == wanted),
                tree.up[site].turned(),
            )
            for link in chain.links:
                for ref in (link.first, link.second):
                    if ref in self.at:
                        way.append((self.at[ref][0], ref))
            site = chain.end
            if site == wanted:
                break
        return way, site

    def made(self) -> Diagram:
        """Do all steps in order."""
        self.rows()
        for tree in self.trees.values():
            self.heights(tree)
        self.make_room()
        self.columns()
        self.hubs()
        self.sources()
        self.equipment()
        self.ends()
        self.conductors()
        lowest = max([self.bottom, *(s.box.bottom for s in self.shapes)])
        self.width = max([self.width, *(s.box.right + EDGE for s in self.shapes)])
        loose, across = [], max(int((self.width - EDGE) // TRAY[0]), 1)
        for k, x in enumerate(self.wires.loose):
            box = Box(EDGE + k % across * TRAY[0], lowest + 36.0 + k // across * TRAY[1], 96.0, 32.0)
            loose.append(Shape("bar" if isinstance(x, Bar | Chassis) else "item", x.id, "plus", box))
        if loose:
            lowest = loose[-1].box.bottom + 12.0
        return Diagram(
            tuple(self.shapes), tuple(self.studs), tuple(self.ribbons), self.paths(), tuple(self.bands), tuple(loose),
            self.equipment_x, self.width, lowest + 20.0, tuple(self.terminals(loose)),
        )  # fmt: skip

    def terminals(self, loose: Iterable[Shape]) -> Iterable[TerminalMark]:
        """Where every terminal is that something can be led to.

        Of a bank of several units those that are in use; the others are reached on its own page.
        """
        held = {id_ for s in self.shapes if s.kind == "bank" for id_ in s.holds}
        for ref, (x, y) in self.at.items():
            if split_ref(ref)[0] not in held or self._leaves_bank(ref):
                yield TerminalMark(ref, x, y)
        for e in self.plan.equipment:
            if isinstance(e, Converter) and (row := self.row_y.get(Site("equipment", e.id))) is not None:
                corners = ((e.ref("out_plus"), self.equipment_x), (e.ref("out_minus"), self.equipment_x + EQUIPMENT[0]))
                for ref, x in corners:
                    if ref not in self.at:
                        yield TerminalMark(ref, x, row + EQUIPMENT[1] / 2)
        for s in loose:
            names = self.plan.by_id[s.id].terminal_names
            inline = isinstance(self.plan.by_id[s.id], Inline)
            for k, name in enumerate(names):
                x = s.box.x + s.box.w * (k if inline else (k + 0.5) / len(names))
                yield TerminalMark(f"{s.id}.{name}", x, s.box.cy if inline else s.box.bottom)

    def _leaves_bank(self, ref: str) -> bool:
        """Whether something leads from a bank's terminal to elsewhere; of one that nothing leaves, its first unit."""
        here = self.plan.runs_at.get(ref, ())
        if any(r not in self.wires.bank_links for r in here):
            return True
        block = next(b for b in self.wires.blocks if any(x.id == split_ref(ref)[0] for x in b))
        side = split_ref(ref)[1]
        own = [x.ref(side) for x in block if side in x.terminal_names]
        taken = any(r not in self.wires.bank_links for o in own for r in self.plan.runs_at.get(o, ()))
        return not taken and ref == own[0]


def _near_start(chain: Chain) -> int:
    """How many of a chain's items lie in the first half of its length."""
    total = sum(link.run.length_m for link in chain.links)
    run, count = 0.0, 0
    for link in chain.links[:-1]:
        run += link.run.length_m
        count += run <= total / 2 or total == 0.0
    return count


def lay_out(wiring: Topology) -> Diagram:
    """Lay a plan out as the plus-to-minus map.

    Parameters
    ----------
    wiring : Topology
        A compiled plan; nothing solved is needed.
    """
    return _Placing(wiring).made()
