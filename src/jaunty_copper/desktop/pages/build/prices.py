"""Prices as they are typed: of one, or of a pack."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read
from jaunty_copper.fabrication.materials import Line
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Plan

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.base import Page
    from jaunty_copper.desktop.widgets.part import ViewPart

MOST_IN_A_PACK = 100_000


def take_price(asker: Page | ViewPart, plan: Plan, line: Line, text: str) -> None:
    """Ask for what a price typed into a line comes to, or say what is wrong with it."""
    try:
        edit = price_typed(plan, line, text)
    except NotUnderstood as error:
        asker.refused.emit(say("Price of {what}: {error}. It is as before.", what=line.what, error=error))
        return
    if edit is not None:
        asker.wanted.emit(edit)


def price_typed(plan: Plan, line: Line, text: str) -> Edit | None:
    """What a price typed into a line asks for: 12.5, 12.5 / 10 for a pack of ten, / 10 to say only that; None where it is as before.

    Raises
    ------
    NotUnderstood
        With what is wrong.
    """
    cell, _, count = (part.strip() for part in text.replace("*", "").partition("/"))
    price = read(cell) if cell else None
    many = read(count) if count else 0.0
    if not (price is None or price >= 0.0):
        raise NotUnderstood(say("a price of 0 or more is needed here"))
    if not (many == int(many) and 0 <= many <= MOST_IN_A_PACK):
        raise NotUnderstood(say("a pack holds a whole number"))
    pack = int(many) or None
    if (
        price is not None
        and line.key not in plan.prices
        and (f"{price:.2f}", pack or 0) == (f"{line.price:.2f}", line.pack)
    ):
        # As it was shown: it stays representative.
        return None
    if (price, pack) == (plan.prices.get(line.key), plan.packs.get(line.key)):
        return None
    change = partial(edits.put_price, key=line.key, price=price, pack=pack)
    return Edit(say("Price of {what}", what=line.what), change)
