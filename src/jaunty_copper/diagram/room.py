"""Which places of the map are taken."""

from itertools import count

from jaunty_copper.diagram.shapes import Box

CELL = 64.0
"""Side of the squares by which boxes are found again."""
AIR = 4.0
"""Left free around a box, px."""


SIDEWAYS = 2.0
"""Half a width to the side is as bad as so many steps up or down."""


class Room:
    """Boxes that stand already, to be asked where another one fits."""

    def __init__(self, air: float = AIR) -> None:
        self._air = air
        self._cells: dict[tuple[int, int], list[Box]] = {}

    def take(self, box: Box) -> None:
        """Let a box stand."""
        for cell in _cells(box):
            self._cells.setdefault(cell, []).append(box)

    def is_free(self, box: Box, but: Box | None = None) -> bool:
        """Whether a box would touch none that stands, but for one that it may."""
        air = self._air
        wide = Box(box.x - air, box.y - air, box.w + 2 * air, box.h + 2 * air)
        return not any(
            other is not but and _meet(wide, other) for cell in _cells(wide) for other in self._cells.get(cell, ())
        )

    def near(self, box: Box, step: float) -> Box:
        """The box itself, or the nearest place at which it is free: rather above or below than beside.

        Parameters
        ----------
        step : float
            How far it moves at a time, px.
        """
        if self.is_free(box):
            return box
        # Ever farther: what stands is finite, so there is a place.
        for reach in count(1):
            moves = sorted(_ring(reach), key=lambda m: abs(m[0]) * SIDEWAYS + abs(m[1]))
            for across, down in moves:
                moved = box._replace(x=box.x + across * (box.w / 2), y=box.y + down * step)
                if moved.x >= 0.0 and moved.y >= 0.0 and self.is_free(moved):
                    return moved
        raise AssertionError("unreachable")

    def below(self, box: Box, step: float) -> Box:
        """The box itself, or the nearest below it that is free.

        Parameters
        ----------
        step : float
            How far it moves at a time, px.
        """
        while not self.is_free(box):
            box = box._replace(y=box.y + step)
        return box


def _ring(reach: int) -> list[tuple[int, int]]:
    """Steps across and down of which one is just so many: half as far to the side as up or down."""
    wide = reach // 2
    rows = [(across, down) for across in range(-wide, wide + 1) for down in (-reach, reach)]
    return rows + [(across, down) for across in {-wide, wide} for down in range(1 - reach, reach)]


def _cells(box: Box) -> list[tuple[int, int]]:
    columns = range(int(box.x // CELL), int(box.right // CELL) + 1)
    rows = range(int(box.y // CELL), int(box.bottom // CELL) + 1)
    return [(c, r) for c in columns for r in rows]


def _meet(a: Box, b: Box) -> bool:
    return a.x < b.right and b.x < a.right and a.y < b.bottom and b.y < a.bottom
