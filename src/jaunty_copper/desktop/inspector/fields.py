"""Which fields of what can be edited, and how: a table, one line a field."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from jaunty_copper.codes.case import Case
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.model import (
    Alternator,
    Bar,
    Battery,
    Breaker,
    Charger,
    Chassis,
    Contactor,
    Converter,
    CurrentLoad,
    Disconnect,
    Fuse,
    Inverter,
    Plan,
    PlugConnector,
    Post,
    PowerLoad,
    ResistiveLoad,
    Run,
    Scenario,
    Shunt,
    SolarController,
    Source,
    Splice,
    Zone,
)

Kind = Literal["text", "words", "number", "blank", "choice", "flag", "count", "pairs", "hours", "long"]
Choices = Callable[[Plan, Case, Units], Sequence[tuple[Any, str]]]


@dataclass(frozen=True)
class Field:
    """One editable field.

    Attributes
    ----------
    kind : str
        text, words (text that may be left out), number (must be there), blank (a number that may be
        left out), count (a whole number), choice, flag, pairs (figures such as 14:10;32:5), hours
        (of a day, such as 18-23), or long (text of several lines).
    unit : str
        Written behind the label; "m" follows the window's units.
    factor : float
        From the plan's value to what is shown.
    group : str
        What it stands under, below the usual ones, which are in none.
    """

    name: str
    label: str
    kind: Kind
    unit: str = ""
    choices: Choices | None = None
    factor: float = 1.0
    group: str = ""


def under(group: str, *fields: Field) -> tuple[Field, ...]:
    """Fields of a group."""
    return tuple(replace(f, group=group) for f in fields)


def _zones(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("open air")), *((z.id, z.title) for z in plan.zones)]


def conductors(_: Plan, case: Case, units: Units) -> Sequence[tuple[Any, str]]:
    """Sizes, those of the window's units first."""
    groups = ("awg", "sae", "metric") if units.awg else ("metric", "awg", "sae")
    return [(c.id, c.label) for g in groups for c in case.parts.sizes(g)]


def insulations(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
    """Kinds of insulation."""
    return [(i.id, i.label) for i in case.parts.insulations.values()]


def _families(kind: str, none: str = "") -> Choices:
    def choices(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
        found = [(f.id, f.label) for f in case.parts.device_families.values() if f.kind == kind]
        return [(None, none), *found] if none else found

    return choices


def _chemistries(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(c.id, c.label) for c in case.parts.battery_chemistries.values()]


def _threads(none: str = "") -> Choices:
    """Threads of studs; before them what it means to give none, where that may be."""

    def choices(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
        threads = [(s.thread, s.label) for s in case.parts.studs.values()]
        return [(None, none), *threads] if none else threads

    return choices


def _angles(_: Plan, __: Case, ___: Units) -> Sequence[tuple[Any, str]]:
    return [(0, say("straight")), (45, "45°"), (90, "90°")]


def _routes(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("none")), *((r.id, r.title) for r in plan.routes)]


def _terminals(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return plan.terminal_titles


def _terminals_or_own(plan: Plan, case: Case, units: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("its own")), *_terminals(plan, case, units)]


def _protected(_: Plan, __: Case, ___: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("as its family")), (True, say("yes")), (False, say("no"))]


def _contactors(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("none")), *((x.id, x.title) for x in plan.items if isinstance(x, Contactor))]


def _scenarios_before(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("rest")), *((s.id, s.title) for s in plan.scenarios)]


def _sources(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("on its own")), *((x.id, x.title) for x in plan.equipment if isinstance(x, Source))]


def _units_or_air(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("none: its own air")), *((x.id, x.title) for x in plan.items if isinstance(x, Battery))]


def _halves(_: Plan, __: Case, ___: Units) -> Sequence[tuple[Any, str]]:
    return [(None, say("both halves covered")), ("a", say("at a")), ("b", say("at b"))]


def _suppressions(_: Plan, __: Case, ___: Units) -> Sequence[tuple[Any, str]]:
    return [
        (None, say("not known")),
        ("none", say("none")),
        ("diode", say("diode alone")),
        ("fast", say("diode and Zener or resistor")),
    ]


