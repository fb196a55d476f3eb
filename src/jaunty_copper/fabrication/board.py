"""A panel with what is screwed onto it: outlines, air around them, and whether cables get round the bends."""

from collections.abc import Mapping, Sequence
from math import acos, ceil, degrees, hypot, tan
from typing import NamedTuple

from jaunty_copper.parts.catalogue import Catalogue, read_data
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Board,
    Breaker,
    Equipment,
    Fuse,
    Inline,
    Named,
    Plan,
    Post,
    Run,
    Spot,
    split_ref,
)

BEND_TIMES = 4.0
"""Least radius of a bend, in diameters of the cable: fine-stranded single cable, representative."""
LUG_MM = 25.0
"""From a stud to where its cable may begin to bend; representative."""
EDGE_MM, GAP_MM = 15.0, 10.0
MAIN_MM = 40.0
BOLTED_MM = 5.0
"""So far apart are parts at most of which one is bolted to the other; representative."""
TURN_MM = 20.0
"""More than that before a bar: a cable turns down to its stud."""
DROP_MM = 62.0
"""From a bar to what it feeds: two lugs and a little."""
BAR_MM = 50.0
"""How far a bar's nuts stand off its board, its own thickness apart: insulator, lugs, stud; representative."""
NEAR_M = 0.5
"""A device that a bar feeds over no more than this stands below it."""


class Outline(NamedTuple):
    """What a part takes on a board, mm: from terminal to terminal, across, air around it, and how far it stands off."""

    along: float
    across: float
    clearance: float
    tall: float


class Placed(NamedTuple):
    """A part where it stands, mm from the board's upper left corner."""

    thing: Named
    x: float
    y: float
    w: float
    h: float
    clearance: float
    tall: float
    turned: bool


def outline(thing: Named, parts: Catalogue) -> Outline | None:
    """Outline of a part; None for what does not stand on a board."""
    if isinstance(thing, Bar):
        return Outline(
            (len(thing.studs) + 1) * thing.spacing_mm, max(thing.width_mm, 30.0), 15.0, BAR_MM + thing.thickness_mm
        )
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
    return Outline(float(row["along_mm"]), float(row["across_mm"]), float(row["clearance_mm"]), float(row["tall_mm"]))


def placed(plan: Plan, board: Board, parts: Catalogue) -> tuple[Placed, ...]:
    """Everything on a board, in the order of its spots."""
    found = []
    for spot in board.spots:
        size = outline(plan.by_id[spot.of], parts)
        if size is not None:
            w, h = (size.across, size.along) if spot.turned else (size.along, size.across)
            found.append(Placed(plan.by_id[spot.of], *spot.at_mm, w, h, size.clearance, size.tall, spot.turned))
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


def way_between(p: Placed, terminal_p: str, q: Placed, terminal_q: str) -> tuple[tuple[float, float], ...]:
    """The way of a cable between two terminals as it is drawn: where it starts, two points that it bends towards, its end."""
    ((x0, y0), (ux, uy)), ((x1, y1), (vx, vy)) = terminal_at(p, terminal_p), terminal_at(q, terminal_q)
    reach = 0.35 * max(abs(x1 - x0), abs(y1 - y0), 30.0)
    return (x0, y0), (x0 + reach * ux, y0 + reach * uy), (x1 + reach * vx, y1 + reach * vy), (x1, y1)


