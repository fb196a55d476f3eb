import csv
import io
import json

import pytest

from jaunty_copper.choosing.changes import PROTECTION
from jaunty_copper.cli.main import main
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps, load, save
from jaunty_copper.protection.faults import faults_of
from tests.build import fused, judge


@pytest.fixture
def demo(tmp_path):
    path = tmp_path / "demo.copper.json"
    save(example("orchard_station"), path)
    return str(path)


@pytest.fixture
def relay(tmp_path):
    path = tmp_path / "relay.copper.json"
    save(example("relay_mast"), path)
    return str(path)


@pytest.fixture
def small(tmp_path):
    path = tmp_path / "small.copper.json"
    save(fused(), path)
    return str(path)


def out(capsys, *words):
    status = main(list(words))
    got = capsys.readouterr()
    return status, got.out, got.err


def test_protect_proposes_and_leaves_the_file_alone_until_told_to(demo, tmp_path, capsys):
    before = dumps(load(demo))
    other = tmp_path / "after.copper.json"
    status, text, told = out(capsys, "protect", demo, "-o", str(other))
    assert status == 0
    assert "F1: strip fuse SF51 of 250 A → class T fuse" in text
    assert "round 1" in told
    assert dumps(load(demo)) == before
    assert not [f for f in judge(study(load(other))) if f.rule.id in PROTECTION]
    assert out(capsys, "protect", demo, "--apply")[0] == 0
    assert dumps(load(demo)) == dumps(load(other))
    _, text, _ = out(capsys, "protect", demo, "--json")
    assert dumps(load(demo)) == dumps(load(other))
    assert json.loads(text)["changes"] == []


def test_protect_tells_what_fits_at_one_place(demo, capsys):
    _, text, _ = out(capsys, "protect", demo, "--device", "F2", "--json")
    values = json.loads(text)
    by_family = {c["family"]: c for c in values["families"]}
    assert by_family["class-t-fuse"]["fits"] is True
    assert by_family["blade-fuse"]["fails"]
    assert values["least_a"] < by_family["class-t-fuse"]["rating_a"] <= values["most_a"]
    _, text, _ = out(capsys, "protect", demo, "--device", "F2")
    assert "fits; selectivity total" in text
    assert out(capsys, "protect", demo, "--device", "none")[0] == 2
    assert out(capsys, "protect", demo, "--practice", "none")[0] == 2


def test_faults_along_a_conductor_fall_from_end_to_end(demo, capsys):
    _, text, _ = out(capsys, "faults", demo, "--along", "W60", "--csv")
    rows = list(csv.DictReader(io.StringIO(text)))
    f = faults_of(wire(example("orchard_station")))
    peak = [float(r["peak_a"]) for r in rows]
    assert len(peak) == 11
    assert peak[0] == pytest.approx(abs(f.peak.current_a[f.at["P24.s6"]]), rel=1e-4)
    assert peak[-1] == pytest.approx(abs(f.peak.current_a[f.at["F6.a"]]), rel=1e-2)
    assert peak == sorted(peak, reverse=True)
    _, text, _ = out(capsys, "faults", demo, "--along", "W60", "--json")
    assert json.loads(text)["places"][-1]["least_a"] == pytest.approx(float(rows[-1]["least_a"]), rel=1e-4)
    assert "0.00 m" in out(capsys, "faults", demo, "--along", "W60")[1]
    assert out(capsys, "faults", demo, "--along", "W999")[0] == 2


def test_faults_replays_one_in_time(small, capsys):
    _, text, _ = out(capsys, "faults", small, "--at", "E.plus", "--replay", "--json")
    values = json.loads(text)
    assert [o["device"] for o in values["opened"]] == ["F1"]
    assert values["ended_s"] >= values["opened"][0]["time_s"]
    _, late, _ = out(capsys, "faults", small, "--at", "E.plus", "--replay", "--late", "--least", "--json")
    assert json.loads(late)["ended_s"] > values["ended_s"]
    _, text, _ = out(capsys, "faults", small, "--at", "E.plus", "--replay", "--csv")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert max(float(r["fault_a"]) for r in rows) == pytest.approx(values["most_a"], rel=1e-3)
    assert "F1 opens at" in out(capsys, "faults", small, "--at", "E.plus", "--replay")[1]
    assert out(capsys, "faults", small, "--replay")[0] == 2


