"""The other drawings of a plan: cables, lengths, boards, opening curves, shares of a bank."""

from collections.abc import Callable, Collection, Sequence
from math import ceil, floor, isfinite, log10
from typing import Any

from jaunty_copper.battery.sharing import Sharing
from jaunty_copper.codes.rules.words import duration
from jaunty_copper.documents.curves import LONGEST_S, SHORTEST_S, Curves
from jaunty_copper.documents.drawing import (
    CHOSEN,
    COPPER,
    GROUND,
    INK,
    METAL,
    PAPER,
    SOFT,
    STEEL,
    STOP,
    Circle,
    Drawing,
    Path,
    Rect,
    Text,
    line,
)
from jaunty_copper.fabrication.board import Placed, placed, way_between
from jaunty_copper.fabrication.cuts import Cut, End
from jaunty_copper.fabrication.materials import Workshop
from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.parts.figures import quantity
from jaunty_copper.physics.copper import Floats
from jaunty_copper.plan.model import Bar, Board, Plan, split_ref

SKIN = {"red": "#c02b22", "black": "#2b2b2b", "yellow": "#d9b400", "green and yellow": "#5d8f2b", "grey": "#8a8f94"}
At = Callable[[float, float], tuple[float, float]]
BOLT_MM = 8.0
"""How wide a terminal that lies on another one is drawn."""
DASHES: tuple[tuple[float, ...], ...] = (
    (), (7.0, 3.0), (2.0, 2.5), (9.0, 3.0, 2.0, 3.0), (12.0, 4.0), (4.0, 4.0),
)  # fmt: skip
"""Curves are distinguished by these, so that they are in black and white."""
UPRIGHTS: dict[str, tuple[str, tuple[float, ...]]] = {
    "normal": (INK, (1.5, 2.5)), "least": (INK, (6.0, 3.0)), "greatest": (INK, ()), "selective": (STOP, (6.0, 3.0)),
}  # fmt: skip
"""Currents that stand on the chart: tone and dashes."""


def cable_drawing(shop: Workshop, cut: Cut, title: str = "", width: float = 640.0, gauge: str = "") -> Drawing:
    """One cable as it lies on the bench, lugs and sleeves at its ends.

    Parameters
    ----------
    title, gauge : str
        What to call it and its size; its label and the size's own where nothing is given.
    width : float
        Of the drawing.
    """
    size = shop.wiring.parts.conductors[cut.conductor]
    d = Drawing(say("Cable {cut}", cut=cut.label), 0.0, 0.0, width, 100.0)
    left, right, y = 70.0, width - 70.0, 46.0
    thick = min(max(1.4 * size.outer_mm, 4.0), 28.0)
    d.add(Text(8.0, 16.0, f"{title or cut.label} · {gauge or size.label}, {cut.colour}", "start", 13, True))
    d.add(Rect(left, y - thick / 2, right - left, thick, SKIN[cut.colour], INK, 0.8))
    for x, sign, end in ((left, -1.0, cut.a), (right, 1.0, cut.b)):
        _end(d, x, y, sign, thick, end)
    d.add(
        line(((left, y + 24), (right, y + 24)), stroke=SOFT, width=1.0),
        *(line(((x, y + 19), (x, y + 29)), stroke=SOFT, width=1.0) for x in (left, right)),
        Text((left + right) / 2, y + 40, f"{1000 * cut.length_m:.0f} mm", size=13, strong=True),
        Text(8.0, y + 47, f"{cut.a.ref}: {cut.a.words}", "start", 11),
        Text(width - 8.0, y + 47, f"{cut.b.ref}: {cut.b.words}", "end", 11),
    )
    return d


def _end(d: Drawing, x: float, y: float, sign: float, thick: float, end: End) -> None:
    if end.thread is None:
        d.add(Rect(min(x, x + sign * 16), y - thick * 0.3, 16, thick * 0.6, COPPER, INK, 0.8))
        return
    if end.sleeve_mm is not None:
        d.add(Rect(min(x - sign * 26, x), y - thick * 0.6, 26, thick * 1.2, "#1c1c1c", INK, 0.8, 2.0))
    ring, reach = max(thick * 0.7, 8.0), 22.0
    d.add(Rect(min(x, x + sign * reach), y - thick * 0.4, reach, thick * 0.8, METAL, INK, 0.8))
    d.add(
        Circle(x + sign * (reach + ring * 0.5), y, ring, METAL),
        Circle(x + sign * (reach + ring * 0.5), y, ring * 0.45, PAPER),
    )
    if end.angle:
        d.add(Text(x + sign * (reach + ring * 0.5), y - ring - 3, f"{end.angle}°", size=11))


REEL_H, REEL_STEP = 26.0, 40.0


