"""faults: prospective short-circuit currents everywhere, and each device against its interrupt rating."""

import argparse
import csv
import json
import sys
from math import inf, isfinite
from typing import Any

import numpy as np

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.code import UnknownCode
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.codes.rules.words import duration
from jaunty_copper.documents.table import Column, Table, as_text
from jaunty_copper.language import say
from jaunty_copper.physics.arc import arc_current
from jaunty_copper.physics.fault_course import NOTHING_A, Unsolved
from jaunty_copper.plan.model import Breaker, Fuse
from jaunty_copper.protection.along import along_run
from jaunty_copper.protection.contributions import contributions, stored
from jaunty_copper.protection.replay import replay
from jaunty_copper.protection.sequences import Opening


def faults(options: argparse.Namespace) -> int:
    """Report fault currents."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    try:
        case = Assessment(plan).case
    except UnknownCode as error:
        return complain(say("{plan}: practice: {error}", plan=options.plan, error=error))
    f = case.protection.faults
    if options.along is not None:
        return _along(case, options)
    if options.replay and options.at is None:
        return complain(say("--replay needs --at TERMINAL"))
    if options.at is not None and options.at not in f.at:
        return complain(
            say("there is no fault looked at in {at!r}; there are: {at_2}", at=options.at, at_2=", ".join(f.at))
        )
    if options.replay:
        return _replay(case, options)
    arcs = arc_current(f.peak.open_v, f.peak.ohm, options.arc) if options.arc is not None else None
    places = [
        {
            "at": ref,
            "to": to,
            "peak_a": abs(float(f.peak.current_a[k])),
            "steady_a": abs(float(f.steady.current_a[k])),
            "least_a": f.least_of(far),
            "rise_ms": 1e3 * float(f.rise_s[k]),
        }
        | ({} if arcs is None else {"arc_a": float(arcs[k]) if isfinite(arcs[k]) else None})
        for (ref, to), k, far in f.rows
        if options.at in (None, ref)
    ]
    devices = [_device(case, x) for x in plan.items if isinstance(x, Fuse | Breaker)]
    parts = contributions(f, options.at) if options.at else {}
    held = stored(f, options.at) if options.at else {}
    sequence = case.protection.sequence(options.at) if options.at else None
    if options.csv:
        out = csv.DictWriter(sys.stdout, list(places[0]) if places else ["at"], lineterminator="\n")
        out.writeheader()
        out.writerows({k: f"{v:.6g}" if isinstance(v, float) else v for k, v in p.items()} for p in places)
    elif options.json:
        print(
            json.dumps(
                {
                    "plan": plan.name,
                    "places": places,
                    "devices": devices,
                    "contributions_a": parts,
                    "capacitors": {k: s._asdict() for k, s in held.items()},
                    "sequence": [
                        {k: v if v != inf else None for k, v in o._asdict().items()} for o in sequence.openings
                    ]
                    if sequence
                    else [],
                },
                ensure_ascii=False,
                indent=1,
            )
        )
    else:
        print(
            say(
                "Short-circuit currents: greatest first moment, greatest lasting, least (IEC 61660-1; representative sources)"
            )
        )
        for p in places:
            arc = _arc_words(p["arc_a"]) if "arc_a" in p else ""
            print(
                say(
                    "  {at:14} to {to:14} {peak_a:8.0f} A {steady_a:8.0f} A {least_a:8.0f} A  rise {rise_ms:.2f} ms{arc}",
                    at=p["at"],
                    to=p["to"],
                    peak_a=p["peak_a"],
                    steady_a=p["steady_a"],
                    least_a=p["least_a"],
                    rise_ms=p["rise_ms"],
                    arc=arc,
                )
            )
        for name, amps in parts.items():
            print(say("    {name} gives {amps:.0f} A", name=name, amps=amps))
        for o in sequence.openings if sequence else ():
            print(say("    {device} opens {when}", device=o.device, when=_when(o)))
        if sequence is not None and sequence.left_a > NOTHING_A:
            print(say("    {left_a:.0f} A go on: nothing opens on them", left_a=sequence.left_a))
        for name, s in held.items():
            print(
                say(
                    "    capacitors of {name} give {current_a:.0f} A at first, gone with {decay_s:.2g} ms",
                    name=name,
                    current_a=s.current_a,
                    decay_s=1000.0 * s.decay_s,
                )
            )
        if options.at is None:
            print(say("\nDevices: prospective current at each, and what it can interrupt"))
            print(as_text(_devices(devices), heads=False))
    return 0


def _devices(found: list[dict[str, Any]]) -> Table:
    """Devices, the current that is prospective at each, and what it can interrupt."""
    columns = tuple(Column(name, name) for name in ("device", "through_a", "interrupt_a", "enough"))
    rows = tuple(
        (
            d["device"],
            f"{d['through_a']:.0f} A",
            say("not at this voltage") if d["interrupt_a"] is None else f"{d['interrupt_a']:.0f} A",
            say("enough") if d["enough"] else say("NOT ENOUGH"),
        )
        for d in found
    )
    return Table("devices", say("Devices"), columns, rows)


def _arc_words(amps: Any) -> str:
    """What is known of an arc: outside the range of its law nothing, and it may burn all the same."""
    return (
        say("  arc {amps:.0f} A", amps=amps) if amps is not None else say("  arc: outside its law's range, it may burn")
    )


def _when(o: Opening) -> str:
    """Between which times a device opens, in words."""
    if isfinite(o.soonest_s):
        return say("after {soonest_s}", soonest_s=duration(o.soonest_s)) + (
            say(" to {latest_s}", latest_s=duration(o.latest_s)) if isfinite(o.latest_s) else say(", with no guarantee")
        )
    return say("in a weak fault only, after {latest_s} at most", latest_s=duration(o.latest_s))


def _along(case: Case, options: argparse.Namespace) -> int:
    """Faults at places along one conductor."""
    f, run = case.protection.faults, case.plan.run_by_id.get(options.along)
    if run is None or run.a not in f.at or run.b not in f.at:
        return complain(say("there is no conductor {along!r} to put a fault on", along=options.along))
    shares = np.linspace(0.0, 1.0, 11)
    columns = {name: along_run(f, run.id, shares, name) for name in ("peak", "steady", "least")}
    rows = [
        {"at_m": round(float(x) * run.length_m, 4)} | {f"{n}_a": float(c[k]) for n, c in columns.items()}
        for k, x in enumerate(shares)
    ]
    if options.csv:
        out = csv.DictWriter(sys.stdout, list(rows[0]), lineterminator="\n")
        out.writeheader()
        out.writerows({k: f"{v:.6g}" for k, v in row.items()} for row in rows)
    elif options.json:
        print(json.dumps({"run": run.id, "from": run.a, "to": run.b, "places": rows}, indent=1))
    else:
        print(
            say(
                "Short-circuit currents along {run}, from {a} to {b}: greatest, lasting, least",
                run=run.id,
                a=run.a,
                b=run.b,
            )
        )
        for row in rows:
            print(f"  {row['at_m']:6.2f} m {row['peak_a']:8.0f} A {row['steady_a']:8.0f} A {row['least_a']:8.0f} A")
    return 0


def _replay(case: Case, options: argparse.Namespace) -> int:
    """One fault in time."""
    try:
        found = replay(case.protection, options.at, case="least" if options.least else "peak", certainly=options.late)
    except Unsolved as error:
        return complain(say("not followed: {error}", error=error))
    burnt = [id_ for id_, k in found.branch.items() if k in found.course.burnt]
    if options.json:
        values = {
            "at": found.at, "to": found.to, "most_a": found.most_a, "ended_s": found.ended_s,
            "opened": [{"device": d, "time_s": t, "current_a": i} for d, t, i in found.opened],
            "hottest": [{"run": r, "most_c": c, "bears_c": limit} for r, c, limit in found.hottest()],
            "burnt": burnt,
        }  # fmt: skip
        print(json.dumps(values, indent=1))
        return 0
    if options.csv:
        out = csv.writer(sys.stdout, lineterminator="\n")
        out.writerow(["time_s", "fault_a", *found.devices])
        at = [found.branch[d] for d in found.devices]
        for t, i in zip(found.course.times_s, found.course.current_a, strict=True):
            out.writerow([f"{t:.9g}", f"{i[found.fault]:.6g}", *(f"{x:.6g}" for x in i[at])])
        return 0
    edge = "slow" if options.late else "fast"
    print(
        say(
            "A short from {at} to {to}: {most_a:.0f} A at most (devices by the {edge} edge of their bands)",
            at=found.at,
            to=found.to,
            most_a=found.most_a,
            edge=edge,
        )
    )
    for d, t, i in found.opened:
        print(say("  {t:>9}  {d} opens at {i:.0f} A", t=duration(t), d=d, i=i))
    print(
        say("  over after {ended_s}", ended_s=duration(found.ended_s))
        if found.ended_s is not None
        else say("  still flowing at the end: nothing more opens")
    )
    for id_ in burnt:
        print(say("  {id} burns through", id=id_))
    for r, c, limit in found.hottest()[:5]:
        print(
            say(
                "  {r} reaches {c:.0f} °C; its insulation withstands {limit:.0f} °C for some seconds",
                r=r,
                c=c,
                limit=limit,
            )
        )
    return 0


def coordination(options: argparse.Namespace) -> int:
    """Report selectivity of every pair of devices in series."""
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
        for p in Assessment(plan).protection.pairs
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
            say(
                "Does the downstream device open before the upstream one begins to? (representative bands, at the air each stands in)"
            )
        )
        for r in rows:
            until = say("up to {up_to_a:.0f} A", up_to_a=r["up_to_a"]) if r["verdict"] == "partial" else ""
            if r["same_circuit"]:
                until = say("same circuit")
            print(
                say(
                    "  {upstream:6} before {downstream:6} {verdict:8} {until:16} of {least_a:.0f} to {most_a:.0f} A",
                    upstream=r["upstream"],
                    downstream=r["downstream"],
                    verdict=r["verdict"],
                    until=until,
                    least_a=r["least_a"],
                    most_a=r["most_a"],
                )
            )
    return 0


def _device(case: Case, x: Fuse | Breaker) -> dict[str, Any]:
    found = interrupting(case, x.id)
    backed = None if found.backed is None else {"by": found.backed.by, "let_through_a": found.backed.let_through_a}
    return {
        "device": x.id, "system_v": case.operating_v(x), "through_a": found.prospective_a, "fault_at": found.where,
        "interrupt_a": found.able_a, "backed_up": backed,
        "a_to_b_a": case.protection.faults.both_ways(x.id)[0], "b_to_a_a": case.protection.faults.both_ways(x.id)[1],
        "enough": found.able_a is not None and found.is_enough,
    }  # fmt: skip
