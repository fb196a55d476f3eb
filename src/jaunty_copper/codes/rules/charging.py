"""What chargers hold at a bank against what its units want, as warm as each of them is."""

from collections.abc import Iterator
from functools import partial
from typing import NamedTuple

from jaunty_copper.battery.feeding import charged_by
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED, Check, Rule, Verdict
from jaunty_copper.codes.rules.units import TOPIC
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.language import say
from jaunty_copper.network.demand import COMPENSATED_FROM_C, compensation_v, share_of
from jaunty_copper.network.levels import set_to_v
from jaunty_copper.network.refusing import lets_no_charge_in
from jaunty_copper.network.state import State
from jaunty_copper.network.wiring import cells
from jaunty_copper.parts.models import Chemistry
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Battery, Converter, Scenario, Source

CHARGED_C = 0.005
"""Current into a unit per ampere-hour from which it counts as charged; what levels out among units is less."""
SHEETS = say("Data sheets of the chemistry, representative; the air stands for the cells")
CELL_V_PER_K = -0.004
"""What a lead-acid cell wants less for each kelvin of warmth: usual in data sheets, representative. Lithium wants none."""


def wanted_v(case: Case, bank: Bank, scenario: Scenario) -> float:
    """Voltage between a bank's take-offs at which its units become full, as warm as they are, V.

    Parameters
    ----------
    bank : Bank
        One of the plan's.
    scenario : Scenario
        For the air about the units.
    """

    def unit_v(unit: Battery) -> float:
        kind = case.parts.battery_chemistries[unit.chemistry]
        zone = case.plan.zone_of(unit.zone)
        warmer = scenario.air_c(zone) - COMPENSATED_FROM_C
        gasses = kind.gas_boost_ma_ah > 0.0
        return cells(unit, case.parts) * (kind.full_v + (CELL_V_PER_K * warmer if gasses else 0.0))

    return bank.across(unit_v, min)


def charge_voltage(case: Case, rule: Rule) -> Iterator[Check]:
    """Sources that hold another voltage than fills the units without harm, in any scenario's air."""
    for e in case.plan.equipment:
        bank = charged_by(case.wiring, e) if isinstance(e, Source | Converter) else None
        if bank is None or not isinstance(e, Source | Converter):
            continue
        found = list(_offs(case, e, bank))
        off, held, wanted, limit, allowed = max(found, key=lambda x: abs(x[0]) / x[4])
        check = case.check(rule, e.id, abs(off), allowed, "%", source=case.code.source(limit))
        if abs(off) <= allowed * ROUNDED:
            yield check
            continue
        why = _why(case, e, bank)
        fix = partial(
            Edit, say("Set {e} to {wanted:.4g} V", e=e.title, wanted=wanted), partial(edits.change_each, changes={e.id: _voltages(e, round(wanted, 2))})
        )  # fmt: skip
        text = (
            say("{e} holds {held:.4g} V; the units of the bank of {bank} want {wanted:.4g} V at most: they gas and age{why}",
                e=e.title, held=held, bank=case.title(bank.id), wanted=wanted, why=why)
            if off > 0.0
            else say("{e} holds {held:.4g} V; the units of the bank of {bank} become full at {wanted:.4g} V: never here{why}",
                     e=e.title, held=held, bank=case.title(bank.id), wanted=wanted, why=why)
        )  # fmt: skip
        yield check.fails(Verdict.DEFECT if off > 0.0 else Verdict.ADVICE, text, None if why else fix)


def _offs(case: Case, e: Source | Converter, bank: Bank) -> Iterator[tuple[float, float, float, str, float]]:
    """In each scenario: by how much it is off, %; what is held and wanted, V; the limit that this is held to, and its value, %.

    Too much and too little have limits of their own, so that the larger of two shares need not be the worse.
    """
    highest = set_to_v(e)
    for s in (state.scenario for state in case.study.states):
        more, wanted = compensation_v(case.plan, e, s), wanted_v(case, bank, s)
        for held, limit, sign in (
            (highest + more, "charge_over_percent", 1.0),
            (e.set_v + more, "charge_under_percent", -1.0),
        ):
            off = 100.0 * (held / wanted - 1.0)
            if off * sign >= 0.0:
                yield off, held, wanted, limit, case.code.limit(limit)


