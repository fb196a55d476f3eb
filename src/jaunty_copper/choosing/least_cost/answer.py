"""What is to be least, and the answer with its proof."""

from dataclasses import dataclass
from functools import partial
from math import inf, isfinite
from typing import NamedTuple

from jaunty_copper.choosing.least_cost.options import Aim
from jaunty_copper.codes.checks import Finding
from jaunty_copper.language import say_many
from jaunty_copper.plan.edits import Edit, made_of
from jaunty_copper.plan.model import Plan


@dataclass(frozen=True)
class Worth:
    """What is to be least.

    Attributes
    ----------
    aim : str
        price, or copper in kg.
    watt : float
        What a watt lost in `scenario` costs over the years, in the currency of prices; counts with the price.
    scenario : str
        Id of the scenario in which losses count; the first that lasts where none is named.
    selective : bool
        Whether devices are to be selective where they are now.
    """

    aim: Aim = "price"
    watt: float = 0.0
    scenario: str = ""
    selective: bool = False


def watt_worth(years: float, hours_a_day: float, price_kwh: float) -> float:
    """What a watt that is always lost costs over some years.

    Parameters
    ----------
    years, hours_a_day : float
        For how long.
    price_kwh : float
        Of a kilowatt-hour, in the currency of prices.
    """
    return years * 365.25 * hours_a_day * price_kwh / 1000.0


class SizeChange(NamedTuple):
    """What is chosen at a place that is another than what stands there.

    Attributes
    ----------
    ids : tuple of str
        Of what stands there.
    before, after : str
        Sizes in words.
    price : float
        By what it costs more, less where negative.
    """

    ids: tuple[str, ...]
    before: str
    after: str
    price: float


@dataclass(frozen=True)
class LeastCost:
    """The answer.

    Attributes
    ----------
    begin, plan : Plan
        As it was, and with the sizes chosen; the same where none could be.
    changes : tuple of SizeChange
        What differs, what saves most first.
    cost, bound : float
        Of what is chosen, and below which no choice of these options keeps all rules, in the unit of the aim; inf where
        none was found.
    before, circuits : float
        Cost of the plan as it was, and of sizes chosen circuit by circuit; nan where those were not looked at.
    broken, circuits_broken : int
        How many findings those two leave that sizes mend.
    price, copper_kg, lost_w : float
        Of what is chosen: price without currency, copper, and what its conductors lose in the scenario that counts.
    lost_in : str
        That scenario, in words.
    left : tuple of Finding
        Of the plan with these sizes, what none of those looked at mends: it was there before.
    others : tuple of Finding
        What else is wrong with it, and no matter of sizes.
    contradiction : tuple of str
        What cannot be had together, where something is left for that, or nothing can be chosen.
    judged : int
        Plans that were judged in full.
    places : int
        Where sizes could be chosen.
    """

    begin: Plan
    plan: Plan
    changes: tuple[SizeChange, ...]
    cost: float
    bound: float
    before: float
    broken: int
    circuits: float
    circuits_broken: int
    price: float
    copper_kg: float
    lost_w: float
    lost_in: str
    left: tuple[Finding, ...]
    others: tuple[Finding, ...]
    contradiction: tuple[str, ...]
    judged: int
    places: int

    @property
    def found(self) -> bool:
        """Whether there is an answer."""
        return self.places > 0 and isfinite(self.cost)

    @property
    def gap(self) -> float:
        """By what share less than this any choice could cost at most."""
        return max(self.cost - self.bound, 0.0) / self.cost if 0.0 < self.cost < inf else 0.0

    @property
    def edit(self) -> Edit:
        """All changes as one."""
        label = say_many("Choose the size in {count} place", "Choose sizes in {count} places", len(self.changes))
        return Edit(label, partial(made_of, before=self.begin, after=self.plan))
