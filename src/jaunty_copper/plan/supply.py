"""What feeds a hub: which system it belongs to, on which side, and where a circuit that leaves it comes back to."""

from collections.abc import Iterator
from math import inf
from typing import Literal, NamedTuple

from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.banks import Bank, banks_of
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Breaker,
    Chassis,
    Converter,
    Equipment,
    Fuse,
    Plan,
    Post,
    Source,
    split_ref,
)
from jaunty_copper.plan.topology import Topology, topology

Side = Literal["plus", "minus"]
Hub = Bar | Chassis | Post
OTHER_V = 0.25
"""Share of its nominal voltage by which equipment may be off: wide enough that 12.8 V units are a 12 V system, and narrow
enough to tell 12 from 24 V; a convention of the program."""
OTHER: dict[Side, Side] = {"plus": "minus", "minus": "plus"}


class Supply(NamedTuple):
    """What a circuit added at a hub finds there.

    Attributes
    ----------
    volts : float
        Nominal voltage of the system.
    side : str
        Whether the hub is on its plus or its minus.
    back : str or None
        Id of the hub on the other side where most comes back to; None where there is none.
    device_at : str
        The side on which overcurrent devices stand: minus where plus is the earthed pole.
    most_w : float
        What the system can give for long, as far as a converter limits it, W; inf for a bank.
    charge_a : float
        What sources may still be added by the units' charge limits, A; 0 where there is no bank.
    bank : str or None
        Id of the bank behind it.
    fed : bool
        Whether anything is known of its system: a bank, a converter, or equipment that says its voltage.
    """

    volts: float
    side: Side
    back: str | None
    device_at: Side
    most_w: float
    charge_a: float
    bank: str | None = None
    fed: bool = True


class Place(NamedTuple):
    """Where one side of equipment can be joined: a pair of hubs, or the posts of a bank.

    Attributes
    ----------
    plus, minus : (str, str or None)
        What it is joined to, and at which of its terminals; any free one where none is said.
    device_at : str
        The side on which its device stands: minus where plus is the earthed pole.
    rail : int
        Two places of one rail are one supply; two banks with an open cross-over between them are two.
    bank : str or None
        Id of the bank that feeds it.
    """

    text: str
    volts: float
    plus: tuple[str, str | None]
    minus: tuple[str, str | None]
    device_at: Side
    rail: int
    bank: str | None

    def fits(self, volts: float) -> bool:
        """Whether it has the voltage that equipment is for.

        Parameters
        ----------
        volts : float
            Nominal voltage of the equipment, V.
        """
        return is_voltage_for(self.volts, volts)


def is_voltage_for(volts: float, nominal_v: float) -> bool:
    """Whether equipment of a nominal voltage can stand in a system of another, V.

    Parameters
    ----------
    volts : float
        Of the system, V.
    nominal_v : float
        Of the equipment, V.
    """
    return abs(volts - nominal_v) <= OTHER_V * nominal_v


def places(plan: Plan) -> Iterator[Place]:
    """Everywhere that equipment can be joined: each pair of hubs, those of circuits first, and the posts of each bank."""
    joined = topology(plan)
    banks = banks_of(joined)
    for hub in sorted((x for x in plan.items if isinstance(x, Bar)), key=lambda x: joins_units(plan, x)):
        s = _supply_of(joined, banks, hub)
        if s.fed and s.back is not None and s.side == "plus":
            text = say("{hub} and {back}, {volts:g} V", hub=hub.title, back=plan.by_id[s.back].title, volts=s.volts)
            rail = joined.own_rail_of(hub.ref(hub.terminal_names[0]))
            yield Place(text, s.volts, (hub.id, None), (s.back, None), s.device_at, rail, s.bank)
    earthed = {joined.own_rail_of(x.ref(t)) for x in plan.items if isinstance(x, Chassis) for t in x.terminal_names}
    for bank in banks:
        if not (bank.takeoffs["plus"] and bank.takeoffs["minus"]):
            continue
        plus, minus = (split_ref(bank.takeoffs[side][0]) for side in ("plus", "minus"))
        if not isinstance(plan.by_id[plus[0]], Battery):
            continue
        text = say("the posts of {by_id}, {nominal_v:g} V", by_id=plan.by_id[plus[0]].title, nominal_v=bank.nominal_v)
        rail = joined.own_rail_of(bank.takeoffs["plus"][0])
        yield Place(text, bank.nominal_v, plus, minus, "minus" if rail in earthed else "plus", rail, bank.id)


def supply_of(plan: Plan, hub: Hub) -> Supply:
    """Find what feeds a hub: the bank of its rail, else a converter, else whatever stands nearest."""
    joined = topology(plan)
    return _supply_of(joined, banks_of(joined), hub)


