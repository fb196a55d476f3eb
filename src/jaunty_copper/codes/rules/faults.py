"""Devices against the short circuit that may flow at their place, and against the heat they stand in."""

from collections.abc import Iterator
from functools import partial
from math import inf

from jaunty_copper.codes.carried import normal
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.interrupting import Interrupting, interrupting
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.language import say
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.physics.curves import data_end_c
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Breaker, Fuse

WARM_S = 3600.0
CRANKING_TABLE = ((650.0, 1500.0, 750.0), (1100.0, 3000.0, 1500.0), (inf, 5000.0, 2500.0))
"""Up to a total of cold cranking amperes: interrupt rating of main and branch breakers, A."""
HOW = say("IEC 61660-1: charged units, 0.9 of their resistance, pure copper at 20 °C, a link in the device's place")


def interrupt_rating(case: Case, rule: Rule) -> Iterator[Check]:
    """Fuses and breakers that cannot interrupt the current of a fault beyond them."""
    for device in case.plan.items:
        if not isinstance(device, Fuse | Breaker):
            continue
        family = case.parts.device_families[device.family]
        found = interrupting(case, device.id)
        able, wanted = found.able_a, found.wanted_a
        if able is None:
            # A voltage beyond the family's is a finding of its own; nothing holds there.
            continue
        source = say("{source}; current by {how}", source=family.source, how=HOW)
        if found.backed is not None:
            source += say(
                "; of {prospective_a} {by} lets no more through, {source}",
                prospective_a=amps(found.prospective_a),
                by=case.title(found.backed.by),
                source=case.code.source("back_up_by_computation"),
            )
        check = case.check(rule, device.id, wanted, able, "A", source=source)
        yield (
            check
            if found.is_enough
            else check.fails(
                Verdict.DANGER,
                say(
                    "{device} can interrupt {able} at {operating_v:.3g} V; {prospective_a} are prospective {place}{limited}",
                    device=device.title,
                    able=amps(able),
                    operating_v=case.operating_v(device),
                    prospective_a=amps(found.prospective_a),
                    place=_place(case, device, found.where),
                    limited=_limited(case, found),
                ),
                partial(_stronger, case, device, case.operating_v(device), wanted),
            )
        )


def _limited(case: Case, found: Interrupting) -> str:
    """What a fuse before a device leaves of the prospective current, where that is less."""
    if found.backed is None or found.backed.let_through_a > 0.99 * found.prospective_a:
        return ""
    return say(
        ", of which {by} lets {let_through_a} through",
        by=case.title(found.backed.by),
        let_through_a=amps(found.backed.let_through_a),
    )


UNSURE_TIMES = 2.0
"""A unit's short-circuit current over the one that follows from its kind's resistance, at most; representative."""


def data_sheet(case: Case, rule: Rule) -> Iterator[Check]:
    """Banks of which nobody knows the short-circuit current, and the interrupt ratings that turn on it."""
    for bank in case.wiring.banks:
        source = say(
            "Representative resistances; a data sheet may give {unsure_times:g} times their current",
            unsure_times=UNSURE_TIMES,
        )
        check = case.check(rule, bank.id, source=source)
        if all(u.short_circuit_a is not None or u.internal_ohm is not None for u in bank.units):
            yield check
            continue
        rails = {case.wiring.rail_of(u.ref(t)) for u in bank.units for t in u.terminal_names}
        turn = [
            d.item.title
            for id_, d in case.protection.devices.items()
            if case.wiring.rail_of(d.item.ref("a")) in rails
            and (found := interrupting(case, id_)).able_a is not None
            and found.wanted_a <= found.able_a < UNSURE_TIMES * found.wanted_a
        ]
        yield (
            check
            if not turn
            else check.fails(
                Verdict.ADVICE,
                say(
                    "Ask the data sheet of {bank} for its short-circuit current: with up to {unsure_times:g} times the "
                    "representative one, {turn} could no longer interrupt it",
                    bank=case.title(bank.id),
                    unsure_times=UNSURE_TIMES,
                    turn=", ".join(turn),
                ),
            )
        )


def _place(case: Case, device: Fuse | Breaker, ref: str) -> str:
    item, _, _ = ref.partition(".")
    return say("right at it") if item == device.id else say("for a short at {item}", item=case.title(item))


