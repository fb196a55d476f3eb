"""Chances in words, for window and command line alike."""

from math import isfinite
from typing import NamedTuple

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.rules import RULES
from jaunty_copper.commissioning.varying import Chance, Chances, Matter
from jaunty_copper.language import say
from jaunty_copper.parts.figures import short

TITLES = {rule.id: rule.title for rule in RULES}
HEAT = say("Device opened by its load")


class ChanceInWords(NamedTuple):
    """One chance in words.

    Attributes
    ----------
    chance, what, band, limit, matters : str
        How often; which limit at what; between which figures it lies; the limit; what to measure.
    """

    chance: str
    what: str
    band: str
    limit: str
    matters: str


def described(case: Case, c: Chance) -> ChanceInWords:
    """A chance in words.

    Parameters
    ----------
    case : Case
        For names.
    c : Chance
        Of its plan.
    """
    percent = 100.0 * c.chance
    chance = "< 1 %" if 0.0 < percent < 1.0 else "> 99 %" if 99.0 < percent < 100.0 else f"{percent:.0f} %"
    what = say(
        "{rule}, {place}",
        rule=TITLES.get(c.rule, HEAT),
        place=_titled(case, c.place),
    )
    band = say("{low} to {high} {unit}", low=short(c.low), high=short(c.high), unit=c.unit) if isfinite(c.low) else ""
    bound = say("at most") if c.most else say("at least")
    limits = " – ".join(dict.fromkeys(short(x) for x in c.limits)) if isfinite(c.limits[0]) else short(c.limit)
    limit = f"{bound} {limits} {c.unit}" if isfinite(c.limit) else ""
    matters = ", ".join(f"{_named(case, m)} ({100.0 * m.share:.0f} %)" for m in c.matters)
    return ChanceInWords(chance, what, band, limit, matters)


def left_out(found: Chances) -> str:
    """That some variants are not counted; empty where all are.

    Parameters
    ----------
    found : Chances
        Of a plan.
    """
    if found.left_out <= 0.0:
        return ""
    return say(
        "{percent:.2g} % of them are left out: a source would leave its mode there, or nothing holds",
        percent=100.0 * found.left_out,
    )


def judged_whole(found: Chances) -> str:
    """How many variants were judged under every rule; empty where none.

    Parameters
    ----------
    found : Chances
        Of a plan.
    """
    return say("{count} of them judged by every rule.", count=found.judged) if found.judged else ""


def _titled(case: Case, id_: str) -> str:
    run = case.plan.run_by_id.get(id_)
    return case.run_title(run) if run is not None else case.title(id_)


def _named(case: Case, m: Matter) -> str:
    owner = _titled(case, m.owner) if m.owner in case.plan.by_id or m.owner in case.plan.run_by_id else m.owner
    words = {
        "copper": say("length and copper of {owner}", owner=owner), "joint": say("joints of {owner}", owner=owner),
        "body": say("resistance of {owner}", owner=owner), "unit": say("resistance of {owner} beside its neighbours", owner=owner),
        "bank": say("resistance of the bank's units"), "load": say("power of {owner}", owner=owner),
        "device": say("what {owner} holds", owner=owner), "emf": say("the charge"), "air": say("the air"),
    }  # fmt: skip
    return words[m.kind]
