"""Equipment written down a line each."""

import pytest

from jaunty_copper.plan.lines import NotRead, add_line
from jaunty_copper.plan.model import Plan

LINES = {
    "Lamp 30 W 4 m": ("constant_power", {"power_w": 30.0, "distance_m": 4.0, "nominal_v": 24.0}),
    "lamp 30W 13 ft": ("constant_power", {"power_w": 30.0, "distance_m": pytest.approx(3.9624)}),
    "Fridge 5 A 3,5 m 8 h": ("constant_current", {"current_a": 5.0, "distance_m": 3.5, "hours_per_day": 8.0}),
    "Pump 0.09 kW critical surge 270 W min 10.5 V": (
        "constant_power", {"power_w": 90.0, "critical": True, "surge_w": 270.0, "min_v": 10.5},
    ),
    "Inverter 2 kW 1.2 m": ("inverter", {"power_w": 2000.0, "surge_w": None, "distance_m": 1.2}),
    "Heater 12 V 200 W": ("resistive", {"power_w": 200.0, "nominal_v": 12.0}),
    "Converter 24 to 12 V 20 A": ("converter", {"nominal_v": 24.0, "out_nominal_v": 12.0, "set_v": 12.0, "current_a": 20.0}),
    "12 V converter 24 to 12 V 20 A": ("converter", {"nominal_v": 24.0, "out_nominal_v": 12.0}),
    "48 → 12 V supply 120 W": ("converter", {"nominal_v": 48.0, "out_nominal_v": 12.0, "current_a": 10.0}),
    "Solar controller 20 A 3 m": ("solar", {"current_a": 20.0, "distance_m": 3.0}),
    "Solar 480 W": ("solar", {"current_a": 20.0, "power_w": 480.0}),
    "Mains charger 40 A": ("charger", {"current_a": 40.0}),
    "Alternator 90 A 2 m": ("alternator", {"current_a": 90.0}),
    "Radio mast light 4 mm 3 A": ("constant_current", {"current_a": 3.0, "distance_m": 0.004, "name": "Radio mast light"}),
}  # fmt: skip


@pytest.mark.parametrize("line", LINES)
def test_what_a_line_means(line):
    kind, fields = LINES[line]
    plan, (id_,) = add_line(Plan(), line, 24.0)
    e = plan.by_id[id_]
    assert e.kind == kind
    assert {name: getattr(e, name) for name in fields} == fields


def test_several_at_once_have_names_of_their_own():
    plan, ids = add_line(Plan(), "3 x Cabin lamp 12 W", 12.0)
    assert [plan.by_id[i].name for i in ids] == ["Cabin lamp", "Cabin lamp 2", "Cabin lamp 3"]
    assert len(set(ids)) == 3


@pytest.mark.parametrize(
    ("line", "why"),
    [
        ("Lamp", "size is missing"), ("30 W 4 m", "name is missing"), ("Lamp 30 W 40 W", "which one"), ("0 x Lamp 3 W", "1 to 50"),
        ("51 x Lamp 3 W", "1 to 50"), ("Lamp 3 W 0 V", "0 V"), ("Lamp 0 W", "greater than 0"), ("Lamp 3 W 5000 m", "1000"), ("", "name|size"),
    ],
)  # fmt: skip
def test_what_is_not_understood_says_why(line, why):
    with pytest.raises(NotRead, match=why):
        add_line(Plan(), line, 12.0)
