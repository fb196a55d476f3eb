"""Circuits laid where they are asked for, with conductors and devices that follow their load."""

from collections.abc import Iterator
from math import floor, isfinite, log10

from jaunty_copper.choosing.sizing import sized
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.defaults import equipment_for, new_inline
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import (
    Alternator,
    AnyEquipment,
    Bar,
    BarStud,
    Chassis,
    Converter,
    CurrentLoad,
    Fuse,
    Inverter,
    Plan,
    Post,
    PowerLoad,
    ResistiveLoad,
    Run,
    Source,
    split_ref,
)
from jaunty_copper.plan.supply import OTHER, Hub, Place, Side, supply_of
from jaunty_copper.plan.topology import chain

OF_SUPPLY = 0.2
"""Share of what a converter can give that something new at its output asks for."""
BAR_A = 100.0
"""Rating of a new converter's bars."""
USUAL_M = 2.0
"""Length of conductors where nobody has said how far it is."""
AT_BAR_M = 0.1
"""From a bar to the device that stands next to it."""
CARRIES = 1.25
"""Times a source's current that its switch is made for, at least."""
OUTPUT_M = 0.3
"""Length of the leads from a new converter to its bars."""
LEAST_W, LEAST_A = 1.0, 0.1
"""What a supply must still give for anything to be offered there."""


def that_fit(plan: Plan, hub: Hub) -> Iterator[tuple[str, AnyEquipment]]:
    """What can be added at a hub, of a size that its supply allows: its kind in words, and the equipment.

    Sources only where there is a bank to charge; a converter only where its input lasts.
    """
    supply = supply_of(plan, hub)
    if supply.back is None:
        return
    if supply.most_w < LEAST_W:
        return
    for _, word, e in equipment_for(plan, supply.volts):
        if isinstance(e, Source):
            if supply.charge_a < LEAST_A:
                continue
            e = e.model_copy(update={"current_a": _round_down(min(e.current_a, supply.charge_a))})
        elif isinstance(e, Inverter | PowerLoad | ResistiveLoad) and isfinite(supply.most_w):
            power = _round_down(min(e.power_w, OF_SUPPLY * supply.most_w))
            e = e.model_copy(update={"power_w": power, "surge_w": 2.0 * power if e.surge_w is not None else None})
        elif isinstance(e, Converter | CurrentLoad) and isfinite(supply.most_w):
            volts = e.set_v if isinstance(e, Converter) else supply.volts
            e = e.model_copy(update={"current_a": _round_down(min(e.current_a, OF_SUPPLY * supply.most_w / volts))})
        yield word, e


def _round_down(value: float) -> float:
    """A figure of two digits that is not larger."""
    step = 10.0 ** (floor(log10(value)) - 1)
    return round(floor(value / step + 1e-9) * step, 6)


def add_circuit(plan: Plan, hub_id: str, equipment: AnyEquipment, terminal: str | None = None) -> Plan:
    """Add equipment at a hub with a device and a pair of conductors that follow its load, sized for the place.

    Equipment that is in the plan already, with nothing on it, is taken as it is.

    Parameters
    ----------
    hub_id : str
        The hub to begin at, on either side of its system; the other end is found.
    terminal : str, optional
        Its stud; the first free one, or a new one, where not given.

    Raises
    ------
    EditError
        There is nowhere for the circuit to come back to.
    """
    return sized(lay_circuit(plan, hub_id, equipment, terminal), equipment.id)


def lay_circuit(plan: Plan, hub_id: str, equipment: AnyEquipment, terminal: str | None = None) -> Plan:
    """As `add_circuit`, with sizes that are still to be chosen."""
    hub = plan.by_id.get(hub_id)
    if not isinstance(hub, Bar | Post | Chassis):
        raise EditError(say("{hub_id} is no bar, stud or chassis", hub_id=hub_id))
    supply = supply_of(plan, hub)
    if supply.back is None:
        raise EditError(say("no bar on the other side of {hub}'s system: a circuit needs a return", hub=hub.title))
    ends = {supply.side: hub_id, OTHER[supply.side]: supply.back}
    device = Fuse(id=edits.fresh_id(plan, "F"), family="blade-fuse", rating_a=10.0, follows_load=True)
    added = edits.add_circuit(
        plan, ends["plus"], ends["minus"], equipment, device, device_at=supply.device_at, follows_load=True,
        plus_terminal=terminal if supply.side == "plus" else None,
        minus_terminal=terminal if supply.side == "minus" else None,
        length_m=equipment.distance_m or USUAL_M,
    )  # fmt: skip
    if plan.floating:
        added = _with_both_poles(added, equipment, OTHER[supply.device_at])
    if isinstance(equipment, Converter) and not any(
        added.runs_at.get(ref) for ref in map(equipment.ref, ("out_plus", "out_minus"))
    ):
        added = with_output_bars(added, equipment)
    return added


