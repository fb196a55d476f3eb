"""Batteries, bars, studs, and what stands in a conductor."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from jaunty_copper.parts.models import NotNegative, PartId, Positive, Thread
from jaunty_copper.plan.model.common import Millimetres, Model, Named, Ohm, Percent, Share, Text, Volts


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
    peak_discharge_a: Positive | None = Field(None, description="What it gives for a short time, beyond that")
    peak_s: Positive | None = Field(None, description="How long it gives its peak")
    managed: bool = Field(False, description="A management system opens it beyond its limits")
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
    covered: bool = Field(True, description="A cover over each of its posts")

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
    covered: bool = Field(True, description="A cover over its studs, where it stands under no lid")
    fuse_family: PartId | None = Field(
        None, description="Of a distributor: the family of the fuses that stand on it; none of a plain bar"
    )
    position_a: Positive | None = Field(None, description="Of a distributor: most that each of its positions carries")

    @property
    def terminal_names(self) -> tuple[str, ...]:
        """Its studs, in order."""
        return tuple(s.id for s in self.studs)


class Inline(Named):
    """A two-terminal thing in a conductor."""

    measured_ohm: Ohm | None = Field(None, description="Replaces the computed resistance")
    thread: Thread | None = Field(None, description="Of its studs; else as usual for its family")
    terminal_c: Annotated[float, Field(gt=40, le=300)] | None = Field(
        None, description="Temperature its terminals are rated for; else the code's"
    )
    ignition_protected: bool | None = Field(None, description="Else as usual for its family")


class Fuse(Inline):
    """A fuse."""

    kind: Literal["fuse"] = "fuse"
    family: PartId
    rating_a: Positive
    holder_a: Positive | None = Field(None, description="What its holder may carry; none where it is bolted")
    follows_load: bool = Field(False, description="Its size follows the load's power until a person chooses one")


class Breaker(Inline):
    """A breaker; terminal a is its line side."""

    kind: Literal["breaker"] = "breaker"
    family: PartId
    rating_a: Positive
    closed: bool = True
    within_reach: bool = Field(True, description="Reached at once, without a tool and without moving anything")
    follows_load: bool = Field(False, description="Its size follows the load's power until a person chooses one")


class Disconnect(Inline):
    """A manual switch."""

    kind: Literal["disconnect"] = "disconnect"
    rating_a: Positive = Field(description="Continuous")
    intermittent_a: Positive | None = None
    making_a: Positive | None = Field(None, description="Most it may close onto")
    short_time_a: Positive | None = Field(None, description="Short-time withstand current, 1 s")
    max_v: Volts = 48.0
    closed: bool = True
    within_reach: bool = Field(True, description="Reached at once, without a tool and without moving anything")


class Contactor(Inline):
    """A remotely driven switch."""

    kind: Literal["contactor"] = "contactor"
    rating_a: Positive | None = Field(None, description="Continuous; none where it is rated for short duty only")
    intermittent_a: Positive | None = None
    making_a: Positive | None = Field(None, description="Most it may close onto")
    short_time_a: Positive | None = Field(None, description="Short-time withstand current, 1 s")
    precharge_ohm: Positive | None = Field(
        None, description="Resistor across it that fills capacitors behind it before it closes"
    )
    precharge_s: Positive | None = Field(None, description="How long it is given for that")
    intermittent_s: Positive | None = Field(None, description="How long it may carry its intermittent rating")
    coil_w: NotNegative = Field(0.0, description="What holds it closed, where its coil is not drawn as a load")
    suppression: Literal["none", "diode", "fast"] | None = Field(
        None, description="Over its coil: a diode alone lets go late, one with a resistor or a Zener diode fast"
    )
    max_v: Volts = 48.0
    closed: bool = True


class Shunt(Inline):
    """A measuring shunt."""

    kind: Literal["shunt"] = "shunt"
    rating_a: Positive
    drop_mv: Positive = Field(50.0, description="At rated current")
    monitor_fuse_a: Positive | None = Field(
        None, description="Fuse at the start of the lead from the plus pole to what reads it"
    )
    monitor_ah: Positive | None = Field(None, description="Capacity that is set in the monitor that reads it")
    monitor_efficiency: Share = Field(1.0, description="Charge efficiency that is set in it")
    monitor_offset_a: Annotated[float, Field(ge=-100, le=100, allow_inf_nan=False)] = Field(
        0.0, description="What it reads when nothing flows; out of the bank is positive"
    )


class PlugConnector(Inline):
    """A plug and socket."""

    kind: Literal["plug"] = "plug"
    rating_a: Positive
    mate_rating_a: Positive | None = Field(None, description="Of its other half, where that is another")
    max_v: Volts = 60.0
    contact_ohm: Ohm = Field(0.0003, description="Representative of a mated pair")
    pins: Literal["a", "b"] | None = Field(
        None, description="Terminal of the half with bare pins; none where both halves are covered"
    )
    under_load: bool = Field(False, description="Has a breaking capacity: may be unplugged while current flows")

    @property
    def carries_a(self) -> float:
        """What the weaker of its halves may carry, A."""
        return min(self.rating_a, self.mate_rating_a or self.rating_a)


class Splice(Inline):
    """A crimped joint in a conductor: two ends in one sleeve, no stud."""

    kind: Literal["splice"] = "splice"
    contact_ohm: Ohm = Field(0.00005, description="Of the sleeve between its two crimps, representative")
    within_reach: bool = Field(True, description="Can be looked at and made anew without taking anything apart")


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
    Battery | Bar | Fuse | Breaker | Disconnect | Contactor | Shunt | PlugConnector | Splice | Post | Chassis,
    Field(discriminator="kind"),
]
