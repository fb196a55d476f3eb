"""The highest voltage at which each system of a plan works."""

from jaunty_copper.network.demand import compensation_v, scenarios_of
from jaunty_copper.network.wiring import Wiring, cells
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.model import Battery, Converter, Source

EMF_SHARE = 1.05
"""IEC 61660-1: the EMF of a charged battery over its nominal voltage."""
MOST_LIFT = 1.25
"""Beyond equalizing, a set voltage is a mistake of its own and no EMF; representative."""


def full_v(battery: Battery, parts: Catalogue) -> float:
    """EMF of a charged unit, V: 1.05 of its nominal voltage (IEC 61660-1), or its cells' where that is more.

    Parameters
    ----------
    battery : Battery
        A unit.
    parts : Catalogue
        For its chemistry.
    """
    curve = parts.battery_chemistries[battery.chemistry].ocv_per_cell_v
    return max(EMF_SHARE * battery.nominal_v, cells(battery, parts) * curve[-1])


def set_to_v(e: Source | Converter) -> float:
    """The higher of the voltages that a source is set to, V.

    Parameters
    ----------
    e : Source or Converter
        A converter has one only.
    """
    return max(e.set_v, (e.float_v if isinstance(e, Source) else None) or 0.0)


def most_held_v(w: Wiring) -> list[float]:
    """The most that each source of a system holds, V: where its probe is coldest.

    Parameters
    ----------
    w : Wiring
        The system.
    """
    scenarios = scenarios_of(w.plan)
    return [set_to_v(e) + max(0.0, *(compensation_v(w.plan, e, s) for s in scenarios)) for e in w.sources]


def _outputs(w: Wiring) -> list[tuple[int, int, float]]:
    """Plus and minus rail of everything that holds a voltage, and the most that it holds."""
    return [(w.rail_of(e.output[0]), w.rail_of(e.output[1]), v) for e, v in zip(w.sources, most_held_v(w), strict=True)]


def _charged_v(w: Wiring, bank: Bank) -> float:
    return max(bank.nominal_v, bank.across(lambda unit: full_v(unit, w.parts)))


def bank_v(w: Wiring, bank: Bank) -> float:
    """Highest operating voltage of a bank, V: charged, or while something charges it.

    Parameters
    ----------
    w : Wiring
        The system that it is in, with what charges it.
    bank : Bank
        One of its banks.
    """
    poles = tuple(w.rail_of(bank.takeoffs[side][0]) for side in ("plus", "minus"))
    return max([_charged_v(w, bank), *(v for plus, minus, v in _outputs(w) if (plus, minus) == poles)])


def lift(w: Wiring) -> dict[str, float]:
    """By unit, its greatest EMF over that of a charged one at rest: what charges it may hold it above.

    Parameters
    ----------
    w : Wiring
        The system.
    """
    by_bank = [(bank, min(bank_v(w, bank) / _charged_v(w, bank), MOST_LIFT)) for bank in w.banks]
    return {u.id: times for bank, times in by_bank for u in bank.units}


def highest_v(w: Wiring) -> dict[int, float]:
    """By rail, the highest operating voltage of the system that it belongs to, V.

    A bank is as high as its charged units, or as the greatest set voltage of what charges it; what
    a converter alone feeds is at its set voltage.

    Parameters
    ----------
    w : Wiring
        The system.
    """
    found: dict[int, float] = {}
    for bank in w.banks:
        volts = bank_v(w, bank)
        for rail in {w.rail_of(u.ref(t)) for u in bank.units for t in u.terminal_names}:
            found[rail] = max(found.get(rail, 0.0), volts)
    for plus, minus, v in _outputs(w):
        for rail in (plus, minus):
            found.setdefault(rail, v)
    return found
