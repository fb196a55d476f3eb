"""What is to be read on the spot: at the bank, at what switches it off, where several sources meet."""

from collections.abc import Iterator
from datetime import date
from typing import NamedTuple

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.fabrication.order import ways_from
from jaunty_copper.fabrication.posts import at_posts, burns
from jaunty_copper.language import say
from jaunty_copper.parts.figures import quantity
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.model import Bar, Contactor, Converter, Disconnect, Source


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
    parts = d.study.wiring.parts
    most, volts = at_posts(d.protection, bank)
    gas = any(parts.battery_chemistries[u.chemistry].gas_boost_ma_ah > 0.0 for u in bank.units)
    lines = [
        say("Nominal voltage {volts:g} V DC", volts=bank.across(lambda u: u.nominal_v)),
        say(
            "Available fault current {amps} DC, computed {day}", amps=quantity(most, "A"), day=date.today().isoformat()
        ),
        say("Posts are always live: no work on them, cover them, no metal on the hands"),
        burns(volts, most),
    ]
    if gas:
        lines.append(say("Gives off hydrogen: no flame, no spark, ventilate"))
    return Notice(bank.id, say("Bank of {unit}", unit=bank.units[0].title), say("Battery"), tuple(lines))


def _name(bank: Bank) -> str:
    return say("bank of {unit}", unit=bank.units[0].title)


def _at_switches(d: Dossier) -> Iterator[Notice]:
    w = d.study.wiring
    sources = [e.title for e in d.plan.equipment if isinstance(e, Source)]
    seen = set[str]()
    for unit, way in ways_from(w):
        off = [b for b in w.banks if unit in b.by_id]
        left = [*(_name(b) for b in w.banks if b not in off), *sources]
        for x in way:
            if isinstance(x, Disconnect | Contactor) and x.id not in seen:
                seen.add(x.id)
                lines = [say("Still live: the posts of the bank, and all up to this switch")]
                if left:
                    lines.append(say("Not switched off by it: {left}", left=", ".join(left)))
                head = say("Emergency: switches off the {bank}", bank=", ".join(map(_name, off)))
                yield Notice(x.id, x.title, head, tuple(lines))


def _where_sources_meet(d: Dossier) -> Iterator[Notice]:
    w, hot = d.study.wiring, d.protection.guard.hot_rails
    ends: list[tuple[str, tuple[str, ...]]] = [
        (e.title, (e.ref("plus"), e.ref("minus"))) for e in d.plan.equipment if isinstance(e, Source)
    ]
    ends += [(e.title, (e.ref("out_plus"), e.ref("out_minus"))) for e in d.plan.equipment if isinstance(e, Converter)]
    ends += [(_name(b), tuple(u.ref(t) for u in b.units for t in ("plus", "minus"))) for b in w.banks]
    for bar in (x for x in d.plan.items if isinstance(x, Bar)):
        rail = w.rail_of(bar.ref(bar.terminal_names[0]))
        fed = [title for title, refs in ends if rail in map(w.rail_of, refs)]
        if rail in hot and len(fed) > 1:
            yield Notice(
                bar.id, bar.title, say("More than one source"), (say("Isolate all: {fed}", fed=", ".join(fed)),)
            )
