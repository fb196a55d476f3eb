"""A panel with what is screwed onto it: outlines, air around them, and whether cables get round the bends."""

from collections.abc import Sequence
from itertools import combinations
from math import acos, ceil, degrees, hypot, tan
from typing import NamedTuple

from jaunty_copper.parts.catalogue import Catalogue, read_data
from jaunty_copper.plan.model import Bar, Board, Breaker, Equipment, Fuse, Inline, Named, Plan, Post, Spot, split_ref

BEND_TIMES = 4.0
"""Least radius of a bend, in diameters of the cable: fine-stranded single cable, representative."""
LUG_MM = 25.0
"""From a stud to where its cable may begin to bend; representative."""
EDGE_MM, GAP_MM = 15.0, 10.0
MAIN_MM = 40.0
DROP_MM = 62.0
"""From a bar to what it feeds: two lugs and a little."""
NEAR_M = 0.5
"""A device that a bar feeds over no more than this stands below it."""


class Outline(NamedTuple):
    """What a part takes on a board, mm: from terminal to terminal, across, and air around it."""

    along: float
    across: float
    clearance: float


class Placed(NamedTuple):
    """A part where it stands, mm from the board's upper left corner."""

    thing: Named
    x: float
    y: float
    w: float
    h: float
    clearance: float
    turned: bool


class BoardTrouble(NamedTuple):
    """What does not fit.

    Attributes
    ----------
    places : tuple of str
        Ids of what is concerned.
    words : str
        For a person.
    """

    places: tuple[str, ...]
    words: str


def outline(thing: Named, parts: Catalogue) -> Outline | None:
    """Outline of a part; None for what does not stand on a board."""
    if isinstance(thing, Bar):
        return Outline((len(thing.studs) + 1) * thing.spacing_mm, max(thing.width_mm, 30.0), 15.0)
    kind: str = getattr(thing, "kind", "")
    key = kind
    if isinstance(thing, Fuse):
        terminals = thing.thread or parts.device_families[thing.family].terminals
        key = f"fuse:{terminals}"
    elif isinstance(thing, Breaker):
        key = "breaker"
    row = next((r for r in read_data("outlines") if r["key"] == key), None)
    if row is None or not float(row["along_mm"]):
        return None
    return Outline(float(row["along_mm"]), float(row["across_mm"]), float(row["clearance_mm"]))


def placed(plan: Plan, board: Board, parts: Catalogue) -> tuple[Placed, ...]:
    """Everything on a board, in the order of its spots."""
    found = []
    for spot in board.spots:
        size = outline(plan.by_id[spot.of], parts)
        if size is not None:
            w, h = (size.across, size.along) if spot.turned else (size.along, size.across)
            found.append(Placed(plan.by_id[spot.of], *spot.at_mm, w, h, size.clearance, spot.turned))
    return tuple(found)


def terminal_at(p: Placed, terminal: str) -> tuple[tuple[float, float], tuple[float, float]]:
    """Where a terminal of a part is, and which way a cable leaves it; x to the right, y down."""
    names = p.thing.terminal_names
    if isinstance(p.thing, Equipment):
        # Equipment has its terminals side by side at one edge.
        share = (names.index(terminal) + 1) / (len(names) + 1)
        return ((p.x, p.y + share * p.h), (-1.0, 0.0)) if p.turned else ((p.x + share * p.w, p.y + p.h), (0.0, 1.0))
    if isinstance(p.thing, Bar):
        share = (names.index(terminal) + 1) / (len(names) + 1)
        # Lugs lie across a bar, towards the nearer middle of the board or away from it: both sides are free.
        return (
            ((p.x + p.w / 2, p.y + share * p.h), (1.0, 0.0))
            if p.turned
            else ((p.x + share * p.w, p.y + p.h / 2), (0.0, 1.0))
        )
    first = terminal == names[0]
    if p.turned:
        return ((p.x + p.w / 2, p.y + (0.0 if first else p.h)), (0.0, -1.0 if first else 1.0))
    return ((p.x + (0.0 if first else p.w), p.y + p.h / 2), (-1.0 if first else 1.0, 0.0))


def troubles(plan: Plan, board: Board, parts: Catalogue) -> tuple[BoardTrouble, ...]:
    """What does not fit on a board: outlines, air, edges, cables between two parts."""
    things = placed(plan, board, parts)
    found = []
    for p in things:
        if p.x < 0.0 or p.y < 0.0 or p.x + p.w > board.width_mm or p.y + p.h > board.height_mm:
            found.append(BoardTrouble((p.thing.id,), f"{p.thing.title} stands over the edge"))
    for p, q in combinations(things, 2):
        gap = max(q.x - p.x - p.w, p.x - q.x - q.w, q.y - p.y - p.h, p.y - q.y - q.h)
        need = max(p.clearance, q.clearance)
        if gap < 0.0:
            found.append(BoardTrouble((p.thing.id, q.thing.id), f"{p.thing.title} and {q.thing.title} overlap"))
        elif gap < need - 1e-6:
            words = f"{gap:.0f} mm of air between {p.thing.title} and {q.thing.title}, {need:.0f} needed"
            found.append(BoardTrouble((p.thing.id, q.thing.id), words))
    return (*found, *_bends(plan, things, parts))


