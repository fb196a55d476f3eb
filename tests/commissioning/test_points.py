"""Points of all quantities: what they read, what is known of them, and what else may explain them."""

from math import exp

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from jaunty_copper.commissioning.choice import fewest
from jaunty_copper.commissioning.diagnose import NOTHING, diagnose
from jaunty_copper.commissioning.estimates import estimates
from jaunty_copper.commissioning.model import AIR_K, BODY_J_PER_K, K_PER_W, METER_K, RISE_SHARE, bench, known
from jaunty_copper.commissioning.points import (
    Point,
    Unknown,
    bank_alone,
    everything_on,
    joints_of,
    points_of,
    to_measure_in,
)
from jaunty_copper.commissioning.taps import Tap, moved, shift, taps_of
from jaunty_copper.network.wiring import run_ohms, wire
from jaunty_copper.physics.heat import steady_temperature, temperature_after
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Converter, Source
from tests.build import covers, loop
from tests.trials import WHOLE, hold

DEMO = example("orchard_station")


@pytest.fixture(scope="module")
def demo():
    run = DEMO.run_by_id["W21"]
    more = [*joints_of(run), Point("amps", "W21", ""), Point("celsius", "W21", ""), Point("celsius", "F2", "")]
    return bench(DEMO, everything_on(DEMO)).with_points(more)


def value(b, quantity, a, part=""):
    return b.values[b.points.index(Point(quantity, a, part))]


# What points read


def test_a_joint_reads_its_share_of_the_current(demo):
    amps = value(demo, "amps", "W21")
    joints = run_ohms(DEMO.run_by_id["W21"], demo.wiring.parts)[0]
    assert value(demo, "joint", "W21", "a") == pytest.approx(amps * joints / 2.0)
    assert value(demo, "joint", "W21", "a") == value(demo, "joint", "W21", "b")


def test_a_joint_that_the_plan_knows_reads_by_that():
    plan = edits.change(DEMO, "W21", joint_a_ohm=0.0004)
    b = bench(plan, everything_on(plan), (*joints_of(plan.run_by_id["W21"]), Point("amps", "W21", "")))
    first, second, amps = b.values
    assert first == pytest.approx(0.0004 * amps)
    assert second < first


def test_a_temperature_is_that_of_the_copper_and_of_its_worse_joint(demo):
    k = demo.wiring.branch["W21"]
    amps, joint = value(demo, "amps", "W21"), run_ohms(DEMO.run_by_id["W21"], demo.wiring.parts)[0] / 2.0
    assert value(demo, "celsius", "W21") == pytest.approx(float(demo.base.temperature_c[k]) + K_PER_W * joint * amps**2)
    body = float(demo.wiring.circuit.fixed_ohm[demo.wiring.branch["F2"]])
    assert value(demo, "celsius", "F2") > 30.0 + 0.9 * K_PER_W * body * amps**2


def test_a_warmth_after_some_minutes_is_a_share_of_its_rise():
    """A hand on the inverter's cable after two minutes: warm, and far from what it will be; its joints are nearer."""
    at = [Point("celsius", "W21", b) for b in ("", "2", "600")]
    b = bench(DEMO, everything_on(DEMO), tuple(at))
    end, soon, long = b.values
    k = b.wiring.branch["W21"]
    air, amps = float(b.duty.ambient_c[k]), float(b.base.current_a[k])
    cable = b.wiring.circuit.cable_of(k)
    share = (temperature_after(cable, amps, air, 120.0)[0] - air) / (steady_temperature(cable, amps, air)[0] - air)
    copper = float(b.base.temperature_c[k])
    joint_k = K_PER_W * amps**2 * b.joint_ohm(Point("joint", "W21", "a"))
    assert end == pytest.approx(copper + joint_k)
    assert soon == pytest.approx(air + share * (copper - air) + (1.0 - exp(-1.0)) * joint_k)
    assert 0.1 < share < 0.4
    assert long == pytest.approx(end, abs=0.01)
    # What would be 20 K too cold in the end is as planned by then.
    assert abs(soon + 2.0 - b.expected()[1].value) < b.expected()[1].tolerance
    assert abs(soon + 2.0 - b.expected()[0].value) > b.expected()[0].tolerance


