"""The chance of findings: a closed form, full solutions one by one, and what matters most."""

import json
import random
from dataclasses import replace
from math import erf, sqrt

import numpy as np
import pytest
from scipy.optimize import brentq

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli.main import main
from jaunty_copper.codes.carried import normal_current
from jaunty_copper.codes.interrupting import backed_up
from jaunty_copper.commissioning.counted import interrupted
from jaunty_copper.commissioning.spreads import Spreads, drawn
from jaunty_copper.commissioning.varying import chances
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.model import Battery, Charger, CurrentLoad, Fuse, Plan, Run, Scenario, Zone
from tests.battery.test_cold import cold_network
from tests.build import battery, ohms
from tests.networks import network
from tests.trials import WHOLE

NONE = Spreads(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)


def by_place(found):
    return {(c.rule, c.place): c for c in found.found}


def one_load(metres):
    """20 A through so many metres of 10 mm² each way."""
    return Plan(
        items=(battery(),), equipment=(CurrentLoad(id="E", nominal_v=12.0, current_a=20.0),),
        runs=(
            Run(id="out", a="B.plus", b="E.plus", length_m=metres, conductor="mm2-10"), Run(id="back", a="E.minus", b="B.minus", length_m=metres, conductor="mm2-10"),
        ),
        scenarios=(Scenario(id="s"),),
    )  # fmt: skip


@pytest.mark.parametrize("metres", [14.0, 15.0, 16.0])
def test_a_load_known_to_five_per_cent_breaks_its_limit_as_often_as_a_normal_distribution_says(metres):
    case = Assessment(one_load(metres)).case
    lost = by_place(chances(case, 20, spreads=NONE))["voltage_drop", "E"]
    assert lost.low == pytest.approx(lost.high)
    found = by_place(chances(case, 20000, spreads=replace(NONE, load=0.05)))["voltage_drop", "E"]
    # A constant current: the drop goes with it, and a little more for the warmth.
    z = (lost.limit / lost.middle - 1.0) / 0.05
    assert found.chance == pytest.approx(0.5 * (1.0 - erf(z / sqrt(2.0))), abs=0.015)
    assert found.matters[0][:2] == ("load", "E")
    assert found.matters[0].share > 0.95


def test_the_more_doubtful_come_first_and_nothing_is_sure_that_is_not():
    found = chances(Assessment(example("orchard_station")).case, 2000)
    doubt = [abs(c.chance - 0.5) for c in found.found]
    assert doubt == sorted(doubt)
    assert found.left_out < 0.01
    by = by_place(found)
    # The breaker in the hot lean-to carries what it is worth: a coin's toss, decided by its own tolerance.
    hot = by["heat_opens", "K4"]
    assert 0.4 < hot.chance < 0.9
    assert hot.matters[0][:2] == ("device", "K4")
    for c in found.found:
        assert c.low <= c.middle <= c.high
        assert 0.0 <= c.chance <= 1.0


COUNTED = {"voltage_drop", "lowest_voltage", "unit_limit", "ampacity", "heat_opens", "interrupt_rating"}


def differ(plan):
    """Where a plan without any spread is said to break a limit that no finding tells, or the other way round."""
    known = Assessment(plan)
    found = {(c.rule, c.place): c.chance for c in chances(known.case, 20, spreads=NONE).found}
    assert set(found.values()) <= {0.0, 1.0}
    told = {(f.rule.id, f.place) for f in known.findings if f.rule.id in COUNTED}
    # A device that carries more than its own rating has another finding, and a back-up another figure.
    carrying = {
        ("heat_opens", id_)
        for id_, d in known.protection.devices.items()
        if normal_current(known.case, d.item) > d.item.rating_a
    }
    backed = {("interrupt_rating", id_) for id_ in known.protection.devices if backed_up(known.case, id_) is not None}
    return ({key for key, chance in found.items() if chance} ^ told) - carrying - backed


def test_without_any_spread_the_chances_are_the_findings():
    assert differ(example("orchard_station")) == set()


