"""Paint the map. Everything it needs to know stands in `Look`; it keeps nothing."""

from math import isfinite

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF

from jaunty_copper.desktop.pages.map.labels import elided, place, width_of
from jaunty_copper.desktop.pages.map.look import Look
from jaunty_copper.desktop.widgets import words
from jaunty_copper.desktop.widgets.badge import badge
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.desktop.work.picture import Picture
from jaunty_copper.diagram.shapes import Box, Ribbon, Shape
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.model import (
    Battery,
    Breaker,
    Contactor,
    Converter,
    Disconnect,
    Equipment,
    Fuse,
    PlugConnector,
    Shunt,
    Splice,
)

ARROW_EVERY = 30.0
LEAST_SCALE_FOR_TEXT = 0.5


def ribbon_path(r: Ribbon) -> QPainterPath:
    """The curve of a ribbon."""
    path = QPainterPath(QPointF(r.x0, r.y0))
    if r.y0 == r.y1 and not r.bulge:
        path.lineTo(r.x1, r.y1)
    else:
        (ax, ay), (bx, by) = r.handles
        path.cubicTo(ax, ay, bx, by, r.x1, r.y1)
    return path


class MapPainter:
    """One pass over the map."""

    def __init__(self, painter: QPainter, picture: Picture, look: Look, clip: QRectF) -> None:
        self.p, self.picture, self.look, self.clip = painter, picture, look, clip
        self.c = look.palette
        self.ink, self.soft = QColor(self.c.ink), QColor(self.c.soft)
        self.text_shown = look.scale >= LEAST_SCALE_FOR_TEXT

    def paint(self) -> None:
        """Paint everything inside the clip."""
        chart = self.picture.diagram
        self._bands()
        ribbons = [r for r in chart.ribbons if self._ribbon_visible(r)]
        shapes = [s for s in (*chart.shapes, *chart.loose) if self._visible(s.box)]
        for r in ribbons:
            self._ribbon(r)
        for shape in shapes:
            self._shape(shape)
        for stud in chart.studs:
            if self.clip.contains(QPointF(stud.x, stud.y)):
                self._stud(stud.ref, stud.x, stud.y, stud.taken)
        bands = [(chart.middle - 60.0, band) for band in chart.bands] if self.text_shown else []
        placed = place(self.picture, self.look, shapes, ribbons, bands, self.text_shown)
        for mark in placed.badges:
            badge(self.p, self.c, mark.verdict, mark.x, mark.y)
        for text in placed.texts:
            self._text(
                QRectF(*text.box),
                text.words,
                text.px,
                text.strong,
                self.soft if text.soft else self.ink,
                halo=text.halo,
            )

    def _visible(self, box: Box) -> bool:
        return (
            box.bottom + 30 >= self.clip.top() and box.y - 30 <= self.clip.bottom()
            and box.right + 60 >= self.clip.left() and box.x - 60 <= self.clip.right()
        )  # fmt: skip

    def _ribbon_visible(self, r: Ribbon) -> bool:
        return max(r.y0, r.y1) + 40 >= self.clip.top() and min(r.y0, r.y1) - 40 <= self.clip.bottom()

    def _text(
        self, box: QRectF, text: str, px: float, strong: bool = False, color: QColor | None = None,
        align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignCenter, halo: bool = False,
    ) -> None:  # fmt: skip
        self.p.setFont(font(px, strong))
        shown = elided(text, px, strong, int(box.width()) + 2)
        if halo:
            rect = QRectF(self.p.fontMetrics().boundingRect(box.toRect(), int(align), shown)).adjusted(-3, 0, 3, 0)
            self.p.setPen(Qt.PenStyle.NoPen)
            paper = QColor(self.c.paper)
            paper.setAlpha(225)
            self.p.setBrush(paper)
            self.p.drawRoundedRect(rect, 3, 3)
        self.p.setPen(color or self.ink)
        self.p.drawText(box, align, shown)

    def _bands(self) -> None:
        chart = self.picture.diagram
        for k, band in enumerate(chart.bands):
            if k:
                self.p.setPen(QPen(QColor(self.c.line), 1.0, Qt.PenStyle.DashLine))
                self.p.drawLine(QPointF(10, band.top - 24), QPointF(chart.width - 10, band.top - 24))

    # Conductors

    def _ribbon(self, r: Ribbon) -> None:
        run = self.picture.plan.run_by_id.get(r.run)
        width, color, tone = width_of(self.picture, r.run), QColor(self.c.line), 0.0
        if run is not None and self.picture.study is not None:
            tone = self.look.lens.tone(self.picture, run, self.look.scenario)
            color = self.c.copper(tone) if isfinite(tone) else QColor(self.c.line)
        path = ribbon_path(r)
        ring = self._ring(r.run, self.look.has(r.run))
        if ring:
            halo = QColor(self.c.accent)
            halo.setAlpha(ring)
            self.p.strokePath(path, QPen(halo, width + 6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            self.p.strokePath(
                path, QPen(QColor(self.c.paper), width + 2.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
            )
        self.p.strokePath(path, QPen(color, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        if isfinite(tone) and tone > 1.0:
            self._hatch(path, width)
        if run is not None:
            self._arrows(r, run.id, width, color)
            if self.look.lens.id == "read":
                self._read_mark(r)

    def _read_mark(self, r: Ribbon) -> None:
        """A disc where a reading is as expected; a triangle that grows with how far it is off."""
        read = self.picture.read.get(r.run)
        if read is None:
            return
        x, y = r.point(0.5)
        self.p.setPen(QPen(QColor(self.c.sheet), 1.5))
        if read.times <= 1.0:
            self.p.setBrush(QColor(self.c.good))
            self.p.drawEllipse(QPointF(x, y), 5.0, 5.0)
            return
        size = 7.0 if read.times <= 2.0 else 10.0 if read.times <= 5.0 else 15.0
        self.p.setBrush(QColor(self.c.over))
        self.p.drawPolygon(
            QPolygonF([QPointF(x, y - size), QPointF(x + size, y + 0.8 * size), QPointF(x - size, y + 0.8 * size)])
        )

    def _hatch(self, path: QPainterPath, width: float) -> None:
        """Beyond its limit: bars across in the colour of stop."""
        pen = QPen(QColor(self.c.over), max(width, 6.0) + 2, Qt.PenStyle.CustomDashLine, Qt.PenCapStyle.FlatCap)
        pen.setDashPattern([3.0 / pen.widthF(), 5.0 / pen.widthF()])
        self.p.strokePath(path, pen)

    def _arrows(self, r: Ribbon, run_id: str, width: float, color: QColor) -> None:
        current = self.picture.run(run_id, self.look.scenario).current_a
        length = abs(r.x1 - r.x0) + abs(r.y1 - r.y0)
        if not isfinite(current) or abs(current) < 1e-3 or length < 22.0:
            return
        towards_right = (current > 0.0) == r.forward
        count = max(1, int(length // ARROW_EVERY))
        inside = width >= 7.0
        size = min(max(width * 0.42, 3.0), 5.0) if inside else 4.5
        light = color.lightness() > 140
        pen = QPen(QColor("#16191d" if light else "#ffffff") if inside else self.ink, 1.8)
        pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
        self.p.setPen(pen)
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        for k in range(count):
            t = (k + 0.5) / count
            x, y = r.point(t)
            ahead = r.point(min(t + 0.02, 1.0))
            behind = r.point(max(t - 0.02, 0.0))
            dx, dy = ahead[0] - behind[0], ahead[1] - behind[1]
            norm = (dx * dx + dy * dy) ** 0.5 or 1.0
            dx, dy = dx / norm, dy / norm
            if not towards_right:
                dx, dy = -dx, -dy
            tip = QPointF(x + dx * size, y + dy * size)
            self.p.drawPolyline(
                [QPointF(x - dx * size * 0.4 - dy * size, y - dy * size * 0.4 + dx * size), tip,
                 QPointF(x - dx * size * 0.4 + dy * size, y - dy * size * 0.4 - dx * size)]
            )  # fmt: skip

    # Things

    def _shape(self, shape: Shape) -> None:
        match shape.kind:
            case "equipment":
                self._equipment(shape)
            case "item":
                self._item(shape)
            case "unit":
                self._unit(shape)
            case "bank":
                self._bank(shape)
            case "fold":
                self._fold(shape)
            case "output":
                self._output(shape)
            case _:
                self._hub(shape)

    def _ring(self, id_: str, chosen: bool) -> int:
        """How strongly something is ringed: what is selected, what guards the place under the pointer, its circuit."""
        look = self.look
        return (
            255
            if chosen
            else 200
            if id_ in look.guards
            else 120
            if id_ == look.hovered
            else 60
            if id_ in look.lit
            else 0
        )

    def _outline(self, shape: Shape, radius: float, fill: QColor, line: QColor, width: float = 1.4) -> QRectF:
        box = QRectF(shape.box.x, shape.box.y, shape.box.w, shape.box.h)
        alpha = self._ring(shape.id, shape.stands_for(self.look.selected) or shape.id in self.look.also)
        if alpha:
            ring = QColor(self.c.accent)
            ring.setAlpha(alpha)
            self.p.setPen(QPen(ring, 5.0 if shape.id in self.look.guards else 3.0))
            self.p.setBrush(Qt.BrushStyle.NoBrush)
            self.p.drawRoundedRect(box.adjusted(-2.0, -2.0, 2.0, 2.0), radius + 2, radius + 2)
        self.p.setPen(QPen(line, width))
        self.p.setBrush(fill)
        self.p.drawRoundedRect(box, radius, radius)
        return box

    def _equipment(self, shape: Shape) -> None:
        e = self.picture.plan.by_id.get(shape.id)
        chosen = self.look.row == shape.id
        box = self._outline(
            shape, 6, QColor(self.c.sheet), QColor(self.c.accent if chosen else self.c.steel), 2.2 if chosen else 1.4
        )
        if not isinstance(e, Equipment) or not self.text_shown:
            return
        self._text(QRectF(box.x() + 6, box.y() + 3, box.width() - 12, 18), e.title, 13, True)
        text = self.look.lens.equipment(self.picture, e, self.look.scenario)
        r = self.picture.equipment(e, self.look.scenario)
        off = r.mode in ("off", "")
        color = self.soft if off else QColor(self.c.good) if r.current_a < -1e-9 else self.ink
        if self.look.lens.id == "drop" and not off and r.drop_share > r.limit_share:
            color = QColor(self.c.over)
        self._text(QRectF(box.x() + 4, box.y() + 20, box.width() - 8, 17), text, 13, False, color)

    def _fold(self, shape: Shape) -> None:
        """Circuits of a bar as one block: how many, and what they come to."""
        c, plan = self.c, self.picture.plan
        for off in (4.0, 2.0):
            self.p.setPen(QPen(QColor(c.line), 1.2))
            self.p.setBrush(QColor(c.sheet))
            self.p.drawRoundedRect(QRectF(*shape.box).adjusted(off, off, -off, 0), 6, 6)
        box = self._outline(shape, 6, QColor(c.raised), QColor(c.steel))
        if not self.text_shown:
            return
        held = [x for id_ in shape.holds if isinstance(x := plan.by_id.get(id_), Equipment)]
        amps = [self.picture.equipment(e, self.look.scenario).current_a for e in held]
        total = sum(a for a in amps if isfinite(a))
        self._text(
            QRectF(box.x() + 6, box.y() + 3, box.width() - 12, 18),
            say_many("{count} circuit", "{count} circuits", len(held)),
            13,
            True,
        )
        words_ = ("◂ " if total < -1e-3 else "") + words.amps(total)
        self._text(QRectF(box.x() + 4, box.y() + 20, box.width() - 8, 17), words_, 13)

    def _item(self, shape: Shape) -> None:
        x = self.picture.plan.by_id.get(shape.id)
        box = self._outline(shape, 3, QColor(self.c.sheet), QColor(self.c.steel))
        self._symbol(x, box)

    def _symbol(self, x: object, box: QRectF) -> None:
        """What kind of device: the outlines of IEC 60617 drawn small."""
        p, cx, cy = self.p, box.center().x(), box.center().y()
        p.setPen(QPen(self.ink, 1.6))
        p.setBrush(Qt.BrushStyle.NoBrush)
        match x:
            case Fuse():
                p.drawRect(QRectF(cx - 11, cy - 4.5, 22, 9))
                p.drawLine(QPointF(box.left() + 4, cy), QPointF(box.right() - 4, cy))
            case Breaker() | Disconnect() | Contactor():
                p.drawLine(QPointF(box.left() + 4, cy), QPointF(cx - 9, cy))
                p.drawLine(QPointF(cx + 9, cy), QPointF(box.right() - 4, cy))
                p.drawLine(QPointF(cx - 9, cy), QPointF(cx + 8, cy - (7 if not x.closed else 4)))
                if isinstance(x, Breaker):
                    p.drawLine(QPointF(cx + 6, cy - 3), QPointF(cx + 12, cy + 3))
                    p.drawLine(QPointF(cx + 12, cy - 3), QPointF(cx + 6, cy + 3))
                elif isinstance(x, Contactor):
                    p.drawArc(QRectF(cx + 5, cy - 3.5, 7, 7), 90 * 16, 180 * 16)
                else:
                    p.drawLine(QPointF(cx + 9, cy - 3), QPointF(cx + 9, cy + 3))
            case Shunt():
                p.drawRect(QRectF(cx - 11, cy - 4.5, 22, 9))
                p.drawLine(QPointF(cx - 7, cy + 4.5), QPointF(cx - 7, cy + 9))
                p.drawLine(QPointF(cx + 7, cy + 4.5), QPointF(cx + 7, cy + 9))
            case Splice():
                p.drawLine(QPointF(box.left() + 4, cy), QPointF(box.right() - 4, cy))
                p.drawRoundedRect(QRectF(cx - 9, cy - 4.5, 18, 9), 4.0, 4.0)
            case PlugConnector():
                p.drawLine(QPointF(box.left() + 4, cy), QPointF(cx - 3, cy))
                p.drawArc(QRectF(cx - 5, cy - 5.5, 11, 11), 90 * 16, 180 * 16)
                p.drawLine(QPointF(cx + 2, cy), QPointF(box.right() - 4, cy))
            case _:
                p.drawLine(QPointF(box.left() + 4, cy), QPointF(box.right() - 4, cy))

    def _unit(self, shape: Shape) -> None:
        b = self.picture.plan.by_id.get(shape.id)
        plus = shape.side == "plus"
        fill = QColor(self.c.steel)
        box = self._outline(shape, 4, fill, fill)
        on = QColor(self.c.paper)
        if not isinstance(b, Battery) or not self.text_shown:
            return
        sign = "+" if plus else "−"
        post = QRectF(box.right() - 15, box.y() + 4, 13, 16) if plus else QRectF(box.x() + 2, box.y() + 4, 13, 16)
        self._text(post, sign, 16, True, on)
        inner = box.adjusted(5, 0, -15, 0) if plus else box.adjusted(15, 0, -5, 0)
        align = Qt.AlignmentFlag.AlignLeft if plus else Qt.AlignmentFlag.AlignRight
        current = self.picture.through(b.id, self.look.scenario)[0]
        self._text(QRectF(inner.x(), inner.y() + 4, inner.width(), 16), b.title, 12, True, on, align)
        if plus:
            text = ("◂ " if current < -1e-3 else "") + words.amps(current)
        else:
            text = words.volts(self.picture.battery_v(b.id, self.look.scenario))
        self._text(QRectF(box.x() + 4, inner.y() + 20, box.width() - 8, 16), text, 12, False, on, align)

    def _bank(self, shape: Shape) -> None:
        """A bank of several units as one block; its page shows what is inside."""
        plus = shape.side == "plus"
        box = self._outline(shape, 4, QColor(self.c.steel), QColor(self.c.steel))
        if not self.text_shown:
            return
        on = QColor(self.c.paper)
        align = Qt.AlignmentFlag.AlignLeft if plus else Qt.AlignmentFlag.AlignRight
        inner = box.adjusted(6, 0, -6, 0)
        post = QRectF(box.right() - 16, box.y() + 4, 13, 16) if plus else QRectF(box.x() + 3, box.y() + 4, 13, 16)
        self._text(post, "+" if plus else "−", 16, True, on)
        units = sum(isinstance(self.picture.plan.by_id.get(i), Battery) for i in shape.holds)
        amps, volts = self.picture.bank(shape.id, self.look.scenario)
        figure = ("◂ " if amps < -1e-3 else "") + words.amps(amps) if plus else words.volts(volts)
        lines = [("Bank", True), (say_many("{count} unit", "{count} units", units), False), (figure, True)]
        spread = self.picture.spread(shape.id, self.look.scenario)
        if plus and isfinite(spread):
            lines.append((say("spread {spread:.0f}\u200a%", spread=100 * spread), False))
        for k, (text, strong) in enumerate(lines):
            size, room = (11, inner.adjusted(0, 0, 5, 0)) if k == 3 else (12, inner)
            self._text(QRectF(room.x(), box.y() + 4 + 19 * k, room.width(), 17), text, size, strong, on, align)

    def _output(self, shape: Shape) -> None:
        e = self.picture.plan.by_id.get(shape.id)
        box = self._outline(shape, 4, QColor(self.c.raised), QColor(self.c.steel))
        if not isinstance(e, Converter) or not self.text_shown:
            return
        plus = shape.side == "plus"
        v, amps = self.picture.output(e, self.look.scenario)
        self._text(
            QRectF(box.x() + 3, box.y() + 4, box.width() - 6, 16),
            f"{e.out_nominal_v:g} V {'+' if plus else '−'}",
            12,
            True,
        )
        self._text(
            QRectF(box.x() + 3, box.y() + 20, box.width() - 6, 16), words.amps(amps) if plus else words.volts(v), 12
        )

    def _hub(self, shape: Shape) -> None:
        fill = QColor(self.c.accent if shape.side == "plus" else self.c.steel)
        if shape.kind == "chassis":
            fill = QColor(self.c.soft)
        self._outline(shape, 3, fill, fill)

    def _stud(self, ref: str, x: float, y: float, taken: bool) -> None:
        chosen = ref == self.look.selected
        if chosen or ref == self.look.hovered:
            ring = QColor(self.c.accent if chosen else self.c.soft)
            self.p.setPen(QPen(ring, 2.5))
            self.p.setBrush(QColor(self.c.sheet))
            self.p.drawEllipse(QPointF(x, y), 8, 8)
        self.p.setPen(QPen(QColor(self.c.sheet), 1.4))
        self.p.setBrush(QBrush(QColor(self.c.ink)) if taken else QBrush(Qt.BrushStyle.NoBrush))
        self.p.drawEllipse(QPointF(x, y), 3.4, 3.4)
