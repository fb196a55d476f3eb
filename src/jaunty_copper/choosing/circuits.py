"""Circuits whose conductors and device follow their load: sized when they are added, and when the load changes."""

from collections.abc import Iterable, Iterator
from math import floor, isfinite, log10
from typing import Any

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.devices import RANK, Choice, choices, put_device
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.fabrication.materials import device_price
from jaunty_copper.plan import edits
from jaunty_copper.plan.defaults import equipment_for
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import (
    AnyEquipment,
    Bar,
    BarStud,
    Breaker,
    Chassis,
    Converter,
    CurrentLoad,
    Equipment,
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

LOW_VOLTAGE = 0.92
"""Share of the nominal voltage at which a load of constant power is taken to draw its current: a bank under load."""
WARM_OHM_MM2_M = 0.0215
"""Resistivity of copper at about 65 C, for a first size; the study decides."""
OF_DROP = 0.7
"""Share of the permitted drop that a circuit's own conductors may take at first: the rest is lost in the trunk."""
SMALLEST_MM2 = 2.0
"""Thinnest conductor that is proposed: what is thinner breaks; 16 AWG by ABYC E-11, check the edition."""
OF_SUPPLY = 0.2
"""Share of what a converter can give that something new at its output asks for."""
BAR_A = 100.0
"""Rating of a new converter's bars."""
USUAL_M = 2.0
"""Length of conductors where nobody has said how far it is."""
AT_BAR_M = 0.1
"""From a bar to the device that stands next to it."""
OUTPUT_M = 0.3
"""Length of the leads from a new converter to its bars."""
CANDIDATES = 3
"""How many devices are tried at one place, the cheapest first."""
PROVISIONAL = "class-t-fuse"
"""Family that stands in until the place is studied: it comes in every rating up to 600 A."""
TRIES = 5
"""How many thicker sizes are tried without fewer findings."""
HELPED_BY_COPPER = frozenset({
    "ampacity", "voltage_drop", "lowest_voltage", "device_too_large", "device_too_small", "fault_withstand", "slow_opening",
    "conventional_current", "surge_opens",
})  # fmt: skip
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
        raise EditError(f"{hub_id} is no bar, stud or chassis")
    supply = supply_of(plan, hub)
    if supply.back is None:
        raise EditError(f"no bar on the other side of {hub.title}'s system: a circuit needs a return")
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
    if isinstance(equipment, Converter) and not any(added.runs_at.get(ref) for ref in _outlets(equipment)):
        added = with_output_bars(added, equipment)
    return added


def lay_between(
    plan: Plan, equipment: AnyEquipment, at: Place, output: Place | None = None, output_m: float = USUAL_M
) -> Plan:
    """Lay equipment at a place, and a converter's output at another, or at bars of its own; sizes are still to be chosen.

    A device stands next to either place that can feed it: at an output only where a bank does.

    Raises
    ------
    EditError
        Input and output are one place.
    """
    if output is not None and output.plus == at.plus:
        raise EditError(f"{at.text}: it cannot feed where it is fed from")
    device = Fuse(id=edits.fresh_id(plan, "F"), family="blade-fuse", rating_a=10.0, follows_load=True)
    plan = edits.add_circuit(
        plan, at.plus[0], at.minus[0], equipment, device, device_at=at.device_at, follows_load=True,
        plus_terminal=at.plus[1], minus_terminal=at.minus[1], length_m=equipment.distance_m or USUAL_M,
    )  # fmt: skip
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
            id=edits.fresh_id(plan, stem), name=f"{converter.out_nominal_v:g} V {word} bar", rating_a=BAR_A,
            studs=tuple(BarStud(id=f"s{k}") for k in range(1, 5)),
        )  # fmt: skip
        run = Run(
            id=edits.fresh_id(plan, "W"), a=converter.ref(terminal), b=bar.ref("s1"), length_m=OUTPUT_M, follows_load=True
        )  # fmt: skip
        plan = edits.add(plan, bar, run)
    return plan


def change(plan: Plan, id_: str, **fields: Any) -> Plan:
    """Change fields of a thing; a circuit that follows its load is sized anew where it is touched.

    Raises
    ------
    EditError
        As `edits.change`.
    """
    changed = edits.change(plan, id_, **fields)
    if edits.SIZES & fields.keys() or fields.keys() <= {"name"} or not _any_follows(changed):
        return changed
    thing = changed.by_id.get(id_)
    if isinstance(thing, Equipment):
        return sized(changed, id_)
    run = changed.run_by_id.get(id_)
    if run is not None:
        for e in changed.equipment:
            if any(run.id in (r.id for r in chain(changed, ref)) for ref in e.port):
                return sized(changed, e.id)
    return changed


def change_field(plan: Plan, id_: str, field: str, value: Any) -> Plan:
    """Change one field by its name, as `change`."""
    return change(plan, id_, **{field: value})


def _any_follows(plan: Plan) -> bool:
    return any(r.follows_load for r in plan.runs) or any(getattr(x, "follows_load", False) for x in plan.items)


