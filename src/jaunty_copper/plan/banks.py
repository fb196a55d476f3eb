"""Banks: which units belong together, how they are joined, where they stand.

Units form a bank where both poles meet, or where one's plus meets another's minus and nothing but those two: one
current flows through both. Units that share a minus alone are banks by themselves. Inside a bank, a string is one
unit or several in series through rails that nothing else touches; strings between the same two rails stand in parallel
and should share alike.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property, lru_cache
from math import hypot

from jaunty_copper.physics import graph
from jaunty_copper.plan.model import Bar, Battery, Chassis, Equipment, Plan, Post, Run, split_ref
from jaunty_copper.plan.topology import KEPT, Joints, Topology

GAP_MM = 20.0
"""Air between units that stand side by side, where a plan does not say where they stand."""


@dataclass(frozen=True)
class Bank:
    """Units that copper joins.

    Attributes
    ----------
    units : tuple of Battery
        In the order of the file.
    strings : tuple of tuple of str
        Ids of the units of each string, from its minus to its plus.
    groups : tuple of tuple of int
        Strings that stand in parallel, by their place in `strings`.
    inside : tuple of str
        Ids of the runs between the units' terminals: links and leads.
    takeoffs : dict
        By rail of `plus` and `minus`, the terminals where the rest of the system is joined.
    nominal_v : float
        From its lowest minus to its highest plus, by the units' nominal voltages.
    torn : tuple of str
        Units whose nominal voltages contradict the others'.
    """

    units: tuple[Battery, ...]
    strings: tuple[tuple[str, ...], ...]
    groups: tuple[tuple[int, ...], ...]
    inside: tuple[str, ...]
    takeoffs: dict[str, tuple[str, ...]]
    nominal_v: float
    torn: tuple[str, ...]

    @property
    def id(self) -> str:
        """Id of its first unit."""
        return self.units[0].id

    @property
    def outlets(self) -> tuple[str, ...]:
        """One unit of each string of one group: their currents add up to the bank's."""
        return tuple(self.strings[k][0] for k in self.groups[0])

    @cached_property
    def string_of(self) -> dict[str, int]:
        """Which string each unit is in."""
        return {unit: k for k, string in enumerate(self.strings) for unit in string}

    @cached_property
    def by_id(self) -> dict[str, Battery]:
        """Its units by id."""
        return {u.id: u for u in self.units}

    def across(self, volts: Callable[[Battery], float], pick: Callable[[Iterable[float]], float] = max) -> float:
        """What its units come to from its lowest minus to its highest plus: strings side by side count once.

        Parameters
        ----------
        volts : callable
            Of one unit, V.
        pick : callable
            Which of the strings that stand in parallel counts.
        """
        return sum(pick(sum(volts(self.by_id[u]) for u in self.strings[k]) for k in group) for group in self.groups)


def banks_of(joined: Topology) -> tuple[Bank, ...]:
    """All banks of a plan, in the order of their first units."""
    return _banks(joined.joints)


@lru_cache(maxsize=KEPT)
def _banks(joined: Joints) -> tuple[Bank, ...]:
    batteries = [x for x in joined.things if isinstance(x, Battery)]
    if not batteries:
        return ()
    ends = {b.id: (joined.own_rail_of(b.ref("minus")), joined.own_rail_of(b.ref("plus"))) for b in batteries}
    groups: dict[int, list[Battery]] = {}
    for b, own in zip(batteries, _alike(joined, list(ends.values())), strict=True):
        groups.setdefault(own, []).append(b)
    return tuple(_bank(joined, tuple(units), ends) for units in groups.values())


