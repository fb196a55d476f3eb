"""The command line, in process; and once for real."""

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import jsonschema
import pytest

from jaunty_copper.cli.main import main
from jaunty_copper.fabrication.altering.steps import alteration
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.files import dumps, save
from jaunty_copper.plan.model import PowerLoad
from tests.build import fused, judge, loop


@pytest.fixture
def demo(tmp_path):
    path = tmp_path / "demo.copper.json"
    save(example("orchard_station"), path)
    return str(path)


def write(tmp_path, plan, name="p.json"):
    save(plan, tmp_path / name)
    return str(tmp_path / name)


def test_check_exits_by_what_it_finds(tmp_path, demo, capsys):
    assert main(["check", demo]) == 1
    assert main(["check", write(tmp_path, fused())]) == 0
    assert main(["check", str(tmp_path / "none.json")]) == 2
    (tmp_path / "broken.json").write_text("{")
    assert main(["check", str(tmp_path / "broken.json")]) == 2
    assert "line 1, column 2" in capsys.readouterr().err
    assert main(["check", demo, "--practice", "nobody"]) == 2
    assert "iso_small_craft" in capsys.readouterr().err


def test_check_gives_the_same_verdict_as_the_rules(demo, capsys):
    main(["check", demo, "--json"])
    told = json.loads(capsys.readouterr().out)
    expected = judge(study(example("orchard_station")))
    assert [f["headline"] for f in told["findings"]] == [f.headline for f in expected]
    assert sum(told["counts"].values()) == len(expected)
    main(["check", demo])
    text = capsys.readouterr().out
    assert all(f.headline in text and f.why in text for f in expected)
    assert "licensed practice decide" in text


def test_check_by_another_practice(demo, capsys):
    main(["check", demo, "--practice", "iso_small_craft", "--json"])
    told = json.loads(capsys.readouterr().out)
    assert told["practice"] == "iso_small_craft"
    assert {f["practice"] for f in told["findings"]} == {"iso_small_craft"}


def test_solve_tells_every_terminal_run_equipment_and_battery(demo, capsys):
    assert main(["solve", demo, "--scenario", "work", "--json"]) == 0
    (told,) = json.loads(capsys.readouterr().out)["scenarios"]
    plan = example("orchard_station")
    state = study(plan).state("work")
    assert told["voltages_v"]["P24.s1"] == state.volts("P24.s1")
    assert set(told["voltages_v"]) == {x.ref(t) for x in plan.placed for t in x.terminal_names}
    run = told["runs"]["W63"]
    assert run["loss_w"] == pytest.approx(run["current_a"] * run["drop_v"])
    assert run["used"] == pytest.approx(abs(run["current_a"]) / run["ampacity_a"])
    assert run["temperature_c"] > 25.0
    assert told["equipment"]["INV"]["mode"] == "runs"
    assert told["equipment"]["CV"]["output_v"] == pytest.approx(12.6)
    assert sum(told["batteries_a"].values()) == pytest.approx(told["runs"]["W1"]["current_a"])
    assert told["residual"] < 1e-9


def test_solve_for_people_and_for_what_cannot_be(tmp_path, demo, capsys):
    assert main(["solve", demo]) == 0
    text = capsys.readouterr().out
    assert all(s.title in text for s in example("orchard_station").scenarios)
    assert "-0.00" not in text
    heavy = write(tmp_path, loop(PowerLoad(id="E", power_w=5000.0)))
    assert main(["solve", heavy]) == 1
    assert "no operating point" in capsys.readouterr().out
    assert main(["solve", heavy, "--json"]) == 1
    assert json.loads(capsys.readouterr().out)["scenarios"][0]["collapse"]["place"] == "E"
    assert main(["solve", demo, "--scenario", "never"]) == 2
    assert "evening" in capsys.readouterr().err


def test_json_never_holds_what_json_cannot(tmp_path, capsys):
    plan = edits.remove_inline(fused(), "F0")
    for command in ("check", "solve"):
        main([command, write(tmp_path, plan), "--json"])
        text = capsys.readouterr().out
        json.loads(text, parse_constant=lambda name: pytest.fail(name))


