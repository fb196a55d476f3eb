"""A charge over hours: near, far, with remote sense; by chemistry, against rules of thumb; banks tied between their units."""

import numpy as np
import pytest

from jaunty_copper.battery.discharge import over_time
from jaunty_copper.battery.needs import needs
from jaunty_copper.cli.main import main
from jaunty_copper.network.levels import bank_v
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Battery, Charger, Converter, CurrentLoad, Plan, Run, Scenario
from tests.build import battery, judge, ohms


def charging(metres, soc=50.0, chemistry="agm", set_v=28.6, amps=35.0, sense=False, capacity=180.0):
    """A charger so many metres of 10 mm² from a bank for 24 V."""
    posts = {"sense_plus": "B.plus", "sense_minus": "B.minus"} if sense else {}
    return Plan(
        items=(Battery(id="B", chemistry=chemistry, nominal_v=24.0, capacity_ah=capacity),),
        equipment=(Charger(id="C", nominal_v=24.0, set_v=set_v, current_a=amps, **posts),),
        runs=(
            Run(id="out", a="C.plus", b="B.plus", length_m=metres, conductor="mm2-10"),
            Run(id="back", a="B.minus", b="C.minus", length_m=metres, conductor="mm2-10"),
        ),
        scenarios=(Scenario(id="c", soc_percent=soc),),
    )  # fmt: skip


def charge(plan, step=30.0):
    return over_time(plan, plan.scenarios[0], 24.0, step)


def held(h):
    return next(e.hour for e in h.course.events if e.kind == "source_mode")


def test_what_the_leads_take_costs_hours_and_remote_sense_gives_them_back():
    near, far, sensed = charge(charging(0.5)), charge(charging(12.0)), charge(charging(12.0, sense=True))
    assert {h.course.events[-1].kind for h in (near, far, sensed)} == {"full"}
    # 35 A through some 46 milliohm: 1.6 V of the 28.6 V do not reach the posts at first.
    assert held(far) < 0.5 * held(near)
    assert far.course.hours[-1] > near.course.hours[-1] + 0.5
    assert sensed.course.hours[-1] == pytest.approx(near.course.hours[-1], abs=0.2)
    # At the end hardly anything flows: the posts see the set voltage, wherever the charger stands.
    assert far.course.terminal_v[-1, 0] == pytest.approx(28.6, abs=0.25)


def test_amperes_into_a_nearly_full_bank_are_few():
    first = {soc: -charge(charging(0.5, soc=soc)).course.current_a[1, 0] for soc in (50.0, 80.0, 90.0, 96.0)}
    assert first[50.0] == pytest.approx(35.0, rel=1e-6)
    assert first[80.0] > first[90.0] > first[96.0]
    assert first[96.0] < 0.3 * 35.0


@pytest.mark.parametrize(("chemistry", "k"), [("agm", 1.1), ("flooded-lead-acid", 1.2), ("lifepo4", 1.0)])
@pytest.mark.parametrize("amps", [3.0, 5.0, 10.0, 20.0])
def test_a_fast_discharge_gives_what_peukert_says(chemistry, k, amps):
    load = CurrentLoad(id="E", current_a=amps)
    plan = Plan(
        items=(Battery(id="B", chemistry=chemistry, capacity_ah=100.0, internal_ohm=0.0001),), equipment=(load,),
        runs=(ohms("p", "B.plus", "E.plus", 0.0001), ohms("m", "E.minus", "B.minus", 0.0001)),
        scenarios=(Scenario(id="c", soc_percent=100.0),),
    )  # fmt: skip
    h = over_time(plan, plan.scenarios[0], 50.0, 60.0)
    hours = 20.0 * (5.0 / amps) ** k if amps > 5.0 else 100.0 / amps
    # Lithium gives way a little before it is empty.
    assert h.course.stopped.kind == "empty"
    assert h.course.hours[-1] == pytest.approx(hours * (1.0 - h.course.soc_percent[-1, 0] / 100.0), abs=0.05)
    assert h.course.soc_percent[-1, 0] < 5.0