NAME = Field("name", say("Name"), "text")
ZONE = Field("zone", say("Zone"), "choice", choices=_zones)
MEASURED = Field("measured_ohm", say("Measured resistance"), "blank", "Ω")
STUD = Field("thread", say("Stud"), "choice", choices=_threads(say("clamps or leads")))
PLAIN_STUD = Field("thread", say("Stud"), "choice", choices=_threads())
THREAD = Field("thread", say("Stud"), "choice", choices=_threads(say("as usual")))
TERMINAL_C = Field("terminal_c", say("Terminals rated for"), "blank", "°C")
RATING = Field("rating_a", say("Rating"), "number", "A")
NOMINAL = Field("nominal_v", say("System voltage"), "number", "V")
SURGE = Field("surge_w", say("Surge"), "blank", "W")
LOWEST = Field("min_v", say("Minimum voltage"), "blank", "V")
CRITICAL = Field("critical", say("Critical"), "flag")
FOLLOWS = Field("follows_load", say("Size follows the load"), "flag")
CLOSED = Field("closed", say("Closed"), "flag")
REACH = Field("within_reach", say("Within reach"), "flag")
EFFICIENCY = Field("efficiency", say("Efficiency"), "number", "%", factor=100.0)
IDLE = Field("idle_w", say("Idle power"), "number", "W")
HOURS = (Field("hours_per_day", say("Hours a day"), "number", "h"), Field("by_hour", say("When"), "hours"))
MAKING = (
    Field("making_a", say("Making capacity"), "blank", "A"),
    Field("short_time_a", say("Short-time withstand (1 s)"), "blank", "A"),
)
INTERMITTENT = Field("intermittent_a", say("Intermittent rating"), "blank", "A")

IN_USE, MOUNTING, DATA_SHEET, TAKEN = say("In use"), say("Mounting"), say("From its data sheet"), say("Measured")
DEVICE = (
    *under(MOUNTING, Field("ignition_protected", say("Ignition protected"), "choice", choices=_protected), THREAD, TERMINAL_C, ZONE),
    *under(TAKEN, MEASURED),
)  # fmt: skip
EQUIPMENT = under(
    MOUNTING, Field("distance_m", say("Distance one way"), "blank", "m"), STUD, TERMINAL_C,
    Field("ignition_protected", say("Ignition protected"), "flag"), ZONE,
)  # fmt: skip
INPUT = under(DATA_SHEET, Field("input_uf", say("Input capacitance"), "blank", "µF"))
LOAD = (
    *under(IN_USE, *HOURS, Field("duty", say("Duty"), "number", "%", factor=100.0), Field("surge_s", say("Surge lasts"), "number", "s"), Field("drives", say("Coil of"), "choice", choices=_contactors), Field("runs_with", say("Runs only with"), "choice", choices=_sources)),
    *INPUT, *under(DATA_SHEET, Field("motor_ohm", say("Motor winding resistance"), "blank", "Ω")), *EQUIPMENT,
)  # fmt: skip
SOURCE = (
    NAME, NOMINAL, Field("current_a", say("Current limit"), "number", "A"), Field("set_v", say("Voltage setpoint"), "number", "V"), CRITICAL,
    Field("sense_plus", say("Senses plus at"), "choice", choices=_terminals_or_own),
    Field("sense_minus", say("Senses minus at"), "choice", choices=_terminals_or_own),
    *under(
        say("Charging"), Field("float_v", say("Float voltage"), "blank", "V"), Field("absorb_h", say("Absorption at most"), "blank", "h"),
        Field("compensation_mv_k", say("Compensation per kelvin"), "number", "mV"), Field("probe", say("Temperature probe on"), "choice", choices=_units_or_air),
    ),
    *under(IN_USE, *HOURS), *INPUT, *EQUIPMENT,
)  # fmt: skip

