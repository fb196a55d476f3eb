"""Where words and badges stand on the map: each where it covers nothing, or, of words, nowhere."""

from collections.abc import Callable, Iterable, Iterator
from functools import lru_cache
from math import sqrt
from typing import NamedTuple

from jaunty_copper.codes.checks import Verdict
from jaunty_copper.diagram.room import Room
from jaunty_copper.diagram.shapes import Box, Ribbon, Shape, SystemBand
from jaunty_copper.documents.drawing import ASCENT, DESCENT
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.plan.model import Bar, Breaker, Contactor, Disconnect, split_ref

PX = 12.0
"""Size of the words beside things."""
BADGE = 17.0
"""Side of the square in which a badge stands."""
BESIDE = 0.5
"""Air around words and badges, px."""
LEVEL = 2.0
"""Difference of height below which a conductor is drawn level."""
ALONG = (0.5, 0.35, 0.65, 0.2, 0.8)
"""Places along a conductor at which its badge or its words are tried, by how far they are from its left end."""
SLOPE = (0.8, 0.65, 0.5, 0.35, 0.2)
LEAST_ROOM = 46.0
"""Of a conductor that says something when it is selected: shorter ones leave that to the inspector."""
HUBS = ("bar", "post", "chassis")


class MapText(NamedTuple):
    """Words, and where they stand."""

    box: Box
    words: str
    px: float = PX
    strong: bool = False
    soft: bool = False
    halo: bool = False


class Badge(NamedTuple):
    """A verdict, and where it stands."""

    verdict: Verdict
    x: float
    y: float


class PlacedText(NamedTuple):
    """All that stands beside blocks and conductors."""

    texts: tuple[MapText, ...]
    badges: tuple[Badge, ...]


def ribbon_width(area_mm2: float) -> float:
    """Width of a ribbon by its conductor's section, px.

    Parameters
    ----------
    area_mm2 : float
        Copper, all conductors side by side together.
    """
    return 2.0 + 1.35 * sqrt(area_mm2)


def width_of(picture: Picture, run_id: str) -> float:
    """Width of the ribbon of a run, px."""
    run = picture.plan.run_by_id.get(run_id)
    if run is None or picture.study is None:
        return 4.0
    return ribbon_width(picture.study.wiring.parts.conductors[run.conductor].area_mm2 * run.parallel)


Measure = Callable[[str, float, bool], float]
"""Width of words by their text, size and whether they are strong, px."""


@lru_cache(maxsize=8192)
def elided(text: str, px: float, strong: bool, room: int, measure: Measure) -> str:
    """A text cut to a width, remembered: measuring text is half of painting it.

    Parameters
    ----------
    px : float
        Size of the letters.
    room : int
        Width there is, px.
    measure : Measure
        How wide words are.
    """
    if measure(text, px, strong) <= room:
        return text
    keep = len(text) - 1
    while keep > 0 and measure(f"{text[:keep].rstrip()}…", px, strong) > room:
        keep -= 1
    return f"{text[:keep].rstrip()}…"


class _Places:
    """Words and badges that stand so far, and the blocks among them."""

    def __init__(self, picture: Picture, look: Look, measure: Measure, shapes: Iterable[Shape]) -> None:
        self.picture, self.look, self.measure = picture, look, measure
        self.room = Room(BESIDE)
        self.texts: list[MapText] = []
        self.badges: list[Badge] = []
        for shape in shapes:
            self.room.take(shape.box)

    def write(
        self, places: Iterable[tuple[float, float]], words: str, widest: float, strong: bool = False, halo: bool = False,
        px: float = PX, soft: bool = False,
    ) -> bool:  # fmt: skip
        """Write at the first of some places, each the middle of the words, where they cover nothing."""
        shown = elided(words, px, strong, int(widest), self.measure)
        wide, high = self.measure(shown, px, strong) + 2.0, (ASCENT + DESCENT) * px
        for x, y in places:
            box = Box(x - wide / 2, y - high / 2, wide, high)
            if self.room.is_free(box):
                self.room.take(box)
                self.texts.append(MapText(box, shown, px, strong, soft, halo))
                return True
        return False

    def mark(self, places: Iterable[tuple[float, float]], verdict: Verdict, own: Box | None = None) -> None:
        """Put a badge at the first of some places where it covers nothing but what it belongs to."""
        for x, y in places:
            box = Box(x - BADGE / 2, y - BADGE / 2, BADGE, BADGE)
            if self.room.is_free(box, own):
                self.room.take(box)
                self.badges.append(Badge(verdict, x, y))
                return


def place(
    picture: Picture,
    look: Look,
    measure: Measure,
    shapes: list[Shape],
    ribbons: list[Ribbon],
    bands: Iterable[tuple[float, SystemBand]],
    with_words: bool = True,
) -> PlacedText:
    """Find a place for everything that is written beside some blocks and conductors.

    Parameters
    ----------
    measure : Measure
        How wide words are where they are put down.
    bands : iterable of (float, Band)
        Voltage systems with the left edge of their headings.
    with_words : bool
        Else badges alone: the map is too small to be read.
    """
    p = _Places(picture, look, measure, shapes)
    _badges(p, shapes, ribbons)
    if not with_words:
        return PlacedText((), tuple(p.badges))
    for x, band in bands:
        p.write([(x + 136.0, band.top - 12.0)], band.label, 272.0, True, px=13.0, soft=True)
    for s in shapes:
        if s.kind == "item":
            _device(p, s)
    for s in shapes:
        if s.kind in HUBS:
            _hub_name(p, s)
    for s in shapes:
        if s.kind == "bar":
            _hub_figure(p, s)
    # What is selected says so first; of the others level ones, and those on a slope find their place between them.
    for r in sorted(ribbons, key=lambda r: (r.run != look.selected, abs(r.y1 - r.y0) >= LEVEL)):
        _conductor(p, r)
    return PlacedText(tuple(p.texts), tuple(p.badges))


