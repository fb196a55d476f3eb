"""What does not fit on a board: outlines, air, its lid, a socket on every nut, cables that get round their bends."""

from itertools import combinations, pairwise
from typing import NamedTuple

import numpy as np

from jaunty_copper.fabrication.board import BOLTED_MM, Placed, placed, room_for, way_between
from jaunty_copper.fabrication.cuts import colours_of
from jaunty_copper.language import say
from jaunty_copper.network.wiring import Wiring, thread_at
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.parts.models import Thread
from jaunty_copper.physics.copper import Floats
from jaunty_copper.plan.model import Bar, Board, Plan, split_ref

LID_MM = 5.0
"""Air between the tallest part and a lid: representative."""
FLATS_MM: dict[Thread, float] = {"M5": 8.0, "M6": 10.0, "M8": 13.0, "M10": 16.0, "M12": 18.0}
"""Across the flats of a hexagon nut, ISO 4032."""
WALL_TIMES, CORNER_TIMES = 1.5, 1.155
"""Outside of a socket over its flats, representative; corner to corner of a hexagon over its flats."""
STEPS = 24
"""Straight pieces in which a bent cable is held against others."""


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


def troubles(wiring: Wiring, board: Board) -> tuple[BoardTrouble, ...]:
    """What does not fit on a board: outlines, air, edges, its lid, sockets, cables between two parts."""
    plan, parts = wiring.plan, wiring.parts
    things = placed(plan, board, parts)
    found = []
    for p in things:
        if p.x < 0.0 or p.y < 0.0 or p.x + p.w > board.width_mm or p.y + p.h > board.height_mm:
            found.append(BoardTrouble((p.thing.id,), say("{thing} stands over the edge", thing=p.thing.title)))
    bolted = _bolted(plan)
    for p, q in combinations(things, 2):
        gap = max(q.x - p.x - p.w, p.x - q.x - q.w, q.y - p.y - p.h, p.y - q.y - q.h)
        together = frozenset((p.thing.id, q.thing.id)) in bolted
        need = 0.0 if together else max(p.clearance, q.clearance)
        if together and gap > BOLTED_MM:
            words = say(
                "{thing} and {thing_2} are bolted together, and stand {gap:.0f} mm apart",
                thing=p.thing.title,
                thing_2=q.thing.title,
                gap=gap,
            )
            found.append(BoardTrouble((p.thing.id, q.thing.id), words))
        elif gap < 0.0:
            found.append(
                BoardTrouble(
                    (p.thing.id, q.thing.id),
                    say("{thing} and {thing_2} overlap", thing=p.thing.title, thing_2=q.thing.title),
                )
            )
        elif gap < need - 1e-6:
            words = say(
                "{gap:.0f} mm of air between {thing} and {thing_2}, {need:.0f} needed",
                gap=gap,
                thing=p.thing.title,
                thing_2=q.thing.title,
                need=need,
            )
            found.append(BoardTrouble((p.thing.id, q.thing.id), words))
    return (
        *found, *_under_the_lid(board, things), *_sockets(plan, things, parts), *_bends(plan, things, parts),
        *_crossings(wiring, things),
    )  # fmt: skip


def _bolted(plan: Plan) -> frozenset[frozenset[str]]:
    """Pairs of parts with no conductor between them: one terminal on the other."""
    return frozenset(frozenset((split_ref(r.a)[0], split_ref(r.b)[0])) for r in plan.runs if r.length_m == 0.0)


def _bends(plan: Plan, things: tuple[Placed, ...], parts: Catalogue) -> list[BoardTrouble]:
    by_id = {p.thing.id: p for p in things}
    found = []
    for r in plan.runs:
        (a, ta), (b, tb) = split_ref(r.a), split_ref(r.b)
        if a not in by_id or b not in by_id or r.length_m == 0.0:
            continue
        need, there = room_for(by_id[a], ta, by_id[b], tb, parts.conductors[r.conductor].outer_mm)
        titles = say("{thing} and {thing_2}", thing=by_id[a].thing.title, thing_2=by_id[b].thing.title)
        if there < need:
            found.append(
                BoardTrouble(
                    (r.id, a, b),
                    say(
                        "{r} has {there:.0f} mm between {titles}, and needs {need:.0f} to get round its bends",
                        r=r.id,
                        there=there,
                        titles=titles,
                        need=need,
                    ),
                )
            )
        elif 1000.0 * r.length_m < there - 1.0:
            found.append(
                BoardTrouble(
                    (r.id, a, b),
                    say(
                        "{r} is planned with {length_m:.0f} mm, and {titles} are {there:.0f} mm apart",
                        r=r.id,
                        length_m=1000.0 * r.length_m,
                        titles=titles,
                        there=there,
                    ),
                )
            )
    return found


