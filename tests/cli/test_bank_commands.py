import csv
import io
import json

import pytest

from jaunty_copper.battery.discharge import over_time
from jaunty_copper.battery.sharing import bank_of, sharing
from jaunty_copper.cli.main import main
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import CurrentLoad, Plan, Scenario
from jaunty_copper.protection.protection import Protection
from tests.build import battery, loop, wire
from tests.codes.test_cross_over import two


@pytest.fixture
def demo(tmp_path):
    path = tmp_path / "demo.copper.json"
    save(example("orchard_station"), path)
    return str(path)


def out(capsys, *words):
    status = main(list(words))
    return status, capsys.readouterr().out


def test_bank_tells_what_the_study_says(demo, capsys):
    status, text = out(capsys, "bank", demo, "--json")
    assert status == 0
    (bank,) = json.loads(text)["banks"]
    made = study(example("orchard_station"))
    for scenario, state in zip(bank["scenarios"], made.states, strict=True):
        want = sharing(bank_of(made.wiring, "B1"), state)
        assert scenario["spread_percent"] == pytest.approx(100.0 * want.spread)
        assert scenario["units"]["B3"]["current_a"] == pytest.approx(want.by_unit["B3"].current_a)
    assert bank["patterns"][0]["pattern"] == "as_it_is"
    assert {p["pattern"] for p in bank["patterns"]} >= {"opposite", "bars", "halves"}
    assert bank["influences"][0]["spread_percent"] >= bank["influences"][-1]["spread_percent"]


def test_bank_for_people_with_joining_and_lengths(demo, capsys):
    _, text = out(capsys, "bank", demo, "--scenario", "work", "--join", "B1=100", "B2=20", "--within", "50")
    for words in (
        "opposite corners",
        "Most sensitive joint",
        "Charge them to one level first",
        "L1p may be longer",
    ):
        assert words in text
    assert main(["bank", demo, "--join", "B1"]) == 2
    assert main(["bank", demo, "--join", "B9=50"]) == 2
    assert main(["bank", demo, "--scenario", "none"]) == 2
    assert "unit=charge" in capsys.readouterr().err


def test_a_lone_unit_has_no_patterns(tmp_path, capsys):
    save(loop(), tmp_path / "p.json")
    _, text = out(capsys, "bank", str(tmp_path / "p.json"))
    assert "none: there is only one string" in text


def test_discharge_as_text_json_and_csv_is_the_same_course(demo, capsys):
    want = over_time(example("orchard_station"), example("orchard_station").scenarios[0], 1.0, 60.0)
    _, text = out(capsys, "discharge", demo, "--hours", "1", "--step", "60", "--json")
    values = json.loads(text)
    assert values["units"]["B1"]["taken_ah"] == pytest.approx(float(want.taken_ah[0]))
    _, text = out(capsys, "discharge", demo, "--hours", "1", "--step", "60", "--csv")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == 61
    assert float(rows[-1]["B4_soc_percent"]) == pytest.approx(want.course.soc_percent[-1, 3], rel=1e-4)
    _, text = out(capsys, "discharge", demo, "--hours", "9")
    assert "B1 is empty" in text
    assert "The others still hold" in text
    assert "what the first to stop costs the bank" in text


def test_a_unit_by_itself_has_no_others(tmp_path, capsys):
    plan = Plan(
        items=(battery(),), equipment=(CurrentLoad(id="E", nominal_v=12.0, current_a=20.0),),
        runs=(wire("p", "B.plus", "E.plus"), wire("m", "E.minus", "B.minus")), scenarios=(Scenario(id="s"),),
    )  # fmt: skip
    save(plan, tmp_path / "one.copper.json")
    _, text = out(capsys, "discharge", str(tmp_path / "one.copper.json"), "--hours", "9")
    assert "B is empty" in text
    assert "others" not in text


def test_discharge_refuses_what_makes_no_sense(demo, capsys):
    assert main(["discharge", demo, "--hours", "-1"]) == 2
    assert main(["discharge", demo, "--hours", "1", "--scenario", "none"]) == 2
    assert "there are: evening" in capsys.readouterr().err


def test_needs_tells_the_day_and_the_voltages(demo, capsys):
    _, text = out(capsys, "needs", demo, "--json")
    values = json.loads(text)
    assert values["used_wh"] == pytest.approx(sum(d["wh"] for d in values["daily_wh"] if d["wh"] > 0))
    assert [v["volts"] for v in values["voltages"]] == [12.0, 24.0, 48.0]
    _, text = out(capsys, "needs", demo)
    assert "Workshop inverter cuts out" in text
    assert "would give the days wanted" in text


