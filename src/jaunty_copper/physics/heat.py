"""Temperature of an insulated round conductor in still air.

The loss in the copper leaves through the insulation and then by natural
convection and radiation from its surface:

    I2 R'(T) = (T - Ts) / R_ins = pi D (h (Ts - Ta) + eps sigma (Ts4 - Ta4))

with Churchill and Chu's correlation for h on a horizontal cylinder.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from jaunty_copper.physics.copper import ALPHA20_PER_K, HEAT_J_PER_M3_K, Floats, resistance_at

EMISSIVITY = 0.9
"""Of plastic and rubber surfaces, representative."""
INSULATION_W_PER_M_K = 0.2
"""Thermal conductivity of PVC and rubber insulation, representative."""
INSULATION_J_PER_M3_K = 2.0e6
"""Volumetric heat capacity of PVC and rubber, representative (IEC 60949 uses 1.7e6 to 2.4e6)."""
STEFAN_BOLTZMANN = 5.670374e-8
GRAVITY = 9.80665
ZERO_C_IN_K = 273.15
PRANDTL = 0.707
SHAPE = (1.0 + (0.559 / PRANDTL) ** (9.0 / 16.0)) ** (8.0 / 27.0)
WARMING_STEPS = 8
"""In which a conductor is followed while it warms: 0.01 K from forty, and quick enough for the panel of a window."""
AT_ONCE_HZ = 1e9
"""Rate of what has arrived, 1/s."""
SURFACE_K = 1e-9
"""A surface whose temperature moves by less is found."""
HOTTEST_C = 400.0
"""Where the search for a temperature ends: every insulation is gone long before."""


@dataclass(frozen=True)
class Cable:
    """Round insulated conductors, one array entry each.

    Attributes
    ----------
    r20_ohm_per_m : ndarray
        Resistance per length at 20 C.
    area_mm2 : ndarray
        Copper section.
    outer_mm : ndarray
        Diameter over the insulation.
    """

    r20_ohm_per_m: Floats
    area_mm2: Floats
    outer_mm: Floats

    @cached_property
    def insulation_k_m_per_w(self) -> Floats:
        """Thermal resistance of the insulation per length, K m / W."""
        copper_mm = np.sqrt(4.0 * self.area_mm2 / np.pi / STRAND_FILL)
        ratio = np.maximum(self.outer_mm / copper_mm, 1.05)
        return np.asarray(np.log(ratio) / (2.0 * np.pi * INSULATION_W_PER_M_K))

    @property
    def heat_j_per_m_k(self) -> Floats:
        """Heat capacity of copper and insulation per length, J / (m K)."""
        copper_m2 = self.area_mm2 * 1e-6
        wall_m2 = np.maximum(np.pi / 4.0 * (self.outer_mm * 1e-3) ** 2 - copper_m2, 0.0)
        return np.asarray(HEAT_J_PER_M3_K * copper_m2 + INSULATION_J_PER_M3_K * wall_m2)


STRAND_FILL = 0.75
"""Copper's share of a flexible strand's circle, representative."""


def surface_loss(surface_c: ArrayLike, ambient_c: ArrayLike, outer_mm: ArrayLike) -> Floats:
    """Heat leaving a horizontal cylinder in still air, W per metre.

    Parameters
    ----------
    surface_c, ambient_c : array_like
        Surface and air temperature in C.
    outer_mm : array_like
        Diameter in mm.

    Notes
    -----
    Air properties at film temperature by power laws fitted to dry air at 1 atm
    (conductivity and viscosity within 1 % from 250 to 450 K).

    References
    ----------
    S. W. Churchill, H. H. S. Chu, Int. J. Heat Mass Transfer 18 (1975) 1049, eq. 10;
    valid for Rayleigh numbers up to 1e12.
    """
    surface, ambient, outer = (np.asarray(x, dtype=float) for x in (surface_c, ambient_c, outer_mm))
    return _loss_and_slope(surface, ambient, outer)[0]


def _loss_and_slope(surface_c: Floats, ambient_c: Floats, outer_mm: Floats) -> tuple[Floats, Floats]:
    """Loss as `surface_loss`, and its derivative with air properties held, W per metre and K."""
    ts, ta = surface_c + ZERO_C_IN_K, ambient_c + ZERO_C_IN_K
    diameter = outer_mm * 1e-3
    film = 0.5 * (ts + ta)
    conductivity = 0.0263 * (film / 300.0) ** 0.85
    viscosity = 15.89e-6 * (film / 300.0) ** 1.75
    rise = ts - ta
    rayleigh = GRAVITY / film * np.abs(rise) * diameter**3 * PRANDTL / viscosity**2
    buoyancy = 0.387 * rayleigh ** (1.0 / 6.0) / SHAPE
    root = 0.60 + buoyancy
    convection = root * root * conductivity / diameter
    radiation = EMISSIVITY * STEFAN_BOLTZMANN * (ts**4 - ta**4)
    slope = convection + conductivity / diameter * root * buoyancy / 3.0 + 4.0 * EMISSIVITY * STEFAN_BOLTZMANN * ts**3
    return np.pi * diameter * (convection * rise + radiation), np.pi * diameter * slope


def _surface_at(cable: Cable, conductor_c: Floats, ambient_c: Floats) -> Floats:
    """Surface temperature for a conductor temperature: heat through the wall equals heat lost."""
    low, high = np.minimum(ambient_c, conductor_c), np.maximum(ambient_c, conductor_c)
    wall = cable.insulation_k_m_per_w
    surface = 0.5 * (low + high)
    for _ in range(40):
        lost, slope = _loss_and_slope(surface, ambient_c, cable.outer_mm)
        excess = lost - (conductor_c - surface) / wall
        low, high = np.where(excess > 0.0, low, surface), np.where(excess > 0.0, surface, high)
        # Newton's step, and the middle where that would leave the bracket.
        new = surface - excess / (slope + 1.0 / wall)
        new = np.where((new >= low) & (new <= high), new, 0.5 * (low + high))
        still = float(np.abs(new - surface).max(initial=0.0)) < SURFACE_K
        surface = new
        if still:
            break
    return surface


def steady_current(cable: Cable, conductor_c: ArrayLike, ambient_c: ArrayLike) -> Floats:
    """Current that holds a conductor at a temperature, A.

    Parameters
    ----------
    cable : Cable
        n conductors.
    conductor_c, ambient_c : array_like
        Conductor and air temperature in C, scalar or of length n.

    Returns
    -------
    ndarray
        n currents; 0 where the air is hotter than the conductor may be.
    """
    shape = cable.area_mm2.shape
    hot = np.broadcast_to(np.asarray(conductor_c, dtype=float), shape)
    air = np.broadcast_to(np.asarray(ambient_c, dtype=float), shape)
    loss = surface_loss(_surface_at(cable, hot, air), air, cable.outer_mm)
    return np.asarray(np.sqrt(np.maximum(loss, 0.0) / resistance_at(cable.r20_ohm_per_m, hot)))


def steady_temperature(
    cable: Cable, current_a: ArrayLike, ambient_c: ArrayLike, start_c: Floats | None = None, steps: int = 60
) -> Floats:
    """Conductor temperature at a constant current, C.

    Newton's method on the heat balance, kept inside ambient and `HOTTEST_C`.

    Parameters
    ----------
    cable : Cable
        n conductors.
    current_a, ambient_c : array_like
        Current in A and air in C, scalar or of length n; of a current in each row, n columns.
    start_c : ndarray, optional
        Where to start, for a caller that already knows nearly where it ends.
    steps : int
        Most Newton steps; it stops sooner when nothing moves by more than 1e-9 K. A caller
        that iterates itself takes one step at a time.

    Returns
    -------
    ndarray
        As many temperatures; `HOTTEST_C` where no insulation would survive.
    """
    shape = np.broadcast_shapes(cable.area_mm2.shape, np.shape(current_a))
    air = np.broadcast_to(np.asarray(ambient_c, dtype=float), shape)
    square = np.broadcast_to(np.asarray(current_a, dtype=float), shape) ** 2
    wall = cable.insulation_k_m_per_w
    r20 = cable.r20_ohm_per_m

    r_cold = square * r20 * (1.0 - 20.0 * ALPHA20_PER_K)
    growth = square * r20 * ALPHA20_PER_K
    if start_c is None:
        surface = air + 1.0
    else:
        surface = np.maximum(start_c - (r_cold + growth * start_c) * wall, air)
    conductor = air
    room = 1.0 - growth * wall
    for _ in range(steps):
        lost, slope = _loss_and_slope(surface, air, cable.outer_mm)
        excess = lost - r_cold - growth * (surface + lost * wall)
        climb = slope - growth * (1.0 + slope * wall)
        # A slope near zero or below means the copper's own rise outruns the cooling: run hot.
        step = np.where(climb > 1e-6, -excess / np.maximum(climb, 1e-6), 50.0)
        new = np.minimum(np.maximum(surface + np.minimum(np.maximum(step, -60.0), 60.0), air), HOTTEST_C)
        step = new - surface
        surface = new
        # From what it generates, as the start was: what a hot surface would lose may be many times that.
        conductor = np.where(room > 1e-6, (surface + r_cold * wall) / np.maximum(room, 1e-6), HOTTEST_C)
        if float(np.abs(step).max(initial=0.0)) < 1e-9:
            break
    return np.asarray(np.minimum(conductor, HOTTEST_C))


def time_constant(cable: Cable, conductor_c: ArrayLike, ambient_c: ArrayLike) -> Floats:
    """Thermal time constant at a working temperature, s.

    Heat capacity times rise over heat lost, with copper and insulation at one temperature.

    Parameters
    ----------
    cable : Cable
        One conductor or many.
    conductor_c, ambient_c : array_like
        Of the copper and of the air, C.
    """
    shape = cable.area_mm2.shape
    hot = np.broadcast_to(np.asarray(conductor_c, dtype=float), shape)
    air = np.broadcast_to(np.asarray(ambient_c, dtype=float), shape)
    loss = surface_loss(_surface_at(cable, hot, air), air, cable.outer_mm)
    rise = np.maximum(hot - air, 1e-9)
    return np.asarray(cable.heat_j_per_m_k * rise / np.maximum(loss, 1e-12))


def temperature_after(
    cable: Cable, current_a: ArrayLike, ambient_c: ArrayLike, seconds: ArrayLike, start_c: ArrayLike | None = None
) -> Floats:
    """Conductor temperature after a constant current has flowed for a time, C.

    Parameters
    ----------
    cable : Cable
        n conductors.
    current_a, ambient_c : array_like
        Current in A and air in C, scalar or of length n.
    seconds : array_like
        How long, s, scalar or of length n.
    start_c : array_like, optional
        Temperature at the beginning, C; that of the air where not given.

    Returns
    -------
    ndarray
        n temperatures, at most `HOTTEST_C`.

    Notes
    -----
    C dT/dt = I² R(T) - loss(T), followed in exponential steps: each with the rate that its middle has, towards where
    that would end. Exact where the loss is in proportion to the rise; copper and insulation have one temperature.
    """
    shape = cable.area_mm2.shape
    air = np.broadcast_to(np.asarray(ambient_c, dtype=float), shape)
    square = np.broadcast_to(np.asarray(current_a, dtype=float), shape) ** 2
    temperature = air.copy() if start_c is None else np.broadcast_to(np.asarray(start_c, dtype=float), shape).copy()
    end = steady_temperature(cable, np.sqrt(square), air)
    step = np.broadcast_to(np.asarray(seconds, dtype=float), shape) / WARMING_STEPS

    def later(now: Floats, at: Floats, seconds: Floats) -> Floats:
        loss = surface_loss(_surface_at(cable, at, air), air, cable.outer_mm)
        rate = (square * resistance_at(cable.r20_ohm_per_m, at) - loss) / cable.heat_j_per_m_k
        ahead = end - at
        # What is there by the middle of a step is there at its end.
        slow = np.where(np.abs(ahead) > 1e-6, rate / np.where(np.abs(ahead) > 1e-6, ahead, 1.0), AT_ONCE_HZ)
        return np.asarray(end + (now - end) * np.exp(-np.maximum(slow, 0.0) * seconds))

    for _ in range(WARMING_STEPS):
        temperature = later(temperature, later(temperature, temperature, 0.5 * step), step)
    return np.asarray(np.minimum(temperature, HOTTEST_C))


def time_to_reach(
    cable: Cable, current_a: ArrayLike, limit_c: ArrayLike, ambient_c: ArrayLike, start_c: ArrayLike | None = None
) -> Floats:
    """Time a constant current takes to bring a conductor to a temperature, s.

    Integral of C dT / (I2 R(T) - loss(T)) from the start (the ambient unless given);
    infinite where the current never brings it there.

    Parameters
    ----------
    cable : Cable
        One conductor or many.
    current_a : array_like
        Constant, A.
    limit_c, ambient_c : array_like
        The temperature to be reached, and that of the air, C.
    start_c : array_like, optional
        Temperature at the beginning, C; that of the air where not given.
    """
    shape = cable.area_mm2.shape
    air = np.broadcast_to(np.asarray(ambient_c, dtype=float), shape)
    begin = air if start_c is None else np.broadcast_to(np.asarray(start_c, dtype=float), shape)
    limit = np.broadcast_to(np.asarray(limit_c, dtype=float), shape)
    square = np.broadcast_to(np.asarray(current_a, dtype=float), shape) ** 2
    # Points crowd towards the limit, where a current just above the steady one nearly stands still.
    share = 1.0 - (1.0 - np.linspace(0.0, 1.0, 161)) ** 3
    temps = begin + np.multiply.outer(share, limit - begin)
    rates = np.empty_like(temps)
    for k, t in enumerate(temps):
        loss = surface_loss(_surface_at(cable, t, air), air, cable.outer_mm)
        rates[k] = square * cable.r20_ohm_per_m * (1.0 + ALPHA20_PER_K * (t - 20.0)) - loss
    reaches = np.all(rates > 0.0, axis=0) & (limit > begin)
    slowness = cable.heat_j_per_m_k / np.where(rates > 0.0, rates, np.inf)
    took = np.trapezoid(slowness, temps, axis=0)
    return np.asarray(np.where(limit <= begin, 0.0, np.where(reaches, took, np.inf)))
