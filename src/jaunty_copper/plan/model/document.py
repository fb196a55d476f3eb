"""Conductors, scenarios, and the plan as a whole."""

from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from jaunty_copper.language import say
from jaunty_copper.parts.models import NotNegative, OwnParts, PartId, Positive, Thread, no_dust
from jaunty_copper.plan.model.common import (
    OPEN_AIR,
    VERSION,
    Angle,
    Celsius,
    Day,
    DayShare,
    Id,
    Model,
    Named,
    Ohm,
    Percent,
    TerminalRef,
    Text,
    Zone,
    split_ref,
)
from jaunty_copper.plan.model.equipment import AnyEquipment
from jaunty_copper.plan.model.items import Item
from jaunty_copper.plan.model.records import Board, Entry, Override, Reading, Route, StockPiece
from jaunty_copper.plan.text import one_line


class Run(Model):
    """A conductor from terminal to terminal."""

    id: Id
    a: TerminalRef
    b: TerminalRef
    length_m: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False), AfterValidator(no_dust)] = Field(
        description="One way; 0 where the one is bolted straight to the other"
    )
    conductor: PartId = "mm2-10"
    insulation: PartId = "pvc-105"
    parallel: Annotated[int, Field(ge=1, le=12)] = Field(1, description="How many alike in parallel")
    follows_load: bool = Field(False, description="Its size follows the load's power until a person chooses one")
    zone: Id | None = None
    bundle: Annotated[int, Field(ge=1, le=60)] = Field(1, description="Current-carrying conductors bundled together")
    conduit: bool = Field(False, description="In a conduit or raceway, not clipped or in free air")
    sheathed: bool = Field(False, description="In a covering of its own besides the insulation")
    short_proof: bool = Field(False, description="Laid so that a short circuit is unlikely, nothing that burns near it")
    apart: bool = Field(False, description="Its return does not lie beside it: twice the inductance")
    cranking: bool = Field(False, description="Feeds a starter")
    lug_a: Thread | None = Field(None, description="Hole of the lug at a; fits the stud where none is given")
    lug_b: Thread | None = None
    lug_angle_a: Angle = Field(0, description="Degrees by which the lug at a is bent")
    lug_angle_b: Angle = 0
    route: Id | None = Field(None, description="The route it is laid in")
    measured_ohm: Ohm | None = Field(None, description="Of the whole, with both joints; replaces the computed")
    joint_a_ohm: Ohm | None = Field(None, description="Measured, of the joint at a")
    joint_b_ohm: Ohm | None = None


Switching = Literal["off", "on", "surge", "open", "closed"]
State = Switching | Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class Scenario(Model):
    """What runs together, at which charge and ambient."""

    id: Id
    name: Text = ""
    soc_percent: Percent = 80.0
    states: dict[Id, State] = Field(
        default_factory=dict,
        description="By equipment: off, on, surge or a share of its power; by switch: open or closed. "
        "Equipment not named is on, a switch not named is as drawn",
    )
    ambient_c: dict[Id, Celsius] = Field(default_factory=dict, description="By zone, where it differs")
    minutes: Annotated[float, Field(gt=0, le=1e5)] | None = Field(
        None, description="How long it lasts, for the warmth of conductors; for good where none"
    )
    after: Id | None = Field(None, description="The scenario before it: its conductors begin as warm as that ended")

    @property
    def title(self) -> str:
        """Its name, or its id where it has none."""
        return one_line(self.name) or self.id

    def air_c(self, zone: Zone) -> float:
        """Air of a zone while it lasts, C."""
        return self.ambient_c.get(zone.id, zone.ambient_c)


Practice = Literal["iec_60364", "iso_small_craft", "nfpa_70", "north_american_small_craft", "telecom_dc_48v"]
"""Ids of the codes that the program has; a test holds them against the data files."""


