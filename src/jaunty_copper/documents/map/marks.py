"""The map as marks. Everything it needs to know stands in the picture and in `Look`; it keeps nothing."""

from collections.abc import Callable, Iterator
from functools import lru_cache
from math import hypot, isfinite

from jaunty_copper.diagram.shapes import Box, Ribbon, Shape, StudMark
from jaunty_copper.documents import words
from jaunty_copper.documents.drawing import ASCENT, DESCENT, Anchor, Circle, Mark, Path, Rect, Text, line
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.map.places import Measure, elided, place, width_of
from jaunty_copper.documents.map.symbols import arrow, badge, reading, symbol
from jaunty_copper.documents.palette import faint, is_light
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.model import Battery, Converter, Equipment

ARROW_EVERY = 30.0
LEAST_SCALE_FOR_TEXT = 0.5
HALO = 225
"""How much of what lies below the ground behind words covers, of 255."""
LINE_PX = 1.4


def steps_of(r: Ribbon) -> tuple[tuple[str, tuple[float, ...]], ...]:
    """The curve of a ribbon."""
    if r.y0 == r.y1 and not r.bulge:
        return ("M", (r.x0, r.y0)), ("L", (r.x1, r.y1))
    (ax, ay), (bx, by) = r.handles
    return ("M", (r.x0, r.y0)), ("C", (ax, ay, bx, by, r.x1, r.y1))


