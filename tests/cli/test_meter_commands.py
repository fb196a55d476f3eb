"""Simulated meters, measuring and trends from the command line."""

import csv
import io
import json
import os
import signal
import subprocess
import sys

import pytest

from jaunty_copper.cli.main import main
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import Plan
from jaunty_copper.simulator.training import TrainingBench, hide

DEMO = example("orchard_station")


@pytest.fixture
def plan(tmp_path):
    path = tmp_path / "demo.copper.json"
    save(DEMO, path)
    return path


def test_measuring_a_practice_bench_finds_what_was_hidden(plan, tmp_path, capsys):
    seed = next(s for s in range(200) if hide(DEMO, s).kind == "hot device")
    hidden = hide(DEMO, seed)
    bench = TrainingBench(DEMO, hidden, seed)
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
    bench = TrainingBench(DEMO, None)
    silent = TrainingBench(DEMO, None, manner="silent")
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
    bench = TrainingBench(DEMO, None)
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


def read_in(sheet):
    return {
        (r["quantity"], r["a"], r["b"]): r["read"] for r in csv.DictReader(io.StringIO(sheet.read_text())) if r["read"]
    }


def test_a_run_without_a_reading_leaves_an_old_table_alone_and_a_new_one_goes_on(plan, tmp_path, capsys, monkeypatch):
    sheet = tmp_path / "r.csv"
    bench = TrainingBench(DEMO, None)
    answers = iter(["", "", "q", "s", "s", "", "q"])
    monkeypatch.setattr("builtins.input", lambda: next(answers))
    try:
        asked = ["measure", str(plan), "--meter", bench.address("volts"), "-o", str(sheet)]
        assert main(asked) == 0
        first, text = read_in(sheet), sheet.read_text()
        assert len(first) == 2
        assert (
            main(["measure", str(plan), "--meter", "TCPIP0::127.0.0.1::9::SOCKET", "--unattended", "-o", str(sheet)])
            == 2
        )
        assert sheet.read_text() == text
        assert main(asked) == 0
    finally:
        bench.close()
    assert len(read_in(sheet)) == 3
    assert first.items() <= read_in(sheet).items()


@pytest.mark.parametrize(
    ("there", "why"),
    [("a;b\n1;2\n", "expected the columns"), ("quantity,a,b,read\nvolts,X.a,Y.b,1\n", "nothing is measured at")],
)
def test_what_is_no_table_of_this_plan_is_not_overwritten(plan, tmp_path, capsys, there, why):
    sheet = tmp_path / "r.csv"
    sheet.write_text(there)
    assert (
        main(["measure", str(plan), "--meter", "TCPIP0::127.0.0.1::9::SOCKET", "--unattended", "-o", str(sheet)]) == 2
    )
    assert why in capsys.readouterr().err
    assert sheet.read_text() == there


def test_a_folder_that_is_missing_is_told_before_anything_is_measured(plan, tmp_path, capsys, monkeypatch):
    monkeypatch.setattr("builtins.input", lambda: pytest.fail("somebody set the probes for nothing"))
    assert (
        main(["measure", str(plan), "--meter", "TCPIP0::127.0.0.1::9::SOCKET", "-o", str(tmp_path / "no" / "r.csv")])
        == 2
    )
    assert "no such file" in capsys.readouterr().err.lower()


@pytest.mark.parametrize(
    ("number", "to_file"),
    [
        (signal.SIGTERM, True), (signal.SIGHUP, False), (signal.SIGINT, True),
        # What was printed nowhere yet cannot outlive this one.
        (signal.SIGKILL, True),
    ],
)  # fmt: skip
def test_a_run_that_is_ended_keeps_every_reading(plan, tmp_path, number, to_file):
    sheet = tmp_path / "r.csv"
    bench = TrainingBench(DEMO, None)
    try:
        process = subprocess.Popen(
            [sys.executable, "-m", "jaunty_copper", "measure", plan, "--meter", bench.address("volts"), *(["-o", sheet] if to_file else [])],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        for k in range(3):
            heard = ""
            while not heard.endswith("q ends): "):
                heard += process.stderr.read(1)
            if k < 2:
                process.stdin.write("\n")
                process.stdin.flush()
        process.send_signal(number)
        out, _ = process.communicate(timeout=60)
    finally:
        bench.close()
    if not to_file:
        sheet.write_text(out)
    assert len(read_in(sheet)) == 2
