"""Lay a plan out from plus to minus.

Every circuit is a closed path from a source's plus to its minus, drawn left to right.
Equipment stands in one column in the middle, one row each, in the order of the studs that
feed it. Hubs stand in columns by how many chains lie between them and their source; each
stud stands as near to the height of what it leads to as the order of the studs allows.
"""

from collections.abc import Iterable
from itertools import accumulate
from typing import NamedTuple

from jaunty_copper.diagram.chains import Chain, Side, Site
from jaunty_copper.diagram.placing import Placing
from jaunty_copper.diagram.shapes import Box, Diagram, Ribbon, Row, Shape, ShapeKind, StudMark, SystemBand, TerminalMark
from jaunty_copper.diagram.sizes import (
    BAR_W,
    EDGE,
    EQUIPMENT,
    FIRST_ITEM,
    ITEM,
    ITEM_PITCH,
    ITEM_STEP,
    LABEL,
    TRAY,
    UNIT,
    UNIT_PITCH,
)
from jaunty_copper.diagram.tree import SideTree
from jaunty_copper.plan.model import Bar, Battery, Chassis, Converter, Inline, Named, Plan, Run, split_ref
from jaunty_copper.plan.topology import Topology


class _Drawing(Placing):
    """The second half of a layout: shapes, studs and ribbons where there is room for them."""

    # Rows and heights

    # Columns

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

    def _bank_top(self, bank: tuple[Battery, ...], band: SystemBand) -> float:
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

    def _way(self, tree: SideTree, site: Site, wanted: Site | None) -> tuple[list[tuple[float, str]], Site]:
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
    return _in_first_half([link.run.length_m for link in chain.links])


def _in_first_half(lengths_m: list[float]) -> int:
    """How many of the places between conductors in a row lie in the first half of their length, m."""
    half = sum(lengths_m) / 2
    return sum(passed <= half or half == 0.0 for passed in accumulate(lengths_m[:-1]))


class _Drawn(NamedTuple):
    """A layout, and all of its plan that it was drawn by."""

    things: tuple[Named, ...]
    ends: list[tuple[str, str, str]]
    near: list[tuple[list[str], int]]
    diagram: Diagram

    def serves(self, plan: Plan) -> bool:
        """Whether another plan is drawn alike: of its conductors only ends count, and on which half of its way a device is."""
        return (
            (*plan.items, *plan.equipment) == self.things
            and _ends(plan) == self.ends
            and all(_in_first_half([plan.run_by_id[id_].length_m for id_ in way]) == near for way, near in self.near)
        )


def _ends(plan: Plan) -> list[tuple[str, str, str]]:
    return [(r.id, r.a, r.b) for r in plan.runs]


_last: list[_Drawn] = []
"""What was drawn last: most edits leave everything where it stands."""


def lay_out(wiring: Topology) -> Diagram:
    """Lay a plan out as the plus-to-minus map.

    Parameters
    ----------
    wiring : Topology
        A compiled plan; nothing solved is needed.

    Returns
    -------
    Diagram
        The very one that was drawn last, where nothing in it would be otherwise.
    """
    plan = wiring.plan
    for last in _last[:]:
        if last.serves(plan):
            return last.diagram
    drawing = _Drawing(wiring)
    near = [([link.run.id for link in c.links], _near_start(c)) for c in drawing.wires.chains if len(c.links) > 1]
    diagram = drawing.made()
    # Two threads draw: each gets its own, whichever is kept.
    _last[:] = [_Drawn((*plan.items, *plan.equipment), _ends(plan), near, diagram)]
    return diagram
