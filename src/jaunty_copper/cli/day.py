"""day: the bank over the days to come."""

import argparse
import csv
import sys
from collections.abc import Iterator
from typing import Any

import numpy as np

from jaunty_copper.battery.days import DaysAhead, ahead
from jaunty_copper.battery.days_described import described, monitored
from jaunty_copper.cli.inputs import complain, plan_or_complaint, scenario_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.language import say
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan.clock import HOURS, SunNotRead, clock, sun_read
from jaunty_copper.plan.profiles import ProfileError, with_profiles
from jaunty_copper.plan.storage import MOST_TEXT, read_text


def day(options: argparse.Namespace) -> int:
    """Follow a plan's banks through days of loads and sun."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    if options.hours is not None:
        try:
            plan = with_profiles(plan, read_text(options.hours, MOST_TEXT), options.hours)
        except (ProfileError, OSError, UnicodeDecodeError) as error:
            return complain(str(error))
    scenario = scenario_or_complaint(plan, options.scenario)
    if isinstance(scenario, int):
        return scenario
    if not wire(plan).banks:
        return complain(say("{plan}: there is no battery in it", plan=options.plan))
    try:
        sun = sun_read(options.sun or "")
    except SunNotRead as error:
        return complain(f"--sun: {error}")
    a = ahead(plan, scenario, sun)
    if options.csv:
        _write_csv(a)
    elif options.json:
        print_json(_values(a))
    else:
        print("\n".join(_lines(a)))
    return 0


def _values(a: DaysAhead) -> dict[str, Any]:
    hours = np.arange(HOURS * len(a.sun) + 1.0)
    return {
        "plan": a.wiring.plan.name,
        "scenario": a.scenario.id,
        "sun": list(a.sun),
        "banks": {
            b.id: {
                "charge_percent": np.interp(hours, a.course.hours, a.charge(b)).tolist(),
                "empty": [{"from_h": begin, "until_h": end} for id_, begin, end in a.dark if id_ == b.id],
                "said": described(a, b),
            }
            for b in a.wiring.banks
        },
        "not_fed_h": {s.id: s.hours for s in a.stops},
        "events": [{"hour": e.hour, "kind": e.kind} for e in a.course.events],
    }


def _lines(a: DaysAhead) -> Iterator[str]:
    yield say(
        "{plan}: {days} days from {soc:g} % on", plan=a.wiring.plan.title, days=len(a.sun), soc=a.scenario.soc_percent
    )
    for bank in a.wiring.banks:
        yield ""
        if len(a.wiring.banks) > 1:
            yield say("Bank of {units}", units=bank.units[0].title)
        yield described(a, bank)
        shunt = monitored(a, bank)
        columns = [a.charge(bank), *([a.monitor(shunt, bank)] if shunt is not None else [])]
        yield say("  hour           holds") + (say("   monitor says") if shunt is not None else "")
        for hour in range(0, HOURS * len(a.sun) + 1, 3):
            row = [float(np.interp(hour, a.course.hours, c)) for c in columns]
            yield f"  {clock(hour, day=True):13}" + "".join(f"{x:7.1f} %    " for x in row).rstrip()
    if a.stops:
        yield ""
        yield say("Not fed when they should have run")
        yield from (f"  {a.wiring.plan.by_id[s.id].title:32} {s.hours:7.1f} h" for s in a.stops)


def _write_csv(a: DaysAhead) -> None:
    out = csv.writer(sys.stdout, lineterminator="\n")
    out.writerow(["hour", *(f"{b.id}_{what}" for b in a.wiring.banks for what in ("percent", "a"))])
    table = np.stack([x for b in a.wiring.banks for x in (a.charge(b), a.current_a(b))], axis=1)
    for hour, row in zip(a.course.hours, table, strict=True):
        out.writerow([f"{hour:.6g}", *(f"{x:.6g}" for x in row)])
