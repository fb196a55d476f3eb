"""Busbars: their copper against the trade's table, a heat balance, and a fault followed step by step."""

from math import log, sqrt

import numpy as np
import pytest
from benchmarks.generate import generated

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.codes.rules import bars
from jaunty_copper.network.study import study
from jaunty_copper.physics.busbars import bar_ampacity, bar_current, bar_withstand, heat_kept, thick_enough
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Bar, Fuse
from tests.build import battery, fused, judge
from tests.networks import network

DIN_43671 = [  # width, thickness, A: single bare flat bars, 35 °C air, 65 °C bar; from memory, check the edition
    (15, 3, 148), (20, 3, 187), (20, 5, 274), (20, 10, 427), (30, 5, 379), (30, 10, 573), (40, 5, 482), (40, 10, 715),
    (50, 10, 852), (60, 10, 985),
]  # fmt: skip


def found(plan, rule):
    return [f for f in judge(study(plan)) if f.rule.id == rule]


@pytest.mark.parametrize(("width", "thickness", "amps"), DIN_43671)
def test_near_the_table_of_the_trade(width, thickness, amps):
    assert bar_current(width, thickness, 30.0, 65.0) == pytest.approx(amps, rel=0.1)


def test_what_it_carries_is_what_it_gives_off():
    """20 x 5 mm in air of 40 °C, by hand: 50 K above it, film 8.5 (50/30)^(1/4) = 9.66 W/m²K, outline 50 mm."""
    per_metre_w = 8.5 * (50.0 / 30.0) ** 0.25 * 0.05 * 50.0
    ohm = 1.7241e-8 / 100e-6 * (1.0 + 0.00393 * 70.0)
    assert bar_ampacity(20.0, 5.0, 40.0) == pytest.approx(sqrt(per_metre_w / ohm), rel=0.01)
    assert bar_ampacity(20.0, 5.0, 95.0) == 0.0


def test_what_it_takes_is_a_heating_followed_step_by_step():
    """Copper, 3.45e6 J/m³K at 20 °C as IEC 60949 has it, resistance rising with temperature: from 90 to 200 °C."""
    area_m2, amps, c, t, dt = 100e-6, 20e3, 90.0, 0.0, 1e-5
    while c < 200.0:
        rho = 1.7241e-8 * (1.0 + 0.00393 * (c - 20.0))
        c += amps**2 * rho / area_m2**2 / 3.45e6 * dt
        t += dt
    assert amps**2 * t == pytest.approx(bar_withstand(100.0), rel=0.02)
    assert sqrt(bar_withstand(1.0)) == pytest.approx(226.0 * sqrt(log(434.5 / 324.5)))


def test_thicknesses_are_those_that_can_be_bought():
    assert thick_enough(20.0, 5.0, 300.0, 30.0) == 5.0
    assert thick_enough(20.0, 5.0, 450.0, 30.0) == 8.0
    assert thick_enough(20.0, 5.0, 5000.0, 30.0) is None


def test_a_rating_without_the_copper_for_it():
    plan = edits.change(fused(), "P", width_mm=12.0, thickness_mm=2.0)
    (f,) = found(plan, "bar_section")
    assert (f.place, f.verdict) == ("P", Verdict.DEFECT)
    assert f.limit == pytest.approx(bar_ampacity(12.0, 2.0, 30.0))
    after = f.fix().apply(plan)
    assert found(after, "bar_section") == []
    assert after.by_id["P"].rating_a == 300.0


def test_a_larger_bar_gets_the_copper_for_it():
    plan = edits.change(
        fused(power=1500.0, length=0.5, conductor="mm2-95", rating=250.0, family="class-t-fuse"), "P", rating_a=100.0
    )
    (f,) = [x for x in found(plan, "bar_rating") if x.place == "P"]
    after = f.fix().apply(plan)
    assert after.by_id["P"].rating_a >= 150.0
    assert [x for x in found(after, "bar_section") if x.place == "P"] == []


