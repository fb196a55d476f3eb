"""Between what figures lie where what is not known differs, worked out for the lens that shows it."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from jaunty_copper.desktop.work.worker import Task, Worker
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.plan.model import Plan

if TYPE_CHECKING:
    from jaunty_copper.commissioning.bands import Bands
    from jaunty_copper.desktop.shell.window import Window


class MapBands:
    """Bands as the lens "spread" shows them: of the plan that is looked at, off the window's thread."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.worker: Worker | None = None
        self._asked: Plan | None = None
        self._found: tuple[Plan, Bands] | None = None

    def over(self, picture: Picture) -> Picture:
        """A picture with its bands, where they are known."""
        if self._found is None or self._found[0] is not picture.plan:
            return picture
        return replace(picture, bands=self._found[1])

    def work_out(self) -> None:
        """Work out what the lens shows, unless that is done or being done."""
        picture = self.window.picture
        if picture is None or picture.case is None or self.window.map.look.lens.id != "spread":
            return
        if picture.plan is not self._asked:
            self._asked, case = picture.plan, picture.case

            def work(task: Task) -> None:
                # Loaded here, with the first of them.
                from jaunty_copper.commissioning.bands import bands

                task.report((case.plan, bands(case, overtaken=lambda: task.overtaken)))

            self._at_work().ask(work)

    def close(self) -> None:
        """End the thread."""
        if self.worker is not None:
            self.worker.close()

    def _at_work(self) -> Worker:
        if self.worker is None:
            self.worker = Worker("spread")
            self.worker.done.connect(self._take)
            self.worker.failed.connect(self._failed)
        return self.worker

    def _failed(self, trace: str) -> None:
        self.window.show_notice(
            say(
                "The spread could not be worked out: {last}. All else is as it was.",
                last=trace.strip().splitlines()[-1],
            )
        )

    def _take(self, found: tuple[Plan, Bands]) -> None:
        self._found = found
        w = self.window
        if w.picture is not None and found[0] is w.picture.plan:
            w.picture = self.over(w.picture)
            w.map.set_picture(w.picture)
            w.strip.update()
