"""Find anything of a plan by its name, what it is, or its id, and go there on the map."""

from typing import NamedTuple

from PySide6.QtWidgets import QWidget

from jaunty_copper.desktop.inspector.fields import KIND_WORDS
from jaunty_copper.desktop.widgets.asking import ask
from jaunty_copper.desktop.widgets.searched import Searched
from jaunty_copper.desktop.widgets.table import ViewColumn
from jaunty_copper.language import say
from jaunty_copper.plan.model import Plan


class Findable(NamedTuple):
    """Something that stands on the map."""

    name: str
    kind: str
    id: str


def findable(plan: Plan) -> list[Findable]:
    """Everything on the map, in the order of the plan."""
    stand = [Findable(x.title, KIND_WORDS[type(x)], x.id) for x in plan.placed]
    return stand + [Findable(plan.run_title(r), KIND_WORDS[type(r)], r.id) for r in plan.runs]


def open_for(plan: Plan, parent: QWidget) -> Searched:
    """Ask what is looked for; whoever listens to `chosen` goes there."""
    columns = (
        ViewColumn(say("Name"), lambda p: p.name, 0),
        ViewColumn(say("What"), lambda p: p.kind, 190),
        ViewColumn(say("Id"), lambda p: p.id, 110),
    )
    made = Searched(
        say("Find"), columns, findable(plan), say("Search the plan"), say("a name, what it is, or its id"), parent
    )
    made.chosen.connect(lambda _: made.accept())
    ask(made)
    return made
