"""What the units of a bank are to one another, and how they share."""

from collections.abc import Iterator
from functools import partial
from math import isfinite

from jaunty_copper.battery.arrangements import alone
from jaunty_copper.battery.patterns import arrange, arranging, fitting, why_not
from jaunty_copper.battery.sharing import Share, Sharing, bank_of, limits_of, sharing
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.words import amps, percent
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.network.study import solve_scenario
from jaunty_copper.network.wiring import Wiring, held_ah
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Battery
from jaunty_copper.protection.starts import surge_s

TOPIC = say("Banks")
ALIKE = say("Makers' common advice: units of one chemistry, make, capacity and age")


def parallel(case: Case) -> Iterator[Bank]:
    """Banks with strings in parallel."""
    yield from (b for b in case.wiring.banks if len(b.strings) > 1)


def mixed(case: Case, rule: Rule) -> Iterator[Check]:
    """Banks whose units are not alike in chemistry, make or age, or unequal within a string."""
    for bank in case.wiring.banks:
        kinds = sorted({u.chemistry for u in bank.units})
        check = case.check(rule, bank.id, float(len(kinds)), 1.0, "chemistries", source=ALIKE)
        labels = " and ".join(case.parts.battery_chemistries[k].label for k in kinds)
        yield (
            check
            if len(kinds) == 1
            else check.fails(
                Verdict.DANGER, say("One bank of {labels}: they charge and rest at different voltages", labels=labels)
            )
        )
        makes = sorted({u.make for u in bank.units if u.make})
        if len(makes) > 1:
            yield case.check(rule, bank.id, source=ALIKE).fails(
                Verdict.ADVICE, say("{makes} makes in one bank: {makes_2}", makes=len(makes), makes_2=", ".join(makes))
            )
        yield from _ages(case, rule, bank)
        for string in bank.strings:
            yield from _in_series(case, rule, bank, string)


def _ages(case: Case, rule: Rule, bank: Bank) -> Iterator[Check]:
    years = [int(u.bought[:4]) + (int(u.bought[5:]) - 1) / 12 if len(u.bought) > 4 else int(u.bought)
             for u in bank.units if u.bought]  # fmt: skip
    if not years:
        return
    limit, apart = case.code.limit("bank_age_years"), max(years) - min(years)
    check = case.check(rule, bank.id, apart, limit, "years", source=case.code.source("bank_age_years"))
    yield (
        check
        if apart <= limit
        else check.fails(Verdict.DEFECT, say("Units of one bank were bought {apart:.1f} years apart", apart=apart))
    )


def _in_series(case: Case, rule: Rule, bank: Bank, string: tuple[str, ...]) -> Iterator[Check]:
    held = [held_ah(bank.by_id[u]) for u in string]
    if len({bank.by_id[u].soc_percent for u in string}) > 1:
        yield case.check(rule, string[0], source=ALIKE).fails(
            Verdict.DEFECT,
            say(
                "The units in series with {string} are not at one state of charge: charge each separately first",
                string=case.title(string[0]),
            ),
        )
    weak = string[held.index(min(held))]
    if len(string) > 1:
        check = case.check(rule, weak, min(held), max(held), "Ah", source=ALIKE)
        yield (
            check
            if max(held) - min(held) <= 0.02 * max(held)
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{weak} is weaker than the units in series with it: it is empty and full before them",
                    weak=case.title(weak),
                ),
            )
        )


def unequal(case: Case, rule: Rule) -> Iterator[Check]:
    """Unequal capacities in parallel, as the two schools see it."""
    for bank in parallel(case):
        held = [min(held_ah(bank.by_id[u]) for u in s) for s in bank.strings]
        weak = bank.strings[held.index(min(held))][0]
        check = case.check(rule, weak, min(held), max(held), "Ah", source=case.code.source("unequal_parallel_allowed"))
        if max(held) - min(held) <= 0.02 * max(held):
            yield check
            continue
        words = say("Strings of {min:g} to {max:g} Ah in parallel", min=min(held), max=max(held))
        if not case.code.limit("unequal_parallel_allowed"):
            yield check.fails(Verdict.DEFECT, words)
        elif any(s.used > 1.0 for shared in case.every_sharing[bank.id] for s in shared.shares):
            yield check.fails(Verdict.DEFECT, say("{words}, and one is taken beyond its limit", words=words))
        else:
            yield check.fails(
                Verdict.ADVICE,
                say("{words}: tolerated here while each stays within its own limit, as they do", words=words),
            )


