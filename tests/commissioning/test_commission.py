"""Readings, what they should be, and what they say."""

import csv
import io

import numpy as np
import pytest

from jaunty_copper.cli.main import main
from jaunty_copper.commissioning.choice import fewest
from jaunty_copper.commissioning.diagnose import diagnose
from jaunty_copper.commissioning.model import METER_V, METER_V_SHARE, NothingToMeasure, bench
from jaunty_copper.commissioning.points import Point, everything_on
from jaunty_copper.commissioning.readings_file import ReadingsError, read_readings, with_points_of, write_readings
from jaunty_copper.network.study import solve_scenario
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import Charger, Plan, Post, Scenario
from tests.build import agm_emf, battery, loop, ohms
from tests.trials import hold, trials

DEMO = example("orchard_station")
LOOSE_OHM = 0.02


@pytest.fixture(scope="module")
def demo():
    return bench(DEMO, everything_on(DEMO))


def measured(b, rng, branch=None, more=0.0):
    """Readings of copper as built: everything a little off, one place more, meters with noise."""
    off = rng.normal(size=b.parameters) * b.spread
    if branch is not None:
        off[branch] += more
    return b.read(b.solve(off)) + rng.normal(size=len(b.points)) * b.meter


# What to expect


def test_what_to_expect_is_the_solved_state(demo):
    state = solve_scenario(DEMO, everything_on(DEMO))
    by_point = {e.point: e for e in demo.expected()}
    for r in DEMO.runs:
        assert by_point[Point("volts", r.a, r.b)].value == pytest.approx(state.volts(r.a) - state.volts(r.b), abs=1e-9)
    unit = by_point[Point("volts", "B1.plus", "B1.minus")]
    assert unit.value == pytest.approx(state.volts("B1.plus") - state.volts("B1.minus"))
    assert unit.tolerance > 0.05


def test_a_tolerance_by_hand():
    # 5 A of constant current through 20 milliohm, whose own value is given: joints, load and meter remain.
    plan = loop(edits.change(loop(), "E", power_w=60.0).equipment[0])
    b = bench(plan, plan.scenarios[0], (Point("volts", "B.plus", "E.plus"),))
    amps = b.base.current_a[b.wiring.branch["out"]]
    joints = np.sqrt(2.0) * 20e-6 * amps
    meter = METER_V + METER_V_SHARE * b.values[0]
    own = np.sqrt(joints**2 + meter**2)
    whole = b.expected()[0].tolerance / 2.0
    # The load's own uncertainty, 5 % of the current, adds to it.
    assert whole == pytest.approx(np.hypot(own, 0.05 * b.values[0]), rel=0.05)


def test_slopes_are_what_a_joint_more_does(demo):
    k = demo.wiring.branch["W21"]
    off = np.zeros(demo.parameters)
    off[k] = 1e-3
    moved = demo.read(demo.solve(off)) - demo.values
    np.testing.assert_allclose(demo.slopes.all[:, k] * 1e-3, moved, atol=0.02 * np.abs(moved).max())


def test_a_scenario_that_collapses_cannot_be_measured():
    plan = edits.change(loop(), "E", power_w=1e5)
    with pytest.raises(NothingToMeasure):
        bench(plan, plan.scenarios[0])


# What readings say


@pytest.mark.chance
def test_a_sound_system_raises_no_alarm_in_at_least_95_of_100(demo):
    rng, n = np.random.default_rng(20), trials(100)
    alarms = sum(diagnose(demo, measured(demo, rng)).alarm for _ in range(n))
    hold("a sound system raises an alarm", alarms, n, at_most=0.05)


@pytest.mark.chance
def test_a_loose_lug_anywhere_is_named_first_in_at_least_95_of_100(demo):
    rng = np.random.default_rng(7)
    named = tried = 0
    for k, b in enumerate(demo.wiring.branches):
        if b.kind != "run" or abs(demo.base.current_a[k]) < 1.0:
            continue
        for _ in range(trials(4, least=1)):
            first = diagnose(demo, measured(demo, rng, k, LOOSE_OHM)).suspects[0]
            named += b.owner == first.owner or b.owner in first.with_it
            tried += 1
    assert tried > 30
    hold("20 mΩ more in a conductor, anywhere in the demo, is named first", named, tried, at_least=0.95)


