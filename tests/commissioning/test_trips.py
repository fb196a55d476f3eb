"""What opened a device, by what could have."""

import json

import numpy as np
import pytest

from jaunty_copper.cli.main import main
from jaunty_copper.commissioning.trips import explain_trip
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.protection.protection import Protection
from tests.build import fused

DEMO = Protection(study(example("orchard_station")))


def test_the_demo_s_breaker_in_the_hot_lean_to_is_opened_by_heat():
    first = explain_trip(DEMO, "K4", "generator")[0]
    assert first.cause == "heat"
    assert "66 °C" in first.words
    cool = explain_trip(DEMO, "K4", "generator", ambient_c=25.0)
    assert cool[0].cause != "heat" or cool[0].likelihood < first.likelihood


def test_more_than_its_rating_is_an_overload_with_the_bands_times():
    first = explain_trip(DEMO, "F7", current_a=25.0)[0]
    d = DEMO.devices["F7"]
    assert first.cause == "overload"
    assert first.shortest_s == pytest.approx(float(d.shortest(np.array(25.0))), rel=0.05)
    assert first.longest_s > first.shortest_s


def test_a_start_that_opens_it_is_found():
    plan = edits.change(fused(power=100.0), "E", surge_w=300.0, surge_s=3.0)
    plan = edits.change(plan, "s", states={"E": "surge"})
    plan = edits.add(plan, plan.scenarios[0].model_copy(update={"id": "calm", "states": {}}))
    found = explain_trip(Protection(study(plan)), "F1", "calm")
    assert "start" in {e.cause for e in found}


def test_the_time_that_was_seen_tells_a_fault_from_an_overload():
    found = {after: explain_trip(DEMO, "F7", current_a=25.0, after_s=after)[0].cause for after in (0.003, 1.0)}
    assert found == {0.003: "fault", 1.0: "overload"}


def test_an_unselective_neighbour_is_suspected():
    words = " ".join(e.words for e in explain_trip(DEMO, "F1") if e.cause == "neighbour")
    assert "Inverter fuse" in words
    assert "neighbour" not in {e.cause for e in explain_trip(DEMO, "F6")}


def test_where_nothing_opens_it_the_copper_is_not_as_planned():
    alone = edits.remove(edits.remove(fused(), "W4"), "W5")
    (only,) = explain_trip(Protection(study(alone)), "F1")
    assert (only.cause, only.likelihood) == ("none", 0.0)
    with pytest.raises(KeyError):
        explain_trip(DEMO, "nothing")


def test_the_command_tells_cause_and_cure(tmp_path, capsys):
    path = tmp_path / "demo.copper.json"
    save(example("orchard_station"), path)
    assert main(["why", str(path), "--device", "K4", "--scenario", "generator"]) == 0
    text = capsys.readouterr().out
    assert text.splitlines()[1].strip().startswith("heat:")
    assert main(["why", str(path), "--device", "F7", "--current", "25", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)[0]["cause"] == "overload"
    assert main(["why", str(path), "--device", "none"]) == 2
    assert main(["why", str(path), "--device", "K4", "--scenario", "none"]) == 2
