"""What open switches join once they are closed: banks that are alike, and nothing that a voltage lies across."""

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.isolation import parts_with
from jaunty_copper.codes.rules.units import ALIKE, TOPIC
from jaunty_copper.language import say
from jaunty_copper.physics.graph import potentials
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.model import Converter

ALIKE_SHARE = 0.12
"""Of the higher nominal voltage: so far may two banks be apart that are joined, as 12 V of lead and 12.8 V of lithium are."""
EXACT_V = 1e-6

Edges = list[tuple[int, int, float]]


class _Closing(NamedTuple):
    """What lies across an open switch before it closes, all others closed that come before it; None where nothing does."""

    apart_v: float | None
    allowed_v: float
    shorted: Bank | None


def cross_over(case: Case, rule: Rule) -> Iterator[Check]:
    """Open switches that, once closed, short a bank, join two of other voltage or chemistry, or a converter with one."""
    w = case.wiring
    if not w.drawn_open:
        return
    at = {w.own_rail_of(u.ref(t)): bank for bank in w.banks for u in bank.units for t in u.terminal_names}
    crossings = w.crossings(w.drawn_open)
    for id_, closing in _closings(case).items():
        if closing.apart_v is None:
            yield case.check(rule, id_, source=ALIKE)
            continue
        check = case.check(rule, id_, closing.apart_v, closing.allowed_v, "V", source=ALIKE)
        one, other = (at.get(w.own_rail_of(case.plan.by_id[id_].ref(end))) for end in ("a", "b"))
        banks = [b for b in (one, other) if b is not None]
        if closing.apart_v > closing.allowed_v:
            yield check.fails(
                Verdict.DANGER, _short(case, id_, closing.apart_v, closing.shorted, banks), source=say("Kirchhoff's voltage law")
            )  # fmt: skip
            continue
        kinds = [sorted({u.chemistry for u in bank.units}) for bank in banks]
        if id_ in crossings and len(banks) == 2 and kinds[0] != kinds[1]:
            words = [
                " and ".join(case.parts.battery_chemistries[k].label for k in chemistries) for chemistries in kinds
            ]
            yield check.fails(
                Verdict.DEFECT,
                say(
                    "Closing {id} joins {words} with {words_2}: they charge and rest at different voltages",
                    id=case.title(id_),
                    words=words[0],
                    words_2=words[1],
                ),
            )
        else:
            yield check


def _short(case: Case, id_: str, apart_v: float, shorted: Bank | None, banks: Sequence[Bank]) -> str:
    """In words, what closing a switch shorts."""
    if shorted is not None:
        return say(
            "Closing {id} shorts {bank}: {apart:.3g} V lie across it",
            id=case.title(id_),
            bank=case.title(shorted.id),
            apart=apart_v,
        )
    volts = sorted({b.nominal_v for b in banks})
    if len(volts) == 2 and abs(volts[1] - volts[0] - apart_v) < EXACT_V:
        return say(
            "Closing {id} joins a bank of {low:g} V with one of {high:g} V: a short circuit",
            id=case.title(id_),
            low=volts[0],
            high=volts[1],
        )
    return say("Closing {id} joins what is {apart:.3g} V apart: a short circuit", id=case.title(id_), apart=apart_v)


def _closings(case: Case) -> Mapping[str, _Closing]:
    """Each open switch, those that only disconnect first."""
    w = case.wiring
    own = parts_with(case, w.drawn_open)
    count = max(own, default=-1) + 1
    of_bank = {
        bank.id: [(own[w.node[u.ref("minus")]], own[w.node[u.ref("plus")]], u.nominal_v) for u in bank.units]
        for bank in w.banks
    }
    most = max((bank.nominal_v for bank in w.banks), default=0.0)
    stiff = [edge for edges in of_bank.values() for edge in edges]
    stiff += _converters(case, own, stiff, count)
    closed: Edges = []
    found: dict[str, _Closing] = {}
    crossings = w.crossings(w.drawn_open)
    for id_ in sorted(w.drawn_open, key=lambda x: (x in crossings, x)):
        x = case.plan.by_id[id_]
        a, b = own[w.node[x.ref("a")]], own[w.node[x.ref("b")]]
        found[id_] = _Closing(_apart(count, [*stiff, *closed], a, b), ALIKE_SHARE * most, None)
        if found[id_].apart_v is None:
            closed.append((a, b, 0.0))
            continue
        # Between points of one bank there is nothing to be alike.
        for bank in w.banks:
            inside = _apart(count, [*of_bank[bank.id], *closed], a, b)
            if inside is not None and inside > EXACT_V:
                found[id_] = _Closing(inside, 0.0, bank)
                break
    return found


def _converters(case: Case, own: Sequence[int], stiff: Edges, count: int) -> Edges:
    """Outputs of converters that stand where no battery does."""
    _, part, _ = potentials(count, stiff)
    converters = (e for e in case.plan.equipment if isinstance(e, Converter))
    node = case.wiring.node
    ends = [(own[node[e.ref("out_minus")]], own[node[e.ref("out_plus")]], e.out_nominal_v) for e in converters]
    return [(minus, plus, volts) for minus, plus, volts in ends if part[minus] != part[plus]]


def _apart(count: int, edges: Edges, a: int, b: int) -> float | None:
    """Voltage between two parts, V; None where nothing joins them."""
    volts, part, _ = potentials(count, edges)
    return abs(volts[a] - volts[b]) if part[a] == part[b] else None


RULES = (
    Rule("cross_over", say("What an open switch joins"),
         say("Once it is closed, banks of other voltage or chemistry drive into one another what copper lets through, or a bank into itself."),
         cross_over, say("{} open switches join what is not alike"), topic=TOPIC),
)  # fmt: skip
