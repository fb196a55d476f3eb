"""The strip below the map: what the lens asks of the chosen row, under the map's own columns."""

from __future__ import annotations

from math import isfinite
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QWidget

from jaunty_copper.desktop.pages.map.view import MapView
from jaunty_copper.desktop.widgets.drawn import strip_head
from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.documents import words
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.plan.model import Equipment, Scenario

if TYPE_CHECKING:
    from jaunty_copper.network.state import State

LEFT, TOP, BOTTOM = 8.0, 34.0, 20.0
BAND = 90
"""How much of what lies below a band covers, of 255."""
WHAT = {
    "flow": say("where its voltage goes"),
    "short": say("what a short circuit drives along it"),
    "guard": say("which device opens when"),
    "spread": say("between what its voltage drop lies"),
}


class Strip(Painted):
    """How the voltage is lost along one row, from source plus to source minus; or what a fault does there."""

    def __init__(self, view: MapView, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.view = view
        self.setMinimumHeight(120)
        self.setAccessibleName(say("Along the chosen row"))
        for signal in (view.moved, view.row_changed, view.picked):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        """As tall as four steps need."""
        return QSize(600, 144)

    def steps(self) -> list[tuple[float, str, float]]:
        """Map column, terminal and volts lost so far, from source plus to source minus.

        Lost on the plus side counts from the source's plus; the equipment's own voltage is
        left out; lost on the minus side goes on from there.
        """
        view = self.view
        picture, look = view.picture, view.look
        row = next((r for r in picture.diagram.rows if r.id == look.row), None) if picture else None
        e = picture.plan.by_id.get(look.row or "") if picture else None
        if picture is None or row is None or not isinstance(e, Equipment) or not row.path:
            return []
        state = picture.worst_for(e, look.scenario)
        if state is None or any(ref not in state.wiring.node for _, ref in row.path):
            return []
        plus, minus = e.port
        refs = [ref for _, ref in row.path]
        if plus not in refs or minus not in refs or refs.index(plus) == len(refs) - 1:
            return []
        cut = refs.index(plus)
        start = state.volts(refs[0])
        lost_plus = start - state.volts(plus)
        floor = state.volts(minus)
        found = [(x, ref, start - state.volts(ref)) for x, ref in row.path[: cut + 1]]
        found += [(x, ref, lost_plus + floor - state.volts(ref)) for x, ref in row.path[cut + 1 :]]
        return [step for step in found if isfinite(step[2])]

    def draw(self, p: QPainter) -> None:
        """Paint the staircase."""
        view = self.view
        picture, look, c = view.picture, view.look, view.look.palette
        p.fillRect(self.rect(), QColor(c.sheet))
        p.setPen(QPen(QColor(c.line), 1))
        p.drawLine(0, 0, self.width(), 0)
        if picture is None or picture.study is None:
            return
        if look.lens.id == "read":
            p.setPen(QColor(c.soft))
            p.setFont(font(13))
            p.drawText(
                self.rect().adjusted(16, 8, -16, -8),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                readings_words(picture),
            )
            return
        e = picture.plan.by_id.get(look.row or "")
        row = next((r for r in picture.diagram.rows if r.id == look.row), None)
        if look.lens.id in ("short", "guard") and isinstance(e, Equipment) and row is not None:
            # Loaded with the rules, once there is a study.
            from jaunty_copper.desktop.pages.map import shorts

            paint = shorts.paint_faults if look.lens.id == "short" else shorts.paint_guard
            paint(p, picture, e, row, c, QRectF(self.rect()), lambda column: view.to_view(column, 0.0).x())
            return
        steps = self.steps()
        ink, soft = QColor(c.ink), QColor(c.soft)
        if not isinstance(e, Equipment) or not steps:
            p.setPen(soft)
            p.setFont(font(13))
            p.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                say("Choose a row on the map to see {get}", get=WHAT.get(look.lens.id, WHAT["flow"])),
            )
            return
        reading = picture.equipment(e, look.scenario)
        state = picture.worst_for(e, look.scenario)
        assert state is not None
        charging = reading.current_a < 0.0
        title = say("Voltage rise to {e}", e=e.title) if charging else say("Voltage drop to {e}", e=e.title)
        strip_head(p, c, QRectF(self.rect()), title, circumstances(picture, look, e, state.scenario))
        lost = [-s[2] if charging else s[2] for s in steps]
        cut = next(k for k, s in enumerate(steps) if s[1] == e.port[0])
        spread = self._spread(state, steps, cut, charging)
        total, allowed = lost[-1], reading.limit_share * e.nominal_v
        top = max(*lost, *(high for _, high in spread), 0.0)
        shown = max(top * 1.12, min(allowed * 1.25, top * 2.0), 0.02)
        low = min(*lost, *(least for least, _ in spread), 0.0)
        height = self.height() - TOP - BOTTOM

        def y(v: float) -> float:
            return TOP + height * (v - low) / (shown - low)

        def x(column: float) -> float:
            return view.to_view(column, 0.0).x()

        p.setFont(font(11))
        p.setPen(QPen(QColor(c.line), 1))
        p.drawLine(QPointF(0, y(0)), QPointF(self.width(), y(0)))
        if allowed <= shown:
            p.setPen(QPen(QColor(c.over), 1.4, Qt.PenStyle.DashLine))
            p.drawLine(QPointF(0, y(allowed)), QPointF(self.width(), y(allowed)))
            p.setPen(QColor(c.over))
            p.drawText(
                QRectF(LEFT + 6, y(allowed) - 16, 300, 15), Qt.AlignmentFlag.AlignLeft,
                say('{allowed} allowed, {limit_share:.0f} %', allowed=words.drop(allowed), limit_share=100 * reading.limit_share),
            )  # fmt: skip
        over = max(total, spread[-1][1] if spread else total) > allowed
        pen = QPen(QColor(c.over if over else c.accent), 2.6)
        pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
        points = [QPointF(x(s[0]), y(v)) for s, v in zip(steps, lost, strict=True)]
        p.setPen(Qt.PenStyle.NoPen)
        band = QColor(c.over if over else c.accent)
        band.setAlpha(BAND)
        p.setBrush(band)
        for part in (range(cut + 1), range(cut + 1, len(spread))) if spread else ():
            lows, highs = ([QPointF(points[k].x(), y(spread[k][side])) for k in part] for side in (0, 1))
            p.drawPolygon([*lows, *reversed(highs)])
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(pen)
        p.drawPolyline(points[: cut + 1])
        p.drawPolyline(points[cut + 1 :])
        p.setPen(QPen(soft, 1.4, Qt.PenStyle.DotLine))
        p.drawLine(points[cut], points[cut + 1])
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(c.ink))
        for q in points:
            p.drawEllipse(q, 2.2, 2.2)
        self._figures(p, points, lost, cut, ink)
        p.setPen(QColor(c.over) if over else ink)
        p.setFont(font(13, True))
        text = (
            say("{spread} in all, nine times in ten", spread=words.between(spread[-1], words.drop)) if spread
            else say("{total} in all, {total_2:.1f} %", total=words.drop(total), total_2=100 * total / e.nominal_v)
        )  # fmt: skip
        right_edge = min(points[-1].x() + 10.0, self.width() - 8.0)
        room = 250.0 if spread else 170.0
        below = max(q.y() for q in points if q.x() > right_edge - room - 20.0)
        box = QRectF(right_edge - room, min(below + 4.0, self.height() - 19.0), room, 17.0)
        if allowed <= shown and box.top() - 2.0 < y(allowed) < box.bottom() + 2.0:
            box.moveTop(min(y(allowed) + 4.0, self.height() - 18.0))
        p.drawText(box, Qt.AlignmentFlag.AlignRight, text)

    def _spread(
        self, state: State, steps: list[tuple[float, str, float]], cut: int, charging: bool
    ) -> list[tuple[float, float]]:
        """Between what the voltage lost up to each step lies, where the lens shows that and it is known."""
        view = self.view
        if view.look.lens.id != "spread" or view.picture is None or view.picture.bands is None:
            return []
        node = state.wiring.node
        found = view.picture.bands.lost(state.scenario.id, [node[ref] for _, ref, _ in steps], cut)
        if not all(isfinite(x) for band in found for x in band):
            return []
        return [(-band.high, -band.low) if charging else (band.low, band.high) for band in found]

    def _figures(self, p: QPainter, points: list[QPointF], lost: list[float], cut: int, ink: QColor) -> None:
        """Write the larger steps beside them, as many as there is room for."""
        p.setFont(font(12))
        p.setPen(ink)
        steps = [
            (abs(lost[k + 1] - lost[k]), k)
            for k in range(len(points) - 1)
            if k != cut and abs(lost[k + 1] - lost[k]) > 0.0
        ]
        total = sum(s for s, _ in steps) or 1.0
        taken: list[QRectF] = []
        # Of steps alike the first: which has the last digit more is no matter.
        for step, k in sorted(steps, key=lambda s: (-round(s[0], 6), s[1]))[:6]:
            if step < 0.05 * total:
                break
            mid = (points[k] + points[k + 1]) / 2
            box = QRectF(mid.x() + 6, mid.y() - 17, 60, 15)
            if not any(box.intersects(other) for other in taken):
                taken.append(box)
                p.drawText(box, Qt.AlignmentFlag.AlignLeft, words.drop(step))


