"""What all plots share: smooth lines, axes of decades in words, still pictures that the mouse reads."""

from html import escape
from math import log10

import numpy as np
import pyqtgraph as pg
from PySide6.QtGui import QColor

from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.documents import words
from jaunty_copper.documents.palette import Palette
from jaunty_copper.language import say

pg.setConfigOptions(antialias=True)
TIMES = {
    -5.0: "10 µs", -4.0: say("0.1 ms"), -3.0: say("1 ms"), -2.0: say("10 ms"), -1.0: "0.1 s", 0.0: "1 s", 1.0: "10 s", 2.0: "100 s",
    3.0: say("17 min"), 4.0: "2.8 h",
}  # fmt: skip
AMPS = {round(d + log10(m), 3): words.amps(m * 10.0**d) for d in range(-1, 6) for m in (1.0, 2.0, 5.0)}


class LogAxis(pg.AxisItem):  # type: ignore[misc]
    """Ticks at the decades of a logarithm, in words."""

    def __init__(self, orientation: str, spell: dict[float, str]) -> None:
        super().__init__(orientation)
        self._spell = spell

    def tickValues(self, low: float, high: float, px: float) -> list[tuple[float, list[float]]]:
        """Decades large, every second one where there is no room for all; 2 and 5 between them small."""
        roomy = px / max(high - low, 1e-9) > (24.0 if self.orientation in ("left", "right") else 52.0)
        decades = [float(k) for k in range(int(np.floor(low)), int(np.ceil(high)) + 1) if roomy or k % 2 == 0]
        between = [d + log10(m) for d in decades for m in (2.0, 5.0)] if roomy else []
        return [(1.0, decades), (0.5, between)]

    def tickStrings(self, values: list[float], _: float, __: float) -> list[str]:
        """As spelt, else nothing."""
        return [self._spell.get(round(v, 3), "") for v in values]


def still_plot(name: str, left_px: int, **axes: LogAxis) -> pg.PlotWidget:
    """A plot that neither drags nor zooms.

    Parameters
    ----------
    name : str
        For those who hear it.
    left_px : int
        Width of its left axis.
    **axes : LogAxis
        By side, where they are no plain ones.
    """
    made = pg.PlotWidget(axisItems=axes)
    made.setAccessibleName(name)
    made.setMenuEnabled(False)
    made.setMouseEnabled(False, False)
    made.hideButtons()
    made.getAxis("left").setWidth(left_px)
    return made


def colour(plot: pg.PlotWidget, palette: Palette, title: str = "") -> None:
    """Give a plot the colours of a look."""
    plot.setBackground(palette.sheet)
    if title:
        plot.getPlotItem().setTitle(escape(title), color=palette.ink, size="9pt")
    for name in ("left", "bottom"):
        axis = plot.getAxis(name)
        axis.setPen(palette.line)
        axis.setTextPen(palette.soft)
        axis.setStyle(tickFont=font(11))


def label(
    plot: pg.PlotWidget, palette: Palette, text: str, x: float, y: float, tone: str, anchor: tuple[float, float],
    strong: bool = False,
) -> None:  # fmt: skip
    """Write on a plot, on a ground that keeps it legible over lines."""
    ground = QColor(palette.sheet)
    ground.setAlpha(210)
    item = pg.TextItem(text, color=tone, anchor=anchor, fill=pg.mkBrush(ground))
    item.setFont(font(12, strong))
    item.setPos(x, y)
    item.setZValue(20)
    plot.addItem(item, ignoreBounds=True)
