"""The commands for the day the system is measured."""

import argparse
import json
from math import isfinite
from typing import Any

from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.commissioning.choice import fewest, groups
from jaunty_copper.commissioning.diagnose import diagnose as weighed
from jaunty_copper.commissioning.model import Bench, NothingToMeasure, bench
from jaunty_copper.commissioning.points import everything_on, to_measure_in
from jaunty_copper.commissioning.readings_file import ReadingsError, read_readings, with_points_of, write_readings
from jaunty_copper.commissioning.trips import explain_trip
from jaunty_copper.commissioning.turned import righted
from jaunty_copper.commissioning.weighing import Suspect
from jaunty_copper.language import say
from jaunty_copper.network.study import study
from jaunty_copper.plan.storage import MOST_TEXT, read_text
from jaunty_copper.protection.protection import Protection


def bench_or_complaint(options: argparse.Namespace) -> Bench | int:
    """What to measure on, by the plan and scenario that were asked for; or the exit status."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    scenario = everything_on(plan)
    if options.scenario is not None:
        named = {s.id: s for s in to_measure_in(plan)}
        if options.scenario not in named:
            return complain(
                say(
                    "there is no scenario {scenario!r}; there are: {named}",
                    scenario=options.scenario,
                    named=", ".join(named),
                )
            )
        scenario = named[options.scenario]
    try:
        return bench(plan, scenario)
    except NothingToMeasure as error:
        return complain(str(error))


def readings(options: argparse.Namespace) -> int:
    """What to measure and to expect, as a table to fill in."""
    b = bench_or_complaint(options)
    if isinstance(b, int):
        return b
    chosen, blind = fewest(b)
    rows = tuple(chosen) if options.fewest else None
    if options.json:
        expected = b.expected()
        points = [
            {**expected[k].point._asdict(), "expected": expected[k].value, "tolerance": expected[k].tolerance}
            for k in (rows if rows is not None else range(len(expected)))
        ]
        print(
            json.dumps(
                {"scenario": b.scenario.title, "points": points, "hidden_in": blind, "alike": _alike(b, chosen)},
                ensure_ascii=False,
                indent=1,
            )
        )
        return 0
    print(write_readings(b, rows), end="")
    return 0


def _alike(b: Bench, chosen: list[int]) -> list[dict[str, Any]]:
    """Joints that the fewest readings cannot part, and the reading that would."""
    return [
        {"names": g.names, "parted_by": g.parted_by.point._asdict() if g.parted_by is not None else None}
        for g in groups(b, chosen)
    ]


def diagnose(options: argparse.Namespace) -> int:
    """What readings say. Exits 1 where a deviation from the plan is certain."""
    b = bench_or_complaint(options)
    if isinstance(b, int):
        return b
    try:
        text = read_text(options.readings, MOST_TEXT)
        b = with_points_of(text, b)
        values, turned = righted(b, read_readings(text, b, options.readings))
        found = weighed(b, values)
    except (ReadingsError, OSError, UnicodeDecodeError) as error:
        return complain(str(error))
    if options.json:
        whole: dict[str, Any] = {
            "alarm": found.alarm, "chi_square": found.chi_square, "p": found.p,
            "left": found.left, "left_p": found.left_p,
            "suspects": [_finite(s) for s in found.suspects],
            "two": [_finite(s) for s in found.blamed] if found.two is not None else None,
            "turned": [p._asdict() for p in turned],
        }  # fmt: skip
        print(json.dumps(whole, ensure_ascii=False, indent=1))
    elif not found.alarm and found.unexplained:
        print(say("These readings are not as planned, and no resistance and no wrong tap explains them."))
    elif not found.alarm:
        print(say("The readings are as planned, within what lengths, joints, loads, charge and meter leave open."))
    else:
        if found.two is not None:
            print(say("Something is not as planned, and no single thing explains it. Together these do:"))
        else:
            print(say("Something is not as planned. What would explain it, the likeliest first:"))
        for s in found.blamed if found.two is not None else found.plausible[:5]:
            print(f"  {_words(b, s)}")
        print(
            say(
                "Chi-square {chi_square:.0f} of {readings} readings; {left:.0f} are left, which chance gives in "
                "{left_p:.2g} of 100.",
                chi_square=found.chi_square,
                readings=found.readings,
                left=found.left,
                left_p=100 * found.left_p,
            )
        )
    if turned and not options.json:
        where = ", ".join(" ".join(x for x in p if x) for p in turned)
        print(say("Taken the wrong way round, and counted with the other sign: {where}.", where=where))
    return 1 if found.alarm or found.unexplained else 0


def why(options: argparse.Namespace) -> int:
    """What could have opened a device."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    p = Protection(study(plan))
    s = p.study
    if options.device not in p.devices:
        return complain(
            say(
                "there is no device {device!r}; there are: {devices}",
                device=options.device,
                devices=", ".join(p.devices),
            )
        )
    if options.scenario is not None and options.scenario not in {x.scenario.id for x in s.states}:
        return complain(say("there is no scenario {scenario!r}", scenario=options.scenario))
    found = explain_trip(p, options.device, options.scenario, options.ambient, options.current, options.after)
    if options.json:
        values = [
            {k: None if isinstance(v, float) and not isfinite(v) else v for k, v in e._asdict().items()} for e in found
        ]
        print(json.dumps(values, ensure_ascii=False, indent=1))
        return 0
    print(say("What could have opened {item}, the likeliest first:", item=p.devices[options.device].item.title))
    for e in found:
        if e.ruled_out:
            print(say("  ruled out: {cause}: {why}", cause=e.cause, why=e.ruled_out))
        else:
            print(
                say(
                    "  {cause}: {words}\n      look: {check}\n      cure: {cure}",
                    cause=e.cause,
                    words=e.words,
                    check=e.check,
                    cure=e.cure,
                )
            )
    return 0


def _finite(s: Suspect) -> dict[str, Any]:
    return {k: None if isinstance(v, float) and not isfinite(v) else v for k, v in s._asdict().items()}


def _words(b: Bench, s: Suspect) -> str:
    if s.kind == "tap":
        return say("{owner}: its end {part} landed on {to}", owner=s.owner, part=s.part, to=s.to)
    thing = b.wiring.plan.by_id.get(s.owner)
    title = f"{s.owner}, {thing.title}" if thing is not None else s.owner
    like = say(", or {with_it}", with_it=" or ".join(s.with_it)) if s.with_it else ""
    return say(
        "{title}{like}: {more} more than planned, {heat_w:.2g} W there",
        title=title,
        like=like,
        more=s.more,
        heat_w=s.heat_w,
    )
