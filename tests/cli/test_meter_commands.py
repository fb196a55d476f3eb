"""Simulated meters, measuring and trends from the command line."""

import csv
import io
import json
import os
import subprocess
import sys

import pytest

from jaunty_copper.cli.main import main
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import Plan
from jaunty_copper.stand_ins.practice import PracticeBench, hide

DEMO = example("orchard_station")


@pytest.fixture
def plan(tmp_path):
    path = tmp_path / "demo.copper.json"
    save(DEMO, path)
    return path


def test_measuring_a_practice_bench_finds_what_was_hidden(plan, tmp_path, capsys):
    seed = next(s for s in range(200) if hide(DEMO, s).kind == "hot device")
    hidden = hide(DEMO, seed)
    bench = PracticeBench(DEMO, hidden, seed)
    try:
        for scenario in ("measuring", "discharging"):
            sheet = tmp_path / f"{scenario}.csv"
            asked = [
                "--meter",
                bench.address("volts"),
                "--clamp",
                bench.address("amps"),
                "--scenario",
                scenario,
                "--unattended",
            ]
            assert main(["measure", str(plan), *asked, "-o", str(sheet)]) == 0
            found = main(["diagnose", str(plan), str(sheet), "--scenario", scenario])
            said = capsys.readouterr().out
            if found == 1 and hidden.owner in said.splitlines()[1]:
                assert "Chi-square" in said
                return
    finally:
        bench.close()
    pytest.fail(f"{hidden} was not found")


def test_a_meter_that_falls_silent_keeps_what_was_read(plan, tmp_path, capsys):
    bench = PracticeBench(DEMO, None)
    silent = PracticeBench(DEMO, None, manner="silent")
    sheet = tmp_path / "r.csv"
    try:
        asked = [
            "--meter",
            bench.address("volts"),
            "--clamp",
            silent.address("amps"),
            "--unattended",
            "--timeout",
            "0.3",
        ]
        assert main(["measure", str(plan), *asked, "-o", str(sheet)]) == 2
    finally:
        bench.close()
        silent.close()
    assert "are kept" in capsys.readouterr().err
    read = [r["read"] for r in csv.DictReader(io.StringIO(sheet.read_text())) if r["read"]]
    assert len(read) > 50


def test_measuring_by_hand_waits_for_the_probes(plan, capsys, monkeypatch):
    bench = PracticeBench(DEMO, None)
    answers = iter(["", "s", "", "q"])
    monkeypatch.setattr("builtins.input", lambda: next(answers))
    try:
        assert main(["measure", str(plan), "--meter", bench.address("volts")]) == 0
    finally:
        bench.close()
    told = capsys.readouterr()
    assert told.err.startswith("Probes at B1.plus and B2.plus")
    out = list(csv.DictReader(io.StringIO(told.out)))
    assert set(out[0]) == {"quantity", "a", "b", "expected", "tolerance", "read"}
    assert [bool(r["read"]) for r in out[:4]] == [True, False, True, False]


def test_stand_ins_tell_their_addresses_and_what_was_hidden(plan):
    done = subprocess.run(
        [sys.executable, "-m", "jaunty_copper", "stand-ins", str(plan), "--seed", "3", "--seconds", "0.2"],
        capture_output=True, text=True, check=True, timeout=60, env=os.environ,
    )  # fmt: skip
    assert done.stdout.count("::SOCKET") == 3
    assert f"Hidden was: {hide(DEMO, 3).words(DEMO)}" in done.stdout


def test_nothing_to_hide_and_sound_copper(plan, tmp_path, capsys):
    empty = tmp_path / "empty.copper.json"
    save(Plan(), empty)
    assert main(["stand-ins", str(empty)]) == 2
    assert main(["stand-ins", str(plan), "--sound", "--seconds", "0.1"]) == 0
    assert "Hidden" not in capsys.readouterr().out


def test_trend_follows_the_log(tmp_path, capsys):
    read = edits.take_reading(DEMO, "measuring", "volts", "F2.b", "INV.plus", 0.095)
    path = tmp_path / "p.copper.json"
    save(edits.log_readings(read, "2026-02-03"), path)
    assert main(["trend", str(path), "--of", "W21"]) == 0
    assert capsys.readouterr().out.startswith("2026-02-03")
    assert main(["trend", str(path), "--of", "W21", "--json"]) == 0
    (point,) = json.loads(capsys.readouterr().out)
    assert point["on"] == "2026-02-03"
    assert main(["trend", str(path), "--of", "nobody"]) == 2
