"""Banks: units that are alike, share their load, and suit what they feed and what feeds them."""

from collections.abc import Iterator
from functools import partial
from math import isfinite

from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import (
    Battery,
    Breaker,
    Equipment,
    Fuse,
    Inline,
    Source,
    split_ref,
)
from jaunty_copper.plan.patterns import arrange, arranging, fitting, why_not
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.ignition import may_spark
from jaunty_copper.practice.rules.words import amps, percent
from jaunty_copper.study.bank import Sharing, alone, bank_of, limits_of, sharing
from jaunty_copper.study.needs import needs
from jaunty_copper.study.study import solve_scenario
from jaunty_copper.study.wiring import held_ah

ALIKE = "Makers' common advice: units of one chemistry, make, capacity and age"


def _parallel(case: Case) -> Iterator[Bank]:
    yield from (b for b in case.wiring.banks if len(b.strings) > 1)


def mixed(case: Case, rule: Rule) -> Iterator[Finding]:
    """Banks whose units are not alike in chemistry, make or age, or unequal within a string."""
    for bank in case.wiring.banks:
        kinds = sorted({u.chemistry for u in bank.units})
        if len(kinds) > 1:
            labels = " and ".join(case.parts.battery_chemistries[k].label for k in kinds)
            yield case.finding(rule, Severity.STOP, bank.id, f"One bank of {labels}: they charge and rest at different voltages",
                               source=ALIKE)  # fmt: skip
        makes = sorted({u.make for u in bank.units if u.make})
        if len(makes) > 1:
            yield case.finding(
                rule, Severity.NOTE, bank.id, f"{len(makes)} makes in one bank: {', '.join(makes)}", source=ALIKE
            )
        years = [int(u.bought[:4]) + (int(u.bought[5:]) - 1) / 12 if len(u.bought) > 4 else int(u.bought)
                 for u in bank.units if u.bought]  # fmt: skip
        limit = case.book.limit("bank_age_years")
        if years and max(years) - min(years) > limit:
            yield case.finding(
                rule, Severity.MEND, bank.id, f"Units of one bank were bought {max(years) - min(years):.1f} years apart",
                figure=max(years) - min(years), limit=limit, unit="years", source=case.book.source("bank_age_years"),
            )  # fmt: skip
        for string in bank.strings:
            held = [held_ah(bank.by_id[u]) for u in string]
            charge = [bank.by_id[u].soc_percent for u in string]
            if len(set(charge)) > 1:
                yield case.finding(
                    rule, Severity.MEND, string[0],
                    f"The units in series with {case.title(string[0])} are not at one charge: charge each by itself first",
                    source=ALIKE,
                )  # fmt: skip
            if max(held) - min(held) > 0.02 * max(held):
                weak = string[held.index(min(held))]
                yield case.finding(
                    rule, Severity.MEND, weak,
                    f"{case.title(weak)} is weaker than the units in series with it: it is empty and full before them",
                    figure=min(held), limit=max(held), unit="Ah", source=ALIKE,
                )  # fmt: skip


def unequal(case: Case, rule: Rule) -> Iterator[Finding]:
    """Unequal capacities in parallel, as the two schools see it."""
    for bank in _parallel(case):
        held = [min(held_ah(bank.by_id[u]) for u in s) for s in bank.strings]
        if max(held) - min(held) <= 0.02 * max(held):
            continue
        weak = bank.strings[held.index(min(held))][0]
        words = f"Strings of {min(held):g} to {max(held):g} Ah in parallel"
        if case.book.limit("unequal_parallel_allowed"):
            over = any(s.used > 1.0 for shared in case.sharings[bank.id] for s in shared.shares)
            severity, words = (
                (Severity.MEND, f"{words}, and one is taken beyond its limit") if over
                else (Severity.NOTE, f"{words}: tolerated here while each stays within its own limit, as they do")
            )  # fmt: skip
        else:
            severity = Severity.MEND
        yield case.finding(rule, severity, weak, words, figure=min(held), limit=max(held), unit="Ah",
                           source=case.book.source("unequal_parallel_allowed"))  # fmt: skip


def spread(case: Case, rule: Rule) -> Iterator[Finding]:
    """Banks whose strings share a lasting current badly."""
    limit = case.book.limit("bank_spread_percent")
    for bank in _parallel(case):
        lasting = [s for s, state in zip(case.sharings[bank.id], case.study.states, strict=True) if not state.momentary]
        # What levels out between units while little is drawn is no sharing of a load.
        loaded = [s for s in lasting if isfinite(s.spread) and abs(s.current_a) > 0.02 * _held(bank)]
        worst = max(loaded, key=lambda s: s.spread, default=None)
        if worst is None or 100.0 * worst.spread <= limit:
            continue
        by_unit = sorted(worst.shares, key=lambda s: abs(s.c_rate))
        most, least = by_unit[-1], by_unit[0]
        yield case.finding(
            rule, Severity.MEND, most.unit,
            f"{case.title(most.unit)} carries {amps(abs(most.current_a))}, {case.title(least.unit)} only "
            f"{amps(abs(least.current_a))}: {percent(100.0 * worst.spread)} current sharing spread in “{worst.scenario.title}”",
            figure=100.0 * worst.spread, limit=limit, unit="%", scenario=worst.scenario.id,
            source=case.book.source("bank_spread_percent"), mend=_better(case, worst, limit),
        )  # fmt: skip


