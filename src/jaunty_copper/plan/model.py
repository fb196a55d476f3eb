"""The plan: what a person decided. Immutable; nothing computed is stored in it.

Quantities carry their unit in the field's name. A terminal is written ``item.terminal``.
"""

from collections.abc import Iterator
from datetime import date
from functools import cached_property
from pathlib import PurePosixPath
from typing import Annotated, ClassVar, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from jaunty_copper.parts.models import NotNegative, OwnParts, PartId, Positive, Thread, no_dust
from jaunty_copper.plan.text import one_line

VERSION: Literal[1] = 1
"""Of the file format. A change that an older program would misread raises it by one."""

Id = Annotated[str, Field(pattern=r"^[A-Za-z][A-Za-z0-9_-]*$", max_length=40)]
TerminalRef = Annotated[str, Field(pattern=r"^[A-Za-z][A-Za-z0-9_-]*\.[A-Za-z0-9_-]+$", max_length=81)]
Text = Annotated[str, Field(max_length=200)]
Share = Annotated[float, Field(ge=1e-4, le=1)]
Percent = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Millimetres = Annotated[float, Field(ge=-1e5, le=1e5, allow_inf_nan=False)]
Hours = Annotated[float, Field(ge=0, le=24, allow_inf_nan=False)]
Celsius = Annotated[float, Field(ge=-50, le=150, allow_inf_nan=False)]
Volts = Annotated[float, Field(ge=0.01, le=1000, allow_inf_nan=False)]
Ohm = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False), AfterValidator(no_dust)]


def _on_the_calendar(day: str) -> str:
    try:
        date.fromisoformat(day)
    except ValueError:
        raise ValueError(f"the calendar has no day {day}") from None
    return day


Day = Annotated[str, Field(pattern=r"^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$"), AfterValidator(_on_the_calendar)]
Angle = Literal[0, 45, 90]
Measured = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]


def _relative(path: str) -> str:
    """A picture's place seen from the plan's own file, so that both can be moved together."""
    pure = PurePosixPath(path)
    if pure.is_absolute() or ".." in pure.parts or "\\" in path or ":" in path:
        raise ValueError("a picture lies beside the plan or below it: give its path from there, with /")
    return path


