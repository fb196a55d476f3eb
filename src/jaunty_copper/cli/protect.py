"""The command that proposes protective devices."""

import argparse
import json
import sys
from math import isfinite
from pathlib import Path
from typing import Any

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.devices import choices, window
from jaunty_copper.choosing.protect import Protected
from jaunty_copper.choosing.protect import protect as protected
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Finding
from jaunty_copper.codes.code import UnknownCode
from jaunty_copper.plan.files import PlanError, save


def protect(options: argparse.Namespace) -> int:
    """Propose devices for a plan, or show what fits at one place."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    try:
        if options.device:
            return _one(Assessment(plan, options.practice).case, options)
        made = protected(plan, options.practice, progress=lambda what: print(what, file=sys.stderr))
    except UnknownCode as error:
        return complain(f"{options.plan}: practice: {error}")
    if options.json:
        print(json.dumps(_values(made), ensure_ascii=False, indent=1))
    else:
        _print(made)
    target = options.output or (options.plan if options.apply else None)
    if target is not None:
        try:
            save(made.plan, Path(target))
        except (OSError, PlanError) as error:
            return complain(f"not saved to {target}: {getattr(error, 'strerror', None) or error}")
        print(f"Saved to {target}.", file=sys.stderr)
    return 1 if made.left else 0


def _values(made: Protected) -> dict[str, Any]:
    return {
        "plan": made.plan.name,
        "changes": [
            {k: v for k, v in c._asdict().items() if k != "edit"} | {"edit": c.edit.label} for c in made.changes
        ],
        "found": [_finding(f) for f in made.found],
        "left": [_finding(f) | {"reason": made.reasons[f.rule.id, f.place]} for f in made.left],
    }


def _finding(f: Finding) -> dict[str, str]:
    return {"rule": f.rule.id, "place": f.place, "severity": f.verdict.id, "headline": f.headline}


def _print(made: Protected) -> None:
    print(f"{len(made.found)} findings about protection, {len(made.changes)} changes, {len(made.left)} left\n")
    for c in made.changes:
        print(f"  {c.place}: {c.before + ' → ' if c.before else ''}{c.after}")
        for line in (c.finding, c.why):
            if line:
                print(f"      {line}")
    if made.left:
        print("\nLeft, to be decided by hand:")
    for f in made.left:
        print(f"  {f.verdict.word:6} {f.headline}\n         {made.reasons[f.rule.id, f.place]}")
    print("\nRepresentative families: check each device against its own data sheet before you buy.")


def _one(case: Case, options: argparse.Namespace) -> int:
    if options.device not in case.protection.devices:
        return complain(f"there is no device {options.device!r}; there are: {', '.join(case.protection.devices)}")
    item = case.protection.devices[options.device].item
    w, found = window(case, item), choices(case, options.device)
    if options.json:
        values = {
            "device": item.id,
            "least_a": w.low.amps, "least_why": w.low.why,
            "most_a": w.high.amps if isfinite(w.high.amps) else None, "most_why": w.high.why,
            "families": [
                {"family": c.family.id, "rating_a": c.rating_a, "fits": c.fits, "fails": c.fails,
                 "selectivity": c.selective, "with": c.with_whom}
                for c in found
            ],
        }  # fmt: skip
        print(json.dumps(values, ensure_ascii=False, indent=1))
        return 0
    print(f"{item.title}: at least {w.low.amps:.3g} A ({w.low.why})")
    print(f"  at most {w.high.amps:.3g} A ({w.high.why})\n")
    for c in found:
        rating = f"{c.rating_a:g} A" if c.rating_a else ""
        words = f"fits; selectivity {c.selective} {c.with_whom}" if c.fits else "; ".join(c.fails)
        print(f"  {c.family.label:34} {rating:>6}  {words}")
    return 0
