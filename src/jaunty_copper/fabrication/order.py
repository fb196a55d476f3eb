"""In which order to connect: dead until last, the grounded pole first, the main link at the end."""

from collections.abc import Iterator
from typing import NamedTuple

from jaunty_copper.language import say
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.parts.catalogue import read_data
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Breaker,
    Contactor,
    Disconnect,
    Equipment,
    Fuse,
    Inline,
    Run,
    Shunt,
    Source,
    split_ref,
)
from jaunty_copper.plan.topology import chassis_of
from jaunty_copper.protection.guard import Guard


class Step(NamedTuple):
    """One step of the work.

    Attributes
    ----------
    id : str
        Stays the same while the plan's things do: what is ticked is kept by it.
    part : str
        Which part of the work it belongs to.
    text : str
        What to do.
    caution : str
        What may hurt there; empty where nothing more than usual.
    """

    id: str
    part: str
    text: str
    caution: str = ""


def steps_of(wiring: Wiring) -> tuple[Step, ...]:
    """The work in its order, for one plan."""
    return (*_before(wiring), *_dead(wiring), *_bank(wiring), *_live(wiring))


def torque(thread: str, material: str = "brass") -> float:
    """Tightening torque of a stud, N m, representative.

    Raises
    ------
    KeyError
        There is no such thread or material.
    """
    return float({row["thread"]: row for row in read_data("torques")}[thread][material])


def _before(w: Wiring) -> Iterator[Step]:
    plan = w.plan
    yield Step(
        "before:hands", "Before", say("Rings and watch off, eye protection on, insulated tools laid out"),
        say("A spanner across a bank melts, burns and blinds"),
    )  # fmt: skip
    for e in plan.equipment:
        if isinstance(e, Source):
            yield Step(
                f"before:off:{e.id}",
                "Before",
                say("Isolate {e}: it must not be able to give anything", e=e.title),
                say("A charger feeds the bar though the bank is off"),
            )
    fuses = [x for x in plan.items if isinstance(x, Fuse)]
    if fuses:
        yield Step("before:fuses", "Before", say("Leave the {fuses} fuses out of their holders", fuses=len(fuses)))
    for x in plan.items:
        if isinstance(x, Breaker | Disconnect | Contactor):
            yield Step(f"before:open:{x.id}", "Before", say("Open {x}", x=x.title))


def _ordered(w: Wiring) -> tuple[list[Run], list[Run], list[Run]]:
    """Dead runs of the grounded pole, dead runs of the live one, and those that land on a battery."""
    guard, plan = Guard(w), w.plan
    inside = {r for b in w.banks for r in b.inside}
    at_bank, live, grounded = [], [], []
    for r in plan.runs:
        ends = [plan.by_id[split_ref(ref)[0]] for ref in (r.a, r.b)]
        if r.id in inside or any(isinstance(x, Battery) for x in ends):
            at_bank.append(r)
        elif w.rail_of(r.a) in guard.hot_rails:
            live.append(r)
        else:
            grounded.append(r)
    return grounded, live, at_bank


def _rank(w: Wiring, r: Run) -> int:
    """Equipment's own ends first, bars last: each cable is fixed at its far end before it meets the others."""
    ends = [w.plan.by_id[split_ref(ref)[0]] for ref in (r.a, r.b)]
    return (
        0 if any(isinstance(x, Equipment) for x in ends) else 2 if all(isinstance(x, Bar | Inline) for x in ends) else 1
    )


def _connect(w: Wiring, r: Run, part: str, caution: str = "") -> Step:
    titles = []
    for ref in (r.a, r.b):
        id_, terminal = split_ref(ref)
        titles.append(f"{w.plan.by_id[id_].title} {terminal}")
    word = say("Bolt") if r.length_m == 0.0 else say("Connect")
    if chassis_of(w.plan, r):
        caution = caution or say("Paint off and bright metal under the lug, then seal it")
    return Step(
        f"{part.lower()}:{r.id}",
        part,
        say("{word} {r}: {titles} to {titles_2}", word=word, r=r.id, titles=titles[0], titles_2=titles[1]),
        caution,
    )


