"""What a part is: conductors, insulation, device families, battery chemistries, studs.

The same models read the library's data files and the parts that a plan carries itself.
"""

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, field_validator

from jaunty_copper.language import say

PartId = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9._/-]*$", max_length=60)]
LEAST, MOST = 1e-9, 1e9
"""Between which every positive quantity of a plan lies, in its own unit: beyond, arithmetic with it says nothing."""


def no_dust(value: float) -> float:
    """Refuse what is neither 0 nor large enough to be computed with.

    Parameters
    ----------
    value : float
        In SI units.

    Raises
    ------
    ValueError
        It lies between 0 and `LEAST`.
    """
    if 0.0 < value < LEAST:
        raise ValueError(say("between 0 and {least:g} there is nothing that can be distinguished from 0", least=LEAST))
    return value


Positive = Annotated[float, Field(gt=0, le=MOST, allow_inf_nan=False), AfterValidator(no_dust)]
NotNegative = Annotated[float, Field(ge=0, le=MOST, allow_inf_nan=False), AfterValidator(no_dust)]
Thread = Literal["M5", "M6", "M8", "M10", "M12"]


class Part(BaseModel):
    """Common to all parts: an id, words for people, and where the figures come from."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True, str_max_length=400)

    id: PartId
    label: str
    source: str = Field(min_length=1, description="Standard and clause, data sheet, or that it is representative")


class Conductor(Part):
    """A conductor size."""

    system: Literal["metric", "awg", "sae"] = "metric"
    area_mm2: Positive
    r_ohm_per_km: Positive = Field(description="At 20 C")
    outer_mm: Positive = Field(description="Diameter over the insulation")


class Insulation(Part):
    """An insulation's temperature rating."""

    max_c: Annotated[float, Field(gt=40, le=300)] = Field(description="Continuous conductor temperature")
    fault_c: Annotated[float, Field(gt=40, le=400)] | None = Field(
        None, description="Conductor temperature withstood for up to 5 s; 50 K above the continuous where none is given"
    )


Gate = tuple[Positive, Positive | None, Positive | None]


def _pairs(value: object) -> object:
    if isinstance(value, list):
        # A strict reader takes no list for a tuple once a validator of Python has touched it.
        return tuple(tuple(pair) if isinstance(pair, list) else pair for pair in value)
    if not isinstance(value, str):
        return value
    try:
        return tuple(tuple(float(x) for x in pair.split(":")) for pair in value.split(";"))
    except ValueError:
        raise ValueError(say("expected pairs of volts and kiloamperes such as 14:10;32:5")) from None


class DeviceFamily(Part):
    """A family of overcurrent devices."""

    kind: Literal["fuse", "breaker"]
    min_a: Positive
    max_a: Positive
    max_v_dc: Positive
    interrupt_v_ka: Annotated[tuple[tuple[Positive, Positive], ...], BeforeValidator(_pairs)] = Field(
        min_length=1, description="Interrupt rating: pairs of volts and kiloamperes"
    )
    terminals: Thread | Literal["blade", "clamp"]
    ignition_protected: Literal["yes", "no", "some"]
    body_v_at_rated: NotNegative = Field(description="Drop over the body at rated current")
    series: Literal["general", "iso", "iec"] = Field("general", description="Of standard ratings that it comes in")
    curve: PartId | None = Field(
        None, description="Family of the library whose opening band it has; else its own gates"
    )
    gates: tuple[Gate, ...] = Field((), description="Own band: multiple of rating, shortest and longest time in s")
    sided: Literal["yes", "line", "no"] = Field(
        "no", description="Its terminals are marked: line and load side only, or polarity, whose arc is driven one way"
    )
    switching: Literal["yes", "no"] = Field(
        "no", description="A breaker that may serve as a switch: made to be opened and closed by hand under load"
    )
    release: Literal["fuse", "thermal", "none"] = Field("fuse", description="How its rating follows the ambient")
    floor_s: NotNegative = Field(0.0, description="Mechanical opening time of a breaker")
    beyond: Literal["i2t", "constant"] = Field("i2t", description="How its times go on beyond the last gate")

    @field_validator("gates")
    @classmethod
    def _falling(cls, gates: tuple[Gate, ...]) -> tuple[Gate, ...]:
        """More current never takes longer, and nothing opens later than it must."""
        for edge, what in ((1, "shortest"), (2, "longest")):
            known = [(g[0], g[edge]) for g in gates if g[edge] is not None]
            for (m0, t0), (m1, t1) in pairwise(known):
                if m1 <= m0:
                    raise ValueError(say("multiples must ascend: {m1:g} after {m0:g}", m1=m1, m0=m0))
                if t1 > t0:  # type: ignore[operator]
                    raise ValueError(
                        say(
                            "the {what} time must not grow with the current: {t1:g} s at {m1:g} after {t0:g} s at {m0:g}",
                            what=what,
                            t1=t1,
                            m1=m1,
                            t0=t0,
                            m0=m0,
                        )
                    )
        for m, short, long in gates:
            if short is not None and long is not None and short > long:
                raise ValueError(
                    say(
                        "at {m:g} the shortest time {short:g} s is above the longest {long:g} s",
                        m=m,
                        short=short,
                        long=long,
                    )
                )
        return gates

    def interrupt_a(self, volts: float) -> float | None:
        """Interrupt rating at a voltage, A: a rating counts at the voltage it was tested at and below.

        None above the highest.

        Parameters
        ----------
        volts : float
            Direct voltage at the place, V.
        """
        able = [ka for tested_v, ka in self.interrupt_v_ka if tested_v >= volts]
        return 1000.0 * max(able) if able else None


