"""draft: whole plans from the list of equipment."""

import argparse
import sys
from functools import partial
from pathlib import Path
from typing import Any

from jaunty_copper.choosing.brief import Brief
from jaunty_copper.choosing.draft import Draft, decides, drafts
from jaunty_copper.choosing.side_by_side import side_by_side
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.codes.code import code_names
from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.files import save


def draft(options: argparse.Namespace) -> int:
    """Draft whole plans, side by side; save one."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    code = options.practice or plan.practice
    if code not in code_names():
        return complain(say("there is no code {code!r}; there are: {names}", code=code, names=", ".join(code_names())))
    kinds = library().battery_chemistries
    if options.chemistry is not None and options.chemistry not in kinds:
        return complain(
            say(
                "there is no chemistry {chemistry!r}; there are: {kinds}",
                chemistry=options.chemistry,
                kinds=", ".join(kinds),
            )
        )
    if not plan.equipment:
        return complain(say("{plan}: there is no equipment in it", plan=options.plan))
    brief = Brief(code, options.chemistry, options.days or plan.autonomy_days, options.bonding)
    tell = partial(print, file=sys.stderr) if sys.stderr.isatty() else lambda _: None
    found = list(drafts(plan, brief, progress=tell, spread=side_by_side))
    if options.output:
        at = options.take - 1
        chosen = found[at] if 0 <= at < len(found) else None
        if chosen is None or chosen.plan is None:
            return complain(
                say("there is no plan {take} to save; there are {count}", take=options.take, count=len(found))
            )
        save(chosen.plan, Path(options.output))
    if options.json:
        print_json([_values(d, found) for d in found])
    else:
        for k, d in enumerate(found, 1):
            print(f"{k}. {d.title}")
            print(f"   {_line(d)}")
            if d.plan is not None:
                print(f"   {decides(d, found)}")
                for f in d.decisions:
                    print(say("   for you to decide: {what}", what=f.headline))
    return 0 if any(d.plan is not None and not d.findings for d in found) else 1


def _line(d: Draft) -> str:
    if d.plan is None:
        return say("none: {why}", why=d.why_not)
    return say(
        "price {price:.0f}, {copper:.1f} kg copper, {loss:.0f} W lost, lasts {days:.1f} days, {amps:.0f} A for good, "
        "{fault:.1f} kA, {findings} findings{why}",
        price=d.price, copper=d.copper_kg, loss=d.loss_w, days=d.needs.autonomy_days, amps=d.needs.continuous_a,
        fault=d.fault_a / 1000.0, findings=len(d.findings), why=f": {d.why_not}" if d.why_not else "",
    )  # fmt: skip


def _values(d: Draft, found: list[Draft]) -> dict[str, Any]:
    b = d.begun
    whole: dict[str, Any] = {
        "title": d.title, "system_v": b.system_v, "chemistry": b.chemistry, "unit_v": b.unit_v, "unit_ah": b.unit_ah,
        "series": b.series, "parallel": b.parallel, "why_not": d.why_not,
    }  # fmt: skip
    if d.second is not None:
        whole["second"] = {
            "system_v": d.second.system_v, "chemistry": d.second.chemistry, "unit_v": d.second.unit_v,
            "unit_ah": d.second.unit_ah, "series": d.second.series, "parallel": d.second.parallel,
        }  # fmt: skip
    if d.plan is None:
        return whole
    return whole | {
        "price": d.price, "copper_kg": d.copper_kg, "loss_w": d.loss_w, "autonomy_days": d.needs.autonomy_days,
        "lasting_a": d.needs.continuous_a, "short_circuit_a": d.fault_a,
        "findings": [{"rule": f.rule.id, "place": f.place, "headline": f.headline} for f in d.findings],
        "for_you_to_decide": [f.headline for f in d.decisions],
        "decides": decides(d, found),
    }  # fmt: skip