def test_how_much_and_how_hot(demo):
    k = demo.wiring.branch["W21"]
    off = np.zeros(demo.parameters)
    off[k] = 0.002
    found = diagnose(demo, demo.read(demo.solve(off)))
    assert found.alarm
    first = found.suspects[0]
    assert first.owner == "W21"
    assert first.more_ohm == pytest.approx(0.002, rel=0.05)
    assert first.heat_w == pytest.approx(first.more_ohm * demo.base.current_a[k] ** 2)
    assert found.p < 1e-6
    assert [s.owner for s in found.plausible] == ["W21"]


def test_readings_as_planned_say_nothing(demo):
    found = diagnose(demo, demo.values)
    assert (found.alarm, found.chi_square) == (False, pytest.approx(0.0, abs=1e-9))
    assert found.p == pytest.approx(1.0)
    assert diagnose(demo, np.full(len(demo.points), np.nan)).suspects == ()


def test_one_reading_over_two_conductors_cannot_part_them():
    plan = loop()
    cut = edits.change(edits.add(plan, Post(id="P")), "out", b="P.stud")
    cut = edits.add(cut, plan.run_by_id["out"].model_copy(update={"id": "x", "a": "P.stud"}))
    whole = (Point("volts", "B.plus", "E.plus"), Point("volts", "E.plus", "E.minus"))
    b = bench(cut, cut.scenarios[0], whole)
    off = np.zeros(b.parameters)
    off[b.wiring.branch["out"]] = 0.02
    first = diagnose(b, b.read(b.solve(off))).suspects[0]
    assert {first.owner, *first.with_it} >= {"out", "x"}
    parted = bench(cut, cut.scenarios[0], (*whole, Point("volts", "B.plus", "P.stud")))
    again = diagnose(parted, parted.read(parted.solve(off))).suspects[0]
    assert again.owner == "out"
    assert "x" not in again.with_it


def test_the_fewest_readings_reveal_a_bad_joint_wherever_one_can_be_seen(demo):
    chosen, blind = fewest(demo)
    assert len(chosen) < len(demo.points)
    sigma = np.sqrt(np.diag(demo.covariance))
    for k, b in enumerate(demo.wiring.branches):
        if b.kind == "run" and b.owner not in blind:
            seen = np.abs(demo.slopes.all[chosen, k]) * 0.005 > 4.0 * sigma[chosen]
            assert seen.any(), b.owner


# Files and commands


def test_readings_go_to_a_file_and_come_back(demo):
    text = write_readings(demo)
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == len(demo.points)
    assert np.isnan(read_readings(text, demo)).all()
    rows[3]["read"] = "0.25"
    out = io.StringIO()
    writer = csv.DictWriter(out, rows[0].keys())
    writer.writeheader()
    writer.writerows(rows)
    back = read_readings(out.getvalue(), demo)
    assert back[3] == 0.25
    assert np.isfinite(back).sum() == 1


@pytest.mark.parametrize("soc", [50.0, 90.0, 100.0])
def test_amperes_that_are_to_be_expected_into_a_nearly_full_unit_are_few(soc):
    """14.4 V through 50 milliohm in all and, of AGM, 6 x 0.33 / (100 (1 - s + 0.02)) ohm besides; 30 A at most."""
    plan = loop(Charger(id="E", set_v=14.4, current_a=30.0), soc=soc)
    b = bench(plan, plan.scenarios[0])
    meets = 0.05 + 6 * 0.33 / (100.0 * (1.0 - soc / 100.0 + 0.02))
    assert -b.base.current_a[b.wiring.branch["B"]] == pytest.approx(min(30.0, (14.4 - agm_emf(soc)) / meets), rel=1e-6)
    # What conductors must carry is what the charger gives to an empty bank: a plan is not judged by this.
    planned = solve_scenario(plan, plan.scenarios[0])
    assert -planned.current("B") == pytest.approx(min(30.0, (14.4 - agm_emf(soc)) / 0.05), rel=1e-6)


def test_units_that_level_out_without_a_source_meet_none_of_it():
    plan = Plan(
        items=(battery("a", soc_percent=70.0), battery("b", soc_percent=30.0)),
        runs=(ohms("p", "a.plus", "b.plus", 0.001), ohms("m", "a.minus", "b.minus", 0.001)),
        scenarios=(Scenario(id="s"),),
    )
    b = bench(plan, plan.scenarios[0])
    assert b.base.current_a[b.wiring.branch["a"]] == pytest.approx((agm_emf(70.0) - agm_emf(30.0)) / 0.022, rel=1e-6)