def _dead(w: Wiring) -> Iterator[Step]:
    grounded, live, _ = _ordered(w)
    yield Step(
        "dead:make", "Return",
        say("Measure and mark each cable, cut and strip it without a nick, crimp and pull each lug, shrink its sleeve, put on its labels"),
    )  # fmt: skip
    for r in sorted(grounded, key=lambda r: _rank(w, r)):
        yield _connect(w, r, "Return")
    for r in sorted(live, key=lambda r: _rank(w, r)):
        yield _connect(w, r, "Feed")
    yield Step(
        "dead:pull",
        "Feed",
        say(
            "Pull every lug by hand, check each stud's torque and mark it; fix the cables so that no lug carries their weight"
        ),
    )
    yield Step(
        "dead:short", "Feed", say("Measure between plus and minus of every bar: no short, and no voltage yet"),
        say("Capacitors read as a short for a moment"),
    )  # fmt: skip


def _bank(w: Wiring) -> Iterator[Step]:
    *_, at_bank = _ordered(w)
    main = _main(w, at_bank)
    if any(len(bank.strings) > 1 for bank in w.banks):
        yield Step(
            "bank:level",
            "Bank",
            say(
                "Bring units that will be in parallel to one voltage before they are joined: none more than 0.1 V apart"
            ),
            say("Units at different charge drive a current through their links at once"),
        )
    guard = Guard(w)
    for r in sorted(at_bank, key=lambda r: w.rail_of(r.a) in guard.hot_rails):
        if r.id not in main:
            yield _connect(w, r, "Bank", say("Cover the other posts: from here on they are live"))
    for id_ in main[:-1]:
        yield _connect(w, w.plan.run_by_id[id_], "Bank", say("The pole that is not grounded stays off"))
    if main:
        yield _connect(
            w,
            w.plan.run_by_id[main[-1]],
            "Bank",
            say("The last link: a spark here means that something still draws current"),
        )


def _main(w: Wiring, at_bank: list[Run]) -> tuple[str, ...]:
    """Runs that join a bank to the rest: grounded pole first, the live one last."""
    guard, plan = Guard(w), w.plan
    found = [
        r for r in at_bank
        if sum(isinstance(plan.by_id[split_ref(ref)[0]], Battery) for ref in (r.a, r.b)) == 1
    ]  # fmt: skip
    return tuple(r.id for r in sorted(found, key=lambda r: w.rail_of(r.a) in guard.hot_rails))


def main_ways(w: Wiring) -> list[list[Inline]]:
    """What stands one after the other between a live main post and the first bar, from the post on."""
    return [way for _, way in ways_from(w)]


def ways_from(w: Wiring) -> list[tuple[str, list[Inline]]]:
    """The same, each with the unit whose post it begins at."""
    guard, plan = Guard(w), w.plan
    found = []
    for id_ in _main(w, _ordered(w)[2]):
        run = plan.run_by_id[id_]
        if w.rail_of(run.a) not in guard.hot_rails:
            continue
        unit, ref = (run.a, run.b) if isinstance(plan.by_id[split_ref(run.a)[0]], Battery) else (run.b, run.a)
        way = list[Inline]()
        while isinstance(item := plan.by_id[split_ref(ref)[0]], Inline) and item not in way:
            way.append(item)
            beyond = item.ref("b" if ref == item.ref("a") else "a")
            runs = plan.runs_at.get(beyond, ())
            if len(runs) != 1:
                break
            ref = runs[0].b if runs[0].a == beyond else runs[0].a
        found.append((split_ref(unit)[0], way))
    return found


