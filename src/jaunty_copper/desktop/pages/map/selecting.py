"""What is selected on the map: one thing, several, and the row that the strip follows."""

from collections.abc import Iterable, Iterator
from math import hypot, isfinite

from PySide6.QtCore import QPointF, QRectF, Signal

from jaunty_copper.desktop.pages.map import circuit
from jaunty_copper.desktop.pages.map.canvas import Canvas
from jaunty_copper.desktop.widgets.spoken import SpokenThing
from jaunty_copper.documents import words
from jaunty_copper.documents.map.places import width_of
from jaunty_copper.language import say
from jaunty_copper.plan.model import Battery, Equipment, split_ref

BANDED = ("equipment", "item")
"""What a rectangle drawn over the map selects, besides conductors."""

NEAR_PX = 9.0
"""Half of the side of what stands for something that has no area."""


class Selecting(Canvas):
    """A canvas with things to find, select and step between."""

    picked = Signal(str)
    """Something was selected; empty for nothing."""
    fold_wanted = Signal(str)
    """The circuits of a bar are to be folded into one line, or unfolded."""
    row_changed = Signal(str)
    """The row that the strip shows is another."""

    @property
    def selected(self) -> str | None:
        """Id of what is selected, or a stud's terminal."""
        return self.look.selected

    def _exists(self, id_: str) -> bool:
        assert self.picture is not None
        plan = self.picture.plan
        item, _, terminal = id_.partition(".")
        if terminal:
            return item in plan.by_id and terminal in plan.by_id[item].terminal_names
        return id_ in plan.by_id or id_ in plan.run_by_id

    def select(self, id_: str | None, show: bool = False) -> None:
        """Select something, and bring it into view if asked."""
        held = self._fold_of(id_) if id_ else None
        if held is not None:
            self.fold_wanted.emit(held)
        self.look.selected, self.look.also = id_, frozenset()
        row = self.row_of(id_) if id_ else None
        if row is not None:
            self._set_row(row)
        if show and id_:
            self._bring(id_)
        self.refresh()
        self.picked.emit(id_ or "")

    def _fold_of(self, id_: str) -> str | None:
        """The bar in whose fold something is hidden."""
        shapes = self.picture.diagram.shapes if self.picture is not None else ()
        return next((s.id for s in shapes if s.kind == "fold" and id_ in s.holds), None)

    @property
    def chosen(self) -> tuple[str, ...]:
        """All that is selected, what was selected first foremost."""
        first = self.look.selected
        return () if first is None else (first, *sorted(self.look.also))

    def add(self, id_: str) -> None:
        """Select something besides what is selected, or no longer."""
        if self.look.selected is None or "." in id_ or "." in self.look.selected:
            self.select(id_)
            return
        if id_ == self.look.selected:
            rest = sorted(self.look.also)
            self.look.selected, self.look.also = (rest[0] if rest else None), frozenset(rest[1:])
        else:
            self.look.also = self.look.also ^ {id_}
        self.refresh()
        self.picked.emit(self.look.selected or "")

    def choose(self, ids: Iterable[str]) -> None:
        """Select several things."""
        first, *rest = [*dict.fromkeys(ids)] or [""]
        self.select(first or None)
        self.look.also = frozenset(rest)
        self.refresh()
        self.picked.emit(first)

    def all_alike(self) -> None:
        """Select everything on the map of the kind of what is selected; all equipment where nothing is."""
        if self.picture is None:
            return
        plan = self.picture.plan
        first = self.look.selected or ""
        kind = type(plan.run_by_id.get(first) or plan.by_id.get(split_ref(first)[0]))
        kind = Equipment if issubclass(kind, Equipment | type(None)) else kind
        ids = [x.id for x in (*plan.runs, *plan.placed) if isinstance(x, kind)]
        self.choose([i for i in (first, *ids) if i in ids])

    def _in_band(self, one: QPointF, other: QPointF) -> list[str]:
        """What lies in a rectangle of the viewport."""
        assert self.picture is not None
        (x0, y0), (x1, y1) = self.to_map(one), self.to_map(other)
        area = QRectF(QPointF(x0, y0), QPointF(x1, y1)).normalized()
        chart = self.picture.diagram
        found = [s.id for s in (*chart.shapes, *chart.loose) if s.kind in BANDED and area.contains(s.box.cx, s.box.cy)]
        return found + [r.run for r in chart.ribbons if area.contains(*r.point(0.5))]

    def _set_row(self, row: str | None) -> None:
        if row != self.look.row:
            self.look.row = row
            self.row_changed.emit(row or "")

    def row_of(self, id_: str) -> str | None:
        """The row that something is on."""
        assert self.picture is not None
        return circuit.row_of(self.picture, id_)

    def _places(self) -> Iterator[tuple[str, float, float]]:
        """Everything that can be selected, with a point to jump to."""
        assert self.picture is not None
        chart = self.picture.diagram
        for s in (*chart.shapes, *chart.loose):
            if s.kind != "fold" and not (s.kind in ("unit", "bank", "output") and s.side == "minus"):
                yield s.id, s.box.cx, s.box.cy
        for r in chart.ribbons:
            yield r.run, *r.point(0.5)
        for stud in chart.studs:
            yield stud.ref, stud.x, stud.y

    def in_sight(self) -> Iterator[SpokenThing]:
        """Everything on the part of the map that shows, in the order of the map."""
        if self.picture is None:
            return
        area, chart, scale = self.viewport().rect(), self.picture.diagram, self.look.scale
        boxes = {s.id: s.box for s in (*chart.shapes, *chart.loose)}
        for id_, x, y in self._places():
            b = boxes.get(id_)
            corner = self.to_view(b.x, b.y) if b is not None else self.to_view(x, y) - QPointF(NEAR_PX, NEAR_PX)
            size = (b.w * scale, b.h * scale) if b is not None else (2.0 * NEAR_PX, 2.0 * NEAR_PX)
            box = QRectF(corner.x(), corner.y(), *size).toRect()
            if box.intersects(area):
                yield SpokenThing(id_, self.describe(id_).replace("\n", ", "), box)

    def place(self, id_: str) -> tuple[float, float] | None:
        """Where something stands on the map."""
        found = next(((x, y) for own, x, y in self._places() if own == id_), None)
        if found is None and self.picture is not None:
            held = next((s.box for s in self.picture.diagram.shapes if id_ in s.holds), None)
            return None if held is None else (held.cx, held.cy)
        return found

    def _bring(self, id_: str) -> None:
        at = self.place(id_)
        if at is None:
            return
        area, here = self.viewport().rect(), self.to_view(*at)
        if not area.adjusted(60, 50, -60, -50).contains(here.toPoint()):
            self.horizontalScrollBar().setValue(round(self.horizontalScrollBar().value() + here.x() - area.width() / 2))
            self.verticalScrollBar().setValue(round(self.verticalScrollBar().value() + here.y() - area.height() / 2))

    def step(self, dx: float, dy: float) -> None:
        """Select the nearest thing in a direction."""
        if self.picture is None:
            return
        places = list(self._places())
        if not places:
            return
        start = self.place(self.look.selected) if self.look.selected else None
        if start is None:
            row = self.look.row
            self.select(row if row and self._exists(row) else places[0][0], show=True)
            return
        best: tuple[float, str] | None = None
        for id_, x, y in places:
            along, across = (
                (x - start[0]) * dx + (y - start[1]) * dy,
                abs((x - start[0]) * dy) + abs((y - start[1]) * dx),
            )
            if id_ != self.look.selected and along > 1.0 and across <= 1.5 * along:
                cost = along + 3.0 * across
                if best is None or cost < best[0]:
                    best = (cost, id_)
        if best is not None:
            self.select(best[1], show=True)

    def hit(self, point: QPointF) -> str | None:
        """What lies under a point of the viewport."""
        if self.picture is None:
            return None
        x, y = self.to_map(point)
        chart = self.picture.diagram
        for stud in chart.studs:
            if hypot(stud.x - x, stud.y - y) <= 7.0:
                return stud.ref
        for shape in reversed((*chart.shapes, *chart.loose)):
            if shape.box.contains(x, y, 2.0):
                return shape.id
        nearest: tuple[float, str] | None = None
        for ribbon in chart.ribbons:
            if min(ribbon.y0, ribbon.y1) - 40 <= y <= max(ribbon.y0, ribbon.y1) + 40:
                distance = ribbon.distance(x, y) - width_of(self.picture, ribbon.run) / 2
                if distance <= 4.0 and (nearest is None or distance < nearest[0]):
                    nearest = (distance, ribbon.run)
        return nearest[1] if nearest else None

    def describe(self, id_: str) -> str:
        """What a thing is and does, for a tool tip."""
        picture, look = self.picture, self.look
        if picture is None or picture.case is None or not self._exists(id_):
            return ""
        plan = picture.plan
        if id_ in plan.run_by_id:
            run = plan.run_by_id[id_]
            r = picture.run(id_, look.scenario)
            amp = picture.case.ampacities.get(id_)
            lines = [picture.case.run_title(run)]
            if amp is not None:
                lines.append(
                    say(
                        "{current_a} of {amps}, by {governs}: {used}",
                        current_a=words.amps(r.current_a),
                        amps=words.amps(amp.amps),
                        governs=amp.governs,
                        used=words.percent(r.used),
                    )
                )
            lines.append(
                say("voltage drop {drop_v}, loss {loss_w:.1f} W", drop_v=words.drop(r.drop_v), loss_w=r.loss_w)
                if isfinite(r.loss_w)
                else say("no operating point")
            )
            if isfinite(r.temperature_c):
                lines.append(say("copper at {temperature_c:.0f} °C", temperature_c=r.temperature_c))
        elif "." in id_:
            owner = plan.by_id[split_ref(id_)[0]]
            lines = [f"{owner.title}, {split_ref(id_)[1]}", words.volts(picture.node_v(id_, look.scenario))]
        else:
            thing = plan.by_id[id_]
            block = next((s for s in picture.diagram.shapes if s.kind == "bank" and s.stands_for(id_)), None)
            lines = [thing.title]
            if block is not None and id_ == block.id:
                spread = picture.spread(id_, look.scenario)
                apart = say(", current sharing spread {spread:.0f} %", spread=100 * spread) if isfinite(spread) else ""
                lines = [say("A bank{apart}; a double click opens it", apart=apart), thing.title]
            if isinstance(thing, Equipment):
                e = picture.equipment(thing, look.scenario)
                lines += [
                    say(
                        "{current_a} at {voltage_v}, {mode}",
                        current_a=words.amps(e.current_a),
                        voltage_v=words.volts(e.voltage_v),
                        mode=e.mode,
                    )
                ]
                lines += [
                    say(
                        "voltage drop {drop_v}: {drop_share:.1f} % of {nominal_v:g} V, {limit_share:.0f} % allowed",
                        drop_v=words.drop(e.drop_v),
                        drop_share=100 * e.drop_share,
                        nominal_v=thing.nominal_v,
                        limit_share=100 * e.limit_share,
                    )
                ]
            elif isinstance(thing, Battery):
                current = picture.through(id_, look.scenario)[0]
                lines.append(
                    say(
                        "{words} {current} at {battery_v}",
                        words=say("takes") if current < 0 else say("gives"),
                        current=words.amps(current),
                        battery_v=words.volts(picture.battery_v(id_, look.scenario)),
                    )
                )
            elif id_ in picture.case.wiring.branch:
                current, lost = picture.through(id_, look.scenario)
                lines.append(say("{current}; voltage drop {lost}", current=words.amps(current), lost=words.drop(lost)))
        lines += [f"{f.verdict.word}: {f.headline}" for f in picture.findings if f.place == id_]
        return "\n".join(lines)
