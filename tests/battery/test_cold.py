"""Units too cold to be charged: their management systems let nothing in, and give all the same."""

import json
import random
from dataclasses import replace
from itertools import product
from math import inf

import numpy as np
import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.days import ahead
from jaunty_copper.battery.days_described import described
from jaunty_copper.battery.discharge import over_time, units_of
from jaunty_copper.battery.paralleling import meeting
from jaunty_copper.cli.main import main
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.network.demand import duty_of
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan import edits
from jaunty_copper.plan.clock import hours_read
from jaunty_copper.plan.files import dumps
from jaunty_copper.plan.model import Battery, Charger, CurrentLoad, Plan, Scenario, Zone
from tests.build import ohms
from tests.networks import network
from tests.trials import WHOLE

COLD = Zone(id="shed", ambient_c=-6.0)
STRONG = {"chemistry": "lifepo4", "managed": True, "max_discharge_a": 1e5, "max_charge_a": 1e5}


def units(plan):
    return [x.id for x in plan.items if isinstance(x, Battery)]


def cold_network(seed):
    """A network drawn by chance: lithium units at charges of their own, some of them in the cold."""
    rng = random.Random(seed)
    plan = edits.add(network(seed), COLD)
    for u in units(plan):
        zone = "shed" if rng.random() < 0.7 else plan.by_id[u].zone
        plan = edits.change(plan, u, **STRONG, zone=zone, soc_percent=round(rng.uniform(35.0, 85.0), 1))
    return plan


def searched(plan, scenario, accepting=True):
    """Currents of the units where every choice of those that let nothing in has been tried: of all that hold.

    More than one only where converters feed one another. Not accepting, a unit is charged through no more than it gives through.
    """
    w = wire(plan)
    c, given, solver = w.circuit, units_of(w, scenario), Solver(w.circuit)
    cells = np.flatnonzero(c.is_battery)
    cold = np.array([plan.by_id[u].zone == "shed" for u in units(plan)])
    emf, _ = given.emf(given.soc_percent)
    found = []
    for refuses in product((False, True), repeat=int(cold.sum())):
        shut = np.zeros(cells.size, dtype=bool)
        shut[np.flatnonzero(cold)] = refuses
        duty = duty_of(w, scenario)
        closed, all_emf, extra = duty.closed.copy(), np.zeros(c.a.size), np.zeros(c.a.size)
        closed[cells[shut]], all_emf[cells] = False, emf
        charged = np.zeros(cells.size, dtype=bool)
        for _ in range(8):
            extra[cells] = given.extra_ohm(given.soc_percent, charged) if accepting else 0.0
            point = solver.solve(replace(duty, closed=closed, emf_v=all_emf, extra_ohm=extra))
            if not point.solved or ((now := point.current_a[cells]) < 0.0).tolist() == charged.tolist():
                break
            charged = now < 0.0
        if not point.solved:
            continue
        across = point.volts[c.b[cells]] - point.volts[c.a[cells]]
        if (now[cold] > -2e-3).all() and (across[shut] > emf[shut] - 1e-5).all():
            found.append(now)
    return found


@pytest.mark.chance("networks in the cold whose units refuse as trying every choice finds")
@pytest.mark.parametrize("seed", range(200) if WHOLE else range(30))
def test_who_refuses_is_found_by_trying_every_choice_on_networks_by_chance(seed):
    plan = cold_network(seed)
    scenario = plan.scenarios[0]
    h = over_time(plan, scenario, 1.0, 60.0)
    if any(e.kind in ("load_stops", "collapse") for e in h.course.events):
        return
    wanted = searched(plan, scenario)
    assert bool(wanted) == bool(h.course.hours.size)
    if not wanted:
        return
    # The first minute moves a little.
    assert any(np.allclose(h.course.current_a[0], one, rtol=0.02, atol=0.03) for one in wanted)
    # And for as long as it is followed nothing goes in.
    cold = [k for k, u in enumerate(h.units) if plan.by_id[u].zone == "shed"]
    assert h.course.current_a[:, cold].min(initial=0.0) > -0.01
    refused = {e.index for e in h.course.events if e.kind == "refuses"}
    assert refused <= set(cold)
    warm = over_time(edits.change(plan, "shed", ambient_c=20.0), scenario, 0.1, 60.0).course
    assert not warm.hours.size or warm.current_a[0, cold].min(initial=0.0) > -0.05 or refused


