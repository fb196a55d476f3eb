"""faults: prospective short-circuit currents everywhere, and each device against its interrupt rating."""

import argparse
import csv
import json
import sys
from math import isfinite
from typing import Any

from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.plan.model import Breaker, Fuse
from jaunty_copper.practice.book import UnknownPractice
from jaunty_copper.practice.case import Case
from jaunty_copper.study.study import study


def faults(options: argparse.Namespace) -> int:
    """Tell fault currents."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    try:
        case = Case(study(plan))
    except UnknownPractice as error:
        return complain(f"{options.plan}: practice: {error}")
    f = case.study.faults
    if options.at is not None and options.at not in f.at:
        return complain(f"there is no fault looked at in {options.at!r}; there are: {', '.join(f.at)}")
    places = [
        {
            "at": ref,
            "to": to,
            "peak_a": abs(float(f.peak.current_a[k])),
            "steady_a": abs(float(f.steady.current_a[k])),
            "least_a": abs(float(f.least.current_a[k])),
        }
        for k, (ref, to) in enumerate(f.places.refs)
        if options.at in (None, ref)
    ]
    devices = [_device(case, x) for x in plan.items if isinstance(x, Fuse | Breaker)]
    parts = f.contributions(options.at) if options.at else {}
    if options.csv:
        out = csv.DictWriter(sys.stdout, ["at", "to", "peak_a", "steady_a", "least_a"], lineterminator="\n")
        out.writeheader()
        out.writerows({k: f"{v:.6g}" if isinstance(v, float) else v for k, v in p.items()} for p in places)
    elif options.json:
        print(
            json.dumps(
                {"plan": plan.name, "places": places, "devices": devices, "contributions_a": parts},
                ensure_ascii=False,
                indent=1,
            )
        )
    else:
        print(
            "Short-circuit currents: greatest first moment, greatest lasting, least (IEC 61660-1; representative sources)"
        )
        for p in places:
            print(f"  {p['at']:14} to {p['to']:14} {p['peak_a']:8.0f} A {p['steady_a']:8.0f} A {p['least_a']:8.0f} A")
        for name, amps in parts.items():
            print(f"    {name} gives {amps:.0f} A")
        if options.at is None:
            print("\nDevices: greatest through each, and what it can interrupt")
            for d in devices:
                able = "not at this voltage" if d["interrupt_a"] is None else f"{d['interrupt_a']:.0f} A"
                print(
                    f"  {d['device']:8} {d['through_a']:8.0f} A  {able:>20}  {'enough' if d['enough'] else 'NOT ENOUGH'}"
                )
    return 0


def coordination(options: argparse.Namespace) -> int:
    """Tell selectivity of every pair of devices in series."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    rows = [
        {
            "upstream": p.upstream,
            "downstream": p.downstream,
            "verdict": p.verdict,
            "up_to_a": p.up_to_a if isfinite(p.up_to_a) else None,
            "least_a": p.least_a,
            "most_a": p.most_a,
            "same_circuit": p.same,
        }
        for p in study(plan).pairs
    ]
    if options.csv:
        out = csv.DictWriter(
            sys.stdout,
            ["upstream", "downstream", "verdict", "up_to_a", "least_a", "most_a", "same_circuit"],
            lineterminator="\n",
        )
        out.writeheader()
        out.writerows(rows)
    elif options.json:
        print(json.dumps({"plan": plan.name, "pairs": rows}, ensure_ascii=False, indent=1))
    else:
        print(
            "Does the downstream device open before the upstream one begins to? (representative bands, at the air each stands in)"
        )
        for r in rows:
            until = f"up to {r['up_to_a']:.0f} A" if r["verdict"] == "partial" else ""
            print(
                f"  {r['upstream']:6} before {r['downstream']:6} {r['verdict']:8} {until:16} of {r['least_a']:.0f} to {r['most_a']:.0f} A"
            )
    return 0


def _device(case: Case, x: Fuse | Breaker) -> dict[str, Any]:
    most, where = case.study.faults.greatest_through(x.id)
    volts = case.system_v(x)
    able = case.interrupt_a(x)
    return {
        "device": x.id, "system_v": volts, "through_a": most, "fault_at": where, "interrupt_a": able,
        "enough": able is not None and able >= most,
    }  # fmt: skip
