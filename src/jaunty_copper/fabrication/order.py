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
    Source,
    split_ref,
)
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
    return Step(
        f"{part.lower()}:{r.id}",
        part,
        say("{word} {r}: {titles} to {titles_2}", word=word, r=r.id, titles=titles[0], titles_2=titles[1]),
        caution,
    )


def _dead(w: Wiring) -> Iterator[Step]:
    grounded, live, _ = _ordered(w)
    for r in sorted(grounded, key=lambda r: _rank(w, r)):
        yield _connect(w, r, "Return")
    for r in sorted(live, key=lambda r: _rank(w, r)):
        yield _connect(w, r, "Feed")
    yield Step("dead:pull", "Feed", say("Pull every lug by hand, then check each stud's torque and mark it"))
    yield Step(
        "dead:short", "Feed", say("Measure between plus and minus of every bar: no short, and no voltage yet"),
        say("Capacitors read as a short for a moment"),
    )  # fmt: skip


def _bank(w: Wiring) -> Iterator[Step]:
    *_, at_bank = _ordered(w)
    main = _main(w, at_bank)
    units = [b for bank in w.banks for b in bank.units]
    if len({(b.soc_percent, b.nominal_v) for b in units}) > 1 or any(len(bank.strings) > 1 for bank in w.banks):
        yield Step(
            "bank:level",
            "Bank",
            say("Bring all units to one voltage before they are joined: measure each, none more than 0.1 V apart"),
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


def _live(w: Wiring) -> Iterator[Step]:
    plan = w.plan
    yield Step(
        "live:polarity", "Live", say("Measure polarity and voltage at the open main switch, then at every open holder")
    )
    for x in plan.items:
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
    caps = [e for e in plan.equipment if e.input_uf is not None]
    for e in caps:
        yield Step(
            f"live:capacitors:{e.id}",
            "Live",
            say("Fill the capacitors of {e} through a resistor before its switch closes", e=e.title),
            say("Empty, they weld contacts"),
        )
    for x in plan.items:
        if isinstance(x, Disconnect | Contactor):
            yield Step(f"live:close:{x.id}", "Live", say("Close {x}, everything else still off", x=x.title))
    for x in plan.items:
        if isinstance(x, Fuse | Breaker):
            word = say("Put in") if isinstance(x, Fuse) else say("Close")
            yield Step(
                f"live:in:{x.id}",
                "Live",
                say(
                    "{word} {x} of {rating_a:g} A; what it feeds must come up alone",
                    word=word,
                    x=x.title,
                    rating_a=x.rating_a,
                ),
            )
    for e in plan.equipment:
        if isinstance(e, Source):
            yield Step(
                f"live:on:{e.id}",
                "Live",
                say(
                    "Let {e} give: its voltage at the bank must rise to {set_v:g} V and no further",
                    e=e.title,
                    set_v=e.set_v,
                ),
            )
    yield Step(
        "live:warm",
        "Live",
        say("After half an hour at full load feel or measure every joint: none warmer than its cable"),
    )