class Model(BaseModel):
    """Common to all parts of a plan: frozen, and unknown fields are errors."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True, ignored_types=(cached_property,))


class Zone(Model):
    """A place with an air temperature and hazards of its own."""

    id: Id
    name: Text = ""
    ambient_c: Celsius = 30.0
    engine_space: bool = Field(False, description="Hot by an engine: the practice's engine-space factor applies")
    ventilated: bool = Field(False, description="To the outside, so that hydrogen cannot gather")
    ignition_hazard: bool = Field(
        False, description="Fuel vapour or hydrogen can gather here: only ignition-protected things may stand in it"
    )

    @property
    def title(self) -> str:
        """Its name, or its id where it has none."""
        return one_line(self.name) or self.id


class Named(Model):
    """Something with terminals that stands on the map."""

    id: Id
    name: Text = ""
    zone: Id | None = None

    terminals: ClassVar[tuple[str, ...]] = ("a", "b")

    @property
    def terminal_names(self) -> tuple[str, ...]:
        """Names of its terminals."""
        return self.terminals

    @property
    def title(self) -> str:
        """Its name, or its id where it has none."""
        return one_line(self.name) or self.id

    def ref(self, terminal: str) -> str:
        """How a run names one of its terminals."""
        return f"{self.id}.{terminal}"


class Battery(Named):
    """One battery unit."""

    kind: Literal["battery"] = "battery"
    chemistry: PartId
    nominal_v: Volts = 12.0
    capacity_ah: Positive = Field(description="As sold")
    capacity_share: Share = Field(1.0, description="How much of that it still holds")
    internal_ohm: Ohm | None = Field(None, description="From its data sheet or measured; else the chemistry's")
    soc_percent: Percent | None = Field(None, description="Its own charge, where it differs from the scenario's")
    max_discharge_a: Positive | None = Field(None, description="Continuous; else the chemistry's")
    max_charge_a: Positive | None = None
    short_circuit_a: Positive | None = Field(None, description="From its data sheet")
    cranking_a: Positive | None = Field(None, description="Cold cranking amperes, of a lead-acid unit")
    make: Text = Field("", description="Make and model, to tell units apart that are not alike")
    bought: Annotated[str, Field(pattern=r"^\d{4}(-\d{2})?$")] | None = Field(None, description="Year, or year-month")
    thread: Thread = "M8"
    width_mm: Positive = Field(300.0, description="Along the side with the terminals")
    depth_mm: Positive = 180.0
    at_mm: tuple[Millimetres, Millimetres] | None = Field(
        None, description="Where its left front corner stands, to the right and to the back"
    )
    turned: bool = Field(False, description="Its plus terminal is on the right")

    terminals: ClassVar[tuple[str, ...]] = ("plus", "minus")


class BarStud(Model):
    """One stud of a bar."""

    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]+$", max_length=40)]
    thread: Thread = "M8"


class Bar(Named):
    """A busbar with studs in order."""

    kind: Literal["bar"] = "bar"
    studs: tuple[BarStud, ...] = Field(min_length=1)
    spacing_mm: Positive = 25.0
    width_mm: Positive = 20.0
    thickness_mm: Positive = 5.0
    rating_a: Positive
    gap_mm: Positive | None = Field(
        None, description="To the middle of the other pole's bar; where given, the force of a short is checked"
    )
    support_mm: Positive | None = Field(None, description="Between its supports; else its whole length")

    @property
    def terminal_names(self) -> tuple[str, ...]:
        """Its studs, in order."""
        return tuple(s.id for s in self.studs)


class Inline(Named):
    """A two-terminal thing in a conductor."""

    measured_ohm: Ohm | None = Field(None, description="Replaces the computed resistance")
    thread: Thread | None = Field(None, description="Of its studs; else as usual for its family")
    terminal_c: Annotated[float, Field(gt=40, le=300)] | None = Field(
        None, description="Temperature its terminals are rated for; else the practice's"
    )
    ignition_protected: bool | None = Field(None, description="Else as usual for its family")


class Fuse(Inline):
    """A fuse."""

    kind: Literal["fuse"] = "fuse"
    family: PartId
    rating_a: Positive
    follows_load: bool = Field(False, description="Its size follows the load's power until a person chooses one")


class Breaker(Inline):
    """A breaker; terminal a is its line side."""

    kind: Literal["breaker"] = "breaker"
    family: PartId
    rating_a: Positive
    closed: bool = True
    follows_load: bool = Field(False, description="Its size follows the load's power until a person chooses one")


class Disconnect(Inline):
    """A manual switch."""

    kind: Literal["disconnect"] = "disconnect"
    rating_a: Positive = Field(description="Continuous")
    intermittent_a: Positive | None = None
    making_a: Positive | None = Field(None, description="Most it may close onto")
    short_time_a: Positive | None = Field(None, description="Most it bears for a second while closed")
    max_v: Volts = 48.0
    closed: bool = True


class Contactor(Inline):
    """A remotely driven switch."""

    kind: Literal["contactor"] = "contactor"
    rating_a: Positive | None = Field(None, description="Continuous; none where it is rated for short duty only")
    intermittent_a: Positive | None = None
    making_a: Positive | None = Field(None, description="Most it may close onto")
    short_time_a: Positive | None = Field(None, description="Most it bears for a second while closed")
    precharge_ohm: Positive | None = Field(
        None, description="Resistor across it that fills capacitors behind it before it closes"
    )
    precharge_s: Positive | None = Field(None, description="How long it is given for that")
    coil_w: NotNegative = 0.0
    max_v: Volts = 48.0
    closed: bool = True


class Shunt(Inline):
    """A measuring shunt."""

    kind: Literal["shunt"] = "shunt"
    rating_a: Positive
    drop_mv: Positive = Field(50.0, description="At rated current")


class PlugConnector(Inline):
    """A plug and socket."""

    kind: Literal["plug"] = "plug"
    rating_a: Positive
    max_v: Volts = 60.0
    contact_ohm: Ohm = Field(0.0003, description="Representative of a mated pair")


class Post(Named):
    """A plain stud where conductors meet."""

    kind: Literal["post"] = "post"
    thread: Thread = "M8"
    rating_a: Positive | None = None

    terminals: ClassVar[tuple[str, ...]] = ("stud",)


class ChassisPoint(Model):
    """A place where the chassis is tapped."""

    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]+$", max_length=40)]
    thread: Thread = "M8"
    ohm: Ohm = Field(0.0005, description="From here to the chassis as a whole")


class Chassis(Named):
    """Metal that may carry return current; the 0 V of whatever is bonded to it."""

    kind: Literal["chassis"] = "chassis"
    points: tuple[ChassisPoint, ...] = Field(min_length=1)

    @property
    def terminal_names(self) -> tuple[str, ...]:
        """Its points."""
        return tuple(p.id for p in self.points)


Item = Annotated[
    Battery | Bar | Fuse | Breaker | Disconnect | Contactor | Shunt | PlugConnector | Post | Chassis,
    Field(discriminator="kind"),
]


class Equipment(Named):
    """Something that takes or gives power at one port."""

    thread: Thread | None = Field(None, description="Of its terminals; none where they are clamps or leads")
    terminal_c: Annotated[float, Field(gt=40, le=300)] | None = None
    critical: bool = Field(False, description="Held to the practice's tighter drop limit")
    nominal_v: Volts = 12.0
    input_uf: Positive | None = Field(None, description="Capacitance across its terminals, microfarad")
    ignition_protected: bool = Field(False, description="Fit to stand where vapour or hydrogen gathers")

    terminals: ClassVar[tuple[str, ...]] = ("plus", "minus")

    @property
    def port(self) -> tuple[str, str]:
        """Its plus and minus terminal; a converter's are its input."""
        return self.ref("plus"), self.ref("minus")


