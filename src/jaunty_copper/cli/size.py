"""size: conductors and devices at the least cost that keeps every rule."""

import argparse
import sys
from collections.abc import Sequence
from functools import partial
from math import isfinite
from pathlib import Path
from typing import Any

from jaunty_copper.choosing.least_cost.answer import LeastCost, Worth, watt_worth
from jaunty_copper.choosing.least_cost.said import in_words
from jaunty_copper.choosing.least_cost.search import frontier, least_cost
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.codes.code import code_names
from jaunty_copper.language import say
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import Plan


def size(options: argparse.Namespace) -> int:
    """Choose sizes of a plan, or of a part of it, with a bound below which none lies."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    why = _wrong(plan, options)
    if why:
        return complain(why)
    worth = Worth(
        options.aim, watt_worth(options.years, options.hours, options.kwh), options.scenario or "", options.selective
    )
    tell = partial(print, file=sys.stderr) if sys.stderr.isatty() else lambda _: None
    if options.frontier:
        points = frontier(plan, options.only or None, worth, options.practice, progress=tell)
        return _tell_frontier(points, options)
    found = least_cost(plan, options.only or None, worth, options.practice, options.seconds, progress=tell)
    if options.output and found.found:
        save(found.plan, Path(options.output))
    if options.json:
        print_json(_values(found))
    else:
        print(in_words(found, options.aim))
        if found.contradiction:
            print(say("  Cannot be had together:"), *(f"    {why}" for why in found.contradiction), sep="\n")
        for f in found.left:
            print(say("  left: {headline}", headline=f.headline))
        for c in found.changes:
            print(f"  {', '.join(c.ids):16} {c.before} → {c.after}  {c.price:+.2f}")
    return 0 if found.found and not found.left else 1


def _wrong(plan: Plan, options: argparse.Namespace) -> str:
    """What of the options makes no sense, in words."""
    if options.practice is not None and options.practice not in code_names():
        return say(
            "there is no code {code!r}; there are: {names}", code=options.practice, names=", ".join(code_names())
        )
    scenarios = [s.id for s in plan.scenarios]
    if options.scenario is not None and options.scenario not in scenarios:
        return say("there is no scenario {scenario!r}", scenario=options.scenario)
    known = {r.id for r in plan.runs} | {x.id for x in plan.items}
    gone = [id_ for id_ in options.only or () if id_ not in known]
    if gone:
        return say("there is no conductor or device {gone!r}", gone=gone[0])
    if min(options.years, options.hours, options.kwh) < 0.0 or options.seconds <= 0.0:
        return say("--years, --hours, --kwh and --seconds are positive")
    return ""


def _tell_frontier(points: Sequence[LeastCost], options: argparse.Namespace) -> int:
    if options.json:
        print_json([_values(p) for p in points])
    elif not points:
        print(say("No sizes that were looked at keep every rule of sizes."))
    else:
        print(say("      price      lost    copper  within"))
        for p in points:
            print(f"{p.price:11.0f} {p.lost_w:7.1f} W {p.copper_kg:6.1f} kg {100.0 * p.gap:6.1f} %")
    return 0 if points else 1


def _known(value: float) -> float | None:
    return value if isfinite(value) else None


def _values(found: LeastCost) -> dict[str, Any]:
    return {
        "found": found.found, "cost": _known(found.cost), "bound": _known(found.bound), "gap": found.gap,
        "before": found.before, "before_broken": found.broken, "circuit_by_circuit": _known(found.circuits),
        "circuit_by_circuit_broken": found.circuits_broken, "price": found.price, "copper_kg": found.copper_kg,
        "lost_w": found.lost_w, "lost_in": found.lost_in, "plans_judged": found.judged, "contradiction": list(found.contradiction),
        "left": [{"rule": f.rule.id, "place": f.place, "headline": f.headline} for f in found.left],
        "remaining": [{"rule": f.rule.id, "place": f.place, "headline": f.headline} for f in found.others],
        "changes": [c._asdict() for c in found.changes],
    }  # fmt: skip