@pytest.mark.chance("networks whose limits fail without any spread where findings say so")
@pytest.mark.parametrize("seed", range(200) if WHOLE else range(25))
def test_without_any_spread_the_chances_are_the_findings_on_networks_by_chance(seed):
    r = random.Random(seed)
    plan = cold_network(seed) if seed % 2 else network(seed)
    loads = [e for e in plan.equipment if isinstance(e, CurrentLoad)]
    asked = {
        e.id: {"surge_a": e.current_a * r.choice((3.0, 20.0)), "surge_s": 2.0, "min_v": 0.97 * e.nominal_v}
        for e in loads
    }
    units = {
        x.id: {
            "max_discharge_a": r.choice((10.0, 40.0, 200.0)), "max_charge_a": r.choice((3.0, 10.0, 100.0)),
            "peak_discharge_a": r.choice((None, 300.0)), "peak_s": 3.0,
        }
        for x in plan.items if isinstance(x, Battery)
    }  # fmt: skip
    hot = {x.id: {"zone": "engine"} for x in plan.items if isinstance(x, Fuse) and r.random() < 0.5}
    plan = edits.change_each(edits.add(plan, Zone(id="engine", ambient_c=70.0)), asked | units | hot)
    starts = Scenario(id="starts", soc_percent=60.0, states={e.id: "surge" for e in loads})
    rests = Scenario(id="rests", soc_percent=30.0, states={e.id: "off" for e in loads})
    assert differ(plan.model_copy(update={"scenarios": (*plan.scenarios, starts, rests)})) == set()


def test_a_charger_too_strong_for_a_cold_unit_is_doubtful_as_it_is_in_the_warm():
    """50 A may go into a unit; the charger gives 50 A, and a load as uncertain as a load is takes 10 of 60."""
    found = {}
    for air_c in (-6.0, 20.0):
        plan = Plan(
            items=(Battery(id="B", nominal_v=12.0, capacity_ah=200.0, chemistry="lifepo4", managed=True, zone="shed", max_charge_a=50.0),),
            zones=(Zone(id="shed", ambient_c=air_c),),
            equipment=(CurrentLoad(id="E", nominal_v=12.0, current_a=10.0), Charger(id="G", nominal_v=12.0, set_v=16.0, current_a=60.0)),
            runs=tuple(ohms(f"{e}{s}", f"B.{s}", f"{e}.{s}", 0.001) for e in "EG" for s in ("plus", "minus")),
            scenarios=(Scenario(id="s", soc_percent=50.0),),
        )  # fmt: skip
        found[air_c] = by_place(chances(Assessment(plan).case, 4000, spreads=replace(NONE, load=0.1)))[
            "unit_limit", "B"
        ]
    assert found[-6.0].chance == pytest.approx(0.5, abs=0.03)
    assert found[-6.0].chance == found[20.0].chance
    assert found[20.0].limit == 50.0


def test_the_air_moves_what_a_device_in_the_heat_holds():
    case = Assessment(example("orchard_station")).case
    found = by_place(chances(case, 4000, spreads=replace(NONE, air_k=5.0)))["heat_opens", "K4"]
    device = case.protection.devices["K4"]
    carries = found.middle / 100.0 * device.fast_a
    # At 5 K more and less, by the family's own factor.
    for share, kelvin in ((found.high, 1.645 * 5.0), (found.low, -1.645 * 5.0)):
        worth = device.item.rating_a * float(ambient_factor(device.family.release, device.air_c[0] + kelvin))
        assert share == pytest.approx(100.0 * carries / worth, rel=0.01)
    assert found.matters[0].kind == "air"


def test_twice_as_many_agree_and_a_seed_repeats():
    case = Assessment(example("seed_shed")).case
    one, again, other = chances(case, 3000, 1), chances(case, 3000, 1), chances(case, 6000, 2)
    assert one == again
    left, right = by_place(one), by_place(other)
    for key, c in left.items():
        assert c.chance == pytest.approx(right[key].chance, abs=0.04)
        spread = max(c.high - c.low, 1e-9)
        assert c.middle == pytest.approx(right[key].middle, abs=0.1 * spread)


