"""A system with one hidden deviation and three meters on it, to train finding faults."""

from typing import Any

import numpy as np

from jaunty_copper.commissioning.model import NothingToMeasure
from jaunty_copper.commissioning.points import Point, bank_alone, everything_on, to_measure_in
from jaunty_copper.language import say
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan.model import Plan
from jaunty_copper.simulator.hidden import AsBuilt, Deviation, deviations
from jaunty_copper.simulator.scpi import Instrument
from jaunty_copper.simulator.server import Served

METERS = {
    "multimeter": ("volts", "celsius"),
    "clamp meter": ("amps",),
    "battery monitor": ("volts", "amps"),
}
"""What each of the stand-ins measures."""


class NothingToHide(ValueError):
    """Nothing that could be wrong with this plan would show in its readings."""


def hide(plan: Plan, seed: int) -> Deviation:
    """One deviation at random: its kind first, so that the rarer kinds are met as well.

    Parameters
    ----------
    seed : int
        The same hides the same.

    Raises
    ------
    NothingToHide
        None would show.
    """
    rng = np.random.default_rng(seed)
    found: list[Deviation] = []
    for scenario in (everything_on(plan), bank_alone(plan)):
        try:
            found += deviations(plan, scenario, rng)
        except NothingToMeasure:
            continue
    if not found:
        raise NothingToHide(say("nothing that could be wrong with this plan would show in its readings"))
    kind = str(rng.choice(sorted({d.kind for d in found})))
    alike = [d for d in found if d.kind == kind]
    return alike[int(rng.integers(len(alike)))]


class TrainingBench:
    """A plan's copper with something hidden, and meters on it.

    Parameters
    ----------
    plan : Plan
        As planned.
    deviation : Deviation, optional
        What is hidden; nothing where None.
    seed : int
        Of everything that is a little off, and of the meters' noise.
    **served
        How the meters are put up, as `Served` takes it.
    """

    def __init__(self, plan: Plan, deviation: Deviation | None, seed: int = 0, **served: Any) -> None:
        self.plan, self.deviation = plan, deviation
        self.built = AsBuilt(plan, deviation, seed)
        scenarios = {s.id: s for s in to_measure_in(plan)}
        first = _at_bank(plan)
        self.meters = {
            name: Served(
                Instrument(name, measures, self.built, scenarios, first, np.random.default_rng([seed, k])), **served
            )
            for k, (name, measures) in enumerate(METERS.items())
        }

    def address(self, quantity: str) -> str:
        """Of the meter that measures a quantity."""
        want = "volts" if quantity == "joint" else quantity
        return next(m.address for name, m in self.meters.items() if want in METERS[name])

    def close(self) -> None:
        """Take the meters off their lines."""
        for m in self.meters.values():
            m.close()


def _at_bank(plan: Plan) -> Point:
    """Where the probes are at first: on a battery."""
    unit = next((b for bank in wire(plan).banks for b in bank.units), None)
    return Point("volts", unit.ref("plus"), unit.ref("minus")) if unit is not None else Point("volts", "", "")