FIELDS: dict[type, tuple[Field, ...]] = {
    Run: (
        Field("length_m", say("Length one way"), "number", "m"),
        Field("conductor", say("Size"), "choice", choices=conductors),
        Field("insulation", say("Insulation"), "choice", choices=insulations),
        Field("parallel", say("Conductors in parallel"), "count"),
        FOLLOWS,
        *under(
            say("How it is laid"), ZONE, Field("bundle", say("Bundled with"), "count"), Field("route", say("Route"), "choice", choices=_routes),
            Field("conduit", say("In conduit"), "flag"), Field("sheathed", say("Sheathed"), "flag"), Field("short_proof", say("Short-proof, nothing that burns near"), "flag"), Field("apart", say("Return run separately"), "flag"),
            Field("cranking", say("Feeds a starter"), "flag"),
        ),
        *under(
            say("Its ends"), Field("a", say("From"), "choice", choices=_terminals), Field("lug_a", say("Lug at from"), "choice", choices=_threads(say("fits the stud"))),
            Field("lug_angle_a", say("Lug angle at from"), "choice", choices=_angles), Field("b", say("To"), "choice", choices=_terminals),
            Field("lug_b", say("Lug at to"), "choice", choices=_threads(say("fits the stud"))), Field("lug_angle_b", say("Lug angle at to"), "choice", choices=_angles),
        ),
        *under(TAKEN, MEASURED, Field("joint_a_ohm", say("Joint at from"), "blank", "Ω"), Field("joint_b_ohm", say("Joint at to"), "blank", "Ω")),
    ),
    Fuse: (NAME, Field("family", say("Family"), "choice", choices=_families("fuse")), RATING, FOLLOWS, *under(MOUNTING, Field("holder_a", say("Its holder carries"), "blank", "A")), *DEVICE),
    Breaker: (NAME, Field("family", say("Family"), "choice", choices=_families("breaker")), RATING, FOLLOWS, CLOSED, *under(MOUNTING, REACH), *DEVICE),
    Disconnect: (NAME, RATING, INTERMITTENT, *MAKING, Field("max_v", say("Rated voltage"), "number", "V"), CLOSED, *under(MOUNTING, REACH), *DEVICE),
    Contactor: (
        NAME, Field("rating_a", say("Continuous"), "blank", "A"), INTERMITTENT, Field("intermittent_s", say("Intermittent for"), "blank", "s"),
        *MAKING, Field("precharge_ohm", say("Precharge resistor"), "blank", "Ω"), Field("precharge_s", say("Precharge time"), "blank", "s"),
        Field("coil_w", say("Coil"), "number", "W"), Field("suppression", say("Coil suppression"), "choice", choices=_suppressions), Field("max_v", say("Rated voltage"), "number", "V"), CLOSED, *DEVICE,
    ),
    Shunt: (NAME, RATING, Field("drop_mv", say("Drop at rated current"), "number", "mV"), Field("monitor_fuse_a", say("Fuse in the monitor's lead"), "blank", "A"),
        *under(
            say("Set in its monitor"), Field("monitor_ah", say("Capacity"), "blank", "Ah"), Field("monitor_efficiency", say("Charge efficiency"), "number", "%", factor=100.0),
            Field("monitor_offset_a", say("Reads with nothing flowing"), "number", "A"),
        ), *DEVICE),
    PlugConnector: (
        NAME, RATING, Field("mate_rating_a", say("Rating of the other half"), "blank", "A"), Field("max_v", say("Rated voltage"), "number", "V"),
        Field("contact_ohm", say("Contact resistance"), "number", "Ω"), Field("pins", say("Bare pins"), "choice", choices=_halves),
        Field("under_load", say("May be unplugged under load"), "flag"), *DEVICE,
    ),
    Splice: (NAME, Field("contact_ohm", say("Contact resistance"), "number", "Ω"), *under(MOUNTING, REACH), *DEVICE),
    Battery: (
        NAME, Field("chemistry", say("Chemistry"), "choice", choices=_chemistries), Field("nominal_v", say("Nominal voltage"), "number", "V"),
        Field("capacity_ah", say("Capacity"), "number", "Ah"), Field("capacity_share", say("State of health"), "number", "%", factor=100.0),
        Field("soc_percent", say("Own state of charge"), "blank", "%"),
        *under(
            DATA_SHEET, Field("internal_ohm", say("Internal resistance"), "blank", "Ω"),
            Field("max_discharge_a", say("Maximum discharge current"), "blank", "A"), Field("max_charge_a", say("Maximum charge current"), "blank", "A"),
            Field("peak_discharge_a", say("Peak discharge current"), "blank", "A"), Field("peak_s", say("Peak lasts"), "blank", "s"),
            Field("managed", say("Management system opens it"), "flag"),
            Field("short_circuit_a", say("Short-circuit current"), "blank", "A"), Field("cranking_a", say("Cold cranking"), "blank", "A"),
            Field("make", say("Make and model"), "text"), Field("bought", say("Bought, year or year-month"), "words"),
        ),
        *under(
            MOUNTING, Field("width_mm", say("Width"), "number", "mm"), Field("depth_mm", say("Depth"), "number", "mm"),
            Field("turned", say("Plus on the right"), "flag"), Field("covered", say("Posts covered"), "flag"), PLAIN_STUD, ZONE,
        ),
    ),
    Bar: (
        NAME, RATING, Field("fuse_family", say("Distributor for"), "choice", choices=_families("fuse", say("no fuses: a plain bar"))),
        Field("position_a", say("Each position carries"), "blank", "A"), *under(
            MOUNTING, Field("width_mm", say("Width"), "number", "mm"), Field("thickness_mm", say("Thickness"), "number", "mm"),
            Field("spacing_mm", say("Stud spacing"), "number", "mm"), Field("gap_mm", say("To the other bar"), "blank", "mm"),
            Field("support_mm", say("Between supports"), "blank", "mm"), Field("covered", say("Covered"), "flag"), ZONE,
        ),
    ),
    Post: (NAME, Field("rating_a", say("Rating"), "blank", "A"), *under(MOUNTING, PLAIN_STUD, ZONE)),
    Chassis: (NAME, ZONE),
    PowerLoad: (NAME, NOMINAL, Field("power_w", say("Power"), "number", "W"), SURGE, LOWEST, CRITICAL, *LOAD),
    CurrentLoad: (
        NAME, NOMINAL, Field("current_a", say("Current"), "number", "A"), Field("surge_a", say("Surge"), "blank", "A"), LOWEST, CRITICAL, *LOAD,
    ),
    ResistiveLoad: (NAME, NOMINAL, Field("power_w", say("Power"), "number", "W"), SURGE, LOWEST, CRITICAL, *LOAD),
    Inverter: (
        NAME, NOMINAL, Field("power_w", say("Output"), "number", "W"), SURGE, EFFICIENCY, IDLE,
        Field("cut_out_v", say("Low-voltage cut-out"), "blank", "V"), LOWEST, CRITICAL, *LOAD,
    ),
    Charger: SOURCE,
    Alternator: SOURCE,
    SolarController: (*SOURCE[:2], Field("power_w", say("Array power"), "number", "W"), *SOURCE[2:]),
    Converter: (
        NAME, NOMINAL, Field("out_nominal_v", say("Output system voltage"), "number", "V"), Field("set_v", say("Voltage setpoint"), "number", "V"),
        Field("current_a", say("Current limit"), "number", "A"), EFFICIENCY, IDLE, Field("min_v", say("Minimum input voltage"), "blank", "V"),
        Field("isolated", say("Isolated"), "flag"), CRITICAL, *INPUT, *EQUIPMENT,
    ),
    Zone: (
        NAME, Field("ambient_c", say("Ambient temperature"), "number", "°C"), Field("engine_space", say("Engine space"), "flag"),
        Field("ventilated", say("Ventilated outside"), "flag"), Field("opening_cm2", say("Opening each way"), "blank", "cm²"), Field("ignition_hazard", say("Ignition hazard"), "flag"),
    ),
    Scenario: (
        NAME, Field("soc_percent", say("State of charge"), "number", "%"), Field("minutes", say("Lasts"), "blank", "min"),
        Field("after", say("Comes after"), "choice", choices=_scenarios_before),
    ),
}  # fmt: skip

