"""The map as an SVG picture: legible in black and white, no Qt needed."""

from math import sqrt
from xml.sax.saxutils import escape, quoteattr

from jaunty_copper.layout.chart import lay_out
from jaunty_copper.layout.shapes import Chart, Ribbon, Shape
from jaunty_copper.plan.model import Battery, Converter, Equipment
from jaunty_copper.study.study import State

INK, COPPER, STEEL, PAPER = "#16191d", "#a8511b", "#3b444d", "#ffffff"
MARGIN = 14.0


def map_svg(state: State) -> str:
    """The map of one solved scenario, with currents and volts.

    Parameters
    ----------
    state : State
        A solved state of the plan.

    Returns
    -------
    str
        An SVG document in UTF-8, as wide and high as the map in pixels.
    """
    plan = state.wiring.plan
    chart = lay_out(state.wiring)
    width, height = chart.width + 2 * MARGIN, chart.height + 2 * MARGIN + 22.0
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{-MARGIN:g} {-MARGIN - 22:g} {width:g} {height:g}" '
        f'width="{width:g}" height="{height:g}" font-family="Inter, Helvetica, Arial, sans-serif" font-size="12">',
        f"<title>{escape(plan.name or 'Plan')}, {escape(state.scenario.title)}</title>",
        f'<rect x="{-MARGIN:g}" y="{-MARGIN - 22:g}" width="{width:g}" height="{height:g}" fill="{PAPER}"/>',
        _text(0.0, -16.0, f"{plan.name or 'Plan'} · {state.scenario.title}", "start", 14, True),
    ]
    out += [_ribbon(state, r) for r in chart.ribbons]
    out += [_shape(state, s) for s in (*chart.shapes, *chart.loose)]
    out += [
        f'<circle cx="{s.x:g}" cy="{s.y:g}" r="3" fill="{PAPER if s.taken else STEEL}" stroke="{INK}"/>'
        for s in chart.studs
    ]
    out += [_text(chart.middle, b.top - 6.0, b.label, "start", 12, True) for b in chart.bands]
    out += _sizes(state, chart)
    return "\n".join([*out, "</svg>", ""])


def _text(x: float, y: float, text: str, anchor: str = "middle", size: float = 12, strong: bool = False) -> str:
    weight = ' font-weight="600"' if strong else ""
    return f'<text x="{x:g}" y="{y:g}" text-anchor="{anchor}" font-size="{size:g}"{weight} fill="{INK}">{escape(text)}</text>'


def _ribbon(state: State, r: Ribbon) -> str:
    """A conductor as wide as its section, with its id, size and current to read on pointing."""
    run = state.wiring.plan.run_by_id[r.run]
    size = state.wiring.parts.conductors[run.conductor]
    (ax, ay), (bx, by) = r.handles
    straight = r.y0 == r.y1 and not r.bulge
    path = f"M{r.x0:g} {r.y0:g}" + (
        f"L{r.x1:g} {r.y1:g}" if straight else f"C{ax:g} {ay:g} {bx:g} {by:g} {r.x1:g} {r.y1:g}"
    )
    words = f"{run.id}: {size.label}, {run.length_m:g} m, {abs(state.current(run.id)):.3g} A"
    return (
        f'<path d="{path}" fill="none" stroke="{COPPER}" stroke-width="{2.0 + 1.35 * sqrt(size.area_mm2 * run.parallel):.2f}" '
        f"data-run={quoteattr(run.id)}><title>{escape(words)}</title></path>"
    )


def _shape(state: State, s: Shape) -> str:
    """Boxes with what stands in them; bars filled."""
    b, plan = s.box, state.wiring.plan
    thing = plan.by_id.get(s.id)
    title = thing.title if thing is not None else s.id
    filled = s.kind in ("bar", "post", "chassis")
    rect = (
        f'<rect x="{b.x:g}" y="{b.y:g}" width="{b.w:g}" height="{b.h:g}" rx="3" fill="{STEEL if filled else PAPER}" '
        f'stroke="{INK}" stroke-width="1.3"><title>{escape(title)}</title></rect>'
    )
    if filled:
        return rect + _text(b.cx, b.y - 6.0, title, strong=True)
    if s.kind == "equipment" and isinstance(thing, Equipment):
        volts, amps = state.port(thing)
        return (
            rect
            + _text(b.cx, b.cy - 2.0, title, strong=True)
            + _text(b.cx, b.cy + 13.0, f"{abs(amps):.3g} A   {volts:.2f} V")
        )
    if s.kind == "item":
        rating = getattr(thing, "rating_a", None)
        return (
            rect
            + _text(b.cx, b.cy + 4.0, s.id, size=11, strong=True)
            + (_text(b.cx, b.bottom + 13.0, f"{rating:g} A", size=11) if rating else "")
        )
    if s.kind in ("bank", "unit") and isinstance(thing, Battery):
        sign = "+" if s.side == "plus" else "−"
        words = f"{len([h for h in s.holds if isinstance(plan.by_id.get(h), Battery)])} units" if s.holds else title
        return rect + _text(b.cx, b.y + 18.0, f"Bank {sign}", strong=True) + _text(b.cx, b.y + 34.0, words, size=11)
    if isinstance(thing, Converter):
        title = f"{thing.out_nominal_v:g} V {'+' if s.side == 'plus' else '−'}"
    return rect + _text(b.cx, b.cy + 4.0, title, size=11)


def _sizes(state: State, chart: Chart) -> list[str]:
    """Size and length along the longer straight conductors."""
    found = []
    for r in chart.ribbons:
        if r.y0 != r.y1 or abs(r.x1 - r.x0) < 90.0:
            continue
        run = state.wiring.plan.run_by_id[r.run]
        size = state.wiring.parts.conductors[run.conductor].label
        found.append(_text((r.x0 + r.x1) / 2, r.y0 - 9.0, f"{run.id}  {size}, {run.length_m:g} m", size=11))
    return found