def _bends(plan: Plan, things: tuple[Placed, ...], parts: Catalogue) -> list[BoardTrouble]:
    by_id = {p.thing.id: p for p in things}
    found = []
    for r in plan.runs:
        (a, ta), (b, tb) = split_ref(r.a), split_ref(r.b)
        if a not in by_id or b not in by_id or r.length_m == 0.0:
            continue
        need, there = room_for(by_id[a], ta, by_id[b], tb, parts.conductors[r.conductor].outer_mm)
        titles = f"{by_id[a].thing.title} and {by_id[b].thing.title}"
        if there < need:
            found.append(
                BoardTrouble(
                    (r.id, a, b),
                    f"{r.id} has {there:.0f} mm between {titles}, and needs {need:.0f} to get round its bends",
                )
            )
        elif 1000.0 * r.length_m < there - 1.0:
            found.append(
                BoardTrouble(
                    (r.id, a, b),
                    f"{r.id} is planned with {1000.0 * r.length_m:.0f} mm, and {titles} are {there:.0f} mm apart",
                )
            )
    return found


def room_for(p: Placed, terminal_p: str, q: Placed, terminal_q: str, outer_mm: float) -> tuple[float, float]:
    """How far apart two terminals must be for a cable between them, and how far they are, mm.

    Two lugs, and at each end an arc from the way a cable leaves to the way across: an arc of radius R
    through an angle θ takes R tan(θ/2) of the way. A cable that must turn right back needs a whole bend.
    """
    (start, leaves), (end, other) = terminal_at(p, terminal_p), terminal_at(q, terminal_q)
    dx, dy = end[0] - start[0], end[1] - start[1]
    there = hypot(dx, dy)
    if there < 1e-9:
        return 2.0 * LUG_MM, 0.0
    radius, need = BEND_TIMES * outer_mm, 2.0 * LUG_MM
    for part, (ex, ey), sign in ((p, leaves, 1.0), (q, other, -1.0)):
        cosine = sign * (ex * dx + ey * dy) / there
        if isinstance(part.thing, Bar):
            # A lug lies to either side of a bar.
            cosine = abs(cosine)
        angle = acos(min(1.0, max(-1.0, cosine)))
        need += radius * (2.0 if degrees(angle) > 120.0 else tan(angle / 2.0))
    return need, there


def arranged(plan: Plan, board: Board, parts: Catalogue) -> Board:
    """A board with bars, devices and studs: below each bar, turned towards it, what it feeds; the rest above.

    What finds no room is left out; equipment is put onto a board by hand.
    """
    spots: list[Spot] = []
    fed = {x.id: _fed_from(plan, x) for x in plan.items if isinstance(x, Bar)}
    children = {x.id for found in fed.values() for x, _ in found}
    first = [x for x in plan.items if isinstance(x, Inline | Post) and x.id not in children]
    y = _row(spots, first, board, parts, EDGE_MM)
    for bar in (x for x in plan.items if isinstance(x, Bar)):
        y = _row(spots, [bar], board, parts, y)
        if fed[bar.id] and bar.id == (spots[-1].of if spots else ""):
            y = _below(spots, bar, fed[bar.id], board, parts, y - MAIN_MM + DROP_MM)
    return board.model_copy(update={"spots": tuple(spots)})


def _fed_from(plan: Plan, bar: Bar) -> list[tuple[Inline, str]]:
    """Devices whose near end a bar feeds over a short way, with the stud of each, in the order of the studs."""
    found: list[tuple[Inline, str]] = []
    for terminal in bar.terminal_names:
        for r in plan.runs_at.get(bar.ref(terminal), ()):
            id_, end = split_ref(r.b if r.a == bar.ref(terminal) else r.a)
            other = plan.by_id[id_]
            if isinstance(other, Inline) and end == "a" and r.length_m <= NEAR_M:
                found.append((other, terminal))
    return found


def _row(spots: list[Spot], row: Sequence[Named], board: Board, parts: Catalogue, y: float) -> float:
    """Put a row of things onto a board, going on below where it is full; where the next one begins."""
    left, tallest, air = EDGE_MM, 0.0, GAP_MM
    for x in row:
        size = outline(x, parts)
        if size is None:
            continue
        if left > EDGE_MM and left + size.along + EDGE_MM > board.width_mm:
            left, y, tallest = EDGE_MM, y + tallest + MAIN_MM, 0.0
        if y + size.across + EDGE_MM > board.height_mm or left + size.along > board.width_mm:
            continue
        spots.append(Spot(of=x.id, at_mm=(left, y)))
        left += size.along + max(size.clearance, GAP_MM) + 2.0 * LUG_MM
        tallest, air = max(tallest, size.across), max(air, size.clearance)
    return y + tallest + max(MAIN_MM, air) if tallest else y


def _below(
    spots: list[Spot], bar: Bar, fed: list[tuple[Inline, str]], board: Board, parts: Catalogue, y: float
) -> float:
    """Put what a bar feeds below it, each as near to its stud as the air around it lets it."""
    size = outline(bar, parts)
    assert size is not None
    names, right, tallest = bar.terminal_names, EDGE_MM, 0.0
    before: Outline | None = None
    for x, terminal in fed:
        own = outline(x, parts)
        if own is None:
            continue
        stud = EDGE_MM + (names.index(terminal) + 1) / (len(names) + 1) * size.along
        air = ceil(max(before.clearance, own.clearance)) if before is not None else 0.0
        left = ceil(max(right + air, stud - own.across / 2.0))
        if left + own.across > board.width_mm or y + own.along + EDGE_MM > board.height_mm:
            continue
        spots.append(Spot(of=x.id, at_mm=(left, y), turned=True))
        right, tallest, before = left + own.across, max(tallest, own.along), own
    return y + tallest + MAIN_MM if tallest else y
