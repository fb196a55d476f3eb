"""The strip below the map in the lenses short and guard: fault current along a row, and which device opens when."""

from collections.abc import Callable
from math import inf, isfinite, log10

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.codes.rules.words import duration
from jaunty_copper.desktop.widgets.drawn import strip_head
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.diagram.shapes import Row
from jaunty_copper.documents import words
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import Palette
from jaunty_copper.language import say
from jaunty_copper.plan.model import Equipment, split_ref
from jaunty_copper.protection.selectivity import in_series

TOP, BOTTOM, LEFT = 34.0, 14.0, 14.0
Across = Callable[[float], float]


def paint_faults(p: QPainter, picture: Picture, e: Equipment, row: Row, c: Palette, area: QRectF, x: Across) -> None:
    """Greatest and least fault current along a row, with what each device on it can interrupt.

    Parameters
    ----------
    p : QPainter
        On the strip.
    picture, e, row
        What is shown, and the chosen row with its equipment.
    c : Palette
        Colours.
    area : QRectF
        Of the strip.
    x : callable
        From a column of the map to the strip.
    """
    assert picture.protection is not None
    assert picture.case is not None
    f = picture.protection.faults
    found = [(x(column), f.most_a(ref), f.least_a(ref)) for column, ref in row.path if ref in f.at]
    found = [row_ for row_ in found if row_[1] > 0.0 and row_[2] > 0.0]
    strip_head(p, c, area, say("Short circuit along the row of {e}", e=e.title), say("greatest above, least below"))
    if len(found) < 2:
        return
    devices = _on_row(picture, row, x)
    held = {id_: interrupting(picture.case, id_) for id_, _ in devices}
    able = {id_: found.able_a or 0.0 for id_, found in held.items()}
    low = 0.7 * min(least for _, _, least in found)
    high = 1.5 * max(*(most for _, most, _ in found), *(a for a in able.values() if a > 0.0), low)

    def y(amps: float) -> float:
        height = area.height() - TOP - BOTTOM
        return area.bottom() - BOTTOM - height * log10(max(amps, low) / low) / log10(high / low)

    upper = [QPointF(at, y(most)) for at, most, _ in found]
    lower = [QPointF(at, y(least)) for at, _, least in found]
    fill = QColor(c.accent)
    fill.setAlpha(45)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(fill)
    p.drawPolygon(QPolygonF([*upper, *reversed(lower)]))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(QColor(c.accent), 2.4))
    p.drawPolyline(upper)
    p.setPen(QPen(QColor(c.soft), 1.6, Qt.PenStyle.DashLine))
    p.drawPolyline(lower)
    p.setFont(font(12))
    p.setPen(QColor(c.ink))
    # The first of those that are the same but for rounding.
    at, most, _ = max(found, key=lambda row_: round(row_[1], 6))
    _say(p, area, at + 6.0, y(most) - 17.0, words.amps(most))
    at_port = [x(column) for column, ref in row.path if ref == e.port[0] and ref in f.at]
    for column in at_port[:1]:
        for amps, beside in ((f.most_a(e.port[0]), -17.0), (f.least_a(e.port[0]), 2.0)):
            _say(p, area, column - 64.0, y(amps) + beside, words.amps(amps))
    for id_, at in devices:
        through = held[id_].wanted_a
        enough = able[id_] >= through
        tone = QColor(c.good if enough else c.stop)
        height = y(able[id_]) if able[id_] > 0.0 else area.bottom() - BOTTOM
        p.setPen(QPen(tone, 3.0))
        p.drawLine(QPointF(at - 22.0, height), QPointF(at + 22.0, height))
        p.setPen(QPen(tone, 1.2, Qt.PenStyle.DotLine))
        p.drawLine(QPointF(at, height), QPointF(at, y(through)))
        p.setPen(tone)
        p.setFont(font(12, True))
        text = f"{'✓' if enough else '✕'} {id_} {words.amps(able[id_]) if able[id_] else say('not at this voltage')}"
        _say(p, area, at - 26.0, height + (3.0 if not enough else -18.0), text)