def reels_drawing(shop: Workshop, width: float = 700.0, chosen: str | None = None) -> Drawing:
    """Every length with what is cut from it, to one scale; what cannot be cut says why.

    Parameters
    ----------
    width : float
        Of the drawing.
    chosen : str, optional
        Id of the conductor whose cuts stand out.
    """
    d = Drawing(say("Lengths and what is cut from them"), 0.0, 0.0, width, 0.0)
    left, y = 156.0, 8.0
    longest = max(
        (piece.stock_m for x in shop.packings.values() if not isinstance(x, str) for piece in x.pieces), default=1.0
    )
    scale = (width - left - 92.0) / longest
    for kind, packing in shop.packings.items():
        name = f"{shop.wiring.parts.conductors[kind.conductor].label} {kind.colour}"
        if isinstance(packing, str):
            d.add(Text(8.0, y + 12, name, "start", 13, True), Text(left, y + 17, packing, "start", 12, color=STOP))
            y += REEL_STEP
            continue
        how = (
            say("proven least")
            if packing.proven
            else say("at most {cost:.2f} too much", cost=packing.cost - packing.bound)
        )
        for n, piece in enumerate(packing.pieces):
            d.add(Text(8.0, y + 12, name, "start", 13, True))
            if n == 0:
                d.add(Text(8.0, y + 27, how, "start", 11, color=SOFT))
            d.add(Rect(left, y, piece.stock_m * scale, REEL_H, GROUND, SOFT, 0.8))
            x = left
            for k in piece.cuts:
                cut = shop.kinds[kind][k]
                long, own = cut.length_m * scale, cut.run == chosen
                d.add(
                    Rect(
                        x,
                        y,
                        long,
                        REEL_H,
                        SKIN[kind.colour],
                        CHOSEN if own else PAPER,
                        3.0 if own else 1.2,
                        run=cut.run,
                    )
                )
                if long > 28.0:
                    d.add(Text(x + long / 2, y + 17, cut.run, size=11, color="#ffffff"))
                x += long
            whole = f"{piece.stock_m:g} m" + (say(", own") if piece.owned else "")
            d.add(Text(left + piece.stock_m * scale + 6, y + 17, whole, "start", 12))
            if piece.left_m * scale > 58.0:
                d.add(
                    Text(
                        x + piece.left_m * scale / 2,
                        y + 17,
                        say("{left_m:.2f} m left", left_m=piece.left_m),
                        size=11,
                        color=SOFT,
                    )
                )
            y += REEL_STEP
    d.height = max(y, REEL_STEP)
    return d


def board_drawing(
    plan: Plan,
    parts: Catalogue,
    board: Board,
    things: Sequence[Placed] | None = None,
    chosen: str | None = None,
    troubled: Collection[str] = (),
    letters: float = 11.0,
    headed: bool = True,
) -> Drawing:
    """A board to scale, its parts and the cables between them.

    Parameters
    ----------
    things : sequence of Placed, optional
        Its parts where they are drawn; where they stand if none are given.
    chosen : str, optional
        Id of the part that stands out.
    troubled : collection of str
        Ids of parts and conductors with which something is wrong.
    letters : float
        Size of the words, mm.
    headed : bool
        Whether its name and size stand above.
    """
    top = 28.0 if headed else 12.0
    d = Drawing(
        say("Board {board}", board=board.title), -12.0, -top, board.width_mm + 24.0, board.height_mm + top + 12.0
    )
    if headed:
        size = " × ".join(f"{mm:g}" for mm in (board.width_mm, board.height_mm, board.depth_mm) if mm is not None)
        d.add(Text(0.0, -10.0, f"{board.title}, {size} mm", "start", 14, True))
    d.add(Rect(0.0, 0.0, board.width_mm, board.height_mm, GROUND, STEEL, 1.6))
    bolts = list[Path]()
    stands = {p.thing.id: p for p in (placed(plan, board, parts) if things is None else things)}
    for r in plan.runs:
        (a, ta), (b, tb) = split_ref(r.a), split_ref(r.b)
        if a in stands and b in stands:
            start, towards, back, end = way_between(stands[a], ta, stands[b], tb)
            if r.length_m == 0.0:
                bolts.append(Path((("M", start), ("L", end)), stroke=COPPER, width=BOLT_MM, title=r.id, run=r.id))
                continue
            steps = (("M", start), ("C", (*towards, *back, *end)))
            tone = STOP if r.id in troubled else COPPER
            wide = max(0.8 * parts.conductors[r.conductor].outer_mm, 1.5)
            d.add(Path(steps, stroke=tone, width=wide, title=r.id, run=r.id))
    for p in stands.values():
        bar, wrong, own = isinstance(p.thing, Bar), p.thing.id in troubled, p.thing.id == chosen
        edge = CHOSEN if own else STOP if wrong else INK
        d.add(Rect(p.x, p.y, p.w, p.h, STEEL if bar else PAPER, edge, 3.0 if own or wrong else 1.4, 3.0, p.thing.title))
        words = p.thing.title if max(p.w, p.h) > 0.66 * letters * len(p.thing.title) else p.thing.id
        upright = p.h > p.w and p.w < 3.6 * letters
        x, y = p.x + p.w / 2, p.y + p.h / 2
        at = (x + 0.36 * letters, y) if upright else (x, y + 0.36 * letters)
        d.add(Text(*at, words, size=letters, strong=True, color=PAPER if bar else INK, turned=upright))
    for bolt in bolts:
        d.add(bolt)
    return d


