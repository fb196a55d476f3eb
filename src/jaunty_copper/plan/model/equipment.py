"""Loads, sources and converters."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from jaunty_copper.parts.models import NotNegative, Positive, Thread
from jaunty_copper.plan.model.common import Hours, Id, Named, Share, TerminalRef, Volts


class Equipment(Named):
    """Something that takes or gives power at one port."""

    thread: Thread | None = Field(None, description="Of its terminals; none where they are clamps or leads")
    terminal_c: Annotated[float, Field(gt=40, le=300)] | None = None
    critical: bool = Field(False, description="Held to the code's tighter drop limit")
    nominal_v: Volts = 12.0
    distance_m: Annotated[float, Field(gt=0, le=1000)] | None = Field(
        None, description="From its bars, one way: how long its conductors become when it is wired up"
    )
    input_uf: Positive | None = Field(None, description="Capacitance across its terminals, microfarad")
    ignition_protected: bool = Field(False, description="Fit to stand where vapour or hydrogen gathers")

    terminals: ClassVar[tuple[str, ...]] = ("plus", "minus")

    @property
    def port(self) -> tuple[str, str]:
        """Its plus and minus terminal; a converter's are its input."""
        return self.ref("plus"), self.ref("minus")

    @property
    def output(self) -> tuple[str, str]:
        """Plus and minus terminal at which a source gives; a converter's are its output."""
        return self.port


class Load(Equipment):
    """Equipment that takes power."""

    hours_per_day: Hours = Field(0.0, description="How long it is on")
    duty: Share = Field(1.0, description="How much of that time it draws its power, as a thermostat does")
    surge_s: NotNegative = Field(0.0, description="How long its surge lasts")
    min_v: Volts | None = Field(None, description="Lowest voltage it tolerates")
    drives: Id | None = Field(None, description="Contactor whose coil it is: off where that is open")
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

    @property
    def output(self) -> tuple[str, str]:
        """Plus and minus terminal of its output."""
        return self.ref("out_plus"), self.ref("out_minus")


AnyEquipment = Annotated[
    PowerLoad | CurrentLoad | ResistiveLoad | Inverter | Charger | Alternator | SolarController | Converter,
    Field(discriminator="kind"),
]
