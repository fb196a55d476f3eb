"""The chart of current and time: bands of devices, what a conductor withstands, the currents that can occur."""

from collections.abc import Iterator
from math import isfinite, log10

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPolygonF
from PySide6.QtWidgets import QGraphicsPolygonItem, QVBoxLayout, QWidget

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.rules.words import duration
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.plots import AMPS, TIMES, LogAxis, colour, label, still_plot
from jaunty_copper.desktop.widgets.spoken import Spoken, SpokenThing
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.documents import words
from jaunty_copper.documents.curves import (
    LONGEST_S,
    SHORTEST_S,
    Curves,
    FaultPath,
    Mark,
    OpeningBand,
    Upright,
    WithstandCurve,
    curves_of,
)
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.language import say

UPRIGHTS = {
    "normal": (Qt.PenStyle.DotLine, 3.72, -0.04),
    "least": (Qt.PenStyle.DashLine, 3.24, -0.04),
    "greatest": (Qt.PenStyle.SolidLine, 2.76, 1.04),
    "selective": (Qt.PenStyle.DashLine, -2.7, 1.04),
}
"""Currents that stand on the chart: line, how high their words stand (log10 of s), and on which side."""
MOST_MOVED = 0.35
"""Of its width, as far as a text is moved in from an edge before it goes to the other side of its point."""


SPOKEN_TIMES_RATING = (1.5, 3.0, 10.0)
"""Multiples of a device's rating at which its times are read out."""


def _at(band: OpeningBand, seconds: np.ndarray, multiple: float) -> float:
    """A time of a band's edge at a multiple of its device's rating, s."""
    amps = multiple * band.device.item.rating_a
    return float(np.exp(np.interp(np.log(amps), np.log(band.amps), np.log(seconds))))