def circumstances(picture: Picture, look: Look, e: Equipment, scenario: Scenario) -> str:
    """Under which a row is looked at: what stands at its right."""
    if look.lens.id == "heat":
        return warmth_words(scenario)
    reading = picture.equipment(e, look.scenario)
    volts = words.volts(reading.voltage_v)
    if look.lens.id == "spread":
        if what := spread_words(picture, scenario.id):
            return what
        volts = look.lens.equipment(picture, e, look.scenario) if reading.mode != "off" else volts
    return say("{scenario}  ·  {volts} at its terminals", scenario=scenario.title, volts=volts)


def spread_words(picture: Picture, scenario: str) -> str:
    """What keeps the lens spread from counting all variants; empty where nothing does."""
    if picture.bands is None:
        return say("working out the spread…")
    left_out = picture.bands.left_out[scenario]
    return say(
        "{left_out} of {samples} variants are not counted: a source changes its mode, or too little is delivered",
        left_out=words.percent(left_out), samples=picture.bands.samples,
    ) if left_out > 0.0 else ""  # fmt: skip


def warmth_words(scenario: Scenario) -> str:
    """Which temperatures the lens heat writes."""
    if scenario.minutes is None:
        return say("{scenario}  ·  copper in the end", scenario=scenario.title)
    return say(
        "{scenario}  ·  copper after {minutes:g} min → in the end", scenario=scenario.title, minutes=scenario.minutes
    )


def readings_words(picture: Picture) -> str:
    """What the lens read shows, and in which scenario it was read."""
    if not picture.read:
        return say("Nothing was read yet: the Log page says what to expect at every point, and takes readings.")
    off = sum(r.times > 1.0 for r in picture.read.values())
    return say(
        "Read in “{read_in}”, for what was expected there. A disc is as expected, a triangle is off, the larger "
        "the further: {off} of {read}.",
        read_in=picture.read_in,
        off=off,
        read=len(picture.read),
    )
