"""Banks: whether they suit what they feed and what feeds them, and their own protection."""

from collections.abc import Iterator
from math import isfinite

from jaunty_copper.battery.needs import needs
from jaunty_copper.battery.sharing import limits_of
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.units import TOPIC, bank_ah, parallel
from jaunty_copper.codes.rules.words import amps, duration
from jaunty_copper.language import say
from jaunty_copper.plan.model import (
    Alternator,
    Battery,
    Breaker,
    Converter,
    Equipment,
    Fuse,
    Inline,
    Load,
    Source,
    split_ref,
)

LETS_GO_S = 1e-3
"""How long an electronic charger takes to let go when nothing takes its current; representative."""
LOAD_DUMP = {12.0: (79.0, 101.0, 400.0), 24.0: (151.0, 202.0, 350.0)}
"""Peak, V, and longest duration, ms, of an alternator's voltage when its battery leaves it, without a clamp: ISO 16750-2, 4.6.4, test A."""


def chargers(case: Case, rule: Rule) -> Iterator[Check]:
    """Sources that together charge a bank faster than it may be, or hardly at all."""
    for bank in case.wiring.banks:
        rail = case.wiring.own_rail_of(bank.takeoffs["plus"][0])
        sources = [e for e in case.wiring.sources if case.wiring.own_rail_of(e.output[0]) == rail]
        if not sources:
            continue
        together = sum(e.current_a for e in sources)
        most = sum(limits_of(case.wiring, bank.by_id[u]).charge_a for u in bank.outlets)
        least = case.code.limit("charge_least_c") * bank_ah(bank)
        check = case.check(rule, bank.id, together, most, "A", source=say("The units' charge limits together"))
        if together > most:
            yield check.fails(
                Verdict.DEFECT,
                say(
                    "Sources can give {together} together; the bank takes {most}",
                    together=amps(together),
                    most=amps(most),
                ),
            )
        elif together < least:
            yield check.fails(
                Verdict.ADVICE, say('Sources give {together} together: over {bank_ah:.0f} h for a full charge', together=amps(together), bank_ah=bank_ah(bank) / together),
                limit=least, source=case.code.source("charge_least_c"),
            )  # fmt: skip
        else:
            yield check


def wrong_voltage(case: Case, rule: Rule) -> Iterator[Check]:
    """Equipment made for another voltage than that of the bank or converter that it is on, or else than it gets."""
    w, banks, held = case.wiring, dict[tuple[int, int], float](), dict[tuple[int, int], Converter]()
    for bank in w.banks:
        banks.setdefault(
            (w.own_rail_of(bank.takeoffs["plus"][0]), w.own_rail_of(bank.takeoffs["minus"][0])), bank.nominal_v
        )
    for x in w.sources:
        if isinstance(x, Converter):
            held.setdefault((w.own_rail_of(x.output[0]), w.own_rail_of(x.output[1])), x)
    for e in case.plan.equipment:
        at = w.own_rail_of(e.port[0]), w.own_rail_of(e.port[1])
        if at in banks:
            volts_, words = banks[at], say("is on a bank of {volts:g} V", volts=banks[at])
        elif at in held:
            volts_ = held[at].set_v
            words = say("{converter} holds {volts:g} V there", converter=held[at].title, volts=volts_)
        else:
            volts_ = _most_v(case, e)
            words = say("gets {volts:.3g} V", volts=volts_)
        if not volts_:
            continue
        check = case.check(rule, e.id, volts_, e.nominal_v, "V", source=say("The equipment's nominal voltage"))
        yield (
            check
            if 0.8 <= e.nominal_v / volts_ <= 1.25
            else check.fails(
                Verdict.DANGER,
                say("{e} is made for {nominal_v:g} V, and {words}", e=e.title, nominal_v=e.nominal_v, words=words),
            )
        )


def _most_v(case: Case, e: Equipment) -> float:
    """The highest voltage at which a load or a converter runs in any scenario, V; 0 where it does in none, and for what charges."""
    if not isinstance(e, Load | Converter):
        return 0.0
    ports = [state.port(e) for state in case.study.every if state.solved]
    return max((volts_ for volts_, amps_ in ports if isfinite(volts_) and amps_ > 1e-6), default=0.0)