def _voltages(e: Source | Converter, wanted: float) -> dict[str, float]:
    """What a source is set to that shall hold a voltage: its float no higher."""
    lower = isinstance(e, Source) and e.float_v is not None and e.float_v > wanted
    return {"set_v": wanted} | ({"float_v": wanted} if lower else {})


def _why(case: Case, e: Source | Converter, bank: Bank) -> str:
    """What is amiss with the compensation, where that is what moves it."""
    if not isinstance(e, Source) or not e.compensation_mv_k:
        return ""
    if not any(case.parts.battery_chemistries[u.chemistry].gas_boost_ma_ah for u in bank.units):
        return say("; lithium wants no temperature compensation")
    if e.probe not in bank.by_id:
        return say("; its temperature probe is not at these units")
    return ""


class Charged(NamedTuple):
    """A scenario in which a unit is charged, or may be.

    Attributes
    ----------
    air_c : float
        About the unit, C.
    into : str
        What goes in, in words.
    """

    air_c: float
    into: str
    scenario: Scenario


def _charged(case: Case, id_: str) -> list[Charged]:
    """The scenarios in which a unit is charged; lithium, which takes whatever comes, where what charges its bank is on at all."""
    unit = case.plan.by_id[id_]
    assert isinstance(unit, Battery)
    k, zone = case.wiring.branch[id_], case.plan.zone_of(unit.zone)
    into = [(s, -float(s.point.current_a[k])) for s in case.study.every if s.solved]
    found = [Charged(s.scenario.air_c(zone), amps(a), s.scenario) for s, a in into if a > CHARGED_C * unit.capacity_ah]
    if case.parts.battery_chemistries[unit.chemistry].gas_boost_ma_ah > 0.0:
        return found
    bank = next(b for b in case.wiring.banks if unit.id in b.by_id)
    given = [(s, _given_a(case, s, bank)) for s in case.study.states]
    later = say("once it is low, or what else draws is off")
    return found + [
        Charged(s.scenario.air_c(zone), say("up to {most}, {later},", most=amps(a), later=later), s.scenario)
        for s, a in given if a > CHARGED_C * unit.capacity_ah
    ]  # fmt: skip


def _given_a(case: Case, state: State, bank: Bank) -> float:
    """What may come into a bank from all that is on in a scenario and reaches it over closed switches, A."""
    w = case.wiring
    rail = w.circuit.rails(state.duty.closed)
    poles = [rail[w.node[bank.takeoffs[side][0]]] for side in ("plus", "minus")]
    sources = (e for e in w.sources if [rail[w.node[ref]] for ref in e.output] == poles)
    return sum(share_of(state.scenario, e.id) * e.current_a for e in sources)


def charge_in_the_cold(case: Case, rule: Rule) -> Iterator[Check]:
    """Units that are charged in air colder than their chemistry permits; of each the coldest scenario."""
    for unit in (x for x in case.plan.items if isinstance(x, Battery)):
        kind, charged = case.parts.battery_chemistries[unit.chemistry], case.once(_charged, unit.id)
        if not charged:
            continue
        air, into, scenario = min(charged, key=lambda x: x.air_c)
        check = case.check(rule, unit.id, air, kind.charge_least_c, "°C", scenario=scenario.id, source=SHEETS)
        if air >= kind.charge_least_c:
            yield check
            continue
        verdict, words = _too_cold(unit, kind, into, air, scenario)
        yield check.fails(verdict, words)