def sharing_spread(case: Case, rule: Rule) -> Iterator[Check]:
    """Banks whose strings share a lasting current badly."""
    limit = case.code.limit("bank_spread_percent")
    for bank in parallel(case):
        every = zip(case.every_sharing[bank.id], case.study.every, strict=True)
        lasting = [s for s, state in every if not state.momentary]
        # What levels out between units while little is drawn is no sharing of a load.
        drawn = [s for s in lasting if isfinite(s.spread) and abs(s.current_a) > 0.02 * bank_ah(bank)]
        loaded = [s for s in drawn if not levels(s)]
        worst = max(loaded, key=lambda s: s.spread, default=None)
        if worst is None:
            continue
        by_unit = sorted(worst.shares, key=lambda s: abs(s.c_rate))
        most, least = by_unit[-1], by_unit[0]
        check = case.check(
            rule, most.unit, 100.0 * worst.spread, limit, "%",
            scenario=worst.scenario.id, source=case.code.source("bank_spread_percent"),
        )  # fmt: skip
        yield (
            check
            if 100.0 * worst.spread <= limit
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{unit} carries {current_a}, {unit_2} only {current_a_2}: {spread} current sharing spread in “{scenario}”",
                    unit=case.title(most.unit),
                    current_a=amps(abs(most.current_a)),
                    unit_2=case.title(least.unit),
                    current_a_2=amps(abs(least.current_a)),
                    spread=percent(100.0 * worst.spread),
                    scenario=worst.scenario.title,
                ),
                partial(_better, case, worst, limit),
            )
        )


def bank_ah(bank: Bank) -> float:
    """Capacity that a bank still holds, Ah."""
    return sum(min(held_ah(bank.by_id[u]) for u in bank.strings[k]) for k in bank.groups[0])


def _better(case: Case, worst: Sharing, limit: float) -> Edit | None:
    """The first pattern, of those that take least copper, that brings the spread within the limit."""
    bank = worst.bank
    if why_not(case.plan, bank):
        return None
    order = ("opposite", "middle", "halves", "bars")
    # The bank alone under the same current: the whole system would be solved four times over.
    small = alone(case.plan, bank, worst.current_a)
    for id_ in order:
        pattern = next((p for p in fitting(bank) if p.id == id_), None)
        if pattern is None:
            continue
        state = solve_scenario(arrange(small, bank.id, id_), worst.scenario)
        if 100.0 * sharing(bank_of(state.wiring, bank.id), state).spread <= limit:
            return Edit(say("Interconnect the bank: {pattern}", pattern=pattern.name), arranging(bank.id, pattern))
    return None


LEVELS = 1.0
"""Amperes against the stream from which on units level out, and not merely share."""


def levels(shared: Sharing) -> bool:
    """Whether some units of a bank charge others in a scenario because they are not at one state of charge."""
    amps_ = [s.current_a for s in shared.shares]
    apart = len({u.soc_percent for u in shared.bank.units}) > 1
    return apart and min(amps_, default=0.0) < -LEVELS and max(amps_, default=0.0) > LEVELS


def levelling(case: Case, rule: Rule) -> Iterator[Check]:
    """Units in parallel at different states of charge: the fuller charge the emptier."""
    for bank in parallel(case):
        found = [s for s in case.every_sharing[bank.id] if levels(s)]
        check = case.check(rule, bank.id, source=say("Kirchhoff's laws, at the units' own states of charge"))
        if not found:
            yield check
            continue
        worst = max((s for shared in found for s in shared.shares), key=lambda s: s.used)
        scenario = next(shared.scenario for shared in found if worst in shared.shares)
        does = say("is charged with") if worst.current_a < 0.0 else say("gives")
        beyond = worst.used > 1.0
        yield check.fails(
            Verdict.DANGER if beyond else Verdict.ADVICE,
            say('The units level out: at first {unit} {does} {current_a}, {words} {limit_a} that it may, and less from '
'then on', unit=case.title(worst.unit), does=does, current_a=amps(abs(worst.current_a)), words=say('more than the') if beyond else say("of"), limit_a=amps(worst.limit_a))
            + (say(": charge each separately before they are joined") if beyond else ""),
            figure=abs(worst.current_a), limit=worst.limit_a, unit="A", scenario=scenario.id,
        )  # fmt: skip