@pytest.mark.chance("networks in the cold whose scenario keeps charge out as trying every choice does")
@pytest.mark.parametrize("seed", range(200) if WHOLE else range(30))
def test_a_scenario_keeps_charge_out_of_the_same_on_networks_by_chance(seed):
    plan = cold_network(seed)
    warmed = study(edits.change(plan, "shed", ambient_c=20.0)).states
    for state, warm in zip(study(plan).states, warmed, strict=True):
        calm = {k: "on" if v == "surge" else v for k, v in state.scenario.states.items()}
        if not state.solved or calm != state.scenario.states:
            continue
        now = np.array([state.current(u) for u in units(plan)])
        assert any(np.allclose(now, one, rtol=1e-5, atol=3e-3) for one in searched(plan, state.scenario, False))
        assert bool(state.kept_out) == (state.charged is not None)
        assert {state.current(u) for u in state.kept_out} <= {0.0}
        if state.charged is None or not state.charged.solved:
            continue
        # What copper is to bear is what flows where the place is warm; its own warmth moves it a little.
        once_warm = [state.charged.current(u) for u in units(plan)]
        np.testing.assert_allclose(once_warm, [warm.current(u) for u in units(plan)], rtol=0.02, atol=0.05)
        assert min(state.charged.current(u) for u in state.kept_out) < 0.0


def pair(**second):
    """Two units side by side on one charger, the first in the cold."""
    first = Battery(id="A", nominal_v=12.0, capacity_ah=100.0, chemistry="lifepo4", managed=True, zone="shed")
    other = Battery(id="B", nominal_v=12.0, capacity_ah=100.0, chemistry="lifepo4", managed=True, **second)
    return Plan(
        items=(first, other), zones=(COLD,), equipment=(Charger(id="G", nominal_v=12.0, set_v=14.2, current_a=80.0),),
        runs=tuple(ohms(f"{t}{s}", f"{t}.{s}", f"G.{s}", 0.001) for t in "AB" for s in ("plus", "minus")),
        scenarios=(Scenario(id="winter", soc_percent=50.0),),
    )  # fmt: skip


def test_the_neighbour_of_a_cold_unit_is_held_to_all_of_the_charge():
    """80 A for the warm one alone, by hand, where both would take 40 A each: beyond what it may, and so it is said."""
    known = Assessment(pair(max_charge_a=50.0))
    state = known.study.states[0]
    assert (state.current("A"), state.current("B")) == (0.0, pytest.approx(-80.0))
    assert state.kept_out == {"A"}
    assert [state.charged.current(u) for u in "AB"] == pytest.approx([-40.0, -40.0], abs=0.01)
    shared = known.case.sharings["A"][0]
    assert (shared.kept_out, shared.spread, shared.current_a) == (("A",), 0.0, pytest.approx(-80.0))
    said = {(f.rule.id, f.place): f for f in known.findings}
    assert said["unit_limit", "B"].verdict == Verdict.DANGER
    assert "80" in said["unit_limit", "B"].headline
    assert ("cold_charge", "A") in said
    assert ("bank_spread", "A") not in said
    assert "unit_limit" not in {f.rule.id for f in Assessment(pair(max_charge_a=90.0)).findings}


