"""Loads and sources by the hours of a day.

What a plan does not say is spread: a load evenly over the day, the sun as half a sine from six to
eighteen, any other source in one piece from eight on.
"""

from math import pi, sin

import numpy as np

from jaunty_copper.physics.copper import Floats
from jaunty_copper.plan.clock import HOURS
from jaunty_copper.plan.model import Load, Plan, SolarController, Source

SUNRISE, SUNSET, STARTS = 6, 18, 8
"""Hours between which the sun is taken to shine, and from which any other source gives, where a plan does not say."""


def hours_of_load(plan: Plan, e: Load) -> Floats:
    """How much of each hour a load is on; only while the source that it runs with gives.

    Parameters
    ----------
    plan : Plan
        For that source.
    e : Load
        With hours of its own or only their number.

    Returns
    -------
    ndarray, shape (24,)
    """
    found = np.array(e.by_hour, dtype=float) if e.by_hour else np.full(HOURS, e.hours_per_day / HOURS)
    source = plan.by_id.get(e.runs_with or "")
    return found if not isinstance(source, Source) else np.where(hours_of_source(source) > 0.0, found, 0.0)


def hours_of_source(e: Source) -> Floats:
    """How much of its most a source gives in each hour of a clear day.

    Parameters
    ----------
    e : Source
        With hours of its own or only their number.

    Returns
    -------
    ndarray, shape (24,)
    """
    if e.by_hour:
        return np.array(e.by_hour, dtype=float)
    found = np.zeros(HOURS)
    if not isinstance(e, SolarController):
        for k in range(HOURS):
            found[(STARTS + k) % HOURS] = min(max(e.hours_per_day - k, 0.0), 1.0)
        return found
    day = np.arange(SUNRISE, SUNSET)
    shape = np.array([sin(pi * (h + 0.5 - SUNRISE) / (SUNSET - SUNRISE)) for h in day])
    wanted = min(e.hours_per_day, float(day.size))
    # What is more than the most goes into the other hours.
    low, high = 0.0, 1e3
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if np.minimum(middle * shape, 1.0).sum() < wanted else (low, middle)
    found[day] = np.minimum(high * shape, 1.0)
    return found