class Load(Equipment):
    """Equipment that takes power."""

    hours_per_day: Hours = Field(0.0, description="How long it is on")
    duty: Share = Field(1.0, description="How much of that time it draws its power, as a thermostat does")
    surge_s: NotNegative = Field(0.0, description="How long its surge lasts")
    min_v: Volts | None = Field(None, description="Lowest voltage it tolerates")
    motor_ohm: Positive | None = Field(
        None, description="Winding resistance, where it is a motor: running on, it feeds a fault"
    )


class PowerLoad(Load):
    """Takes the same power at any voltage."""

    kind: Literal["constant_power"] = "constant_power"
    power_w: Positive
    surge_w: Positive | None = None


class CurrentLoad(Load):
    """Takes the same current at any voltage."""

    kind: Literal["constant_current"] = "constant_current"
    current_a: Positive
    surge_a: Positive | None = None


class ResistiveLoad(Load):
    """A resistance: takes `power_w` at `nominal_v`."""

    kind: Literal["resistive"] = "resistive"
    power_w: Positive
    surge_w: Positive | None = None


class Inverter(Load):
    """Makes mains power; draws constant power from its DC side."""

    kind: Literal["inverter"] = "inverter"
    power_w: Positive = Field(description="Of its output, continuous")
    surge_w: Positive | None = Field(None, description="Of its output")
    efficiency: Share = 0.9
    idle_w: NotNegative = 0.0
    cut_out_v: Volts | None = Field(None, description="Stops below this")


class Source(Equipment):
    """Gives a current until its sensed voltage reaches a set point, then holds that."""

    set_v: Volts
    current_a: Positive = Field(description="Most it gives")
    hours_per_day: Hours = Field(0.0, description="Hours at its most that a day's yield comes to")
    sense_plus: TerminalRef | None = Field(None, description="Remote sense; its own terminals where none")
    sense_minus: TerminalRef | None = None


class Charger(Source):
    """A charger with mains or generator behind it."""

    kind: Literal["charger"] = "charger"


class Alternator(Source):
    """A regulated alternator: limits its own current."""

    kind: Literal["alternator"] = "alternator"


class SolarController(Source):
    """A solar controller: limited in current and by the array's power."""

    kind: Literal["solar"] = "solar"
    power_w: Positive = Field(description="The array gives at the charger's output")


class Converter(Equipment):
    """Takes power at one port, holds a voltage at another."""

    kind: Literal["converter"] = "converter"
    out_nominal_v: Volts = 12.0
    set_v: Volts
    current_a: Positive = Field(description="Most it gives at its output")
    efficiency: Share = 0.9
    idle_w: NotNegative = 0.0
    min_v: Volts | None = Field(None, description="Stops below this input voltage")
    isolated: bool = Field(True, description="Else its input and output minus are one inside")

    terminals: ClassVar[tuple[str, ...]] = ("in_plus", "in_minus", "out_plus", "out_minus")

    @property
    def port(self) -> tuple[str, str]:
        """Plus and minus terminal of its input."""
        return self.ref("in_plus"), self.ref("in_minus")


AnyEquipment = Annotated[
    PowerLoad | CurrentLoad | ResistiveLoad | Inverter | Charger | Alternator | SolarController | Converter,
    Field(discriminator="kind"),
]


