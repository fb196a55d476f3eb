"""The dialog that shows two plans side by side: another file, this one as it was saved, or the same under another code."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.code import code_name, code_names
from jaunty_copper.desktop.shell.side_by_side import MapsBeside, TwoPictures
from jaunty_copper.desktop.shell.two_plans import TwoPlans
from jaunty_copper.desktop.work.worker import Task, Work
from jaunty_copper.documents.comparison import Comparison
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.plan.model import Plan


class Comparing(TwoPlans):
    """What differs between the open plan and another."""

    TITLE = say("Compare")
    WITH = say("Compare with")
    SECTIONS = {
        "totals": (say("The whole"), say("Price, mass, losses, findings")),
        "changes": (say("What differs"), say("What was put in, taken out and changed")),
        "gone": (say("Gone"), say("Findings that the second does not have any more")),
        "come": (say("New"), say("Findings that only the second has")),
        "figures": (say("Figures"), say("Currents, warmth, drops and short-circuit currents that moved")),
        "maps": (say("Maps"), say("Both maps side by side, through one lens, with what differs ringed")),
    }
    UNCOUNTED = ("totals",)
    found: Comparison | None

    def __init__(self, plan: Plan, path: Path | None, look: Look, parent: QWidget | None = None) -> None:
        self.look = look
        super().__init__(plan, path, parent)

    def codes(self) -> list[tuple[str, str]]:
        """All but the plan's own."""
        return [
            (say("this plan by {code}", code=code_name(name)), name)
            for name in code_names()
            if name != self.plan.practice
        ]

    def by_own_code(self) -> str:
        """What the plan itself is called before another code."""
        return say("Before: by {code}", code=code_name(self.plan.practice))

    def working(self, first: Plan, code: str | None) -> Work:
        """Both plans judged, and what differs."""

        def work(task: Task) -> None:
            found = Comparison(Dossier(Assessment(first)), Dossier(Assessment(self.plan, code)))
            # Not left to the window's own thread.
            found.tables()
            for picture in _pictures(found)[:2]:
                picture.read_ahead(self.look.scenario)
            task.report(found)

        return work

    def more(self) -> list[QWidget]:
        """Both maps."""
        assert self.found is not None
        maps = MapsBeside(_pictures(self.found), self.look)
        maps.picked.connect(self.picked)
        return [maps]

    def said(self, words: str) -> str:
        """How much differs."""
        assert self.found is not None
        return say(
            "{words}. {changes} differences; findings: {gone} gone, {come} new.",
            words=words, changes=len(self.found.changes), gone=len(self.found.gone), come=len(self.found.come),
        )  # fmt: skip

    def marks(self) -> list[str]:
        """What was put in or changed."""
        found = self.found
        return [] if found is None else list(dict.fromkeys(c.id for c in found.changes if c.kind != "removed" and c.id))


def _pictures(found: Comparison) -> TwoPictures:
    before, after = (Picture(d.plan, d.known.diagram, d.known) for d in (found.before, found.after))
    return TwoPictures(before, after, found.same, *found.ringed)


def open_for(plan: Plan, path: Path | None, look: Look, parent: QWidget) -> Comparing:
    """Show the dialog, its maps looked at as the window's own; the map stays in reach."""
    made = Comparing(plan, path, look, parent)
    made.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    made.show()
    return made