def curves_drawing(shown: Curves) -> Drawing:
    """Opening bands of devices in series over current and time, both logarithmic, with what stands on the chart besides.

    Parameters
    ----------
    shown : Curves
        What the chart shows.
    """
    low, high = floor(log10(shown.span_a[0])), ceil(log10(shown.span_a[1]))
    d = Drawing(" · ".join(x.item.title for x in shown.devices), 0.0, 0.0, 700.0, 380.0)
    left, top, right, bottom, t0, t1 = 56.0, 26.0, 440.0, 344.0, log10(SHORTEST_S), log10(LONGEST_S)

    def at(amps: float, seconds: float) -> tuple[float, float]:
        x = left + (right - left) * (log10(amps) - low) / (high - low)
        y = bottom - (bottom - top) * (log10(seconds) - t0) / (t1 - t0)
        return x, y

    def along(amps: Floats, seconds: Floats) -> list[tuple[float, float]]:
        inside = (amps >= 10.0**low) & (amps <= 10.0**high)
        return [at(a, t) for a, t in zip(amps[inside].tolist(), seconds[inside].tolist(), strict=True)]

    for k in range(low, high + 1):
        x = at(10.0**k, 1.0)[0]
        d.add(line(((x, top), (x, bottom)), stroke="#d5d8db", width=0.7))
        d.add(Text(x, bottom + 15, quantity(10.0**k, "A"), size=10))
    for k in range(round(t0), round(t1) + 1, 2):
        y = at(10.0**low, 10.0**k)[1]
        d.add(
            line(((left, y), (right, y)), stroke="#d5d8db", width=0.7),
            Text(left - 6, y + 4, f"{10**k:g} s" if k > 0 else duration(10.0**k), "end", 10),
        )
    d.add(Rect(left, top, right - left, bottom - top, "none", INK, 1.0))
    d.add(
        Text((left + right) / 2, bottom + 31, say("current"), size=11),
        Text(left - 44, (top + bottom) / 2, say("time"), size=11, turned=True),
    )
    y = top + 12.0

    def key(words: str, more: str, **style: Any) -> None:
        nonlocal y
        d.add(line(((456, y - 4), (492, y - 4)), **style), Text(498, y, words, "start", 10.5, True))
        if more:
            d.add(Text(498, y + 12, more, "start", 9.5))
        y += 30.0 if more else 20.0

    bands = {b.device.item.id: b for b in shown.bands}
    for k, device in enumerate(shown.devices):
        dash = DASHES[k % len(DASHES)]
        band = bands.get(device.item.id)
        for edge in (band.shortest_s, band.longest_s) if band is not None else ():
            assert band is not None
            d.add(line(along(band.amps, edge), width=1.5, dash=dash))
        key(device.item.title, f"{device.family.label} {device.item.rating_a:g} A", width=1.8, dash=dash)
    if shown.limit is not None:
        d.add(line(along(shown.limit.amps, shown.limit.seconds), stroke=COPPER, width=2.6))
        key(shown.limit.words, "", stroke=COPPER, width=2.6)
    for u in shown.uprights:
        x = at(u.amps, 1.0)[0]
        if left <= x <= right:
            d.add(line(((x, top), (x, bottom)), stroke=UPRIGHTS[u.kind][0], width=1.0, dash=UPRIGHTS[u.kind][1]))
            key(u.words, "", stroke=UPRIGHTS[u.kind][0], width=1.0, dash=UPRIGHTS[u.kind][1])
    for n, mark in enumerate(shown.marks, 1):
        x, there = at(mark.current_a, min(max(mark.seconds, SHORTEST_S), LONGEST_S))
        if left <= x <= right:
            d.add(Circle(x, there, 3.0, PAPER, INK, 1.2), Text(x + 6, there + 4, f"{n}", "start", 9.5))
            d.add(Text(466, y, f"{n}", "start", 9.5), Text(498, y, mark.words, "start", 10.5))
            y += 16.0
    return d


def shares_drawing(sharing: Sharing, title: str) -> Drawing:
    """What each unit of a bank gives, beside an even share."""
    shares = [s for s in sharing.shares if isfinite(s.current_a)]
    d = Drawing(title, 0.0, 0.0, 640.0, 40.0 + 26.0 * len(shares))
    most = max((abs(s.current_a) for s in shares), default=1.0) or 1.0
    d.add(Text(8.0, 16.0, title, "start", 12, True))
    for k, s in enumerate(shares):
        y = 30.0 + 26.0 * k
        d.add(
            Text(8.0, y + 13, s.unit, "start", 11),
            Rect(70.0, y, 440.0 * abs(s.current_a) / most, 17.0, "#c9ced3", INK, 0.8),
        )
        d.add(Text(630.0, y + 13, f"{s.current_a:.1f} A", "end", 11))
    if shares:
        x = 70.0 + 440.0 * abs(sum(s.current_a for s in shares) / len(shares)) / most
        d.add(line(((x, 26.0), (x, 32.0 + 26.0 * len(shares))), width=1.0, dash=(4.0, 3.0)))
    return d