def room_for(p: Placed, terminal_p: str, q: Placed, terminal_q: str, outer_mm: float) -> tuple[float, float]:
    """How far apart two terminals must be for a cable between them, and how far they are, mm.

    Two lugs, and at each end an arc from the way a cable leaves to the way across: an arc of radius R
    through an angle θ takes R tan(θ/2) of the way. A cable that must turn right back needs a whole bend.

    Parameters
    ----------
    terminal_p, terminal_q : str
        Of the one part and of the other.
    outer_mm : float
        Outer diameter of the cable, mm.
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
    """A board by the way of the current: what leads from the bank to a bar, then the bar, below it what it feeds.

    What stands between a feeding device and its equipment comes below that; the rest at the end. What finds no room, or
    stands farther from everything else than `NEAR_M` along its conductors, is left out; equipment is put onto a board by
    hand.

    Parameters
    ----------
    plan : Plan
        For what there is, and what is joined to what.
    board : Board
        Its size; what stands on it now is taken off.
    parts : Catalogue
        For outlines.
    """
    spots: list[Spot] = []
    bars = [x for x in plan.items if isinstance(x, Bar)]
    fed = {bar.id: _fed_from(plan, bar) for bar in bars}
    taken = {x.id for found in fed.values() for x, _, _ in found} | {bar.id for bar in bars}
    y = EDGE_MM
    for bar in bars:
        before = [x for x in _from_bank(plan, bar) if x.id not in taken]
        taken |= {x.id for x in before}
        y = _row(spots, [*before, bar], board, parts, y)
        if not spots or spots[-1].of != bar.id:
            continue
        begin = len(spots)
        y = _below(spots, bar, fed[bar.id], board, parts, y - MAIN_MM + DROP_MM) if fed[bar.id] else y
        hung = {device.id: [x for x in _after(plan, device) if x.id not in taken] for device, _, _ in fed[bar.id]}
        y = _hung(spots, spots[begin:], hung, plan, board, parts, y)
        stand = {s.of for s in spots}
        beyond = [x for found in hung.values() for x in found if x.id not in stand]
        taken |= {x.id for found in hung.values() for x in found}
        y = _row(spots, beyond, board, parts, y)
    rest = [x for x in plan.items if isinstance(x, Inline | Post) and x.id not in taken and _is_near(plan, x)]
    _row(spots, rest, board, parts, y)
    return board.model_copy(update={"spots": tuple(spots)})


def _is_near(plan: Plan, x: Inline | Post) -> bool:
    """Whether a bar, device or stud stands beside a thing, or nothing is joined to it yet."""
    runs = [(r, x.ref(t)) for t in x.terminal_names for r in plan.runs_at.get(x.ref(t), ())]
    ends = [(r.length_m, plan.by_id[split_ref(r.b if r.a == ref else r.a)[0]]) for r, ref in runs]
    return not ends or any(m <= NEAR_M and isinstance(thing, Inline | Post | Bar) for m, thing in ends)


def _from_bank(plan: Plan, bar: Bar) -> list[Inline]:
    """What stands between a bank and a bar, in the order of the current."""
    found: list[Inline] = []
    for terminal in bar.terminal_names:
        for run in plan.runs_at.get(bar.ref(terminal), ()):
            way, end = _way(plan, bar.ref(terminal), run)
            if isinstance(end, Battery):
                found += [x for x in reversed(way) if x not in found]
    return found


def _after(plan: Plan, device: Inline) -> list[Inline]:
    """What stands near a device on its way to what it feeds."""
    ref = device.ref("b")
    ways = (_way(plan, ref, run) for run in plan.runs_at.get(ref, ()) if run.length_m <= NEAR_M)
    return [x for way, _ in ways for x in way]


def _way(plan: Plan, ref: str, run: Run) -> tuple[list[Inline], Named]:
    """Devices, switches and the like that a conductor leads through from a terminal, and where it ends."""
    way: list[Inline] = []
    while True:
        ref = run.b if run.a == ref else run.a
        id_, end = split_ref(ref)
        thing = plan.by_id[id_]
        if not isinstance(thing, Inline) or thing in way:
            return way, thing
        way.append(thing)
        ref = thing.ref("a" if end == "b" else "b")
        on = [r for r in plan.runs_at.get(ref, ()) if r is not run]
        if len(on) != 1:
            return way, thing
        run = on[0]


def _fed_from(plan: Plan, bar: Bar) -> list[tuple[Inline, str, float]]:
    """Devices whose near end a bar feeds over a short way, with the stud of each and the way, m, in the order of the studs."""
    found: list[tuple[Inline, str, float]] = []
    for terminal in bar.terminal_names:
        for r in plan.runs_at.get(bar.ref(terminal), ()):
            id_, end = split_ref(r.b if r.a == bar.ref(terminal) else r.a)
            other = plan.by_id[id_]
            if isinstance(other, Inline) and end == "a" and r.length_m <= NEAR_M:
                found.append((other, terminal, r.length_m))
    return found


def _row(spots: list[Spot], row: Sequence[Named], board: Board, parts: Catalogue, y: float) -> float:
    """Put a row of things onto a board, in line, going on below where it is full; where the next one begins."""
    sizes = [(x, size) for x in row if (size := outline(x, parts)) is not None]
    tallest = max((size.across for _, size in sizes), default=0.0)
    left, used, air = EDGE_MM, 0.0, GAP_MM
    for x, size in sizes:
        # A cable turns down to a bar's stud, and straight on to anything else.
        left += TURN_MM if isinstance(x, Bar) and left > EDGE_MM else 0.0
        if left > EDGE_MM and left + size.along + EDGE_MM > board.width_mm:
            left, y, used = EDGE_MM, y + tallest + MAIN_MM, 0.0
        if y + tallest + EDGE_MM > board.height_mm or left + size.along > board.width_mm:
            continue
        spots.append(Spot(of=x.id, at_mm=(left, y + (tallest - size.across) / 2.0)))
        left += size.along + max(size.clearance, GAP_MM) + 2.0 * LUG_MM
        used, air = tallest, max(air, size.clearance)
    return y + used + max(MAIN_MM, air) if used else y


def _hung(
    spots: list[Spot],
    row: list[Spot],
    hung: Mapping[str, Sequence[Inline]],
    plan: Plan,
    board: Board,
    parts: Catalogue,
    y: float,
) -> float:
    """Put what stands right behind devices below them, in line, each beside the one before; where it goes on below."""
    right, air, lowest = 0.0, 0.0, 0.0
    for spot in row:
        x = next(iter(hung.get(spot.of, ())), None)
        above, own = outline(plan.by_id[spot.of], parts), outline(x, parts) if x is not None else None
        if x is None or above is None or own is None:
            continue
        in_line = spot.at_mm[0] + (above.across - own.across) / 2.0
        at = max(in_line, right + ceil(max(air, own.clearance))) if right else max(in_line, EDGE_MM)
        # Clear of longer devices on either side too.
        beside = [
            s.at_mm[1] + size.along
            for s in row
            if (size := outline(plan.by_id[s.of], parts)) is not None
            and s.at_mm[0] < at + own.across + own.clearance
            and s.at_mm[0] + size.across > at - own.clearance
        ]
        under = max([spot.at_mm[1] + above.along, *beside]) + 2.0 * LUG_MM + GAP_MM
        if at + own.across + EDGE_MM > board.width_mm or under + own.along + EDGE_MM > board.height_mm:
            continue
        spots.append(Spot(of=x.id, at_mm=(round(at, 1), under), turned=True))
        right, air, lowest = at + own.across, own.clearance, max(lowest, under + own.along)
    return max(y, lowest + MAIN_MM) if lowest else y


def _below(
    spots: list[Spot], bar: Bar, fed: list[tuple[Inline, str, float]], board: Board, parts: Catalogue, y: float
) -> float:
    """Put what the bar that was put last feeds below it, each as near to its stud as the others and the air let it.

    What is bolted to the bar touches it.
    """
    size, (begin, top) = outline(bar, parts), spots[-1].at_mm
    assert size is not None
    names, right, wanted = bar.terminal_names, 0.0, list[tuple[Inline, Outline, float, float, float]]()
    before: Outline | None = None
    for x, terminal, way_m in fed:
        own = outline(x, parts)
        if own is None:
            continue
        stud = begin + (names.index(terminal) + 1) / (len(names) + 1) * size.along - own.across / 2.0
        air = ceil(max(before.clearance, own.clearance)) if before is not None else 0.0
        left = ceil(max(right + air, stud)) if before is not None else stud
        wanted.append((x, own, left, stud, y if way_m else top + size.across))
        right, before = left + own.across, own
    # Those that are crowded give way to both sides.
    too_far = sum(left - stud for _, _, left, stud, _ in wanted) / max(len(wanted), 1)
    first = min((left for _, _, left, _, _ in wanted), default=EDGE_MM)
    too_far, tallest = min(too_far, max(first - EDGE_MM, 0.0)), 0.0
    for x, own, left, _, under in wanted:
        at = round(left - too_far, 1)
        if at + own.across > board.width_mm or under + own.along + EDGE_MM > board.height_mm:
            continue
        spots.append(Spot(of=x.id, at_mm=(at, under), turned=True))
        tallest = max(tallest, own.along)
    return y + tallest + MAIN_MM if tallest else y