def lay_between(
    plan: Plan, equipment: AnyEquipment, at: Place, output: Place | None = None, output_m: float = USUAL_M
) -> Plan:
    """Lay equipment at a place, and a converter's output at another, or at bars of its own; sizes are still to be chosen.

    A device stands next to either place that can feed it: at an output only where a bank does.

    Parameters
    ----------
    output_m : float
        Length of the converter's output, one way, m.

    Raises
    ------
    EditError
        Input and output are one place.
    """
    if output is not None and output.rail == at.rail:
        raise EditError(say("{at}: it cannot feed where it is fed from", at=at.text))
    device = Fuse(id=edits.fresh_id(plan, "F"), family="blade-fuse", rating_a=10.0, follows_load=True)
    plan = edits.add_circuit(
        plan, at.plus[0], at.minus[0], equipment, device, device_at=at.device_at, follows_load=True,
        plus_terminal=at.plus[1], minus_terminal=at.minus[1], length_m=equipment.distance_m or USUAL_M,
    )  # fmt: skip
    if isinstance(equipment, Source) and not isinstance(equipment, Alternator):
        switch = new_inline(plan, "disconnect", CARRIES * equipment.current_a)
        plan = edits.insert_far(plan, equipment.ref(at.device_at), switch)
    if plan.floating:
        plan = _with_both_poles(plan, equipment, OTHER[at.device_at])
    if not isinstance(equipment, Converter):
        return plan
    return with_output_bars(plan, equipment) if output is None else _with_output(plan, equipment, output, output_m)


def _with_output(plan: Plan, converter: Converter, place: Place, length_m: float) -> Plan:
    """Lead a converter's output to a place; where a bank stands behind it, with a device next to that."""
    runs: dict[Side, str] = {}
    for side, (hub, terminal) in {"plus": place.plus, "minus": place.minus}.items():
        plan, end = edits.free_terminal(plan, plan.by_id[hub], terminal)
        run = Run(
            id=edits.fresh_id(plan, "W"), a=end, b=converter.ref(f"out_{side}"), length_m=length_m, follows_load=True
        )
        runs[side] = run.id  # type: ignore[index]
        plan = edits.add(plan, run)
    poles = (place.device_at, OTHER[place.device_at]) if plan.floating else (place.device_at,)
    for side in poles if place.bank is not None else ():
        device = Fuse(id=edits.fresh_id(plan, "F"), family="blade-fuse", rating_a=10.0, follows_load=True)
        plan = edits.insert_inline(plan, runs[side], device, min(AT_BAR_M, length_m / 2))
    return plan


def _with_both_poles(plan: Plan, e: AnyEquipment, pole: Side) -> Plan:
    """Put a device into the other pole of a new circuit too, next to its bar."""
    run = chain(plan, e.port[0] if pole == "plus" else e.port[1])[-1]
    device = Fuse(id=edits.fresh_id(plan, "F"), family="blade-fuse", rating_a=10.0, follows_load=True)
    at_equipment = split_ref(run.a)[0] == e.id
    near = min(AT_BAR_M, run.length_m / 2)
    return edits.insert_inline(plan, run.id, device, run.length_m - near if at_equipment else near)


def with_output_bars(plan: Plan, converter: Converter) -> Plan:
    """Give a converter a plus and a minus bar of its own to add circuits to."""
    for terminal, stem, word in (("out_plus", "P", "plus"), ("out_minus", "M", "minus")):
        bar = Bar(
            id=edits.fresh_id(plan, stem), name=say('{out_nominal_v:g} V {word} bar', out_nominal_v=converter.out_nominal_v, word=word), rating_a=BAR_A,
            studs=tuple(BarStud(id=f"s{k}") for k in range(1, 5)),
        )  # fmt: skip
        run = Run(
            id=edits.fresh_id(plan, "W"), a=converter.ref(terminal), b=bar.ref("s1"), length_m=OUTPUT_M, follows_load=True
        )  # fmt: skip
        plan = edits.add(plan, bar, run)
    return plan