def _badges(p: _Places, shapes: list[Shape], ribbons: list[Ribbon]) -> None:
    worst_at = p.picture.worst_at
    for s in shapes:
        found = [worst_at[i] for i in s.holds or (split_ref(s.id)[0],) if i in worst_at]
        if found and not (s.kind in ("unit", "bank", "output") and s.side == "minus"):
            b = s.box
            corners = [(b.right - 1, b.y + 1), (b.x + 1, b.y + 1), (b.right - 1, b.bottom - 1), (b.x + 1, b.bottom - 1)]
            p.mark([*corners, (b.cx, b.y - BADGE / 2), (b.cx, b.bottom + BADGE / 2)], min(found), b)
    if p.look.lens.id == "read":
        return
    for r in ribbons:
        verdict = worst_at.get(r.run)
        if verdict is not None:
            at = [r.point(t) for t in ALONG]
            x, y = at[0]
            p.mark([*at, (x, y - 14.0), (x, y + 14.0), (x, y - 28.0), (x, y + 28.0)], verdict)


def _device(p: _Places, s: Shape) -> None:
    x = p.picture.plan.by_id.get(s.id)
    if x is None:
        return
    rating = getattr(x, "rating_a", None)
    words = f"{rating:g} A" if rating else say("short duty") if isinstance(x, Contactor) else ""
    if p.look.lens.id != "flow":
        words = p.look.lens.part(p.picture, x.id, p.look.scenario)
    is_open = isinstance(x, Breaker | Disconnect | Contactor) and not x.closed
    if is_open:
        words = say("open")
    below, above = s.box.bottom + 8.5, s.box.y - 8.5
    places = [(s.box.cx, below), (s.box.cx, below + 14.0), (s.box.cx, above)]
    if not p.look.named:
        if words:
            p.write(places, words, 96.0, is_open)
    elif not p.write(places, words if x.id in words else f"{x.id}  {words}".rstrip(), 130.0, is_open):
        # Where only a little fits, what it is called by in the tables comes before what its figure is.
        p.write(places, x.id, 96.0, is_open)
        p.write(places, words, 96.0, is_open)


def _hub_name(p: _Places, s: Shape) -> None:
    thing = p.picture.plan.by_id.get(split_ref(s.id)[0])
    if thing is None:
        return
    wide = p.measure(elided(thing.title, PX, True, 160, p.measure), PX, True) / 2 + 1.0
    y = s.box.y - 11.0
    above = [(s.box.cx, y), (s.box.cx - wide + 8, y), (s.box.cx + wide - 8, y)]
    beside = [(s.box.x - wide - 4, s.box.y + 8), (s.box.right + wide + 4, s.box.y + 8), (s.box.cx, s.box.bottom + 10)]
    higher = [(x, y - up) for up in (15.0, 30.0) for x, _ in above]
    p.write([*above, *higher, *beside], thing.title, 160.0, True, True)


def _hub_figure(p: _Places, s: Shape) -> None:
    bar = p.picture.plan.by_id.get(split_ref(s.id)[0])
    if not isinstance(bar, Bar) or not bar.studs:
        return
    words = p.look.lens.hub(p.picture, bar.ref(bar.studs[0].id), p.look.scenario)
    if words:
        y = s.box.bottom + 10.0
        p.write([(s.box.cx, y), (s.box.cx - 26, y), (s.box.cx + 26, y), (s.box.cx, y + 14.0)], words, 92.0, halo=True)


def _conductor(p: _Places, r: Ribbon) -> None:
    """Words at the runs that have room: the longest of each row and side, and the trunks."""
    look, room = p.look, r.x1 - r.x0
    chosen = look.selected == r.run
    if room < (LEAST_ROOM if chosen else 58.0 if r.row is not None else 92.0):
        return
    run = p.picture.plan.run_by_id.get(r.run)
    # What stands at its plus conductor goes for the minus of the same circuit.
    given = (
        r.side == "minus"
        and look.lens.id in ("flow", "short", "spread", "heat", "read")
        and not chosen
        and r.row is not None
    )
    words = look.lens.run(p.picture, run, look.scenario, look.units) if run is not None and not given else ""
    level = abs(r.y1 - r.y0) < LEVEL

    def put(text: str) -> bool:
        along = _beside(r, width_of(p.picture, r.run), level)
        return p.write(along, text, max(room, 90.0) if level else 240.0, halo=not level)

    if not look.named or run is None:
        if words:
            put(words)
    elif not put(words if run.id in words else f"{run.id}  {words}".rstrip()):
        put(run.id)


def _beside(r: Ribbon, width: float, level: bool) -> Iterator[tuple[float, float]]:
    """Places for a conductor's words: above it, on a slope where it is most level; else below it."""
    # In a row that is towards the equipment, elsewhere towards the hub.
    towards_right = (r.side == "plus") == (r.row is not None)
    along = ALONG if level else SLOPE if towards_right else SLOPE[::-1]
    # A badge on it is higher than most conductors are wide.
    for lift in (-width / 2 - 10.0, -max(width, BADGE) / 2 - 10.0, width / 2 + 10.0):
        for t in along:
            x, y = r.point(t)
            yield x, y + lift