def test_amperes_joints_and_warmth_of_anything_are_read_from_a_table(demo, tmp_path, capsys):
    """What the format promises: a clamp on a conductor, a joint, a thermometer, though the table did not ask for them."""
    rows = [
        ("amps", "W21", "", 20.0),
        ("amps", "F2", "", 20.0),
        ("amps", "B1", "", 5.0),
        ("joint", "W21", "a", 0.001),
        ("celsius", "W21", "", 35.0),
    ]
    text = "quantity,a,b,read\n" + "".join(f"{q},{a},{b},{v}\n" for q, a, b, v in rows)
    wide = with_points_of(text, demo)
    values = read_readings(text, wide)
    got = {tuple(p): float(v) for p, v in zip(wide.points, values, strict=True) if np.isfinite(v)}
    assert got == {(q, a, b): v for q, a, b, v in rows}
    # Told before as by the plan: no finding; a clamp that shows half of it is one.
    expected = {tuple(e.point): e.value for e in wide.expected()}
    path = tmp_path / "demo.copper.json"
    save(DEMO, path)

    def said(share, turned=""):
        table = tmp_path / "read.csv"
        signs = [-share if a == turned else share for _, a, _, _ in rows[:3]]
        lines = (f"{q},{a},{b},{s * expected[q, a, b]:.6g}\n" for s, (q, a, b, _) in zip(signs, rows, strict=False))
        table.write_text("quantity,a,b,read\n" + "".join(lines))
        status = main(["diagnose", str(path), str(table)])
        return status, capsys.readouterr()

    assert said(1.0)[0] == 0
    assert "as planned" in said(1.0)[1].out
    assert "nothing is measured" not in said(0.5)[1].err
    status, told = said(1.0, turned="W21")
    assert status == 0
    assert "counted with the other sign: amps W21." in told.out
    with pytest.raises(ReadingsError, match="nothing is measured at amps NO"):
        read_readings("quantity,a,b,read\namps,NO,,1\n", with_points_of("quantity,a,b,read\namps,NO,,1\n", demo))


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("a,b\n", "expected the columns"),
        ("quantity,a,b,read\nvolts,X.y,Z.w,1\n", "line 2: nothing is measured at volts X.y Z.w"),
        ("quantity,a,b,read\nvolts,B1.plus,B2.plus,x\n", "line 2: read is no number"),
        ("quantity,a,b,read\nvolts,B1.plus,B2.plus,inf\n", "no number"),
    ],
)
def test_bad_readings_are_told_with_file_line_and_reason(demo, text, told):
    with pytest.raises(ReadingsError, match=r"f\.csv") as error:
        read_readings(text, demo, "f.csv")
    assert told in str(error.value)


def test_the_commands_write_a_table_and_find_the_loose_lug(demo, tmp_path, capsys):
    plan = tmp_path / "demo.copper.json"
    save(DEMO, plan)
    assert main(["readings", str(plan)]) == 0
    text = capsys.readouterr().out
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == len(demo.points)
    off = np.zeros(demo.parameters)
    off[demo.wiring.branch["W62"]] = 0.05
    for row, value in zip(rows, demo.read(demo.solve(off)), strict=True):
        row["read"] = f"{value:.5g}"
    sheet = tmp_path / "read.csv"
    with sheet.open("w", newline="") as file:
        writer = csv.DictWriter(file, rows[0].keys())
        writer.writeheader()
        writer.writerows(rows)
    assert main(["diagnose", str(plan), str(sheet)]) == 1
    assert "W62" in capsys.readouterr().out.splitlines()[1]
    assert main(["diagnose", str(plan), str(sheet), "--json"]) == 1
    capsys.readouterr()
    assert main(["readings", str(plan), "--fewest"]) == 0
    assert capsys.readouterr().out.count("\n") < len(rows)
    assert main(["readings", str(plan), "--scenario", "none"]) == 2
    assert main(["diagnose", str(plan), str(tmp_path / "missing.csv")]) == 2
    sheet.write_text(text)
    assert main(["diagnose", str(plan), str(sheet)]) == 0


@pytest.mark.parametrize(("place", "more"), [("F6", 0.02), ("K4", 0.02), ("Q1", 0.003)])
def test_a_worn_device_is_named_first(demo, place, more):
    rng = np.random.default_rng(11)
    k = demo.wiring.branch[place]
    firsts = [diagnose(demo, measured(demo, rng, k, more)).suspects[0] for _ in range(8)]
    assert sum(place == s.owner or place in s.with_it for s in firsts) >= 7
