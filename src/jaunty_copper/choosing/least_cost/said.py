"""An answer of least cost in words."""

from math import isfinite

from jaunty_copper.choosing.least_cost.answer import LeastCost
from jaunty_copper.choosing.least_cost.options import Aim
from jaunty_copper.language import say, say_many

EXACT = 5e-4
"""Below this share of a gap the answer is called the least."""


def in_words(found: LeastCost, aim: Aim = "price") -> str:
    """What an answer comes to, beside the plan as it was and a choice circuit by circuit.

    Parameters
    ----------
    aim : str
        What was to be least.
    """
    if not found.places:
        return say("There is nothing here whose size can be chosen.")
    if not found.found:
        return say("No sizes that were looked at keep every rule of sizes.")
    unit = say("{value:.1f} kg of copper") if aim == "copper" else say("{value:.0f}")
    with_losses = aim == "price" and abs(found.cost - found.price) > 0.005
    comes = (
        say(
            "Price {price:.0f}, or {cost:.0f} with what its losses cost ({lost:.1f} W in “{scenario}”)",
            price=found.price, lost=found.lost_w, scenario=found.lost_in, cost=found.cost,
        )
        if with_losses
        else unit.format(value=found.cost)
        if aim == "copper"
        else say("Price {price:.0f}", price=found.price)
    )  # fmt: skip
    as_it_is = say("As it is, with its losses: {cost}") if with_losses else say("As it is: {cost}")
    said = [f"{comes}: {_proof(found)}.", _beside(as_it_is, unit.format(value=found.before), found.broken)]
    if isfinite(found.circuits):
        said.append(
            _beside(say("Circuit by circuit: {cost}"), unit.format(value=found.circuits), found.circuits_broken)
        )
    if found.left:
        said.append(
            say_many(
                "{count} finding that none of them mends is left no worse than it was.",
                "{count} findings that none of them mends are left no worse than they were.",
                len(found.left),
            )
        )
    if found.others:
        said.append(
            say_many(
                "{count} finding that is no matter of sizes remains.",
                "{count} findings that are no matter of sizes remain.",
                len(found.others),
            )
        )
    return " ".join(said)


def _proof(found: LeastCost) -> str:
    if found.gap < EXACT:
        return say("the least of all sizes looked at that no rule of sizes finds wrong")
    return say("within {percent:.1f} % of the least possible with the sizes looked at", percent=100.0 * found.gap)


def _beside(words: str, cost: str, broken: int) -> str:
    if not broken:
        return words.format(cost=cost) + "."
    return words.format(cost=cost) + say_many(
        ", with {count} finding to mend.", ", with {count} findings to mend.", broken
    )
