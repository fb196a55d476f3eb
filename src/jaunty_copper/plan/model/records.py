"""What is built, bought, measured and noted."""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from jaunty_copper.parts.models import PartId, Positive
from jaunty_copper.plan.model.common import Day, Id, Measured, Millimetres, Model, Text, _relative
from jaunty_copper.plan.text import one_line


class Override(Model):
    """A limit of the practice that this plan replaces."""

    limit: str
    value: Annotated[float, Field(allow_inf_nan=False)]
    reason: Annotated[str, Field(min_length=1, max_length=400)]


MEASURED_IN = ("measuring", "discharging")
"""Scenarios to measure in that need not be in the plan: everything on; all loads on and all sources off."""


class Reading(Model):
    """Something measured on the finished system."""

    scenario: Id = Field(description="What ran; measuring for everything on")
    quantity: Literal["volts", "amps", "joint", "celsius"] = Field(
        "volts",
        description="volts from a to b; amps through a; joint: volts over the joint at the end b of a; celsius on a, after b minutes",
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
    depth_mm: Positive | None = Field(
        None, description="From the board to the inside of its lid; none where it is open"
    )
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
