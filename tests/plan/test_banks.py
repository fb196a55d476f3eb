"""Which units belong together, what lies between them, where they stand."""

from itertools import pairwise

import pytest

from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import GAP_MM, banks_of, distance_m, links_of, post_at, unit_places
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Battery, Converter, Fuse, Plan, PowerLoad
from jaunty_copper.plan.topology import topology
from tests.build import bar, battery, fused, loop, ohms


def banks(plan):
    return banks_of(topology(plan))


def plan_of(*things, runs=()):
    items = tuple(x for x in things if not isinstance(x, PowerLoad | Converter))
    return Plan(
        items=items, equipment=tuple(x for x in things if isinstance(x, PowerLoad | Converter)), runs=tuple(runs)
    )


def series(*units):
    """Units in series, from minus to plus."""
    return [ohms(f"s{k}", f"{a}.plus", f"{b}.minus", 1e-4) for k, (a, b) in enumerate(pairwise(units))]


def test_a_plan_without_batteries_has_no_bank():
    assert banks(Plan()) == ()
    assert banks(edits.remove(loop(), "B")) == ()


def test_a_lone_unit_is_a_bank_of_one_string_with_its_posts_as_take_offs():
    (bank,) = banks(loop())
    assert bank.id == "B"
    assert bank.strings == (("B",),)
    assert bank.groups == ((0,),)
    assert bank.inside == ()
    assert bank.takeoffs == {"plus": ("B.plus",), "minus": ("B.minus",)}
    assert bank.nominal_v == 12.0


def test_units_that_nothing_joins_are_banks_of_their_own():
    plan = edits.add(loop(), battery("C"), battery("D"), ohms("cd", "C.plus", "D.minus", 1e-4))
    found = banks(plan)
    assert [b.strings for b in found] == [(("B",),), (("C", "D"),)]
    assert [b.nominal_v for b in found] == [12.0, 24.0]


def test_a_string_goes_from_its_minus_to_its_plus_whatever_the_files_order():
    units = [battery(x) for x in ("top", "low", "mid")]
    (bank,) = banks(plan_of(*units, runs=series("low", "mid", "top")))
    assert bank.strings == (("low", "mid", "top"),)
    assert bank.nominal_v == 36.0
    assert bank.takeoffs == {"plus": ("top.plus",), "minus": ("low.minus",)}
    assert bank.string_of == {"low": 0, "mid": 0, "top": 0}


def test_a_load_on_the_mid_point_parts_a_string():
    plan = plan_of(
        battery("a"), battery("b"), PowerLoad(id="E", power_w=5.0),
        runs=[*series("a", "b"), ohms("p", "a.plus", "E.plus", 0.01), ohms("m", "E.minus", "a.minus", 0.01)],
    )  # fmt: skip
    (bank,) = banks(plan)
    assert sorted(bank.strings) == [("a",), ("b",)]
    assert bank.groups == ((0,), (1,))


def test_leads_to_bars_are_inside_and_what_hangs_on_the_bars_is_not():
    plan = plan_of(
        battery("a"), battery("b"), bar("P", 4), bar("M", 4), PowerLoad(id="E", power_w=5.0),
        runs=[
            ohms("ap", "a.plus", "P.s1", 1e-3), ohms("bp", "b.plus", "P.s2", 1e-3), ohms("am", "a.minus", "M.s1", 1e-3),
            ohms("bm", "b.minus", "M.s2", 1e-3), ohms("out", "P.s4", "E.plus", 1e-2), ohms("back", "E.minus", "M.s4", 1e-2),
        ],
    )  # fmt: skip
    (bank,) = banks(plan)
    assert set(bank.inside) == {"ap", "bp", "am", "bm"}
    # The bar's segment beyond the second lead belongs to the rest of the system.
    assert bank.takeoffs == {"plus": ("P.s2",), "minus": ("M.s2",)}


def test_a_ring_outside_the_bank_is_not_taken_for_a_link():
    ring = edits.add(fused(), battery("C"), ohms("l1", "B.plus", "C.plus", 1e-3), ohms("l2", "B.minus", "C.minus", 1e-3),
                     ohms("ring", "P.s3", "E.plus", 0.02))  # fmt: skip
    (bank,) = banks(ring)
    assert set(bank.inside) == {"l1", "l2"}
    assert bank.takeoffs["plus"] == ("B.plus",)


def test_a_converters_common_minus_is_no_link_either():
    (bank,) = banks(example("orchard_station"))
    assert {id_[0] for id_ in bank.inside} == {"L"}


def test_fuses_in_the_leads_are_part_of_the_bank():
    plan = plan_of(
        battery("a"), battery("b"), Fuse(id="F", family="class-t-fuse", rating_a=80.0), bar("P", 3),
        runs=[
            ohms("af", "a.plus", "F.a", 1e-3), ohms("fp", "F.b", "P.s1", 1e-3), ohms("bp", "b.plus", "P.s2", 1e-3),
            ohms("m", "a.minus", "b.minus", 1e-3),
        ],
    )  # fmt: skip
    (bank,) = banks(plan)
    assert set(bank.inside) == {"af", "fp", "bp", "m"}


def test_a_unit_of_another_voltage_in_parallel_tears_the_bank():
    plan = plan_of(
        battery("a"), battery("b", volts=24.0),
        runs=[ohms("p", "a.plus", "b.plus", 1e-3), ohms("m", "a.minus", "b.minus", 1e-3)],
    )  # fmt: skip
    (bank,) = banks(plan)
    assert bank.torn


def test_a_unit_turned_round_in_its_string_lowers_the_voltage():
    runs = [ohms("x", "a.plus", "b.plus", 1e-4), ohms("y", "b.minus", "c.minus", 1e-4)]
    (bank,) = banks(plan_of(battery("a"), battery("b"), battery("c"), runs=runs))
    assert bank.nominal_v == 12.0


# Where they stand


def test_units_stand_in_a_row_unless_the_plan_says_where():
    units = tuple(Battery(id=f"B{k}", chemistry="agm", capacity_ah=10, width_mm=200, depth_mm=100) for k in range(3))
    assert unit_places(units) == {"B0": (0.0, 0.0), "B1": (200.0 + GAP_MM, 0.0), "B2": (2 * (200.0 + GAP_MM), 0.0)}
    moved = (units[0], units[1].model_copy(update={"at_mm": (500.0, 300.0)}), units[2])
    assert unit_places(moved)["B1"] == (500.0, 300.0)
    assert unit_places(moved)["B2"][0] >= 700.0


def test_posts_change_sides_when_a_unit_is_turned():
    unit = Battery(id="B", chemistry="agm", capacity_ah=10, width_mm=300, depth_mm=100)
    plus, minus = (post_at(unit, (0.0, 0.0), t) for t in ("plus", "minus"))
    assert plus == (pytest.approx(50.0), pytest.approx(15.0))
    turned = unit.model_copy(update={"turned": True})
    assert post_at(turned, (0.0, 0.0), "plus") == minus
    assert post_at(turned, (0.0, 0.0), "minus") == plus


def test_distances_and_links_are_between_units_only():
    plan = example("orchard_station")
    assert distance_m(plan, "B1.plus", "B2.plus") == pytest.approx(0.230)
    assert distance_m(plan, "B1.plus", "F1.a") is None
    assert {r.id for r in links_of(plan, "B1")} == {"L1p", "L1m"}
    assert {r.id for r in links_of(plan, "B2")} == {"L1p", "L1m", "L2p", "L2m"}
