"""The cut list: every cable with its length, its ends and its label."""

from collections import Counter
from typing import Literal, NamedTuple

from jaunty_copper.language import say
from jaunty_copper.network.wiring import Wiring, thread_at
from jaunty_copper.parts.catalogue import read_data
from jaunty_copper.parts.models import Thread
from jaunty_copper.plan.model import Battery, Breaker, Converter, Fuse, Inline, Run, Splice, split_ref
from jaunty_copper.plan.topology import bonds_of

ALLOWANCE_SHARE, ALLOWANCE_M = 0.03, 0.04
"""More than the way: for the bow that a cable takes, and for the two lugs; representative."""
BODY_MM = {"blade": 60.0, "clamp": 0.0, "M5": 30.0, "M6": 55.0, "M8": 51.0, "M10": 60.0, "M12": 70.0}
"""From stud to stud of a device: what of a way is device and not cable; representative."""
ALIKE = 0.05
"""Cables of a bank that differ by no more than this are meant to be equal."""
STEP_M = 0.005
SLEEVE_OVER = 1.25
"""A sleeve must pass a lug's barrel: so much wider than the cable."""
Colour = Literal["red", "black", "yellow", "green and yellow", "grey"]


class End(NamedTuple):
    """One end of a cable.

    Attributes
    ----------
    ref : str
        Terminal it lands on.
    thread : Thread or None
        Hole of its lug; None where it takes no ring: a clamp, a blade holder, a lead.
    sleeve_mm : float or None
        Inner diameter of its sleeve before shrinking; None where no common one fits.
    angle : int
        Degrees by which its lug is bent.
    words : str
        What it is, for a person at the bench.
    """

    ref: str
    thread: Thread | None
    sleeve_mm: float | None
    angle: int
    words: str


class Cut(NamedTuple):
    """One cable.

    Attributes
    ----------
    run : str
        Id of its conductor.
    number : int
        Which of several in parallel, from 1; 1 where it is alone.
    length_m : float
        To cut, with what bows and lugs take.
    way_m : float
        As planned, from stud to stud.
    equal : str
        Ids of what must be cut to the same length; empty where none.
    label : str
        For both its ends.
    """

    run: str
    number: int
    conductor: str
    insulation: str
    colour: Colour
    length_m: float
    way_m: float
    equal: str
    a: End
    b: End
    label: str


def cuts_of(wiring: Wiring) -> tuple[Cut, ...]:
    """Every cable of a plan, in the order of its conductors.

    A device's body is no cable: half of it comes off at each end that lands on one. Links and leads of a
    bank with strings in parallel are cut alike, to the longest of those that are meant to be equal.
    """
    plan = wiring.plan
    runs = [r for r in plan.runs if r.length_m > 0.0]
    own = {r.id: _length(wiring, r) for r in runs}
    equal = _equal(wiring)
    colours, bonds = colours_of(wiring), {r.id for r in bonds_of(plan)}
    found = []
    for r in runs:
        group = equal.get(r.id, ())
        length = max((own[x] for x in group), default=own[r.id])
        a, b = _end(wiring, r, r.a, r.lug_a, r.lug_angle_a), _end(wiring, r, r.b, r.lug_b, r.lug_angle_b)
        titles = [plan.by_id[split_ref(ref)[0]].title for ref in (r.a, r.b)]
        for number in range(1, r.parallel + 1):
            mark = f"{r.id}.{number}" if r.parallel > 1 else r.id
            found.append(
                Cut(
                    r.id, number, r.conductor, r.insulation, "green and yellow" if r.id in bonds else colours[wiring.rail_of(r.a)], length, r.length_m,
                    " ".join(x for x in group if x != r.id), a, b, f"{mark}  {titles[0]} – {titles[1]}",
                )
            )  # fmt: skip
    return tuple(found)