def able_families(
    case: Case, device: Fuse | Breaker, volts: float, most: float, kind: str | None = None
) -> list[DeviceFamily]:
    """Families of a device's kind, or of another, and of its rating that interrupt a current at a voltage, the least able first.

    Parameters
    ----------
    volts : float
        Direct voltage at the device, V.
    most : float
        Prospective short-circuit current there, A.
    kind : {"fuse", "breaker"}, optional
        Of the families; the device's own where it is not said.
    """
    kind = kind or device.kind
    found = [
        (able, f)
        for f in case.families
        if f.kind == kind
        and f.min_a <= device.rating_a <= f.max_a
        and f.max_v_dc >= volts
        and (able := f.interrupt_a(volts)) is not None
        and able >= most
    ]
    return [f for _, f in sorted(found, key=lambda pair: pair[0])]


def _stronger(case: Case, device: Fuse | Breaker, volts: float, most: float) -> Edit | None:
    families = able_families(case, device, volts, most)
    if not families:
        return None
    new = families[0]
    return Edit(
        say("Change {device} to {new}", device=device.title, new=new.label),
        partial(edits.change, id_=device.id, family=new.id, thread=None),
    )


def heat(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices whose rating, at the air around them, falls below what they carry for long."""
    for device in case.protection.devices.values():
        item, left, rating = device.item, device.fast_a, device.item.rating_a
        carries = case.once(normal, item.id)
        current = carries.amps
        check = case.check(
            rule, item.id, current, left, "A", source=say("Ambient factor of its kind of release, representative")
        )
        if current > rating:
            # That is a finding of its own; nothing holds here.
            continue
        if current <= left:
            yield check
            continue
        air = float(case.study.hottest_ambient_c[device.branch])
        opens = left * device.band.opens_at(WARM_S, certainly=False)
        yield check.fails(
            Verdict.DEFECT,
            say(
                "{item} carries {current}{words}; at {air:.0f} °C its {rating:g} A are worth {left}, and from {opens} it "
                "may open within an hour",
                item=item.title,
                current=amps(current),
                words=carries.when,
                air=air,
                rating=rating,
                left=amps(left),
                opens=amps(opens),
            )
            + (
                say("; beyond {end:g} °C that is its heat balance, no data sheet's", end=end)
                if air > (end := data_end_c(device.family.release))
                else ""
            ),
        )


def cranking_table(case: Case, rule: Rule) -> Iterator[Check]:
    """Breakers below the North American small-craft table by cold cranking amperes, beside what is computed."""
    units = [b for bank in case.wiring.banks for b in bank.units]
    total = sum(b.cranking_a or 0.0 for b in units)
    bank_v = max((b.nominal_v for b in case.wiring.banks), default=0.0)
    if not total or not all(b.cranking_a for b in units) or bank_v > 24.0:
        return
    main_a, branch_a = next((m, b) for most, m, b in CRANKING_TABLE if total <= most)
    for device in case.protection.devices.values():
        able, through = case.interrupt_a(device.item), case.protection.faults.prospective(device.item.id)[0]
        if not isinstance(device.item, Breaker) or able is None:
            continue
        first = _is_main(case, device.item.id)
        wanted = main_a if first else branch_a
        check = case.check(
            rule, device.item.id, able, wanted, "A",
            source=say("North American small-craft table for breakers, lead-acid, 12 and 24 V"),
        )  # fmt: skip
        yield (
            check
            if able >= wanted
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{item} can interrupt {able}; for {total:.0f} cold cranking amperes the table asks {wanted} of a {words} "
                    "breaker; {through} is computed",
                    item=device.item.title,
                    able=amps(able),
                    total=total,
                    wanted=amps(wanted),
                    words=say("main") if first else say("branch"),
                    through=amps(through),
                ),
            )
        )


def _is_main(case: Case, device: str) -> bool:
    """Whether nothing stands before a device."""
    return not any(p.downstream == device for p in case.protection.pairs)


TOPIC = say("Short circuits")
RULES = (
    Rule("interrupt_rating", say("Interrupt rating"),
         say("A device that cannot interrupt a short bursts, and the arc goes on burning."), interrupt_rating,
         say("{} devices interrupt less than the short circuit at their place"), topic=TOPIC),
    Rule("data_sheet", say("Short-circuit current not known"),
         say("What the bank can really drive is on its data sheet, or in its maker's answer; here it is representative."), data_sheet,
         say("the short-circuit current of {} banks is not known"), topic=TOPIC),
    Rule("heat_opens", say("Device in a hot place"),
         say("In a hot place a thermal device opens below its rating, again and again, with nothing wrong."), heat,
         say("{} devices may open below their rating in the heat"), page="curves", topic=TOPIC),
    Rule("breaker_table", say("Breaker against the cranking table"),
         say("An inspector will hold the breaker against this table, whatever is computed."), cranking_table,
         say("{} breakers are below the cranking table"), frozenset({"north_american_small_craft"}), topic=TOPIC),
)  # fmt: skip