class MapMarks:
    """One pass over the map.

    Parameters
    ----------
    picture : Picture
        What is shown.
    look : Look
        How.
    measure : Measure
        How wide words are where they are put down.
    clip : Box
        What of the map is seen.
    """

    def __init__(self, picture: Picture, look: Look, measure: Measure, clip: Box) -> None:
        self.picture, self.look, self.measure, self.clip = picture, look, measure, clip
        self.c = look.palette
        self.text_shown = look.scale >= LEAST_SCALE_FOR_TEXT
        self._shapes: dict[str, Callable[[Shape], Iterator[Mark]]] = {
            "equipment": self._equipment, "item": self._item, "unit": self._unit, "bank": self._bank, "fold": self._fold,
            "output": self._output,
        }  # fmt: skip

    def marks(self) -> Iterator[Mark]:
        """Everything inside the clip, what lies on top last."""
        chart, clip = self.picture.diagram, self.clip
        for band in chart.bands[1:]:
            y = band.top - 24.0
            yield line([(10.0, y), (chart.width - 10.0, y)], stroke=self.c.line, width=1.0, dash=(4.0, 2.0), blunt=True)
        ribbons = [r for r in chart.ribbons if self._ribbon_visible(r)]
        shapes = [s for s in (*chart.shapes, *chart.loose) if self._visible(s.box)]
        for r in ribbons:
            yield from self._ribbon(r)
        for shape in shapes:
            yield from self._shapes.get(shape.kind, self._hub)(shape)
        for stud in chart.studs:
            if clip.contains(stud.x, stud.y):
                yield from self._stud(stud)
        bands = [(chart.middle - 60.0, band) for band in chart.bands] if self.text_shown else []
        placed = place(self.picture, self.look, self.measure, shapes, ribbons, bands, self.text_shown)
        for mark in placed.badges:
            yield from badge(self.c, mark.verdict, mark.x, mark.y)
        for text in placed.texts:
            yield from self._text(
                text.box, text.words, text.px, text.strong, self.c.soft if text.soft else self.c.ink, halo=text.halo
            )

    def _visible(self, box: Box) -> bool:
        clip = self.clip
        return (
            box.bottom + 30 >= clip.y and box.y - 30 <= clip.bottom
            and box.right + 60 >= clip.x and box.x - 60 <= clip.right
        )  # fmt: skip

    def _ribbon_visible(self, r: Ribbon) -> bool:
        return max(r.y0, r.y1) + 40 >= self.clip.y and min(r.y0, r.y1) - 40 <= self.clip.bottom

    def _text(
        self, box: Box, text: str, px: float, strong: bool = False, color: str | None = None,
        anchor: Anchor = "middle", halo: bool = False,
    ) -> Iterator[Mark]:  # fmt: skip
        """Words in a box, halfway down, cut where they do not fit."""
        shown = elided(text, px, strong, int(box.w) + 2, self.measure)
        if halo:
            wide, high = self.measure(shown, px, strong) + 6.0, (ASCENT + DESCENT) * px
            yield Rect(box.cx - wide / 2, box.cy - high / 2, wide, high, faint(self.c.paper, HALO), "none", 0.0, 3.0)
        x = {"start": box.x, "middle": box.cx, "end": box.right}[anchor]
        yield Text(x, box.cy + (ASCENT - DESCENT) / 2 * px, shown, anchor, px, strong, color or self.c.ink)

    # Conductors

    def _ribbon(self, r: Ribbon) -> Iterator[Mark]:
        c, run = self.c, self.picture.plan.run_by_id.get(r.run)
        width, color, tone = width_of(self.picture, r.run), c.line, 0.0
        if run is not None and self.picture.study is not None:
            tone = self.look.lens.tone(self.picture, run, self.look.scenario)
            color = c.copper(tone) if isfinite(tone) else c.line
        steps = steps_of(r)
        ring = self._ring(r.run, self.look.has(r.run))
        if ring:
            yield Path(steps, stroke=faint(c.accent, ring), width=width + 6.0, blunt=True)
            yield Path(steps, stroke=c.paper, width=width + 2.5, blunt=True)
        yield Path(steps, stroke=color, width=width, blunt=True, run=r.run, title=self._told(r.run))
        if isfinite(tone) and tone > 1.0:
            # Beyond its limit: bars across in the colour of danger.
            yield Path(steps, stroke=c.over, width=max(width, 6.0) + 2.0, dash=(3.0, 5.0), blunt=True)
        if run is not None:
            yield from self._arrows(r, run.id, width, color)
            read = self.picture.read.get(r.run) if self.look.lens.id == "read" else None
            if read is not None:
                yield reading(c, *r.point(0.5), read.times)

    def _told(self, run_id: str) -> str:
        """What a conductor on paper or in a browser says of itself; the window has more to say on pointing."""
        run = self.picture.plan.run_by_id.get(run_id)
        if not self.look.named or run is None or self.picture.study is None:
            return ""
        size = self.picture.study.wiring.parts.conductors[run.conductor]
        current = words.amps(self.picture.run(run_id, self.look.scenario).current_a)
        return f"{run.id}: {size.label}, {run.length_m:g} m, {current}"

    def _arrows(self, r: Ribbon, run_id: str, width: float, color: str) -> Iterator[Mark]:
        current = self.picture.run(run_id, self.look.scenario).current_a
        length = abs(r.x1 - r.x0) + abs(r.y1 - r.y0)
        if not isfinite(current) or abs(current) < 1e-3 or length < 22.0:
            return
        way = 1.0 if (current > 0.0) == r.forward else -1.0
        inside = width >= 7.0
        size = min(max(width * 0.42, 3.0), 5.0) if inside else 4.5
        ink = ("#16191d" if is_light(color) else "#ffffff") if inside else self.c.ink
        yield from _arrows_along(r, way, size, ink)

    # Things

    def _ring(self, id_: str, chosen: bool) -> int:
        """How strongly something is ringed: what is selected, what guards the place under the pointer, its circuit."""
        look = self.look
        rings = ((chosen, 255), (id_ in look.guards, 200), (id_ == look.hovered, 120), (id_ in look.lit, 60))
        return next((alpha for holds, alpha in rings if holds), 0)

    def _outline(self, s: Shape, radius: float, fill: str, edge: str, width: float = LINE_PX) -> Iterator[Mark]:
        b = s.box
        alpha = self._ring(s.id, s.stands_for(self.look.selected) or s.id in self.look.also)
        if alpha:
            thick = 5.0 if s.id in self.look.guards else 3.0
            yield Rect(b.x - 2, b.y - 2, b.w + 4, b.h + 4, "none", faint(self.c.accent, alpha), thick, radius + 2.0)
        thing = self.picture.plan.by_id.get(s.id) if self.look.named else None
        yield Rect(*b, fill, edge, width, radius, thing.title if thing is not None else "")

    def _equipment(self, s: Shape) -> Iterator[Mark]:
        e, c, b = self.picture.plan.by_id.get(s.id), self.c, s.box
        chosen = self.look.row == s.id
        yield from self._outline(s, 6.0, c.sheet, c.accent if chosen else c.steel, 2.2 if chosen else LINE_PX)
        if not isinstance(e, Equipment) or not self.text_shown:
            return
        yield from self._text(Box(b.x + 6, b.y + 3, b.w - 12, 18), e.title, 13, True)
        text = self.look.lens.equipment(self.picture, e, self.look.scenario)
        r = self.picture.equipment(e, self.look.scenario)
        off = r.mode in ("off", "")
        gives = r.current_a < -1e-9 and self.look.lens.id != "heat"
        color = c.soft if off else c.good if gives else c.ink
        if self.look.lens.id == "drop" and not off and r.drop_share > r.limit_share:
            color = c.over
        yield from self._text(Box(b.x + 4, b.y + 20, b.w - 8, 17), text, 13, False, color)

    def _fold(self, s: Shape) -> Iterator[Mark]:
        """Circuits of a bar as one block: how many, and what they come to."""
        c, plan, b = self.c, self.picture.plan, s.box
        for off in (4.0, 2.0):
            yield Rect(b.x + off, b.y + off, b.w - 2 * off, b.h - off, c.sheet, c.line, 1.2, 6.0)
        yield from self._outline(s, 6.0, c.raised, c.steel)
        if not self.text_shown:
            return
        held = [x for id_ in s.holds if isinstance(x := plan.by_id.get(id_), Equipment)]
        total = sum(a for e in held if isfinite(a := self.picture.equipment(e, self.look.scenario).current_a))
        title = say_many("{count} circuit", "{count} circuits", len(held))
        yield from self._text(Box(b.x + 6, b.y + 3, b.w - 12, 18), title, 13, True)
        yield from self._text(Box(b.x + 4, b.y + 20, b.w - 8, 17), _way(total) + words.amps(total), 13)

    def _item(self, s: Shape) -> Iterator[Mark]:
        yield from self._outline(s, 3.0, self.c.sheet, self.c.steel)
        yield from symbol(self.picture.plan.by_id.get(s.id), s.box, self.c.ink)

    def _post(self, s: Shape) -> Iterator[Mark]:
        """The sign of a side, in the corner where its cable begins."""
        b, plus = s.box, s.side == "plus"
        x = b.right - 16.0 if plus else b.x + 3.0
        yield from self._text(Box(x, b.y + 4, 13, 16), "+" if plus else "−", 16, True, self.c.paper)

    def _unit(self, s: Shape) -> Iterator[Mark]:
        unit, c, b, plus = self.picture.plan.by_id.get(s.id), self.c, s.box, s.side == "plus"
        yield from self._outline(s, 4.0, c.steel, c.steel)
        if not isinstance(unit, Battery) or not self.text_shown:
            return
        yield from self._post(s)
        anchor: Anchor = "start" if plus else "end"
        current = self.picture.through(unit.id, self.look.scenario)[0]
        name = Box(b.x + (5 if plus else 15), b.y + 4, b.w - 20, 16)
        yield from self._text(name, unit.title, 12, True, c.paper, anchor)
        volts = self.picture.battery_v(unit.id, self.look.scenario)
        text = _way(current) + words.amps(current) if plus else words.volts(volts)
        yield from self._text(Box(b.x + 4, b.y + 20, b.w - 8, 16), text, 12, False, c.paper, anchor)

    def _bank(self, s: Shape) -> Iterator[Mark]:
        """A bank of several units as one block; its page shows what is inside."""
        c, b, plus, scenario = self.c, s.box, s.side == "plus", self.look.scenario
        yield from self._outline(s, 4.0, c.steel, c.steel)
        if not self.text_shown:
            return
        yield from self._post(s)
        units = sum(isinstance(self.picture.plan.by_id.get(i), Battery) for i in s.holds)
        amps, volts = self.picture.bank(s.id, scenario)
        figure = _way(amps) + words.amps(amps) if plus else words.volts(volts)
        lines = [(say("Bank"), True), (say_many("{count} unit", "{count} units", units), False), (figure, True)]
        spread = self.picture.spread(s.id, scenario)
        if plus and isfinite(spread):
            lines.append((say("spread {spread:.0f}\u200a%", spread=100 * spread), False))
        for k, (text, strong) in enumerate(lines):
            px, more = (11, 5) if k == 3 else (12, 0)
            room = Box(b.x + 6, b.y + 4 + 19 * k, b.w - 12 + more, 17)
            yield from self._text(room, text, px, strong, c.paper, "start" if plus else "end")

    def _output(self, s: Shape) -> Iterator[Mark]:
        e, c, b, plus = self.picture.plan.by_id.get(s.id), self.c, s.box, s.side == "plus"
        yield from self._outline(s, 4.0, c.raised, c.steel)
        if not isinstance(e, Converter) or not self.text_shown:
            return
        v, amps = self.picture.output(e, self.look.scenario)
        title = f"{e.out_nominal_v:g} V {'+' if plus else '−'}"
        yield from self._text(Box(b.x + 3, b.y + 4, b.w - 6, 16), title, 12, True)
        figure = words.amps(amps) if plus else words.volts(v)
        yield from self._text(Box(b.x + 3, b.y + 20, b.w - 6, 16), figure, 12)

    def _hub(self, s: Shape) -> Iterator[Mark]:
        c = self.c
        fill = c.soft if s.kind == "chassis" else c.accent if s.side == "plus" else c.steel
        yield from self._outline(s, 3.0, fill, fill)

    def _stud(self, s: StudMark) -> Iterator[Mark]:
        c, chosen = self.c, s.ref == self.look.selected
        if chosen or s.ref == self.look.hovered:
            yield Circle(s.x, s.y, 8.0, c.sheet, c.accent if chosen else c.soft, 2.5)
        yield Circle(s.x, s.y, 3.4, c.ink if s.taken else "none", c.sheet, LINE_PX)


@lru_cache(maxsize=4096)
def _arrows_along(r: Ribbon, way: float, size: float, ink: str) -> tuple[Path, ...]:
    """Arrows on a ribbon, remembered: most of what the map shows does not turn with an edit."""
    count = max(1, int((abs(r.x1 - r.x0) + abs(r.y1 - r.y0)) // ARROW_EVERY))
    made = []
    for k in range(count):
        t = (k + 0.5) / count
        (x1, y1), (x0, y0) = r.point(min(t + 0.02, 1.0)), r.point(max(t - 0.02, 0.0))
        norm = way * (hypot(x1 - x0, y1 - y0) or 1.0)
        made.append(arrow(*r.point(t), (x1 - x0) / norm, (y1 - y0) / norm, size, ink))
    return tuple(made)


def _way(amps: float) -> str:
    """A mark before a current that flows in."""
    return "◂ " if amps < -1e-3 else ""
