"""What can open a device as designed: one small function a cause, with the check that distinguishes it from the next."""

from collections.abc import Iterator
from math import ceil, hypot, inf, isfinite
from typing import Literal, NamedTuple

import numpy as np

from jaunty_copper.language import say
from jaunty_copper.parts.figures import quantity
from jaunty_copper.physics import graph
from jaunty_copper.physics.curves import ambient_factor, data_end_c, warm_share
from jaunty_copper.plan.model import PlugConnector, Source, split_ref
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.starts import starts_of

Cause = Literal[
    "heat", "overload", "start", "again", "loose", "worn", "beside", "plug", "sources", "fault", "neighbour", "none"
]
WARM = 0.3
"""Below this share of what it is worth no heat beside it opens a device."""
TOLERANCE = 0.2
"""Of the current at which a release lets go: calibration, enclosure, neighbours; representative."""
OFF_A = 1.4
"""A current that is farther than this from a cause's own speaks against it, where no time was seen."""
MOST_RESTARTS = 20
NEAR_M = 0.5
"""A plug farther away warms nothing."""
SOAKS_S = {"loose": 60.0, "plug": 120.0, "beside": 300.0, "worn": 0.0}
"""How long heat from elsewhere takes to get into a device; age needs none. Representative."""
HOTTEST_C = 200.0
"""No device stands warmer than that, C, without discolouring; representative."""


class TripExplanation(NamedTuple):
    """One cause that could have opened a device.

    Attributes
    ----------
    cause : str
        heat, overload, start, again (starts one after the other), loose (its terminals or holder), worn, beside (the heat
        of a neighbour), plug, sources (together), fault, neighbour (a fault behind it), or none.
    current_a : float
        That it takes; nan where it is not one current.
    shortest_s, longest_s : float
        Between which times it then opens.
    likelihood : float
        0 to 1: how well what was seen agrees with it; 0 where it is ruled out.
    words, check, cure : str
        For a person: what it is, what would tell it from the others, what mends it.
    ruled_out : str
        What speaks against it for certain; empty where nothing does.
    soonest_s : float, optional
        Before which it is ruled out, where that is not `shortest_s`: near what it holds a little less makes much.
    """

    cause: Cause
    current_a: float
    shortest_s: float
    longest_s: float
    likelihood: float
    words: str
    check: str
    cure: str
    ruled_out: str = ""
    soonest_s: float | None = None


class Seen(NamedTuple):
    """A device that opened, and what ran then."""

    protection: Protection
    device: Device
    air_c: float
    worth_a: float
    flows_a: float


def _times(d: Device, current: float, worth: float) -> tuple[float, float]:
    m = np.array(current / worth)
    return float(d.band.shortest(m)), float(d.band.longest(m))


def _opens_from_c(seen: Seen) -> float:
    """How warm it must be about a device for what flows to open it, C."""
    least = seen.flows_a / float(seen.device.band.short_at[0]) / seen.device.item.rating_a
    low, high = 25.0, HOTTEST_C
    if float(ambient_factor(seen.device.family.release, high)) > least:
        return inf
    for _ in range(40):
        middle = 0.5 * (low + high)
        low, high = (
            (middle, high) if float(ambient_factor(seen.device.family.release, middle)) > least else (low, middle)
        )
    return high


def _lasting(seen: Seen) -> Iterator[TripExplanation]:
    """By what flows for long, at the air it stands in; by heat where it would hold at 25 C."""
    d, current, worth, air, rating = seen.device, seen.flows_a, seen.worth_a, seen.air_c, seen.device.item.rating_a
    fast, slow = _times(d, current, worth)
    if not isfinite(fast):
        return
    # A release that lets go a little early opens many times sooner near what it holds, and is within its tolerance.
    early, _ = _times(d, (1.0 + TOLERANCE) * current, worth)
    cool = float(d.band.shortest(np.array(current / rating)))
    if isfinite(cool) and current > rating:
        yield TripExplanation(
            "overload", current, fast, slow, 0.9,
            say("{current:.3g} A are more than its {rating_a:g} A", current=current, rating_a=rating),
            say("Measure the current while everything runs: more than {rating_a:g} A", rating_a=rating),
            say("Less load, or the load on two circuits; or a thicker conductor and then a larger device"),
            soonest_s=early,
        )  # fmt: skip
        return
    words = say(
        "at {air:.0f} °C its {rating_a:g} A are worth {worth:.3g} A, and {current:.3g} A flow",
        air=air, rating_a=rating, worth=worth, current=current,
    )  # fmt: skip
    if air > data_end_c(d.family.release):
        words += say(" (beyond {end:g} °C by its heat balance)", end=data_end_c(d.family.release))
    holds_c, needed = _opens_from_c(seen), current / float(ambient_factor(d.family.release, air))
    yield TripExplanation(
        "heat", current, fast, slow, 0.9, words,
        say("A thermometer beside it while it runs: {holds:.0f} °C or more", holds=holds_c),
        say(
            "A place below {holds:.0f} °C; or a hydraulic-magnetic breaker, which heat does not move, nor does it then spare a "
            "cable in the same heat; or a thicker conductor and then more than {needed:.3g} A; or the load on two circuits",
            holds=holds_c, needed=needed,
        ),
        soonest_s=early,
    )  # fmt: skip


