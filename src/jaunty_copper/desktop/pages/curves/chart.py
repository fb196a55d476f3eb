"""The chart of current and time: bands of devices, what a conductor withstands, the currents that can occur."""

from math import isfinite, log10

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPolygonF
from PySide6.QtWidgets import QGraphicsPolygonItem, QVBoxLayout, QWidget

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.rules.words import duration
from jaunty_copper.desktop.pages.curves.path import (
    LONGEST_S,
    SHORTEST_S,
    FaultPath,
    PathCurrents,
    currents_of,
    damage,
    guarded_run,
    marks_of,
)
from jaunty_copper.desktop.widgets import words
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.plots import AMPS, TIMES, LogAxis, colour, label, still_plot
from jaunty_copper.desktop.widgets.theme import LIGHT, Palette, font
from jaunty_copper.language import say
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.selectivity import Pair

POINTS = 240
MOST_MOVED = 0.35
"""Of its width, as far as a text is moved in from an edge before it goes to the other side of its point."""


class Chart(QWidget):
    """Bands of the devices of a path, on logarithmic scales."""

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.case: Case | None = None
        self.path: FaultPath | None = None
        self.selected: str | None = None
        self.plot = still_plot(52, left=LogAxis("left", TIMES), bottom=LogAxis("bottom", AMPS))
        self.plot.scene().sigMouseMoved.connect(self._hover)
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

    def show_path(self, case: Case | None, path: FaultPath | None, selected: str | None) -> None:
        """Show another path, or another device of it foremost."""
        self.case, self.path, self.selected = case, path, selected
        self._draw()

    # Drawing

    def span(self) -> tuple[float, float]:
        """Least and greatest current that the chart shows, A."""
        assert self.case is not None
        assert self.path is not None
        each = [currents_of(self.case, d) for d in self.path.devices]
        low = min(
            (min(d.fast_a, c.normal_a or d.fast_a) for d, c in zip(self.path.devices, each, strict=True)), default=1.0
        )
        high = max((c.most_a for c in each if isfinite(c.most_a)), default=1e3)
        return max(0.5 * low, 0.2), 1.6 * max(high, 20.0 * low)

    def _draw(self) -> None:
        plot, c = self.plot, self.palette_
        plot.clear()
        self.reading.setText(say("Point into the chart to read a current and a time"))
        if self.case is None or self.path is None or not self.path.devices:
            return
        low, high = self.span()
        plot.setXRange(log10(low), log10(high), padding=0.0)
        plot.setYRange(log10(SHORTEST_S), log10(LONGEST_S), padding=0.0)
        count = len(self.path.devices)
        for k, device in enumerate(self.path.devices):
            self._band(device, k / max(count - 1, 1), low, high, k)
        device = next((d for d in self.path.devices if d.item.id == self.selected), self.path.devices[-1])
        self._limit(device, low, high)
        self._lines(device, currents_of(self.case, device))
        for mark in marks_of(self.case, device):
            self._dot(mark.current_a, mark.seconds, mark.words)
        for line in self.cross:
            line.hide()
            plot.addItem(line, ignoreBounds=True)
        plot.getViewBox().setBackgroundColor(c.sheet)

    def _band(self, device: Device, share: float, low: float, high: float, k: int) -> None:
        """Where a device may open and where it has opened, up to the greatest current through it."""
        assert self.case is not None
        c, most = self.palette_, currents_of(self.case, device).most_a
        current = np.geomspace(low, min(most, high) if isfinite(most) else high, POINTS)
        fast, slow = (np.clip(t, SHORTEST_S, LONGEST_S) for t in (device.shortest(current), device.longest(current)))
        shown = np.isfinite(device.shortest(current))
        if not shown.any():
            return
        x, y0, y1 = np.log10(current[shown]), np.log10(fast[shown]), np.log10(slow[shown])
        area = QGraphicsPolygonItem(
            QPolygonF(
                [QPointF(a, b) for a, b in zip(x, y0, strict=True)]
                + [QPointF(a, b) for a, b in zip(x[::-1], y1[::-1], strict=True)]
            )
        )
        own = device.item.id == self.selected
        tone = c.copper(share)
        fill = QColor(tone)
        fill.setAlpha(120 if own else 70)
        area.setBrush(fill)
        area.setPen(pg.mkPen(None))
        self.plot.addItem(area)
        for y in (y0, y1):
            self.plot.plot(x, y, pen=pg.mkPen(QColor(c.ink) if own else tone, width=2.4 if own else 1.6))
        at = int(np.searchsorted(-y0, -(2.5 - 0.6 * k)).clip(0, x.size - 1))
        self._text(f"{device.item.id} {device.item.rating_a:g} A", float(x[at]), float(y0[at]), c.ink, (1.05, 0.5), own)

    def _limit(self, device: Device, low: float, high: float) -> None:
        """What the weakest conductor behind a device withstands."""
        assert self.case is not None
        run = guarded_run(self.case, device)
        if run is None:
            return
        seconds = np.geomspace(SHORTEST_S, LONGEST_S, POINTS)
        limit = damage(self.case, run, seconds)
        pen = pg.mkPen(self.palette_.over, width=2.4, style=Qt.PenStyle.DashDotLine)
        self.plot.plot(np.log10(limit), np.log10(seconds), pen=pen)
        inside = np.flatnonzero((limit > low) & (limit < high))
        if inside.size:
            at = int(inside[len(inside) // 2])
            size = self.case.parts.conductors[run.conductor].label
            self._text(
                say('{run}, {size}: damaged beyond', run=run.id, size=size), float(np.log10(limit[at])), float(np.log10(seconds[at])),
                self.palette_.over, (0.0, 1.15), True,
            )  # fmt: skip

    def _lines(self, device: Device, currents: PathCurrents) -> None:
        """Normal current and the span of faults behind a device."""
        c = self.palette_
        rows = ((currents.normal_a, "carries", Qt.PenStyle.DotLine, 3.72), (currents.least_a, say("least fault"), Qt.PenStyle.DashLine, 3.35),
                (currents.most_a, "greatest fault", Qt.PenStyle.SolidLine, 2.98))  # fmt: skip
        for amps, what, style, height in rows:
            if not isfinite(amps) or amps <= 0.0:
                continue
            self.plot.addItem(pg.InfiniteLine(log10(amps), angle=90, pen=pg.mkPen(c.note, width=1.6, style=style)))
            anchor = (1.04, 0.5) if what == "greatest fault" else (-0.04, 0.5)
            self._text(f"{what} {words.amps(amps)}", log10(amps), height, c.note, anchor, False)
        pair = self._pair(device)
        if pair is not None and isfinite(pair.up_to_a) and pair.up_to_a > 0.0:
            pen = pg.mkPen(c.stop, width=1.8, style=Qt.PenStyle.DashLine)
            self.plot.addItem(pg.InfiniteLine(log10(pair.up_to_a), angle=90, pen=pen))
            self._text(
                say("selective up to {up_to_a}", up_to_a=words.amps(pair.up_to_a)),
                log10(pair.up_to_a),
                -2.7,
                c.stop,
                (1.04, 0.5),
                True,
            )

    def _pair(self, device: Device) -> Pair | None:
        """The pair with the next device before one."""
        assert self.path is not None
        ids = [d.item.id for d in self.path.devices]
        at = ids.index(device.item.id)
        return self.path.pairs.get((ids[at - 1], ids[at])) if at else None

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