def strong(fuse_a=400.0, **bar):
    plan = fused()
    items = tuple(battery(ohm=0.0005) if x.id == "B" else x for x in plan.items)
    plan = plan.model_copy(update={"items": items})
    for run in ("W1", "W2", "W3"):
        plan = edits.change(plan, run, conductor="mm2-95", length_m=0.1)
    plan = edits.change(plan, "F0", rating_a=fuse_a)
    return edits.change(plan, "P", **bar)


def test_above_ten_kiloamperes_it_is_asked_how_the_bar_stands():
    plan = strong()
    (f,) = [x for x in found(plan, "bar_force") if x.place == "P"]
    assert f.verdict is Verdict.ADVICE
    assert f.figure > 10e3
    assert [x for x in found(strong(gap_mm=75.0, support_mm=75.0), "bar_force") if x.place == "P"] == []
    assert found(fused(), "bar_force") == []


def test_a_slow_device_before_a_thin_bar():
    """A fuse that is fast in a short keeps it; a breaker that takes its time does not keep 12 x 2 mm."""
    assert found(strong(width_mm=12.0, thickness_mm=2.0, rating_a=100.0), "bar_heat") == []
    bare = edits.remove_inline(strong(width_mm=12.0, thickness_mm=2.0, rating_a=100.0), "F0")
    (f,) = [x for x in found(bare, "bar_heat") if x.place == "P"]
    assert "nothing is sure to open" in f.headline
    assert f.fix() is None


def warmed(amps, seconds, width, thickness, ambient):
    """Temperature of a bar that was at 90 °C, followed step by step: heat made, heat given off over its outline, C."""
    area, outline, c = 1e-6 * width * thickness, 2e-3 * (width + thickness), 90.0
    dt = seconds / 4000.0
    for _ in range(4000):
        ohm = 1.7241e-8 / area * (1.0 + 0.00393 * (c - 20.0))
        film = 8.5 * ((c - ambient) / 30.0) ** 0.25
        c += (amps**2 * ohm - film * outline * (c - ambient)) * dt / (3.45e6 * area)
    return c


@pytest.mark.parametrize("seconds", [0.05, 1.0, 5.0, 30.0, 120.0, 600.0, 3600.0])
def test_how_long_a_current_may_flow_is_a_bar_followed_step_by_step(seconds):
    """20 x 5 mm in air of 40 °C: at the current that the rule just lets pass, it comes to 200 °C, within a tenth of its rise."""
    takes, for_good = bar_withstand(100.0), bar_current(20.0, 5.0, 160.0, 200.0)
    low, high = for_good * 0.5, 1e6
    for _ in range(60):
        mid = sqrt(low * high)
        kept = float(heat_kept(np.array([mid]), np.array([seconds]), takes, for_good)[0])
        low, high = (mid, high) if kept <= takes else (low, mid)
    assert 200.0 - 16.0 < warmed(low, seconds, 20.0, 5.0, 40.0) < 200.0 + 16.0


def test_what_a_device_lets_through_into_a_bar_is_looked_for_everywhere():
    """One class T fuse of 60 A before 5 x 2 mm: the most over 4,000 currents from the least short at the bar to the greatest."""
    plan = strong(60.0, width_mm=5.0, thickness_mm=2.0, rating_a=60.0)
    (check,) = [x for x in judge_all(plan) if x.rule.id == "bar_heat" and x.place == "P"]
    case = case_of(plan)
    f, device = case.protection.faults, case.protection.devices["F0"]
    takes, for_good = bar_withstand(10.0), bar_current(5.0, 2.0, 170.0, 200.0)
    least, most = (pick(what(f"P.{t}") for t in ("s1", "s2")) for pick, what in ((min, f.least_a), (max, f.most_a)))
    currents = np.geomspace(max(least, for_good), most, 4000)
    assert check.figure == pytest.approx(
        float(heat_kept(currents, device.longest(currents), takes, for_good).max()), rel=0.02
    )


