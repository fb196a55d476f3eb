"""Lenses: the same map, toned and labelled for one question."""

from __future__ import annotations

from collections.abc import Callable
from math import isfinite, log10, nan
from typing import TYPE_CHECKING, NamedTuple

from jaunty_copper.documents import words
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.plan.model import Breaker, Equipment, Fuse, Run

if TYPE_CHECKING:
    from jaunty_copper.commissioning.bands import Interval


class Lens(NamedTuple):
    """One way to look at the map.

    Attributes
    ----------
    tone : callable
        From picture, run and scenario to the share of its limit that a run uses.
    run, part, equipment, hub : callable
        What to write at a run, an inline item, equipment, and below a bar for its first stud.
    early : bool
        Whether operating points tell all of it, so that it can be shown before faults and findings are known.
    """

    id: str
    title: str
    hint: str
    tone: Callable[[Picture, Run, str | None], float]
    run: Callable[[Picture, Run, str | None, Units], str]
    part: Callable[[Picture, str, str | None], str]
    equipment: Callable[[Picture, Equipment, str | None], str]
    hub: Callable[[Picture, str, str | None], str]
    early: bool = False


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
        return say("off")
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
    return lost / (case.code.limit("drop_critical_percent") / 100.0 * volts) if volts > 0.0 else 0.0


def _lost(picture: Picture, run: Run, scenario: str | None, _: Units) -> str:
    return words.drop(picture.run(run.id, scenario).drop_v)


def _lost_in(picture: Picture, id_: str, scenario: str | None) -> str:
    return words.drop(picture.through(id_, scenario)[1])


def _drop(picture: Picture, e: Equipment, scenario: str | None) -> str:
    r = picture.equipment(e, scenario)
    if r.mode == "off":
        return say("off")
    return say(
        "−{drop_v}   {drop_share:.1f} of {limit_share:.0f} %",
        drop_v=words.drop(r.drop_v),
        drop_share=100 * r.drop_share,
        limit_share=100 * r.limit_share,
    )


def _volts_at(picture: Picture, ref: str, scenario: str | None) -> str:
    v = picture.node_v(ref, scenario)
    return words.volts(v) if isfinite(v) else ""


def _nothing(_: Picture, __: str, ___: str | None) -> str:
    return ""


# Short: what a fault drives


def _worst_end(picture: Picture, run: Run) -> tuple[float, float]:
    """Greatest and least current of a fault at a run's ends: the greatest at the nearer, the least at the farther."""
    if picture.protection is None:
        return nan, nan
    f = picture.protection.faults
    refs = [ref for ref in (run.a, run.b) if ref in f.at]
    if not refs:
        return nan, nan
    return max(map(f.most_a, refs)), min(map(f.least_a, refs))


def _short_tone(picture: Picture, run: Run, _: str | None) -> float:
    most = _worst_end(picture, run)[0]
    if picture.protection is None or not isfinite(most):
        return nan
    # Fault currents span decades: equal steps of tone for equal ratios, down to a thousandth.
    return max(0.0, 1.0 + log10(max(most, 1e-3) / picture.protection.faults.greatest_a) / 3.0)


def _short_run(picture: Picture, run: Run, _: str | None, __: Units) -> str:
    most, least = _worst_end(picture, run)
    return f"{words.amps(most)} … {words.amps(least)}" if isfinite(most) else ""


def _short_part(picture: Picture, id_: str, _: str | None) -> str:
    if picture.protection is None or picture.case is None or id_ not in picture.protection.faults.row:
        return ""
    device = picture.case.plan.by_id[id_]
    if not isinstance(device, Fuse | Breaker):
        return words.amps(picture.protection.faults.prospective(id_)[0])
    # Loaded with the first study.
    from jaunty_copper.codes.interrupting import interrupting

    found = interrupting(picture.case, id_)
    most, able = found.wanted_a, found.able_a
    return (
        say("{most:.1f} of {able:.2g} kA", most=most / 1000.0, able=able / 1000.0)
        if able is not None
        else say("{most:.1f} kA of none", most=most / 1000.0)
    )


def _short_equipment(picture: Picture, e: Equipment, _: str | None) -> str:
    f = picture.protection.faults if picture.protection else None
    if f is None or e.port[0] not in f.at:
        return ""
    return f"{words.amps(f.most_a(e.port[0]))} … {words.amps(f.least_a(e.port[0]))}"


