"""Drawings as lists of shapes, written once and put down as SVG or into a PDF."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from html import escape
from typing import Any, Literal, NamedTuple

from jaunty_copper.plan.text import one_line

INK, COPPER, STEEL, PAPER, SOFT, STOP = "#16191d", "#a8511b", "#3b444d", "#ffffff", "#6b737b", "#b3261e"
GROUND, METAL, CHOSEN = "#f1efea", "#d7dade", "#a85119"
"""Tones by what they stand for: print has these, a screen puts its own in their place."""
FONTS = "Inter, Helvetica, Arial, sans-serif"
ASCENT, DESCENT = 0.969, 0.241
"""Of the font, as shares of its size: how far letters rise above and reach below their foot."""
Anchor = Literal["start", "middle", "end"]


class Rect(NamedTuple):
    """A rectangle, its corners a little round."""

    x: float
    y: float
    w: float
    h: float
    fill: str = "none"
    stroke: str = INK
    width: float = 1.3
    round: float = 0.0
    title: str = ""
    run: str = ""


class Path(NamedTuple):
    """Straight and curved pieces: M, L and C with their points, Z.

    Attributes
    ----------
    blunt : bool
        Whether its ends stop where its line ends, on the screen too.
    """

    steps: tuple[tuple[str, tuple[float, ...]], ...]
    fill: str = "none"
    stroke: str = INK
    width: float = 1.3
    dash: tuple[float, ...] = ()
    title: str = ""
    run: str = ""
    blunt: bool = False


class Circle(NamedTuple):
    """A disc or ring."""

    x: float
    y: float
    r: float
    fill: str = "none"
    stroke: str = INK
    width: float = 1.0


class Text(NamedTuple):
    """A line of words; y is that of its foot."""

    x: float
    y: float
    text: str
    anchor: Anchor = "middle"
    size: float = 12.0
    strong: bool = False
    color: str = INK
    turned: bool = False


Mark = Rect | Path | Circle | Text


@dataclass
class Drawing:
    """Marks on a sheet, in its own units, y down.

    Attributes
    ----------
    x, y, width, height : float
        What of the plane is shown.
    """

    title: str
    x: float
    y: float
    width: float
    height: float
    marks: list[Mark] = field(default_factory=list)

    def add(self, *marks: Mark) -> None:
        """Put further marks on top."""
        self.marks.extend(marks)


def line(points: Sequence[tuple[float, float]], **look: Any) -> Path:
    """A line through points.

    Parameters
    ----------
    points : sequence of tuple of float
        x and y, px.
    """
    return Path(tuple(("M" if k == 0 else "L", p) for k, p in enumerate(points)), **look)


def opaque(color: str) -> tuple[str, float]:
    """A colour, #rrggbb or #rrggbbaa, as #rrggbb and how much of what lies below it covers, 0 to 1."""
    return (color[:7], int(color[7:], 16) / 255.0) if len(color) == 9 else (color, 1.0)


def _ink(name: str, color: str) -> str:
    plain, share = opaque(color)
    return f'{name}="{plain}"' if share == 1.0 else f'{name}="{plain}" {name}-opacity="{share:.3g}"'


def spoken(text: str) -> str:
    """Words as they stand in XML, without what no XML may hold."""
    return escape(one_line(text), quote=False)


def as_svg(d: Drawing) -> str:
    """A drawing as an SVG document in UTF-8."""
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{d.x:g} {d.y:g} {d.width:g} {d.height:g}" '
        f'width="{d.width:g}" height="{d.height:g}" font-family="{FONTS}" font-size="12" xml:space="preserve">',
        f"<title>{spoken(d.title)}</title>",
        f'<rect x="{d.x:g}" y="{d.y:g}" width="{d.width:g}" height="{d.height:g}" fill="{PAPER}"/>',
        *(_svg(m) for m in d.marks),
    ]
    return "\n".join([*out, "</svg>", ""])


def _svg(m: Mark) -> str:
    match m:
        case Rect():
            inner = f"<title>{spoken(m.title)}</title>" if m.title else ""
            return (
                f'<rect x="{m.x:g}" y="{m.y:g}" width="{m.w:g}" height="{m.h:g}" rx="{m.round:g}" {_ink("fill", m.fill)} '
                f'{_ink("stroke", m.stroke)} stroke-width="{m.width:g}">{inner}</rect>'
            )
        case Path():
            steps = "".join(f"{letter}{' '.join(f'{v:.6g}' for v in values)}" for letter, values in m.steps)
            dash = f' stroke-dasharray="{" ".join(f"{v:g}" for v in m.dash)}"' if m.dash else ""
            run = f' data-run="{escape(m.run)}"' if m.run else ""
            inner = f"<title>{spoken(m.title)}</title>" if m.title else ""
            return f'<path d="{steps}" {_ink("fill", m.fill)} {_ink("stroke", m.stroke)} stroke-width="{m.width:.2f}"{dash}{run}>{inner}</path>'
        case Circle():
            return f'<circle cx="{m.x:g}" cy="{m.y:g}" r="{m.r:g}" {_ink("fill", m.fill)} {_ink("stroke", m.stroke)} stroke-width="{m.width:g}"/>'
    weight = ' font-weight="600"' if m.strong else ""
    turn = f' transform="rotate(-90 {m.x:g} {m.y:g})"' if m.turned else ""
    return (
        f'<text x="{m.x:g}" y="{m.y:g}" text-anchor="{m.anchor}" font-size="{m.size:g}"{weight} fill="{m.color}"{turn}>'
        f"{spoken(m.text)}</text>"
    )
