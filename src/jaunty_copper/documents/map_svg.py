"""The map as a drawing: legible in black and white, no Qt needed."""

from math import sqrt

from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.diagram.shapes import Diagram, Ribbon, Shape
from jaunty_copper.documents.drawing import COPPER, INK, PAPER, STEEL, Circle, Drawing, Mark, Path, Rect, Text, as_svg
from jaunty_copper.language import say, say_many
from jaunty_copper.network.study import State
from jaunty_copper.plan.model import Battery, Converter, Equipment

MARGIN = 14.0


def map_svg(state: State) -> str:
    """The map of one solved scenario, with currents and volts, as an SVG document."""
    return as_svg(map_drawing(state))


def map_drawing(state: State) -> Drawing:
    """The map of one solved scenario, with currents and volts, as wide and high as on the screen in pixels."""
    plan = state.wiring.plan
    chart = lay_out(state.wiring)
    width, height = chart.width + 2 * MARGIN, chart.height + 2 * MARGIN + 22.0
    title = f"{plan.title or 'Plan'} · {state.scenario.title}"
    d = Drawing(title, -MARGIN, -MARGIN - 22.0, width, height)
    d.add(Text(0.0, -16.0, title, "start", 14, True))
    d.add(*(_ribbon(state, r) for r in chart.ribbons))
    for s in (*chart.shapes, *chart.loose):
        d.add(*_shape(state, s))
    d.add(*(Circle(s.x, s.y, 3.0, PAPER if s.taken else STEEL) for s in chart.studs))
    d.add(*(Text(chart.middle, b.top - 6.0, b.label, "start", 12, True) for b in chart.bands))
    d.add(*_sizes(state, chart))
    return d


def _ribbon(state: State, r: Ribbon) -> Path:
    """A conductor as wide as its section, with its id, size and current to read on pointing."""
    run = state.wiring.plan.run_by_id[r.run]
    size = state.wiring.parts.conductors[run.conductor]
    (ax, ay), (bx, by) = r.handles
    straight = r.y0 == r.y1 and not r.bulge
    end = ("L", (r.x1, r.y1)) if straight else ("C", (ax, ay, bx, by, r.x1, r.y1))
    words = f"{run.id}: {size.label}, {run.length_m:g} m, {abs(state.current(run.id)):.3g} A"
    return Path(
        (("M", (r.x0, r.y0)), end), stroke=COPPER, width=2.0 + 1.35 * sqrt(size.area_mm2 * run.parallel), title=words,
        run=run.id,
    )  # fmt: skip


def _shape(state: State, s: Shape) -> list[Mark]:
    """Boxes with what stands in them; bars filled."""
    b, plan = s.box, state.wiring.plan
    thing = plan.by_id.get(s.id)
    title = thing.title if thing is not None else s.id
    filled = s.kind in ("bar", "post", "chassis")
    rect = Rect(b.x, b.y, b.w, b.h, STEEL if filled else PAPER, INK, 1.3, 3.0, title)
    if filled:
        return [rect, Text(b.cx, b.y - 6.0, title, strong=True)]
    if s.kind == "equipment" and isinstance(thing, Equipment):
        volts, amps = state.port(thing)
        return [
            rect, Text(b.cx, b.cy - 2.0, title, strong=True),
            Text(b.cx, b.cy + 13.0, f"{abs(amps):.3g} A   {volts:.2f} V"),
        ]  # fmt: skip
    if s.kind == "item":
        rating = getattr(thing, "rating_a", None)
        below: list[Mark] = [Text(b.cx, b.bottom + 13.0, f"{rating:g} A", size=11)] if rating else []
        return [rect, Text(b.cx, b.cy + 4.0, s.id, size=11, strong=True), *below]
    if s.kind in ("bank", "unit") and isinstance(thing, Battery):
        sign = "+" if s.side == "plus" else "−"
        words = (
            say_many(
                "{count} unit", "{count} units", len([h for h in s.holds if isinstance(plan.by_id.get(h), Battery)])
            )
            if s.holds
            else title
        )
        return [
            rect,
            Text(b.cx, b.y + 18.0, say("Bank {sign}", sign=sign), strong=True),
            Text(b.cx, b.y + 34.0, words, size=11),
        ]
    if isinstance(thing, Converter):
        title = f"{thing.out_nominal_v:g} V {'+' if s.side == 'plus' else '−'}"
    return [rect, Text(b.cx, b.cy + 4.0, title, size=11)]


def _sizes(state: State, chart: Diagram) -> list[Text]:
    """Size and length along the longer straight conductors."""
    found = []
    for r in chart.ribbons:
        if r.y0 != r.y1 or abs(r.x1 - r.x0) < 90.0:
            continue
        run = state.wiring.plan.run_by_id[r.run]
        size = state.wiring.parts.conductors[run.conductor].label
        found.append(Text((r.x0 + r.x1) / 2, r.y0 - 9.0, f"{run.id}  {size}, {run.length_m:g} m", size=11))
    return found
