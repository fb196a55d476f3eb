"""The other drawings of a plan: cables, lengths, boards, opening curves, shares of a bank."""

from collections.abc import Callable, Sequence
from math import ceil, floor, isfinite, log10

import numpy as np

from jaunty_copper.battery.sharing import Sharing
from jaunty_copper.documents.drawing import COPPER, INK, PAPER, SOFT, STEEL, Circle, Drawing, Path, Rect, Text, line
from jaunty_copper.fabrication.board import placed, terminal_at
from jaunty_copper.fabrication.cuts import Cut, End
from jaunty_copper.fabrication.materials import Workshop
from jaunty_copper.plan.model import Bar, Board, split_ref
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.protection import Protection

SKIN = {"red": "#c02b22", "black": "#2b2b2b", "yellow": "#d9b400", "green and yellow": "#5d8f2b", "grey": "#8a8f94"}
At = Callable[[float, float], tuple[float, float]]
DASHES: tuple[tuple[float, ...], ...] = (
    (), (7.0, 3.0), (2.0, 2.5), (9.0, 3.0, 2.0, 3.0), (12.0, 4.0), (4.0, 4.0),
)  # fmt: skip
"""Curves are told apart by these, so that they are in black and white."""


def cable_drawing(shop: Workshop, cut: Cut, title: str = "") -> Drawing:
    """One cable as it lies on the bench: length to scale, lugs and sleeves at its ends."""
    size = shop.wiring.parts.conductors[cut.conductor]
    d = Drawing(f"Cable {cut.label}", 0.0, 0.0, 640.0, 96.0)
    left, right, y = 70.0, 570.0, 44.0
    thick = min(max(1.4 * size.outer_mm, 4.0), 28.0)
    d.add(Text(8.0, 14.0, f"{title or cut.label} · {size.label}, {cut.colour}", "start", 12, True))
    d.add(Rect(left, y - thick / 2, right - left, thick, SKIN[cut.colour], INK, 0.8))
    for x, sign, end in ((left, -1.0, cut.a), (right, 1.0, cut.b)):
        _end(d, x, y, sign, thick, end)
    d.add(line(((left, y + 24), (right, y + 24)), stroke=SOFT, width=1.0))
    d.add(Text((left + right) / 2, y + 38, f"{1000 * cut.length_m:.0f} mm", size=12, strong=True))
    d.add(
        Text(8.0, y + 44, f"{cut.a.ref}: {cut.a.words}", "start", 10),
        Text(632.0, y + 44, f"{cut.b.ref}: {cut.b.words}", "end", 10),
    )
    return d


def _end(d: Drawing, x: float, y: float, sign: float, thick: float, end: End) -> None:
    if end.thread is None:
        d.add(Rect(min(x, x + sign * 16), y - thick * 0.3, 16, thick * 0.6, COPPER, INK, 0.8))
        return
    if end.sleeve_mm is not None:
        d.add(Rect(min(x - sign * 26, x), y - thick * 0.6, 26, thick * 1.2, "#1c1c1c", INK, 0.8, 2.0))
    ring, reach = max(thick * 0.7, 8.0), 22.0
    d.add(Rect(min(x, x + sign * reach), y - thick * 0.4, reach, thick * 0.8, "#d7dade", INK, 0.8))
    d.add(
        Circle(x + sign * (reach + ring * 0.5), y, ring, "#d7dade"),
        Circle(x + sign * (reach + ring * 0.5), y, ring * 0.45, PAPER),
    )
    if end.angle:
        d.add(Text(x + sign * (reach + ring * 0.5), y - ring - 3, f"{end.angle}°", size=10))


def reels_drawing(shop: Workshop) -> Drawing:
    """Every length with what is cut from it, to one scale."""
    rows = [
        (kind, packing, piece)
        for kind, packing in shop.packings.items()
        if not isinstance(packing, str)
        for piece in packing.pieces
    ]
    longest = max((piece.stock_m for *_, piece in rows), default=1.0)
    d = Drawing("Lengths and what is cut from them", 0.0, 0.0, 700.0, 16.0 + 34.0 * max(len(rows), 1))
    scale = 470.0 / longest
    for n, (kind, _, piece) in enumerate(rows):
        y, x = 8.0 + 34.0 * n, 150.0
        d.add(
            Text(4.0, y + 16, f"{shop.wiring.parts.conductors[kind.conductor].label} {kind.colour}", "start", 11, True)
        )
        d.add(Rect(x, y, piece.stock_m * scale, 22.0, "#eef0f2", SOFT, 0.8))
        for k in piece.cuts:
            cut = shop.kinds[kind][k]
            width = cut.length_m * scale
            d.add(Rect(x, y, width, 22.0, SKIN[kind.colour], PAPER, 1.0))
            if width > 26.0:
                d.add(Text(x + width / 2, y + 15, cut.run, size=9, color="#ffffff"))
            x += width
        d.add(
            Text(150.0 + piece.stock_m * scale + 4, y + 15, f"{piece.stock_m:g} m, {piece.left_m:.2f} left", "start", 9)
        )
    return d