def _under_the_lid(board: Board, things: tuple[Placed, ...]) -> list[BoardTrouble]:
    if board.depth_mm is None:
        return []
    return [
        BoardTrouble(
            (p.thing.id,),
            say(
                "{thing} stands {tall:.0f} mm off the board; under the lid there are {depth:g}, and {air:g} stay free",
                thing=p.thing.title,
                tall=p.tall,
                depth=board.depth_mm,
                air=LID_MM,
            ),
        )
        for p in things
        if p.tall + LID_MM > board.depth_mm
    ]


def _sockets(plan: Plan, things: tuple[Placed, ...], parts: Catalogue) -> list[BoardTrouble]:
    """Nuts of a bar that stand so close that no socket gets between them."""
    found = []
    for p in things:
        if not isinstance(p.thing, Bar):
            continue
        threads = [thread_at(plan, parts, p.thing.ref(t)) or "M8" for t in p.thing.terminal_names]
        need, (one, other) = max(
            ((socket_room_mm(x, y), (x, y)) for a, b in pairwise(threads) for x, y in ((a, b), (b, a))),
            default=(0.0, (None, None)),
        )
        if need > p.thing.spacing_mm + 1e-9:
            words = say(
                "{thing}: a socket for {one} needs {need:.1f} mm beside a nut {other}; the studs are {spacing:g} mm apart",
                thing=p.thing.title,
                one=one,
                need=need,
                other=other,
                spacing=p.thing.spacing_mm,
            )
            found.append(BoardTrouble((p.thing.id,), words))
    return found


def socket_room_mm(turned: Thread, beside: Thread) -> float:
    """From the middle of a nut that a socket turns to that of one beside it, at least, mm.

    Parameters
    ----------
    turned, beside : str
        Threads of the two.
    """
    return 0.5 * (WALL_TIMES * FLATS_MM[turned] + CORNER_TIMES * FLATS_MM[beside])


def _crossings(wiring: Wiring, things: tuple[Placed, ...]) -> list[BoardTrouble]:
    """Cables of opposite poles that cross with nothing but their insulation between them."""
    by_id, colours = {p.thing.id: p for p in things}, colours_of(wiring)
    ways: dict[str, list[tuple[str, tuple[str, str], Floats]]] = {"red": [], "black": []}
    for r in wiring.plan.runs:
        (a, ta), (b, tb) = split_ref(r.a), split_ref(r.b)
        colour = colours[wiring.rail_of(r.a)]
        if a in by_id and b in by_id and r.length_m > 0.0 and not r.sheathed and colour in ways:
            ways[colour].append((r.id, (a, b), _line(way_between(by_id[a], ta, by_id[b], tb))))
    return [
        BoardTrouble(
            (plus, minus),
            say(
                "{plus} and {minus} cross, plus and minus: put one in a sleeve, or lead it round",
                plus=plus,
                minus=minus,
            ),
        )
        for plus, _, one in ways["red"]
        for minus, _, other in ways["black"]
        if _cross(one, other)
    ]


def _line(bend: tuple[tuple[float, float], ...]) -> Floats:
    """A cubic Bézier curve as points."""
    t = np.linspace(0.0, 1.0, STEPS + 1)[:, None]
    p = np.array(bend)
    return np.asarray((1 - t) ** 3 * p[0] + 3 * (1 - t) ** 2 * t * p[1] + 3 * (1 - t) * t**2 * p[2] + t**3 * p[3])


def _cross(one: Floats, other: Floats) -> bool:
    """Whether two lines through points meet."""
    p, q = one[:-1, None], other[None, :-1]
    r, s = one[1:, None] - p, other[None, 1:] - q

    def cross(a: Floats, b: Floats) -> Floats:
        return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])

    area = cross(r, s)
    with np.errstate(divide="ignore", invalid="ignore"):
        t, u = cross(q - p, s) / area, cross(q - p, r) / area
    return bool(np.any((area != 0.0) & (t >= 0.0) & (t <= 1.0) & (u >= 0.0) & (u <= 1.0)))