def test_needs_of_two_banks_come_one_by_one(tmp_path, capsys):
    path = tmp_path / "two.copper.json"
    save(edits.change(two(), "EC", hours_per_day=20.0), path)
    _, text = out(capsys, "needs", str(path), "--json")
    values = json.loads(text)
    (other,) = values["other_banks"]
    assert (values["used_wh"], other["bank"], other["used_wh"]) == (600.0, "BC", 1200.0)
    _, text = out(capsys, "needs", str(path))
    assert "bank of BA: 12 V" in text
    assert "bank of BC: 12 V" in text


def test_faults_tells_places_devices_and_contributions(demo, capsys):
    f = Protection(study(example("orchard_station"))).faults
    _, text = out(capsys, "faults", demo, "--json")
    values = json.loads(text)
    by_place = {(p["at"], p["to"]): p for p in values["places"]}
    assert len(by_place) == len(f.rows)
    assert by_place["INV.plus", "INV.minus"]["peak_a"] == pytest.approx(f.peak.current_a[f.at["INV.plus"]])
    assert {d["device"]: d["enough"] for d in values["devices"]}["F1"] is False
    for d in values["devices"]:
        # A link in its place lets more through than the device with its own resistance.
        assert 0.3 * d["through_a"] < max(d["a_to_b_a"], d["b_to_a_a"]) < d["through_a"]
    # The generator's charger feeds a fault on the bar back through its breaker.
    assert {d["device"]: d["b_to_a_a"] for d in values["devices"]}["K4"] > 50.0
    _, text = out(capsys, "faults", demo, "--at", "INV.plus", "--json")
    values = json.loads(text)
    assert sum(values["contributions_a"].values()) == pytest.approx(values["places"][0]["peak_a"], rel=0.02)
    _, text = out(capsys, "faults", demo)
    assert "NOT ENOUGH" in text
    _, text = out(capsys, "faults", demo, "--csv")
    assert text.splitlines()[0] == "at,to,peak_a,steady_a,least_a,rise_ms"
    assert main(["faults", demo, "--at", "nowhere"]) == 2


def test_trip_reads_the_band_at_the_ambient(capsys):
    _, text = out(
        capsys, "trip", "--family", "thermal-breaker", "--rating", "50", "--current", "84", "--ambient", "60", "--json"
    )
    values = json.loads(text)
    assert values["multiple"] == pytest.approx(2.0)
    assert (values["shortest_s"], values["longest_s"]) == (pytest.approx(10.0), pytest.approx(60.0))
    _, text = out(capsys, "trip", "--family", "blade-fuse", "--rating", "10", "--current", "5")
    assert "lasts at least any time" in text
    assert main(["trip", "--family", "none", "--rating", "10", "--current", "5"]) == 2
    assert main(["trip", "--family", "blade-fuse", "--rating", "0", "--current", "5"]) == 2


def test_coordination_tells_every_pair_in_series(demo, capsys):
    _, text = out(capsys, "coordination", demo, "--json")
    rows = {(r["upstream"], r["downstream"]): r for r in json.loads(text)["pairs"]}
    assert rows["F1", "F2"]["verdict"] == "none"
    assert rows["F1", "F6"] == {**rows["F1", "F6"], "verdict": "total", "up_to_a": None}
    _, text = out(capsys, "coordination", demo)
    assert "F1     before F6     total" in text
    _, text = out(capsys, "coordination", demo, "--csv")
    assert len(list(csv.DictReader(io.StringIO(text)))) == len(rows)


def test_day_as_text_json_and_csv_is_the_same_course(demo, capsys):
    _, text = out(capsys, "day", demo, "--sun", "100 30")
    assert "The bank is empty on day" in text
    assert "monitor says" in text
    _, text = out(capsys, "day", demo, "--sun", "100 30", "--json")
    found = json.loads(text)
    assert found["sun"] == [1.0, 0.3]
    (bank,) = found["banks"].values()
    assert len(bank["charge_percent"]) == 49
    assert bank["charge_percent"][0] == 60.0
    assert found["not_fed_h"]["LAMP"] > 0.0
    _, text = out(capsys, "day", demo, "--sun", "100 30", "--csv")
    rows = list(csv.reader(text.splitlines()))
    assert rows[0] == ["hour", "B1_percent", "B1_a"]
    assert float(rows[-1][0]) == pytest.approx(48.0)
    assert float(rows[-1][1]) == pytest.approx(bank["charge_percent"][-1], abs=1e-3)


def test_day_refuses_what_makes_no_sense(demo, capsys):
    assert main(["day", demo, "--sun", "bright"]) == 2
    assert main(["day", demo, "--scenario", "none"]) == 2
    assert "bright" in capsys.readouterr().err