def _held(bank: Bank) -> float:
    return sum(min(held_ah(bank.by_id[u]) for u in bank.strings[k]) for k in bank.groups[0])


def _better(case: Case, worst: Sharing, limit: float) -> Edit | None:
    """The first pattern, of those that take least copper, that brings the spread within the limit."""
    bank = worst.bank
    if why_not(case.plan, bank):
        return None
    order = ("opposite", "middle", "halves", "bars")
    # The bank by itself under the same current: the whole system would be solved four times over.
    small = alone(case.plan, bank, worst.current_a)
    for id_ in order:
        pattern = next((p for p in fitting(bank) if p.id == id_), None)
        if pattern is None:
            continue
        state = solve_scenario(arrange(small, bank.id, id_), worst.scenario)
        if 100.0 * sharing(bank_of(state.wiring, bank.id), state).spread <= limit:
            return Edit(f"Interconnect the bank: {pattern.name}", arranging(bank.id, pattern))
    return None


def unit_limit(case: Case, rule: Rule) -> Iterator[Finding]:
    """Units that carry more than they may, one finding for each."""
    for bank in case.wiring.banks:
        for unit in bank.units:
            worst = max(
                (
                    (shared.by_unit[unit.id], state)
                    for shared, state in zip(case.sharings[bank.id], case.study.states, strict=True)
                    if state.solved
                ),
                key=lambda pair: pair[0].used,
                default=None,
            )
            if worst is None or worst[0].used <= 1.0:
                continue
            share, state = worst
            does = "is charged with" if share.current_a < 0.0 else "gives"
            own = limits_of(case.wiring, unit).own
            yield case.finding(
                rule, Severity.MEND if state.momentary else Severity.STOP, unit.id,
                f"{unit.title} {does} {amps(abs(share.current_a))} in “{state.scenario.title}”; it may {amps(share.limit_a)}",
                figure=abs(share.current_a), limit=share.limit_a, unit="A", scenario=state.scenario.id,
                source="The unit's own limit" if own else f"{case.parts.battery_chemistries[unit.chemistry].label}, representative",
            )  # fmt: skip


def chargers(case: Case, rule: Rule) -> Iterator[Finding]:
    """Sources that together charge a bank faster than it may be, or hardly at all."""
    for bank in case.wiring.banks:
        rail = case.wiring.rail_of(bank.takeoffs["plus"][0])
        sources = [
            e for e in case.plan.equipment if isinstance(e, Source) and case.wiring.rail_of(e.ref("plus")) == rail
        ]
        if not sources:
            continue
        together = sum(e.current_a for e in sources)
        most = sum(limits_of(case.wiring, bank.by_id[u]).charge_a for u in bank.outlets)
        least = case.book.limit("charge_least_c") * _held(bank)
        if together > most:
            yield case.finding(
                rule, Severity.MEND, bank.id, f"Sources can give {amps(together)} together; the bank takes {amps(most)}",
                figure=together, limit=most, unit="A", source="The units' charge limits together",
            )  # fmt: skip
        elif together < least:
            yield case.finding(
                rule, Severity.NOTE, bank.id, f"Sources give {amps(together)} together: over {_held(bank) / together:.0f} h for a full charge",
                figure=together, limit=least, unit="A", source=case.book.source("charge_least_c"),
            )  # fmt: skip


def wrong_voltage(case: Case, rule: Rule) -> Iterator[Finding]:
    """Equipment on a bank of another nominal voltage."""
    for bank in case.wiring.banks:
        plus, minus = (case.wiring.rail_of(bank.takeoffs[s][0]) for s in ("plus", "minus"))
        for e in case.plan.equipment:
            p, m = e.port
            if (case.wiring.rail_of(p), case.wiring.rail_of(m)) != (plus, minus) or not bank.nominal_v:
                continue
            if not 0.8 <= e.nominal_v / bank.nominal_v <= 1.25:
                yield case.finding(
                    rule, Severity.STOP, e.id, f"{e.title} is made for {e.nominal_v:g} V, and hangs on a bank of {bank.nominal_v:g} V",
                    figure=bank.nominal_v, limit=e.nominal_v, unit="V", source="The equipment's nominal voltage",
                )  # fmt: skip


def cross_ties(case: Case, rule: Rule) -> Iterator[Finding]:
    """Series strings tied to each other between their units."""
    for bank in case.wiring.banks:
        if len(bank.groups) < 2 or bank.torn:
            continue
        yield case.finding(
            rule, Severity.NOTE, bank.id,
            "Strings are tied together between their units: a shorted cell is then fed by its neighbours at half the voltage, past any string fuse",
            source="Common practice: either no cross-ties, or each with protection of its own",
        )  # fmt: skip


