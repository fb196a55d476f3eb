"""Small shapes of the map: devices after IEC 60617, verdicts, arrows, readings."""

from collections.abc import Iterator, Sequence

from jaunty_copper.codes.checks import Verdict
from jaunty_copper.diagram.shapes import Box
from jaunty_copper.documents.drawing import Circle, Mark, Path, Rect, line
from jaunty_copper.documents.palette import Palette
from jaunty_copper.plan.model import Breaker, Contactor, Disconnect, Fuse, PlugConnector, Shunt, Splice

THICK = 1.6
ROUND = 0.5523
"""Of a quarter circle's handles, as a share of its radius."""
Points = Sequence[tuple[float, float]]


def closed(points: Points, fill: str, stroke: str, width: float) -> Path:
    """A polygon.

    Parameters
    ----------
    points : sequence of tuple of float
        Its corners, px.
    fill, stroke : str
        Colours.
    width : float
        Of its edge, px.
    """
    steps = tuple(("M" if k == 0 else "L", p) for k, p in enumerate(points))
    return Path((*steps, ("Z", ())), fill=fill, stroke=stroke, width=width)


def _left_half(x: float, y: float, r: float) -> tuple[tuple[str, tuple[float, ...]], ...]:
    """The left half of a circle, from its top to its foot."""
    k = ROUND * r
    return (
        ("M", (x, y - r)), ("C", (x - k, y - r, x - r, y - k, x - r, y)),
        ("C", (x - r, y + k, x - k, y + r, x, y + r)),
    )  # fmt: skip


def symbol(x: object, box: Box, ink: str) -> Iterator[Mark]:
    """What kind of device: the outlines of IEC 60617 drawn small.

    Parameters
    ----------
    x : object
        The device.
    box : Box
        In which it stands.
    ink : str
        Colour.
    """
    cx, cy, left, right = box.cx, box.cy, box.x + 4.0, box.right - 4.0

    def drawn(*points: tuple[float, float]) -> Path:
        return line(points, stroke=ink, width=THICK)

    match x:
        case Fuse():
            yield Rect(cx - 11, cy - 4.5, 22, 9, stroke=ink, width=THICK)
            yield drawn((left, cy), (right, cy))
        case Breaker() | Disconnect() | Contactor():
            yield drawn((left, cy), (cx - 9, cy))
            yield drawn((cx + 9, cy), (right, cy))
            yield drawn((cx - 9, cy), (cx + 8, cy - (7 if not x.closed else 4)))
            if isinstance(x, Breaker):
                yield drawn((cx + 6, cy - 3), (cx + 12, cy + 3))
                yield drawn((cx + 12, cy - 3), (cx + 6, cy + 3))
            elif isinstance(x, Contactor):
                yield Path(_left_half(cx + 8.5, cy, 3.5), stroke=ink, width=THICK)
            else:
                yield drawn((cx + 9, cy - 3), (cx + 9, cy + 3))
        case Shunt():
            yield Rect(cx - 11, cy - 4.5, 22, 9, stroke=ink, width=THICK)
            yield drawn((cx - 7, cy + 4.5), (cx - 7, cy + 9))
            yield drawn((cx + 7, cy + 4.5), (cx + 7, cy + 9))
        case Splice():
            yield drawn((left, cy), (right, cy))
            yield Rect(cx - 9, cy - 4.5, 18, 9, stroke=ink, width=THICK, round=4.0)
        case PlugConnector():
            yield drawn((left, cy), (cx - 3, cy))
            yield Path(_left_half(cx + 0.5, cy, 5.5), stroke=ink, width=THICK)
            yield drawn((cx + 2, cy), (right, cy))
        case _:
            yield drawn((left, cy), (right, cy))


def badge(c: Palette, verdict: Verdict, x: float, y: float, size: float = 15.0) -> Iterator[Mark]:
    """The shape of a verdict: octagon for a danger, triangle for a defect, disc for advice.

    Parameters
    ----------
    c : Palette
        Colours.
    verdict : Verdict
        What it says.
    x, y : float
        Its middle, px.
    size : float
        Its height, px.
    """
    h, fill = size / 2, c.verdict(verdict)
    match verdict:
        case Verdict.DANGER:
            k = h * 0.42
            corners = ((-k, -h), (k, -h), (h, -k), (h, k), (k, h), (-k, h), (-h, k), (-h, -k))
            yield closed([(x + dx, y + dy) for dx, dy in corners], fill, c.sheet, 1.5)
        case Verdict.DEFECT:
            yield closed([(x, y - h), (x + 1.08 * h, y + 0.85 * h), (x - 1.08 * h, y + 0.85 * h)], fill, c.sheet, 1.5)
        case Verdict.ADVICE:
            yield Circle(x, y, h * 0.9, fill, c.sheet, 1.5)
    lift = h * 0.15 if verdict is Verdict.DEFECT else 0.0
    yield line([(x, y - h * 0.45 + lift), (x, y + h * 0.1 + lift)], stroke=c.sheet, width=2.0)
    yield Circle(x, y + h * 0.5 + lift * 0.6, 1.0, c.sheet, "none")


def arrow(x: float, y: float, dx: float, dy: float, size: float, ink: str) -> Path:
    """Two strokes that show a way.

    Parameters
    ----------
    x, y : float
        Where, px.
    dx, dy : float
        The way, of length 1.
    size : float
        How far it reaches, px.
    ink : str
        Colour.
    """
    back_x, back_y = x - dx * size * 0.4, y - dy * size * 0.4
    return line(
        [(back_x - dy * size, back_y + dx * size), (x + dx * size, y + dy * size), (back_x + dy * size, back_y - dx * size)],
        stroke=ink, width=1.8,
    )  # fmt: skip


def reading(c: Palette, x: float, y: float, times: float) -> Mark:
    """A disc where a reading is as expected; a triangle that grows with how far it is off.

    Parameters
    ----------
    c : Palette
        Colours.
    x, y : float
        Its middle, px.
    times : float
        By how many tolerances it is off.
    """
    if times <= 1.0:
        return Circle(x, y, 5.0, c.good, c.sheet, 1.5)
    size = 7.0 if times <= 2.0 else 10.0 if times <= 5.0 else 15.0
    return closed([(x, y - size), (x + size, y + 0.8 * size), (x - size, y + 0.8 * size)], c.over, c.sheet, 1.5)