def test_the_body_of_a_device_warms_by_a_balance_of_its_own():
    """Watts in, less what it loses for each kelvin, over the heat it holds: integrated, with the warmth of the copper beside it."""
    minutes = (0.5, 1.0, 2.0, 5.0, 30.0)
    b = bench(DEMO, everything_on(DEMO), tuple(Point("celsius", "F2", f"{m:g}") for m in minutes))
    k = b.wiring.branch["F2"]
    watts = float(b.base.current_a[k]) ** 2 * float(b.wiring.circuit.fixed_ohm[k])
    body = solve_ivp(
        lambda _, rise: (watts - rise / K_PER_W) / BODY_J_PER_K, (0.0, 1800.0), [0.0],
        t_eval=[60.0 * m for m in minutes], rtol=1e-9, atol=1e-9,
    ).y[0]  # fmt: skip
    assert b.values - float(b.base.temperature_c[k]) == pytest.approx(body, rel=1e-6)
    assert body[0] < 0.25 * body[-1]


@pytest.mark.parametrize("b", ["x", "0", "-3", "nan"])
def test_minutes_that_are_none_are_refused(demo, b):
    assert not known(demo.wiring, Point("celsius", "W21", b))
    with pytest.raises(edits.EditError, match="minutes under load"):
        edits.take_reading(DEMO, "measuring", "celsius", "W21", b, 34.0)


def test_the_tolerance_of_a_temperature_by_hand(demo):
    e = next(e for e in demo.expected() if e.point == Point("celsius", "W21", ""))
    rise = e.value - float(demo.duty.ambient_c[demo.wiring.branch["W21"]])
    assert e.tolerance == pytest.approx(2.0 * np.sqrt(METER_K**2 + AIR_K**2 + (RISE_SHARE * rise) ** 2))


def test_a_temperature_alone_is_told_and_never_blamed(demo):
    values = np.full(len(demo.points), np.nan)
    values[demo.points.index(Point("celsius", "W21", ""))] = 200.0
    assert diagnose(demo, values) == NOTHING
    assert not any(demo.points[k].quantity == "celsius" for k in fewest(demo)[0])


def test_a_unit_by_a_clamp_reads_what_it_gives(demo):
    units = [value(demo, "amps", u) for u in ("B1", "B2", "B3", "B4")]
    assert sum(units) == pytest.approx(demo.base.current_a[demo.wiring.branch["W1"]])


def test_every_source_is_measured_at_its_own_terminals(demo):
    for e in demo.wiring.sources:
        ends = ("out_plus", "out_minus") if isinstance(e, Converter) else ("plus", "minus")
        assert Point("volts", *map(e.ref, ends)) in demo.points


# What is one of a plan's points


@pytest.mark.parametrize(
    ("point", "is_known"),
    [
        (Point("volts", "B1.plus", "INV.plus"), True), (Point("volts", "B1.plus", "INV.nose"), False),
        (Point("amps", "W21", ""), True), (Point("amps", "B1", ""), True), (Point("amps", "LAMP", ""), False),
        (Point("joint", "W21", "a"), True), (Point("joint", "W20", "a"), False), (Point("joint", "W21", "c"), False),
        (Point("joint", "Q1", "a"), False), (Point("celsius", "F2", ""), True), (Point("celsius", "X", ""), False),
    ],
)  # fmt: skip
def test_points_that_a_plan_has(point, is_known):
    assert known(wire(DEMO), point) is is_known


def test_a_conductor_bolted_or_measured_as_a_whole_has_no_joints_of_its_own():
    assert joints_of(DEMO.run_by_id["W20"]) == ()
    assert joints_of(loop().run_by_id["out"]) == ()


