"""The map of a scenario on paper and as SVG: the marks of the window, with the ids that a finger points at there."""

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.commissioning.bands import bands
from jaunty_copper.diagram.shapes import Box
from jaunty_copper.documents.drawing import Drawing, Text, as_svg
from jaunty_copper.documents.fonts import printed_width
from jaunty_copper.documents.map.lens import LENSES, Lens
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.marks import MapMarks
from jaunty_copper.documents.map.picture import Picture, Read
from jaunty_copper.documents.palette import PRINT
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say

MARGIN, HEAD = 14.0, 22.0


def map_svg(known: Assessment, scenario: str | None, lens: Lens = LENSES[0], judged: bool = True) -> str:
    """The map of one scenario through a lens as an SVG document."""
    return as_svg(map_drawing(known, scenario, lens, judged))


def map_drawing(
    known: Assessment, scenario: str | None, lens: Lens = LENSES[0], judged: bool = True, units: Units | None = None,
    read: dict[str, Read] | None = None, ringed: frozenset[str] = frozenset(),
) -> Drawing:  # fmt: skip
    """The map of one scenario through a lens, as wide and high as on the screen in pixels.

    Parameters
    ----------
    known : Assessment
        Of the plan.
    scenario : str or None
        Its id; None for the worst of all.
    lens : Lens
        What it is to tell.
    judged : bool
        Whether what is wrong is marked.
    units : Units, optional
        Of sizes and lengths; metric where none are given.
    read : dict of str to Read, optional
        What was measured, by place.
    ringed : frozenset of str
        Ids of what is ringed, as what is selected in the window.
    """
    spread = bands(known.case) if lens.id == "spread" else None
    picture = Picture(known.plan, known.diagram, known, read or {}, judged=judged, bands=spread)
    chart = known.diagram
    when = next((s.title for s in known.plan.scenarios if s.id == scenario), say("Worst case"))
    title = " · ".join((known.plan.title or say("Plan"), when, *((lens.title,) if lens is not LENSES[0] else ())))
    d = Drawing(title, -MARGIN, -MARGIN - HEAD, chart.width + 2 * MARGIN, chart.height + 2 * MARGIN + HEAD)
    d.add(Text(0.0, -16.0, title, "start", 14, True))
    look = Look(PRINT, lens, scenario, units or Units(), also=ringed, named=True)
    d.add(*MapMarks(picture, look, printed_width, Box(0.0, 0.0, chart.width, chart.height)).marks())
    return d
