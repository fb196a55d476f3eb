"""Hydrogen that lead-acid units give off: led outside, kept from sparks."""

from collections.abc import Iterator
from functools import partial

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED, Check, Rule, Verdict
from jaunty_copper.codes.rules.ignition import may_spark
from jaunty_copper.language import say
from jaunty_copper.network.wiring import cells
from jaunty_copper.parts.catalogue import Catalogue
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Battery, Equipment

TOPIC = say("Banks")
AIR_M3_PER_MAH = 0.05e-3
"""IEC 62485-2 7.2: Q = v q s n I_gas C; 24 times dilution, 0.42e-3 m³/Ah, five times for safety, C in Ah and I_gas in mA/Ah."""
OPENING_CM2_PER_M3_H = 28.0
"""IEC 62485-2 7.3: A = 28 Q, of the inlet and of the outlet each, cm² for m³/h."""
SOURCE = say("IEC 62485-2 7.2 and 7.3: Q = 0.05 n I_gas C 10⁻³ m³/h at boost, A = 28 Q cm²")


def air_m3_h(parts: Catalogue, units: list[Battery]) -> float:
    """Air that dilutes the hydrogen of some units at boost charge, m³/h.

    Parameters
    ----------
    units : list of Battery
        In one place.

    References
    ----------
    IEC 62485-2, 7.2.
    """
    return AIR_M3_PER_MAH * sum(
        cells(x, parts) * parts.battery_chemistries[x.chemistry].gas_boost_ma_ah * x.capacity_ah for x in units
    )


def opening_cm2(parts: Catalogue, units: list[Battery]) -> float:
    """Free opening that each of inlet and outlet needs for natural ventilation of some units, cm².

    Parameters
    ----------
    units : list of Battery
        In one place.

    References
    ----------
    IEC 62485-2, 7.3.
    """
    return OPENING_CM2_PER_M3_H * air_m3_h(parts, units)


def hydrogen(case: Case, rule: Rule) -> Iterator[Check]:
    """Places with lead-acid units: ventilated, by openings that are large enough, and without sparks beside vented ones."""
    chemistries = case.parts.battery_chemistries
    for zone in case.plan.zones:
        units = [
            x for x in case.plan.items
            if isinstance(x, Battery) and x.zone == zone.id and chemistries[x.chemistry].gas_boost_ma_ah > 0.0
        ]  # fmt: skip
        if not units:
            continue
        vented = any(chemistries[x.chemistry].vented == "yes" for x in units)
        air, least = air_m3_h(case.parts, units), opening_cm2(case.parts, units)
        grave = Verdict.DANGER if vented else Verdict.DEFECT if case.code.limit("sealed_ventilated") else Verdict.ADVICE
        asks = say("{air:.2g} m³/h at boost, openings of {least:.3g} cm² each way", air=air, least=least)
        check = case.check(rule, zone.id, zone.opening_cm2, least, "cm²", source=SOURCE)
        if not zone.ventilated:
            yield case.check(rule, zone.id, source=SOURCE).fails(
                grave,
                say("{zone} holds {kind} units and is not ventilated to the outside: {asks}", zone=zone.title, asks=asks,
                    kind=say("vented") if vented else say("valve-regulated")),
                partial(Edit, say("Ventilate {zone}", zone=zone.title), partial(edits.change, id_=zone.id, ventilated=True)),
            )  # fmt: skip
        elif zone.opening_cm2 is not None and zone.opening_cm2 * ROUNDED < least:
            yield check.fails(
                grave,
                say(
                    "{zone} has openings of {has:.3g} cm²; its units ask for {asks}",
                    zone=zone.title,
                    has=zone.opening_cm2,
                    asks=asks,
                ),
            )
        elif zone.opening_cm2 is None and vented:
            yield case.check(rule, zone.id, source=SOURCE).fails(
                Verdict.ADVICE,
                say("Say how large the openings of {zone} are: its units ask for {asks}", zone=zone.title, asks=asks),
            )
        else:
            yield check if zone.opening_cm2 is not None else case.check(rule, zone.id, source=SOURCE)
        if vented:
            yield from _sparks(case, rule, zone.id)
    nowhere = [
        x for x in case.plan.items
        if isinstance(x, Battery) and x.zone is None and chemistries[x.chemistry].vented == "yes"
    ]  # fmt: skip
    if nowhere:
        yield case.check(rule, nowhere[0].id, source=SOURCE).fails(
            Verdict.ADVICE,
            say(
                "Say where {units} stand, and how that is ventilated: vented units ask for {air:.2g} m³/h at boost, and for no spark near them",
                units=", ".join(x.title for x in nowhere),
                air=air_m3_h(case.parts, nowhere),
            ),
        )


def _sparks(case: Case, rule: Rule, zone: str) -> Iterator[Check]:
    for x in case.plan.placed:
        if x.zone == zone and may_spark(case, x):
            yield case.check(
                rule, x.id, source=say("Small-craft practice: no ignition source where hydrogen may gather")
            ).fails(
                Verdict.DEFECT if isinstance(x, Equipment) else Verdict.DANGER,
                say(
                    "{x} may spark, in one space with vented units, unless its maker says it is ignition protected",
                    x=x.title,
                ),
            )


RULES = (
    Rule("hydrogen", say("Hydrogen"),
         say("Hydrogen from charging explodes at a spark no one notices; valve-regulated units give it off too, when charged too far."), hydrogen,
         say("{} places or sparks beside units that give off hydrogen"), topic=TOPIC),
)  # fmt: skip
