"""bank, discharge and needs: what units carry, how long they last, what is asked of them."""

import argparse
import csv
import json
import sys
from collections.abc import Iterator
from math import isfinite
from typing import Any

import numpy as np

from jaunty_copper.battery.arrangements import Option, influences, longest, options
from jaunty_copper.battery.discharge import Hours, over_time
from jaunty_copper.battery.needs import Needs
from jaunty_copper.battery.needs import needs as needs_of
from jaunty_copper.battery.paralleling import Meeting, meeting
from jaunty_copper.battery.patterns import why_not
from jaunty_copper.battery.sharing import Sharing, sharing
from jaunty_copper.cli.inputs import complain, plan_or_complaint, states_or_complaint
from jaunty_copper.network.demand import scenarios_of
from jaunty_copper.network.study import State, study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import Plan

MOST_INFLUENCES = 5
EVENT_WORDS = {
    "empty": "is empty",
    "full": "is full",
    "load_stops": "stops for want of voltage",
    "source_mode": "changes its mode",
    "collapse": "asks more than can be delivered",
}


def _clean(value: Any) -> Any:
    """Values that JSON can hold: nan and infinity become None."""
    if isinstance(value, dict):
        return {k: _clean(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [_clean(v) for v in value]
    if isinstance(value, float | np.floating):
        return float(value) if isfinite(value) else None
    return value


def _print_json(values: Any) -> None:
    print(json.dumps(_clean(values), ensure_ascii=False, indent=1))


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
        return complain(f"{options_.plan}: there is no battery in it")
    joined: Meeting | None = None
    if options_.join:
        try:
            charges = {id_: float(soc) for id_, _, soc in (word.partition("=") for word in options_.join)}
            joined = meeting(plan, next(iter(charges)), charges)
        except (ValueError, EditError, KeyError) as error:
            return complain(f"--join: {error}; write unit=charge in %, such as B1=100 B2=40")
    values = [_bank_values(plan, b.id, states, options_.within) for b in made.wiring.banks]
    if options_.json:
        _print_json({"plan": plan.name, "banks": values, "join": _join_values(joined)})
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
        "name": o.pattern.name if o.pattern else "as it is",
        "spread_percent": 100.0 * o.sharing.spread,
        "copper_m": o.copper_m,
        "worst_link": o.sharing.worst_link,
        "worst_link_w": o.sharing.heat_w.get(o.sharing.worst_link or "", 0.0),
        "unit_a": {s.unit: s.current_a for s in o.sharing.shares},
    }


def _bank_lines(v: dict[str, Any]) -> Iterator[str]:
    yield f"Bank {v['bank']}: {v['nominal_v']:g} V, {v['parallel']} in parallel, {v['series']} in series"
    for s in v["scenarios"]:
        yield f"\n{s['id']}: {s['current_a']:.1f} A, {s['spread_percent']:.1f} % between the most and the least loaded"
        yield "  unit        A   share   even      C  terminal V   limit A   used"
        for id_, x in s["units"].items():
            yield (
                f"  {id_:6} {x['current_a']:7.2f} {100 * x['share']:6.1f} % {100 * x['even_share']:5.1f} % {x['c_rate']:6.3f}"
                f" {x['terminal_v']:11.3f} {x['limit_a']:9.1f} {100 * x['used']:5.0f} %"
            )
    yield f"\nPatterns, under “{v['compared_in']}”"
    if v["no_patterns_because"]:
        yield f"  none: {v['no_patterns_because']}"
    for o in v["patterns"]:
        yield f"  {o['name']:20} {o['spread_percent']:6.1f} %  {o['copper_m']:5.2f} m  worst link {o['worst_link']} {o['worst_link_w']:.2f} W"
    for id_, metres in v["longest_m"].items():
        now = (
            "already exceeded"
            if metres != metres
            else "beyond 100 m"
            if metres == float("inf")
            else f"up to {metres:.2f} m"
        )
        yield f"  {id_} may be longer: {now}"
    if v["influences"]:
        yield "\nMost sensitive joint"
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
    yield "\nJoining them so"
    yield f"  {m.peak_a:.0f} A at first, most through {m.unit}: {100 * m.used:.0f} % of what it may carry; {m.heat_w:.0f} W of heat"
    yield f"  level after {m.level_h:.1f} h" if isfinite(m.level_h) else "  not level after a day"
    for o in m.fuses:
        opens = (
            f"opens after {o.shortest_s:.3g} to {o.longest_s:.3g} s" if isfinite(o.longest_s) else "may hold for ever"
        )
        yield f"  {o.device} carries {o.times:.1f} times its rating: it {opens}"
    yield (
        "  Charge them to one level first, each by itself." if m.used > 1.0
        else "  Within the limits. Join them rested, with the main switch open, and mind the first spark."
    )  # fmt: skip


def discharge(options_: argparse.Namespace) -> int:
    """Follow the units over hours."""
    plan = plan_or_complaint(options_.plan)
    if isinstance(plan, int):
        return plan
    found = scenarios_of(plan)
    scenario = next((s for s in found if s.id == options_.scenario), None) if options_.scenario else found[0]
    if scenario is None:
        return complain(f"there is no scenario {options_.scenario!r}; there are: {', '.join(s.id for s in found)}")
    if not wire(plan).banks:
        return complain(f"{options_.plan}: there is no battery in it")
    if not 0.0 < options_.hours <= 1000.0 or not 0.1 <= options_.step <= 600.0:
        return complain("--hours goes from 0 to 1000, --step from 0.1 to 600 s")
    h = over_time(plan, scenario, options_.hours, options_.step)
    if not len(h.course.hours):
        print("There is no operating point to begin with.", file=sys.stderr)
        return 1
    if options_.csv:
        _write_csv(h)
    elif options_.json:
        _print_json(_hours_values(h))
    else:
        print("\n".join(_hours_lines(h)))
    return 0


def _name_of(h: Hours, kind: str, index: int) -> str:
    w = h.wiring
    if kind in ("empty", "full"):
        return h.units[index]
    named = w.sources if kind == "source_mode" else w.loads
    return named[index].title if 0 <= index < len(named) else "the system"


def _hours_values(h: Hours) -> dict[str, Any]:
    c = h.course
    step = max(1, len(c.hours) // 500)
    stopped = c.stopped
    return {
        "plan": h.wiring.plan.name,
        "scenario": h.scenario.id,
        "hours": float(c.hours[-1]),
        "stopped": None
        if stopped is None
        else {"kind": stopped.kind, "place": _name_of(h, stopped.kind, stopped.index)},
        "left_in_others_ah": h.left_ah,
        "events": [{"hour": e.hour, "kind": e.kind, "place": _name_of(h, e.kind, e.index)} for e in c.events],
        "units": {
            u: {
                "taken_ah": float(h.taken_ah[k]),
                "taken_wh": float(h.taken_wh[k]),
                "soc_percent": float(c.soc_percent[-1, k]),
                "largest_a": float(np.abs(c.current_a[:, k]).max()),
                "drift_v": h.drift_v.get(u),
            }
            for k, u in enumerate(h.units)
        },
        "course": {
            "hours": c.hours[::step].tolist(),
            "current_a": {u: c.current_a[::step, k].tolist() for k, u in enumerate(h.units)},
            "soc_percent": {u: c.soc_percent[::step, k].tolist() for k, u in enumerate(h.units)},
            "terminal_v": {u: c.terminal_v[::step, k].tolist() for k, u in enumerate(h.units)},
        },
    }


def _hours_lines(h: Hours) -> Iterator[str]:
    c = h.course
    yield f"{h.scenario.title}: {c.hours[-1]:.2f} h"
    yield "  unit     begins   ends     Ah taken    Wh taken   largest A   last V"
    for k, u in enumerate(h.units):
        yield (
            f"  {u:6} {c.soc_percent[0, k]:7.1f} % {c.soc_percent[-1, k]:5.1f} % {h.taken_ah[k]:10.2f} {h.taken_wh[k]:11.1f}"
            f" {np.abs(c.current_a[:, k]).max():11.1f} {c.terminal_v[-1, k]:8.2f}"
        )
    apart = max(h.drift_v, key=lambda u: abs(h.drift_v[u]), default=None)
    if apart is not None:
        yield f"  mid-points: {apart} ends {1000 * h.drift_v[apart]:+.0f} mV from the mean of its string"
    for e in c.events:
        yield f"  after {e.hour:.2f} h {_name_of(h, e.kind, e.index)} {EVENT_WORDS[e.kind]}"
    if c.stopped is not None and c.stopped.kind in ("empty", "full"):
        yield f"  The others could go on for {h.left_ah:.2f} Ah: that is what the first to stop costs the bank."


def _write_csv(h: Hours) -> None:
    c = h.course
    out = csv.writer(sys.stdout, lineterminator="\n")
    out.writerow(["hour", *(f"{u}_{what}" for u in h.units for what in ("a", "soc_percent", "v"))])
    table = np.stack([c.current_a, c.soc_percent, c.terminal_v], axis=2).reshape(len(c.hours), -1)
    for hour, row in zip(c.hours, table, strict=True):
        out.writerow([f"{hour:.6g}", *(f"{x:.6g}" for x in row)])


def needs(options_: argparse.Namespace) -> int:
    """What must run, and what it asks of the bank."""
    plan = plan_or_complaint(options_.plan)
    if isinstance(plan, int):
        return plan
    wiring = wire(plan)
    made = needs_of(wiring)
    others = [needs_of(wiring, bank) for bank in wiring.banks if bank is not made.bank]
    if options_.json:
        more = {"other_banks": [{"bank": n.bank.id, **_needs_values(n)} for n in others if n.bank]} if others else {}
        _print_json({**_needs_values(made), **more})
    else:
        print("\n\n".join("\n".join(_needs_lines(n)) for n in (made, *others)))
    return 0


def _needs_values(n: Needs) -> dict[str, Any]:
    return {
        "plan": n.plan.name,
        "nominal_v": n.nominal_v,
        "lowest_v": n.lowest_v,
        "lowest_because": n.lowest_why,
        "continuous_a": n.continuous_a,
        "peak_a": n.peak_a,
        "scenarios": [
            {
                "id": s.scenario.id,
                "nominal_a": s.nominal_a,
                "lowest_a": s.lowest_a,
                "given_a": s.given_a,
                "draws": {d.id: {"nominal_a": d.nominal_a, "lowest_a": d.lowest_a} for d in s.draws},
            }
            for s in n.states
        ],
        "daily_wh": [{"id": d.id, "what": d.what, "wh": d.wh} for d in n.daily],
        "used_wh": n.used_wh,
        "used_ah": n.used_ah,
        "given_wh": n.given_wh,
        "usable_wh": n.usable_wh,
        "autonomy_days": n.autonomy_days,
        "wanted_days": n.plan.autonomy_days,
        "proposed_ah": n.proposed_ah,
        "voltages": [
            {"volts": p.volts, "current_a": p.current_a, "peak_a": p.peak_a, "copper_mm2": p.copper_mm2, "copper_kg": p.copper_kg}
            for p in n.proposals
        ],
        "reasons": list(n.reasons),
    }  # fmt: skip


def _needs_lines(n: Needs) -> Iterator[str]:
    title = {e.id: e.title for e in n.plan.placed}
    of = f", bank of {n.bank.units[0].title}" if n.bank is not None and len(n.wiring.banks) > 1 else ""
    yield f"{n.plan.title}{of}: {n.nominal_v:g} V, lowest {n.lowest_v:g} V ({n.lowest_why})"
    yield f"  lasting {n.continuous_a:.1f} A, peak {n.peak_a:.1f} A at the lowest voltage"
    for s in n.states:
        yield f"\n{s.scenario.title}: {s.nominal_a:.1f} A nominal, {s.lowest_a:.1f} A lowest, {s.given_a:.1f} A given"
        for d in s.draws:
            yield f"  {title[d.id]:24} {d.nominal_a:7.2f} A {d.lowest_a:7.2f} A"
    yield "\nA day at the bank"
    for line in n.daily:
        if line.wh:
            yield f"  {line.what:32} {line.wh:8.0f} Wh"
    yield f"  used {n.used_wh:.0f} Wh = {n.used_ah:.1f} Ah, given {n.given_wh:.0f} Wh"
    yield f"  the bank gives {n.usable_wh:.0f} Wh: {n.autonomy_days:.1f} days by itself, {n.plan.autonomy_days:g} wanted"
    yield f"  {n.proposed_ah:.0f} Ah at {n.nominal_v:g} V would give the days wanted"
    yield "\nSystem voltage (proposals)"
    for p in n.proposals:
        yield f"  {p.volts:3g} V  {p.current_a:6.1f} A lasting  {p.peak_a:6.1f} A peak  {p.copper_mm2:6.1f} mm² widest  {p.copper_kg:5.2f} kg copper at 3 %"
    yield from (f"  {reason}" for reason in n.reasons)
