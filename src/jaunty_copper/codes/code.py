"""Codes: the limits of each school, read from the data files in ``data``."""

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from math import inf
from pathlib import Path
from typing import Any

from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library, read_table
from jaunty_copper.parts.models import Conductor
from jaunty_copper.plan.model import Override

FOLDER = Path(__file__).parent / "data"


class UnknownCode(KeyError):
    """There is no code of that name."""

    def __str__(self) -> str:
        return say(
            "there is no practice {args!r}; there are: {code_names}",
            args=self.args[0],
            code_names=", ".join(code_names()),
        )


@dataclass(frozen=True)
class Limit:
    """One figure of a code with its unit and source."""

    value: float
    unit: str
    source: str


@dataclass(frozen=True)
class AmpacityTable:
    """A code's table of ampacity, and how heat and company lower it.

    Attributes
    ----------
    areas_mm2 : tuple of float
        Sections of the rows, ascending.
    classes_c : tuple of int
        Insulation temperature ratings of the columns, ascending.
    amps : tuple of tuple of float
        Rows by columns, single conductors at `ambient_c`.
    engine_space_c : float
        Air temperature that the engine-space factors stand for.
    engine_space_factors : mapping
        By insulation class.
    bundle_factors : tuple of (count, factor)
        From how many bundled conductors on a factor applies.
    lowest_engine_space_class : int
        Insulation below it may not be used in an engine space.
    conduit : AmpacityTable or None
        For conductors in conduit, where the code distinguishes them.
    """

    areas_mm2: tuple[float, ...]
    classes_c: tuple[int, ...]
    amps: tuple[tuple[float, ...], ...]
    ambient_c: float
    engine_space_c: float
    engine_space_factors: Mapping[int, float]
    bundle_factors: tuple[tuple[int, float], ...]
    lowest_engine_space_class: int
    source: str
    engine_space_source: str
    bundle_source: str
    conduit: "AmpacityTable | None" = None


@dataclass(frozen=True)
class Bond:
    """How thick the bond between a pole and the chassis is.

    Attributes
    ----------
    steps : tuple of (mm2, share, mm2)
        Up to which section of the largest live conductor the bond has which share of it, and at least how much.
    sizes_below : int
        By how many sizes it may be thinner besides.
    least_section : float
        In any case, mm2.
    source : str
        Where that comes from.
    """

    steps: tuple[tuple[float, float, float], ...]
    sizes_below: int
    least_section: float
    source: str

    def least_mm2(self, largest_mm2: float, sizes_mm2: Sequence[float]) -> float:
        """Least section of a bond, mm2.

        Parameters
        ----------
        largest_mm2 : float
            Of the largest live conductor.
        sizes_mm2 : sequence of float
            That conductors come in, ascending.
        """
        asked = next(
            max(share * largest_mm2, least) for up_to, share, least in self.steps if largest_mm2 <= up_to * 1.001
        )
        if self.sizes_below:
            thinner = [s for s in sizes_mm2 if s < asked * 0.999]
            asked = thinner[-self.sizes_below] if len(thinner) >= self.sizes_below else asked
        return max(asked, self.least_section)


@dataclass(frozen=True)
class Code:
    """One code.

    Attributes
    ----------
    id, name, summary : str
        For files, for people, and what it is about.
    ampacity : AmpacityTable
        Its table.
    limits : mapping
        Its figures, by name.
    edition : str
        It was written for.
    notices : str
        What it says of notices on the spot.
    covering : str
        What lets a conductor be longer before its device: sheathed, raceway or short_proof.
    bond : Bond
        Of a pole to the chassis.
    small_devices : tuple of (mm2, A)
        Up to which section a device may have which rating at most, ascending; the code's own rule for small conductors.
    small_devices_source : str
        Where that stands.
    unlisted, unlisted_source : frozenset of str, str
        Device families that are no protection of a circuit by it, and where that stands.
    """

    id: str
    name: str
    summary: str
    ampacity: AmpacityTable
    limits: Mapping[str, Limit]
    edition: str
    notices: str
    covering: str
    bond: Bond
    small_devices: tuple[tuple[float, float], ...]
    small_devices_source: str
    unlisted: frozenset[str]
    unlisted_source: str

    def limit(self, name: str) -> float:
        """The value of a limit."""
        return self.limits[name].value

    def source(self, name: str) -> str:
        """Where a limit comes from."""
        return self.limits[name].source

    def largest_device(self, area_mm2: float) -> float:
        """Largest rating, A, that the rule for small conductors lets a device have before one of a section; inf above them.

        Parameters
        ----------
        area_mm2 : float
            Of one conductor, mm2.
        """
        return next((amps for area, amps in self.small_devices if area_mm2 <= area * 1.001), inf)

    def overridden(self, overrides: tuple[Override, ...]) -> "Code":
        """Return the code with a plan's own limits in place; names it does not know are left out."""
        changed = {
            o.limit: replace(
                self.limits[o.limit],
                value=o.value,
                source=say(
                    "set in this plan: {reason} (instead of {value:g}, {source})",
                    reason=o.reason,
                    value=self.limits[o.limit].value,
                    source=self.limits[o.limit].source,
                ),
            )
            for o in overrides
            if o.limit in self.limits
        }
        return replace(self, limits={**self.limits, **changed}) if changed else self


