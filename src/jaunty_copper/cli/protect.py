"""The command that proposes protective devices."""

import argparse
import json
import sys
from collections.abc import Sequence
from math import isfinite
from pathlib import Path
from typing import Any

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.devices import Choice, choices
from jaunty_copper.choosing.protect import Protected
from jaunty_copper.choosing.protect import protect as protected
from jaunty_copper.choosing.windows import window
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Finding
from jaunty_copper.codes.code import UnknownCode
from jaunty_copper.documents.table import Column, Table, as_text
from jaunty_copper.language import say
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
        return complain(say("{plan}: practice: {error}", plan=options.plan, error=error))
    if options.json:
        print(json.dumps(_values(made), ensure_ascii=False, indent=1))
    else:
        _print(made)
    target = options.output or (options.plan if options.apply else None)
    if target is not None:
        try:
            save(made.plan, Path(target))
        except (OSError, PlanError) as error:
            return complain(
                say(
                    "not saved to {target}: {getattr}", target=target, getattr=getattr(error, "strerror", None) or error
                )
            )
        print(say("Saved to {target}.", target=target), file=sys.stderr)
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
    print(
        say(
            "{found} findings about protection, {changes} changes, {left} left\n",
            found=len(made.found),
            changes=len(made.changes),
            left=len(made.left),
        )
    )
    for c in made.changes:
        print(f"  {c.place}: {c.before + ' → ' if c.before else ''}{c.after}")
        for line in (c.finding, c.why):
            if line:
                print(f"      {line}")
    if made.left:
        print(say("\nLeft, to be decided by hand:"))
    for f in made.left:
        print(f"  {f.verdict.word:6} {f.headline}\n         {made.reasons[f.rule.id, f.place]}")
    print(say("\nRepresentative families: check each device against its own data sheet before you buy."))


def _one(case: Case, options: argparse.Namespace) -> int:
    if options.device not in case.protection.devices:
        return complain(
            say(
                "there is no device {device!r}; there are: {devices}",
                device=options.device,
                devices=", ".join(case.protection.devices),
            )
        )
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
    print(say("{item}: at least {amps:.3g} A ({why})", item=item.title, amps=w.low.amps, why=w.low.why))
    print(say("  at most {amps:.3g} A ({why})\n", amps=w.high.amps, why=w.high.why))
    print(as_text(_families(found), heads=False))
    return 0


def _families(found: Sequence[Choice]) -> Table:
    """Families of devices for a place, and what speaks for or against each."""
    columns = (Column("family", say("family")), Column("rating_a", "A"), Column("why", say("why")))
    rows = tuple(
        (
            c.family.label,
            f"{c.rating_a:g} A" if c.rating_a else "",
            say("fits; selectivity {selective} {with_whom}", selective=c.selective, with_whom=c.with_whom)
            if c.fits
            else "; ".join(c.fails),
        )
        for c in found
    )
    return Table("families", say("Families"), columns, rows)
