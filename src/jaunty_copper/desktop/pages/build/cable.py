"""One cable to scale, with its ends; and lengths with what is cut from them."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen

from jaunty_copper.desktop.widgets.painting import Painted
from jaunty_copper.desktop.widgets.theme import LIGHT, Palette, font
from jaunty_copper.desktop.widgets.words import Units
from jaunty_copper.documents.drawings import SKIN
from jaunty_copper.fabrication.cuts import Cut, End
from jaunty_copper.fabrication.materials import SLEEVE_M, Kind, Workshop
from jaunty_copper.fabrication.packing import Packing

LUG_M = 0.03
BAR_H, GAP = 26.0, 16.0


class CableView(Painted):
    """The chosen cable as it lies on the bench."""

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.shop: Workshop | None = None
        self.cut: Cut | None = None
        self.units = Units()
        self.setMinimumHeight(128)
        self.setAccessibleName("The chosen cable")

    def show_cut(self, shop: Workshop | None, cut: Cut | None) -> None:
        """Show another cable."""
        self.shop, self.cut = shop, cut
        self.update()

    def sizeHint(self) -> QSize:
        """Room for a cable and its dimensions."""
        return QSize(600, 140)

    def draw(self, p: QPainter) -> None:
        """Draw the cable: length to scale, thickness to scale among cables."""
        c = self.palette_
        p.fillRect(self.rect(), QColor(c.sheet))
        if self.cut is None or self.shop is None:
            p.setPen(QColor(c.soft))
            p.setFont(font(13))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Choose a cable to see it with its ends")
            return
        cut, size = self.cut, self.shop.wiring.parts.conductors[self.cut.conductor]
        left, right, middle = 110.0, self.width() - 110.0, 62.0
        thick = min(max(1.6 * size.outer_mm, 4.0), 34.0)
        scale = (right - left) / cut.length_m
        lug = min(max(LUG_M * scale, 12.0), 46.0)
        sleeve = min(max(SLEEVE_M * scale, 10.0), 60.0)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(SKIN[cut.colour]))
        p.drawRect(QRectF(left + lug * 0.6, middle - thick / 2, right - left - 1.2 * lug, thick))
        for x, sign, end in ((left, 1.0, cut.a), (right, -1.0, cut.b)):
            self._end(p, x, middle, sign, thick, lug, sleeve, end)
        p.setPen(QPen(QColor(c.soft), 1.2))
        y = middle + thick / 2 + 16.0
        p.drawLine(QPointF(left, y), QPointF(right, y))
        for x in (left, right):
            p.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        p.setPen(QColor(c.ink))
        p.setFont(font(14, True))
        p.drawText(
            QRectF(left, y + 2, right - left, 20), Qt.AlignmentFlag.AlignHCenter, f"{1000 * cut.length_m:.0f} mm"
        )
        p.drawText(
            QRectF(14, 4, self.width() - 28, 20),
            Qt.AlignmentFlag.AlignLeft,
            f"{cut.label}  ·  {self.units.size(size, self.shop.wiring.parts)}, {cut.colour}",
        )
        p.setFont(font(12))
        p.setPen(QColor(c.soft))
        for x, align, end in (
            (8.0, Qt.AlignmentFlag.AlignLeft, cut.a),
            (self.width() - 308.0, Qt.AlignmentFlag.AlignRight, cut.b),
        ):
            p.drawText(QRectF(x, self.height() - 20.0, 300.0, 18.0), align, f"{end.ref}: {end.words}")

    def _end(
        self, p: QPainter, x: float, y: float, sign: float, thick: float, lug: float, sleeve: float, end: End
    ) -> None:
        c = self.palette_
        if end.thread is None:
            p.setBrush(QColor(c.full))
            p.setPen(Qt.PenStyle.NoPen)
            p.drawRect(QRectF(min(x, x + sign * 0.6 * lug), y - thick * 0.3, 0.6 * lug, thick * 0.6))
            return
        p.setPen(QPen(QColor(c.ink), 1.2))
        p.setBrush(QColor(c.thin))
        ring = max(thick * 0.75, 10.0)
        p.drawEllipse(QPointF(x - sign * ring * 0.4, y), ring, ring)
        p.drawRect(QRectF(min(x, x + sign * lug), y - thick * 0.42, lug, thick * 0.84))
        p.setBrush(QColor(c.sheet))
        p.drawEllipse(QPointF(x - sign * ring * 0.4, y), ring * 0.42, ring * 0.42)
        if end.sleeve_mm is not None:
            p.setBrush(QColor("#1c1c1c"))
            p.setPen(Qt.PenStyle.NoPen)
            begin = x + sign * 0.55 * lug
            p.drawRoundedRect(QRectF(min(begin, begin + sign * sleeve), y - thick * 0.58, sleeve, thick * 1.16), 3, 3)


class Reels(Painted):
    """Every length to buy or to take, with what is cut from it."""

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.palette_: Palette = LIGHT
        self.shop: Workshop | None = None
        self.selected: str | None = None
        self._boxes: list[tuple[QRectF, str]] = []
        self.setAccessibleName("Lengths and what is cut from them")

    def show_shop(self, shop: Workshop | None) -> None:
        """Show another plan's cables."""
        self.shop = shop
        rows = sum(1 if isinstance(x, str) else len(x.pieces) for x in shop.packings.values()) if shop else 0
        self.setMinimumHeight(round(12 + rows * (BAR_H + GAP)))
        self.update()

    def draw(self, p: QPainter) -> None:
        """Draw each length as a bar, to one scale."""
        c = self.palette_
        p.fillRect(self.rect(), QColor(c.sheet))
        self._boxes = []
        if self.shop is None:
            return
        pieces = [x for x in self.shop.packings.values() if not isinstance(x, str)]
        longest = max((piece.stock_m for x in pieces for piece in x.pieces), default=1.0)
        left, y = 206.0, 10.0
        for kind, packing in self.shop.packings.items():
            if isinstance(packing, str):
                self._name(p, kind, y, "")
                p.setPen(QColor(c.stop))
                p.drawText(QRectF(left, y, 600, BAR_H), Qt.AlignmentFlag.AlignVCenter, packing)
                y += BAR_H + GAP
                continue
            y = self._pieces(p, kind, packing, left, y, longest)

    def _pieces(self, p: QPainter, kind: Kind, packing: Packing, left: float, y: float, longest: float) -> float:
        assert self.shop is not None
        c, cuts = self.palette_, self.shop.kinds[kind]
        scale = (self.width() - left - 92.0) / longest
        for n, piece in enumerate(packing.pieces):
            self._name(
                p,
                kind,
                y,
                ""
                if n
                else ("proven least" if packing.proven else f"at most {packing.cost - packing.bound:.2f} too much"),
            )
            whole = QRectF(left, y, piece.stock_m * scale, BAR_H)
            p.setPen(QPen(QColor(c.line), 1))
            p.setBrush(QColor(c.raised))
            p.drawRect(whole)
            x = left
            for k in piece.cuts:
                box = QRectF(x, y, cuts[k].length_m * scale, BAR_H)
                own = cuts[k].run == self.selected
                p.setBrush(QColor(SKIN[kind.colour]))
                p.setPen(QPen(QColor(c.accent if own else c.sheet), 3 if own else 1.4))
                p.drawRect(box)
                if box.width() > 30.0:
                    p.setPen(QColor("#ffffff"))
                    p.setFont(font(11))
                    p.drawText(box, Qt.AlignmentFlag.AlignCenter, cuts[k].run)
                self._boxes.append((box, cuts[k].run))
                x += box.width()
            p.setPen(QColor(c.ink))
            p.setFont(font(12))
            p.drawText(
                QRectF(whole.right() + 6, y, 86, BAR_H),
                Qt.AlignmentFlag.AlignVCenter,
                f"{piece.stock_m:g} m" if not piece.owned else f"{piece.stock_m:g} m, own",
            )
            p.setPen(QColor(c.soft))
            p.setFont(font(11))
            if piece.left_m * scale > 58.0:
                p.drawText(
                    QRectF(x, y, piece.left_m * scale, BAR_H),
                    Qt.AlignmentFlag.AlignCenter,
                    f"{piece.left_m:.2f} m left",
                )
            y += BAR_H + GAP
        return y

    def _name(self, p: QPainter, kind: Kind, y: float, below: str) -> None:
        assert self.shop is not None
        size = self.shop.wiring.parts.conductors[kind.conductor].label
        p.setPen(QColor(self.palette_.ink))
        p.setFont(font(13, True))
        p.drawText(QRectF(12, y - 3, 190, 18), Qt.AlignmentFlag.AlignLeft, f"{size} {kind.colour}")
        p.setPen(QColor(self.palette_.soft))
        p.setFont(font(11))
        p.drawText(QRectF(12, y + 14, 190, 16), Qt.AlignmentFlag.AlignLeft, below)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick a cable."""
        run = next((run for box, run in self._boxes if box.contains(event.position())), None)
        if run is not None:
            self.picked.emit(run)
