"""bank: what units carry, and what would move their shares."""

import argparse
from collections.abc import Iterator
from math import isfinite
from typing import Any

from jaunty_copper.battery.arrangements import Option, influences, longest, options
from jaunty_copper.battery.paralleling import Meeting, meeting
from jaunty_copper.battery.patterns import why_not
from jaunty_copper.battery.sharing import Sharing, sharing
from jaunty_copper.cli.inputs import complain, plan_or_complaint, states_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.network.study import study
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import Plan

MOST_INFLUENCES = 5


def bank(options_: argparse.Namespace) -> int:
    """Shares of every unit, the patterns side by side, and what would move the shares."""
    plan = plan_or_complaint(options_.plan)
    if isinstance(plan, int):
        return plan
    made = study(plan)
    states = states_or_complaint(made, options_.scenario)
    if isinstance(states, int):
        return states
    if not made.wiring.banks:
        return complain(say("{plan}: there is no battery in it", plan=options_.plan))
    joined: Meeting | None = None
    if options_.join:
        try:
            charges = {id_: float(soc) for id_, _, soc in (word.partition("=") for word in options_.join)}
            joined = meeting(plan, next(iter(charges)), charges)
        except (ValueError, EditError, KeyError) as error:
            return complain(f"--join: {error}; write unit=charge in %, such as B1=100 B2=40")
    values = [_bank_values(plan, b.id, states, options_.within) for b in made.wiring.banks]
    if options_.json:
        print_json({"plan": plan.name, "banks": values, "join": _join_values(joined)})
    else:
        for v in values:
            print("\n".join(_bank_lines(v)))
        if joined is not None:
            print("\n".join(_join_lines(joined)))
    return 0 if all(s.solved for s in states) else 1


def _bank_values(plan: Plan, unit: str, states: tuple[State, ...], within: float | None) -> dict[str, Any]:
    found = next(b for b in states[0].wiring.banks if b.id == unit)
    shared = [sharing(found, s) for s in states]
    # Patterns are compared where they matter most: under the heaviest lasting current.
    heavy = max(shared, key=lambda s: abs(s.current_a) if isfinite(s.current_a) else -1.0).scenario
    return {
        "bank": unit,
        "nominal_v": found.nominal_v,
        "strings": [list(s) for s in found.strings],
        "parallel": len(found.groups[0]),
        "series": max(map(len, found.strings)) * len(found.groups),
        "scenarios": [_sharing_values(s) for s in shared],
        "compared_in": heavy.id,
        "no_patterns_because": why_not(plan, found),
        "patterns": [_option_values(o) for o in options(plan, unit, heavy)],
        "influences": [
            {"place": i.place, "what": i.what, "spread_percent": 100.0 * i.spread}
            for i in sorted(influences(plan, unit, heavy), key=lambda i: -i.spread)
        ]
        if len(found.strings) > 1
        else [],
        "longest_m": {}
        if within is None or len(found.strings) < 2
        else {id_: longest(plan, id_, unit, heavy, within / 100.0) for id_ in found.inside},
    }


def _sharing_values(s: Sharing) -> dict[str, Any]:
    return {
        "id": s.scenario.id,
        "current_a": s.current_a,
        "spread_percent": 100.0 * s.spread,
        "worst_link": s.worst_link,
        "lets_no_charge_in": list(s.kept_out),
        "units": {
            x.unit: {
                "current_a": x.current_a,
                "share": x.share,
                "even_share": x.even,
                "c_rate": x.c_rate,
                "terminal_v": x.terminal_v,
                "limit_a": x.limit_a,
                "used": x.used,
            }
            for x in s.shares
        },
        "links_w": s.heat_w,
    }


def _option_values(o: Option) -> dict[str, Any]:
    return {
        "pattern": o.pattern.id if o.pattern else "as_it_is",
        "name": o.pattern.name if o.pattern else say("as it is"),
        "spread_percent": 100.0 * o.sharing.spread,
        "copper_m": o.copper_m,
        "worst_link": o.sharing.worst_link,
        "worst_link_w": o.sharing.heat_w.get(o.sharing.worst_link or "", 0.0),
        "unit_a": {s.unit: s.current_a for s in o.sharing.shares},
    }


