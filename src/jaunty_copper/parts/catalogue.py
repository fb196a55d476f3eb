"""The parts library, read once from the data files beside this module."""

import csv
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

from pydantic import TypeAdapter

from jaunty_copper.parts.models import Chemistry, Conductor, DeviceFamily, Gate, Insulation, OwnParts, Stud

T = TypeVar("T")
DATA = Path(__file__).parent / "data"


@dataclass(frozen=True)
class Catalogue:
    """All parts at hand, by id, in the order of their files."""

    conductors: Mapping[str, Conductor]
    insulations: Mapping[str, Insulation]
    device_families: Mapping[str, DeviceFamily]
    battery_chemistries: Mapping[str, Chemistry]
    studs: Mapping[str, Stud]
    gates: Mapping[str, tuple[Gate, ...]]
    series_a: Mapping[str, tuple[float, ...]]

    @property
    def device_ratings_a(self) -> tuple[float, ...]:
        """Standard ratings of the general series, A, ascending: of switches, bars and most devices."""
        return self.series_a["general"]

    def with_own(self, own: OwnParts) -> "Catalogue":
        """Return the catalogue with a plan's own parts added or put in place of namesakes."""
        if own == OwnParts():
            return self
        added: dict[str, Any] = {
            name: {**getattr(self, name), **_by_id(getattr(own, name))} for name in OwnParts.model_fields
        }
        return replace(self, **added)

    def ratings(self, family: DeviceFamily) -> tuple[float, ...]:
        """Standard ratings that a family comes in, A, ascending."""
        series = self.series_a[family.series]
        return series[bisect_left(series, family.min_a) : bisect_right(series, family.max_a)]

    def gates_of(self, family: DeviceFamily) -> tuple[Gate, ...]:
        """Gates of a family's opening band: its own, or of the family that it opens like."""
        return family.gates or self.gates.get(family.curve or family.id, ())

    def sizes(self, system: str) -> tuple[Conductor, ...]:
        """Conductors of one system (metric, awg, sae), thinnest first."""
        return tuple(sorted((c for c in self.conductors.values() if c.system == system), key=lambda c: c.area_mm2))


def read_table(text: str) -> list[dict[str, str]]:
    """Rows of a data file: CSV with a header, lines that begin with # left out."""
    return list(csv.DictReader(line for line in text.splitlines() if not line.startswith("#")))


@cache
def read_data(name: str) -> tuple[dict[str, str], ...]:
    """Rows of a data file that has no model of its own: plain figures with their source."""
    return tuple(read_table((DATA / f"{name}.csv").read_text("utf-8")))


def _load(name: str, model: type[T]) -> list[T]:
    text = (DATA / f"{name}.csv").read_text(encoding="utf-8")
    adapter: TypeAdapter[Any] = TypeAdapter(list[model])  # type: ignore[valid-type]
    rows: list[T] = adapter.validate_python(read_table(text))
    return rows


def _gates() -> dict[str, tuple[Gate, ...]]:
    found: dict[str, list[Gate]] = {}
    for row in read_table((DATA / "time_current_gates.csv").read_text("utf-8")):
        short, long = (float(row[name]) if row[name] else None for name in ("min_s", "max_s"))
        found.setdefault(row["family"], []).append((float(row["multiple"]), short, long))
    return {family: tuple(gates) for family, gates in found.items()}


def _series() -> dict[str, tuple[float, ...]]:
    found: dict[str, list[float]] = {}
    for row in read_data("device_ratings"):
        found.setdefault(row["series"], []).append(float(row["rating_a"]))
    return {name: tuple(ratings) for name, ratings in found.items()}


def _by_id(parts: Iterable[Any]) -> dict[str, Any]:
    return {part.id: part for part in parts}


@cache
def library() -> Catalogue:
    """The parts that ship with the program."""
    return Catalogue(
        conductors=_by_id(_load("conductors", Conductor)),
        insulations=_by_id(_load("insulations", Insulation)),
        device_families=_by_id(_load("device_families", DeviceFamily)),
        battery_chemistries=_by_id(_load("battery_chemistries", Chemistry)),
        studs={s.thread: s for s in _load("studs", Stud)},
        gates=_gates(),
        series_a=_series(),
    )
