"""Loads, sources and converters."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from jaunty_copper.parts.models import NotNegative, Positive, Thread
from jaunty_copper.plan.model.common import ByHour, Hours, Id, Named, Share, TerminalRef, Volts


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

    hours_per_day: Hours = Field(0.0, description="How long it is on, where `by_hour` does not say when")
    by_hour: ByHour = Field((), description="How much of each hour from midnight on it is on; 24, or none")
    duty: Share = Field(1.0, description="How much of that time it draws its power, as a thermostat does")
    surge_s: NotNegative = Field(0.0, description="How long its surge lasts")
    min_v: Volts | None = Field(None, description="Lowest voltage it tolerates")
    drives: Id | None = Field(None, description="Contactor whose coil it is: off where that is open")
    runs_with: Id | None = Field(
        None, description="Source without which it does not run: an engine, a generator, the sun"
    )
    motor_ohm: Positive | None = Field(
        None, description="Winding resistance, where it is a motor: running on, it feeds a fault"
    )

    @property
    def on_hours(self) -> float:
        """Hours a day that it is on."""
        return sum(self.by_hour) if self.by_hour else self.hours_per_day


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
    hours_per_day: Hours = Field(
        0.0, description="Hours at its most that a day's yield comes to, where `by_hour` does not say when"
    )
    by_hour: ByHour = Field((), description="How much of its most it gives in each hour from midnight on; 24, or none")
    float_v: Volts | None = Field(
        None, description="What it holds once the bank is full; none where it goes on at set_v"
    )
    absorb_h: Annotated[float, Field(gt=0, le=48)] | None = Field(
        None, description="How long it holds set_v at most; until the bank takes no more than a tail where none"
    )
    compensation_mv_k: Annotated[float, Field(ge=-500, le=0)] = Field(
        0.0, description="By how much it changes set_v and float_v for each kelvin above 25 C, mV"
    )
    probe: Id | None = Field(None, description="The unit on which its temperature probe sits; its own air where none")
    sense_plus: TerminalRef | None = Field(None, description="Remote sense; its own terminals where none")
    sense_minus: TerminalRef | None = None

    @property
    def on_hours(self) -> float:
        """Hours at its most that a day's yield comes to."""
        return sum(self.by_hour) if self.by_hour else self.hours_per_day


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