class Run(Model):
    """A conductor from terminal to terminal."""

    id: Id
    a: TerminalRef
    b: TerminalRef
    length_m: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False), AfterValidator(no_dust)] = Field(
        description="One way; 0 where the one is bolted straight to the other"
    )
    conductor: PartId = "mm2-10"
    insulation: PartId = "pvc-105"
    parallel: Annotated[int, Field(ge=1, le=12)] = Field(1, description="How many alike side by side")
    follows_load: bool = Field(False, description="Its size follows the load's power until a person chooses one")
    zone: Id | None = None
    bundle: Annotated[int, Field(ge=1, le=60)] = Field(1, description="Current-carrying conductors bundled together")
    conduit: bool = Field(False, description="In a conduit or raceway, not clipped or in free air")
    sheathed: bool = Field(False, description="In a covering of its own besides the insulation")
    apart: bool = Field(False, description="Its return does not lie beside it: twice the inductance")
    cranking: bool = Field(False, description="Feeds a starter")
    lug_a: Thread | None = Field(None, description="Hole of the lug at a; fits the stud where none is given")
    lug_b: Thread | None = None
    lug_angle_a: Angle = Field(0, description="Degrees by which the lug at a is bent")
    lug_angle_b: Angle = 0
    route: Id | None = Field(None, description="The route it is laid in")
    measured_ohm: Ohm | None = Field(None, description="Of the whole, with both joints; replaces the computed")
    joint_a_ohm: Ohm | None = Field(None, description="Measured, of the joint at a")
    joint_b_ohm: Ohm | None = None


Switching = Literal["off", "on", "surge", "open", "closed"]
State = Switching | Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class Scenario(Model):
    """What runs together, at which charge and ambient."""

    id: Id
    name: Text = ""
    soc_percent: Percent = 80.0
    states: dict[Id, State] = Field(
        default_factory=dict,
        description="By equipment: off, on, surge or a share of its power; by switch: open or closed. "
        "Equipment not named is on, a switch not named is as drawn",
    )
    ambient_c: dict[Id, Celsius] = Field(default_factory=dict, description="By zone, where it differs")

    @property
    def title(self) -> str:
        """Its name, or its id where it has none."""
        return one_line(self.name) or self.id


class Override(Model):
    """A limit of the practice that this plan replaces."""

    limit: str
    value: Annotated[float, Field(allow_inf_nan=False)]
    reason: Annotated[str, Field(min_length=1, max_length=400)]


Practice = Literal["iec_60364", "iso_small_craft", "nfpa_70", "north_american_small_craft"]
"""Ids of the codes that the program has; a test holds them against the rule books."""

MEASURED_IN = ("measuring", "discharging")
"""Scenarios to measure in that need not be in the plan: everything on; all loads on and all sources off."""


class Reading(Model):
    """Something measured on the finished system."""

    scenario: Id = Field(description="What ran; measuring for everything on")
    quantity: Literal["volts", "amps", "joint", "celsius"] = Field(
        "volts",
        description="volts from a to b; amps through a; joint: volts over the joint at the end b of a; celsius on a",
    )
    a: Annotated[str, Field(max_length=81)] = Field(description="Terminal; else a conductor, device or unit")
    b: Annotated[str, Field(max_length=81)] = ""
    value: Measured


LONGEST_ENTRY = 4000
"""Letters of one entry of the log."""
EntryKind = Literal["measured", "torque", "trip", "blown", "hot", "change", "capacity", "charge", "note"]


class Entry(Model):
    """One line of the log: something that was done, seen or measured on a day."""

    id: Id
    on: Day
    kind: EntryKind = "note"
    about: Annotated[str, Field(max_length=81)] = Field("", description="Id of a thing, or a terminal")
    text: Annotated[str, Field(max_length=LONGEST_ENTRY)] = ""
    value: Measured | None = Field(
        None, description="N m of a torque, A of a trip, °C of a hot spot, Ah of a capacity or of a charge"
    )
    hours: Annotated[float, Field(ge=1e-3, le=1000)] | None = Field(None, description="How long a charge took")
    picture: Annotated[str, Field(max_length=300), AfterValidator(_relative)] = Field(
        "", description="Path from this file's own folder"
    )
    readings: tuple[Reading, ...] = Field((), description="Taken that day, of kind measured")


class Route(Model):
    """A way that conductors share: a conduit, a trunking, a clip line."""

    id: Id
    name: Text = ""
    inner_mm: Positive | None = Field(None, description="Inner diameter of a conduit; none where it is open")

    @property
    def title(self) -> str:
        """Its name, or its id where it has none."""
        return one_line(self.name) or self.id


class Spot(Model):
    """Where something stands on a board."""

    of: Id
    at_mm: tuple[Millimetres, Millimetres] = Field(description="Of its upper left corner, to the right and down")
    turned: bool = Field(False, description="By a quarter")


