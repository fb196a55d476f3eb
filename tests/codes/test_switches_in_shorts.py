"""What switches between banks bear in short circuits, beside every fault followed by hand: currents, melting, openings."""

import random

import numpy as np
import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.plan.model import Breaker, Disconnect, Fuse, Plan, PowerLoad
from jaunty_copper.protection.fault_network import branches_of, ends_of
from tests.build import bar, battery, wire
from tests.trials import WHOLE

FAMILIES = (
    (Fuse, "class-t-fuse", (100.0, 200.0, 300.0)), (Fuse, "strip-fuse-sf51", (100.0, 200.0, 300.0)),
    (Fuse, "blade-fuse", (30.0, 60.0, 80.0)), (Breaker, "hydraulic-magnetic-breaker", (60.0, 100.0, 200.0)),
)  # fmt: skip
SECONDS = 5.0


def tied(seed):
    """Banks each behind a device, on bars that switches tie in a row."""
    rng = random.Random(seed)
    n = rng.choice((2, 2, 3))
    items, equipment, runs = [bar("M", 8)], [], []
    for k in range(n):
        kind, family, ratings = rng.choice(FAMILIES)
        items += [battery(f"B{k}", ohm=rng.choice((0.002, 0.005, 0.02))), kind(id=f"F{k}", family=family, rating_a=rng.choice(ratings)), bar(f"P{k}", 8)]  # fmt: skip
        runs += [wire(f"u{k}", f"B{k}.plus", f"F{k}.a", 0.2, "mm2-50"), wire(f"v{k}", f"F{k}.b", f"P{k}.s1", 0.3, "mm2-50"),
                 wire(f"w{k}", f"B{k}.minus", f"M.s{k + 1}", 0.3, "mm2-50")]  # fmt: skip
        equipment.append(PowerLoad(id=f"E{k}", power_w=60.0))
        runs += [wire(f"x{k}", f"P{k}.s2", f"E{k}.plus", rng.choice((0.5, 3.0)), "mm2-16"), wire(f"y{k}", f"E{k}.minus", f"M.s{k + 5}", 1.0, "mm2-16")]  # fmt: skip
    for k in range(1, n):
        items.append(
            Disconnect(id=f"S{k}", rating_a=300.0, short_time_a=rng.choice((300.0, 600.0, 1000.0, 2000.0, 4000.0)))
        )
        runs += [wire(f"a{k}", f"P{k - 1}.s4", f"S{k}.a", 0.4, "mm2-50"), wire(f"b{k}", f"S{k}.b", f"P{k}.s3", 0.4, "mm2-50")]  # fmt: skip
    return Plan(items=tuple(items), equipment=tuple(equipment), runs=tuple(runs))


def heats(plan, protection):
    """The most that each switch is heated by in five seconds of any short, A²s, each step of it solved anew."""
    w = protection.study.wiring
    found = branches_of(w, "heat")
    a, b = ends_of(w)
    on = np.isfinite(found.ohm)
    devices = list(protection.devices.values())
    rows = {x.id: w.branch[x.id] for x in plan.items if isinstance(x, Disconnect)}
    most = dict.fromkeys(rows, 0.0)
    # What lies farther out on a circuit is a short through a resistance.
    near = [(r, t) for r, t in protection.faults.places.refs if r[0] in "FS" or r.endswith(".s1")]
    for first, second in sorted({(w.node[r], w.node[t]) for r, t in near}):
        at, to, emf = np.append(a[on], first), np.append(b[on], second), np.append(found.emf_v[on], 0.0)
        into = np.zeros((w.circuit.nodes, at.size))
        np.add.at(into, (at, np.arange(at.size)), 1.0)
        np.add.at(into, (to, np.arange(at.size)), -1.0)
        place = np.cumsum(on) - 1
        for fault_ohm in np.geomspace(1e-4, 0.2, 60):
            whole = 1.0 / np.append(found.ohm[on], fault_ohm)
            left, t, heat = np.ones(len(devices)), 0.0, dict.fromkeys(rows, 0.0)
            while True:
                g = whole.copy()
                g[[place[d.branch] for d, x in zip(devices, left, strict=True) if x <= 0.0]] = 1e-9
                y = (into * g) @ into.T + 1e-9 * np.eye(w.circuit.nodes)
                amps = np.abs(g * (into.T @ np.linalg.solve(y, -into @ (g * emf)) + emf))
                opens = np.array([float(d.longest(amps[[place[d.branch]]])[0]) if x > 0.0 else np.inf
                                  for d, x in zip(devices, left, strict=True)])  # fmt: skip
                rest = np.where(np.isfinite(opens), left * np.where(np.isfinite(opens), opens, 1.0), np.inf)
                k = int(np.argmin(rest))
                for id_, row in rows.items():
                    heat[id_] += amps[place[row]] ** 2 * max(min(t + rest[k], SECONDS) - t, 0.0)
                if t + rest[k] >= SECONDS:
                    break
                t, left = t + rest[k], np.where(np.isfinite(opens), left - rest[k] / opens, left)
                left[k] = 0.0
            most = {id_: max(most[id_], heat[id_]) for id_ in rows}
    return most


@pytest.mark.chance(
    "networks whose switches between banks withstand what is found by following every short step by step"
)
@pytest.mark.parametrize("seed", range(100) if WHOLE else (0, 1, 6, 16, 24))
def test_a_switch_between_banks_bears_what_comes_from_either_side(seed):
    plan = tied(seed)
    known = Assessment(plan)
    told = {f.place for f in known.findings if f.rule.id == "short_time"}
    for id_, heat in heats(plan, known.case.protection).items():
        able = plan.by_id[id_].short_time_a ** 2
        assert (id_ in told) is bool(heat > able) or 0.93 < heat / able < 1.07, (id_, heat / able)


def test_what_the_weaker_bank_drives_for_longer_may_be_the_worse():
    # The strong bank's 30 A fuse opens within milliseconds, the weak one's 200 A breaker takes its time.
    plan = Plan(
        items=(
            bar("M", 4), bar("P0", 4), bar("P1", 4), battery("B0", ohm=0.002), battery("B1", ohm=0.02),
            Fuse(id="F0", family="blade-fuse", rating_a=30.0), Breaker(id="F1", family="hydraulic-magnetic-breaker", rating_a=200.0),
            Disconnect(id="S", rating_a=300.0, short_time_a=450.0),
        ),
        runs=tuple(
            wire(f"{side}{k}", a, b, 0.3, "mm2-50")
            for k in (0, 1)
            for side, a, b in (
                ("u", f"B{k}.plus", f"F{k}.a"), ("v", f"F{k}.b", f"P{k}.s1"), ("w", f"B{k}.minus", f"M.s{k + 1}"),
                ("x", f"P{k}.s2", f"S.{'ab'[k]}"),
            )
        ),
    )  # fmt: skip
    known = Assessment(plan)
    (finding,) = [f for f in known.findings if f.rule.id == "short_time"]
    assert "F1" in finding.headline
    assert heats(plan, known.case.protection)["S"] > 450.0**2
