import pytest

from jaunty_copper.desktop.widgets.quantity import UNITS, NotUnderstood, read, written


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("12", "A", 12.0), ("1,5", "m", 1.5), ("-3.5e2", "V", -350.0), ("−3", "V", -3.0), ("2 kW", "W", 2000.0), ("250mA", "A", 0.25),
        ("12 ft 6 in", "m", 3.81), ("12'6\"", "ft", 12.5), ("1 m", "ft", 3.280839895), ("104 F", "°C", 40.0), ("40 °C", "°C", 40.0),
        ("5 mΩ", "Ω", 0.005), ("300 µohm", "Ω", None), ("300 uohm", "Ω", 0.0003), ("80 %", "of 1", 0.8), ("25 mV", "V", 0.025), ("71 °C", "°C", 71.0), ("90 min", "h", 1.5), ("2 min", "s", 120.0), ("3", "", 3.0),
        ("12ft 6", "m", 3.81), ("3 ft 2", "ft", 3 + 2 / 12), ("3/8 in", "mm", 9.525), ("1 1/2\"", "mm", 38.1), ("-1/2", "V", -0.5), ("5' 1/2", "ft", 5 + 1 / 24), ("1 1/2 kW", "W", 1500.0),
    ],
)  # fmt: skip
def test_quantities_as_people_type_them(text, unit, value):
    if value is None:
        with pytest.raises(NotUnderstood):
            read(text, unit)
    else:
        assert read(text, unit) == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "unit", "why"),
    [("much", "A", "no number"), ("", "A", "number is needed"), ("12 V", "A", "not a unit"), ("1,000", "W", "two ways"), ("1 2", "A", "no number"),
     ("3 m 2", "m", "no number"), ("3/0", "A", "size of a conductor"), ("1/", "A", "no number"), ("1/2/3", "A", "no number"), ("3 m", "", "not a unit"), ("1.2.3", "A", "no number")],
)  # fmt: skip
def test_what_is_not_understood_says_why(text, unit, why):
    with pytest.raises(NotUnderstood, match=why):
        read(text, unit)


def test_every_unit_means_itself():
    for unit, others in UNITS.items():
        if unit != "of 1":
            assert others[unit.lower()] == 1.0
            assert read(f"7 {unit}", unit) == 7.0


@pytest.mark.parametrize("value", [0.00005, 0.1, 12.0, 1234567.0, -0.0000125, 0.0, 25.6])
def test_a_field_shows_no_exponent_and_reads_back_what_it_shows(value):
    text = written(value)
    assert "e" not in text
    assert read(text) == float(f"{value:.6g}")


def test_a_small_resistance_is_written_out():
    assert written(0.00005) == "0.00005"
    assert written(120.0) == "120"
