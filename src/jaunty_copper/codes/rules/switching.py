"""Closing and bearing: starting currents, capacitors that fill, faults through switches and bars, line sides."""

from collections.abc import Iterator
from functools import partial
from math import inf, isfinite

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.faults import able_families
from jaunty_copper.codes.rules.words import amps, duration
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Contactor, Disconnect, Plan
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.sequences import through_switch
from jaunty_copper.protection.starts import starts_of

SAFE_SHARE = 0.44
"""Of a short-time withstand current for a second: so much heats contacts no more in five, and then they lose what comes."""
WARMED = 0.05
"""Share of what a device is worth below which nobody calls it warm."""


def surge(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices that a start opens."""
    for id_, device in case.protection.devices.items():
        held = [(device.shortest_warm(s.current_a, s.before_a), s) for s in starts_of(case.protection, id_)]
        if not held:
            continue
        holds, start = min(held, key=lambda x: x[0] - x[1].lasts_s if isfinite(x[0]) else inf)
        scenario = start.state.scenario
        check = case.check(
            rule, id_, start.lasts_s, holds if isfinite(holds) else None, "s",
            scenario=scenario.id, source=say("Fast edge of its family's opening band, representative"),
        )  # fmt: skip
        yield (
            check
            if holds > start.lasts_s
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{item} may open after {holds} at {current_a}{warm}; the start in “{scenario}” lasts {lasts_s}",
                    item=device.item.title,
                    holds=duration(holds),
                    current_a=amps(start.current_a),
                    warm=say(", warm from {before}", before=amps(start.before_a))
                    if start.before_a > WARMED * device.fast_a
                    and holds < float(device.shortest(np.array(start.current_a)))
                    else "",
                    scenario=start.title,
                    lasts_s=duration(start.lasts_s),
                ),
            )
        )


def short_time(case: Case, rule: Rule) -> Iterator[Check]:
    """Switches that withstand less than their device lets through, or close onto more than they may."""
    f = case.protection.faults
    for x in case.plan.items:
        if not isinstance(x, Disconnect | Contactor):
            continue
        most, _ = f.greatest_through(x.id)
        if x.making_a is not None:
            check = case.check(rule, x.id, most, x.making_a, "A", source=say("The part's own making capacity"))
            yield (
                check
                if most <= x.making_a
                else check.fails(
                    Verdict.ADVICE,
                    say(
                        "Closed onto a short, {x} makes {most}; its making capacity is {making_a}: find the fault before you "
                        "close it again",
                        x=x.title,
                        most=amps(most),
                        making_a=amps(x.making_a),
                    ),
                )
            )
        if x.short_time_a is None:
            continue
        through = through_switch(f, case.protection.devices, x.id, SAFE_SHARE * x.short_time_a)
        check = case.check(
            rule,
            x.id,
            through.let_a2s,
            x.short_time_a**2,
            "A²s",
            source=say("The part's own short-time withstand, 1 s"),
        )
        yield (
            check
            if through.let_a2s <= x.short_time_a**2
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{x} has a short-time withstand of {short_time_a} (1 s); ",
                    x=x.title,
                    short_time_a=amps(x.short_time_a),
                )
                + (
                    say(
                        "{item} lets {k} flow for {k_2}",
                        item=case.title(through.opened),
                        k=amps(through.current_a),
                        k_2=duration(through.until_s),
                    )
                    if through.opened
                    else say("{most} may flow through it and nothing is sure to open", most=amps(through.current_a))
                ),
                figure=through.current_a,
                limit=x.short_time_a,
                unit="A",
                source=say("The part's own short-time withstand"),
            )
        )


SHORT_TIMES = 2.0
"""Times a breaker's rating from which it breaks a short, no overload; a convention of the program: less comes from what gives no more than it is set to."""


def line_side(case: Case, rule: Rule) -> Iterator[Check]:
    """Devices with a marked line side that face the wrong way."""
    for id_, device in case.protection.devices.items():
        if device.family.sided == "no":
            continue
        check = case.check(rule, id_, source=device.family.source + say(": line and load side are marked"))
        rail = case.wiring.rail_of(device.item.ref("a"))
        # In a live minus the current comes from the load; the line side is still the bank's.
        minus = any(case.wiring.rail_of(bank.takeoffs["minus"][0]) == rail for bank in case.wiring.banks)
        faults = case.protection.faults
        short_a = min(faults.both_ways(id_)) if device.family.sided == "line" else 0.0
        if short_a > SHORT_TIMES * device.item.rating_a:
            yield check.fails(
                Verdict.DEFECT,
                say(
                    "{item} has a line and a load side, and a short may drive {short_a} through it from either",
                    item=device.item.title,
                    short_a=amps(short_a),
                ),
                partial(_unmarked, case, device),
                figure=short_a,
                limit=SHORT_TIMES * device.item.rating_a,
                unit="A",
            )
            continue
        right = faults.feeds_from_a(id_) is not (minus and device.family.sided == "line")
        yield check if right else check.fails(
            Verdict.DEFECT, say('{item} has its line side away from what drives a short through it', item=device.item.title),
            partial(Edit, say('Turn {item} round', item=device.item.title), partial(turn_round, id_=id_)),
        )  # fmt: skip


TURNS_A = 1.0
"""A current against its marks that a breaker may have to break."""


def turning(case: Case, rule: Rule) -> Iterator[Check]:
    """Breakers with marked poles whose current flows against the way they are marked for.

    They are marked for the way from which most of a short comes. Against it flows what a charger sends to the bank,
    in a scenario or once loads are off, what turns round with the hours, and a short that another bank feeds from the
    other side.
    """
    f = case.protection.faults
    for id_, device in case.protection.devices.items():
        if device.family.kind != "breaker" or device.family.sided != "yes":
            continue
        marked = 1.0 if f.feeds_from_a(id_) else -1.0
        flows = [(-marked * float(s.point.current_a[device.branch]), s.scenario) for s in case.study.every if s.solved]
        against, scenario = max(flows, key=lambda x: x[0], default=(0.0, None))
        against, charged = max(against, 0.0), _charged_a(case, id_, marked)
        if charged > against * 1.001:
            against, scenario = charged, None
        short_a = min(f.both_ways(id_))
        faulted = short_a > max(against, device.item.rating_a)
        check = case.check(
            rule,
            id_,
            short_a if faulted else against,
            TURNS_A,
            "A",
            scenario=scenario.id if scenario is not None and not faulted else None,
            source=say("{source}: plus and minus are marked", source=device.family.source),
        )
        if not faulted and against <= TURNS_A:
            yield check
            continue
        yield check.fails(
            Verdict.DANGER,
            say(
                "{item} has marked poles, and a short may drive {short_a} through it from either side. Against its marks it "
                "may not put out its arc",
                item=device.item.title,
                short_a=amps(short_a),
            )
            if faulted
            else say(
                "{item} has marked poles, a short comes from one side and {against} from the other, {when}. "
                "Opened then, it may not put out its arc",
                item=device.item.title,
                against=amps(against),
                when=say("in “{scenario}”", scenario=scenario.title)
                if scenario is not None
                else say("once what charges feeds nothing but the bank"),
            ),
            partial(_unmarked, case, device),
        )


def _charged_a(case: Case, id_: str, marked: float) -> float:
    """What sources can send through a device against the way it is marked for, while nothing else takes it, A."""
    shares = case.protection.faults.shares(id_)
    return sum(max(marked * shares.get(e.output[0], 0.0), 0.0) * e.current_a for e in case.wiring.sources)


def _unmarked(case: Case, device: Device) -> Edit | None:
    """The same rating in a family that breaks either way."""
    volts_, through = case.operating_v(device.item), case.protection.faults.prospective(device.item.id)[0]
    fits = [f for f in able_families(case, device.item, volts_, through) if f.sided == "no"]
    if not fits:
        return None
    new = fits[0].id
    return Edit(
        say("Change {item} to {fits}", item=device.item.title, fits=fits[0].label),
        partial(edits.change, id_=device.item.id, family=new, thread=None),
    )


def turn_round(plan: Plan, id_: str) -> Plan:
    """Swap what lands on the two terminals of an inline item."""
    a, b = f"{id_}.a", f"{id_}.b"
    other = {a: b, b: a}
    for run in plan.runs:
        if run.a in other or run.b in other:
            plan = edits.change(plan, run.id, a=other.get(run.a, run.a), b=other.get(run.b, run.b))
    return plan


TOPIC = say("Switching")
RULES = (
    Rule("surge_opens", say("Start that opens a device"),
         say("It opens when the pump starts, and somebody will put in a larger one."), surge,
         say("{} devices may open at a start"), page="curves", topic=TOPIC),
    Rule("short_time", say("Switch in a short circuit"),
         say("Contacts that are thrown apart by a fault weld or burst before the fuse has opened."), short_time,
         say("{} switches do not withstand a short circuit"), topic=TOPIC),
    Rule("turning_current", say("Marked poles and a current against them"),
         say("Its magnets drive the arc one way only: out. The other way they drive it in."), turning,
         say("{} breakers with marked poles carry a current against them"), topic=TOPIC),
    Rule("line_side", say("Line and load side"),
         say("A breaker fed from the wrong side may not put out its arc."), line_side,
         say("{} devices face the wrong way"), topic=TOPIC),
)  # fmt: skip