def unit_limit(case: Case, rule: Rule) -> Iterator[Check]:
    """Units that carry more than they may, a check for each."""
    for bank in case.wiring.banks:
        # A unit that lets no charge in is to carry what it would take once it is warm, its neighbours what they take without it.
        every = zip(case.every_sharing[bank.id], case.study.every, strict=True)
        # Levelling out is a finding of its own.
        solved = [(shared, state) for shared, state in every if state.solved and not levels(shared)]
        for unit in bank.units if solved else ():
            found = [(s.by_unit[unit.id], state, _may(case, s.by_unit[unit.id], unit, state)) for s, state in solved]
            share, state, may = max(found, key=lambda x: abs(x[0].current_a) / x[2])
            own = limits_of(case.wiring, unit).own
            check = case.check(
                rule, unit.id, abs(share.current_a), may, "A", scenario=state.scenario.id,
                source=say("The unit's own limit") if own or may > share.limit_a else say('{chemistry}, representative', chemistry=case.parts.battery_chemistries[unit.chemistry].label),
            )  # fmt: skip
            does = say("is charged with") if share.current_a < 0.0 else say("gives")
            yield (
                check
                if abs(share.current_a) <= may
                else check.fails(
                    Verdict.DEFECT if state.momentary else Verdict.DANGER,
                    say(
                        "{unit} {does} {current_a} in “{scenario}”; it may {limit_a}",
                        unit=unit.title,
                        does=does,
                        current_a=amps(abs(share.current_a)),
                        scenario=state.scenario.title,
                        limit_a=amps(may),
                    ),
                )
            )


def _may(case: Case, share: Share, unit: Battery, state: State) -> float:
    gives, takes = may_bear(case.wiring, unit, state)
    return takes if share.current_a < 0.0 else gives


def may_bear(wiring: Wiring, unit: Battery, state: State) -> tuple[float, float]:
    """What a unit may give and take in a scenario, A: its peak while what starts there lasts no longer than that.

    Parameters
    ----------
    wiring : Wiring
        The plan as a network.
    unit : Battery
        One of its units.
    state : State
        The scenario.

    Returns
    -------
    float, float
        To give, and to take.
    """
    limits, peak = limits_of(wiring, unit), unit.peak_discharge_a
    lasts = state.momentary and peak is not None and surge_s(state) <= (unit.peak_s or 0.0)
    return max(limits.discharge_a, peak if lasts and peak else 0.0), limits.charge_a


RULES = (
    Rule("bank_mixed", say("Units that are not alike"),
         say("The weakest unit is emptied and overcharged first, and takes the others with it."), mixed,
         say("units of one bank differ in {} ways"), page="bank", topic=TOPIC),
    Rule("bank_unequal", say("Unequal strings in parallel"),
         say("A smaller string reaches its limits before the others, and shortens their life."), unequal,
         say("{} banks have unequal strings in parallel"), page="bank", topic=TOPIC),
    Rule("bank_spread", say("Current sharing"),
         say("The unit nearest the take-off works hardest, ages first, and then drags the rest down."), sharing_spread,
         say("{} banks share their current badly"), page="bank", topic=TOPIC),
    Rule("levelling", say("Units at different charge"),
         say("The fuller unit drives into the emptier one what their small resistances let through."), levelling,
         say("the units of {} banks level out"), page="bank", topic=TOPIC),
    Rule("unit_limit", say("Unit beyond its limit"),
         say("Beyond its limit a unit heats, loses life, or its management system switches it off."), unit_limit,
         say("{} units carry more than they may"), page="bank", topic=TOPIC),
)  # fmt: skip