def test_the_command(tmp_path, capsys):
    path = tmp_path / "demo.copper.json"
    save(example("orchard_station"), path)
    assert main(["vary", str(path), "--samples", "150"]) == 0
    text = capsys.readouterr().out
    assert "what Generator breaker holds" in text
    save(example("relay_mast"), path)
    assert main(["vary", str(path), "--samples", "100", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["samples"] == 100
    assert np.isfinite(found["found"][0]["chance"])
    assert main(["vary", str(path), "--samples", "5"]) == 2


def test_short_circuit_currents_are_those_of_plans_that_have_those_resistances():
    """Each variant of the bank's resistance and of copper, beside the plan in which units and lengths are so."""
    plan = example("orchard_station")
    units = {x.id: {"internal_ohm": 0.006, "short_circuit_a": None} for x in plan.items if isinstance(x, Battery)}
    plan = edits.change_each(plan, units)
    spreads = Spreads(joint=0.0, body=0.0, unit=0.0, load=0.0, emf=0.0, air_k=0.0, device=0.0, copper=0.05, bank=0.4)
    case = Assessment(plan).case
    names, z = drawn(case, 12, 3)
    figures = {f.place: f.values for f in interrupted(case, names, z, spreads, lambda: False)}
    (bank,) = (b.id for b in case.wiring.banks)
    assert len(figures) > 8
    for k in range(12):
        ohm = 0.006 * np.exp(spreads.bank * z[k, names["bank", bank]])
        other = edits.change_each(plan, {id_: {"internal_ohm": float(ohm)} for id_ in units})
        longer = {
            r.id: {"length_m": r.length_m * float(1.0 + spreads.copper * z[k, names["copper", r.id]])}
            for r in plan.runs if r.measured_ohm is None
        }  # fmt: skip
        faults = Assessment(edits.change_each(other, longer)).case.protection.faults
        for id_, values in figures.items():
            assert values[k] == pytest.approx(faults.prospective(id_)[0], rel=1e-6), (k, id_)


def test_an_interrupt_rating_fails_as_often_as_the_bank_s_resistance_says(monkeypatch):
    """A fuse at a bank whose resistance is known to 30 %: how often it is below where the current is what the fuse interrupts."""
    monkeypatch.setattr("jaunty_copper.commissioning.counted.FAULT_SAMPLES", 3000)
    monkeypatch.setattr("jaunty_copper.commissioning.counted.FAULT_WORK", 10**9)

    def plan(ohm):
        return Plan(
            items=(battery(ohm=ohm), Fuse(id="F", family="blade-fuse", rating_a=20.0)), equipment=(CurrentLoad(id="E", nominal_v=12.0, current_a=5.0),),
            runs=(
                Run(id="in", a="B.plus", b="F.a", length_m=0.2, conductor="mm2-10"), Run(id="out", a="F.b", b="E.plus", length_m=2.0, conductor="mm2-10"),
                Run(id="back", a="E.minus", b="B.minus", length_m=2.0, conductor="mm2-10"),
            ),
            scenarios=(Scenario(id="s"),),
        )  # fmt: skip

    known = Assessment(plan(0.012))
    able = known.case.interrupt_a(known.plan.by_id["F"])

    def over(ohm):
        return Assessment(plan(ohm)).case.protection.faults.prospective("F")[0] - able

    edge = brentq(over, 0.002, 0.1)
    for ohm in (0.8 * edge, edge, 1.4 * edge):
        found = by_place(chances(Assessment(plan(ohm)).case, 3000, spreads=replace(NONE, bank=0.3)))
        told = found["interrupt_rating", "F"]
        below = 0.5 * (1.0 + erf(np.log(edge / ohm) / 0.3 / sqrt(2.0)))
        assert told.chance == pytest.approx(below, abs=0.03)
        assert told.matters[0].kind == "bank"
