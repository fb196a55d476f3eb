"""Two plans' maps, side by side or one above the other, moved and looked through together; what differs is ringed on both."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent, QResizeEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from jaunty_copper.desktop.pages.map.view import MapView
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label, TitleLabel
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.picture import WORST, Picture
from jaunty_copper.language import say

WANT_MORE = ("read", "spread")
"""Lenses on what a plan alone does not say."""
LEAST_SCALE = 0.75
"""So large maps stand side by side where there is room, else one above the other."""


class SideMap(MapView):
    """A map that is only looked at: nothing is dragged on it, and what differs stays ringed."""

    def __init__(self, picture: Picture, differs: frozenset[str], look: Look) -> None:
        super().__init__()
        self.differs = differs
        self.overview.wanted = False
        self.look.palette, self.look.units = look.palette, look.units
        self.set_picture(picture)
        self.look.also = differs

    def select(self, id_: str | None, show: bool = False) -> None:
        """Select something beside what differs."""
        super().select(id_, show)
        self.look.also = self.differs - {id_}

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select, or move the map."""
        super().mousePressEvent(event)
        self._from, self._aims, self._may_carry = None, None, False


class TwoPictures(NamedTuple):
    """What is shown side by side.

    Attributes
    ----------
    before, after : Picture
        Of the two plans.
    same : mapping
        Ids of the first plan's things with those of the same things in the second.
    first, second : frozenset of str
        Ids of what differs in either.
    """

    before: Picture
    after: Picture
    same: Mapping[str, str]
    first: frozenset[str]
    second: frozenset[str]


class MapsBeside(QWidget):
    """Both maps, with one lens and one scenario for both.

    Parameters
    ----------
    two : TwoPictures
        What is shown.
    look : Look
        How the window looks at its map: what this begins with.
    """

    picked = Signal(str)
    """Id, in the second plan, of something that was selected on either map."""

    def __init__(self, two: TwoPictures, look: Look) -> None:
        super().__init__()
        self.two = two
        self.maps = (SideMap(two.before, two.first, look), SideMap(two.after, two.second, look))
        self.maps[0].setAccessibleName(say("Map before"))
        self.maps[1].setAccessibleName(say("Map after"))
        self._following = False
        self.lens, self.scenario = QComboBox(), QComboBox()
        self.lens.setAccessibleName(say("Lens of both maps"))
        for lens in LENSES:
            if lens.id not in WANT_MORE:
                self.lens.addItem(lens.title, lens.id)
        self.scenario.setAccessibleName(say("Scenario of both maps"))
        for scenario in two.after.plan.scenarios:
            self.scenario.addItem(scenario.title, scenario.id)
        self.scenario.addItem(say("Worst case"), WORST)
        self.lens.setCurrentIndex(max(self.lens.findData(look.lens.id), 0))
        self.scenario.setCurrentIndex(max(self.scenario.findData(look.scenario), 0))
        self.lens.currentIndexChanged.connect(self._look)
        self.scenario.currentIndexChanged.connect(self._look)
        row = QHBoxLayout()
        for words, box in ((say("Lens"), self.lens), (say("Scenario"), self.scenario)):
            label = Label(words)
            label.setBuddy(box)
            row.addWidget(label)
            row.addWidget(box)
        row.addStretch(1)
        ringed = Label(say("Ringed: what differs"))
        ringed.setObjectName("caption")
        row.addWidget(ringed)
        self.both = both = QSplitter(Qt.Orientation.Vertical)
        for side, words in zip(self.maps, (say("Before"), say("After")), strict=True):
            half = QWidget()
            column = QVBoxLayout(half)
            column.setContentsMargins(0, 0, 0, 0)
            assert side.picture is not None
            column.addWidget(TitleLabel(f"{words}: {side.picture.plan.title or say('Plan')}"))
            column.addWidget(side, 1)
            both.addWidget(half)
            side.moved.connect(lambda here=side: self._follow(here))
            side.picked.connect(lambda id_, here=side: self._select(here, id_))
        both.setChildrenCollapsible(False)
        name_divider(both, say("Divider between the maps"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row)
        column.addWidget(both, 1)
        self._look()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Side by side only where both can be read so."""
        super().resizeEvent(event)
        wide = sum(p.diagram.width for p in self.two[:2]) * LEAST_SCALE <= self.width()
        self.both.setOrientation(Qt.Orientation.Horizontal if wide else Qt.Orientation.Vertical)

    def _look(self) -> None:
        for side in self.maps:
            assert side.picture is not None
            wanted = self.scenario.currentData()
            side.set_lens(self.lens.currentData())
            side.set_scenario(wanted if any(s.id == wanted for s in side.picture.plan.scenarios) else WORST)

    def _other(self, side: SideMap) -> SideMap:
        return self.maps[side is self.maps[0]]

    def _follow(self, side: SideMap) -> None:
        """Show the same part on the other map, as large."""
        if self._following:
            return
        self._following = True
        other = self._other(side)
        if not side.is_fitted:
            other.show_as(side)
        for here, there in (
            (side.horizontalScrollBar(), other.horizontalScrollBar()),
            (side.verticalScrollBar(), other.verticalScrollBar()),
        ):
            share = here.value() / here.maximum() if here.maximum() else 0.0
            there.setValue(round(share * there.maximum()))
        self._following = False

    def _select(self, side: SideMap, id_: str) -> None:
        """Select the same thing on the other map, where that has it."""
        if self._following:
            return
        self._following = True
        names = self.two.same if side is self.maps[0] else {new: old for old, new in self.two.same.items()}
        item, dot, terminal = id_.partition(".")
        twin = f"{names[item]}{dot}{terminal}" if item in names else None
        self._other(side).select(twin)
        self._following = False
        new = twin if side is self.maps[0] else id_
        if new:
            self.picked.emit(new)
