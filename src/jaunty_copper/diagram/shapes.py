"""What stands on the map, in pixels at full size. Drawn by whoever can draw."""

from typing import Literal, NamedTuple

from jaunty_copper.diagram.chains import Side


class Box(NamedTuple):
    """A rectangle."""

    x: float
    y: float
    w: float
    h: float

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.x + self.w

    @property
    def bottom(self) -> float:
        """Its lower edge."""
        return self.y + self.h

    @property
    def cx(self) -> float:
        """Its middle, across."""
        return self.x + self.w / 2

    @property
    def cy(self) -> float:
        """Its middle, down."""
        return self.y + self.h / 2

    def contains(self, x: float, y: float, slack: float = 0.0) -> bool:
        """Whether a point lies in it, or within some slack around it.

        Parameters
        ----------
        x, y : float
            The point, px.
        slack : float
            So far outside still counts, px.
        """
        return self.x - slack <= x <= self.right + slack and self.y - slack <= y <= self.bottom + slack


ShapeKind = Literal["equipment", "item", "bar", "post", "chassis", "unit", "bank", "output", "fold"]


class Shape(NamedTuple):
    """A thing on the map: an item, equipment, one side of a battery unit or of an output.

    Attributes
    ----------
    row : str or None
        The row it belongs to; None for what several rows share.
    holds : tuple of str
        Ids of what a bank's block stands for: units, links, bars of its own; of what circuits that are folded consist.
    """

    kind: ShapeKind
    id: str
    side: Side
    box: Box
    row: str | None = None
    holds: tuple[str, ...] = ()

    def stands_for(self, id_: str | None) -> bool:
        """Whether it is a thing, or holds it."""
        return id_ is not None and (id_ == self.id or id_ in self.holds)


class StudMark(NamedTuple):
    """A stud of a bar or a point of a chassis."""

    ref: str
    owner: str
    x: float
    y: float
    taken: bool


class TerminalMark(NamedTuple):
    """Where a terminal is: what is drawn from there begins there."""

    ref: str
    x: float
    y: float


class Ribbon(NamedTuple):
    """A run, drawn from its left end to its right end.

    Attributes
    ----------
    run : str
        Its id.
    x0, y0, x1, y1 : float
        Its two ends.
    forward : bool
        Whether it is drawn from its terminal a to its terminal b.
    side : str
        On which side of the equipment.
    row : str or None
        Id of the equipment whose row it belongs to; None for what several rows share.
    bulge : float
        How far it swings out where it joins two places of one column, or runs beside another.
    """

    run: str
    x0: float
    y0: float
    x1: float
    y1: float
    forward: bool
    side: Side
    row: str | None
    bulge: float = 0.0

    def point(self, t: float) -> tuple[float, float]:
        """A point on it, from 0 at its left to 1 at its right end.

        A cubic whose handles lie level with its ends; the same curve is drawn and hit.

        Parameters
        ----------
        t : float
            From 0 to 1.
        """
        (ax, ay), (bx, by) = self.handles
        u = 1.0 - t
        w = (u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t)
        return (
            w[0] * self.x0 + w[1] * ax + w[2] * bx + w[3] * self.x1,
            w[0] * self.y0 + w[1] * ay + w[2] * by + w[3] * self.y1,
        )

    @property
    def handles(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """The cubic's two handles."""
        if abs(self.x1 - self.x0) < 1.0:
            reach = self.bulge or 24.0
            return (self.x0 + reach, self.y0), (self.x1 + reach, self.y1)
        mid = (self.x0 + self.x1) / 2
        return (mid, self.y0 + self.bulge), (mid, self.y1 + self.bulge)

    def distance(self, x: float, y: float) -> float:
        """How far a point lies from it.

        Parameters
        ----------
        x, y : float
            The point, px.
        """
        best = float("inf")
        px, py = self.x0, self.y0
        steps = 1 if self.y0 == self.y1 and not self.bulge else 12
        for k in range(1, steps + 1):
            qx, qy = self.point(k / steps)
            dx, dy = qx - px, qy - py
            length = dx * dx + dy * dy
            t = 0.0 if length == 0.0 else max(0.0, min(1.0, ((x - px) * dx + (y - py) * dy) / length))
            best = min(best, (x - px - t * dx) ** 2 + (y - py - t * dy) ** 2)
            px, py = qx, qy
        return float(best**0.5)


class Row(NamedTuple):
    """One circuit.

    Attributes
    ----------
    id : str
        Id of its equipment, or the terminal where it ends loose.
    y : float
        Its height on the map.
    path : tuple of (x, terminal)
        From source plus to source minus, left to right, for the strip below the map.
    """

    id: str
    y: float
    path: tuple[tuple[float, str], ...]


class SystemBand(NamedTuple):
    """The rows of one voltage system."""

    root: str
    label: str
    top: float
    bottom: float


class Diagram(NamedTuple):
    """The whole map; `middle` is where the equipment column begins."""

    shapes: tuple[Shape, ...]
    studs: tuple[StudMark, ...]
    ribbons: tuple[Ribbon, ...]
    rows: tuple[Row, ...]
    bands: tuple[SystemBand, ...]
    loose: tuple[Shape, ...]
    middle: float
    width: float
    height: float
    terminals: tuple[TerminalMark, ...] = ()
