"""How the map is looked at."""

from dataclasses import dataclass

from jaunty_copper.documents.map.lens import Lens
from jaunty_copper.documents.palette import Palette
from jaunty_copper.documents.words import Units


@dataclass
class Look:
    """How the map is looked at.

    Attributes
    ----------
    also : frozenset of str
        What is selected besides what was selected first.
    hovered : str or None
        What lies under the pointer.
    lit, guards : frozenset of str
        The whole circuit of that, and the devices that limit the current there.
    row : str or None
        The row that the strip follows.
    named : bool
        Whether conductors and devices carry their ids: paper cannot be pointed at.
    """

    palette: Palette
    lens: Lens
    scenario: str | None
    units: Units
    selected: str | None = None
    also: frozenset[str] = frozenset()
    hovered: str | None = None
    lit: frozenset[str] = frozenset()
    guards: frozenset[str] = frozenset()
    row: str | None = None
    scale: float = 1.0
    named: bool = False

    def has(self, id_: str) -> bool:
        """Whether something is selected, alone or with others."""
        return id_ == self.selected or id_ in self.also