def _starts(seen: Seen) -> Iterator[TripExplanation]:
    for start in starts_of(seen.protection, seen.device.item.id):
        fast, slow = _times(seen.device, start.current_a, seen.worth_a)
        if fast <= 3.0 * start.lasts_s:
            sure = 0.8 if fast <= start.lasts_s else 0.3
            words = say(
                "the start in “{scenario}” draws {current_a:.3g} A for {lasts_s:g} s; it may open after {fast:.2g} s",
                scenario=start.title, current_a=start.current_a, lasts_s=start.lasts_s, fast=fast,
            )  # fmt: skip
            yield TripExplanation(
                "start", start.current_a, fast, slow, sure, words,
                say("Start it again with a clamp that holds the peak: does it open then and only then?"),
                say("The next rating its conductor allows, or a slower family"),
            )  # fmt: skip


def _again(seen: Seen) -> Iterator[TripExplanation]:
    """By starts one after the other: each finds it warmer, up to what never opens it."""
    d = seen.device
    if d.family.release == "none":
        return
    for start in starts_of(seen.protection, d.item.id):
        cold = float(d.band.shortest(np.array(start.current_a / seen.worth_a)))
        holds = float(d.band.short_at[0])
        if not isfinite(cold) or cold <= start.lasts_s:
            continue
        starts = ceil(cold / start.lasts_s)
        warm = max(cold * float(warm_share(start.current_a / seen.worth_a, 0.95 * holds, holds)), d.band.floor_s)
        if starts > MOST_RESTARTS and warm > start.lasts_s:
            continue
        words = say(
            "one start in “{scenario}” leaves it closed, but warm: {starts} in a row, or one straight after it has carried "
            "nearly all it can, may open it", scenario=start.title, starts=min(starts, MOST_RESTARTS),
        )  # fmt: skip
        yield TripExplanation(
            "again", start.current_a, min(warm, start.lasts_s), inf, 0.35, words,
            say("Count the starts of the minutes before: a pump that hunts, a thermostat that chatters"),
            say("Mend what starts so often; else a slower family, or the next rating its conductor allows"),
        )  # fmt: skip


def _share(seen: Seen) -> float:
    """Of what it is worth, what flows; 0 where too little for heat to matter, or so much that it opens even in the cool."""
    share = seen.flows_a / seen.worth_a
    return share if share > WARM and seen.flows_a <= seen.device.item.rating_a else 0.0


def _joints(seen: Seen) -> Iterator[TripExplanation]:
    """By heat that its own terminals or its holder make."""
    d, share = seen.device, _share(seen)
    opens_c = _opens_from_c(seen)
    if not share or d.family.release == "none" or not isfinite(opens_c):
        return
    takes = d.family.body_v_at_rated * seen.flows_a / d.item.rating_a
    yield TripExplanation(
        "loose", seen.flows_a, SOAKS_S["loose"], inf, 0.45 * min(share, 1.0),
        say(
            "{share:.0f} % of what it is worth flow: with {opens:.0f} °C at its own metal that opens it. A loose lug, a dirty "
            "contact or a tired holder makes such heat", share=100.0 * share, opens=opens_c,
        ),
        say(
            "Volts from lug to lug over it while {current:.3g} A flow: more than {much} where its body alone takes {own}",
            current=seen.flows_a, much=quantity(2.0 * max(takes, 1e-3), "V"), own=quantity(takes, "V"),
        ),
        say("Clean and tighten its terminals; another holder where that is discoloured"),
    )  # fmt: skip


def _worn(seen: Seen) -> Iterator[TripExplanation]:
    share = _share(seen)
    if not share:
        return
    yield TripExplanation(
        "worn", seen.flows_a, SOAKS_S["worn"], inf, 0.25 * min(share, 1.0),
        say("it has been near opening often, or interrupted a short: elements age, and springs tire"),
        say("Another one of the same family and rating in its place: does that hold?"),
        say("A new one; and room between its load and its rating, so that it does not age again"),
    )  # fmt: skip


