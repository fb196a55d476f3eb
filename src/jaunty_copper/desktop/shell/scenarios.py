"""Which scenario is looked at; scenarios added and deleted."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from jaunty_copper.documents.map.picture import WORST
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Plan, Scenario

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window


class Scenarios:
    """The scenarios of a window's plan.

    Attributes
    ----------
    shown : str or None
        Id of the one that is looked at; None for the worst of all.
    """

    def __init__(self, window: Window) -> None:
        self.window = window
        self.shown: str | None = WORST

    def show(self, scenario: str | None) -> None:
        """Look at another scenario, or the worst of all."""
        self.shown = scenario
        self.window.map.set_scenario(scenario)
        self.fill()
        self.window.show_inspector()
        self.window.strip.update()
        self.window.show_on_page()

    def fill(self) -> None:
        """Offer the plan's scenarios and the worst of all; one that is gone is shown no longer."""
        plan = self.window.document.plan
        entries: list[tuple[str, str | None]] = [(s.title, s.id) for s in plan.scenarios]
        entries.append((say("Worst case") if plan.scenarios else say("Everything on"), WORST))
        if self.shown not in [id_ for _, id_ in entries]:
            self.shown = entries[0][1]
            self.window.map.set_scenario(self.shown)
        box = self.window.bar.scenarios
        if [(box.itemText(k), box.itemData(k)) for k in range(box.count())] != entries:
            box.clear()
            for title, id_ in entries:
                box.addItem(title, id_)
        box.setCurrentIndex([id_ for _, id_ in entries].index(self.shown))

    def step(self, by: int) -> None:
        """Go to the next scenario, or to the one before."""
        box = self.window.bar.scenarios
        self.show(box.itemData((box.currentIndex() + by) % box.count()))

    def add(self) -> None:
        """Add a scenario like the one that is shown."""
        plan = self.window.document.plan
        like = next((s for s in plan.scenarios if s.id == self.shown), None)
        id_ = edits.fresh_id(plan, "scenario")
        name = edits.fresh_name([s.title for s in plan.scenarios], like.title if like else say("New scenario"))
        new = (like or Scenario(id=id_)).model_copy(update={"id": id_, "name": name})
        self.shown = id_
        self.window.do(Edit(say("Add scenario {new}", new=new.title), partial(_with, new=new)))
        self.show(id_)

    def delete(self) -> None:
        """Delete the scenario that is shown."""
        if self.shown is not WORST:
            self.window.do(Edit(say("Delete scenario {shown}", shown=self.shown), partial(_without, id_=self.shown)))
            self.show(self.shown)


def _with(plan: Plan, new: Scenario) -> Plan:
    return edits.add(plan, new)


def _without(plan: Plan, id_: str) -> Plan:
    return edits.remove(plan, id_)