class Chart(QWidget):
    """Bands of the devices of a path, on logarithmic scales."""

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.case: Case | None = None
        self.path: FaultPath | None = None
        self.selected: str | None = None
        self.seen: tuple[Mark, ...] = ()
        self.plot = still_plot(
            say("Opening times of the devices over current"),
            52,
            left=LogAxis("left", TIMES),
            bottom=LogAxis("bottom", AMPS),
        )
        self.plot.scene().sigMouseMoved.connect(self._hover)
        self.shown: Curves | None = None
        self.spoken = Spoken(self.plot.viewport(), self.in_sight)
        self.cross = [pg.InfiniteLine(angle=90), pg.InfiniteLine(angle=0)]
        self.reading = Label()
        self.reading.setObjectName("caption")
        self.reading.setContentsMargins(16, 0, 8, 2)
        self.reading.setMinimumHeight(20)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.plot, 1)
        column.addWidget(self.reading)
        self.set_palette(self.palette_)
        # What is written keeps inside: another width, other places for words.
        self.plot.getViewBox().sigResized.connect(lambda _: self._draw())

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.palette_ = palette
        colour(self.plot, palette)
        for name in ("left", "bottom"):
            self.plot.getAxis(name).setGrid(28)
        for line in self.cross:
            line.setPen(pg.mkPen(palette.soft, width=1))
        self._draw()

    def show_path(
        self, case: Case | None, path: FaultPath | None, selected: str | None, seen: tuple[Mark, ...] = ()
    ) -> None:
        """Show another path, or another device of it foremost; and currents and times that were seen."""
        self.case, self.path, self.selected, self.seen = case, path, selected, seen
        self._draw()

    def in_sight(self) -> Iterator[SpokenThing]:
        """Each band with the times that it opens in at some currents; what stands upright; what is marked."""
        if self.shown is None:
            return
        room = self.plot.viewport().rect()
        for band in self.shown.bands:
            item = band.device.item
            ways = [
                say("at {amps} after {first} to {last}", amps=words.amps(m * item.rating_a), first=duration(_at(band, band.shortest_s, m)), last=duration(_at(band, band.longest_s, m)))
                for m in SPOKEN_TIMES_RATING
            ]  # fmt: skip
            text = say(
                "{title}, {rating:g} A, opens {ways}", title=item.title, rating=item.rating_a, ways="; ".join(ways)
            )
            yield SpokenThing(f"band {item.id}", text, room)
        for k, upright in enumerate(self.shown.uprights):
            yield SpokenThing(f"upright {k}", f"{upright.words}: {words.amps(upright.amps)}", room)
        for k, mark in enumerate((*self.shown.marks, *self.seen)):
            text = say(
                "{what}: {amps}, {after}",
                what=mark.words,
                amps=words.amps(mark.current_a),
                after=duration(mark.seconds),
            )
            yield SpokenThing(f"mark {k}", text, room)

    # Drawing

    def _draw(self) -> None:
        plot, c = self.plot, self.palette_
        plot.clear()
        self.shown = None
        self.reading.setText(say("Point into the chart to read a current and a time"))
        if self.case is None or self.path is None or not self.path.devices:
            return
        self.shown = shown = curves_of(self.case, self.path.devices, self.selected)
        self.spoken.later()
        low, high = shown.span_a
        plot.setXRange(log10(low), log10(high), padding=0.0)
        plot.setYRange(log10(SHORTEST_S), log10(LONGEST_S), padding=0.0)
        places = {d.item.id: k for k, d in enumerate(shown.devices)}
        for band in shown.bands:
            self._band(band, places[band.device.item.id], len(places), band.device is shown.foremost)
        if shown.limit is not None:
            self._limit(shown.limit, low, high)
        for upright in shown.uprights:
            self._upright(upright)
        for mark in (*shown.marks, *self.seen):
            self._dot(mark.current_a, mark.seconds, mark.words)
        for line in self.cross:
            line.hide()
            plot.addItem(line, ignoreBounds=True)
        plot.getViewBox().setBackgroundColor(c.sheet)

    def _band(self, band: OpeningBand, k: int, count: int, own: bool) -> None:
        c, item = self.palette_, band.device.item
        x, y0, y1 = np.log10(band.amps), np.log10(band.shortest_s), np.log10(band.longest_s)
        area = QGraphicsPolygonItem(
            QPolygonF(
                [QPointF(a, b) for a, b in zip(x, y0, strict=True)]
                + [QPointF(a, b) for a, b in zip(x[::-1], y1[::-1], strict=True)]
            )
        )
        tone = QColor(c.copper(k / max(count - 1, 1)))
        fill = QColor(tone)
        fill.setAlpha(120 if own else 70)
        area.setBrush(fill)
        area.setPen(pg.mkPen(None))
        self.plot.addItem(area)
        for y in (y0, y1):
            self.plot.plot(x, y, pen=pg.mkPen(QColor(c.ink) if own else tone, width=2.4 if own else 1.6))
        at = int(np.searchsorted(-y0, -(2.5 - 0.6 * k)).clip(0, x.size - 1))
        self._text(f"{item.id} {item.rating_a:g} A", float(x[at]), float(y0[at]), c.ink, (1.05, 0.5), own)

    def _limit(self, limit: WithstandCurve, low: float, high: float) -> None:
        pen = pg.mkPen(self.palette_.over, width=2.4, style=Qt.PenStyle.DashDotLine)
        x, y = np.log10(limit.amps), np.log10(limit.seconds)
        self.plot.plot(x, y, pen=pen)
        inside = np.flatnonzero((limit.amps > low) & (limit.amps < high))
        if inside.size:
            at = int(inside[len(inside) // 2])
            self._text(limit.words, float(x[at]), float(y[at]), self.palette_.over, (0.0, 1.15), True)

    def _upright(self, upright: Upright) -> None:
        style, height, side = UPRIGHTS[upright.kind]
        strong = upright.kind == "selective"
        tone, at = self.palette_.stop if strong else self.palette_.note, log10(upright.amps)
        self.plot.addItem(pg.InfiniteLine(at, angle=90, pen=pg.mkPen(tone, width=1.6, style=style)))
        self._text(upright.words, at, height, tone, (side, 0.5), strong)

    def _dot(self, amps: float, seconds: float, what: str) -> None:
        c = self.palette_
        self.plot.plot(
            [log10(amps)], [log10(seconds)], pen=None, symbol="d", symbolSize=11, symbolBrush=c.sheet,
            symbolPen=pg.mkPen(c.ink, width=2),
        )  # fmt: skip
        self._text(what, log10(amps), log10(seconds), c.ink, (-0.08, 0.5), False)

    def _text(self, text: str, x: float, y: float, tone: str, anchor: tuple[float, float], strong: bool) -> None:
        """Write beside a point: where it would be cut at an edge a little farther in, or on the point's other side."""
        box = self.plot.getViewBox()
        left, right = box.viewRange()[0]
        room, at = box.width(), (x - left) / (right - left) * box.width()
        wide = QFontMetricsF(font(12, strong)).horizontalAdvance(text) + 8.0
        begin = at - anchor[0] * wide
        if max(-begin, begin + wide - room) > MOST_MOVED * wide:
            begin = at - (1.0 - anchor[0]) * wide
        begin = min(max(begin, 0.0), max(room - wide, 0.0))
        label(self.plot, self.palette_, text, x, y, tone, ((at - begin) / wide, anchor[1]), strong)

    # Reading

    def _hover(self, where: QPointF) -> None:
        if self.path is None or not self.path.devices:
            return
        box = self.plot.getViewBox()
        inside = box.sceneBoundingRect().contains(where)
        for line in self.cross:
            line.setVisible(inside)
        if inside:
            point = box.mapSceneToView(where)
            self.cross[0].setValue(point.x())
            self.cross[1].setValue(point.y())
            self.reading.setText(self.reading_at(10.0 ** point.x(), 10.0 ** point.y()))

    def reading_at(self, amps: float, seconds: float) -> str:
        """What is so at a current and a time, in words."""
        assert self.path is not None
        found = [f"{words.amps(amps)}, {duration(seconds)}"]
        for d in self.path.devices:
            fast, slow = (float(t) for t in (d.shortest(np.array(amps)), d.longest(np.array(amps))))
            if not isfinite(fast):
                found.append(say("{item} holds", item=d.item.id))
            elif not isfinite(slow):
                found.append(say("{item} may open after {fast}", item=d.item.id, fast=duration(fast)))
            else:
                found.append(
                    say("{item} opens in {fast} to {slow}", item=d.item.id, fast=duration(fast), slow=duration(slow))
                )
        return "  ·  ".join(found)