def _short_hub(picture: Picture, ref: str, _: str | None) -> str:
    f = picture.protection.faults if picture.protection else None
    return words.amps(f.most_a(ref)) if f is not None and ref in f.at else ""


# Guard: which device answers for a conductor


def _guard_of(picture: Picture, run: Run) -> tuple[float, tuple[str, ...]] | None:
    """The most that what feeds a run lets through for good, and what that is; None for a run that is none of copper."""
    protection = picture.protection
    if protection is None or run.id not in protection.wiring.branch:
        return None
    k = protection.wiring.branch[run.id]
    if k not in protection.guard.conductors and k not in protection.guard.returns:
        return None
    bound = protection.guard.bound(k)
    return (bound.battery_a, bound.guards) if bound.guards else (bound.amps, bound.feeds)


def _guard_tone(picture: Picture, run: Run, _: str | None) -> float:
    found = _guard_of(picture, run)
    if found is None:
        return 0.0
    amps, feeds = found
    if not isfinite(amps):
        return 2.0
    return 0.15 + 0.8 * (sum(picture.order[d] for d in feeds) % 4) / 3.0


def _guard_run(picture: Picture, run: Run, _: str | None, __: Units) -> str:
    found = _guard_of(picture, run)
    if (
        found is None
        or picture.protection is None
        or not picture.protection.guard.is_live(picture.protection.wiring.branch[run.id])
    ):
        # A return needs no words of its own: its tone is that of what limits it.
        return ""
    amps, feeds = found
    if not isfinite(amps):
        return say("nothing guards this")
    return f"{' + '.join(feeds)}: {amps:g} A" if feeds else say("not fed")


def _guard_part(picture: Picture, id_: str, _: str | None) -> str:
    thing = picture.plan.by_id.get(id_)
    rating = getattr(thing, "rating_a", None)
    return f"{id_} {rating:g} A" if rating else id_


def _guard_equipment(picture: Picture, e: Equipment, _: str | None) -> str:
    runs = picture.plan.runs_at.get(e.port[0], ())
    found = _guard_of(picture, runs[0]) if runs else None
    if found is None:
        return ""
    return (
        say("behind {found}", found=" + ".join(found[1]))
        if isfinite(found[0]) and found[1]
        else say("nothing guards it")
    )


# Spread: between what figures lie where what is not known differs


def _spread_current(picture: Picture, id_: str, scenario: str | None) -> Interval | None:
    state = picture.state_of(id_, scenario)
    if picture.bands is None or state is None:
        return None
    return picture.bands.current(state.scenario.id, state.wiring.branch[id_])


def _spread_tone(picture: Picture, run: Run, scenario: str | None) -> float:
    """The share of its limit that a run uses where it carries most of nine in ten."""
    found, reading = _spread_current(picture, run.id, scenario), picture.run(run.id, scenario)
    if found is None:
        return nan
    return found.high * reading.used / abs(reading.current_a) if reading.current_a else 0.0


def _spread_run(picture: Picture, run: Run, scenario: str | None, _: Units) -> str:
    found, state = _spread_current(picture, run.id, scenario), picture.state_of(run.id, scenario)
    if found is None or state is None or picture.bands is None:
        return ""
    warm = picture.bands.temperature(state.scenario.id, state.wiring.branch[run.id])
    return f"{words.between(found, words.amps)}, {words.between(warm, words.celsius)}"


def _spread_part(picture: Picture, id_: str, scenario: str | None) -> str:
    found = _spread_current(picture, id_, scenario)
    return words.between(found, words.amps) if found is not None else ""


def _spread_equipment(picture: Picture, e: Equipment, scenario: str | None) -> str:
    state, reading = picture.worst_for(e, scenario), picture.equipment(e, scenario)
    if picture.bands is None or state is None:
        return ""
    if reading.mode == "off":
        return say("off")
    plus, minus = (state.wiring.node[ref] for ref in e.port)
    return words.between(picture.bands.volts(state.scenario.id, plus, minus), words.volts)


# Heat: how warm the copper gets, and what devices are worth where they stand


def _heat_tone(picture: Picture, run: Run, scenario: str | None) -> float:
    """The share of the rise that its insulation and terminals stand."""
    w = picture.warmth(run.id, scenario)
    if w is None:
        return nan
    return max(w.ends_c - w.air_c, 0.0) / (w.limit_c - w.air_c) if w.limit_c > w.air_c else 2.0