def paint_guard(p: QPainter, picture: Picture, e: Equipment, row: Row, c: Palette, area: QRectF, x: Across) -> None:
    """Which device opens when on a short at the equipment of a row; parameters as in `paint_faults`."""
    assert picture.protection is not None
    f, port = picture.protection.faults, e.port[0]
    if port not in f.at:
        strip_head(p, c, area, say("No fault is looked at at {e}", e=e.title), "")
        return
    sequence = picture.protection.sequence(port)
    goes_on = say("; {left_a} go on", left_a=words.amps(sequence.left_a)) if sequence.left_a > 1.0 else ""
    strip_head(
        p, c, area, say('A short at {e}: which devices open, in which order', e=e.title),
        say('{most_a} at most, {least_a} at least{goes_on}', most_a=words.amps(f.most_a(port)), least_a=words.amps(f.least_a(port)), goes_on=goes_on),
    )  # fmt: skip
    opens = {o.device: (o.soonest_s, o.latest_s) for o in sequence.openings}
    # What stands before it and need not open comes last.
    spans = [(*opens.get(id_, (inf, inf)), id_) for id_ in dict.fromkeys([*opens, *in_series(f, port)])]
    order = {id_: str(n + 1) for n, id_ in enumerate(opens)}
    middle = area.top() + TOP + 26.0
    seen = {ref for _, ref in row.path}
    previous: tuple[float, str] | None = None
    for column, ref in row.path:
        here = x(column)
        if previous is not None:
            tone, style, width = _guarding(picture, previous[1], ref, c)
            p.setPen(QPen(QColor(tone), width, style))
            p.drawLine(QPointF(previous[0], middle), QPointF(here, middle))
        previous = here, ref
    p.setFont(font(12))
    placed = dict(_on_row(picture, row, x))
    for fast, slow, id_ in spans:
        if id_ not in placed or not seen:
            continue
        at = placed[id_]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(c.ink))
        p.drawEllipse(QPointF(at, middle), 10.0, 10.0)
        p.setPen(QColor(c.sheet))
        p.setFont(font(12, True))
        p.drawText(QRectF(at - 10.0, middle - 10.0, 20.0, 20.0), Qt.AlignmentFlag.AlignCenter, order.get(id_, "–"))
        p.setPen(QColor(c.ink))
        when = (
            say("{fast} to {slow}", fast=duration(fast), slow=duration(slow))
            if isfinite(slow)
            else say("from {fast}, not guaranteed", fast=duration(fast))
            if isfinite(fast)
            else say("need not open")
        )
        _say(p, area, at - 40.0, middle + 14.0, id_)
        p.setFont(font(12))
        _say(p, area, at - 40.0, middle + 30.0, when)


def _guarding(picture: Picture, one: str, two: str, c: Palette) -> tuple[str, Qt.PenStyle, float]:
    """How a conductor between two terminals is drawn: guarded, unguarded, or a return."""
    protection = picture.protection
    assert protection is not None
    solid = Qt.PenStyle.SolidLine
    run = next((r for r in picture.plan.runs_at.get(one, ()) if two in (r.a, r.b)), None)
    if run is None:
        return (c.steel, solid, 2.0) if split_ref(one)[0] == split_ref(two)[0] else (c.line, Qt.PenStyle.DotLine, 1.4)
    k = protection.wiring.branch[run.id]
    if k not in protection.guard.conductors:
        return c.line, solid, 4.0
    return (c.over, Qt.PenStyle.DashLine, 6.0) if protection.guard.is_open(k) else (c.accent, solid, 6.0)


def _on_row(picture: Picture, row: Row, x: Across) -> list[tuple[str, float]]:
    """Devices on a row with where they stand on the strip."""
    assert picture.protection is not None
    places: dict[str, list[float]] = {}
    for column, ref in row.path:
        id_ = split_ref(ref)[0]
        if id_ in picture.protection.devices:
            places.setdefault(id_, []).append(x(column))
    return [(id_, sum(at) / len(at)) for id_, at in places.items()]


def _say(p: QPainter, area: QRectF, left: float, top: float, text: str) -> None:
    """Write within the strip, whatever the place, on a ground that keeps it legible over lines."""
    width = p.fontMetrics().horizontalAdvance(text) + 4.0
    left = min(max(left, area.left() + 4.0), area.right() - width)
    box = QRectF(left, min(max(top, area.top() + 26.0), area.bottom() - 16.0), width, 16.0)
    ground = QColor(p.background().color())
    ground.setAlpha(205)
    p.fillRect(box, ground)
    p.drawText(box, Qt.AlignmentFlag.AlignLeft, text)