def test_copper_and_the_unit_itself_are_held_to_the_charge_that_comes_once_it_is_warm():
    """80 A reach a cold unit that is alone as soon as it lets them in: the cable is judged by them all the same."""
    plan = pair(max_charge_a=90.0)
    alone = edits.change(edits.remove(plan, "B"), "A", max_charge_a=60.0)
    known = Assessment(alone)
    assert known.study.states[0].current("Aplus") == 0.0
    assert known.study.continuous_a[known.study.wiring.branch["Aplus"]] == pytest.approx(80.0)
    said = {(f.rule.id, f.place): f.headline for f in known.findings}
    assert "“winter, once its units take the charge”" in said["unit_limit", "A"]
    picture = Picture(alone, known.diagram, known)
    assert abs(picture.run("Aplus", None).current_a) == pytest.approx(80.0)
    assert picture.run("Aplus", "winter").current_a == 0.0
    assert picture.through("A", None)[0] == pytest.approx(-80.0)
    assert picture.through("A", "winter")[0] == 0.0


def test_what_levels_out_shorts_or_drops_too_much_once_it_is_warm_is_told_in_the_cold():
    """Verdicts that a cold day would hide: each is that of the same plan in a warm place."""
    apart = edits.change(edits.change(pair(), "A", soc_percent=90.0), "B", soc_percent=20.0, zone="shed")
    apart = edits.change_plan(apart, scenarios=(Scenario(id="rest", states={"G": "off"}),))
    # 24 V units beside 12 V ones: a short circuit that a unit which refuses the charge would not show.
    torn = edits.change(pair(), "B", nominal_v=24.0)
    lean = shed(max_charge_a=1e5)
    lean = edits.change(edits.remove(lean, "L"), "Gplus", measured_ohm=0.03)
    uneven = edits.change_each(pair(zone="shed"), {"Bplus": {"measured_ohm": 0.02}, "Bminus": {"measured_ohm": 0.02}})
    for plan, rule in (
        (apart, "levelling"),
        (torn, "contradictory_sources"),
        (lean, "voltage_drop"),
        (uneven, "bank_spread"),
    ):
        warm = edits.change(plan, "shed", ambient_c=20.0)
        cold, told = ({(f.place, f.verdict) for f in Assessment(p).findings if f.rule.id == rule} for p in (plan, warm))
        assert cold == told, rule
        assert told, rule


def test_time_excuses_no_copper_that_carries_more_once_its_units_are_warm():
    """Above its ampacity for ten minutes is a defect, in the cold alone a danger: how warm it gets then is not followed."""
    found = {}
    for air_c in (-6.0, 20.0):
        plan = edits.change(edits.remove(pair(max_charge_a=1e5), "B"), "shed", ambient_c=air_c)
        plan = edits.change_each(
            plan, {r.id: {"conductor": "mm2-10", "measured_ohm": None, "length_m": 1.0} for r in plan.runs}
        )
        plan = edits.change_plan(plan, scenarios=(Scenario(id="s", soc_percent=50.0, minutes=2.0),))
        found[air_c] = [f.verdict for f in Assessment(plan).findings if f.rule.id == "ampacity"]
    assert set(found[20.0]) == {Verdict.DEFECT}
    assert set(found[-6.0]) == {Verdict.DANGER}


def test_networks_by_chance_hold_both_kinds():
    """What would prove nothing: that no unit ever refuses, or none ever gives beside one that does."""
    found = [over_time(p, p.scenarios[0], 0.1, 60.0) for p in map(cold_network, range(40))]
    refusing = [h for h in found if h.refuses]
    assert len(refusing) >= 10
    assert any(len(h.refuses) < len(h.units) and h.course.current_a[0].max() > 1.0 for h in refusing)


def shed(**unit):
    """A unit in a cold shed, a load all day, a charger by day."""
    equipment = (
        CurrentLoad(id="L", nominal_v=12.0, current_a=4.0, hours_per_day=24.0),
        Charger(id="G", nominal_v=12.0, set_v=14.2, current_a=30.0, by_hour=hours_read("8-16")),
    )
    return Plan(
        items=(Battery(id="B", nominal_v=12.0, capacity_ah=200.0, **{"zone": "shed", **STRONG, **unit}),),
        zones=(COLD,), equipment=equipment,
        runs=tuple(ohms(f"{e.id}{s}", f"B.{s}", f"{e.id}.{s}", 0.001) for e in equipment for s in ("plus", "minus")),
        scenarios=(Scenario(id="s", soc_percent=80.0),),
    )  # fmt: skip


