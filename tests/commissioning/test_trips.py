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
from jaunty_copper.plan.model import Breaker, Charger, Plan, PlugConnector, Scenario
from jaunty_copper.protection.protection import Protection
from tests.build import bar, battery, fused, wire

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


def causes(found):
    return {e.cause: e for e in found}


def test_what_a_meter_and_a_watch_saw_rules_out_what_they_can():
    # The lean-to's breaker of 60 A: 48 A for 150 s at 66 C are no short and no start.
    found = explain_trip(DEMO, "K4", "generator", ambient_c=80.0, current_a=48.0, after_s=150.0)
    assert found[0].cause == "heat"
    assert "hydraulic-magnetic" in found[0].cure
    fault = causes(found)["fault"]
    assert (fault.likelihood, bool(fault.ruled_out)) == (0.0, True)
    assert found[-1].ruled_out
    assert all(e.likelihood > 0.0 and not e.ruled_out for e in found[:-1] if e.cause != "fault")
    # Where all that the plan knows is ruled out, that is said.
    odd = explain_trip(DEMO, "F7", current_a=48.0, after_s=150.0)
    assert odd[0].cause == "none"
    assert "another device than planned" in odd[0].words
    assert causes(odd)["overload"].ruled_out
    assert causes(odd)["fault"].ruled_out


def test_a_place_as_cool_as_the_cure_says_holds():
    heat = explain_trip(DEMO, "K4", "generator")[0]
    holds = int(heat.cure.split("A place below ")[1].split(" °C")[0])
    assert "heat" not in causes(explain_trip(DEMO, "K4", "generator", ambient_c=holds - 2.0))
    assert explain_trip(DEMO, "K4", "generator", ambient_c=holds + 2.0)[0].cause == "heat"


def test_its_terminals_its_age_and_its_neighbour_are_suspected_where_it_carries_much():
    found = causes(explain_trip(DEMO, "F6"))
    assert {"loose", "worn", "beside"} <= found.keys()
    assert "Converter fuse" in found["beside"].words
    # 30 A of blade fuse carry 18.3 A: its body takes its share of the drop at its rating.
    body = DEMO.devices["F6"].family.body_v_at_rated * 18.3 / 30.0
    assert f"alone takes {1e3 * body:.1f} mV" in found["loose"].check
    # A device that carries hardly anything is opened by no heat of its own.
    assert not {"loose", "worn", "beside"} & causes(explain_trip(DEMO, "F6", current_a=3.0)).keys()


def test_a_plug_close_to_it_is_suspected():
    plan = fused(power=150.0, rating=20.0)
    run = next(r for r in plan.runs if r.b == "F1.a")
    near = edits.insert_inline(plan, run.id, PlugConnector(id="X1", name="Lid plug", rating_a=30.0), 0.05)
    found = causes(explain_trip(Protection(study(near)), "F1"))
    assert "Lid plug" in found["plug"].words
    assert "plug" not in causes(explain_trip(Protection(study(plan)), "F1"))


def test_starts_in_a_row_are_suspected_where_one_passes():
    plan = edits.change(fused(power=100.0), "E", surge_w=200.0, surge_s=0.1)
    plan = edits.change(plan, "s", states={"E": "surge"})
    again = causes(explain_trip(Protection(study(plan)), "F1"))["again"]
    cold = Protection(study(plan)).devices["F1"].shortest(np.array(again.current_a))
    assert cold > 0.1
    assert f"{int(np.ceil(cold / 0.1))} in a row" in again.words


def test_sources_that_give_together_are_suspected():
    plan = example("orchard_station")
    both = plan.model_copy(update={"scenarios": tuple(s for s in plan.scenarios if s.id == "noon")})
    p = Protection(study(edits.change(both, "noon", states={"SUN": "off", "GEN": "off"})))
    assert "sources" not in causes(explain_trip(p, "F3"))
    # A second charger on the line of the first: 50 and 40 A through 60 A.
    line = Plan(
        items=(battery("B", volts=24.0), Breaker(id="K", family="thermal-breaker", rating_a=60.0), bar("P", 3), bar("M", 3)),
        equipment=(
            Charger(id="C1", name="One", nominal_v=24.0, set_v=28.0, current_a=50.0), Charger(id="C2", name="Two", nominal_v=24.0, set_v=28.0, current_a=40.0),
        ),
        runs=tuple(
            wire(f"w{k}", a, b)
            for k, (a, b) in enumerate((
                ("B.plus", "K.a"), ("K.b", "P.s1"), ("P.s2", "C1.plus"), ("P.s3", "C2.plus"), ("B.minus", "M.s1"), ("M.s2", "C1.minus"), ("M.s3", "C2.minus"),
            ))
        ),
        scenarios=(Scenario(id="one", states={"C2": "off"}),),
    )  # fmt: skip
    found = causes(explain_trip(Protection(study(line)), "K"))
    assert "One and Two can give 90 A" in found["sources"].words
