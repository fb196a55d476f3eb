"""Lenses: the same map, toned and labelled for one question."""

from collections.abc import Callable
from math import isfinite, nan
from typing import NamedTuple

from jaunty_copper.desktop import words
from jaunty_copper.desktop.picture import Picture
from jaunty_copper.desktop.words import Units
from jaunty_copper.plan.model import Equipment, Run


class Lens(NamedTuple):
    """One way to look at the map.

    Attributes
    ----------
    tone : callable
        From picture, run and scenario to the share of its limit that a run uses.
    run, part, equipment : callable
        What to write at a run, an inline item and equipment.
    """

    id: str
    title: str
    hint: str
    tone: Callable[[Picture, Run, str | None], float]
    run: Callable[[Picture, Run, str | None, Units], str]
    part: Callable[[Picture, str, str | None], str]
    equipment: Callable[[Picture, Equipment, str | None], str]


def _used(picture: Picture, run: Run, scenario: str | None) -> float:
    return picture.run(run.id, scenario).used


def _size(picture: Picture, run: Run, _: str | None, units: Units) -> str:
    if picture.study is None:
        return ""
    parts = picture.study.wiring.parts
    conductor = parts.conductors.get(run.conductor)
    if conductor is None:
        return ""
    count = f"{run.parallel} × " if run.parallel > 1 else ""
    return f"{count}{units.size(conductor, parts)} · {units.length(run.length_m)}"


def _through(picture: Picture, id_: str, scenario: str | None) -> str:
    return words.amps(picture.through(id_, scenario)[0])


def _flow(picture: Picture, e: Equipment, scenario: str | None) -> str:
    r = picture.equipment(e, scenario)
    if r.mode == "off":
        return "off"
    arrow = "◂ " if r.current_a < -1e-9 else ""
    return f"{arrow}{words.amps(r.current_a)}   {words.volts(r.voltage_v)}"


def _share_of_allowed(picture: Picture, run: Run, scenario: str | None) -> float:
    """A run's drop as a share of what its row's equipment may lose, or of the tightest limit where rows share it."""
    lost = abs(picture.run(run.id, scenario).drop_v)
    study, case = picture.study, picture.case
    if not isfinite(lost) or study is None or case is None or run.a not in study.wiring.node:
        return nan
    e = study.plan.by_id.get(picture.row_of_run.get(run.id) or "")
    if isinstance(e, Equipment):
        return lost / (case.drop_limit(e)[0] / 100.0 * e.nominal_v)
    volts = float(study.across_v[study.wiring.node[run.a]])
    return lost / (case.book.limit("drop_critical_percent") / 100.0 * volts) if volts > 0.0 else 0.0


def _lost(picture: Picture, run: Run, scenario: str | None, _: Units) -> str:
    return words.drop(picture.run(run.id, scenario).drop_v)


def _lost_in(picture: Picture, id_: str, scenario: str | None) -> str:
    return words.drop(picture.through(id_, scenario)[1])


def _drop(picture: Picture, e: Equipment, scenario: str | None) -> str:
    r = picture.equipment(e, scenario)
    if r.mode == "off":
        return "off"
    return f"−{words.drop(r.drop_v)}   {100 * r.drop_share:.1f} of {100 * r.limit_share:.0f} %"


LENSES = (
    Lens("flow", "Flow", "Current everywhere; tone by the share of ampacity used", _used, _size, _through, _flow),
    Lens(
        "drop", "Drop", "Voltage lost everywhere; tone by the share of the allowed drop",
        _share_of_allowed, _lost, _lost_in, _drop,
    ),
)  # fmt: skip
