"""What may mend a finding of protection, at one device or conductor."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import ROOM, Change, now_there
from jaunty_copper.choosing.devices import RANK, Choice, choices, that_fit, that_may_stand, with_neighbour
from jaunty_copper.choosing.putting import applying
from jaunty_copper.choosing.windows import window
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Finding
from jaunty_copper.codes.interrupting import backed_up, interrupting, limiters
from jaunty_copper.codes.permitted import answers_for
from jaunty_copper.codes.rules.protection import strengthen
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.language import say
from jaunty_copper.network.wiring import body_ohm
from jaunty_copper.plan.model import Breaker, Fuse
from jaunty_copper.protection.back_up import back_up
from jaunty_copper.protection.devices import Device, instead_of
from jaunty_copper.protection.selectivity import Pair

WIDER = 10
"""How many ratings beyond what stands in the way are tried."""


def ways_out(known: Assessment, f: Finding, every: bool) -> Iterator[list[Change]]:
    """What may mend a finding: what it proposes itself; at a device another, with what must then be made stronger.

    With `every`, in the end all ratings of all families that may stand at a device that the finding is about.
    """
    case = known.case
    fix = f.fix()
    if fix is not None:
        yield [Change(f.place, now_there(case, f.place), fix.label, f.headline, f.source, fix)]
    for id_ in (f.place, *(d for d, ks in case.protection.guard.guarded_by.items() if _guards(case, ks, f.place))):
        best = case.once(_best_there, id_) if id_ in case.protection.devices else None
        if best is not None:
            choice, more = best
            room = [stronger(case, id_, place, rating) for place, rating in more]
            edit = applying(case, id_, choice)
            after = say("{family} of {rating_a:g} A", family=choice.family.label, rating_a=choice.rating_a)
            why = why_chosen(case, id_, choice)
            yield [*(c for c in room if c), Change(id_, now_there(case, id_), after, f.headline, why, edit)]
    if f.rule.id == "interrupt_rating":
        yield from ([limiting] for limiting in limiters_before(case, f))
    if every and f.place in case.protection.devices:
        rating_a = case.protection.devices[f.place].item.rating_a
        # Where nothing fits, the rating that was chosen or a smaller one, in a family that comes in it: fewer things are wrong then.
        found = that_may_stand(case, f.place)
        smaller = [c for c in reversed(that_may_stand(case, f.place, (0.0, rating_a))) if c not in found]
        able: Iterable[Choice] = (*found, *sorted(smaller, key=lambda c: -(c.rating_a or 0.0)))
        if f.rule.id == "selectivity":
            # Whatever else is wrong there is a finding of its own, with ways out of its own.
            able = _more_selective(case, f.place, able)
        for choice in able:
            after = say("{family} of {rating_a:g} A", family=choice.family.label, rating_a=choice.rating_a)
            why = why_chosen(case, f.place, choice)
            yield [Change(f.place, now_there(case, f.place), after, f.headline, why, applying(case, f.place, choice))]


def _more_selective(case: Case, id_: str, found: Iterable[Choice]) -> Iterator[Choice]:
    """Those of some choices that would be more selective with a neighbour than the device that stands there."""
    others = case.protection.devices
    now = others[id_]
    volts, before = case.operating_v(now.item), body_ohm(now.item, case.parts)
    pairs = [p for p in case.protection.pairs if id_ in (p.upstream, p.downstream) and not p.same]
    for choice in found:
        assert choice.rating_a is not None
        device = instead_of(now, case.parts, choice.family, choice.rating_a)
        # A small device's own resistance leaves less of a fault for both.
        more = body_ohm(device.item.model_copy(update={"measured_ohm": None}), case.parts) - before
        if any(
            RANK[with_neighbour(device, there, others)[0]] < RANK[p.verdict]
            for p in pairs
            for there in ((p, _through(p, volts, more)) if more > 0.0 else (p,))
        ):
            yield choice


def _through(p: Pair, volts: float, more_ohm: float) -> Pair:
    """A pair with so much more resistance in its way: what drives its faults stays, the voltage of the place."""
    least, most = (volts / (volts / max(amps_, 1e-9) + more_ohm) for amps_ in (p.least_a, p.most_a))
    return replace(p, least_a=least, most_a=most)


def limiters_before(case: Case, f: Finding) -> Iterator[Change]:
    """For each fuse before one that interrupts too little, the least costly that keeps the current low enough."""
    held = interrupting(case, f.place)
    if backed_up(case, f.place) is None or held.able_a is None:
        return
    for before in limiters(case):
        for choice in that_may_stand(case, before):
            assert choice.rating_a is not None
            device = instead_of(case.protection.devices[before], case.parts, choice.family, choice.rating_a)
            found = back_up(case.protection.faults, f.place, {before: device}) if choice.family.kind == "fuse" else None
            if found is not None and found.let_through_a <= held.able_a:
                after, edit = (
                    say("{family} of {rating_a:g} A", family=choice.family.label, rating_a=choice.rating_a),
                    applying(case, before, choice),
                )
                why = say(
                    "lets {let_through_a} through, and no more, to {place}",
                    let_through_a=amps(found.let_through_a),
                    place=case.title(f.place),
                )
                yield Change(before, now_there(case, before), after, f.headline, why, edit)
                break


def _best_there(case: Case, id_: str) -> tuple[Choice, list[tuple[str, float]]] | None:
    return best_at(case, id_, case.protection.devices)


def _guards(case: Case, branches: tuple[int, ...], place: str) -> bool:
    return any(case.wiring.branches[k].owner == place for k in branches)


def stronger(case: Case, device: str, place: str, rating: float) -> Change | None:
    """A conductor or part made strong enough for a device of a rating; None where nothing is.

    Parameters
    ----------
    device, place : str
        Ids of the device, and of the conductor or part.
    rating : float
        Of the device, A.
    """
    edit = strengthen(case, place, rating)
    room = say("{room} {device} of {rating:g} A", room=ROOM, device=case.title(device), rating=rating)
    return Change(place, now_there(case, place), edit.label, "", room, edit) if edit is not None else None


def reason_of(known: Assessment, f: Finding) -> str:
    """Why a finding is left."""
    case = known.case
    if f.place not in case.protection.devices:
        return (
            say("What would mend it makes something else wrong")
            if f.fix() is not None
            else say("Nothing in the library mends it")
        )
    best = choices(case, f.place)[0]
    if not best.fits:
        return say("No family fits: {family} {fails}", family=best.family.label, fails=best.fails[0])
    if best.selective != "total":
        what = say("{family} of {rating_a:g} A", family=best.family.label, rating_a=best.rating_a)
        how = say("selectivity {selective}, {with_whom}", selective=best.selective, with_whom=best.with_whom)
        if f.rule.id == "selectivity":
            return say("The best that fits, {what}: {how}", what=what, how=how)
        return say("{what} would fit, and bring a finding of its own: {how}", what=what, how=how)
    return say("What would mend it makes something else wrong")


def best_at(case: Case, id_: str, devices: Mapping[str, Device]) -> tuple[Choice, list[tuple[str, float]]] | None:
    """The best choice, and what must be made stronger for it."""
    first = next(iter(that_fit(case, id_, devices)), None)
    if first is not None and first.selective == "total":
        return first, []
    item = case.protection.devices[id_].item
    low = window(case, item).low.amps
    second: Choice | None = None
    for high in [r for r in case.parts.device_ratings_a if r >= low][:WIDER]:
        wider = next(iter(that_fit(case, id_, devices, high_a=high)), None)
        if wider is None or wider.rating_a is None:
            continue
        if wider.selective == "total":
            return wider, _too_weak(case, item, wider.rating_a)
        second = second or wider
    if first is not None:
        # Selectivity is no reason for a higher rating that does not get it.
        return first, []
    return (second, _too_weak(case, item, second.rating_a or 0.0)) if second else None


def _too_weak(case: Case, item: Fuse | Breaker, rating_a: float) -> list[tuple[str, float]]:
    found = []
    for branch in case.protection.guard.guarded_by.get(item.id, ()):
        if not answers_for(case, item, branch):
            continue
        if case.capacity(branch) < rating_a:
            found.append((case.wiring.branches[branch].owner, rating_a))
    return sorted(set(found))


def why_chosen(case: Case, id_: str, choice: Choice) -> str:
    """What makes a choice right at a device's place."""
    item = case.protection.devices[id_].item
    able, w = choice.family.interrupt_a(case.operating_v(item)), window(case, item)
    words = [w.low.why]
    if able is not None:
        words.append(
            say(
                "interrupt rating {able}; {prospective} prospective",
                able=amps(able),
                prospective=amps(case.protection.faults.prospective(id_)[0]),
            )
        )
    words.append(
        say("selectivity {selective}", selective=choice.selective)
        + (f" ({choice.with_whom})" if choice.with_whom else "")
    )
    return "; ".join(words)