KIND_WORDS: dict[type, str] = {
    Run: say("conductor"), Fuse: say("fuse"), Breaker: say("breaker"), Disconnect: say("disconnect"), Contactor: say("contactor"), Shunt: say("shunt"),
    PlugConnector: say("plug connector"), Splice: say("splice"), Battery: say("battery unit"), Bar: say("busbar"), Post: say("stud"), Chassis: say("chassis"),
    PowerLoad: say("constant power"), CurrentLoad: say("constant current"), ResistiveLoad: say("resistive load"), Inverter: say("inverter"),
    Charger: say("charger"), Alternator: say("alternator"), SolarController: say("solar controller"), Converter: say("converter"),
}  # fmt: skip
COUNTED: dict[type, Callable[[int], str]] = {
    Run: lambda n: say_many("{count} conductor", "{count} conductors", n),
    Fuse: lambda n: say_many("{count} fuse", "{count} fuses", n),
    Breaker: lambda n: say_many("{count} breaker", "{count} breakers", n),
    Disconnect: lambda n: say_many("{count} disconnect", "{count} disconnects", n),
    Contactor: lambda n: say_many("{count} contactor", "{count} contactors", n),
    Shunt: lambda n: say_many("{count} shunt", "{count} shunts", n),
    PlugConnector: lambda n: say_many("{count} plug connector", "{count} plug connectors", n),
    Splice: lambda n: say_many("{count} splice", "{count} splices", n),
    Battery: lambda n: say_many("{count} battery unit", "{count} battery units", n),
    Bar: lambda n: say_many("{count} busbar", "{count} busbars", n),
    Post: lambda n: say_many("{count} stud", "{count} studs", n),
    Chassis: lambda n: say_many("{count} chassis", "{count} chassis", n),
    PowerLoad: lambda n: say_many("{count} load of constant power", "{count} loads of constant power", n),
    CurrentLoad: lambda n: say_many("{count} load of constant current", "{count} loads of constant current", n),
    ResistiveLoad: lambda n: say_many("{count} resistive load", "{count} resistive loads", n),
    Inverter: lambda n: say_many("{count} inverter", "{count} inverters", n),
    Charger: lambda n: say_many("{count} charger", "{count} chargers", n),
    Alternator: lambda n: say_many("{count} alternator", "{count} alternators", n),
    SolarController: lambda n: say_many("{count} solar controller", "{count} solar controllers", n),
    Converter: lambda n: say_many("{count} converter", "{count} converters", n),
    object: lambda n: say_many("{count} thing", "{count} things", n),
}
"""So many things of a kind, or of several."""
