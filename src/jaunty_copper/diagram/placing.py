"""Where rows, studs and columns of hubs of a diagram stand."""

from collections.abc import Iterable
from typing import NamedTuple

from jaunty_copper.diagram.chains import Chain, Side, Site, trace
from jaunty_copper.diagram.room import Room
from jaunty_copper.diagram.shapes import Ribbon, Shape, StudMark, SystemBand
from jaunty_copper.diagram.sizes import (
    BAND_GAP,
    BAR_W,
    BLOCK,
    EDGE,
    EQUIPMENT,
    FIRST_ITEM,
    GROUP_GAP,
    ITEM_PITCH,
    LANE,
    PITCH,
    RETURN_LEAST,
    ROW_LEAST,
    SLOT,
    STUD_GAP,
    TITLE_ROOM,
    TOP,
    TRUNK_LEAST,
    UNIT,
    UNIT_PITCH,
)
from jaunty_copper.diagram.spread import spread
from jaunty_copper.diagram.tree import SideTree, grow
from jaunty_copper.language import say
from jaunty_copper.plan.model import Bar, Battery, Converter, split_ref
from jaunty_copper.plan.topology import Topology


class Slots(NamedTuple):
    """A bank's block: its height, and at which height and on which side each terminal is."""

    height: float
    y: dict[str, float]
    side: dict[str, Side]
    holds: tuple[str, ...]


class Placing:
    """The first half of a layout: how high and how far to the right."""

    def __init__(self, wiring: Topology) -> None:
        self.wiring, self.plan = wiring, wiring.plan
        self.wires = trace(wiring)
        self.trees: dict[Side, SideTree] = {"plus": grow(self.wires, "plus"), "minus": grow(self.wires, "minus")}
        self.row_y: dict[Site, float] = {}
        self.bands: list[SystemBand] = []
        self.stud_y: dict[str, float] = {}
        self.hub_x: dict[tuple[Side, Site], float] = {}
        self.at: dict[str, tuple[float, float]] = {}
        self.shapes: list[Shape] = []
        self.room = Room()
        self.studs: list[StudMark] = []
        self.ribbons: list[Ribbon] = []

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
            self.bands.append(SystemBand(root.id, self._band_label(root), top, y))
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

    def _leaves(self, tree: SideTree, site: Site) -> Iterable[tuple[Site, Site]]:
        """What needs a row below a site, in the order of its terminals, each with its hub.

        Equipment, ends, and hubs that lead nowhere: a chassis that is only bonded, a spare bar.
        """
        for chain in self._ordered(tree, site):
            if tree.down.get(chain.end):
                yield from self._leaves(tree, chain.end)
            else:
                yield site, chain.end

    def _ordered(self, tree: SideTree, site: Site) -> list[Chain]:
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
            return say("{bank_volts:g} V bank", bank_volts=self._bank_volts(root))
        thing = self.plan.by_id[root.id]
        if isinstance(thing, Converter):
            return say("{out_nominal_v:g} V from {thing}", out_nominal_v=thing.out_nominal_v, thing=thing.title)
        return say("fed by nothing")

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

    def heights(self, tree: SideTree) -> None:
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

    def _lanes(self, tree: SideTree) -> dict[Site, tuple[int, int]]:
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

    def _slots(self, root: Site) -> Slots:
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
        return Slots(height, y, side, (*(x.id for x in block), *links) if units > 1 else ())

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