class Chemistry(Part):
    """A battery chemistry; all figures of one cell at 25 C."""

    cells_per_12v: Annotated[int, Field(gt=0)]
    r_ohm_ah: Positive
    r_empty_factor: Annotated[float, Field(ge=1, le=20)] = Field(
        1.0, description="Resistance when empty over that above 30 % charge; linear between"
    )
    vented: Literal["yes", "no"] = Field("no", description="Gives off hydrogen when it is charged")
    gas_boost_ma_ah: Annotated[float, Field(ge=0, le=1000)] = Field(
        0.0, description="Current that makes gas at boost charge, per Ah"
    )
    ocv_0: Positive
    ocv_10: Positive
    ocv_20: Positive
    ocv_30: Positive
    ocv_40: Positive
    ocv_50: Positive
    ocv_60: Positive
    ocv_70: Positive
    ocv_80: Positive
    ocv_90: Positive
    ocv_100: Positive
    max_discharge_c: Positive
    max_charge_c: Positive
    stop_v: Positive
    full_v: Positive
    accept_ohm_ah: NotNegative = Field(
        0.0, description="What a cell that is charged meets besides its resistance, when empty; more the fuller it is"
    )
    accept_end: Annotated[float, Field(gt=0, le=1)] = Field(
        0.02, description="How near to full that stops growing, as a share of the capacity"
    )
    charge_efficiency: Annotated[float, Field(gt=0, le=1)] = Field(
        1.0, description="Of the charge that goes in, what stays"
    )
    rate_exponent: Annotated[float, Field(ge=1, le=1.6)] = Field(
        1.0, description="Peukert's: how much less is had at more than the current of twenty hours"
    )
    tail_c: NotNegative = Field(0.0, description="Current at held voltage below which it counts as full, per Ah")
    charge_least_c: Annotated[float, Field(ge=-60, le=40)] = Field(-20.0, description="Coldest that it may be charged")
    charge_most_c: Annotated[float, Field(ge=20, le=100)] = Field(45.0, description="Warmest that it may be charged")
    most_c: Annotated[float, Field(ge=20, le=100)] = Field(50.0, description="Warmest that it may be at all")
    usable_fraction: Annotated[float, Field(gt=0, le=1)]
    usable_note: str = ""

    @property
    def ocv_per_cell_v(self) -> tuple[float, ...]:
        """Open-circuit voltage at 0, 10 ... 100 % charge."""
        return tuple(getattr(self, f"ocv_{k}") for k in range(0, 101, 10))


class Stud(BaseModel):
    """A stud thread and the lugs sold for it."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    thread: Thread
    label: str
    diameter_mm: Positive
    hole_mm: Positive
    lug_min_mm2: Positive
    lug_max_mm2: Positive
    source: str


class OwnParts(BaseModel):
    """Parts that a plan carries itself; one with the id of a library part replaces it."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    conductors: tuple[Conductor, ...] = ()
    insulations: tuple[Insulation, ...] = ()
    device_families: tuple[DeviceFamily, ...] = ()
    battery_chemistries: tuple[Chemistry, ...] = ()