def test_a_day_in_the_cold_by_hand():
    """The charger carries the load for its eight hours, and nothing more: 16 h of 4 A leave the unit."""
    plan = shed()
    a = ahead(plan, plan.scenarios[0], (1.0,))
    bank = a.wiring.banks[0]
    assert a.charge(bank)[-1] == pytest.approx(80.0 - 100.0 * 16.0 * 4.0 / 200.0, abs=0.01)
    assert a.course.current_a.min() > -0.01
    assert [e.kind for e in a.course.events].count("refuses") == 1
    assert "Too cold or too warm to be charged, so that nothing goes in: B." in described(a, bank)


@pytest.mark.parametrize(("air_c", "takes"), [(-0.5, False), (0.5, True), (44.5, True), (45.5, False)])
def test_lithium_takes_its_charge_between_freezing_and_45_degrees(air_c, takes):
    plan = edits.change(shed(), "shed", ambient_c=air_c)
    a = ahead(plan, plan.scenarios[0], (1.0,))
    assert (a.refuses == ()) == takes
    assert (a.charge(a.wiring.banks[0])[-1] > 80.0) == takes


@pytest.mark.parametrize("more", [{"managed": False}, {"zone": None}])
def test_what_has_no_such_system_or_is_warm_takes_its_charge(more):
    plan = shed(**more)
    a = ahead(plan, plan.scenarios[0], (1.0,))
    assert a.charge(a.wiring.banks[0])[-1] > 80.0
    assert a.refuses == ()


def test_units_joined_in_the_cold_never_level_out():
    plan = Plan(
        items=tuple(Battery(id=u, nominal_v=12.0, capacity_ah=100.0, zone="shed", **STRONG) for u in ("A", "B")),
        zones=(COLD,), runs=(ohms("p", "A.plus", "B.plus", 0.001), ohms("m", "A.minus", "B.minus", 0.001)),
        scenarios=(Scenario(id="s"),),
    )  # fmt: skip
    assert meeting(plan, "A", {"A": 90.0, "B": 40.0}).level_h == inf
    warm = meeting(edits.change(plan, "shed", ambient_c=20.0), "A", {"A": 90.0, "B": 40.0})
    assert 0.0 < warm.level_h < inf
    # Another bank in the cold is no matter of this one.
    cold = [
        Battery(id=u, nominal_v=12.0, capacity_ah=100.0, zone="frost", soc_percent=c, **STRONG)
        for u, c in (("C", 90.0), ("D", 40.0))
    ]
    beside = edits.add(
        edits.change(plan, "shed", ambient_c=20.0), Zone(id="frost", ambient_c=-6.0), *cold,
        ohms("p2", "C.plus", "D.plus", 0.001), ohms("m2", "C.minus", "D.minus", 0.001),
    )  # fmt: skip
    assert meeting(beside, "A", {"A": 90.0, "B": 40.0}).level_h == warm.level_h


def test_the_command_line_says_it(tmp_path, capsys):
    file = tmp_path / "shed.copper.json"
    file.write_bytes(dumps(shed()))
    assert main(["discharge", str(file), "--hours", "2", "--scenario", "s"]) == 0
    assert "B is too cold or too warm: its management system lets no charge in" in capsys.readouterr().out
    file.write_bytes(dumps(pair()))
    assert main(["bank", str(file)]) == 0
    assert "too cold or too warm: no charge goes into A, and the others take all of it" in capsys.readouterr().out
    assert main(["bank", str(file), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["banks"][0]["scenarios"][0]["lets_no_charge_in"] == ["A"]
    main(["solve", str(file), "--json"])
    assert json.loads(capsys.readouterr().out)["scenarios"][0]["lets_no_charge_in"] == ["A"]
    main(["solve", str(file)])
    assert "lets no charge in: too cold or too warm" in capsys.readouterr().out