def test_a_breaker_that_takes_minutes_lets_a_thin_bar_glow():
    """A bank that drives some 900 A; a breaker of 400 A takes minutes for that; 20 x 1 mm do not last them, 20 x 6 mm do."""
    plan = fused()
    plan = plan.model_copy(update={"items": tuple(battery(ohm=0.0135) if x.id == "B" else x for x in plan.items)})
    plan = edits.replace_item(plan, "F0", Fuse(id="F0", family="open-link-limiter", rating_a=400.0))
    for run in ("W1", "W2", "W3"):
        plan = edits.change(plan, run, conductor="mm2-240", length_m=0.1)
    thin = edits.change(plan, "P", width_mm=20.0, thickness_mm=1.0, rating_a=100.0)
    (f,) = [x for x in found(thin, "bar_heat") if x.place == "P"]
    after = f.fix().apply(thin)
    assert [x for x in found(after, "bar_heat") if x.place == "P"] == []
    assert after.by_id["P"].thickness_mm > 1.0


def judge_all(plan):
    from jaunty_copper.assessment.assessment import Assessment

    return Assessment(plan).checks


def case_of(plan):
    from jaunty_copper.assessment.assessment import Assessment

    return Assessment(plan).case


def carrying(protection, place):
    """What ends a short of which nothing guards the way back, device by device."""
    f = protection.faults
    k, whole = f.at[place], f.most_a(place)
    shares = [(d, abs(float(f.peak.branch_a.row(f.row[id_])[k])) / whole) for id_, d in protection.devices.items()]
    alone = [(d, 1.0) for d, share in shares if share >= 0.9]
    if alone:
        return [min(alone, key=lambda x: float(x[0].longest(np.array([whole]))[0]))]
    together = [(d, share) for d, share in shares if share >= 0.1]
    return together if sum(share for _, share in together) >= 0.9 else []


@pytest.mark.parametrize("seed", range(12))
def test_the_worst_short_over_a_bar_is_that_of_all_tried_one_by_one(seed):
    """Those that end alike are looked at as one: nothing is hotter one by one, nor cooler."""
    plan = network(seed) if seed % 3 else generated(60, seed)
    thin = {x.id: {"width_mm": 8.0, "thickness_mm": 1.0} for x in plan.items if isinstance(x, Bar)}
    known = Assessment(edits.change_each(plan, thin))
    case, f, w, devices = known.case, known.protection.faults, known.wiring, known.protection.devices
    checks = {c.place: c for c in known.checks if c.rule.id == "bar_heat" and c.unit == "A²s"}
    for id_, check in checks.items():
        bar = known.plan.by_id[id_]
        takes, for_good = bars._limits(case, bar, bar.thickness_mm)
        first = bar.ref(bar.terminal_names[0])
        if w.rail_of(first) in case.protection.guard.hot_rails:
            studs = [bar.ref(t) for t in bar.terminal_names if bar.ref(t) in f.at]
            place = max(studs, key=f.most_a)
            shorts = [(place, min(map(f.least_a, studs)), f.most_a(place))]
        else:
            shorts = [
                (ref, f.least_a(ref), f.most_a(ref))
                for k, d in case.protection.devices.items()
                for ref in (d.item.ref("a"), d.item.ref("b"))
                if ref in f.at and w.part[w.node[ref]] == w.part[w.node[first]]
                and abs(float(f.peak.branch_a.row(f.row[k])[f.at[ref]])) >= 0.9 * f.most_a(ref)
            ]  # fmt: skip
        worst = 0.0
        for place, least, most in (s for s in shorts if s[2] > for_good):
            for k in w.segments[id_]:
                own = case.protection.guard.bound(k).guard
                ends = [(devices[own], 1.0)] if own in devices else carrying(known.protection, place)
                amps = np.geomspace(min(max(for_good, least), most), most, 500)
                each = [d.longest(share * amps) for d, share in ends]
                seconds = np.max(each, axis=0) if each else np.full(500, np.inf)
                worst = max(worst, float(heat_kept(amps, seconds, takes_a2s=takes, for_good_a=for_good).max()))
        if np.isfinite(worst):
            assert check.figure == pytest.approx(worst, rel=0.05)
        else:
            assert check.figure == worst