def _live(w: Wiring) -> Iterator[Step]:
    """Fuses go in and everything is proved with the switch open; the switch closes last, sources come after the bank."""
    plan, ways = w.plan, main_ways(w)
    on_ways = [x for way in ways for x in way]
    yield Step("live:cover", "Live", say("Put covers over every post and every live stud"))
    for way in ways:
        if way:
            yield Step(
                f"live:polarity:{way[0].id}",
                "Live",
                say(
                    "Measure polarity and voltage at {x}, on the side of the bank: it is live up to there",
                    x=way[0].title,
                ),
            )
    mains = [x for x in on_ways if isinstance(x, Disconnect | Contactor)]
    others = [x for x in plan.items if isinstance(x, Disconnect | Contactor) and x not in mains]
    # What a fuse of a bank's way makes onto is isolated by a switch of that way; what another makes onto, by one of each.
    switch = [next((x for x in way if isinstance(x, Disconnect | Contactor)), None) for way in ways]
    for fuse in sorted((x for x in plan.items if isinstance(x, Fuse)), key=lambda fuse: fuse not in on_ways):
        own = [x for x, way in zip(switch, ways, strict=True) if fuse in way] or switch
        open_ = list(dict.fromkeys(x.title for x in own if x is not None))
        isolated = bool(own) and None not in own
        yield Step(
            f"live:in:{fuse.id}",
            "Live",
            say("Put in {x} of {rating_a:g} A while {switch} is open", x=fuse.title, rating_a=fuse.rating_a, switch=", ".join(open_)) if isolated
            else say("Put in {x} of {rating_a:g} A", x=fuse.title, rating_a=fuse.rating_a),
            "" if isolated else say("No switch stands before it: it makes onto what is behind, and empty capacitors weld or burn it"),
        )  # fmt: skip
    for at in dict.fromkeys(x.id for x in switch if x is not None):
        yield Step(
            f"live:proved:{at}",
            "Live",
            say(
                "Measure polarity and voltage at {x}, on both sides: the bank's on one, nothing on the other",
                x=plan.by_id[at].title,
            ),
        )
    yield from _filling(w)
    for main in mains:
        yield Step(f"live:close:{main.id}", "Live", say("Close {x}, everything else still off", x=main.title))
    for other in others:
        yield Step(f"live:close:{other.id}", "Live", say("Close {x}", x=other.title))
    for x in plan.items:
        if isinstance(x, Breaker):
            yield Step(
                f"live:in:{x.id}",
                "Live",
                say("Close {x} of {rating_a:g} A; what it feeds must come up alone", x=x.title, rating_a=x.rating_a),
            )
    yield Step(
        "live:loads", "Live", say("Switch on one load after the other, the largest last; each must come up alone")
    )
    for x in plan.items:
        if isinstance(x, Shunt):
            banks = [sum(b.by_id[s[0]].capacity_ah for s in b.strings) for b in w.banks]
            yield Step(
                f"live:set:{x.id}",
                "Live",
                say("Set the monitor at {x}: {ah:g} Ah, and its zero with nothing flowing", x=x.title, ah=banks[0])
                if len(banks) == 1
                else say("Set the monitor at {x} to its own bank, and its zero with nothing flowing", x=x.title),
            )
    for e in plan.equipment:
        if isinstance(e, Source):
            yield Step(
                f"live:on:{e.id}",
                "Live",
                say("Set {e} to {set_v:g} V and let it give: the voltage at the bank must rise to that and no further", e=e.title, set_v=e.set_v),
            )  # fmt: skip
    yield Step(
        "live:warm",
        "Live",
        say("After half an hour at full load feel or measure every joint: none warmer than its cable"),
    )


def _filling(w: Wiring) -> Iterator[Step]:
    """Capacitors are filled before the switch closes onto them."""
    for x in w.plan.items:
        if isinstance(x, Contactor) and x.precharge_ohm is not None:
            yield Step(
                f"live:precharge:{x.id}",
                "Live",
                say(
                    "Let {x} precharge through {precharge_ohm:g} Ω for {precharge_s:g} s",
                    x=x.title,
                    precharge_ohm=x.precharge_ohm,
                    precharge_s=x.precharge_s or 0,
                ),
            )
    for e in w.plan.equipment:
        if e.input_uf is not None:
            yield Step(
                f"live:capacitors:{e.id}",
                "Live",
                say("Fill the capacitors of {e} through a resistor before its switch closes", e=e.title),
                say("Empty, they weld contacts"),
            )