def _alike(joined: Joints, ends: list[tuple[int, int]]) -> list[int]:
    """For each unit, by its minus and plus rail, a number that it shares with the others of its bank."""
    # Both poles meet: current can go round through two units, over whatever lies between.
    block = graph.blocks(max(joined.own_rail) + 1, ends)
    by_rail = {rail: own for own, poles in zip(block, ends, strict=True) if own >= 0 for rail in poles}
    # A unit that is shorted by copper belongs where it hangs.
    block = [own if own >= 0 else by_rail.get(low, len(ends) + low) for own, (low, _) in zip(block, ends, strict=True)]
    ending: dict[int, tuple[set[int], set[int]]] = {}
    for own, poles in zip(block, ends, strict=True):
        for side, rail in enumerate(poles):
            ending.setdefault(rail, (set(), set()))[side].add(own)
    # The one ends where the other begins: in series, whether something is tapped from between them or not. Where
    # nothing is, and no bar stands there for something to be, they are so whichever way round they stand.
    tapped = _tapped(joined)
    for hub in joined.things:
        if isinstance(hub, Bar | Post):
            tapped.add(joined.own_rail_of(hub.ref(hub.terminal_names[0])))
    pairs = [
        tuple(low | high)
        for rail, (low, high) in ending.items()
        if len(low | high) == 2 and (len(low) == len(high) == 1 or rail not in tapped)
    ]
    label = graph.components(max(block) + 1, (a for a, _ in pairs), (b for _, b in pairs))
    return [label[own] for own in block]


def _bank(joined: Joints, units: tuple[Battery, ...], ends: dict[str, tuple[int, int]]) -> Bank:
    edges = [(*ends[u.id], u.nominal_v) for u in units]
    volts, _, torn = graph.potentials(max(joined.own_rail) + 1, edges, [edges[0][0]])
    own = {r for u in units for r in ends[u.id]}
    low, high = min(own, key=lambda r: volts[r]), max(own, key=lambda r: volts[r])
    private = _private_rails(joined, units, ends) - {low, high}
    above = {ends[u.id][0]: u for u in units if ends[u.id][0] in private}
    strings: list[tuple[str, ...]] = []
    spans: dict[tuple[int, int], list[int]] = {}
    for u in units:
        if ends[u.id][0] in private:
            continue
        string = [u]
        while ends[string[-1].id][1] in private:
            string.append(above[ends[string[-1].id][1]])
        spans.setdefault((ends[u.id][0], ends[string[-1].id][1]), []).append(len(strings))
        strings.append(tuple(x.id for x in string))
    inside, loose = _inside(joined, units, own)
    takeoffs = {
        side: tuple(joined.refs[n] for n in loose if joined.own_rail[n] == rail)
        or tuple(u.ref(side) for u in units if joined.own_rail_of(u.ref(side)) == rail)[:1]
        for side, rail in (("plus", high), ("minus", low))
    }
    return Bank(
        units, tuple(strings), tuple(tuple(g) for g in spans.values()), inside, takeoffs,
        volts[high] - volts[low], tuple(units[k].id for k in torn),
    )  # fmt: skip


def _private_rails(joined: Joints, units: tuple[Battery, ...], ends: dict[str, tuple[int, int]]) -> set[int]:
    """Rails that join one plus to one minus, and nothing else."""
    pluses: dict[int, int] = {}
    minuses: dict[int, int] = {}
    for u in units:
        minus, plus = ends[u.id]
        pluses[plus] = pluses.get(plus, 0) + 1
        minuses[minus] = minuses.get(minus, 0) + 1
    return {r for r, n in pluses.items() if n == 1 and minuses.get(r) == 1} - _tapped(joined)


def _tapped(joined: Joints) -> set[int]:
    """Rails on which something else hangs than units."""
    hung = (x for x in joined.things if isinstance(x, Equipment | Chassis))
    return {joined.own_rail_of(x.ref(t)) for x in hung for t in x.terminal_names}


def _inside(joined: Joints, units: tuple[Battery, ...], rails: set[int]) -> tuple[tuple[str, ...], list[int]]:
    """Runs between the units' terminals, and the nodes where the rest of the system is joined.

    With all posts of a rail tied to one node more, what lies between posts is the block of
    that node; whatever else hangs on the rail hangs there by one node.
    """
    posts = [joined.node[u.ref(t)] for u in units for t in u.terminal_names]
    copper = [k for k, b in enumerate(joined.branches) if b.kind != "battery" and joined.own_rail[b.a] in rails]
    hub = {rail: len(joined.refs) + k for k, rail in enumerate(sorted(rails))}
    edges = [(joined.branches[k].a, joined.branches[k].b) for k in copper]
    edges += [(n, hub[joined.own_rail[n]]) for n in posts]
    label = graph.blocks(len(joined.refs) + len(hub), edges)
    between = set(label[len(copper) :])
    kept = [k for k, own in zip(copper, label, strict=False) if own in between]
    inner = {n for k in kept for n in (joined.branches[k].a, joined.branches[k].b)} | set(posts)
    outside = set(copper) - set(kept)
    loose = {n for k in outside for n in (joined.branches[k].a, joined.branches[k].b) if n in inner}
    return tuple(joined.branches[k].owner for k in kept if joined.branches[k].kind == "run"), sorted(loose)


