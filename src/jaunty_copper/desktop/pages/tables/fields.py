"""Which fields of what stands in the plan's own lists can be edited, and how: a table, one line a field."""

from jaunty_copper.desktop.inspector.fields import NAME, PLAIN_STUD, Field, conductors, insulations
from jaunty_copper.language import say
from jaunty_copper.parts.models import Chemistry, Conductor, DeviceFamily, Insulation
from jaunty_copper.plan.model import BarStud, Board, ChassisPoint, Override, Route, StockPiece


def one_of(name: str, label: str, **words: str) -> Field:
    """A choice whose words are known from the start."""
    pairs = list(words.items())
    return Field(name, label, "choice", choices=lambda *_: pairs)


LABEL = Field("label", say("Name"), "text")
FROM = Field("source", say("Source"), "text")
LISTED: dict[type, tuple[Field, ...]] = {
    Override: (Field("value", say("Value"), "number"), Field("reason", say("Reason"), "text")),
    BarStud: (PLAIN_STUD,),
    ChassisPoint: (PLAIN_STUD, Field("ohm", say("To the whole"), "number", "Ω")),
    Route: (NAME, Field("inner_mm", say("Inner diameter"), "blank", "mm")),
    Board: (
        NAME,
        Field("width_mm", say("Width"), "number", "mm"),
        Field("height_mm", say("Height"), "number", "mm"),
        Field("depth_mm", say("Under its lid"), "blank", "mm"),
    ),
    StockPiece: (
        Field("conductor", say("Size"), "choice", choices=conductors),
        Field("insulation", say("Insulation"), "choice", choices=insulations),
        Field("colour", say("Colour"), "text"),
        Field("length_m", say("Length"), "number", "m"),
    ),
    Conductor: (
        LABEL,
        one_of("system", say("System"), metric="metric", awg="AWG", sae="SAE"),
        Field("area_mm2", say("Section"), "number", "mm²"),
        Field("r_ohm_per_km", say("Resistance at 20 °C"), "number", "Ω/km"),
        Field("outer_mm", say("Over its insulation"), "number", "mm"),
        FROM,
    ),
    Insulation: (
        LABEL,
        Field("max_c", say("Continuous temperature"), "number", "°C"),
        Field("fault_c", say("Fault temperature, up to 5 s"), "blank", "°C"),
        FROM,
    ),
    DeviceFamily: (
        LABEL,
        one_of("kind", say("Kind"), fuse="fuse", breaker="breaker"),
        one_of("series", say("Series of ratings"), general="general", iso="ISO 8820", iec="IEC 60059"),
        Field("min_a", say("Ratings from"), "number", "A"),
        Field("max_a", say("Ratings to"), "number", "A"),
        Field("max_v_dc", say("Rated voltage"), "number", "V"),
        Field("interrupt_v_ka", say("Interrupt rating, V:kA"), "pairs"),
        one_of(
            "terminals", say("Terminals"), M5="M5", M6="M6", M8="M8", M10="M10", M12="M12", blade="blade", clamp="clamp"
        ),
        one_of("ignition_protected", say("Ignition protected"), yes="yes", no="no", some="some"),
        Field("body_v_at_rated", say("Drop at rated current"), "number", "V"),
        Field("curve", say("Time-current curve of"), "words"),
        Field("gates", say("Time-current band, multiple:shortest s:longest s"), "pairs"),
        one_of("sided", say("Sides marked"), yes=say("polarity"), line=say("line and load"), no=say("none")),
        one_of("switching", say("Serves as a switch"), yes="yes", no="no"),
        one_of("release", say("Release"), fuse="fuse", thermal="thermal", none="none"),
        Field("floor_s", say("Opening time"), "number", "s"),
        one_of("beyond", say("Beyond its curve"), i2t="by let-through energy", constant="constant"),
        FROM,
    ),
    Chemistry: (
        LABEL,
        Field("cells_per_12v", say("Cells per 12 V"), "count"),
        Field("r_ohm_ah", say("Resistance of a cell"), "number", "Ω·Ah"),
        Field("r_empty_factor", say("Resistance when empty, times"), "number"),
        one_of("vented", say("Vented"), yes="yes", no="no"),
        Field("gas_boost_ma_ah", say("Gassing current at boost"), "number", "mA/Ah"),
        *(Field(f"ocv_{k}", say("Open-circuit voltage at {k} %", k=k), "number", "V") for k in range(0, 101, 10)),
        Field("max_discharge_c", say("Maximum discharge rate"), "number", "C"),
        Field("max_charge_c", say("Maximum charge rate"), "number", "C"),
        Field("stop_v", say("End-of-discharge voltage"), "number", "V"),
        Field("full_v", say("Full-charge voltage"), "number", "V"),
        Field("accept_ohm_ah", say("Charge acceptance, resistance of a cell"), "number", "Ω·Ah"),
        Field("accept_end", say("Charge acceptance, end"), "number", "%", factor=100.0),
        Field("charge_efficiency", say("Charge efficiency"), "number", "%", factor=100.0),
        Field("rate_exponent", say("Rate exponent"), "number"),
        Field("charge_least_c", say("Charge from, °C"), "number"),
        Field("charge_most_c", say("Charge to, °C"), "number"),
        Field("most_c", say("Warmest, °C"), "number"),
        Field("tail_c", say("Tail current when full"), "number", "C"),
        Field("usable_fraction", say("Usable"), "number", "%", factor=100.0),
        Field("usable_note", say("Note"), "text"),
        FROM,
    ),
}
