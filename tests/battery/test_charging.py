"""A charge over hours: near, far, with remote sense; by chemistry, against rules of thumb; banks tied between their units."""

import numpy as np
import pytest

from jaunty_copper.battery.discharge import over_time
from jaunty_copper.battery.needs import needs
from jaunty_copper.cli.main import main
from jaunty_copper.network.levels import bank_v
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Battery, Charger, Plan, Run, Scenario
from tests.build import battery, ohms


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