def test_export(tmp_path, demo, capsys):
    out = tmp_path / "x.cir"
    assert main(["export", demo, "--to", "circuit", "--scenario", "noon", "-o", str(out)]) == 0
    assert out.read_text().endswith(".end\n")
    assert main(["export", demo, "--to", "circuit"]) == 0
    assert ".op" in capsys.readouterr().out
    assert main(["export", demo, "--to", "circuit", "-o", str(tmp_path / "no" / "x.cir")]) == 2
    heavy = write(tmp_path, loop(PowerLoad(id="E", power_w=5000.0)))
    assert main(["export", heavy, "--to", "circuit"]) == 1


def test_schema_and_parts(capsys):
    assert main(["schema"]) == 0
    schema = json.loads(capsys.readouterr().out)
    for name in names():
        jsonschema.validate(json.loads(dumps(example(name))), schema)
    assert main(["parts"]) == 0
    assert "IEC 60228" in capsys.readouterr().out
    assert main(["parts", "--json"]) == 0
    assert len(json.loads(capsys.readouterr().out)["conductors"]) > 40


def test_a_plan_with_an_unknown_practice_is_told(tmp_path, capsys):
    plan = write(tmp_path, edits.change_plan(fused(), practice="nfpa_70"))
    Path(plan).write_text(Path(plan).read_text().replace("nfpa_70", "moon"))
    for command in ("check", "solve"):
        assert main([command, plan]) == 2
        assert re.search(r"practice: .*'iso_small_craft'.*, not 'moon'|practice: .*'nfpa_70'", capsys.readouterr().err)
    assert main(["check", write(tmp_path, fused()), "--practice", "moon"]) == 2
    assert "there is no practice 'moon'" in capsys.readouterr().err


def test_for_real_and_into_a_closed_pipe(demo):
    run = subprocess.run(
        [sys.executable, "-m", "jaunty_copper", "check", demo], capture_output=True, text=True, check=False
    )
    assert run.returncode == 1
    assert "stop" in run.stdout
    piped = subprocess.run(
        f"{sys.executable} -m jaunty_copper parts | head -n 1", shell=True, capture_output=True, text=True, check=False
    )
    assert piped.stderr == ""
    blind = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    dark = subprocess.run(
        [sys.executable, "-m", "jaunty_copper", "demo"], capture_output=True, text=True, check=False, env=blind
    )
    assert dark.returncode == 2
    assert "no display" in dark.stderr
    bad = subprocess.run(
        [sys.executable, "-m", "jaunty_copper", "open", "/none.json"], capture_output=True, text=True, check=False
    )
    assert bad.returncode == 2
    assert "no such file" in bad.stderr


def test_alter_tells_the_order_of_the_work(tmp_path, capsys):
    plan = example("orchard_station")
    after = plan.model_copy(
        update={"items": tuple(x.model_copy(update={"rating_a": 300.0}) if x.id == "F1" else x for x in plan.items)}
    )
    one, other = tmp_path / "is.copper.json", tmp_path / "shall.copper.json"
    one.write_bytes(dumps(plan))
    other.write_bytes(dumps(after))
    assert main(["alter", str(one), str(other)]) == 0
    out = capsys.readouterr().out
    assert (
        out.index("Disconnect W4 from Unit 1 minus")
        < out.index("Disconnect W1 from Unit 1 plus")
        < out.index("Take out Main fuse")
    )
    assert "strip fuse SF51 300 A" in out
    assert main(["alter", str(one), str(other), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["work"][0]["part"] == "Make safe"
    assert found["price"] == 35
    assert {step["done"] for step in found["work"]} == {""}
    # What is ticked in the plan as it shall be.
    steps = alteration(wire(plan), wire(after)).steps
    other.write_bytes(dumps(after.model_copy(update={"done": (steps[1].id,)})))
    assert main(["alter", str(one), str(other)]) == 0
    assert f"x   2  {steps[1].text}" in capsys.readouterr().out
    assert main(["alter", str(one), str(other), "--json"]) == 0
    assert [step["done"] for step in json.loads(capsys.readouterr().out)["work"][:3]] == ["", "x", ""]
    assert main(["alter", str(one), str(one)]) == 0
    assert "nothing to do" in capsys.readouterr().out
    assert main(["alter", str(one), str(tmp_path / "none.copper.json")]) != 0
