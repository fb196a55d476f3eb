"""The pages, one folder each, and the table of them."""

from importlib import import_module
from typing import TYPE_CHECKING

from jaunty_copper.language import say

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.base import Page

PAGES = {
    "needs": (say("Needs"), say("What must run and when, and what that asks of the bank"), "needs.page.NeedsPage"),
    "bank": (say("Bank"), say("Units where they stand, how they share, hours ahead"), "bank.page.BankPage"),
    "map": (say("Map"), say("The system from plus to minus"), ""),
    "curves": (
        say("Curves"),
        say("Devices in series over current and time, and what a short circuit does"),
        "curves.page.CurvesPage",
    ),
    "build": (say("Build"), say("What to cut and to buy, and in which order to connect"), "build.page.BuildPage"),
    "log": (say("Log"), say("What to measure, what was read, and what that says"), "log.page.LogPage"),
    "tables": (
        say("Tables"),
        say("Everything the plan holds, to be typed through like a spreadsheet"),
        "tables.page.TablesPage",
    ),
}
"""In the order of the work: its title, what it is for, and where it is; the map stands in the window from its start."""
MODULES = tuple(f"pages.{where.rpartition('.')[0]}" for *_, where in PAGES.values() if where)
"""Modules of the pages, which are loaded when first gone to, or ahead of it."""


def make_page(name: str) -> "Page":
    """A page, its module loaded if it was not before."""
    module, _, class_ = PAGES[name][2].rpartition(".")
    made: Page = getattr(import_module(f"{__name__}.{module}"), class_)()
    return made
