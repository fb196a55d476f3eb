"""Edits of single conductors: lay one, aim an end elsewhere, swap what sits in two places."""

from typing import Any, Literal

from jaunty_copper.language import say
from jaunty_copper.plan.edits.basic import EditError, _put, _rebuilt, _with, checked, find, fresh_id
from jaunty_copper.plan.edits.circuits import free_terminal
from jaunty_copper.plan.model import Bar, Chassis, Inline, Plan, Post, Run


def connect(plan: Plan, a: str, b: str, length_m: float = 1.0, **fields: Any) -> tuple[Plan, str]:
    """Lay a conductor between two terminals; return its id too.

    Parameters
    ----------
    a, b : str
        Terminals; of a bar, post or chassis the id alone for its first free terminal, or a new stud.
    length_m : float
        One way, m.
    fields
        Others of the run.

    Raises
    ------
    EditError
        There is no such terminal, or both are the same.
    """
    plan, start = _terminal(plan, a)
    plan, end = _terminal(plan, b)
    if start == end:
        raise EditError(say("a conductor from {start} must end elsewhere", start=start))
    id_ = fresh_id(plan, "W")
    run = _rebuilt(Run(id=id_, a=start, b=end, length_m=1.0), {"length_m": length_m, **fields})
    return checked(_with(plan, runs=(*plan.runs, run))), id_


def _terminal(plan: Plan, ref: str) -> tuple[Plan, str]:
    id_, _, terminal = ref.partition(".")
    thing = plan.by_id.get(id_)
    if thing is None or (terminal and terminal not in thing.terminal_names):
        raise EditError(say("there is no terminal {ref}", ref=ref))
    if terminal:
        return plan, ref
    if not isinstance(thing, Bar | Post | Chassis):
        raise EditError(
            say(
                "{thing} has several terminals: {terminal_names}",
                thing=thing.title,
                terminal_names=", ".join(thing.terminal_names),
            )
        )
    return free_terminal(plan, thing, None)


def aim(plan: Plan, run_id: str, end: Literal["a", "b"], to: str) -> Plan:
    """Lead one end of a conductor to another terminal; what was measured with it is forgotten."""
    field, index = find(plan, run_id)
    if field != "runs":
        raise EditError(say("{run_id} is no run", run_id=run_id))
    plan, ref = _terminal(plan, to)
    changes = {end: ref, f"lug_{end}": None, f"joint_{end}_ohm": None, "measured_ohm": None}
    return checked(_put(plan, field, index, _rebuilt(plan.runs[index], changes)))


def swap_studs(plan: Plan, bar_id: str, one: str, other: str) -> Plan:
    """Let two studs of a bar change places, with what is on them."""
    field, index = find(plan, bar_id)
    bar = getattr(plan, field)[index]
    if not isinstance(bar, Bar) or not {one, other} <= set(bar.terminal_names):
        raise EditError(say("{bar_id} has no studs {one} and {other}", bar_id=bar_id, one=one, other=other))
    studs = list(bar.studs)
    p, q = (bar.terminal_names.index(name) for name in (one, other))
    studs[p], studs[q] = studs[q], studs[p]
    return _put(plan, field, index, bar.model_copy(update={"studs": tuple(studs)}))


def swap_items(plan: Plan, one: str, other: str) -> Plan:
    """Let two fuses, switches or the like change places."""
    pair = [plan.by_id.get(id_) for id_ in (one, other)]
    if one == other or not all(isinstance(x, Inline) for x in pair):
        raise EditError(say("{one} and {other} do not both sit in conductors", one=one, other=other))
    to = {f"{p}.{t}": f"{q}.{t}" for p, q in ((one, other), (other, one)) for t in ("a", "b")}
    runs = tuple(
        _rebuilt(r, {"a": to.get(r.a, r.a), "b": to.get(r.b, r.b)}) if {r.a, r.b} & to.keys() else r for r in plan.runs
    )
    return checked(_with(plan, runs=runs))
