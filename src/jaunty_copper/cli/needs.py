"""needs: what is asked of a bank."""

import argparse
from collections.abc import Iterator
from typing import Any

from jaunty_copper.battery.needs import Needs
from jaunty_copper.battery.needs import needs as needs_of
from jaunty_copper.cli.inputs import plan_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.language import say
from jaunty_copper.network.wiring import wire


def needs(options_: argparse.Namespace) -> int:
    """What must run, and what it asks of the bank."""
    plan = plan_or_complaint(options_.plan)
    if isinstance(plan, int):
        return plan
    wiring = wire(plan)
    made = needs_of(wiring)
    others = [needs_of(wiring, bank) for bank in wiring.banks if bank is not made.bank]
    if options_.json:
        more = {"other_banks": [{"bank": n.bank.id, **_needs_values(n)} for n in others if n.bank]} if others else {}
        print_json({**_needs_values(made), **more})
    else:
        print("\n\n".join("\n".join(_needs_lines(n)) for n in (made, *others)))
    return 0


def _needs_values(n: Needs) -> dict[str, Any]:
    return {
        "plan": n.plan.name,
        "nominal_v": n.nominal_v,
        "lowest_v": n.lowest_v,
        "lowest_because": n.lowest_why,
        "continuous_a": n.continuous_a,
        "peak_a": n.peak_a,
        "scenarios": [
            {
                "id": s.scenario.id,
                "nominal_a": s.nominal_a,
                "lowest_a": s.lowest_a,
                "given_a": s.given_a,
                "draws": {d.id: {"nominal_a": d.nominal_a, "lowest_a": d.lowest_a} for d in s.draws},
            }
            for s in n.states
        ],
        "daily_wh": [{"id": d.id, "what": d.what, "wh": d.wh} for d in n.daily],
        "used_wh": n.used_wh,
        "used_ah": n.used_ah,
        "given_wh": n.given_wh,
        "usable_wh": n.usable_wh,
        "autonomy_days": n.autonomy_days,
        "wanted_days": n.plan.autonomy_days,
        "proposed_ah": n.proposed_ah,
        "voltages": [
            {"volts": p.volts, "current_a": p.current_a, "peak_a": p.peak_a, "copper_mm2": p.copper_mm2, "copper_kg": p.copper_kg}
            for p in n.proposals
        ],
        "reasons": list(n.reasons),
    }  # fmt: skip


def _needs_lines(n: Needs) -> Iterator[str]:
    title = {e.id: e.title for e in n.plan.placed}
    of = say(", bank of {units}", units=n.bank.units[0].title) if n.bank is not None and len(n.wiring.banks) > 1 else ""
    yield say(
        "{plan}{of}: {nominal_v:g} V, lowest {lowest_v:g} V ({lowest_why})",
        plan=n.plan.title,
        of=of,
        nominal_v=n.nominal_v,
        lowest_v=n.lowest_v,
        lowest_why=n.lowest_why,
    )
    yield say(
        "  lasting {continuous_a:.1f} A, peak {peak_a:.1f} A at the lowest voltage",
        continuous_a=n.continuous_a,
        peak_a=n.peak_a,
    )
    for s in n.states:
        yield say(
            "\n{scenario}: {nominal_a:.1f} A nominal, {lowest_a:.1f} A lowest, {given_a:.1f} A given",
            scenario=s.scenario.title,
            nominal_a=s.nominal_a,
            lowest_a=s.lowest_a,
            given_a=s.given_a,
        )
        for d in s.draws:
            yield f"  {title[d.id]:24} {d.nominal_a:7.2f} A {d.lowest_a:7.2f} A"
    yield say("\nA day at the bank")
    for line in n.daily:
        if line.wh:
            yield f"  {line.what:32} {line.wh:8.0f} Wh"
    yield say(
        "  used {used_wh:.0f} Wh = {used_ah:.1f} Ah, given {given_wh:.0f} Wh",
        used_wh=n.used_wh,
        used_ah=n.used_ah,
        given_wh=n.given_wh,
    )
    yield say(
        "  the bank gives {usable_wh:.0f} Wh: {autonomy_days:.1f} days without charging, {autonomy_days_2:g} wanted",
        usable_wh=n.usable_wh,
        autonomy_days=n.autonomy_days,
        autonomy_days_2=n.plan.autonomy_days,
    )
    yield say(
        "  {proposed_ah:.0f} Ah at {nominal_v:g} V would give the days wanted",
        proposed_ah=n.proposed_ah,
        nominal_v=n.nominal_v,
    )
    yield say("\nSystem voltage (proposals)")
    for p in n.proposals:
        yield say(
            "  {volts:3g} V  {current_a:6.1f} A lasting  {peak_a:6.1f} A peak  {copper_mm2:6.1f} mm² widest  "
            "{copper_kg:5.2f} kg copper at 3 %",
            volts=p.volts,
            current_a=p.current_a,
            peak_a=p.peak_a,
            copper_mm2=p.copper_mm2,
            copper_kg=p.copper_kg,
        )
    yield from (f"  {reason}" for reason in n.reasons)
