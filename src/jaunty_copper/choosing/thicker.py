"""What one size up of a conductor gains, and what it costs."""

from typing import NamedTuple

from jaunty_copper.codes.case import Case
from jaunty_copper.fabrication.prices import metre_of
from jaunty_copper.network.state import State
from jaunty_copper.network.wiring import run_ohms
from jaunty_copper.physics.copper import resistance_at
from jaunty_copper.plan.model import Run


class SizeUp(NamedTuple):
    """The next size of a conductor.

    Attributes
    ----------
    label : str
        The size.
    volts, watts : float
        What it gives back at the current that flows, V and W.
    amps : float
        What more it may carry, A.
    price, mass_kg : float
        What more it costs, without currency, and weighs.
    """

    label: str
    volts: float
    watts: float
    amps: float
    price: float
    mass_kg: float


def one_size_up(case: Case, run: Run, state: State) -> SizeUp | None:
    """What the next size would do for a run in a state; None for one that is the thickest, or has no length.

    Parameters
    ----------
    case : Case
        For ampacities and prices.
    run : Run
        Of the plan.
    state : State
        With an operating point.

    Notes
    -----
    The current is taken as it is: a constant power draws a little less with less lost. Copper is as warm as it is now.
    """
    parts = case.parts
    now = parts.conductors[run.conductor]
    thicker = next((s for s in parts.sizes(now.system) if s.area_mm2 > now.area_mm2), None)
    if thicker is None or run.length_m <= 0.0 or run.measured_ohm is not None:
        return None
    other = run.model_copy(update={"conductor": thicker.id})
    k = state.wiring.branch[run.id]
    warm, amps = float(state.point.temperature_c[k]), abs(float(state.point.current_a[k]))
    less = sum(
        sign * (fixed + float(resistance_at(copper, warm)))
        for sign, (fixed, copper) in ((1.0, run_ohms(run, parts)), (-1.0, run_ohms(other, parts)))
    )
    metres = run.length_m * run.parallel
    (price, mass), (new_price, new_mass) = (metre_of(case.plan, parts, r.conductor) for r in (run, other))
    return SizeUp(
        thicker.label, less * amps, less * amps**2, case.may_carry(other) - case.for_load(case.ampacities[run.id])[0],
        metres * (new_price - price), metres * (new_mass - mass),
    )  # fmt: skip
