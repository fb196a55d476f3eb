"""check and solve: findings and solved states, for people and for programs."""

import argparse
import json
from math import isfinite
from typing import Any

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli.inputs import complain, plan_or_complaint, states_or_complaint
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import FAILING, Finding
from jaunty_copper.codes.code import UnknownCode
from jaunty_copper.documents.states import state_tables
from jaunty_copper.documents.table import as_text
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.plan.model import Battery, Converter


def check(options: argparse.Namespace) -> int:
    """Hold a plan against a code."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    try:
        known = Assessment(plan, options.practice)
    except UnknownCode as error:
        return complain(str(error))
    case, findings = known.case, known.findings
    counts = {s.id: sum(f.verdict is s for f in findings) for s in FAILING}
    if options.json:
        print(
            json.dumps(
                {
                    "plan": plan.name,
                    "practice": case.code.id,
                    "counts": counts,
                    "findings": [finding_values(f) for f in findings],
                },
                ensure_ascii=False,
                indent=1,
            )
        )
    else:
        print(say("{plan}, by {code}", plan=plan.title or options.plan, code=case.code.name))
        for f in findings:
            print(f"\n{f.verdict.word:6}  {f.headline}")
            print(f"      {f.why}")
            print(say("      [{rule} at {place}] {source}", rule=f.rule.id, place=f.place, source=f.source))
            if (fix := f.fix()) is not None:
                print(say("      fix: {fix}", fix=fix.label))
        print("\n" + ", ".join(s.counted(counts[s.id]) for s in FAILING))
        print(say("A planning aid: local codes and licensed practice decide."))
    return 1 if counts["stop"] else 0


def finding_values(f: Finding) -> dict[str, Any]:
    """A finding as plain values."""
    return {
        "rule": f.rule.id,
        "severity": f.verdict.id,
        "place": f.place,
        "headline": f.headline,
        "figure": _plain(f.figure),
        "limit": _plain(f.limit),
        "unit": f.unit,
        "scenario": f.scenario,
        "practice": f.code,
        "source": f.source,
        "why": f.why,
        "mend": fix.label if (fix := f.fix()) else None,
    }


def _plain(value: float | None) -> float | None:
    """A number that JSON can hold; None for nan and infinity."""
    return None if value is None or not isfinite(value) else value


def solve(options: argparse.Namespace) -> int:
    """Solve a plan's scenarios."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    try:
        known = Assessment(plan)
    except UnknownCode as error:
        return complain(say("{plan}: practice: {error}", plan=options.plan, error=error))
    states = states_or_complaint(known.study, options.scenario)
    if isinstance(states, int):
        return states
    case = known.case
    if options.json:
        values = {"plan": plan.name, "practice": case.code.id, "scenarios": [state_values(case, s) for s in states]}
        print(json.dumps(values, ensure_ascii=False, indent=1))
    else:
        for state in states:
            print(_table(case, state))
    return 0 if all(s.solved for s in states) else 1


def state_values(case: Case, state: State) -> dict[str, Any]:
    """A solved state as plain values, by the plan's names."""
    head: dict[str, Any] = {"id": state.scenario.id, "name": state.scenario.name, "solved": state.solved}
    why = state.point.collapse
    if why is not None:
        w = case.wiring
        return {
            **head,
            "collapse": {
                "place": w.loads[why.load].id if w.loads else None,
                "asked_w": why.asked_w,
                "deliverable_w": why.deliverable_w,
                "limiting": w.branches[why.branch].owner,
                "jointly": why.jointly,
            },
        }
    runs = {}
    for r in case.plan.runs:
        k = case.wiring.branch[r.id]
        current, drop = state.current(r.id), state.drop(r.id)
        amp = case.ampacities.get(r.id)
        runs[r.id] = {
            "current_a": current,
            "drop_v": drop,
            "loss_w": current * drop,
            "temperature_c": float(state.point.temperature_c[k]),
            "ampacity_a": _plain(amp.amps) if amp else None,
            "governs": amp.governs if amp else None,
            "used": _plain(abs(current) / case.for_load(amp)[0]) if amp and amp.amps else None,
        }
    equipment = {}
    for e in case.plan.equipment:
        v, amps = state.port(e)
        values = {"voltage_v": _plain(v), "current_a": amps, "power_w": _plain(v * amps), "mode": state.mode(e)}
        if isinstance(e, Converter):
            out_v, out_a = state.output(e)
            values |= {"output_v": out_v, "output_a": out_a}
        equipment[e.id] = values
    return {
        **head,
        "residual": state.point.residual,
        "voltages_v": {x.ref(t): state.volts(x.ref(t)) for x in case.plan.placed for t in x.terminal_names},
        "runs": runs,
        "bar_segments_a": {
            bar: [float(state.point.current_a[k]) for k in ks] for bar, ks in case.wiring.segments.items()
        },
        "equipment": equipment,
        "lets_no_charge_in": sorted(state.kept_out),
        "batteries_a": {b.id: state.current(b.id) for b in case.plan.items if isinstance(b, Battery)},
    }


def _table(case: Case, state: State) -> str:
    lines = [f"\n{state.scenario.title}"]
    why = state.point.collapse
    if why is not None:
        load = case.wiring.loads[why.load].title if case.wiring.loads else say("a source")
        lines.append(
            say(
                "  no operating point: {load} asks {asked_w:.0f} W, {deliverable_w:.0f} W can reach it",
                load=load,
                asked_w=why.asked_w,
                deliverable_w=why.deliverable_w,
            )
        )
        return "\n".join(lines)
    lines += [as_text(table) for table in state_tables(case, state) if table.rows]
    return "\n".join(lines)
