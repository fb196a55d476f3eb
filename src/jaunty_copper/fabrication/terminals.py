"""Every stud with its lugs in their order, and the torque that holds them."""

from typing import NamedTuple

from jaunty_copper.fabrication.cuts import Cut
from jaunty_copper.fabrication.order import torque
from jaunty_copper.network.wiring import Wiring, thread_at
from jaunty_copper.parts.models import Thread


class Stack(NamedTuple):
    """The lugs of one stud.

    Attributes
    ----------
    ref : str
        The terminal.
    lugs : tuple of (str, str)
        Marks of the cables with their size, the thickest first: it lies lowest, on the metal.
    torque_nm : float
        To tighten to.
    own : bool
        Whether the plan gives that torque.
    """

    ref: str
    title: str
    thread: Thread
    material: str
    lugs: tuple[tuple[str, str], ...]
    torque_nm: float
    own: bool


def stacks_of(wiring: Wiring, cuts: tuple[Cut, ...]) -> tuple[Stack, ...]:
    """Every stud that lugs land on, in the order in which the plan names them."""
    plan, parts = wiring.plan, wiring.parts
    lugs: dict[str, list[tuple[float, str, str, Thread]]] = {}
    for c in cuts:
        size = parts.conductors[c.conductor]
        mark = f"{c.run}.{c.number}" if plan.run_by_id[c.run].parallel > 1 else c.run
        for end, angle in ((c.a, plan.run_by_id[c.run].lug_angle_a), (c.b, plan.run_by_id[c.run].lug_angle_b)):
            if end.thread is not None:
                bent = f", {angle}°" if angle else ""
                lugs.setdefault(end.ref, []).append((size.area_mm2, mark, f"{size.label}{bent}", end.thread))
    found = []
    for thing in plan.placed:
        for terminal in thing.terminal_names:
            here = sorted(lugs.get(thing.ref(terminal), ()), key=lambda x: -x[0])
            if here:
                thread = thread_at(plan, parts, thing.ref(terminal)) or here[0][3]
                own = plan.torques.get(f"{thread}:{plan.stud_material}")
                found.append(
                    Stack(
                        thing.ref(terminal), thing.title, thread, plan.stud_material,
                        tuple((mark, words) for _, mark, words, _ in here),
                        own if own is not None else torque(thread, plan.stud_material), own is not None,
                    )
                )  # fmt: skip
    return tuple(found)
