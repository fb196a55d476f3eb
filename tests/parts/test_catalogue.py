"""The library against the formulas and the order that standards give."""

import itertools

import pytest
from pydantic import ValidationError

from jaunty_copper.parts.catalogue import library, read_data
from jaunty_copper.parts.models import Conductor, DeviceFamily, OwnParts

LIB = library()


@pytest.mark.parametrize("number", [*range(18, 0, -1), 0, -1, -2, -3])
def test_awg_areas_follow_astm_b258(number):
    name = str(number) if number > 0 else f"{1 - number}/0"
    if f"awg-{name}" in LIB.conductors:
        diameter = 0.127 * 92 ** ((36 - number) / 39)
        assert LIB.conductors[f"awg-{name}"].area_mm2 == pytest.approx(3.14159265 / 4 * diameter**2, rel=2e-3)


def test_class_5_resistance_stays_near_the_copper_in_it():
    for c in LIB.sizes("metric"):
        assert 1.0 < c.r_ohm_per_km * c.area_mm2 / 17.241 < 1.16, c.id


def test_sae_gauges_hold_less_copper_than_awg_of_the_same_name():
    for c in LIB.sizes("sae"):
        twin = LIB.conductors.get(c.id.replace("sae", "awg"))
        if twin is not None:
            assert 0.05 < 1 - c.area_mm2 / twin.area_mm2 < 0.15, c.id


@pytest.mark.parametrize("system", ["metric", "awg", "sae"])
def test_thicker_means_less_resistance_and_more_outside(system):
    sizes = LIB.sizes(system)
    for thin, thick in itertools.pairwise(sizes):
        assert thick.r_ohm_per_km < thin.r_ohm_per_km
        assert thick.outer_mm >= thin.outer_mm


def test_every_part_has_its_source_and_representative_ones_say_so():
    groups = (LIB.conductors, LIB.insulations, LIB.device_families, LIB.battery_chemistries, LIB.studs)
    assert all(part.source for group in groups for part in group.values())
    assert all("representative" in f.source for f in LIB.device_families.values())
    assert all("representative" in c.source for c in LIB.battery_chemistries.values())


def test_open_circuit_voltage_rises_with_charge():
    for c in LIB.battery_chemistries.values():
        assert list(c.ocv_per_cell_v) == sorted(c.ocv_per_cell_v)
        assert c.stop_v < c.ocv_100 < c.full_v


def test_interrupt_ratings_never_rise_with_voltage():
    for f in LIB.device_families.values():
        volts, amps = zip(*f.interrupt_v_ka, strict=True)
        assert list(volts) == sorted(volts)
        assert list(amps) == sorted(amps, reverse=True)
        assert volts[-1] <= f.max_v_dc


def test_ratings_of_a_family_stay_within_it():
    family = LIB.device_families["terminal-cube-fuse"]
    assert LIB.ratings(family)[0] == 30
    assert LIB.ratings(family)[-1] == 300


def test_a_plans_own_part_replaces_its_namesake():
    own = Conductor(id="mm2-10", label="mine", area_mm2=10, r_ohm_per_km=1.8, outer_mm=7, source="data sheet")
    mixed = LIB.with_own(OwnParts(conductors=(own,)))
    assert mixed.conductors["mm2-10"].label == "mine"
    assert LIB.conductors["mm2-10"].label != "mine"
    assert LIB.with_own(OwnParts()) is LIB


def test_nonsense_in_a_pair_of_volts_and_kiloamperes_is_told():
    with pytest.raises(ValidationError, match="pairs of volts"):
        DeviceFamily(
            id="x", label="x", source="x", kind="fuse", min_a=1, max_a=2, max_v_dc=32, interrupt_v_ka="32-1",
            terminals="M8", ignition_protected="no", body_v_at_rated=0.08,
        )  # fmt: skip


def test_devices_come_in_the_ratings_of_their_own_series():
    parts = library()
    breaker = parts.device_families["dc-miniature-breaker"]
    assert parts.ratings(breaker) == (6, 10, 13, 16, 20, 25, 32, 40, 50, 63, 80, 100, 125)
    assert {45.0, 700.0, 800.0, 6.0} <= set(parts.device_ratings_a)
    fuse = parts.device_families["class-t-fuse"]
    assert {15.0, 45.0, 70.0, 600.0} <= set(parts.ratings(fuse))
    assert not {13.0, 63.0, 700.0} & set(parts.ratings(fuse))
    for row in read_data("device_ratings"):
        # 240.6(A) knows no 2, 5 and 7.5 A; IEC 60059 no 15 and 30.
        assert ("240.6(A)" in row["source"]) <= (float(row["rating_a"]) not in (2.0, 5.0, 7.5))
        assert row["series"] != "iec" or float(row["rating_a"]) not in (15.0, 30.0, 45.0)
    blade = parts.ratings(parts.device_families["large-blade-fuse"])
    assert {30.0, 70.0, 100.0} <= set(blade)
    assert not {45.0, 63.0, 90.0} & set(blade)
