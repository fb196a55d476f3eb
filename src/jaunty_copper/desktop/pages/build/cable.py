"""One cable with its ends; and lengths with what is cut from them."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter

from jaunty_copper.desktop.widgets.drawn import paint_drawing, run_at
from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.documents.drawing import Drawing
from jaunty_copper.documents.drawings import REEL_STEP, cable_drawing, reels_drawing
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.documents.words import Units
from jaunty_copper.fabrication.cuts import Cut
from jaunty_copper.fabrication.materials import Workshop
from jaunty_copper.language import say


class CableView(Painted):
    """The chosen cable as it lies on the bench."""

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.shop: Workshop | None = None
        self.cut: Cut | None = None
        self.units = Units()
        self.setMinimumHeight(128)
        self.setAccessibleName(say("The chosen cable"))

    def show_cut(self, shop: Workshop | None, cut: Cut | None) -> None:
        """Show another cable."""
        self.shop, self.cut = shop, cut
        self.update()

    def sizeHint(self) -> QSize:
        """Room for a cable and its dimensions."""
        return QSize(600, 140)

    def draw(self, p: QPainter) -> None:
        """Draw the cable."""
        c = self.palette_
        p.fillRect(self.rect(), QColor(c.sheet))
        if self.cut is None or self.shop is None:
            p.setPen(QColor(c.soft))
            p.setFont(font(13))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, say("Choose a cable to see it with its ends"))
            return
        p.translate(0.0, max((self.height() - 110.0) / 2.0, 0.0))
        parts = self.shop.wiring.parts
        gauge = self.units.size(parts.conductors[self.cut.conductor], parts)
        paint_drawing(p, cable_drawing(self.shop, self.cut, width=float(self.width()), gauge=gauge), c)


class Reels(Painted):
    """Every length to buy or to take, with what is cut from it."""

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.shop: Workshop | None = None
        self.selected: str | None = None
        self.setAccessibleName(say("Lengths and what is cut from them"))

    def show_shop(self, shop: Workshop | None) -> None:
        """Show another plan's cables."""
        self.shop = shop
        rows = sum(1 if isinstance(x, str) else len(x.pieces) for x in shop.packings.values()) if shop else 0
        self.setMinimumHeight(round(12 + rows * REEL_STEP))
        self.update()

    def drawing(self) -> Drawing | None:
        """What is shown; None while nothing is known."""
        return reels_drawing(self.shop, float(self.width()), self.selected) if self.shop is not None else None

    def draw(self, p: QPainter) -> None:
        """Draw each length as a bar."""
        p.fillRect(self.rect(), QColor(self.palette_.sheet))
        drawing = self.drawing()
        if drawing is not None:
            paint_drawing(p, drawing, self.palette_)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick a cable."""
        drawing = self.drawing()
        run = run_at(drawing, event.position().x(), event.position().y()) if drawing is not None else None
        if run is not None:
            self.picked.emit(run)