def test_faults_tells_arcs_and_capacitors(tmp_path, capsys):
    path = tmp_path / "relay.copper.json"
    save(example("relay_mast"), path)
    _, text, _ = out(capsys, "faults", str(path), "--arc", "3", "--json")
    places = json.loads(text)["places"]
    assert all(0.0 <= p["arc_a"] < p["peak_a"] for p in places if p["peak_a"] > 0.0 and p["arc_a"] is not None)
    assert any(p["arc_a"] is not None and p["arc_a"] > 0.0 for p in places)
    # At 12 V the law ends; that is no promise that nothing burns.
    save(example("seed_shed"), path)
    told = out(capsys, "faults", str(path), "--arc", "3")[1]
    assert "arc 0 A" not in told
    assert "arc: outside its law's range, it may burn" in told


def test_coordination_says_where_two_devices_are_one_circuit(small, capsys):
    assert "same circuit" in out(capsys, "coordination", small)[1]
    _, text, _ = out(capsys, "coordination", small, "--json")
    assert json.loads(text)["pairs"][0]["same_circuit"] is True


def test_device_adds_a_family_with_its_curve(small, tmp_path, capsys):
    sheet = tmp_path / "sheet.csv"
    sheet.write_text("current_a,shortest_s,longest_s\n20,1,30\n60,0.02,0.4\n")
    words = ["device", small, "--id", "own-fuse", "--like", "blade-fuse", "--source", "sheet 7"]
    status, _, _ = out(capsys, *words, "--curve", str(sheet), "--rating", "10", "--interrupt", "16:2;32:1")
    assert status == 0
    (family,) = load(small).parts.device_families
    assert family.gates == ((2.0, 1.0, 30.0), (6.0, 0.02, 0.4))
    assert family.interrupt_a(16.0) == 2000.0
    sheet.write_text("10,x,2\n20,1,2\n")
    status, _, told = out(capsys, *words, "--curve", str(sheet), "--rating", "10")
    assert status == 2
    assert "line 1: shortest_s is no number" in told
    assert out(capsys, *words[:-3], "none", "--source", "x")[0] == 2
    assert out(capsys, *words, "--interrupt", "nonsense")[0] == 2
    assert out(capsys, *words, "--curve", str(tmp_path / "missing.csv"), "--rating", "10")[0] == 2


def test_export_writes_the_tables_of_what_is_made(demo, tmp_path, capsys):
    _, text, _ = out(capsys, "export", demo, "--to", "materials")
    rows = {r["key"]: r for r in csv.DictReader(io.StringIO(text))}
    own = tmp_path / "own.csv"
    own.write_text("key,price\nterminal-cube-fuse:200,99\n")
    _, text, _ = out(capsys, "export", demo, "--to", "materials", "--prices", str(own))
    again = {r["key"]: r for r in csv.DictReader(io.StringIO(text))}
    assert (again["terminal-cube-fuse:200"]["price"], again["terminal-cube-fuse:200"]["price_from"]) == ("99.0", "own")
    assert rows["terminal-cube-fuse:200"]["price_from"] == "representative"
    for what in ("cuts", "reels", "labels", "order"):
        assert out(capsys, "export", demo, "--to", what)[1].count("\n") > 10
    assert out(capsys, "export", demo, "--to", "materials", "--prices", str(tmp_path / "none"))[0] == 2


def test_size_says_what_it_costs_and_saves_it(capsys, demo, relay, tmp_path):
    target = tmp_path / "sized.copper.json"
    code, text, _ = out(capsys, "size", demo, "--only", "W62", "W63", "F6", "--json")
    told = json.loads(text)
    assert code == 1
    assert told["found"]
    assert told["gap"] < 1e-3
    assert {id_ for c in told["changes"] for id_ in c["ids"]} <= {"W62", "W63", "F6"}
    # What is wrong elsewhere stays, and is said.
    assert ("branch_unprotected", "W40") in [(f["rule"], f["place"]) for f in told["left"]]
    code, text, _ = out(capsys, "size", relay, "-o", str(target))
    assert code == 0
    assert "no rule of sizes finds wrong" in text
    assert main(["check", str(target)]) == 0
    code, text, _ = out(capsys, "size", relay, "--frontier")
    assert code == 0
    assert text.count(" W ") >= 1
    for wrong in (["--only", "NOTHING"], ["--practice", "none"], ["--scenario", "none"], ["--seconds", "-1"]):
        assert main(["size", demo, *wrong]) == 2
    capsys.readouterr()


def test_a_report_with_what_differs(demo, relay, tmp_path, capsys):
    target = tmp_path / "report.pdf"
    assert main(["export", relay, "--to", "report", "--before", demo, "-o", str(target)]) == 0
    assert target.read_bytes().startswith(b"%PDF")
    assert main(["export", relay, "--to", "report", "--before", str(tmp_path / "none"), "-o", str(target)]) == 2
    capsys.readouterr()