def _heat_run(picture: Picture, run: Run, scenario: str | None, _: Units) -> str:
    w = picture.warmth(run.id, scenario)
    if w is None:
        return ""
    ends, steady = words.celsius(w.ends_c), words.celsius(w.steady_c)
    return steady if ends == steady else f"{w.ends_c:.0f} → {steady}"


def _air_c(picture: Picture, zone: str | None, scenario: str | None) -> float:
    """The hottest air of a place, C; nan where nothing is solved."""
    place = picture.plan.zone_of(zone)
    return max((s.scenario.air_c(place) for s in picture.states(scenario)), default=nan)


def _heat_part(picture: Picture, id_: str, scenario: str | None) -> str:
    device = picture.protection.devices.get(id_) if picture.protection is not None else None
    air = _air_c(picture, device.item.zone, scenario) if device is not None else nan
    if device is None or not isfinite(air):
        return ""
    # Loaded with the first study.
    from jaunty_copper.physics.curves import ambient_factor

    rating, worth = device.item.rating_a, device.item.rating_a * float(ambient_factor(device.family.release, air))
    return say("{worth:.3g} of {rating:g} A", worth=worth, rating=rating) if worth < 0.97 * rating else f"{rating:g} A"


def _heat_equipment(picture: Picture, e: Equipment, scenario: str | None) -> str:
    """The air about it: what it is connected with is no cooler."""
    air = _air_c(picture, e.zone, scenario)
    return say("air {air}", air=words.celsius(air)) if isfinite(air) else ""


# Read: what was measured, beside what was expected


def _read_tone(picture: Picture, run: Run, _: str | None) -> float:
    """By how far a reading is off; nan where none was taken."""
    read = picture.read.get(run.id)
    return nan if read is None else min(read.times / 5.0, 1.0) if read.times < 5.0 else 1.5


def _said(picture: Picture, id_: str) -> str:
    read = picture.read.get(id_)
    if read is None:
        return ""
    spell = words.drop if read.unit == "V" and abs(read.expected) < 5.0 else (lambda v: f"{v:.4g} {read.unit}")
    return say("{spell} for {spell_2}", spell=spell(read.value), spell_2=spell(read.expected))


def _read_run(picture: Picture, run: Run, _: str | None, __: Units) -> str:
    return _said(picture, run.id)


def _read_at(picture: Picture, id_: str, _: str | None) -> str:
    """A device has little room: what was read, and a mark where it is off."""
    read = picture.read.get(id_)
    if read is None:
        return ""
    mark = "" if read.times <= 1.0 else "▲ " if read.times <= 5.0 else "▲▲ "
    return f"{mark}{words.drop(read.value) if read.unit == 'V' else f'{read.value:.3g} {read.unit}'}"


def _read_equipment(picture: Picture, e: Equipment, _: str | None) -> str:
    return _said(picture, e.id) or ("" if picture.read else say("nothing read yet"))


LENSES = (
    Lens("flow", say("Flow"), say("Current everywhere; tone by the share of ampacity used"), _used, _size, _through, _flow, _volts_at,
         early=True),
    Lens(
        "drop", say("Drop"), say("Voltage lost everywhere; tone by the share of the allowed drop"),
        _share_of_allowed, _lost, _lost_in, _drop, _nothing, early=True,
    ),
    Lens(
        "short", say("Short"), say("What a short circuit drives: greatest … least; devices against their interrupt rating"),
        _short_tone, _short_run, _short_part, _short_equipment, _short_hub,
    ),
    Lens(
        "guard", say("Guard"), say("Which device limits the current in each conductor; hatched where nothing does"),
        _guard_tone, _guard_run, _guard_part, _guard_equipment, _nothing,
    ),
    Lens(
        "read", say("Read"), say("What was measured, beside what was expected; the larger the mark, the further off"),
        _read_tone, _read_run, _read_at, _read_equipment, _nothing,
    ),
    Lens(
        "spread", say("Spread"), say("Between what nine in ten lie where lengths, joints, units, loads and air are not as planned; tone by the share of ampacity used"),
        _spread_tone, _spread_run, _spread_part, _spread_equipment, _nothing,
    ),
    Lens(
        "heat", say("Heat"), say("How warm the copper is when the scenario's time is over → in the end; what devices are worth in the air about them"),
        _heat_tone, _heat_run, _heat_part, _heat_equipment, _nothing, early=True,
    ),
)  # fmt: skip
