"""What a new item or piece of equipment begins as: a sensible guess that is edited afterwards."""

import contextlib
from collections.abc import Callable, Iterator, Mapping

from pydantic import ValidationError

from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.edits import EditError, add, fresh_id, fresh_name
from jaunty_copper.plan.model import (
    Alternator,
    AnyEquipment,
    Bar,
    BarStud,
    Battery,
    Breaker,
    Charger,
    Chassis,
    ChassisPoint,
    Contactor,
    Converter,
    CurrentLoad,
    Disconnect,
    Fuse,
    Inverter,
    Item,
    Plan,
    PlugConnector,
    Post,
    PowerLoad,
    ResistiveLoad,
    Run,
    Shunt,
    SolarController,
    Splice,
    split_ref,
)

InlineItem = Fuse | Breaker | Disconnect | Contactor | Shunt | PlugConnector | Splice

INLINE_WORDS: Mapping[str, str] = {
    "fuse": say("Fuse"),
    "breaker": say("Breaker"),
    "disconnect": say("Disconnect"),
    "contactor": say("Contactor"),
    "shunt": say("Shunt"),
    "plug": say("Plug connector"),
    "splice": say("Butt splice"),
}
EQUIPMENT_WORDS: Mapping[str, str] = {
    "constant_power": say("Load of constant power"),
    "constant_current": say("Load of constant current"),
    "resistive": say("Resistive load"),
    "inverter": say("Inverter"),
    "charger": say("Charger"),
    "alternator": say("Alternator"),
    "solar": say("Solar controller"),
    "converter": say("Converter"),
}
HUB_WORDS: Mapping[str, str] = {
    "bar": say("Bar"),
    "pair": say("Pair of bars"),
    "distributor": say("Distributor"),
    "post": say("Stud"),
    "chassis": say("Chassis"),
}


def standard_rating(amps: float) -> float:
    """The largest standard device rating at or below a current, A; the smallest if none is.

    Parameters
    ----------
    amps : float
        Current, A.
    """
    return max((r for r in library().device_ratings_a if r <= amps), default=library().device_ratings_a[0])


def new_fuse(plan: Plan, rating_a: float) -> Fuse:
    """A fuse of the family that is usual for its rating.

    Parameters
    ----------
    rating_a : float
        Rated current, A.
    """
    family = "cylindrical-fuse" if rating_a <= 30 else "class-t-fuse"
    return Fuse(id=fresh_id(plan, "F"), family=family, rating_a=rating_a)


def new_inline(plan: Plan, kind: str, amps: float) -> InlineItem:
    """An inline item for a conductor that may carry a current.

    Parameters
    ----------
    kind : str
        One of `INLINE_WORDS`.
    amps : float
        Ampacity of the conductor that it goes into, A.
    """
    rating = standard_rating(amps)
    match kind:
        case "fuse":
            return new_fuse(plan, rating)
        case "breaker":
            return Breaker(
                id=fresh_id(plan, "K"), family="hydraulic-magnetic-breaker", rating_a=min(max(rating, 5), 250)
            )
        case "disconnect":
            return Disconnect(id=fresh_id(plan, "Q"), rating_a=_at_least(amps), max_v=_switched_v(plan))
        case "contactor":
            return Contactor(id=fresh_id(plan, "C"), rating_a=_at_least(amps), max_v=_switched_v(plan), coil_w=5.0)
        case "shunt":
            return Shunt(id=fresh_id(plan, "S"), rating_a=_at_least(amps))
        case "plug":
            return PlugConnector(id=fresh_id(plan, "X"), rating_a=_at_least(amps))
        case "splice":
            return Splice(id=fresh_id(plan, "J"))
    raise EditError(say("there is no kind of item called {kind}", kind=kind))


def _switched_v(plan: Plan) -> float:
    """What a new switch is made for, V: the usual 48, or the next where a system's charging voltage is above that."""
    highest = max((e.nominal_v for e in plan.equipment), default=0.0)
    return 48.0 if highest <= 40.0 else 80.0


def _at_least(amps: float) -> float:
    ratings = library().device_ratings_a
    return next((r for r in ratings if r >= amps), ratings[-1])


def new_equipment(plan: Plan, kind: str, volts: float) -> AnyEquipment:
    """Equipment of a modest size for a system of some nominal voltage.

    Parameters
    ----------
    kind : str
        A kind of equipment, as in the file.
    volts : float
        Nominal voltage of the place, V.

    Raises
    ------
    EditError
        There is none of that kind, or none for that voltage.
    """
    try:
        return _new_equipment(plan, kind, volts)
    except ValidationError:
        raise EditError(
            say("there is no {kind} for {volts:g} V", kind=EQUIPMENT_WORDS[kind].lower(), volts=volts)
        ) from None


