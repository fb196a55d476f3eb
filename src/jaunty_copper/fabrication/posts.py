"""What a bank's posts may do to a person: current, voltage, and how far an arc burns."""

from math import ceil

from jaunty_copper.language import say
from jaunty_copper.parts.figures import short
from jaunty_copper.physics.arc import burn_distance_mm, burn_energy
from jaunty_copper.plan.banks import Bank
from jaunty_copper.protection.protection import Protection

AT_MM, FOR_S = 450.0, 2.0
"""Face to post, and how long a person stays where nothing opens: NFPA 70E annex D, representative."""


def at_posts(p: Protection, bank: Bank) -> tuple[float, float]:
    """Greatest short-circuit current at a bank's posts, A, and the voltage before it, V.

    Parameters
    ----------
    bank : Bank
        Of the same plan.
    """
    columns = [p.faults.at[ref] for u in bank.units for t in u.terminals if (ref := u.ref(t)) in p.faults.at]
    most = max((abs(float(p.faults.peak.current_a[k])) for k in columns), default=0.0)
    return most, max((abs(float(p.faults.peak.open_v[k])) for k in columns), default=0.0)


def reach_mm(volts: float, amps: float) -> float:
    """How far an arc at posts may burn bare skin while a person stays, to the next ten mm.

    Parameters
    ----------
    volts, amps : float
        As `at_posts` gives them.
    """
    return 10.0 * ceil(burn_distance_mm(volts, amps, FOR_S) / 10.0)


def burns(volts: float, amps: float) -> str:
    """The caution about an arc at posts, where nothing opens.

    Parameters
    ----------
    volts, amps : float
        As `at_posts` gives them.
    """
    return say(
        "An arc at the posts may throw up to {energy} cal/cm² on a face at {at:g} mm within {seconds:g} s, and burn bare skin up to {reach:.0f} mm away; "
        "nothing opens it",
        energy=short(burn_energy(volts, amps, FOR_S, AT_MM)),
        at=AT_MM,
        seconds=FOR_S,
        reach=reach_mm(volts, amps),
    )