def test_further_points_are_added_once(demo):
    assert demo.with_points(demo.points) is demo
    more = demo.with_points([Point("amps", "W62", ""), Point("amps", "W62", "")])
    assert len(more.points) == len(demo.points) + 1
    taken = {Point("amps", "W62", ""): 17.0}
    assert np.isfinite(more.readings(taken)).sum() == 1


def test_scenarios_to_measure_in_are_two_and_the_plans_own():
    found = to_measure_in(DEMO)
    assert [s.id for s in found[:2]] == ["measuring", "discharging"]
    assert found[2:] == DEMO.scenarios
    sources = {e.id for e in DEMO.equipment if isinstance(e, Source)}
    assert set(bank_alone(DEMO).states) == sources


# What is taken for true


def test_a_bench_of_copper_that_is_known_rests_where_the_copper_does(demo):
    from dataclasses import replace

    place = Unknown(demo.wiring.branch["W21"], "W21", "b")
    off = np.zeros(demo.parameters)
    off[demo.at[place]] = 0.004
    there = replace(demo, known=((place, 0.004),))
    np.testing.assert_allclose(there.values, demo.read(demo.solve(off), off), rtol=1e-9, atol=1e-9)
    assert not diagnose(there, there.values).alarm
    assert diagnose(demo, there.values).suspects[0].name == "W21:b"


# Wrong taps


def test_the_ends_of_a_banks_take_off_may_land_on_any_other_post_of_their_pole(demo):
    found = set(taps_of(demo))
    assert found == {Tap("W1", "a", f"B{k}.plus") for k in (2, 3, 4)} | {
        Tap("W4", "a", f"B{k}.minus") for k in (2, 3, 4)
    }


def test_a_moved_end_changes_the_copper_and_not_where_the_probes_are(demo):
    tap = Tap("W1", "a", "B4.plus")
    there = moved(demo, tap)
    assert there.wiring.plan.run_by_id["W1"].a == "B4.plus"
    assert there.points == demo.points
    d = shift(demo, tap)
    # The probes over W1 now span the links between B1 and B4 as well.
    k = demo.points.index(Point("volts", "B1.plus", "F1.a"))
    assert d[k] != pytest.approx(0.0, abs=1e-4)
    assert abs(d[demo.points.index(Point("amps", "B1", ""))]) > 0.5


# Every example


@pytest.mark.parametrize("name", names())
def test_every_example_can_be_measured_and_is_as_planned(name):
    plan = example(name)
    b = bench(plan, everything_on(plan))
    assert b.points == points_of(b.wiring)
    rng = np.random.default_rng(3)
    alarms = 0
    for _ in range(20):
        off = rng.normal(size=b.parameters) * b.spread
        values = b.read(b.solve(off), off) + rng.normal(size=len(b.points)) * b.meter
        alarms += diagnose(b, values).alarm
    assert alarms <= 1
    for e in estimates(b, b.values):
        assert e.ohm == pytest.approx(e.planned_ohm, abs=1e-12)
        assert e.sigma_ohm >= 0.0


@pytest.mark.chance
@pytest.mark.parametrize("name", names())
def test_a_bad_joint_is_named_first_in_every_example(name):
    plan = example(name)
    b = bench(plan, everything_on(plan))
    rng = np.random.default_rng(4)
    able = [
        k
        for k, p in enumerate(b.places)
        if b.wiring.branches[p.branch].kind == "run" and abs(b.base.current_a[p.branch]) > 4.0
    ]
    assert able
    able = able[:: 1 if WHOLE or len(able) < 20 else 3]
    named = 0
    for k in able:
        off = rng.normal(size=b.parameters) * b.spread
        off[k] += 0.03
        values = b.read(b.solve(off), off) + rng.normal(size=len(b.points)) * b.meter
        found = diagnose(b, values)
        named += found.alarm and covers(found.suspects[0], b.places[k].owner)
    hold(f"30 mΩ more in a conductor of {name.replace('_', ' ')} is named first", named, len(able), at_least=0.95)