def _too_cold(unit: Battery, kind: Chemistry, into: str, air: float, scenario: Scenario) -> tuple[Verdict, str]:
    """How bad it is to charge a unit colder than its chemistry permits, and why."""
    if kind.gas_boost_ma_ah > 0.0:
        return Verdict.ADVICE, say(
            "{unit} is charged at {air:.0f} °C in “{scenario}”: below {least:g} °C it hardly takes a charge",
            unit=unit.title, air=air, scenario=scenario.title, least=kind.charge_least_c,
        )  # fmt: skip
    if lets_no_charge_in(unit, kind, air):
        return Verdict.DEFECT, say(
            "{unit} is to take {into} at {air:.0f} °C in “{scenario}”: below {least:g} °C its management system lets no charge in. It wants a heater or a warmer place",
            unit=unit.title, into=into, air=air, scenario=scenario.title, least=kind.charge_least_c,
        )  # fmt: skip
    return Verdict.DANGER, say(
        "{unit} takes {into} at {air:.0f} °C in “{scenario}”: below {least:g} °C lithium plates out inside it for good, and may short a cell later. "
        "It wants a heater, a warmer place, or sources that wait until it is warm",
        unit=unit.title, into=into, air=air, scenario=scenario.title, least=kind.charge_least_c,
    )  # fmt: skip


def in_the_heat(case: Case, rule: Rule) -> Iterator[Check]:
    """Units in air warmer than their chemistry permits, charged or at all; of each what is farthest beyond."""
    for unit in (x for x in case.plan.items if isinstance(x, Battery)):
        kind, zone = case.parts.battery_chemistries[unit.chemistry], case.plan.zone_of(unit.zone)
        found = [(s.scenario.air_c(zone), kind.most_c, s.scenario) for s in case.study.states]
        found += [(x.air_c, kind.charge_most_c, x.scenario) for x in case.once(_charged, unit.id)]
        if not found:
            continue
        air, most, scenario = max(found, key=lambda x: (x[0] - x[1], x[0]))
        check = case.check(rule, unit.id, air, most, "°C", scenario=scenario.id, source=SHEETS)
        if air <= most:
            yield check
        elif most == kind.most_c:
            yield check.fails(Verdict.DEFECT, say(
                "{unit} stands at {air:.0f} °C in “{scenario}”; its chemistry permits {most:g} °C, and every 10 K already halve its life",
                unit=unit.title, air=air, scenario=scenario.title, most=most,
            ))  # fmt: skip
        else:
            yield check.fails(Verdict.DEFECT, _too_warm(unit, kind, air, most, scenario))


def _too_warm(unit: Battery, kind: Chemistry, air: float, most: float, scenario: Scenario) -> str:
    """What a charge does to a unit that is warmer than its chemistry permits."""
    if lets_no_charge_in(unit, kind, air):
        return say(
            "{unit} is to be charged at {air:.0f} °C in “{scenario}”: above {most:g} °C its management system lets no charge in. It wants a cooler place",
            unit=unit.title, air=air, scenario=scenario.title, most=most,
        )  # fmt: skip
    return say(
        "{unit} is charged at {air:.0f} °C in “{scenario}”; its chemistry permits {most:g} °C: the warmer, the more it takes, and warms itself. It wants a cooler place",
        unit=unit.title, air=air, scenario=scenario.title, most=most,
    )  # fmt: skip


RULES = (
    Rule("cold_charge", say("Charge in the cold"),
         say("A lithium unit that is charged below freezing is spoilt a little every time, and nothing shows it until a cell shorts."),
         charge_in_the_cold, say("{} units are charged colder than permitted"), page="needs", topic=TOPIC),
    Rule("hot_bank", say("Bank in the heat"),
         say("Heat takes years off a bank, and a charge in the heat may run away with it."), in_the_heat,
         say("{} units stand or are charged warmer than permitted"), page="needs", topic=TOPIC),
    Rule("charge_voltage", say("Charge voltage"),
         say("Too much boils a bank dry or makes its management system open; too little leaves it to sulphate."), charge_voltage,
         say("{} sources hold a voltage that does not suit the units"), page="needs", topic=TOPIC),
)  # fmt: skip
