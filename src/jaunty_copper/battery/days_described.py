"""The days ahead in words, for window and command line alike."""

from jaunty_copper.battery.days import DaysAhead
from jaunty_copper.language import say
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.clock import HOURS, clock
from jaunty_copper.plan.model import Shunt

MOST_NAMED = 4


def monitored(found: DaysAhead, bank: Bank) -> Shunt | None:
    """The shunt whose monitor has a capacity set; with one bank only, for else nobody knows whose charge it counts.

    Parameters
    ----------
    found : DaysAhead
        Of a plan.
    bank : Bank
        One of its banks.
    """
    shunts = [x for x in found.wiring.plan.items if isinstance(x, Shunt) and x.monitor_ah]
    return shunts[0] if shunts and len(found.wiring.banks) == 1 and bank in found.wiring.banks else None


def described(found: DaysAhead, bank: Bank) -> str:
    """What happens to a bank and what hangs on it.

    Parameters
    ----------
    found : DaysAhead
        Of a plan.
    bank : Bank
        One of its banks.
    """
    if not found.course.hours.size:
        return say("There is no operating point to begin with.")
    charge = found.charge(bank)
    said = [*_dark(found, bank), *_floats(found, bank)]
    if not any(id_ == bank.id for id_, _, _ in found.dark):
        lowest = clock(float(found.course.hours[charge.argmin()]), day=True)
        said.insert(0, say("lowest {low:.0f} % on {when}", low=float(charge.min()), when=lowest))
    refusing = [found.wiring.plan.by_id[u].title for u in found.refuses if u in bank.by_id]
    if refusing:
        said.append(say("too cold or too warm to be charged, so that nothing goes in: {names}", names=_some(refusing)))
    said.append(say("ends at {end:.0f} %", end=float(charge[-1])))
    shunt = monitored(found, bank)
    if shunt is not None:
        said.append(say("the monitor says {shown:.0f} %", shown=float(found.monitor(shunt, bank)[-1])))
    spread = [e.title for e in found.wiring.loads if not e.by_hour and 0.0 < e.hours_per_day < HOURS]
    if spread:
        said.append(say("spread over the day, since nothing says when: {names}", names=_some(spread)))
    return " ".join(f"{s[:1].upper()}{s[1:]}." for s in said)


def _some(names: list[str]) -> str:
    more = say(" and {count} more", count=len(names) - MOST_NAMED) if len(names) > MOST_NAMED else ""
    return ", ".join(names[:MOST_NAMED]) + more


def _dark(found: DaysAhead, bank: Bank) -> list[str]:
    plan = found.wiring.plan
    spans = [(a, b) for id_, a, b in found.dark if id_ == bank.id]
    if not spans:
        return [
            say("{name} stops for want of voltage, {hours:.1f} h in all", name=plan.by_id[s.id].title, hours=s.hours)
            for s in found.stops_of(bank)[:MOST_NAMED]
        ]
    hours = sum(b - a for a, b in spans)
    waiting = [plan.by_id[s.id].title for s in found.stops_of(bank)]
    return [
        say("the bank is empty on {when} and feeds nothing for {hours:.0f} h in all", when=clock(spans[0][0], day=True), hours=hours),
        *([say("what waits: {names}", names=_some(waiting))] if waiting else []),
    ]  # fmt: skip


def _floats(found: DaysAhead, bank: Bank) -> list[str]:
    return [
        say("{source} goes over to float on {when}", source=source, when=clock(hour, day=True))
        for hour, source in found.floats_of(bank)[:1]
    ]