def _supply_of(joined: Topology, banks: tuple[Bank, ...], hub: Hub) -> Supply:
    own = joined.own_rail_of(hub.ref(hub.terminal_names[0]))
    for bank in banks:
        rails = {side: joined.own_rail_of(bank.takeoffs[side][0]) for side in OTHER}
        side = next((s for s, rail in rails.items() if rail == own), None)
        if side is not None:
            found = _supply(
                joined, hub, bank.nominal_v, side, rails[OTHER[side]], inf, _charge_left(joined, bank, rails)
            )
            return found._replace(bank=bank.id)
    equipment = [(e, *_ports(e)) for e in joined.plan.equipment]
    # A converter's output feeds; any other port is only a hint of the voltage there.
    for e, volts, plus, minus, feeds in sorted(equipment, key=lambda found: not found[-1]):
        rails = {"plus": joined.own_rail_of(plus), "minus": joined.own_rail_of(minus)}
        side = next((s for s, rail in rails.items() if rail == own), None)
        if side is not None:
            most = e.set_v * e.current_a if feeds and isinstance(e, Converter) else inf
            return _supply(joined, hub, volts, side, rails[OTHER[side]], most, 0.0)
    return _supply(joined, hub, _usual_volts(joined.plan), "plus", None, inf, 0.0)._replace(fed=False)


def _ports(e: Equipment) -> tuple[float, str, str, bool]:
    """Voltage, plus, minus and whether it feeds, of the port that tells most."""
    if isinstance(e, Converter):
        return e.out_nominal_v, e.ref("out_plus"), e.ref("out_minus"), True
    plus, minus = e.port
    return e.nominal_v, plus, minus, False


def _usual_volts(plan: Plan) -> float:
    return next((x.nominal_v for x in (*plan.equipment, *plan.items) if isinstance(x, Equipment | Battery)), 12.0)


def _supply(
    joined: Topology, hub: Hub, volts: float, side: Side, back_rail: int | None, most_w: float, charge_a: float
) -> Supply:
    hubs = [x for x in joined.plan.items if isinstance(x, Bar | Chassis) and x.id != hub.id]
    if back_rail is not None:
        hubs = [x for x in hubs if joined.own_rail_of(x.ref(x.terminal_names[0])) == back_rail]
    # A bar that joins the units of a bank stands before its shunt and its main device: circuits come after them.
    back = max(
        hubs,
        key=lambda x: (not joins_units(joined.plan, x), _twins(hub, x), _circuits_at(joined.plan, x)),
        default=None,
    )
    device_at: Side = "plus"
    if back is not None:
        poles = {side: hub, OTHER[side]: back}
        device_at = (
            "minus" if _devices_at(joined.plan, poles["minus"]) > _devices_at(joined.plan, poles["plus"]) else "plus"
        )
    return Supply(volts, side, back.id if back is not None else None, device_at, most_w, charge_a)


def _beyond(plan: Plan, hub: Hub) -> list[str]:
    """Ids of what the runs on a hub lead to."""
    refs = (
        run.b if run.a == hub.ref(t) else run.a for t in hub.terminal_names for run in plan.runs_at.get(hub.ref(t), ())
    )
    return [split_ref(ref)[0] for ref in refs]


def _twins(hub: Hub, other: Hub) -> bool:
    """Whether two hubs are called alike but for their pole: "Far plus bar" and "Far minus bar"."""
    one, two = hub.name.lower(), other.name.lower()
    return (
        one != two
        and {"plus", "minus"} <= {*one.split(), *two.split()}
        and one.replace("plus", "minus") == two.replace("plus", "minus")
    )


def joins_units(plan: Plan, hub: Hub) -> bool:
    """Whether several units of a bank are led to a hub, each by its own lead: a bar of the bank, not of its circuits."""
    units = 0
    for terminal in hub.terminal_names:
        for run in plan.runs_at.get(hub.ref(terminal), ()):
            far = run.b if run.a == hub.ref(terminal) else run.a
            thing = plan.by_id[split_ref(far)[0]]
            if isinstance(thing, Fuse | Breaker):
                ends = [r for t in thing.terminal_names for r in plan.runs_at.get(thing.ref(t), ()) if r is not run]
                thing = next(
                    (plan.by_id[split_ref(x)[0]] for r in ends for x in (r.a, r.b) if split_ref(x)[0] != thing.id),
                    thing,
                )
            units += isinstance(thing, Battery)
    return units > 1


def _circuits_at(plan: Plan, hub: Hub) -> int:
    return sum(isinstance(plan.by_id[id_], Equipment) for id_ in _beyond(plan, hub))


def _devices_at(plan: Plan, hub: Hub) -> int:
    return sum(isinstance(plan.by_id[id_], Fuse | Breaker) for id_ in _beyond(plan, hub))


def _charge_left(joined: Topology, bank: Bank, rails: dict[Side, int]) -> float:
    """What the units may take beyond the sources that are there, A."""
    chemistries = library().with_own(joined.plan.parts).battery_chemistries
    may = sum(
        u.max_charge_a or chemistries[u.chemistry].max_charge_c * u.capacity_ah
        for u in (bank.by_id[i] for i in bank.outlets)
    )
    gives = sum(
        e.current_a
        for e in joined.plan.equipment
        if isinstance(e, Source) and joined.own_rail_of(e.ref("plus")) == rails["plus"]
    )
    return max(may - gives, 0.0)