def sized(plan: Plan, equipment_id: str) -> Plan:
    """Give what follows a load its sizes; what a person chose stays as it is.

    The smallest conductors by ampacity and drop, and the cheapest device that fits there, from a closed form
    first; then thicker ones while the rules find something that copper helps, and that helps.
    """
    e = plan.by_id[equipment_id]
    assert isinstance(e, Equipment)
    runs = [r.id for ref in e.port for r in chain(plan, ref) if r.follows_load]
    devices = [x.id for x in _devices(plan, e.port) if x.follows_load]
    out = [r.id for ref in _outlets(e) for r in chain(plan, ref) if r.follows_load]
    at_output = [x.id for x in _devices(plan, _outlets(e)) if x.follows_load]
    if not runs and not devices and not out:
        return plan
    case = Assessment(plan).case
    share = max(case.code.limit("continuous_share"), 1.0)
    if isinstance(e, Converter):
        gives = e.current_a * share
        plan = _first_sizes(case, plan, e, _outlets(e), (out, at_output), (e.current_a, gives))
        plan = _with_devices(Assessment(plan), plan, at_output, gives)[1]
    needs = rated_current(e) * share
    plan = _first_sizes(case, plan, e, e.port, (runs, devices), (rated_current(e), needs))
    own = {e.id, *runs, *devices}
    tried: list[tuple[int, Plan]] = []
    while True:
        known, plan, unfit = _with_devices(Assessment(plan), plan, devices, needs)
        wrong = unfit + sum(f.place in own and f.rule.id in HELPED_BY_COPPER for f in known.findings)
        tried.append((wrong, plan))
        best = min(range(len(tried)), key=lambda k: tried[k][0])
        give_up = tried[best][0] == 0 or len(tried) - best > TRIES
        thicker = None if give_up else _thicker(known.case, plan, runs)
        if thicker is None:
            return tried[best][1]
        plan = thicker


def _outlets(e: Equipment) -> tuple[str, ...]:
    """Terminals at which a converter gives."""
    return (e.ref("out_plus"), e.ref("out_minus")) if isinstance(e, Converter) else ()


def _devices(plan: Plan, port: Iterable[str]) -> Iterator[Fuse | Breaker]:
    ends = {split_ref(ref)[0] for terminal in port for r in chain(plan, terminal) for ref in (r.a, r.b)}
    for x in plan.items:
        if x.id in ends and isinstance(x, Fuse | Breaker):
            yield x


def rated_current(e: Equipment) -> float:
    """Most a piece of equipment draws or gives for long, A, by its own figures."""
    low = LOW_VOLTAGE * e.nominal_v
    match e:
        case Inverter():
            return (e.power_w / e.efficiency + e.idle_w) / max(low, e.cut_out_v or 0.0)
        case Converter():
            return (e.set_v * e.current_a / e.efficiency + e.idle_w) / low
        case CurrentLoad() | Source():
            return e.current_a
    return float(getattr(e, "power_w", 0.0)) / low


def _first_sizes(
    case: Case,
    plan: Plan,
    e: Equipment,
    port: Iterable[str],
    follow: tuple[list[str], list[str]],
    flows: tuple[float, float],
) -> Plan:
    """Sizes by a closed form, and devices that carry the load: a smaller one's resistance would hide what flows.

    Parameters
    ----------
    port : iterable of str
        Terminals of the port whose conductors they are.
    follow : (list of str, list of str)
        The runs and the devices whose sizes follow the load.
    flows : (float, float)
        What flows there, and what a device must be rated for, A.
    """
    (ids, devices), (amps, needs) = follow, flows
    if devices:
        # A device stands between: the conductor must permit the next rating that carries the load.
        needs = next((r for r in case.parts.device_ratings_a if r >= needs), needs)
    for id_ in devices:
        plan = edits.change(put_device(plan, id_, "fuse", PROVISIONAL, needs), id_, follows_load=True)
    both = sum(r.length_m for ref in port for r in chain(plan, ref))
    may_lose = OF_DROP * case.drop_limit(e)[0] / 100.0 * e.nominal_v
    area = WARM_OHM_MM2_M * both * amps / max(may_lose, 1e-6)
    return _bearing(case, plan, ids, needs, max(area, SMALLEST_MM2))


def _bearing(case: Case, plan: Plan, ids: list[str], needs: float, area_mm2: float) -> Plan:
    """The thinnest size for each of some runs that may carry a current and has some section."""
    for id_ in ids:
        sizes = case.sizes_of(plan.run_by_id[id_])
        fits = next((s.id for s, able in sizes if able >= needs and s.area_mm2 >= area_mm2), sizes[-1][0].id)
        plan = edits.change(plan, id_, conductor=fits, follows_load=True)
    return plan


def _thicker(case: Case, plan: Plan, ids: list[str]) -> Plan | None:
    """The next size for each of some runs; None where the thickest is laid already."""
    sizes = {id_: case.smallest_conductor(plan.run_by_id[id_], 0.0) for id_ in ids}
    if not sizes or None in sizes.values():
        return None
    for id_, size in sizes.items():
        plan = edits.change(plan, id_, conductor=size, follows_load=True)
    return plan


def _with_devices(known: Assessment, plan: Plan, ids: list[str], needs: float) -> tuple[Assessment, Plan, int]:
    """The cheapest device that fits each place, assessed with it in place.

    Returns
    -------
    Assessment, Plan, int
        The plan with them, and at how many places none fits: what stands there stays.
    """
    unfit = 0
    for id_ in ids:
        fit = [c for c in choices(known.case, id_, low_a=needs) if c.fits and c.rating_a is not None]
        unfit += not fit
        for c in sorted(fit, key=_cheapest)[:CANDIDATES]:
            assert c.rating_a is not None
            fitted = put_device(plan, id_, c.family.kind, c.family.id, c.rating_a)
            fitted = edits.change(fitted, id_, follows_load=True)
            if fitted == plan:
                break
            # With its own resistance in place another current may flow.
            then = Assessment(fitted)
            if interrupting(then.case, id_).is_enough:
                known, plan = then, fitted
                break
    return known, plan, unfit


def _cheapest(c: Choice) -> tuple[int, float]:
    assert c.rating_a is not None
    return RANK[c.selective], device_price(c.family, c.rating_a)
