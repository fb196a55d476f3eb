"""discharge: how long a bank lasts, step by step."""

import argparse
import csv
import sys
from collections.abc import Iterator
from typing import Any

import numpy as np

from jaunty_copper.battery.discharge import Hours, over_time
from jaunty_copper.cli.inputs import complain, plan_or_complaint, scenario_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.language import say
from jaunty_copper.network.wiring import wire

EVENT_WORDS = {
    "empty": say("is empty"),
    "full": say("is full"),
    "opened": say("is opened by its management system; the others carry its share"),
    "refuses": say("is too cold or too warm: its management system lets no charge in, and gives all the same"),
    "all_open": say("was the last: nothing is left in circuit"),
    "load_stops": say("stops for want of voltage"),
    "source_mode": say("changes its mode"),
    "collapse": say("asks more than can be delivered"),
}


def discharge(options_: argparse.Namespace) -> int:
    """Follow the units over hours."""
    plan = plan_or_complaint(options_.plan)
    if isinstance(plan, int):
        return plan
    scenario = scenario_or_complaint(plan, options_.scenario)
    if isinstance(scenario, int):
        return scenario
    if not wire(plan).banks:
        return complain(say("{plan}: there is no battery in it", plan=options_.plan))
    if not 0.0 < options_.hours <= 1000.0 or not 0.1 <= options_.step <= 600.0:
        return complain(say("--hours goes from 0 to 1000, --step from 0.1 to 600 s"))
    h = over_time(plan, scenario, options_.hours, options_.step)
    if not len(h.course.hours):
        print(say("There is no operating point to begin with."), file=sys.stderr)
        return 1
    if options_.csv:
        _write_csv(h)
    elif options_.json:
        print_json(_hours_values(h))
    else:
        print("\n".join(_hours_lines(h)))
    return 0


def _name_of(h: Hours, kind: str, index: int) -> str:
    w = h.wiring
    if kind in ("empty", "full", "opened", "refuses", "all_open"):
        return h.units[index]
    named = w.sources if kind == "source_mode" else w.loads
    return named[index].title if 0 <= index < len(named) else say("the system")


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
    yield say("  unit     begins   ends     Ah taken    Wh taken   largest A   last V")
    for k, u in enumerate(h.units):
        yield (
            f"  {u:6} {c.soc_percent[0, k]:7.1f} % {c.soc_percent[-1, k]:5.1f} % {h.taken_ah[k]:10.2f} {h.taken_wh[k]:11.1f}"
            f" {np.abs(c.current_a[:, k]).max():11.1f} {c.terminal_v[-1, k]:8.2f}"
        )
    apart = max(h.drift_v, key=lambda u: abs(h.drift_v[u]), default=None)
    if apart is not None:
        yield say(
            "  mid-points: {apart} ends {apart_2:+.0f} mV from the mean of its string",
            apart=apart,
            apart_2=1000 * h.drift_v[apart],
        )
    for e in c.events:
        yield say(
            "  after {hour:.2f} h {name_of} {kind}",
            hour=e.hour,
            name_of=_name_of(h, e.kind, e.index),
            kind=EVENT_WORDS[e.kind],
        )
    if c.stopped is not None and c.stopped.kind in ("empty", "full") and h.others:
        full = c.stopped.kind == "full"
        left = (
            say("  The others could still take {ah:.2f} Ah", ah=h.left_ah)
            if full
            else say("  The others still hold {ah:.2f} Ah", ah=h.left_ah)
        )
        yield say("{left}: that is what the first to stop costs the bank.", left=left)


def _write_csv(h: Hours) -> None:
    c = h.course
    out = csv.writer(sys.stdout, lineterminator="\n")
    out.writerow(["hour", *(f"{u}_{what}" for u in h.units for what in ("a", "soc_percent", "v"))])
    table = np.stack([c.current_a, c.soc_percent, c.terminal_v], axis=2).reshape(len(c.hours), -1)
    for hour, row in zip(c.hours, table, strict=True):
        out.writerow([f"{hour:.6g}", *(f"{x:.6g}" for x in row)])
