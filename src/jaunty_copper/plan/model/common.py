"""What all parts of a plan share: kinds of values, names, places."""

from datetime import date
from functools import cached_property
from pathlib import PurePosixPath
from typing import Annotated, ClassVar, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from jaunty_copper.language import say
from jaunty_copper.parts.models import no_dust
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
DayShare = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Celsius = Annotated[float, Field(ge=-50, le=150, allow_inf_nan=False)]
Volts = Annotated[float, Field(ge=0.01, le=1000, allow_inf_nan=False)]
Ohm = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False), AfterValidator(no_dust)]


def _on_the_calendar(day: str) -> str:
    try:
        date.fromisoformat(day)
    except ValueError:
        raise ValueError(say("the calendar has no day {day}", day=day)) from None
    return day


def _a_day(shares: tuple[float, ...]) -> tuple[float, ...]:
    if len(shares) not in (0, 24):
        raise ValueError(say("a day has 24 hours, not {count}", count=len(shares)))
    return shares


ByHour = Annotated[tuple[DayShare, ...], AfterValidator(_a_day)]
"""Of each hour from midnight on, how much of it something runs; empty where nobody says when."""
Day = Annotated[str, Field(pattern=r"^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$"), AfterValidator(_on_the_calendar)]
Angle = Literal[0, 45, 90]
Measured = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]


def _relative(path: str) -> str:
    """A picture's place seen from the plan's own file, so that both can be moved together."""
    pure = PurePosixPath(path)
    if pure.is_absolute() or ".." in pure.parts or "\\" in path or ":" in path:
        raise ValueError(say("a picture lies beside the plan or below it: give its path from there, with /"))
    return path


class Model(BaseModel):
    """Common to all parts of a plan: frozen, and unknown fields are errors."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True, ignored_types=(cached_property,))


class Zone(Model):
    """A place with an air temperature and hazards of its own."""

    id: Id
    name: Text = ""
    ambient_c: Celsius = 30.0
    engine_space: bool = Field(False, description="Hot by an engine: the code's engine-space factor applies")
    ventilated: bool = Field(False, description="To the outside, so that hydrogen cannot gather")
    opening_cm2: Annotated[float, Field(gt=0, le=1e5, allow_inf_nan=False)] | None = Field(
        None, description="Free area of each of its openings to the outside, in and out"
    )
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


OPEN_AIR = Zone(id="open-air", name=say("open air"))
"""Where nothing else is said: 30 C, as the ampacity tables assume."""


def split_ref(ref: str) -> tuple[str, str]:
    """Item id and terminal name of a terminal reference."""
    item, _, terminal = ref.partition(".")
    return item, terminal
