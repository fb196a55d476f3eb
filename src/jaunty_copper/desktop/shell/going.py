"""Going to places: of a finding, of a short circuit, into the bank, into the first field."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

from jaunty_copper.codes.checks import Finding
from jaunty_copper.documents.map.picture import WORST
from jaunty_copper.language import say
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Battery

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.altering import Altering
    from jaunty_copper.desktop.shell.turning import Turning
    from jaunty_copper.desktop.shell.two_plans import TwoPlans
    from jaunty_copper.desktop.shell.window import Window


class Going:
    """Brings what is asked for into sight."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self._turning: Turning | None = None

    def jump(self, finding: Finding) -> None:
        """Go to a finding's place, in the scenario in which it shows."""
        if finding.scenario is not None and self.window.scenarios.shown is not WORST:
            self.window.scenarios.show(finding.scenario)
        plan = self.window.document.plan
        if finding.place in plan.by_id or finding.place in plan.run_by_id:
            self.window.map.select(finding.place, show=True)
            self.window.show_inspector()
        here = finding.rule.page
        if here != self.window.page:
            self.window.show_page(here)
        elif here in self.window.pages:
            self.window.pages[here].select(finding.place)

    def fix(self) -> None:
        """Apply the edit of the selected finding."""
        self.window.findings.apply_fix()

    def step(self, by: int) -> None:
        """Go to the next finding, or to the one before."""
        self.window.findings.step(by)

    def short(self, id_: str | None = None) -> None:
        """Follow a short circuit at what is selected, or at what is given."""
        self.window.show_page("curves")
        page, place = self.window.pages["curves"], id_ or self.window.map.selected
        if place is not None:
            page.short_at(place)

    def find(self) -> None:
        """Ask for something by its name, and show it on the map."""
        from jaunty_copper.desktop.shell import searching

        searching.open_for(self.window.document.plan, self.window).chosen.connect(
            lambda place: self._show_there(place.id)
        )

    def turn(self) -> None:
        """Turn a figure of what is selected by a slider."""
        from jaunty_copper.desktop.shell import turning

        self._turning = turning.open_for(self.window, self._turning)

    def close(self) -> None:
        """End what is being worked out."""
        if self._turning is not None:
            self._turning.worker.close()

    def compare(self) -> None:
        """Show what differs from another plan; what is chosen there is shown on the map."""
        from jaunty_copper.desktop.shell import comparing

        self._of_two(
            comparing.open_for(
                self.window.document.plan, self.window.document.path, replace(self.window.map.look), self.window
            )
        )

    def alter(self) -> None:
        """Show the order of the work from another plan to this one."""
        from jaunty_copper.desktop.shell import altering

        dialog = altering.open_for(self.window.document, self.window)
        dialog.wanted.connect(partial(self._tick, dialog))
        self._of_two(dialog)

    def _tick(self, dialog: Altering, edit: Edit) -> None:
        """Keep a tick in the plan that its order is of, and in no other that is open by now."""
        if dialog.document is self.window.document:
            self.window.do(edit)
            return
        dialog.show_ticks()
        self.window.show_notice(
            say("Not ticked: that order is of {plan}, and another plan is open by now", plan=dialog.plan.title)
        )

    def _of_two(self, dialog: TwoPlans) -> None:
        dialog.picked.connect(self._show_there)
        dialog.marked.connect(self._mark)
        dialog.reported.connect(self.window.exports.compared)

    def _mark(self, ids: list[str]) -> None:
        plan = self.window.document.plan
        self.window.show_page("map")
        self.window.map.choose(id_ for id_ in ids if id_ in plan.by_id or id_ in plan.run_by_id)

    def vary(self) -> None:
        """Show the chance of findings; what is chosen there is shown on the map."""
        from jaunty_copper.desktop.shell import varying

        varying.open_for(self.window.document.plan, self.window).picked.connect(self._show_there)

    def _show_there(self, id_: str) -> None:
        plan = self.window.document.plan
        if id_ in plan.by_id or id_ in plan.run_by_id:
            self.window.show_page("map")
            self.window.map.select(id_, show=True)

    def open(self, id_: str) -> None:
        """A double click: into the bank, or into the first field."""
        if isinstance(self.window.document.plan.by_id.get(id_), Battery):
            self.window.map.select(id_)
            self.window.show_page("bank")
        else:
            self.window.inspector.focus_first()
