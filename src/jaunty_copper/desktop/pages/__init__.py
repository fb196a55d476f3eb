"""The pages, one folder each, and the table of them."""

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.base import Page

PAGES = {
    "needs": ("What must run and when, and what that asks of the bank", "needs.page.NeedsPage"),
    "bank": ("Units where they stand, how they share, hours ahead", "bank.page.BankPage"),
    "map": ("The system from plus to minus", ""),
    "curves": ("Devices in series over current and time, and what a short circuit does", "curves.page.CurvesPage"),
    "build": ("What to cut and to buy, and in which order to connect", "build.page.BuildPage"),
    "log": ("What to measure, what was read, and what that says", "log.page.LogPage"),
    "tables": ("Everything the plan holds, to be typed through like a spreadsheet", "tables.page.TablesPage"),
}
"""In the order of the work: what each is for, and where it is; the map stands in the window from its start."""
MODULES = tuple(f"pages.{where.rpartition('.')[0]}" for _, where in PAGES.values() if where)
"""Modules of the pages, which are loaded when first gone to, or ahead of it."""


def make_page(name: str) -> "Page":
    """A page, its module loaded if it was not before."""
    module, _, class_ = PAGES[name][1].rpartition(".")
    made: Page = getattr(import_module(f"{__name__}.{module}"), class_)()
    return made
