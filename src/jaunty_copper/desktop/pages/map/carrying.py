"""Dragging a circuit by its equipment to another bar, or a device onto another to change places with it."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from jaunty_copper.desktop.pages.map.pulling import write_beside
from jaunty_copper.diagram.shapes import Diagram
from jaunty_copper.documents.palette import Palette
from jaunty_copper.language import say
from jaunty_copper.plan.joining import FINE, Joining, bar_for
from jaunty_copper.plan.model import Bar, Equipment, Inline, Plan


@dataclass
class Carry:
    """Something that is dragged by its block, from where, and what it is held over."""

    plan: Plan
    id: str
    x: float = 0.0
    y: float = 0.0
    target: str | None = None

    @property
    def found(self) -> Joining:
        """Whether it may be dropped where it is."""
        e, bar = self.plan.by_id[self.id], self.plan.by_id.get(self.target or "")
        return bar_for(self.plan, e, bar) if isinstance(e, Equipment) and isinstance(bar, Bar) else FINE

    @property
    def words(self) -> str:
        """What dropping it would do."""
        what, where = self.plan.by_id[self.id].title, self.plan.by_id[self.target or self.id].title
        if isinstance(self.plan.by_id[self.id], Inline):
            return say("swap {what} and {where}", what=what, where=where)
        mark = {"fine": "", "unusual": "? ", "forbidden": "✕ "}[self.found.standing]
        return say("{mark}lead {what} to {where}", mark=mark, what=what, where=where) + (
            f": {self.found.why}" if self.found.why else ""
        )


def may_carry(plan: Plan, id_: str | None) -> bool:
    """Whether something is dragged by its block: wired equipment, a device; what is loose is wired by dragging instead."""
    thing = plan.by_id.get(id_ or "")
    if not isinstance(thing, Equipment | Inline):
        return False
    return all(
        plan.runs_at.get(ref)
        for ref in (thing.port if isinstance(thing, Equipment) else map(thing.ref, thing.terminal_names))
    )


def target_of(plan: Plan, id_: str, chart: Diagram, x: float, y: float) -> str | None:
    """What something can be dropped onto at a point of the map: a bar for equipment, another device for a device."""
    wanted = Bar if isinstance(plan.by_id[id_], Equipment) else Inline
    under = (s.id for s in (*chart.shapes, *chart.loose) if s.kind != "fold" and s.box.contains(x, y, 6.0))
    return next((i for i in under if i != id_ and isinstance(plan.by_id.get(i), wanted)), None)


def paint_carry(p: QPainter, c: Palette, chart: Diagram, carry: Carry) -> None:
    """A frame of what is carried under the pointer, and what dropping it would do."""
    own = next((s.box for s in chart.shapes if s.id == carry.id), None)
    if own is None:
        return
    tone = QColor({"fine": c.accent, "unusual": c.soft, "forbidden": c.stop}[carry.found.standing])
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(tone, 2.0, Qt.PenStyle.DashLine))
    p.drawRoundedRect(QRectF(carry.x - own.w / 2, carry.y - own.h / 2, own.w, own.h), 5, 5)
    there = next((s.box for s in (*chart.shapes, *chart.loose) if s.id == carry.target), None)
    if there is not None:
        p.setPen(QPen(tone, 3.0))
        p.drawRoundedRect(QRectF(*there).adjusted(-3, -3, 3, 3), 5, 5)
        write_beside(p, c, tone, QPointF(carry.x, carry.y), carry.words)
