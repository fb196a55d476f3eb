"""What of a drawing is another than before, and how far a mark reaches."""

from collections.abc import Sequence

from jaunty_copper.diagram.shapes import Box
from jaunty_copper.documents.drawing import ASCENT, DESCENT, Circle, Mark, Path, Rect, Text
from jaunty_copper.documents.map.places import Measure

OVERHANG = 0.3
"""How far letters may reach beyond what is measured of a line of words, in sizes of their font."""


def differing(before: Sequence[Mark], after: Sequence[Mark]) -> list[Mark] | None:
    """Marks that only one of two drawings has; None where those of both do not lie upon each other as they did."""
    apart = set(before) ^ set(after)
    if [m for m in before if m not in apart] != [m for m in after if m not in apart]:
        return None
    return [m for m in (*before, *after) if m in apart]


def extent(m: Mark, measure: Measure) -> Box:
    """A box that a mark does not reach out of, but for what smooths its edges.

    Parameters
    ----------
    measure : Measure
        How wide words are where they are put down.
    """
    match m:
        case Rect():
            box, edge = Box(m.x, m.y, m.w, m.h), m.width / 2
        case Circle():
            box, edge = Box(m.x - m.r, m.y - m.r, 2 * m.r, 2 * m.r), m.width / 2
        case Path():
            # A curve stays inside the hull of its points; its corners are mitred to at most twice their width.
            xs = [v for _, values in m.steps for v in values[::2]]
            ys = [v for _, values in m.steps for v in values[1::2]]
            box, edge = Box(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)), 2.0 * m.width
        case Text():
            wide, edge = measure(m.text, m.size, m.strong), OVERHANG * m.size
            left = {"start": 0.0, "middle": -0.5, "end": -1.0}[m.anchor] * wide
            up, high = ASCENT * m.size, (ASCENT + DESCENT) * m.size
            box = Box(m.x - up, m.y - left - wide, high, wide) if m.turned else Box(m.x + left, m.y - up, wide, high)
    return Box(box.x - edge, box.y - edge, box.w + 2 * edge, box.h + 2 * edge)