class Board(Model):
    """A panel that things are screwed onto."""

    id: Id
    name: Text = ""
    width_mm: Positive = 600.0
    height_mm: Positive = 400.0
    spots: tuple[Spot, ...] = ()

    @property
    def title(self) -> str:
        """Its name, or its id where it has none."""
        return one_line(self.name) or self.id


class StockPiece(Model):
    """A length of cable left over from before."""

    id: Id
    conductor: PartId
    insulation: PartId = "pvc-105"
    colour: Annotated[str, Field(max_length=40)] = "red"
    length_m: Positive


class Plan(Model):
    """The whole document."""

    format: Literal["jaunty-copper-plan"] = "jaunty-copper-plan"
    version: Literal[1] = VERSION
    name: Text = ""
    note: Annotated[str, Field(max_length=20000)] = ""
    practice: Practice = Field("north_american_small_craft", description="The code by which the plan is judged")
    overrides: tuple[Override, ...] = ()
    zones: tuple[Zone, ...] = ()
    items: tuple[Item, ...] = ()
    equipment: tuple[AnyEquipment, ...] = ()
    runs: tuple[Run, ...] = ()
    scenarios: tuple[Scenario, ...] = ()
    autonomy_days: Annotated[float, Field(ge=1e-3, le=60)] = Field(1.0, description="Required autonomy")
    devices_by: Literal["conductor", "load"] = Field(
        "conductor",
        description="School of choosing a device: the largest that protects the conductor, or the smallest "
        "that carries the load",
    )
    parts: OwnParts = OwnParts()
    reels_m: tuple[Positive, ...] = Field((5.0, 10.0, 25.0, 50.0), description="Lengths in which cable can be bought")
    stock: tuple[StockPiece, ...] = Field((), description="Cable left over from before, used first")
    prices: dict[str, NotNegative] = Field(
        default_factory=dict, description="Own prices of lines of the list of materials, by their key"
    )
    stud_material: Literal["brass", "steel"] = Field("brass", description="Of studs and bolts, for their torque")
    torques: dict[str, Positive] = Field(
        default_factory=dict, description="Own torques in N m by thread and material, such as M8:brass"
    )
    readings: tuple[Reading, ...] = Field((), description="Taken on the finished system")
    log: tuple[Entry, ...] = Field((), description="What happened since, by its days")
    routes: tuple[Route, ...] = ()
    boards: tuple[Board, ...] = ()
    done: tuple[Annotated[str, Field(max_length=120)], ...] = Field((), description="Steps of the work that are ticked")
    done_on: dict[str, Day] = Field(default_factory=dict, description="The day on which each of them was")

    @property
    def title(self) -> str:
        """Its name on one line; empty where it has none."""
        return one_line(self.name)

    def __copy__(self) -> "Plan":
        """Copy the fields only: what is cached belongs to the plan it was made from."""
        return Plan.model_construct(self.model_fields_set, **{n: getattr(self, n) for n in Plan.model_fields})

    @cached_property
    def by_id(self) -> dict[str, Named]:
        """Items and equipment by id."""
        return {x.id: x for x in self.placed}

    @cached_property
    def run_by_id(self) -> dict[str, Run]:
        """Runs by id."""
        return {r.id: r for r in self.runs}

    @property
    def placed(self) -> Iterator[Named]:
        """Everything with terminals."""
        yield from self.items
        yield from self.equipment

    def run_title(self, run: Run) -> str:
        """What a run joins, in words."""
        return " to ".join(self.by_id[split_ref(ref)[0]].title for ref in (run.a, run.b))

    @cached_property
    def runs_at(self) -> dict[str, tuple[Run, ...]]:
        """Runs that end at each terminal, by terminal reference."""
        at: dict[str, list[Run]] = {}
        for run in self.runs:
            at.setdefault(run.a, []).append(run)
            at.setdefault(run.b, []).append(run)
        return {ref: tuple(runs) for ref, runs in at.items()}

    def zone_of(self, zone: str | None) -> Zone:
        """The zone of that id, or the open air of the place where none is given."""
        return next((z for z in self.zones if z.id == zone), OPEN_AIR)


OPEN_AIR = Zone(id="open-air", name="open air")
"""Where nothing else is said: 30 C, as the ampacity tables assume."""


def split_ref(ref: str) -> tuple[str, str]:
    """Item id and terminal name of a terminal reference."""
    item, _, terminal = ref.partition(".")
    return item, terminal
