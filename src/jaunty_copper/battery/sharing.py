"""How the units of a bank share a current."""

from dataclasses import dataclass
from functools import cached_property
from math import nan

import numpy as np

from jaunty_copper.network.state import State
from jaunty_copper.network.wiring import Wiring, held_ah
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.model import Battery, Scenario


@dataclass(frozen=True)
class Limits:
    """What a unit may carry, A, and whether that is its own figure or its chemistry's."""

    discharge_a: float
    charge_a: float
    own: bool


def limits_of(wiring: Wiring, unit: Battery) -> Limits:
    """Continuous limits of a unit."""
    chemistry = wiring.parts.battery_chemistries[unit.chemistry]
    return Limits(
        unit.max_discharge_a or chemistry.max_discharge_c * unit.capacity_ah,
        unit.max_charge_a or chemistry.max_charge_c * unit.capacity_ah,
        unit.max_discharge_a is not None,
    )


@dataclass(frozen=True)
class Share:
    """A unit in a scenario.

    Attributes
    ----------
    unit : str
        Its id.
    current_a : float
        Out of its plus; negative while it is charged.
    share : float
        Of the current of all strings in parallel with it.
    even : float
        What that share would be if all took the same for each ampere-hour they hold.
    c_rate : float
        Current over capacity, 1/h.
    terminal_v : float
        Between its posts.
    limit_a : float
        What it may carry in that direction.
    """

    unit: str
    current_a: float
    share: float
    even: float
    c_rate: float
    terminal_v: float
    limit_a: float

    @property
    def used(self) -> float:
        """Share of its limit."""
        return abs(self.current_a) / self.limit_a


@dataclass(frozen=True)
class Sharing:
    """How a bank shares in one scenario.

    Attributes
    ----------
    shares : tuple of Share
        In the order of the file; nan where there is no operating point.
    current_a : float
        Of the bank.
    spread : float
        Between the most and the least loaded string in parallel, for each ampere-hour, over
        their mean; 0 where nothing flows or nothing is in parallel.
    heat_w : dict
        Loss in each link and lead.
    kept_out : tuple of str
        Units that let no charge in, and would be charged.
    """

    bank: Bank
    scenario: Scenario
    shares: tuple[Share, ...]
    current_a: float
    spread: float
    heat_w: dict[str, float]
    kept_out: tuple[str, ...]

    @cached_property
    def by_unit(self) -> dict[str, Share]:
        """Shares by the id of the unit."""
        return {s.unit: s for s in self.shares}

    @property
    def worst_link(self) -> str | None:
        """The link or lead that loses most."""
        return max(self.heat_w, key=lambda k: self.heat_w[k], default=None)


def sharing(bank: Bank, state: State) -> Sharing:
    """How a bank shares its current in a solved scenario."""
    w, solved = state.wiring, state.solved
    current = {u.id: state.current(u.id) if solved else nan for u in bank.units}
    kept_out = tuple(u.id for u in bank.units if u.id in state.kept_out)
    shares: dict[str, Share] = {}
    spread = 0.0
    for group in bank.groups:
        strings = [bank.strings[k] for k in group]
        held = np.array([min(held_ah(bank.by_id[u]) for u in s) for s in strings])
        amps = np.array([current[s[0]] for s in strings])
        whole = float(amps.sum())
        # What is kept out of the load has no share in it that could be even.
        rate = (amps / held)[[not set(s) & set(kept_out) for s in strings]]
        mean = float(np.abs(rate).mean()) if rate.size else 0.0
        # Below a thousandth of the capacity in an hour what flows between units is no load to share.
        if rate.size > 1 and solved and mean > 1e-3:
            spread = max(spread, float(rate.max() - rate.min()) / mean)
        for s, a, even in zip(strings, amps, held / held.sum(), strict=True):
            for u in s:
                unit = bank.by_id[u]
                limits = limits_of(w, unit)
                shares[u] = Share(
                    u, float(a), float(a) / whole if whole else float(even), float(even), float(a) / held_ah(unit),
                    state.volts(unit.ref("plus")) - state.volts(unit.ref("minus")) if solved else nan,
                    limits.charge_a if a < 0.0 else limits.discharge_a,
                )  # fmt: skip
    total = sum(current[u] for u in bank.outlets)
    heat = {id_: state.current(id_) * state.drop(id_) if solved else nan for id_ in bank.inside}
    return Sharing(bank, state.scenario, tuple(shares[u.id] for u in bank.units), float(total), spread, heat, kept_out)


def bank_of(wiring: Wiring, unit: str) -> Bank:
    """The bank of a unit.

    Raises
    ------
    KeyError
        There is no such unit.
    """
    for bank in wiring.banks:
        if unit in bank.by_id:
            return bank
    raise KeyError(unit)
