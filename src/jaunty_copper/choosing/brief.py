"""What whole plans are drafted for: the equipment as it would be bought, and the bank that it asks for."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby
from math import ceil

from jaunty_copper.battery.needs import needs
from jaunty_copper.choosing.beginning import SYSTEMS_V, USUAL_AIR_C, Beginning, Bonding
from jaunty_copper.language import say
from jaunty_copper.network.wiring import wire
from jaunty_copper.parts.catalogue import library
from jaunty_copper.parts.models import Chemistry
from jaunty_copper.plan.model import (
    AnyEquipment,
    Converter,
    CurrentLoad,
    Inverter,
    Load,
    Plan,
    Practice,
    Scenario,
    Source,
)

UNITS_AH = (30.0, 50.0, 80.0, 100.0, 120.0, 150.0, 180.0, 200.0, 230.0, 280.0)
"""Capacities that units are sold in; representative."""
MOST_PARALLEL = 6
CONVERTERS_A = (5.0, 10.0, 15.0, 20.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0)
"""Currents that converters are sold for; representative."""
OVER_CONVERTER = 1.25
"""Current of a converter over that of its loads together."""
OUTPUT_LIFT = 1.05
"""A converter's set voltage over its loads' nominal: room for the drop on the way."""
RECHARGE_H = 12.0
"""In so many hours a converter brings back what the loads of a second bank take in a day."""
LOSSES = 1.12
"""What loads behind a converter take over their own: its efficiency and its idling."""
SPARE = 1.1
"""What a bank holds and gives over what is asked."""
LOWEST_SHARE = 0.9
"""Of its nominal voltage, what a bank still has when it is nearly empty."""
MOST_A = 300.0
"""Beyond that a higher voltage is the answer, not more copper."""
USUAL = ("lifepo4", "agm")
"""Chemistries that are tried where any will do."""
SELECTIVE_TIMES, SMALL_A, LEAST_A = 2.5, 80.0, 20.0
"""How far above the largest circuit what flows in the main device is taken, up to how many amperes; and the least."""


@dataclass(frozen=True)
class Brief:
    """What whole plans are drafted for, besides the equipment.

    Attributes
    ----------
    practice : str
        The code.
    chemistry : str or None
        Of the units; any where None.
    autonomy_days : float
        Without any source.
    bonding : str
        Which pole is joined to chassis or earth.
    air_c : float
        Where the bank stands, C.
    """

    practice: Practice
    chemistry: str | None = None
    autonomy_days: float = 1.0
    bonding: Bonding = "minus"
    air_c: float = USUAL_AIR_C


def combinations(plan: Plan, brief: Brief) -> list[tuple[float, str, float]]:
    """System voltage, chemistry, unit voltage: lithium in units of the system's voltage too, lead of 12 V in series.

    Parameters
    ----------
    brief : Brief
        For the chemistry.
    """
    found: list[tuple[float, str, float]] = []
    for volts in SYSTEMS_V:
        for chemistry in (brief.chemistry,) if brief.chemistry else USUAL:
            lead = library().with_own(plan.parts).battery_chemistries[chemistry].gas_boost_ma_ah > 0.0
            found.append((volts, chemistry, 12.0))
            if volts > 12.0 and not lead:
                found.append((volts, chemistry, volts))
    if brief.chemistry is None:
        # Of lithium for 48 V the unit of that voltage; four in series have four management systems to agree.
        found = [c for c in found if c != (48.0, "lifepo4", 12.0)]
    return found


def adapted(plan: Plan, volts: float, kind: Chemistry) -> tuple[AnyEquipment, ...]:
    """Equipment as it would be bought for a system voltage: inverters and sources for it, a converter for other loads.

    Parameters
    ----------
    plan : Plan
        For its equipment; its own converters are left out.
    volts : float
        Nominal voltage of the system.
    kind : Chemistry
        Decides what sources hold.
    """
    cells = round(kind.cells_per_12v * volts / 12.0)
    found: list[AnyEquipment] = []
    for e in plan.equipment:
        if isinstance(e, Converter):
            continue
        times = volts / e.nominal_v
        fields: dict[str, object] = (
            {"sense_plus": None, "sense_minus": None, "probe": None} if isinstance(e, Source) else {}
        )
        if isinstance(e, Load):
            fields["drives"] = None
        if isinstance(e, Source):
            same_power = round(e.current_a / times, 1)
            fields |= {
                "nominal_v": volts, "set_v": round(cells * kind.full_v, 2), "current_a": same_power, "float_v": None, "compensation_mv_k": 0.0,
            }  # fmt: skip
        elif isinstance(e, Inverter):
            fields |= {"nominal_v": volts} | {
                n: round(v * times, 2) for n in ("cut_out_v", "min_v") if (v := getattr(e, n)) is not None
            }
            if e.input_uf is not None:
                fields["input_uf"] = e.input_uf / times**2
        found.append(e.model_copy(update=fields))
    return (*_converters(plan, found, volts), *found)


def _converters(plan: Plan, equipment: Sequence[AnyEquipment], volts: float) -> Iterator[Converter]:
    """A converter for the loads of each other voltage."""
    other = sorted((e for e in equipment if isinstance(e, Load) and e.nominal_v != volts), key=lambda e: e.nominal_v)
    taken = {x.id for x in plan.placed}
    for out_v, loads in groupby(other, key=lambda e: e.nominal_v):
        running, starts = zip(*(_amps(e, out_v) for e in loads), strict=True)
        # What starts with the largest surge does so while all else runs.
        amps = sum(running) + max(s - r for r, s in zip(running, starts, strict=True)) / OVER_CONVERTER
        wanted = OVER_CONVERTER * amps
        rating = next((a for a in CONVERTERS_A if a >= wanted), ceil(wanted / 10.0) * 10.0)
        id_ = next(n for k in range(1, len(taken) + 2) if (n := f"CV{k}") not in taken)
        taken.add(id_)
        yield Converter(
            id=id_, name=say("{out:g} V converter", out=out_v), nominal_v=volts, out_nominal_v=out_v,
            set_v=round(out_v * OUTPUT_LIFT, 2), current_a=rating, idle_w=2.0, isolated=False, distance_m=1.0,
        )  # fmt: skip


def _amps(e: Load, volts: float) -> tuple[float, float]:
    """What a load takes when it runs, and when it starts, A."""
    running = e.current_a if isinstance(e, CurrentLoad) else e.power_w / volts  # type: ignore[attr-defined]
    surge = e.surge_a if isinstance(e, CurrentLoad) else (getattr(e, "surge_w", None) or 0.0) / volts
    return running, max(surge or 0.0, running)


def bank_for(
    plan: Plan, brief: Brief, volts: float, chemistry: str, unit_v: float, equipment: Sequence[AnyEquipment]
) -> Beginning | str:
    """The smallest bank that gives what is asked, lasts as long, and takes what sources give; or why there is none.

    Parameters
    ----------
    plan : Plan
        For its scenarios.
    brief : Brief
        For the days.
    volts, unit_v : float
        Of the system and of a unit.
    chemistry : str
        Of the units.
    equipment : sequence
        As `adapted` gives it.
    """
    kind = library().with_own(plan.parts).battery_chemistries[chemistry]
    # Nothing is wired yet: all of it counts at the bank's own voltage, behind converters a little more.
    asked = needs(wire(_loose(plan, [e for e in equipment if not isinstance(e, Converter)])))
    behind = sum(e.set_v * e.current_a / OVER_CONVERTER for e in equipment if isinstance(e, Converter))
    lasting = max((s.nominal_a for s in asked.states if not s.momentary), default=0.0) * asked.nominal_v / volts
    current = (lasting + (LOSSES - 1.0) * behind / volts) / LOWEST_SHARE
    if current > MOST_A:
        return say(
            "{current:.0f} A for good ask for a higher voltage: more than {most:g} A are bars and paired cables",
            current=current,
            most=MOST_A,
        )
    charge = sum(e.current_a for e in equipment if isinstance(e, Source))
    wh = (LOSSES if behind else 1.0) * asked.used_wh * brief.autonomy_days / kind.usable_fraction
    ah = SPARE * max(wh / volts, current / kind.max_discharge_c, charge / kind.max_charge_c)
    strings = max(1, ceil(ah / UNITS_AH[-1]))
    if strings > MOST_PARALLEL:
        return say(
            "{ah:.0f} Ah would be {strings} strings in parallel: more than {most} never share well", ah=ah, strings=strings, most=MOST_PARALLEL,
        )  # fmt: skip
    unit_ah = next(a for a in UNITS_AH if a * strings >= ah or a == UNITS_AH[-1])
    # A small main device is cheap to have well above the largest circuit's: then a fault there leaves the rest alone.
    circuits = [d.nominal_a * asked.nominal_v / volts for s in asked.states for d in s.draws]
    circuits += [e.set_v * e.current_a / e.efficiency / volts for e in equipment if isinstance(e, Converter)]
    alone = SELECTIVE_TIMES * max(circuits, default=0.0)
    least = max(current, charge, min(alone, SMALL_A), LEAST_A)
    return Beginning(volts, chemistry, unit_v, unit_ah, strings, brief.practice, brief.bonding, brief.air_c, least)


def second_bank(
    plan: Plan, brief: Brief, first: Beginning, equipment: Sequence[AnyEquipment]
) -> tuple[Beginning, tuple[AnyEquipment, ...]] | None:
    """A bank of their own for the loads of another voltage, and the equipment with a converter that charges it.

    Parameters
    ----------
    first : Beginning
        The bank of everything else.
    equipment : sequence
        As `adapted` gives it.

    Returns
    -------
    tuple, or None
        None where nothing is of another voltage, or of several, or no bank gives that; nor where plus is earthed, as
        what the converter joins is minus.
    """
    converters = [e for e in equipment if isinstance(e, Converter)]
    if len(converters) != 1 or brief.bonding == "plus":
        return None
    (converter,) = converters
    volts = converter.out_nominal_v
    kind = library().with_own(plan.parts).battery_chemistries[first.chemistry]
    loads = tuple(e for e in equipment if isinstance(e, Load) and e.nominal_v == volts)
    bank = bank_for(plan, brief, volts, first.chemistry, min(volts, 12.0), loads)
    if isinstance(bank, str):
        return None
    # It brings back in half a day what the loads take in one, and no more than the units accept.
    day_wh = needs(wire(_loose(plan, loads))).used_wh
    wanted = min(day_wh / volts / RECHARGE_H, bank.unit_ah * bank.parallel * kind.max_charge_c)
    rating = next((a for a in CONVERTERS_A if a >= wanted), CONVERTERS_A[-1])
    full = round(round(kind.cells_per_12v * volts / 12.0) * kind.full_v, 2)
    charging = converter.model_copy(
        update={"current_a": rating, "set_v": full, "name": say("{out:g} V charger from {first:g} V", out=volts, first=first.system_v)}
    )  # fmt: skip
    return bank, tuple(charging if e is converter else e for e in equipment)


def _loose(plan: Plan, equipment: Sequence[AnyEquipment]) -> Plan:
    """A plan's equipment with nothing wired."""
    return plan.model_copy(
        update={"items": (), "runs": (), "equipment": tuple(equipment), "scenarios": scenarios_for(plan, equipment)}
    )


def scenarios_for(plan: Plan, equipment: Sequence[AnyEquipment]) -> tuple[Scenario, ...]:
    """A plan's scenarios, of the equipment that is still there.

    Parameters
    ----------
    equipment : sequence
        That is there.
    """
    ids = {e.id for e in equipment}
    kept = tuple(
        s.model_copy(update={"states": {k: v for k, v in s.states.items() if k in ids}}) for s in plan.scenarios
    )
    return kept or (Scenario(id="all", name=say("Everything on")),)