def cross_ties(case: Case, rule: Rule) -> Iterator[Check]:
    """Series strings tied to each other between their units."""
    for bank in case.wiring.banks:
        check = case.check(
            rule, bank.id, source=say("Common practice: either no cross-ties, or each with protection of its own")
        )
        yield (
            check
            if len(bank.groups) < 2 or bank.torn
            else check.fails(
                Verdict.ADVICE,
                say(
                    "Strings are tied together between their units: a shorted cell is then fed by its neighbours at half the voltage, past any string fuse"
                ),
            )
        )


def string_protection(case: Case, rule: Rule) -> Iterator[Check]:
    """Parallel strings with no device of their own, where the others can feed a fault in one."""
    allowed = case.code.limit("strings_without_protection")
    for bank in parallel(case):
        bare = [s for s in bank.strings if not _own_device(case, s)]
        check = case.check(
            rule, (bare or bank.strings)[0][0], float(len(bank.strings) if bare else 0), allowed, "strings",
            source=case.code.source("strings_without_protection"),
        )  # fmt: skip
        yield (
            check
            if len(bank.strings) <= allowed or not bare
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{bare} of {strings} parallel strings have no fuse of their own: {strings_2} others feed a fault inside "
                    "one",
                    bare=len(bare),
                    strings=len(bank.strings),
                    strings_2=len(bank.strings) - 1,
                ),
            )
        )


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
                # What another string comes to as well is not its own.
                if not isinstance(item, Inline) or len(case.plan.runs_at.get(far, ())) != 1:
                    break
                if isinstance(item, Fuse | Breaker):
                    return True
                ref = item.ref("b" if far.endswith(".a") else "a")
    return False


def autonomy(case: Case, rule: Rule) -> Iterator[Check]:
    """Banks that last less long than required."""
    for bank in case.wiring.banks:
        asked = needs(case.wiring, bank)
        if not asked.used_wh:
            continue
        required = case.plan.autonomy_days
        check = case.check(rule, bank.id, asked.autonomy_days, required, "days", source=say("Required in this plan"))
        yield (
            check
            if asked.autonomy_days >= required
            else check.fails(
                Verdict.ADVICE,
                say(
                    "The bank lasts {autonomy_days:.1f} days without charging; {required:g} are required, which takes "
                    "{proposed_ah:.0f} Ah",
                    autonomy_days=asked.autonomy_days,
                    required=required,
                    proposed_ah=asked.proposed_ah,
                ),
            )
        )


def opening(case: Case, rule: Rule) -> Iterator[Check]:
    """Alternators on banks whose units all open by themselves: what they give has nowhere to go then."""
    for bank in case.wiring.banks:
        if not all(u.managed for u in bank.units):
            continue
        rail = case.wiring.own_rail_of(bank.takeoffs["plus"][0])
        for e in case.plan.equipment:
            if not isinstance(e, Source) or case.wiring.own_rail_of(e.ref("plus")) != rail:
                continue
            check = case.check(
                rule,
                e.id,
                None if isinstance(e, Alternator) else _lets_go_at(case, e, rail),
                unit="V",
                source=say(
                    "Height by ISO 16750-2, test A; makers' common advice, representative; no verdict here counts on a management system"
                ),
            )
            yield check if not isinstance(e, Alternator) else check.fails(
                Verdict.ADVICE,
                say("When the units of the bank of {unit} open by themselves, what {e} gives has nowhere to go: its voltage shoots up{height}, "
                    "into everything on the bars. A warning before they open, a clamp, or a lead-acid unit beside them takes it",
                    unit=case.title(bank.id), e=e.title, height=_dump(bank.nominal_v)),
            )  # fmt: skip


def _lets_go_at(case: Case, source: Source, rail: int) -> float | None:
    """How high an electronic source lifts the bars before it lets go, V; None where no capacitor on them is known.

    Parameters
    ----------
    rail : int
        The bars' plus.
    """
    farad = 1e-6 * sum(
        e.input_uf or 0.0 for e in case.plan.equipment if e.input_uf and case.wiring.own_rail_of(e.port[0]) == rail
    )
    return source.set_v + source.current_a * LETS_GO_S / farad if farad else None