def equipment_for(plan: Plan, volts: float) -> Iterator[tuple[str, str, AnyEquipment]]:
    """Equipment of each kind that there is for a nominal voltage, with its kind and the word for that.

    Parameters
    ----------
    volts : float
        Nominal voltage of the place, V.
    """
    for kind, word in EQUIPMENT_WORDS.items():
        with contextlib.suppress(EditError):
            yield kind, word, new_equipment(plan, kind, volts)


def _new_equipment(plan: Plan, kind: str, volts: float) -> AnyEquipment:
    id_, name = fresh_id(plan, "E"), say("New {get}", get=EQUIPMENT_WORDS.get(kind, kind).lower())
    full = round(volts * 1.18, 1)
    match kind:
        case "constant_power":
            return PowerLoad(id=id_, name=name, nominal_v=volts, power_w=50.0)
        case "constant_current":
            return CurrentLoad(id=id_, name=name, nominal_v=volts, current_a=4.0)
        case "resistive":
            return ResistiveLoad(id=id_, name=name, nominal_v=volts, power_w=50.0)
        case "inverter":
            return Inverter(
                id=id_,
                name=name,
                nominal_v=volts,
                power_w=300.0,
                surge_w=600.0,
                cut_out_v=round(0.88 * volts, 1),
                idle_w=8.0,
            )
        case "charger":
            return Charger(id=id_, name=name, nominal_v=volts, set_v=full, current_a=15.0)
        case "alternator":
            return Alternator(id=id_, name=name, nominal_v=volts, set_v=full, current_a=50.0)
        case "solar":
            return SolarController(id=id_, name=name, nominal_v=volts, set_v=full, current_a=20.0, power_w=250.0)
        case "converter":
            out = 12.0 if volts > 12.0 else 24.0
            return Converter(id=id_, name=name, nominal_v=volts, out_nominal_v=out, set_v=out, current_a=10.0)
    raise EditError(say("there is no kind of equipment called {kind}", kind=kind))


def new_hubs(plan: Plan, kind: str) -> tuple[Item, ...]:
    """A bar, a plus and a minus bar, a stud or a chassis that nothing is on yet."""

    def bar(stem: str, name: str) -> Bar:
        names = (x.name for x in plan.items)
        studs = tuple(BarStud(id=f"s{k}") for k in range(1, 5))
        return Bar(id=fresh_id(plan, stem), name=fresh_name(names, name), rating_a=150.0, studs=studs)

    builders: Mapping[str, Callable[[], tuple[Item, ...]]] = {
        "bar": lambda: (bar("P", say("New bar")),),
        "pair": lambda: (bar("P", say("New plus bar")), bar("M", say("New minus bar"))),
        "distributor": lambda: (
            bar("P", say("New distributor")).model_copy(
                update={"rating_a": 100.0, "fuse_family": "blade-fuse", "position_a": 30.0}
            ),
        ),
        "post": lambda: (Post(id=fresh_id(plan, "T"), name=say("New stud")),),
        "chassis": lambda: (
            Chassis(id=fresh_id(plan, "H"), name="Chassis", points=(ChassisPoint(id="p1"), ChassisPoint(id="p2"))),
        ),
    }
    if kind not in builders:
        raise EditError(say("there is no kind of hub called {kind}", kind=kind))
    return builders[kind]()


def add_unit(plan: Plan, beside: str) -> Plan:
    """Add a battery like another one, in parallel with it by two links."""
    unit = plan.by_id.get(beside)
    if not isinstance(unit, Battery):
        raise EditError(say("{beside} is no battery", beside=beside))
    new = unit.model_copy(update={"id": fresh_id(plan, "B"), "name": "", "at_mm": None})
    links: list[Run] = []
    like = next((r for r in plan.runs if {split_ref(r.a)[0], split_ref(r.b)[0]} <= _batteries(plan)), None)
    for terminal in unit.terminals:
        id_ = fresh_id(plan, "L", [r.id for r in links])
        links.append(
            Run(
                id=id_, a=unit.ref(terminal), b=new.ref(terminal), length_m=like.length_m if like else 0.3,
                conductor=like.conductor if like else "mm2-50", insulation=like.insulation if like else "pvc-105",
            )
        )  # fmt: skip
    return add(plan, new, *links)


def _batteries(plan: Plan) -> set[str]:
    return {x.id for x in plan.items if isinstance(x, Battery)}
