"""Which fields of what can be edited, and how: a table, one line a field."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from jaunty_copper.codes.case import Case
from jaunty_copper.desktop.widgets.words import Units
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
    Zone,
)

Kind = Literal["text", "words", "number", "blank", "choice", "flag", "count", "pairs", "long"]
Choices = Callable[[Plan, Case, Units], Sequence[tuple[Any, str]]]


@dataclass(frozen=True)
class Field:
    """One editable field.

    Attributes
    ----------
    kind : str
        text, words (text that may be left out), number (must be there), blank (a number that may be
        left out), count (a whole number), choice, flag, pairs (figures such as 14:10;32:5), or long
        (text of several lines).
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
    return [(None, "open air"), *((z.id, z.title) for z in plan.zones)]


def conductors(_: Plan, case: Case, units: Units) -> Sequence[tuple[Any, str]]:
    """Sizes, those of the window's units first."""
    groups = ("awg", "sae", "metric") if units.awg else ("metric", "awg", "sae")
    return [(c.id, c.label) for g in groups for c in case.parts.sizes(g)]


def insulations(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
    """Kinds of insulation."""
    return [(i.id, i.label) for i in case.parts.insulations.values()]


def _families(kind: str) -> Choices:
    def choices(_: Plan, case: Case, __: Units) -> Sequence[tuple[Any, str]]:
        return [(f.id, f.label) for f in case.parts.device_families.values() if f.kind == kind]

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
    return [(0, "straight"), (45, "45°"), (90, "90°")]


def _routes(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(None, "none"), *((r.id, r.title) for r in plan.routes)]


def _terminals(plan: Plan, _: Case, __: Units) -> Sequence[tuple[Any, str]]:
    return [(x.ref(t), f"{x.title} · {t}") for x in plan.placed for t in x.terminal_names]


def _terminals_or_own(plan: Plan, case: Case, units: Units) -> Sequence[tuple[Any, str]]:
    return [(None, "its own"), *_terminals(plan, case, units)]


def _protected(_: Plan, __: Case, ___: Units) -> Sequence[tuple[Any, str]]:
    return [(None, "as its family"), (True, "yes"), (False, "no")]


NAME = Field("name", "Name", "text")
ZONE = Field("zone", "Zone", "choice", choices=_zones)
MEASURED = Field("measured_ohm", "Measured resistance", "blank", "Ω")
STUD = Field("thread", "Stud", "choice", choices=_threads("clamps or leads"))
PLAIN_STUD = Field("thread", "Stud", "choice", choices=_threads())
THREAD = Field("thread", "Stud", "choice", choices=_threads("as usual"))
TERMINAL_C = Field("terminal_c", "Terminals rated for", "blank", "°C")
RATING = Field("rating_a", "Rating", "number", "A")
NOMINAL = Field("nominal_v", "System voltage", "number", "V")
SURGE = Field("surge_w", "Surge", "blank", "W")
LOWEST = Field("min_v", "Minimum voltage", "blank", "V")
CRITICAL = Field("critical", "Critical", "flag")
FOLLOWS = Field("follows_load", "Size follows the load", "flag")
CLOSED = Field("closed", "Closed", "flag")
EFFICIENCY = Field("efficiency", "Efficiency", "number", "%", factor=100.0)
IDLE = Field("idle_w", "Idle power", "number", "W")
HOURS = Field("hours_per_day", "Hours a day", "number", "h")
MAKING = (
    Field("making_a", "Making capacity", "blank", "A"),
    Field("short_time_a", "Short-time withstand (1 s)", "blank", "A"),
)
INTERMITTENT = Field("intermittent_a", "Intermittent rating", "blank", "A")

IN_USE, MOUNTING, DATA_SHEET, TAKEN = "In use", "Mounting", "From its data sheet", "Measured"
DEVICE = (
    *under(MOUNTING, Field("ignition_protected", "Ignition protected", "choice", choices=_protected), THREAD, TERMINAL_C, ZONE),
    *under(TAKEN, MEASURED),
)  # fmt: skip
EQUIPMENT = under(
    MOUNTING, Field("distance_m", "Distance one way", "blank", "m"), STUD, TERMINAL_C,
    Field("ignition_protected", "Ignition protected", "flag"), ZONE,
)  # fmt: skip
INPUT = under(DATA_SHEET, Field("input_uf", "Input capacitance", "blank", "µF"))
LOAD = (
    *under(IN_USE, HOURS, Field("duty", "Duty", "number", "%", factor=100.0), Field("surge_s", "Surge lasts", "number", "s")),
    *INPUT, *under(DATA_SHEET, Field("motor_ohm", "Motor winding resistance", "blank", "Ω")), *EQUIPMENT,
)  # fmt: skip
SOURCE = (
    NAME, NOMINAL, Field("current_a", "Current limit", "number", "A"), Field("set_v", "Voltage setpoint", "number", "V"), CRITICAL,
    Field("sense_plus", "Senses plus at", "choice", choices=_terminals_or_own),
    Field("sense_minus", "Senses minus at", "choice", choices=_terminals_or_own), *under(IN_USE, HOURS), *INPUT, *EQUIPMENT,
)  # fmt: skip

FIELDS: dict[type, tuple[Field, ...]] = {
    Run: (
        Field("length_m", "Length one way", "number", "m"),
        Field("conductor", "Size", "choice", choices=conductors),
        Field("insulation", "Insulation", "choice", choices=insulations),
        Field("parallel", "Conductors in parallel", "count"),
        FOLLOWS,
        *under(
            "How it is laid", ZONE, Field("bundle", "Bundled with", "count"), Field("route", "Route", "choice", choices=_routes),
            Field("conduit", "In conduit", "flag"), Field("sheathed", "Sheathed", "flag"), Field("apart", "Return run separately", "flag"),
            Field("cranking", "Feeds a starter", "flag"),
        ),
        *under(
            "Its ends", Field("a", "From", "choice", choices=_terminals), Field("lug_a", "Lug at from", "choice", choices=_threads("fits the stud")),
            Field("lug_angle_a", "Lug angle at from", "choice", choices=_angles), Field("b", "To", "choice", choices=_terminals),
            Field("lug_b", "Lug at to", "choice", choices=_threads("fits the stud")), Field("lug_angle_b", "Lug angle at to", "choice", choices=_angles),
        ),
        *under(TAKEN, MEASURED, Field("joint_a_ohm", "Joint at from", "blank", "Ω"), Field("joint_b_ohm", "Joint at to", "blank", "Ω")),
    ),
    Fuse: (NAME, Field("family", "Family", "choice", choices=_families("fuse")), RATING, FOLLOWS, *DEVICE),
    Breaker: (NAME, Field("family", "Family", "choice", choices=_families("breaker")), RATING, FOLLOWS, CLOSED, *DEVICE),
    Disconnect: (NAME, RATING, INTERMITTENT, *MAKING, Field("max_v", "Rated voltage", "number", "V"), CLOSED, *DEVICE),
    Contactor: (
        NAME, Field("rating_a", "Continuous", "blank", "A"), INTERMITTENT,
        *MAKING, Field("precharge_ohm", "Precharge resistor", "blank", "Ω"), Field("precharge_s", "Precharge time", "blank", "s"),
        Field("coil_w", "Coil", "number", "W"), Field("max_v", "Rated voltage", "number", "V"), CLOSED, *DEVICE,
    ),
    Shunt: (NAME, RATING, Field("drop_mv", "Drop at rated current", "number", "mV"), *DEVICE),
    PlugConnector: (
        NAME, RATING, Field("max_v", "Rated voltage", "number", "V"), Field("contact_ohm", "Contact resistance", "number", "Ω"), *DEVICE,
    ),
    Battery: (
        NAME, Field("chemistry", "Chemistry", "choice", choices=_chemistries), Field("nominal_v", "Nominal voltage", "number", "V"),
        Field("capacity_ah", "Capacity", "number", "Ah"), Field("capacity_share", "State of health", "number", "%", factor=100.0),
        Field("soc_percent", "Own state of charge", "blank", "%"),
        *under(
            DATA_SHEET, Field("internal_ohm", "Internal resistance", "blank", "Ω"),
            Field("max_discharge_a", "Maximum discharge current", "blank", "A"), Field("max_charge_a", "Maximum charge current", "blank", "A"),
            Field("short_circuit_a", "Short-circuit current", "blank", "A"), Field("cranking_a", "Cold cranking", "blank", "A"),
            Field("make", "Make and model", "text"), Field("bought", "Bought, year or year-month", "words"),
        ),
        *under(
            MOUNTING, Field("width_mm", "Width", "number", "mm"), Field("depth_mm", "Depth", "number", "mm"),
            Field("turned", "Plus on the right", "flag"), PLAIN_STUD, ZONE,
        ),
    ),
    Bar: (
        NAME, RATING, *under(
            MOUNTING, Field("width_mm", "Width", "number", "mm"), Field("thickness_mm", "Thickness", "number", "mm"),
            Field("spacing_mm", "Stud spacing", "number", "mm"), Field("gap_mm", "To the other bar", "blank", "mm"),
            Field("support_mm", "Between supports", "blank", "mm"), ZONE,
        ),
    ),
    Post: (NAME, Field("rating_a", "Rating", "blank", "A"), *under(MOUNTING, PLAIN_STUD, ZONE)),
    Chassis: (NAME, ZONE),
    PowerLoad: (NAME, NOMINAL, Field("power_w", "Power", "number", "W"), SURGE, LOWEST, CRITICAL, *LOAD),
    CurrentLoad: (
        NAME, NOMINAL, Field("current_a", "Current", "number", "A"), Field("surge_a", "Surge", "blank", "A"), LOWEST, CRITICAL, *LOAD,
    ),
    ResistiveLoad: (NAME, NOMINAL, Field("power_w", "Power", "number", "W"), SURGE, LOWEST, CRITICAL, *LOAD),
    Inverter: (
        NAME, NOMINAL, Field("power_w", "Output", "number", "W"), SURGE, EFFICIENCY, IDLE,
        Field("cut_out_v", "Low-voltage cut-out", "blank", "V"), LOWEST, CRITICAL, *LOAD,
    ),
    Charger: SOURCE,
    Alternator: SOURCE,
    SolarController: (*SOURCE[:2], Field("power_w", "Array power", "number", "W"), *SOURCE[2:]),
    Converter: (
        NAME, NOMINAL, Field("out_nominal_v", "Output system voltage", "number", "V"), Field("set_v", "Voltage setpoint", "number", "V"),
        Field("current_a", "Current limit", "number", "A"), EFFICIENCY, IDLE, Field("min_v", "Minimum input voltage", "blank", "V"),
        Field("isolated", "Isolated", "flag"), CRITICAL, *INPUT, *EQUIPMENT,
    ),
    Zone: (
        NAME, Field("ambient_c", "Ambient temperature", "number", "°C"), Field("engine_space", "Engine space", "flag"),
        Field("ventilated", "Ventilated outside", "flag"), Field("ignition_hazard", "Ignition hazard", "flag"),
    ),
    Scenario: (NAME, Field("soc_percent", "State of charge", "number", "%")),
}  # fmt: skip

KIND_WORDS: dict[type, str] = {
    Run: "conductor", Fuse: "fuse", Breaker: "breaker", Disconnect: "disconnect", Contactor: "contactor", Shunt: "shunt",
    PlugConnector: "plug connector", Battery: "battery unit", Bar: "busbar", Post: "stud", Chassis: "chassis",
    PowerLoad: "constant power", CurrentLoad: "constant current", ResistiveLoad: "resistive load", Inverter: "inverter",
    Charger: "charger", Alternator: "alternator", SolarController: "solar controller", Converter: "converter",
}  # fmt: skip
