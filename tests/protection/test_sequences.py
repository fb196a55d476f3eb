"""What becomes of conductors in faults, on networks drawn by chance, against the replay in time of single faults.

The replay knows inductance, arcs, falling batteries and copper that grows dearer as it warms; the sequence has constant
resistances, and tries every current from the greatest down instead.
"""

import random

import numpy as np
import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.network.study import study
from jaunty_copper.physics.fault_course import NOTHING_A
from jaunty_copper.physics.sequence import Openers, sequences
from jaunty_copper.physics.warming import Watched
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Chassis, ChassisPoint, Run
from jaunty_copper.protection.replay import FAULT_OHM, replay
from tests.build import fused
from tests.networks import network
from tests.trials import WHOLE, hold

SEEDS = 200 if WHOLE else 12
MARGIN = 1.2
"""A fault that is accused may be so much weaker than the one that does it: batteries fall off, copper warms."""
PERMITTED = 0.3
"""A conductor that is accused uses up at least this share of its permitted rise in the replay, or another one burns."""


chance = pytest.mark.chance


def case_of(seed):
    return Assessment(network(seed)).case


@chance
def test_no_conductor_that_the_replay_destroys_is_called_safe():
    missed, seen = [], 0
    for seed in range(SEEDS):
        case = case_of(seed)
        faults, withstand = case.protection.faults, case.protection.withstand
        rows = {r.id: k for k, r in enumerate(withstand.runs)}
        columns = np.unique(case.greatest_faults[0].column).tolist()
        for column in random.Random(seed).sample(columns, min(3, len(columns))):
            ref, to = faults.places.refs[column]
            for name in ("peak", "least"):
                for id_, hottest, limit in replay(case.protection, ref, to=to, case=name, certainly=True).hottest():
                    row = rows[id_]
                    if column in case.greatest_faults[0].columns(row):
                        seen += 1
                        told = (
                            np.isfinite(f.found.damaged_s[f.of(row)]).any()
                            for f in (*case.greatest_faults, *case.least_faults)
                        )
                        if hottest > limit and not any(told):
                            missed.append((seed, name, ref, to, id_, hottest))
    assert seen > SEEDS
    hold("conductors that burn in a replayed fault and are called safe", len(missed), seen, at_most=0.0)


@chance
def test_what_is_accused_gets_hot_in_the_replay_of_that_very_fault():
    wrong, seen = [], 0
    for seed in range(SEEDS):
        case = case_of(seed)
        p, runs = case.protection, case.protection.withstand.runs
        for faults, name, currents in (
            (case.greatest_faults[0], "peak", p.faults.heat), (case.least_faults[0], "least", p.faults.least)
        ):  # fmt: skip
            bad = np.flatnonzero(faults.found.damaged_s < 3000.0).tolist()
            for n in random.Random(seed).sample(bad, min(2, len(bad))):
                k, column = int(faults.case[n]), int(faults.column[faults.case[n]])
                ref, to = p.faults.places.refs[column]
                amps = MARGIN * float(faults.found.first_a[k])
                more = abs(float(currents.open_v[column]) / amps) - float(currents.ohm[column])
                hot = {
                    id_: (hottest, limit)
                    for id_, hottest, limit in replay(
                        p, ref, to=to, case=name, certainly=True, fault_ohm=max(more, FAULT_OHM), loaded=True
                    ).hottest()
                }
                row = int(faults.row[n])
                hottest, limit = hot.get(runs[row].id, (0.0, np.inf))
                begins = float(p.withstand.start_c[row])
                seen += 1
                if hottest < begins + PERMITTED * (limit - begins) and not any(h > most for h, most in hot.values()):
                    wrong.append((seed, name, ref, to, runs[row].id, hottest))
    assert seen > SEEDS
    hold("conductors accused that stay cool in the replayed fault", len(wrong), seen, at_most=0.0)


@chance
def test_the_same_devices_open_in_the_same_order_as_in_the_replay():
    other, seen = [], 0
    for seed in range(SEEDS):
        p = case_of(seed).protection
        f, e = p.faults, p.withstand
        openers = [p.devices[d] for d in f.devices]
        devices = Openers(np.array([d.slow_a for d in openers]), tuple(d.band for d in openers))
        branch = np.array([f.wiring.branch[r.id] for r in e.runs])
        watched = Watched(
            np.zeros(branch.size, dtype=int),
            np.arange(branch.size),
            branch,
            e.area_mm2,
            e.start_c,
            e.end_c,
            e.air_c,
            e.long_a,
            e.long_a,
        )
        for column in random.Random(seed).sample(range(len(f.places.refs)), min(3, len(f.places.refs))):
            ref, to = f.places.refs[column]
            if abs(f.heat.current_a[column]) < NOTHING_A:
                # Nothing flows from the one to the other: no fault.
                continue
            got = sequences(f.heat, np.array([column]), np.array([FAULT_OHM]), devices, watched)
            if np.isfinite(got.damaged_s).any() or (got.hottest_c > e.start_c + 25.0).any():
                # Copper that warms so much lets less flow: a matter of heat, not of order.
                continue
            found = replay(p, ref, to=to, certainly=True)
            mine = [f.devices[d] for d, t in got.order(0) if t < 3600.0]
            theirs = [d for d, _, _ in found.opened]
            seen += bool(theirs or mine)
            if mine != theirs:
                other.append((seed, ref, to, mine, theirs))
    assert seen > SEEDS / 2
    hold("faults in which other devices open than in the replay, or in another order", len(other), seen, at_most=0.02)


def bonded(size):
    frame = Chassis(id="H", points=(ChassisPoint(id="p1"),))
    return edits.add(fused(), frame, Run(id="WB", a="M.s4", b="H.p1", length_m=0.8, conductor=size))


@pytest.mark.parametrize(("size", "told"), [("mm2-0.75", True), ("mm2-16", False)])
def test_a_bond_too_thin_for_a_fault_from_plus_to_the_frame_is_told(size, told):
    found = {(f.rule.id, f.place) for f in Assessment(study(bonded(size))).findings}
    assert (("fault_withstand", "WB") in found) == told