class Plan(Model):
    """The whole document."""

    format: Literal["jaunty-copper-plan"] = "jaunty-copper-plan"
    version: Literal[1] = VERSION
    name: Text = ""
    note: Annotated[str, Field(max_length=20000)] = ""
    practice: Practice = Field("north_american_small_craft", description="The code by which the plan is judged")
    overrides: tuple[Override, ...] = ()
    zones: tuple[Zone, ...] = ()
    items: tuple[Item, ...] = ()
    equipment: tuple[AnyEquipment, ...] = ()
    runs: tuple[Run, ...] = ()
    scenarios: tuple[Scenario, ...] = ()
    autonomy_days: Annotated[float, Field(ge=1e-3, le=60)] = Field(1.0, description="Required autonomy")
    sun: Annotated[tuple[DayShare, ...], Field(max_length=30)] = Field(
        (), description="Of each of the days to look ahead, how much of its yield a solar controller gives"
    )
    floating: bool = Field(False, description="No pole is bonded on purpose: each needs its own protection")
    devices_by: Literal["conductor", "load"] = Field(
        "conductor",
        description="School of choosing a device: the largest that protects the conductor, or the smallest "
        "that carries the load",
    )
    parts: OwnParts = OwnParts()
    reels_m: tuple[Positive, ...] = Field((5.0, 10.0, 25.0, 50.0), description="Lengths in which cable can be bought")
    stock: tuple[StockPiece, ...] = Field((), description="Cable left over from before, used first")
    prices: dict[str, NotNegative] = Field(
        default_factory=dict, description="Own prices of lines of the list of materials, by their key"
    )
    packs: dict[str, Annotated[int, Field(ge=1, le=100_000)]] = Field(
        default_factory=dict,
        description="How many of a line are in a pack, by its key; the price is then that of a pack",
    )
    ready_m: tuple[Positive, ...] = Field(
        (), description="Lengths in which cables can be bought ready-made; none: made to length"
    )
    stud_material: Literal["brass", "steel"] = Field("brass", description="Of studs and bolts, for their torque")
    torques: dict[str, Positive] = Field(
        default_factory=dict, description="Own torques in N m by thread and material, such as M8:brass"
    )
    readings: tuple[Reading, ...] = Field((), description="Taken on the finished system")
    log: tuple[Entry, ...] = Field((), description="What happened since, by its days")
    routes: tuple[Route, ...] = ()
    boards: tuple[Board, ...] = ()
    done: tuple[Annotated[str, Field(max_length=120)], ...] = Field((), description="Steps of the work that are ticked")
    done_on: dict[str, Day] = Field(default_factory=dict, description="The day on which each of them was")

    @property
    def title(self) -> str:
        """Its name on one line; empty where it has none."""
        return one_line(self.name)

    def __copy__(self) -> "Plan":
        """Copy the fields only: what is cached belongs to the plan it was made from."""
        return Plan.model_construct(self.model_fields_set, **{n: getattr(self, n) for n in Plan.model_fields})

    @cached_property
    def by_id(self) -> dict[str, Named]:
        """Items and equipment by id."""
        return {x.id: x for x in self.placed}

    @cached_property
    def run_by_id(self) -> dict[str, Run]:
        """Runs by id."""
        return {r.id: r for r in self.runs}

    @property
    def placed(self) -> Iterator[Named]:
        """Everything with terminals."""
        yield from self.items
        yield from self.equipment

    def run_title(self, run: Run) -> str:
        """What a run joins, in words."""
        a, b = (self.by_id[split_ref(ref)[0]].title for ref in (run.a, run.b))
        return say("{a} to {b}", a=a, b=b)

    @cached_property
    def terminal_titles(self) -> tuple[tuple[str, str], ...]:
        """Every terminal's reference, and what it is called."""
        for items, equipment, titles in _titled[:]:
            if items is self.items and equipment is self.equipment:
                return titles
        made = tuple((x.ref(t), f"{x.title} · {t}") for x in self.placed for t in x.terminal_names)
        _titled[:] = [(self.items, self.equipment, made)]
        return made

    @cached_property
    def runs_at(self) -> dict[str, tuple[Run, ...]]:
        """Runs that end at each terminal, by terminal reference."""
        at: dict[str, list[Run]] = {}
        for run in self.runs:
            at.setdefault(run.a, []).append(run)
            at.setdefault(run.b, []).append(run)
        return {ref: tuple(runs) for ref, runs in at.items()}

    def zone_of(self, zone: str | None) -> Zone:
        """The zone of that id, or the open air of the place where none is given."""
        return next((z for z in self.zones if z.id == zone), OPEN_AIR)


_titled: list[tuple[tuple[Item, ...], tuple[AnyEquipment, ...], tuple[tuple[str, str], ...]]] = []
"""What was called by its titles last: most edits are of conductors."""
