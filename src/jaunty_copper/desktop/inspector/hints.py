"""What a place permits, said at a field while something is typed or chosen there."""

from collections.abc import Callable
from math import isfinite
from typing import Any, NamedTuple

from jaunty_copper.choosing.windows import window
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.documents import words
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.parts.figures import short
from jaunty_copper.plan.model import Breaker, CurrentLoad, Equipment, Fuse, PowerLoad, ResistiveLoad, Run
from jaunty_copper.plan.topology import chain


class Hint(NamedTuple):
    """What is said at a field, and whether what is typed goes beyond it."""

    text: str
    beyond: bool = False


def _size(case: Case, picture: Picture, run: Run, size: str, scenario: str | None) -> Hint | None:
    able = case.may_carry(run.model_copy(update={"conductor": size})) if size in case.parts.conductors else None
    flows = abs(picture.run(run.id, scenario).current_a)
    if able is None or not isfinite(flows):
        return None
    return Hint(
        say("may carry {able} for good; {flows} flow", able=words.amps(able), flows=words.amps(flows)), flows > able
    )


def _length(_: Case, picture: Picture, run: Run, metres: float, scenario: str | None) -> Hint | None:
    r = picture.run(run.id, scenario)
    if not isfinite(r.drop_v) or run.length_m <= 0.0 or metres < 0.0:
        return None
    lost = abs(r.drop_v) * metres / run.length_m
    return Hint(
        say("about {lost} lost on it; {current_a} flow", lost=words.drop(lost), current_a=words.amps(r.current_a))
    )


def _rating(case: Case, _: Picture, device: Fuse | Breaker, amps: float, __: str | None) -> Hint | None:
    low, high = window(case, device)
    if not isfinite(high.amps):
        return Hint(say("at least {amps} A: {why}", amps=short(low.amps), why=low.why), amps < low.amps)
    if high.amps < low.amps:
        return Hint(
            say("none fits: at least {amps} A, at most {amps_2} A", amps=short(low.amps), amps_2=short(high.amps)), True
        )
    return Hint(
        say("{amps} to {amps_2} A; {why}", amps=short(low.amps), amps_2=short(high.amps), why=high.why),
        not low.amps <= amps <= high.amps,
    )


def _family(case: Case, _: Picture, device: Fuse | Breaker, family: str, __: str | None) -> Hint | None:
    found = case.parts.device_families.get(family)
    if found is None:
        return None
    able, wanted = found.interrupt_a(case.operating_v(device)), interrupting(case, device.id).wanted_a
    rated = say("nothing") if able is None else words.amps(able)
    return Hint(
        say("interrupt rating {rated} here; {wanted} needed", rated=rated, wanted=words.amps(wanted)),
        able is None or able < wanted,
    )


def _load(case: Case, _: Picture, e: Equipment, value: float, __: str | None) -> Hint | None:
    own = [r.id for ref in e.port for r in chain(case.plan, ref)]
    able = min((case.ampacities[id_].amps for id_ in own if id_ in case.ampacities), default=None)
    amps = value if isinstance(e, CurrentLoad) else value / e.nominal_v
    draws = say("{amps} at {nominal_v:g} V", amps=words.amps(amps), nominal_v=e.nominal_v)
    if able is None:
        return Hint(draws)
    return Hint(say("{draws}; ampacity of its conductors {able}", draws=draws, able=words.amps(able)), amps > able)


Maker = Callable[[Case, Picture, Any, Any, str | None], Hint | None]
HINTS: dict[tuple[type, str], Maker] = {
    (Run, "conductor"): _size, (Run, "length_m"): _length, (Fuse, "rating_a"): _rating, (Breaker, "rating_a"): _rating,
    (Fuse, "family"): _family, (Breaker, "family"): _family, (PowerLoad, "power_w"): _load, (ResistiveLoad, "power_w"): _load,
    (CurrentLoad, "current_a"): _load,
}  # fmt: skip
"""By kind of thing and field."""


def hint(picture: Picture, id_: str, name: str, value: Any, scenario: str | None) -> Hint | None:
    """What to say at a field of a thing with some value in it; None where nothing is known.

    The study may be of the plan as it was a moment ago: its own version of the thing is asked.
    """
    case = picture.case
    if case is None or value is None:
        return None
    thing = case.plan.run_by_id.get(id_) or case.plan.by_id.get(id_)
    maker = HINTS.get((type(thing), name))
    return maker(case, picture, thing, value, scenario) if maker is not None else None