def _dump(nominal_v: float) -> str:
    """How high an alternator's voltage may go that loses its bank, in words; nothing where the standard has no figure."""
    found = next((row for volts, row in LOAD_DUMP.items() if abs(nominal_v - volts) <= 0.2 * volts), None)
    if found is None:
        return ""
    low, high, longest = found
    return say(
        " (to {low:g} to {high:g} V for up to {longest:g} ms where nothing clamps it)",
        low=low,
        high=high,
        longest=longest,
    )


def opens_first(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices of circuits that need more current than the units' management systems let through."""
    f, within = case.protection.faults, case.code.limit("fault_opening_s")
    hung = {id_: frozenset(e.id for e in f.hangs_on(id_)) for id_ in case.protection.devices}
    for bank in case.wiring.banks:
        if not all(u.managed for u in bank.units):
            continue
        # In a live minus the devices stand there.
        rails = {case.wiring.own_rail_of(ref) for side in bank.takeoffs.values() for ref in side[:1]}
        strings = [bank.strings[k] for k in bank.groups[0]]
        most = sum(min(_lets_out(case, bank.by_id[u], within) for u in string) for string in strings)
        behind = {id_: e for id_, e in hung.items() if e and case.wiring.own_rail_of(f"{id_}.a") in rails}
        everything = frozenset[str]().union(*behind.values())
        for id_ in (d for d, fed in behind.items() if fed != everything):
            device = case.protection.devices[id_]
            needs_a = device.band.opens_at(within) * device.slow_a
            check = case.check(
                rule, id_, needs_a, most, "A",
                source=say("The units' own limits; every other verdict takes their management systems as closed: they may fail so"),
            )  # fmt: skip
            yield check if needs_a <= most else check.fails(
                Verdict.ADVICE,
                say("{device} is sure to open within {within} only from {needs}; the management systems of the bank of {bank} open above {most}: "
                    "a short circuit behind it may switch the whole bank off before it opens",
                    device=case.title(id_), within=duration(within), needs=amps(needs_a), bank=case.title(bank.id), most=amps(most)),
            )  # fmt: skip


def _lets_out(case: Case, unit: Battery, seconds: float) -> float:
    """What a unit gives for so long before its management system opens it, A."""
    peak = unit.peak_discharge_a if unit.peak_discharge_a and (unit.peak_s or 0.0) >= seconds else 0.0
    return max(limits_of(case.wiring, unit).discharge_a, peak)


RULES = (
    Rule("opens_first", say("Management system or device first"),
         say("A short circuit in one circuit that makes the bank switch itself off leaves all loads without supply, and no blown fuse to show where."),
         opens_first, say("{} devices need more current than the management systems let through"), page="bank", topic=TOPIC),
    Rule("opens_itself", say("Units that open by themselves"),
         say("A bank that leaves the bars while the engine runs leaves them to the alternator."), opening,
         say("{} alternators are left alone when units open"), page="bank", topic=TOPIC),
    Rule("charge_rate", say("Chargers and bank"),
         say("Too much current heats the units; too little never fills them."), chargers,
         say("{} banks are charged too fast or too slowly"), page="bank", topic=TOPIC),
    Rule("wrong_voltage", say("Equipment on the wrong voltage"),
         say("Equipment on another voltage than its own does not start, or burns."), wrong_voltage,
         say("{} pieces of equipment are on the wrong voltage"), topic=TOPIC),
    Rule("cross_ties", say("Strings tied between their units"),
         say("Ties hide a weak unit until its neighbours fail with it."), cross_ties,
         say("{} banks have strings tied between their units"), page="bank", topic=TOPIC),
    Rule("string_protection", say("Strings without protection"),
         say("When one unit fails short, all others drive their fault current into it."), string_protection,
         say("{} banks have strings without protection"), page="bank", topic=TOPIC),
    Rule("autonomy", say("Autonomy"),
         say("A bank that is emptied every day lasts a fraction of its years."), autonomy,
         say("{} banks last less long than required"), page="needs", topic=TOPIC),
)  # fmt: skip
