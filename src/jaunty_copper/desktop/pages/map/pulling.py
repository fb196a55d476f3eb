"""Drawing a conductor on the map: from where, to where, and whether it may be."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import hypot
from typing import Literal

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen

from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.diagram.shapes import Diagram, TerminalMark
from jaunty_copper.documents.drawing import Rect
from jaunty_copper.documents.palette import Palette
from jaunty_copper.language import say
from jaunty_copper.plan.joining import FINE, Joining, Joinings
from jaunty_copper.plan.model import Bar, Plan, split_ref

REACH = 9.0
"""How near to a terminal a press or a drop means it, px of the map."""
END = 14.0
"""From the end of a selected conductor to the handle by which it is led elsewhere."""


@dataclass
class Pull:
    """A conductor in the making.

    Attributes
    ----------
    start : str
        Terminal that stays.
    joinings : Joinings
        Judges where it may end.
    run, end : str or None
        The conductor of which one end is led elsewhere, and which.
    x, y : float
        Where the pointer is, on the map.
    target : str or None
        Terminal, or bar, under it.
    """

    start: str
    joinings: Joinings
    run: str | None = None
    end: Literal["a", "b"] | None = None
    x: float = 0.0
    y: float = 0.0
    target: str | None = None

    @property
    def found(self) -> Joining:
        """Whether it may end where the pointer is."""
        return FINE if self.target is None else self.judged(self.target)

    def judged(self, target: str) -> Joining:
        """Whether it may end at a terminal or bar."""
        plan = self.joinings.plan
        return self.joinings.between(end_of(plan, self.start), end_of(plan, target))


def begun(plan: Plan, start: str | None, selected: str | None, end: Literal["a", "b"] | None) -> Pull | None:
    """A conductor that begins at a terminal, or an end of the selected one that is led elsewhere."""
    if end is None:
        return Pull(start, Joinings(plan)) if start is not None else None
    run = plan.run_by_id.get(selected or "")
    if run is None:
        return None
    # Without the conductor itself: what it joins today must not speak against where it may go.
    rest = plan.model_copy(update={"runs": tuple(r for r in plan.runs if r.id != run.id)})
    return Pull(run.b if end == "a" else run.a, Joinings(rest), run.id, end)


def end_of(plan: Plan, target: str) -> str:
    """A terminal that stands for a target: of a bar its first."""
    return target if "." in target else plan.by_id[target].ref(plan.by_id[target].terminal_names[0])


def terminal_under(chart: Diagram, x: float, y: float) -> str | None:
    """The terminal nearest to a point of the map, if it is near."""
    near = min(chart.terminals, key=lambda t: hypot(t.x - x, t.y - y), default=None)
    return near.ref if near is not None and hypot(near.x - x, near.y - y) <= REACH else None


def target_at(plan: Plan, chart: Diagram, x: float, y: float) -> str | None:
    """What a conductor dropped at a point of the map would end at: a terminal, a bar, the nearest terminal of a thing."""
    exact = terminal_under(chart, x, y)
    if exact is not None:
        return exact
    for shape in reversed((*chart.shapes, *chart.loose)):
        if shape.box.contains(x, y, 2.0):
            if isinstance(plan.by_id.get(shape.id), Bar):
                return shape.id
            own = [t for t in chart.terminals if split_ref(t.ref)[0] in (shape.id, *shape.holds)]
            near = min(own, key=lambda t: hypot(t.x - x, t.y - y), default=None)
            return near.ref if near is not None else None
    return None


def handles(chart: Diagram, plan: Plan, run_id: str | None) -> Iterator[tuple[Literal["a", "b"], float, float]]:
    """Handles at both ends of a conductor: which end, and where."""
    run = plan.run_by_id.get(run_id) if run_id else None
    ribbon = next((r for r in chart.ribbons if run is not None and r.run == run.id), None)
    if ribbon is None:
        return
    length = max(abs(ribbon.x1 - ribbon.x0) + abs(ribbon.y1 - ribbon.y0), 1.0)
    share = min(END / length, 0.3)
    yield ("a" if ribbon.forward else "b"), *ribbon.point(share)
    yield ("b" if ribbon.forward else "a"), *ribbon.point(1.0 - share)


def handle_at(chart: Diagram, plan: Plan, run_id: str | None, x: float, y: float) -> Literal["a", "b"] | None:
    """The end of a selected conductor whose handle is at a point of the map."""
    return next((end for end, hx, hy in handles(chart, plan, run_id) if hypot(hx - x, hy - y) <= 6.0), None)


def mark_of(chart: Diagram, ref: str) -> TerminalMark | None:
    """Where a terminal is drawn."""
    return next((t for t in chart.terminals if t.ref == ref), None)


def handle_marks(c: Palette, chart: Diagram, plan: Plan, run_id: str | None) -> Iterator[Rect]:
    """Squares at the ends of the selected conductor."""
    for _, x, y in handles(chart, plan, run_id):
        yield Rect(x - 3.5, y - 3.5, 7.0, 7.0, c.sheet, c.accent, 1.6)


def paint_pull(p: QPainter, c: Palette, chart: Diagram, pull: Pull) -> None:
    """The conductor as far as it is drawn, where it may end, and why not."""
    start = mark_of(chart, pull.start)
    begin = QPointF(start.x, start.y) if start is not None else QPointF(pull.x, pull.y)
    p.setBrush(QColor(c.sheet))
    for t in chart.terminals:
        standing = pull.judged(t.ref).standing
        if standing != "forbidden":
            p.setPen(QPen(QColor(c.good if standing == "fine" else c.soft), 1.4))
            p.drawEllipse(QPointF(t.x, t.y), 3.5, 3.5)
    found = pull.found
    tone = QColor({"fine": c.accent, "unusual": c.soft, "forbidden": c.stop}[found.standing])
    stop = mark_of(chart, pull.target) if pull.target is not None else None
    finish = QPointF(stop.x, stop.y) if stop is not None else QPointF(pull.x, pull.y)
    dashes = Qt.PenStyle.SolidLine if pull.target is not None and found.standing == "fine" else Qt.PenStyle.DashLine
    p.setPen(QPen(tone, 3.0, dashes))
    p.drawLine(begin, finish)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(tone, 2.2))
    p.drawEllipse(begin, 6.0, 6.0)
    if pull.target is not None:
        p.drawEllipse(finish, 7.0, 7.0)
        write_beside(p, c, tone, finish, _words(pull, found))


def _words(pull: Pull, found: Joining) -> str:
    assert pull.target is not None
    plan = pull.joinings.plan
    thing, _, terminal = pull.target.partition(".")
    place = f"{plan.by_id[thing].title} · {terminal or say('a free stud')}"
    mark = {"fine": "", "unusual": "? ", "forbidden": "✕ "}[found.standing]
    return f"{mark}{place}" + (f": {found.why}" if found.why else "")


def write_beside(p: QPainter, c: Palette, tone: QColor, at: QPointF, text: str) -> None:
    """Write beside the pointer, inside what is seen."""
    p.setFont(font(12, True))
    width = QFontMetrics(font(12, True)).horizontalAdvance(text) + 14.0
    box = QRectF(at.x() + 12.0, at.y() - 30.0, width, 22.0)
    if p.transform().mapRect(box).right() > p.viewport().right():
        box.moveRight(at.x() - 12.0)
    if p.transform().mapRect(box).left() < 0.0:
        box.moveLeft(at.x() - width / 2)
    if p.transform().mapRect(box).top() < 0.0:
        box.moveTop(at.y() + 12.0)
    p.setPen(QPen(tone, 1.4))
    p.setBrush(QColor(c.sheet))
    p.drawRoundedRect(box, 4, 4)
    p.setPen(QColor(c.ink))
    p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
