"""A training bench: one thing is not as planned in a copy of the copper, and simulated meters find it."""

from __future__ import annotations

import random
from typing import TYPE_CHECKING

from jaunty_copper.desktop.pages.log.measured import Readings, same_copper
from jaunty_copper.desktop.pages.log.meters import hiding
from jaunty_copper.desktop.pages.log.said import CAUTION
from jaunty_copper.language import say
from jaunty_copper.simulator.training import TrainingBench

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.log.measure import MeasurePane

TRAINING = say(
    "Training bench: one thing is not as planned in this copy of the copper. Take readings with its meters; they stay here and go into no file."
)


class Practice:
    """The training bench of a page, while there is one."""

    def __init__(self, pane: MeasurePane) -> None:
        self.pane = pane
        self.bench: TrainingBench | None = None
        self.taken: dict[str, Readings] = {}

    def toggle(self) -> None:
        """Begin, or end."""
        if self.bench is not None:
            self.end()
        else:
            self.begin(random.randrange(1_000_000))

    def begin(self, seed: int) -> None:
        """Hide a fault in a copy of the system, and put simulated meters on it."""
        if self.pane.picture is not None:
            self.pane.train_button.setEnabled(False)
            self.pane.note.setText(say("Hiding something…"))
            self.pane.reader.ask(hiding(self.pane.picture.plan, seed))

    def arrived(self, found: TrainingBench | str) -> None:
        """A bench was made, or there is none and why."""
        self.pane.train_button.setEnabled(True)
        if isinstance(found, str):
            self.pane.note.setText(found)
            return
        if self.bench is not None or self.pane.picture is None or not same_copper(found.plan, self.pane.picture.plan):
            found.close()
            return
        self.bench = found
        self.taken, self._own = {}, (self.pane.meter.text(), self.pane.clamp.text())
        self.pane.meter.setText(found.address("volts"))
        self.pane.clamp.setText(found.address("amps"))
        self.show()
        self.pane.refresh()

    def reveal(self) -> None:
        """Show what was hidden."""
        if self.bench is not None and self.bench.deviation is not None:
            self.pane.note.setText(say("Hidden was: {words}.", words=self.bench.deviation.words(self.bench.plan)))
            self.pane.picked.emit(self.bench.deviation.owner)

    def end(self) -> None:
        """Back to the plan's own readings."""
        if self.bench is None:
            return
        self.bench.close()
        self.bench = None
        self.pane.meter.setText(self._own[0])
        self.pane.clamp.setText(self._own[1])
        self.show()
        self.pane.refresh()

    def show(self) -> None:
        """Show what serves practising, or what serves the plan's own readings."""
        on = self.bench is not None
        self.pane.train_button.setText(say("End training") if on else say("Train…"))
        self.pane.reveal_button.setVisible(on)
        self.pane.all_button.setVisible(on)
        self.pane.log_button.setVisible(not on)
        self.pane.note.setObjectName("bad" if on else "caption")
        self.pane.note.style().unpolish(self.pane.note)
        self.pane.note.style().polish(self.pane.note)
        self.pane.note.setText(TRAINING if on else CAUTION)
