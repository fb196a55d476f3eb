"""What the map shows of a study: figures as soon as they are known, and the circuits of some bars as one line."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QCoreApplication, QEvent

from jaunty_copper.desktop.work.trouble import each
from jaunty_copper.diagram import folding
from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.plan.model import Bar
from jaunty_copper.plan.supply import supply_of
from jaunty_copper.plan.topology import topology

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window


class Folds:
    """Which bars are folded on a window's map."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.bars: tuple[str, ...] = ()

    def over(self, picture: Picture) -> Picture:
        """A picture whose map has the circuits of some bars in one line each."""
        if not self.bars:
            return picture
        able = folding.foldable(picture.plan)
        self.bars = tuple(bar for bar in self.bars if bar in able)
        return replace(picture, diagram=folding.fold(picture.plan, self.bars))

    def show_early(self, picture: Picture) -> None:
        """Show figures on the map before the plan is judged; what was wrong before stands until then."""
        w = self.window
        if w.map.look.lens.early:
            before = w.picture.findings if w.picture is not None else ()
            early = self.over(w.on_map.over(replace(picture, awaited=before)))
            each(
                partial(w.map.set_picture, early),
                partial(QCoreApplication.sendPostedEvents, w, QEvent.Type.UpdateRequest),
            )
        w.studying.shown.set()

    def one(self, bar: str) -> None:
        """Fold the circuits of a bar into one line, or show them all again."""
        plan = self.window.document.plan
        if bar not in self.bars and bar not in folding.foldable(plan):
            self.window.show_notice(say("Select a busbar with several circuits to fold them into one line"))
            return
        self._refold(tuple(b for b in self.bars if b != bar) if bar in self.bars else (*self.bars, bar))

    def all(self) -> None:
        """Fold the circuits of every bar; where some are folded, show all again."""
        plan = self.window.document.plan
        bars = [x.id for x in plan.items if isinstance(x, Bar) and supply_of(plan, x).side == "plus"]
        able = folding.foldable(plan)
        self._refold(() if self.bars else tuple(b for b in bars if b in able))

    def _refold(self, folds: tuple[str, ...]) -> None:
        self.bars = folds
        if self.window.picture is None:
            self.window.show_sketch()
            return
        chart = folding.fold(self.window.picture.plan, folds) if folds else lay_out(topology(self.window.picture.plan))
        self.window.picture = replace(self.window.picture, diagram=chart)
        self.window.map.set_picture(self.window.picture)
        self.window.strip.update()