def board_drawing(shop: Workshop, board: Board) -> Drawing:
    """A board to scale, its parts and the cables between them."""
    d = Drawing(f"Board {board.title}", -12.0, -28.0, board.width_mm + 24.0, board.height_mm + 44.0)
    d.add(Text(0.0, -10.0, f"{board.title}, {board.width_mm:g} × {board.height_mm:g} mm", "start", 14, True))
    d.add(Rect(0.0, 0.0, board.width_mm, board.height_mm, "#f7f6f3", INK, 1.5))
    things = {p.thing.id: p for p in placed(shop.plan, board, shop.wiring.parts)}
    for r in shop.plan.runs:
        (a, ta), (b, tb) = split_ref(r.a), split_ref(r.b)
        if a in things and b in things and r.length_m > 0.0:
            (x0, y0), (ux, uy) = terminal_at(things[a], ta)
            (x1, y1), (vx, vy) = terminal_at(things[b], tb)
            reach = 0.35 * max(abs(x1 - x0), abs(y1 - y0), 30.0)
            steps = (
                ("M", (x0, y0)),
                ("C", (x0 + reach * ux, y0 + reach * uy, x1 + reach * vx, y1 + reach * vy, x1, y1)),
            )
            size = shop.wiring.parts.conductors[r.conductor]
            d.add(Path(steps, stroke=COPPER, width=max(0.6 * size.outer_mm, 1.5), title=r.id, run=r.id))
    for p in things.values():
        bar = isinstance(p.thing, Bar)
        d.add(Rect(p.x, p.y, p.w, p.h, STEEL if bar else PAPER, INK, 1.3, 3.0, p.thing.title))
        long = max(p.w, p.h) > 7.0 * len(p.thing.title)
        upright = p.h > p.w and p.w < 40.0
        x, y = (p.x + p.w / 2 + 4, p.y + p.h / 2) if upright else (p.x + p.w / 2, p.y + p.h / 2 + 4)
        words = p.thing.title if long else p.thing.id
        d.add(Text(x, y, words, size=11, strong=True, color=PAPER if bar else INK, turned=upright))
    return d


def curves_drawing(protection: Protection, devices: Sequence[str], damage: str | None = None) -> Drawing:
    """Opening bands of devices in series over current and time, both logarithmic.

    Parameters
    ----------
    protection : Protection
        Of the plan.
    devices : sequence of str
        Ids, the one nearest to the source first.
    damage : str, optional
        Id of a conductor whose damage limit is drawn besides.
    """
    found = [protection.devices[x] for x in devices]
    most = max((protection.faults.greatest_through(x)[0] for x in devices), default=1000.0)
    low = floor(log10(max(min(d.fast_a for d in found), 1.0)))
    high = max(ceil(log10(max(most, 10.0))), low + 1)
    d = Drawing(" and ".join(x.item.title for x in found), 0.0, 0.0, 640.0, 380.0)
    left, top, right, bottom, t0, t1 = 56.0, 26.0, 440.0, 344.0, -4.0, 4.0

    def at(amps: float, seconds: float) -> tuple[float, float]:
        x = left + (right - left) * (log10(amps) - low) / (high - low)
        y = bottom - (bottom - top) * (log10(seconds) - t0) / (t1 - t0)
        return x, y

    for k in range(low, high + 1):
        x = at(10.0**k, 1.0)[0]
        d.add(line(((x, top), (x, bottom)), stroke="#d5d8db", width=0.7), Text(x, bottom + 15, _amps(10.0**k), size=10))
    for k in range(int(t0), int(t1) + 1, 2):
        y = at(10.0**low, 10.0**k)[1]
        d.add(
            line(((left, y), (right, y)), stroke="#d5d8db", width=0.7),
            Text(left - 6, y + 4, f"{10.0**k:g} s", "end", 10),
        )
    d.add(Rect(left, top, right - left, bottom - top, "none", INK, 1.0))
    d.add(
        Text((left + right) / 2, bottom + 31, "current", size=11),
        Text(left - 44, (top + bottom) / 2, "time", size=11, turned=True),
    )
    x = at(max(most, 10.0**low), 1.0)[0]
    d.add(
        line(((x, top), (x, bottom)), stroke=INK, width=0.8, dash=(1.5, 2.5)),
        Text(min(x, right), top - 6, f"greatest fault {_amps(most)}", "end", 10),
    )
    for k, device in enumerate(found):
        _band(d, device, (low, high), (t0, t1), at, DASHES[k % len(DASHES)])
        y = top + 16 + 34 * k
        d.add(line(((456, y - 4), (492, y - 4)), width=1.8, dash=DASHES[k % len(DASHES)]))
        d.add(
            Text(498, y, device.item.title, "start", 11, True),
            Text(498, y + 13, f"{device.family.label} {device.item.rating_a:g} A", "start", 9.5),
        )
    if damage is not None and damage in protection.withstand.row:
        rows = np.array([protection.withstand.row[damage]])
        seconds = np.logspace(t0, t1, 80)
        amps = protection.withstand.current(seconds[None, :], rows)[0]
        inside = [(a, t) for a, t in zip(amps.tolist(), seconds.tolist(), strict=True) if 10.0**low <= a <= 10.0**high]
        d.add(line([at(a, t) for a, t in inside], stroke=COPPER, width=2.6))
        y = top + 16 + 34 * len(found)
        d.add(
            line(((456, y - 4), (492, y - 4)), stroke=COPPER, width=2.6),
            Text(498, y, f"damage to {damage}", "start", 11, True),
        )
    return d


def _band(
    d: Drawing, device: Device, span: tuple[int, int], times: tuple[float, float], at: At, dash: tuple[float, ...]
) -> None:
    amps = np.logspace(*span, 240)
    for edge in (device.shortest(amps), device.longest(amps)):
        inside = [
            (a, s)
            for a, s in zip(amps.tolist(), edge.tolist(), strict=True)
            if isfinite(s) and 10.0 ** times[0] <= s <= 10.0 ** times[1]
        ]
        if len(inside) > 1:
            d.add(line([at(a, s) for a, s in inside], width=1.5, dash=dash))


def _amps(amps: float) -> str:
    return f"{amps / 1000.0:.3g} kA" if amps >= 1000.0 else f"{amps:.3g} A"


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
