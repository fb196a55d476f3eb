"""Charge and discharge beside cells that somebody measured and published: how far the representative ones are off.

O. Tremblay, L.-A. Dessaint, "Experimental validation of a battery dynamic model for EV applications", World Electric
Vehicle Journal 3 (2009), table 1: what they fitted to a lithium iron phosphate cell of 2.3 Ah and a lead-acid unit of
1.2 Ah, and found within 5 % of their measurements between 20 and 100 % charge.
"""

from typing import NamedTuple

import numpy as np
import pytest

from jaunty_copper.battery.discharge import over_time
from jaunty_copper.plan.model import Battery, Charger, CurrentLoad, Plan, Scenario
from tests.build import ohms


class Published(NamedTuple):
    """One of their batteries: constant voltage, resistance, polarisation, exponential zone, charge; and its cells."""

    e0: float
    r: float
    k: float
    a: float
    b: float
    q: float
    cells: int
    lead: bool

    def volts(self, taken, into):
        """Terminal voltage of a cell with so many ampere-hours taken and so many amperes into it, below 0 out of it."""
        low = self.k * self.q / (self.q - taken)
        zone = self.a * np.exp(-self.b * taken) if not self.lead else self.a * (into > 0.0)
        met = self.k * self.q / (taken + 0.1 * self.q) if into > 0.0 else low
        return (self.e0 - low * taken + zone + into * (met + self.r)) / self.cells

    def charged(self, soc, amps, volts, tail, step_s=1.0):
        """Hours and charge at which a cell's voltage is reached, and hours until no more than a current flows at it."""
        taken, hours, reached = self.q * (1.0 - soc), 0.0, None
        while True:
            into = amps
            if self.volts(taken, amps) > volts:
                low, high = 0.0, amps
                for _ in range(40):
                    into = 0.5 * (low + high)
                    low, high = (into, high) if self.volts(taken, into) < volts else (low, into)
                reached = reached or (hours, 1.0 - taken / self.q)
                if into < tail:
                    return *reached, hours
            taken, hours = max(taken - into * step_s / 3600.0, 0.0), hours + step_s / 3600.0


LITHIUM = Published(3.366, 0.01, 0.0076, 0.26422, 26.5487, 2.3, 1, False)
LEAD = Published(12.6463, 0.25, 0.33, 0.66, 2884.61, 1.2, 6, True)


def ours(chemistry, capacity, soc, amps, volts=None):
    """A unit of 12 V charged, or without a voltage to be held discharged, at so many amperes."""
    equipment = CurrentLoad(id="E", current_a=amps) if volts is None else Charger(id="E", set_v=volts, current_a=amps)
    plan = Plan(
        items=(Battery(id="B", chemistry=chemistry, nominal_v=12.0, capacity_ah=capacity),), equipment=(equipment,),
        runs=(ohms("p", "B.plus", "E.plus", 1e-3), ohms("m", "E.minus", "B.minus", 1e-3)),
        scenarios=(Scenario(id="c", soc_percent=soc),),
    )  # fmt: skip
    return over_time(plan, plan.scenarios[0], 24.0, 10.0).course


CASES = [
    # Volts a cell that ours may be off, between so many per cent of charge. What is not listed is off by more, and said so on the page.
    (LITHIUM, "lifepo4", 4, 0.2, 0.06, (20, 90), 0.06, (20, 90)),
    (LITHIUM, "lifepo4", 4, 0.5, 0.06, (20, 90), 0.06, (20, 90)),
    (LITHIUM, "lifepo4", 4, 1.0, 0.07, (20, 80), 0.06, (20, 90)),
    (LEAD, "agm", 6, 0.2, 0.08, (25, 70), 0.06, (35, 90)),
]


@pytest.mark.parametrize(("cell", "chemistry", "cells", "rate", "up", "charged", "down", "discharged"), CASES)
def test_voltages_are_near_those_that_were_published(cell, chemistry, cells, rate, up, charged, down, discharged):
    amps = rate * cell.q
    for course, into, off, (low, high) in (
        (ours(chemistry, cell.q, 10.0, amps, 60.0), amps, up, charged),
        (ours(chemistry, cell.q, 100.0, amps), -amps, down, discharged),
    ):
        soc, volts = course.soc_percent[1:, 0], course.terminal_v[1:, 0]
        order = np.argsort(soc)
        for percent in range(low, high + 1, 5):
            mine = np.interp(percent, soc[order], volts[order]) / cells
            theirs = cell.volts(cell.q * (1.0 - percent / 100.0), into)
            assert mine == pytest.approx(theirs, abs=off), (percent, into)


@pytest.mark.parametrize("rate", [0.3, 0.5])
def test_a_lithium_charge_takes_as_long_as_the_published_cell(rate):
    amps, tail = rate * LITHIUM.q, 0.05 * LITHIUM.q
    reached_h, reached, whole_h = LITHIUM.charged(0.2, amps, 3.6, tail)
    course = ours("lifepo4", LITHIUM.q, 20.0, amps, 14.4)
    held = next(e.hour for e in course.events if e.kind == "source_mode")
    soc = float(np.interp(held, course.hours, course.soc_percent[:, 0]))
    assert held == pytest.approx(reached_h, rel=0.08)
    assert soc == pytest.approx(100.0 * reached, abs=6.0)
    assert course.hours[-1] == pytest.approx(whole_h, rel=0.1)


def test_what_is_not_near_is_told_on_the_page():
    """Above 80 % the published lead unit takes its whole current up to the end; ours is held back, as lead is in practice."""
    amps = 0.2 * LEAD.q
    assert LEAD.volts(0.05 * LEAD.q, amps) < 2.4
    course = ours("agm", LEAD.q, 50.0, amps, 14.4)
    held = next(e.hour for e in course.events if e.kind == "source_mode")
    assert float(np.interp(held, course.hours, course.soc_percent[:, 0])) < 85.0
