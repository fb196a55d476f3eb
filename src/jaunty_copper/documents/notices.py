"""What is to be read on the spot: at the bank, at what switches it off, where several sources meet."""

from collections.abc import Iterator
from datetime import date
from typing import NamedTuple

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.fabrication.order import main_ways
from jaunty_copper.language import say
from jaunty_copper.parts.figures import quantity
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.model import Bar, Contactor, Disconnect, Source


class Notice(NamedTuple):
    """A label for a place.

    Attributes
    ----------
    place, where : str
        Id and name of the thing that it is stuck to.
    head : str
        What is read first.
    lines : tuple of str
        Below it.
    """

    place: str
    where: str
    head: str
    lines: tuple[str, ...]


def notices_of(d: Dossier) -> tuple[Notice, ...]:
    """Every notice of a plan: banks first, then switches, then where several sources meet."""
    banks = d.study.wiring.banks
    return (*(_at_bank(d, bank) for bank in banks), *_at_switches(d), *_where_sources_meet(d))


def _at_bank(d: Dossier, bank: Bank) -> Notice:
    parts, faults = d.study.wiring.parts, d.protection.faults
    refs = [u.ref(t) for u in bank.units for t in ("plus", "minus") if u.ref(t) in faults.at]
    most = max((abs(float(faults.peak.current_a[faults.at[ref]])) for ref in refs), default=0.0)
    gas = any(parts.battery_chemistries[u.chemistry].gas_boost_ma_ah > 0.0 for u in bank.units)
    lines = [
        say("Nominal voltage {volts:g} V DC", volts=sum(bank.by_id[u].nominal_v for u in bank.strings[0])),
        say(
            "Available fault current {amps} DC, computed {day}", amps=quantity(most, "A"), day=date.today().isoformat()
        ),
        say("Posts are always live: no work on them, cover them, no metal on the hands"),
    ]
    if gas:
        lines.append(say("Gives off hydrogen: no flame, no spark, ventilate"))
    return Notice(bank.id, say("Bank of {unit}", unit=bank.units[0].title), say("Battery"), tuple(lines))


def _at_switches(d: Dossier) -> Iterator[Notice]:
    sources = [e.title for e in d.plan.equipment if isinstance(e, Source)]
    for way in main_ways(d.study.wiring):
        for x in way:
            if isinstance(x, Disconnect | Contactor):
                left = [say("Still live: the posts of the bank, and all up to this switch")]
                if sources:
                    left.append(say("Not switched off by it: {sources}", sources=", ".join(sources)))
                yield Notice(x.id, x.title, say("Emergency: switches off the bank"), tuple(left))


def _where_sources_meet(d: Dossier) -> Iterator[Notice]:
    w = d.study.wiring
    hot = d.protection.guard.hot_rails
    for bar in (x for x in d.plan.items if isinstance(x, Bar)):
        rail = w.rail_of(bar.ref(bar.terminal_names[0]))
        fed = [
            e.title
            for e in d.plan.equipment
            if isinstance(e, Source) and rail in (w.rail_of(e.ref(t)) for t in ("plus", "minus"))
        ]
        fed += [
            say("the bank")
            for bank in w.banks
            if any(w.rail_of(u.ref(t)) == rail for u in bank.units for t in ("plus", "minus"))
        ]
        if rail in hot and len(fed) > 1:
            yield Notice(
                bar.id, bar.title, say("More than one source"), (say("Isolate all: {fed}", fed=", ".join(fed)),)
            )