def string_protection(case: Case, rule: Rule) -> Iterator[Finding]:
    """Parallel strings with no device of their own, where the others can feed a fault in one."""
    allowed = case.book.limit("strings_without_protection")
    for bank in _parallel(case):
        bare = [s for s in bank.strings if not _own_device(case, s)]
        if len(bank.strings) <= allowed or not bare:
            continue
        yield case.finding(
            rule, Severity.MEND, bare[0][0],
            f"{len(bare)} of {len(bank.strings)} parallel strings have no fuse of their own: "
            f"{len(bank.strings) - 1} others feed a fault inside one",
            figure=float(len(bank.strings)), limit=allowed, unit="strings", source=case.book.source("strings_without_protection"),
        )  # fmt: skip


def _own_device(case: Case, string: tuple[str, ...]) -> bool:
    """Whether a fuse or breaker stands at either end of a string or inside it, before anything branches."""
    for unit in string:
        for terminal in ("plus", "minus"):
            ref = f"{unit}.{terminal}"
            while True:
                runs = case.plan.runs_at.get(ref, ())
                if len(runs) != 1:
                    break
                far = runs[0].b if runs[0].a == ref else runs[0].a
                item = case.plan.by_id[split_ref(far)[0]]
                if isinstance(item, Fuse | Breaker):
                    return True
                if not isinstance(item, Inline):
                    break
                ref = item.ref("b" if far.endswith(".a") else "a")
                if len(case.plan.runs_at.get(far, ())) != 1:
                    break
    return False


def hydrogen(case: Case, rule: Rule) -> Iterator[Finding]:
    """Vented units without ventilation, or together with what may spark."""
    vented = [
        x for x in case.plan.items
        if isinstance(x, Battery) and x.zone and case.parts.battery_chemistries[x.chemistry].vented == "yes"
    ]  # fmt: skip
    for zone in {x.zone: x for x in reversed(vented)}.values():
        place = case.plan.zone_of(zone.zone)
        if not place.ventilated:
            yield case.finding(
                rule, Severity.STOP, zone.id, f"{place.title} holds vented units and is not ventilated to the outside",
                source="Small-craft practice: hydrogen is led outside",
                mend=Edit(f"Ventilate {place.title}", partial(edits.change, id_=place.id, ventilated=True)),
            )  # fmt: skip
        for x in case.plan.placed:
            if x.zone == zone.zone and may_spark(case, x):
                yield case.finding(
                    rule, Severity.MEND if isinstance(x, Equipment) else Severity.STOP, x.id,
                    f"{x.title} may spark, in one space with vented units, unless its maker says it is ignition protected",
                    source="Small-craft practice: no ignition source where hydrogen may gather",
                )  # fmt: skip


def autonomy(case: Case, rule: Rule) -> Iterator[Finding]:
    """Banks that last less long than wanted."""
    asked = needs(case.wiring)
    if asked.bank is None or not asked.used_wh or asked.autonomy_days >= case.plan.autonomy_days:
        return
    yield case.finding(
        rule, Severity.NOTE, asked.bank.id,
        f"The bank lasts {asked.autonomy_days:.1f} days by itself; {case.plan.autonomy_days:g} are wanted, which takes {asked.proposed_ah:.0f} Ah",
        figure=asked.autonomy_days, limit=case.plan.autonomy_days, unit="days", source="Wanted in this plan",
    )  # fmt: skip


RULES = (
    Rule("bank_mixed", "Units that are not alike",
         "The weakest unit is emptied and overcharged first, and takes the others with it.", mixed),
    Rule("bank_unequal", "Unequal strings in parallel",
         "A smaller string reaches its limits before the others, and lends them its life.", unequal),
    Rule("bank_spread", "Units share badly",
         "The unit nearest the take-off works hardest, ages first, and then drags the rest down.", spread),
    Rule("unit_limit", "Unit beyond its limit",
         "Beyond its limit a unit heats, loses life, or its management system switches it off.", unit_limit),
    Rule("charge_rate", "Chargers and bank",
         "Too much current heats the units; too little never fills them.", chargers),
    Rule("wrong_voltage", "Equipment on the wrong voltage",
         "Equipment on another voltage than its own does not start, or burns.", wrong_voltage),
    Rule("cross_ties", "Strings tied between their units",
         "Ties hide a weak unit until its neighbours fail with it.", cross_ties),
    Rule("string_protection", "Strings without protection",
         "When one unit fails short, all others pour their fault current into it.", string_protection),
    Rule("hydrogen", "Vented units",
         "Hydrogen from charging explodes at a spark no one notices.", hydrogen),
    Rule("autonomy", "Autonomy",
         "A bank that is emptied every day lasts a fraction of its years.", autonomy),
)  # fmt: skip