def _beside(seen: Seen) -> Iterator[TripExplanation]:
    """By the heat of what stands next to it on its board."""
    d, plan = seen.device, seen.protection.study.plan
    opens_c = _opens_from_c(seen)
    if not _share(seen) or d.family.release == "none" or not isfinite(opens_c):
        return
    for board in plan.boards:
        at = {spot.of: spot.at_mm for spot in board.spots}
        others = [x for x in at if x != d.item.id and x in seen.protection.devices]
        if d.item.id not in at or not others:
            continue
        here = at[d.item.id]
        near = min(others, key=lambda x: hypot(at[x][0] - here[0], at[x][1] - here[1]))
        yield TripExplanation(
            "beside", seen.flows_a, SOAKS_S["beside"], inf, 0.2 * min(_share(seen), 1.0),
            say("{near} stands next to it: the heat of the one warms the other", near=plan.by_id[near].title),
            say("Which of the two is the hotter, by touch after switching off, or by an infrared thermometer?"),
            say("A gap between them, or the one that carries most at the end of the row"),
        )  # fmt: skip


def _plugs(seen: Seen) -> Iterator[TripExplanation]:
    """By a plug so near that its heat comes along the copper."""
    d, plan = seen.device, seen.protection.study.plan
    if not _share(seen) or d.family.release == "none":
        return
    for run in plan.runs:
        ends = {split_ref(ref)[0] for ref in (run.a, run.b)}
        for other in ends - {d.item.id} if d.item.id in ends and run.length_m <= NEAR_M else ():
            plug = plan.by_id.get(other)
            if isinstance(plug, PlugConnector):
                yield TripExplanation(
                    "plug", seen.flows_a, SOAKS_S["plug"], inf, 0.3 * min(_share(seen), 1.0),
                    say("{plug} is only {cm:.0f} cm away: a tired contact there warms it along the copper", plug=plug.title, cm=100.0 * run.length_m),
                    say("Volts over the plug while it carries: more than {much}", much=quantity(2.0 * plug.contact_ohm * seen.flows_a, "V")),
                    say("New contacts, or more copper between the two"),
                )  # fmt: skip


def _sources(seen: Seen) -> Iterator[TripExplanation]:
    """By sources that give together through it, more than in any scenario of the plan."""
    d, study = seen.device, seen.protection.study
    w = study.wiring
    labels = graph.components(
        len(w.refs),
        (b.a for k, b in enumerate(w.branches) if k != d.branch),
        (b.b for k, b in enumerate(w.branches) if k != d.branch),
    )
    units = {labels[w.branches[k].a] for k in np.flatnonzero(w.circuit.is_battery)}
    side = {labels[w.node[d.item.ref(t)]] for t in d.item.terminal_names} - units
    feeding = [e for e in w.sources if isinstance(e, Source) and labels[w.node[e.ref("plus")]] in side]
    together = sum(e.current_a for e in feeding)
    fast, slow = _times(d, together, seen.worth_a)
    if len(feeding) < 2 or not isfinite(fast):
        return
    names = say(" and ").join(e.title for e in feeding)
    yield TripExplanation(
        "sources", together, fast, slow, 0.6 if together > seen.flows_a * OFF_A else 0.3,
        say("{names} can give {together:.3g} A through it together; it is worth {worth:.3g} A", names=names, together=together, worth=seen.worth_a),
        say("Its current with all of them at work: one switched off, does it hold?"),
        say("Each on a circuit of its own to the bar; or a larger device, if its conductors carry that"),
    )  # fmt: skip


def _faults(seen: Seen) -> Iterator[TripExplanation]:
    """By a short behind it: from the least at its far end to the greatest."""
    d, f = seen.device, seen.protection.faults
    row = f.row[d.item.id]
    behind = f.shorts_through(d.item.id)
    if not behind.any():
        return
    least = float(f.least_through(row)[behind].min())
    most = f.greatest_through(d.item.id)[0]
    yield TripExplanation(
        "fault", most, float(d.shortest(np.array(most))), float(d.longest(np.array(least))), 0.5,
        say("a short behind it drives {least:.0f} to {most:.0f} A", least=least, most=most),
        say("Ohms from its load side to the return, everything behind it off: below one is a short"),
        say("Find the short before you close or replace anything"),
    )  # fmt: skip


def _neighbours(seen: Seen) -> Iterator[TripExplanation]:
    """By a short behind another device, which should have opened first."""
    d = seen.device
    for p in seen.protection.pairs:
        if p.upstream != d.item.id or p.same or p.verdict == "total":
            continue
        title = seen.protection.study.plan.by_id[p.downstream].title
        most = p.most_a * p.share
        yield TripExplanation(
            "neighbour", p.most_a, float(d.shortest(np.array(most))), float(d.longest(np.array(p.least_a * p.share))), 0.35,
            say("a short behind {title} may open this one first: the two are not selective", title=title),
            say("Ohms behind {title}, everything there off: below one is a short", title=title),
            say("Look behind {title}; then make the two selective", title=title),
        )  # fmt: skip


CAUSES = (_lasting, _starts, _again, _joints, _worn, _beside, _plugs, _sources, _faults, _neighbours)
"""Every cause that is looked at."""