def code_names() -> tuple[str, ...]:
    """Ids of all codes, in the order of their names."""
    return tuple(sorted(f.name.removesuffix(".toml") for f in FOLDER.iterdir() if f.name.endswith(".toml")))


@cache
def code_name(id_: str) -> str:
    """What a code is called, from the head of its file alone: lists show all codes, and judge by one.

    Raises
    ------
    UnknownCode
        There is none of that id.
    """
    head, _, _ = _text_of(id_).partition("\n[")
    name: str = tomllib.loads(head)["name"]
    return name


def _text_of(id_: str) -> str:
    if id_ not in code_names():
        raise UnknownCode(id_)
    return (FOLDER / f"{id_}.toml").read_text("utf-8")


@cache
def code_of(id_: str) -> Code:
    """Read a code.

    Raises
    ------
    UnknownCode
        There is none of that id.
    """
    data = tomllib.loads(_text_of(id_))
    a = data["ampacity"]
    open_air = _table(a, a["table"])
    if "conduit_table" in a:
        open_air = replace(open_air, conduit=_table(a, a["conduit_table"]))
    return Code(
        id=id_,
        name=data["name"],
        summary=data["summary"],
        ampacity=open_air,
        limits={name: Limit(float(x["value"]), x["unit"], x["source"]) for name, x in data["limits"].items()},
        edition=data["edition"],
        notices=data["notices"],
        covering=data["covering"],
        bond=Bond(
            tuple((float(x), float(y), float(z)) for x, y, z in data["bond"]["steps"]),
            data["bond"]["sizes_below"],
            float(data["bond"]["least_mm2"]),
            data["bond"]["source"],
        ),
        small_devices=tuple((float(area), float(amps)) for area, amps in data.get("small_devices", [])),
        small_devices_source=data.get("small_devices_source", ""),
        unlisted=frozenset(data.get("unlisted", {}).get("families", ())),
        unlisted_source=data.get("unlisted", {}).get("source", ""),
    )


KCMIL_MM2 = 0.506707
"""Of a thousand circular mils."""


def _area(gauges: Mapping[str, Conductor], size: str, system: str) -> float:
    """Section of a table's row, mm²: a gauge, thousands of circular mils, or mm²."""
    if size.endswith("kcmil"):
        return float(size.removesuffix("kcmil")) * KCMIL_MM2
    return gauges[f"awg-{size}"].area_mm2 if system == "awg" else float(size)


def _table(a: dict[str, Any], name: str) -> AmpacityTable:
    rows = read_table((FOLDER / name).read_text("utf-8"))
    classes = tuple(int(c) for c in rows[0] if c != "size")
    gauges = library().conductors
    return AmpacityTable(
        areas_mm2=tuple(_area(gauges, r["size"], a["size"]) for r in rows),
        classes_c=classes,
        amps=tuple(tuple(float(r[str(c)]) for c in classes) for r in rows),
        ambient_c=float(a["ambient_c"]),
        engine_space_c=float(a["engine_space_c"]),
        engine_space_factors={int(c): float(f) for c, f in a["engine_space_factors"].items()},
        bundle_factors=tuple((int(n), float(f)) for n, f in a["bundle_factors"]),
        lowest_engine_space_class=int(a["lowest_engine_space_class"]),
        source=a["source"],
        engine_space_source=a["engine_space_source"],
        bundle_source=a["bundle_source"],
    )
