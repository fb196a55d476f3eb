"""A bank from above, drawn: straps of copper, gauges on the cases, figures that stand free."""

from collections.abc import Iterator
from math import isfinite

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QPainter,
    QPainterPath,
    QPen,
)

from jaunty_copper.battery.sharing import Share
from jaunty_copper.desktop.pages.bank.scene import BankScene
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.documents import words
from jaunty_copper.documents.map.places import ribbon_width
from jaunty_copper.language import say
from jaunty_copper.plan.model import Bar, Battery, Inline, Run, split_ref

FIGURES_PX = 106.0
"""Height of what is written on a case."""


class BankDrawing(BankScene):
    """Plus links and minus links as copper straps, a gauge on every case."""

    def draw(self, p: QPainter) -> None:
        """Paint cases, straps, take-offs and gauges."""
        c = self.palette_
        p.fillRect(self.rect(), QColor(c.paper))
        if self.bank is None or self.plan is None:
            p.setPen(QColor(c.soft))
            p.setFont(font(14))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, say("There is no battery in this plan yet"))
            return
        for unit in self.bank.units:
            self._case(p, unit)
        for bars in self._bars().values():
            for bar in bars:
                self._bar(p, bar)
        for id_ in self.bank.inside:
            self._strap(p, self.plan.run_by_id[id_])
        for x in self._inlines():
            self._inline(p, x)
        self._takeoffs(p)
        for unit in self.bank.units:
            self._figures(p, unit)
            self._posts(p, unit)
        if self.moment is not None:
            p.setPen(QColor(c.accent))
            p.setFont(font(14, True))
            p.drawText(
                self.rect().adjusted(0, 4, -14, 0),
                Qt.AlignmentFlag.AlignRight,
                say("after {hour:.1f} h", hour=self.moment.hour),
            )

    def _share(self, unit: str) -> Share | None:
        return self.sharing.by_unit[unit] if self.sharing is not None else None

    def _amps(self, unit: str) -> float:
        if self.moment is not None:
            return self.moment.current_a[unit]
        share = self._share(unit)
        return share.current_a if share is not None else float("nan")

    def _case(self, p: QPainter, unit: Battery) -> None:
        c, r = self.palette_, self.case(unit)
        chosen = unit.id == self.selected
        p.setPen(QPen(QColor(c.accent if chosen else c.steel), 2.5 if chosen else 1.2))
        p.setBrush(QColor(c.sheet))
        p.drawRoundedRect(r, 5, 5)

    def _figures(self, p: QPainter, unit: Battery) -> None:
        """Name, current and share on the case, over whatever cable runs across it."""
        c, r = self.palette_, self.case(unit)
        amps, share = self._amps(unit.id), self._share(unit.id)
        plate = QColor(c.sheet)
        plate.setAlpha(244)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(plate)
        p.drawRoundedRect(QRectF(r.x() + 4, r.y() + 4, r.width() - 8, min(0.7 * r.height() - 4, FIGURES_PX)), 4, 4)
        p.setPen(QColor(c.ink))
        p.setFont(font(13, True))
        head = QRectF(r.x() + 8, r.y() + 6, r.width() - 16, 18)
        p.drawText(head, Qt.AlignmentFlag.AlignLeft, _cut(p, unit.title, head.width()))
        if share is None or not isfinite(amps):
            return
        total = sum(abs(self._amps(u)) for u in self.bank.outlets) if self.bank else 0.0
        part = abs(amps) / total if total > 1e-9 else share.even
        p.setFont(font(19 if r.width() > 110 else 15, True))
        big = QRectF(r.x() + 8, r.y() + 26, r.width() - 16, 24)
        p.drawText(big, Qt.AlignmentFlag.AlignLeft, words.amps(abs(amps)))
        p.setFont(font(12))
        p.setPen(QColor(c.soft))
        way = say("charging") if amps < -1e-6 else say("giving") if amps > 1e-6 else say("at rest")
        small = QRectF(r.x() + 8, r.y() + 50, r.width() - 16, 17)
        text = f"{100 * part:.0f} % · {way}" if r.width() > 110 else f"{100 * part:.0f} %"
        p.drawText(small, Qt.AlignmentFlag.AlignLeft, _cut(p, text, small.width()))
        self._gauge(p, r, part, share)

    def _gauge(self, p: QPainter, r: QRectF, part: float, share: Share) -> None:
        """Share of the load against an even share, which is at the middle of the gauge."""
        c = self.palette_
        room = r.bottom() - r.top()
        y = r.top() + min(72.0, 0.6 * room)
        track = QRectF(r.x() + 8, y, r.width() - 16, 9)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(c.raised))
        p.drawRoundedRect(track, 4, 4)
        full = min(part / (2.0 * share.even), 1.0) if share.even else 0.0
        over = share.used > 1.0 and self.moment is None
        filled = QRectF(track.x(), track.y(), track.width() * full, track.height())
        p.setBrush(QBrush(QColor(c.over), Qt.BrushStyle.BDiagPattern) if over else QColor(c.accent))
        p.drawRoundedRect(filled, 4, 4)
        middle = track.center().x()
        p.setPen(QPen(QColor(c.ink), 2))
        p.drawLine(QPointF(middle, track.top() - 3), QPointF(middle, track.bottom() + 3))
        if room > 120 and self.moment is not None:
            self._charge(p, r, track)
        elif room > 120:
            p.setPen(QColor(c.soft))
            p.setFont(font(11))
            what = QRectF(track.x(), track.bottom() + 5, track.width(), 15)
            p.drawText(
                what,
                Qt.AlignmentFlag.AlignLeft,
                _cut(
                    p,
                    say(
                        "{c_rate:.2f} C of {limit_a:.2g} C",
                        c_rate=abs(share.c_rate),
                        limit_a=share.limit_a / max(self._held(share.unit), 1e-09),
                    ),
                    what.width(),
                ),
            )

    def _held(self, unit: str) -> float:
        assert self.bank is not None
        return self.bank.by_id[unit].capacity_ah * self.bank.by_id[unit].capacity_share

    def _charge(self, p: QPainter, r: QRectF, track: QRectF) -> None:
        assert self.moment is not None
        c = self.palette_
        unit = next(u for u in self.bank.units if self.case(u) == r) if self.bank else None
        if unit is None:
            return
        soc = self.moment.soc_percent[unit.id]
        p.setPen(QColor(c.ink))
        p.setFont(font(12))
        p.drawText(
            QRectF(track.x(), track.bottom() + 5, track.width(), 16),
            Qt.AlignmentFlag.AlignLeft,
            say("{soc:.1f} % charged", soc=soc),
        )

    def _strap(self, p: QPainter, run: Run) -> None:
        path = self.strap(run)
        if path is None or self.state is None:
            return
        c = self.palette_
        area = self.state.wiring.parts.conductors[run.conductor].area_mm2 * run.parallel
        width = max(4.0, ribbon_width(area) * 0.7)
        chosen = run.id == self.selected
        if chosen:
            p.setPen(QPen(QColor(c.ink), width + 5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(path)
        bad = _joints(run) > 5e-4
        p.setPen(
            QPen(
                QColor(c.over if bad else c.copper(0.35 + 0.5 * self._hotness(run))),
                width,
                Qt.PenStyle.SolidLine,
                Qt.PenCapStyle.RoundCap,
            )
        )
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        at = path.pointAtPercent(0.5)
        if not bad and path.length() < 46.0:
            return
        text = (
            say("bad joint · {length_m}", length_m=self.units.length(run.length_m))
            if bad
            else self.units.length(run.length_m)
        )
        p.setFont(font(11, bad))
        w = p.fontMetrics().horizontalAdvance(text) + 8
        box = QRectF(at.x() - w / 2, at.y() - width / 2 - 17, w, 15)
        if any(box.adjusted(-10, -10, 10, 10).contains(post) for post in self._all_posts()):
            # Where units stand close, a post of the next one stands there.
            box.moveTop(at.y() + width / 2 + 2)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(c.paper))
        p.drawRoundedRect(box, 3, 3)
        p.setPen(QColor(c.over if bad else c.soft))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _hotness(self, run: Run) -> float:
        """Loss of a link against the worst of the bank, 0 to 1."""
        if self.sharing is None:
            return 0.0
        most = max(self.sharing.heat_w.values(), default=0.0)
        return self.sharing.heat_w[run.id] / most if most > 0.0 else 0.0

    def _bar(self, p: QPainter, bar: Bar) -> None:
        c = self.palette_
        ends = [self.post(bar.ref(t)) for t in bar.terminal_names]
        first, last = ends[0], ends[-1]
        if first is None or last is None:
            return
        p.setPen(QPen(QColor(c.steel), 1))
        p.setBrush(QColor(c.copper(0.2)))
        box = QRectF(first.x() - 12, first.y() - 8, last.x() - first.x() + 24, 16)
        p.drawRoundedRect(box, 3, 3)
        p.setFont(font(11))
        p.setPen(QColor(c.soft))
        left = bar in self._bars()["plus"]
        beside = (
            QRectF(box.left() - 166, box.y() - 1, 160, 18) if left else QRectF(box.right() + 6, box.y() - 1, 160, 18)
        )
        side = Qt.AlignmentFlag.AlignRight if left else Qt.AlignmentFlag.AlignLeft
        p.drawText(beside, side | Qt.AlignmentFlag.AlignVCenter, bar.title)

    def _inline(self, p: QPainter, x: Inline) -> None:
        c, box = self.palette_, self._box(x)
        chosen = x.id == self.selected
        p.setPen(QPen(QColor(c.accent if chosen else c.steel), 2.5 if chosen else 1.4))
        p.setBrush(QColor(c.sheet))
        p.drawRoundedRect(box, 3, 3)
        p.setPen(QColor(c.ink))
        p.setFont(font(11, True))
        rating = getattr(x, "rating_a", None)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{rating:g} A" if rating else _cut(p, x.title, 42))

    def _takeoffs(self, p: QPainter) -> None:
        """Where the rest of the system is joined, as an arrow with the name of what comes next."""
        assert self.plan is not None
        assert self.bank is not None
        c = self.palette_
        for side, refs in self.bank.takeoffs.items():
            for ref in refs:
                at = self.post(ref)
                runs = [r for r in self.plan.runs_at.get(ref, ()) if r.id not in self.bank.inside]
                if at is None or not runs:
                    continue
                # Minus reaches lower, so that two names side by side do not collide.
                reach = 44 if side == "plus" else 62
                down = QPointF(at.x(), min(at.y() + reach, self.height() - (26 if side == "plus" else 8)))
                p.setPen(QPen(QColor(c.ink), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
                p.drawLine(at, down)
                p.setBrush(QColor(c.ink))
                head = QPainterPath(QPointF(down.x(), down.y() + 7))
                head.lineTo(down.x() - 5, down.y() - 2)
                head.lineTo(down.x() + 5, down.y() - 2)
                head.closeSubpath()
                p.drawPath(head)
                names = ", ".join(dict.fromkeys(self._beyond(r, ref) for r in runs))
                p.setFont(font(12, True))
                text = say("{words} to {names}", words="+" if side == "plus" else "−", names=names)
                text = _cut(p, text, 220)
                wide = p.fontMetrics().horizontalAdvance(text) + 12
                across = side == "plus" and any(down.x() < x < down.x() + wide for x in self._leaving("minus"))
                p.drawText(QPointF(down.x() - wide if across else down.x() + 9, down.y() + 5), text)

    def _leaving(self, side: str) -> list[float]:
        """Where across the page conductors leave the bank at one pole."""
        assert self.bank is not None
        return [at.x() for ref in self.bank.takeoffs[side] if (at := self.post(ref)) is not None]

    def _all_posts(self) -> Iterator[QPointF]:
        assert self.bank is not None
        at = (self.post(u.ref(t)) for u in self.bank.units for t in u.terminal_names)
        return (post for post in at if post is not None)

    def _beyond(self, run: Run, ref: str) -> str:
        assert self.plan is not None
        return self.plan.by_id[split_ref(run.b if run.a == ref else run.a)[0]].title

    def _posts(self, p: QPainter, unit: Battery) -> None:
        c = self.palette_
        for terminal, sign in (("plus", "+"), ("minus", "−")):
            at = self.post(unit.ref(terminal))
            if at is None:
                continue
            p.setPen(QPen(QColor(c.ink), 1.4))
            p.setBrush(QColor(c.sheet))
            p.drawEllipse(at, 9, 9)
            p.setFont(font(14, True))
            p.drawText(QRectF(at.x() - 9, at.y() - 10, 18, 19), Qt.AlignmentFlag.AlignCenter, sign)


def _joints(run: Run) -> float:
    return max(run.joint_a_ohm or 0.0, run.joint_b_ohm or 0.0)


def _cut(p: QPainter, text: str, width: float) -> str:
    return p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(width))