# Where units stand


def unit_places(units: tuple[Battery, ...]) -> dict[str, tuple[float, float]]:
    """Where the left front corner of each unit stands, mm: as the plan says, else in a row."""
    found: dict[str, tuple[float, float]] = {}
    x = 0.0
    for u in units:
        found[u.id] = u.at_mm or (x, 0.0)
        x = max(x, found[u.id][0] + u.width_mm + GAP_MM)
    return found


def overlap(one: Battery, at: tuple[float, float], other: Battery, there: tuple[float, float]) -> bool:
    """Whether two units would stand in one another, each with its left front corner at a place, mm.

    Parameters
    ----------
    at, there : tuple of float
        Left front corner of the one and of the other, mm.
    """
    (x, y), (ox, oy) = at, there
    return x < ox + other.width_mm and ox < x + one.width_mm and y < oy + other.depth_mm and oy < y + one.depth_mm


def snapped(units: tuple[Battery, ...], unit: str, x: float, y: float, within_mm: float) -> tuple[float, float]:
    """Where a unit comes to stand that is put down near a line with others, or beside one: in that line, side by side.

    Parameters
    ----------
    unit : str
        Id of the unit that is put down.
    x, y : float
        Where its left front corner is, mm.
    within_mm : float
        How near counts as near, mm.
    """
    at = unit_places(units)
    own = next(u for u in units if u.id == unit)
    xs, ys = list[float](), list[float]()
    for u in units:
        if u.id != unit:
            ox, oy = at[u.id]
            xs += [ox, ox + u.width_mm + GAP_MM, ox - own.width_mm - GAP_MM, ox + u.width_mm - own.width_mm]
            ys += [oy, oy + u.depth_mm + GAP_MM, oy - own.depth_mm - GAP_MM, oy + u.depth_mm - own.depth_mm]
    return _nearest(x, xs, within_mm), _nearest(y, ys, within_mm)


def _nearest(value: float, lines: list[float], within: float) -> float:
    near = min(lines, key=lambda line: abs(line - value), default=value)
    return near if abs(near - value) <= within else value


def post_at(unit: Battery, at: tuple[float, float], terminal: str) -> tuple[float, float]:
    """Where a unit's terminal is, mm: both near the front edge, a sixth of the width in.

    Parameters
    ----------
    at : tuple of float
        Its left front corner, mm.
    terminal : str
        plus or minus.
    """
    left = (terminal == "plus") != unit.turned
    return at[0] + unit.width_mm * (1 / 6 if left else 5 / 6), at[1] + 0.15 * unit.depth_mm


def distance_m(plan: Plan, first: str, second: str, at: dict[str, tuple[float, float]] | None = None) -> float | None:
    """Straight distance between two battery terminals, m; None where one is no battery's.

    Parameters
    ----------
    first, second : str
        Terminals, as `B1.plus`.
    at : dict, optional
        Left front corners of units, mm, by id, where they are to stand elsewhere.
    """
    (u, s), (v, t) = split_ref(first), split_ref(second)
    one, two = plan.by_id.get(u), plan.by_id.get(v)
    if not isinstance(one, Battery) or not isinstance(two, Battery):
        return None
    where = at or unit_places(tuple(x for x in plan.items if isinstance(x, Battery)))
    (ax, ay), (bx, by) = post_at(one, where[u], s), post_at(two, where[v], t)
    return hypot(bx - ax, by - ay) / 1000.0


def links_of(plan: Plan, unit: str) -> tuple[Run, ...]:
    """Runs from a unit to other units."""
    batteries = {x.id for x in plan.items if isinstance(x, Battery)}
    return tuple(
        r
        for r in plan.runs
        if (own := {split_ref(r.a)[0], split_ref(r.b)[0]}) <= batteries and unit in own and len(own) == 2
    )