@pytest.mark.parametrize(
    ("chemistry", "set_v", "share", "least", "most"),
    [
        # At 0.2 C, charge at which the voltage is reached, and hours from there to full: rules of thumb, no maker's curve.
        ("agm", 28.8, 0.2, (70.0, 88.0), (2.0, 6.0)), ("flooded-lead-acid", 29.0, 0.13, (70.0, 90.0), (3.0, 9.0)),
        ("gel", 28.2, 0.2, (60.0, 85.0), (2.5, 7.0)), ("lifepo4", 28.4, 0.3, (93.0, 99.9), (0.0, 0.6)),
    ],
)  # fmt: skip
def test_each_chemistry_takes_about_as_long_as_people_know(chemistry, set_v, share, least, most):
    h = charge(charging(0.2, soc=20.0, chemistry=chemistry, set_v=set_v, amps=share * 200.0, capacity=200.0), 20.0)
    reached = float(np.interp(held(h), h.course.hours, h.course.soc_percent[:, 0]))
    assert least[0] < reached < least[1]
    assert most[0] <= h.course.hours[-1] - held(h) <= most[1]


def test_a_trickle_beside_a_converter_that_holds_its_own_loads_is_no_full_bank():
    """One ampere from the sun into 95 % of 180 Ah: less than the tail, but nobody holds the bank's voltage."""
    plan = charging(0.5, soc=95.0, amps=1.0)
    plan = edits.add(
        plan, Converter(id="V", nominal_v=24.0, out_nominal_v=12.0, set_v=13.2, current_a=10.0, idle_w=0.0),
        CurrentLoad(id="E", current_a=0.2), ohms("v1", "B.plus", "V.in_plus", 0.001), ohms("v2", "V.in_minus", "B.minus", 0.001),
        ohms("v3", "V.out_plus", "E.plus", 0.001), ohms("v4", "E.minus", "V.out_minus", 0.001),
    )  # fmt: skip
    h = over_time(plan, plan.scenarios[0], 2.0, 60.0)
    assert [e.kind for e in h.course.events] == []
    assert h.course.hours[-1] == pytest.approx(2.0)


def test_of_what_goes_in_the_chemistrys_share_stays():
    h = charge(charging(0.5))
    assert h.stored_ah[0] == pytest.approx(-0.95 * h.taken_ah[0], rel=1e-9)
    assert h.stored_ah[0] == pytest.approx(0.49 * 180.0, rel=0.02)


def tied():
    """Two pairs of 12 V units in series, tied in the middle: 24 V."""
    names = ("a", "b", "c", "d")
    runs = (
        ("a.plus", "b.plus"),
        ("a.minus", "b.minus"),
        ("c.plus", "d.plus"),
        ("a.plus", "c.minus"),
        ("b.plus", "d.minus"),
    )
    return Plan(
        items=tuple(battery(n) for n in names), runs=tuple(ohms(f"r{k}", a, b, 0.0005) for k, (a, b) in enumerate(runs))
    )


def test_a_bank_tied_between_its_units_has_the_voltage_of_all():
    w = wire(tied())
    (bank,) = w.banks
    assert bank.nominal_v == 24.0
    assert needs(w).lowest_v == pytest.approx(12 * 1.75)
    # Twelve cells at 2.14 V, above 1.05 of nominal.
    assert bank_v(w, bank) == pytest.approx(12 * 2.14)
    assert bank.across(lambda u: u.capacity_ah, min) == 200.0


def test_join_may_be_said_once_for_each_unit(tmp_path, capsys):
    demo = tmp_path / "demo.copper.json"
    from jaunty_copper.plan.files import dumps

    demo.write_bytes(dumps(edits.change_plan(example("orchard_station"))))
    assert main(["bank", str(demo), "--join", "B1=100", "--join", "B2=20"]) == 0
    apart = capsys.readouterr().out
    assert main(["bank", str(demo), "--join", "B1=100", "B2=20"]) == 0
    assert capsys.readouterr().out == apart