def _length(wiring: Wiring, run: Run) -> float:
    """To cut for one conductor alone, to the next step."""
    body = sum(_body_mm(wiring, ref) for ref in (run.a, run.b)) / 2000.0
    bare = max(run.length_m - body, 0.02)
    return round(-(-(bare * (1.0 + ALLOWANCE_SHARE) + ALLOWANCE_M) // STEP_M) * STEP_M, 3)


def _body_mm(wiring: Wiring, ref: str) -> float:
    thing = wiring.plan.by_id[split_ref(ref)[0]]
    if isinstance(thing, Fuse | Breaker):
        return BODY_MM[thing.thread or wiring.parts.device_families[thing.family].terminals]
    return BODY_MM[thing.thread or "M8"] if isinstance(thing, Inline) and not isinstance(thing, Splice) else 0.0


def _equal(wiring: Wiring) -> dict[str, tuple[str, ...]]:
    """Runs that must be cut alike: those of a bank with strings in parallel that are planned alike."""
    found: dict[str, tuple[str, ...]] = {}
    runs = wiring.plan.run_by_id
    for bank in wiring.banks:
        if len(bank.strings) < 2:
            continue
        left = sorted((runs[r] for r in bank.inside if runs[r].length_m > 0.0), key=lambda r: r.length_m)
        while left:
            group = [r for r in left if r.length_m <= left[0].length_m * (1.0 + ALIKE)]
            left = left[len(group) :]
            if len(group) > 1:
                ids = tuple(sorted(r.id for r in group))
                found |= dict.fromkeys(ids, ids)
    return found


def colours_of(wiring: Wiring) -> dict[int, Colour]:
    """Colour of each rail: plus red, minus black (yellow is not to be had everywhere), grey what lies between; a bond has its own."""
    found: dict[int, Colour] = dict.fromkeys(range(max(wiring.rail, default=-1) + 1), "grey")
    plan = wiring.plan
    outer = Counter[int]()
    for x in plan.placed:
        if isinstance(x, Battery):
            outer[wiring.rail_of(x.ref("plus"))] += 1
            outer[wiring.rail_of(x.ref("minus"))] -= 1
    inner = {wiring.rail_of(x.ref("plus")) for x in plan.placed if isinstance(x, Battery)} & {
        wiring.rail_of(x.ref("minus")) for x in plan.placed if isinstance(x, Battery)
    }
    for x in plan.placed:
        if isinstance(x, Converter):
            ends = (x.ref("out_plus"), x.ref("out_minus"))
        elif isinstance(x, Battery):
            ends = (x.ref("plus"), x.ref("minus"))
        else:
            continue
        for ref, colour in zip(ends, ("red", "black"), strict=True):
            rail = wiring.rail_of(ref)
            if rail not in inner and found[rail] == "grey":
                found[rail] = colour  # type: ignore[assignment]
    return found


def _end(wiring: Wiring, run: Run, ref: str, lug: Thread | None, angle: int) -> End:
    size = wiring.parts.conductors[run.conductor]
    thread = lug or _thread(wiring, ref)
    sleeve = next(
        (s for s, after in _sleeves() if s >= SLEEVE_OVER * size.outer_mm and after <= size.outer_mm), None
    )  # fmt: skip
    if isinstance(splice := wiring.plan.by_id[split_ref(ref)[0]], Splice):
        return End(ref, None, None, 0, say("crimped into {splice}", splice=splice.title))
    if thread is None:
        return End(ref, None, None, 0, say("bare end or ferrule"))
    bent = f", {angle}°" if angle else ""
    words = say("lug {size} for {thread}{bent}", size=size.label, thread=thread, bent=bent) + (
        say(", sleeve {sleeve:g} mm", sleeve=sleeve) if sleeve is not None else ""
    )
    return End(ref, thread, sleeve, angle, words)


def _thread(wiring: Wiring, ref: str) -> Thread | None:
    """Stud at a terminal; of a switch or shunt that does not say, M8."""
    thing = wiring.plan.by_id[split_ref(ref)[0]]
    usual: Thread | None = "M8" if isinstance(thing, Inline) and not isinstance(thing, Fuse | Breaker) else None
    return thread_at(wiring.plan, wiring.parts, ref) or usual


def _sleeves() -> list[tuple[float, float]]:
    return [(float(row["before_mm"]), float(row["after_mm"])) for row in read_data("sleeves")]
