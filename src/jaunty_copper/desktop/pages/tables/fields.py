"""Which fields of what stands in the plan's own lists can be edited, and how: a table, one line a field."""

from jaunty_copper.desktop.inspector.fields import NAME, PLAIN_STUD, Field, conductors, insulations
from jaunty_copper.parts.models import Chemistry, Conductor, DeviceFamily, Insulation
from jaunty_copper.plan.model import BarStud, Board, ChassisPoint, Override, Route, StockPiece


def one_of(name: str, label: str, **words: str) -> Field:
    """A choice whose words are known from the start."""
    pairs = list(words.items())
    return Field(name, label, "choice", choices=lambda *_: pairs)


LABEL = Field("label", "Name", "text")
FROM = Field("source", "Source", "text")
LISTED: dict[type, tuple[Field, ...]] = {
    Override: (Field("value", "Value", "number"), Field("reason", "Reason", "text")),
    BarStud: (PLAIN_STUD,),
    ChassisPoint: (PLAIN_STUD, Field("ohm", "To the whole", "number", "Ω")),
    Route: (NAME, Field("inner_mm", "Inner diameter", "blank", "mm")),
    Board: (NAME, Field("width_mm", "Width", "number", "mm"), Field("height_mm", "Height", "number", "mm")),
    StockPiece: (
        Field("conductor", "Size", "choice", choices=conductors), Field("insulation", "Insulation", "choice", choices=insulations),
        Field("colour", "Colour", "text"), Field("length_m", "Length", "number", "m"),
    ),
    Conductor: (
        LABEL, one_of("system", "System", metric="metric", awg="AWG", sae="SAE"), Field("area_mm2", "Section", "number", "mm²"),
        Field("r_ohm_per_km", "Resistance at 20 °C", "number", "Ω/km"), Field("outer_mm", "Over its insulation", "number", "mm"), FROM,
    ),
    Insulation: (
        LABEL, Field("max_c", "Continuous temperature", "number", "°C"), Field("fault_c", "Fault temperature, up to 5 s", "blank", "°C"), FROM,
    ),
    DeviceFamily: (
        LABEL, one_of("kind", "Kind", fuse="fuse", breaker="breaker"), Field("min_a", "Ratings from", "number", "A"),
        Field("max_a", "Ratings to", "number", "A"), Field("max_v_dc", "Rated voltage", "number", "V"),
        Field("interrupt_v_ka", "Interrupt rating, V:kA", "pairs"),
        one_of("terminals", "Terminals", M5="M5", M6="M6", M8="M8", M10="M10", M12="M12", blade="blade", clamp="clamp"),
        one_of("ignition_protected", "Ignition protected", yes="yes", no="no", some="some"),
        Field("body_v_at_rated", "Drop at rated current", "number", "V"), Field("curve", "Time-current curve of", "words"),
        Field("gates", "Time-current band, multiple:shortest s:longest s", "pairs"), one_of("sided", "Line side marked", yes="yes", no="no"),
        one_of("release", "Release", fuse="fuse", thermal="thermal", none="none"), Field("floor_s", "Opening time", "number", "s"),
        one_of("beyond", "Beyond its curve", i2t="by let-through energy", constant="constant"), FROM,
    ),
    Chemistry: (
        LABEL, Field("cells_per_12v", "Cells per 12 V", "count"), Field("r_ohm_ah", "Resistance of a cell", "number", "Ω·Ah"),
        Field("r_empty_factor", "Resistance when empty, times", "number"), one_of("vented", "Vented", yes="yes", no="no"),
        *(Field(f"ocv_{k}", f"Open-circuit voltage at {k} %", "number", "V") for k in range(0, 101, 10)),
        Field("max_discharge_c", "Maximum discharge rate", "number", "C"), Field("max_charge_c", "Maximum charge rate", "number", "C"),
        Field("stop_v", "End-of-discharge voltage", "number", "V"), Field("full_v", "Full-charge voltage", "number", "V"),
        Field("usable_fraction", "Usable", "number", "%", factor=100.0), Field("usable_note", "Note", "text"), FROM,
    ),
}  # fmt: skip