def managed(amps, currents=(60.0, 60.0), soc=(80.0, 80.0), **more):
    """Two managed units of 100 Ah in parallel, each with its own limit, and a load."""
    units = [
        Battery(
            id=f"m{k}", chemistry="lifepo4", capacity_ah=100.0, internal_ohm=0.004, managed=True, max_discharge_a=limit,
            soc_percent=charge_, **more,
        )
        for k, (limit, charge_) in enumerate(zip(currents, soc, strict=True))
    ]  # fmt: skip
    return Plan(
        items=tuple(units), equipment=(CurrentLoad(id="E", current_a=amps),),
        runs=(
            ohms("p", "m0.plus", "m1.plus", 0.0005), ohms("m", "m0.minus", "m1.minus", 0.0005),
            ohms("o", "m0.plus", "E.plus", 0.001), ohms("b", "E.minus", "m1.minus", 0.001),
        ),
        scenarios=(Scenario(id="s"),),
    )  # fmt: skip


def kinds(plan):
    h = over_time(plan, plan.scenarios[0], 24.0, 30.0)
    return h, [(e.kind, e.index) for e in h.course.events]


def test_within_their_limits_units_stay_until_the_first_is_empty_and_the_other_goes_on_alone():
    """40 A from 150 Ah: one opens at its stop voltage, then the other alone gives 40 A until it opens too."""
    h, events = kinds(managed(40.0, soc=(80.0, 70.0)))
    one, other = events[0][1], events[1][1]
    assert events == [("opened", one), ("opened", other), ("all_open", other)]
    assert {one, other} == {0, 1}
    np.testing.assert_allclose(h.course.current_a[:-1].sum(axis=1), 40.0, rtol=1e-6)
    last = h.course.events[1].hour
    # All but a little of 150 Ah is given at 40 A.
    assert last == pytest.approx(150.0 / 40.0, rel=0.05)


def test_the_one_that_opens_takes_the_other_with_it_where_that_cannot_carry_both():
    """80 A: one unit may give 30 A only; the other is left with 80 A of its 60, and opens in the same moment."""
    h, events = kinds(managed(80.0, currents=(30.0, 60.0)))
    assert events == [("opened", 0), ("opened", 1), ("all_open", 1)]
    assert h.course.hours[-1] == 0.0
    _, events = kinds(managed(50.0, currents=(20.0, 60.0)))
    assert events[0] == ("opened", 0)
    assert events[1][0] == "opened"
    assert over_time(managed(50.0, currents=(20.0, 60.0)), Scenario(id="s"), 0.5).course.current_a[
        -1, 1
    ] == pytest.approx(50.0)


def test_what_a_unit_gives_for_seconds_is_no_fault_while_the_start_lasts_no_longer():
    """107 A for two seconds of a unit made for 55 A all the time."""
    plan = edits.change_each(managed(20.0, currents=(55.0, 55.0)), {"m1": {"soc_percent": 80.0}})
    plan = plan.model_copy(
        update={
            "equipment": (CurrentLoad(id="E", current_a=20.0, surge_a=214.0, surge_s=2.0),),
            "scenarios": (Scenario(id="s"), Scenario(id="start", states={"E": "surge"})),
        }
    )

    def told(plan):
        return [f for f in judge(study(plan)) if f.rule.id == "unit_limit"]

    assert told(plan)
    able = edits.change_each(plan, {u: {"peak_discharge_a": 130.0, "peak_s": 3.0} for u in ("m0", "m1")})
    assert told(able) == []
    assert told(edits.change(able, "E", surge_s=5.0))
    assert told(edits.change(able, "E", surge_a=400.0))


@pytest.mark.parametrize(
    ("lead_ohm", "amps", "volts", "ah"), [(1e-5, 0.24, 60.0, 1.2), (1e-6, 0.05, 15.0, 10.0), (1e-5, 0.01, 14.4, 1.2)]
)
def test_hardly_any_current_through_a_very_good_lead_is_no_error(lead_ohm, amps, volts, ah):
    """Where the last digit of a voltage is more amperes than Kirchhoff's law is asked to close to."""
    plan = Plan(
        items=(Battery(id="B", chemistry="agm", nominal_v=12.0, capacity_ah=ah),),
        equipment=(Charger(id="E", set_v=volts, current_a=amps),),
        runs=(ohms("p", "B.plus", "E.plus", lead_ohm), ohms("m", "E.minus", "B.minus", lead_ohm)),
        scenarios=(Scenario(id="c", soc_percent=10.0),),
    )  # fmt: skip
    course = over_time(plan, plan.scenarios[0], 4.0, 60.0).course
    assert -course.current_a[1, 0] == pytest.approx(amps, rel=1e-6)