def _bank_lines(v: dict[str, Any]) -> Iterator[str]:
    yield say(
        "Bank {bank}: {nominal_v:g} V, {parallel} in parallel, {series} in series",
        bank=v["bank"],
        nominal_v=v["nominal_v"],
        parallel=v["parallel"],
        series=v["series"],
    )
    for s in v["scenarios"]:
        yield say(
            "\n{id}: {current_a:.1f} A, {spread_percent:.1f} % between the most and the least loaded",
            id=s["id"],
            current_a=s["current_a"],
            spread_percent=s["spread_percent"],
        )
        yield say("  unit        A   share   even      C  terminal V   limit A   used")
        for id_, x in s["units"].items():
            yield (
                f"  {id_:6} {x['current_a']:7.2f} {100 * x['share']:6.1f} % {100 * x['even_share']:5.1f} % {x['c_rate']:6.3f}"
                f" {x['terminal_v']:11.3f} {x['limit_a']:9.1f} {100 * x['used']:5.0f} %"
            )
        if s["lets_no_charge_in"]:
            yield say(
                "  too cold or too warm: no charge goes into {units}, and the others take all of it",
                units=", ".join(s["lets_no_charge_in"]),
            )
    yield say("\nPatterns, under “{compared_in}”", compared_in=v["compared_in"])
    if v["no_patterns_because"]:
        yield say("  none: {no_patterns_because}", no_patterns_because=v["no_patterns_because"])
    for o in v["patterns"]:
        yield say(
            "  {name:20} {spread_percent:6.1f} %  {copper_m:5.2f} m  worst link {worst_link} {worst_link_w:.2f} W",
            name=o["name"],
            spread_percent=o["spread_percent"],
            copper_m=o["copper_m"],
            worst_link=o["worst_link"],
            worst_link_w=o["worst_link_w"],
        )
    for id_, metres in v["longest_m"].items():
        now = (
            say("already exceeded")
            if metres != metres
            else say("beyond 100 m")
            if metres == float("inf")
            else say("up to {metres:.2f} m", metres=metres)
        )
        yield say("  {id} may be longer: {now}", id=id_, now=now)
    if v["influences"]:
        yield say("\nMost sensitive joint")
        for i in v["influences"][:MOST_INFLUENCES]:
            yield f"  {i['place']} {i['what']}: {i['spread_percent']:.1f} %"


def _join_values(m: Meeting | None) -> dict[str, Any] | None:
    if m is None:
        return None
    return {
        "peak_a": m.peak_a,
        "unit": m.unit,
        "used": m.used,
        "level_h": m.level_h,
        "heat_w": m.heat_w,
        "fuses_over_rating": {
            o.device: {"times": o.times, "shortest_s": o.shortest_s, "longest_s": o.longest_s} for o in m.fuses
        },
    }


def _join_lines(m: Meeting) -> Iterator[str]:
    yield say("\nJoining them so")
    yield say(
        "  {peak_a:.0f} A at first, most through {unit}: {used:.0f} % of what it may carry; {heat_w:.0f} W of heat",
        peak_a=m.peak_a,
        unit=m.unit,
        used=100 * m.used,
        heat_w=m.heat_w,
    )
    yield (
        say("  level after {level_h:.1f} h", level_h=m.level_h)
        if isfinite(m.level_h)
        else say("  not level after a day")
    )
    for o in m.fuses:
        opens = (
            say("opens after {shortest_s:.3g} to {longest_s:.3g} s", shortest_s=o.shortest_s, longest_s=o.longest_s)
            if isfinite(o.longest_s)
            else say("may hold for ever")
        )
        yield say(
            "  {device} carries {times:.1f} times its rating: it {opens}", device=o.device, times=o.times, opens=opens
        )
    yield (
        say("  Charge them to one level first, each separately.") if m.used > 1.0
        else say("  Within the limits. Join them rested, with the main switch open, and mind the first spark.")
    )  # fmt: skip
